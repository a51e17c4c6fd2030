# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Tools stage says: order, changes and touch-offs."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.findings import Figure, Finding, Fix, Level, Place, Report, gate_of, waiting
from gatepost.core.job.machine import Machine
from gatepost.core.job.tool import Tool
from gatepost.core.tools.forces import chip
from gatepost.core.tools.order import Order
from gatepost.core.units import mm
from gatepost.core.working import Named, working

STAGE = "tools"
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
    """What tools are judged on."""

    order: Order
    best: Order
    broken: str
    changes: tuple[Change, ...]
    used: tuple[Tool, ...]
    machine: Machine


def report(t: Tooled) -> Report:
    """Figures and findings of order, changes and the tools themselves."""
    findings = _order_findings(t)
    for change in t.changes:
        findings += _change_findings(change)
    for tool in t.used:
        findings += _tool_findings(t, tool)
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
    changes = "1 change" if t.order.changes == 1 else f"{t.order.changes} changes"
    fact = f"{changes} · {t.order.minutes:.0f} min" if t.order.names else "nothing to cut yet"
    told = Report(
        STAGE,
        fact,
        ", then ".join(t.order.names) or "nothing to cut yet",
        tuple(figures),
        tuple(findings),
        gate_of(tuple(findings)),
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
    return [
        Finding(
            "tools.order-kept",
            Level.OK,
            STAGE,
            "Surfacing first, letters before the cut-out, cut-out last; fewest minutes within that.",
        )
    ]


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
