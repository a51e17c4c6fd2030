# SPDX-License-Identifier: GPL-3.0-or-later
"""What a way of holding is: one module each in ``kinds/``, told to whoever asks by a table. And what it is judged on.

A way of holding says what it puts on the bed, where it bears, what it holds, what goes wrong with it, how it is set at the
machine, what is entered of it, how it is drawn, and where places for it may be. What it does not say is as here.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar, Literal

import numpy as np
import shapely
from shapely.geometry import LineString, Point, Polygon

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Figure, Finding, Table
from gatepost.core.hold.clearance import Gap
from gatepost.core.hold.margins import CutLoad, Grip
from gatepost.core.hold.solids import Solid
from gatepost.core.job.hold import Hold, Holding
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.machine import BedThings, Machine
from gatepost.core.job.model import Job, Setup

STAGE = "hold"
NONE_TOLD = "Places can be suggested for straps, edge clamps and screws."
# a sentence with {name} and {d}, and what is changed by an amount
Way = tuple[str, Callable[[float], dict[str, float]]]


@dataclass(frozen=True)
class Setting:
    """How a hold is set at the machine, as a step. label, figure: the one number that it wants; place: where, on the bed;
    isolate: whether hands are under the spindle; caution: of its own."""

    title: str
    detail: str
    label: str = ""
    figure: float | None = None
    place: tuple[float, float] | None = None
    isolate: bool = True
    caution: str = ""


@dataclass(frozen=True)
class Offer:
    """One more hold of a kind that can be put on the bed: in words, and with which figures."""

    words: str
    values: dict[str, Any]


@dataclass(frozen=True)
class Dragged:
    """A hold that is dragged. x, y: where to; dx, dy: by how much; snap: whether it looks for slots and inserts; edge: gives
    where a jaw of a heading and width that stands at a place meets the work; machine: whose bed it stands on."""

    x: float
    y: float
    dx: float
    dy: float
    snap: bool
    machine: Machine
    edge: Callable[[float, float, float, float], tuple[float, float]]


class HoldKind:
    """A way of holding. figures: the model of its figures; one, many: as people are told it; minutes: to set one, once: and
    for all of them together, starting values, to be learned from the log; by: whether it presses on the top or from the
    edge, lies under the work, or stands round it as walls; compared: how it is called beside other ways, nothing where no places
    for it can be told."""

    figures: ClassVar[type[Hold]]
    one: ClassVar[str]
    many: ClassVar[str]
    minutes: ClassVar[float] = 1.0
    once: ClassVar[float] = 0.0
    by: ClassVar[Literal["top", "edge", "under", "walls"]] = "top"
    entries: ClassVar[tuple[KindEntry, ...]] = ()
    compared: ClassVar[str] = ""
    hatch: ClassVar[float] = 9.0  # mm between the lines that it is drawn with, where it lies under the work

    @property
    def name(self) -> str:
        """What files call it."""
        return str(self.figures.model_fields["kind"].default)

    @property
    def placed(self) -> bool:
        """Whether places for so many as one asks for can be told."""
        return bool(self.compared) and self.by in ("top", "edge")

    # -- what it is on the bed

    def solids(self, hold: Any, work: float, bed: BedThings | None = None) -> list[Solid]:
        """Everything that it puts on the bed. work: height of the work where it bears, mm; bed: where its nest is."""
        return []

    def touch_point(self, hold: Any) -> tuple[float, float]:
        """The place where it bears on the work, bed XY."""
        return hold.x, hold.y

    def bearing(self, hold: Any, work: Polygon) -> Polygon:
        """Where it has the work in its grip, bed XY."""
        return Point(*self.touch_point(hold)).buffer(5.0)

    def covers(self, hold: Any, parts: list[Solid]) -> Polygon:
        """What it covers of the bed, or lies under the work."""
        return shapely.union_all([s.outline for s in parts])

    # -- what it holds

    def grip(self, hold: Any, work: Polygon, rules: Holding, bed: BedThings) -> Grip:
        """What it does to the work. work: its outline on the bed."""
        return Grip(hold.name, 0.0, 0.0, 0.0, np.array([self.touch_point(hold)]))

    def squeezes(self, hold: Any) -> float:
        """How much of what it presses is sideways, N."""
        return 0.0

    def sticks(self, hold: Any, rules: Holding) -> float | None:
        """N/mm² by which it holds a loose piece that lies on it; nothing where it holds whatever it bears on."""
        return None

    # -- what is said of it

    def checks(self, held: HoldingInputs, hold: Any) -> list[Finding]:
        """What is wrong with it by itself."""
        return []

    def over_plane(self, hold: Any, setup: str, plane: float) -> list[Finding]:
        """What is wrong with it where the whole face is cut down to a plane, mm above the bed."""
        return []

    def ways(self, hold: Any) -> list[Way]:
        """Ways it may give way to what would hit it, each by one amount in mm."""
        return []

    def told(self, held: HoldingInputs, holds: list[Any]) -> list[Figure]:
        """Figures of all of its kind in a setup."""
        return []

    def tables(self, held: HoldingInputs, holds: list[Any]) -> list[Table]:
        """Short tables of all of its kind in a setup."""
        return []

    def setting(self, hold: Any) -> Setting:
        """How it is set."""
        return Setting(f"Set {hold.name}: {self.one}.", "")

    def set_to(self, hold: Any) -> str:
        """What it is set to beside its place, for the run sheet; lengths marked."""
        return ""

    # -- how it is put there

    def offers(self, job: Job, setup: Setup) -> list[Offer]:
        """How one more may be put on the bed."""
        return []

    def tries(self, held: HoldingInputs, like: Any) -> list[Hold]:
        """Places worth trying for one like this. Raises OperatorError where none can be told."""
        raise OperatorError(NONE_TOLD)

    def dragged(self, hold: Any, to: Dragged) -> tuple[float, float]:
        """Where it comes to stand."""
        return to.x, to.y

    # -- how it is drawn

    def marks(self, hold: Any, parts: list[Solid]) -> list[LineString]:
        """Lines on it, beside the outlines of what it puts on the bed."""
        return []

    def name_at(self, hold: Any) -> tuple[float, float]:
        """Where its name stands, bed XY."""
        return hold.x, hold.y


HoldKinds = Mapping[str, HoldKind]


def behind(hold: Hold, away: float) -> tuple[float, float]:
    """A place behind a hold, so far from its own."""
    way = math.radians(hold.heading)
    return hold.x - away * math.cos(way), hold.y - away * math.sin(way)


@dataclass(frozen=True)
class HoldingInputs:
    """What holding is judged on. work: outline on the bed; height: of the work at a bed place; gaps: by program; loads: of
    each operation; weight: N; soft: whether the wood is; clear: whether solids are clear of every move; paths: how near a cut
    comes to a disc; rocks: what was answered to the rock test; thick: of the wood, mm; gap_under: how far it stands off the bed;
    idle: whether nothing is done in the setup, and something elsewhere; sticking: of a hold under the work the share of it that has wood to stick to, where the face that is down is carved; kinds: ways of holding by name."""

    setup: Setup
    machine: Machine
    rules: Holding
    work: Polygon
    height: Callable[[float, float], float]
    kinds: HoldKinds = field(repr=False)
    gaps: tuple[tuple[str, Gap], ...] = ()
    loads: tuple[CutLoad, ...] = ()
    weight: float = 0.0
    soft: bool = True
    clear: Callable[[list[Solid]], bool] = lambda _: True
    paths: Callable[[float, float, float], float] = lambda x, y, r: math.inf
    rocks: str = ""
    thick: float = 30.0
    gap_under: Callable[[float, float], float] = lambda x, y: 0.0
    idle: bool = False
    sticking: Callable[[Hold], float] = lambda hold: 1.0

    def kind(self, hold: Hold) -> HoldKind:
        """A hold's way of holding."""
        return self.kinds[hold.kind]

    def by(self, *ways: str) -> list[Hold]:
        """Holds that hold in one of some ways."""
        return [h for h in self.setup.holds if self.kind(h).by in ways]

    def solids(self, hold: Hold) -> list[Solid]:
        """Everything that a hold puts on the bed."""
        return self.kind(hold).solids(hold, work_height(self, hold), self.machine.bed)


def with_gaps(held: HoldingInputs, gaps: tuple[tuple[str, Gap], ...]) -> HoldingInputs:
    """The same with other gaps."""
    return replace(held, gaps=gaps)


def work_height(held: HoldingInputs, hold: Hold) -> float:
    """Height of the work where a hold bears on it; just inside the edge when the place itself is off."""
    x, y = held.kind(hold).touch_point(hold)
    height = held.height(x, y)
    if math.isnan(height):
        inner = held.work.buffer(-1.0)
        spot = shapely.get_coordinates(shapely.shortest_line(held.work if inner.is_empty else inner, Point(x, y)))[0]
        height = held.height(float(spot[0]), float(spot[1]))
    return 0.0 if math.isnan(height) else height
