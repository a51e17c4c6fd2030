# SPDX-License-Identifier: GPL-3.0-or-later
"""The window: it holds the open job, asks the worker for plans, and shows them. It computes nothing."""

from __future__ import annotations

import contextlib
import importlib
import threading
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QAction, QCloseEvent, QKeyEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMainWindow,
    QMenu,
    QPlainTextEdit,
    QStackedWidget,
    QWidget,
)

from gatepost.core import shipped
from gatepost.core.errors import OperatorError
from gatepost.desk.shell import messages as boxes
from gatepost.desk.shell.files import FileActions
from gatepost.desk.shell.holdacts import HoldActions
from gatepost.desk.shell.holdbutton import HeldKeys
from gatepost.desk.shell.keys import KEYS, KeyList
from gatepost.desk.shell.messages import Messages
from gatepost.desk.shell.recent import recent, remember
from gatepost.desk.shell.recovery import Recovery, leftovers
from gatepost.desk.shell.setupacts import SetupActions
from gatepost.desk.shell.start import StartPage
from gatepost.desk.theme.style import dress

if TYPE_CHECKING:
    from gatepost.core.findings import Finding, Fix
    from gatepost.desk.shell.atmachine import AtMachine
    from gatepost.desk.shell.desk import DeskView
    from gatepost.desk.shell.document import DeskDocument
    from gatepost.desk.shell.operator import Operator
    from gatepost.desk.shell.reckoning import Response
    from gatepost.desk.shell.show import PlanPresenter
    from gatepost.desk.shell.worker import Reckoner
from gatepost.desk.shell.zeroacts import ZeroActions

AUTOSAVE = 1500  # ms after the last change


def is_typing(widget: QWidget | None) -> bool:
    """Whether keys belong to the widget that has the focus."""
    return isinstance(widget, (QLineEdit, QPlainTextEdit, QComboBox))


@dataclass
class _Parts:
    """What stands behind the start page."""

    operator: Operator
    desk: DeskView
    machine: AtMachine
    presenter: PlanPresenter


class Window(FileActions, ZeroActions, HoldActions, QMainWindow):
    """The main window. data: folder for recovery copies, recent jobs and the logbook; book: opens the logbook; reckoner:
    makes what stands for the worker, else a process of its own; running: opens the logbook for whoever runs programs; kinds: where
    the tables of kinds stand.

    The start page is there at once; desk and machine view are loaded behind it, or when they are first wanted.
    """

    _loaded = pyqtSignal()
    failed = pyqtSignal(object)  # what nobody caught in another thread

    def __init__(
        self, data: Path, book: Callable[[], Any], theme: str = "light", reckoner: Callable[[], Reckoner] | None = None,
        running: Callable[[], Any] | None = None, kinds: str = shipped.KINDS,
    ) -> None:  # fmt: skip
        super().__init__()
        self.kinds = kinds
        self._asked: tuple[str, str, tuple[float, ...]] | None = None  # read-outs that were asked about
        self._make_reckoner = reckoner
        self.data, self._book, self.theme = data, book, theme
        self._running_book = running or book
        self.setWindowTitle("Gatepost")
        self.resize(1280, 800)
        self.setMinimumSize(1100, 680)
        self.messages = Messages()
        self.document: DeskDocument | None = None
        self.recovery: Recovery | None = None
        self.recovered: Path | None = None  # the copy that the open job came out of
        self.reckoner: Reckoner | None = None
        self.practised: dict[str, tuple[str, str]] = {}
        self._parts: _Parts | None = None
        self._ended = self._ready = False
        self.held_keys = HeldKeys(self)
        self.start = StartPage()
        self.pages = QStackedWidget()
        self.pages.addWidget(self.start)
        self.setCentralWidget(self.pages)
        self._autosave = QTimer(self)
        self._autosave.setSingleShot(True)
        self._autosave.setInterval(AUTOSAVE)
        self._autosave.timeout.connect(self._keep)
        self._shortcuts()
        self.start.new_wanted.connect(self._new)
        self.start.open_wanted.connect(self._open)
        self.start.job_wanted.connect(self.open_path)
        self._loaded.connect(self.build)
        self._start()

    # -- wiring -------------------------------------------------------------------------------------------------

    def _shortcuts(self) -> None:
        for name, key, _ in KEYS:
            QShortcut(QKeySequence(key), self, activated=getattr(self, f"_{name}"))
        for i in range(10):
            QShortcut(QKeySequence(f"Ctrl+{(i + 1) % 10}"), self, activated=lambda n=i: self._go_number(n))
        self.installEventFilter(self)  # where nothing has the focus, keys come to the window itself
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._watch)

    def build(self) -> _Parts:
        """Desk and machine view, once."""
        if self._parts is None:
            from gatepost.desk.shell.atmachine import AtMachine
            from gatepost.desk.shell.desk import DeskView
            from gatepost.desk.shell.operator import Operator
            from gatepost.desk.shell.show import PlanPresenter

            operator = Operator(self._running_book)
            desk = DeskView(self.theme, self.messages)
            machine = AtMachine("dark" if self.theme == "dark" else "light")
            self.pages.addWidget(desk)
            self.pages.addWidget(machine)
            self._parts = _Parts(operator, desk, machine, PlanPresenter(self, desk))
            self._connect()
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

    def _connect(self) -> None:
        top, desk, machine = self.desk.top, self.desk, self.machine
        top.unit_wanted.connect(lambda unit: self.run("set job", {"unit": unit}, "unit"))
        top.machine_wanted.connect(self._machine_view)
        top.undo_wanted.connect(self._undo)
        top.redo_wanted.connect(self._redo)
        top.sheet_wanted.connect(self._sheet)
        top.save_wanted.connect(self._save)
        top.menu.clicked.connect(self._menu)
        desk.fence.chosen.connect(self.go)
        desk.setup_wanted.connect(self.presenter.choose_setup)
        self.setup_acts = SetupActions(self, lambda: self.document.job, self.run, self.presenter.choose_setup)
        desk.setups.asked.connect(self.setup_acts.ask)
        desk.after_wanted.connect(self.presenter.step_wood)
        desk.stop_here.clicked.connect(self.presenter.stop_here)
        desk.next.wanted.connect(self.do_next)
        desk.slate.fix_wanted.connect(self.apply_fix)
        desk.slate.accept_wanted.connect(self._accept)
        desk.slate.command_wanted.connect(self.run)
        desk.slate.told.connect(self.messages.say)
        desk.bed.moved.connect(self.presenter.moved_on_bed)
        desk.bed.picked.connect(self.presenter.picked)
        desk.bed.lined.connect(self.presenter.line_across)
        desk.heights.moved.connect(self.presenter.moved_in_heights)
        desk.log.chosen.connect(self.presenter.show_run)
        desk.log.remarked.connect(self._remark)
        desk.log.resumed.connect(self._resume)
        desk.link.simulated_wanted.connect(self._simulated)
        desk.link.practice_wanted.connect(self._practice)
        desk.link.address_wanted.connect(self._address)
        desk.link.unlink_wanted.connect(self._unlink)
        desk.link.feed_wanted.connect(self.operator.feed)
        machine.done_wanted.connect(self._do_step)
        machine.rocks_wanted.connect(self._it_rocks)
        machine.fresh_wanted.connect(self._fresh_board)
        machine.still_wanted.connect(self.operator.hold_still)
        machine.resume_wanted.connect(self.operator.resume)
        machine.stop_wanted.connect(self.operator.stop)
        machine.told.connect(self.messages.warn)
        machine.ledger_wanted.connect(self._ledger)
        machine.turned_to.connect(lambda: self.presenter.machine_heights())
        self.operator.state_changed.connect(self.presenter.link_state)
        self.operator.heard.connect(self.presenter.heard)
        self.operator.progressed.connect(self.presenter.progress)
        self.operator.grown.connect(self._grown)
        self.operator.unplaced.connect(self._unplaced)
        self.operator.finished.connect(self.presenter.step_finished)
        self.operator.told.connect(self.messages.warn)
        self.operator.probed.connect(self.probe_told)
        self.operator.progressed.connect(self.probe_progress)

    def begin(self) -> None:
        """Start the worker; it loads beside the window."""
        if self.reckoner is None:
            from gatepost.desk.shell.worker import Reckoner

            self.reckoner = (self._make_reckoner or Reckoner)()
            self.reckoner.answered.connect(self._answered)
            self.reckoner.pictured.connect(lambda field, pixels: self.presenter.pictured(field, pixels))
            self.reckoner.told.connect(lambda answer: self.presenter.told(answer))
            if self.document is not None:
                self._ask()

    def ready(self) -> None:
        """After the first paint: start the worker, and load what stands behind the start page."""
        if not self._ready:
            self._ready = True
            self.begin()
            if self._parts is None:
                threading.Thread(target=self._load, daemon=True).start()

    def _load(self) -> None:
        """In a thread of its own, so that the start page answers meanwhile."""
        for name in ("atmachine", "desk", "document", "operator", "show"):
            importlib.import_module(f"gatepost.desk.shell.{name}")
        if not self._ended:
            with contextlib.suppress(RuntimeError):  # the window is gone
                self._loaded.emit()

    # -- jobs ---------------------------------------------------------------------------------------------------

    def _start(self) -> None:
        if self.document is not None and not self._may_close():
            return
        self._let_go()
        self.document = None
        self._marked(None)
        if self._parts is not None:
            self.presenter.forget()
        self.start.show_jobs(recent(self.data), leftovers(self.data))
        self.pages.setCurrentWidget(self.start)
        self.start.new.setFocus()
        self.setWindowTitle("Gatepost")

    def _new(self) -> None:
        if self.document is not None and not self._may_close():
            return
        from gatepost.core.job.file import Document
        from gatepost.core.job.model import Job
        from gatepost.core.tools.table import shipped_tools
        from gatepost.desk.shell.document import DeskDocument

        self.take(DeskDocument(Document(Job(tools=shipped_tools(), machine=self.shop_machine())), kinds=self.kinds))

    def _open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a job", str(Path.home()), "Gatepost jobs (*.gatepost)")
        if name:
            self.open_path(Path(name))

    def open_path(self, path: Path) -> bool:
        """Open a job; gives whether it could be."""
        from gatepost.desk.shell.document import opened

        try:
            document = opened(path, self.kinds)
        except OperatorError as error:
            self.messages.warn(str(error))
            return False
        if self.document is not None and not self._may_close():
            return False
        recovered = path.parent == self.data / "recovery"
        if recovered:
            document.path = None
        self.take(document)
        if recovered:
            self.recovered = path  # kept until what it holds is saved, or let go of by a person
            document.journal_saved = -1
            self.messages.say("This is the copy kept when Gatepost ended early. Save it where you want it.")
        return True

    def _let_go(self) -> None:
        """The document says nothing more: what is being taken apart must not be asked for a title."""
        if self.document is not None:
            self.document.stack.blockSignals(True)
            self.document.blockSignals(True)

    def take(self, document: DeskDocument) -> None:
        """Show a document."""
        self._let_go()
        self.recovered = None
        self.document = document
        self._marked(Recovery(self.data, document.path))
        document.changed.connect(self._changed)
        document.journal_changed.connect(self._changed)
        document.refused.connect(self.messages.warn)
        document.stack.indexChanged.connect(self._title)
        if document.path is not None:
            remember(self.data, document.path, document.job.name)
        self.pages.setCurrentWidget(self.desk)
        self.presenter.forget()
        self.go("blank")
        self.desk.fence.setFocus()
        self._title()
        self._ask()

    def _marked(self, recovery: Recovery | None) -> None:
        """Another job is open here, or none."""
        if self.recovery is not None:
            self.recovery.closed()
        self.recovery = recovery
        if recovery is not None and self.document is not None and self.document.path is not None and recovery.others():
            self.messages.say("This job is open in another window too. Who saves second is asked first.")

    def _title(self, _: int = 0) -> None:
        if self.document is not None:
            self.setWindowTitle(f"{'*' if self.document.dirty else ''}{self.document.job.name} · Gatepost")
            self.desk.top.undo.setEnabled(self.document.stack.canUndo())
            self.desk.top.redo.setEnabled(self.document.stack.canRedo())

    def _changed(self) -> None:
        self._title()
        self._autosave.start()
        self.presenter.entered()
        self._ask()

    def _ask(self) -> None:
        if self.reckoner is not None and self.document is not None:
            self.reckoner.ask(
                self.document.job, self.document.journal, first=self.presenter.plan is None, kinds=self.kinds
            )
            self.presenter.reckoning(True)

    def _answered(self, response: Response) -> None:
        if response.outcome in ("coarse", "done"):
            self.presenter.plan_ready(response.plan)
        elif response.outcome == "failed":
            self.presenter.reckoning(False)
            self.messages.warn(f"The plan could not be worked out: {response.words}")

    def run(self, name: str, values: dict[str, Any], words: str = "") -> bool:
        """Run a command on the open job; “window …” is an act of the window itself."""
        if name.startswith("window "):
            act = name.removeprefix("window ")
            if act.startswith("nest_program_"):
                self.write_nest(int(act.rpartition("_")[2]))
            else:
                getattr(self, "_" + act)()
            return True
        return self.document is not None and self.document.run(name, values, words)

    def apply_fix(self, fix: Fix) -> None:
        """Apply a fix that was offered."""
        self.run(fix.kind, dict(fix.values), fix.sentence)

    def _accept(self, finding: Finding) -> None:
        from gatepost.core.plan.nextstep import inputs_hash
        from gatepost.core.units import spell
        from gatepost.machine.conduct import now

        unit = self.document.job.unit if self.document is not None else "mm"
        reason = boxes.ask_reason(self, spell(finding.message, unit))
        if reason:
            values = {
                "code": finding.code,
                "setup": finding.setup,
                "about": finding.about,
                "inputs": inputs_hash(finding),
                "reason": reason,
                "at": now(),
            }
            self.run("accept", values, "accept")

    # -- saving --------------------------------------------------------------------------------------------------

    def _keep(self) -> None:
        if self.document is not None and self.recovery is not None and self.document.dirty:
            wrong = self.recovery.keep(self.document.document())
            if wrong:
                self.messages.warn(f"The recovery copy was not written: {wrong}")

    def _save(self) -> bool:
        if self.document is None:
            return False
        if self.document.path is None:
            return self._save_as()
        return self.save_to(self.document.path)

    def _save_as(self) -> bool:
        if self.document is None:
            return False
        start = self.document.path or Path.home() / f"{self.document.job.name.lower().replace(' ', '-')}.gatepost"
        name, _ = QFileDialog.getSaveFileName(self, "Save as", str(start), "Gatepost jobs (*.gatepost)")
        return bool(name) and self.save_to(Path(name) if name.endswith(".gatepost") else Path(name + ".gatepost"))

    def save_to(self, path: Path) -> bool:
        """Save into a file; gives whether it was."""
        assert self.document is not None
        if path == self.document.path and self.document.changed_outside() and not boxes.ask_overwrite(self, path.name):
            return False
        try:
            self.document.save(path)
        except OperatorError as error:
            self.messages.warn(str(error))
            return False
        self._forget_copies()
        self._marked(Recovery(self.data, path))
        picture = remember(self.data, path, self.document.job.name)
        self.presenter.picture_to(picture)
        self._title()
        self.messages.say(f"Saved as {path.name}.")
        return True

    def _may_close(self) -> bool:
        if self.document is None:
            return True
        if self.operator.busy:
            self.messages.warn("The machine is moving. Stop it, and wait until it stands, before closing the job.")
            return False
        if self.document.dirty:
            answer = boxes.ask_to_save(self, self.document.job.name)
            if answer == "cancel" or (answer == "save" and not self._save()):
                return False
        self._forget_copies()
        return True

    def _forget_copies(self) -> None:
        """What they hold is saved, or is not wanted any more."""
        if self.recovery is not None:
            self.recovery.forget()
        if self.recovered is not None:
            self.recovered.unlink(missing_ok=True)
            self.recovered = None

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Close in order: nothing lost, nothing left running."""
        if event is None:
            return
        if not self._may_close():
            event.ignore()
            return
        self.hide()
        self.shut()
        event.accept()

    def shut(self) -> None:
        """End worker and link."""
        self._let_go()
        self._autosave.stop()
        app = QApplication.instance()
        if isinstance(app, QApplication):
            with contextlib.suppress(TypeError):
                app.focusChanged.disconnect(self._watch)
        self._ended = True
        self._marked(None)
        if self._parts is not None:
            self.operator.end()
        if self.reckoner is not None:
            self.reckoner.end()
            self.reckoner = None

    def _go_number(self, number: int) -> None:
        if self.document is not None:
            from gatepost.desk.shell.fence import STAGES

            self.go(STAGES[number])

    # -- going about ------------------------------------------------------------------------------------------------

    def go(self, stage: str) -> None:
        """Open a stage's page."""
        if self.document is not None:
            self.pages.setCurrentWidget(self.desk)
            self.presenter.go(stage)

    def do_next(self) -> None:
        """Show or tick the next step."""
        plan = self.presenter.plan
        if plan is None or self.document is None:
            return
        step = plan.next.step
        if step is not None:
            setup = plan.setup(plan.next.setup)
            if not step.moves and setup is not None and self.presenter.stage == plan.next.stage:
                self._do_step(setup, step, ())
            elif self.presenter.stage == plan.next.stage or step.moves:
                self.presenter.choose_setup(plan.next.setup)
                self._at_machine()
            else:
                self.presenter.choose_setup(plan.next.setup)
                self.go(plan.next.stage)
            return
        here = self.presenter.stage == plan.next.stage and plan.next.setup in ("", self.presenter.setup)
        if plan.next.setup:
            self.presenter.choose_setup(plan.next.setup)
        self.go(plan.next.stage)
        if here:
            self._first_fix()

    def _do_step(self, setup: Any, step: Any, typed: tuple[float, ...]) -> None:
        plan = self._plan_now()
        if plan is None or self.document is None:
            return
        path = str(self.document.path or "")
        if self.operator.state not in ("no link", "lost") and not typed:
            self.operator.do(plan, setup, step, self.document.journal, path)
            return
        from gatepost.machine import by_hand
        from gatepost.machine.conduct import now

        book = None
        try:
            book = self._book()
            sure = self._asked == (setup.name, step.key, typed)
            self._asked = None
            journal = by_hand.tick(plan, setup, step, self.document.journal, typed, now(), book, path, sure)
            self.document.happened(journal)
        except OperatorError as error:
            if isinstance(error, by_hand.CheckFailed):
                self.document.happened(error.journal)
            if isinstance(error, by_hand.Questioned):
                self._asked = (setup.name, step.key, typed)
            self.messages.warn(str(error))
            self.machine.show_trouble(str(error))
        finally:
            if book is not None:
                book.close()

    def _it_rocks(self, setup: Any) -> None:
        """The second answer of the rock test."""
        from gatepost.core.acts import TABLE
        from gatepost.core.zero.recover import happened
        from gatepost.machine.conduct import now

        if self.document is None:
            return
        self.document.happened(happened(self.document.journal, "rocks", setup.name, None, now()))
        self.machine.show_trouble(TABLE["rocks"].then)

    def _fresh_board(self) -> None:
        """All of it once more, on another board."""
        from gatepost.core.zero.recover import happened
        from gatepost.machine.conduct import now

        plan = self._plan_now()
        if self.document is None or plan is None or not plan.setups:
            return
        self.document.happened(happened(self.document.journal, "fresh board", plan.setups[0].name, None, now()))
        self.messages.say("A fresh board: go through the steps from the first. What was cut before stays in the log.")

    def _unplaced(self, kind: str, why: str) -> None:
        """The machine's place is not known any more, by what it says or by its silence."""
        from gatepost.machine.conduct import homed, now

        if self.document is not None and homed(self.document.journal):
            self.document.happened(self.document.journal.add(now(), kind, why=why[:300]))  # type: ignore[arg-type]

    def _grown(self, journal: Any) -> None:
        if self.document is not None:
            self.document.happened(journal)

    def _first_fix(self) -> None:
        self.desk.slate.turn("judged")
        self.desk.slate.focus_fix()

    def _side(self) -> None:
        if self.document is None:
            return
        slate = self.desk.slate
        slate.turn("judged" if slate.side == "entered" else "entered")
        slate.focus_first()

    def _focus_bed(self) -> None:
        if self.document is None:
            return
        self.desk.bed.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def _focus_heights(self) -> None:
        if self.document is None:
            return
        self.desk.heights.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def _near(self) -> None:
        if self.document is None:
            return
        self.desk.bed.near = not self.desk.bed.near
        self.desk.bed.update()
        self.desk.heights.update()

    def _other_setup(self) -> None:
        if self.document is None:
            return
        names = [s.name for s in self.presenter.plan.setups] if self.presenter.plan is not None else []
        if self.presenter.setup in names:
            self.presenter.choose_setup(names[(names.index(self.presenter.setup) + 1) % len(names)])

    def _setups(self) -> None:
        """Add, copy, order, turn or take away a setup."""
        if self.document is not None:
            self.desk.setups.open_menu()

    def _machine_view(self) -> None:
        if self.document is None:
            return
        if self.pages.currentWidget() is self.machine:
            self.pages.setCurrentWidget(self.desk)
            self.desk.top.views["desk"].setChecked(True)
            self.presenter.show()
        else:
            self._at_machine()

    def _at_machine(self) -> None:
        self.pages.setCurrentWidget(self.machine)
        self.machine.setFocus()
        self.presenter.show()

    def _undo(self) -> None:
        if self.document is not None:
            self.document.stack.undo()

    def _redo(self) -> None:
        if self.document is not None:
            self.document.stack.redo()

    def _unit(self) -> None:
        if self.document is not None:
            self.run("set job", {"unit": "inch" if self.document.job.unit == "mm" else "mm"}, "unit")

    def _theme(self) -> None:
        self.theme = "dark" if self.theme == "light" else "light"
        app = QApplication.instance()
        if isinstance(app, QApplication):
            dress(app, self.theme)
        if self._parts is None:
            return
        for part in (self.desk.fence, self.desk.bed, self.desk.heights):
            part.theme = self.theme
            part.update()
        self.machine.dress(self.theme)
        self.presenter.show()

    def _before(self) -> None:
        if self.document is None:
            return
        self.desk.scrub.setValue(self.desk.scrub.value() - 1)

    def _after(self) -> None:
        if self.document is None:
            return
        self.desk.scrub.setValue(self.desk.scrub.value() + 1)

    def _keys(self) -> None:
        KeyList(self).exec()

    def _menu(self) -> None:
        menu = QMenu(self)
        for name, key, words in KEYS:
            action = QAction(words, menu)
            action.setShortcut(QKeySequence(key))
            action.setShortcutVisibleInContextMenu(True)
            action.triggered.connect(lambda _=False, n=name: getattr(self, f"_{n}")())
            if name in ("undo", "unit", "side", "simulated", "sheet", "before", "keys"):
                menu.addSeparator()
            menu.addAction(action)
        menu.installEventFilter(self)
        menu.popup(self.desk.top.mapToGlobal(QPoint(10, 46)))

    # -- machine, files, log -------------------------------------------------------------------------------------

    def _simulated(self) -> None:
        plan = self._plan_now()
        if plan is not None and not self.operator.busy:
            self.operator.start_simulated(plan)

    def _address(self) -> None:
        words, good = QInputDialog.getText(self, "Connect to a machine", "HOST:PORT", text="127.0.0.1:7007")
        if good and self.presenter.plan is not None:
            self.operator.connect_to(self.presenter.plan, words.strip())

    def _unlink(self) -> None:
        if self.document is None:
            return
        self.operator.unlink()

    def _plan_now(self) -> Any:
        """The plan of the job as it is now; nothing, and a message, while it is still being reckoned."""
        plan = self.presenter.plan
        if self.document is None or plan is None or plan.coarse or plan.job != self.document.job:
            self.messages.say("Still working this change out. Try again when the figures stand.")
            return None
        return plan

    def _remark(self, number: int, words: str) -> None:
        try:
            book = self._book()
            try:
                book.note(number, remarks=words)
            finally:
                book.close()
        except OperatorError as error:
            self.messages.warn(str(error))
            return
        self.presenter.show_log(number)
        self.messages.say("Remark kept.")

    def _resume(self, number: int) -> None:
        """Ask how a run that ended early is gone on with."""
        from gatepost.core.units import spell

        plan = self._plan_now()
        if plan is None or self.reckoner is None:
            return
        if self.operator.busy:
            self.messages.warn("The machine is busy. Let it finish, or stop it first.")
            return
        if plan.stops:
            self.messages.warn(f"Not run: {spell(plan.stops[0].message, plan.job.unit)}")
            return
        self.reckoner.question("resume", plan.job, self.desk.log.rows, number)
        self.messages.say("Working out where it is taken up…")

    def take_up(self, run: Any, taken: Any) -> None:
        """Go on with a run, once its witness mark has been looked at."""
        from gatepost.core.units import mm, spell

        plan = self.presenter.plan
        if self.document is None or plan is None or plan.job != taken.plan.job:
            return
        unit = plan.job.unit
        if taken.stops:
            self.messages.warn(f"Not run: {spell(taken.stops[0], unit)}")
            return
        words = (
            f"Run {run.id} of {run.program} ended {run.state} after block {run.blocks_done} of {run.blocks}. It is taken up "
            f"{spell(mm(taken.back), unit)} back along the cut; {taken.minutes:.1f} min are left."
        )
        if not boxes.ask_mark(self, words):
            self.messages.say("Nothing was run.")
            return
        self._at_machine()
        self.operator.go_on(taken, run, self.document.journal, str(self.document.path or ""))

    def runs(self) -> list[Any]:
        """All rows of the logbook; a logbook that can't be read is told, not hidden."""
        try:
            book = self._book()
        except OperatorError as error:
            self.messages.warn(str(error))
            return []
        try:
            return list(book.runs())
        finally:
            book.close()

    # -- keys that belong to the window ---------------------------------------------------------------------------

    def _watch(self, old: QWidget | None, new: QWidget | None) -> None:
        """Look at what comes to the widget with the focus, and at nothing else: every event looked at in Python waits
        for the threads beside, and there are hundreds in a repaint."""
        with contextlib.suppress(RuntimeError):  # the widget is gone already
            if old is not None:
                old.removeEventFilter(self)
        if new is not None and new is not self:
            new.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Escape pauses while anything moves, whatever has the focus; Space is the next step unless it is typed."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyRelease:
            self.held_keys.released(event)
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.KeyPress
            and isinstance(watched, QWidget)
            and self._parts is not None
        ):
            key = event.key()
            new = key not in (Qt.Key.Key_Escape, Qt.Key.Key_Space) or self.held_keys.pressed(event)
            if key == Qt.Key.Key_Escape and self.operator.busy:  # in a dialog or a menu too
                if new:
                    self.operator.hold_still()
                return True
            if watched.window() is not self:
                return super().eventFilter(watched, event)
            focus = QApplication.focusWidget()
            at_desk = self.pages.currentWidget() is self.desk
            if key == Qt.Key.Key_Space and at_desk and not is_typing(focus) and not isinstance(focus, QAbstractButton):
                if new:
                    self.do_next()
                return True
            if (
                key == Qt.Key.Key_Escape
                and at_desk
                and (is_typing(focus) or isinstance(focus, QAbstractButton))
                and not isinstance(focus, QComboBox)
            ):
                field_changed = isinstance(focus, QLineEdit) and focus.isModified()
                if not field_changed:
                    self.desk.fence.setFocus()
                    return True
        return super().eventFilter(watched, event)
