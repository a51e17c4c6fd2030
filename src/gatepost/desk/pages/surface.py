# SPDX-License-Identifier: GPL-3.0-or-later
"""The Surface page."""

from __future__ import annotations

from gatepost.core.job.model import Job
from gatepost.desk.pages.blank import places
from gatepost.desk.pages.entries import Group, single

WANTED = (("if it needs it", "ask"), ("yes", "yes"), ("no", "no"))
SEATS = (("as it lies", "as it lies"), ("on shims", "shimmed"))
AROUND = ((0.1, 0.1), (0.9, 0.1), (0.5, 0.9), (0.1, 0.9), (0.9, 0.9))
WAYS = (("along X", "along X"), ("along Y", "along Y"))


def page(job: Job, setup: str) -> tuple[Group, ...]:
    """How it is to be surfaced."""
    s = job.surfacing
    tools = tuple((f"T{t.number} {t.name}", t.number) for t in job.tools if t.kind in ("surfacing", "flat"))
    return (
        Group(
            "Surfacing",
            (
                single("Surface it", "choice", s.wanted, "set surfacing", "wanted", WANTED),
                single("Cutter", "choice", s.tool, "set surfacing", "tool", tools),
                single("Stepover, share of diameter", "number", s.stepover, "set surfacing", "stepover"),
                single("Deepest pass", "length", s.limit, "set surfacing", "limit"),
                single("Last pass", "length", s.last, "set surfacing", "last"),
                single("Below the lowest place", "length", s.cleanup, "set surfacing", "cleanup"),
                single("Rows run", "choice", s.direction, "set surfacing", "direction", WAYS),
                single("Lay the board", "choice", s.seat, "set surfacing", "seat", SEATS),
            ),
        ),
        places(job, "Supports for shims", "support", job.blank.supports, None, "Add a support", AROUND),
    )
