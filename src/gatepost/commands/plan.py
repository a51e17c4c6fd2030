# SPDX-License-Identifier: GPL-3.0-or-later
"""Write programs, run sheet, pictures and plan.json (exit 1 while a stop stands)."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost.commands.telling import say, show

WORDS = "write programs, run sheet, pictures and plan.json (exit 1 while a stop stands)"
EXAMPLE = "gatepost plan lock-7-name-board.gatepost --out plan"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("job", type=Path)
    parser.add_argument("--out", type=Path, required=True)
    parser.add_argument("--json", action="store_true")
    parser.add_argument("--no-pictures", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    from gatepost.core.job.file import load
    from gatepost.outputs import superseded, superseded_words, write_all
    from gatepost.planning import plan

    document = load(asked.job)
    the_plan = plan(document.job, document.journal)
    values = write_all(the_plan, asked.out, pictures=not asked.no_pictures)
    if asked.json:
        show(values)
    else:
        for name in values["files"]:
            print(asked.out / name)
    told = superseded_words(superseded(the_plan, asked.out, values["files"])).strip()
    if told:
        say(told)
    for finding in values["findings"]:
        if finding["level"] == "stop":
            say(f"stop: {finding['message']}")
    return 1 if the_plan.stops else 0
