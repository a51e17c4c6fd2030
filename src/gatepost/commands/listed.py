# SPDX-License-Identifier: GPL-3.0-or-later
"""Every command that a job is changed by, with its values."""

from __future__ import annotations

import argparse

from gatepost.commands.telling import show

WORDS = "every command that a job is changed by, with its values"
EXAMPLE = "gatepost commands --json"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    from gatepost.editing import listed

    return listed(asked.json, show)
