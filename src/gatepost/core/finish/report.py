# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Finish stage says: its steps, what is left to clean up, how far it may be sanded, what is mixed, and how it hangs."""

from __future__ import annotations

import math
from dataclasses import dataclass

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Figure, Finding, Fix, Level, Report, Table, gate_of, waiting
from gatepost.core.finish.cleanup import LeftOver, cleaning
from gatepost.core.finish.coats import litres, slower
from gatepost.core.finish.cost import CostOf, CostTold, cost, not_counted
from gatepost.core.finish.hanging import screw_reach, slot, stainless, weighs
from gatepost.core.finish.movement import MOVES, moisture_at, wider
from gatepost.core.finish.pour import pour
from gatepost.core.finish.progress import FinishSoFar, so_far
from gatepost.core.finish.sanding import SandedStroke, as_far_as, strokes, takes
from gatepost.core.finish.scheme import WORDS, FinishStep, FinishWork, finish_steps, misfits, own_time
from gatepost.core.finish.times import told_time
from gatepost.core.job.finish import Tin
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

STAGE = "finish"


@dataclass(frozen=True)
class SandedLetters:
    """Strokes with sloping walls. widths: name and mm at the face of each letter's thinnest; widest: name and mm of the widest of all, nothing between letters that stand; half: of the walls, degrees from upright; raised: whether they are gaps between letters that stand;
    setup: in which they are cut; where: each, on the bed."""

    widths: tuple[tuple[str, float], ...]
    half: float
    raised: bool = False
    setup: str = ""
    where: tuple[tuple[float, float], ...] = ()
    widest: tuple[str, float] | None = None


@dataclass(frozen=True)
class GrooveFilled:
    """What an operation cut away: mm³, and mm at the deepest; colour: that it gets, nothing where none was named."""

    name: str
    volume: float
    deep: float
    colour: str = ""


@dataclass(frozen=True)
class Finished:
    """A sign as it comes off the machine. left: to be cleaned up; letters: what sanding changes; grooves: what resin fills; volume: of its wood, mm³; across: its width across the grain, mm; behind: wood between
    its back and the deepest groove, mm; cut: whether anything is cut yet; cutting: minutes of its programs; laying: minutes of laying the board; board: as it is bought, mm³; metres: that each bit cuts, and its price; size: across and up of the largest, mm; pieces: signs that the board becomes."""

    work: FinishWork
    left: tuple[LeftOver, ...]
    letters: tuple[SandedLetters, ...]
    grooves: tuple[GrooveFilled, ...]
    wood: str
    volume: float
    density: float
    across: float
    behind: float
    cut: bool
    cutting: float = 0.0
    laying: float = 0.0
    board: float = 0.0
    metres: tuple[tuple[str, float, float], ...] = ()
    size: tuple[float, float] = (0.0, 0.0)
    pieces: int = 1


def finish_report(s: Finished) -> Report:
    """The Finish stage's."""
    w = s.work
    steps = finish_steps(w)
    gone = so_far(w)
    own = any(own_time(w.finish.own, one.work, w.wood) for one in steps)
    rules = (
        "hands as this shop's own record has them, and its rules where it has none"
        if own
        else "hands as this shop's rules have them"
    )
    hands = working(
        "steps + machine", Named("steps", math.fsum(one.hands for one in steps if one.kind != "run"), "minutes"), Named("machine", w.run, "minutes"),
        unit="minutes", assumption=f"{rules}; a router that runs is not left alone", shop_rule=True,
    )  # fmt: skip
    dry = [one for one in steps if one.waits]
    names = [f"wait{i}" for i in range(1, len(dry) + 1)]
    waits = working(
        f"({' + '.join(names) or '0'}) / 60", *(Named(n, one.waits, "minutes", one.brief) for n, one in zip(names, dry)), unit="h", assumption="by the tins' labels, one coat after another",
    )  # fmt: skip
    known = own_time(w.finish.own, "clean up", w.wood)
    clean = cleaning(s.left, known.factor if known is not None else 1.0, known.count if known is not None else 0)
    weight = weighs(s.volume / s.pieces, s.density)
    figures = [
        Figure("Hands, the machine's run in it", hands.result, "minutes", hands, places=0),
        Figure("Waiting, at the least", waits.result, "h", waits, places=1),
        Figure("Clean-up", clean.result, "minutes", clean, places=0),
        Figure("Weight" if s.pieces == 1 else f"Weight of each of {s.pieces}", weight.result, "kg", weight, places=2),
    ]
    if w.finish.coats:
        slow = slower(w.finish.celsius, w.finish.damp)
        figures.append(Figure("Dries slower than the label by", slow.result, "times", slow, places=2))
        room = moisture_at(max(w.finish.celsius, -20.0), w.finish.damp)
        figures.append(Figure("Wood comes to, in this room", room.result, "%", room, places=1))
    if s.behind > 0.0:
        reach = screw_reach(s.behind)
        figures.append(Figure("A screw from behind, at most", reach.result, "length", reach))
    said = [*_no_coats(w), *_room(steps), *_misfits(w), *_too_old(w), *_too_thin(s), *_moves(s, figures), *_screws(s)]
    tables = (
        _steps_table(gone),
        *_how_table(steps),
        *_cautions_table(steps),
        *_left_table(s),
        *_sanding_table(s, figures),
        *_tins_table(w),
        *_resin_table(s, said),
        *_cost_table(s, figures),
    )
    none = w.scheme != "bare" and not w.finish.coats
    fact = (
        f"{len(gone.done)} of {len(steps)} steps done"
        if gone.done
        else "left bare"
        if w.scheme == "bare"
        else "no coats yet"
        if none
        else f"{sum(c.count for c in w.finish.coats)} coats · {told_time(60.0 * waits.result)}"
    )
    told = Report(
        STAGE,
        fact,
        f"{WORDS[w.scheme]}, {hands.result:.0f} min of hands",
        tuple(figures),
        tuple(said),
        gate_of(tuple(said)),
        tables,
    )
    if not s.cut:
        return waiting(Report(STAGE, "nothing to finish yet", "nothing to finish yet"))
    return waiting(told) if none else told


def cost_of(s: Finished) -> CostTold:
    """What it costs, by the shop's rates, and its price."""
    return cost(what_costs(s), s.work.finish.rates)


def price_of_each(s: Finished) -> Working:
    """Of a board that becomes several signs."""
    rates = s.work.finish.rates
    return working(
        "price / signs", Named("price", cost_of(s).price.result, rates.money), Named("signs", float(s.pieces), "number"), unit=rates.money, assumption="all alike, whatever each one's size",
    )  # fmt: skip


def left_out(s: Finished) -> tuple[str, ...]:
    """What is not in its cost, as it has no rate or no price."""
    return not_counted(what_costs(s), s.work.finish.rates)


def what_costs(s: Finished) -> CostOf:
    """What its cost is worked out from."""
    w, steps = s.work, finish_steps(s.work)
    tins = [(tin.name, much.result, tin.price) for tin, much in _tins(w) if much is not None]
    days = math.fsum(one.waits for one in steps) / 1440.0
    return CostOf(
        max(w.run - s.cutting, 0.0) + s.laying, s.cutting, math.fsum(one.hands for one in steps if one.kind != "run"), days, s.board,
        {name: (metres, price) for name, metres, price in s.metres}, tins,
    )  # fmt: skip


def _cost_table(s: Finished, figures: list[Figure]) -> list[Table]:
    rates = s.work.finish.rates
    if not (rates.hands or rates.machine or rates.wood):
        return []
    told = cost_of(s)
    sign = rates.money
    figures += [
        Figure("It costs", told.cost.result, sign, told.cost, places=2),
        Figure("Price", told.price.result, sign, told.price, places=2),
    ]
    if s.pieces > 1:
        each = price_of_each(s)
        figures.append(Figure(f"Price of each of {s.pieces}", each.result, sign, each, places=2))
    rows = [(name, f"{w.result:.2f}") for name, w in told.parts if w.result]
    return [("What it costs", (("Part", sign), *rows, *((f"not counted: {name}", "–") for name in left_out(s))))]


def _no_coats(w: FinishWork) -> list[Finding]:
    if w.scheme == "bare" or w.finish.coats:
        return []
    message = f"It is to be {WORDS[w.scheme]}, and no coats are chosen yet: nothing is told of paint, and of when it is ready."
    return [
        Finding(
            "finish.no-coats",
            Level.NOTE,
            STAGE,
            message,
            fixes=(Fix("take coats", w.goes_with, "Coats that go with it"),),
        )
    ]


def _room(steps: list[FinishStep]) -> list[Finding]:
    stuck = dict.fromkeys(one.stuck for one in steps if one.stuck)
    return [
        Finding("finish.too-cold", Level.CARE, STAGE, f"{words} Its clock stands until it is warmer.")
        for words in stuck
    ]


def _misfits(w: FinishWork) -> list[Finding]:
    return [Finding("finish.over", Level.CARE, STAGE, why, about=name) for name, why in misfits(w)]


def _too_old(w: FinishWork) -> list[Finding]:
    """Tins that keep no longer than until before the day on which it is begun."""
    used = {c.tin for c in w.finish.coats}
    return [
        Finding("finish.too-old", Level.CARE, STAGE, f"{t.name} keeps until {t.best}, by its label, and it is begun on {w.finish.begins}: try it on scrap first, or take a new tin.", about=t.name)
        for t in w.finish.tins
        if t.id in used and t.best and w.finish.begins and t.best[:10] < w.finish.begins[:10]
    ]  # fmt: skip


def _too_thin(s: Finished) -> list[Finding]:
    """Strokes that the grits take too much of."""
    finish = s.work.finish
    sanded = takes(finish.grits, s.work.wood)
    out = []
    for some in s.letters:
        thin = [
            one
            for one in strokes(some.widths, sanded.result, some.half, finish.least, some.raised)
            if _thin(one, sanded.result, finish.least)
        ]
        if not thin or s.work.scheme == "painted first":
            continue
        worst = thin[0]
        enough = as_far_as(finish.grits, s.work.wood, worst.bears)
        names = ", ".join(one.name for one in thin[:6]) + (f" and {len(thin) - 6} more" if len(thin) > 6 else "")
        how = "closes up" if some.raised else "comes out thinner than that"
        fix = Fix("set finish", {"grits": enough}, f"Begin with P{enough[0]}" if enough else "Do not sand it")
        out.append(
            Finding(
                "finish.sanded-thin", Level.CARE, STAGE,
                f"Sanding takes about {mm(sanded.result, 2)}, and a stroke is to keep {mm(finish.least)}: {names} {how}, at the worst {mm(worst.left, 2)} of {mm(worst.width, 2)}.",
                working=sanded, fixes=(fix,),
            )
        )  # fmt: skip
    return out


def _thin(one: SandedStroke, sanded: float, least: float) -> bool:
    return one.bears < sanded and one.width >= least


def thin_letters(s: Finished, setup: str) -> list[tuple[float, float]]:
    """Where letters stand that sanding makes too thin, on the bed of a setup."""
    finish, out = s.work.finish, []
    if s.work.scheme == "painted first":
        return []
    sanded = takes(finish.grits, s.work.wood).result
    for some in s.letters:
        for named, place in zip(some.widths, some.where):
            (one,) = strokes([named], sanded, some.half, finish.least, some.raised)
            if some.setup == setup and _thin(one, sanded, finish.least):
                out.append(place)
    return out


def _moves(s: Finished, figures: list[Figure]) -> list[Finding]:
    finish = s.work.finish
    try:
        moves = wider(s.across, s.wood, finish.dry, finish.wet)
    except OperatorError as error:
        return [Finding("finish.no-movement", Level.NOTE, STAGE, str(error))]
    figures.append(Figure("Gets wider across its grain by", moves.result, "length", moves, places=2))
    long = slot(s.across, MOVES[s.wood].tangential, finish.dry, finish.wet, 0.0)
    figures.append(Figure("Slot at its edge, over its screw", long.result, "length", long, places=1))
    if moves.result < 1.0:
        return []
    return [
        Finding("finish.moves", Level.NOTE, STAGE, f"Between {finish.dry:g} and {finish.wet:g} % of moisture it gets {mm(moves.result)} wider: seal both faces alike and end grain twice, fix it in its middle and slot the other holes.", working=moves)
    ]  # fmt: skip


def _screws(s: Finished) -> list[Finding]:
    words = stainless(s.wood)
    return [Finding("finish.screws", Level.NOTE, STAGE, words)] if words else []


def _steps_table(gone: FinishSoFar) -> Table:
    rows = [("Step", "hands, min", "then waits", "next by")]
    for one, record in gone.done:
        took = f"{record.minutes:.0f}, {one.hands:.0f} planned" if record.minutes else f"{one.hands:.0f} planned"
        rows.append((f"✓ {one.brief or one.title}", took, f"done {record.at[:16].replace('T', ' ')}", "–"))
    for one in gone.left:
        wait = "until it is warmer" if one.stuck else told_time(one.waits) if one.waits else "–"
        rows.append(
            (
                one.brief or one.title,
                f"{one.hands:.0f}",
                wait,
                told_time(one.within) if math.isfinite(one.within) else "–",
            )
        )
    return "What is done, one after another", tuple(rows)


def _cautions_table(steps: list[FinishStep]) -> list[Table]:
    """What is warned of beside each act; the maker's label, local rules and the machine's manual come first."""
    rows: list[tuple[str, ...]] = []
    for words in dict.fromkeys(c for one in steps for c in one.cautions):
        of = dict.fromkeys((one.brief or one.title).partition(",")[0] for one in steps if words in one.cautions)
        rows.append((f"{', '.join(of)}: {words}",))
    return [("Beside the act", (("Label, local rules and the machine's manual come first.",), *rows))] if rows else []


def _how_table(steps: list[FinishStep]) -> list[Table]:
    rows = [(f"{one.title} {one.detail}".strip(),) for one in steps]
    return [("How each is done", (("Step by step",), *rows))] if rows else []


def _left_table(s: Finished) -> list[Table]:
    if not s.left:
        return []
    rows = [("Left by the cutter", "setup", "min"), *((one.what, one.setup, f"{one.minutes:.0f}") for one in s.left)]
    how = [(words,) for words in dict.fromkeys(one.how for one in s.left if one.how)]
    return [
        ("To be cleaned up", tuple(rows)),
        *([("How it is freed and evened", (("So that the sign suffers least",), *how))] if how else []),
    ]


def _sanding_table(s: Finished, figures: list[Figure]) -> list[Table]:
    finish = s.work.finish
    if not finish.grits or s.work.scheme == "painted first":
        return []
    all_of_it = takes(finish.grits, s.work.wood)
    figures.append(Figure("Sanding takes", all_of_it.result, "length", all_of_it, places=2))
    rows = [("Up to", "taken in all", "thinnest stroke")]
    letters = [one for one in s.letters if not one.raised and one.widths]
    for n, grit in enumerate(finish.grits, start=1):
        gone = takes(finish.grits[:n], s.work.wood).result
        left = [stroke.left for one in letters for stroke in strokes(one.widths, gone, one.half, finish.least)]
        rows.append((f"P{grit}", mm(gone, 2), mm(min(left), 2) if left else "–"))
    return [("Grit by grit", tuple(rows))]


def _tins(w: FinishWork) -> list[tuple[Tin, Working | None]]:
    """Each tin that is used, and how much of it, litres; nothing where its label does not say how far it goes."""
    out: list[tuple[Tin, Working | None]] = []
    for tin in w.finish.tins:
        mine = [c for c in w.finish.coats if c.tin == tin.id]
        out += [(tin, litres(tin, math.fsum(w.area.under(c) * c.count for c in mine)))] if mine else []
    return out


def _tins_table(w: FinishWork) -> list[Table]:
    rows = [("Tin", "for", "colour", "smell")]
    for tin, much in _tins(w):
        wanted = f"{much.result * 1000:.0f} ml" if much is not None else "–"
        rows.append((tin.name, wanted, tin.shift or "–", tin.smell or "–"))
    return [("Tins", tuple(rows))] if len(rows) > 1 else []


def _resin_table(s: Finished, said: list[Finding]) -> list[Table]:
    """Resin by what it fills: each colour is mixed by itself, for all its grooves."""
    coats = [(c, s.work.finish.tin(c.tin)) for c in s.work.finish.coats]
    rows: list[tuple[str, ...]] = []
    try:
        for coat, tin in coats:
            if tin.does == "resin":
                rows += _poured(s, coat.colour, tin)
    except OperatorError as error:
        said.append(Finding("finish.resin", Level.CARE, STAGE, str(error)))
        return []
    head = ("Fills", "resin", "hardener", "pours")
    return [("Resin, a tenth more than the grooves hold", (head, *rows))] if rows else []


def _poured(s: Finished, colour: str, tin: Tin) -> list[tuple[str, ...]]:
    """What is mixed of a tin, a line for each colour: of one alone, or of all where none is named."""
    mine = [g for g in s.grooves if colour in ("", g.colour)]
    out: list[tuple[str, ...]] = []
    for one in dict.fromkeys(g.colour for g in mine):
        same = [g for g in mine if g.colour == one]
        p = pour(tin, math.fsum(g.volume for g in same), max(g.deep for g in same))
        names = ", ".join(dict.fromkeys(g.name for g in same))
        out.append((f"{one}: {names}" if one else names, f"{p.parts[0]:.1f} ml", f"{p.parts[1]:.1f} ml", f"{p.pours}"))
    return out
