# SPDX-License-Identifier: GPL-3.0-or-later
"""How a piece comes into a setup from the one before, and the pieces that there may be several of."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import Amount, Called, Model, Name, Place, Size, Words, with_ids
from gatepost.core.units import mm

MOST_ROWS, MOST_COPIES, MOST_MARKS = 2000, 60, 24  # of a series, of a setup, of a piece


class Register(Model):
    """How the piece comes from the setup before; what more there is of it is its kind's."""

    kind: Name


class AsItLies(Register):
    """It is not moved: what held it may be changed, one hold after another."""

    kind: Literal["as it lies"] = "as it lies"


class TurnedBy(Register):
    """It is turned over, stood on another face, or turned on its plane."""

    kind: Literal["turned"] = "turned"


class BroughtBack(Register):
    """It was taken from the machine, and is brought back. measured: whether it was measured again since."""

    kind: Literal["brought back"] = "brought back"
    measured: bool = False


class OnPins(Register):
    """It is laid on pins that stand in the spoilboard. on: rows of holes that the pins go through; work, bed: how much wider than its pin a hole is, in the
    work and in the bed, mm."""

    kind: Literal["pins"] = "pins"
    on: Annotated[tuple[Name, ...], Field(max_length=6)] = ()
    work: Amount = 0.1
    bed: Amount = 0.05


class PieceMark(Model):
    """A feature of the drawing that is looked for on the piece: x, y on the face that is up, as it is read; normal: outward of an edge, degrees against the clock
    from the face's X, nothing for the centre of a hole or a point; across: of a hole that a pin goes into, mm, 0 for what is looked at."""

    id: Called = ""
    title: Words = ""
    x: Place
    y: Place
    normal: Annotated[float, Field(ge=-360, le=360)] | None = None
    across: Amount = 0.0


class ByMarks(Register):
    """It is found by marks that are measured on it. eye: what a look over a mark is good to; pin: what touches edges; good: how far a mark may lie beside
    its place; first: what it is laid to already by a photo, nothing where it was laid by eye, mm."""

    kind: Literal["marks"] = "marks"
    marks: Annotated[tuple[PieceMark, ...], Field(max_length=MOST_MARKS)] = ()
    eye: Amount = 0.1
    pin: Size = 6.0
    good: Size = 0.3
    first: Amount = 0.0

    @field_validator("marks", mode="before")
    @classmethod
    def _named(cls, marks: Any) -> Any:
        return with_ids(marks, "mark-")


class Ring(Model):
    """A shallow ring cut round each of some old holes before all else, whose width says where they are. operation: that cuts it; of: the row of old holes; limit:
    how far off its middle one may be, mm; right, back: by how much higher the board lies at its right end than at its left, and at its back than at its front, mm."""

    operation: Called
    of: Called
    limit: Size = 0.1
    right: Annotated[float, Field(ge=-50, le=50)] = 0.0
    back: Annotated[float, Field(ge=-50, le=50)] = 0.0


class InStepNest(Register):
    """It is laid, turned over, into the frame that its own cut-out left. cut: the cut-out; of: the artwork whose outline its stepped rim was made about; slot: as wide
    as it is, mm; measured: whether it was, in a test slot; by: what that was cut by and in, in words; clearance: a side, that the rim is made with; apart: between its two levels; lean: by how much a wall stands off upright over its
    height; key: whether it has one."""

    kind: Literal["nest"] = "nest"
    cut: Called = ""
    of: Called = ""
    slot: Size = 6.0
    measured: bool = False
    by: Words = ""
    clearance: Amount = 0.1
    apart: Amount = 0.0
    lean: Amount = 0.0
    key: bool = True


def slot_between(opening: float, piece: float) -> float:
    """How wide the slot between an opening and the piece that came out of it is: half of what the one is wider, mm. Raises OperatorError."""
    slot = (opening - piece) / 2.0
    if not 0.5 <= slot <= 60.0:
        raise OperatorError(
            f"An opening of {mm(opening, 2)} about a piece of {mm(piece, 2)} has no slot between: measure both across the same way."
        )
    return slot


class AgainstEdge(Register):
    """It is laid against an edge that was milled true at this machine, and against a stop at its end, or off both by blocks. fence, stop: of the bed's fences."""

    kind: Literal["edge"] = "edge"
    fence: Words = ""
    stop: Words = ""
    block: Amount = 0.0


REGISTERS: Mapping[str, type[Register]] = {
    "as it lies": AsItLies,
    "turned": TurnedBy,
    "brought back": BroughtBack,
    "pins": OnPins,
    "marks": ByMarks,
    "nest": InStepNest,
    "edge": AgainstEdge,
}


class SeriesRow(Model):
    """One piece of a series: what its texts say, by column."""

    id: Called = ""
    values: Annotated[dict[Name, Words], Field(max_length=60)] = {}


class Copy(Model):
    """One more piece in a setup: its corner on the bed, and the row of the series that it is."""

    id: Called = ""
    x: Place
    y: Place
    row: Called = ""
