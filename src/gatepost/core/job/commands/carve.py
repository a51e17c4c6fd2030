# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of lettering and plate."""

from __future__ import annotations

from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.carve import Glyph, Plate, TextLine
from gatepost.core.job.commands.parts import Commands, item, swap
from gatepost.core.job.model import Job

COMMANDS = Commands()


@COMMANDS("set carving")
def set_carving(job: Job, **values: Any) -> Job:
    """Where the lettering stands, its margin, tool and finish."""
    return changed(job, carving=changed(job.carving, **values))


def _lines(job: Job, lines: tuple[TextLine, ...]) -> Job:
    return changed(job, carving=changed(job.carving, lines=lines))


@COMMANDS("add line")
def add_line(
    job: Job, text: str, face: str, height: float, glyphs: tuple[Glyph, ...], width: float, **values: Any
) -> Job:
    """One more line of lettering, with the outlines that its face gave."""
    empty = TextLine(text="", face=face, height=10)
    line = changed(empty, **values, text=text, height=height, glyphs=glyphs, width=width)
    return _lines(job, (*job.carving.lines, line))


@COMMANDS("set line")
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


@COMMANDS("set plate")
def set_plate(job: Job, present: bool = True, **values: Any) -> Job:
    """The rounded plate that is cut out; present false takes it away."""
    if not present:
        return set_carving(job, plate=None)
    middle = {"x": job.blank.length / 2, "y": job.blank.width / 2}
    old = job.carving.plate or Plate(width=0.8 * job.blank.length, height=0.8 * job.blank.width, **middle)
    return set_carving(job, plate=changed(old, **values))
