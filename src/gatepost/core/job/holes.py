# SPDX-License-Identifier: GPL-3.0-or-later
"""Holes that are drilled, and lines that are engraved."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from gatepost.core.job.base import Amount, Model, Size
from gatepost.core.job.sunk import Number

MOST_HOLES = 100


class HolesFigures(Model):
    """A row of holes, about its middle. across: their diameter; number: how many; pitch: from middle to middle, mm."""

    across: Size = 6.0
    number: Annotated[int, Field(ge=1, le=MOST_HOLES)] = 1
    pitch: Size = 40.0


class Drilling(Model):
    """What is wanted of holes. tool: a drill as thick as they are, or an end mill that is no thicker; deep: below the face, where they do not go right
    through; through: whether they do; into: how far into the spoilboard then, where pins are to stand in it; peck: how deep the tool goes before it comes up to clear, mm."""

    tool: Number = 6
    deep: Size = 10.0
    through: bool = False
    into: Amount = 0.0
    peck: Size = 3.0


class Engraving(Model):
    """What is wanted of an engraved line. tool: a V-bit, a ball or an end mill; sunk: how deep its tip goes, mm; inset: how far the line lies inside its
    outline, mm."""

    tool: Number = 3
    sunk: Size = 1.0
    inset: Amount = 0.0
