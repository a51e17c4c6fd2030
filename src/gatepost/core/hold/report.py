# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Hold stage says: each hold by itself, all together, and what a move would hit."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import shapely
from shapely.geometry import MultiPoint, Point, Polygon

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Figure, Finding, Fix, Level, Place, Report, gate_of
from gatepost.core.hold import solids as shapes
from gatepost.core.hold.clearance import Gap
from gatepost.core.hold.solids import Solid
from gatepost.core.job.model import Hold, Machine, Setup, changed
from gatepost.core.tolerances import CLEARANCE, FRICTION, HOLD_FACTOR, NOSE_ANGLE
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

STAGE = "hold"
LEAST_BEARING = 10.0  # mm of nose that must lie on the work
FARTHEST = 80.0  # a fix that moves further than this is no small fix


@dataclass(frozen=True)
class Held:
    """What holding is judged on. work: outline on the bed; height: of the work at a bed place; gaps: by program."""

    setup: Setup
    machine: Machine
    work: Polygon
    height: Callable[[float, float], float]
    gaps: tuple[tuple[str, Gap], ...]
    push: Working | None
    peak: float
    weight: float
    cutting: tuple[float, float, float, float] | None
    clear: Callable[[list[Solid]], bool]


def with_gaps(held: Held, gaps: tuple[tuple[str, Gap], ...]) -> Held:
    """The same with other gaps."""
    return replace(held, gaps=gaps)


def work_height(held: Held, hold: Hold) -> float:
    """Height of the work where a hold bears on it; just inside the edge when the place itself is off."""
    x, y = shapes.touch_point(hold)
    height = held.height(x, y)
    if math.isnan(height):
        inner = held.work.buffer(-1.0)
        spot = shapely.get_coordinates(shapely.shortest_line(held.work if inner.is_empty else inner, Point(x, y)))[0]
        height = held.height(float(spot[0]), float(spot[1]))
    return 0.0 if math.isnan(height) else height


def all_solids(held: Held) -> list[Solid]:
    """Everything that stands on the bed."""
    return [s for h in held.setup.holds for s in shapes.solids(h, work_height(held, h))]


def report(held: Held) -> Report:
    """Figures and findings of the holding of one setup."""
    holds = held.setup.holds
    findings: list[Finding] = []
    for hold in holds:
        findings += _strap_findings(held, hold) if hold.kind == "strap" else _edge_findings(held, hold)
    findings += _overlaps(held) + _gap_findings(held) + _together(held)
    kinds = [h.kind for h in holds]
    straps, edges = kinds.count("strap"), kinds.count("edge")
    words = ", ".join(
        w for w in (f"{straps} straps on packing" if straps else "", f"{edges} edge clamps" if edges else "") if w
    )
    stops = sum(1 for f in findings if f.level is Level.STOP)
    fact = f"{stops} to fix" if stops else (words or "nothing holds it")
    return Report(
        STAGE, fact, words or "nothing holds it yet", _figures(held), tuple(findings), gate_of(tuple(findings))
    )


def one_hold(held: Held, name: str) -> list[Finding]:
    """What stands against one hold where it is now, without a search for fixes: quick enough for every frame of a
    drag. gaps of held: of this hold alone."""
    hold = next(h for h in held.setup.holds if h.name == name)
    own = _strap_findings(held, hold) if hold.kind == "strap" else _edge_findings(held, hold)
    overlaps = [f for f in _overlaps(held, name) if f.about and name in f.about.split()]
    return own + overlaps + _gap_findings(held, with_fixes=False)


def sideways(held: Held) -> Working:
    """What holds against sliding: friction on one face, of clamp forces and weight."""
    pressing = sum(shapes.clamp_force(h).result for h in held.setup.holds if h.kind == "strap")
    squeezing = sum(h.force for h in held.setup.holds if h.kind == "edge")
    return working(
        "friction * (straps + clamps + weight)", Named("friction", FRICTION, "number"), Named("straps", pressing, "force"),
        Named("clamps", squeezing, "force"), Named("weight", held.weight, "force"), unit="force",
        assumption="one face of friction, dusty wood; estimate, good to a factor of two", shop_rule=True,
    )  # fmt: skip


def _figures(held: Held) -> tuple[Figure, ...]:
    figures: list[Figure] = []
    if held.push is not None:
        figures.append(Figure("Heaviest cut pushes", held.push.result, "force", held.push))
    if held.setup.holds:
        side = sideways(held)
        figures.append(Figure("Holds give about", side.result, "force", side))
        if held.push is not None and held.push.result > 0:
            margin = working(
                "hold / push",
                Named("hold", side.result, "force"),
                Named("push", held.push.result, "force"),
                unit="times",
            )
            figures.append(Figure("Margin", margin.result, "times", margin))
    straps = [h for h in held.setup.holds if h.kind == "strap"]
    if straps:
        heights = [work_height(held, h) for h in straps]
        figures.append(Figure("Packing wanted, at least", max(heights)))
        studs = [shapes.stud_length(h, w, held.machine) for h, w in zip(straps, heights)]
        longest = max(studs, key=lambda s: s.result)
        figures.append(Figure("Stud length wanted", longest.result, working=longest))
    return tuple(figures)


def _strap_findings(held: Held, hold: Hold) -> list[Finding]:
    work = work_height(held, hold)
    angle = shapes.nose_angle(hold, work)
    length = hold.nose + hold.tail
    said: list[Finding] = []
    place = Place(*shapes.touch_point(hold), work)
    name = held.setup.name
    if angle.result < -1e-9:
        message = f"{hold.name}'s nose points up by {-angle.result:.1f}°: it pushes the work away and works loose."
        fix = Fix(
            "set hold", {"setup": name, "hold": hold.name, "packing": work}, f"Set {hold.name} on {mm(work)} of packing"
        )
        said.append(Finding("hold.nose-up", Level.STOP, STAGE, message, name, angle, (fix,), place, hold.name))
    elif angle.result > NOSE_ANGLE + 1e-9:
        lower = work + length * math.tan(math.radians(NOSE_ANGLE))
        message = f"{hold.name}'s nose points down by {angle.result:.1f}°; over {NOSE_ANGLE:.0f}° change the packing."
        fix = Fix(
            "set hold",
            {"setup": name, "hold": hold.name, "packing": lower},
            f"Lower {hold.name}'s packing to {mm(lower)}",
        )
        said.append(Finding("hold.nose-steep", Level.CARE, STAGE, message, name, angle, (fix,), place, hold.name))
    bearing = shapes.pad(hold).intersection(held.work).area / hold.width
    if bearing < LEAST_BEARING - 1e-6:
        message = f"{hold.name}'s nose has {mm(max(bearing, 0.0))} on the work; {mm(LEAST_BEARING)} at least is wanted."
        said.append(Finding("hold.off-work", Level.STOP, STAGE, message, name, place=place, about=hold.name))
    body = next(s for s in shapes.solids(hold, work) if s.part == "packing")
    if body.outline.intersection(held.work).area > 1.0:
        message = f"{hold.name}'s packing stands where the work lies. Move the strap away from the work."
        said.append(Finding("hold.packing-on-work", Level.STOP, STAGE, message, name, place=place, about=hold.name))
    if held.machine.slots and min(abs(hold.y - s) for s in held.machine.slots) > 1.0:
        message = f"{hold.name}'s bolt is not over a slot: the nearest is at Y {mm(min(held.machine.slots, key=lambda s: abs(s - hold.y)))}."
        said.append(
            Finding("hold.no-slot", Level.STOP, STAGE, message, name, place=Place(hold.x, hold.y), about=hold.name)
        )
    return said


def _edge_findings(held: Held, hold: Hold) -> list[Finding]:
    place = Place(hold.x, hold.y, hold.height)
    name = held.setup.name
    body = shapes.solids(hold, 0.0)[0].outline
    away = body.distance(held.work)
    if away > 1.0 or body.intersection(held.work).area > hold.width * 1.0:
        x, y = shapes.first_contact(held.work, hold.heading, hold.width, hold.x, hold.y)
        off = away or math.hypot(x - hold.x, y - hold.y)
        message = f"{hold.name}'s jaw does not meet the edge of the work: it is {mm(off)} off."
        values = {"setup": name, "hold": hold.name, "x": x, "y": y}
        fixes = (Fix("set hold", values, f"Close {hold.name} on the edge"),)
        return [Finding("hold.jaw-off", Level.STOP, STAGE, message, name, None, fixes, place, hold.name)]
    return []


def _overlaps(held: Held, only: str = "") -> list[Finding]:
    """only: a hold's name, where no other need be looked at."""
    said: list[Finding] = []
    outlines = [
        (h, shapely.union_all([s.outline for s in shapes.solids(h, work_height(held, h))])) for h in held.setup.holds
    ]
    for i, (a, shape_a) in enumerate(outlines):
        for b, shape_b in outlines[i + 1 :]:
            if only and only not in (a.name, b.name):
                continue
            if shape_a.intersection(shape_b).area > 1.0:
                message = f"{a.name} and {b.name} stand in each other's place."
                said.append(
                    Finding(
                        "hold.overlap",
                        Level.STOP,
                        STAGE,
                        message,
                        held.setup.name,
                        place=Place(b.x, b.y),
                        about=f"{a.name} {b.name}",
                    )
                )
        bed = shapely.box(-40, -40, held.machine.travel_x + 40, held.machine.travel_y + 40)
        if not bed.contains(shape_a):
            message = f"{a.name} stands off the bed."
            said.append(
                Finding(
                    "hold.off-bed", Level.STOP, STAGE, message, held.setup.name, place=Place(a.x, a.y), about=a.name
                )
            )
    return said


def _gap_findings(held: Held, with_fixes: bool = True) -> list[Finding]:
    worst: dict[str, tuple[str, Gap]] = {}
    for program, gap in held.gaps:
        if gap.hold not in worst or gap.gap < worst[gap.hold][1].gap:
            worst[gap.hold] = (program, gap)
    said = [_gap_finding(held, program, gap, with_fixes) for program, gap in worst.values()]
    if held.setup.holds and not said and with_fixes:
        message = f"Every move of cutter, shank and nut clears every hold by {mm(CLEARANCE)} or more, rapids too."
        said.append(Finding("hold.clear", Level.OK, STAGE, message, held.setup.name))
    return said


def _gap_finding(held: Held, program: str, gap: Gap, with_fixes: bool) -> Finding:
    hit = gap.gap < 0
    verb = f"cuts {mm(-gap.gap)} into" if hit else f"passes {mm(gap.gap)} from"
    move = "rapid" if gap.rapid else "cut"
    message = (
        f"{gap.hold} stands in the way of the {program}. On a {move} the {gap.tool_part} {verb} its {gap.part} at "
        f"X {mm(gap.x)}, Y {mm(gap.y)} on the bed; {mm(CLEARANCE)} clear is wanted."
    )
    short = working(
        "wanted - gap",
        Named("wanted", CLEARANCE),
        Named("gap", gap.gap),
        assumption="wanted margin beside holds",
        shop_rule=True,
    )
    level = Level.STOP if hit else Level.CARE
    fixes = tuple(_smallest_fixes(held, gap.hold)) if with_fixes else ()
    return Finding(
        "hold.clearance", level, STAGE, message, held.setup.name, short, fixes, Place(gap.x, gap.y, gap.z), gap.hold
    )


def _ways(hold: Hold) -> list[tuple[str, Callable[[float], dict[str, float]]]]:
    """Ways a hold may give way, each by one amount in mm."""
    if hold.kind == "edge":
        return [
            ("Move {name} {d} right", lambda d: {"x": hold.x + d}),
            ("Move {name} {d} left", lambda d: {"x": hold.x - d}),
            ("Set {name} {d} lower", lambda d: {"height": hold.height - d}),
        ] if abs(math.sin(math.radians(hold.heading))) > 0.5 else [
            ("Move {name} {d} back", lambda d: {"y": hold.y + d}),
            ("Move {name} {d} forward", lambda d: {"y": hold.y - d}),
            ("Set {name} {d} lower", lambda d: {"height": hold.height - d}),
        ]  # fmt: skip
    return [
        ("Move {name} {d} right", lambda d: {"x": hold.x + d}),
        ("Move {name} {d} left", lambda d: {"x": hold.x - d}),
        ("Draw {name}'s nose back {d}", lambda d: {"nose": hold.nose - d}),
    ]


def _smallest_fixes(held: Held, name: str) -> list[Fix]:
    hold = next(h for h in held.setup.holds if h.name == name)
    options: list[tuple[float, Fix]] = []
    for words, values in _ways(hold):
        amount = _least_amount(held, hold, values)
        if amount is not None:
            sentence = words.format(name=hold.name, d=mm(amount))
            options.append(
                (amount, Fix("set hold", {"setup": held.setup.name, "hold": name, **values(amount)}, sentence))
            )
    return [fix for _, fix in sorted(options, key=lambda o: o[0])[:2]]


def _least_amount(held: Held, hold: Hold, values: Callable[[float], dict[str, float]]) -> float | None:
    """The least move that clears every program by the wanted margin and spoils nothing else, mm."""

    def clear(amount: float) -> bool:
        moved = changed(hold, **values(amount))
        return held.clear(shapes.solids(moved, work_height(held, moved)))

    try:
        amount = 1.0
        while not clear(amount):
            amount *= 1.6
            if amount > FARTHEST:
                return None
        low, high = 0.0, amount
        while high - low > 0.002:
            middle = 0.5 * (low + high)
            low, high = (low, middle) if clear(middle) else (middle, high)
        rounded = math.ceil(high * 10.0) / 10.0 if high > 2.0 else high
        moved = changed(hold, **values(rounded))
    except OperatorError:  # an amount that the hold's own limits refuse
        return None
    return rounded if clear(rounded) and _still_sound(held, hold, moved) else None


def _still_sound(held: Held, old: Hold, new: Hold) -> bool:
    """Whether moving a hold leaves no new stop of its own."""
    holds = tuple(new if h.name == old.name else h for h in held.setup.holds)
    after = replace(held, setup=changed(held.setup, holds=holds), gaps=())
    before = replace(held, gaps=())
    own = _strap_findings if new.kind == "strap" else _edge_findings
    stops = {(f.code, f.about) for f in own(after, new) + _overlaps(after) if f.level is Level.STOP}
    had = {(f.code, f.about) for f in own(before, old) + _overlaps(before) if f.level is Level.STOP}
    return stops <= had


def _together(held: Held) -> list[Finding]:
    name, holds = held.setup.name, held.setup.holds
    if len(holds) < 2:
        message = "At least two holds are wanted: one lets the work swing." if holds else "Nothing holds the work yet."
        return [Finding("hold.too-few", Level.STOP, STAGE, message, name)]
    said: list[Finding] = []
    if held.push is not None and held.push.result > 0:
        side = sideways(held)
        share = working("hold / push", Named("hold", side.result, "force"), Named("push", held.push.result, "force"), unit="times",
                        assumption="figures good to a factor of two", shop_rule=True)  # fmt: skip
        if share.result < HOLD_FACTOR:
            message = (
                f"Sideways hold is estimated at {share.result:.1f} times the push; less than {HOLD_FACTOR:.0f} is asked about. "
                "Figures good to a factor of two: add a hold or cut less deep."
            )
            said.append(Finding("hold.weak", Level.CARE, STAGE, message, name, share))
    if held.cutting is not None and len(holds) >= 2:
        ring = MultiPoint([shapes.touch_point(h) for h in holds]).convex_hull
        middle = Point((held.cutting[0] + held.cutting[2]) / 2, (held.cutting[1] + held.cutting[3]) / 2)
        if ring.distance(middle) > 1.0:
            message = "The middle of the cutting lies outside the ring of holds: the board can lever up there."
            said.append(Finding("hold.ring", Level.CARE, STAGE, message, name, place=Place(middle.x, middle.y)))
    return said
