# SPDX-License-Identifier: GPL-3.0-or-later
"""Runs a whole job on a machine from the command line, and the headless demo."""

from __future__ import annotations

import os
import shutil
import sys
from collections.abc import Callable
from dataclasses import dataclass, replace
from importlib import resources
from pathlib import Path
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.file import Document, load, save
from gatepost.core.job.fixes import apply
from gatepost.core.plan.kinds import SHIPPED, Kinds
from gatepost.core.plan.nextstep import inputs_hash
from gatepost.core.plan.result import Plan, Resumed
from gatepost.core.units import spell
from gatepost.logbook.notebook import notebook
from gatepost.logbook.places import data_folder, logbook_url
from gatepost.logbook.rows import Run
from gatepost.logbook.store import Logbook
from gatepost.machine import launch
from gatepost.machine.conduct import StepRunner, each_step
from gatepost.machine.connection import address
from gatepost.machine.keeping import RunRecorder
from gatepost.machine.launch import LeftLying
from gatepost.machine.link import Event
from gatepost.machine.resume import go_on, taken_up
from gatepost.machine.session import Session
from gatepost.machine.standing_checks import now
from gatepost.planning import plan

Say = Callable[[str], None]
DONE, REFUSED, EARLY = 0, 1, 3


def example(name: str) -> Path:
    """A shipped example job. Raises OperatorError when it is not there."""
    path = Path(str(resources.files("gatepost").joinpath("assets", "examples", name)))
    if not path.exists():
        raise OperatorError(f"The example {name} is missing from this installation.")
    return path


def demo_copy() -> Path:
    """The first-look job, copied where it may be changed."""
    target = data_folder() / "demo" / "lock-7-first-look.gatepost"
    target.parent.mkdir(parents=True, exist_ok=True)
    shutil.copyfile(example("lock-7-first-look.gatepost"), target)
    return target


def fennick_wharf() -> Path:
    """A shop of its own, with a made-up year in its log: from here on it is the one that is worked in, and nothing of it gets into yours. Gives its folder."""
    from datetime import date

    from gatepost.logbook.notebook import notebook
    from gatepost.logbook.places import logbook_url
    from gatepost.logbook.store import Logbook
    from gatepost.logbook.year import fill

    shop = data_folder() / "fennick-wharf"
    os.environ["GATEPOST_DATA"] = str(shop)
    os.environ.pop("GATEPOST_LOGBOOK", None)
    book = Logbook(logbook_url(data_folder()), notebook(shop))
    try:
        if not book.count():
            fill(book, date.today())
    finally:
        book.close()
    return shop


def answered(document: Document, planned: Plan) -> Document:
    """Every open care accepted, with where it was said."""
    job = document.job
    for f in planned.findings:
        if f.level is Level.CARE and not f.accepted:
            values = {
                "code": f.code,
                "setup": f.setup,
                "about": f.about,
                "inputs": inputs_hash(f),
                "reason": "answered with --yes on a simulated machine",
                "at": now(),
            }
            job = commands.run(job, "accept", values)
    return replace(document, job=job)


def run_job(
    path: Path,
    machine: str | None,
    speed: str,
    yes: bool,
    as_json: bool,
    say: Say,
    show: Callable[[Any], None],
    kinds: Kinds = SHIPPED,
    seed: int | None = None,
) -> int:
    """Run a job; 0 done, 1 refused, 3 ended early. seed: of a simulated machine's shop, which is a little otherwise than
    planned; without one all is exact."""
    document = load(path, kinds.figures)
    planned = plan(document.job, document.journal, kinds=kinds)
    if planned.stops:
        for f in planned.stops:
            say(f"refused: {f.code}: {spell(f.message, document.job.unit)}")
        return REFUSED
    if planned.questions:
        if not yes or machine is not None:
            for q in planned.questions:
                say(f"question: {q.code}: {spell(q.sentence, document.job.unit)}")
            say(
                "Answer these in the window first"
                + (
                    " (--yes answers them on a simulated machine only)."
                    if not yes
                    else "; --yes is for a simulated machine that Gatepost starts itself."
                )
            )
            return REFUSED
        document = answered(document, planned)
        planned = plan(document.job, document.journal, kinds=kinds)
    if not any(s.programs for s in planned.setups):
        say("refused: there is nothing to run: no lettering and no cut-out.")
        return REFUSED
    return _run_on(document, planned, path, machine, speed, as_json, say, show, seed)


def opened_book(say: Say) -> Logbook | None:
    """The logbook; nothing, and a sentence, when it can't be had: runs are noted beside it then."""
    try:
        book = Logbook(logbook_url(data_folder()), notebook(data_folder()))
        book.close_leftovers(now())
        if book.healed:
            say(book.healed)
    except OperatorError as error:
        say(f"{error} Runs are noted in {notebook(data_folder())} meanwhile, and taken in later.")
        return None
    return book


@dataclass
class _Places:
    """Where a run goes: machine, book and what is shown of it."""

    path: Path
    machine: str | None
    speed: str
    as_json: bool
    say: Say
    show: Callable[[Any], None]
    seed: int | None = None


def _run_on(
    document: Document,
    planned: Plan,
    path: Path,
    machine: str | None,
    speed: str,
    as_json: bool,
    say: Say,
    show: Callable[[Any], None],
    seed: int | None,
) -> int:
    def work(keeper: RunRecorder) -> str:
        return _steps(keeper, say)

    places = _Places(path, machine, speed, as_json, say, show, seed)
    return _with_machine(places, document, planned, planned.laid_first, work)


def _with_machine(
    p: _Places, document: Document, planned: Plan, laid: tuple[float, float], work: Callable[[RunRecorder], str],
    lying: LeftLying | None = None,
) -> int:  # fmt: skip
    """Book, machine and session opened and closed in order round some work."""
    book = opened_book(p.say)
    simulated: launch.Simulated | None = None
    session: Session | None = None
    begun = book.newest() if book is not None else 0
    outcome = "failed"
    try:
        seed = p.seed if lying is None else None  # wood as it was left lies where it was left
        simulated = launch.start(planned, p.speed, lying=lying, seed=seed) if p.machine is None else None
        host, port = (simulated.host, simulated.port) if simulated else address(p.machine or "")
        session = Session(host, port, lambda event: _waits(event, session, simulated, p.say))
        conductor = StepRunner(
            session, planned, document.journal, laid, lambda journal: plan(document.job, journal, kinds=planned.kinds)
        )
        kind = "simulated" if seed is None else f"simulated, seed {seed}"
        keeper = RunRecorder(book, conductor, kind, str(p.path), notebook(data_folder()), p.say)
        outcome = work(keeper)
    except OperatorError as error:
        p.say(str(error))
    finally:
        rows = [r for r in book.runs() if r.id > begun] if book is not None else []
        if book is not None:
            book.close()
        if session is not None:
            session.close()
        if simulated is not None:
            simulated.end()
    _told(p, outcome, [r for r in reversed(rows) if r.job == planned.job.name])
    return DONE if outcome == "done" else EARLY


def _waits(event: Event, session: Session | None, simulated: launch.Simulated | None, say: Say) -> None:
    """A program waits at a stop of its own: a simulated machine goes on, where a person presses start at a real one."""
    if event.kind != "paused" or session is None:
        return
    if simulated is None:
        say("It waits at a stop of its program: see to what it asks for, then press start at the machine.")
    else:
        say("It waits at a stop of its program; simulated, it goes on.")
        session.resume()


def _told(p: _Places, outcome: str, rows: list[Run]) -> None:
    if p.as_json:
        names = ("id", "program", "state", "planned_minutes", "real_minutes", "blocks_done", "blocks", "resumes")
        p.show({"outcome": outcome, "runs": [{n: getattr(r, n) for n in names} for r in rows]})
        return
    for r in rows:
        print(
            f"{r.id}\t{r.program}\t{r.state}\tplanned {r.planned_minutes:.1f} min\treal {r.real_minutes or 0:.1f} min"
        )


def resume_job(
    path: Path, number: int | None, machine: str | None, speed: str, yes: bool, as_json: bool, say: Say,
    show: Callable[[Any], None], bed: tuple[float, float] | None = None,
) -> int:  # fmt: skip
    """Go on with a run that ended early, and with what comes after it; 0 done, 1 refused, 3 ended early."""
    document = load(path)
    planned = plan(document.job, document.journal)
    if planned.stops:
        for f in planned.stops:
            say(f"refused: {f.code}: {spell(f.message, document.job.unit)}")
        return REFUSED
    book = opened_book(say)
    if book is None:
        return REFUSED
    try:
        run, taken = taken_up(book.runs(), planned, number, bed)
    finally:
        book.close()
    for words in taken.stops:
        say(f"refused: {spell(words, document.job.unit)}")
    if taken.stops:
        return REFUSED
    if taken.words:
        say(spell(taken.words, document.job.unit))
    if not (yes and machine is None) and not _mark_agrees(say):
        say(
            "Not run. Home the machine and look at the witness mark first"
            + ("; --yes says so for a simulated machine that Gatepost starts itself." if machine is None else ".")
        )
        return REFUSED
    say(
        f"Run {run.id} of {run.program} ended {run.state} after block {run.blocks_done} of {run.blocks}. "
        f"Taken up {taken.back:.1f} mm back along the cut; {taken.minutes:.1f} min are left."
    )
    setup = taken.setup

    def work(keeper: RunRecorder) -> str:
        return _go_on(keeper, taken, run, say)

    places = _Places(path, machine, speed, as_json, say, show)
    lying = LeftLying(setup, taken.wood, run.zeros, taken.program.tool)
    return _with_machine(places, document, taken.plan, setup.corner, work, lying)


def _mark_agrees(say: Say) -> bool:
    if not sys.stdin.isatty():
        return False
    say(
        "Home the machine, go over the witness mark and look. Does the tip stand on it, is it the bit as it was gripped, are spanners, plate "
        "and clip away, and does the work stand still when its corners are pressed? [y/N] "
    )
    return sys.stdin.readline().strip().lower() in ("y", "yes")


def _go_on(keeper: RunRecorder, taken: Resumed, run: Run, say: Say) -> str:
    """Take the program up again, and do what comes after it."""
    setup = taken.setup
    at = next(s for s in setup.steps if s.program == taken.program.name)
    if go_on(keeper, taken, run, _bar(at.title)) != "done":
        return "stopped"
    say(f"done: {run.program}")
    return _steps(keeper, say, (setup.name, at.key))


def _steps(keeper: RunRecorder, say: Say, after: tuple[str, str] | None = None) -> str:
    """All steps, or those after one: its setup and its key."""
    for setup, step in each_step(keeper.conductor, after):
        if keeper.carry_out(setup, step, _bar(step.title) if step.kind == "run" else None) != "done":
            return "stopped"
        if step.kind == "run":
            say(f"done: {step.program}")
    return "done"


def _bar(title: str) -> Callable[[int, int], None] | None:
    """A progress bar, when a person is watching."""
    if not sys.stderr.isatty():
        return None

    def draw(done: int, of: int) -> None:
        if done % 50 == 0 or done == of:
            filled = round(30 * done / max(of, 1))
            sys.stderr.write(f"\r[{'#' * filled}{'.' * (30 - filled)}] {title[:60]}" + ("\n" if done == of else ""))
            sys.stderr.flush()

    return draw


def headless_demo(out: Path, say: Say, seed: int | None = None) -> int:
    """The whole demo without a display: mend, plan, sweep, run, log; says where the results are."""
    from gatepost.outputs import write_all

    document = load(example("lock-7-first-look.gatepost"))
    say(f"Opened {document.job.name} with one strap in the way.")
    planned = plan(document.job, document.journal)
    job = document.job
    while planned.stops:
        stop = planned.stops[0]
        say(f"Stop: {spell(stop.message, job.unit)}")
        if not stop.fixes:
            say("No fix is offered for it.")
            return REFUSED
        job = apply(job, stop.fixes[0])
        say(f"Applied the fix offered: {spell(stop.fixes[0].sentence, job.unit)}.")
        planned = plan(job, document.journal)
    out.mkdir(parents=True, exist_ok=True)
    path = out / "lock-7-mended.gatepost"
    save(replace(document, job=job), path)
    write_all(planned, out)
    say("Programs written, read back and swept; run sheet and pictures written. Running on the simulated machine.")
    code = run_job(path, None, "max", True, False, say, print, seed=seed)
    say(f"Results are in {out.resolve()}" + (", and the runs are in the logbook." if code == 0 else "."))
    return code
