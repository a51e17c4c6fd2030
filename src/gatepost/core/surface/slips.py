# SPDX-License-Identifier: GPL-3.0-or-later
"""What is asked about before anything is worked out on it: heights that look mistyped (3394 for 33.94, inches among
millimetres), and more rows than anybody runs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.blank import TopHeight
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.units import mm

FAR = 3.0  # times more or less than the others: no board is so uneven, and a point left out makes ten at least
NEAR = 1.3  # a slip mended comes this near the others
MOST_ROWS = 6000  # of all passes: a bed of 1200 × 700 in ten passes with a 6 mm cutter has 3,000
SLIPS = (0.1, 0.01, 0.001, 10.0, 100.0, 25.4, 1 / 25.4)


@dataclass(frozen=True)
class Slip:
    """A height that looks mistyped. others: their median, mm; meant: what it may have been, or nothing."""

    height: TopHeight
    others: float
    meant: float | None


def slip(heights: Sequence[TopHeight]) -> Slip | None:
    """The height that lies furthest from the others, where it lies too far; nothing where none does."""
    if len(heights) < 3:
        return None
    worst: tuple[float, Slip] | None = None
    for i, h in enumerate(heights):
        others = median(o.z for k, o in enumerate(heights) if k != i)
        share = max(h.z / others, others / h.z)
        if share > FAR and (worst is None or share > worst[0]):
            meant = min((h.z * s for s in SLIPS), key=lambda z: max(z / others, others / z))
            near = max(meant / others, others / meant) < NEAR
            worst = (share, Slip(h, others, round(meant, 4) if near else None))
    return worst[1] if worst is not None else None


def slip_finding(found: Slip) -> Finding:
    """What is asked about it, with what it may have been."""
    h = found.height
    fixes: tuple[Fix, ...] = (Fix("remove height", {"height": h.id}, "Leave this reading out"),)
    question = ""
    if found.meant is not None:
        fixes = (Fix("set height", {"height": h.id, "z": found.meant}, f"Make it {mm(found.meant)}"), *fixes)
        question = f" Was {mm(found.meant)} meant?"
    message = (
        f"The height at X {mm(h.x)}, Y {mm(h.y)} is {mm(h.z)}, and the others are about {mm(found.others)}.{question} Nothing is "
        "worked out until this is answered."
    )
    return Finding("surface.height-odd", Level.STOP, "surface", message, fixes=fixes)


def too_many_rows(passes: int, rows: int, wanted: Surfacing, tool: Tool) -> Finding:
    """What is said of a surfacing of more rows than can be worked out, with figures that are usual."""
    message = (
        f"{passes} passes of about {rows} rows: that is more than can be worked out, and than anybody runs. Take more at a pass, or "
        "set the rows farther apart. Nothing is worked out until then."
    )
    usual = {"limit": max(wanted.limit, tool.pass_depth), "stepover": max(wanted.stepover, USUAL_STEPOVER)}
    fix = Fix(
        "set surfacing",
        usual,
        f"Take {mm(usual['limit'])} a pass, rows {100.0 * usual['stepover']:.0f} % of the cutter apart",
    )
    return Finding("surface.too-many-rows", Level.STOP, "surface", message, fixes=(fix,))


USUAL_STEPOVER = 0.4  # of the cutter
