# SPDX-License-Identifier: GPL-3.0-or-later
"""A cutter."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gatepost.core.job.base import Amount, Model, Name, Rate, Size

MOST_NUMBER = 99  # of a tool


class Tool(Model):
    """A cutter. angle: included; tip: diameter of a V's flat; length: tip below the collet nut; chips in mm per tooth."""

    number: Annotated[int, Field(ge=1, le=MOST_NUMBER)]
    name: Name
    kind: Literal["flat", "ball", "vee", "surfacing", "drill"]
    diameter: Size
    angle: Annotated[float, Field(ge=0, le=180)] = 0.0
    tip: Amount = 0.0
    radius: Amount = 0.0
    teeth: Annotated[int, Field(ge=1, le=12)] = 2
    cutting_length: Size
    shank: Size
    length: Size
    spiral: Literal["up", "down", "straight", "compression"] = "straight"
    centre_cutting: bool = True
    marked_rpm: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    rpm: Rate
    feed: Rate
    plunge: Rate
    pass_depth: Size
    rub: Amount = 0.02
    taken: str = ""
