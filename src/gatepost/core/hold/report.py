# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Hold stage says: each hold by itself, all together, and what a move would hit."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable
from dataclasses import replace

import shapely
from shapely.geometry import Polygon

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Figure, Finding, Fix, Level, Place, Report, Table, gate_of, waiting
from gatepost.core.hold import solids as shapes
from gatepost.core.hold.clearance import Gap
from gatepost.core.hold.kind import STAGE, HoldingInputs, HoldKinds
from gatepost.core.hold.margins import Grip, HoldMargin, enough
from gatepost.core.hold.solids import Solid
from gatepost.core.hold.together import free, together, weakest
from gatepost.core.job.base import changed
from gatepost.core.job.hold import Hold
from gatepost.core.units import area_words, mm
from gatepost.core.working import Named, working

FARTHEST = 80.0  # a fix that moves further than this is no small fix


def kinds_in_words(holds: tuple[Hold, ...], kinds: HoldKinds) -> str:
    """How many of each kind."""
    count = Counter(h.kind for h in holds)
    return ", ".join(f"{n} {kinds[name].one if n == 1 else kinds[name].many}" for name, n in count.items())


def all_solids(held: HoldingInputs) -> list[Solid]:
    """Everything that stands on the bed, what stays there from job to job too."""
    mine = [s for h in held.setup.holds for s in held.solids(h)]
    return mine + shapes.bed_solids(held.machine.bed, held.setup)


def report(
    held: HoldingInputs, more: tuple[Figure, ...] = (), tables: tuple[Table, ...] = (), first: bool = False
) -> Report:
    """Figures and findings of the holding of one setup. more, tables: what else is known of it; first: for a first look, which searches for no least
    moves."""
    holds = held.setup.holds
    findings: list[Finding] = []
    for hold in holds:
        findings += held.kind(hold).checks(held, hold)
    done = margins(held)
    findings += _overlaps(held) + _bed_findings(held) + _gap_findings(held, search=not first) + together(held, done)
    words = kinds_in_words(holds, held.kinds)
    stops = sum(1 for f in findings if f.level is Level.STOP)
    none = "nothing to hold yet" if held.idle else "nothing holds it"
    fact = f"{stops} to fix" if stops else (words or none)
    told = Report(
        STAGE, fact, words or none, (*_figures(held, done), *more), tuple(findings), gate_of(tuple(findings)),
        (*_margin_table(done), *_kind_tables(held), *tables),
    )  # fmt: skip
    return waiting(told) if held.idle else told


def one_hold(held: HoldingInputs, name: str) -> list[Finding]:
    """What stands against one hold where it is now, without a search for fixes: quick enough for every frame of a
    drag. gaps of held: of this hold alone."""
    hold = next(h for h in held.setup.holds if h.name == name)
    overlaps = [f for f in _overlaps(held, name) if f.about and name in f.about.split()]
    return held.kind(hold).checks(held, hold) + overlaps + _gap_findings(held, with_fixes=False)


def grips(held: HoldingInputs) -> list[Grip]:
    """What each hold does to the work."""
    out: list[Grip] = []
    for h in held.setup.holds:
        grip, share = held.kind(h).grip(h, held.work, held.rules, held.machine.bed), held.sticking(h)
        out.append(replace(grip, shear=grip.shear * share, lift=grip.lift * share) if share < 1.0 else grip)
    return out


def margins(held: HoldingInputs) -> list[HoldMargin]:
    """Of each operation, what holds over what it does to the work."""
    mine = grips(held)
    squeezed = sum(held.kind(h).squeezes(h) for h in held.setup.holds)
    return [
        enough(load, mine, held.weight, held.work, held.rules, squeezed) for load in held.loads if load.push.result > 0
    ]


def _kind_tables(held: HoldingInputs) -> list[Table]:
    names = dict.fromkeys(h.kind for h in held.setup.holds)
    return [t for name in names for t in held.kinds[name].tables(held, [h for h in held.setup.holds if h.kind == name])]


def _margin_table(done: list[HoldMargin]) -> tuple[Table, ...]:
    if not done:
        return ()
    rows = [("operation", "slides", "turns", "lifts")]
    for e in done:
        lift = f"{e.lift.result:.1f} ×" if e.lift is not None else "–"
        rows.append((e.load.operation, f"{e.slide.result:.1f} ×", f"{e.turn.result:.1f} ×", lift))
    return (("What holds, over what each operation does", tuple(rows)),)


def _figures(held: HoldingInputs, done: list[HoldMargin]) -> tuple[Figure, ...]:
    figures: list[Figure] = []
    heaviest = max(held.loads, key=lambda q: q.push.result, default=None)
    if heaviest is not None:
        figures.append(Figure("Heaviest cut pushes", heaviest.push.result, "force", heaviest.push))
    worst = weakest(done)
    if held.setup.holds and worst is not None:
        against = {"slides": "sliding", "turns": "turning", "lifts": "lifting"}[worst.how]
        figures.append(Figure(f"Margin, against {against}", worst.least.result, "times", worst.least))
        for words, one in (("sliding", worst.slide), ("turning", worst.turn), ("lifting", worst.lift)):
            if one is not None and words != against:
                figures.append(Figure(f"Against {words}", one.result, "times", one))
    for name in dict.fromkeys(h.kind for h in held.setup.holds):
        figures += held.kinds[name].told(held, [h for h in held.setup.holds if h.kind == name])
    stretches = free(held)
    if stretches:
        figures.append(Figure("Longest free edge", stretches[0].length))
    return tuple(figures)


def _overlaps(held: HoldingInputs, only: str = "") -> list[Finding]:
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


def _outline(held: HoldingInputs, hold: Hold) -> Polygon:
    """What a hold covers of the bed, or lies under the work."""
    return held.kind(hold).covers(hold, held.solids(hold))


def _bed_findings(held: HoldingInputs) -> list[Finding]:
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
        message = "The work rocked when it was pressed on its corners. Shim it, never pull it flat, say so (what happened, and what is still known: Ctrl+H), and press again."
        said.append(Finding("hold.rocks", Level.STOP, STAGE, message, name))
    return said


def _gap_findings(held: HoldingInputs, with_fixes: bool = True, search: bool = True) -> list[Finding]:
    worst: dict[str, tuple[str, Gap]] = {}
    for program, gap in held.gaps:
        if gap.hold not in worst or gap.gap < worst[gap.hold][1].gap:
            worst[gap.hold] = (program, gap)
    said = [_gap_finding(held, program, gap, with_fixes and search) for program, gap in worst.values()]
    if held.setup.holds and not said and with_fixes and held.loads:
        message = f"Every move of {_parts(held)} clears everything on the bed by {mm(held.rules.clearance)} or more, rapids too."
        said.append(Finding("hold.clear", Level.OK, STAGE, message, held.setup.name))
    return said


def _gap_finding(held: HoldingInputs, program: str, gap: Gap, with_fixes: bool) -> Finding:
    hit = gap.gap < 0
    verb = f"cuts {mm(-gap.gap)} into" if hit else f"passes {mm(gap.gap)} from"
    move = "There" if gap.tool_part in ("pin", "plate") else "On a rapid" if gap.rapid else "On a cut"
    message = (
        f"{gap.hold} stands in the way of the {program}. {move} the {gap.tool_part} {verb} its {gap.part} at "
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


def _parts(held: HoldingInputs) -> str:
    """What of the machine is looked at."""
    more = [w for w, on in (("shoe", held.machine.shoe > 0), ("gantry", held.machine.gantry > 0)) if on]
    words = ["cutter", "shank", "nut", *more]
    return f"{', '.join(words[:-1])} and {words[-1]}"


def _smallest_fixes(held: HoldingInputs, name: str) -> list[Fix]:
    hold = next((h for h in held.setup.holds if h.name == name), None)
    if hold is None:  # a fence or a nest of the bed's own: it is the work that moves
        return []
    options: list[tuple[float, Fix]] = []
    for words, values in held.kind(hold).ways(hold):
        amount = _least_amount(held, hold, values)
        if amount is not None:
            sentence = words.format(name=hold.name, d=mm(amount))
            options.append(
                (amount, Fix("set hold", {"setup": held.setup.name, "hold": name, **values(amount)}, sentence))
            )
    return [fix for _, fix in sorted(options, key=lambda o: o[0])[:2]]


def _least_amount(held: HoldingInputs, hold: Hold, values: Callable[[float], dict[str, float]]) -> float | None:
    """The least move that clears every program by the wanted margin and spoils nothing else, mm."""

    def clear(amount: float) -> bool:
        moved = changed(hold, **values(amount))
        return held.clear(held.solids(moved))

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


def _still_sound(held: HoldingInputs, old: Hold, new: Hold) -> bool:
    """Whether moving a hold leaves no new stop of its own."""
    holds = tuple(new if h.name == old.name else h for h in held.setup.holds)
    after = replace(held, setup=changed(held.setup, holds=holds), gaps=())
    before = replace(held, gaps=())
    return _stops(after, new) <= _stops(before, old)


def _stops(held: HoldingInputs, hold: Hold) -> set[tuple[str, str]]:
    found = held.kind(hold).checks(held, hold) + _overlaps(held, hold.name)
    return {(f.code, f.about) for f in found if f.level is Level.STOP}


def judged(held: HoldingInputs, hold: Hold) -> bool:
    """Whether a hold can stand where it is: nothing barred of itself, and clear of every move. What it presses the work against is no
    matter of its own place."""
    own = {code for code, _ in _stops(held, hold)} - {"hold.no-stop"}
    return not own and held.clear(held.solids(hold))
