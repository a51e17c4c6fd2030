# SPDX-License-Identifier: GPL-3.0-or-later
"""Open the demo job; with no display, run it all headless."""

from __future__ import annotations

import argparse
import os
from pathlib import Path

from gatepost.commands import shop
from gatepost.commands.telling import say

WORDS = "open the demo job; with no display, run it all headless"
EXAMPLE = "gatepost demo --out demo-results"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("--out", type=Path, default=Path("demo-results"))
    parser.add_argument("--headless", action="store_true")
    parser.add_argument("--year", action="store_true", help="with a made-up year's log, in a shop of its own")
    shop.arguments(parser)


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    from gatepost import running

    if asked.year:
        running.fennick_wharf()
    display = os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")
    if display and not asked.headless:
        from gatepost.desk.app import open_window

        return open_window(running.demo_copy(), None)
    return running.headless_demo(asked.out, say, shop.seed_of(asked))
