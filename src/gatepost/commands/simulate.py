# SPDX-License-Identifier: GPL-3.0-or-later
"""Sweep programs over a job's wood."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost import arguments as take
from gatepost.commands.telling import say, show

WORDS = "sweep programs over a job's wood"
EXAMPLE = "gatepost simulate plan/front-1-T4.nc --job lock-7-name-board.gatepost --heights wood.npy --picture wood.png"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("programs", nargs="+", type=Path)
    parser.add_argument("--job", type=Path, required=True)
    parser.add_argument("--setup")
    parser.add_argument("--tool", type=take.whole(1, 10_000))
    parser.add_argument("--cell", type=take.number(0.01, 50.0), help="mm; else the finest that suits the board")
    parser.add_argument("--heights", type=Path)
    parser.add_argument("--picture", type=Path)
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
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
