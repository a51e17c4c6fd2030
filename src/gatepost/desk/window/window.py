# SPDX-License-Identifier: GPL-3.0-or-later
"""The window: it holds what is shown, asks the worker for plans, and hands on what is asked for. It computes nothing."""

from __future__ import annotations

import contextlib
import importlib
import threading
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QMainWindow, QStackedWidget

from gatepost.core import shipped
from gatepost.desk.actions.dropped import DroppedFiles
from gatepost.desk.actions.findings import FindingActions
from gatepost.desk.actions.holds import HoldActions
from gatepost.desk.actions.jobs import JobActions
from gatepost.desk.actions.lettering import LetteringActions
from gatepost.desk.actions.outlines import OutlineActions
from gatepost.desk.actions.outputs import OutputActions
from gatepost.desk.actions.shop import ShopActions
from gatepost.desk.actions.tables import TableActions
from gatepost.desk.actions.tools import ToolActions
from gatepost.desk.context.desk_context import DeskContext
from gatepost.desk.context.stages import STAGES
from gatepost.desk.start.page import StartPage
from gatepost.desk.window.answers import Answers
from gatepost.desk.window.shortcuts import WindowKeys
from gatepost.desk.window.views import ViewActions

if TYPE_CHECKING:
    from gatepost.desk.context.document import DeskDocument
    from gatepost.desk.machine.at_machine import AtMachine
    from gatepost.desk.machine.operator import Operator
    from gatepost.desk.window.desk_view import DeskView
    from gatepost.desk.window.drawings import Drawings
    from gatepost.desk.window.parts import Parts
    from gatepost.desk.window.presenter import PlanPresenter
    from gatepost.desk.worker.worker import PlanWorker


class Window(QMainWindow):
    """The main window. data: folder for recovery copies, recent jobs and the logbook; book: opens the logbook; plan_worker: makes
    what stands for the worker, else a process of its own; running: opens the logbook for whoever runs programs; kinds: where the
    tables of kinds stand.

    The start page is there at once; desk and machine view are loaded behind it, or when they are first wanted.
    """

    _loaded = pyqtSignal()
    failed = pyqtSignal(object)  # what nobody caught in another thread

    def __init__(
        self, data: Path, book: Callable[[], Any], theme: str = "light", plan_worker: Callable[[], PlanWorker] | None = None,
        running: Callable[[], Any] | None = None, kinds: str = shipped.KINDS,
    ) -> None:  # fmt: skip
        super().__init__()
        self.setWindowTitle("Gatepost")
        self.resize(1280, 800)
        self.setMinimumSize(1100, 680)
        self.context = DeskContext(self, data, book, theme, running or book, kinds)
        self.messages = self.context.messages
        self._make_worker = plan_worker
        self._parts: Parts | None = None
        self._ended = self._ready = False
        self.shop = ShopActions(self.context)
        self.jobs = JobActions(
            self.context, self.shop.machine, self.shop.finish, self.shop.unit, self._busy, self._small_picture
        )
        self.tools = ToolActions(self.context, self.jobs.begin_ready, self.shop.use_tool)
        self.outputs = OutputActions(self.context)
        self.tables = TableActions(self.context)
        self.outlines = OutlineActions(self.context)
        self.holds = HoldActions(self.context)
        self.lettering = LetteringActions(self.context)
        self.dropped = DroppedFiles(self.context, self.jobs, self.outlines, self.tables, self.outputs)
        self.findings = FindingActions(self.context, lambda: self.desk.fence.setFocus())
        self.views = ViewActions(self.context, self.build, lambda: self._parts is not None, self._here, self._at_desk)
        self.answers = Answers(
            self.context, self.build, self.outputs, self.outlines, self.holds, self.lettering.designs, lambda advice: self.views.advised(advice),
        )  # fmt: skip
        self.start = StartPage()
        self.pages = QStackedWidget()
        self.pages.addWidget(self.start)
        self.setCentralWidget(self.pages)
        self.keys = WindowKeys(
            self, self.act, self.go, self._at_desk, self._busy, lambda: self.operator.hold_still(),
            lambda: self.do_next(), lambda: self.desk.fence.setFocus(),
        )  # fmt: skip
        self.views.keys = self.keys
        more = (self.outputs, self.tables, self.outlines, self.holds, self.lettering)
        for part in (self.views, self.shop, self.tools, self.jobs, *more):
            self.context.acts.update(part.acts())
        self.context.page_wanted.connect(self.turn_to)
        self.context.stage_wanted.connect(self.go)
        self.jobs.taken.connect(self._taken)
        self.jobs.taken.connect(self.holds.bed_news)
        self.jobs.changed.connect(self._changed)
        self.jobs.retitled.connect(self._title)
        self.start.new_wanted.connect(self.jobs.new)
        self.start.open_wanted.connect(self.jobs.ask_open)
        self.start.job_wanted.connect(self.open_path)
        self.start.resume_wanted.connect(self._resume_of)
        self.start.example_wanted.connect(self._example)
        self.start.settings_wanted.connect(lambda: self.act("settings"))
        self.start.help_wanted.connect(self.views.help)
        self.setAcceptDrops(True)
        self._loaded.connect(self.build)
        self._taken()

    # -- parts --------------------------------------------------------------------------------------------------

    def build(self) -> Parts:
        """Desk and machine view, once."""
        if self._parts is None:
            from gatepost.desk.window.parts import made

            self._parts = made(
                self.context, self._here, self.views.first_fix, lambda number: self.presenter.show_log(number)
            )
            self.pages.addWidget(self.desk)
            self.pages.addWidget(self.machine)
            self._connect(self._parts)
        return self._parts

    @property
    def operator(self) -> Operator:
        """The machine as the window sees it."""
        return self.build().operator

    @property
    def desk(self) -> DeskView:
        """The desk view."""
        return self.build().desk

    @property
    def machine(self) -> AtMachine:
        """The view at the machine."""
        return self.build().machine

    @property
    def presenter(self) -> PlanPresenter:
        """What shows plans."""
        return self.build().presenter

    @property
    def drawings(self) -> Drawings:
        """What draws them."""
        return self.build().drawings

    @property
    def document(self) -> DeskDocument | None:
        """The open job, or none."""
        return self.context.document

    def _connect(self, parts: Parts) -> None:
        desk, machine, presenter, link = parts.desk, parts.machine, parts.presenter, parts.link
        desk.top.act_wanted.connect(self.act)
        desk.top.unit_wanted.connect(lambda unit: self.run("set job", {"unit": unit}, "unit"))
        desk.fence.chosen.connect(self.go)
        desk.setup_wanted.connect(presenter.choose_setup)
        self.context.setup_wanted.connect(presenter.choose_setup)
        self.context.field_wanted.connect(self.views.to_field)
        desk.setups.asked.connect(parts.setups.ask)
        desk.after_wanted.connect(parts.drawings.step_wood)
        desk.stop_here.clicked.connect(parts.drawings.stop_here)
        desk.next.wanted.connect(self._next_pressed)
        desk.slate.fix_wanted.connect(self.findings.apply)
        desk.slate.accept_wanted.connect(self.findings.accept)
        desk.slate.command_wanted.connect(self.run)
        desk.slate.told.connect(self.messages.say)
        desk.log.picture = self.jobs.picture_of_run
        desk.link.simulated_wanted.connect(link.simulated)
        desk.link.practice_wanted.connect(lambda: self.act("practice"))
        desk.link.address_wanted.connect(link.ask_address)
        desk.link.unlink_wanted.connect(link.unlink)
        desk.link.feed_wanted.connect(parts.operator.feed)
        machine.desk_wanted.connect(lambda: self.turn_to("desk"))
        machine.mend_wanted.connect(lambda: self.turn_to("desk"))
        machine.mend_wanted.connect(self.do_next)
        parts.operator.state_changed.connect(presenter.link_state)
        parts.operator.told.connect(self.messages.warn)
        parts.operator.finished.connect(lambda outcome, words: parts.runs.look_for_unfinished())
        from gatepost.desk.window.bed_menu import BedMenu

        self.bed_menu = BedMenu(self.context, parts.measuring.at_bed, parts.hands.typing.begin)
        desk.bed.menu_wanted.connect(self.bed_menu.open)
        parts.drawings.measure = lambda: parts.measuring.marked
        parts.measuring.changed.connect(self._measured)
        parts.measuring.next_wanted.connect(parts.steps.do_next)
        parts.follower.noticed.connect(link.noticed)
        parts.follower.moved.connect(parts.drawings.soon)
        for part in parts.acting():
            self.context.acts.update(part.acts())

    # -- the worker ---------------------------------------------------------------------------------------------

    def begin(self) -> None:
        """Start the worker; it loads beside the window."""
        self.answers.begin(self._make_worker)

    def ready(self) -> None:
        """After the first paint: start the worker, and load what stands behind the start page."""
        if not self._ready:
            self._ready = True
            self.begin()
            if self._parts is None:
                threading.Thread(target=self._load, daemon=True).start()

    def _load(self) -> None:
        """In a thread of its own, so that the start page answers meanwhile."""
        for name in (
            "machine.at_machine",
            "window.desk_view",
            "context.document",
            "machine.operator",
            "window.presenter",
        ):
            importlib.import_module(f"gatepost.desk.{name}")
        if not self._ended:
            with contextlib.suppress(RuntimeError):  # the window is gone
                self._loaded.emit()

    # -- the job ------------------------------------------------------------------------------------------------

    def act(self, name: str) -> None:
        """Do what has this name."""
        if name not in self.context.acts:
            self.build()
        self.context.act(name)

    def run(self, name: str, values: dict[str, Any], words: str = "") -> bool:
        """Run a command on the open job, or an act of the window itself."""
        return self.context.run(name, values, words)

    def open_path(self, path: Path) -> bool:
        """Open a job; gives whether it could be."""
        return self.jobs.open(path)

    def save_to(self, path: Path) -> bool:
        """Save into a file; gives whether it was."""
        return self.jobs.save_to(path)

    def runs(self) -> list[Any]:
        """All rows of the logbook."""
        return self.build().runs.rows()

    def _taken(self) -> None:
        """Another job is open, or none."""
        if self._parts is not None:
            self._parts.measuring.gone()
            self.presenter.forget()
        if self.document is None:
            self.turn_to("start")
            self.start.new.setFocus()
            self.setWindowTitle("Gatepost")
            return
        self.turn_to("desk")
        self.desk.slate.turn("judged")
        self.go("blank")
        self.desk.fence.setFocus()
        self.answers.ask()

    def _changed(self) -> None:
        self.presenter.entered()
        self.answers.ask()

    def _title(self) -> None:
        document = self.document
        if document is not None:
            self.setWindowTitle(f"{'*' if document.dirty else ''}{document.job.name} · Gatepost")
            self.desk.top.undo.setEnabled(document.stack.canUndo())
            self.desk.top.redo.setEnabled(document.stack.canRedo())

    def _resume_of(self, path: Path) -> None:
        """Open a job whose run ended early, and go where it is asked how it goes on."""
        if self.open_path(path):
            self.context.when_planned("ended", lambda plan: self.turn_to("machine"))

    def _example(self, file: str, then: str) -> None:
        """Open an example where there is something to learn."""
        if not self.jobs.example(file):
            return
        if then == "practice":
            self.act("practice")
        elif then:
            self.go(then)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """A file is held over the window."""
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Files dropped anywhere: each goes where its kind belongs."""
        data = event.mimeData() if event is not None else None
        for url in data.urls() if data is not None else []:
            if url.isLocalFile():
                self.dropped.take(Path(url.toLocalFile()))

    def _small_picture(self, path: Path) -> None:
        self.drawings.small_picture(path)

    # -- going about --------------------------------------------------------------------------------------------

    def turn_to(self, page: str) -> None:
        """The start page, the desk, or the view at the machine."""
        if page == "start":
            self.start.show_jobs(*self.jobs.for_start())
            self.pages.setCurrentWidget(self.start)
            return
        shown = self.machine if page == "machine" else self.desk
        self.pages.setCurrentWidget(shown)
        if page == "machine":
            self.machine.setFocus()
            self.build().runs.look_for_unfinished()
        else:
            self.desk.top.views["desk"].setChecked(True)
        self.presenter.show()

    def go(self, stage: str) -> None:
        """Open a stage's page."""
        if self.document is not None and stage in STAGES:
            self.views.wants_fix = False
            if self.context.showing.stage != stage:
                self.build().measuring.turned()
                self.presenter.asked = None
            self.pages.setCurrentWidget(self.desk)
            self.presenter.go(stage)

    def do_next(self) -> None:
        """Show or tick the next step."""
        self.build().steps.do_next()

    def _next_pressed(self) -> None:
        """The button of the next step: what is typed on the board is taken first."""
        if self.build().measuring.active:
            self.act("take_reading")
        else:
            self.do_next()

    def _measured(self) -> None:
        """Another place is marked on the board, or something is typed there."""
        measuring = self.build().measuring
        typed = measuring.field.text().strip()
        verb, cap = (f"Take {typed}", "Enter") if typed else ("Next place", "Tab")
        self.presenter.asked = (measuring.words(), verb, cap) if measuring.active else None
        self.drawings.soon()
        self.presenter.show_next()

    def _here(self) -> bool:
        """Whether the view at the machine is looked at."""
        return self._parts is not None and self.pages.currentWidget() is self._parts.machine

    def _at_desk(self) -> bool:
        return self._parts is not None and self.pages.currentWidget() is self._parts.desk

    def _busy(self) -> bool:
        return self._parts is not None and self._parts.operator.busy

    # -- the end ------------------------------------------------------------------------------------------------

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Close in order: nothing lost, nothing left running."""
        if event is None:
            return
        if not self.jobs.may_close():
            event.ignore()
            return
        self.hide()
        self.shut()
        event.accept()

    def shut(self) -> None:
        """End worker and link."""
        self.jobs.end()
        self.keys.end()
        self._ended = True
        if self._parts is not None:
            self.operator.end()
        if self.context.worker is not None:
            self.context.worker.end()
            self.context.worker = None
