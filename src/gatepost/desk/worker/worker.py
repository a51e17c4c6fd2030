# SPDX-License-Identifier: GPL-3.0-or-later
"""The reckoning process as the window sees it. Responses that are not to the latest request are dropped; each question has an
id and exactly one answer, an end of the process included. The window never waits for it: what is sent goes from a thread."""

from __future__ import annotations

import contextlib
import queue
import socket
import subprocess
import sys
import threading
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal

from gatepost.core import shipped

if TYPE_CHECKING:
    from gatepost.core.job.journal import Journal
    from gatepost.core.job.model import Job

ENDED = "What works the plan out has ended. Save, and open the job again."


class WorkerProcess:
    """A reckoning process and the pipe to it."""

    def __init__(self) -> None:
        mine, theirs = socket.socketpair()
        command = [sys.executable, "-m", "gatepost.desk.worker.serving", str(theirs.fileno())]
        self.process = subprocess.Popen(command, pass_fds=[theirs.fileno()], stdin=subprocess.DEVNULL)
        theirs.close()
        self.pipe = Connection(mine.detach())

    def end(self) -> None:
        """End the process, which has been asked to, and wait for it."""
        from gatepost.desk.worker.shared import sweep_up

        try:
            self.process.wait(2)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()
        self.pipe.close()
        sweep_up(self.process.pid)


class PlanWorker(QObject):
    """The worker as the window sees it. lent: a process that is not its own: it is given back at the end, not ended."""

    answered = pyqtSignal(object)
    pictured = pyqtSignal(object, object)  # a height field and its pixels
    told = pyqtSignal(object)  # the answer to a small question

    def __init__(self, lent: WorkerProcess | None = None) -> None:
        super().__init__()
        self._worker, self._lent = lent or WorkerProcess(), lent is not None
        self._pipe = self._worker.pipe
        self._latest = 0
        self._last: tuple[Job, Journal, float | None, str] | None = None
        self._asked = 0
        self._open: dict[int, str] = {}  # questions without an answer yet
        self._guard = threading.Lock()
        self._sending: queue.SimpleQueue[tuple[object] | None] = queue.SimpleQueue()
        self._ending = False
        self._threads = [threading.Thread(target=work, daemon=True) for work in (self._listen, self._send_on)]
        for thread in self._threads:
            thread.start()

    def ask(
        self,
        job: Job,
        journal: Journal,
        cell: float | None = None,
        first: bool = False,
        fresh: bool = False,
        kinds: str = shipped.KINDS,
    ) -> int:
        """Ask for a plan; gives the request's id. kinds: where their tables stand."""
        from gatepost.desk.worker.server import Request

        with self._guard:
            self._latest += 1
            self._last = (job, journal, cell, kinds)
            number = self._latest
            self._sending.put((Request(number, job, journal, cell, first, fresh, kinds),))
        return number

    def question(self, what: str, *values: Any) -> int:
        """Ask a small question; its one answer comes by ``told``. Gives the question's id."""
        from gatepost.desk.worker.server import Ask

        with self._guard:
            self._asked += 1
            self._open[self._asked] = what
            self._sending.put((Ask(self._asked, what, values),))
            return self._asked

    def _send_on(self) -> None:
        """In a thread of its own: a pipe that is full waits here."""
        while (item := self._sending.get()) is not None:
            try:
                self._send(item[0])
            except (BrokenPipeError, OSError):
                self._gone()

    def _send(self, asked: Any) -> None:
        """Send what is asked. The window may work something out on the same job while it is written down here (a figure kept with it): then
        it is written down again; nothing of it has been sent yet."""
        for _ in range(20):
            try:
                self._pipe.send(asked)
                return
            except RuntimeError:
                continue
        self._pipe.send(asked)

    def _gone(self) -> None:
        """The process has ended: everything that is open is answered, once."""
        from gatepost.desk.worker.server import Response

        with self._guard:
            left, self._open = self._open, {}
            ending, latest = self._ending, self._latest
        if not ending:
            self._emit(lambda: self.answered.emit(Response(latest, "failed", words=ENDED)))
        for number, what in left.items():
            answer = Response(0, what, False, ENDED, asked=number)
            self._emit(lambda r=answer: self.told.emit(r))

    def _emit(self, emit: Callable[[], None]) -> None:
        if not self._ending:
            with contextlib.suppress(RuntimeError):  # the window is gone
                emit()

    def _listen(self) -> None:
        taker: Any = None
        while True:
            with contextlib.suppress(EOFError, OSError):
                self._pipe.poll(None)
            from gatepost.desk.worker.server import RELEASE
            from gatepost.desk.worker.shared import LostField, Receiver, mapped

            taker = taker or Receiver()
            try:
                response = taker.loads(self._pipe.recv_bytes())
            except LostField:
                if self._last is not None and not self._ending:
                    self.ask(*self._last[:3], fresh=True, kinds=self._last[3])
                continue
            except (EOFError, OSError):
                self._gone()
                return
            if response.outcome == RELEASE:
                return
            if response.outcome == "picture":
                with contextlib.suppress(OSError):
                    pixels = mapped(*response.pixels)
                    self._emit(lambda f=response.plan, p=pixels: self.pictured.emit(f, p))
            elif response.id == 0:
                with self._guard:
                    due = (
                        response.outcome in ("share", "rim share", "ready share", "write share", "series share")
                        or self._open.pop(response.asked, None) is not None
                    )
                if due:
                    self._emit(lambda r=response: self.told.emit(r))
            elif response.id == self._latest:
                self._emit(lambda r=response: self.answered.emit(r))

    def end(self) -> None:
        """End the process, or give it back, and wait for that."""
        from gatepost.desk.worker.server import RELEASE, Ask

        with self._guard:
            self._ending = True
            self._sending.put((Ask(0, RELEASE, ()) if self._lent else None,))
            self._sending.put(None)
        if self._lent:
            for thread in self._threads:
                thread.join(60)
            return
        self._threads[1].join(2)
        self._worker.end()
        self._threads[0].join(2)
