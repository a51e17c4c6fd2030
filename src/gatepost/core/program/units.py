# SPDX-License-Identifier: GPL-3.0-or-later
"""Whether a program's units look wrong: by its size, its feeds, and the board it is for. Shop rules, so a care at most."""

from __future__ import annotations

from gatepost.core.program.plain import Program

HUGE, TINY = 3000.0, 25.0  # mm across: more than a router's bed, less than work worth a router
FAST = 15_000.0  # mm/min: no router cuts wood at it


def doubts(program: Program, board: tuple[float, float] | None = None) -> list[str]:
    """What looks wrong with a program's units, in sentences. board: length and width of the wood, mm."""
    if not len(program.moves):
        return []
    x0, y0, x1, y1 = program.moves.cutting_extents()
    across = max(x1 - x0, y1 - y0)
    feeds = program.moves.feed[~program.moves.rapid]
    said: list[str] = []
    if not program.units_said:
        said.append("it says neither G20 nor G21: it was read in mm")
    other = "mm" if program.units == "inch" else "inches"
    size = f"in {'inches' if program.units == 'inch' else 'mm'} it cuts {across / 1000.0:.1f} m across"
    if across > HUGE:
        said.append(f"{size}: are its numbers {other}?" if program.units == "inch" else f"{size}: is that meant?")
    elif program.units == "inch" and len(feeds) and feeds.max() > FAST:
        said.append(f"in inches it cuts at {feeds.max() / 1000.0:.0f} m/min: are its numbers mm?")
    elif program.units == "mm" and across > 0.0 and _fits_as_inches(across, board):
        said.append(
            f"in mm it cuts only {across:.1f} mm across"
            + (f" of a board {max(board):.0f} mm long" if board else "")
            + ": are its numbers inches?"
        )
    elif 0.0 < across < TINY / 2:
        said.append(f"it cuts only {across:.1f} mm across: are its units right?")
    return said


def _fits_as_inches(across: float, board: tuple[float, float] | None) -> bool:
    if board is None:
        return across < TINY
    return across < max(board) / 12.0 and across * 25.4 <= max(board)
