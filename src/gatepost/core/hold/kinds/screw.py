# SPDX-License-Identifier: GPL-3.0-or-later
"""A screw with its washer, through the work into the spoilboard or an insert."""

from __future__ import annotations

import numpy as np
from shapely.geometry import LineString, Point, Polygon

from gatepost.core.findings import Figure, Finding, Fix, Level, Place
from gatepost.core.hold.kind import STAGE, Dragged, HoldingInputs, HoldKind, Offer, Setting, Way, work_height
from gatepost.core.hold.kinds.feet import foot, to_insert
from gatepost.core.hold.margins import Grip
from gatepost.core.hold.places import STEP
from gatepost.core.hold.solids import COSINE_16, PartLook, Solid, insert_places
from gatepost.core.job.base import changed
from gatepost.core.job.hold import Hold, Holding, Screw
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.machine import BedThings
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.turning import standing_in
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

FROM_EDGE = 2.0  # diameters
NEAR_CUT = 10.0  # mm within which a screw that could be met is not to be of steel
INTO = (("the spoilboard", "board"), ("an insert", "insert"))
METALS = (("steel", "steel"), ("brass", "brass"), ("plastic", "plastic"))
YES = (("yes", True), ("no", False))
SHAFT, HEAD = PartLook("stud", 2), PartLook("strap", 8, True)


def pilot(diameter: float, soft: bool) -> Working:
    """The pilot hole in what a screw bites into, mm: 0.6 of its diameter in soft wood and board, 0.75 in hard wood."""
    return working("share * diameter", Named("share", 0.6 if soft else 0.75, "number"), Named("diameter", diameter), shop_rule=True,
                   assumption="through the work itself a hole of the screw's own diameter, so that it pulls down and does not jack")  # fmt: skip


class ScrewKind(HoldKind):
    """Screws."""

    figures = Screw
    one, many, minutes = "screw", "screws", 1.5
    compared = "Screws"
    entries = (
        KindEntry("X", "length", "x"), KindEntry("Y", "length", "y"), KindEntry("Goes into", "choice", "into", INTO),
        KindEntry("Diameter", "length", "diameter"), KindEntry("Washer", "length", "washer"), KindEntry("Head above the work", "length", "above"),
        KindEntry("Bites", "length", "bite"), KindEntry("Of", "choice", "metal", METALS), KindEntry("Pilot drilled", "choice", "pilot", YES),
    )  # fmt: skip

    def solids(self, hold: Screw, work: float, bed: BedThings | None = None) -> list[Solid]:
        """Head and shaft."""
        at = Point(hold.x, hold.y)
        head = at.buffer(hold.washer / 2.0 / COSINE_16, quad_segs=8)
        shaft = at.buffer(hold.diameter / 2.0 / COSINE_16, quad_segs=8)
        return [
            Solid(hold.name, "screw head", head, work, work + hold.above, HEAD),
            Solid(hold.name, "screw", shaft, -hold.bite, work, SHAFT),
        ]

    def bearing(self, hold: Screw, work: Polygon) -> Polygon:
        """Under its washer."""
        return Point(hold.x, hold.y).buffer(hold.washer / 2.0)

    def grip(self, hold: Screw, work: Polygon, rules: Holding, bed: BedThings) -> Grip:
        """It holds sideways and down by itself."""
        return Grip(hold.name, 0.0, rules.screw, rules.screw, np.array([self.touch_point(hold)]))

    def checks(self, held: HoldingInputs, hold: Screw) -> list[Finding]:
        """Its place, its pilot, how deep it goes, and what it is of where a cut comes near."""
        name = held.setup.name
        place = Place(hold.x, hold.y, work_height(held, hold))
        said = foot(held, hold) if hold.into == "insert" else []
        at = Point(hold.x, hold.y)
        inside = held.work.exterior.distance(at) if held.work.contains(at) else -held.work.distance(at)
        wanted = FROM_EDGE * hold.diameter
        if inside < wanted - 1e-9:
            where = "off the work" if inside < 0 else f"{mm(inside, 2)} from its edge"
            message = f"{hold.name} is {where}; {mm(wanted, 2)} is wanted, two diameters, or the wood splits."
            level = Level.STOP if inside < hold.diameter / 2.0 else Level.CARE
            said.append(Finding("hold.screw-edge", level, STAGE, message, name, place=place, about=hold.name))
        if not hold.pilot:
            message = f"{hold.name} has no pilot hole: it pushes the board up and can split it."
            fix = Fix("set hold", {"setup": name, "hold": hold.name, "pilot": True}, "Drill a pilot")
            said.append(Finding("hold.no-pilot", Level.CARE, STAGE, message, name, None, (fix,), place, hold.name))
        if hold.into != "insert":
            said += _bites(held, hold, place)
        near = held.paths(hold.x, hold.y, hold.washer / 2.0)
        if hold.metal == "steel" and near < NEAR_CUT:
            message = (
                f"{hold.name} is steel, and a cut comes within {mm(max(near, 0.0), 2)} of it: take plastic or brass there, or move it. A "
                "struck screw makes embers."
            )
            fix = Fix("set hold", {"setup": name, "hold": hold.name, "metal": "brass"}, "Take a brass one")
            said.append(Finding("hold.steel-near", Level.CARE, STAGE, message, name, None, (fix,), place, hold.name))
        return said

    def told(self, held: HoldingInputs, holds: list[Screw]) -> list[Figure]:
        """Pilots and lengths."""
        out: list[Figure] = []
        for d in sorted({h.diameter for h in holds}):
            hole = pilot(d, held.soft)
            out.append(Figure(f"Pilot for screws of {mm(d, 2)}", hole.result, working=hole, places=1))
        thick = max(work_height(held, h) for h in holds)
        deepest = max(h.bite for h in holds)
        length = working(
            "work + bite",
            Named("work", thick),
            Named("bite", deepest),
            assumption="under its head, the washer's own thickness added",
        )
        out.append(Figure("Screws, long under the head", length.result, working=length))
        if any(h.into == "board" for h in holds):
            most = working(
                "work + spoilboard - 2",
                Named("work", thick),
                Named("spoilboard", held.machine.spoilboard),
                shop_rule=True,
                assumption="2 mm kept over the bed itself",
            )
            out.append(Figure("and no longer than", most.result, working=most))
        return out

    def ways(self, hold: Screw) -> list[Way]:
        """Any way, where no insert has it."""
        if hold.into == "insert":
            return []
        return [
            ("Move {name} {d} right", lambda d: {"x": hold.x + d}), ("Move {name} {d} left", lambda d: {"x": hold.x - d}),
            ("Move {name} {d} back", lambda d: {"y": hold.y + d}), ("Move {name} {d} forward", lambda d: {"y": hold.y - d}),
        ]  # fmt: skip

    def setting(self, hold: Screw) -> Setting:
        """Through a pilot hole."""
        return Setting(
            f"Set {hold.name}: a {hold.metal} screw with its washer at X {mm(hold.x, 2)}, Y {mm(hold.y, 2)}.",
            "Through a pilot hole, clear of every path; not so tight that it pulls the board down.", "into the bed", hold.bite,
            self.touch_point(hold),
        )  # fmt: skip

    def set_to(self, hold: Screw) -> str:
        """Which one, and how deep."""
        return f", {mm(hold.diameter, 2)} {hold.metal}, {mm(hold.bite, 2)} into the bed"

    def offers(self, job: Job, setup: Setup) -> list[Offer]:
        """In the corners, one after another."""
        count = len(setup.holds)
        board = standing_in(job, setup)
        x = setup.x + (board.x0 + 15.0 if count % 2 == 0 else board.x1 - 15.0)
        y = setup.y + (board.y0 + 15.0 if count % 4 < 2 else board.y1 - 15.0)
        bite = job.machine.bed.screws or 12.0
        return [Offer("Add a screw", {"x": x, "y": y, "heading": 90.0, "into": "board", "bite": bite})]

    def tries(self, held: HoldingInputs, like: Screw | None) -> list[Hold]:
        """Every STEP along a line inside the edge, or in every insert."""
        like = like or Screw(name="S1", x=0, y=0, heading=90, metal="brass")
        if like.into == "insert":
            return [changed(like, x=x, y=y) for x, y in insert_places(held.machine.bed)]
        inner = held.work.buffer(-max(2.0 * like.diameter, like.washer / 2.0 + 1.0))
        if inner.is_empty:
            return []
        line: LineString = (inner if inner.geom_type == "Polygon" else max(inner.geoms, key=lambda g: g.area)).exterior
        spots = [line.interpolate(at) for at in np.arange(0.0, line.length, STEP)]
        return [changed(like, x=p.x, y=p.y) for p in spots]

    def dragged(self, hold: Screw, to: Dragged) -> tuple[float, float]:
        """To an insert, where one is to have it."""
        return to_insert(hold, to) if hold.into == "insert" and to.snap else (to.x, to.y)

    def marks(self, hold: Screw, parts: list[Solid]) -> list[LineString]:
        """The cross of its drive."""
        x, y, reach = hold.x, hold.y, 0.3 * hold.washer / COSINE_16
        return [LineString([(x - reach, y), (x + reach, y)]), LineString([(x, y - reach), (x, y + reach)])]

    def name_at(self, hold: Screw) -> tuple[float, float]:
        """Before it."""
        return hold.x, hold.y - hold.washer / 2.0 - 14.0


def _bites(held: HoldingInputs, hold: Screw, place: Place) -> list[Finding]:
    """Whether the spoilboard may have it, and is thick enough."""
    name = held.setup.name
    if held.machine.bed.screws <= 0.0:
        message = f"{hold.name} goes into the spoilboard, and this bed takes no screws."
        return [Finding("hold.no-screws", Level.STOP, STAGE, message, name, place=place, about=hold.name)]
    if hold.bite <= held.machine.spoilboard:
        return []
    message = f"{hold.name} bites {mm(hold.bite, 2)} and the spoilboard is {mm(held.machine.spoilboard, 2)} thick: it meets the bed."
    values = {"setup": name, "hold": hold.name, "bite": held.machine.spoilboard - 2.0}
    fix = Fix("set hold", values, "Take a shorter screw")
    return [Finding("hold.too-long", Level.STOP, STAGE, message, name, None, (fix,), place, hold.name)]
