# SPDX-License-Identifier: GPL-3.0-or-later
"""Where a piece lies, from marks of its drawing that were measured on it."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost import arguments as take
from gatepost.commands.telling import say, show
from gatepost.core.register.fit import GOOD_TO

WORDS = "where a piece lies, from marks of its drawing that were measured on it: turn, shift, and what does not fit"
EXAMPLE = "gatepost fit marks.csv --turned X --json"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument(
        "marks",
        type=Path,
        help="CSV with columns name, drawn_x, drawn_y, measured_x, measured_y and, of edges, normal: outward on the drawing, degrees from +X",
    )
    parser.add_argument(
        "--turned", choices=("X", "Y"), default="", help="the axis that the piece was turned over about"
    )
    parser.add_argument(
        "--good-to", type=take.number(1e-4, 100.0), default=GOOD_TO, metavar="MM", help="the largest residual that fits"
    )
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code: 0 where it fits, 2 where nothing can be fitted, else 1."""
    from gatepost.fitting import fit

    return fit(asked.marks, asked.turned, asked.good_to, asked.json, say, show)
