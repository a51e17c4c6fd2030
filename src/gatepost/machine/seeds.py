# SPDX-License-Identifier: GPL-3.0-or-later
"""Seeds of simulated shops."""

from __future__ import annotations

import random


def new_seed() -> int:
    """Of a shop that nobody has been in yet."""
    return random.SystemRandom().randrange(1, 1_000_000)
