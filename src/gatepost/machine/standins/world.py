# SPDX-License-Identifier: GPL-3.0-or-later
"""What a shop has otherwise than planned: drawn from a seed, and told to nobody."""

from __future__ import annotations

import random

OFF = {  # mm either way, each as likely
    "stickout": 0.5,  # of a bit, gripped by hand
    "place": 1.5,  # of a board, laid to a mark
    "contact": 0.01,  # of a touch
}


class World:
    """seed: the same gives the same shop; without one everything is exactly as planned."""

    def __init__(self, seed: int | None = None) -> None:
        self.seed = seed
        self._chance = random.Random(seed)

    def off(self, what: str) -> float:
        """By how much something is otherwise this time, mm."""
        return self._chance.uniform(-OFF[what], OFF[what]) if self.seed is not None else 0.0
