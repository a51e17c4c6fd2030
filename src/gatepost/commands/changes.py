# SPDX-License-Identifier: GPL-3.0-or-later
"""``gatepost changes``."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost.commands.telling import show

WORDS = "what changed from one version of a job to another, item by item"
EXAMPLE = "gatepost changes name-board-monday.gatepost name-board.gatepost"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its own options."""
    parser.add_argument("old", type=Path)
    parser.add_argument("new", type=Path)
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code: 1 where something changed."""
    from gatepost.core.job.file import load
    from gatepost.core.plan.changes import changes
    from gatepost.core.units import spell

    told = [spell(words, "mm") for words in changes(load(asked.old).job, load(asked.new).job)]
    if asked.json:
        show(told)
    else:
        print("\n".join(told) if told else "Nothing changed.")
    return 1 if told else 0
