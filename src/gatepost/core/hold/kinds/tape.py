# SPDX-License-Identifier: GPL-3.0-or-later
"""Strips under the work: double-sided tape, and tape on both faces with glue between."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from gatepost.core.acts import GLUE
from gatepost.core.findings import Figure, Finding, Fix, Level, Place, Table
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
THICK = 0.15  # mm of one layer of tape; a shop rule
SCARRED = 0.1  # share of a strip's area
YES = (("yes", True), ("no", False))
STRIPS = 3  # across the work, where no other number is asked for
INSET = 15.0  # mm of the outermost strips inside the ends
WIDE = 50.0


def strip(hold: Tape) -> Polygon:
    """Where a strip lies, bed XY."""
    return along(hold, -hold.length / 2.0, hold.length / 2.0, hold.width)


def stuck(hold: Tape, work: Polygon, bed: BedThings | None = None) -> Working:
    """Area of a strip that sticks to the work and to the bed, scars of earlier cuts left out, mm²."""
    under = strip(hold).intersection(work)
    lost = scarred(hold, under, bed)
    return working(
        "(area - scarred) * contact", Named("area", under.area, "mm²"), Named("scarred", lost, "mm²"), Named("contact", hold.contact, "number"), unit="mm²"
    )  # fmt: skip


def scarred(hold: Tape, under: Polygon, bed: BedThings | None) -> float:
    """How much of what lies under the work lies over scars, mm²."""
    if bed is None or not bed.scars or under.is_empty:
        return 0.0
    return float(under.intersection(shapely.union_all([scar_outline(s) for s in bed.scars])).area)


class TapeKind(HoldKind):
    """Double-sided tape."""

    figures = Tape
    one, many, minutes, once = "strip of tape", "strips of tape", 1.0, 2.0  # once: cleaning faces
    compared = "Double-sided tape"
    by = "under"
    words = "Add double-sided tape"
    layers = "double-sided tape"
    sheets = 1.0
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
        area = stuck(hold, work, bed).result if hold.fresh else 0.0
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
        area = stuck(hold, held.work, held.machine.bed)
        said: list[Finding] = []
        if area.result < SMALL_PATCH:
            message = f"{hold.name} has {area.result / 100:.1f} cm² under the work: it holds nothing worth counting."
            said.append(Finding("hold.tape-off", Level.STOP, STAGE, message, name, area, (), place, hold.name))
        if not hold.fresh:
            message = f"{hold.name} is not fresh, or its faces are not sealed or skimmed: it is not counted. Press new tape before the run."
            fix = Fix("set hold", {"setup": name, "hold": hold.name, "fresh": True}, "It is fresh, on sealed faces")
            said.append(Finding("hold.tape-old", Level.CARE, STAGE, message, name, None, (fix,), place, hold.name))
        share = scarred(hold, strip(hold), held.machine.bed) / max(strip(hold).area, 1e-9)
        if share > SCARRED:
            message = f"{hold.name} lies over scars of earlier cuts on {share * 100:.0f} % of its area: it sticks to the rest only. Skim there, or move it."
            said.append(Finding("hold.tape-scarred", Level.CARE, STAGE, message, name, None, (), place, hold.name))
        return said

    def told(self, held: HoldingInputs, holds: list[Tape]) -> list[Figure]:
        """How much of it the heaviest push asks for, and what it does to heights."""
        out: list[Figure] = []
        push = max((q.push.result * q.peak for q in held.loads), default=0.0)
        contact = min(h.contact for h in holds)
        if push > 0.0 and held.rules.tape > 0.0:
            wanted = working(
                "factor * push / (tape * contact) / 100", Named("factor", held.rules.factor, "times"), Named("push", push, "force"),
                Named("tape", held.rules.tape, "N/mm²"), Named("contact", contact, "number"), unit="cm²", assumption="tape in shear; a share of it sticks", shop_rule=True,
            )  # fmt: skip
            have = sum(stuck(h, held.work, held.machine.bed).result for h in holds if h.fresh) / contact / 100.0
            out += [
                Figure("Tape that the heaviest push asks for", wanted.result, "cm²", wanted),
                Figure("Tape under the work, scars left out", have, "cm²"),
            ]
        if held.setup.zero.z == "bed":
            out.append(
                Figure(
                    "It lifts the work off the bed by about",
                    THICK * self.sheets,
                    working=working(
                        "sheets * tape",
                        Named("sheets", self.sheets, "count"),
                        Named("tape", THICK),
                        shop_rule=True,
                        assumption="with Z0 on the bed, what is cut from the top is deeper by it: measure it, or touch on the top",
                    ),
                    places=2,
                )
            )
        return out

    def tables(self, held: HoldingInputs, holds: list[Tape]) -> list[Table]:
        """Of each strip, how much lies over scars and what it holds."""
        if not held.machine.bed.scars:
            return []
        rows: list[tuple[str, ...]] = [("strip", "under the work", "over scars", "holds")]
        for h in holds:
            under = strip(h).intersection(held.work)
            lost = scarred(h, under, held.machine.bed)
            force = held.rules.tape * stuck(h, held.work, held.machine.bed).result if h.fresh else 0.0
            rows.append(
                (h.name, f"{under.area / 100:.0f} cm²", f"{100 * lost / max(under.area, 1e-9):.0f} %", f"{force:.0f} N")
            )
        skim = (
            "; skim it there"
            if any(scarred(h, strip(h), held.machine.bed) > SCARRED * strip(h).area for h in holds)
            else ""
        )
        return [(f"Tape over the spoilboard's scars{skim}", tuple(rows))]

    def setting(self, hold: Tape) -> Setting:
        """On clean faces."""
        return Setting(
            f"Lay {hold.name}: {self.layers}, its middle at X {mm(hold.x, 2)}, Y {mm(hold.y, 2)}.",
            "Sealed or skimmed faces, edge to edge, no creases, pressed down hard, room-warm.", "long", hold.length,
            self.touch_point(hold), caution=self.caution,
        )  # fmt: skip

    def set_to(self, hold: Tape) -> str:
        """Its size."""
        return f", {mm(hold.length, 2)} × {mm(hold.width, 2)}"

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
    sheets = 2.0
    caution = GLUE
    hatch = 5.0
