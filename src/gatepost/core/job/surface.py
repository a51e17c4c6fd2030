# SPDX-License-Identifier: GPL-3.0-or-later
"""What is wanted of surfacing."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gatepost.core.job.base import Amount, Model, Size
from gatepost.core.tolerances import CLEANUP, HOLLOW, LAST_PASS


class Surfacing(Model):
    """What is wanted of surfacing. stepover: share of the diameter; direction: of the passes, angle: degrees from X for one
    at an angle; path: over the plain rectangle or following the outline; area: all of the board, or only what the design
    uses; stop_after: passes to be run, 0 for all; target_thickness: what is to be left, 0 for all there is;
    hollow: how deep a hollow sanding takes; step_x, step_y: measured between passes of a test patch along X and along Y,
    with the side of each row that lies lower, and whether all steps are alike; patch_stepover, patch_diameter: mm that they were measured
    with, 0 where that is what is planned; patch_taken: when; seat: how the board is laid;
    shims_at_hand: thicknesses, as many of each as one likes."""

    wanted: Literal["ask", "yes", "no"] = "ask"
    tool: int = 1
    stepover: Annotated[float, Field(gt=0.02, le=0.95)] = 0.4
    limit: Size = 1.5
    last: Size = LAST_PASS
    cleanup: Amount = CLEANUP
    direction: Literal["along X", "along Y", "along the grain", "across the grain", "at an angle"] = "along X"
    angle: Annotated[float, Field(ge=-180, le=180)] = 0.0
    path: Literal["rectangle", "outline"] = "rectangle"
    way: Literal["both ways", "climb"] = "both ways"
    area: Literal["all", "used"] = "all"
    stop_after: Annotated[int, Field(ge=0, le=500)] = 0
    target_thickness: Amount = 0.0
    hollow: Annotated[float, Field(ge=0, le=5)] = HOLLOW
    step_x: Annotated[float, Field(ge=0, le=5)] = 0.0
    step_y: Annotated[float, Field(ge=0, le=5)] = 0.0
    low_x: Literal["front", "back"] = "front"
    low_y: Literal["left", "right"] = "left"
    steps: Literal["equal", "alternating"] = "equal"
    patch_stepover: Amount = 0.0
    patch_diameter: Amount = 0.0
    patch_taken: Annotated[str, Field(max_length=20)] = ""
    seat: Literal["as it lies", "shimmed"] = "as it lies"
    shims_at_hand: Annotated[tuple[Size, ...], Field(max_length=20)] = ()
