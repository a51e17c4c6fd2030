# SPDX-License-Identifier: GPL-3.0-or-later
"""A test groove: two depths cut with a V, two widths measured, and what angle and tip it really has."""

from __future__ import annotations

import math
from dataclasses import dataclass

from gatepost.core.errors import OperatorError
from gatepost.core.job.tool import Tool
from gatepost.core.profile import blunt, is_vee
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

READ = 0.05  # mm that a groove's width is read to: edges of wood are not as sharp as steel's
WORTH = 0.5  # degrees, and 0.05 mm of tip, from which the drawer's figures are worth changing
TIP_WORTH = 0.05


@dataclass(frozen=True)
class TrueV:
    """A V as its grooves show it. angle: included, degrees; tip: diameter of its flat, or what a rounded one is as blunt as, mm; within: both by how
    the widths were read; radius: of a rounded tip."""

    angle: Working
    tip: Working
    within: tuple[float, float]
    radius: float = 0.0


def true_v(tool: Tool, depths: tuple[float, float], widths: tuple[float, float]) -> TrueV:
    """2·atan((w₂ − w₁)/(2·(d₂ − d₁))) and w₁ − 2·d₁·tan of its half. depths, widths: mm, of the shallower first. Raises OperatorError."""
    if not is_vee(tool):
        raise OperatorError("A test groove tells a V: this is none.")
    if not 0.0 < depths[0] < depths[1]:
        raise OperatorError("The second groove has to be deeper than the first.")
    if not 0.0 < widths[0] < widths[1]:
        raise OperatorError("The deeper groove has to be the wider one: were they taken for one another?")
    rise = (
        Named("second_width", widths[1]),
        Named("first_width", widths[0]),
        Named("second_depth", depths[1]),
        Named("first_depth", depths[0]),
    )
    angle = working("2 * atan((second_width - first_width) / (2 * (second_depth - first_depth)))", *rise, unit="angle")
    slope = (widths[1] - widths[0]) / 2.0 / (depths[1] - depths[0])
    tip = working(
        "first_width - 2 * first_depth * tan(angle / 2)", rise[1], rise[3], Named("angle", angle.result, "angle")
    )
    if angle.result >= 179.0 or tip.result < -4.0 * READ - 2.0 * READ * depths[0] / (depths[1] - depths[0]):
        raise OperatorError(
            f"By these widths the V would be {angle.result:.0f}° with a tip of {mm(tip.result, 2)}: is a depth counted from another face, or a width mistyped?"
        )
    off = READ * math.sqrt(2.0) / 2.0 / (depths[1] - depths[0])  # of the slope
    degrees = 2.0 * math.degrees(off / (1.0 + slope * slope))
    round_tip = 0.0
    if tool.kind == "rounded_vee":
        half = math.radians(angle.result / 2.0)
        round_tip = max(0.0, tip.result / 2.0 * math.cos(half) / (1.0 - math.sin(half)))
    return TrueV(angle, tip, (degrees, READ + 2.0 * depths[0] * off), round_tip)


def told(tool: Tool, v: TrueV) -> str:
    """What it comes to beside the drawer's figures, in a sentence."""
    blunt_now = 2.0 * blunt(tool)
    tip = max(v.tip.result, 0.0)
    as_tip = f"a tip rounded by {mm(v.radius, 2)}" if tool.kind == "rounded_vee" else f"a tip {mm(tip, 2)} across"
    words = (
        f"{v.angle.result:.1f}° (by how widths are read ± {v.within[0]:.1f}°) with {as_tip} (± {mm(v.within[1], 2)})"
    )
    if abs(v.angle.result - tool.angle) <= max(WORTH, v.within[0]) and abs(tip - blunt_now) <= max(
        TIP_WORTH, v.within[1]
    ):
        return f"{words}: as it is entered, as far as that can be told."
    return f"{words}; {tool.angle:g}° with {mm(blunt_now, 2)} is entered."


def values_of(tool: Tool, v: TrueV) -> dict[str, float]:
    """What the drawer is offered."""
    angle = round(v.angle.result, 1)
    return (
        {"angle": angle, "radius": round(v.radius, 2)}
        if tool.kind == "rounded_vee"
        else {"angle": angle, "tip": round(max(v.tip.result, 0.0), 2)}
    )
