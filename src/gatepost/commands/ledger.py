# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the face stands by the Z ledger, and the next move; entries go into the job's journal."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost import arguments as take
from gatepost.commands.telling import say, show

WORDS = "where the face stands by the Z ledger, and the next move; entries go into the job's journal"
EXAMPLE = "gatepost ledger lock-7-name-board.gatepost --touch face=-62.0 --zero=-62.0 --pass 1.0"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("job", type=Path)
    parser.add_argument("--touch", metavar="ON=Z", help="touched: face, low (spot) or bed, at a machine Z")
    parser.add_argument("--gauge", type=take.number(0.0, 1000.0), default=0.0, help="what lay between, mm")
    parser.add_argument("--zero", type=take.number(), metavar="Z", help="Z0 was set at this machine Z")
    parser.add_argument(
        "--pass", dest="depth", type=take.number(), metavar="DEPTH", help="a pass was cut this deep below Z0"
    )
    parser.add_argument("--questioned", action="store_true", help="write down what is asked about all the same")
    parser.add_argument("--left", type=Path, metavar="FILE", help="write a program only for what is left")
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    from gatepost.levelling import ledger

    entries = [
        *([("ledger touched", asked.touch, asked.gauge)] if asked.touch else []),
        *([("ledger zero", asked.zero, 0.0)] if asked.zero is not None else []),
        *([("ledger pass", asked.depth, 0.0)] if asked.depth is not None else []),
    ]
    return ledger(asked.job, entries, asked.questioned, asked.left, asked.json, say, show)
