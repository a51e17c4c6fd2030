# SPDX-License-Identifier: GPL-3.0-or-later
"""The piece is laid on pins that stand in the spoilboard, through holes that were drilled with its other face up."""

from __future__ import annotations

import math

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.findings import Figure, Finding, Fix, Level, Place
from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.register import OnPins
from gatepost.core.job.rows import places
from gatepost.core.register.kind import STAGE, Bounds, Coming, ComingTold, RegisterKind
from gatepost.core.register.pins import (
    MOST_PINS,
    PinHole,
    bound,
    way_in_words,
    ways_on,
    widest_apart,
    worst_seating,
    worst_shifts,
)
from gatepost.core.tolerances import REGISTERED, UNDER_A_PIN
from gatepost.core.units import mm
from gatepost.core.working import Named, working

SEATED = "the worst of all turns and shifts that both pins allow; along their line, and square to it, from the middle between them"
SAME = 0.02  # mm within which a hole comes onto another
BELOW = 2.0  # mm that a pin's end stays under the face
APART = 0.5  # of a hole's diameter: wood that is left beside it at least
SLOT = 9.0  # mm from the middle of a T-slot to its lips and what they stand on
RIM = 1.0  # mm about a pin that no cutter comes nearer than
DEEP_ENOUGH = 0.8  # of its diameter, or of what the spoilboard allows, that a pin stands in it


class PinsKind(RegisterKind):
    """Laid on pins."""

    figures, one, keeps, zero = OnPins, "laid on pins", True, "as the setup before had it"
    laying = "Set the pins, and lay the board on them, its corner at {where}."
    entries = (
        KindEntry("Hole over pin, in the work", "length", "work"),
        KindEntry("Hole over pin, in the bed", "length", "bed"),
    )

    def told(self, coming: Coming) -> ComingTold:
        """Whether they are drilled, where they stand, what they may be off by, and every way round that it goes on them."""
        holes = pin_holes(coming.job, coming.setup)
        name = coming.setup.id
        if len(holes) < 2:
            return ComingTold(findings=(_too_few(coming),))
        if len(holes) > MOST_PINS:
            message = (
                f"{len(holes)} holes are meant for pins: two or three find a piece, and more than {MOST_PINS} bind."
            )
            return ComingTold(findings=(Finding("register.pins-many", Level.STOP, STAGE, message, name),))
        at = np.array([[h.x, h.y] for h in holes])
        stand = coming.now.array(at)
        was = coming.was.array(at)
        i, j = widest_apart(stand)
        apart = float(math.dist(stand[i], stand[j]))
        if apart < 2.0 * max(h.across for h in holes):
            message = f"The pins stand {mm(apart)} apart: that far apart they find nothing. Put them as far from each other as the board allows."
            return ComingTold(findings=(Finding("register.pins-near", Level.STOP, STAGE, message, name),))
        said = [*_drilled(coming, holes), *_standing(coming, holes, stand, was), *_beside(coming, holes, stand)]
        figures, more = _shifted(coming, max(holes[i].clearance, holes[j].clearance), stand[[i, j]], apart)
        return ComingTold((*figures, *_long(coming)), (*more, *said, *_ways(coming, holes, stand)))

    def bounds(self, job: Job, setup: Setup) -> Bounds | None:
        """By the two that stand farthest apart."""
        holes = pin_holes(job, setup)
        if len(holes) < 2:
            return None
        at = np.array([[h.x, h.y] for h in holes])
        i, j = widest_apart(at)
        c = max(holes[i].clearance, holes[j].clearance)
        apart = max(float(math.dist(at[i], at[j])), 1.0)
        return Bounds(c / 2.0, c / 2.0, math.degrees(c / apart), "on its pins", c)

    def pins(self, job: Job, setup: Setup) -> tuple[tuple[float, float], ...]:
        """Its holes."""
        return tuple((h.x, h.y) for h in pin_holes(job, setup))


def pin_holes(job: Job, setup: Setup) -> tuple[PinHole, ...]:
    """The holes that pins go through, on the blank's own frame."""
    comes = setup.comes
    if not isinstance(comes, OnPins):
        return ()
    found: list[PinHole] = []
    for art in job.artwork:
        if art.id not in comes.on or not isinstance(art.figures, HolesFigures):
            continue
        at = places(art)
        if art.face == "back":
            at = np.column_stack([job.blank.length - at[:, 0], at[:, 1]])
        called = art.title or art.id
        found += [
            PinHole(called if len(at) == 1 else f"{called}, {n}", float(x), float(y), art.figures.across, comes.work + comes.bed)
            for n, (x, y) in enumerate(at, start=1)
        ]  # fmt: skip
    return tuple(found)


def _too_few(coming: Coming) -> Finding:
    message = f"{coming.name} is laid on pins, and no two holes are named for them."
    fix = Fix("add pins", {"setup": coming.setup.id}, "Two pins on the line that it is turned about")
    return Finding("register.pins-few", Level.STOP, STAGE, message, coming.setup.id, fixes=(fix,))


def _drilled(coming: Coming, holes: tuple[PinHole, ...]) -> list[Finding]:
    """Each row must be drilled right through before, and into the spoilboard."""
    comes, name = coming.setup.comes, coming.setup.id
    assert isinstance(comes, OnPins)
    said: list[Finding] = []
    most = coming.job.machine.spoilboard - UNDER_A_PIN
    for art in coming.job.artwork:
        if art.id not in comes.on or not isinstance(art.figures, HolesFigures):
            continue
        called, across = art.title or art.id, art.figures.across
        drills = [o.id for s in coming.job.setups for o in s.operations if o.kind == "drill" and art.id in o.on]
        usual = min(across, most)
        if art.id not in coming.through:
            message = f"{called} is meant for pins, and is not drilled right through before {coming.name}."
            fix = (
                Fix("set operation", {"operation": drills[0], "through": True, "into": usual}, "Drill it right through, into the spoilboard")
                if drills else Fix("add pins", {"setup": name}, "Drill pins' holes anew")
            )  # fmt: skip
            said.append(
                Finding("register.pin-not-drilled", Level.STOP, STAGE, message, name, fixes=(fix,), about=art.id)
            )
            continue
        into = coming.through[art.id]
        if into > most + 1e-9:
            message = f"The holes of {called} go {mm(into)} into the spoilboard, which is {mm(coming.job.machine.spoilboard)} thick: {mm(UNDER_A_PIN)} of it are to stay."
            fix = Fix("set operation", {"operation": drills[0], "into": most}, f"Drill {mm(most)} into it")
            said.append(Finding("register.pin-deep", Level.STOP, STAGE, message, name, fixes=(fix,), about=art.id))
        elif into < DEEP_ENOUGH * usual - 1e-9:
            message = f"The pins of {called} would stand {mm(into)} deep in the spoilboard, and lean: as deep as they are thick is usual."
            fix = Fix(
                "set operation", {"operation": drills[0], "into": usual}, f"Drill {mm(usual)} into the spoilboard"
            )
            said.append(Finding("register.pin-shallow", Level.CARE, STAGE, message, name, fixes=(fix,), about=art.id))
    return said


def _standing(
    coming: Coming, holes: tuple[PinHole, ...], stand: NDArray[np.float64], was: NDArray[np.float64]
) -> list[Finding]:
    """Whether the pins stand in holes that are there, and where else the bed is to be bored."""
    away = _away(stand, was)
    if not [k for k in range(len(holes)) if away[k].min() > SAME]:
        return []
    setup = coming.setup
    moved = _onto(stand, was)
    if moved is not None:
        message = f"Its pins come beside the holes in the spoilboard, by {mm(math.hypot(*moved), 2)}: move the board so that they come onto them."
        fix = Fix(
            "place blank",
            {"setup": setup.id, "x": setup.x + moved[0], "y": setup.y + moved[1]},
            "Lay it where its pins come onto them",
        )
        return [Finding("register.pins-beside", Level.STOP, STAGE, message, setup.id, fixes=(fix,))]
    new = new_in_bed(stand, was)
    where = "; ".join(f"X {mm(float(x), 2)}, Y {mm(float(y), 2)}" for x, y in stand[new])
    pulled = [k for k in range(len(holes)) if away[:, k].min() > SAME]
    more = (
        f" Pull the {'pin' if len(pulled) == 1 else f'{len(pulled)} pins'} of the first side that nothing is laid on now."
        if pulled
        else ""
    )
    some, place = (
        f"{'A hole comes' if len(new) == 1 else f'{len(new)} holes come'} into the bare spoilboard, at {where}",
        Place(*map(float, stand[new[0]])),
    )
    if not coming.bore:
        message = (
            f"{some}: those of the first side are not where these pins stand, and no tool among yours makes them.{more}"
        )
        return [Finding("register.pins-unbored", Level.STOP, STAGE, message, setup.id, place=place)]
    if coming.past > 0.0:
        message = f"{some}: {coming.bore} would bore {'it' if len(new) == 1 else 'them'}, and leaves the machine's travel by {mm(coming.past)}. Fit its bit farther out, or lay the board elsewhere.{more}"
        return [Finding("register.pins-out-of-travel", Level.STOP, STAGE, message, setup.id, place=place)]
    message = f"{some}: {coming.bore} bores {'it' if len(new) == 1 else 'them'} once the first side is cut and the board is off, by the same X0 Y0.{more}"
    return [Finding("register.pins-new", Level.NOTE, STAGE, message, setup.id, place=place)]


def _away(stand: NDArray[np.float64], was: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(np.hypot(stand[:, None, 0] - was[None, :, 0], stand[:, None, 1] - was[None, :, 1]))


def new_in_bed(stand: NDArray[np.float64], was: NDArray[np.float64]) -> list[int]:
    """Which of some pins, (n, 2) on the bed, stand where nothing was bored through; none where the board is only laid beside its holes."""
    if _onto(stand, was) is not None:
        return []
    away = _away(stand, was)
    return [k for k in range(len(stand)) if away[k].min() > SAME]


def _onto(stand: NDArray[np.float64], was: NDArray[np.float64]) -> tuple[float, float] | None:
    """A shift by which all pins come onto holes that are there."""
    for q in was:
        by = q - stand[0]
        away = np.hypot(*(stand[:, None] + by - was[None, :]).transpose(2, 0, 1))
        if (away.min(axis=1) <= SAME).all():
            return float(by[0]), float(by[1])
    return None


def _beside(coming: Coming, holes: tuple[PinHole, ...], stand: NDArray[np.float64]) -> list[Finding]:
    """What lies too near a hole: an edge, a cut, a hold, a slot."""
    said: list[Finding] = []
    name = coming.setup.id
    for hole, (x, y) in zip(holes, stand.tolist()):
        place = Place(x, y)
        rim = coming.outline.exterior if isinstance(coming.outline, shapely.Polygon) else coming.outline.boundary if coming.outline is not None else None  # fmt: skip
        if rim is not None:
            left = working(
                "edge - across / 2",
                Named("edge", float(rim.distance(shapely.Point(hole.x, hole.y)))),
                Named("across", hole.across),
                shop_rule=True,
            )
            if left.result < APART * hole.across:
                message = f"Beside {hole.name} {mm(max(left.result, 0.0))} of wood is left to the board's edge; half its diameter, {mm(APART * hole.across)}, is wanted."
                said.append(
                    Finding("register.pin-edge", Level.CARE, STAGE, message, name, left, place=place, about=hole.name)
                )
        if coming.cut_here(x, y, hole.across / 2.0 + RIM):
            message = f"A cutter comes to within {mm(RIM)} of the pin in {hole.name}: it would meet it. Put the pin elsewhere."
            said.append(
                Finding("register.pin-in-the-way", Level.STOP, STAGE, message, name, place=place, about=hole.name)
            )
        if coming.cut_before(*coming.was.xy(hole.x, hole.y), 0.75 * hole.across):
            message = f"What is cut before runs into {hole.name}: its wall does not stand all round."
            said.append(
                Finding("register.pin-cut-into", Level.STOP, STAGE, message, name, place=place, about=hole.name)
            )
        over = coming.beside(x, y, hole.across / 2.0)
        if over:
            message = f"{over[0]} stands over {hole.name}: its pin has to end under the face, and can't be pulled while that holds."
            said.append(Finding("register.pin-held", Level.CARE, STAGE, message, name, place=place, about=hole.name))
        near = [s for s in coming.job.machine.slots if abs(s - y) < hole.across / 2.0 + SLOT]
        if near:
            message = f"The pin in {hole.name} stands {mm(abs(near[0] - y))} beside the middle of the T-slot at Y {mm(near[0])}: it has nothing to stand in there."
            said.append(Finding("register.pin-slot", Level.CARE, STAGE, message, name, place=place, about=hole.name))
    return said


def _shifted(
    coming: Coming, clearance: float, ends: NDArray[np.float64], apart: float
) -> tuple[list[Figure], list[Finding]]:
    """By how much what is cut here may lie beside what was cut before."""
    name, times = coming.setup.id, 2.0 if coming.twice else 1.0
    middle = ends.mean(axis=0)
    along = (ends[1] - ends[0]) / apart
    rel = coming.cut - middle
    told = np.column_stack([rel @ along, rel @ np.array([-along[1], along[0]])])
    if not len(told):
        return [], []
    worst = worst_shifts(clearance, apart, told)
    k = int(np.argmax(worst))
    far = float(np.hypot(*told.T).max())
    sum_ = bound(clearance, far, apart, coming.twice)
    truly = worst_seating(clearance, apart, (float(told[k, 0]), float(told[k, 1]))).told(0.0, times, SEATED)
    place = Place(*map(float, coming.cut[k]))
    figures = [
        Figure("Beside the first side, at worst", sum_.result, "length", sum_, 2, setup=name),
        Figure("Of all seatings, where it is worst", truly.result, "length", truly, 2, setup=name),
    ]
    allowed = REGISTERED[coming.job.tolerance]
    if sum_.result <= allowed:
        message = f"On its pins nothing cut here lies more than {mm(sum_.result, 2)} beside the first side."
        return figures, [Finding("register.pins-shift", Level.OK, STAGE, message, name, sum_)]
    message = f"On its pins what is cut here may lie {mm(sum_.result, 2)} beside the first side, at X {mm(place.x)}, Y {mm(place.y)} on the bed; {mm(allowed, 2)} suits this job. Pins farther apart, or tighter ones."
    return figures, [Finding("register.pins-loose", Level.CARE, STAGE, message, name, sum_, place=place)]


def _long(coming: Coming) -> list[Figure]:
    """How long the pins are."""
    if not coming.through or coming.thickness <= 0.0:
        return []
    into = min(coming.through.values())
    sum_ = working(
        "thickness + into - below",
        Named("thickness", coming.thickness),
        Named("into", into),
        Named("below", BELOW),
        assumption="their ends stay under the face",
    )
    return [Figure("Pins, long at most", sum_.result, "length", sum_, 1, setup=coming.setup.id)]


def _ways(coming: Coming, holes: tuple[PinHole, ...], stand: NDArray[np.float64]) -> list[Finding]:
    """Every other way round that it goes on them."""
    name = coming.setup.id
    found = ways_on(holes, [(float(x), float(y)) for x, y in stand])
    others = [w for w in found if not w.asked]
    if not others:
        message = f"On these {len(holes)} pins the board goes one way only: every other way round was tried."
        return [Finding("register.pins-one-way", Level.OK, STAGE, message, name)]
    ways = "; ".join(dict.fromkeys(way_in_words(w) for w in others))
    not_turned = (
        " That it was not turned over shows nowhere then." if coming.over and any(w.over for w in others) else ""
    )
    message = f"On these pins the board goes on in {len(others)} other {'way' if len(others) == 1 else 'ways'} too: {ways}.{not_turned} Mark its face and its end, or let a third pin stand off the line of the others."
    fixes = () if len(holes) > 2 else (Fix("add pins", {"setup": name, "third": True}, "A third pin, off their line"),)
    return [Finding("register.pins-ways", Level.CARE, STAGE, message, name, fixes=fixes)]
