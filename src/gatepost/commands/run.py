# SPDX-License-Identifier: GPL-3.0-or-later
"""Run a job on a machine (0 done, 1 refused, 2 unusable, 3 ended early)."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost import arguments as take
from gatepost.commands import shop
from gatepost.commands.telling import say, show
from gatepost.core.errors import OperatorError

WORDS = "run a job on a machine (0 done, 1 refused, 2 unusable, 3 ended early)"
EXAMPLE = "gatepost run lock-7-name-board.gatepost --speed max"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("job", type=Path)
    parser.add_argument("--machine", type=take.address, help="HOST:PORT, or the path of a terminal")
    parser.add_argument("--speed", default="max", type=take.speed, help="times faster, or max")
    parser.add_argument("--yes", action="store_true", help="answer open questions, on a simulated machine only")
    parser.add_argument("--json", action="store_true")
    shop.arguments(parser)


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    from gatepost import running

    if asked.machine is None:
        seed = shop.seed_of(asked)
    elif asked.exact or asked.seed is not None:
        raise OperatorError(
            "A seed is of a shop that is simulated here. Leave out --machine, or give it to that machine."
        )
    else:
        seed = None
    return running.run_job(asked.job, asked.machine, asked.speed, asked.yes, asked.json, say, show, seed=seed)
