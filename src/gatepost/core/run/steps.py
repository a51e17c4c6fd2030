# SPDX-License-Identifier: GPL-3.0-or-later
"""The steps at the machine, in order, with what each shows, warns of and leaves in the journal."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from gatepost.core.acts import AGAIN, DUST, EYES, FREEING, GUARDS, HANDS, ISOLATE, LIFTING, SMOKE, STAY
from gatepost.core.job.journal import Journal
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Setup
from gatepost.core.job.tool import Tool
from gatepost.core.job.turning import FACES, FLAT, OPPOSITE, SIDES, Lay, about, lies
from gatepost.core.units import mm

StepKind = Literal[
    "tick",
    "fit",
    "home",
    "warm",
    "zero xy",
    "zero z",
    "run",
    "measure",
    "jog",
    "again",
    "witness",
    "look",
    "sensor",
    "square",
    "rock",
    "depth",
]


@dataclass(frozen=True)
class Step:
    """One step. figure: its one number; unit: of what kind; reads: what is typed where the operator's own control is used;
    moves: whether an axis or the spindle moves; fingerprint: of the program that is run, or was
    before it, where the step is looked at again after each run; reach: whether hands go under the spindle, which stands and is isolated
    then."""

    key: str
    setup: str
    kind: StepKind
    title: str
    detail: str
    caution: str = ""
    label: str = ""
    figure: float | None = None
    unit: str = "length"
    tool: int | None = None
    program: str = ""
    place: tuple[float, float] | None = None
    reads: tuple[str, ...] = ()
    fingerprint: str = ""
    reach: bool = False

    @property
    def guard(self) -> str:
        """Which guard of hands and work it is, or nothing."""
        first = self.key.partition("-")[0]
        return first if first in GUARDS else ""

    @property
    def moves(self) -> bool:
        """Whether it moves an axis or starts the spindle."""
        return self.kind in ("home", "warm", "zero xy", "zero z", "run", "jog", "again", "witness", "sensor", "square")


@dataclass(frozen=True)
class TouchOff:
    """Where a tool touches off: bed XY, surface, and the height of that surface above the spoilboard."""

    tool: int
    x: float
    y: float
    surface: str
    height: float


@dataclass(frozen=True)
class Depth:
    """Where it is measured how deep a tool cut. x, y: on the board, bed: the same on the bed; planned: depth under the top about it, or
    with thick what is left over the underside; near: how far about it the deepest place is looked for; allowed: by which it may differ."""

    tool: int
    x: float
    y: float
    bed: tuple[float, float]
    planned: float
    thick: bool
    near: float
    allowed: float


@dataclass(frozen=True)
class ProgramLoad:
    """A program to run: its name, tool, what it does, minutes, fingerprint."""

    name: str
    tool: int
    operations: str
    minutes: float
    fingerprint: str = ""


def steps_of(
    setup: Setup,
    machine: Machine,
    tools: dict[int, Tool],
    loads: list[ProgramLoad],
    touches: dict[int, TouchOff],
    mark: tuple[float, float],
    corner: tuple[float, float],
    shims: tuple[tuple[float, float, float], ...] = (),
    before: Lay = FLAT,
    onto_cut: bool = True,
    laid: str = "",
    held_by: str = "",
    careful: bool = False,
    flattens: bool = False,
    witness: tuple[float, float] | None = None,
    settings: Sequence[Step] = (),
    laid_anew: bool = True,
    depths: Sequence[Depth] = (),
) -> list[Step]:
    """All steps of a setup. settings: its holds, each set. mark: X0 Y0, corner: lower left of the board, on the bed; shims: x, y in blank coordinates and height of each; before: how
    the board lay until then; laid: what is done with it, where it is not laid down again, with {where} for its place; onto_cut: whether the face that it comes to lie on was made flat; held_by: how many holds of each kind, in words;
    flattens: whether all that is done is to make the face flat;
    laid_anew: whether the board is not left where it lay;
    depths: where it is measured how deep each tool cut;
    careful: whether what can't be replaced is checked again after each run; witness: a mark on the bed to look at."""
    name = setup.name
    out = [_isolate(name, "lay"), *_laying(setup, corner, shims, before, onto_cut, held_by, settings, laid)]
    fitted: int | None = None
    for at, load in enumerate(loads):
        tool = tools[load.tool]
        if load.tool != fitted:
            out += _with_tool(setup, machine, tool, touches[load.tool], mark, fitted is None, laid_anew, witness)
        out.append(_running(name, load, machine, tool))
        if at == 0:
            out += [
                replace(_isolate(name, "rock"), fingerprint=load.fingerprint),
                Step("rock-again", name, "rock", "Press on each corner again: does it still stand still?",
                     "Lifted and parked, spindle standing and isolated. What rocks now has let go of stress, of a shim, or of a hold.", ISOLATE,
                     fingerprint=load.fingerprint, reach=True),
            ]  # fmt: skip
        fitted = load.tool
        if careful:
            out.append(
                Step(f"again-{load.name}", name, "again", "Touch off again with the same bit: has it slipped, has the board moved?",
                     "Spindle standing and isolated. Brush the place clean first.", HANDS, tool=load.tool, fingerprint=load.fingerprint)
            )  # fmt: skip
    last = loads[-1].fingerprint if loads else ""
    return out + [
        replace(s, fingerprint=last) for s in _afterwards(setup, bool(loads), careful, flattens, witness, depths)
    ]


def _isolate(name: str, before: str) -> Step:
    """The spindle isolated, before hands go under it."""
    why = {
        "lay": "before the board is laid and held", "rock": "before the board is pressed on", "clear": "before the part is freed",
    }.get(before, "before the bit is touched")  # fmt: skip
    return Step(f"isolate-{before}", name, "tick", f"Isolate the spindle, {why}.", "Any motion, spindle start or power after it undoes it: it is asked again then.",
                ISOLATE)  # fmt: skip


LAID = "Lay the board with its corner at {where}."


def _laying(
    setup: Setup,
    corner: tuple[float, float],
    shims: tuple[tuple[float, float, float], ...],
    before: Lay,
    onto_cut: bool,
    held_by: str,
    settings: Sequence[Step],
    laid: str,
) -> list[Step]:
    """Until the board lies and is held."""
    name = setup.name
    kinds = held_by or "no holds"
    where = f"X {mm(corner[0])}, Y {mm(corner[1])} on the bed"
    out = [
        Step("hold", name, "tick", (laid or LAID).format(where=where),
             f"Then {kinds}, as drawn. No bit in the spindle yet: hands work under it. A board that rocks is shimmed, never pulled flat.",
             LIFTING, "its corner, X", corner[0], reach=True),
        Step("rock", name, "rock", "Press on each corner in turn. Does it rock?", "Before anything holds it: a board that rocks is shimmed, never pulled flat.",
             ISOLATE, reach=True),
        *settings,
    ]  # fmt: skip
    if shims:
        put = "; ".join(f"{mm(h)} at X {mm(x + setup.x)}, Y {mm(y + setup.y)}" for x, y, h in shims)
        out.insert(
            0,
            Step("shims", name, "tick", f"Set the shims on the bed: {put}.",
                 "Wedges in opposed pairs, no steeper than 1 in 8, tapped. Nothing may push outside their ring.", ISOLATE, reach=True),
        )  # fmt: skip
    if before != lies(setup):
        out.insert(0, _turning(setup, before, onto_cut))
    return out


def _turning(setup: Setup, before: Lay, onto_cut: bool) -> Step:
    """The board turned over, stood on another face, or turned on its plane."""
    now = lies(setup)
    turn, detail = (
        about(before, now),
        "Let it rest first. Brush bed and face clean: a chip under it tilts the whole face.",
    )
    if turn and {before.up, now.up} == {"front", "back"}:
        onto = "its other cut face" if setup.up == "front" else "its cut face"
        if not onto_cut:
            onto = "its back" if setup.up == "front" else "its front"
        rest = "front up" if setup.up == "front" else "no shims" if onto_cut else "the carving down"
        edge = "front edge to the back" if turn == "about X" else "left end to the right"
        title = f"Turn the board over {turn}, {edge}, onto {onto}, {rest}."
    else:
        towards, right = (FACES[f] for f in now.beside)
        verb = "Stand" if now.up in SIDES else "Lay"
        title = f"{verb} the board on its {FACES[OPPOSITE[now.up]]}: {FACES[now.up]} up, {towards} towards you, {right} to the right."
        if now.up in SIDES:
            detail = "It stands narrow: set what holds it before you let go. Brush bed and face clean: a chip under it tilts it all."
    return Step("turn", setup.name, "tick", title, detail, LIFTING, reach=True)


def _with_tool(
    setup: Setup, machine: Machine, tool: Tool, touch: TouchOff, mark: tuple[float, float], first: bool, anew: bool,
    witness: tuple[float, float] | None,
) -> list[Step]:  # fmt: skip
    """A tool fitted, and touched off. first: of the setup, where the machine is switched on and X0 Y0 is set; anew: whether the board
    was laid down anew; witness: a mark on the bed to look at later."""
    name = setup.name
    by_sensor = setup.zero.later == "sensor" and machine.sensor is not None
    touched = not by_sensor or first
    drops = machine.isolating_drops
    out = [] if first else [_isolate(name, f"fit-{tool.number}")]
    out += _fitting(name, tool, first=first)
    if first:
        out += [
            Step("power", name, "tick", f"Switch on, in order: {', '.join(machine.power_on)}.",
                 "In the order that its maker gives.", f"{AGAIN} {HANDS}"),
            Step("home", name, "home", "Home the machine.", "Is the way to the switches clear of wood and holds?", HANDS),
            Step("warm", name, "warm", "Warm the spindle up in the air.", "Steps up to speed, nothing near the cutter.", EYES),
            Step("jog", name, "jog", "A short jog each way: does each axis move the way it should?",
                 "Watch the axis, not the screen. From both sides it comes back over the same place, or it has play. Nothing near the cutter.", HANDS),
            *([_square(setup)] if setup.zero.square != "no" and not setup.skew and anew else []),
            _across(setup, mark),
        ]  # fmt: skip
    elif drops:
        out.append(_homed_after(name, f"home-{tool.number}"))
        out.append(_mark(name, f"mark-{tool.number}", mark))
    if touched:
        out += _touching(setup, tool, touch, drops, mark)
    if by_sensor:
        out.append(_sensing(name, tool, first))
    out.append(
        Step(f"look-{tool.number}", name, "look", "Look over the bed: nothing on the board, only what is drawn stands there.",
             "No tool, no clamp left over, no hands. Shoe set level with the tip, extraction on.", HANDS)
    )  # fmt: skip
    if first:
        out.append(_proof(setup, mark, witness))
    return out


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


def _mark(name: str, key: str, place: tuple[float, float]) -> Step:
    return Step(key, name, "witness", "Go over the X0 Y0 mark at a lift and look: does the tip stand over it?", "Spindle off. A miss says that its place is not what it was.",
                HANDS, "mark on the bed, X", place[0], place=place, reads=MISS)  # fmt: skip


MISS = ("the mark lies right of the tip by", "and back of it by")


def _proof(setup: Setup, mark: tuple[float, float], witness: tuple[float, float] | None) -> Step:
    """Before wood: over the zero at a lift, and over the mark that is looked at later."""
    other = witness is not None and witness != mark
    more = ", then over the witness mark: how it lies is noted" if other else ""
    reads = MISS + (("the witness mark, right", "and back") if other else ())
    return Step("proof", setup.name, "witness", f"Go over X0 Y0 at a lift and look: does the tip stand where it should{more}?",
                "Spindle off. Type 0 where it stands over it.", HANDS, "X0 Y0 on the bed, X", mark[0], place=mark, reads=reads)  # fmt: skip


def _running(name: str, load: ProgramLoad, machine: Machine, tool: Tool) -> Step:
    return Step(f"run-{load.name}", name, "run", f"Run {load.name}: {load.operations}.",
                "First moves in the air, slowly, with a hand at the red button. Extraction on, shoe set." + by_dial(machine, tool.rpm), f"{STAY} {EYES} {DUST} {SMOKE}",
                "minutes planned", load.minutes, "minutes", load.tool, load.name, fingerprint=load.fingerprint)  # fmt: skip


def _afterwards(
    setup: Setup, ran: bool, careful: bool, flattens: bool, witness: tuple[float, float] | None, depths: Sequence[Depth]
) -> list[Step]:
    """What is looked at when all has run, and the board taken off."""
    name = setup.name
    out: list[Step] = []
    if careful and ran:
        out.append(Step("home-again", name, "home", "Home again: does the machine still count as it did?",
                        "A miss says that steps were lost since it was homed.", HANDS))  # fmt: skip
    if witness is not None and ran:
        out.append(
            Step("witness", name, "witness", "Go to the witness mark and look: does the tip stand over it?",
                 "A miss says that the board has moved, or that steps were lost.", HANDS, "witness mark, X", witness[0], place=witness, reads=MISS)
        )  # fmt: skip
    if ran:
        out.append(_isolate(name, "clear"))
    for d in depths if ran else ():
        out.append(
            Step(f"depth-{d.tool}", name, "depth", f"Measure how {'thick it is' if d.thick else 'deep'} at X {mm(d.x)}, Y {mm(d.y)} on the board, where tool {d.tool} cut.",
                 "Calipers." if d.thick else "A depth gauge across the groove, in its deepest place.", ISOLATE, "planned", d.planned, "length", d.tool,
                 place=d.bed, reads=("it measures",), reach=True)
        )  # fmt: skip
    if flattens and setup.up != "front":
        out.append(
            Step("measure", name, "measure", "Measure the thickness at the four corners.",
                 "Calipers on both cut faces: front left, front right, back right, back left.", reach=ran)
        )  # fmt: skip
    out.append(
        Step("clear", name, "tick", "Lift, park, spindle stopped and isolated; bit out, then free the part over its waste.",
             "Clean up by suction, not air.", f"{ISOLATE} {FREEING}", reach=ran)
    )  # fmt: skip
    return out


def by_dial(machine: Machine, rpm: float) -> str:
    """Where a spindle that is set by hand is set to; nothing where the program sets it.

    rpm = 120 · Hz / poles, less slip, where the drive shows Hz.
    """
    if machine.spindle != "hand":
        return ""
    if machine.dial:
        marks = sorted(machine.dial, key=lambda d: d.rpm)
        low = max((d for d in marks if d.rpm <= rpm + 1e-9), key=lambda d: d.rpm, default=marks[0])
        high = min((d for d in marks if d.rpm >= rpm - 1e-9), key=lambda d: d.rpm, default=marks[-1])
        between = low.mark if low is high else f"{low.mark} and {high.mark}"
        return f" Set the spindle to {rpm:.0f} rpm by hand: dial at {between}{'' if low is high else ', between them'}."
    hz = rpm * machine.poles / 120.0 / (1.0 - machine.slip / 100.0)
    return f" Set the spindle to {rpm:.0f} rpm by hand: {hz:.0f} Hz on its drive."


def _fitting(name: str, tool: Tool, first: bool) -> list[Step]:
    lead = "Fit" if first else "Change to"
    detail = (
        f"Shank right through the collet, {mm(tool.length)} out of the nut; nut to the maker's torque, spanners off."
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
        "ball": "a ball end",
        "surfacing": "a surfacing cutter",
        "drill": "a drill",
    }.get(tool.kind, "a flat end")
    return f"{mm(tool.diameter)} across, {kind}, {tool.teeth} cutting edge{'s' if tool.teeth != 1 else ''}, {mm(tool.shank)} shank."


def _across(setup: Setup, mark: tuple[float, float]) -> Step:
    """X0 and Y0, by the way that was chosen."""
    zero, name = setup.zero, setup.name
    figure = ("mark on the bed, X", mark[0])
    if zero.xy_way == "pointer":
        return Step("zero-xy", name, "zero xy", "Bring the tip over the X0 Y0 mark and set both.",
                    "By eye over the mark; turn the cutter by hand so that a flute points at it.", HANDS, *figure, place=mark,
                    reads=("X on the machine", "Y on the machine"))  # fmt: skip
    with_ = {"pin": f"a smooth pin of {mm(zero.pin)}", "cutter": "the cutter itself, a flute turned outermost by hand",
             "corner plate": f"the corner plate, a parallel pin of {mm(zero.pin)} in the collet"}[zero.xy_way]  # fmt: skip
    if zero.xy in ("centre", "outline middle"):
        return Step("zero-xy", name, "zero xy", f"Touch both pairs of opposite edges with {with_}.",
                    "The middle between two contacts is the zero, whatever the diameter.", HANDS, *figure, place=mark,
                    reads=("X at the left edge", "X at the right edge", "Y at the front edge", "Y at the back edge"))  # fmt: skip
    more = " With the plate only a parallel pin; Z again with the real tool." if zero.xy_way == "corner plate" else ""
    return Step("zero-xy", name, "zero xy", f"Touch the two edges at the {zero.xy} corner with {with_}.",
                "Half the diameter lies between contact and edge: it is added for you." + more, HANDS, *figure, place=mark,
                reads=("X at contact", "X once more", "Y at contact", "Y once more"))  # fmt: skip


def _square(setup: Setup) -> Step:
    """The board laid square, by its edge or by a line ruled along it."""
    zero, name = setup.zero, setup.name
    more = "Where the two differ, loosen what holds it, push its far end by what is told, hold it again, and do both once more."
    if zero.square == "line":
        return Step("square", name, "square", "Look at the ruled line near its left end, then near its right: does the tip stand over it?",
                    more, HANDS, reads=("Y over the line, left", "Y over the line, right"))  # fmt: skip
    with_ = f"a smooth pin of {mm(zero.pin)}" if zero.xy_way != "cutter" else "the cutter itself"
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


def _touching(setup: Setup, tool: Tool, touch: TouchOff, drops: bool, mark: tuple[float, float]) -> list[Step]:
    zero, n, name = setup.zero, tool.number, setup.name
    under = "on the board" if touch.surface == "top" else "on the spoilboard"
    gauge = {"plate": "the plate", "corner plate": "the corner plate"}.get(zero.gauge, "a paper strip")
    prove = [] if zero.gauge == "paper" else [
        Step(f"prove-{n}", name, "look", "Prove the circuit by hand: touch clip and plate together.",
             "It must be open apart, and close when they touch. The clip wants bare metal. Spindle off and isolated.", ISOLATE, reach=True)
    ]  # fmt: skip
    homed = [_homed_after(name, f"home-plate-{n}"), _mark(name, f"mark-plate-{n}", mark)] if drops else []
    what = gauge.removeprefix("a ").removeprefix("the ")
    away = (
        "Lift clear, then pull plate and clip away by their lead, hands never under the bit."
        if drops
        else f"Lift clear, then take clip and {what} away."
    )
    return [
        _isolate(name, f"plate-{n}"),
        *prove,
        Step(f"lay-{n}", name, "tick", f"Lay {gauge} {under} at the mark, under the tip.", "Brush chips and fuzz away first: a chip under it is a height error.", ISOLATE,
             what, zero.gauge_thickness, "length", n, place=(touch.x, touch.y), reach=True),
        *homed,
        Step(f"touch-{n}", name, "zero z", "Touch off Z, twice.",
             "Spindle off. Hands away from the tip while it comes down.", HANDS,
             what, zero.gauge_thickness, "length", n, place=(touch.x, touch.y),
             reads=("Z at contact, on the machine", "Z at contact, once more")),
        *([] if drops else [_isolate(name, f"away-{n}")]),
        Step(f"away-{n}", name, "tick", away, "Nothing lies on the board or hangs from the cutter.", "" if drops else ISOLATE, tool=n, reach=not drops),
    ]  # fmt: skip


def ticked(journal: Journal, at: str, step: Step) -> Journal:
    """The journal with a step done; a run, and what follows it, is ticked with what was run."""
    more = {"fingerprint": step.fingerprint} if step.fingerprint else {}
    return journal.add(at, "ticked", step.setup, step=step.key, **more)
