# SPDX-License-Identifier: GPL-3.0-or-later
"""Runs a whole job on a machine from the command line, and the headless demo."""

from __future__ import annotations

import shutil
import sys
from collections.abc import Callable
from importlib import resources
from pathlib import Path
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.file import Document, load, save
from gatepost.core.job.fixes import apply
from gatepost.core.nextstep import inputs_hash
from gatepost.core.plan import plan
from gatepost.core.planned import Plan
from gatepost.core.units import spell
from gatepost.logbook.places import data_folder, logbook_url
from gatepost.logbook.store import Logbook
from gatepost.machine import launch
from gatepost.machine.conduct import Conductor, now
from gatepost.machine.keeping import Keeper
from gatepost.machine.session import Session, address

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


def answered(document: Document, reckoned: Plan) -> Document:
    """Every open care accepted, with where it was said."""
    job = document.job
    for f in reckoned.findings:
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
    return Document(job, document.journal)


def run_job(
    path: Path, machine: str | None, speed: str, yes: bool, as_json: bool, say: Say, show: Callable[[Any], None]
) -> int:
    """Run a job; 0 done, 1 refused, 3 ended early."""
    document = load(path)
    reckoned = plan(document.job, document.journal)
    if reckoned.stops:
        for f in reckoned.stops:
            say(f"refused: {f.code}: {spell(f.message, document.job.unit)}")
        return REFUSED
    if reckoned.questions:
        if not yes or machine is not None:
            for q in reckoned.questions:
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
        document = answered(document, reckoned)
        reckoned = plan(document.job, document.journal)
    if not any(s.programs for s in reckoned.setups):
        say("refused: there is nothing to run: no lettering and no cut-out.")
        return REFUSED
    return _run_on(document, reckoned, path, machine, speed, as_json, say, show)


def _run_on(
    document: Document,
    reckoned: Plan,
    path: Path,
    machine: str | None,
    speed: str,
    as_json: bool,
    say: Say,
    show: Callable[[Any], None],
) -> int:
    book = Logbook(logbook_url(data_folder()))
    simulated: launch.Simulated | None = None
    session: Session | None = None
    keeper: Keeper | None = None
    try:
        book.close_leftovers(now())
        simulated = launch.start(reckoned, speed) if machine is None else None
        host, port = (simulated.host, simulated.port) if simulated else address(machine or "")
        session = Session(host, port)
        first = reckoned.setups[0].setup
        keeper = Keeper(
            book, Conductor(session, reckoned, document.journal, (first.x, first.y)), "simulated", str(path)
        )
        outcome = _steps(keeper, reckoned, say)
    except OperatorError as error:
        say(str(error))
        outcome = "failed"
    finally:
        journal = keeper.conductor.journal if keeper is not None else document.journal
        rows = [r for r in book.runs(document.job.name) if r.fingerprint == reckoned.fingerprint][
            : sum(len(s.programs) for s in reckoned.setups)
        ]
        book.close()
        if session is not None:
            session.close()
        if simulated is not None:
            simulated.end()
    if as_json:
        show(
            {
                "outcome": outcome,
                "runs": [
                    {
                        "id": r.id,
                        "program": r.program,
                        "state": r.state,
                        "planned_minutes": r.planned_minutes,
                        "real_minutes": r.real_minutes,
                    }
                    for r in reversed(rows)
                ],
                "journal": len(journal.entries),
            }
        )
    else:
        for r in reversed(rows):
            print(
                f"{r.id}\t{r.program}\t{r.state}\tplanned {r.planned_minutes:.1f} min\treal {r.real_minutes or 0:.1f} min"
            )
    return DONE if outcome == "done" else EARLY


def _steps(keeper: Keeper, reckoned: Plan, say: Say) -> str:
    for setup in reckoned.setups:
        for step in setup.steps:
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


def headless_demo(out: Path, say: Say) -> int:
    """The whole demo without a display: mend, plan, sweep, run, log; says where the results are."""
    from gatepost.outputs import write_all

    document = load(example("lock-7-first-look.gatepost"))
    say(f"Opened {document.job.name} with one strap in the way.")
    reckoned = plan(document.job, document.journal)
    job = document.job
    while reckoned.stops:
        stop = reckoned.stops[0]
        say(f"Stop: {spell(stop.message, job.unit)}")
        if not stop.fixes:
            say("No fix is offered for it.")
            return REFUSED
        job = apply(job, stop.fixes[0])
        say(f"Applied the fix offered: {spell(stop.fixes[0].sentence, job.unit)}.")
        reckoned = plan(job, document.journal)
    out.mkdir(parents=True, exist_ok=True)
    path = out / "lock-7-mended.gatepost"
    save(Document(job, document.journal), path)
    write_all(reckoned, out)
    say("Programs written, read back and swept; run sheet and pictures written. Running on the simulated machine.")
    code = run_job(path, None, "max", True, False, say, print)
    say(f"Results are in {out.resolve()}" + (", and the runs are in the logbook." if code == 0 else "."))
    return code
