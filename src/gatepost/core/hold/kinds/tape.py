# SPDX-License-Identifier: GPL-3.0-or-later
"""Strips under the work: double-sided tape, and tape on both faces with glue between."""

from __future__ import annotations

import numpy as np
from shapely.geometry import LineString, Polygon

from gatepost.core.acts import GLUE
from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.hold.kind import STAGE, HoldingInputs, HoldKind, Offer, Setting
from gatepost.core.hold.margins import Grip, spread
from gatepost.core.hold.scars import scar_outline
from gatepost.core.hold.solids import Solid, along
from gatepost.core.job.hold import Glue, Hold, Holding, Tape
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.machine import BedThings
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.turning import standing_in
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

SMALL_PATCH = 400.0  # mm² of tape under which it holds nothing worth counting
SCARRED = 0.1  # share of a strip's area
YES = (("yes", True), ("no", False))
STRIPS = 3  # across the work, where no other number is asked for
INSET = 15.0  # mm of the outermost strips inside the ends
WIDE = 50.0


def strip(hold: Tape) -> Polygon:
    """Where a strip lies, bed XY."""
    return along(hold, -hold.length / 2.0, hold.length / 2.0, hold.width)


def stuck(hold: Tape, work: Polygon) -> Working:
    """Area of a strip that sticks to the work, mm²."""
    over = strip(hold).intersection(work).area
    return working("area * contact", Named("area", over, "mm²"), Named("contact", hold.contact, "number"), unit="mm²")


class TapeKind(HoldKind):
    """Double-sided tape."""

    figures = Tape
    one, many, minutes, once = "strip of tape", "strips of tape", 1.0, 2.0  # once: cleaning faces
    compared = "Double-sided tape"
    by = "under"
    words = "Add double-sided tape"
    layers = "double-sided tape"
    caution = ""
    entries = (
        KindEntry("Middle X", "length", "x"), KindEntry("Middle Y", "length", "y"), KindEntry("Runs, degrees", "number", "heading"),
        KindEntry("Long", "length", "length"), KindEntry("Wide", "length", "width"), KindEntry("Share that sticks", "number", "contact"),
        KindEntry("Fresh, on sealed or skimmed faces", "choice", "fresh", YES),
    )  # fmt: skip

    def bearing(self, hold: Tape, work: Polygon) -> Polygon:
        """Over all of it."""
        return strip(hold)

    def covers(self, hold: Tape, parts: list[Solid]) -> Polygon:
        """Under the work."""
        return strip(hold)

    def grip(self, hold: Tape, work: Polygon, rules: Holding, bed: BedThings) -> Grip:
        """It holds in shear, and less against lifting, where it is fresh."""
        area = stuck(hold, work).result if hold.fresh else 0.0
        under = strip(hold).intersection(work)
        places = spread(under) if under.area > 0.0 else np.array([self.touch_point(hold)])
        return Grip(hold.name, 0.0, rules.tape * area, rules.peel * area, places)

    def sticks(self, hold: Tape, rules: Holding) -> float | None:
        """Where it is fresh."""
        return rules.tape * hold.contact * (1.0 if hold.fresh else 0.0)

    def checks(self, held: HoldingInputs, hold: Tape) -> list[Finding]:
        """How much of it sticks."""
        name = held.setup.name
        place = Place(hold.x, hold.y)
        area = stuck(hold, held.work)
        said: list[Finding] = []
        if area.result < SMALL_PATCH:
            message = f"{hold.name} has {area.result / 100:.1f} cm² under the work: it holds nothing worth counting."
            said.append(Finding("hold.tape-off", Level.STOP, STAGE, message, name, area, (), place, hold.name))
        if not hold.fresh:
            message = f"{hold.name} is not fresh, or its faces are not sealed or skimmed: it is not counted. Press new tape before the run."
            fix = Fix("set hold", {"setup": name, "hold": hold.name, "fresh": True}, "It is fresh, on sealed faces")
            said.append(Finding("hold.tape-old", Level.CARE, STAGE, message, name, None, (fix,), place, hold.name))
        scarred = sum(strip(hold).intersection(scar_outline(s)).area for s in held.machine.bed.scars)
        share = scarred / max(strip(hold).area, 1e-9)
        if share > SCARRED:
            message = f"{hold.name} lies over scars of earlier cuts on {share * 100:.0f} % of its area: it sticks to the rest only. Skim there, or move it."
            said.append(Finding("hold.tape-scarred", Level.CARE, STAGE, message, name, None, (), place, hold.name))
        return said

    def setting(self, hold: Tape) -> Setting:
        """On clean faces."""
        return Setting(
            f"Lay {hold.name}: {self.layers}, its middle at X {mm(hold.x)}, Y {mm(hold.y)}.",
            "Sealed or skimmed faces, edge to edge, no creases, pressed down hard, room-warm.", "long", hold.length,
            self.touch_point(hold), caution=self.caution,
        )  # fmt: skip

    def set_to(self, hold: Tape) -> str:
        """Its size."""
        return f", {mm(hold.length)} × {mm(hold.width)}"

    def offers(self, job: Job, setup: Setup) -> list[Offer]:
        """Across the board, one after another."""
        count = sum(h.kind == self.name for h in setup.holds)
        board = standing_in(job, setup)
        x, y = board.part((0.5, 0.2, 0.8, 0.35, 0.65)[count % 5], 0.5)
        made = {"x": setup.x + x, "y": setup.y + y, "heading": 90.0, "length": board.y1 - board.y0, "width": WIDE}
        return [Offer(self.words, made)]

    def tries(self, held: HoldingInputs, like: Tape | None) -> list[Hold]:
        """Strips across the work, evenly spread, edge to edge."""
        x0, y0, x1, y1 = held.work.bounds
        out: list[Hold] = []
        for i in range(STRIPS):
            x = x0 + INSET + WIDE / 2.0 + (x1 - x0 - 2 * INSET - WIDE) * i / (STRIPS - 1)
            line = held.work.intersection(LineString([(x, y0 - 1), (x, y1 + 1)]))
            if line.is_empty:
                continue
            low, high = line.bounds[1], line.bounds[3]
            name = f"{self.figures.LETTER}{i + 1}"
            long = max(high - low, 1.0)
            out.append(self.figures(name=name, x=x, y=0.5 * (low + high), heading=90.0, length=long, width=WIDE))
        return out


class GlueKind(TapeKind):
    """Tape on both faces with glue between."""

    figures = Glue
    one, many, minutes, once = "strip of tape and glue", "strips of tape and glue", 2.0, 4.0  # once: waiting, too
    compared = "Tape with glue between"
    words = "Add tape with glue between"
    layers = "tape on both faces with glue between"
    caution = GLUE
    hatch = 5.0
