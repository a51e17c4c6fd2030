# SPDX-License-Identifier: GPL-3.0-or-later
"""The bed as it is looked at from the machine: the hold that is set is lit; what is cut is dark, what is not is dashed, and the stroke
under the bit is bright."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely

from gatepost.core.blank.shape import polygon
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.result import Plan
from gatepost.core.run.step import Step
from gatepost.drawing.bed import Shading, bed, field_after, shown_count
from gatepost.drawing.paths import letters_in
from gatepost.drawing.shapes import Array, Drawing, Shape, area, dot, line

MEANT = 12.0  # mm from a cut within which it is meant by a click
MANY = 20_000  # moves from which not each is drawn
STROKE = 60.0  # mm of the path behind the tip that are bright
ABOUT = 18.0  # mm about the board, while it is cut
OF_THE_BOARD = (
    "picture",
    "wood",
    "wood-edge",
    "tape",
    "tape-hatch",
    "art",
    "flaw",
    "grain",
    "block",
    "touch",
    "touch-text",
)  # not drawn while it is off the bed
PIN = 4.0  # mm that a pin is drawn about its middle, as it is looked for
SEEN = 12.0  # px, of the tip


@dataclass(frozen=True)
class LivePath:
    """A program's path on the bed. points: (n, 2) mm, of which a move goes to each; rapid: (n-1,) of each move; owner: (n-1,) which letter
    a move cuts, -1 for none; letters: their names and outlines on the bed, in the order in which they are cut."""

    program: ProgramFile
    points: Array
    rapid: np.ndarray
    owner: np.ndarray
    letters: tuple[tuple[str, shapely.Geometry], ...]

    def moves_done(self, line_number: int) -> int:
        """How many moves are done after a line of the program."""
        return int(np.searchsorted(self.program.lines, line_number, side="right"))

    @cached_property
    def _left(self) -> Array:
        """Of each move the box of all that is cut from it on, x0, y0, x1, y1; (n, 4)."""
        low = np.where(self.rapid[:, None], np.inf, np.minimum(self.points[1:], self.points[:-1]))
        high = np.where(self.rapid[:, None], -np.inf, np.maximum(self.points[1:], self.points[:-1]))
        later = [np.minimum.accumulate(low[::-1])[::-1], np.maximum.accumulate(high[::-1])[::-1]]
        return np.hstack(later)

    def left(self, done: int) -> tuple[float, float, float, float] | None:
        """The box of what is still to be cut; nothing where nothing is."""
        box = self._left[done] if done < len(self.rapid) else np.full(4, np.inf)
        return (float(box[0]), float(box[1]), float(box[2]), float(box[3])) if np.isfinite(box).all() else None

    def letter_at(self, moves: int) -> tuple[str, str]:
        """The letter that is being cut, and the next one; empty where there is none."""
        ahead = self.owner[min(moves, len(self.owner)) :]
        ahead = ahead[ahead >= 0]
        if not len(ahead):
            return "", ""
        later = ahead[ahead != ahead[0]]
        return self.letters[int(ahead[0])][0], self.letters[int(later[0])][0] if len(later) else ""

    def nearest_cut(self, done: int, x: float, y: float) -> tuple[float, float] | None:
        """The place nearest to another one that was cut, of so many moves; nothing where none is so near as to be meant."""
        cuts = np.flatnonzero(~self.rapid[:done])
        if not len(cuts):
            return None
        a, way = self.points[cuts], self.points[cuts + 1] - self.points[cuts]
        long = np.maximum((way**2).sum(1), 1e-12)
        at = a + np.clip(((np.array([x, y]) - a) * way).sum(1) / long, 0.0, 1.0)[:, None] * way
        off = np.hypot(*(at - (x, y)).T)
        k = int(np.argmin(off))
        return (float(at[k, 0]), float(at[k, 1])) if off[k] <= MEANT else None

    def share(self, moves: int) -> float:
        """How much of its letters, or else of its cuts, is done."""
        own = self.owner >= 0 if (self.owner >= 0).any() else ~self.rapid
        return float(own[:moves].sum() / max(own.sum(), 1))


def live_path(plan: Plan, setup: PlannedSetup, program: ProgramFile) -> LivePath:
    """A program's path, and which letter each of its moves cuts."""
    moves = setup.on_bed(program)
    points = np.asarray(moves.points)[:, :2]
    rapid = np.asarray(moves.rapid)
    middle = 0.5 * (points[1:] + points[:-1])
    owner = np.full(len(rapid), -1)
    told: list[tuple[str, shapely.Geometry]] = []
    cuts = {op.name: op for op in setup.operations}
    lettered = any(cuts[name].kind == "vcut" for name in program.operations if name in cuts)
    for letter in letters_in(plan, setup) if lettered else ():
        outline = setup.face_to_bed.area(letter.outline())
        inside = shapely.contains_xy(outline.buffer(0.2), middle[:, 0], middle[:, 1]) & ~rapid
        owner[inside & (owner < 0)] = len(told)
        told.append((letter.name, outline))
    return LivePath(program, points, rapid, owner, tuple(told))


class StillBed:
    """The bed under a program that runs: drawn once, and only the wood's picture in it changed, for as long as plan, stage and what was cut before are the same."""

    def __init__(self) -> None:
        self._of: tuple[Plan, str, str, int, str] | None = None
        self._drawing: Drawing | None = None
        self._at = -1  # which shape is the wood's picture

    def drawing(self, plan: Plan, setup: PlannedSetup, stage: str, before: int, unit: str, shading: Shading) -> Drawing:
        """As ``bed`` draws it."""
        shown = shading(field_after(setup, shown_count(setup, stage, before)))
        same = self._of is not None and self._of[0] is plan and self._of[1:] == (setup.name, stage, before, unit)
        if self._drawing is None or not same or (shown is None) != (self._at < 0):
            self._of = (plan, setup.name, stage, before, unit)
            self._drawing = bed(plan, setup.name, stage, before, unit=unit, shading=lambda field: shown)
            mine = (i for i, s in enumerate(self._drawing.shapes) if shown is not None and s.pixels is shown)
            self._at = next(mine, -1)
            return self._drawing
        if self._at < 0:
            return self._drawing
        shapes = list(self._drawing.shapes)
        shapes[self._at] = replace(shapes[self._at], pixels=shown)
        return replace(self._drawing, shapes=tuple(shapes))


def machine_bed(
    plan: Plan, setup: PlannedSetup, step: Step, before: int, shading: Shading, path: LivePath | None = None, done: int = 0,
    tip: tuple[float, float] | None = None, unit: str = "mm", pointed: tuple[float, float] | None = None,
    still: StillBed | None = None,
) -> Drawing:  # fmt: skip
    """still: keeps what does not change; pointed: a place on the bed that was pointed at; before: operations that are cut before this step; path, done: of the program that runs, or has ended early, and how many of its moves are done."""
    stage = "zero" if step.kind.startswith("zero") or step.kind in ("sensor", "witness", "square") else "run"
    drawing = (still or StillBed()).drawing(plan, setup, stage, before, unit, shading)
    lit = step.key.removeprefix("set-") if step.key.startswith("set-") else ""
    shapes = [_lit(s, lit) for s in drawing.shapes] if lit else list(drawing.shapes)
    if step.bare:
        under = {s.key for s in shapes if s.role == "tape"}
        shapes = [s for s in shapes if s.role not in OF_THE_BOARD and s.key not in under]
    if path is not None:
        shapes += _cut(path, done, tip)
    else:
        done_names = {op.name for op in setup.operations[:before]}
        later = not step.bare and any(op.kind == "vcut" and op.name not in done_names for op in setup.operations)
        for letter in letters_in(plan, setup) if later else ():
            shapes += area(setup.face_to_bed.area(letter.outline()), "uncut")
    if step.key == "hold" and setup.nest is None:
        for x, y in setup.pins:
            shapes += area(shapely.Point(x, y).buffer(PIN), "stud")
    if step.place is not None and step.kind != "run":
        shapes.append(Shape("ring", np.array([step.place]), "touch", size=14.0))
    if pointed is not None:
        shapes += [dot(*pointed, "tip-ring", size=34.0), dot(*pointed, "tip", size=SEEN)]
    if step.box is not None:
        x0, y0, x1, y1 = step.box
        shapes.append(line(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1], [x0, y0]]), "touch"))
    if step.pair is not None:
        x, y = step.pair
        shapes += [
            line(np.array([[x, 0.0], [x, y]]), "zero-way"), line(np.array([[0.0, y], [x, y]]), "zero-way"), dot(x, y, "tip", size=SEEN),
        ]  # fmt: skip
    words = {"run": "dark is cut, dashed is still to come"}.get(step.kind, f"{setup.name} setup, seen from above")
    words = f"{words}, the board off" if step.bare else words
    close = drawing.close
    if path is not None and step.kind == "run":  # the board alone: what is cut is what is looked at
        x0, y0, x1, y1 = setup.placed.to_bed.area(polygon(setup.blank)).bounds
        close = (x0 - ABOUT, y0 - ABOUT, x1 + ABOUT, y1 + ABOUT)
    return replace(drawing, shapes=tuple(shapes), title="Bed", subtitle=words, rulers=False, close=close)


def _lit(shape: Shape, hold: str) -> Shape:
    """A hold that is set now stands out; the others stand back."""
    if not shape.key.startswith("hold:"):
        return shape
    mine = shape.key == f"hold:{hold}"
    if shape.role in ("strap", "strap-bad", "packing", "tape"):
        return replace(shape, role="hold-lit" if mine else "hold-far")
    return shape


def _cut(path: LivePath, done: int, tip: tuple[float, float] | None) -> list[Shape]:
    """What is cut, what is not, and the stroke under the bit."""
    out: list[Shape] = []
    started = np.zeros(len(path.letters), bool)
    left = np.zeros(len(path.letters), bool)
    for i in range(len(path.letters)):
        mine = np.nonzero(path.owner == i)[0]
        started[i], left[i] = bool((mine < done).any()), bool((mine >= done).any())
    for i, (_, outline) in enumerate(path.letters):
        out += area(outline, "art" if started[i] and not left[i] else "uncut")
    if not len(path.letters) and len(path.rapid) > MANY:  # the wood itself shows it: of what is left its box alone
        box = path.left(done)
        out += area(shapely.box(*box), "uncut") if box is not None else []
        return out + _stroke(path, done, tip)
    for a, b in _runs(path, 0, done):
        owner = int(path.owner[a])  # one for a stretch
        if owner < 0 or left[owner]:
            out.append(line(path.points[a:b], "cut-done"))
    if not len(path.letters):
        out += [line(path.points[a:b], "cut-left") for a, b in _runs(path, done, len(path.rapid))]
    return out + _stroke(path, done, tip)


def _stroke(path: LivePath, done: int, tip: tuple[float, float] | None) -> list[Shape]:
    """The stroke under the bit."""
    out: list[Shape] = []
    if tip is not None:
        trail = path.points[max(done - 40, 0) : done + 1]
        trail = np.vstack([trail, [tip]])
        back = np.cumsum(np.hypot(*np.diff(trail[::-1], axis=0).T))
        near = trail[::-1][: int(np.searchsorted(back, STROKE)) + 2]
        out += [line(near, "stroke"), dot(tip[0], tip[1], "tip-ring", size=34.0), dot(tip[0], tip[1], "tip", size=SEEN)]
    return out


def _runs(path: LivePath, start: int, end: int) -> list[tuple[int, int]]:
    """Stretches of cutting between moves, as slices of points; a stretch ends where another letter begins."""
    cuts = ~path.rapid[start:end]
    if not len(cuts):
        return []
    owner = path.owner[start:end]
    change = np.nonzero((cuts[1:] != cuts[:-1]) | (owner[1:] != owner[:-1]))[0] + 1
    edges = np.concatenate([[0], change, [len(cuts)]])
    return [(start + int(a), start + int(b) + 1) for a, b in zip(edges[:-1], edges[1:]) if cuts[a]]
