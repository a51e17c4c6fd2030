# SPDX-License-Identifier: GPL-3.0-or-later
"""Check a job or a program (0 sound, 1 a stop, 2 unusable)."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost.commands.telling import say, show

WORDS = "check a job or a program (0 sound, 1 a stop, 2 unusable)"
EXAMPLE = "gatepost check lock-7-name-board.gatepost --json"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--job", type=Path)
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    from gatepost import checks

    return checks.check(asked.file, asked.job, asked.json, say, show)
