# SPDX-License-Identifier: GPL-3.0-or-later
"""What of the Register page is about parts that are made several times over: how many, what is measured of each, and what was."""

from __future__ import annotations

from functools import partial
from typing import Any

from gatepost.core.job.hold import InNest
from gatepost.core.job.model import Job
from gatepost.core.job.repeats import PartSize, Repeats
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act

SIZE = (("what it is", "words", "title"), ("should be", "length", "nominal"), ("give or take", "length", "within"))


def batch(job: Job) -> tuple[Group, ...]:
    """How many, the sizes, and a row for each part that is measured."""
    repeats = job.repeats or Repeats()
    rows = (
        PageRow(
            (PageEntry("Parts wanted", "number", repeats.parts, "set parts", lambda v: {"parts": round(v)}),),
            "Parts wanted",
        ),
    )
    if repeats.parts == 1 and not repeats.sizes:
        return (Group("The same part several times over", rows),)
    used = {h.of for s in job.setups for h in s.holds if isinstance(h, InNest)}
    acts: list[Act] = [
        act("Take the sizes that the job tells of", "sizes from job"),
        act("Add a size", "add size", title="a size", nominal=100.0),
        *(
            act(f"Keep the first part's sizes with {nest.name}", f"window keep_first_part {i}")
            for i, nest in enumerate(job.machine.bed.nests)
            if nest.name in used and repeats.measured(1)
        ),
    ]
    groups = [Group("The same part several times over", rows, acts=tuple(acts))]
    if repeats.sizes:
        sizes = tuple(_size(s) for s in repeats.sizes)
        groups.append(Group("Sizes that are measured", sizes, ("What it is", "should be", "give or take")))
        measured = [r.part for r in repeats.rows]
        shown = sorted({*measured, max(measured, default=0) + 1})
        for s in repeats.sizes:
            title = f"{s.title or s.id}, as measured"
            groups.append(Group(title, tuple(_row(repeats, s, n) for n in shown if n <= repeats.parts)))
    return tuple(groups)


def _size(s: PartSize) -> PageRow:
    called = s.title or s.id
    entries = tuple(
        PageEntry(f"{called}: {label}", typed, getattr(s, field), "set size", partial(_with, s.id, field))
        for label, typed, field in SIZE
    )
    return PageRow(entries, "", act(f"Do not measure {called}", "remove size", size=s.id))


def _with(size: str, field: str, value: Any) -> dict[str, Any]:
    return {"size": size, field: value}


def _row(repeats: Repeats, s: PartSize, part: int) -> PageRow:
    """What was measured of a part; empty where it was not."""
    label = f"Part {part}"

    def values(v: Any) -> dict[str, Any]:
        return {"part": part, "size": s.id, "value": v}

    entry = PageEntry(
        f"{s.title or s.id} of part {part}",
        "length",
        repeats.measured(part).get(s.id),
        "set part",
        values,
        optional=True,
    )
    return PageRow((entry,), label)
