# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of what a piece's place is proved by: marks that are looked at before wood is cut, and a ring cut round old holes."""

from __future__ import annotations

import math
from itertools import combinations
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.commands.parts import (
    Commands,
    called,
    free_id,
    in_setup,
    one_of,
    operation_in,
    swap,
    unused,
    with_art,
    without,
)
from gatepost.core.job.holes import Drilling, HolesFigures
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.job.register import ByMarks, PieceMark, Ring
from gatepost.core.job.rows import holes_there
from gatepost.core.job.turning import face_size

COMMANDS = Commands()
NEAR = 0.5  # mm within which a mark is there already
RING_WIDE, RING_DEEP = 4.0, 0.3  # mm of a ring that calipers can be laid on, and that a finish takes away


@COMMANDS("add look", PieceMark)
def add_look(job: Job, setup: str, **values: Any) -> Job:
    """One more mark of the piece that the tip is brought over before wood is cut, on the face that is up."""
    return in_setup(job, setup, proof=(*job.setup(setup).proof, values))


@COMMANDS("set look", PieceMark)
def set_look(job: Job, setup: str, look: str, **values: Any) -> Job:
    """Where a mark that is looked at is drawn, and what it is."""
    proof = job.setup(setup).proof
    old = one_of(proof, look, "mark that is looked at")
    return in_setup(job, setup, proof=swap(proof, old, changed(old, **values)))


@COMMANDS("remove look")
def remove_look(job: Job, setup: str, look: str) -> Job:
    """A mark that is not looked at any more."""
    proof = job.setup(setup).proof
    return in_setup(job, setup, proof=without(proof, one_of(proof, look, "mark that is looked at")))


@COMMANDS("looks from art")
def looks_from_art(job: Job, setup: str) -> Job:
    """Marks to be looked at: what the piece is found by, and holes that are there before this setup; of a straight board two opposite corners where there are neither."""
    here = job.setup(setup)
    new = more_to_look_at(job, here)
    if not new:
        raise OperatorError(
            "There is nothing more on this face that is there before it is cut. Add a mark and type where it is."
        )
    proof = list(here.proof)
    for title, x, y in new:
        proof.append(PieceMark(id=free_id("look", (p.id for p in proof)), title=title, x=x, y=y))
    return in_setup(job, setup, proof=tuple(proof))


def more_to_look_at(job: Job, here: Setup) -> list[tuple[str, float, float]]:
    """Marks of a setup's face that are there before it is cut, and are not looked at yet: what each is, and where on its face, mm."""
    found = _there(job, here)
    if not found and job.blank.shape == "rectangle":
        long, wide = face_size(job.blank, here.up)
        found = [("the lower left corner", 0.0, 0.0), ("the upper right corner", long, wide)]
    return [m for m in _farthest(found) if all(math.dist(m[1:], (p.x, p.y)) > NEAR for p in here.proof)]


def _there(job: Job, here: Setup) -> list[tuple[str, float, float]]:
    """Holes and points of the face that is up that are there before it is cut."""
    comes = here.comes
    found = [(m.title or m.id, m.x, m.y) for m in comes.marks if m.normal is None] if isinstance(comes, ByMarks) else []
    for hole in holes_there(job, here):
        if all(math.dist((hole.x, hole.y), f[1:]) > NEAR for f in found):
            found.append((hole.title, hole.x, hole.y))
    return found


def _farthest(found: list[tuple[str, float, float]]) -> list[tuple[str, float, float]]:
    """Three of some that tell most: the two that lie farthest apart, and the one farthest from their line."""
    if len(found) <= 3:
        return found
    a, b = max(combinations(found, 2), key=lambda p: math.dist(p[0][1:], p[1][1:]))
    away = lambda m: abs((b[1] - a[1]) * (m[2] - a[2]) - (b[2] - a[2]) * (m[1] - a[1]))  # noqa: E731
    return [a, b, max((m for m in found if m not in (a, b)), key=away)]


@COMMANDS("add ring")
def add_ring(job: Job, setup: str, of: str, wide: float = RING_WIDE, deep: float = RING_DEEP) -> Job:
    """A shallow ring round each of a row of old holes, cut in a setup before all else: its width all round says where the hole is. of: the row, which is not
    drilled here."""
    here = job.setup(setup)
    old = one_of(job.artwork, of, "row of holes")
    if not isinstance(old.figures, HolesFigures):
        raise OperatorError(f"“{of}” is no row of holes: a ring is cut round a hole.")
    if here.ring is not None:
        raise OperatorError("This setup has a ring already. Take that away first.")
    x = old.x if old.face == here.up else job.blank.length - old.x
    figures = changed(old.figures, across=old.figures.across + 2.0 * wide)
    name = unused("ring", [a.id for a in job.artwork])
    art = changed(
        Artwork(id="ring", kind="holes", figures=figures),
        id=name, title="Witness ring", x=x, y=old.y, turn=old.turn if old.face == here.up else -old.turn, face=here.up,
    )  # fmt: skip
    job = changed(job, artwork=(*job.artwork, art))
    done = Drilling(tool=_mill(job, figures.across), deep=deep)
    cut = Operation(id=unused("cut-ring", called(job)), kind="drill", title="", on=(name,), figures=done)
    ring = Ring(operation=cut.id, of=of)
    return in_setup(job, setup, operations=(cut, *job.setup(setup).operations), ring=ring)


def _mill(job: Job, across: float) -> int:
    """The thickest end mill that goes round in it, its middle a quarter of it away from the wall at least."""
    mills = [t for t in job.tools if t.kind == "flat" and t.diameter <= across / 1.5]
    return max(mills, key=lambda t: t.diameter).number if mills else Drilling().tool


@COMMANDS("set ring", Ring)
def set_ring(job: Job, setup: str, wide: float | None = None, **values: Any) -> Job:
    """What a ring is judged by; wide: of the ring itself."""
    here = job.setup(setup)
    if here.ring is None:
        raise OperatorError("This setup has no ring yet.")
    if wide is not None:
        old = one_of(job.artwork, here.ring.of, "row of holes")
        _, cut = operation_in(job, here.ring.operation)
        for art in job.artwork:
            if art.id in cut.on and isinstance(art.figures, HolesFigures) and isinstance(old.figures, HolesFigures):
                job = with_art(job, art.id, figures=changed(art.figures, across=old.figures.across + 2.0 * wide))
    return in_setup(job, setup, ring=changed(here.ring, **values))


@COMMANDS("remove ring")
def remove_ring(job: Job, setup: str) -> Job:
    """No ring, and nothing that cuts one."""
    here = job.setup(setup)
    if here.ring is None:
        raise OperatorError("This setup has no ring.")
    cut = next((o for o in here.operations if o.id == here.ring.operation), None)
    gone = set(cut.on) if cut is not None else set()
    job = in_setup(job, setup, ring=None, operations=tuple(o for o in here.operations if o is not cut))
    used = {i for s in job.setups for o in s.operations for i in o.on}
    return changed(job, artwork=tuple(a for a in job.artwork if a.id not in gone or a.id in used))
