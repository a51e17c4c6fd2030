# SPDX-License-Identifier: GPL-3.0-or-later
"""The Tools page."""

from __future__ import annotations

from gatepost.core.job.model import Job
from gatepost.core.job.tool import Tool
from gatepost.core.job.tool_table import another, of_kind, shipped_tools
from gatepost.core.plan.kinds import Kinds
from gatepost.desk.pages.entries import Act, Group, PageRow, act, single

KINDS = (
    ("flat", "an end mill"), ("vee", "a V-bit"), ("ball", "a ball-nose"), ("surfacing", "a surfacing cutter"), ("drill", "a drill"),
)  # fmt: skip
CALLED = tuple((kind, words.partition(" ")[2]) for kind, words in KINDS)


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
    kinds_there = {t.kind for t in shipped_tools()}
    offers = tuple(
        Act(f"Add {words}", "add tool", lambda plan, kind=kind: {"tool": of_kind(job.tools, kind)})
        for kind, words in KINDS
        if kind in kinds_there
    )
    table = Group("Tools", (), acts=(act("Take one from the shop's table…", "window take_tool"), *offers))
    return (table, change, *(_tool(job, t) for t in job.tools))


def _tool(job: Job, t: Tool) -> Group:
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
    acts = (
        Act(f"Copy T{t.number}", "add tool", lambda plan: {"tool": another(job.tools, t, f"{t.name}, copy"[:80])}),
        act(f"Keep T{t.number} for the shop", f"window keep_tool {t.number}"),
        act(f"Take T{t.number} away", "remove tool", number=t.number),
    )
    return Group(f"T{t.number}, {dict(CALLED)[t.kind]}", tuple(rows), acts=acts)
