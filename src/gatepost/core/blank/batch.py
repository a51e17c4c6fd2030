# SPDX-License-Identifier: GPL-3.0-or-later
"""A batch of pieces: trimmed to the smallest or in groups that share one Z, and whether each goes into the nest."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import permutations

from gatepost.core.findings import Figure, Finding, Fix, Level, Table
from gatepost.core.job.blank import Batch, Piece
from gatepost.core.tables import read_table
from gatepost.core.units import mm
from gatepost.core.working import Named, working

SLACK = 1e-9
MOST_ROWS = 60  # of pieces that are told one by one
COLUMNS = ("name", "length", "width", "thickness")


@dataclass(frozen=True)
class HeightGroup:
    """Pieces that share one Z. members: numbers in the batch's order; low, high: of their heights."""

    members: tuple[int, ...]
    low: float
    high: float

    @property
    def middle(self) -> float:
        """The height that is worst for none of them."""
        return 0.5 * (self.low + self.high)


@dataclass(frozen=True)
class PieceLying:
    """How a piece lies in the nest: length and width there and what stands up; play each way, less than nought where it
    does not go in."""

    length: float
    width: float
    height: float
    play: tuple[float, float]

    @property
    def fits(self) -> bool:
        """Whether it goes in."""
        return min(self.play) >= -SLACK


@dataclass(frozen=True)
class Batched:
    """What a batch comes to. trim: length, width, thickness when all are cut to the smallest; wood, saved: mm³ that this
    takes off, and that each group by itself takes; lying: of each piece, where there is a nest."""

    trim: tuple[float, float, float]
    wood: float
    groups: tuple[HeightGroup, ...]
    group_wood: float
    lying: tuple[PieceLying, ...]


def fewest_groups(heights: Sequence[float], tolerance: float) -> tuple[HeightGroup, ...]:
    """The fewest groups whose heights lie within a tolerance each, and of those the one with the least spread in all.

    Exact: heights in order, best[i] = the fewest groups, then the least sum of spreads, of the first i.
    """
    order = sorted(range(len(heights)), key=lambda i: heights[i])
    best: list[tuple[int, float, int]] = [(0, 0.0, 0)]
    for i in range(1, len(order) + 1):
        high = heights[order[i - 1]]
        choices = []
        for j in range(i - 1, -1, -1):
            spread = high - heights[order[j]]
            if spread > tolerance + SLACK:
                break
            choices.append((best[j][0] + 1, best[j][1] + spread, j))
        best.append(min(choices))
    groups: list[HeightGroup] = []
    end = len(order)
    while end:
        start = best[end][2]
        members = order[start:end]
        groups.append(HeightGroup(tuple(sorted(members)), heights[members[0]], heights[members[-1]]))
        end = start
    return tuple(reversed(groups))


def lying(piece: Piece, batch: Batch) -> PieceLying:
    """How a piece lies in the nest: as it is listed; where it may lie on any face, the way with the least play of those that the nest was
    made for. A way with more play than that is none: a piece stood on its end would hide that it is too long."""
    sizes = (piece.length, piece.width, piece.thickness)
    listed, *others = (
        PieceLying(a, b, c, (batch.nest_length - a, batch.nest_width - b))
        for a, b, c in (sizes, *sorted(set(permutations(sizes)) - {sizes}))
    )
    suited = [w for w in (listed, *others) if w.fits and max(w.play) <= batch.play + SLACK] if batch.any_face else []
    return min(suited, key=lambda w: (sum(w.play), w.length, w.width), default=listed)


def batched(batch: Batch) -> Batched | None:
    """What a batch comes to; nothing without pieces."""
    pieces = batch.pieces
    if not pieces:
        return None
    nested = bool(batch.nest_length and batch.nest_width)
    ways = tuple(lying(p, batch) for p in pieces) if nested else ()
    sizes = [(w.length, w.width, w.height) for w in ways] or [(p.length, p.width, p.thickness) for p in pieces]
    trim = tuple(min(s[k] for s in sizes) - batch.allowance for k in range(3))
    wood = sum(a * b * c - trim[0] * trim[1] * trim[2] for a, b, c in sizes)
    groups = fewest_groups([s[2] for s in sizes], batch.tolerance)
    group_wood = sum(sizes[i][0] * sizes[i][1] * (sizes[i][2] - g.low) for g in groups for i in g.members)
    return Batched((trim[0], trim[1], trim[2]), wood, groups, group_wood, ways)


def figures(batch: Batch, done: Batched) -> list[Figure]:
    """What each choice costs."""
    long, wide, tall = done.trim
    largest = tuple(max(s) + batch.play for s in zip(*((p.length, p.width) for p in batch.pieces)))
    most = max(p.length for p in batch.pieces)
    nest = working(
        "largest + clearance",
        Named("largest", most),
        Named("clearance", batch.play),
        assumption="length of the nest; its width likewise. A piece in it lies off by half the clearance either way, pushed to the middle",
    )
    return [
        Figure("Pieces", float(len(batch.pieces)), "count"),
        Figure("All trimmed to the smallest", f"{mm(long, 2)} × {mm(wide, 2)} × {mm(tall, 2)}", "words"),
        Figure("which takes", f"{done.wood / 1000.0:.1f} cm³", "words"),
        Figure("Height groups", float(len(done.groups)), "count"),
        Figure("A nest for all of them", f"{mm(largest[0], 2)} × {mm(largest[1], 2)}", "words", nest),
    ]


def _signed(value: float) -> str:
    return f"{'−' if value < 0 else '+'}{mm(abs(value), 2)}"


def table(batch: Batch, done: Batched) -> Table:
    """Which piece is in which group, what it is off the height that Z is touched at, what comes off it when all are trimmed, and its
    play in the nest."""
    sizes = [(w.length, w.width, w.height) for w in done.lying] or [
        (p.length, p.width, p.thickness) for p in batch.pieces
    ]
    group_of = {i: g for g in done.groups for i in g.members}
    trimmed = batch.way != "fewest groups"
    rows: list[tuple[str, ...]] = []
    for number, g in enumerate(done.groups, start=1):
        for i in g.members:
            off = " × ".join(mm(a - b, 2) for a, b in zip(sizes[i], done.trim))
            own = (off,) if trimmed else (str(number), mm(sizes[i][2], 2), _signed(sizes[i][2] - group_of[i].middle))
            play = (" / ".join(mm(p, 2) for p in done.lying[i].play),) if done.lying else ()
            rows.append((batch.pieces[i].name, *own, *play))
    if len(rows) > MOST_ROWS:
        rows = [*rows[:MOST_ROWS], (f"and {len(rows) - MOST_ROWS} more", *([""] * (len(rows[0]) - 1)))]
    heads = (
        "piece",
        *(("comes off, L × W × T",) if trimmed else ("group", "height", "deeper")),
        *(("play",) if done.lying else ()),
    )
    title = (
        "What comes off each piece"
        if trimmed
        else "Z is touched at the middle of each group: by so much each is cut deeper than asked"
    )
    return title, (heads, *rows)


def findings(batch: Batch, done: Batched) -> list[Finding]:
    """Which choice is taken and what it costs, and which piece does not go into the nest."""
    said: list[Finding] = []
    count = len(done.groups)
    if min(done.trim) <= 0.0:
        message = f"Trimmed by {mm(batch.allowance)} below the smallest, nothing is left of it."
        said.append(Finding("blank.batch-nothing-left", Level.STOP, "blank", message))
    if batch.way == "fewest groups":
        each = "; ".join(f"{len(g.members)} at {mm(g.low)} to {mm(g.high)}" for g in done.groups)
        message = (
            f"Z is touched {count} times, once a group: {each}. No wood is lost; heights in a group differ by "
            f"{mm(max(g.high - g.low for g in done.groups))} at most. Trimmed to the smallest, it would be touched once, "
            f"and {done.wood / 1000.0:.1f} cm³ would come off."
        )
    else:
        message = (
            f"All are trimmed to {mm(done.trim[2])}: {done.wood / 1000.0:.1f} cm³ come off, and Z is touched once. In groups "
            f"within {mm(batch.tolerance)} it would be touched {count} times, and nothing would come off."
        )
    said.append(Finding("blank.batch", Level.NOTE, "blank", message))
    out = [(p, w) for p, w in zip(batch.pieces, done.lying) if not w.fits]
    for piece, way in out:
        over = [(-play, name) for play, name in zip(way.play, ("long", "wide")) if play < -SLACK]
        words = " and ".join(f"{mm(by)} too {name}" for by, name in over)
        message = f"Piece {piece.name} does not go into the nest: it is {words}."
        said.append(Finding("blank.batch-nest", Level.CARE, "blank", message, about=piece.name))
    loose = [(max(w.play), p) for p, w in zip(batch.pieces, done.lying) if w.fits and max(w.play) > batch.play + SLACK]
    if loose:
        worst, piece = max(loose, key=lambda pair: pair[0])
        message = (
            f"{len(loose)} of {len(batch.pieces)} pieces {'has' if len(loose) == 1 else 'have'} more play in the nest than "
            f"{mm(batch.play)}: piece {piece.name} has {mm(worst)}. Push each against the same two sides."
        )
        said.append(Finding("blank.batch-play", Level.CARE, "blank", message))
    elif done.lying and not out:
        message = f"Every piece goes into the nest, with {mm(max(max(w.play) for w in done.lying))} of play at most."
        said.append(Finding("blank.batch-fits", Level.OK, "blank", message))
    if batch.way == "fewest groups" and count == len(batch.pieces) > 1:
        fix = Fix("set batch", {"way": "trim all to the smallest"}, "Trim all to the smallest")
        message = "No two pieces share a height within this tolerance: each would be touched off by itself."
        said.append(Finding("blank.batch-each", Level.CARE, "blank", message, fixes=(fix,)))
    return said


def read_pieces(text: str, name: str, bare: str = "mm") -> list[tuple[str, float, float, float]]:
    """Rows of name, length, width, thickness from a table; without a column of names they are numbered.

    Raises OperatorError with the line.
    """
    rows = read_table(text, name, COLUMNS, words=("name",), bare=bare)
    return [(str(r[0]) or str(i), float(r[1]), float(r[2]), float(r[3])) for i, r in enumerate(rows, start=1)]
