# SPDX-License-Identifier: GPL-3.0-or-later
"""The router, its control and what stays on its bed from job to job."""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from gatepost.core.job.base import Amount, Day, Model, Name, Place, Rate, Size, Spot, Words, with_ids


class Dialect(Model):
    """What a control understands, told as capabilities. arcs: whether it takes G2 and G3, level ones alone or rising too; arc_tolerance: mm by which an arc may lie off what it stands for; offset: which of its zeros is set; end: its last word; lead_in: a comment
    that each program begins with; largest: kB that a file may have, 0 where any will do."""

    units: Literal["mm", "inch"] = "mm"
    decimals: Annotated[int, Field(ge=2, le=6)] = 4
    line_numbers: bool = False
    comments: Literal["brackets", "semicolon", "none"] = "brackets"
    tool_change: Literal["separate", "pause", "word"] = "separate"
    dwell: Literal["s", "ms"] = "s"
    spin_up: Amount = 4.0
    arcs: Literal["none", "level", "helix"] = "none"
    arc_tolerance: Annotated[float, Field(ge=0.001, le=0.05)] = 0.012
    offset: Literal["G54", "G55", "G56", "G57", "G58", "G59"] = "G54"
    end: Literal["M30", "M2"] = "M30"
    lead_in: Annotated[str, Field(max_length=120)] = ""
    largest: Annotated[int, Field(ge=0, le=1_000_000)] = 0


class Inserts(Model):
    """Threaded inserts in the spoilboard, in a grid from x, y on the bed. thread: of their screws."""

    name: Annotated[str, Field(max_length=80)] = ""
    x: Place
    y: Place
    across: Size = 100.0
    up: Size = 100.0
    columns: Annotated[int, Field(ge=1, le=60)] = 1
    rows: Annotated[int, Field(ge=1, le=60)] = 1
    thread: Size = 6.0


class Fence(Model):
    """A straight edge that stays on the bed from job to job: from x, y along its heading; the work lies on its left; milled: when it was
    milled true in its place."""

    name: Name
    x: Place
    y: Place
    heading: Annotated[float, Field(ge=-360, le=360)] = 0.0
    length: Size = 300.0
    width: Size = 20.0
    height: Size = 12.0
    milled: Annotated[str, Field(max_length=20)] = ""
    taken: str = ""

    @property
    def ends(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """Its working edge, on the bed."""
        turn = math.radians(self.heading)
        return (self.x, self.y), (self.x + self.length * math.cos(turn), self.y + self.length * math.sin(turn))


class Nest(Model):
    """A frame for repeated blanks: its opening is length × width with the stop corner at x, y, turned by its heading;
    walls rim wide and height high; relief: radius that its corners are relieved by; play: over the largest blank; made: the day it was; first: what the first part made in it measured."""

    name: Name
    x: Place
    y: Place
    length: Size
    width: Size
    heading: Annotated[float, Field(ge=-360, le=360)] = 0.0
    height: Size = 12.0
    rim: Size = 30.0
    relief: Amount = 3.0
    play: Amount = 0.3
    corner: Literal["front left", "front right", "back left", "back right"] = "front left"
    made: Annotated[str, Field(max_length=20)] = ""
    first: Annotated[str, Field(max_length=400)] = ""
    taken: str = ""


class Scar(Model):
    """Where a cut went into the spoilboard: its line, how wide, how deep, when, and what run left it."""

    points: Annotated[tuple[Spot, ...], Field(min_length=1, max_length=4000)]
    width: Size
    depth: Size
    at: Annotated[str, Field(max_length=40)] = ""
    run: Annotated[str, Field(max_length=80)] = ""


class BedThings(Model):
    """What stays on the bed between jobs. screws: whether screws may go into the spoilboard, and how deep; skimmed: date
    of the last skim; blocks: heights of packing at hand, as many of each as one likes; studs:
    lengths of studs at hand; slot: what the slots are of."""

    inserts: Annotated[tuple[Inserts, ...], Field(max_length=20)] = ()
    fences: Annotated[tuple[Fence, ...], Field(max_length=20)] = ()
    nests: Annotated[tuple[Nest, ...], Field(max_length=20)] = ()
    scars: Annotated[tuple[Scar, ...], Field(max_length=400)] = ()
    skimmed: Annotated[str, Field(max_length=20)] = ""
    screws: Amount = 12.0
    blocks: Annotated[tuple[Size, ...], Field(max_length=40)] = ()
    studs: Annotated[tuple[Size, ...], Field(max_length=40)] = ()
    slot: Literal["steel", "aluminium"] = "steel"
    slot_nut: Size = 10.0

    @field_validator("inserts", mode="before")
    @classmethod
    def _called(cls, inserts: Any) -> Any:
        return with_ids(inserts, "Inserts ", "name")


class Sensor(Model):
    """A fixed tool sensor. x, y: on the bed; height: of its face above the spoilboard."""

    x: Place
    y: Place
    height: Size = 30.0


class DialMark(Model):
    """A mark of a spindle's dial that is set by hand, and its speed."""

    mark: Annotated[str, Field(min_length=1, max_length=20)]
    rpm: Rate


class Collet(Model):
    """A collet. size: of the shank that it is made for; grip: how long it grips; bore: how deep a shank goes in behind the nut's face, 0 where that is not
    measured; torque: that its maker gives the nut, N·m, 0 where it is not known; since: the day it came into use."""

    size: Size
    grip: Size = 18.0
    bore: Amount = 0.0
    torque: Amount = 0.0
    since: Day = ""


COLLETS = (Collet(size=6.0), Collet(size=8.0))


class WarmStep(Model):
    """A step of warming a spindle up."""

    rpm: Rate
    minutes: Annotated[float, Field(gt=0, le=60)]


class LearnedFactor(Model):
    """What cuts of a kind by a tool really take on this machine over what is planned. within: the factor is good to, times or divided by; count: of the cuts it comes
    from; told_of: which; taken: when."""

    kind: Name
    tool: Name
    factor: Annotated[float, Field(gt=0.05, le=20)]
    within: Annotated[float, Field(ge=1, le=20)] = 1.0
    count: Annotated[int, Field(ge=1)] = 1
    told_of: Words = ""
    taken: str = ""


class BedPlace(Model):
    """A place on the bed that the machine is brought to by its name, at the top of its travel."""

    name: Annotated[str, Field(min_length=1, max_length=20)]
    x: Place
    y: Place


class StopWord(Model):
    """A stop of a machine, and what it really stops."""

    name: Name
    does: Annotated[str, Field(max_length=200)] = ""


class CheckItem(Model):
    """A line of the shop's own list before a cut. back: the first word of the step that is gone back to where it is not so yet, or nothing."""

    words: Annotated[str, Field(min_length=1, max_length=120)]
    back: Literal["", "hold", "set", "fit", "power", "home", "zero", "touch", "look"] = ""


STOPS = (
    StopWord(name="Pause here", does="slows the axes to a stand; the spindle goes on turning"),
    StopWord(name="Stop here", does="axes and spindle, over the cable: not an emergency stop"),
    StopWord(name="Red button", does="drives and spindle without power; the place is lost, home after"),
)
PLACES = (
    BedPlace(name="load", x=600.0, y=690.0),
    BedPlace(name="tool change", x=600.0, y=60.0),
    BedPlace(name="park", x=1190.0, y=690.0),
)
REMARKS = ("it burns", "it chatters", "chips pack", "it lifted", "it fuzzes")
POWER_ON = ("extraction", "control", "drives", "home", "spindle drive")
POWER_OFF = ("spindle stands", "drives", "control", "extraction")
HOMED = 1.5  # minutes to home and look at a mark; a shop rule
WARM = (WarmStep(rpm=8000.0, minutes=2.0), WarmStep(rpm=12000.0, minutes=2.0), WarmStep(rpm=18000.0, minutes=2.0))


class Machine(Model):
    """A router. Home is back right at the top; rapids mm/min, accelerations mm/s², slots: Y of the T-slots.

    gantry: underside of its beam above the spoilboard, 0 where nothing can reach it; gantry_front, gantry_back: from the
    spindle's middle to the beam's faces. shoe: diameter of a dust shoe, 0 without one; shoe_above: how far its
    underside stands above the nut's, shoe_height: how tall it is. isolating_drops:
    whether isolating the spindle drops the drives too, so that its place is lost; in_order: whether every step at the machine waits for all
    before it, and not the guards alone; squared: when its gantry was squared last; light: whether its frame is light, and takes half the chip; remarks: that are made by one key while it cuts; checklist: the shop's own, asked before the first cut of a setup; learned: minutes by its own runs; places: that it is brought to by name;
    vacuum_every: minutes of cutting after which it stops for the vacuum, 0 for never.
    """

    name: Name = "Boat shed router"
    travel_x: Size = 1200.0
    travel_y: Size = 700.0
    travel_z: Size = 130.0
    nose_at_home: Size = 175.0
    slots: Annotated[tuple[Place, ...], Field(max_length=60)] = (100.0, 200.0, 300.0, 400.0, 500.0, 600.0)
    rpm_min: Rate = 6000.0
    rpm_max: Rate = 24000.0
    rated_power: Rate = 2200.0
    rated_rpm: Rate = 24000.0
    rapid_xy: Rate = 8000.0
    rapid_z: Rate = 3000.0
    accel_xy: Rate = 500.0
    accel_z: Rate = 250.0
    deviation: Size = 0.02
    spoilboard: Size = 18.0
    nut_diameter: Size = 42.0
    nut_height: Size = 45.0
    gantry: Amount = 0.0
    gantry_front: Amount = 40.0
    gantry_back: Amount = 120.0
    shoe: Amount = 0.0
    shoe_above: Amount = 10.0
    shoe_height: Size = 20.0
    bed: BedThings = BedThings()
    sensor: Sensor | None = None
    spindle: Literal["program", "hand"] = "program"
    dial: Annotated[tuple[DialMark, ...], Field(max_length=20)] = ()
    poles: Annotated[int, Field(ge=2, le=12)] = 2
    slip: Annotated[float, Field(ge=0, le=20)] = 0.0
    stops: Annotated[tuple[StopWord, ...], Field(max_length=10)] = STOPS
    places: Annotated[tuple[BedPlace, ...], Field(max_length=4)] = PLACES
    learned: Annotated[tuple[LearnedFactor, ...], Field(max_length=200)] = ()
    remarks: Annotated[tuple[Name, ...], Field(max_length=5)] = REMARKS
    checklist: Annotated[tuple[CheckItem, ...], Field(max_length=9)] = ()
    power_on: Annotated[tuple[Words, ...], Field(max_length=20)] = POWER_ON
    power_off: Annotated[tuple[Words, ...], Field(max_length=20)] = POWER_OFF
    collets: Annotated[tuple[Collet, ...], Field(max_length=20)] = COLLETS
    warm: Annotated[tuple[WarmStep, ...], Field(max_length=20)] = WARM
    isolating_drops: bool = False
    in_order: bool = False
    light: bool = False
    change_minutes: Amount = 4.0
    touch_minutes: Amount = 1.5
    lay_minutes: Amount = 6.0
    vacuum_every: Annotated[float, Field(ge=0, le=600)] = 0.0
    dialect: Dialect = Dialect()
    squared: Annotated[str, Field(max_length=20)] = ""
    taken: str = ""

    def really(self, kind: str, tool: str) -> float:
        """Times what is planned that a kind of cut by a tool takes, as far as that was learned; 1 where it was not."""
        return next((f.factor for f in self.learned if (f.kind, f.tool) == (kind, tool)), 1.0)

    @property
    def homed_minutes(self) -> float:
        """Minutes that a change of tool takes longer where isolating drops the drives: homed and the mark looked at when the bit is in, and
        again when the plate is laid."""
        return 2.0 * HOMED if self.isolating_drops else 0.0

    @property
    def swap_minutes(self) -> float:
        """Minutes of a change of tool, with its touch-off and all that it asks for."""
        return self.change_minutes + self.touch_minutes + self.homed_minutes
