# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of where artwork stands and how large it is: of every kind alike."""

from __future__ import annotations

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import Model, changed
from gatepost.core.job.behind import HangerFigures, ScrewsFigures
from gatepost.core.job.carve import Letters, Rounded
from gatepost.core.job.commands.parts import Commands, called, free_id, in_setup, one_of, with_art
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.model import Job
from gatepost.core.job.operation import Operation
from gatepost.core.job.relief import HeightsFigures

COMMANDS = Commands()


def _larger(figures: Model, across: float, up: float) -> Model:
    if isinstance(figures, Letters):
        return changed(figures, lines=tuple(line.larger(across) for line in figures.lines))
    if isinstance(figures, Rounded):
        corner = figures.corner * min(across, up)
        return changed(figures, width=figures.width * across, height=figures.height * up, corner=corner)
    if isinstance(figures, (DrawnFigures, HeightsFigures)):
        return changed(figures, width=figures.width * across, height=figures.height * up)
    if isinstance(figures, HolesFigures):
        return changed(figures, pitch=figures.pitch * across)  # a hole is as wide as what goes into it
    if isinstance(figures, ScrewsFigures):
        return changed(figures, pitch=figures.pitch * across)
    if isinstance(figures, HangerFigures):
        return changed(figures, slot=figures.slot * up)
    raise OperatorError("That has no size of its own.")


@COMMANDS("resize art")
def resize_art(job: Job, art: str, across: float, up: float, x: float | None = None, y: float | None = None) -> Job:
    """Artwork larger or smaller by factors across and up, about its middle or to a new place; lettering by the same one both ways."""
    old = one_of(job.artwork, art, "artwork")
    if not (0.01 <= across <= 100.0 and 0.01 <= up <= 100.0):
        raise OperatorError("Artwork can be made between a hundredth and a hundred times as large.")
    if isinstance(old.figures, Letters) and abs(across - up) > 1e-9:
        raise OperatorError("Lettering keeps its proportions: name the same factor twice.")
    place = {k: v for k, v in {"x": x, "y": y}.items() if v is not None}
    return with_art(job, art, figures=_larger(old.figures, across, up), **place)


@COMMANDS("copy art")
def copy_art(job: Job, art: str, x: float | None = None, y: float | None = None) -> Job:
    """The same once more, beside it or at a place: worked on as it is, by an operation of its own where it is alone on one."""
    old = one_of(job.artwork, art, "artwork")
    taken = [*called(job), *(a.id for a in job.artwork)]
    name = free_id(art, taken)
    beside = {"x": old.x + 20.0 if x is None else x, "y": old.y - 20.0 if y is None else y}
    new = changed(old, id=name, title=f"{old.title} (copy)"[:80] if old.title else "", locked=False, **beside)
    job = changed(job, artwork=(*job.artwork, new))
    for setup in job.setups:
        done: list[Operation] = []
        for one in setup.operations:
            if art not in one.on:
                done.append(one)
            elif len(one.on) > 1:
                done.append(changed(one, on=(*one.on, name)))
            else:
                there = [*called(job), *(o.id for o in done)]
                id = name if name not in there else free_id(one.id, there)
                done += [one, changed(one, id=id, title="", on=(name,))]
        job = in_setup(job, setup.id, operations=tuple(done))
    return job
