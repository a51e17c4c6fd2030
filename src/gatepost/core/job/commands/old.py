# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of what is there already: old lettering mended, or cut again a little deeper."""

from __future__ import annotations

import math

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.carve import Letters, Rounded, VCut
from gatepost.core.job.commands.parts import Commands, before_cut_out, called, one_of, unused
from gatepost.core.job.model import Job
from gatepost.core.job.operation import Artwork
from gatepost.core.job.sunk import Recess

COMMANDS = Commands()


def old_letters(job: Job, up: str) -> list[Artwork]:
    """Lettering on a face that nothing cuts: it is there already."""
    done = {i for s in job.setups for o in s.operations for i in o.on}
    return [
        a
        for a in job.artwork
        if isinstance(a.figures, Letters) and a.face == up and a.id not in done and a.figures.lines
    ]


@COMMANDS("mend lettering")
def mend_lettering(
    job: Job, setup: str, art: str, x: float, y: float, turn: float, width: float, height: float, corner: float, depth: float, tool: int
) -> Job:  # fmt: skip
    """A recess that swallows old lettering, for a plug to be glued in. art: the lettering; x, y: the middle of the recess on its face, so wide, high and deep."""
    old = one_of(job.artwork, art, "artwork")
    name = unused("mending", [*called(job), *(a.id for a in job.artwork)])
    shape = Rounded(width=width, height=height, corner=corner)
    made = changed(
        Artwork(id="mending", kind="plate", figures=shape),
        id=name, title=f"Mending of {old.title or old.id}", x=x, y=y, turn=turn, face=old.face,
    )  # fmt: skip
    job = changed(job, artwork=(*job.artwork, made))
    return before_cut_out(job, setup, "recess", Recess(tools=(tool,), depth=depth), (name,), name)


@COMMANDS("cut again")
def cut_again(job: Job, setup: str, art: str, deeper: float = 0.3, tool: int | None = None) -> Job:
    """Old lettering cut again in the same place, deeper by so much along its strokes: they grow by as much on both sides as the bit is wider there."""
    old = one_of(job.artwork, art, "artwork")
    if not isinstance(old.figures, Letters):
        raise OperatorError(f"{old.title or old.id} is no lettering.")
    number = next((t.number for t in job.tools if t.kind == "vee"), 0) if tool is None else tool
    vee = next((t for t in job.tools if t.number == number and t.kind == "vee"), None)
    if vee is None:
        raise OperatorError("Lettering is cut again by a V-bit: there is none of that number among this job's tools.")
    wider = deeper * math.tan(math.radians(vee.angle / 2.0))
    lines = tuple(changed(line, bolder=line.bolder + wider) for line in old.figures.lines)
    name = unused(f"{old.id[:30]}-again", [*called(job), *(a.id for a in job.artwork)])
    again = changed(old, id=name, title=f"{old.title or old.id}, again", figures=changed(old.figures, lines=lines))
    job = changed(job, artwork=(*job.artwork, again))
    return before_cut_out(job, setup, "vcut", VCut(tool=number, margin=0.0), (name,), name)
