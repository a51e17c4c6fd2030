# SPDX-License-Identifier: GPL-3.0-or-later
"""The Z ledger from the side: the face, its low spot, Z0 and the next pass, each with its height and machine figure."""

from __future__ import annotations

import numpy as np

from gatepost.core.plan.ledgers import Book
from gatepost.core.units import show_length
from gatepost.drawing.shapes import Drawing, Shape, line, text

WIDE = 100.0


def ledger_picture(book: Book, next_plane: float | None, unit: str) -> Drawing:
    """Heights above the bed, stretched about the face. next_plane: of the next pass, where there is one."""
    now = book.ledger
    low = min(now.low, next_plane if next_plane is not None else now.low)
    spread = max(now.plane - low, 0.5)
    floor, top = low - 1.2 * spread, now.plane + 1.6 * spread
    x = np.linspace(8.0, 56.0, 61)
    face = now.plane - (now.plane - now.low) * np.exp(-(((x - 32.0) / 9.0) ** 2))
    ring = np.vstack([np.column_stack([x, face]), [[56.0, floor], [8.0, floor]]])
    shapes = [Shape("area", np.vstack([ring, ring[:1]]), "wood")]

    def level(z: float, words: str, role: str, off: float = 0.0) -> None:
        figure = show_length(z, unit)
        machine = f", machine {show_length(now.machine(z), unit)}" if now.offset is not None else ""
        shapes.append(line(np.array([[4.0, z], [60.0, z]]), role))
        shapes.append(text(62.0, z + off * spread, f"{words} {figure}{machine}", "pass-text", "left"))

    level(now.plane, "face", "pass", 0.0)
    if now.left > 0.005:
        level(now.low, "low spot", "line-across", -0.06)
    if next_plane is not None:
        level(next_plane, "next pass", "finished", -0.30 if abs(next_plane - now.low) < 0.25 * spread else 0.0)
    if now.zero is not None and now.offset is not None:
        z0 = now.height(now.zero)
        if floor < z0 < top and abs(z0 - now.plane) > 0.02:
            level(z0, "Z0", "zero", 0.12)
    return Drawing(
        tuple(shapes), (0.0, floor, WIDE, top), "Heights", "above the bed, not to scale", tall=0.0, rulers=False
    )
