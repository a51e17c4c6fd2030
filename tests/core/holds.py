# SPDX-License-Identifier: GPL-3.0-or-later
"""Holds about one piece of work."""

import math

from shapely.geometry import Point, box

from gatepost.core.hold import margins as sums
from gatepost.core.hold.kind import HoldingInputs
from gatepost.core.job.hold import Holding, Strap
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Setup
from gatepost.core.plan.kinds import SHIPPED
from gatepost.core.working import Named, working

WORK = box(200, 200, 500, 400)
RULES = Holding()
KINDS = SHIPPED.holds


def strap(name="C1", x=300.0, y=160.0, **values):
    return Strap(name=name, x=x, y=y, **{"heading": 90.0, "nose": 50.0, "tail": 40.0, "packing": 30.0, **values})


def held(*holds, machine=None, **values):
    machine = machine or Machine(slots=(160.0, 440.0))
    setup = Setup(id="front", x=200, y=200, holds=holds)
    return HoldingInputs(
        setup, machine, RULES, WORK, lambda x, y: 30.0 if WORK.contains(Point(x, y)) else math.nan, KINDS, **values
    )


def grip(hold, work, rules, bed):
    return KINDS[hold.kind].grip(hold, work, rules, bed)


def load(push=100.0, pull=0.0, where=(250, 250, 450, 350)):
    return sums.CutLoad("cut-out", working("push", Named("push", push, "force"), unit="force"), 1.3, pull, where)
