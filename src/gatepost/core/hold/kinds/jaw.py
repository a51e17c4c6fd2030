# SPDX-License-Identifier: GPL-3.0-or-later
"""What presses on the work's edge: edge clamps, and pairs of wedges."""

from __future__ import annotations

import math
from typing import Any, ClassVar

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.hold.kind import STAGE, Dragged, HoldingInputs, HoldKind, Offer, Setting, Way, behind
from gatepost.core.hold.margins import Grip
from gatepost.core.hold.places import HEADINGS, STEP
from gatepost.core.hold.solids import PartLook, Solid, along, fence_edge, first_contact
from gatepost.core.hold.together import TOUCHES
from gatepost.core.job.base import changed
from gatepost.core.job.hold import EdgeClamp, Hold, Holding, Wedges
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.machine import BedThings
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.turning import standing_in
from gatepost.core.units import mm
from gatepost.core.working import Named, working

JAW = 8.0  # how far into the wood a jaw's grip is taken to reach
BELOW = 1.0  # mm that holds stay below the finished plane
ACROSS = 350.0  # N/mm², stiffness of softwood across its grain
AGAINST = math.sqrt(0.5)  # cosine of how far from straight against a push what stops it may stand


class JawKind(HoldKind):
    """What holds by the edge; (x, y) is where it meets the work."""

    by = "edge"
    part: ClassVar[str]
    thing: ClassVar[str]
    look: ClassVar[PartLook]

    def solids(self, hold: Any, work: float, bed: BedThings | None = None) -> list[Solid]:
        """One body, from the work's edge back."""
        return [Solid(hold.name, self.part, along(hold, -hold.body, 0.0, hold.width), 0.0, hold.height, self.look)]

    def bearing(self, hold: Any, work: Polygon) -> Polygon:
        """Along its jaw."""
        return along(hold, 0.0, JAW, hold.width)

    def grip(self, hold: Any, work: Polygon, rules: Holding, bed: BedThings) -> Grip:
        """It presses; friction at its jaw holds as it would under it."""
        return Grip(hold.name, hold.force, 0.0, 0.0, np.array([self.touch_point(hold)]))

    def squeezes(self, hold: Any) -> float:
        """All of it."""
        return float(hold.force)

    def checks(self, held: HoldingInputs, hold: Any) -> list[Finding]:
        """Whether it bows the board, and whether it meets the edge."""
        place = Place(hold.x, hold.y, hold.height)
        said = _thin(held, hold, place)
        name = held.setup.name
        body = self.solids(hold, 0.0)[0].outline
        away = body.distance(held.work)
        if away > 1.0 or body.intersection(held.work).area > hold.width * 1.0:
            x, y = first_contact(held.work, hold.heading, hold.width, hold.x, hold.y)
            off = away or math.hypot(x - hold.x, y - hold.y)
            message = f"{hold.name}'s jaw does not meet the edge of the work: it is {mm(off, 2)} off."
            values = {"setup": name, "hold": hold.name, "x": x, "y": y}
            fixes = (Fix("set hold", values, f"Close {hold.name} on the edge"),)
            said.append(Finding("hold.jaw-off", Level.STOP, STAGE, message, name, None, fixes, place, hold.name))
        return said

    def over_plane(self, hold: Any, setup: str, plane: float) -> list[Finding]:
        """Whether it stays below the finished plane."""
        if hold.height <= plane - BELOW:
            return []
        message = f"{hold.name} stands {mm(hold.height, 2)} high and the finished face is at {mm(plane, 2)}: it must stay {mm(BELOW, 2)} below."
        low = math.floor((plane - BELOW) * 2.0) / 2.0
        fixes = (
            (Fix("set hold", {"setup": setup, "hold": hold.name, "height": low}, f"Set it to {mm(low, 2)}"),)
            if low > 2.0
            else ()
        )
        return [Finding("hold.above-plane", Level.STOP, "hold", message, setup, fixes=fixes, about=hold.name)]

    def ways(self, hold: Any) -> list[Way]:
        """Along the edge, or lower."""
        side: list[Way] = [
            ("Move {name} {d} right", lambda d: {"x": hold.x + d}),
            ("Move {name} {d} left", lambda d: {"x": hold.x - d}),
        ]
        if abs(math.sin(math.radians(hold.heading))) <= 0.5:
            side = [
                ("Move {name} {d} back", lambda d: {"y": hold.y + d}),
                ("Move {name} {d} forward", lambda d: {"y": hold.y - d}),
            ]
        return [*side, ("Set {name} {d} lower", lambda d: {"height": hold.height - d})]

    def setting(self, hold: Any) -> Setting:
        """Against the edge, below the face."""
        return Setting(
            f"Set {hold.name}: {self.thing} against the edge at X {mm(hold.x, 2)}, Y {mm(hold.y, 2)}.",
            "Below the face all along; squeezed, not bowed.", "top above the bed", hold.height, behind(hold, -15.0),
        )  # fmt: skip

    def set_to(self, hold: Any) -> str:
        """How high it stands."""
        return f", top at {mm(hold.height, 2)}"

    def dragged(self, hold: Any, to: Dragged) -> tuple[float, float]:
        """Its jaw stays on the edge that it faces."""
        return to.edge(hold.heading, hold.width, to.x, to.y)

    def name_at(self, hold: Any) -> tuple[float, float]:
        """Behind its body."""
        return behind(hold, hold.body + 16.0)


class EdgeKind(JawKind):
    """Edge clamps."""

    figures = EdgeClamp
    one, many, minutes = "edge clamp", "edge clamps", 1.5
    compared = "Edge clamps"
    part, thing, look = "edge clamp", "an edge clamp", PartLook("strap", 4, True)
    entries = (
        KindEntry("Jaw X", "length", "x"), KindEntry("Jaw Y", "length", "y"), KindEntry("Presses, degrees", "number", "heading"),
        KindEntry("Top above the bed", "length", "height"), KindEntry("Jaw is wide", "length", "width"), KindEntry("Reaches back", "length", "body"),
        KindEntry("Force", "number", "force", unit="N"),
    )  # fmt: skip

    def offers(self, job: Job, setup: Setup) -> list[Offer]:
        """At the front or the back edge."""
        return [Offer("Add an edge clamp", {**_beside(job, setup), "height": standing_in(job, setup).high * 0.6})]

    def tries(self, held: HoldingInputs, like: EdgeClamp | None) -> list[Hold]:
        """Every STEP along the edge, square to one of four directions."""
        return _along_edges(held, like or EdgeClamp(name="E1", x=0, y=0, heading=90))


class WedgesKind(JawKind):
    """Pairs of wedges."""

    figures = Wedges
    one, many, minutes = "pair of wedges", "pairs of wedges", 2.0
    compared = "Pairs of wedges"
    part, thing, look = "wedges", "a pair of wedges", PartLook("packing", 5, True)
    entries = (
        KindEntry("Meets the work at X", "length", "x"), KindEntry("Meets it at Y", "length", "y"), KindEntry("Presses, degrees", "number", "heading"),
        KindEntry("Top above the bed", "length", "height"), KindEntry("Pair is wide", "length", "width"), KindEntry("Reaches back", "length", "body"),
        KindEntry("Shim beside it", "length", "shim"), KindEntry("Force, about", "number", "force", unit="N"),
    )  # fmt: skip

    def checks(self, held: HoldingInputs, hold: Any) -> list[Finding]:
        """The same, and what it drives the work against."""
        said = super().checks(held, hold)
        if not _backed(held, hold):
            message = (
                f"{hold.name} drives the work away: wedges want a fence or another pair of wedges on the other side."
            )
            place = Place(hold.x, hold.y, hold.height)
            said.append(
                Finding("hold.no-stop", Level.STOP, STAGE, message, held.setup.name, place=place, about=hold.name)
            )
        return said

    def offers(self, job: Job, setup: Setup) -> list[Offer]:
        """At the front or the back edge."""
        height = standing_in(job, setup).high * 0.6
        made = {**_beside(job, setup), "height": height, "width": 60.0, "body": 80.0, "force": 400.0}
        return [Offer("Add a pair of wedges", made)]

    def tries(self, held: HoldingInputs, like: Wedges | None) -> list[Hold]:
        """Along the edges as edge clamps are, in pairs that drive against each other."""
        like = like or Wedges(
            name="W1", x=0, y=0, heading=90, width=60.0, body=80.0, force=400.0, height=0.6 * held.thick
        )
        return _along_edges(held, like)

    def marks(self, hold: Any, parts: list[Solid]) -> list[LineString]:
        """The pair's sloping faces."""
        corners = shapely.get_coordinates(parts[0].outline.minimum_rotated_rectangle.exterior)
        return [LineString(corners[[0, 2]])]


def _along_edges(held: HoldingInputs, like: Any) -> list[Hold]:
    """One like this every STEP along the edge, square to one of four directions."""
    x0, y0, x1, y1 = held.work.bounds
    out: list[Hold] = []
    for heading in HEADINGS:
        upright = heading in (90.0, 270.0)
        low, high = (x0, x1) if upright else (y0, y1)
        for at in np.arange(low + like.width / 2.0 + 2.0, high - like.width / 2.0 - 2.0 + 1e-9, STEP):
            x, y = (float(at), y0 if heading == 90.0 else y1) if upright else (x0 if heading == 0.0 else x1, float(at))
            fx, fy = first_contact(held.work, heading, like.width, x, y)
            out.append(changed(like, x=fx, y=fy, heading=heading))
    return out


def _beside(job: Job, setup: Setup) -> dict[str, Any]:
    """A place along the front or the back edge for one more hold, with its heading."""
    count = len(setup.holds)
    x, y = standing_in(job, setup).part(0.3 + 0.4 * ((count // 2) % 2), count % 2)
    return {"x": setup.x + x, "y": setup.y + y, "heading": 90.0 if count % 2 == 0 else 270.0}


def _thin(held: HoldingInputs, hold: EdgeClamp | Wedges, place: Place) -> list[Finding]:
    """Whether a board is so thin that side pressure bows it: slenderness across it, by Euler for pinned edges.

    A strip of the board as wide as it takes the jaw's force over four jaw widths; E of softwood across the grain.
    """
    name = held.setup.name
    way = math.radians(hold.heading)
    x0, y0, x1, y1 = held.work.bounds
    across = (x1 - x0) if abs(math.cos(way)) > abs(math.sin(way)) else (y1 - y0)
    bows = working(
        "3.14159265 ** 2 * stiffness * width * thickness ** 3 / 12 / across ** 2",
        Named("stiffness", ACROSS, "N/mm²"), Named("width", 4.0 * hold.width), Named("thickness", held.thick), Named("across", across),
        unit="force", assumption="a strip four jaws wide bows by Euler; wood pressed across its grain", shop_rule=True,
    )  # fmt: skip
    if hold.force > 0.5 * bows.result:
        message = (
            f"{hold.name} presses {hold.force:.0f} N on the edge of a board {mm(held.thick, 2)} thick, which bows from about "
            f"{bows.result:.0f} N: half of that at most, or hold it from above."
        )
        return [Finding("hold.bows", Level.CARE, STAGE, message, name, bows, (), place, hold.name)]
    return []


def _backed(held: HoldingInputs, hold: Wedges) -> bool:
    """Whether something stands on the other side of the work: a jaw or wedges that push back, a nest, or a fence ahead."""
    if held.by("walls"):
        return True
    way = np.array([math.cos(math.radians(hold.heading)), math.sin(math.radians(hold.heading))])
    for other in held.by("edge"):
        back = np.array([math.cos(math.radians(other.heading)), math.sin(math.radians(other.heading))])
        if way @ back < -AGAINST:
            return True
    middle = np.array(held.work.centroid.coords[0])
    touching = [fence_edge(f).intersection(held.work.buffer(TOUCHES)).centroid for f in held.machine.bed.fences]
    return any(
        not t.is_empty and way @ (np.array(t.coords[0]) - middle) > AGAINST * math.dist(t.coords[0], middle)
        for t in touching
    )
