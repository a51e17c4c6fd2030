# SPDX-License-Identifier: GPL-3.0-or-later
"""What a plan is made of: cuts, programs, setups."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from gatepost.core.blank.shape import polygon
from gatepost.core.blank.top import Extremes
from gatepost.core.cutting import Engaged, SunkArea
from gatepost.core.frames import Bed, BlankFrame, Board, FaceFrame, Matrix, Work
from gatepost.core.geometry.art import Art
from gatepost.core.geometry.grid import GridHeights
from gatepost.core.hold.clearance import Gap, Section
from gatepost.core.hold.lying import AsLaid
from gatepost.core.hold.margins import HoldMargin, Span
from gatepost.core.hold.solids import Solid
from gatepost.core.job.blank import Blank
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Setup
from gatepost.core.job.tool import Tool
from gatepost.core.job.turning import Lay
from gatepost.core.motion import Moves
from gatepost.core.plan.proved import Proving
from gatepost.core.program.lines import filled_lines
from gatepost.core.register.marks import FoundAgain
from gatepost.core.register.nested import NestSeen
from gatepost.core.run.step import Depth, Step, TouchOff
from gatepost.core.run.vacuum import vacuum_stops
from gatepost.core.surface.reckoned import Pass, SurfacingResult
from gatepost.core.tools.touchoff import TouchSpot
from gatepost.core.wood.field import HeightField
from gatepost.core.wood.loose import GripArea, PieceState
from gatepost.core.zero.datum import OutOfTravel, Placed
from gatepost.core.zero.trust import Axes


@dataclass(frozen=True)
class PlannedCut:
    """One cut: what one tool does in one operation. operation: its id; stage: in a word, where it has several cuts; moves: blank XY,
    heights above the bed; seconds: without changes; after: the wood then; engaged: how much of the tool is in the wood at the most."""

    name: str
    operation: str
    stage: str
    kind: str
    tool: Tool
    setup: str
    moves: Moves
    seconds: float
    push: float
    peak: float
    after: HeightField
    art: Art | None = None
    area: SunkArea | None = None
    target: GridHeights | None = None
    engaged: Engaged | None = None

    @property
    def step(self) -> float:
        """How much of its tool is in the wood beside its way at the most, mm."""
        if self.engaged is None:
            return self.tool.diameter
        return self.engaged.step if self.engaged.step is not None else min(self.tool.diameter, 2.0 * self.engaged.depth)


@dataclass(frozen=True)
class ProgramFile:
    """A program, read back and swept. moves: work coordinates as read from the text; line: of each move; fingerprint: of what
    comes out of it (of the whole one, where it is taken up again); ran: of the same cut as it was run before the piece was found, or seen, to lie otherwise, where that is another; lower: by how much its Z0 lies under that of its setup, mm; ends: the block that each operation ends with, from 1; beside: again, or elsewhere, of a program that the plan does not write."""

    name: str
    setup: str
    tool: Tool
    operations: tuple[str, ...]
    text: str
    moves: Moves
    line: tuple[int, ...]
    seconds: float
    move_seconds: tuple[float, ...]
    fingerprint: str
    ran: str = ""
    lower: float = 0.0
    ends: tuple[int, ...] = ()
    beside: str = ""

    @property
    def done_as(self) -> str:
        """The fingerprint that a run of it is known by."""
        return self.ran or self.fingerprint

    @property
    def first_move(self) -> tuple[float, float, float] | None:
        """Where it goes first that is not straight up or down, of the work."""
        points = np.asarray(self.moves.points)
        away = np.nonzero(np.hypot(*(points[:, :2] - points[0, :2]).T) > 0.005)[0]
        return (float(points[away[0], 0]), float(points[away[0], 1]), float(points[away[0], 2])) if len(away) else None

    @cached_property
    def lines(self) -> NDArray[np.int64]:
        """The line of each move, from 1."""
        return np.asarray(self.line, np.int64)

    @cached_property
    def _left(self) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
        after = np.cumsum(np.asarray(self.move_seconds, np.float64)[::-1])[::-1]
        return self.lines, np.append(after, 0.0)

    def block_seconds(self) -> tuple[float, ...]:
        """Seconds of the moves of each line with something on it, in order: of each block as it is sent."""
        each = np.bincount(np.asarray(self.line, np.int64), np.asarray(self.move_seconds, np.float64))
        lines = (number for number, _ in filled_lines(self.text))
        return tuple(float(each[n]) if n < len(each) else 0.0 for n in lines)

    def vacuum_stops(self, every: float) -> tuple[int, ...]:
        """After how many blocks it stands still for the vacuum. every: minutes of cutting, 0 for never."""
        return vacuum_stops(self.text, self.moves, self.line, self.move_seconds, every)

    def vacuum_minutes(self, every: float) -> tuple[float, ...]:
        """The same as minutes from its beginning."""
        stops = self.vacuum_stops(every)
        gone = np.cumsum(self.block_seconds()) / 60.0 if stops else ()
        return tuple(float(gone[n - 1]) for n in stops)

    def cut_seconds(self) -> tuple[float, ...]:
        """Seconds of the blocks of each operation, in their order."""
        run = np.concatenate([[0.0], np.cumsum(self.block_seconds())])
        ends = [min(n, len(run) - 1) for n in self.ends]
        return tuple(float(run[b] - run[a]) for a, b in zip([0, *ends[:-1]], ends))

    def seconds_after(self, line: int) -> float:
        """Seconds of the moves of all lines after one; lines count from 1."""
        lines, left = self._left
        return float(left[np.searchsorted(lines, line, side="right")])


@dataclass(frozen=True)
class ToolChange:
    """A swap of tools before an operation, and where the new one touches off. spots: other places that would do."""

    before: str
    tool: Tool
    touch: TouchOff
    spots: tuple[TouchSpot, ...]


@dataclass(frozen=True)
class ProgramRun:
    """A program as holding sees it: what it does, its moves on the bed, and the tool's sections."""

    name: str
    words: str
    moves: Moves
    parts: list[Section]


@dataclass(frozen=True)
class OldCut:
    """Something that was cut in this board and that the plan does not cut now. box: x0, y0, x1, y1 on the board as it lies; does: in words; at: when; beside: elsewhere, of what was made elsewhere and run knowingly."""

    program: str
    does: str
    at: str
    box: tuple[float, float, float, float]
    beside: str = ""


@dataclass(frozen=True)
class PlannedSetup:
    """One setup as reckoned. zero_height: Z0 plane above the bed; blank: the board in
    its coordinates as it lies here, turned as it is there; placed: where it lies; before: how it lay until then; pose: from the face that is up, as it is read, to the board; carried: from the blank's own frame to
    the board's as it lies here; flattens: whether all that is done is to make its face flat; carves: whether the carving is
    told of here; bare: programs that bore the bare bed once all is cut, bare_touch: where their tool touches off, out_of_travel: where they leave it; lying: by how much the board may lie otherwise; witness: bed XY of the mark that is looked at when all has run; depths: where it is measured how deep each tool cut; top_map, under_map: heights of its top and of its underside, rows from the front; pieces: all
    that the wood comes to, operation by operation; margins, gaps, span: what holds it, how near moves come to what stands on
    the bed, the longest free span; unreached: what no tool can reach because of the holds, bed XY; touching: what is moved to find its zeros, on the bed; grips: where each hold has the board; old_cuts: what was cut in this board and is planned otherwise now; pins: where on the bed it is laid on pins, whose holes are wider by play, mm, or two corners of its slot as they come to lie in its frame; were: the same where they were cut, and the middle that it is turned about; seats: ways in which it may lie
    in that, degrees about its middle and a shift; nest: that frame; found: what its marks
    say of where it lies; proving: what was seen of that since."""

    setup: Setup
    zero_height: float
    travel: float
    start: HeightField
    operations: tuple[PlannedCut, ...]
    programs: tuple[ProgramFile, ...]
    changes: tuple[ToolChange, ...]
    touches: dict[int, TouchOff]
    solids: tuple[Solid, ...]
    steps: tuple[Step, ...]
    axes: Axes
    blank: Blank
    placed: Placed
    carried: Matrix[BlankFrame, Board]
    before: Lay
    pose: Matrix[FaceFrame, Board]
    surfaced: SurfacingResult
    extremes: Extremes | None
    top_grid: tuple[object, object, object] | None
    top_map: NDArray[np.float32] | None
    bare: tuple[ProgramFile, ...] = ()
    bare_touch: TouchOff | None = None
    out_of_travel: tuple[OutOfTravel, ...] = ()
    flattens: bool = False
    carves: bool = False
    on_shims: bool = False
    lying: AsLaid = AsLaid()
    witness: tuple[float, float] | None = None
    depths: dict[int, Depth] = field(default_factory=dict)
    under_map: NDArray[np.float32] | None = None
    pieces: tuple[PieceState, ...] = ()
    margins: tuple[HoldMargin, ...] = ()
    gaps: tuple[tuple[str, Gap], ...] = ()
    span: Span | None = None
    unreached: Polygon | None = None
    touching: tuple[ProgramRun, ...] = ()
    grips: tuple[GripArea, ...] = ()
    old_cuts: tuple[OldCut, ...] = ()
    pins: tuple[tuple[float, float], ...] = ()
    play: float = 0.0
    were: tuple[tuple[float, float], ...] = ()
    seats: tuple[tuple[float, float, float], ...] = ()
    found: FoundAgain | None = None
    proving: Proving = Proving()
    nest: NestSeen | None = None

    @property
    def shimmed(self) -> bool:
        """Whether the board is laid on shims here."""
        return self.first_face and len(self.surfaced.ways) > 1 and self.on_shims

    @property
    def first_face(self) -> bool:
        """Whether the board's first face is made flat here."""
        return self.flattens and self.setup.up == "front"

    @property
    def passes(self) -> tuple[Pass, ...]:
        """Of this setup's surfacing, all of them, stopped early or not."""
        way = self.surfaced.way("shimmed" if self.shimmed else "")
        return way.passes if way is not None and self.flattens and self.surfaced.needed else ()

    @property
    def name(self) -> str:
        """The setup's name."""
        return self.setup.name

    def on_bed(self, program: ProgramFile) -> Moves:
        """A program's moves on the bed."""
        moves = self.placed.work_to_bed.moves(program.moves)
        return moves.moved(0.0, 0.0, -program.lower) if program.lower else moves

    @property
    def files(self) -> tuple[ProgramFile, ...]:
        """All its programs, those into the bare bed as well."""
        return self.programs + self.bare

    def touch_of(self, step: Step) -> TouchOff:
        """Where a step's tool touches off."""
        return self.bare_touch if step.bare and self.bare_touch is not None else self.touches[step.tool or 0]

    def lower_at(self, step: Step) -> float:
        """By how much Z0 lies under the setup's own then, mm."""
        return self.zero_height if step.bare else 0.0

    def on_board(self, moves: Moves) -> Moves:
        """Moves of a program on the board as it lies."""
        return self.placed.to_work.inverse().moves(moves)

    def meant(self, place: tuple[float, float]) -> tuple[float, float]:
        """Where what is found at a place on the bed was meant to be: the same, unless its marks say, or were seen to, that it lies otherwise."""
        place = self.proving.moved.back(*place)
        return self.found.meant(*place) if self.found is not None and self.found.stands else place

    def at(self, x: float, y: float) -> tuple[float, float]:
        """A place of the board as it lies, on the bed."""
        return self.placed.to_bed.xy(x, y)

    @property
    def corner(self) -> tuple[float, float]:
        """Where the lower left of the rectangle about the board is to lie on the bed, before it is found to lie turned."""
        x0, y0, _, _ = self.blank.box
        return self.setup.x + x0, self.setup.y + y0

    @property
    def face_to_bed(self) -> Matrix[FaceFrame, Bed]:
        """From the face that is up, as it is read, to the bed: artwork stands in it."""
        return self.pose.then(self.placed.to_bed)

    @property
    def face_outline(self) -> Polygon:
        """The board's outline on the face that is up, as it is read."""
        return self.pose.inverse().area(polygon(self.blank))

    def back(self, x: float, y: float) -> tuple[float, float]:
        """A bed place on the board as it lies."""
        return self.placed.to_bed.inverse().xy(x, y)

    @property
    def datum(self) -> tuple[float, float]:
        """X0 Y0 on the board as it lies."""
        return self.placed.to_work.inverse().xy(0.0, 0.0)

    @property
    def blank_to_work(self) -> Matrix[BlankFrame, Work]:
        """From the blank's own frame, front face up, to the programs'."""
        return self.carried.then(self.placed.to_work)

    @property
    def end(self) -> HeightField:
        """The wood after its last operation."""
        return self.operations[-1].after if self.operations else self.start


def learned_seconds(setup: PlannedSetup, program: ProgramFile, machine: Machine) -> float:
    """Seconds of a program by what its machine's own runs took; 0 where nothing was learned of any of its cuts."""
    kinds = {op.name: op.kind for op in setup.operations}
    factors = [machine.really(kinds.get(name, ""), program.tool.name) for name in program.operations]
    if all(f == 1.0 for f in factors):
        return 0.0
    each = program.cut_seconds()
    return program.seconds + sum((f - 1.0) * t for f, t in zip(factors, each))
