# SPDX-License-Identifier: GPL-3.0-or-later
"""The board as it is measured: readings, flaws, coats, its photo, the stock it is sawn from, the batch that it is one of."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationInfo, field_validator

from gatepost.core.job.base import Amount, Board, Called, Model, Name, Place, Rate, Size, Spot, with_ids
from gatepost.core.tolerances import MOST_CORNERS, PICKING

TAPE = 0.5  # mm by which a tape measure may be out; a shop rule
PICTURE = r"^photo-[0-9a-f]{12}(-squared)?\.(jpg|png)$"  # name of a part that holds a picture


class Reading(Model):
    """A caliper reading of thickness, and where. keep: what was answered when it looked odd."""

    id: Called = ""
    x: Place
    y: Place
    thickness: Size
    keep: bool | None = None


class TopHeight(Model):
    """A reading of the top's height above the spoilboard, the board lying as it will be surfaced."""

    id: Called = ""
    x: Place
    y: Place
    z: Size


class UnderGap(Model):
    """A reading of the underside: how far it stands above the spoilboard, the board lying as it will be surfaced."""

    id: Called = ""
    x: Place
    y: Place
    z: Amount


class Support(Model):
    """Where a shim goes under the board, blank coordinates."""

    id: Called = ""
    x: Place
    y: Place


class Flaw(Model):
    """A fault of the wood. x, y: its middle, or one end where it runs to another, to_x, to_y; size: how far across; depth: down from its
    face, nothing where unknown; again: whether it was looked at again once its face was surfaced."""

    id: Called = ""
    kind: Literal["crack", "knot", "bark", "hole"] = "crack"
    face: Literal["front", "back"] = "front"
    x: Place
    y: Place
    size: Size = 10.0
    depth: Amount | None = None
    to_x: Place | None = None
    to_y: Place | None = None
    again: bool = False

    @property
    def ends(self) -> tuple[tuple[float, float], ...]:
        """Its middle, or both its ends."""
        if self.to_x is None or self.to_y is None:
            return ((self.x, self.y),)
        return (self.x, self.y), (self.to_x, self.to_y)

    @property
    def middle(self) -> tuple[float, float]:
        """Half-way along it."""
        (x, y), (u, v) = self.ends[0], self.ends[-1]
        return 0.5 * (x + u), 0.5 * (y + v)


class Moisture(Model):
    """A reading of moisture, per cent, and when it was taken."""

    percent: Annotated[float, Field(gt=0, le=200)]
    taken: Annotated[str, Field(min_length=1, max_length=20)]


class Coat(Model):
    """A coat, film or mask that is on a face before carving. thickness: of the dry film."""

    id: Called = ""
    name: Name = "primer"
    face: Literal["front", "back"] = "front"
    thickness: Annotated[float, Field(ge=0, le=20)] = 0.1


Pixels = tuple[Annotated[float, Field(ge=-1e5, le=1e5)], Annotated[float, Field(ge=-1e5, le=1e5)]]


class Photo(Model):
    """An overhead photo with a scale in it. file, squared: names of the job's parts that hold it as taken and squared up.

    marks: two or four places in it, px from its top left, of two marks ``across`` apart or of a rectangle's corners,
    across × up, anticlockwise from its front left. above: of the edge seen over the scale; lens: height of the lens over
    the scale, 0 where it is not known; under: the place under the lens, mm from the first mark, where it was
    measured; box: of the squared picture, blank coordinates; sensitivity: -1 to 1, how soon something counts as the board; by_hand: the
    outline clicked one corner after another, px, where it was not traced; check: two more marks and their true distance.
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
    sensitivity: Annotated[float, Field(ge=-1, le=1)] = 0.0
    by_hand: Annotated[tuple[Pixels, ...], Field(max_length=400)] = ()
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

    id: Called = ""
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


STEMS = {  # of ids of what there may be several of
    "calipers": "caliper", "heights": "height", "under": "gap", "supports": "support", "flaws": "flaw", "coats": "coat", "saw_cuts": "saw-cut",
}  # fmt: skip


@lru_cache(maxsize=16)
def _bounds(corners: tuple[Spot, ...]) -> tuple[float, float, float, float]:
    """x0, y0, x1, y1 about some corners."""
    x, y = zip(*corners)
    return min(x), min(y), max(x), max(y)


class Blank(Model):
    """A board in its own frame, which never moves: length along X and width along Y are the box that it is measured in, and over
    which it is turned; a board with an outline may reach past it, or not fill it.

    outline: corners of any shape; doubt: ± of the outline. grain: its direction, degrees from X. moisture: per cent, and
    when it was taken; moisture_before: as it was taken before that, the oldest first. bow: gap under a straightedge along its whole
    length, as it lies by itself. diagonals: as measured, front left to back right first. metal, old_paint, treated: what was found
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
    moisture_before: Annotated[tuple[Moisture, ...], Field(max_length=60)] = ()
    bow: Amount = 0.0
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
    under: Annotated[tuple[UnderGap, ...], Field(max_length=5000)] = ()
    supports: Annotated[tuple[Support, ...], Field(max_length=60)] = ()
    rocks: bool | None = None

    @field_validator(*STEMS, mode="before")
    @classmethod
    def _called(cls, things: Any, info: ValidationInfo) -> Any:
        return with_ids(things, f"{STEMS[str(info.field_name)]}-")

    @property
    def readings(self) -> tuple[Reading | TopHeight, ...]:
        """What was measured on the face that is up, caliper readings first."""
        return (*self.calipers, *self.heights)

    @property
    def outline_doubt(self) -> float:
        """± of its length and width, mm: as traced or entered, else of a tape measure."""
        return self.doubt or TAPE

    @property
    def box(self) -> tuple[float, float, float, float]:
        """x0, y0, x1, y1 of the rectangle about its wood."""
        if self.shape != "outline" or len(self.outline) < 3:
            return 0.0, 0.0, self.length, self.width
        return _bounds(self.outline)

    @property
    def across(self) -> tuple[float, float]:
        """How long and how wide its wood is."""
        x0, y0, x1, y1 = self.box
        return x1 - x0, y1 - y0

    @property
    def middle(self) -> tuple[float, float]:
        """Of the rectangle about its wood."""
        x0, y0, x1, y1 = self.box
        return 0.5 * (x0 + x1), 0.5 * (y0 + y1)

    def part(self, fx: float, fy: float) -> tuple[float, float]:
        """A place at so much of the way along and across that rectangle, from its lower left."""
        (x0, y0, _, _), (long, wide) = self.box, self.across
        return x0 + fx * long, y0 + fy * wide
