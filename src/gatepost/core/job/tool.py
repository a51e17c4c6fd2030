# SPDX-License-Identifier: GPL-3.0-or-later
"""A cutter."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from gatepost.core.job.base import Amount, Day, Model, Name, Rate, Size

MOST_NUMBER = 99  # of a tool


class ChipRange(Model):
    """What a maker or this shop gives a tool a tooth, mm. wood: soft, medium, hard, or a wood by name; by: whose figure it is."""

    wood: Name
    least: Amount
    most: Amount
    by: Literal["maker", "shop"] = "maker"

    @model_validator(mode="after")
    def _ordered(self) -> ChipRange:
        if self.most < self.least:
            raise ValueError("the thickest chip is thinner than the thinnest")
        return self


class Tool(Model):
    """A cutter. angle: included; tip: diameter of a V's flat; radius: of a bull's corner, of a tapered ball, of a rounded V's tip; length: tip below the
    collet nut; chips in mm per tooth; overall: of all of it, 0 where nobody measured it; runout: of the flutes past what cuts; sleeve: outer diameter of a
    sleeve that the shank sits in, sleeve_rpm: what both makers allow in it, 0 where they do not; body: what it is made of; hangs: where; sharpened: a date;
    price: in the shop's money."""

    number: Annotated[int, Field(ge=1, le=MOST_NUMBER)]
    name: Name
    kind: Literal["flat", "ball", "tapered_ball", "vee", "rounded_vee", "bull", "surfacing", "drill"]
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
    chips: Annotated[tuple[ChipRange, ...], Field(max_length=20)] = ()
    overall: Amount = 0.0
    runout: Amount = 0.0
    sleeve: Amount = 0.0
    sleeve_rpm: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    body: Literal["carbide", "steel"] = "carbide"
    hangs: Annotated[str, Field(max_length=80)] = ""
    sharpened: Day = ""
    price: Amount = 0.0
    taken: str = ""
