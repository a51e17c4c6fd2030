# SPDX-License-Identifier: GPL-3.0-or-later
"""A kind of operation and a way of holding that nothing else knows: dots along a line, and a sandbag beside the work."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from shapely.geometry import Point, Polygon, box

from gatepost.core.cutting import Drawn, Engaged, Envelope, Site
from gatepost.core.findings import Figure, Finding, Level
from gatepost.core.hold.kind import STAGE, HoldingInputs, HoldKind, Offer, Setting
from gatepost.core.hold.margins import Grip
from gatepost.core.hold.solids import Solid
from gatepost.core.job.base import Model, Place, Size
from gatepost.core.job.hold import Hold, Holding
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.machine import BedThings
from gatepost.core.job.model import Job, Setup
from gatepost.core.motion import Pen
from gatepost.core.operation_kind import JudgedBy, OperationKind, OperationTold, Tools
from gatepost.core.plan.kinds import SHIPPED, Kinds
from gatepost.core.units import mm


class Dimple(Model):
    """Dots from (x0, y) to (x1, y), so far apart, so deep."""

    tool: int = 2
    x0: Place = 20.0
    x1: Place = 100.0
    y: Place = 15.0
    apart: Size = 10.0
    depth: Size = 1.5


class DimpleKind(OperationKind):
    name, figures, one, many = "dimple", Dimple, "row of dimples", "rows of dimples"
    entries = (
        KindEntry("End mill", "tool", "tool", (("flat", "flat"),)), KindEntry("From X", "length", "x0"), KindEntry("To X", "length", "x1"),
        KindEntry("At Y", "length", "y"), KindEntry("Apart", "length", "apart"), KindEntry("Deep", "length", "depth"),
    )  # fmt: skip

    def places(self, d: Dimple) -> np.ndarray:
        return np.arange(d.x0, d.x1 + 1e-9, d.apart)

    def cuts(self, figures: Dimple, tools: Tools, site: Site) -> tuple[Drawn, ...]:
        (tool,) = tools
        pen = Pen(*site.home(tool))
        pen.rapid(z=site.travel)
        for x in self.places(figures):
            pen.rapid(x=float(x), y=figures.y)
            pen.rapid(z=site.highest + 2.0)
            pen.feed(tool.plunge, z=site.face - figures.depth)
            pen.rapid(z=site.travel)
        return (Drawn(tool, pen.moves(), Engaged(tool.diameter, figures.depth, 1.0)),)

    def envelope(self, figures: Dimple, tools: Tools, site: Site) -> Envelope:
        (tool,) = tools
        reach = tool.diameter / 2.0 + site.cell

        def dots() -> Polygon:
            return (
                Point(figures.x0, figures.y)
                .buffer(reach)
                .union(box(figures.x0, figures.y - reach, figures.x1 + reach, figures.y + reach))
            )

        return Envelope(dots, site.face - figures.depth - 0.01, key=(figures, tool))

    def told(self, figures: Dimple, tools: Tools, at: JudgedBy) -> OperationTold:
        count = len(self.places(figures))
        deep = figures.depth > 0.5 * at.thickness
        words = f"Dimples {mm(figures.depth)} deep go more than half through."
        found = (Finding("carve.dimple-deep", Level.CARE, "carve", words, at.setup),) if deep else ()
        return OperationTold((Figure("Dimples", str(count), "words"),), found, f"{count} dimples")


class Sandbag(Hold):
    """A bag of sand on the bed against the work."""

    LETTER: ClassVar[str] = "B"
    kind: Literal["sandbag"] = "sandbag"
    weight: Size = 150.0  # N


class SandbagKind(HoldKind):
    figures, one, many, by = Sandbag, "sandbag", "sandbags", "edge"
    entries = (
        KindEntry("X", "length", "x"),
        KindEntry("Y", "length", "y"),
        KindEntry("Weighs", "number", "weight", unit="N"),
    )

    def solids(self, hold: Sandbag, work: float, bed: BedThings | None = None) -> list[Solid]:
        return [Solid(hold.name, "bag", box(hold.x - 11, hold.y - 30, hold.x + 11, hold.y), 0.0, 12.0)]

    def grip(self, hold: Sandbag, work: Polygon, rules: Holding, bed: BedThings) -> Grip:
        return Grip(hold.name, hold.weight, 0.0, 0.0, np.array([[hold.x, hold.y]]))

    def checks(self, held: HoldingInputs, hold: Sandbag) -> list[Finding]:
        away = held.work.distance(Point(hold.x, hold.y))
        message = f"{hold.name} lies {mm(away)} from the work."
        return (
            [Finding("hold.bag-off", Level.STOP, STAGE, message, held.setup.name, about=hold.name)] if away > 1 else []
        )

    def setting(self, hold: Sandbag) -> Setting:
        return Setting(
            f"Lay {hold.name}: a bag of {hold.weight:g} N against the edge.",
            "Dry, and tied shut.",
            "weighs",
            hold.weight,
        )

    def set_to(self, hold: Sandbag) -> str:
        return f", {hold.weight:g} N"

    def offers(self, job: Job, setup: Setup) -> list[Offer]:
        return [Offer("Add a sandbag", {"x": setup.x + job.blank.length / 2, "y": setup.y})]


KINDS = Kinds("tests.toys:KINDS", {**SHIPPED.operations, "dimple": DimpleKind()}, SHIPPED.artwork, {**SHIPPED.holds, "sandbag": SandbagKind()})  # fmt: skip
