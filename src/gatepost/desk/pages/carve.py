# SPDX-License-Identifier: GPL-3.0-or-later
"""The Carve page."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Any

from gatepost.core.job.carve import TextLine
from gatepost.core.job.model import Job
from gatepost.core.plan.kinds import Kinds
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act, single

if TYPE_CHECKING:
    from gatepost.core.plan.result import Plan

ALIGN = (("left", "left"), ("centre", "centre"), ("right", "right"))
YES = (("yes", True), ("no", False))


def _outlines(text: str, face: str) -> dict[str, Any]:
    from gatepost.core.carve.edits import outlines

    return outlines(text, face)


@lru_cache(maxsize=1)
def faces() -> tuple[tuple[str, str], ...]:
    """Shipped faces, then those of the system."""
    from gatepost.core.carve.faces import SHIPPED, system_faces

    return tuple((f, f) for f in (*SHIPPED, *sorted(system_faces())))


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """Lines, place, plate and tabs."""
    c = job.carving
    lines = tuple(_line(i, line) for i, line in enumerate(c.lines))
    bits = tuple((f"T{t.number} {t.name}", t.number) for t in job.tools if t.kind == "vee")
    place = Group(
        "Lettering",
        (
            single("V-bit", "choice", c.tool, "set carving", "tool", bits),
            single("Middle X on the board", "length", c.x, "set carving", "x"),
            single("Middle Y on the board", "length", c.y, "set carving", "y"),
            single("Gap between lines, heights", "number", c.leading, "set carving", "leading"),
            single("Margin to the edge", "length", c.margin, "set carving", "margin"),
            single("Sanded off after", "length", c.sanding, "set carving", "sanding"),
            single("Painted", "choice", c.painted, "set carving", "painted", YES),
        ),
        acts=(_add(job), *((Act("Fit to the plate or board", "scale lettering", _fit),) if c.lines else ())),
    )
    return (*lines, place, *_plate(job))


def _line(i: int, line: TextLine) -> Group:
    rows = (
        PageRow(
            (PageEntry("Text", "words", line.text, "set line", lambda v: {"index": i, **_outlines(v, line.face)}),),
            "Text",
        ),
        PageRow(
            (
                PageEntry(
                    "Face", "choice", line.face, "set line", lambda v: {"index": i, **_outlines(line.text, v)}, faces()
                ),
            ),
            "Face",
        ),
        single("Height of capitals", "length", line.height, "set line", "height", index=i),
        single("Tracking, heights", "number", line.tracking, "set line", "tracking", index=i),
        single("Align", "choice", line.align, "set line", "align", ALIGN, index=i),
    )
    return Group(f"Line {i + 1}", rows, acts=(act("Take this line away", "remove line", index=i),))


def _add(job: Job) -> Act:
    last = job.carving.lines[-1] if job.carving.lines else None
    face, height = (last.face, last.height) if last else ("Sans", 50.0)
    return Act("Add a line", "add line", lambda plan: {**_outlines("NEW LINE", face), "height": height})


def _fit(plan: Plan | None) -> dict[str, Any] | None:
    if plan is None:
        return None
    from gatepost.core.carve.report import fit_to_margin

    factor = fit_to_margin(plan.job.carving, plan.outline, plan.lettering)
    return None if factor is None else {"factor": factor}


def _plate(job: Job) -> tuple[Group, ...]:
    p = job.carving.plate
    mills = tuple((f"T{t.number} {t.name}", t.number) for t in job.tools if t.kind == "flat")
    if p is None:
        return (Group("Cut-out", (), acts=(act("Cut out a rounded plate", "set plate"),)),)
    rows = tuple(
        single(label, kind, getattr(p, field), "set plate", field)
        for label, kind, field in (
            ("Width", "length", "width"), ("Height", "length", "height"), ("Corner radius", "length", "corner"),
            ("Middle X on the board", "length", "x"), ("Middle Y on the board", "length", "y"), ("Tabs", "number", "tabs"),
            ("Tab width", "length", "tab_width"), ("Tab height", "length", "tab_height"), ("Left for the last pass", "length", "allowance"), ("Skin left in place of tabs", "length", "skin"),
        )
    )  # fmt: skip
    tool = single("End mill", "choice", p.tool, "set plate", "tool", mills)
    return (Group("Cut-out", (tool, *rows), acts=(act("No cut-out", "set plate", present=False),)),)
