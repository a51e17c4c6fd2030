# SPDX-License-Identifier: GPL-3.0-or-later
"""What the logbook keeps of what was learned: lessons, and pieces as they were judged."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Callable
from dataclasses import asdict
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from gatepost.core.errors import OperatorError
from gatepost.core.log.judged import Result, result_of, result_values
from gatepost.core.log.lesson import Declined, Lesson
from gatepost.logbook.rows import LessonRow, ResultRow

Opened = Callable[[], contextlib.AbstractContextManager[Session]]
PLAIN = (
    "words", "stage", "wood", "tool", "kind", "hold", "machine", "amount", "bad", "good", "made", "run", "held", "failed", "judged", "ended",
)  # fmt: skip


class Learned:
    """opened: a session of the logbook's, written whole or not at all."""

    def __init__(self, opened: Opened) -> None:
        self._opened = opened

    # -- lessons --------------------------------------------------------------------------------------------------

    def add(self, lesson: Lesson) -> int:
        """Keep a lesson; gives its number. Raises OperatorError."""
        lesson.checked()
        with self._opened() as session:
            row = LessonRow(**{name: getattr(lesson, name) for name in PLAIN}, declined=_declined(lesson.declined))
            session.add(row)
            session.flush()
            return row.id

    def lessons(self, ended: bool = False) -> list[Lesson]:
        """In the order in which they were made. ended: those that were put away too."""
        with self._opened() as session:
            rows = session.scalars(select(LessonRow).order_by(LessonRow.id))
            return [_lesson(row) for row in rows if ended or not row.ended]

    def lesson(self, number: int) -> Lesson:
        """One. Raises OperatorError."""
        with self._opened() as session:
            return _lesson(self._row(session, number))

    def mend(self, lesson: Lesson) -> None:
        """Other words, ties or figures; how it did so far stays. Raises OperatorError."""
        lesson.checked()
        with self._opened() as session:
            row = self._row(session, lesson.id)
            for name in PLAIN[:10]:
                setattr(row, name, getattr(lesson, name))

    def decline(self, number: int, job: str, why: str, at: str) -> None:
        """Not followed in a job, with the reason. Raises OperatorError."""
        if not why.strip():
            raise OperatorError("Say why it is not followed here: whoever reads it later wants to know.")
        with self._opened() as session:
            row = self._row(session, number, lock=True)
            told = [d for d in _lesson(row).declined if d.job != job]
            row.declined = _declined((*told, Declined(job, why.strip(), at)))

    def count(self, number: int, held: bool, at: str) -> None:
        """Judged once more: counted where it stands, so that two who do it at once are both counted. Raises OperatorError."""
        name = "held" if held else "failed"
        with self._opened() as session:
            self._row(session, number)
            column = getattr(LessonRow, name)
            session.execute(update(LessonRow).where(LessonRow.id == number).values({name: column + 1, "judged": at}))

    def put_away(self, number: int, at: str) -> None:
        """It does not come back any more. Raises OperatorError."""
        with self._opened() as session:
            self._row(session, number).ended = at

    def _row(self, session: Session, number: int, lock: bool = False) -> LessonRow:
        row = session.get(LessonRow, number, with_for_update=lock or None)
        if row is None:
            raise OperatorError(f"The logbook has no lesson {number}.")
        return row

    # -- results --------------------------------------------------------------------------------------------------

    def judge(self, result: Result) -> int:
        """Keep how a piece came out, and count the lessons that were judged with it; gives its number."""
        with self._opened() as session:
            row = ResultRow(
                at=result.at, kind=result.kind, job=result.job, path=result.path, fingerprint=result.fingerprint, words=result.words,
                told=json.dumps(result_values(result), ensure_ascii=False),
            )  # fmt: skip
            session.add(row)
            session.flush()
            for one in result.lessons:
                if one.held is not None and result.kind == "shop":
                    column = LessonRow.held if one.held else LessonRow.failed
                    name = "held" if one.held else "failed"
                    session.execute(
                        update(LessonRow).where(LessonRow.id == one.lesson).values({name: column + 1, "judged": result.at})
                    )  # fmt: skip
            return row.id

    def results(self, job: str | None = None) -> list[Result]:
        """Newest first."""
        with self._opened() as session:
            query = select(ResultRow).order_by(ResultRow.id.desc())
            if job is not None:
                query = query.where(ResultRow.job == job)
            return [_result(row) for row in session.scalars(query)]


def _declined(all_of: tuple[Declined, ...]) -> str:
    return json.dumps([asdict(d) for d in all_of], ensure_ascii=False)


def _lesson(row: LessonRow) -> Lesson:
    told: Any
    try:
        told = json.loads(row.declined)
    except (ValueError, TypeError):
        told = []
    rows = [d for d in told if isinstance(d, dict)] if isinstance(told, list) else []
    declined = tuple(Declined(*(str(d.get(n, "")) for n in ("job", "why", "at"))) for d in rows)
    return Lesson(**{name: getattr(row, name) for name in PLAIN}, declined=declined, id=row.id)


def _result(row: ResultRow) -> Result:
    try:
        told = json.loads(row.told)
    except (ValueError, TypeError):
        told = {}
    more = {name: getattr(row, name) for name in ("at", "kind", "job", "path", "fingerprint", "words", "id")}
    return result_of(told if isinstance(told, dict) else {}, **more)
