# SPDX-License-Identifier: GPL-3.0-or-later
"""What there is to say of looks over marks before wood is cut, and of rings round old holes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from gatepost.core.findings import Figure, Finding, Fix, Level, Place, Table
from gatepost.core.geometry.outline import Area
from gatepost.core.job.model import Setup
from gatepost.core.register.kind import STAGE, ComingTold
from gatepost.core.register.looks import Looked, lies, miss, said
from gatepost.core.register.marks import shifted_at_worst
from gatepost.core.register.moved import NOT_MOVED, Moved
from gatepost.core.units import mm
from gatepost.core.working import Named, working

BY_STEPS = frozenset(
    {"register.ring-off", "register.proof-misses", "register.proof-does-not-fit"}
)  # put right by taking what was seen, at the machine
ONTO = 0.5  # mm that a mark may be drawn beside the board's own outline
NARROW = 1.5  # mm; no narrower ring is measured to a few hundredths


@dataclass(frozen=True)
class Proved:
    """A setup that is proved. looks: its marks; rings: its rings; moved: what the piece has been taken to lie otherwise by; outline: of the board on the bed; cut: places that are cut
    here, (n, 2) on the bed, mm; wide: of its rings, mm, nothing where they, or the holes, are not there."""

    setup: Setup
    looks: Looked | None
    rings: Looked | None
    moved: Moved
    outline: Area
    cut: NDArray[np.float64]
    wide: float | None = None


def told(p: Proved) -> ComingTold:
    """What was seen, what it is good to, and what is to be done by it."""
    figures: list[Figure] = []
    findings: list[Finding] = []
    tables: list[Table] = []
    if p.moved != NOT_MOVED:
        findings.append(_moved(p))
    if p.looks is not None:
        off = _off_board(p, p.looks)
        findings += off
        if not off:
            findings.append(_looks(p, p.looks))
            figures += _figures(p, p.looks, "Seen over its marks")
        if p.looks.seen:
            tables.append(_table(p, p.looks, "seen over its marks"))
    if p.setup.ring is not None:
        findings.append(_rings(p))
        if p.rings is not None:
            figures += _figures(p, p.rings, "By its rings")
            if p.rings.seen:
                tables.append(_table(p, p.rings, "by the rings"))
    return ComingTold(tuple(figures), tuple(findings), tuple(tables))


def _moved(p: Proved) -> Finding:
    x0, y0, x1, y1 = p.outline.bounds
    middle = (0.5 * (x0 + x1), 0.5 * (y0 + y1))
    was = p.moved.back(*middle)
    turn = f", turned by {p.moved.degrees:.2f}°" if abs(p.moved.degrees) >= 0.005 else ""
    message = f"X0 Y0 has followed what was seen: the piece lies {said((middle[0] - was[0], middle[1] - was[1]))} of where it was laid{turn}."
    return Finding("register.proof-moved", Level.NOTE, STAGE, message, p.setup.id)


def _looks(p: Proved, looks: Looked) -> Finding:
    name, many = p.setup.id, len(looks.ids)
    if not looks.complete:
        left = many - len(looks.seen)
        message = f"{left} of {many} marks still to be looked at before wood is cut." if looks.seen else (
            f"The tip goes over {many} mark{'s' if many > 1 else ''} before wood is cut, and what misses is taken.")  # fmt: skip
        return Finding("register.proof-unseen", Level.NOTE, STAGE, message, name)
    if looks.agrees:
        message = f"Every mark was seen within {mm(looks.worst, 2)} of the tip; {mm(looks.limit, 2)} is what two looks may differ by."
        return Finding("register.proof-agrees", Level.OK, STAGE, message, name)
    if not looks.stands and looks.fit is not None:
        message = f"{looks.fit.sentence} What was seen over the marks is not taken: look again, or lay the piece anew."
        return Finding("register.proof-does-not-fit", Level.CARE, STAGE, message, name, about=looks.fit.odd or "")
    message = f"A mark was seen {mm(looks.worst, 2)} beside the tip, and {mm(looks.limit, 2)} is nothing. {lies(looks)} Take the looks, or lay the piece anew."
    return Finding("register.proof-misses", Level.CARE, STAGE, message, name)


def _off_board(p: Proved, looks: Looked) -> list[Finding]:
    board = p.outline.buffer(ONTO)
    off = [(i, m) for i, m in zip(looks.ids, looks.marks) if not board.covers(shapely.Point(*m.drawn))]
    if not off:
        return []
    i, m = off[0]
    message = f"{m.name} is drawn beside the board, where there is nothing to look at."
    fix = Fix("remove look", {"setup": p.setup.id, "look": i}, "Do not look at it")
    return [
        Finding("register.look-off-board", Level.STOP, STAGE, message, p.setup.id, fixes=(fix,), place=Place(*m.drawn), about=m.name)
    ]  # fmt: skip


def _rings(p: Proved) -> Finding:
    name, ring, rings = p.setup.id, p.setup.ring, p.rings
    assert ring is not None
    away = Fix("remove ring", {"setup": name}, "No ring")
    if p.wide is None or rings is None:
        message = "The ring, or the old hole that it is cut round, is not there any more."
        return Finding("register.ring-gone", Level.STOP, STAGE, message, name, fixes=(away,))
    if p.wide < NARROW:
        message = f"A ring of {mm(p.wide, 2)} is too narrow to be measured to a few hundredths: {mm(NARROW)} at least."
        wider = Fix("set ring", {"setup": name, "wide": 2.0 * NARROW}, f"{mm(2.0 * NARROW)} wide")
        return Finding("register.ring-narrow", Level.STOP, STAGE, message, name, fixes=(wider, away))
    if not rings.seen:
        many = len(rings.ids)
        message = f"{'A ring is' if many == 1 else f'{many} rings are'} cut before all else, and measured: over {mm(ring.limit, 2)} off {'its' if many == 1 else 'their'} middle nothing more is cut."
        return Finding("register.ring-unread", Level.NOTE, STAGE, message, name)
    worst = max((m for i, m in zip(rings.ids, rings.marks) if i in rings.seen), key=miss)
    a, b = worst.read[0] - worst.drawn[0], worst.read[1] - worst.drawn[1]
    sum_ = working("sqrt(across**2 + along**2)", Named("across", abs(a)), Named("along", abs(b)))
    if rings.agrees:
        message = f"{worst.name} lies {mm(sum_.result, 2)} off its ring's middle; {mm(ring.limit, 2)} is allowed."
        return Finding("register.ring-good", Level.OK, STAGE, message, name, sum_)
    message = f"{worst.name} lies {said((a, b))} of its ring's middle, and {mm(ring.limit, 2)} is allowed: nothing more is cut. Take the rings, measure again, or lay the piece anew."
    return Finding("register.ring-off", Level.STOP, STAGE, message, name, sum_, place=Place(*worst.drawn))


def _figures(p: Proved, looks: Looked, label: str) -> list[Figure]:
    """By how much what is cut may lie beside its place, by how well marks are seen; nothing where they leave it free to turn."""
    if not len(p.cut):
        return []
    hull = np.asarray(shapely.get_coordinates(shapely.convex_hull(shapely.multipoints(p.cut))))
    found = shifted_at_worst(looks.marks, hull)
    if found is None:
        return []
    sum_ = found[1]
    if looks.complete and looks.agrees and looks.fit is not None:  # nothing is moved for so little: it stays
        there = np.array([looks.move.there(float(x), float(y)) for x, y in hull])
        left = Named("left_as_it_is", float(np.hypot(*(there - hull).T).max()))
        words = f"{sum_.assumption}; nothing is moved where all lie as they should, so that what they say stays"
        sum_ = working(f"{sum_.expression} + left_as_it_is", *sum_.values, left, assumption=words)
    return [Figure(f"{label}, at worst", sum_.result, "length", sum_, 2, setup=p.setup.id)]


def _table(p: Proved, looks: Looked, how: str) -> Table:
    rows: list[tuple[str, ...]] = [("Mark", "right", "back", "off")]
    for i, m in zip(looks.ids, looks.marks):
        if i in looks.seen:
            rows.append((m.name, mm(m.read[0] - m.drawn[0], 2), mm(m.read[1] - m.drawn[1], 2), mm(miss(m), 2)))
    return f"{p.setup.title or p.setup.id}: {how}", tuple(rows)
