# SPDX-License-Identifier: GPL-3.0-or-later
"""Reckoning in one long-lived process: frozen request, pure function, frozen response with its id.

The newest request wins: the process drops a plan half-way when another waits, and the window drops any response
that is not the latest.
"""

from __future__ import annotations

import contextlib
import multiprocessing
import threading
import traceback
from dataclasses import dataclass
from multiprocessing.connection import Connection

from PyQt6.QtCore import QObject, pyqtSignal

from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job


@dataclass(frozen=True)
class Request:
    """Reckon a plan. cell: of the height fields, mm, or nothing for what suits."""

    id: int
    job: Job
    journal: Journal
    cell: float | None = None


@dataclass(frozen=True)
class Response:
    """The end of a request: done, failed or cancelled; progress comes before."""

    id: int
    outcome: str
    plan: object = None
    words: str = ""


def serve(pipe: Connection) -> None:
    """The worker process: warm up, then answer requests until the pipe closes."""
    from gatepost.core.cache import Memory
    from gatepost.core.errors import Cancelled, OperatorError
    from gatepost.core.plan import plan
    from gatepost.core.warm import warm

    memory = Memory(ask=pipe.poll)
    warm()
    while True:
        try:
            request = pipe.recv()
            while pipe.poll():
                pipe.send(Response(request.id, "cancelled"))
                request = pipe.recv()
        except (EOFError, OSError):
            return
        if request is None:
            return
        memory.tell = lambda node, number=request.id: pipe.send(Response(number, "progress", words=node))
        try:
            pipe.send(Response(request.id, "done", plan(request.job, request.journal, memory, request.cell)))
        except Cancelled:
            pipe.send(Response(request.id, "cancelled"))
        except OperatorError as error:
            pipe.send(Response(request.id, "failed", words=str(error)))
        except Exception as error:
            pipe.send(
                Response(request.id, "failed", words=f"{type(error).__name__}: {error}\n{traceback.format_exc()}")
            )


class Reckoner(QObject):
    """The worker as the window sees it."""

    answered = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        context = multiprocessing.get_context("spawn")
        self._pipe, theirs = context.Pipe()
        self._process = context.Process(target=serve, args=(theirs,), daemon=True)
        self._process.start()
        theirs.close()
        self._latest = 0
        self._ending = False
        self._listener = threading.Thread(target=self._listen, daemon=True)
        self._listener.start()

    def ask(self, job: Job, journal: Journal, cell: float | None = None) -> int:
        """Ask for a plan; gives the request's id."""
        self._latest += 1
        try:
            self._pipe.send(Request(self._latest, job, journal, cell))
        except (BrokenPipeError, OSError):
            self.answered.emit(
                Response(self._latest, "failed", words="The reckoning process has ended. Save, and open the job again.")
            )
        return self._latest

    def _listen(self) -> None:
        while True:
            try:
                response = self._pipe.recv()
            except (EOFError, OSError):
                if self._ending:
                    return
                words = "The reckoning process has ended. Save, and open the job again."
                response = Response(self._latest, "failed", words=words)
                self._ending = True
            if response.id == self._latest:
                try:
                    self.answered.emit(response)
                except RuntimeError:  # the window is gone
                    return

    def end(self) -> None:
        """End the process and wait for it."""
        self._ending = True
        with contextlib.suppress(BrokenPipeError, OSError):
            self._pipe.send(None)
        self._process.join(2)
        if self._process.is_alive():
            self._process.terminate()
            self._process.join(2)
        self._listener.join(2)
        self._pipe.close()
