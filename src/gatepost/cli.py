# SPDX-License-Identifier: GPL-3.0-or-later
"""The command line: the same core, for scripts and checks. Messages go to stderr, results to stdout."""

from __future__ import annotations

import argparse
import json
import os
import re
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from gatepost import arguments as take
from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.units import spell

EXAMPLES = {
    "plan": "gatepost plan lock-7-name-board.gatepost --out plan",
    "check": "gatepost check lock-7-name-board.gatepost --json",
    "clearance": "gatepost clearance plan/front-1-T4.nc --holds holds.json --tool tool.json --json",
    "simulate": "gatepost simulate plan/front-1-T4.nc --job lock-7-name-board.gatepost --heights wood.npy --picture wood.png",
    "machine": "gatepost machine --wood lock-7-name-board.gatepost --listen 127.0.0.1:7007 --speed 10",
    "run": "gatepost run lock-7-name-board.gatepost --speed max",
    "level": "gatepost level top.csv --under under.csv --supports 40,40 860,40 450,280 --json",
    "ledger": "gatepost ledger lock-7-name-board.gatepost --touch face=-62.0 --zero=-62.0 --pass 1.0",
    "outline": "gatepost outline slab.jpg --marks 210,1630 2190,1630 2190,240 210,240 --across 1000 --up 700 --above 40 --lens 1800",
    "resume": "gatepost resume lock-7-name-board.gatepost --yes",
    "log": "gatepost log show 3 --json",
    "demo": "gatepost demo --out demo-results",
    "edit": "gatepost edit - --out sign.gatepost sign.jsonl",
    "commands": "gatepost commands --json",
}


MINUS_PLACE = re.compile(r"-[\d.]+,-?[\d.]+")


SHOP = "of a shop whose bits, boards and touches are a little otherwise than planned; else another each time"
EXACT = "all is exactly as planned, as in no shop"


def say(words: str) -> None:
    """A message for whoever is watching."""
    print(take.printable(spell(words)), file=sys.stderr, flush=True)


def parser() -> argparse.ArgumentParser:
    """All commands and their options."""
    top = take.Parser(prog="gatepost", description="A bench companion for people who run a CNC wood router.",
                                  epilog="Without a command it opens the window, with JOB if one is named.")  # fmt: skip
    top.add_argument("--data", help="folder for Gatepost's own data (or GATEPOST_DATA)")
    commands = top.add_subparsers(dest="command")

    def add(name: str, words: str) -> take.Parser:
        one = commands.add_parser(
            name, help=words, description=words, epilog=f"Example: {EXAMPLES.get(name, 'gatepost')}"
        )
        one.add_argument("--data", default=argparse.SUPPRESS, help=argparse.SUPPRESS)
        return one

    window = add("open", "open the window")
    window.add_argument("job", nargs="?", type=Path)
    window.add_argument("--theme", choices=("light", "dark"))
    demo = add("demo", "open the demo job; with no display, run it all headless")
    demo.add_argument("--out", type=Path, default=Path("demo-results"))
    demo.add_argument("--headless", action="store_true")
    _shop(demo)
    plan = add("plan", "write programs, run sheet, pictures and plan.json (exit 1 while a stop stands)")
    plan.add_argument("job", type=Path)
    plan.add_argument("--out", type=Path, required=True)
    plan.add_argument("--json", action="store_true")
    plan.add_argument("--no-pictures", action="store_true")
    check = add("check", "check a job or a program (0 sound, 1 a stop, 2 unusable)")
    check.add_argument("file", type=Path)
    check.add_argument("--job", type=Path)
    check.add_argument("--json", action="store_true")
    level = add("level", "how a board is best laid for surfacing, from heights of its faces: as it lies, and shimmed")
    level.add_argument("top", type=Path, help="CSV with columns x, y, z: mm above the bed")
    level.add_argument("--under", type=Path, help="the same of the underside; else it lies flat on the bed")
    level.add_argument("--supports", nargs="+", default=[], metavar="X,Y", help="where shims go")
    level.add_argument(
        "--allowance", type=take.number(0.0, 1000.0), default=0.0, help="clean-up taken off each face that is cut, mm"
    )
    level.add_argument(
        "--shims-at-hand", nargs="+", type=take.number(1e-3, 1000.0), default=[], metavar="MM", help="round to these"
    )
    level.add_argument(
        "--wished",
        type=take.number(0.01, 10_000.0),
        help="the thickness you want: says where hollows would stay to be sanded out",
    )
    level.add_argument(
        "--hollow", type=take.number(0.0, 100.0), default=0.3, help="how deep a hollow sanding takes, mm"
    )
    level.add_argument("--json", action="store_true")
    ledger = add(
        "ledger", "where the face stands by the Z ledger, and the next move; entries go into the job's journal"
    )
    ledger.add_argument("job", type=Path)
    ledger.add_argument("--touch", metavar="ON=Z", help="touched: face, low (spot) or bed, at a machine Z")
    ledger.add_argument("--gauge", type=take.number(0.0, 1000.0), default=0.0, help="what lay between, mm")
    ledger.add_argument("--zero", type=take.number(), metavar="Z", help="Z0 was set at this machine Z")
    ledger.add_argument(
        "--pass", dest="depth", type=take.number(), metavar="DEPTH", help="a pass was cut this deep below Z0"
    )
    ledger.add_argument("--questioned", action="store_true", help="write down what is asked about all the same")
    ledger.add_argument("--left", type=Path, metavar="FILE", help="write a program only for what is left")
    ledger.add_argument("--json", action="store_true")
    outline = add(
        "outline", "a blank's outline out of an SVG or DXF file, or out of an overhead photo with a scale in it"
    )
    outline.add_argument("file", type=Path)
    outline.add_argument(
        "--marks",
        nargs="+",
        default=[],
        metavar="U,V",
        help="two marks, or a rectangle's four corners from its front left, px",
    )
    outline.add_argument("--across", type=take.number(0.0), default=600.0, help="between the first two marks, mm")
    outline.add_argument("--up", type=take.number(0.0), default=0.0, help="the rectangle's other side, mm")
    outline.add_argument("--above", type=take.number(), default=0.0, help="how far the edge stands above the scale, mm")
    outline.add_argument("--lens", type=take.number(0.0), default=0.0, help="height of the lens over the scale, mm")
    outline.add_argument(
        "--picking", type=take.number(0.0, 1000.0), default=1.5, help="px by which a mark is picked wrong"
    )
    outline.add_argument("--job", type=Path, help="put it into this job")
    outline.add_argument("--out", type=Path, help="and save that here instead")
    outline.add_argument("--json", action="store_true")
    edit = add("edit", "carry out commands on a job, one JSON object a line, and save it (see gatepost commands)")
    edit.add_argument("job", help="a job, or - for a new one")
    edit.add_argument("commands_file", metavar="COMMANDS.jsonl", type=Path)
    edit.add_argument("--out", type=Path, required=True, help="may be the job itself")
    listing = add("commands", "every command that a job is changed by, with its values")
    listing.add_argument("--json", action="store_true")
    clearance = add("clearance", "how near a program comes to what stands on the bed (1 where something would be hit)")
    clearance.add_argument("program", type=Path)
    clearance.add_argument(
        "--holds", type=Path, required=True, help="JSON: [{name, outline, z0, z1}], work coordinates"
    )
    clearance.add_argument(
        "--tool", type=Path, required=True,
        help="JSON: {diameter, cutting_length, shank, stickout, nut_diameter, nut_height}",
    )  # fmt: skip
    clearance.add_argument("--json", action="store_true")
    simulate = add("simulate", "sweep programs over a job's wood")
    simulate.add_argument("programs", nargs="+", type=Path)
    simulate.add_argument("--job", type=Path, required=True)
    simulate.add_argument("--setup")
    simulate.add_argument("--tool", type=take.whole(1, 10_000))
    simulate.add_argument("--cell", type=take.number(0.01, 50.0), help="mm; else the finest that suits the board")
    simulate.add_argument("--heights", type=Path)
    simulate.add_argument("--picture", type=Path)
    simulate.add_argument("--json", action="store_true")
    machine = add("machine", "start a simulated machine; prints “listening HOST:PORT”")
    machine.add_argument("--wood", type=Path)
    machine.add_argument(
        "--listen", default="127.0.0.1:0", type=take.listen, help="HOST:PORT, or pty for a pseudo-terminal"
    )
    machine.add_argument("--speed", default="1", type=take.speed, help="times faster, or max")
    machine.add_argument("--fault", nargs="*", default=[])
    _shop(machine)
    run = add("run", "run a job on a machine (0 done, 1 refused, 2 unusable, 3 ended early)")
    run.add_argument("job", type=Path)
    run.add_argument("--machine", type=take.address, help="HOST:PORT, or the path of a terminal")
    run.add_argument("--speed", default="max", type=take.speed, help="times faster, or max")
    run.add_argument("--yes", action="store_true", help="answer open questions, on a simulated machine only")
    run.add_argument("--json", action="store_true")
    _shop(run)
    resume = add("resume", "go on with a run that ended early (exit codes as run)")
    resume.add_argument("job", type=Path)
    resume.add_argument(
        "--run", type=take.whole(1, 10**9), help="its number in the log; else the newest that can be resumed"
    )
    resume.add_argument(
        "--machine", type=take.address, help="HOST:PORT; else a simulated machine with the wood as it was left"
    )
    resume.add_argument("--speed", default="max", type=take.speed, help="times faster, or max")
    resume.add_argument(
        "--yes", action="store_true", help="say that the witness mark agrees, on a simulated machine only"
    )
    resume.add_argument("--json", action="store_true")
    log = add("log", "the logbook")
    log.add_argument("what", nargs="?", default="list", choices=("list", "show", "export"))
    log.add_argument("number", nargs="?", type=take.whole(1, 10**9))
    log.add_argument("--json", action="store_true")
    return top


def main(arguments: list[str] | None = None) -> int:
    """Run a command; gives the exit code."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    table: dict[str, Callable[[argparse.Namespace], int]] = {
        "open": _open, "demo": _demo, "plan": _plan, "check": _check, "level": _level, "outline": _outline, "ledger": _ledger, "clearance": _clearance, "edit": _edit, "commands": _commands, "simulate": _simulate, "machine": _machine, "run": _run, "resume": _resume, "log": _log,
    }  # fmt: skip
    at = 2 if words[:1] == ["--data"] else 0
    if len(words) <= at or (words[at] not in table and not words[at].startswith("-")):
        words.insert(at, "open")  # a job alone opens the window
    words = [f" {word}" if MINUS_PLACE.fullmatch(word) else word for word in words]  # a place, not an option
    asked = parser().parse_args(words)
    if asked.data:
        os.environ["GATEPOST_DATA"] = asked.data
    try:
        return table[asked.command or "open"](asked)
    except UnusableFile as error:
        say(str(error))
        return 2
    except OperatorError as error:
        say(str(error))
        return 1 if asked.command in ("run", "resume") else 2
    except KeyboardInterrupt:
        say("Ended by the keyboard.")
        return 130
    except BrokenPipeError:  # whoever read the results has gone
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 2
    except Exception as error:
        from gatepost.trouble import told

        say(told(error))
        return 2


def show(value: Any) -> None:
    """One JSON document on stdout."""
    print(json.dumps(value, ensure_ascii=False, indent=1))


def _open(asked: argparse.Namespace) -> int:
    if asked.job is not None and not asked.job.is_file():
        known = asked.job.suffix == ".gatepost" or len(asked.job.parts) > 1 or asked.job.exists()
        raise UnusableFile(
            f"There is no job {asked.job}." if known and not asked.job.exists()
            else f"{asked.job} is not a file." if known
            else f"There is no command and no job “{asked.job}”. gatepost --help lists the commands."
        )  # fmt: skip
    from gatepost.desk.shell.app import open_window

    return open_window(asked.job, asked.theme)


def _plan(asked: argparse.Namespace) -> int:
    from gatepost.core.job.file import load
    from gatepost.core.plan.pipeline import plan
    from gatepost.outputs import write_all

    document = load(asked.job)
    reckoned = plan(document.job, document.journal)
    values = write_all(reckoned, asked.out, pictures=not asked.no_pictures)
    if asked.json:
        show(values)
    else:
        for name in values["files"]:
            print(asked.out / name)
    for finding in values["findings"]:
        if finding["level"] == "stop":
            say(f"stop: {finding['message']}")
    return 1 if reckoned.stops else 0


def _check(asked: argparse.Namespace) -> int:
    from gatepost import checks

    return checks.check(asked.file, asked.job, asked.json, say, show)


def _level(asked: argparse.Namespace) -> int:
    from gatepost.levelling import level

    return level(
        asked.top,
        asked.under,
        asked.supports,
        asked.allowance,
        asked.shims_at_hand,
        asked.json,
        show,
        asked.wished,
        asked.hollow,
    )


def _outline(asked: argparse.Namespace) -> int:
    from gatepost.outlining import outline

    more = {name: getattr(asked, name) for name in ("across", "up", "above", "lens", "picking")}
    return outline(asked.file, asked.marks, more, asked.job, asked.out, asked.json, say, show)


def _ledger(asked: argparse.Namespace) -> int:
    from gatepost.levelling import ledger

    entries = [
        *([("ledger touched", asked.touch, asked.gauge)] if asked.touch else []),
        *([("ledger zero", asked.zero, 0.0)] if asked.zero is not None else []),
        *([("ledger pass", asked.depth, 0.0)] if asked.depth is not None else []),
    ]
    return ledger(asked.job, entries, asked.questioned, asked.left, asked.json, say, show)


def _edit(asked: argparse.Namespace) -> int:
    from gatepost.editing import edit

    return edit(asked.job, asked.commands_file, asked.out, say)


def _commands(asked: argparse.Namespace) -> int:
    from gatepost.editing import listed

    return listed(asked.json, show)


def _clearance(asked: argparse.Namespace) -> int:
    from gatepost.clearing import clear

    return clear(asked.program, asked.holds, asked.tool, asked.json, say, show)


def _simulate(asked: argparse.Namespace) -> int:
    from gatepost import checks

    values = checks.simulate(
        asked.programs, asked.job, asked.setup, asked.tool, asked.cell, asked.heights, asked.picture
    )
    if asked.json:
        show(values)
    else:
        for name in ("heights", "frame", "picture"):
            if values.get(name):
                print(values[name])
    for words in values["said"]:
        say(words)
    return 0


def _shop(parser: argparse.ArgumentParser) -> None:
    """Which shop a simulated machine stands in."""
    which = parser.add_mutually_exclusive_group()
    which.add_argument("--seed", type=take.whole(0, 10**9), help=SHOP)
    which.add_argument("--exact", action="store_true", help=EXACT)


def _seed(asked: argparse.Namespace) -> int | None:
    """Of that shop; nothing where all is exact."""
    from gatepost.machine.seeds import new_seed

    if asked.exact:
        return None
    return asked.seed if asked.seed is not None else new_seed()


def _machine(asked: argparse.Namespace) -> int:
    import shutil

    from gatepost.machine import launch
    from gatepost.machine.standins import server

    words = ["--listen", asked.listen, "--speed", asked.speed]
    seed = _seed(asked)
    words += ["--seed", str(seed)] if seed is not None else []
    unknown = [f for f in asked.fault if f not in server.FAULTS]
    if unknown:
        raise OperatorError(f"There is no fault “{unknown[0]}”; known are {', '.join(server.FAULTS)}.")
    folder = launch.own_folder()
    try:
        if asked.wood is not None and asked.wood.suffix == ".npy":
            words += ["--wood", str(asked.wood)]
        elif asked.wood is not None:
            from gatepost.core.job.file import load
            from gatepost.core.plan.pipeline import plan

            launch.prepare(plan(load(asked.wood).job), folder)
            words += ["--wood", str(folder / "wood.npy"), "--profile", str(folder / "profile.json")]
        words += ["--keep", str(folder)]
        return server.main(words + (["--fault", *asked.fault] if asked.fault else []))
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _run(asked: argparse.Namespace) -> int:
    from gatepost import running

    if asked.machine is None:
        seed = _seed(asked)
    elif asked.exact or asked.seed is not None:
        raise OperatorError(
            "A seed is of a shop that is simulated here. Leave out --machine, or give it to that machine."
        )
    else:
        seed = None
    return running.run_job(asked.job, asked.machine, asked.speed, asked.yes, asked.json, say, show, seed=seed)


def _resume(asked: argparse.Namespace) -> int:
    from gatepost import running

    return running.resume_job(asked.job, asked.run, asked.machine, asked.speed, asked.yes, asked.json, say, show)


def _demo(asked: argparse.Namespace) -> int:
    from gatepost import running

    display = os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")
    if display and not asked.headless:
        from gatepost.desk.shell.app import open_window

        return open_window(running.demo_copy(), None)
    return running.headless_demo(asked.out, say, _seed(asked))


def _log(asked: argparse.Namespace) -> int:
    from dataclasses import asdict

    from gatepost.logbook.notebook import notebook
    from gatepost.logbook.places import data_folder, logbook_url
    from gatepost.logbook.store import Logbook
    from gatepost.machine.conduct import now

    book = Logbook(logbook_url(data_folder()), notebook(data_folder()))
    try:
        book.close_leftovers(now())
        if asked.what == "show":
            if asked.number is None:
                raise OperatorError("Say which run: gatepost log show 3.")
            run = book.run(asked.number)
            if asked.json:
                show(asdict(run))
            else:
                for name, value in asdict(run).items():
                    print(f"{name.replace('_', ' ')}: {value}")
            return 0
        rows = [asdict(r) for r in book.runs()]
        if asked.json or asked.what == "export":
            show(rows)
        else:
            for r in rows:
                real = "" if r["real_minutes"] is None else f"{r['real_minutes']:.1f}"
                print(
                    f"{r['id']}\t{r['started']}\t{r['state']}\t{r['kind']}\t{r['job']}\t{r['program']}\t{r['planned_minutes']:.1f}\t{real}"
                )
        return 0
    finally:
        book.close()


if __name__ == "__main__":
    sys.exit(main())
