# SPDX-License-Identifier: GPL-3.0-or-later
"""A nest that stays on the bed: its walls stop the push, and hold nothing down."""

from __future__ import annotations

import numpy as np
from shapely.geometry import Polygon

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.hold.kind import STAGE, HoldingInputs, HoldKind, Offer, Setting, behind
from gatepost.core.hold.margins import Grip
from gatepost.core.hold.solids import Solid, nest_opening, nest_solids
from gatepost.core.job.hold import Hold, Holding, InNest
from gatepost.core.job.machine import BedThings, Nest
from gatepost.core.job.model import Job, Setup
from gatepost.core.units import area_words, mm


def nest_of(hold: InNest, bed: BedThings | None) -> Nest | None:
    """The nest that it names, where the bed has it."""
    return next((n for n in bed.nests if n.name == hold.of), None) if bed is not None else None


class NestKind(HoldKind):
    """Work that lies in a nest."""

    figures = InNest
    one, many, minutes = "nest", "nests", 0.5
    by = "walls"
    compared = "Nest"

    def solids(self, hold: InNest, work: float, bed: BedThings | None = None) -> list[Solid]:
        """Its walls."""
        nest = nest_of(hold, bed)
        return nest_solids(nest, hold.name) if nest is not None else []

    def bearing(self, hold: InNest, work: Polygon) -> Polygon:
        """All of the work."""
        return work

    def grip(self, hold: InNest, work: Polygon, rules: Holding, bed: BedThings) -> Grip:
        """Its walls stop the push as far as wood bears."""
        nest = nest_of(hold, bed)
        if nest is None:
            return super().grip(hold, work, rules, bed)
        x0, y0, x1, y1 = work.bounds
        walls = nest.height * min(nest.length, nest.width) * rules.bearing_soft
        return Grip(hold.name, 0.0, walls, 0.0, np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]))

    def checks(self, held: HoldingInputs, hold: InNest) -> list[Finding]:
        """Whether the work lies in it, and is held down."""
        name = held.setup.name
        nest = nest_of(hold, held.machine.bed)
        place = Place(hold.x, hold.y)
        if nest is None:
            message = f"There is no nest “{hold.of}” on this bed."
            return [Finding("hold.no-nest", Level.STOP, STAGE, message, name, place=place, about=hold.name)]
        over = held.work.difference(nest_opening(nest).buffer(1e-6)).area
        if over > 0.5:
            message = f"The work does not lie in {nest.name}: {area_words(over)} of it lies on its walls."
            x, y = _into(held, nest)
            fixes = (Fix("place blank", {"setup": name, "x": x, "y": y}, "Lay it against the nest's stop"),)
            return [Finding("hold.not-in-nest", Level.STOP, STAGE, message, name, None, fixes, place, hold.name)]
        if len(held.by("walls")) == len(held.setup.holds):
            message = f"{nest.name} stops the push and holds nothing down: put a clamp, screws or tape to it."
            return [Finding("hold.nest-lifts", Level.CARE, STAGE, message, name, place=place, about=hold.name)]
        return []

    def setting(self, hold: InNest) -> Setting:
        """Against its stop corner."""
        words = "Brush the nest out first: a chip lifts it."
        return Setting(f"Lay it into {hold.of}, against its stop corner.", words, isolate=False)

    def set_to(self, hold: InNest) -> str:
        """Which one."""
        return f", {hold.of}"

    def tries(self, held: HoldingInputs, like: InNest | None) -> list[Hold]:
        """The nest that the work goes into with the least play, with what holds it down there now. Raises OperatorError."""
        x0, y0, x1, y1 = held.work.bounds
        long, wide = x1 - x0, y1 - y0
        fitting = [
            n
            for n in held.machine.bed.nests
            if n.length - long >= 0.0 and n.width - wide >= 0.0 and not n.heading % 180.0
        ]
        if not fitting:
            raise OperatorError(f"No nest on this bed takes {mm(long)} × {mm(wide)}.")
        nest = min(fitting, key=lambda n: n.length + n.width)
        down = [h for h in held.setup.holds if held.kind(h).by in ("top", "under")]
        return [InNest(name="N1", x=nest.x, y=nest.y, heading=nest.heading, of=nest.name), *down]

    def offers(self, job: Job, setup: Setup) -> list[Offer]:
        """Every nest that has no work in it."""
        used = {h.of for h in setup.holds if isinstance(h, InNest)}
        return [
            Offer(f"Lay it into {n.name}", {"x": n.x, "y": n.y, "heading": n.heading, "of": n.name})
            for n in job.machine.bed.nests
            if n.name not in used
        ]

    def name_at(self, hold: InNest) -> tuple[float, float]:
        """Before its stop corner."""
        return behind(hold, 30.0)


def _into(held: HoldingInputs, nest: Nest) -> tuple[float, float]:
    """Where the blank's corner comes to lie when the work lies against a nest's stop corner (not turned)."""
    x0, y0, x1, y1 = held.work.bounds
    dx = nest.x - (x1 if nest.corner.endswith("right") else x0)
    dy = nest.y - (y1 if nest.corner.startswith("back") else y0)
    return held.setup.x + dx, held.setup.y + dy
