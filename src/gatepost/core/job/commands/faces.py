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
from gatepost.core.job.operation import Artwork
from gatepost.core.job.register import InStepNest, OnPins
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.turning import OPPOSITE

COMMANDS = Commands()


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
    freed = [o for o in job.setup(second.id).operations if isinstance(o.figures, CutOut)]
    job = _moved(job, second, first, tuple(i for o in freed for i in o.on))
    names = [o.id for o in freed]
    left = tuple(o for o in job.setup(second.id).operations if o.id not in names)
    job = in_setup(job, second.id, operations=left, comes=first.comes)
    job = in_setup(job, first.id, operations=(*job.setup(first.id).operations, *freed), comes=None if across else comes)
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
    setups = tuple(
        changed(s, operations=tuple(o for o in s.operations if not (o.on and set(o.on) <= gone))) for s in job.setups
    )
    return across, changed(job, setups=setups, artwork=tuple(a for a in job.artwork if a.id not in gone))


def _moved(job: Job, off: Setup, onto: Setup, ids: Sequence[str]) -> Job:
    """Artwork that is cut out, drawn on the other face: the same outline in the same wood."""
    art = tuple(_on_other(a, onto, job.blank.length) if a.id in ids and a.face == off.up else a for a in job.artwork)
    return changed(job, artwork=art)


def _on_other(art: Artwork, onto: Setup, length: float) -> Artwork:
    plain = isinstance(art.figures, Rounded) and art.figures.form != "arched"
    return changed(art, face=onto.up, x=length - art.x, turn=-art.turn, mirror=art.mirror if plain else not art.mirror)
