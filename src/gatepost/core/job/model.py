# SPDX-License-Identifier: GPL-3.0-or-later
"""The job: what is planned, as immutable models. Lengths are mm, forces N, angles degrees.

A job keeps a dated copy of every shop entry (machine, tools, wood) that it uses and is planned from that alone.
"""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field, ValidationError, field_validator

from gatepost.core.errors import OperatorError
from gatepost.core.tolerances import CLEANUP, CUTOUT_ALLOWANCE, HOLLOW, LAST_PASS, PICKING

FORMAT = 4  # of job.json; its history stands in file.py

MOST_CORNERS = 2000  # of an outline
MOST_HOLDS = 60  # of a setup
MOST_LETTERS = 1000  # of all lines
PICTURE = r"^photo-[0-9a-f]{12}(-squared)?\.(jpg|png)$"  # name of a part that holds a picture
_PAIR = r"-?\d{1,3}(?:\.\d{1,9})? -?\d{1,3}(?:\.\d{1,9})?"
OUTLINE = re.compile(
    rf"(?:M{_PAIR}(?:L{_PAIR}|Q{_PAIR} {_PAIR}|C{_PAIR} {_PAIR} {_PAIR})*Z)*", re.ASCII
)  # as geometry.curves writes it

Place = Annotated[float, Field(ge=-10_000, le=10_000)]
Size = Annotated[float, Field(ge=0.001, le=10_000)]
Board = Annotated[float, Field(ge=5, le=10_000)]  # sides of a board; nothing smaller is held on a bed
Amount = Annotated[float, Field(ge=0, le=10_000)]
Rate = Annotated[float, Field(ge=0.001, le=100_000)]
Name = Annotated[str, Field(min_length=1, max_length=80)]
Words = Annotated[str, Field(max_length=400)]


class Model(BaseModel):
    """Frozen, closed, finite."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Reading(Model):
    """A caliper reading of thickness, and where. keep: what was answered when it looked odd."""

    x: Place
    y: Place
    thickness: Size
    keep: bool | None = None


class TopHeight(Model):
    """A reading of the top's height above the spoilboard, the board lying as it will be surfaced."""

    x: Place
    y: Place
    z: Size


class Gap(Model):
    """A reading of the underside: how far it stands above the spoilboard, the board lying as it will be surfaced."""

    x: Place
    y: Place
    z: Amount


class Support(Model):
    """Where a shim goes under the board, blank coordinates."""

    x: Place
    y: Place


class Flaw(Model):
    """A fault of the wood. x, y: its middle; size: how far across; depth: down from its face, nothing where unknown."""

    kind: Literal["crack", "knot", "bark", "hole"] = "crack"
    face: Literal["front", "back"] = "front"
    x: Place
    y: Place
    size: Size = 10.0
    depth: Amount | None = None


class Coat(Model):
    """A coat, film or mask that is on a face before carving. thickness: of the dry film."""

    name: Name = "primer"
    face: Literal["front", "back"] = "front"
    thickness: Annotated[float, Field(ge=0, le=20)] = 0.1


Pixels = tuple[Annotated[float, Field(ge=-1e5, le=1e5)], Annotated[float, Field(ge=-1e5, le=1e5)]]
Spot = tuple[Place, Place]


class Photo(Model):
    """An overhead photo with a scale in it. file, squared: names of the job's parts that hold it as taken and squared up.

    marks: two or four places in it, px from its top left, of two marks ``across`` apart or of a rectangle's corners,
    across × up, anticlockwise from its front left. above: of the edge seen over the scale; lens: height of the lens over
    the scale, nought where it is not known; under: the place under the lens, mm from the first mark, where it was
    measured; box: of the squared picture, blank coordinates; check: two more marks and their true distance.
    """

    file: Annotated[str, Field(pattern=PICTURE)]
    squared: Annotated[str, Field(pattern=PICTURE)]
    marks: Annotated[tuple[Pixels, ...], Field(max_length=4)] = ()
    across: Size = 600.0
    up: Amount = 0.0
    above: Amount = 0.0
    above_doubt: Amount = 1.0
    lens: Amount = 0.0
    lens_doubt: Amount = 30.0
    under: Spot | None = None
    picking: Annotated[float, Field(gt=0, le=200)] = PICKING
    box: tuple[Place, Place, Place, Place] = (0.0, 0.0, 0.0, 0.0)
    check: Annotated[tuple[Pixels, ...], Field(max_length=2)] = ()
    check_length: Amount = 0.0


class Stock(Model):
    """Rough stock that the blank is sawn from, and the saw's kerf."""

    length: Size
    width: Size
    thickness: Size
    kerf: Annotated[float, Field(ge=0, le=20)] = 3.2


class SawCut(Model):
    """One step of a cut list: which size it changes and to what, and the name of the offcut where it is worth keeping."""

    size: Literal["length", "width", "thickness"]
    to: Size
    keep: Annotated[str, Field(max_length=80)] = ""


class Piece(Model):
    """One piece of a batch, as measured."""

    name: Name
    length: Size
    width: Size
    thickness: Size


class Batch(Model):
    """Pieces that are to be made alike. tolerance: of the heights in a group that shares one Z; allowance: trimmed off the
    smallest; nest: length and width of the nest they go into; play: the most that it is to leave; any_face: whether a
    piece may lie on any of its six faces."""

    pieces: Annotated[tuple[Piece, ...], Field(max_length=500)] = ()
    way: Literal["trim all to the smallest", "fewest groups"] = "fewest groups"
    tolerance: Annotated[float, Field(gt=0, le=50)] = 0.3
    allowance: Amount = 0.0
    nest_length: Amount = 0.0
    nest_width: Amount = 0.0
    play: Amount = 0.3
    any_face: bool = False


class Wood(Model):
    """A wood. kind: what its chips resist like; density kg/m³."""

    name: Name
    kind: Literal["soft", "medium", "hard"] = "medium"
    density: Rate = 600.0
    taken: str = ""


class Blank(Model):
    """A board in its own frame: length along X, width along Y, of the rectangle about it whatever its shape.

    outline: corners of any shape; doubt: ± of the outline. grain: its direction, degrees from X. moisture: per cent, and
    when it was taken. diagonals: as measured, front left to back right first. metal, old_paint, treated: what was found
    of old wood; nothing where nobody looked.
    """

    length: Board = 900.0
    width: Board = 300.0
    label_thickness: Size = 30.0
    shape: Literal["rectangle", "round", "oval", "outline"] = "rectangle"
    outline: Annotated[tuple[Spot, ...], Field(max_length=MOST_CORNERS)] = ()
    doubt: Annotated[float, Field(ge=0, le=100)] = 0.0
    photo: Photo | None = None
    grain: Annotated[float, Field(ge=-180, le=180)] = 0.0
    good_face: Literal["front", "back", "either"] = "either"
    moisture: Annotated[float, Field(gt=0, le=200)] | None = None
    moisture_taken: Annotated[str, Field(max_length=20)] = ""
    diagonals: tuple[Size, Size] | None = None
    flaws: Annotated[tuple[Flaw, ...], Field(max_length=200)] = ()
    coats: Annotated[tuple[Coat, ...], Field(max_length=20)] = ()
    reclaimed: bool | None = None
    metal: bool | None = None
    old_paint: bool | None = None
    treated: bool | None = None
    stock: Stock | None = None
    saw_cuts: Annotated[tuple[SawCut, ...], Field(max_length=40)] = ()
    batch: Batch | None = None
    calipers: Annotated[tuple[Reading, ...], Field(max_length=2000)] = ()
    heights: Annotated[tuple[TopHeight, ...], Field(max_length=5000)] = ()
    under: Annotated[tuple[Gap, ...], Field(max_length=5000)] = ()
    supports: Annotated[tuple[Support, ...], Field(max_length=60)] = ()
    rocks: bool | None = None


class Tool(Model):
    """A cutter. angle: included; tip: diameter of a V's flat; length: tip below the collet nut; chips in mm per tooth."""

    number: Annotated[int, Field(ge=1, le=99)]
    name: Name
    kind: Literal["flat", "ball", "vee", "surfacing", "drill"]
    diameter: Size
    angle: Annotated[float, Field(ge=0, le=180)] = 0.0
    tip: Amount = 0.0
    radius: Amount = 0.0
    teeth: Annotated[int, Field(ge=1, le=12)] = 2
    cutting_length: Size
    shank: Size
    length: Size
    spiral: Literal["up", "down", "straight", "compression"] = "straight"
    centre_cutting: bool = True
    marked_rpm: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    rpm: Rate
    feed: Rate
    plunge: Rate
    pass_depth: Size
    rub: Amount = 0.02
    taken: str = ""


class Dialect(Model):
    """What a control understands, told as capabilities."""

    units: Literal["mm", "inch"] = "mm"
    decimals: Annotated[int, Field(ge=2, le=6)] = 4
    line_numbers: bool = False
    comments: Literal["brackets", "semicolon", "none"] = "brackets"
    tool_change: Literal["separate", "pause", "word"] = "separate"
    dwell: Literal["s", "ms"] = "s"
    spin_up: Amount = 4.0


class Inserts(Model):
    """Threaded inserts in the spoilboard, in a grid from x, y on the bed. thread: of their screws."""

    x: Place
    y: Place
    across: Size = 100.0
    up: Size = 100.0
    columns: Annotated[int, Field(ge=1, le=60)] = 1
    rows: Annotated[int, Field(ge=1, le=60)] = 1
    thread: Size = 6.0


class Fence(Model):
    """A straight edge that stays on the bed from job to job: from x, y along its heading; the work lies on its left."""

    name: Name
    x: Place
    y: Place
    heading: Annotated[float, Field(ge=-360, le=360)] = 0.0
    length: Size = 300.0
    width: Size = 20.0
    height: Size = 12.0
    taken: str = ""


class Nest(Model):
    """A frame for repeated blanks: its opening is length × width with the stop corner at x, y, turned by its heading;
    walls rim wide and height high; relief: radius that its corners are relieved by; play: over the largest blank."""

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
    of the last skim; blocks: heights of packing at hand, as many of each as one likes; slot: what the slots are of."""

    inserts: Annotated[tuple[Inserts, ...], Field(max_length=20)] = ()
    fences: Annotated[tuple[Fence, ...], Field(max_length=20)] = ()
    nests: Annotated[tuple[Nest, ...], Field(max_length=20)] = ()
    scars: Annotated[tuple[Scar, ...], Field(max_length=400)] = ()
    skimmed: Annotated[str, Field(max_length=20)] = ""
    screws: Amount = 12.0
    blocks: Annotated[tuple[Size, ...], Field(max_length=40)] = ()
    slot: Literal["steel", "aluminium"] = "steel"
    slot_nut: Size = 10.0


class Sensor(Model):
    """A fixed tool sensor. x, y: on the bed; height: of its face above the spoilboard."""

    x: Place
    y: Place
    height: Size = 30.0


class DialMark(Model):
    """A mark of a spindle's dial that is set by hand, and its speed."""

    mark: Annotated[str, Field(min_length=1, max_length=20)]
    rpm: Rate


class WarmStep(Model):
    """A step of warming a spindle up."""

    rpm: Rate
    minutes: Annotated[float, Field(gt=0, le=60)]


class StopWord(Model):
    """A stop of a machine, and what it really stops."""

    name: Name
    does: Annotated[str, Field(max_length=200)] = ""


STOPS = (
    StopWord(name="Pause here", does="slows the axes to a stand; the spindle goes on turning"),
    StopWord(name="Stop here", does="axes and spindle, over the cable: not an emergency stop"),
    StopWord(name="Red button", does="drives and spindle without power; the place is lost, home after"),
)
POWER_ON = ("extraction", "control", "drives", "home", "spindle drive")
POWER_OFF = ("spindle stands", "drives", "control", "extraction")
WARM = (WarmStep(rpm=8000.0, minutes=2.0), WarmStep(rpm=12000.0, minutes=2.0), WarmStep(rpm=18000.0, minutes=2.0))


class Holding(Model):
    """What holding is reckoned with: shop rules, to be changed where a shop knows better. friction: of wood on the bed;
    factor: hold wanted over push; screw: N each way of one screw; tape: N/mm² in shear, peel: against lifting; pull: share
    of its push by which an up-cut pulls; bearing: N/mm² that wood bears under a nose; clearance: wanted beside holds;
    skin: least skin that holds a part; tab_shear: N/mm² of a tab across short grain; nose: degrees a strap may slope."""

    friction: Annotated[float, Field(gt=0, le=1.5)] = 0.2
    factor: Annotated[float, Field(ge=1, le=20)] = 2.0
    screw: Annotated[float, Field(ge=0, le=5000)] = 300.0
    tape: Annotated[float, Field(ge=0, le=2)] = 0.05
    peel: Annotated[float, Field(ge=0, le=2)] = 0.02
    pull: Annotated[float, Field(ge=0, le=3)] = 0.5
    bearing_soft: Annotated[float, Field(gt=0, le=50)] = 2.5
    bearing_hard: Annotated[float, Field(gt=0, le=50)] = 5.0
    clearance: Annotated[float, Field(ge=0, le=50)] = 3.0
    skin: Annotated[float, Field(ge=0, le=5)] = 0.3
    tab_shear: Annotated[float, Field(gt=0, le=20)] = 1.5
    nose: Annotated[float, Field(gt=0, le=30)] = 5.0


class Machine(Model):
    """A router. Home is back right at the top; rapids mm/min, accelerations mm/s², slots: Y of the T-slots.

    gantry: underside of its beam above the spoilboard, nought where nothing can reach it; gantry_front, gantry_back: from the
    spindle's middle to the beam's faces. shoe: diameter of a dust shoe, nought without one; shoe_above: how far its
    underside stands above the nut's, shoe_height: how tall it is.
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
    power_on: Annotated[tuple[Words, ...], Field(max_length=20)] = POWER_ON
    power_off: Annotated[tuple[Words, ...], Field(max_length=20)] = POWER_OFF
    warm: Annotated[tuple[WarmStep, ...], Field(max_length=20)] = WARM
    change_minutes: Amount = 4.0
    touch_minutes: Amount = 1.5
    dialect: Dialect = Dialect()
    taken: str = ""


LETTERS = {
    "strap": "C",
    "edge": "E",
    "wedges": "W",
    "screw": "S",
    "tape": "T",
    "glue": "G",
    "nest": "N",
}  # that names of holds begin with


class Hold(Model):
    """One hold. What its place means hangs on its kind:

    strap: (x, y) is the bolt, heading points from bolt to nose; nose and tail are the distances from the bolt to where nose
    and packing bear; into: what the bolt goes into; torque: N·m on its nut, or its force where that is nought.
    edge: (x, y) is the middle of the jaw against the work, heading into the work; height: its top above the spoilboard.
    wedges: the same, of a pair driven against a block body behind; shim: beside them.
    screw: (x, y) is its middle, through the wood into the spoilboard or an insert; above: of its head over the work; washer:
    its diameter; bite: how deep it goes; metal: what it is of.
    tape and glue: a strip of length along its heading and width across, under the work, its middle at (x, y); contact: share
    that sticks; fresh: freshly pressed and both faces sealed or skimmed.
    nest: of: the name of a nest on the bed, whose walls stop the push.
    """

    name: Name
    kind: Literal["strap", "edge", "wedges", "screw", "tape", "glue", "nest"]
    x: Place
    y: Place
    heading: Annotated[float, Field(ge=-360, le=360)] = 0.0
    width: Size = 36.0
    thickness: Size = 12.0
    nose: Size = 45.0
    tail: Size = 35.0
    packing: Amount = 0.0
    stud: Size = 8.0
    force: Annotated[float, Field(ge=0, le=50_000)] = 1500.0
    torque: Annotated[float, Field(ge=0, le=500)] = 0.0
    into: Literal["slot", "insert", "board"] = "slot"
    height: Size = 20.0
    body: Size = 60.0
    shim: Amount = 0.0
    diameter: Size = 4.0
    washer: Size = 12.0
    above: Amount = 4.0
    bite: Amount = 12.0
    pilot: bool = True
    metal: Literal["steel", "brass", "plastic"] = "steel"
    length: Size = 100.0
    contact: Annotated[float, Field(gt=0, le=1)] = 0.8
    fresh: bool = True
    of: Annotated[str, Field(max_length=80)] = ""


class Zero(Model):
    """Where X0 Y0 and Z0 are. x, y: a mark in blank coordinates, used when xy is ``mark``; outline middle: the middle of
    the outline's area.

    xy_way: by eye with a point; an edge, or a pair of opposite ones, touched with a pin or shank of diameter pin, or with
    the cutter itself; or a corner plate. touch_x, touch_y: where Z is touched, in blank coordinates. gauge: what stands
    under the tip when it is touched; gauge_edge: walls of a corner plate; gauge_name, gauge_checked: of the shop's register.
    later: whether tools fitted later touch off on the work again, or on the machine's fixed sensor.
    eye: ± of setting a point over a mark by eye. witness_x, witness_y: a mark that is not cut away, to look at later.
    """

    xy: Literal["front left", "front right", "back left", "back right", "centre", "outline middle", "mark"] = "centre"
    x: Place = 0.0
    y: Place = 0.0
    z: Literal["top", "bed"] = "top"
    xy_way: Literal["pointer", "pin", "cutter", "corner plate"] = "pointer"
    pin: Size = 6.0
    touch_x: Place | None = None
    touch_y: Place | None = None
    gauge: Literal["plate", "paper", "corner plate"] = "plate"
    later: Literal["touch", "sensor"] = "touch"
    gauge_thickness: Amount = 12.0
    gauge_edge: Amount = 10.0
    gauge_name: Annotated[str, Field(max_length=80)] = ""
    gauge_checked: Annotated[str, Field(max_length=20)] = ""
    eye: Annotated[float, Field(ge=0, le=5)] = 0.2
    witness_x: Place | None = None
    witness_y: Place | None = None


class TouchChoice(Model):
    """Where a tool fitted later touches off; blank coordinates."""

    tool: int
    x: Place
    y: Place


class Setup(Model):
    """One way the wood lies and is held, with one X0 Y0 and one Z0 plane. x, y: the blank's corner on the bed; skew: degrees
    that the blank lies turned by as measured, by which its programs are turned about X0 Y0.

    back: the second face of a surfacing, the board turned about a direction onto its cut face.
    """

    name: Literal["surface", "back", "front"]
    turn: Literal["about X", "about Y"] = "about X"
    x: Place
    y: Place
    skew: Annotated[float, Field(ge=-10, le=10)] = 0.0
    holds: Annotated[tuple[Hold, ...], Field(max_length=MOST_HOLDS)] = ()
    zero: Zero = Zero()
    touches: Annotated[tuple[TouchChoice, ...], Field(max_length=200)] = ()


class Surfacing(Model):
    """What is wanted of surfacing. stepover: share of the diameter; direction: of the passes, angle: degrees from X for one
    at an angle; path: over the plain rectangle or following the outline; area: all of the board, or only what the design
    uses; stop_after: passes to be run, nought for all; wished: thickness that is to be left, nought for all there is;
    hollow: how deep a hollow sanding takes; step_x, step_y: measured between passes of a test patch along X and along Y,
    with the side of each row that lies lower, and whether all steps are alike; seat: how the board is laid;
    shims_at_hand: thicknesses, as many of each as one likes."""

    wanted: Literal["ask", "yes", "no"] = "ask"
    tool: int = 1
    stepover: Annotated[float, Field(gt=0.02, le=0.95)] = 0.4
    limit: Size = 1.5
    last: Size = LAST_PASS
    cleanup: Amount = CLEANUP
    direction: Literal["along X", "along Y", "along the grain", "across the grain", "at an angle"] = "along X"
    angle: Annotated[float, Field(ge=-180, le=180)] = 0.0
    path: Literal["rectangle", "outline"] = "rectangle"
    way: Literal["both ways", "climb"] = "both ways"
    area: Literal["all", "used"] = "all"
    stop_after: Annotated[int, Field(ge=0, le=500)] = 0
    wished: Amount = 0.0
    hollow: Annotated[float, Field(ge=0, le=5)] = HOLLOW
    step_x: Annotated[float, Field(ge=0, le=5)] = 0.0
    step_y: Annotated[float, Field(ge=0, le=5)] = 0.0
    low_x: Literal["front", "back"] = "front"
    low_y: Literal["left", "right"] = "left"
    steps: Literal["equal", "alternating"] = "equal"
    seat: Literal["as it lies", "shimmed"] = "as it lies"
    shims_at_hand: Annotated[tuple[Size, ...], Field(max_length=20)] = ()


class Glyph(Model):
    """A glyph as used: its character and its outline in capital heights, placed in the line before tracking."""

    char: Annotated[str, Field(min_length=1, max_length=8)]
    x: Place
    path: Annotated[str, Field(max_length=200_000)]

    @field_validator("path")
    @classmethod
    def _an_outline(cls, path: str) -> str:
        if not OUTLINE.fullmatch(path):
            raise ValueError("a glyph's outline is closed runs of M, L, Q, C and Z with numbers under a thousand")
        return path


class TextLine(Model):
    """A line of lettering. height: of its capitals. glyphs: the outlines used, kept with the job; width and advances
    in capital heights."""

    text: Words
    face: Name
    height: Size
    tracking: Annotated[float, Field(ge=-0.5, le=3)] = 0.0
    align: Literal["left", "centre", "right"] = "centre"
    glyphs: Annotated[tuple[Glyph, ...], Field(max_length=400)] = ()
    width: Amount = 0.0


class Plate(Model):
    """A rounded plate cut out of the blank. x, y: its middle in blank coordinates; skin: left under the cut in the place of
    tabs, to be pared off by hand, nought for a cut right through."""

    x: Place
    y: Place
    width: Size
    height: Size
    corner: Amount = 20.0
    tool: int = 2
    allowance: Amount = CUTOUT_ALLOWANCE
    tabs: Annotated[int, Field(ge=0, le=24)] = 4
    tab_width: Size = 8.0
    tab_height: Size = 4.0
    skin: Annotated[float, Field(ge=0, le=10)] = 0.0


class Carving(Model):
    """Lettering and cut-out. x, y: middle of the lettering in blank coordinates; leading in heights of the line below."""

    lines: Annotated[tuple[TextLine, ...], Field(max_length=60)] = ()
    x: Place = 0.0
    y: Place = 0.0
    leading: Amount = 0.6
    margin: Amount = 15.0
    tool: int = 3
    plate: Plate | None = None
    sanding: Amount = 0.3
    painted: bool = True

    @field_validator("lines")
    @classmethod
    def _not_a_book(cls, lines: tuple[TextLine, ...]) -> tuple[TextLine, ...]:
        letters = sum(len(line.glyphs) for line in lines)
        if letters > MOST_LETTERS:
            raise ValueError(f"a job has {MOST_LETTERS} letters at most, and these are {letters}")
        return lines


class Acceptance(Model):
    """A care accepted, or a question answered, with a reason. inputs: hash of what it was said about."""

    code: str
    setup: str
    about: str = ""
    inputs: str
    reason: Annotated[str, Field(min_length=1, max_length=400)]
    at: str


class Job(Model):
    """The whole of what is planned."""

    format: int = FORMAT
    name: Name = "New job"
    unit: Literal["mm", "inch"] = "mm"
    tolerance: Literal["trial", "sign", "heirloom"] = "sign"
    irreplaceable: bool = False
    holding: Holding = Holding()
    blank: Blank = Blank()
    wood: Wood = Wood(name="elm")
    machine: Machine = Machine()
    tools: Annotated[tuple[Tool, ...], Field(max_length=200)] = ()
    surfacing: Surfacing = Surfacing()
    carving: Carving = Carving()
    setups: Annotated[tuple[Setup, ...], Field(max_length=8)] = (
        Setup(name="surface", x=150, y=200),
        Setup(name="front", x=150, y=200),
    )
    order: Annotated[tuple[Words, ...], Field(max_length=200)] = ()
    accepted: Annotated[tuple[Acceptance, ...], Field(max_length=1000)] = ()

    @field_validator("setups")
    @classmethod
    def _both_setups(cls, setups: tuple[Setup, ...]) -> tuple[Setup, ...]:
        if sorted(s.name for s in setups if s.name != "back") != ["front", "surface"] or len(setups) > 3:
            raise ValueError("a job has one setup called surface and one called front, and at most one called back")
        return setups

    def setup(self, name: str) -> Setup:
        """The setup of that name. Raises OperatorError when the job has none."""
        for setup in self.setups:
            if setup.name == name:
                return setup
        raise OperatorError(f"There is no setup “{name}”; this job has {', '.join(s.name for s in self.setups)}.")

    def tool(self, number: int) -> Tool:
        """The tool of that number. Raises OperatorError when the job has none."""
        for tool in self.tools:
            if tool.number == number:
                return tool
        raise OperatorError(f"Tool {number} is not in this job's table. Choose another, or add it under Tools.")


M = TypeVar("M", bound=Model)


def changed(model: M, **values: Any) -> M:
    """A copy with other values, validated. Raises OperatorError with a sentence that names the entry."""
    kept = {name: getattr(model, name) for name in type(model).model_fields}
    for name in values:
        if name not in kept:
            raise OperatorError(f"There is no entry “{name}” here.")
    try:
        return type(model).model_validate({**kept, **values})
    except ValidationError as error:
        raise OperatorError(complaint(error)) from None


def complaint(error: ValidationError) -> str:
    """Everything wrong in one sentence each, in an operator's words."""
    said = []
    for e in error.errors():
        where = " ".join(str(part).replace("_", " ") for part in e["loc"])
        message = e["msg"].removeprefix("Value error, ")
        said.append(f"{where or 'the job'}: {message[0].lower()}{message[1:]}")
    return "; ".join(said[:6]) + "."
