# SPDX-License-Identifier: GPL-3.0-or-later
"""Go on with a run that ended early (exit codes as run)."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost import arguments as take
from gatepost.commands.telling import say, show

WORDS = "resume a run that ended early (exit codes as run)"
EXAMPLE = "gatepost resume lock-7-name-board.gatepost --yes"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("job", type=Path)
    parser.add_argument(
        "--run", type=take.whole(1, 10**9), help="its number in the log; else the newest that can be resumed"
    )
    parser.add_argument(
        "--machine", type=take.address, help="HOST:PORT; else a simulated machine with the wood as it was left"
    )
    parser.add_argument("--speed", default="max", type=take.speed, help="times faster, or max")
    parser.add_argument(
        "--yes", action="store_true", help="say that the witness mark agrees, on a simulated machine only"
    )
    parser.add_argument(
        "--at",
        type=take.place,
        metavar="X,Y",
        help="a place on the bed, mm: taken up at or before where the cut went over it last",
    )
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    from gatepost import running

    return running.resume_job(
        asked.job, asked.run, asked.machine, asked.speed, asked.yes, asked.json, say, show, asked.at
    )
