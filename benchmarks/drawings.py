# SPDX-License-Identifier: GPL-3.0-or-later
"""Drawings, pictures, meshes and faces that are damaged: each gives a sentence or what it can, and nothing else."""

from __future__ import annotations

import io
import struct
from functools import cache
from pathlib import Path

import cv2
import ezdxf
import numpy as np
from fontTools.ttLib import TTFont

from gatepost import artwork
from gatepost.core.carve.faces import face_path, letters_in
from gatepost.core.errors import OperatorError
from job_files import damaged

EXAMPLES = Path(__file__).parents[1] / "examples"


@cache
def whole() -> dict[str, bytes]:
    """A file of each kind that is brought in, by its name."""
    grey = cv2.resize(
        cv2.imread(str(EXAMPLES / "heron.png"), cv2.IMREAD_UNCHANGED), (60, 80), interpolation=cv2.INTER_AREA
    )
    eight = (grey >> 8).astype(np.uint8)
    drawing = ezdxf.new(units=4)
    space = drawing.modelspace()
    space.add_lwpolyline([(0, 0, 0, 0, 0.4), (40, 0), (40, 30, 0, 0, -0.2), (0, 30)], close=True)
    space.add_circle((20, 15), 6)
    space.add_ellipse((70, 15), (12, 0), 0.5)
    block = drawing.blocks.new("mark")
    block.add_line((0, 0), (5, 0))
    block.add_arc((0, 0), 5, 0, 90)
    block.add_line((0, 5), (0, 0))
    space.add_blockref("mark", (60, 40), dxfattribs={"rotation": 30, "xscale": 2})
    text = io.StringIO()
    drawing.write(text)
    corners = [(0, 0, 0), (20, 0, 0), (20, 15, 0), (0, 15, 0), (10, 8, 6)]
    faces = [(0, 1, 4), (1, 2, 4), (2, 3, 4), (3, 0, 4), (0, 2, 1), (0, 3, 2)]
    mesh = bytes(80) + struct.pack("<I", len(faces))
    for face in faces:
        mesh += struct.pack("<12fH", 0, 0, 0, *(v for i in face for v in corners[i]), 0)
    ttf = face_path("Condensed").read_bytes()
    packed = io.BytesIO()
    font = TTFont(io.BytesIO(ttf))
    font.flavor = "woff"
    font.save(packed)
    return {
        "lily.svg": (EXAMPLES / "water-lily.svg").read_bytes(), "plate.dxf": text.getvalue().encode(), "grey.png": cv2.imencode(".png", grey)[1].tobytes(),
        "eight.png": cv2.imencode(".png", eight)[1].tobytes(), "photo.jpg": cv2.imencode(".jpg", eight)[1].tobytes(), "mesh.stl": mesh, "face.ttf": ttf,
        "face.woff": packed.getvalue(),
    }  # fmt: skip


def of_a_damaged_drawing(seed: int) -> str:
    """What becomes of one: ``refused``, with a sentence, or ``taken``; anything else raises."""
    names = list(whole())
    name = names[seed % len(names)]
    data = damaged(whole()[name], seed // len(names))
    try:
        if name.startswith("face"):
            letters_in(data, name)
        elif name.endswith((".svg", ".dxf")):
            artwork.brought_in(data, name)
        elif name == "eight.png":
            artwork.traced(data, name, 60.0)
        else:
            artwork.heights_in(data, name, 60.0)
    except OperatorError as error:
        assert 10 < len(str(error)) < 600 and "Traceback" not in str(error), error
        return "refused"
    return "taken"
