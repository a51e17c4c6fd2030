# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Hold stage says: each hold by itself, all together, and what a move would hit."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable
from dataclasses import replace

import shapely
from shapely.geometry import MultiPoint, Point, Polygon

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Figure, Finding, Fix, Level, Place, Report, gate_of
from gatepost.core.hold import solids as shapes
from gatepost.core.hold.clearance import Gap
from gatepost.core.hold.enough import Enough, Grip, Span, enough, grip, spans
from gatepost.core.hold.singly import STAGE, TOUCHES, Held, own_findings, with_gaps, work_height
from gatepost.core.hold.solids import Solid
from gatepost.core.job.base import changed
from gatepost.core.job.hold import Hold
from gatepost.core.job.machine import Fence
from gatepost.core.units import area_words, mm
from gatepost.core.working import Named, Working, working

__all__ = ["Held", "all_solids", "judged", "margins", "one_hold", "report", "span_places", "with_gaps", "work_height"]

FARTHEST = 80.0  # a fix that moves further than this is no small fix
CORNER_NEAR = 150.0  # mm within which a corner that is left free for zeroing wants a hold
BENDS = 0.1  # mm that a free span may bend before it is asked about
CUPPED = 0.3  # mm of hollow under a free span before it is told
NAMES = {
    "strap": ("strap on packing", "straps on packing"), "edge": ("edge clamp", "edge clamps"), "wedges": ("pair of wedges", "pairs of wedges"),
    "screw": ("screw", "screws"), "tape": ("strip of tape", "strips of tape"), "glue": ("strip of tape and glue", "strips of tape and glue"),
    "nest": ("nest", "nests"),
}  # fmt: skip


def kinds_in_words(holds: tuple[Hold, ...]) -> str:
    """How many of each kind."""
    count = Counter(h.kind for h in holds)
    return ", ".join(f"{n} {NAMES[kind][0 if n == 1 else 1]}" for kind, n in count.items())


def _solids_of(held: Held, hold: Hold) -> list[Solid]:
    return shapes.solids(hold, work_height(held, hold), held.machine.bed)


def all_solids(held: Held) -> list[Solid]:
    """Everything that stands on the bed, what stays there from job to job too."""
    mine = [s for h in held.setup.holds for s in _solids_of(held, h)]
    return mine + shapes.bed_solids(held.machine.bed, held.setup)


def report(
    held: Held, more: tuple[Figure, ...] = (), tables: tuple[tuple[str, tuple[tuple[str, ...], ...]], ...] = ()
) -> Report:
    """Figures and findings of the holding of one setup. more, tables: what else is known of it."""
    holds = held.setup.holds
    findings: list[Finding] = []
    for hold in holds:
        findings += own_findings(held, hold)
    done = margins(held)
    findings += _overlaps(held) + _bed_findings(held) + _gap_findings(held) + _together(held, done)
    words = kinds_in_words(holds)
    stops = sum(1 for f in findings if f.level is Level.STOP)
    fact = f"{stops} to fix" if stops else (words or "nothing holds it")
    return Report(
        STAGE, fact, words or "nothing holds it yet", (*_figures(held, done), *more), tuple(findings), gate_of(tuple(findings)),
        (*_margin_table(done), *tables),
    )  # fmt: skip


def one_hold(held: Held, name: str) -> list[Finding]:
    """What stands against one hold where it is now, without a search for fixes: quick enough for every frame of a
    drag. gaps of held: of this hold alone."""
    hold = next(h for h in held.setup.holds if h.name == name)
    overlaps = [f for f in _overlaps(held, name) if f.about and name in f.about.split()]
    return own_findings(held, hold) + overlaps + _gap_findings(held, with_fixes=False)


def grips(held: Held) -> list[Grip]:
    """What each hold does to the work."""
    return [grip(h, held.work, held.rules, held.machine.bed) for h in held.setup.holds]


def margins(held: Held) -> list[Enough]:
    """Of each operation, what holds over what it does to the work."""
    mine = grips(held)
    squeezed = sum(h.force for h in held.setup.holds if h.kind in shapes.SIDES)
    return [
        enough(load, mine, held.weight, held.work, held.rules, squeezed) for load in held.loads if load.push.result > 0
    ]


def _weakest(done: list[Enough]) -> Enough | None:
    return min(done, key=lambda e: e.least.result, default=None)


def _margin_table(done: list[Enough]) -> tuple[tuple[str, tuple[tuple[str, ...], ...]], ...]:
    if not done:
        return ()
    rows = [("operation", "slides", "turns", "lifts")]
    for e in done:
        lift = f"{e.lift.result:.1f} ×" if e.lift is not None else "–"
        rows.append((e.load.operation, f"{e.slide.result:.1f} ×", f"{e.turn.result:.1f} ×", lift))
    return (("What holds, over what each operation does", tuple(rows)),)


def _figures(held: Held, done: list[Enough]) -> tuple[Figure, ...]:
    figures: list[Figure] = []
    heaviest = max(held.loads, key=lambda q: q.push.result, default=None)
    if heaviest is not None:
        figures.append(Figure("Heaviest cut pushes", heaviest.push.result, "force", heaviest.push))
    weakest = _weakest(done)
    if held.setup.holds and weakest is not None:
        against = {"slides": "sliding", "turns": "turning", "lifts": "lifting"}[weakest.how]
        figures.append(Figure(f"Margin, against {against}", weakest.least.result, "times", weakest.least))
        for words, one in (("sliding", weakest.slide), ("turning", weakest.turn), ("lifting", weakest.lift)):
            if one is not None and words != against:
                figures.append(Figure(f"Against {words}", one.result, "times", one))
    straps = [h for h in held.setup.holds if h.kind == "strap"]
    if straps:
        heights = [work_height(held, h) for h in straps]
        figures.append(Figure("Packing wanted, at least", max(heights)))
        studs = [shapes.stud_length(h, w, held.machine) for h, w in zip(straps, heights)]
        longest = max(studs, key=lambda s: s.result)
        figures.append(Figure("Stud length wanted", longest.result, working=longest))
        torqued = next((h for h in straps if h.torque > 0), None)
        if torqued is not None:
            force = shapes.bolt_force(torqued)
            figures.append(Figure(f"{torqued.name}'s bolt pulls", force.result, "force", force))
    free = _free(held)
    if free:
        figures.append(Figure("Longest free span", free[0].length))
    return tuple(figures)


def span_places(held: Held) -> list[tuple[str, float, float]]:
    """Where holds bear, of those that press in one place."""
    return [(h.name, *shapes.touch_point(h)) for h in held.setup.holds if h.kind not in (*shapes.FLAT, "nest")]


def _free(held: Held) -> list[Span]:
    return spans(held.work, span_places(held))


def _overlaps(held: Held, only: str = "") -> list[Finding]:
    """only: a hold's name, where no other need be looked at."""
    said: list[Finding] = []
    name = held.setup.name
    outlines = [(h.name, Place(h.x, h.y), _outline(held, h)) for h in held.setup.holds]
    fixed = [
        (s.hold, Place(*s.outline.centroid.coords[0]), s.outline)
        for s in shapes.bed_solids(held.machine.bed, held.setup)
    ]
    bed = shapely.box(-40, -40, held.machine.travel_x + 40, held.machine.travel_y + 40)
    for i, (a, _, shape_a) in enumerate(outlines):
        for b, at, shape_b in [*outlines[i + 1 :], *fixed]:
            if only and only not in (a, b):
                continue
            if shape_a.intersection(shape_b).area > 1.0:
                message = f"{a} and {b} stand in each other's place."
                said.append(Finding("hold.overlap", Level.STOP, STAGE, message, name, place=at, about=f"{a} {b}"))
        if not bed.contains(shape_a):
            message = f"{a} stands off the bed."
            at = outlines[i][1]
            said.append(Finding("hold.off-bed", Level.STOP, STAGE, message, name, place=at, about=a))
    return said


def _outline(held: Held, hold: Hold) -> Polygon:
    """What a hold covers of the bed, or lies under the work."""
    if hold.kind in shapes.FLAT:
        return shapes.strip(hold)
    return shapely.union_all([s.outline for s in _solids_of(held, hold)])


def _bed_findings(held: Held) -> list[Finding]:
    """What stays on the bed and is in the work's place, and what was answered to the rock test."""
    said: list[Finding] = []
    name = held.setup.name
    for solid in shapes.bed_solids(held.machine.bed, held.setup):
        over = solid.outline.intersection(held.work).area
        if over > 1.0:
            x, y = solid.outline.centroid.coords[0]
            message = f"The work lies on {solid.hold}, by {area_words(over)}. Lay it beside, or take {solid.hold} off the bed."
            said.append(Finding("hold.on-fence", Level.STOP, STAGE, message, name, place=Place(x, y), about=solid.hold))
    bed = shapely.box(0, 0, held.machine.travel_x, held.machine.travel_y)
    if held.work.difference(bed).area > 1.0 and held.work.intersection(bed).area < 0.5 * held.work.area:
        message = "Most of the work lies off the bed."
        said.append(Finding("hold.work-off-bed", Level.STOP, STAGE, message, name))
    if held.rocks == "rocks":
        message = "The work rocked when it was pressed on its corners. Shim it, never pull it flat, then press again."
        said.append(Finding("hold.rocks", Level.STOP, STAGE, message, name))
    return said


def _gap_findings(held: Held, with_fixes: bool = True) -> list[Finding]:
    worst: dict[str, tuple[str, Gap]] = {}
    for program, gap in held.gaps:
        if gap.hold not in worst or gap.gap < worst[gap.hold][1].gap:
            worst[gap.hold] = (program, gap)
    said = [_gap_finding(held, program, gap, with_fixes) for program, gap in worst.values()]
    if held.setup.holds and not said and with_fixes and held.loads:
        message = f"Every move of {_parts(held)} clears everything on the bed by {mm(held.rules.clearance)} or more, rapids too."
        said.append(Finding("hold.clear", Level.OK, STAGE, message, held.setup.name))
    return said


def _gap_finding(held: Held, program: str, gap: Gap, with_fixes: bool) -> Finding:
    hit = gap.gap < 0
    verb = f"cuts {mm(-gap.gap)} into" if hit else f"passes {mm(gap.gap)} from"
    move = "rapid" if gap.rapid else "cut"
    message = (
        f"{gap.hold} stands in the way of the {program}. On a {move} the {gap.tool_part} {verb} its {gap.part} at "
        f"X {mm(gap.x)}, Y {mm(gap.y)} on the bed; {mm(held.rules.clearance)} clear is wanted."
    )
    short = working(
        "wanted - gap",
        Named("wanted", held.rules.clearance),
        Named("gap", gap.gap),
        assumption="wanted margin beside holds",
        shop_rule=True,
    )
    level = Level.STOP if hit else Level.CARE
    fixes = tuple(_smallest_fixes(held, gap.hold)) if with_fixes else ()
    return Finding(
        "hold.clearance", level, STAGE, message, held.setup.name, short, fixes, Place(gap.x, gap.y, gap.z), gap.hold
    )


def _parts(held: Held) -> str:
    """What of the machine is looked at."""
    more = [w for w, on in (("shoe", held.machine.shoe > 0), ("gantry", held.machine.gantry > 0)) if on]
    words = ["cutter", "shank", "nut", *more]
    return f"{', '.join(words[:-1])} and {words[-1]}"


Way = tuple[str, Callable[[float], dict[str, float]]]


def _ways(hold: Hold) -> list[Way]:
    """Ways a hold may give way, each by one amount in mm."""
    right: Way = ("Move {name} {d} right", lambda d: {"x": hold.x + d})
    left: Way = ("Move {name} {d} left", lambda d: {"x": hold.x - d})
    back: Way = ("Move {name} {d} back", lambda d: {"y": hold.y + d})
    forward: Way = ("Move {name} {d} forward", lambda d: {"y": hold.y - d})
    lower: Way = ("Set {name} {d} lower", lambda d: {"height": hold.height - d})
    if hold.kind in shapes.SIDES:
        along = (right, left) if abs(math.sin(math.radians(hold.heading))) > 0.5 else (back, forward)
        return [*along, lower]
    if hold.kind == "screw" and hold.into != "insert":
        return [right, left, back, forward]
    if hold.kind != "strap":
        return []
    return [right, left, ("Draw {name}'s nose back {d}", lambda d: {"nose": hold.nose - d})]


def _smallest_fixes(held: Held, name: str) -> list[Fix]:
    hold = next((h for h in held.setup.holds if h.name == name), None)
    if hold is None:  # a fence or a nest of the bed's own: it is the work that moves
        return []
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
        return held.clear(_solids_of(held, moved))

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
    return _stops(after, new) <= _stops(before, old)


def _stops(held: Held, hold: Hold) -> set[tuple[str, str]]:
    found = own_findings(held, hold) + _overlaps(held, hold.name)
    return {(f.code, f.about) for f in found if f.level is Level.STOP}


def judged(held: Held, hold: Hold) -> bool:
    """Whether a hold can stand where it is: nothing barred of itself, and clear of every move."""
    return not _stops(held, hold) and held.clear(_solids_of(held, hold))


def _together(held: Held, done: list[Enough]) -> list[Finding]:
    name, holds = held.setup.name, held.setup.holds
    steady = [h for h in holds if h.kind in (*shapes.FLAT, "nest")]
    if len(holds) < 2 and not steady:
        message = "At least two holds are wanted: one lets the work swing." if holds else "Nothing holds the work yet."
        return [Finding("hold.too-few", Level.STOP, STAGE, message, name)]
    return _weak(held, done) + _ring(held) + _span_findings(held)


def _weak(held: Held, done: list[Enough]) -> list[Finding]:
    """Operations that the holds are weak against, by the weakest."""
    weakest, name = _weakest(done), held.setup.name
    if weakest is None or weakest.least.result >= held.rules.factor:
        return []
    what = {"slides": "slide", "turns": "turn", "lifts": "lift"}[weakest.how]
    message = (
        f"In the {weakest.load.operation} the work may {what}: estimate {weakest.least.result:.1f}; figures good to a factor of 2, and "
        f"less than {held.rules.factor:g} is asked about. Add a hold, or cut less deep."
    )
    level = Level.STOP if weakest.least.result < 0.5 else Level.CARE
    if level is Level.STOP:
        message = (
            f"In the {weakest.load.operation} the work would {what}: estimate {weakest.least.result:.1f}, and even twice that is too "
            "little. Add a hold, or cut less deep."
        )
    return [Finding("hold.weak", level, STAGE, message, name, weakest.least)]


def _ring(held: Held) -> list[Finding]:
    """Whether the middle of the cutting lies inside the ring of holds."""
    if not held.loads or any(h.kind == "nest" for h in held.setup.holds):
        return []
    boxes = [q.box for q in held.loads]
    x = (min(b[0] for b in boxes) + max(b[2] for b in boxes)) / 2
    y = (min(b[1] for b in boxes) + max(b[3] for b in boxes)) / 2
    places = [c for h in held.setup.holds for c in _bearing_places(held, h)]
    if any(h.kind in shapes.SIDES for h in held.setup.holds):  # what they press the work against
        places += [c for f in held.machine.bed.fences for c in _against(held, f)]
    ring = MultiPoint(places).convex_hull
    if ring.distance(Point(x, y)) <= 1.0:
        return []
    message = "The middle of the cutting lies outside the ring of holds: the board can lever up there."
    return [Finding("hold.ring", Level.CARE, STAGE, message, held.setup.name, place=Place(x, y))]


def _against(held: Held, fence: Fence) -> list[tuple[float, float]]:
    """Ends of what the work lies along a fence."""
    along = shapes.fence_edge(fence).intersection(held.work.buffer(TOUCHES))
    return [(float(x), float(y)) for x, y in shapely.get_coordinates(along)]


def _bearing_places(held: Held, hold: Hold) -> list[tuple[float, float]]:
    if hold.kind in shapes.FLAT:
        return [(float(x), float(y)) for x, y in shapes.strip(hold).exterior.coords]
    return [shapes.touch_point(hold)]


def _span_findings(held: Held) -> list[Finding]:
    """The longest free span: how long, what pulls there, and whether the wood is hollow under it."""
    free = _free(held)
    name = held.setup.name
    if not free or len(held.setup.holds) < 2:
        return []
    worst = free[0]
    x, y = worst.middle
    pull = max((q.pull * q.push.result * q.peak for q in held.loads), default=0.0)
    press = max((held.rules.pull * q.push.result * q.peak for q in held.loads), default=0.0)  # down as well as up
    bends = span_bend(worst.chord, held.thick, pull if held.cup(x, y) <= CUPPED else max(pull, press))
    words = f"Nothing presses between {worst.first} and {worst.last}: {mm(worst.length)} of the edge is free"
    said: list[Finding] = []
    hollow = held.cup(x, y)
    if hollow > CUPPED:
        message = (
            f"{words}, and the board stands {mm(hollow)} off the bed there: a cut bends it by {mm(min(bends.result, hollow))}. Shim it "
            "there, or put a hold near."
        )
        level = Level.CARE if min(bends.result, hollow) > BENDS else Level.NOTE
        said.append(
            Finding("hold.cupped-span", level, STAGE, message, name, bends, (), Place(x, y, 0.0, 40.0), worst.first)
        )
    elif pull > 0.0:
        message = f"{words}. An up-cut pulls up to {pull:.0f} N and bends it {mm(bends.result)}."
        level = Level.CARE if bends.result > BENDS else Level.NOTE
        said.append(Finding("hold.span", level, STAGE, message, name, bends, (), Place(x, y, 0.0, 40.0), worst.first))
    else:
        said.append(
            Finding(
                "hold.span",
                Level.NOTE,
                STAGE,
                f"{words}. Nothing pulls it up.",
                name,
                None,
                (),
                Place(x, y, 0.0, 40.0),
                worst.first,
            )
        )
    zero = held.setup.zero
    if zero.xy not in ("centre", "mark"):
        corner = _corner(held, zero.xy)
        away = min((math.hypot(px - corner[0], py - corner[1]) for _, px, py in span_places(held)), default=math.inf)
        if CORNER_NEAR < away < math.inf:
            message = f"The {zero.xy} corner is left free for zeroing, with the nearest hold {mm(away)} away: it can sit high. Put a hold near it, not on it."
            said.append(Finding("hold.free-corner", Level.NOTE, STAGE, message, name, None, (), Place(*corner)))
    return said


def _corner(held: Held, corner: str) -> tuple[float, float]:
    x0, y0, x1, y1 = held.work.bounds
    return (x1 if corner.endswith("right") else x0, y1 if corner.startswith("back") else y0)


ALONG = 9000.0  # N/mm², stiffness of common hardwood along its grain
STRIP = 100.0  # mm of the board's width that bends with its edge


def span_bend(length: float, thick: float, pull: float) -> Working:
    """How far a free span bends up under a pull in its middle, mm: a strip of the board as a beam on two supports."""
    return working(
        "pull * span ** 3 / (48 * stiffness * strip * thickness ** 3 / 12)", Named("pull", pull, "force"), Named("span", length),
        Named("stiffness", ALONG, "N/mm²"), Named("strip", STRIP), Named("thickness", thick),
        assumption="a strip 100 mm wide along the grain as a beam on two supports", shop_rule=True,
    )  # fmt: skip
