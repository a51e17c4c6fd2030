# SPDX-License-Identifier: GPL-3.0-or-later
"""The machine as the window sees it: one thread that owns the session, and one that sends what can't wait.

What the window sees of it (state, busy, the journal's growth, a step's end) changes in the window's own thread, in the order
in which it came: a step ends once, and the next begins from what the last one has written.
"""

from __future__ import annotations

import contextlib
import queue
import threading
import time
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import Qt, pyqtSignal

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.run.step import Step
from gatepost.desk.machine.at_once import AtOnce
from gatepost.machine.seeds import new_seed
from gatepost.trouble import told

if TYPE_CHECKING:
    from gatepost.core.plan.planned import PlannedSetup
    from gatepost.core.plan.result import Plan, Resumed
    from gatepost.machine.jogging import Asked

LOOK_EVERY = 0.7  # s between looks at an idle machine
TELL_EVERY = 0.05  # s between words of how far a run is
NOTHING = object()
BLOCK_BY_BLOCK = ("taken", "done")  # what the window need not hear of each block


class Operator(AtOnce):
    """Carries out steps in its own thread. state: no link, connecting, ready, busy, paused, lost."""

    state_changed = pyqtSignal(str, str)
    heard = pyqtSignal(object)
    progressed = pyqtSignal(int, int)
    grown = pyqtSignal(object)
    finished = pyqtSignal(str, str)
    probed = pyqtSignal(object)  # heights, or nothing when it was not ended
    # a jog by hand has ended: how far a mark lies from the tip, or nothing; what went wrong; whether anything moved
    crept = pyqtSignal(object, str, bool)
    unplaced = pyqtSignal(str, str)  # an act by which the machine's place is lost, and why
    _posted = pyqtSignal(object)  # to be done in the window's thread

    def __init__(self, book: Callable[[], Any]) -> None:
        super().__init__()
        self._book = book
        self._simulated: Any = None
        self._jobs: queue.Queue[tuple[Callable[[], None] | None, bool]] = queue.Queue()  # and whether it is a step
        self._threads: list[threading.Thread] = []
        self._posted.connect(lambda act: act(), Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]
        self.busy = False
        self.speed = "10"
        self.seed: int | None = None  # of the simulated machine's shop; nothing where all is exact
        self.next_seed: Callable[[], int | None] = new_seed
        self._progress_told = 0.0

    # -- from the window's thread ----------------------------------------------------------------------------

    def start_simulated(self, plan: Plan, faults: tuple[str, ...] = ()) -> None:
        """Start a simulated machine with this plan's wood, as many times faster as ``speed`` says, and connect to it. faults:
        what is wrong with it, for practice."""
        self.seed = self.next_seed()
        self._later(lambda: self._connect(plan, None, self.speed, faults=faults))

    def mend(self, what: str) -> None:
        """Put a trouble right on a simulated machine."""
        self._later(lambda: self._mend(what))

    def connect_to(self, plan: Plan, address: str) -> None:
        """Connect to a machine at HOST:PORT."""
        self._later(lambda: self._connect(plan, address, "1"))

    def do(self, plan: Plan, setup: PlannedSetup, step: Step, journal: Journal, path: str, here: bool = False) -> bool:
        """Carry out a step; gives whether it was begun. here: the tip has been brought where it is about by hand, and stays there."""
        return self._begin(step.title, lambda: self._carry_out(plan, setup, step, journal, path, here))

    def probe(self, plan: Plan, setup: PlannedSetup, tool: Any, where: Any, journal: Journal) -> bool:
        """Probe the top; gives whether it was begun. What comes of it is told by ``probed``."""
        begun = self._begin("Probing the top", lambda: self._probe(plan, setup, tool, where, journal))
        self._probing = begun
        return begun

    def _begin(self, words: str, work: Callable[[], None]) -> bool:
        if self.busy or self._session is None or self.state != "ready":
            return False
        self.busy = True
        self._session.fresh()
        self._said("busy", words)
        self._later(work, step=True)
        return True

    def creep(self, asked: Asked, place: tuple[float, float, float] | None) -> bool:
        """Jog by hand for as long as it is asked for; gives whether it was begun. place: a mark on the bed that is looked at when it stands,
        and how well the eye sees."""
        if self.busy or self._session is None or self.state != "ready":
            return False
        self.busy = True
        self._session.fresh()
        self._later(lambda: self._creep(asked, place))
        return True

    def go_on(self, taken: Resumed, run: Any, journal: Journal, path: str) -> bool:
        """Take a run up again, on a simulated machine with the wood as it was left where no other is linked."""
        if self.busy:
            return False
        self.busy = True
        if self._session is not None:
            self._session.fresh()
        self._said("busy", f"Resuming {run.program}")
        self._later(lambda: self._go_on(taken, run, journal, path), step=True)
        return True

    def unlink(self) -> None:
        """Let go of the machine; told by its state."""
        if not self.busy:
            self._later(self._unlink)

    def end(self) -> None:
        """Let go of everything and wait, at the window's end."""
        if self._threads:
            self.stop()
            self._jobs.put((self._close, False))
            self._jobs.put((None, False))
            self._urgent.put(None)
            for thread in self._threads:
                thread.join(5)
            self._threads = []
        self.busy = False

    # -- in its own thread -----------------------------------------------------------------------------------

    def _later(self, job: Callable[[], None], step: bool = False) -> None:
        self._run_threads()
        self._jobs.put((job, step))

    def _run_threads(self) -> None:
        if not self._threads:
            self._threads = [threading.Thread(target=work, daemon=True) for work in (self._work, self._ask_at_once)]
            for thread in self._threads:
                thread.start()

    def _post(self, act: Callable[[], None]) -> None:
        """Have something done in the window's thread."""
        with contextlib.suppress(RuntimeError):  # the window is gone
            self._posted.emit(act)

    def _work(self) -> None:
        while True:
            try:
                job, step = self._jobs.get(timeout=LOOK_EVERY)
            except queue.Empty:
                job, step = self._look, False
            if job is None:
                return
            try:
                job()
            except OperatorError as error:
                self._ended(str(error), step=step)
            except Exception as error:
                self._ended(told(error), step=step)

    def _look(self) -> None:
        """While nothing goes on: is it still there?"""
        from gatepost.machine.link import State

        if self._session is None or self._session.state is State.LOST:
            return
        try:
            self._session.look()
        except OperatorError as error:
            if self._session.state is State.LOST:
                self.unplaced.emit("link lost", str(error))
            raise

    def _said(self, state: str, words: str = "") -> None:
        """Another state; in the window's thread."""
        self.state = state
        self.state_changed.emit(state, words)

    def _say(self, state: str, words: str = "") -> None:
        """Another state; from the machine's thread."""
        self._post(lambda: self._said(state, words))

    def _mend(self, what: str) -> None:
        if self._session is not None:
            self._session.mend(what)

    def _unlink(self) -> None:
        self._close()
        self._say("no link")

    def _hear(self, event: Any) -> None:
        if event.kind not in BLOCK_BY_BLOCK:
            self.heard.emit(event)

    @property
    def held(self) -> bool:
        """Whether a program stands, or is about to, where the vacuum is asked for."""
        return self._session is not None and self._session.held_at > 0

    def _progress(self, done: int, of: int) -> None:
        self.block = done
        risen = self._ramp.wanted(done, self.percent) if self._ramp is not None else None
        if risen is not None:
            self._post(lambda: self.feed(risen))
        now = time.monotonic()
        if now > self._progress_told + TELL_EVERY or done == of:
            self._progress_told = now
            self.progressed.emit(done, of)

    def _connect(
        self, plan: Plan, address: str | None, speed: str, lying: Any = None, faults: tuple[str, ...] = ()
    ) -> None:
        from gatepost.logbook.notebook import notebook
        from gatepost.logbook.places import data_folder
        from gatepost.machine import launch
        from gatepost.machine.conduct import StepRunner
        from gatepost.machine.connection import address as address_of
        from gatepost.machine.keeping import RunRecorder
        from gatepost.machine.session import Session

        self._say("connecting")
        self._close()
        kind = "simulated"
        if address is None:
            seed = self.seed if lying is None else None
            self._simulated = launch.start(plan, speed, list(faults), lying=lying, seed=seed)
            kind = f"simulated, seed {seed}" if seed is not None else kind
            host, port = self._simulated.host, self._simulated.port
        else:
            host, port = address_of(address)
        self._session = Session(host, port, self._hear)
        laid = lying.setup.corner if lying is not None else plan.laid_first
        conductor = StepRunner(self._session, plan, Journal(), laid, attended=True)
        self._keeper = RunRecorder(self._rows(), conductor, kind, folder=notebook(data_folder()), tell=self.told.emit)
        if self._session.last.get("state") in ("unhomed", "faulted"):
            self.unplaced.emit("power cut", "the machine has not been homed since it was switched on")
        self._say("ready", f"{host}:{port}")

    def _rows(self) -> Any:
        """The logbook; nothing, and a sentence, when it can't be had: runs are noted beside it then."""
        try:
            return self._book()
        except OperatorError as error:
            self.told.emit(f"{error} Runs are noted beside it meanwhile, and taken in later.")
            return None

    def _carry_out(
        self, plan: Plan, setup: PlannedSetup, step: Step, journal: Journal, path: str, here: bool = False
    ) -> None:
        self._keeper.conductor.here = here
        program = plan.program(step.program) if step.kind == "run" else None
        if program is None:
            self._with_keeper(plan, journal, path, lambda keeper: keeper.carry_out(setup, step, self._progress))
            return
        from gatepost.machine.ramp import Slowly, ramp_of

        self.block, self._ramp = 0, ramp_of(setup, program)
        try:
            with Slowly(self._session, self._ramp, self._fed_to):
                self._with_keeper(plan, journal, path, lambda keeper: keeper.carry_out(setup, step, self._progress))
        finally:
            self._ramp = None
            self._post(self._turns_as_planned)

    def _fed_to(self, percent: float) -> None:
        self.percent = percent
        self._post(lambda: self.fed.emit(percent))

    def _probe(self, plan: Plan, setup: PlannedSetup, tool: Any, where: Any, journal: Journal) -> None:
        from gatepost.machine.probing import fitted_and_probed

        found: Any = None

        def work(keeper: Any) -> str:
            nonlocal found
            found = fitted_and_probed(
                self._session, keeper.conductor, plan, setup, tool, where, self._progress, lambda: self._probing
            )
            return "done"

        try:
            self._with_keeper(plan, journal, "", work)
        finally:
            self._post(lambda: self.probed.emit(found))

    def _creep(self, asked: Asked, place: tuple[float, float, float] | None) -> None:
        from gatepost.machine.failures import MachineRefused
        from gatepost.machine.link import State

        off, words, moved = None, "", True
        try:
            moved = self._session.creep(lambda: asked.speeds(time.monotonic()))
            if place is not None:
                with contextlib.suppress(MachineRefused):  # only a simulated one says what an eye would see
                    off = self._session.sight(*place)
        except MachineRefused as error:
            words, moved = (
                str(error),
                self._session.state is not State.READY and self._session.state is not State.UNHOMED,
            )
        except OperatorError as error:
            words = str(error)
        self._ended(words, step=False, crept=(off, words, moved))

    def _go_on(self, taken: Resumed, run: Any, journal: Journal, path: str) -> None:
        from gatepost.machine import launch
        from gatepost.machine.link import State
        from gatepost.machine.resume import go_on

        if self._session is None or self._session.state is State.LOST:
            left = launch.LeftLying(taken.setup, taken.wood, run.zeros, taken.program.tool)
            self._connect(taken.plan, None, self.speed, left)
            self._say("busy", f"Resuming {run.program}")
        self._with_keeper(taken.plan, journal, path, lambda keeper: go_on(keeper, taken, run, self._progress))

    def _with_keeper(self, plan: Plan, journal: Journal, path: str, work: Callable[[Any], str]) -> None:
        keeper = self._keeper
        keeper.conductor.plan, keeper.conductor.journal, keeper.path = plan, journal, path
        outcome, words = "failed", ""
        try:
            outcome = work(keeper)
        except OperatorError as error:
            words = str(error)
        except Exception as error:
            words = told(error)
        self._ended(words, outcome, keeper.conductor.journal)

    def _ended(
        self,
        words: str = "",
        outcome: str = "failed",
        journal: Journal | None = None,
        step: bool = True,
        crept: Any = NOTHING,
    ) -> None:
        """A step has ended: journal, state and outcome in one, in the window's thread. step: else something beside the steps
        went wrong, which ends none."""
        from gatepost.machine.link import GOING, State

        linked = self._session is not None
        lost = linked and self._session.state is State.LOST
        left = linked and self._session.state in GOING  # overdue: nobody leads it any more, and it can still be stopped

        def end() -> None:
            self.busy = self.busy and not step and crept is NOTHING
            if words:
                self.last_words = words
            if journal is not None:
                self.grown.emit(journal)
            if not self.busy:
                self._said("lost" if lost else "paused" if left else "ready" if linked else "no link")
            if crept is not NOTHING:
                self.crept.emit(*crept)
            elif step:
                self.finished.emit(outcome, words)
            else:
                self.told.emit(words)

        self._post(end)

    def _close(self) -> None:
        if self._session is not None:
            self._session.close()
            self._session = None
        if self._simulated is not None:
            self._simulated.end()
        if self._keeper is not None and self._keeper.rows is not None:
            self._keeper.rows.close()
        self._session = self._simulated = self._keeper = None
