# SPDX-License-Identifier: GPL-3.0-or-later
"""Bolts from below: into the bed's own board, or into threads in the work's underside. Nothing of them stands above."""

from __future__ import annotations

import numpy as np
from shapely.geometry import Polygon

from gatepost.core.findings import Figure, Finding, Level, Place
from gatepost.core.hold.kind import STAGE, HoldingInputs, HoldKind, Offer, Setting
from gatepost.core.hold.margins import Grip
from gatepost.core.hold.solids import Solid
from gatepost.core.job.hold import Bolted, Hold, Holding
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.machine import BedThings
from gatepost.core.job.model import Job, Setup
from gatepost.core.units import mm
from gatepost.core.working import Named, working

COVER = 3.0  # mm of wood that stays over a bolt's end at least; a shop rule
ROUND = 8.0  # mm about a bolt over which it bears


class BoltedKind(HoldKind):
    """A bolt from below."""

    figures = Bolted
    one, many, minutes, once = "bolt from below", "bolts from below", 2.0, 2.0
    by = "under"
    entries = (
        KindEntry("Middle X", "length", "x"), KindEntry("Middle Y", "length", "y"), KindEntry("Goes in", "length", "into"), KindEntry("Thread", "length", "thread"),
        KindEntry("Holds, N", "number", "force"),
    )  # fmt: skip

    def covers(self, hold: Bolted, parts: list[Solid]) -> Polygon:
        """Under the work, where it goes in."""
        return self.bearing(hold, Polygon())

    def grip(self, hold: Bolted, work: Polygon, rules: Holding, bed: BedThings) -> Grip:
        """It holds every way."""
        return Grip(hold.name, 0.0, hold.force, hold.force, np.array([[hold.x, hold.y]]))

    def checks(self, held: HoldingInputs, hold: Bolted) -> list[Finding]:
        """That its end stays under what is cut."""
        left = working(
            "thick - into",
            Named("thick", held.thick),
            Named("into", hold.into),
            assumption=f"{COVER:g} mm over its end",
            shop_rule=True,
        )
        if left.result >= COVER:
            return []
        message = f"{hold.name} goes {mm(hold.into)} into wood of {mm(held.thick)}: {mm(max(left.result, 0.0))} stay over it, and a cutter meets steel."
        return [
            Finding(
                "hold.bolt-deep",
                Level.STOP,
                STAGE,
                message,
                held.setup.name,
                left,
                (),
                Place(hold.x, hold.y),
                hold.name,
            )
        ]

    def told(self, held: HoldingInputs, holds: list[Bolted]) -> list[Figure]:
        """How much they hold together."""
        return [Figure("Bolts from below hold together", sum(h.force for h in holds), "force")]

    def setting(self, hold: Bolted) -> Setting:
        """How it is set."""
        return Setting(
            f"Is {hold.name} tight, from below?",
            "Hand tight and a quarter more; its head under the bed. Nothing of it may stand up.",
            place=(hold.x, hold.y),
        )

    def offers(self, job: Job, setup: Setup) -> list[Offer]:
        """One in the next corner of the work."""
        there = four(job, setup, min(40.0, 0.2 * min(job.blank.across)))
        one = there[sum(isinstance(h, Bolted) for h in setup.holds) % len(there)]
        return [Offer("Add a bolt from below", {"x": one.x, "y": one.y})]

    def set_to(self, hold: Bolted) -> str:
        """What it is set to."""
        return f"{mm(hold.into)} in, thread {mm(hold.thread)}"


def four(job: Job, setup: Setup, in_from: float = 40.0) -> list[Hold]:
    """One near each corner."""
    x, y = job.blank.across
    return [
        Bolted(name=f"D{n}", x=setup.x + px, y=setup.y + py)
        for n, (px, py) in enumerate(
            ((in_from, in_from), (x - in_from, in_from), (x - in_from, y - in_from), (in_from, y - in_from)), 1
        )
    ]
