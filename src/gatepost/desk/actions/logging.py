# SPDX-License-Identifier: GPL-3.0-or-later
"""What is learned from the log: lessons made and declined, a piece judged, a job's diary, rows written as a file."""

from __future__ import annotations

from base64 import b64decode
from collections.abc import Callable
from dataclasses import asdict
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from gatepost.core.errors import OperatorError
from gatepost.core.log.filtering import tool_of, works_of
from gatepost.core.log.judged import Result, drifting
from gatepost.core.log.lesson import Lesson
from gatepost.core.units import spell
from gatepost.desk.actions.files import PDF
from gatepost.desk.context.desk_context import Act, DeskContext
from gatepost.desk.dialogs import questions
from gatepost.desk.view.diary_page import NONE

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QDialog

    from gatepost.core.plan.result import Plan
    from gatepost.desk.actions.runs import RunActions

PICTURE = "picture"  # what photos of results are kept under
TABLES = {"csv": "Tables (*.csv)", "json": "JSON (*.json)", "pdf": PDF}


class LogActions:
    """One dialog at a time. chosen: the run that is chosen in the log, or nothing; picked: all that are; shown: the rows that are shown; changed: the pages say something else now."""

    def __init__(self, desk: DeskContext, runs: RunActions) -> None:
        self._desk, self._runs = desk, runs
        self.dialog: QDialog | None = None
        self.second: QDialog | None = None  # over the first
        self.chosen: Callable[[], Any] = lambda: None
        self.picked: Callable[[], list[Any]] = list
        self.shown: Callable[[], list[Any]] = list
        self.changed: Callable[[], None] = lambda: None

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "lesson": self.lesson, "lessons": self.lessons, "decline_lesson": self.decline, "judge": self.judge, "diary": self.diary, "export_log": self.export,
            "compare": self.compare,
        }  # fmt: skip

    @staticmethod
    def _now() -> str:
        from gatepost.machine.standing_checks import now

        return now()

    def _open(self, dialog: QDialog) -> None:
        self.dialog = dialog
        dialog.open()

    # -- lessons ------------------------------------------------------------------------------------------------------

    def known_lessons(self) -> list[Lesson]:
        """All that are not put away."""
        found: list[Lesson] = self._desk.from_book(lambda book: book.learned.lessons(), [])
        return found

    def remember(self) -> None:
        """Read the lessons again, for the pages that they come back at."""
        showing = self._desk.showing
        lessons, showing.logged = self._desk.from_book(lambda book: (book.learned.lessons(), book.count()), ([], 0))
        showing.lessons = tuple(lessons)
        self.changed()

    def lesson(self) -> None:
        """Make one of the run that is chosen in the log."""
        run = self.chosen()
        if run is None:
            self._desk.messages.say("Choose a run in the log first.")
            return
        if run.kind != "shop":
            self._desk.messages.say(
                "Lessons are learned in the shop: a simulated machine shows nothing of what wood does. What you know yourself you can add under Lessons."
            )
            return
        said = run.remarks.strip() or next((str(m.get("what", "")) for m in run.marks if isinstance(m, dict)), "")
        works = works_of(run)
        kept = sorted({o["percent"] for o in run.overrides if isinstance(o, dict) and "percent" in o})
        start = Lesson(
            said, wood=run.wood, tool=tool_of(run), kind=works[0] if len(works) == 1 else "", made=self._now()[:10], run=run.id,
        )  # fmt: skip
        note = f"Run {run.id}, in the shop"
        note += f"; its feed was kept at {kept[-1]:.0f} %." if kept else "."
        self._ask(start, note, run)

    def _ask(self, lesson: Lesson, note: str, run: Any = None) -> None:
        from gatepost.desk.dialogs.lesson import LessonDialog

        dialog = LessonDialog(self._desk.window, lesson, self._known(run), self._desk.unit, note)
        dialog.kept.connect(self._keep_lesson)
        self.second = dialog
        dialog.open()

    def _known(self, run: Any) -> dict[str, list[str]]:
        """What a lesson can be tied to: the run's first, then what the job and the shop have."""
        job = self._desk.document.job if self._desk.document is not None else None
        known: dict[str, list[str]] = {name: [] for name in ("wood", "tool", "kind", "hold", "machine")}
        if run is not None:
            known["wood"].append(run.wood)
            known["tool"].append(tool_of(run))
            known["kind"] += works_of(run)
        if job is not None:
            known["wood"].append(job.wood.name)
            known["tool"] += [t.name for t in job.tools]
            known["kind"] += [o.kind for s in job.setups for o in s.operations]
            known["hold"] += [h.kind for s in job.setups for h in s.holds]
            known["machine"].append(job.machine.name)
        return known

    def _keep_lesson(self, lesson: Lesson) -> None:
        def keep(book: Any) -> bool:
            if lesson.id:
                book.learned.mend(lesson)
            else:
                book.learned.add(lesson)
            return True

        if self._desk.from_book(keep, False):
            self.remember()
            self._desk.messages.say("The lesson is kept: it comes back where the same is planned again.")
            self._show_lessons()

    def lessons(self) -> None:
        """All of them."""
        from gatepost.desk.dialogs.lesson import LessonsDialog

        dialog = LessonsDialog(self._desk.window, self._desk.unit, date.today())
        dialog.mend_wanted.connect(lambda one: self._ask(one, ""))
        dialog.away_wanted.connect(self._put_away)
        dialog.another_wanted.connect(
            lambda: self._ask(
                Lesson("", made=self._now()[:10]), "By what is known in this shop, without a run in the log."
            )
        )
        self._open(dialog)
        self._show_lessons()

    def _show_lessons(self) -> None:
        from gatepost.desk.dialogs.lesson import LessonsDialog

        if isinstance(self.dialog, LessonsDialog) and self.dialog.isVisible():
            self.dialog.show_lessons(self.known_lessons())

    def _put_away(self, number: int) -> None:
        def away(book: Any) -> bool:
            book.learned.put_away(number, self._now())
            return True

        if self._desk.from_book(away, False):
            self.remember()
            self._show_lessons()

    def decline(self, number: int) -> None:
        """A lesson is not followed in this job, with the reason."""
        document = self._desk.document
        one = next((x for x in self._desk.showing.lessons if x.id == number), None)
        if document is None or one is None:
            return
        why = questions.ask_reason(self._desk.window, spell(one.words, self._desk.unit))

        def keep(book: Any) -> bool:
            book.learned.decline(number, document.job.name, why, self._now())
            return True

        if why and self._desk.from_book(keep, False):
            self.remember()
            self._desk.messages.say("Not here. It comes back in other jobs.")

    # -- a finished piece ---------------------------------------------------------------------------------------------

    def judge(self) -> None:
        """How the piece came out."""
        self._desk.when_planned("judge", self._judge)

    def _judge(self, plan: Plan) -> None:
        from gatepost.core.plan.promised import promised
        from gatepost.desk.dialogs.judge import JudgeDialog

        rows = [r for r in self._runs.rows(plan.job.name) if r.state == "done"]
        if not rows:
            self._desk.messages.say("No run of this job has ended well yet: there is no piece to judge.")
            return
        simulated = not any(r.kind == "shop" for r in rows)
        asked = promised(plan, self.known_lessons())
        results = self._desk.from_book(lambda book: book.learned.results(), [])
        drifts = [d for d in drifting(results) if d.key in {p.key for p in asked.points}]
        dialog = JudgeDialog(self._desk.window, asked, plan.job.unit, simulated, drifts)
        dialog.kept.connect(lambda judged: self._judged(plan, simulated, judged))
        self._open(dialog)

    def _judged(self, plan: Plan, simulated: bool, judged: Any) -> None:
        path = self._desk.document.path if self._desk.document is not None else None
        points, warnings, lessons, words = judged
        result = Result(
            plan.job.name, self._now(), "simulated" if simulated else "shop", str(path or ""), plan.fingerprint, points, warnings, lessons, words, design=plan.job.design,
        )  # fmt: skip

        def keep(book: Any) -> bool:
            book.learned.judge(result)
            return True

        if self._desk.from_book(keep, False):
            self.remember()
            self._desk.messages.say(f"Kept. {result.told()}")

    # -- the diary ----------------------------------------------------------------------------------------------------

    def diary(self) -> None:
        """All that happened to the open job."""
        from gatepost.core.log.diary import diary
        from gatepost.core.log.time_taken import time_taken
        from gatepost.desk.dialogs.diary import DiaryDialog

        document = self._desk.document
        if document is None:
            return
        name = document.job.name
        runs, results = self._desk.from_book(lambda book: (book.runs(name), book.learned.results(name)), ([], []))
        plan = self._desk.plan
        titles = {(s.name, step.key): step.title for s in plan.setups for step in s.steps} if plan is not None else {}
        lines = diary(document.job, document.journal, runs, results, titles)
        took = (
            time_taken([p.name for s in plan.setups for p in s.programs], runs, lines, plan.finishing)
            if plan is not None
            else None
        )
        pictures = self._pictures([line.picture for line in lines if line.picture])
        dialog = DiaryDialog(
            self._desk.window, name, lines, self._desk.unit, took.told() if took is not None else "", pictures
        )
        dialog.write_wanted.connect(lambda kind: self._write_diary(dialog, name, kind))
        self._open(dialog)

    def _write_diary(self, dialog: Any, name: str, kind: str) -> None:
        path = self._desk.ask_save("Write the diary", f"{name} diary.{kind}", TABLES[kind])
        if path is not None:
            self.write_diary(path, name, dialog.shown(), dialog.pictures)

    def _pictures(self, names: list[str]) -> dict[str, bytes]:
        """Photos that were kept with results."""
        kept = self._desk.from_book(lambda book: {n: book.one_kept(PICTURE, n) for n in names}, {})
        return {n: b64decode(str(k.data.get("jpeg", ""))) for n, k in kept.items() if k is not None}

    def write_diary(self, path: Path, name: str, lines: Any, pictures: Any = NONE) -> None:
        """As its suffix says: a page, a table or JSON."""
        from gatepost.core.log.exported import diary_csv, diary_json
        from gatepost.core.writing import write_whole

        unit = self._desk.unit
        if path.suffix.lower() == ".pdf":
            self._desk.question("diary", name, tuple(lines), unit, str(path), dict(pictures))
            return
        try:
            text = diary_json(lines, unit) if path.suffix.lower() == ".json" else diary_csv(lines, unit)
            write_whole(path, text.encode())
        except OperatorError as error:
            self._desk.messages.warn(str(error))
        else:
            self._desk.messages.say(f"Written: {path.name}.")

    def compare(self) -> None:
        """The chosen runs beside each other."""
        from gatepost.desk.dialogs.compare import CompareDialog

        self._open(CompareDialog(self._desk.window, self.picked()))

    # -- rows as a file -----------------------------------------------------------------------------------------------

    def export(self) -> None:
        """Write the rows shown."""
        if not self.shown():
            self._desk.messages.say("No row is shown: there is nothing to write.")
            return
        path = self._desk.ask_save("Write these rows", "log.csv", f"{TABLES['csv']};;{TABLES['json']}")
        if path is not None:
            self.export_to(path)

    def export_to(self, path: Path) -> None:
        """As its suffix says."""
        from gatepost.core.log.exported import rows_csv, rows_json
        from gatepost.core.writing import write_whole

        rows = [asdict(r) for r in self.shown()]
        text = rows_json(rows) if path.suffix.lower() == ".json" else rows_csv(rows)
        try:
            write_whole(path, text.encode())
        except OperatorError as error:
            self._desk.messages.warn(str(error))
        else:
            self._desk.messages.say(f"{len(rows)} rows written: {path.name}.")
