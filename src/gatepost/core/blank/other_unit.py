# SPDX-License-Identifier: GPL-3.0-or-later
"""Whether a board's sizes were typed in the other unit: inches as millimetres, or millimetres as inches."""

from __future__ import annotations

from typing import Any

from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.model import Job
from gatepost.core.units import mm

INCH = 25.4  # mm

SMALL, THIN = 60.0, 4.0  # mm; no larger and no thicker: hardly a board in millimetres, and many a one in inches
LARGE, THICK = (
    4000.0,
    100.0,
)  # mm; larger and thicker than both: hardly a board in inches, and many a one in millimetres


def findings(job: Job) -> list[Finding]:
    """The question, and the board as it would be in the other unit."""
    b = job.blank
    thick = max([b.label_thickness, *(r.thickness for r in b.calipers)])
    if job.unit == "mm" and max(b.across) <= SMALL and thick <= THIN:
        times, which = INCH, "inches"
    elif job.unit == "inch" and max(b.across) > LARGE and thick > THICK:
        times, which = 1.0 / INCH, "millimetres"
    else:
        return []
    size = (b.across[0] * times, b.across[1] * times, b.label_thickness * times)
    told = " × ".join(mm(v, 2) for v in (*b.across, b.label_thickness))
    other = " × ".join(mm(v, 2) for v in size)
    message = f"The board is {told}. Were its sizes typed in {which}? Then it is {other}."
    alone = b.shape != "outline" and not (
        b.heights or b.under or b.flaws or b.supports
    )  # nothing else to be brought along
    fixes = (Fix("set blank", _larger(job, times), f"They were in {which}"),) if alone else ()
    return [Finding("blank.other-unit", Level.CARE, "blank", message, fixes=fixes)]


def _larger(job: Job, times: float) -> dict[str, Any]:
    """Size and caliper readings so many times as large."""
    b = job.blank
    readings = [
        {**r.model_dump(), "x": r.x * times, "y": r.y * times, "thickness": r.thickness * times} for r in b.calipers
    ]
    return {
        "length": b.length * times,
        "width": b.width * times,
        "label_thickness": b.label_thickness * times,
        "calipers": readings,
    }
