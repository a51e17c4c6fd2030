# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the zeros are, and how they are touched."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gatepost.core.job.base import Amount, Model, Place, Size


class Zero(Model):
    """Where X0 Y0 and Z0 are. x, y: a mark in blank coordinates, used when xy is ``mark``; outline middle: the middle of
    the outline's area.

    xy_way: by eye with a point; an edge, or a pair of opposite ones, touched with a pin or shank of diameter pin, or with
    the cutter itself; or a corner plate. touch_x, touch_y: where Z is touched, in blank coordinates. gauge: what stands
    under the tip when it is touched; gauge_edge: walls of a corner plate; gauge_size: across a plate, which wants room; gauge_name, gauge_checked: of the shop's register.
    later: whether tools fitted later touch off on the work again, or on the machine's fixed sensor.
    block: what stands between an edge and what touches it. shift_x, shift_y: how far right and back of where it was meant the last one came
    out, which is taken off. square: how the board is laid square before it is touched: not at all, by two touches of its long edge, or by looking at two
    places of a line ruled along it. eye: ± of setting a point over a mark by eye. witness_x, witness_y: a mark that is not cut away, to look at later.
    """

    xy: Literal["front left", "front right", "back left", "back right", "centre", "outline middle", "mark"] = "centre"
    x: Place = 0.0
    y: Place = 0.0
    z: Literal["top", "bed"] = "top"
    xy_way: Literal["pointer", "pin", "cutter", "corner plate"] = "pointer"
    pin: Size = 6.0
    square: Literal["no", "edge", "line"] = "no"
    touch_x: Place | None = None
    touch_y: Place | None = None
    gauge: Literal["plate", "paper", "corner plate"] = "plate"
    later: Literal["touch", "sensor"] = "touch"
    block: Amount = 0.0
    shift_x: Annotated[float, Field(ge=-20, le=20)] = 0.0
    shift_y: Annotated[float, Field(ge=-20, le=20)] = 0.0
    gauge_thickness: Amount = 12.0
    gauge_edge: Amount = 10.0
    gauge_size: Size = 40.0
    gauge_name: Annotated[str, Field(max_length=80)] = ""
    gauge_checked: Annotated[str, Field(max_length=20)] = ""
    eye: Annotated[float, Field(ge=0, le=5)] = 0.2
    witness_x: Place | None = None
    witness_y: Place | None = None


class TouchChoice(Model):
    """Where a tool fitted later touches off; blank coordinates."""

    tool: int
    x: Place
    y: Place
