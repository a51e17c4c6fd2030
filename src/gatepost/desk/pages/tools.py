# SPDX-License-Identifier: GPL-3.0-or-later
"""The Tools page."""

from __future__ import annotations

from gatepost.core.job.model import Job
from gatepost.core.job.tool import Tool
from gatepost.core.plan.kinds import Kinds
from gatepost.desk.pages.entries import Group, PageRow, act, single


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """The job's copy of each tool, and what a change takes."""
    m = job.machine
    change = Group(
        "A change of tool",
        (
            single("Minutes to change", "number", m.change_minutes, "set machine", "change_minutes"),
            single("Minutes to touch off", "number", m.touch_minutes, "set machine", "touch_minutes"),
        ),
    )
    return (change, *(_tool(t) for t in job.tools))


def _tool(t: Tool) -> Group:
    def row(label: str, kind: str, field: str) -> PageRow:
        return single(label, kind, getattr(t, field), "set tool", field, number=t.number)

    rows = [row("Name", "words", "name"), row("Diameter", "length", "diameter")]
    if t.kind == "vee":
        rows += [row("Angle, degrees", "number", "angle"), row("Flat tip", "length", "tip")]
    rows += [
        row("Cutting length", "length", "cutting_length"), row("Shank", "length", "shank"), row("Sticks out of the nut", "length", "length"),
        row("Teeth", "number", "teeth"), row("Rpm", "number", "rpm"), row("Top speed marked on it", "number", "marked_rpm"),
        row("Feed, mm/min", "number", "feed"), row("Plunge, mm/min", "number", "plunge"), row("Deepest pass", "length", "pass_depth"),
    ]  # fmt: skip
    return Group(
        f"T{t.number}, {t.kind}", tuple(rows), acts=(act(f"Take T{t.number} away", "remove tool", number=t.number),)
    )
