# SPDX-License-Identifier: GPL-3.0-or-later
"""What is known of the wood, and what that means: old wood, squareness, moisture, flaws, coats, faces."""

from __future__ import annotations

import math
from datetime import date, timedelta

from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.blank import Blank, Flaw
from gatepost.core.job.model import Job
from gatepost.core.tolerances import DAMP, SQUARE
from gatepost.core.units import mm
from gatepost.core.wood.flaws import Lies, flaw_place
from gatepost.core.working import Named, working

STAGE = "blank"
OLD = (
    ("metal", "metal", "Go over it with a metal finder first: a nail breaks a cutter and throws sparks into the extractor.",
     "There is metal in it: a nail breaks a cutter and throws sparks into the extractor. Take it out, or use other wood."),
    ("old_paint", "old-paint", "Is there old paint on it? It may hold lead: test it before any of it turns to dust.",
     "Old paint may hold lead, which is not for a shop's dust. Have it tested; strip it as local rules say, or use other wood."),
    ("treated", "treated", "Is it green, tarred or smelling of tar? Treated timber may hold arsenic or creosote.",
     "Treated timber may hold arsenic or creosote: its dust is not for a shop. Use other wood."),
)  # fmt: skip


def lies(flaw: Flaw, top: float, finished: float) -> Lies:
    """A flaw against the board's height where it is. top: of the wood as it is there, finished: after surfacing, mm.

    A flaw of unknown depth is taken to reach half the board.
    """
    depth = flaw.depth if flaw.depth is not None else 0.5 * top
    if flaw.face == "front":
        down = depth - (top - finished)
        return Lies(flaw, max(0.0, down), max(0.0, depth - top) if depth > top else 0.0, depth >= top)
    return Lies(flaw, max(0.0, depth - finished) if depth > finished else 0.0, min(depth, finished), depth >= finished)


def findings(job: Job, flaws: tuple[Lies, ...], surfaced: float, cut: frozenset[str] = frozenset()) -> list[Finding]:
    """What there is to say of the wood. flaws: where each lies; surfaced: what comes off the top, mm, 0 for nothing; cut: faces that were
    surfaced already."""
    blank = job.blank
    return [
        *_old(blank),
        *_square(job),
        *_damp(blank),
        *_coats(blank, surfaced),
        *_flaws(flaws, cut),
        *_faces(job, surfaced),
    ]


def _old(blank: Blank) -> list[Finding]:
    if blank.reclaimed is None:
        message = (
            "Is it old wood or old work? If so, metal, old paint and treatment must be asked about before it is cut."
        )
        fixes = (
            Fix("set blank", {"reclaimed": False}, "New wood"),
            Fix("set blank", {"reclaimed": True}, "Old wood or old work"),
        )
        return [Finding("blank.old-wood", Level.NOTE, STAGE, message, fixes=fixes)]
    if not blank.reclaimed:
        return []
    said: list[Finding] = []
    for field, code, asked, found in OLD:
        value = getattr(blank, field)
        if value is None:
            fixes = (
                Fix("set blank", {field: False}, "Looked: none"),
                Fix("set blank", {field: True}, "There is"),
            )
            said.append(Finding(f"blank.{code}-asked", Level.CARE, STAGE, asked, fixes=fixes))
        elif value:
            said.append(Finding(f"blank.{code}", Level.STOP, STAGE, found))
    return said


def _square(job: Job) -> list[Finding]:
    blank = job.blank
    if blank.diagonals is None or blank.shape != "rectangle":
        return []
    one, two = blank.diagonals
    across = math.hypot(blank.length, blank.width)
    mean = working(
        "sqrt((one ** 2 + two ** 2) / 2) - sqrt(length ** 2 + width ** 2)", Named("one", one), Named("two", two),
        Named("length", blank.length), Named("width", blank.width),
    )  # fmt: skip
    if abs(mean.result) > max(2.0, 0.01 * across):
        message = f"The diagonals don't go with the sides: they are {mm(abs(mean.result))} too {'long' if mean.result > 0 else 'short'} for {mm(blank.length)} × {mm(blank.width)}. Measure again."
        return [Finding("blank.diagonals", Level.CARE, STAGE, message, working=mean)]
    lean = working(
        "(one ** 2 - two ** 2) / (4 * length)", Named("one", one), Named("two", two), Named("length", blank.length),
        source="the two diagonals of a parallelogram: one² - two² = 4·length·lean",
    )  # fmt: skip
    cut_away = any(o.kind == "cutout" for s in job.setups for o in s.operations)
    allowed = max(SQUARE[job.tolerance], LOOSE) if cut_away else SQUARE[job.tolerance]
    why = ", since its edges are cut away" if cut_away else ", since its edges stay"
    if abs(lean.result) <= allowed:
        return [Finding("blank.square", Level.OK, STAGE, f"Square: its ends lean by {mm(abs(lean.result))} over the width.", working=lean)]  # fmt: skip
    way = "right" if lean.result > 0 else "left"
    message = f"Out of square: the back edge stands {mm(abs(lean.result))} to the {way} of the front one; {mm(allowed)} is allowed{why}. Two touches of an edge tell how it lies, and not this. Zero on the centre, or square it first."
    return [Finding("blank.square", Level.CARE, STAGE, message, working=lean)]


def _damp(blank: Blank) -> list[Finding]:
    if blank.moisture is None:
        return []
    when = f", taken {blank.moisture_taken}" if blank.moisture_taken else ""
    words = f"{blank.moisture:.0f} % moisture{when}"
    before = blank.moisture_before[-1] if blank.moisture_before else None
    days = _days(before.taken, blank.moisture_taken) if before is not None else 0
    weekly = (before.percent - blank.moisture) / days * 7.0 if before is not None and days > 0 else 0.0
    if before is not None:
        words += f"; {before.percent:.0f} % on {before.taken}"
    if blank.moisture <= DAMP:
        return [Finding("blank.moisture", Level.OK, STAGE, f"{words}: dry enough for indoors.")]
    again = ""
    if weekly > 0.0:
        dry = _later(blank.moisture_taken, math.ceil((blank.moisture - DAMP) / weekly * 7.0))
        again = (
            f" At {weekly:.1f} % a week it is at {DAMP:.0f} % on {dry} at the earliest: drying slows. Measure again then."
            if dry
            else ""
        )
    elif before is not None and days > 0:
        again = " It has not dried since: it is as dry as the air it stands in."
    elif blank.moisture_taken and (fortnight := _later(blank.moisture_taken, LOOK_AGAIN)):
        again = f" Measure again about {fortnight}: two readings tell how fast it dries."
    message = f"{words}: damp, figured wood moves again after surfacing. Let it rest, surface it twice, and measure again before carving.{again}"
    return [Finding("blank.moisture", Level.CARE, STAGE, message)]


LOOSE = 2.0  # mm out of square that a board may be whose edges are cut away; a shop rule
LOOK_AGAIN = 14  # days


def _day(words: str) -> date | None:
    try:
        return date.fromisoformat(words.strip()[:10])
    except ValueError:
        return None


def _days(a: str, b: str) -> int:
    """Days from one date to another; 0 where either is none."""
    one, two = _day(a), _day(b)
    return (two - one).days if one is not None and two is not None else 0


def _later(words: str, days: int) -> str:
    """The date so many days later, or nothing."""
    day = _day(words)
    return (day + timedelta(days=min(days, 3650))).isoformat() if day is not None else ""


def _coats(blank: Blank, surfaced: float) -> list[Finding]:
    front = [c for c in blank.coats if c.face == "front"]
    if not front:
        return []
    film = working(
        " + ".join(f"coat{i}" for i in range(1, len(front) + 1)),
        *(Named(f"coat{i}", c.thickness) for i, c in enumerate(front, 1)),
    )
    names = ", ".join(c.name for c in front)
    if surfaced > 0.0:
        message = f"What is on the front ({names}) would be surfaced away. Coat it after surfacing."
        return [Finding("blank.coats-surfaced", Level.CARE, STAGE, message, working=film)]
    message = f"{names} on the front: {mm(film.result, 3)} in all. It counts in Z, and must be there, or not, each time Z is touched."
    return [Finding("blank.coats", Level.NOTE, STAGE, message, working=film)]


def _flaws(flaws: tuple[Lies, ...], cut: frozenset[str]) -> list[Finding]:
    said: list[Finding] = []
    for number, lie in enumerate(flaws, start=1):
        f = lie.flaw
        where = f"The {f.kind} at {flaw_place(f)} of the {f.face}"
        if f.face in cut and not f.again:
            message = f"The {f.face} has been surfaced since: look at the {f.kind} at {flaw_place(f)} again. Does it run as far, and as wide, at this level?"
            fix = Fix("set flaw", {"flaw": f.id, "again": True}, "The figures are as it runs now")
            said.append(Finding("blank.flaw-again", Level.CARE, STAGE, message, fixes=(fix,), about=str(number)))
        if lie.through:
            message = (
                f"{where} reaches right through once it is surfaced. Fill it, keep off it, or expect to see daylight."
            )
            said.append(Finding("blank.flaw-through", Level.CARE, STAGE, message, about=str(number)))
        elif f.depth is None:
            message = f"{where} is of unknown depth: it is taken to reach half-way."
            said.append(Finding("blank.flaw-depth", Level.NOTE, STAGE, message, about=str(number)))
        elif f.face == "front" and lie.down == 0.0:
            message = f"{where} is gone once it is surfaced."
            said.append(Finding("blank.flaw-gone", Level.OK, STAGE, message, about=str(number)))
    return said


def _faces(job: Job, surfaced: float) -> list[Finding]:
    said: list[Finding] = []
    if job.blank.good_face == "back":
        message = "Its good face is the back, and the front is carved. Turn the board, or say that it is as wanted."
        said.append(Finding("blank.good-face", Level.CARE, STAGE, message))
    if job.irreplaceable:
        message = "It can't be replaced: run it dry first, and prove it on scrap with the same bits."
        said.append(Finding("blank.irreplaceable", Level.CARE, STAGE, message))
    return said
