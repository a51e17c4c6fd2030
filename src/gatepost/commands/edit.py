# SPDX-License-Identifier: GPL-3.0-or-later
"""Carry out commands on a job, one JSON object a line, and save it (see gatepost commands)."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost.commands.telling import say

WORDS = "carry out commands on a job, one JSON object a line, and save it (see gatepost commands)"
EXAMPLE = "gatepost edit - --out sign.gatepost sign.jsonl"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("job", help="a job, or - for a new one")
    parser.add_argument("commands_file", metavar="COMMANDS.jsonl", type=Path)
    parser.add_argument("--out", type=Path, required=True, help="may be the job itself")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    from gatepost.editing import edit

    return edit(asked.job, asked.commands_file, asked.out, say)
