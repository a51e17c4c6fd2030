# SPDX-License-Identifier: GPL-3.0-or-later
"""Heights that are carved: a picture or a mesh of heights, the relief made of it, and a ground that is gouged."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from gatepost.core.errors import OperatorError
from gatepost.core.geometry.levels import unpacked
from gatepost.core.job.base import Amount, Model, Size, Words
from gatepost.core.job.drawing import SOURCE
from gatepost.core.job.sunk import ToolList

MOST_SAMPLES = 2000  # of a row, and of a column
MOST_GRID = 6_000_000  # characters
MOST_BRIDGES = 24
ShareOut = Annotated[float, Field(ge=-3, le=3)]


class HeightsFigures(Model):
    """Heights over a rectangle. grid: rows of 16-bit levels from the top row down, packed as core.geometry.levels packs them, 0 where nothing is
    asked, 1 black to 65535 white; black, white: how deep those lie under the face, mm; width, height: of the rectangle, mm; source: the part that it
    was read from, name: of the file."""

    columns: Annotated[int, Field(ge=2, le=MOST_SAMPLES)]
    rows: Annotated[int, Field(ge=2, le=MOST_SAMPLES)]
    grid: Annotated[str, Field(max_length=MOST_GRID, pattern=r"^[A-Za-z0-9+/=]*$")]
    width: Size
    height: Size
    black: Amount = 6.0
    white: Amount = 0.0
    source: Annotated[str, Field(pattern=rf"{SOURCE}|^$")] = ""
    name: Words = ""

    @model_validator(mode="after")
    def _can_be_read(self) -> HeightsFigures:
        try:
            if not unpacked(self.grid, self.rows, self.columns).any():
                raise OperatorError("The heights of a picture in this job ask for nothing. Bring the picture in again.")
        except OperatorError as error:
            raise ValueError(str(error)) from None
        return self


class ReliefBridge(Model):
    """A strip of wood that is left across a relief's ground, at mid-thickness. x0, y0 to x1, y1: its middle line, from the picture's middle in its widths and heights,
    as it was drawn."""

    x0: ShareOut
    y0: ShareOut
    x1: ShareOut
    y1: ShareOut


class Relief(Model):
    """What is wanted of a relief. tools: an end mill that takes most of it off in layers, then balls, each smaller one only where the larger left
    more than the scallop asked for; layer_step: share of the end mill's diameter from row to row; left: by it, for the balls, mm; scallop: asked for, mm;
    way: of the rows, along X or along Y as the face is read; around: whether what is about it is kept, or cutters may run out over it; meets: whether it is to meet the
    relief of the opposite face in the middle of the wood; bridges: that hold what both free, so wide and so high there, mm."""

    tools: ToolList = (2, 4)
    layer_step: Annotated[float, Field(ge=0.05, le=0.5)] = 0.4
    left: Annotated[float, Field(ge=0.05, le=3)] = 0.5
    scallop: Annotated[float, Field(ge=0.01, le=0.5)] = 0.05
    way: Literal["x", "y"] = "x"
    around: Literal["kept", "free"] = "kept"
    meets: bool = False
    bridges: Annotated[tuple[ReliefBridge, ...], Field(max_length=MOST_BRIDGES)] = ()
    bridge_wide: Size = 10.0
    bridge_high: Size = 4.0
