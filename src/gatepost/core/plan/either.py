# SPDX-License-Identifier: GPL-3.0-or-later
"""Either of two faces first: minutes, what holds it, and what is said, of both."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.cache import Memory
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.commands.faces import two_faces
from gatepost.core.job.model import Job
from gatepost.core.job.turning import FACES
from gatepost.core.plan.kinds import SHIPPED, Kinds
from gatepost.core.plan.pipeline import plan
from gatepost.core.plan.result import Plan


@dataclass(frozen=True)
class FaceFirst:
    """One face first. face: which; minutes: of all programs and changes of tools; hold: the least of what holds over what cuts do, times, nothing where nothing holds; stops, cares: how many; worst: the first
    stop's sentence, or nothing."""

    face: str
    minutes: float
    hold: float | None
    stops: int
    cares: int
    worst: str = ""


def either_first(
    job: Job, memory: Memory | None = None, kinds: Kinds = SHIPPED, cell: float | None = None
) -> tuple[FaceFirst, FaceFirst]:
    """As it is, and with the other face first. memory: also calls it off. Raises OperatorError where only one can be, Cancelled."""
    other = commands.run(job, "other face first", {})
    memory = memory or Memory()
    return tuple(_of(plan(j, memory=memory, cell=cell, kinds=kinds), FACES[two_faces(j)[0].up]) for j in (job, other))  # type: ignore[return-value]


def _of(made: Plan, face: str) -> FaceFirst:
    held = [m.least.result for s in made.setups for m in s.margins]
    minutes = sum(p.seconds for s in made.setups for p in s.programs) / 60.0
    changes = sum(len(s.changes) for s in made.setups) * made.job.machine.change_minutes
    cares = sum(f.level is Level.CARE for f in made.findings)
    worst = made.stops[0].message if made.stops else ""
    return FaceFirst(face, minutes + changes, min(held, default=None), len(made.stops), cares, worst)


def in_words(both: tuple[FaceFirst, FaceFirst]) -> str:
    """What there is to say of them."""
    return " ".join(_words(f) for f in both) + " “Cut the other face first” changes it; undo changes it back."


def _words(f: FaceFirst) -> str:
    hold = f"held {f.hold:.1f} times at the least" if f.hold is not None else "held by nothing yet"
    said = f"{f.stops} to mend ({f.worst})" if f.stops else "nothing to mend"
    cares = f", {f.cares} to look at" if f.cares else ""
    return f"The {f.face} first: {f.minutes:.0f} min, {hold}, {said}{cares}."
