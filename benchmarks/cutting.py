# SPDX-License-Identifier: GPL-3.0-or-later
"""Rows of what tools and runs want: an order of forty cuts, arcs fitted, the wood live while it is cut."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from gatepost.core.motion import Moves
from gatepost.core.program.arcs import fitted
from gatepost.core.tools import order
from gatepost.core.wood.field import Cutter, rectangle
from gatepost.core.wood.live import LiveWood
from gatepost.drawing.shade import shaded_once

Row = Callable[..., None]
Median = Callable[..., float]


def forty() -> list[order.Task]:
    """Cuts of one setup by six tools, a third of which follow an earlier one."""
    rng = np.random.default_rng(4)
    out = []
    for i in range(40):
        after = (f"c{rng.integers(0, i)}",) if i and rng.random() < 0.33 else ()
        x, y, u, v = (float(p) for p in rng.uniform(0, 800, 4))
        out.append(order.Task(f"c{i}", 0, int(rng.integers(1, 7)), float(rng.uniform(0.5, 9)), after, (x, y), (u, v)))
    return out


def wandering(count: int) -> Moves:
    """So many short moves over a board, in soft bends."""
    rng = np.random.default_rng(5)
    heading = np.cumsum(rng.normal(0.0, 0.15, count))
    steps = 0.4 * np.column_stack([np.cos(heading), np.sin(heading)])
    points = np.vstack([[450.0, 150.0], steps]).cumsum(axis=0)
    low, high = np.array([5.0, 5.0]), np.array([895.0, 295.0])
    points = low + np.abs((points - low) % (2 * (high - low)) - (high - low))
    whole = np.column_stack([points, np.full(len(points), -2.0)])
    return Moves(whole, np.zeros(count, bool), np.full(count, 2000.0))


def rows(row: Row, median: Median) -> None:
    """Measured and told."""
    tasks = forty()

    def ordered() -> order.Order:
        order._best.cache_clear()
        return order.best_order(tasks, order.Prices(5.5, 8000.0))

    row("40 cuts of a setup ordered", median(ordered), None, "< 1")
    moves = wandering(250_000)
    row("arcs fitted to 250,000 moves", median(lambda: fitted(moves, 0.012, False)))
    field = rectangle(900, 300, 0.25, lambda x, y: 0.0 * x)
    live = LiveWood(field, moves, Cutter("flat", 6.0))
    at = 0

    def further() -> None:
        nonlocal at
        at = (at + 1200) % len(moves)  # what a machine does in a fifth of a second at sixty times its speed
        shaded_once(live.to(at))

    row("the wood live: 1,200 moves swept and shaded, in its own thread", median(further, 15), None, "< 0.2")
