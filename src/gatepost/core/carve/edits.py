# SPDX-License-Identifier: GPL-3.0-or-later
"""Values for the commands of lettering: a text and a face become outlines that the job keeps."""

from __future__ import annotations

from typing import Any

from gatepost.core.carve.faces import shape
from gatepost.core.job.carve import Glyph


def outlines(text: str, face: str) -> dict[str, Any]:
    """Text, face, glyphs and width for ``add line`` and ``set line``. Raises OperatorError when the face lacks a sign."""
    shaped = shape(text, face)
    glyphs = tuple(Glyph(char=g.char, x=g.x, path=g.path) for g in shaped.glyphs)
    return {"text": text, "face": face, "glyphs": glyphs, "width": shaped.width}
