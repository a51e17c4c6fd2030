# SPDX-License-Identifier: GPL-3.0-or-later
"""What was seen of a piece before it was cut, by the journal: marks that the tip was brought over, rings round old holes, and by how much X0 Y0 has followed them."""

from __future__ import annotations

from dataclasses import dataclass, replace

from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.journal import Entry, Journal
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork
from gatepost.core.job.register import ByMarks, PieceMark
from gatepost.core.job.rows import places
from gatepost.core.plan.found import face_to_bed, normal_on_bed
from gatepost.core.register.looks import LEAST_LOOK, WIDTH, Looked, looked
from gatepost.core.register.marks import ReadMark
from gatepost.core.register.moved import NOT_MOVED, Moved
from gatepost.core.zero.trust import laid_anew

RING = "ring-"  # before the number of a ring, as a mark
GOOD = 2.0  # times what a look is good to, that a mark may lie beside where all together have the piece


@dataclass(frozen=True)
class Proving:
    """Of a setup. looks: its marks; rings: its rings; moved: what the piece has been taken to lie otherwise by since."""

    looks: Looked | None = None
    rings: Looked | None = None
    moved: Moved = NOT_MOVED


def moved_by(journal: Journal, setup: str) -> Moved:
    """By how much a setup's piece has been taken to lie otherwise since it was laid."""
    move = NOT_MOVED
    for e in journal.this_board():
        if e.setup == setup:
            if laid_anew(e) or e.kind == "marked":
                move = NOT_MOVED
            if e.kind == "moved":
                move = move.then(Moved(*(float(e.data[name]) for name in ("degrees", "x", "y"))))
    return move


def seen_since(journal: Journal, setup: str) -> dict[str, Entry]:
    """The newest look at each mark since its X0 Y0 was set last."""
    found: dict[str, Entry] = {}
    for e in journal.this_board():
        if e.setup != setup:
            continue
        again = e.kind == "touched" and e.data.get("axis") in ("x", "y")
        if again or laid_anew(e) or e.kind in ("marked", "moved"):
            found = {}
        if e.kind in ("proved", "ringed"):
            found[str(e.data["mark"])] = e
    return found


def proving(job: Job, setup: Setup, moved: Moved, journal: Journal) -> Proving:
    """Of a setup as its piece is taken to lie."""
    if not setup.proof and setup.ring is None:
        return Proving(moved=moved)
    seen = seen_since(journal, setup.name)
    eye = eye_of(setup)
    looks = _looked(job, setup, setup.proof, seen, max(LEAST_LOOK, 2.0 * eye), eye, GOOD * eye) if setup.proof else None
    rings = None
    if setup.ring is not None and (marks := ring_marks(job, setup)):
        rings = _looked(job, setup, marks, seen, setup.ring.limit, WIDTH, setup.ring.limit)
    return Proving(looks, rings, moved)


def eye_of(setup: Setup) -> float:
    """What a look over a mark is good to, mm."""
    return setup.comes.eye if isinstance(setup.comes, ByMarks) else setup.zero.eye


def ring_marks(job: Job, setup: Setup) -> tuple[PieceMark, ...]:
    """The old holes that rings are cut round, as they are drawn on the face that is up; none where ring or holes are not there."""
    rings = ring_art(job, setup)
    if rings is None:
        return ()
    old = rings[0]
    called = old.title or old.id
    at = places(old).tolist()
    return tuple(
        PieceMark(
            id=f"{RING}{n}",
            title=called if len(at) == 1 else f"{called}, hole {n}",
            x=x if old.face == setup.up else job.blank.length - x,
            y=y,
        )
        for n, (x, y) in enumerate(at, start=1)
    )


def ring_art(job: Job, setup: Setup) -> tuple[Artwork, Artwork] | None:
    """The old holes, and what is cut round them; nothing where one of them is not there."""
    if setup.ring is None:
        return None
    cut = next((o for o in setup.operations if o.id == setup.ring.operation), None)
    old = next((a for a in job.artwork if a.id == setup.ring.of), None)
    ring = next((a for a in job.artwork if cut is not None and a.id in cut.on), None)
    if old is None or ring is None or not all(isinstance(a.figures, HolesFigures) for a in (old, ring)):
        return None
    return old, ring


def ring_width(old: Artwork, ring: Artwork) -> float:
    """How wide a ring is drawn, mm."""
    assert isinstance(old.figures, HolesFigures) and isinstance(ring.figures, HolesFigures)
    return 0.5 * (ring.figures.across - old.figures.across)


def _looked(
    job: Job, setup: Setup, marks: tuple[PieceMark, ...], seen: dict[str, Entry], limit: float, eye: float, good: float
) -> Looked:
    to_bed = face_to_bed(job, setup)
    read = []
    for m in marks:
        drawn, e = to_bed.xy(m.x, m.y), seen.get(m.id)
        off = (float(e.data["x"]), float(e.data["y"])) if e is not None else (0.0, 0.0)
        at = ReadMark(m.title or m.id, drawn, (drawn[0] + off[0], drawn[1] + off[1]), normal_on_bed(m, to_bed))
        read.append(replace(at, within=eye))
    ids = tuple(m.id for m in marks)
    return looked(ids, read, frozenset(i for i in ids if i in seen), limit, setup.skew, good)
