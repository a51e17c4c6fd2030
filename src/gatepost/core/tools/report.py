# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Tools stage says: order, changes and touch-offs."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from gatepost.core.findings import Figure, Finding, Fix, Level, Place, Report, Table, gate_of, waiting
from gatepost.core.job.blank import Wood
from gatepost.core.job.machine import Machine
from gatepost.core.job.tool import Tool
from gatepost.core.tools import grip
from gatepost.core.tools.batch import batch_ways
from gatepost.core.tools.bending import bending, length_for
from gatepost.core.tools.feeds import IN_THE_AIR, slowed, thinning
from gatepost.core.tools.forces import available, chip, feed_within, taken
from gatepost.core.tools.order import Order
from gatepost.core.tools.reach import PartInWood
from gatepost.core.tools.said import STAGE, set_tool
from gatepost.core.tools.uses import ToolUse, heaviest, wall_push
from gatepost.core.units import mm
from gatepost.core.working import Named, working

BENT = 0.1  # mm that a wall may be off by the bit's bending before it is told; a shop rule
CHIP = 1e-6  # mm of chip that no cutter knows
AWAY = (
    0.5  # mm that a place to touch off at is lower by: a plate rests beside a shallow groove, and drops into a deep one
)


@dataclass(frozen=True)
class Change:
    """A change as judged. at, spots: bed XY; gone: how far the place is cut away, mm; chosen: by the operator."""

    setup: str
    before: str
    tool: Tool
    at: tuple[float, float]
    surface: str
    gone: float
    chosen: bool
    spots: tuple[tuple[float, float, float, float], ...]  # x, y in blank, x, y on the bed


@dataclass(frozen=True)
class Tooled:
    """What tools are judged on. uses: every cut; met: what shank or nut runs into, by setup and cut; boards: made alike; row: the tools of each setup's cuts, in order."""

    order: Order
    best: Order
    broken: str
    changes: tuple[Change, ...]
    used: tuple[Tool, ...]
    machine: Machine
    wood: Wood = Wood(name="elm", kind="medium")
    uses: tuple[ToolUse, ...] = ()
    met: Mapping[tuple[str, str], tuple[PartInWood, ...]] = field(default_factory=dict)
    boards: int = 1
    row: tuple[tuple[int, ...], ...] = ()


def report(t: Tooled) -> Report:
    """Figures and findings of order, changes and the tools themselves."""
    findings = _order_findings(t)
    for change in t.changes:
        findings += _change_findings(change)
    for tool in t.used:
        findings += _tool_findings(t, tool)
        findings += _held_findings(t, tool)
        findings += _cut_findings(t, tool)
    findings += _slowly(t)
    minutes = working(
        "cutting + changes * (change + touch + home)", Named("cutting", t.order.minutes - t.order.changes * t.machine.swap_minutes, "minutes"),
        Named("changes", t.order.changes, "count"), Named("change", t.machine.change_minutes, "minutes"),
        Named("touch", t.machine.touch_minutes, "minutes"), Named("home", t.machine.homed_minutes, "minutes"),
        unit="minutes", assumption="minutes of a change and a touch-off as entered for this machine; home: homed and the mark looked at twice, where isolating drops the drives", shop_rule=True,
    )  # fmt: skip
    figures = [
        Figure("All minutes", minutes.result, "minutes", minutes),
        Figure("Changes of tool", t.order.changes, "count"),
    ]
    for tool in t.used:
        f = chip(tool)
        figures.append(Figure(f"T{tool.number} chip per tooth", f.result, "length", f, places=3))
        use = heaviest(t.uses, tool.number)
        if use is not None and use.wall:
            bent = bending(tool, use.worst, use.depth)
            figures.append(Figure(f"T{tool.number} bends, at its peak push", bent.result, "length", bent))
    if t.boards > 1 and t.order.names:
        ways = batch_ways(
            t.row,
            t.order.minutes - t.order.changes * t.machine.swap_minutes,
            t.machine.swap_minutes,
            t.machine.lay_minutes,
            t.boards,
        )
        for how, minutes in (("board by board", ways.by_board), ("bit by bit", ways.by_bit)):
            figures.append(Figure(f"{t.boards} boards, {how}", minutes.result, "minutes", minutes))
    changes = "1 change" if t.order.changes == 1 else f"{t.order.changes} changes"
    fact = f"{changes} · {t.order.minutes:.0f} min" if t.order.names else "nothing to cut yet"
    told = Report(
        STAGE,
        fact,
        ", then ".join(t.order.names) or "nothing to cut yet",
        tuple(figures),
        tuple(findings),
        gate_of(tuple(findings)),
        (*_cutting_table(t), *_grip_table(t)),
    )
    return told if t.order.names else waiting(told)


def _order_findings(t: Tooled) -> list[Finding]:
    if t.broken:
        fix = Fix("set order", {"order": ()}, "Use the quickest order that keeps the rules")
        return [
            Finding("tools.order", Level.STOP, STAGE, f"The order asked for can't be kept: {t.broken}.", fixes=(fix,))
        ]
    if t.order.minutes > t.best.minutes + 1e-9:
        saved = working(
            "asked - quickest",
            Named("asked", t.order.minutes, "minutes"),
            Named("quickest", t.best.minutes, "minutes"),
            unit="minutes",
        )
        fix = Fix("set order", {"order": ()}, "Use the quickest order")
        return [
            Finding(
                "tools.slower",
                Level.NOTE,
                STAGE,
                f"This order takes {saved.result:.0f} min more than the quickest.",
                working=saved,
                fixes=(fix,),
            )
        ]
    kept = "Surfacing first, letters before the cut-out, cut-out last; fewest minutes within that."
    if not t.best.sure:
        least = "1 change" if t.best.least == 1 else f"{t.best.least} changes"
        kept += f" So many cuts are not all weighed against each other: the tools alone force {least}, and this order takes {t.order.changes}."
    return [Finding("tools.order-kept", Level.OK, STAGE, kept)]


def _change_findings(c: Change) -> list[Finding]:
    place = Place(*c.at)
    if c.surface == "bed":
        message = f"Before {c.before}, touch tool {c.tool.number} off on the spoilboard again. X and Y stay."
        return [
            Finding("tools.touch-again", Level.NOTE, STAGE, message, c.setup, place=place, about=str(c.tool.number))
        ]
    fixes = tuple(
        Fix("set touch", {"setup": c.setup, "tool": c.tool.number, "x": bx, "y": by}, f"Use {'ABC'[i]}")
        for i, (bx, by, _, _) in enumerate(c.spots)
    )
    if c.gone > 0.005:
        where = "is no longer wood" if c.gone == float("inf") else f"is {mm(c.gone)} lower now"
        message = (
            f"Before {c.before}, Z must be touched again with tool {c.tool.number}, and not there: the place {where}."
        )
        return [
            Finding(
                "tools.touch-gone",
                Level.STOP if c.chosen or c.gone > AWAY else Level.CARE,
                STAGE,
                message,
                c.setup,
                None,
                fixes,
                place,
                str(c.tool.number),
            )
        ]
    message = f"Before {c.before}, touch tool {c.tool.number} off again on wood that is still the old top. Rub the fuzz off first. X and Y stay."
    return [Finding("tools.touch-again", Level.NOTE, STAGE, message, c.setup, place=place, about=str(c.tool.number))]


def _tool_findings(t: Tooled, tool: Tool) -> list[Finding]:
    said: list[Finding] = []
    top = tool.marked_rpm or t.machine.rpm_max
    if tool.rpm > top or tool.rpm > t.machine.rpm_max or tool.rpm < t.machine.rpm_min:
        wanted = min(max(tool.rpm, t.machine.rpm_min), t.machine.rpm_max, top)
        message = f"Tool {tool.number} is set to {tool.rpm:.0f} rpm; "
        message += f"{tool.marked_rpm:.0f} is marked on it." if tool.marked_rpm and tool.rpm > tool.marked_rpm else (
            f"the spindle turns {t.machine.rpm_min:.0f} to {t.machine.rpm_max:.0f}."
        )  # fmt: skip
        fix = Fix("set tool", {"number": tool.number, "rpm": wanted}, f"Turn it at {wanted:.0f} rpm")
        said.append(Finding("tools.rpm", Level.STOP, STAGE, message, fixes=(fix,), about=str(tool.number)))
    rim = working("3.14159265 * diameter * rpm / 60000", Named("diameter", tool.diameter), Named("rpm", tool.rpm, "rpm"), unit="m/s",
                  assumption="40 m/s at the rim of an unmarked cutter", shop_rule=True)  # fmt: skip
    if not tool.marked_rpm and rim.result > 40.0 + 1e-6:
        slower = tool.rpm * 40.0 / rim.result
        fix = Fix("set tool", {"number": tool.number, "rpm": slower}, f"Turn it at {slower:.0f} rpm")
        message = f"Tool {tool.number}'s rim runs at {rim.result:.0f} m/s and no rpm is marked on it; 40 m/s at most."
        said.append(
            Finding("tools.rim-speed", Level.STOP, STAGE, message, working=rim, fixes=(fix,), about=str(tool.number))
        )
    f = chip(tool)
    if f.result < tool.rub - CHIP:
        faster = tool.rub * tool.rpm * tool.teeth
        fix = Fix("set tool", {"number": tool.number, "feed": faster}, f"Feed at {faster:.0f} mm/min")
        message = f"Tool {tool.number} takes {mm(f.result, 3)} a tooth, under the {mm(tool.rub, 3)} at which it rubs and burns."
        said.append(Finding("tools.rubs", Level.CARE, STAGE, message, working=f, fixes=(fix,), about=str(tool.number)))
    return said


def _held_findings(t: Tooled, tool: Tool) -> list[Finding]:
    """How it sits in its collet, and what of it runs into wood."""
    said = grip.told(grip.gripped(tool, t.machine.collets), t.machine.collets)
    for use in (u for u in t.uses if u.tool.number == tool.number):
        for met in t.met.get((use.setup, use.name), ()):
            said.append(_met_finding(use, met))
    return said


def _met_finding(use: ToolUse, met: PartInWood) -> Finding:
    tool = use.tool
    longer = tool.length + met.deep + 0.5
    enough = tool.overall and met.part == "nut"
    fixes = (set_tool(tool, f"Let it stick out {mm(longer)}", length=longer),) if enough else ()
    what = "The nut" if met.part == "nut" else f"The shank, {mm(tool.shank)} thick,"
    message = f"{what} of tool {tool.number} runs {mm(met.deep)} into wood that stands in {use.name}, at X {mm(met.x)}, Y {mm(met.y)} of the board."
    mend = "" if fixes else " Take a bit with longer edges, or a thinner shank."
    about = f"{tool.number} {use.name}"
    if met.part == "nut":
        return Finding("tools.nut-in-wood", Level.STOP, STAGE, message + mend, use.setup, fixes=fixes, about=about)
    return Finding("tools.shank-in-wood", Level.STOP, STAGE, message + mend, use.setup, fixes=fixes, about=about)


def _cut_findings(t: Tooled, tool: Tool) -> list[Finding]:
    """What its heaviest cut asks: bending and power."""
    said: list[Finding] = []
    use = max((u for u in t.uses if u.tool.number == tool.number and u.wall), key=lambda u: u.worst, default=None)
    if use is not None:
        said += _bends(tool, use)
    use = heaviest(tuple(u for u in t.uses if u.kind != "surface"), tool.number)  # what surfacing takes is told there
    if use is not None:
        takes, has = taken(tool, t.wood, use.step, use.depth), available(t.machine, tool.rpm)
        if takes.result > has.result:
            less = feed_within(tool, t.wood, use.step, use.depth, has.result)
            enough = less / (tool.rpm * tool.teeth) >= tool.rub  # else it would rub instead
            fixes = (set_tool(tool, f"Feed at {less:.0f} mm/min", feed=less),) if enough else ()
            message = f"Tool {tool.number} takes {takes.result:.0f} W in {use.name} and the spindle has {has.result:.0f} W at {tool.rpm:.0f} rpm.{'' if enough else ' Slower it would rub: take it in more passes.'}"
            said.append(
                Finding("tools.power", Level.CARE, STAGE, message, working=takes, fixes=fixes, about=str(tool.number))
            )
    return said


def _slowly(t: Tooled) -> list[Finding]:
    """Tools that rub at the feed with which first moves are looked at."""
    rubbing = [(tool, slowed(tool, t.machine)) for tool in t.used if chip(tool).result >= tool.rub - CHIP]
    rubbing = [(tool, rpm) for tool, rpm in rubbing if rpm]
    if not rubbing:
        return []
    slower = [
        f"T{tool.number} {rpm:.0f} rpm" if tool.feed * IN_THE_AIR / (rpm * tool.teeth) >= tool.rub - CHIP and rpm < tool.rpm else f"T{tool.number} rubs at every speed"
        for tool, rpm in rubbing
    ]  # fmt: skip
    names = " and ".join(", ".join(f"T{tool.number}" for tool, _ in rubbing).rsplit(", ", 1))
    message = f"At {IN_THE_AIR * 100:.0f} % of {'its' if len(rubbing) == 1 else 'their'} feed {names} rub{'s' if len(rubbing) == 1 else ''} in the wood: raise the feed before the first entry, or slow the spindle until then: {', '.join(slower)}."
    return [Finding("tools.rubs-slowly", Level.NOTE, STAGE, message)]


def _bends(tool: Tool, use: ToolUse) -> list[Finding]:
    """What bending leaves of a wall: the last cut's, and of what went before it what reaches through the wood that is left for it."""
    pushed = wall_push(use)
    deep = use.deep if use.left > 0.0 else use.depth
    bent, rough = bending(tool, pushed, deep), bending(tool, use.worst, use.depth)
    off = max(bent.result, rough.result - use.left if use.left > 0.0 else 0.0)
    if off <= BENT + 1e-9:
        return []
    worst = bent if off == bent.result else rough
    fixes = []
    shorter = length_for(
        tool,
        pushed if worst is bent else use.worst,
        BENT if worst is bent else BENT + use.left,
        deep if worst is bent else use.depth,
    )
    kept = tool.model_copy(update={"length": shorter})
    if (
        shorter < tool.length - 0.5
        and bending(kept, pushed, deep).result <= BENT + 1e-6
        and bending(kept, use.worst, use.depth).result <= BENT + max(use.left, 0.0) + 1e-6
    ):
        fixes.append(set_tool(tool, f"Let it stick out {mm(shorter)}", length=shorter))
    less = tool.pass_depth * (BENT + use.left) / rough.result if use.left <= 0.0 or worst is rough else 0.0
    if less > 0.2:
        fixes.append(set_tool(tool, f"Take {mm(less)} a pass", pass_depth=less))
    when = "in its last cut along the wall" if use.left > 0.0 and worst is bent else "at its peak push"
    message = (
        f"Tool {tool.number} bends {mm(worst.result, 2)} {when} in {use.name}: walls are off by {mm(off, 2)} and lean, the foot farther than the face."
        + ("" if use.left > 0.0 else " Leave some for a light last cut.")
    )
    return [
        Finding(
            "tools.bends",
            Level.CARE,
            STAGE,
            message,
            use.setup,
            working=worst,
            fixes=tuple(fixes),
            about=str(tool.number),
        )
    ]


def _cutting_table(t: Tooled) -> list[Table]:
    rows = []
    for tool in t.used:
        use = heaviest(t.uses, tool.number)
        if use is None:
            continue
        takes, has = taken(tool, t.wood, use.step, use.depth).result, available(t.machine, tool.rpm).result
        rim = math.pi * tool.diameter * tool.rpm / 60_000.0
        thickest = chip(tool).result * thinning(use.step / tool.diameter)
        rows.append((f"T{tool.number}", mm(thickest, 3), f"{takes:.0f} of {has:.0f}", f"{use.worst:.0f}", f"{rim:.1f}"))
    head = ("Tool", "Thickest chip", "Power, W", "Push, N", "Rim, m/s")
    return [("Heaviest cuts (shop rules, good to a factor of two)", (head, *rows))] if rows else []


def _grip_table(t: Tooled) -> list[Table]:
    rows = []
    for tool in t.used:
        g = grip.gripped(tool, t.machine.collets)
        shank = mm(tool.shank, 2) + ("" if g.collet is not None else ", no collet")
        share = (
            f"{mm(min(max(g.inside, 0.0), g.collet.grip))} of {mm(g.collet.grip)}"
            if g.inside is not None and g.collet is not None
            else "not measured"
        )
        torque = f"{g.collet.torque:g} N·m" if g.collet is not None and g.collet.torque else "its maker's"
        rows.append((f"T{tool.number}", shank, share, mm(tool.length), torque))
    head = ("Tool", "Shank", "Gripped", "Out", "Nut")
    return [("In the collet", (head, *rows))] if rows else []
