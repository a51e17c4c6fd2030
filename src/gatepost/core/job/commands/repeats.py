# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of a part that is made several times over."""

from __future__ import annotations

import math
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.commands.machine import set_on_bed
from gatepost.core.job.commands.parts import Commands, free_id, one_of, swap, without
from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.model import Job
from gatepost.core.job.repeats import PartMeasured, PartSize, Repeats
from gatepost.core.units import mm, spell

COMMANDS = Commands()


@COMMANDS("set parts")
def set_parts(job: Job, parts: int) -> Job:
    """How many of this part are wanted; one is no batch."""
    repeats = changed(job.repeats or Repeats(), parts=parts)
    return changed(job, repeats=None if repeats == Repeats() else repeats)


@COMMANDS("add size", PartSize)
def add_size(job: Job, **values: Any) -> Job:
    """One more size that is measured of each part."""
    repeats = job.repeats or Repeats()
    return changed(job, repeats=changed(repeats, sizes=(*repeats.sizes, values)))


@COMMANDS("set size", PartSize)
def set_size(job: Job, size: str, **values: Any) -> Job:
    """What a size should be, and by how much it may be otherwise."""
    repeats = job.repeats or Repeats()
    old = one_of(repeats.sizes, size, "size of a part")
    return changed(job, repeats=changed(repeats, sizes=swap(repeats.sizes, old, changed(old, **values))))


@COMMANDS("remove size")
def remove_size(job: Job, size: str) -> Job:
    """A size that is not measured any more, with what was measured of it."""
    repeats = job.repeats or Repeats()
    old = one_of(repeats.sizes, size, "size of a part")
    rows = tuple(changed(r, values={k: v for k, v in r.values.items() if k != size}) for r in repeats.rows)
    kept = tuple(r for r in rows if r.values)
    return changed(job, repeats=changed(repeats, sizes=without(repeats.sizes, old), rows=kept))


@COMMANDS("sizes from job")
def sizes_from_job(job: Job) -> Job:
    """Sizes that tell most of a part: its thickness, the distance of the outermost holes of each row that is drilled, each plate that is cut out."""
    repeats = job.repeats or Repeats()
    found: list[tuple[str, float]] = [("thickness", job.blank.label_thickness)]
    done = {i: o.kind for s in job.setups for o in s.operations for i in o.on}
    for art in job.artwork:
        called = art.title or art.id
        if done.get(art.id) == "drill" and isinstance(art.figures, HolesFigures) and art.figures.number > 1:
            found.append((f"{called}, first to last hole", art.figures.pitch * (art.figures.number - 1)))
        if done.get(art.id) == "cutout" and art.kind == "plate":
            found += [(f"{called}, width", art.figures.width), (f"{called}, height", art.figures.height)]  # type: ignore[attr-defined]
    new = [(t, v) for t, v in found if all(s.title != t or not math.isclose(s.nominal, v) for s in repeats.sizes)]
    if not new:
        raise OperatorError("All sizes that the job tells of are there already. Add one and type what it should be.")
    sizes = list(repeats.sizes)
    for title, nominal in new:
        sizes.append(PartSize(id=free_id("size", (s.id for s in sizes)), title=title, nominal=nominal))
    return changed(job, repeats=changed(repeats, sizes=tuple(sizes)))


@COMMANDS("set part")
def set_part(job: Job, part: int, size: str, value: float | None = None) -> Job:
    """What was measured of a part; nothing takes it back."""
    repeats = job.repeats or Repeats()
    one_of(repeats.sizes, size, "size of a part")
    values = {k: v for k, v in repeats.measured(part).items() if k != size}
    if value is not None:
        values[size] = value
    others = [r for r in repeats.rows if r.part != part]
    rows = sorted([*others, *([PartMeasured(part=part, values=values)] if values else [])], key=lambda r: r.part)
    return changed(job, repeats=changed(repeats, rows=tuple(rows)))


@COMMANDS("keep first part")
def keep_first_part(job: Job, nest: str, at: str) -> Job:
    """What the first part measured, kept with the nest that it was made in. at: the day."""
    repeats = job.repeats or Repeats()
    first = repeats.measured(1)
    if not first:
        raise OperatorError("Nothing of the first part is measured yet.")
    told = [f"{s.title or s.id} {mm(first[s.id], 2)} for {mm(s.nominal, 2)}" for s in repeats.sizes if s.id in first]
    return set_on_bed(job, what="nests", name=nest, values={"first": spell(f"{at}: {'; '.join(told)}", job.unit)[:400]})
