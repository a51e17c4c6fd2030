# SPDX-License-Identifier: GPL-3.0-or-later
"""The Blank page."""

from __future__ import annotations

from gatepost.core.job.model import Job
from gatepost.desk.pages.entries import Entry, Group, Row, act, single

KINDS = (("soft", "soft"), ("medium", "medium"), ("hard", "hard"))
ROCKS = (("not tested", None), ("stands still", False), ("rocks", True))


def page(job: Job, setup: str) -> tuple[Group, ...]:
    """Size, wood, calipers and heights of the top."""
    b = job.blank
    board = Group(
        "Board",
        (
            single("Job", "words", job.name, "set job", "name"),
            single("Length", "length", b.length, "set blank", "length"),
            single("Width", "length", b.width, "set blank", "width"),
            single("Thickness on the label", "length", b.label_thickness, "set blank", "label_thickness"),
            single("Wood", "words", job.wood.name, "set wood", "name"),
            single("Resists like", "choice", job.wood.kind, "set wood", "kind", KINDS),
            single("Rock test", "choice", b.rocks, "set blank", "rocks", ROCKS),
        ),
    )
    return board, _calipers(job), _heights(job)


def _field(label: str, command: str, index: int, name: str, value: float) -> Entry:
    return Entry(label, "length", value, command, lambda v: {"index": index, name: v})


def _calipers(job: Job) -> Group:
    rows = tuple(
        Row(
            (_field("X", "set caliper", i, "x", r.x), _field("Y", "set caliper", i, "y", r.y), _field("thick", "set caliper", i, "thickness", r.thickness)),
            str(i + 1), act("Take reading away", "remove caliper", index=i),
        )
        for i, r in enumerate(job.blank.calipers)
    )  # fmt: skip
    last = job.blank.calipers[-1].thickness if job.blank.calipers else job.blank.label_thickness
    places = [(0.05, 0.05), (0.5, 0.04), (0.95, 0.05), (0.95, 0.95), (0.5, 0.96), (0.05, 0.95)]
    fx, fy = places[len(rows) % len(places)]
    add = act(
        "Add a caliper reading",
        "add caliper",
        x=round(fx * job.blank.length),
        y=round(fy * job.blank.width),
        thickness=last,
    )
    return Group("Calipers", rows, ("X", "Y", "Thickness"), (add,))


def _heights(job: Job) -> Group:
    rows = tuple(
        Row(
            (_field("X", "set height", i, "x", h.x), _field("Y", "set height", i, "y", h.y), _field("height", "set height", i, "z", h.z)),
            str(i + 1), act("Take height away", "remove height", index=i),
        )
        for i, h in enumerate(job.blank.heights)
    )  # fmt: skip
    last = job.blank.heights[-1].z if job.blank.heights else job.blank.label_thickness
    places = [
        (0.03, 0.06),
        (0.97, 0.06),
        (0.97, 0.94),
        (0.03, 0.94),
        (0.5, 0.5),
        (0.5, 0.06),
        (0.97, 0.5),
        (0.5, 0.94),
        (0.03, 0.5),
    ]
    fx, fy = places[len(rows) % len(places)]
    add = act(
        "Add a height of the top", "add height", x=round(fx * job.blank.length), y=round(fy * job.blank.width), z=last
    )
    return Group("Heights of the top, above the bed", rows, ("X", "Y", "Height"), (add,))
