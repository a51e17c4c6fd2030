# SPDX-License-Identifier: GPL-3.0-or-later
"""Reckoning in one long-lived process: frozen request, pure function, frozen response with its id. No Qt here.

The newest plan wanted wins: the process drops one half-way when another waits. Small questions (what would this hold
say there?) are answered between the parts of a plan. The first plan of a job comes twice, coarse and then whole.
Height fields and their pictures go through shared memory.
"""

from __future__ import annotations

import contextlib
import gc
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from gatepost.core import shipped
from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.desk.worker import finding_work
from gatepost.trouble import told

WHOLES = 6  # plans that are kept: of what is undone, and done again
SELDOM = (
    50_000,
    20,
    20,
)  # how many new things there are before what is no longer used is looked for: a plan is made of many
SLOW = 0.35  # s; where the last plan took longer, the next comes coarse first too


@dataclass(frozen=True)
class Request:
    """Reckon a plan. cell: of the height fields, mm, or nothing for what suits; first: coarse first; fresh: nothing
    that was sent before is known any more; kinds: where their tables stand."""

    id: int
    job: Job
    journal: Journal
    cell: float | None = None
    first: bool = False
    fresh: bool = False
    kinds: str = shipped.KINDS


@dataclass(frozen=True)
class Ask:
    """A small question; its id comes back with its one answer. what: judge (setup, key, dx, dy); ways (job, setup, how many clamps); call off; sheet or write (job, where to);
    check (job, a program's path); drawing or reduce (a file's path); trace (a photo's bytes, its name, its values); first fit (job, setup, the same, places clicked, mark 1 on the bed)."""

    id: int
    what: str
    values: tuple[Any, ...]


RELEASE = "release"  # a question that ends everything for one window, so that another may have the process


@dataclass(frozen=True)
class Response:
    """To a request: progress and coarse, then done, failed or cancelled. To a question: its own what, and asked, its id;
    shares of a long one come before it. Advice, and pictures, come after the plan of their fields, with the id of its request."""

    id: int
    outcome: str
    plan: object = None
    words: str = ""
    pixels: tuple[str, str, tuple[int, ...]] | None = None
    asked: int = 0


@dataclass
class _Server:
    """The worker process's state."""

    pipe: Connection
    waiting: deque[Any] = field(default_factory=deque)
    judge: Any = None
    looked: Any = None
    took: float = 0.0
    ended: bool = False
    asks: deque[Ask] = field(default_factory=deque)
    answering: bool = False

    def __post_init__(self) -> None:
        from gatepost.core.cache import Memory
        from gatepost.desk.worker.series_work import SeriesWork
        from gatepost.desk.worker.shared import Sender

        self.memory = Memory(cancelled=self.look, wholes=WHOLES)
        self.beside = Memory(keep=4, cancelled=self.look)  # of what is tried: it drives nothing out of the other
        self.giver = Sender()
        self.series = SeriesWork(lambda asked, *told: self.send(Response(0, *told, asked=asked)), self.look)
        self.kept: deque[Any] = deque(maxlen=2)
        self.painted: dict[int, Any] = {}

    def send(self, response: Response) -> None:
        self.pipe.send_bytes(self.giver.dumps(response))

    def look(self) -> bool:
        """Take in what has come, and answer small questions, each once and in their order; whether another plan is wanted."""
        self.take_in()
        while self.asks and not self.answering and not self.ended:
            self.answering = True
            try:
                self.answer(self.asks.popleft())
            finally:
                self.answering = False
        return self.ended or bool(self.waiting)

    def take_in(self) -> None:
        """Take in what has come."""
        while not self.ended and self.pipe.poll():
            try:
                item = self.pipe.recv()
            except (EOFError, OSError):
                self.ended = True
                return
            if item is None:
                self.ended = True
            elif isinstance(item, Ask) and item.what != RELEASE:
                self.asks.append(item)
            else:
                self.waiting.append(item)

    def release(self) -> None:
        """Begin anew for another window: what was reckoned is remembered, what was shown is not."""
        from gatepost.desk.worker.shared import Sender

        self.waiting.clear()
        self.asks.clear()
        self.kept.clear()
        self.painted.clear()
        self.giver = Sender()
        self.judge, self.took, self.looked = None, 0.0, None
        with contextlib.suppress(OperatorError):  # the window that wanted it is gone
            self.series.leave()
        self.send(Response(0, RELEASE))

    def answer(self, item: Ask) -> None:
        """A small question."""
        verdict: Any = None
        words = ""
        try:
            if item.what == "judge":
                verdict = self.judge.judge(*item.values) if self.judge is not None else None
            elif item.what in (verdicts := self.verdicts()):
                verdict = verdicts[item.what](*item.values)
            elif item.what in (written := self.written()):
                words = written[item.what](*item.values)
            elif item.what == "series":
                self.series.begin(item.id, *item.values)
                return
            elif item.what == "stop series":
                self.series.end()
            elif item.what in ("art", "trace art", "heights art"):
                verdict = self.art(item.what, *item.values)
            elif item.what in ("drawing", "reduce", "trace", "first fit"):
                verdict = self.outline(item.what, *item.values)
        except OperatorError as error:
            verdict, words = False, str(error)
        except Exception as error:
            verdict, words = (None if item.what == "judge" else False), told(error)
        self.send(Response(0, item.what, verdict, words, asked=item.id))

    def verdicts(self) -> dict[str, Callable[..., Any]]:
        """What is found, by what is asked."""
        return {
            "resume": self.resume, "again": lambda job, *values: finding_work.again(self.plan_of(job), *values),
            "import": lambda job, *values: finding_work.made_elsewhere(self.plan_of(job), *values), "look": self.seen, "design": self.designed, "ways": self.ways, "rim": lambda job, setup: finding_work.rim(job, setup, lambda share: self.on("rim share", share)), "either": lambda job: finding_work.either(job, self.beside), "over plan": lambda job, *values: finding_work.over_plan(self.plan_of(job), *values), "result photo": lambda path: self.outline("reduce", path), "ready": lambda job, paths, now: finding_work.ready(self.plan_of(job), paths, now, self.beside, lambda share: self.on("ready share", share)),
        }  # fmt: skip

    def written(self) -> dict[str, Callable[..., str]]:
        """What is written or checked, and told in words."""
        from gatepost.desk.worker import writing_work as work

        return {
            "check": lambda job, path: work.check(self.plan_of(job), path),
            "sheet": lambda job, path: work.sheet(self.plan_of(job), path),
            "template": lambda job, path, setup: work.template(self.plan_of(job), path, setup),
            "options": lambda job, path: work.options(self.designs(job), job.name, path),
            "diary": work.diary,
            "quote": lambda job, path, inside: work.quote(self.plan_of(job), path, inside),
            "write": lambda job, path: work.write(self.plan_of(job), path, lambda share: self.on("write share", share)),
        }

    def plan_of(self, job: Job) -> Any:
        """The plan that the window shows. Raises OperatorError."""
        if self.judge is None or self.judge.plan.job != job:
            raise OperatorError("The job has changed meanwhile. Write it again when the figures stand.")
        return self.judge.plan

    def resume(self, job: Job, rows: list[Any], number: int, bed: tuple[float, float] | None = None) -> Any:
        """The run that is gone on with, and how."""
        from gatepost.machine.resume import taken_up

        return taken_up(rows, self.plan_of(job), number, bed)

    def ways(self, job: Job, setup: str, count: int) -> Any:
        """Ways of holding compared, with how far it is; called off when anything else is wanted."""
        from gatepost.core.errors import Cancelled
        from gatepost.core.plan.holding_ways import ways_compared

        try:
            return ways_compared(self.plan_of(job), setup, count, lambda share: self.on("share", share))
        except Cancelled:
            raise OperatorError("It was called off.") from None

    def on(self, what: str, share: float) -> bool:
        """Tell how far something is; whether it is still wanted."""
        self.send(Response(0, what, share))
        self.take_in()
        off = any(ask.what == "call off" for ask in self.asks)
        return not (off or self.ended or self.waiting)  # a plan that is wanted waits its turn; other questions theirs

    def seen(self, job: Job, look: Any, width: int, fine: bool) -> Any:
        """The sign as it will look, and mm of a pixel. fine: with shadows."""
        from gatepost.drawing.look import picture, subject

        plan = self.plan_of(job)
        if self.looked is None or self.looked[0] is not plan:
            self.looked = (plan, subject(plan, plan.carving))
        of = self.looked[1]
        return picture(of, look, width, fine), of.cell * of.z.shape[1] / width

    def designs(self, job: Job) -> list[tuple[str, Any, tuple[str, ...], str]]:
        """All designs of the job that the window shows, each planned: its title, its plan, what moved in it beside the first of them, and who approved it. Raises OperatorError."""
        from gatepost.core.errors import Cancelled
        from gatepost.core.job.journal import Journal
        from gatepost.core.plan.changes import changes
        from gatepost.core.plan.pipeline import plan
        from gatepost.core.plan.versions import taken, versions

        shown = self.plan_of(job)
        self.memory.progress = None
        out = []
        try:
            for one in versions(job, (), shown.kinds):
                made = plan(taken(job, one.id), Journal(), self.memory, kinds=shown.kinds) if one.id else shown
                moved = tuple(changes(job, made.job, shown.kinds)) if one.id else ()
                out.append((one.title, made, moved, one.approved if one.stands else ""))
        except Cancelled:
            raise OperatorError("Something else was wanted meanwhile. Write it again.") from None
        return out

    def designed(self, job: Job, id: str, width: int) -> Any:
        """One of several designs: its id, its picture, minutes of cutting, and what would have to be mended."""
        from gatepost.core.errors import Cancelled
        from gatepost.core.job.journal import Journal
        from gatepost.core.plan.pipeline import plan
        from gatepost.drawing.look import first_look, picture, subject

        try:
            shown = self.judge.plan if self.judge is not None and self.judge.plan.job == job else None
            self.memory.progress = None
            made = shown or plan(job, Journal(), self.memory, kinds=self.judge.plan.kinds)
            pixels = picture(subject(made, made.carving), first_look(made, made.carving), width)
        except Cancelled:
            raise OperatorError(f"{id}|Something else was wanted meanwhile. Open it again.") from None
        except OperatorError as error:
            raise OperatorError(f"{id}|{error}") from None
        minutes = sum(op.seconds for s in made.setups for op in s.operations) / 60.0
        stops = [f.message for f in made.findings if f.level.value == "stop"]
        return id, pixels, minutes, stops

    def art(self, what: str, *values: Any) -> Any:
        """A drawing, or a picture that is traced, made ready to be artwork."""
        from gatepost import artwork

        read: dict[str, Callable[..., Any]] = {"trace art": artwork.traced, "heights art": artwork.heights_in}
        return read.get(what, artwork.brought_in)(*values)

    def outline(self, what: str, *values: Any) -> Any:
        """An outline out of a drawing or a photo, or a photo brought to the size that is worked with."""
        from gatepost import outlining

        if what == "drawing":
            return outlining.from_drawing(Path(values[0]))
        if what == "reduce":
            path = Path(values[0])
            return outlining.reduced(outlining.read(path), path.name)[0], path.name
        return outlining.first_fit(*values) if what == "first fit" else outlining.from_photo(*values)

    def reckon(self, request: Request) -> None:
        """A plan, coarse first where it may take long; its pictures after it."""
        from gatepost.core.plan.dragging import Judge
        from gatepost.core.plan.kinds import kinds_at
        from gatepost.core.plan.pipeline import kept, plan

        kinds = kinds_at(request.kinds)
        if request.fresh:
            self.giver.forget()
        self.memory.progress = lambda node: self.send(Response(request.id, "progress", words=node))
        begun = time.perf_counter()
        same = self.judge is not None and self.judge.plan.job == request.job  # what was done grew, not what is planned
        before = kept(request.job, request.journal, self.memory, request.cell, kinds)
        if (request.first or self.took > SLOW) and not same and before is None:
            rough = plan(request.job, request.journal, self.memory, coarse=True, kinds=kinds)
            self.kept.append(rough)
            self.send(Response(request.id, "coarse", rough))
            self.paint(request.id, rough)
        whole = before or plan(request.job, request.journal, self.memory, request.cell, kinds=kinds)
        if before is None:
            self.took = time.perf_counter() - begun
        self.kept.append(whole)
        self.judge = Judge(whole)
        self.send(Response(request.id, "done", whole))
        if self.paint(request.id, whole):
            self.advise(request.id, whole)

    def advise(self, number: int, plan: Any) -> None:
        """What is offered for its findings; called off when anything else is wanted."""
        from gatepost.core.errors import Cancelled
        from gatepost.core.plan.advice import advice

        with contextlib.suppress(Cancelled):
            found = advice(plan, self.beside, lambda share: not self.look())
            if found.fixes:
                self.send(Response(number, "advice", found))

    def paint(self, number: int, plan: Any) -> bool:
        """The pictures of a plan's fields, what is seen first before the rest; whether it came to the end."""
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
                return False
        if len(self.painted) > 200:
            self.painted = dict.fromkeys(marks, True)
        return True


def serve(pipe: Connection) -> None:
    """The worker process: warm up, then answer requests until the pipe closes."""
    from gatepost.core.plan.warm import warm
    from gatepost.desk.worker.shared import sweep_leftovers
    from gatepost.drawing import kernels

    sweep_leftovers()
    server = _Server(pipe)
    warm()
    kernels.warm()
    gc.collect()
    gc.freeze()  # what is loaded stays
    gc.set_threshold(*SELDOM)
    with contextlib.suppress(BrokenPipeError, ConnectionResetError, EOFError):  # the window is gone: so is this
        while not server.ended:
            if not server.waiting and not server.asks and not server.series.going:
                pipe.poll(None)
            server.look()
            if server.series.going and not server.waiting and not server.ended:
                server.series.step()
            if server.waiting and not server.ended:
                _next(server)
    with contextlib.suppress(OperatorError):  # nobody is left to be told
        server.series.leave()


def _next(server: _Server) -> None:
    """The newest plan that is wanted."""
    from gatepost.core.errors import Cancelled

    request = server.waiting.popleft()
    while True:
        if isinstance(request, Ask):
            server.release()
            return
        if not server.waiting:
            break
        server.send(Response(request.id, "cancelled"))
        request = server.waiting.popleft()
    try:
        server.reckon(request)
    except Cancelled:
        server.send(Response(request.id, "cancelled"))
    except OperatorError as error:
        server.send(Response(request.id, "failed", words=str(error)))
    except (BrokenPipeError, ConnectionResetError, EOFError):
        raise
    except Exception as error:
        server.send(Response(request.id, "failed", words=told(error)))
