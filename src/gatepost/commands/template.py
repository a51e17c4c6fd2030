# SPDX-License-Identifier: GPL-3.0-or-later
"""``gatepost template``."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost.commands.telling import say

WORDS = "what is carved, on paper at its true size: sheets to join and lay on the board, as a PDF"
EXAMPLE = "gatepost template tea-room-sign.gatepost --out tea-room.pdf --paper a4"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its own options."""
    parser.add_argument("job", type=Path)
    parser.add_argument("--out", type=Path, required=True)
    parser.add_argument(
        "--setup", default="", help="of which the face is drawn; the one that is carved where none is named"
    )
    parser.add_argument("--paper", choices=("a4", "a3", "letter"), default="a4")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    from gatepost.core.errors import OperatorError
    from gatepost.core.job.file import load
    from gatepost.desk.view.true_size import true_size
    from gatepost.planning import plan

    document = load(asked.job)
    made = plan(document.job, document.journal, coarse=True)
    setup = made.setup(asked.setup) if asked.setup else made.carving
    if setup is None:
        raise OperatorError(f"This job has no setup “{asked.setup}”: {', '.join(s.name for s in made.setups)}.")
    count = true_size(made, setup, asked.out, asked.paper)
    say(
        f"{count} sheet{'s' if count != 1 else ''} written to {asked.out}. Print them at 100 % and measure the line at the foot."
    )
    print(asked.out)
    return 0
