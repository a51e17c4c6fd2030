# SPDX-License-Identifier: GPL-3.0-or-later
"""A job and a table of texts as a series of jobs, each planned by itself; for the command line."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

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


def series(job: Path, table: Path, out: Path, way: Way, say: Callable[[str], None]) -> list[dict[str, Any]]:
    """Writes a job a row, and series.json; gives its rows. Raises OperatorError, and nothing is written where the table does not fit
    or a job of that name is there."""
    return written(load(job), job.stem, table, out, way, say)


def written(
    document: Document, name: str, table: Path, out: Path, way: Way, say: Callable[[str], None]
) -> list[dict[str, Any]]:  # fmt: skip
    """As series, of a job that is open. name: of its file."""
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
    digits = max(2, len(str(len(rows))))
    names = [f"{n:0{digits}d}-{slug([row[c] for c in columns])}" for n, row in enumerate(rows, start=1)]
    there = next((n for n in names if (out / f"{n}.gatepost").exists()), "")
    if there:
        raise OperatorError(
            f"{there}.gatepost is in {out} already, perhaps with runs in its log. Choose another folder."
        )
    try:
        out.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise OperatorError(f"{out} can't be made: {error.strerror}.") from None
    told: list[dict[str, Any]] = []
    for row, one, stem in zip(rows, made, names):
        name, called = f"{stem}.gatepost", stem.split("-", 1)[1]
        piece = changed(one.job, name=f"{document.job.name}: {called.replace('-', ' ')}"[:80], series=())
        save(replace(document, job=piece, journal=Journal()), out / name)
        findings = [f for f in plan(piece).findings if f.level in TELLING]
        unit = piece.unit
        told.append(
            {
                "row": row, "file": name, "fitted": [spell(s, unit) for s in (*one.said, *one.over)],
                "findings": [{"level": f.level.value, "code": f.code, "setup": f.setup, "message": spell(f.message, unit)} for f in findings]
                + [{"level": "stop", "code": "series.too-long", "setup": "", "message": spell(s, unit)} for s in one.over],
            }
        )  # fmt: skip
        stops = sum(f["level"] == "stop" for f in told[-1]["findings"])
        say(f"{name}: {'; '.join(told[-1]['fitted']) or 'as it is'}; {stops} stop{'s' if stops != 1 else ''}")
    write_whole(out / "series.json", json.dumps(told, ensure_ascii=False, indent=1).encode())
    return told


def _row(job: Job, row: dict[str, str], way: Way, where: str) -> RowJob:
    try:
        return row_job(job, row, way)
    except OperatorError as error:
        raise OperatorError(f"{where}: {error}") from None
