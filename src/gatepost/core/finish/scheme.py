# SPDX-License-Identifier: GPL-3.0-or-later
"""The steps of a finish, in their order, each with the minutes of hands and of waiting: from the scheme, the tins' labels, the wood and the room."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from gatepost.core.acts import DUST, FREEING
from gatepost.core.finish.coats import SANDING, cautions, dries, goes_on, stands, until_next
from gatepost.core.finish.pour import pours
from gatepost.core.finish.sanding import takes
from gatepost.core.finish.shelf import shipped_finishes
from gatepost.core.job.carve import VCut
from gatepost.core.job.finish import Coating, Finish, OwnTime, SchemeName, Tin
from gatepost.core.job.model import Job
from gatepost.core.units import mm

BRUSH, WIPE, DETAIL = 14.0, 10.0, 60.0  # minutes of hands for a m²: brushed; wiped on and off; letters coloured by hand
SET_UP, LETTER = 6.0, 0.4  # minutes of every coat for stirring and cleaning up; of every letter that is coloured
SAND = 9.0  # minutes of hands for a m² and a grit
SOAKS = 15.0  # minutes that oil or stain stands before it is wiped off
SPREAD = 0.25  # share by which hands may take longer or shorter, until the shop's own record says otherwise
DAMPED = 120.0  # minutes until wood that was damped is dry again
ON = {
    "face": "on the face",
    "letters": "in the letters",
    "all round": "all round, both faces alike, end grain twice",
    "edges": "on the bare cut edges",
}
WORDS: dict[SchemeName, str] = {
    "": "as Carve has it", "painted first": "painted first, then carved", "painted after": "carved, then painted", "stained": "stained", "oiled": "oiled", "bare": "left bare",
}  # fmt: skip


@dataclass(frozen=True)
class SignArea:
    """What is coated, mm²: a face, what is carved in it, its edges, and all round with both faces; count: of letters; by_colour: what is carved of each colour, mm²."""

    face: float
    letters: float
    edges: float
    round: float
    count: int = 0
    by_colour: tuple[tuple[str, float], ...] = ()

    def under(self, coat: Coating) -> float:
        """What one of some coats covers."""
        inside = self.letters * self.share(coat.colour)
        return {"face": self.face, "letters": inside, "all round": self.round, "edges": self.edges}[coat.where]

    def share(self, colour: str) -> float:
        """Of what is carved, 0 to 1, that gets a colour; all of it where none is named."""
        whole = math.fsum(area for _, area in self.by_colour)
        return 1.0 if not colour or whole <= 0.0 else math.fsum(a for c, a in self.by_colour if c == colour) / whole


@dataclass(frozen=True)
class FinishStep:
    """A step. key: its own; hands, waits: minutes; within: minutes after its end by which the next must have begun, inf where there is no end; late: minutes more of the next where it had not; stuck: why it
    never dries, in words; before: whether it comes before what is carved; by_day: whether it dries only by day; brief: its title in few words;
    work: the kind of hands that it asks for, of which the shop has its own record; rule: minutes of hands by shop rules; off: by how much one such step may take less, and more, times."""

    key: str
    title: str
    detail: str = ""
    hands: float = 0.0
    waits: float = 0.0
    within: float = math.inf
    late: float = 0.0
    cautions: tuple[str, ...] = ()
    stuck: str = ""
    before: bool = False
    kind: str = "hands"
    by_day: bool = False
    brief: str = ""
    work: str = ""
    rule: float = 0.0
    off: tuple[float, float] = (1.0 - SPREAD, 1.0 + SPREAD)


@dataclass(frozen=True)
class FinishWork:
    """What a finish is worked out from. scheme: as it is meant; cleaning: minutes, and what of; run: minutes at the machine, its changes in it; wood: soft, medium or hard; deep: of the deepest groove, deepest: of that of a colour, mm; goes_with: coats that go with the scheme, as a command takes them."""

    finish: Finish
    scheme: SchemeName
    area: SignArea
    wood: str
    cleaning: float = 0.0
    left: tuple[str, ...] = ()
    run: float = 0.0
    deep: float = 0.0
    deepest: Mapping[str, float] = field(default_factory=dict)
    goes_with: Mapping[str, object] = field(default_factory=dict)


def scheme_of(finish: Finish, coated: bool, painted: bool) -> SchemeName:
    """Which scheme is meant. coated: whether a face is coated before it is carved; painted: whether letters are painted afterwards."""
    return finish.scheme or ("painted first" if coated else "painted after" if painted else "bare")


def suggested(scheme: SchemeName, tins: Sequence[Tin]) -> tuple[Coating, ...]:
    """Coats that go with a scheme, of the first tins that do what is wanted; none of what is not on the shelf."""
    wanted: dict[SchemeName, tuple[tuple[str, int, str], ...]] = {
        "painted first": (
            ("primer", 1, "all round"),
            ("colour", 2, "face"),
            ("colour", 1, "letters"),
            ("colour", 1, "edges"),
        ),
        "painted after": (("primer", 1, "all round"), ("colour", 2, "all round"), ("colour", 2, "letters")),
        "stained": (("stain", 1, "all round"), ("varnish", 3, "all round")),
        "oiled": (("oil", 3, "all round"),),
    }
    out = []
    for does, count, where in wanted.get(scheme, ()):
        tin = next((t for t in tins if t.does == does), None)
        if tin is not None:
            out.append(Coating(tin=tin.id, count=count, where=where))
    return tuple(out)


def coats_for(job: Job) -> dict[str, object]:
    """The coats that go with a job's scheme, and the tins that they are of: its own, else those that ship. As a command takes them, in plain values; nothing where it has just those."""
    painted = any(o.figures.painted for s in job.setups for o in s.operations if isinstance(o.figures, VCut))
    scheme = scheme_of(job.finish, bool(job.blank.coats), painted)
    have = {t.id for t in job.finish.tins}
    shelf = (*job.finish.tins, *(t for t in shipped_finishes() if t.id not in have))
    coats = suggested(scheme, shelf)
    if [_what(c) for c in coats] == [_what(c) for c in job.finish.coats]:
        return {}
    used = {c.tin for c in coats}
    dumped = [t.model_dump(mode="json") for t in shelf if t.id in used]
    return {"tins": dumped, "coats": [c.model_dump(mode="json") for c in coats]}


def _what(coat: Coating) -> tuple[str, int, str]:
    return coat.tin, coat.count, coat.where


def finish_steps(w: FinishWork) -> list[FinishStep]:
    """All steps from the bare, planed board to the sign that hangs, the machine's in one; minutes of hands by the shop's own record where it has one."""
    return [_own(w, step) for step in _by_rules(w)]


def _own(w: FinishWork, step: FinishStep) -> FinishStep:
    known = own_time(w.finish.own, step.work, w.wood)
    if known is None or step.kind == "run":
        return replace(step, rule=step.hands, off=(1.0, 1.0) if step.kind == "run" else step.off)
    off = (1.0 / known.spread, known.spread)
    return replace(step, rule=step.hands, hands=step.hands * known.factor, late=step.late * known.factor, off=off)


def own_time(own: Sequence[OwnTime], work: str, wood: str) -> OwnTime | None:
    """What the shop's own record says of a kind of hands: in such wood, else in any."""
    mine = [o for o in own if o.work == work and o.wood in ("", wood)]
    return max(mine, key=lambda o: bool(o.wood), default=None) if work else None


def _by_rules(w: FinishWork) -> list[FinishStep]:
    first = [c for c in w.finish.coats if _before(w, c)]
    then = [c for c in w.finish.coats if not _before(w, c)]
    stained = any(w.finish.tin(c.tin).does == "stain" for c in then)
    out = [*_coated(w, first, True), *([_masked(w)] if first else []), *_cut_and_cleaned(w)]
    if w.scheme in ("painted after", "stained", "oiled", "bare") and w.finish.grits:
        out += _sanded(w)
    if w.finish.coats or w.scheme != "bare":
        out.append(_dusted(w))
    if stained and not w.finish.tried:
        out.append(TRY)
    if first:  # while the colour in the letters is firm, and not yet hard
        inside = [c for c in then if c.where == "letters"]
        out += [*_coated(w, inside, False, peeled=True), _peeled(w)]
        then = [c for c in then if c not in inside]
    return [*out, *_coated(w, then, False), HANG]


TRY = FinishStep("scrap", "Try stain and coats on scrap of this board, sanded alike.", "End grain and letters take more: look at it dry.", 15.0, DAMPED, brief="try on scrap", work="try on scrap")  # fmt: skip
HANG = FinishStep("hang", "Let it harden, then hang it.", "Slotted holes across the grain; screws short of the deepest groove.", 20.0, brief="hang it", work="hang")  # fmt: skip


def _masked(w: FinishWork) -> FinishStep:
    minutes = 5.0 + 6.0 * w.area.face * 1e-6
    return FinishStep("mask", "Mask the face where it must stay clean.", "What is carved goes through film and paint.", minutes, before=True, brief="mask the face", work="mask")  # fmt: skip


def _peeled(w: FinishWork) -> FinishStep:
    minutes = 5.0 + LETTER * w.area.count
    return FinishStep("peel", "Peel the mask, while the colour is firm and not brittle.", "Slowly, back over itself, away from the letters.", minutes, brief="peel the mask", work="peel")  # fmt: skip


def _cut_and_cleaned(w: FinishWork) -> list[FinishStep]:
    return [
        FinishStep("run", "Carve it at the machine.", "With somebody beside it all the while.", w.run, kind="run", brief="carve"),
        FinishStep("clean", "Clean up what the cutter left.", f"Left by the cutter: {', '.join(w.left) or 'nothing that is known of'}.", w.cleaning, cautions=(FREEING, DUST), brief="clean up", work="clean up"),
    ]  # fmt: skip


def _dusted(w: FinishWork) -> FinishStep:
    return FinishStep("dust", "Brush and blow the dust out of every groove, and look at each.", "Colour waits until all are clear: dust in paint shows.", 2.0 + 0.3 * w.area.count, cautions=(DUST,), brief="dust out", work="dust out")  # fmt: skip


def _before(w: FinishWork, coat: Coating) -> bool:
    """Whether a coat comes before carving."""
    return (
        w.scheme == "painted first" and coat.where in ("face", "all round") and w.finish.tin(coat.tin).does != "varnish"
    )


def _sanded(w: FinishWork) -> list[FinishStep]:
    grits = w.finish.grits
    words = ", ".join(f"P{g}" for g in grits)
    step = FinishStep("sand", f"Sand the face: {words}.", f"With the grain, each until the marks of the one before are gone; about {mm(takes(grits, w.wood).result, 2)} goes.", SET_UP + SAND * len(grits) * w.area.face * 1e-6, cautions=(SANDING,), brief=f"sand {words}", work="sand")  # fmt: skip
    if not any(w.finish.tin(c.tin).base == "water" for c in w.finish.coats[:1]):
        return [step]
    damp = FinishStep("damp", "Damp it with a cloth, let it dry, and sand the raised grain off.", f"Once, with P{grits[-1]} and a light hand: what comes next has water in it.", 4.0 + SAND * w.area.face * 1e-6, DAMPED, brief="damp, dry, sand the grain off", work="damp and sand")  # fmt: skip
    return [step, damp]


def _coated(w: FinishWork, coats: Sequence[Coating], before: bool, peeled: bool = False) -> list[FinishStep]:
    """Coat after coat, each with what it waits for. peeled: whether a mask is peeled after the last."""
    each = [(c, w.finish.tin(c.tin), n) for c in coats for n in range(1, _count(w, c) + 1)]
    out: list[FinishStep] = []
    sanded = False  # as the one before is past the time in which it could be coated as it is
    for i, (coat, tin, n) in enumerate(each):
        after = each[i + 1][1] if i + 1 < len(each) else None
        label, why = until_next(tin, after) if after is not None else (tin.hard, f"{tin.name} is hard")
        if peeled and after is None:
            label, why = tin.touch, f"{tin.name} is firm"
        cold = f"{tin.name} does not dry under {tin.lowest:g} °C, and the room has {w.finish.celsius:g} °C."
        stuck = cold if stands(tin, w.finish.celsius) else ""
        window = after is not None and tin.within > label
        of = f" {n}/{_count(w, coat)}" if _count(w, coat) > 1 else ""
        details = ["The one before is sanded first: it is too hard to be coated as it is."] if sanded else []
        details += [f"Wiped off after {SOAKS:g} min."] if tin.does in ("oil", "stain") else []
        details.append(f"Waits until {why}." if why else "Waits for the next coat.")
        out.append(
            FinishStep(
                f"{coat.id or coat.tin}-{n}", f"{tin.name[:1].upper()}{tin.name[1:]} {on_what(coat)}{of}.", " ".join(details), _hands(w, coat, tin) + (_rub(w) if sanded else 0.0),
                0.0 if stuck else dries(tin, label, w.finish), dries(tin, tin.within, w.finish) if window and not stuck else math.inf, _rub(w) if window else 0.0, cautions(tin), stuck, before,
                by_day=w.finish.night is not None and stands(tin, w.finish.night), brief=f"{tin.name}, {_in_short(coat)}{of}",
                work="colour letters" if coat.where == "letters" else "wipe on" if tin.does in ("oil", "stain") else "brush on",
            )
        )  # fmt: skip
        sanded = after is not None and 0.0 < tin.within <= label
    return out


def on_what(coat: Coating) -> str:
    """Where it goes, in words."""
    return f"in the letters in {coat.colour}" if coat.where == "letters" and coat.colour else ON[coat.where]


def _in_short(coat: Coating) -> str:
    return f"letters in {coat.colour}" if coat.where == "letters" and coat.colour else coat.where


def _count(w: FinishWork, coat: Coating) -> int:
    """Coats; of resin as many pours as the deepest groove of its colour asks for."""
    tin = w.finish.tin(coat.tin)
    return max(coat.count, pours(tin, w.deepest.get(coat.colour, w.deep))) if tin.does == "resin" else coat.count


def _rub(w: FinishWork) -> float:
    """Minutes to sand a coat before the next."""
    return SET_UP + SAND * w.area.face * 1e-6


def _hands(w: FinishWork, coat: Coating, tin: Tin) -> float:
    area = w.area.under(coat) * 1e-6
    if coat.where == "letters":
        return SET_UP + LETTER * w.area.count * w.area.share(coat.colour) + DETAIL * area
    return SET_UP + (WIPE * area + SOAKS if tin.does in ("oil", "stain") else BRUSH * area)


def misfits(w: FinishWork) -> list[tuple[str, str]]:
    """What does not go on what: the tin, and why."""
    out: list[tuple[str, str]] = []
    layers: dict[str, Tin] = {}
    for coat in w.finish.coats:
        tin = w.finish.tin(coat.tin)
        for place in _places(w, coat):
            below = layers.get(place)
            if below is not None and below.id != tin.id:
                why = goes_on(below, tin, w.finish.tried)
                if why and (tin.name, why) not in out:
                    out.append((tin.name, why))
            layers[place] = tin
    return out


def _places(w: FinishWork, coat: Coating) -> tuple[str, ...]:
    """On what a coat lies. What was coated before it is carved is bare again in the letters."""
    each = ("letters", *(f"letters in {c}" for c, _ in w.area.by_colour if c))
    round_ = ("face", "edges", "back") if _before(w, coat) else ("face", *each, "edges", "back")
    inside = (f"letters in {coat.colour}",) if coat.colour else each
    return {"face": ("face",), "letters": inside, "edges": ("edges",), "all round": round_}[coat.where]
