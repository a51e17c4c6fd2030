# SPDX-License-Identifier: GPL-3.0-or-later
"""Each hold by itself: where it may stand, how high, what goes wrong with it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry import Point, Polygon

from gatepost.core.findings import Finding, Fix, Level, Place
from gatepost.core.hold import solids as shapes
from gatepost.core.hold.clearance import Gap
from gatepost.core.hold.margins import CutLoad, stuck
from gatepost.core.hold.solids import Solid
from gatepost.core.job.hold import Hold, Holding
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Setup
from gatepost.core.units import area_words, mm
from gatepost.core.working import Named, working

STAGE = "hold"
LEAST_BEARING = 10.0  # mm of nose that must lie on the work
ON_SLOT = 1.0  # mm by which a bolt may stand beside its slot or insert
SCREW_EDGE = 2.0  # diameters from the edge


@dataclass(frozen=True)
class HoldingInputs:
    """What holding is judged on. work: outline on the bed; height: of the work at a bed place; gaps: by program; loads: of
    each operation; weight: N; soft: whether the wood is; clear: whether solids are clear of every move; paths: how near a cut
    comes to a disc; rocks: what was answered to the rock test; thick: of the wood, mm; cup: how far it stands off the bed."""

    setup: Setup
    machine: Machine
    rules: Holding
    work: Polygon
    height: Callable[[float, float], float]
    gaps: tuple[tuple[str, Gap], ...] = ()
    loads: tuple[CutLoad, ...] = ()
    weight: float = 0.0
    soft: bool = True
    clear: Callable[[list[Solid]], bool] = lambda _: True
    paths: Callable[[float, float, float], float] = lambda x, y, r: math.inf
    rocks: str = ""
    thick: float = 30.0
    cup: Callable[[float, float], float] = lambda x, y: 0.0


def with_gaps(held: HoldingInputs, gaps: tuple[tuple[str, Gap], ...]) -> HoldingInputs:
    """The same with other gaps."""
    return replace(held, gaps=gaps)


def work_height(held: HoldingInputs, hold: Hold) -> float:
    """Height of the work where a hold bears on it; just inside the edge when the place itself is off."""
    x, y = shapes.touch_point(hold)
    height = held.height(x, y)
    if math.isnan(height):
        inner = held.work.buffer(-1.0)
        spot = shapely.get_coordinates(shapely.shortest_line(held.work if inner.is_empty else inner, Point(x, y)))[0]
        height = held.height(float(spot[0]), float(spot[1]))
    return 0.0 if math.isnan(height) else height


def _strap_findings(held: HoldingInputs, hold: Hold) -> list[Finding]:
    work = work_height(held, hold)
    angle = shapes.nose_angle(hold, work)
    length = hold.nose + hold.tail
    said: list[Finding] = []
    place = Place(*shapes.touch_point(hold), work)
    name = held.setup.name
    if round(angle.result, 9) < 0.0:
        message = f"{hold.name}'s nose points up by {-angle.result:.1f}°: it pushes the work away and works loose."
        said.append(
            Finding(
                "hold.nose-up", Level.STOP, STAGE, message, name, angle, _packing(held, hold, work), place, hold.name
            )
        )
    elif round(angle.result, 9) > held.rules.nose:
        lower = work + length * math.tan(math.radians(held.rules.nose))
        message = (
            f"{hold.name}'s nose points down by {angle.result:.1f}°; over {held.rules.nose:.0f}° change the packing."
        )
        fix = Fix(
            "set hold",
            {"setup": name, "hold": hold.name, "packing": lower},
            f"Lower {hold.name}'s packing to {mm(lower)}",
        )
        said.append(Finding("hold.nose-steep", Level.CARE, STAGE, message, name, angle, (fix,), place, hold.name))
    bearing = shapes.pad(hold).intersection(held.work).area / hold.width
    if bearing < LEAST_BEARING - 1e-6:
        message = f"{hold.name}'s nose has {mm(max(bearing, 0.0))} on the work; {mm(LEAST_BEARING)} at least is wanted."
        said.append(Finding("hold.off-work", Level.STOP, STAGE, message, name, place=place, about=hold.name))
    body = next(s for s in shapes.solids(hold, work, held.machine.bed) if s.part == "packing")
    if body.outline.intersection(held.work).area > 1.0:
        message = f"{hold.name}'s packing stands where the work lies. Move the strap away from the work."
        said.append(Finding("hold.packing-on-work", Level.STOP, STAGE, message, name, place=place, about=hold.name))
    said += _foot(held, hold) + _pressed(held, hold, place)
    return said


def _packing(held: HoldingInputs, hold: Hold, work: float) -> tuple[Fix, ...]:
    """Packing as high as the work or a little higher, from the blocks at hand where there are some."""
    setup, name = held.setup.name, hold.name
    most = work + (hold.nose + hold.tail) * math.tan(math.radians(held.rules.nose))
    stack = shapes.packing_from(held.machine.bed.blocks, work, most) if held.machine.bed.blocks else None
    if stack is None:
        return (
            Fix("set hold", {"setup": setup, "hold": name, "packing": work}, f"Set {name} on {mm(work)} of packing"),
        )
    words = " + ".join(mm(b) for b in stack)
    return (Fix("set hold", {"setup": setup, "hold": name, "packing": sum(stack)}, f"Set {name} on blocks of {words}"),)


def _foot(held: HoldingInputs, hold: Hold) -> list[Finding]:
    """Whether a bolt has something to go into, and whether it goes too far."""
    name, machine = held.setup.name, held.machine
    place = Place(hold.x, hold.y)
    said: list[Finding] = []
    if hold.into == "slot" and machine.slots:
        nearest = min(machine.slots, key=lambda s: abs(s - hold.y))
        if abs(nearest - hold.y) > ON_SLOT:
            message = f"{hold.name}'s bolt is not over a slot: the nearest is at Y {mm(nearest)}."
            fix = Fix("set hold", {"setup": name, "hold": hold.name, "y": nearest}, f"Put {hold.name} over it")
            said.append(Finding("hold.no-slot", Level.STOP, STAGE, message, name, None, (fix,), place, hold.name))
    if hold.into == "insert":
        spots = shapes.insert_places(machine.bed)
        if not spots:
            message = f"{hold.name} is to go into an insert, and this bed has none."
            said.append(Finding("hold.no-insert", Level.STOP, STAGE, message, name, place=place, about=hold.name))
        else:
            x, y = min(spots, key=lambda q: math.hypot(q[0] - hold.x, q[1] - hold.y))
            if math.hypot(x - hold.x, y - hold.y) > ON_SLOT:
                message = f"{hold.name} is not over an insert: the nearest is at X {mm(x)}, Y {mm(y)}."
                fix = Fix("set hold", {"setup": name, "hold": hold.name, "x": x, "y": y}, f"Put {hold.name} over it")
                said.append(Finding("hold.no-insert", Level.STOP, STAGE, message, name, None, (fix,), place, hold.name))
    return said


def _pressed(held: HoldingInputs, hold: Hold, place: Place) -> list[Finding]:
    """What a nose presses on the wood, and whether slot or insert takes the stud's engagement."""
    name = held.setup.name
    said: list[Finding] = []
    under = shapes.pad(hold).intersection(held.work).area
    limit = held.rules.bearing_soft if held.soft else held.rules.bearing_hard
    if under > 1.0:
        pressing = working(
            "force / area", Named("force", shapes.clamp_force(hold).result, "force"), Named("area", under, "mm²"),
            unit="N/mm²", assumption=f"wood bears about {limit:g} N/mm² under a nose", shop_rule=True,
        )  # fmt: skip
        if pressing.result > limit:
            message = (
                f"{hold.name} presses {pressing.result:.1f} N/mm² into the wood, which bears about {limit:g}: it marks it. Put a pad "
                "under the nose, or pull it up less."
            )
            said.append(Finding("hold.bruise", Level.CARE, STAGE, message, name, pressing, (), place, hold.name))
    into = shapes.engagement(hold, held.machine)
    if hold.into == "slot" and into.result > held.machine.bed.slot_nut + 1e-9:
        message = (
            f"{hold.name}'s stud wants {mm(into.result)} of thread and the slot's nut is {mm(held.machine.bed.slot_nut)} thick: a stud "
            "right through it jacks the slot open. Take a thicker nut or a thinner stud."
        )
        said.append(Finding("hold.nut-thin", Level.CARE, STAGE, message, name, into, (), place, hold.name))
    return said


def _edge_findings(held: HoldingInputs, hold: Hold) -> list[Finding]:
    place = Place(hold.x, hold.y, hold.height)
    said = _thin(held, hold, place)
    name = held.setup.name
    body = shapes.solids(hold, 0.0)[0].outline
    away = body.distance(held.work)
    if away > 1.0 or body.intersection(held.work).area > hold.width * 1.0:
        x, y = shapes.first_contact(held.work, hold.heading, hold.width, hold.x, hold.y)
        off = away or math.hypot(x - hold.x, y - hold.y)
        message = f"{hold.name}'s jaw does not meet the edge of the work: it is {mm(off)} off."
        values = {"setup": name, "hold": hold.name, "x": x, "y": y}
        fixes = (Fix("set hold", values, f"Close {hold.name} on the edge"),)
        said.append(Finding("hold.jaw-off", Level.STOP, STAGE, message, name, None, fixes, place, hold.name))
    return said


def _thin(held: HoldingInputs, hold: Hold, place: Place) -> list[Finding]:
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
            f"{hold.name} presses {hold.force:.0f} N on the edge of a board {mm(held.thick)} thick, which bows from about "
            f"{bows.result:.0f} N: half of that at most, or hold it from above."
        )
        return [Finding("hold.bows", Level.CARE, STAGE, message, name, bows, (), place, hold.name)]
    return []


ACROSS = 350.0  # N/mm², stiffness of softwood across its grain


def _wedge_findings(held: HoldingInputs, hold: Hold) -> list[Finding]:
    said = _edge_findings(held, hold)
    if not _backed(held, hold):
        message = f"{hold.name} drives the work away: wedges want a fence or another pair of wedges on the other side."
        place = Place(hold.x, hold.y, hold.height)
        said.append(Finding("hold.no-stop", Level.STOP, STAGE, message, held.setup.name, place=place, about=hold.name))
    return said


def _backed(held: HoldingInputs, hold: Hold) -> bool:
    """Whether something stands on the other side of the work: a jaw or wedges that push back, a nest, or a fence ahead."""
    way = np.array([math.cos(math.radians(hold.heading)), math.sin(math.radians(hold.heading))])
    for other in held.setup.holds:
        back = np.array([math.cos(math.radians(other.heading)), math.sin(math.radians(other.heading))])
        if other.kind == "nest" or (other.kind in shapes.SIDES and way @ back < -AGAINST):
            return True
    middle = np.array(held.work.centroid.coords[0])
    touching = [shapes.fence_edge(f).intersection(held.work.buffer(TOUCHES)).centroid for f in held.machine.bed.fences]
    return any(
        not t.is_empty and way @ (np.array(t.coords[0]) - middle) > AGAINST * math.dist(t.coords[0], middle)
        for t in touching
    )


AGAINST = math.sqrt(0.5)  # cosine of how far from straight against a push what stops it may stand
TOUCHES = 0.5  # mm within which the work lies against a fence


def _screw_findings(held: HoldingInputs, hold: Hold) -> list[Finding]:
    name = held.setup.name
    work = work_height(held, hold)
    place = Place(hold.x, hold.y, work)
    said = _foot(held, hold) if hold.into == "insert" else []
    at = Point(hold.x, hold.y)
    inside = held.work.exterior.distance(at) if held.work.contains(at) else -held.work.distance(at)
    wanted = SCREW_EDGE * hold.diameter
    if inside < wanted - 1e-9:
        where = "off the work" if inside < 0 else f"{mm(inside)} from its edge"
        message = f"{hold.name} is {where}; {mm(wanted)} is wanted, two diameters, or the wood splits."
        level = Level.STOP if inside < hold.diameter / 2.0 else Level.CARE
        said.append(Finding("hold.screw-edge", level, STAGE, message, name, place=place, about=hold.name))
    if not hold.pilot:
        message = f"{hold.name} has no pilot hole: it pushes the board up and can split it."
        fix = Fix("set hold", {"setup": name, "hold": hold.name, "pilot": True}, "Drill a pilot")
        said.append(Finding("hold.no-pilot", Level.CARE, STAGE, message, name, None, (fix,), place, hold.name))
    if hold.into != "insert":
        if held.machine.bed.screws <= 0.0:
            message = f"{hold.name} goes into the spoilboard, and this bed takes no screws."
            said.append(Finding("hold.no-screws", Level.STOP, STAGE, message, name, place=place, about=hold.name))
        elif hold.bite > held.machine.spoilboard:
            message = f"{hold.name} bites {mm(hold.bite)} and the spoilboard is {mm(held.machine.spoilboard)} thick: it meets the bed."
            fix = Fix(
                "set hold",
                {"setup": name, "hold": hold.name, "bite": held.machine.spoilboard - 2.0},
                "Take a shorter screw",
            )
            said.append(Finding("hold.too-long", Level.STOP, STAGE, message, name, None, (fix,), place, hold.name))
    near = held.paths(hold.x, hold.y, hold.washer / 2.0)
    if hold.metal == "steel" and near < NEAR_CUT:
        message = (
            f"{hold.name} is steel, and a cut comes within {mm(max(near, 0.0))} of it: take plastic or brass there, or move it. A "
            "struck screw makes embers."
        )
        fix = Fix("set hold", {"setup": name, "hold": hold.name, "metal": "brass"}, "Take a brass one")
        said.append(Finding("hold.steel-near", Level.CARE, STAGE, message, name, None, (fix,), place, hold.name))
    return said


NEAR_CUT = 10.0  # mm within which a screw that could be met is not to be of steel
SMALL_PATCH = 400.0  # mm² of tape under which it holds nothing worth counting


def _tape_findings(held: HoldingInputs, hold: Hold) -> list[Finding]:
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
    scarred = sum(
        shapes.strip(hold).intersection(shapely.LineString(s.points).buffer(s.width / 2.0)).area
        for s in held.machine.bed.scars
        if len(s.points) > 1
    )
    share = scarred / max(shapes.strip(hold).area, 1e-9)
    if share > SCARRED:
        message = f"{hold.name} lies over scars of earlier cuts on {share * 100:.0f} % of its area: it sticks to the rest only. Skim there, or move it."
        said.append(Finding("hold.tape-scarred", Level.CARE, STAGE, message, name, None, (), place, hold.name))
    return said


SCARRED = 0.1  # share of a strip's area


def _nest_findings(held: HoldingInputs, hold: Hold) -> list[Finding]:
    name = held.setup.name
    nest = next((n for n in held.machine.bed.nests if n.name == hold.of), None)
    place = Place(hold.x, hold.y)
    if nest is None:
        message = f"There is no nest “{hold.of}” on this bed."
        return [Finding("hold.no-nest", Level.STOP, STAGE, message, name, place=place, about=hold.name)]
    opening = shapes.nest_opening(nest)
    over = held.work.difference(opening.buffer(1e-6)).area
    if over > 0.5:
        message = f"The work does not lie in {nest.name}: {area_words(over)} of it stand over its walls."
        x, y = _into_nest(held, nest.x, nest.y, nest.corner)
        fixes = (Fix("place blank", {"setup": name, "x": x, "y": y}, "Lay it against the nest's stop"),)
        return [Finding("hold.not-in-nest", Level.STOP, STAGE, message, name, None, fixes, place, hold.name)]
    if not any(h.kind != "nest" for h in held.setup.holds):
        message = f"{nest.name} stops the push and holds nothing down: put a clamp, screws or tape to it."
        return [Finding("hold.nest-lifts", Level.CARE, STAGE, message, name, place=place, about=hold.name)]
    return []


def _into_nest(held: HoldingInputs, x: float, y: float, corner: str) -> tuple[float, float]:
    """Where the blank's corner comes to lie when the work lies against a nest's stop corner (not turned)."""
    x0, y0, x1, y1 = held.work.bounds
    dx = x - (x1 if corner.endswith("right") else x0)
    dy = y - (y1 if corner.startswith("back") else y0)
    return held.setup.x + dx, held.setup.y + dy


OWN = {
    "strap": _strap_findings, "edge": _edge_findings, "wedges": _wedge_findings, "screw": _screw_findings, "tape": _tape_findings,
    "glue": _tape_findings, "nest": _nest_findings,
}  # fmt: skip


def own_findings(held: HoldingInputs, hold: Hold) -> list[Finding]:
    """What is wrong with a hold by itself."""
    return OWN[hold.kind](held, hold)
