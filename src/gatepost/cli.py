# SPDX-License-Identifier: GPL-3.0-or-later
"""The command line: the same core, for scripts and checks. Messages go to stderr, results to stdout."""

from __future__ import annotations

import argparse
import os
import re
import sys
from types import ModuleType

from gatepost import arguments as take
from gatepost.commands import (
    art,
    changes,
    check,
    clearance,
    demo,
    edit,
    fit,
    ledger,
    level,
    listed,
    log,
    machine,
    open_window,
    outline,
    plan,
    resume,
    run,
    series,
    simulate,
    stepnest,
    template,
)
from gatepost.commands.telling import say
from gatepost.core.carve import face_folders
from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.logbook.places import data_folder

VERBS: dict[str, ModuleType] = {
    "open": open_window, "demo": demo, "plan": plan, "check": check, "level": level, "ledger": ledger, "outline": outline, "art": art, "edit": edit, "series": series, "changes": changes, "template": template, "fit": fit, "stepnest": stepnest,
    "commands": listed, "clearance": clearance, "simulate": simulate, "machine": machine, "run": run, "resume": resume, "log": log,
}  # fmt: skip
MINUS_PLACE = re.compile(r"-[\d.]+,-?[\d.]+")


def parser() -> argparse.ArgumentParser:
    """All commands and their options."""
    top = take.Parser(
        prog="gatepost", description="A bench companion for people who run a CNC wood router.",
        epilog="Without a command it opens the window, with JOB if one is named.",
    )  # fmt: skip
    top.add_argument("--data", help="folder for Gatepost's own data (or GATEPOST_DATA)")
    commands = top.add_subparsers(dest="command")
    for name, verb in VERBS.items():
        one = commands.add_parser(name, help=verb.WORDS, description=verb.WORDS, epilog=f"Example: {verb.EXAMPLE}")
        one.add_argument("--data", default=argparse.SUPPRESS, help=argparse.SUPPRESS)
        verb.arguments(one)
    return top


def main(arguments: list[str] | None = None) -> int:
    """Run a command; gives the exit code."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    at = 2 if words[:1] == ["--data"] else 0
    if len(words) <= at or (words[at] not in VERBS and not words[at].startswith("-")):
        words.insert(at, "open")  # a job alone opens the window
    words = [f" {word}" if MINUS_PLACE.fullmatch(word) else word for word in words]  # a place, not an option
    asked = parser().parse_args(words)
    if asked.data:
        os.environ["GATEPOST_DATA"] = asked.data
    face_folders.keep_in(lambda: data_folder() / "faces")
    try:
        return int(VERBS[asked.command or "open"].carry_out(asked))
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


if __name__ == "__main__":
    sys.exit(main())
