# SPDX-License-Identifier: GPL-3.0-or-later
"""One job for each row of a table of texts: {column} in a line of lettering says what that row says, and what is too long is made to fit."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from gatepost.core.carve.edits import outlines, room_for
from gatepost.core.carve.setting import set_line
from gatepost.core.errors import OperatorError
from gatepost.core.geometry import curves
from gatepost.core.job.base import changed
from gatepost.core.job.carve import Letters, TextLine, VCut
from gatepost.core.job.model import Job
from gatepost.core.job.operation import Artwork
from gatepost.core.job.register import MOST_ROWS
from gatepost.core.units import mm

COLUMN = re.compile(r"\{([^{}]{1,60})\}")
NARROWEST = 0.7  # of its own width that letters are made; narrower ones are another face
SMALLEST = 0.3  # of its height that a line is made; less is told as too long
Way = Literal["smaller", "narrower", "two lines"]


@dataclass(frozen=True)
class RowJob:
    """A row made into a job. said: what was done to texts that were too long; over: texts that are too long all the same."""

    job: Job
    said: tuple[str, ...]
    over: tuple[str, ...]


def columns_of(job: Job) -> tuple[str, ...]:
    """Columns that the texts of a job name, in their order."""
    texts = [line.text for a in job.artwork if isinstance(a.figures, Letters) for line in a.figures.lines]
    return tuple(dict.fromkeys(name.strip() for text in texts for name in COLUMN.findall(text)))


def read_rows(text: str, name: str) -> list[dict[str, str]]:
    """Rows of a table of texts by column. The first row names the columns; they are parted by commas, semicolons or tabs. Raises OperatorError."""
    lines = text.lstrip("\ufeff").splitlines()
    head = next((line for line in lines if line.strip()), "")
    if not head:
        raise OperatorError(f"{name} is empty: a row of column names is wanted first.")
    between = max(",;\t", key=lambda d: (head.count(d), text.count(d)))
    try:
        table = [
            [c.strip() for c in row]
            for row in csv.reader(io.StringIO("\n".join(lines)), delimiter=between, strict=True)
        ]
    except csv.Error as error:
        raise OperatorError(f"{name} can't be read as a table ({error}).") from None
    table = [row for row in table if any(row)]
    names, rows = table[0], table[1:]
    twice = next((n for n in names if n and names.count(n) > 1), None)
    if twice is not None:
        raise OperatorError(f"{name} has two columns called “{twice}”.")
    if not rows:
        raise OperatorError(f"{name} names its columns and has no rows.")
    if len(rows) > MOST_ROWS:
        raise OperatorError(f"{name} has {len(rows)} rows: {MOST_ROWS} at most.")
    for number, row in enumerate(rows, start=1):
        if len(row) > len(names) and any(row[len(names) :]):
            raise OperatorError(
                f"{name}, row {number}: it has {len(row)} values, and there are {len(names)} columns. Is one too many?"
            )
    return [dict(zip(names, [*row, *[""] * len(names)])) for row in rows]


def row_job(job: Job, row: Mapping[str, str], way: Way = "smaller") -> RowJob:
    """A job with its texts as a row has them. way: what is done to a text that is too long for its place. Raises OperatorError."""
    missing = [c for c in columns_of(job) if c not in row]
    if missing:
        raise OperatorError(f"The table has no column “{missing[0]}”: its columns are {', '.join(row)}.")
    said: list[str] = []
    over: list[str] = []
    art: list[Artwork] = []
    for one in job.artwork:
        if isinstance(one.figures, Letters) and any(COLUMN.search(line.text) for line in one.figures.lines):
            one = changed(one, figures=_filled(job, one, one.figures, row, way, said, over))
        art.append(one)
    return RowJob(changed(job, artwork=tuple(art)), tuple(said), tuple(over))


def _filled(
    job: Job, art: Artwork, letters: Letters, row: Mapping[str, str], way: Way, said: list[str], over: list[str]
) -> Letters:
    wide = _room(job, art)
    lines: list[TextLine] = []
    for line in letters.lines:
        if not COLUMN.search(line.text):
            lines.append(line)
            continue
        text = " ".join(COLUMN.sub(lambda m: row[m[1].strip()], line.text).split())
        if not text:
            said.append(f"“{line.text}” is empty in this row: the line is left out")
            continue
        lines += _fitting(changed(line, **outlines(text, line.face)), wide, way, said, over)
    return changed(letters, lines=tuple(lines))


def _room(job: Job, art: Artwork) -> float:
    """How wide lettering may be where it stands, mm."""
    for setup in job.setups:
        for one in setup.operations:
            if art.id in one.on:
                margin = getattr(one.figures, "margin", getattr(one.figures, "rim", VCut().margin))
                return room_for(job, setup.id, art, float(margin))[0]
    return room_for(job, job.setups[-1].id, art, VCut().margin)[0]


def width_of(line: TextLine) -> float:
    """How wide a line is as it is set, mm."""
    return set_line(line).wide


def _fitting(line: TextLine, wide: float, way: Way, said: list[str], over: list[str]) -> list[TextLine]:
    """A line, or two, made to fit."""
    has = width_of(line)
    if has <= wide:
        return [line]
    if way == "two lines" and " " in line.text:
        halves = _parted(line, wide, said)
        if halves:
            return halves
    if way == "narrower" and wide / has >= NARROWEST:
        said.append(f"“{line.text}” is made {100 * (1 - wide / has):.0f} % narrower, to {mm(wide, 1)}")
        return [_narrowed(line, wide / has)]
    factor = wide / has
    if factor < SMALLEST:
        over.append(f"“{line.text}” is {mm(has, 0)} long and has {mm(wide, 0)}: too long to be made to fit")
        return [line]
    said.append(f"“{line.text}” is made smaller, from {mm(line.height, 1)} to {mm(line.height * factor, 1)} high")
    return [line.larger(factor)]


def _parted(line: TextLine, wide: float, said: list[str]) -> list[TextLine]:
    """A line set in two, parted where the longer is shortest; made smaller where that is still too long."""
    words = line.text.split(" ")
    ways = [(" ".join(words[:i]), " ".join(words[i:])) for i in range(1, len(words))]
    best = min(ways, key=lambda w: max(len(w[0]), len(w[1])))
    two = [changed(line, id=line.id if i == 0 else "", **outlines(text, line.face)) for i, text in enumerate(best)]
    factor = min(1.0, wide / max(width_of(one) for one in two))
    if factor < SMALLEST:
        return []
    more = f", {mm(line.height * factor, 1)} high" if factor < 1.0 else ""
    said.append(f"“{line.text}” is set in two lines{more}")
    return [one.larger(factor) for one in two]


def _narrowed(line: TextLine, factor: float) -> TextLine:
    squeeze = np.array([factor, 1.0])

    def of(path: str) -> str:
        return curves.write_path([[piece * squeeze for piece in contour] for contour in curves.parse_path(path)], 9)

    glyphs = tuple(changed(g, x=g.x * factor, path=of(g.path)) for g in line.glyphs)
    return changed(
        line,
        glyphs=glyphs,
        width=line.width * factor,
        tracking=line.tracking * factor,
        kerns=tuple(k * factor for k in line.kerns),
    )


def slug(values: Sequence[str]) -> str:
    """A name for a file out of what a row says."""
    words = re.sub(r"[^a-z0-9]+", "-", " ".join(values).lower()).strip("-")
    return words[:40].strip("-") or "piece"
