# SPDX-License-Identifier: GPL-3.0-or-later
"""Open the window."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost.core.errors import UnusableFile

WORDS = "open the window"
EXAMPLE = "gatepost"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("job", nargs="?", type=Path)
    parser.add_argument("--theme", choices=("light", "dark"))


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    if asked.job is not None and not asked.job.is_file():
        known = asked.job.suffix == ".gatepost" or len(asked.job.parts) > 1 or asked.job.exists()
        raise UnusableFile(
            f"There is no job {asked.job}." if known and not asked.job.exists()
            else f"{asked.job} is not a file." if known
            else f"There is no command and no job “{asked.job}”. gatepost --help lists the commands."
        )  # fmt: skip
    from gatepost.desk.app import open_window

    return open_window(asked.job, asked.theme)
