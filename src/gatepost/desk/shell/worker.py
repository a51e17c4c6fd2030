# SPDX-License-Identifier: GPL-3.0-or-later
"""Reckoning in one long-lived process: frozen request, pure function, frozen response with its id.

The newest plan wanted wins: the process drops one half-way when another waits, and the window drops any response
that is not the latest. Small questions (what would this hold say there?) are answered between the parts of a plan.
The first plan of a job comes twice, coarse and then whole. Height fields and their pictures go through shared memory.
"""

from __future__ import annotations

import contextlib
import multiprocessing
import os
import threading
import time
import traceback
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job

SLOW = 0.35  # s; where the last plan took longer, the next comes coarse first too
ENDED = "The reckoning process has ended. Save, and open the job again."


@dataclass(frozen=True)
class Request:
    """Reckon a plan. cell: of the height fields, mm, or nothing for what suits; first: coarse first; fresh: nothing
    that was sent before is known any more."""

    id: int
    job: Job
    journal: Journal
    cell: float | None = None
    first: bool = False
    fresh: bool = False


@dataclass(frozen=True)
class Ask:
    """A small question. what: judge (setup, key, dx, dy), sheet or write (job, where to)."""

    id: int
    what: str
    values: tuple[Any, ...]


@dataclass(frozen=True)
class Response:
    """To a request: progress and coarse, then done, failed or cancelled. To a question: its own what. Pictures come
    after the plan of their fields, with the id of its request."""

    id: int
    outcome: str
    plan: object = None
    words: str = ""
    pixels: tuple[str, str, tuple[int, ...]] | None = None


@dataclass
class _Server:
    """The worker process's state."""

    pipe: Connection
    waiting: deque[Any] = field(default_factory=deque)
    judge: Any = None
    took: float = 0.0
    ended: bool = False

    def __post_init__(self) -> None:
        from gatepost.core.cache import Memory
        from gatepost.desk.shell.shared import Giver

        self.memory = Memory(ask=self.look)
        self.giver = Giver()
        self.kept: deque[Any] = deque(maxlen=2)
        self.painted: dict[int, Any] = {}

    def send(self, response: Response) -> None:
        self.pipe.send_bytes(self.giver.dumps(response))

    def look(self) -> bool:
        """Take in what has come, and answer small questions; whether another plan is wanted."""
        asked: dict[str, Ask] = {}
        while self.pipe.poll():
            try:
                item = self.pipe.recv()
            except (EOFError, OSError):
                self.ended = True
                return True
            if isinstance(item, Ask):
                asked[item.what] = item  # the newest of a kind alone
            elif item is None:
                self.ended = True
            else:
                self.waiting.append(item)
        for item in asked.values():
            self.answer(item)
        return self.ended or bool(self.waiting)

    def answer(self, item: Ask) -> None:
        """A small question."""
        verdict: Any = None
        words = ""
        try:
            if item.what == "judge":
                verdict = self.judge.judge(*item.values) if self.judge is not None else None
            elif item.what == "sheet":
                words = self.sheet(*item.values)
            elif item.what == "write":
                words = self.write(*item.values)
        except OperatorError as error:
            verdict, words = False, str(error)
        except Exception as error:
            verdict, words = (None if item.what == "judge" else False), f"{type(error).__name__}: {error}"
        self.send(Response(item.id, item.what, verdict, words))

    def plan_of(self, job: Job) -> Any:
        """The plan that the window shows. Raises OperatorError."""
        if self.judge is None or self.judge.plan.job != job:
            raise OperatorError("The job has changed meanwhile. Write it again when the figures stand.")
        return self.judge.plan

    def sheet(self, job: Job, path: str) -> str:
        """Write the run sheet."""
        plan = self.plan_of(job)
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        from gatepost.desk.view.pictures import run_sheet

        run_sheet(plan, Path(path))
        return f"Run sheet written to {Path(path).name}."

    def write(self, job: Job, folder: str) -> str:
        """Write programs, art and pictures."""
        plan = self.plan_of(job)
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
        from gatepost.outputs import write_all

        return f"{len(write_all(plan, Path(folder))['files'])} files written to {folder}."

    def reckon(self, request: Request) -> None:
        """A plan, coarse first where it may take long; its pictures after it."""
        from gatepost.core.judging import Judge
        from gatepost.core.plan import plan

        if request.fresh:
            self.giver.forget()
        self.memory.tell = lambda node: self.send(Response(request.id, "progress", words=node))
        begun = time.perf_counter()
        if request.first or self.took > SLOW:
            rough = plan(request.job, request.journal, self.memory, coarse=True)
            self.kept.append(rough)
            self.send(Response(request.id, "coarse", rough))
            self.paint(request.id, rough)
        whole = plan(request.job, request.journal, self.memory, request.cell)
        self.took = time.perf_counter() - begun
        self.kept.append(whole)
        self.judge = Judge(whole)
        self.send(Response(request.id, "done", whole))
        self.paint(request.id, whole)

    def paint(self, number: int, plan: Any) -> None:
        """The pictures of a plan's fields, what is seen first before the rest."""
        from gatepost.drawing.shade import shaded

        fields = [f for s in reversed(plan.setups) for f in (s.end, s.start, *(op.after for op in s.operations))]
        marks: dict[int, Any] = {}
        for f in fields:
            mark = self.giver.mark(f)
            marks[mark[0]] = f
            if mark[0] not in self.painted:
                self.send(Response(number, "picture", f, pixels=self.giver.lay(shaded(f))))
                self.painted[mark[0]] = True
            if self.look():
                return
        if len(self.painted) > 200:
            self.painted = dict.fromkeys(marks, True)


def serve(pipe: Connection) -> None:
    """The worker process: warm up, then answer requests until the pipe closes."""
    from gatepost.core.errors import Cancelled
    from gatepost.core.warm import warm
    from gatepost.drawing import kernels

    server = _Server(pipe)
    warm()
    kernels.warm()
    while True:
        with contextlib.suppress(EOFError, OSError):
            if not server.waiting and not server.ended:
                pipe.poll(None)
        server.look()
        if server.ended:
            return
        if not server.waiting:
            continue
        request = server.waiting.popleft()
        while server.waiting:
            server.send(Response(request.id, "cancelled"))
            request = server.waiting.popleft()
        try:
            server.reckon(request)
        except Cancelled:
            server.send(Response(request.id, "cancelled"))
        except OperatorError as error:
            server.send(Response(request.id, "failed", words=str(error)))
        except (BrokenPipeError, ConnectionResetError):
            return
        except Exception as error:
            words = f"{type(error).__name__}: {error}\n{traceback.format_exc()}"
            server.send(Response(request.id, "failed", words=words))


class Reckoner(QObject):
    """The worker as the window sees it."""

    answered = pyqtSignal(object)
    pictured = pyqtSignal(object, object)  # a height field and its pixels
    told = pyqtSignal(object)  # the answer to a small question

    def __init__(self) -> None:
        super().__init__()
        context = multiprocessing.get_context("spawn")
        self._pipe, theirs = context.Pipe()
        self._process = context.Process(target=serve, args=(theirs,), daemon=True)
        self._process.start()
        theirs.close()
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
        self._send(Request(number, job, journal, cell, first, fresh), number)
        return number

    def question(self, what: str, *values: Any) -> None:
        """Ask a small question; the answer comes by ``told``."""
        self._send(Ask(0, what, values), self._latest)

    def _send(self, item: object, number: int) -> None:
        try:
            with self._sending:
                self._pipe.send(item)
        except (BrokenPipeError, OSError):
            self.answered.emit(Response(number, "failed", words=ENDED))

    def _listen(self) -> None:
        from gatepost.desk.shell.shared import LostField, Taker, mapped

        taker = Taker()
        while True:
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
        self._process.join(2)
        if self._process.is_alive():
            self._process.terminate()
            self._process.join(2)
        self._listener.join(2)
        self._pipe.close()
        sweep_up(self._process.pid or 0)
