# SPDX-License-Identifier: GPL-3.0-or-later
"""What is sunk to a flat floor, a ground round what stays or a recess; and what is cut right through."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BeforeValidator, Field

from gatepost.core.job.base import Amount, Model, Size
from gatepost.core.job.tool import MOST_NUMBER

MOST_TOOLS = 6  # of one operation
Number = Annotated[int, Field(ge=1, le=MOST_NUMBER)]


def _each_once(tools: tuple[int, ...]) -> tuple[int, ...]:
    return tuple(dict.fromkeys(tools))


def _one_alone(tools: Any) -> Any:
    return (tools,) if isinstance(tools, int) else tools


ToolList = Annotated[
    tuple[Number, ...],
    Field(min_length=1, max_length=MOST_TOOLS),
    AfterValidator(_each_once),
    BeforeValidator(_one_alone),
]


class Cleared(Model):
    """How an area is cleared. tools: numbers; stepover: share of an end mill's diameter from line to line, half at most, since nothing is missed then;
    route: round and round, or back and forth; start: where the first line is; cut: which way round; entry: how an end mill gets down; allowance: left
    on upright walls for a last pass, mm."""

    tools: ToolList = (2, 3)
    stepover: Annotated[float, Field(ge=0.05, le=0.5)] = 0.4
    route: Literal["rings", "rows"] = "rings"
    start: Literal["inside", "outside"] = "inside"
    cut: Literal["climb", "conventional"] = "climb"
    entry: Literal["ramp", "helix", "plunge"] = "ramp"
    allowance: Annotated[float, Field(ge=0, le=3)] = 0.0


class Sunk(Cleared):
    """What is wanted of a flat floor: end mills do the most, and a V-bit the edge, which is upright where there is none. depth: below the face; cusp:
    left between lines of a V's point, mm."""

    depth: Size = 3.0
    cusp: Annotated[float, Field(ge=0.01, le=0.5)] = 0.05


class Stencil(Cleared):
    """Letters cut right through. bridge: how wide the wood is that joins what lies inside a letter to the rest, 0 for none; way: in which it runs, as the
    letter stands."""

    tools: ToolList = (2,)
    bridge: Amount = 6.0
    way: Literal["upright", "across", "shortest"] = "upright"


class Ground(Sunk):
    """Sunk around what stays. rim: left standing inside the edge of what it is in; none: sunk out past that edge."""

    rim: Amount = 10.0


class Recess(Sunk):
    """Sunk inside an outline; what lies inside that one stays."""
