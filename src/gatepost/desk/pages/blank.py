# SPDX-License-Identifier: GPL-3.0-or-later
"""The Blank page."""

from __future__ import annotations

from typing import Any

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
    return board, _calipers(job), _heights(job), _under(job)


def _field(label: str, command: str, index: int, name: str, value: float) -> Entry:
    return Entry(label, "length", value, command, lambda v: {"index": index, name: v})


HEADS = {"thick": "Thickness"}
ROUND = ((0.05, 0.05), (0.5, 0.04), (0.95, 0.05), (0.95, 0.95), (0.5, 0.96), (0.05, 0.95))
OVER = (
    (0.03, 0.06), (0.97, 0.06), (0.97, 0.94), (0.03, 0.94), (0.5, 0.5), (0.5, 0.06), (0.97, 0.5), (0.5, 0.94), (0.03, 0.5),
)  # fmt: skip


def places(job: Job, title: str, what: str, items: tuple[Any, ...], third: tuple[str, str, float] | None, add: str,
           spots: tuple[tuple[float, float], ...]) -> Group:  # fmt: skip
    """A list of places on the board, each with a third figure (its name in the model, on screen, and the next one's).

    what: the thing's word in the commands; spots: where the next ones are put, as shares of length and width.
    """
    rows = tuple(
        Row(
            (
                _field("X", f"set {what}", i, "x", item.x), _field("Y", f"set {what}", i, "y", item.y),
                *((_field(third[1], f"set {what}", i, third[0], getattr(item, third[0])),) if third else ()),
            ),
            str(i + 1), act(f"Take {what} away", f"remove {what}", index=i),
        )
        for i, item in enumerate(items)
    )  # fmt: skip
    fx, fy = spots[len(rows) % len(spots)]
    more = {third[0]: third[2]} if third else {}
    button = act(add, f"add {what}", x=round(fx * job.blank.length), y=round(fy * job.blank.width), **more)
    return Group(title, rows, ("X", "Y", *((HEADS.get(third[1], third[1].capitalize()),) if third else ())), (button,))


def _calipers(job: Job) -> Group:
    last = job.blank.calipers[-1].thickness if job.blank.calipers else job.blank.label_thickness
    third = ("thickness", "thick", last)
    return places(job, "Calipers", "caliper", job.blank.calipers, third, "Add a caliper reading", ROUND)


def _heights(job: Job) -> Group:
    last = job.blank.heights[-1].z if job.blank.heights else job.blank.label_thickness
    title = "Heights of the top, above the bed"
    return places(job, title, "height", job.blank.heights, ("z", "height", last), "Add a height of the top", OVER)


def _under(job: Job) -> Group:
    title = "Gaps under the board, above the bed"
    return places(job, title, "gap", job.blank.under, ("z", "gap", 0.0), "Add a gap under the board", OVER)
