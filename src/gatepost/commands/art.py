# SPDX-License-Identifier: GPL-3.0-or-later
"""The import check of a drawing alone: its size, and what is wrong with its lines."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost.commands.telling import say, show

WORDS = "look a drawing over (SVG or DXF) before it is carved: size, open and crossing lines, what is not taken"
EXAMPLE = "gatepost art water-lily.svg"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument(
        "--unit", choices=("px", "mm", "cm", "in", "m"), help="of its figures, where the file does not say"
    )
    parser.add_argument("--layer", action="append", help="of a DXF, one that is taken; again for another")
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code: 1 where lines are open or cross."""
    from gatepost.artwork import check

    return check(asked.file, asked.unit or "", asked.json, say, show, asked.layer)
