# SPDX-License-Identifier: GPL-3.0-or-later
"""Which shop a simulated machine stands in."""

from __future__ import annotations

import argparse

from gatepost import arguments as take

SHOP = "of a shop whose bits, boards and touches are a little otherwise than planned; else another each time"
EXACT = "all is exactly as planned, as in no shop"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Which shop a simulated machine stands in."""
    which = parser.add_mutually_exclusive_group()
    which.add_argument("--seed", type=take.whole(0, 10**9), help=SHOP)
    which.add_argument("--exact", action="store_true", help=EXACT)


def seed_of(asked: argparse.Namespace) -> int | None:
    """Of that shop; nothing where all is exact."""
    from gatepost.machine.seeds import new_seed

    if asked.exact:
        return None
    return asked.seed if asked.seed is not None else new_seed()
