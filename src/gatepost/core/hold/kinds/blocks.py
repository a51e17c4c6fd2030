# SPDX-License-Identifier: GPL-3.0-or-later
"""What can be stacked of blocks at hand for a strap to stand on."""

from __future__ import annotations

MOST_STACKS = 4  # told for each strap


def packing_from(blocks: tuple[float, ...], low: float, high: float, most: int = 4) -> tuple[float, ...] | None:
    """The fewest blocks at hand, then the lowest, that stack to a height between two; nothing where none do.

    As many of each as one likes. low, high: mm.
    """
    stacks: list[tuple[float, ...]] = [()]
    for _ in range(most):
        stacks = [s + (b,) for s in stacks for b in sorted(blocks) if not s or b <= s[-1]]
        fitting = [s for s in stacks if low - 1e-6 <= sum(s) <= high + 1e-6]
        if fitting:
            return min(fitting, key=lambda s: (sum(s), s))
        stacks = [s for s in stacks if sum(s) < high]
    return None


def stacks(blocks: tuple[float, ...], low: float, high: float, most: int = 3) -> list[tuple[float, ...]]:
    """What can be stacked of blocks at hand to a height between two, the lowest first, no more than MOST_STACKS; as many of each as one
    likes. low, high: mm."""
    found: dict[float, tuple[float, ...]] = {}
    now: list[tuple[float, ...]] = [()]
    for _ in range(most):
        now = [s + (b,) for s in now for b in sorted(blocks) if (not s or b <= s[-1]) and sum(s) + b <= high + 1e-6]
        for s in now:
            if sum(s) >= low - 1e-6:
                found.setdefault(round(sum(s), 6), s)
    return [found[k] for k in sorted(found)][:MOST_STACKS]
