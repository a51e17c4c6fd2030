# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of lettering and plate."""

from __future__ import annotations

from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.carve import CutOut, Glyph, Letters, Rounded, TextLine, VCut
from gatepost.core.job.commands.parts import Commands, called, free_id, in_setup, item, swap, with_art, with_operation
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork, Operation

COMMANDS = Commands()


def _last(job: Job) -> Setup:
    """Where carving is done when nothing else is said: in the last setup with the front up."""
    return next((s for s in reversed(job.setups) if s.up == "front"), job.setups[-1])


def _made(job: Job, kind: str, art: Artwork, operation: Operation) -> Job:
    """The job with artwork and an operation on it, where it has none of the kind yet; what frees pieces goes last."""
    there = next((a for a in job.artwork if a.kind == kind), None)
    if there is None:
        there = changed(art, id=_free(art.id, [a.id for a in job.artwork]))
        job = changed(job, artwork=(*job.artwork, there))
    done = [o for s in job.setups for o in s.operations]
    if any(there.id in o.on and o.kind == operation.kind for o in done):
        return job
    operation = changed(operation, id=_free(operation.id, called(job)), on=(there.id,))
    setup = _last(job)
    first = operation.kind != "cutout"
    together = (operation, *setup.operations) if first else (*setup.operations, operation)
    return in_setup(job, setup.id, operations=together)


def _free(wanted: str, taken: list[str]) -> str:
    """An id as it is wanted, or numbered where that is taken."""
    return free_id(wanted, taken) if wanted in taken else wanted


def _lettered(job: Job) -> Job:
    """The job with lettering and its V-cut, empty where there was none."""
    cut = Operation(id="lettering", kind="vcut", on=("lettering",), figures=VCut())
    return _made(job, "lettering", Artwork(id="lettering", kind="lettering", figures=Letters()), cut)


def _put(job: Job, kind: str, values: dict[str, Any]) -> Job:
    """Values of the first artwork of a kind, of its place, and of the operation on it, each where it belongs."""
    art = next(a for a in job.artwork if a.kind == kind)
    wanted = "vcut" if kind == "lettering" else "cutout"
    operation = next(o for s in job.setups for o in s.operations if art.id in o.on and o.kind == wanted)
    for name in values:
        if not any(name in type(m).model_fields for m in (art.figures, operation.figures)) and name not in ("x", "y"):
            raise OperatorError(f"There is no entry “{name}” here.")
    mine = {k: v for k, v in values.items() if k in type(art.figures).model_fields}
    done = {k: v for k, v in values.items() if k in type(operation.figures).model_fields}
    place = {k: v for k, v in values.items() if k in ("x", "y")}
    if mine or place:
        job = with_art(job, art.id, figures=changed(art.figures, **mine), **place)
    return with_operation(job, operation.id, figures=changed(operation.figures, **done)) if done else job


@COMMANDS("set carving", Letters, VCut)
def set_carving(job: Job, **values: Any) -> Job:
    """Where the lettering stands, its margin, tool and finish."""
    return _put(_lettered(job), "lettering", values)


def _lines(job: Job, lines: tuple[TextLine, ...]) -> Job:
    return _put(_lettered(job), "lettering", {"lines": lines})


@COMMANDS("add line", TextLine)
def add_line(
    job: Job, text: str, face: str, height: float, glyphs: tuple[Glyph, ...], width: float, **values: Any
) -> Job:
    """One more line of lettering, with the outlines that its face gave."""
    empty = TextLine(text="", face=face, height=10)
    line = changed(empty, **values, text=text, height=height, glyphs=glyphs, width=width)
    return _lines(job, (*job.carving.lines, line))


@COMMANDS("set line", TextLine)
def set_line(job: Job, index: int, **values: Any) -> Job:
    """Change a line; another text or face comes with its outlines."""
    if ("text" in values or "face" in values) and not {"glyphs", "width"} <= set(values):
        raise OperatorError("Another text or face needs its outlines with it.")
    line = changed(item(job.carving.lines, index, "line"), **values)
    return _lines(job, swap(job.carving.lines, index, line))


@COMMANDS("remove line")
def remove_line(job: Job, index: int) -> Job:
    """Take a line of lettering away."""
    item(job.carving.lines, index, "line")
    return _lines(job, job.carving.lines[:index] + job.carving.lines[index + 1 :])


@COMMANDS("scale lettering")
def scale_lettering(job: Job, factor: float) -> Job:
    """Every line larger or smaller by a factor."""
    if not 0.01 <= factor <= 100:
        raise OperatorError("Lettering can be scaled between a hundredth and a hundred times.")
    return _lines(job, tuple(changed(line, height=line.height * factor) for line in job.carving.lines))


@COMMANDS("set plate", Rounded, CutOut)
def set_plate(job: Job, present: bool = True, **values: Any) -> Job:
    """The rounded plate that is cut out; present false takes it away."""
    if not present:
        gone = {a.id for a in job.artwork if a.kind == "plate"}
        for setup in job.setups:
            job = in_setup(job, setup.id, operations=tuple(o for o in setup.operations if not gone & set(o.on)))
        return changed(job, artwork=tuple(a for a in job.artwork if a.id not in gone))
    b = job.blank
    plate = Rounded(width=0.8 * b.length, height=0.8 * b.width)
    art = Artwork(id="plate", kind="plate", x=b.length / 2, y=b.width / 2, figures=plate)
    return _put(
        _made(job, "plate", art, Operation(id="cut-out", kind="cutout", on=("plate",), figures=CutOut())),
        "plate",
        values,
    )
