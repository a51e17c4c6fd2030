# SPDX-License-Identifier: GPL-3.0-or-later
"""The Tools page."""

from __future__ import annotations

from gatepost.core.job.model import Job
from gatepost.core.job.tool import Tool
from gatepost.core.job.tool_table import another
from gatepost.core.plan.kinds import Kinds
from gatepost.core.tools.drawer import KINDS, chips_of, chips_words
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act, single

SPIRALS = (
    ("up, lifts chips", "up"),
    ("down, presses", "down"),
    ("straight", "straight"),
    ("compression", "compression"),
)
BODIES = (("carbide", "carbide"), ("steel", "steel"))
CHIPS = "Chips a tooth, mm: oak 0.05-0.12; …"
YES = (("yes", True), ("no", False))
SHAPES: dict[str, tuple[tuple[str, str, str], ...]] = {
    "vee": (("Angle, degrees", "number", "angle"), ("Flat tip", "length", "tip")),
    "rounded_vee": (("Angle, degrees", "number", "angle"), ("Tip rounded by", "length", "radius")),
    "tapered_ball": (("Taper, degrees in all", "number", "angle"), ("Ball's radius", "length", "radius")),
    "bull": (("Corner's radius", "length", "radius"),),
    "drill": (("Point, degrees; 0 for a level one", "number", "angle"),),
}  # fmt: skip


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """The job's copy of each tool, and what a change takes."""
    m = job.machine
    change = Group(
        "A change of tool",
        (
            single("Minutes to change", "number", m.change_minutes, "set machine", "change_minutes"),
            single("Minutes to touch off", "number", m.touch_minutes, "set machine", "touch_minutes"),
            single("Minutes to lay and hold a board", "number", m.lay_minutes, "set machine", "lay_minutes"),
            single("Boards made alike", "number", job.boards, "set job", "boards"),
        ),
    )
    table = Group(
        "Tools", (), acts=(act("Take one from the drawer…", "window drawer"), act("What the drawer does not have…", "window missing_tools"), act("Skim the bed…", "window skim")),
    )  # fmt: skip
    return (table, change, *(_tool(job, t) for t in job.tools))


def _tool(job: Job, t: Tool) -> Group:
    def row(label: str, kind: str, field: str, choices: tuple[tuple[str, object], ...] = ()) -> PageRow:
        return single(label, kind, getattr(t, field), "set tool", field, choices, number=t.number)

    rows = [row("Name", "words", "name"), row("Diameter", "length", "diameter")]
    rows += [row(*entry) for entry in SHAPES.get(t.kind, ())]
    rows += [
        row("Cutting length", "length", "cutting_length"), row("Run-out of the flutes", "length", "runout"), row("Shank", "length", "shank"),
        row("Long over all, 0 if not measured", "length", "overall"), row("Sticks out of the nut", "length", "length"),
        row("Sleeve, outside, 0 without", "length", "sleeve"),
    ]  # fmt: skip
    if t.sleeve:
        rows.append(row("Both makers allow in it, rpm", "number", "sleeve_rpm"))
    rows += [
        row("Teeth", "number", "teeth"), row("Flutes wind", "choice", "spiral", SPIRALS), row("Can be plunged", "choice", "centre_cutting", YES),
        row("Made of", "choice", "body", BODIES), row("Rpm", "number", "rpm"), row("Top speed marked on it", "number", "marked_rpm"),
        row("Feed, mm/min", "number", "feed"), row("Plunge, mm/min", "number", "plunge"), row("Deepest pass", "length", "pass_depth"),
        row("Rubs under, a tooth", "length", "rub"), row("Hangs at", "words", "hangs"), row("Sharpened", "words", "sharpened"), row("Price", "number", "price"),
        PageRow((PageEntry(CHIPS, "words", chips_words(t.chips), "set tool", lambda words: {"number": t.number, "chips": chips_of(words)}),), CHIPS),
    ]  # fmt: skip
    true = (
        (act(f"Test groove of T{t.number}…", f"window groove {t.number}"),) if t.kind in ("vee", "rounded_vee") else ()
    )
    acts = (
        act(f"Feed of T{t.number}, gentle to hard…", f"window feed {t.number}"),
        *true,
        Act(f"Copy T{t.number}", "add tool", lambda plan: {"tool": another(job.tools, t, f"{t.name}, copy"[:80])}),
        act(f"Keep T{t.number} in the drawer", f"window keep_tool {t.number}"),
        act(f"Take T{t.number} away", "remove tool", number=t.number),
    )
    return Group(f"T{t.number}, {KINDS[t.kind]}", tuple(rows), acts=acts)
