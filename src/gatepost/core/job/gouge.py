# SPDX-License-Identifier: GPL-3.0-or-later
"""A ground that is gouged: short strokes of a ball, as a carver leaves them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gatepost.core.job.base import Amount, Model
from gatepost.core.job.sunk import ToolList


class Gouge(Model):
    """What is wanted of a gouged ground. tools: end mills that clear the ground first, and a ball that gouges it; cleared: how deep it is cleared below the
    face, mm, 0 where strokes go into the face itself; scoop: how deep the strokes go below that, mm; stroke: how long they are, apart: from row to row,
    mm; varied: share by which depth, length and distance vary; seed: of that; follows: rows in one direction, or round what stays; heading: of the rows, degrees
    from X; clear_of: kept between a stroke's edge and what stays, mm; rim: left standing inside the edge of what it is in, mm."""

    tools: ToolList = (2, 4)
    cleared: Amount = 2.0
    scoop: Annotated[float, Field(gt=0, le=20)] = 0.8
    stroke: Annotated[float, Field(ge=2, le=200)] = 20.0
    apart: Annotated[float, Field(ge=0.5, le=50)] = 3.0
    varied: Annotated[float, Field(ge=0, le=1)] = 0.4
    seed: Annotated[int, Field(ge=0, le=9999)] = 1
    follows: Literal["rows", "round"] = "rows"
    heading: Annotated[float, Field(ge=-180, le=180)] = 0.0
    clear_of: Amount = 0.5
    rim: Amount = 10.0
