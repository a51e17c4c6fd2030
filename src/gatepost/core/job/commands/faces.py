# SPDX-License-Identifier: GPL-3.0-or-later
"""Which of two faces is cut first."""

from __future__ import annotations

from collections.abc import Sequence

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.carve import CutOut, Rounded
from gatepost.core.job.commands.parts import Commands, in_setup
from gatepost.core.job.commands.register import add_pins
from gatepost.core.job.commands.setup import order_setups
from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.job.register import AgainstEdge, ByMarks, InStepNest, OnPins
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.turning import OPPOSITE

COMMANDS = Commands()
OF_ITSELF = (ByMarks, AgainstEdge)  # ways of being found that are a setup's own, whatever comes before it


def two_faces(job: Job) -> tuple[Setup, Setup]:
    """The two setups that carve opposite faces, in their order. Raises OperatorError where there are no such two, or more."""
    carve = [s for s in job.setups if any(not isinstance(o.figures, Surfacing) for o in s.operations)]
    if len(carve) != 2 or carve[1].up != OPPOSITE[carve[0].up]:
        raise OperatorError("Only of two setups that carve opposite faces either can come first.")
    return carve[0], carve[1]


@COMMANDS("other face first")
def other_face_first(job: Job) -> Job:
    """Of two faces the one that is cut second now cut first. How the board comes into the second is carried over: laid again, turned, on two pins whose holes are bored in the face that is first
    then; what is cut out is cut out last, from the face that is up then."""
    first, second = two_faces(job)
    if isinstance(second.comes, InStepNest):
        raise OperatorError(
            "The piece is turned over into the frame that the first face's cut-out leaves: that face comes first. Take the nest away to cut the other one first."
        )
    comes, across = second.comes, 0.0
    if isinstance(comes, OnPins):
        across, job = _without_pins(job, comes)
    here = job.setup(second.id).operations
    freed = [o for o in here if isinstance(o.figures, CutOut)]
    job = _moved(job, second, first, tuple(i for o in freed for i in o.on))
    left = _without([o for o in here if o not in freed], {o.id for o in freed})
    job = in_setup(job, second.id, operations=left)
    job = in_setup(job, first.id, operations=(*job.setup(first.id).operations, *(changed(o, after=()) for o in freed)))
    if across:
        job = in_setup(job, second.id, comes=None)
    elif not isinstance(comes, OF_ITSELF) and not isinstance(first.comes, OF_ITSELF):
        job = in_setup(in_setup(job, second.id, comes=first.comes), first.id, comes=comes)
    order = [s.id for s in job.setups]
    i, j = order.index(first.id), order.index(second.id)
    order[i], order[j] = order[j], order[i]
    job = order_setups(job, tuple(order))
    return add_pins(job, first.id, across=across) if across else job


def _without_pins(job: Job, comes: OnPins) -> tuple[float, Job]:
    """How thick its pins are, and the job without their holes."""
    rows = [a for a in job.artwork if a.id in comes.on and isinstance(a.figures, HolesFigures)]
    across = max((a.figures.across for a in rows if isinstance(a.figures, HolesFigures)), default=8.0)
    gone = {a.id for a in rows}
    bored = {o.id for s in job.setups for o in s.operations if o.on and set(o.on) <= gone}
    setups = tuple(
        changed(s, operations=_without([o for o in s.operations if o.id not in bored], bored)) for s in job.setups
    )
    return across, changed(job, setups=setups, artwork=tuple(a for a in job.artwork if a.id not in gone))


def _without(operations: Sequence[Operation], gone: set[str]) -> tuple[Operation, ...]:
    """Operations that wait for none of those that are gone."""
    return tuple(changed(o, after=tuple(a for a in o.after if a not in gone)) for o in operations)


def _moved(job: Job, off: Setup, onto: Setup, ids: Sequence[str]) -> Job:
    """Artwork that is cut out, drawn on the other face: the same outline in the same wood."""
    art = tuple(_on_other(a, onto, job.blank.length) if a.id in ids and a.face == off.up else a for a in job.artwork)
    return changed(job, artwork=art)


def _on_other(art: Artwork, onto: Setup, length: float) -> Artwork:
    plain = isinstance(art.figures, Rounded) and art.figures.form != "arched"
    return changed(art, face=onto.up, x=length - art.x, turn=-art.turn, mirror=art.mirror if plain else not art.mirror)
