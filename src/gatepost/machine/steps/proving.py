# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece proved before it is cut, or by a ring round an old hole: what was seen written down, and X0 Y0 brought after it."""

from __future__ import annotations

import math

from gatepost.core.errors import OperatorError
from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.journal import Journal
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.proved import moved_by, proving, ring_art
from gatepost.core.plan.result import Plan
from gatepost.core.register.fit import FitVerdict
from gatepost.core.register.looks import WIDTH, Looked, ring_told, tilted
from gatepost.core.register.marks import MOST_TURN, ReadMark
from gatepost.core.register.moved import Moved
from gatepost.core.run.step import Step
from gatepost.core.units import mm
from gatepost.core.zero.recover import FARTHEST
from gatepost.core.zero.trust import Trust, laid_anew, trust, where
from gatepost.machine.in_hand import InHand
from gatepost.machine.standing_checks import now, who

ANEW = "The plan is being worked out anew by what was seen. Once more, when it is there."


def over(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """The tip brought over a mark, and how far that lies beside it looked at."""
    looks = setup.proving.looks
    mark = _mark(looks, step)
    at.journal = looked_over(at.journal, setup, step, at.seen(setup, mark.drawn), now())


def looked_over(journal: Journal, setup: PlannedSetup, step: Step, off: tuple[float, float], at: str) -> Journal:
    """The journal with a look over a mark. off: how far it lies right of the tip and behind it, mm. Raises OperatorError where it is too far for a miss."""
    looks = setup.proving.looks
    mark = _mark(looks, step)
    assert looks is not None
    if max(abs(v) for v in off) > FARTHEST:
        raise OperatorError(
            f"{mm(max(abs(v) for v in off), 2)} is too far for a miss: it is another mark, or another piece. Look again, or touch off anew."
        )
    x, y = off
    if mark.normal is not None:  # along an edge nothing can be seen
        n = (math.cos(math.radians(mark.normal)), math.sin(math.radians(mark.normal)))
        along = x * n[0] + y * n[1]
        x, y = along * n[0], along * n[1]
    return journal.add(
        at, "proved", setup.name, mark=_id(step), x=round(x, 4), y=round(y, 4), within=round(looks.limit, 4)
    )


def ring(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """A ring round an old hole measured, which a simulated machine has to be asked for: how far the hole lies beside its middle."""
    rings = setup.proving.rings
    mark, axes = _mark(rings, step), at.axes(setup)
    if axes.x.machine is None or axes.y.machine is None:
        raise OperatorError("X0 and Y0 are not known: touch off again.")
    cut_at = [z + p - m for z, p, m in zip((axes.x.machine, axes.y.machine), mark.drawn, setup.placed.mark)]
    tip = at.session.last["machine"]
    seen = at.session.sight(*setup.meant(mark.drawn), WIDTH)
    a, b = (seen[k] + float(tip[k]) - cut_at[k] for k in (0, 1))
    outer, hole = _across(at.plan, setup)
    low, high = (math.sqrt(max(outer**2 / 4.0 - v * v, 0.0)) for v in (b, a))
    widths = (low - a - hole / 2.0, high - b - hole / 2.0, low + a - hole / 2.0, high + b - hole / 2.0)
    at.journal = ring_measured(at.journal, at.plan, setup, step, tuple(max(round(w, 3), 0.0) for w in widths), now())


def ring_measured(
    journal: Journal, plan: Plan, setup: PlannedSetup, step: Step, widths: tuple[float, ...], at: str
) -> Journal:
    """The journal with the widths of a ring, right, back, left and front, and where its hole lies by them. Raises OperatorError."""
    _mark(setup.proving.rings, step)
    _of_this_zero(journal, setup)
    right, back = _off(plan, setup, widths)
    assert setup.setup.ring is not None
    named = dict(zip(("right", "back", "left", "front"), widths))
    return journal.add(
        at, "ringed", setup.name, mark=_id(step), x=round(right, 4), y=round(back, 4), within=setup.setup.ring.limit, **named
    )  # fmt: skip


def _of_this_zero(journal: Journal, setup: PlannedSetup) -> None:
    """Raise OperatorError where a ring was cut by another X0 Y0 than the one of now: it says where that was, and would move this one by as much once more."""
    ring = setup.setup.ring
    cut = next((o.name for o in setup.setup.operations if ring is not None and o.id == ring.operation), "")
    names = {p.name for p in setup.programs if cut in p.operations}
    entries = [e for e in journal.this_board() if e.setup == setup.name]
    cut_whole = (
        i
        for i, e in enumerate(entries)
        if e.kind == "run ended" and e.data.get("program") in names and e.data.get("outcome") == "done"
    )
    last = max(cut_whole, default=-1)
    if last < 0:
        raise OperatorError("The ring is not cut yet, to its end: run its program first.")
    anew = any(
        e.kind == "moved" or (e.kind == "touched" and e.data.get("axis") in ("x", "y")) or laid_anew(e)
        for e in entries[last + 1 :]
    )
    if anew:
        raise OperatorError(
            "X0 Y0 was set anew, or the piece was moved, since this ring was cut: it says where that was, not where this is. Cut it once more, a little deeper, or look over the marks."
        )


def _off(plan: Plan, setup: PlannedSetup, widths: tuple[float, ...]) -> tuple[float, float]:
    right, back, left, front = widths
    outer, hole = _across(plan, setup)
    drawn, across = setup.setup.ring, setup.blank.across
    assert drawn is not None
    tilt = tilted(plan.thickness.mean, *across, drawn.right, drawn.back)
    return ring_told(right, back, left, front, outer, hole, tilt)


def _across(plan: Plan, setup: PlannedSetup) -> tuple[float, float]:
    """Diameters of the ring and of the old hole, as drawn."""
    both = ring_art(plan.job, setup.setup)
    if both is None:
        raise OperatorError("The ring is not in the plan any more.")
    old, cut = (a.figures for a in both)
    assert isinstance(old, HolesFigures) and isinstance(cut, HolesFigures)
    return cut.across, old.across


def take(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """X0 Y0 where the marks, or the rings, were seen."""
    at.journal, found = taken(at.journal, at.plan, setup, step, now())
    if not found:
        return
    at.session.zero(**found)
    if at.replan is not None:
        at.plan = at.replan(at.journal)


def taken(journal: Journal, plan: Plan, setup: PlannedSetup, step: Step, at: str) -> tuple[Journal, dict[str, float]]:
    """The journal with what was seen taken, and X0 and Y0 on the machine by it; no such where all lie as they should. Raises OperatorError where something was not looked
    at, or does not fit."""
    if moved_by(journal, setup.name) != setup.proving.moved:
        raise OperatorError(ANEW)
    told = proving(plan.job, setup.setup, setup.proving.moved, journal)
    looks = told.rings if step.key == "take-rings" else told.looks
    if looks is None:
        raise OperatorError("There is nothing to look at in the plan any more.")
    if not looks.complete:
        left = [m.name for i, m in zip(looks.ids, looks.marks) if i not in looks.seen]
        raise OperatorError(f"Look at {' and '.join(left)} first.")
    if looks.agrees:
        return journal, {}
    if not looks.stands or looks.fit is None:
        raise OperatorError(f"{why_not(looks)} Nothing is changed: look again, or lay the piece anew.")
    axes = trust(journal.standing(), where(plan.job, setup.setup))
    if axes.x.machine is None or axes.y.machine is None or Trust.LOST in (axes.x.trust, axes.y.trust):
        raise OperatorError("X0 and Y0 are lost: there is nothing to move. Touch off again.")
    move = Moved(round(looks.move.degrees, 6), round(looks.move.x, 4), round(looks.move.y, 4))
    mark = setup.placed.mark
    there = move.there(*mark)
    found = {"x": axes.x.machine + there[0] - mark[0], "y": axes.y.machine + there[1] - mark[1]}
    journal = _noted_anew(journal, setup, move, at)
    base = Trust.TRUSTED if looks.sure else Trust.PROVISIONAL
    journal = journal.add(
        at, "moved", setup.name, degrees=move.degrees, x=move.x, y=move.y, by=step.key.removeprefix("take-")
    )
    for axis, value in found.items():
        journal = journal.add(
            at, "touched", setup.name, axis=axis, machine=round(value, 4), way="proof", base=base.value, by=who()
        )
    return journal, found


def _noted_anew(journal: Journal, setup: PlannedSetup, move: Moved, at: str) -> Journal:
    """The journal with how the witness mark lies, told from where the tip will stand over it."""
    noted = next((e for e in reversed(journal.this_board()) if e.kind == "noted" and e.setup == setup.name), None)
    if noted is None or setup.witness is None:
        return journal
    there = move.there(*setup.witness)
    x, y = (float(noted.data[a]) - (there[i] - setup.witness[i]) for i, a in enumerate("xy"))
    return journal.add(at, "noted", setup.name, x=round(x, 4), y=round(y, 4))


def why_not(looks: Looked) -> str:
    """Why what was seen can't be taken."""
    fit = looks.fit
    if fit is not None and fit.verdict is FitVerdict.FITS:
        return f"The piece lies turned by {looks.skew + fit.turn:.1f}°: lay it straighter, by {MOST_TURN:.0f}° at the most."
    return fit.sentence if fit is not None else ""


def _mark(looks: Looked | None, step: Step) -> ReadMark:
    """The mark that a step is about. Raises OperatorError where it is not there any more."""
    if looks is None or _id(step) not in looks.ids:
        raise OperatorError("This mark is not in the plan any more.")
    return looks.marks[looks.ids.index(_id(step))]


def _id(step: Step) -> str:
    return step.key.partition("-")[2].removesuffix("-mark")
