# SPDX-License-Identifier: GPL-3.0-or-later
"""A stepped nest for a plate: its rim and the hole in the frame, and whether the turned piece goes in, and no other way does."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost import arguments as take
from gatepost.commands.telling import say

WORDS = "a stepped nest for a plate: the rim and the hole that let it in turned over, and tried every way round"
EXAMPLE = "gatepost stepnest plate.svg --flip X --tool 6 --slot 6.2 --clearance 0.1 --key --out nest"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("outline", type=Path, help="SVG with the plate's outline")
    parser.add_argument(
        "--flip", choices=("X", "Y"), required=True, help="the axis that the piece is turned over about"
    )
    parser.add_argument(
        "--tool", type=take.number(0.1, 60.0), required=True, metavar="MM", help="the cutter's diameter"
    )
    parser.add_argument(
        "--slot",
        type=take.number(0.1, 100.0),
        required=True,
        metavar="MM",
        help="the slot that it leaves, measured in a test slot in this wood with the same passes",
    )
    parser.add_argument(
        "--clearance",
        type=take.number(1e-3, 20.0),
        default=0.1,
        metavar="MM",
        help="wanted on each side, 0.1 if not said",
    )
    parser.add_argument("--key", action="store_true", help="with a bump at one end that bars all other ways")
    parser.add_argument("--out", type=Path, required=True, help="folder for piece.svg, hole.svg and proof.json")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code: 0 where the asked way alone goes in beside the way it was cut, else 1."""
    from gatepost.nesting import step_nest

    return step_nest(asked.outline, asked.flip, asked.tool, asked.slot, asked.clearance, asked.key, asked.out, say)
