# SPDX-License-Identifier: GPL-3.0-or-later
"""The logbook."""

from __future__ import annotations

import argparse

from gatepost import arguments as take
from gatepost.commands.telling import show
from gatepost.core.errors import OperatorError

WORDS = "the logbook"
EXAMPLE = "gatepost log show 3 --json"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("what", nargs="?", default="list", choices=("list", "show", "export", "check"))
    parser.add_argument("number", nargs="?", type=take.whole(1, 10**9))
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    from dataclasses import asdict

    from gatepost.logbook.notebook import notebook
    from gatepost.logbook.places import data_folder, logbook_url
    from gatepost.logbook.store import Logbook
    from gatepost.machine.standing_checks import now

    book = Logbook(logbook_url(data_folder()), notebook(data_folder()))
    try:
        if asked.what == "check":
            for line in book.told():
                print(line)
            return 0
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
