# SPDX-License-Identifier: GPL-3.0-or-later
"""A job and a table of texts as a series of jobs, each planned by itself: a board for each row, or as many rows on a board as fit."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from gatepost.core.cache import Memory
from gatepost.core.carve.series import RowJob, Way, columns_of, read_rows, row_job, slug
from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.findings import Level
from gatepost.core.job.base import changed
from gatepost.core.job.file import Document, load, save
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.plan.pipeline import plan
from gatepost.core.reading import read_whole
from gatepost.core.units import spell
from gatepost.core.writing import write_whole

LARGEST = 16 * 2**20  # bytes of a table
TELLING = (Level.STOP, Level.CARE)


@dataclass(frozen=True)
class SeriesJob:
    """A job of a series that is to be written. file: its name; rows: of the table that are on its board; pieces: each of them made into a job."""

    file: str
    job: Job
    rows: tuple[dict[str, str], ...]
    pieces: tuple[RowJob, ...]


@dataclass
class SeriesRun:
    """A series that is being written, job by job. told: rows of what is done, as series.json has them."""

    document: Document
    out: Path
    jobs: tuple[SeriesJob, ...]
    told: list[dict[str, Any]] = field(default_factory=list)
    done: int = 0

    @property
    def ended(self) -> bool:
        """Whether all of it is written."""
        return self.done >= len(self.jobs)

    def step(self, memory: Memory | None = None) -> str:
        """Write and plan the next job; gives what there is to say of it. Raises Cancelled as the memory does, and it can be taken again."""
        one = self.jobs[self.done]
        found = [f for f in plan(one.job, memory=memory).findings if f.level in TELLING]
        save(replace(self.document, job=one.job, journal=Journal()), self.out / one.file)
        self.done += 1
        unit = one.job.unit
        findings = [{"level": f.level.value, "code": f.code, "setup": f.setup, "message": spell(f.message, unit)} for f in found]  # fmt: skip
        for row, piece in zip(one.rows, one.pieces):
            over = [
                {"level": "stop", "code": "series.too-long", "setup": "", "message": spell(s, unit)} for s in piece.over
            ]
            fitted = [spell(s, unit) for s in (*piece.said, *piece.over)]
            self.told.append({"row": row, "file": one.file, "fitted": fitted, "findings": findings + over})
        mine = self.told[-len(one.rows) :]
        stops = sum(f["level"] == "stop" for f in findings) + sum(len(p.over) for p in one.pieces)
        words = "; ".join(s for row in mine for s in row["fitted"]) or "as it is"
        pieces = f"{len(one.rows)} pieces, " if len(one.rows) > 1 else ""
        return f"{one.file}: {pieces}{words}; {stops} stop{'s' if stops != 1 else ''}"

    def close(self) -> None:
        """Write series.json of what is done."""
        write_whole(self.out / "series.json", json.dumps(self.told, ensure_ascii=False, indent=1).encode())


def series(job: Path, table: Path, out: Path, way: Way, say: Callable[[str], None], filled: bool = False) -> list[dict[str, Any]]:  # fmt: skip
    """Writes all jobs, and series.json; gives its rows. filled: whether as many rows are on a board as fit. Raises OperatorError, and nothing is
    written where the table does not fit or a job of that name is there."""
    run = begun(load(job), job.stem, table, out, way, filled)
    try:
        while not run.ended:
            say(run.step())
    finally:
        run.close()
    return run.told


def begun(document: Document, name: str, table: Path, out: Path, way: Way, filled: bool = False) -> SeriesRun:
    """A series of a job that is open, ready to be written: every text is set already. name: of its file."""
    try:
        text = read_whole(table, LARGEST).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise UnusableFile(
            f"{table.name} is not UTF-8 text: byte {error.start + 1} can't be read. Save it as CSV in UTF-8."
        ) from None
    rows = read_rows(text, table.name)
    columns = columns_of(document.job)
    if not columns:
        raise OperatorError(f"{name} names no column: write {{name}} in a line of lettering for the column “name”.")
    made = [_row(document.job, row, way, f"{table.name}, row {n}") for n, row in enumerate(rows, start=1)]
    called = [slug([row[c] for c in columns]) for row in rows]
    jobs = _filled(document.job, rows, made, called) if filled else _each(document.job, rows, made, called)
    there = next((one.file for one in jobs if (out / one.file).exists()), "")
    if there:
        raise OperatorError(f"{there} is in {out} already, perhaps with runs in its log. Choose another folder.")
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise OperatorError(f"{out} can't be made: {error.strerror}.") from None
    return SeriesRun(document, out, tuple(jobs))


def _each(job: Job, rows: list[dict[str, str]], made: list[RowJob], called: list[str]) -> list[SeriesJob]:
    """A board for each row."""
    return [
        SeriesJob(_file(n, len(rows), name), _named(job, one.job, name), (row,), (one,))
        for n, (row, one, name) in enumerate(zip(rows, made, called), start=1)
    ]


def _filled(job: Job, rows: list[dict[str, str]], made: list[RowJob], called: list[str]) -> list[SeriesJob]:
    """Boards with as many rows as fit. Raises OperatorError where the pieces of a job can't be set beside each other."""
    from gatepost.core.plan.several import places, room_of, together

    at = places(room_of(plan(made[0].job, coarse=True)))
    if not len(at):
        raise OperatorError("As many on a board as fit: not one fits between its edge, its flaws and what holds it.")
    out: list[SeriesJob] = []
    boards = -(-len(rows) // len(at))
    for n in range(boards):
        part = slice(n * len(at), (n + 1) * len(at))
        names = called[part]
        name = names[0] if len(names) == 1 else f"{names[0][:18].strip('-')}-to-{names[-1][:18].strip('-')}"
        one = together(job, [m.job for m in made[part]], at)
        out.append(SeriesJob(_file(n + 1, boards, name), _named(job, one, name), tuple(rows[part]), tuple(made[part])))
    return out


def _file(number: int, of: int, name: str) -> str:
    return f"{number:0{max(2, len(str(of)))}d}-{name}.gatepost"


def _named(job: Job, piece: Job, name: str) -> Job:
    return changed(piece, name=f"{job.name}: {name.replace('-', ' ')}"[:80], series=())


def _row(job: Job, row: dict[str, str], way: Way, where: str) -> RowJob:
    try:
        return row_job(job, row, way)
    except OperatorError as error:
        raise OperatorError(f"{where}: {error}") from None
