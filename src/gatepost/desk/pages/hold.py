# SPDX-License-Identifier: GPL-3.0-or-later
"""The Hold page."""

from __future__ import annotations

from gatepost.core.job.model import Hold, Job
from gatepost.desk.pages.entries import Act, Entry, Group, Row, act, single


def page(job: Job, setup: str) -> tuple[Group, ...]:
    """Where the board lies and every hold of the setup."""
    s = job.setup(setup)
    place = Group(
        "The board on the bed",
        (
            Row(
                (Entry("X of its corner", "length", s.x, "place blank", lambda v: {"setup": setup, "x": v, "y": s.y}),),
                "X of its corner",
            ),
            Row(
                (Entry("Y of its corner", "length", s.y, "place blank", lambda v: {"setup": setup, "x": s.x, "y": v}),),
                "Y of its corner",
            ),
        ),
        acts=(_strap(job, setup), _edge(job, setup)),
    )
    return (place, *(_hold(setup, h) for h in s.holds))


def _strap(job: Job, setup: str) -> Act:
    s = job.setup(setup)
    below = [y for y in job.machine.slots if y < s.y - 20] or list(job.machine.slots)
    y = max(below)
    nose = max(s.y + 14 - y, 20)
    count = len(s.holds)
    x = s.x + job.blank.length * (0.15 + 0.2 * (count % 5))
    thick = max([h.z for h in job.blank.heights], default=job.blank.label_thickness)
    return act(
        "Add a strap",
        "add hold",
        setup=setup,
        kind="strap",
        x=x,
        y=y,
        heading=90.0,
        nose=nose,
        tail=40.0,
        packing=thick,
    )


def _edge(job: Job, setup: str) -> Act:
    s = job.setup(setup)
    count = len(s.holds)
    x = s.x + job.blank.length * (0.3 + 0.4 * ((count // 2) % 2))
    y, heading = (s.y, 90.0) if count % 2 == 0 else (s.y + job.blank.width, 270.0)
    return act(
        "Add an edge clamp",
        "add hold",
        setup=setup,
        kind="edge",
        x=x,
        y=y,
        heading=heading,
        height=job.blank.label_thickness * 0.6,
    )


def _hold(setup: str, h: Hold) -> Group:
    def row(label: str, kind: str, field: str) -> Row:
        return single(
            label,
            kind,
            getattr(h, field),
            "set hold",
            field,
            setup=setup,
            hold=h.name,
            unit="N" if field == "force" else "",
        )

    away = act(f"Take {h.name} away", "remove hold", setup=setup, hold=h.name)
    if h.kind == "strap":
        rows = (
            row("Bolt X", "length", "x"), row("Bolt Y", "length", "y"), row("Nose points, degrees", "number", "heading"),
            row("Bolt to nose", "length", "nose"), row("Bolt to packing", "length", "tail"), row("Packing", "length", "packing"),
            row("Bolt force, N", "number", "force"),
        )  # fmt: skip
        return Group(f"{h.name}, strap", rows, acts=(away,))
    rows = (
        row("Jaw X", "length", "x"), row("Jaw Y", "length", "y"), row("Presses, degrees", "number", "heading"),
        row("Top above the bed", "length", "height"), row("Force, N", "number", "force"),
    )  # fmt: skip
    return Group(f"{h.name}, edge clamp", rows, acts=(away,))
