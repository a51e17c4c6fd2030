# SPDX-License-Identifier: GPL-3.0-or-later
"""How a board is best laid for surfacing, from heights of its faces: as it lies, and shimmed."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost import arguments as take
from gatepost.commands.telling import show

WORDS = "how a board is best laid for surfacing, from heights of its faces: as it lies, and shimmed"
EXAMPLE = "gatepost level top.csv --under under.csv --supports 40,40 860,40 450,280 --json"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("top", type=Path, help="CSV with columns x, y, z: mm above the bed")
    parser.add_argument("--under", type=Path, help="the same of the underside; else it lies flat on the bed")
    parser.add_argument("--supports", nargs="+", default=[], metavar="X,Y", help="where shims go")
    parser.add_argument(
        "--allowance", type=take.number(0.0, 1000.0), default=0.0, help="clean-up taken off each face that is cut, mm"
    )
    parser.add_argument(
        "--shims-at-hand", nargs="+", type=take.number(1e-3, 1000.0), default=[], metavar="MM", help="round to these"
    )
    parser.add_argument(
        "--wished",
        type=take.number(0.01, 10_000.0),
        help="the thickness you want: says where hollows would stay to be sanded out",
    )
    parser.add_argument(
        "--hollow", type=take.number(0.0, 100.0), default=0.3, help="how deep a hollow sanding takes, mm"
    )
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
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
