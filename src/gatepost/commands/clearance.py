# SPDX-License-Identifier: GPL-3.0-or-later
"""How near a program comes to what stands on the bed (1 where something would be hit)."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost.commands.telling import say, show

WORDS = "how near a program comes to what stands on the bed (1 where something would be hit)"
EXAMPLE = "gatepost clearance plan/front-1-T4.nc --holds holds.json --tool tool.json --json"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("program", type=Path)
    parser.add_argument("--holds", type=Path, required=True, help="JSON: [{name, outline, z0, z1}], work coordinates")
    parser.add_argument(
        "--tool", type=Path, required=True,
        help="JSON: {diameter, cutting_length, shank, stickout, nut_diameter, nut_height}",
    )  # fmt: skip
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    from gatepost.clearing import clear

    return clear(asked.program, asked.holds, asked.tool, asked.json, say, show)
