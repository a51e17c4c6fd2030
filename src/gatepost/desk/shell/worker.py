# SPDX-License-Identifier: GPL-3.0-or-later
"""The reckoning process as the window sees it. Responses that are not to the latest request are dropped."""

from __future__ import annotations

import contextlib
import socket
import subprocess
import sys
import threading
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal

if TYPE_CHECKING:
    from gatepost.core.job.journal import Journal
    from gatepost.core.job.model import Job

ENDED = "The reckoning process has ended. Save, and open the job again."


class Reckoner(QObject):
    """The worker as the window sees it."""

    answered = pyqtSignal(object)
    pictured = pyqtSignal(object, object)  # a height field and its pixels
    told = pyqtSignal(object)  # the answer to a small question

    def __init__(self) -> None:
        super().__init__()
        mine, theirs = socket.socketpair()
        command = [sys.executable, "-m", "gatepost.desk.shell.serving", str(theirs.fileno())]
        self._process = subprocess.Popen(command, pass_fds=[theirs.fileno()], stdin=subprocess.DEVNULL)
        theirs.close()
        self._pipe = Connection(mine.detach())
        self._latest = 0
        self._last: tuple[Job, Journal, float | None] | None = None
        self._sending = threading.Lock()
        self._ending = False
        self._listener = threading.Thread(target=self._listen, daemon=True)
        self._listener.start()

    def ask(
        self, job: Job, journal: Journal, cell: float | None = None, first: bool = False, fresh: bool = False
    ) -> int:
        """Ask for a plan; gives the request's id."""
        self._latest += 1
        self._last = (job, journal, cell)
        number = self._latest
        from gatepost.desk.shell.reckoning import Request

        self._send(Request(number, job, journal, cell, first, fresh), number)
        return number

    def question(self, what: str, *values: Any) -> None:
        """Ask a small question; the answer comes by ``told``."""
        from gatepost.desk.shell.reckoning import Ask

        self._send(Ask(0, what, values), self._latest)

    def _send(self, item: object, number: int) -> None:
        try:
            with self._sending:
                self._pipe.send(item)
        except (BrokenPipeError, OSError):
            from gatepost.desk.shell.reckoning import Response

            self.answered.emit(Response(number, "failed", words=ENDED))

    def _listen(self) -> None:
        taker: Any = None
        while True:
            with contextlib.suppress(EOFError, OSError):
                self._pipe.poll(None)
            from gatepost.desk.shell.reckoning import Response
            from gatepost.desk.shell.shared import LostField, Taker, mapped

            taker = taker or Taker()
            try:
                response = taker.loads(self._pipe.recv_bytes())
            except LostField:
                if self._last is not None and not self._ending:
                    self.ask(*self._last, fresh=True)
                continue
            except (EOFError, OSError):
                if self._ending:
                    return
                response = Response(self._latest, "failed", words=ENDED)
                self._ending = True
            emit: Callable[[], None] | None = None
            if response.outcome == "picture":
                with contextlib.suppress(OSError):
                    pixels = mapped(*response.pixels)
                    emit = lambda f=response.plan, p=pixels: self.pictured.emit(f, p)  # noqa: E731
            elif response.id == 0:
                emit = lambda r=response: self.told.emit(r)  # noqa: E731
            elif response.id == self._latest:
                emit = lambda r=response: self.answered.emit(r)  # noqa: E731
            if emit is not None:
                try:
                    emit()
                except RuntimeError:  # the window is gone
                    return

    def end(self) -> None:
        """End the process and wait for it."""
        from gatepost.desk.shell.shared import sweep_up

        self._ending = True
        with contextlib.suppress(BrokenPipeError, OSError), self._sending:
            self._pipe.send(None)
        try:
            self._process.wait(2)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
        self._listener.join(2)
        self._pipe.close()
        sweep_up(self._process.pid)
