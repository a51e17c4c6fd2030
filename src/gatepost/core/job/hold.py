# SPDX-License-Identifier: GPL-3.0-or-later
"""What holds the work, and what holding is reckoned with."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from gatepost.core.job.base import Amount, Model, Name, Place, Size, of_its_kind
from gatepost.core.tolerances import TAB_SHEAR

MOST_HOLDS = 60  # of a setup


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
    tab_shear: Annotated[float, Field(gt=0, le=20)] = TAB_SHEAR
    nose: Annotated[float, Field(gt=0, le=30)] = 5.0


Degrees = Annotated[float, Field(ge=-360, le=360)]
Force = Annotated[float, Field(ge=0, le=50_000)]
Share = Annotated[float, Field(gt=0, le=1)]


class Hold(Model):
    """One hold: its name, its kind, its place on the bed, the way it points; what more there is of it is its kind's."""

    LETTER: ClassVar[str] = "H"  # that names of its kind begin with
    name: Name
    kind: Name
    x: Place
    y: Place
    heading: Degrees = 0.0


class Strap(Hold):
    """(x, y) is the bolt, heading points from bolt to nose; nose and tail are the distances from the bolt to where nose and
    packing bear; into: what the bolt goes into; torque: N·m on its nut, or its force where that is 0; crank: degrees
    that its nose is bent down by; heel: what bears behind, jack: how high a jack bolt goes."""

    LETTER: ClassVar[str] = "C"
    kind: Literal["strap"] = "strap"
    width: Size = 36.0
    thickness: Size = 12.0
    nose: Size = 45.0
    tail: Size = 35.0
    packing: Amount = 0.0
    stud: Size = 8.0
    force: Force = 1500.0
    torque: Annotated[float, Field(ge=0, le=500)] = 0.0
    into: Literal["slot", "insert", "board"] = "slot"
    crank: Annotated[float, Field(ge=0, le=45)] = 0.0
    heel: Literal["packing", "jack bolt"] = "packing"
    jack: Size = 60.0


class EdgeClamp(Hold):
    """(x, y) is the middle of the jaw against the work, heading into the work; height: its top above the spoilboard; body: how
    far it reaches back."""

    LETTER: ClassVar[str] = "E"
    kind: Literal["edge"] = "edge"
    width: Size = 36.0
    height: Size = 20.0
    body: Size = 60.0
    force: Force = 1500.0


class Wedges(Hold):
    """The same of a pair driven against a block, body behind; shim: beside them."""

    LETTER: ClassVar[str] = "W"
    kind: Literal["wedges"] = "wedges"
    width: Size = 36.0
    height: Size = 20.0
    body: Size = 60.0
    shim: Amount = 0.0
    force: Force = 1500.0


class Screw(Hold):
    """(x, y) is its middle, through the wood into the spoilboard or an insert; above: of its head over the work; washer: its
    diameter; bite: how deep it goes; metal: what it is of."""

    LETTER: ClassVar[str] = "S"
    kind: Literal["screw"] = "screw"
    into: Literal["board", "insert"] = "board"
    diameter: Size = 4.0
    washer: Size = 12.0
    above: Amount = 4.0
    bite: Amount = 12.0
    pilot: bool = True
    metal: Literal["steel", "brass", "plastic"] = "steel"


class Tape(Hold):
    """A strip of length along its heading and width across, under the work, its middle at (x, y); contact: share that sticks;
    fresh: freshly pressed and both faces sealed or skimmed."""

    LETTER: ClassVar[str] = "T"
    kind: Literal["tape"] = "tape"
    length: Size = 100.0
    width: Size = 36.0
    contact: Share = 0.8
    fresh: bool = True


class Glue(Tape):
    """Tape on both faces with glue between."""

    LETTER: ClassVar[str] = "G"
    kind: Literal["glue"] = "glue"  # type: ignore[assignment]


class InNest(Hold):
    """of: the name of a nest on the bed, whose walls stop the push."""

    LETTER: ClassVar[str] = "N"
    kind: Literal["nest"] = "nest"
    of: Annotated[str, Field(max_length=80)] = ""


class Bolted(Hold):
    """A bolt from below: into: how far it goes into the work, thread: its diameter, force: N that it holds each way."""

    LETTER: ClassVar[str] = "D"
    kind: Literal["bolted"] = "bolted"
    into: Size = 10.0
    thread: Size = 6.0
    force: Amount = 1500.0


HOLDS: Mapping[str, type[Hold]] = {
    "strap": Strap, "edge": EdgeClamp, "wedges": Wedges, "screw": Screw, "tape": Tape, "glue": Glue, "nest": InNest, "bolted": Bolted,
}  # fmt: skip


def hold_of(values: Any, kinds: Mapping[str, type[Hold]]) -> Hold:
    """A hold of its kind. Raises ValueError with a sentence."""
    return of_its_kind(values, Hold, kinds, "way of holding")
