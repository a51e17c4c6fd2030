# SPDX-License-Identifier: GPL-3.0-or-later
"""A stepped nest, for the command line."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import shapely

from gatepost.core.errors import OperatorError
from gatepost.core.geometry import curves
from gatepost.core.geometry.art import Art
from gatepost.core.geometry.drawn import LARGEST
from gatepost.core.geometry.svg_art import read_svg
from gatepost.core.reading import read_whole
from gatepost.core.register.step_nest import Flip, StepNest, sentence_of, stepped
from gatepost.core.writing import write_whole

OURS = b'data-y-up="true"'  # drawings of our own have Y up, and mm as their unit


def outline_of(path: Path) -> Any:
    """The area of a drawing, mm, Y up. Raises OperatorError."""
    data = read_whole(path, LARGEST)
    if OURS in data[:2000]:
        return shapely.transform(read_svg(data, path.name, "mm").area, lambda p: p * [1.0, -1.0])
    return read_svg(data, path.name).area


def step_nest(
    path: Path, flip: Flip, tool: float, slot: float, clearance: float, key: bool, out: Path, say: Callable[[str], None]
) -> int:
    """Make it, and say what goes in; the exit code. Raises OperatorError."""
    made = stepped(outline_of(path), flip, tool, slot, clearance, key)
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise OperatorError(f"{out.name} can't be made: {error.strerror or error}. Choose another folder.") from None
    for name, area in (("piece", made.piece), ("hole", made.hole)):
        contours = curves.polygon_contours(shapely.MultiPolygon([area]))
        write_whole(out / f"{name}.svg", Art(tuple(tuple(c) for c in contours), False).svg().encode())
    write_whole(out / "proof.json", (json.dumps(proof(made), ensure_ascii=False, indent=1) + "\n").encode())
    say(sentence_of(made))
    return 0 if made.asked.goes_in and not made.others else 1


def proof(made: StepNest) -> dict[str, Any]:
    """What was tried, as JSON. play of a way: the lesser of its two; turning: degrees, all in all."""
    return {
        "play_x": made.asked.play[0], "play_y": made.asked.play[1], "turning": made.turning,
        "ways": [{"way": w.way, "goes_in": w.goes_in, "play": min(w.play)} for w in made.ways],
    }  # fmt: skip
