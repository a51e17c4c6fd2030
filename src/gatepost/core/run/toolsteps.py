# SPDX-License-Identifier: GPL-3.0-or-later
"""The steps about a tool: fitted, looked at, the zeros found with it, what was laid under it away again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from gatepost.core.acts import AGAIN, EYES, HANDS, ISOLATE
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Setup
from gatepost.core.job.tool import Tool
from gatepost.core.run.step import MarkToRead, Step, TouchOff, isolating
from gatepost.core.units import mm


def with_tool(
    setup: Setup, machine: Machine, tool: Tool, touch: TouchOff, mark: tuple[float, float], first: bool, anew: bool,
    witness: tuple[float, float] | None, kept_from: str = "", marks: Sequence[MarkToRead] = (), edge: str = "", looks: Sequence[MarkToRead] = (), looked: str = "",
) -> list[Step]:  # fmt: skip
    """A tool fitted, and touched off. first: of the setup, where the machine is switched on and X0 Y0 is set; anew: whether the board
    was laid down anew; witness: a mark on the bed to look at later; kept_from: the setup by whose zero X0 and Y0 are set, where they are not touched; marks: of the piece that are read, by which it is
    found; edge: a known one that it lies against; looks: marks that are looked at before wood is cut; looked: what comes of taking them."""
    name = setup.name
    by_sensor = setup.zero.later == "sensor" and machine.sensor is not None
    touched = not by_sensor or first
    drops = machine.isolating_drops
    seen = mark if first or witness is None else witness  # once wood is cut, X0 Y0 itself may be gone
    out = [] if first else [isolating(name, f"fit-{tool.number}")]
    out += fitting(name, tool, first=first)
    if first:
        out += [
            *(_left_on(name, kept_from, drops) if kept_from else _switched_on(name, machine)),
            Step("warm", name, "warm", "Warm the spindle up in the air.", _warming(machine), EYES),
            Step("jog", name, "jog", "A short jog each way: does each axis move the way it should?",
                 "X first, 10 mm to the left and back, then to the right and back; then Y to the front, and to the back; then Z down, and up. Watch the axis, not the screen: it went the other way, or not at all? "
                 "Stop. From both sides it comes back over the same place, or it has play.", HANDS),
            *([_square(setup)] if setup.zero.square != "no" and not setup.skew and anew and not (kept_from or marks or edge) else []),
            *([_kept(setup, mark, kept_from)] if kept_from else _found(setup, mark, marks) if marks else [_known(setup, mark, edge) if edge else _across(setup, mark)]),
        ]  # fmt: skip
    elif drops:
        out.append(_homed_after(name, f"home-{tool.number}"))
        out.append(_mark(name, f"mark-{tool.number}", seen, seen == mark))
    if touched:
        out += touching(setup, tool, touch, drops, seen, seen == mark)
    if by_sensor:
        out.append(_sensing(name, tool, first))
    out.append(
        Step(f"look-{tool.number}", name, "look", "Look over the bed: nothing on the board, only what is drawn stands there.",
             "No tool, no clamp left over, no hands. Shoe set level with the tip, extraction on.", HANDS)
    )  # fmt: skip
    if first:
        out.append(
            _noted(setup, witness or mark, kept_from or edge) if kept_from or edge else _proof(setup, mark, witness)
        )
        out += _looking(name, looks, looked)
    return out


def _looking(name: str, looks: Sequence[MarkToRead], looked: str) -> list[Step]:
    """The tip brought over marks in turn, and what was seen taken."""
    out = []
    for m in looks:
        over = f"the edge at {m.name}" if m.edge else m.name
        out.append(Step(f"over-{m.id}-mark", name, "over", f"Go over {over} at a lift and look: does the tip stand over it?",
                        "Spindle off. Type 0 where it stands over it. Of a hole its middle, from two sides.", HANDS, "it should be at", m.x, place=(m.x, m.y), reads=MISS,
                        pair=(m.x, m.y)))  # fmt: skip
    return [*out, taking(name, "take-looks", "the looks", looked)] if looks else []


def taking(name: str, key: str, what: str, told: str = "") -> Step:
    """What was seen taken: X0 Y0 follows where it misses. told: what comes of it, once all was seen."""
    return Step(key, name, "take", f"Take {what}: where they miss, X0 Y0 follows them.",
                f"{told or 'Where all lie as they should nothing is changed; else the programs are turned.'} To lay the piece anew instead, say under What happened that it was clamped again.", HANDS)  # fmt: skip


def _switched_on(name: str, machine: Machine) -> list[Step]:
    return [
        Step("power", name, "tick", f"Switch on, in order: {', '.join(machine.power_on)}.",
             "In the order that its maker gives.", f"{AGAIN} {HANDS}"),
        Step("home", name, "home", "Home the machine.", "Is the way to the switches clear of wood and holds?", HANDS),
    ]  # fmt: skip


def _left_on(name: str, before: str, drops: bool) -> list[Step]:
    """Where the zeros hang on the machine's own count since the setup before."""
    words = f"Has the machine stood switched on since {before}? X0 and Y0 hang on its count."
    return [
        Step("stayed", name, "tick", words, "If it was off, or lost its place, say so under What happened: it is homed then, and X0 Y0 is no surer than that.", AGAIN),
        *([_homed_after(name, "home")] if drops else []),
    ]  # fmt: skip


def once_more(step: Step, time: int) -> Step:
    """A step about a tool as it is called the first, second … time that the tool is fitted in a setup."""
    stem, _, number = step.key.rpartition("-")
    return step if time == 1 else replace(step, key=f"{stem}-time{time}-{number}")


def _homed_after(name: str, key: str) -> Step:
    """Homed after isolating, where that drops the drives."""
    return Step(
        key,
        name,
        "home",
        "Home again: isolating has dropped the drives.",
        "Is the way to the switches clear of wood and holds?",
        HANDS,
    )


def _mark(name: str, key: str, place: tuple[float, float], zero: bool) -> Step:
    """A look that the machine counts as it did. zero: over X0 Y0, else over the witness mark."""
    over = "the X0 Y0 mark" if zero else "the witness mark"
    return Step(key, name, "witness", f"Go over {over} at a lift and look: does the tip stand over it?", "Spindle off. A miss says that its place is not what it was.",
                HANDS, "mark on the bed, X", place[0], place=place, reads=MISS)  # fmt: skip


MISS = ("the mark lies right of the tip by", "and back of it by")


def _proof(setup: Setup, mark: tuple[float, float], witness: tuple[float, float] | None) -> Step:
    """Before wood: over the zero at a lift, and over the mark that is looked at later."""
    other = witness is not None and witness != mark
    more = " Then go over the witness mark, and note how it lies." if other else ""
    reads = MISS + (("the witness mark, right", "and back") if other else ())
    return Step("proof", setup.name, "witness", f"Go over X0 Y0 at a lift and look: does the tip stand where it should?{more}",
                "Spindle off. Type 0 where it stands over it.", HANDS, "X0 Y0 on the bed, X", mark[0], place=mark, reads=reads)  # fmt: skip


def _noted(setup: Setup, place: tuple[float, float], before: str) -> Step:
    """Before wood, where X0 Y0 follows from the setup before: what was cut then is looked at, and how the witness mark lies is noted."""
    return Step("note", setup.name, "note", f"Go over what was cut in {before} at a lift and look; then over the witness mark, and note how it lies.",
                "Spindle off. Over a pin, a hole, a corner of the frame: does the tip stand where it should? If not, stop here. The witness mark lies as it lies.", HANDS,
                "witness mark, X", place[0], place=place, reads=MISS)  # fmt: skip


def fitting(name: str, tool: Tool, first: bool) -> list[Step]:
    """A tool into the collet, and looked at."""
    lead = "Fit" if first else "Change to"
    detail = (
        f"Shank right through the collet, {mm(tool.length, 2)} out of the nut; nut to the maker's torque, spanners off."
    )
    return [
        Step(f"fit-{tool.number}", name, "fit", f"{lead} tool {tool.number}, {tool.name}.", detail, ISOLATE,
             "out of the nut", tool.length, "length", tool.number, reach=True),
        Step(f"bit-{tool.number}", name, "tick", f"Is it the right bit? {_seen(tool)}", "By what can be seen and measured, not by where it was kept.", ISOLATE,
             "diameter", tool.diameter, "length", tool.number, reach=True),
        Step(f"spanners-{tool.number}", name, "look", "Spanners off the nut? Turn the spindle by hand.",
             "Nothing may foul. Hang the spanners where they live.", ISOLATE, reach=True),
    ]  # fmt: skip


def _seen(tool: Tool) -> str:
    """What a bit is known by."""
    kind = {
        "vee": f"a V of {tool.angle:g}°",
        "rounded_vee": f"a V of {tool.angle:g}°, its tip rounded by {mm(tool.radius, 2)}",
        "tapered_ball": f"a ball of {mm(tool.radius, 2)} radius on a taper",
        "bull": f"a flat end with corners rounded by {mm(tool.radius, 2)}",
        "ball": "a ball end",
        "surfacing": "a surfacing cutter",
        "drill": "a drill",
    }.get(tool.kind, "a flat end")
    return f"{mm(tool.diameter, 2)} across, {kind}, {tool.teeth} cutting edge{'s' if tool.teeth != 1 else ''}, {mm(tool.shank, 2)} shank."


def _across(setup: Setup, mark: tuple[float, float]) -> Step:
    """X0 and Y0, by the way that was chosen."""
    zero, name = setup.zero, setup.name
    figure = ("mark on the bed, X", mark[0])
    if zero.xy_way == "pointer":
        return Step("zero-xy", name, "zero xy", "Bring the tip over the X0 Y0 mark and set both.",
                    "By eye over the mark; turn the cutter by hand so that a flute points at it.", HANDS, *figure, place=mark,
                    reads=("X on the machine", "Y on the machine"))  # fmt: skip
    with_ = {"pin": f"a smooth pin of {mm(zero.pin, 2)}", "cutter": "the cutter itself, a flute turned outermost by hand",
             "corner plate": f"the corner plate, a parallel pin of {mm(zero.pin, 2)} in the collet"}[zero.xy_way]  # fmt: skip
    if zero.xy in ("centre", "outline middle"):
        return Step("zero-xy", name, "zero xy", f"Touch both pairs of opposite edges with {with_}.",
                    "The middle between two contacts is the zero, whatever the diameter.", HANDS, *figure, place=mark,
                    reads=("X at the left edge", "X at the right edge", "Y at the front edge", "Y at the back edge"))  # fmt: skip
    more = " With the plate only a parallel pin; Z again with the real tool." if zero.xy_way == "corner plate" else ""
    return Step("zero-xy", name, "zero xy", f"Touch the two edges at the {zero.xy} corner with {with_}.",
                "Half the diameter lies between contact and edge: it is added for you." + more, HANDS, *figure, place=mark,
                reads=("X at contact", "X once more", "Y at contact", "Y once more"))  # fmt: skip


def _kept(setup: Setup, mark: tuple[float, float], before: str) -> Step:
    """X0 and Y0 by where they were in the setup before: the work lies where it is found, so that nothing is touched."""
    return Step("zero-xy", setup.name, "zero kept", f"X0 and Y0 are set by those of {before}.",
                "Nothing is touched: the machine still counts as it did, and the board lies where it was meant to. Look at the mark after it.", HANDS,
                "mark on the bed, X", mark[0], place=mark)  # fmt: skip


def _found(setup: Setup, mark: tuple[float, float], marks: Sequence[MarkToRead]) -> list[Step]:
    """Marks of the piece read one after another, and X0 Y0 set by where it lies."""
    name = setup.name
    reads = ("X on the machine", "Y on the machine")
    out = []
    for m in marks:
        how = (
            f"Bring a pin of {mm(m.pin, 2)} against {m.name} and read X and Y."
            if m.edge
            else f"Bring the tip over {m.name} and read X and Y."
        )
        more = (
            "Square to the edge, twice, no harder than it takes. The pin's radius is taken off for you."
            if m.edge
            else "By eye, from two sides; of a hole its middle, not its rim."
        )
        if m.hole:
            how = f"Put a pin of {mm(m.pin, 2)} into {m.name} and touch its wall on all four sides."
            more = "Over it by eye first, then down into it. Its middle is half way between, whatever the pin."
        walls = ("X at its left wall", "X at its right wall", "Y at its front wall", "Y at its back wall")
        out.append(Step(f"read-{m.id}-mark", name, "mark", how, f"{more} The spindle stands.", HANDS, "it is meant to be at", m.x, place=(m.x, m.y), reads=walls if m.hole else reads,
                        pair=(m.x, m.y)))  # fmt: skip
    return [*out, Step("zero-xy", name, "zero found", "Set X0 and Y0 by the marks.", "The programs are turned to lie as the piece does. Nothing is set where the marks do not fit.", HANDS,
                       "mark on the bed, X", mark[0], place=mark)]  # fmt: skip


def _known(setup: Setup, mark: tuple[float, float], edge: str) -> Step:
    """X0 and Y0 by the machine's own count: the work lies against an edge that it knows."""
    return Step("zero-xy", setup.name, "zero known", f"X0 and Y0 are set by {edge}: the board lies against it and its stop.",
                "Nothing is touched. Press it home; no chip between. It is as sure as the machine was homed.", HANDS, "mark on the bed, X", mark[0], place=mark)  # fmt: skip


def _square(setup: Setup) -> Step:
    """The board laid square, by its edge or by a line ruled along it."""
    zero, name = setup.zero, setup.name
    more = "Where the two differ: isolate, loosen what holds it, push its far end by what is told, hold it again, and do both once more."
    if zero.square == "line":
        return Step("square", name, "square", "Look at the ruled line near its left end, then near its right: does the tip stand over it?",
                    more, HANDS, reads=("Y over the line, left", "Y over the line, right"))  # fmt: skip
    with_ = f"a smooth pin of {mm(zero.pin, 2)}" if zero.xy_way != "cutter" else "the cutter itself"
    return Step("square", name, "square", f"Touch the board's long edge near both its ends with {with_}.",
                more, HANDS, reads=("contact near one end", "contact near the other end"))  # fmt: skip


def _sensing(name: str, tool: Tool, first: bool) -> Step:
    """The fixed sensor, with the first tool or with one fitted later."""
    detail = (
        "How it stands by this tool is noted: later tools take Z0 by the difference."
        if first
        else "Z0 follows by the difference to the first tool; X and Y stay."
    )
    return Step(f"sense-{tool.number}", name, "sensor", f"Touch the fixed sensor with tool {tool.number}.",
                detail + " Wipe sensor and tip first; spindle off.", HANDS, tool=tool.number, reads=("Z at contact on the sensor",))  # fmt: skip


def touching(
    setup: Setup, tool: Tool, touch: TouchOff, drops: bool, mark: tuple[float, float], at_zero: bool
) -> list[Step]:
    """Z0 touched. mark: what is looked at where isolating drops the drives; at_zero: whether that is X0 Y0."""
    zero, n, name = setup.zero, tool.number, setup.name
    under = "on the board" if touch.surface == "top" else "on the spoilboard"
    gauge = {"plate": "the plate", "corner plate": "the corner plate"}.get(zero.gauge, "a paper strip")
    prove = [] if zero.gauge == "paper" else [
        Step(f"prove-{n}", name, "look", "Prove the circuit by hand: touch clip and plate together.",
             "It must be open apart, and close when they touch. The clip wants bare metal. Spindle off and isolated.", ISOLATE, reach=True)
    ]  # fmt: skip
    homed = [_homed_after(name, f"home-plate-{n}"), _mark(name, f"mark-plate-{n}", mark, at_zero)] if drops else []
    what = gauge.removeprefix("a ").removeprefix("the ")
    away = (
        "Lift clear, then pull plate and clip away by their lead, hands never under the bit."
        if drops
        else f"Lift clear, then take clip and {what} away."
    )
    return [
        isolating(name, f"plate-{n}"),
        *prove,
        Step(f"lay-{n}", name, "tick", f"Lay {gauge} {under} at the mark, under the tip.", "Brush chips and fuzz away first: a chip under it is a height error.", ISOLATE,
             what, zero.gauge_thickness, "length", n, place=(touch.x, touch.y), reach=True),
        *homed,
        Step(f"touch-{n}", name, "zero z", "Touch off Z, twice.",
             "Spindle off. Hands away from the tip while it comes down.", HANDS,
             what, zero.gauge_thickness, "length", n, place=(touch.x, touch.y),
             reads=("Z at contact, on the machine", "Z at contact, once more")),
        *([] if drops else [isolating(name, f"away-{n}")]),
        Step(f"away-{n}", name, "tick", away, "Nothing lies on the board or hangs from the cutter.", "" if drops else ISOLATE, tool=n, reach=not drops),
    ]  # fmt: skip


def _warming(machine: Machine) -> str:
    """How a spindle is run warm, speed by speed; where it is set by hand, by its dial."""
    speeds = "; ".join(f"{w.rpm:.0f} rpm for {w.minutes:g} min" for w in machine.warm)
    asked = f"{speeds}." if speeds else f"At {machine.rpm_min:.0f} rpm."
    dial = (
        " Hold what its dial or its drive shows against a tachometer once: what is set is not always what turns."
        if machine.spindle == "hand"
        else ""
    )
    return f"{asked} Nothing near the cutter. Listen: a bearing that rattles or runs hot is no matter of warming.{dial}"
