# SPDX-License-Identifier: GPL-3.0-or-later
"""What holds the work, and what holding is reckoned with."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gatepost.core.job.base import Amount, Model, Name, Place, Size

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
    tab_shear: Annotated[float, Field(gt=0, le=20)] = 1.5
    nose: Annotated[float, Field(gt=0, le=30)] = 5.0


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
