# SPDX-License-Identifier: GPL-3.0-or-later
"""Lettering that reads backwards on its face."""

from __future__ import annotations

from collections.abc import Sequence

from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.carve import Letters
from gatepost.core.job.operation import Artwork
from gatepost.core.job.turning import FACES

STAGE = "carve"


def backwards(art: Sequence[Artwork], setup: str, over: bool) -> list[Finding]:
    """Of all artwork that a setup cuts. over: whether the piece was turned over to be cut there: faces are told as they are read, so that what was mirrored for the
    turn by hand is mirrored once too often."""
    said: list[Finding] = []
    for one in art:
        if (
            not isinstance(one.figures, Letters)
            or not one.mirror
            or not any(w.face and w.glyphs for w in one.figures.lines)
        ):
            continue
        words = " ".join(w.text for w in one.figures.lines if w.text)
        called = f"“{words[:24]}”" if words else one.title or one.id
        if one.figures.backwards:
            message = f"{called} is mirrored and reads backwards, as it is meant to."
            said.append(Finding("carve.meant-backwards", Level.NOTE, STAGE, message, setup, about=one.id))
            continue
        twice = (
            f" It is mirrored twice: the {FACES[one.face]} is drawn as it is read, and turning the board over mirrors nothing of that."
            if over
            else ""
        )
        message = f"{called} is mirrored: it reads backwards.{twice}"
        fixes = (
            Fix("set art", {"art": one.id, "mirror": False}, "Set it the right way round"),
            Fix("set art", {"art": one.id, "backwards": True}, "It is meant to: a stamp, a mould"),
        )
        said.append(Finding("carve.backwards", Level.STOP, STAGE, message, setup, fixes=fixes, about=one.id))
    return said
