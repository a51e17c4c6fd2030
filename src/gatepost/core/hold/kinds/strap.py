# SPDX-License-Identifier: GPL-3.0-or-later
"""A strap on packing: a bolt pulls its middle down, the nose presses the work."""

from __future__ import annotations

import math
from typing import ClassVar

import numpy as np
from shapely.geometry import Point, Polygon

from gatepost.core.findings import Figure, Finding, Fix, Level, Place, Table
from gatepost.core.hold.kind import STAGE, Dragged, HoldingInputs, HoldKind, Offer, Setting, Way, behind, work_height
from gatepost.core.hold.kinds.blocks import packing_from, stacks
from gatepost.core.hold.kinds.feet import foot, to_insert
from gatepost.core.hold.margins import Grip
from gatepost.core.hold.places import HEADINGS, INSET, LONGEST_NOSE, SHORTEST_NOSE, STEP
from gatepost.core.hold.solids import PartLook, Solid, along, first_contact, insert_places, snapped_to_slot
from gatepost.core.job.base import changed
from gatepost.core.job.hold import Hold, Holding, Strap
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.machine import BedThings, Machine
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.turning import standing_in
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

WASHER, THREADS, NUT_SHARE = 1.6, 3.0, 0.8  # mm, mm over the nut, nut height in stud diameters (ISO 4032)
PAD = 14.0  # how much of the nose bears on the work
BLOCK = 30.0  # packing's length under the tail
HEEL = 8.0  # how far the strap passes the middle of its packing
LEAST_BEARING = 10.0  # mm of nose that must lie on the work
INTO = (("a slot", "slot"), ("an insert", "insert"))
HEELS = (("packing", "packing"), ("a jack bolt", "jack bolt"))
PACKING, STUD = PartLook("packing", 3), PartLook("stud", 7, True)


def nose_angle(hold: Strap, work: float) -> Working:
    """Degrees that the nose points down by; negative when it points up. work: height of the work under the nose. Of a cranked strap the
    nose counts: the strap may slope up and press straight down."""
    cranked = (" + crank", (Named("crank", hold.crank, "angle"),)) if hold.crank else ("", ())
    return working(
        f"atan((packing - work) / (nose + tail)){cranked[0]}", Named("packing", hold.packing), Named("work", work),
        Named("nose", hold.nose), Named("tail", hold.tail), *cranked[1], unit="angle",
    )  # fmt: skip


def underside(hold: Strap, work: float) -> float:
    """Height of the strap's underside at the bolt."""
    return work + (hold.packing - work) * hold.nose / (hold.nose + hold.tail)


def engagement(hold: Strap, machine: Machine) -> Working:
    """How far a stud screws in: one diameter in steel, one and a half in aluminium, two in an insert in wood."""
    times = 2.0 if hold.into != "slot" else 1.5 if machine.bed.slot == "aluminium" else 1.0
    return working("times * diameter", Named("times", times, "number"), Named("diameter", hold.stud), shop_rule=True)


def bolt_force(hold: Strap) -> Working:
    """Force in a bolt, N: as typed, or by the torque on its nut, F = T / (0.2·d), good to ±30 %.

    The 0.2 is the nut factor of a plain steel thread, neither oiled nor rusty.
    """
    if hold.torque <= 0.0:
        return working("bolt", Named("bolt", hold.force, "force"), unit="force")
    return working(
        "torque * 1000 / (0.2 * diameter)", Named("torque", hold.torque, "N·m"), Named("diameter", hold.stud), unit="force",
        assumption="nut factor 0.2; ±30 %", shop_rule=True,
    )  # fmt: skip


def _points(angle: float) -> str:
    return "flat" if abs(angle) < 0.05 else f"{abs(angle):.1f}° {'down' if angle > 0 else 'up'}"


def _stud_to_fetch(held: HoldingInputs, holds: list[Strap], wanted: float) -> list[Figure]:
    """The shortest stud at hand that is long enough, or the longest there is, with the largest work that it takes."""
    studs = sorted(held.machine.bed.studs)
    if not studs:
        return []
    stud = next((s for s in studs if s >= wanted - 1e-9), studs[-1])
    like = max(holds, key=lambda h: h.thickness)
    takes = largest_work(like, stud, held.machine)
    label = (
        f"Stud to fetch, {mm(stud, 0)}: takes work up to"
        if stud >= wanted - 1e-9
        else f"No stud at hand is long enough: {mm(stud, 0)} takes work up to"
    )
    return [Figure(label, takes.result, working=takes)]


def largest_work(hold: Strap, stud: float, machine: Machine) -> Working:
    """The largest work that a stud takes with packing as high, mm. stud: its length."""
    return working(
        "stud - engagement - board - strap - washer - nut - threads", Named("stud", stud), Named("engagement", engagement(hold, machine).result),
        Named("board", 0.0 if hold.into == "insert" else machine.spoilboard), Named("strap", hold.thickness), Named("washer", WASHER),
        Named("nut", NUT_SHARE * hold.stud), Named("threads", THREADS), shop_rule=True,
    )  # fmt: skip


def stud_length(hold: Strap, work: float, machine: Machine) -> Working:
    """Length of stud wanted, through the spoilboard from the slot's nut, or from an insert at its face."""
    return working(
        "engagement + board + underside + strap + washer + nut + threads", Named("engagement", engagement(hold, machine).result),
        Named("board", 0.0 if hold.into == "insert" else machine.spoilboard), Named("underside", underside(hold, work)), Named("strap", hold.thickness),
        Named("washer", WASHER), Named("nut", NUT_SHARE * hold.stud), Named("threads", THREADS), shop_rule=True,
    )  # fmt: skip


def clamp_force(hold: Strap) -> Working:
    """Force of a strap on the work, N, from the force in its bolt (a lever about the packing)."""
    return working(
        "bolt * tail / (nose + tail)",
        Named("bolt", bolt_force(hold).result, "force"),
        Named("tail", hold.tail),
        Named("nose", hold.nose),
        unit="force",
    )


def pad(hold: Strap) -> Polygon:
    """Where a strap's nose bears, bed XY."""
    return along(hold, hold.nose - PAD / 2.0, hold.nose + PAD / 2.0, hold.width)


class StrapKind(HoldKind):
    """Straps."""

    figures = Strap
    one, many, minutes = "strap on packing", "straps on packing", 2.0
    compared = "Straps on packing"
    entries: ClassVar[tuple[KindEntry, ...]] = (
        KindEntry("Bolt X", "length", "x"), KindEntry("Bolt Y", "length", "y"), KindEntry("Nose points, degrees", "number", "heading"),
        KindEntry("Bolt to nose", "length", "nose"), KindEntry("Bolt to packing", "length", "tail"), KindEntry("Packing", "length", "packing"),
        KindEntry("Strap is thick", "length", "thickness"), KindEntry("Strap is wide", "length", "width"), KindEntry("Stud", "length", "stud"),
        KindEntry("Bolt goes into", "choice", "into", INTO), KindEntry("Its nose is bent down by, degrees", "number", "crank"),
        KindEntry("Behind, it stands on", "choice", "heel", HEELS), KindEntry("The jack bolt goes up to", "length", "jack"), KindEntry("Torque on its nut, N·m", "number", "torque", unit="N·m"),
        KindEntry("Bolt force, where no torque is typed", "number", "force", unit="N"),
    )  # fmt: skip

    def solids(self, hold: Strap, work: float, bed: BedThings | None = None) -> list[Solid]:
        """Body, packing and stud of a strap on work of a height."""
        stud_top = underside(hold, work) + hold.thickness + WASHER + NUT_SHARE * hold.stud + THREADS
        under = min(work, hold.packing)
        body = along(hold, -hold.tail - HEEL, hold.nose + PAD / 2.0, hold.width)
        block = along(hold, -hold.tail - BLOCK + HEEL, -hold.tail + HEEL, hold.width + 8.0)
        if hold.heel == "jack bolt":
            block = Point(*behind(hold, hold.tail)).buffer(0.75 * hold.stud + 2.0, quad_segs=8)
        stud = Point(hold.x, hold.y).buffer(hold.stud, quad_segs=16)  # the nut's corners, about twice the stud
        return [
            Solid(hold.name, "strap", body, under, max(work, hold.packing) + hold.thickness),
            Solid(hold.name, "packing", block, 0.0, hold.packing, PACKING),
            Solid(hold.name, "stud", stud, 0.0, stud_top, STUD),
        ]

    def touch_point(self, hold: Strap) -> tuple[float, float]:
        """Under its nose."""
        return behind(hold, -hold.nose)

    def bearing(self, hold: Strap, work: Polygon) -> Polygon:
        """Under its nose."""
        return pad(hold)

    def grip(self, hold: Strap, work: Polygon, rules: Holding, bed: BedThings) -> Grip:
        """It presses down."""
        return Grip(hold.name, clamp_force(hold).result, 0.0, 0.0, np.array([self.touch_point(hold)]))

    def checks(self, held: HoldingInputs, hold: Strap) -> list[Finding]:
        """Its nose, its packing, what it stands in, and what it presses."""
        work = work_height(held, hold)
        angle = nose_angle(hold, work)
        length = hold.nose + hold.tail
        said: list[Finding] = []
        place = Place(*self.touch_point(hold), work)
        name = held.setup.name
        if round(angle.result, 9) < 0.0:
            message = f"{hold.name}'s nose points up by {-angle.result:.1f}°: it pushes the work away and works loose."
            said.append(
                Finding(
                    "hold.nose-up",
                    Level.STOP,
                    STAGE,
                    message,
                    name,
                    angle,
                    _packing(held, hold, work),
                    place,
                    hold.name,
                )
            )
        elif round(angle.result, 9) > held.rules.nose:
            lower = work + length * math.tan(math.radians(held.rules.nose))
            message = f"{hold.name}'s nose points down by {angle.result:.1f}°; over {held.rules.nose:.0f}° change the packing."
            fix = Fix(
                "set hold",
                {"setup": name, "hold": hold.name, "packing": lower},
                f"Lower {hold.name}'s packing to {mm(lower, 2)}",
            )
            said.append(Finding("hold.nose-steep", Level.CARE, STAGE, message, name, angle, (fix,), place, hold.name))
        bearing = pad(hold).intersection(held.work).area / hold.width
        if bearing < LEAST_BEARING - 1e-6:
            message = f"{hold.name}'s nose has {mm(max(bearing, 0.0), 2)} on the work; {mm(LEAST_BEARING, 2)} at least is wanted."
            said.append(Finding("hold.off-work", Level.STOP, STAGE, message, name, place=place, about=hold.name))
        if hold.heel == "jack bolt" and hold.packing > hold.jack + 1e-9:
            message = f"{hold.name}'s jack bolt goes up to {mm(hold.jack, 2)} and {mm(hold.packing, 2)} is wanted: it would stand on its last threads. Set a block under it."
            fix = Fix("set hold", {"setup": name, "hold": hold.name, "heel": "packing"}, "Stand it on packing")
            said.append(Finding("hold.jack-short", Level.STOP, STAGE, message, name, None, (fix,), place, hold.name))
        body = next(s for s in self.solids(hold, work) if s.part == "packing")
        if body.outline.intersection(held.work).area > 1.0:
            message = f"{hold.name}'s packing stands where the work lies. Move the strap away from the work."
            said.append(Finding("hold.packing-on-work", Level.STOP, STAGE, message, name, place=place, about=hold.name))
        said += foot(held, hold) + _pressed(held, hold, place)
        return said

    def over_plane(self, hold: Strap, setup: str, plane: float) -> list[Finding]:
        """It stands on the face that is cut away."""
        message = (
            f"{hold.name} presses on the face that is cut away. For surfacing the wood is held below the finished plane: "
            "edge clamps, wedges, tape or screws in waste; and a slab is never pulled flat, it springs back."
        )
        fix = Fix("remove hold", {"setup": setup, "hold": hold.name}, f"Take {hold.name} away")
        return [Finding("hold.on-the-face", Level.STOP, "hold", message, setup, fixes=(fix,), about=hold.name)]

    def ways(self, hold: Strap) -> list[Way]:
        """Sideways, or with a shorter nose."""
        return [
            ("Move {name} {d} right", lambda d: {"x": hold.x + d}), ("Move {name} {d} left", lambda d: {"x": hold.x - d}),
            ("Draw {name}'s nose back {d}", lambda d: {"nose": hold.nose - d}),
        ]  # fmt: skip

    def told(self, held: HoldingInputs, holds: list[Strap]) -> list[Figure]:
        """Packing, studs, and what a torque comes to."""
        heights = [work_height(held, h) for h in holds]
        longest = max((stud_length(h, w, held.machine) for h, w in zip(holds, heights)), key=lambda s: s.result)
        figures = [
            Figure("Packing wanted, at least", max(heights), places=2),
            Figure("Stud length wanted", longest.result, working=longest),
            *_stud_to_fetch(held, holds, longest.result),
        ]
        torqued = next((h for h in holds if h.torque > 0), None)
        if torqued is not None:
            force = bolt_force(torqued)
            figures.append(Figure(f"{torqued.name}'s bolt pulls", force.result, "force", force))
        return figures

    def tables(self, held: HoldingInputs, holds: list[Strap]) -> list[Table]:
        """The nose of each as it stands, and with what can be stacked of the blocks at hand; straps that stand alike together."""
        alike: dict[tuple[tuple[str, ...], ...], list[str]] = {}
        for h in holds:
            work = work_height(held, h)
            most = work + (h.nose + h.tail) * math.tan(math.radians(held.rules.nose))
            told = [(f"{mm(h.packing, 1)}, as set", _points(nose_angle(h, work).result))]
            for stack in stacks(held.machine.bed.blocks, work, most):
                high = changed(h, packing=sum(stack))
                words = mm(sum(stack), 1) + (f" of {' + '.join(f'{b:g}' for b in stack)}" if len(stack) > 1 else "")
                told.append((words, _points(nose_angle(high, work).result)))
            alike.setdefault(tuple(told), []).append(h.name)
        rows = [
            (f"● {', '.join(names)}" if n == 0 else "", *row)
            for told_, names in alike.items()
            for n, row in enumerate(told_)
        ]  # fmt: skip
        return [("Straps: what they stand on, and where the nose points", (("strap", "on", "its nose"), *rows))]

    def setting(self, hold: Strap) -> Setting:
        """The bolt, the packing, and which way the nose points."""
        into = {"slot": "in its slot", "insert": "in the insert", "board": "in the bed"}[hold.into]
        pull = f" Nut to {hold.torque:g} N·m." if hold.torque > 0 else ""
        return Setting(
            f"Set {hold.name}: a strap, its bolt at X {mm(hold.x, 2)}, Y {mm(hold.y, 2)}, {into}.",
            f"Nose {mm(hold.nose, 2)} from the bolt, {hold.heel} {mm(hold.tail, 2)} behind it. Look along it: the nose points down a little or lies flat, never up, over a support.{pull}",
            "packing", hold.packing, self.touch_point(hold),
        )  # fmt: skip

    def set_to(self, hold: Strap) -> str:
        """Its packing."""
        return f", packing {mm(hold.packing, 2)}"

    def offers(self, job: Job, setup: Setup) -> list[Offer]:
        """From the nearest slot before the front edge."""
        slots = job.machine.slots
        board = standing_in(job, setup)
        along, front = board.part(0.15 + 0.2 * (len(setup.holds) % 5), 0.0)
        x, edge = setup.x + along, setup.y + front
        below = [y for y in slots if y < edge - 20] or list(slots) or [max(edge - 45.0, 0.0)]
        y = max(below)
        thick = max([h.z for h in job.blank.heights], default=board.high) if setup.up == "front" else board.high
        nose = max(edge + 14 - y, 20)
        return [Offer("Add a strap", {"x": x, "y": y, "heading": 90.0, "nose": nose, "tail": 40.0, "packing": thick})]

    def tries(self, held: HoldingInputs, like: Strap | None) -> list[Hold]:
        """From every slot or insert that reaches the edge, in four directions."""
        return _places(held, like or Strap(name="C1", x=0, y=0, heading=90))

    def dragged(self, hold: Strap, to: Dragged) -> tuple[float, float]:
        """To the next slot or insert."""
        if hold.into == "insert" and to.snap:
            return to_insert(hold, to)
        if not to.snap:
            return to.x, to.y
        if abs(to.dy) <= 1.0 and abs(to.dx) >= 1e-9:
            return to.x, hold.y
        nearest = snapped_to_slot(to.y, to.machine.slots, within=60.0)
        if nearest == hold.y and abs(to.dy) > 1e-9 and abs(to.dx) < 1e-9:  # a nudge goes on to the next slot
            others = [s for s in to.machine.slots if (s - hold.y) * to.dy > 0]
            nearest = min(others, key=lambda s: abs(s - hold.y)) if others else hold.y
        return to.x, nearest

    def name_at(self, hold: Strap) -> tuple[float, float]:
        """Behind its packing."""
        return behind(hold, hold.tail + 38.0)


def _packing(held: HoldingInputs, hold: Strap, work: float) -> tuple[Fix, ...]:
    """Packing as high as the work or a little higher, from the blocks at hand where there are some."""
    setup, name = held.setup.name, hold.name
    most = work + (hold.nose + hold.tail) * math.tan(math.radians(held.rules.nose))
    stack = packing_from(held.machine.bed.blocks, work, most) if held.machine.bed.blocks else None
    if stack is None:
        return (
            Fix("set hold", {"setup": setup, "hold": name, "packing": work}, f"Set {name} on {mm(work, 2)} of packing"),
        )
    words = " + ".join(mm(b, 2) for b in stack)
    return (Fix("set hold", {"setup": setup, "hold": name, "packing": sum(stack)}, f"Set {name} on blocks of {words}"),)


def _pressed(held: HoldingInputs, hold: Strap, place: Place) -> list[Finding]:
    """What a nose presses on the wood, and whether slot or insert takes the stud's engagement."""
    name = held.setup.name
    said: list[Finding] = []
    under = pad(hold).intersection(held.work).area
    limit = held.rules.bearing_soft if held.soft else held.rules.bearing_hard
    if under > 1.0:
        pressing = working(
            "force / area", Named("force", clamp_force(hold).result, "force"), Named("area", under, "mm²"),
            unit="N/mm²", assumption=f"wood bears about {limit:g} N/mm² under a nose", shop_rule=True,
        )  # fmt: skip
        if pressing.result > limit:
            message = (
                f"{hold.name} presses {pressing.result:.1f} N/mm² into the wood, which bears about {limit:g}: it marks it. Put a pad "
                "under the nose, or pull it up less."
            )
            said.append(Finding("hold.bruise", Level.CARE, STAGE, message, name, pressing, (), place, hold.name))
    into = engagement(hold, held.machine)
    if hold.into == "slot" and into.result > held.machine.bed.slot_nut + 1e-9:
        message = (
            f"{hold.name}'s stud wants {mm(into.result, 2)} of thread and the slot's nut is {mm(held.machine.bed.slot_nut, 2)} thick: a stud "
            "right through it jacks the slot open. Take a thicker nut or a thinner stud."
        )
        said.append(Finding("hold.nut-thin", Level.CARE, STAGE, message, name, into, (), place, hold.name))
    return said


def _places(held: HoldingInputs, like: Strap) -> list[Hold]:
    """Straps from every slot or insert that reaches the edge, in four directions."""
    x0, y0, x1, y1 = held.work.bounds
    m = held.machine
    spots: list[tuple[float, float, float]] = []
    for heading in HEADINGS:
        if like.into == "insert":
            spots += [(x, y, heading) for x, y in insert_places(m.bed)]
        elif heading in (90.0, 270.0):
            spots += [(float(x), y, heading) for y in m.slots for x in np.arange(x0 + STEP / 2, x1, STEP)]
        else:
            reach = max(like.nose, SHORTEST_NOSE)
            x = x0 - reach if heading == 0.0 else x1 + reach
            spots += [(x, y, heading) for y in m.slots if y0 < y < y1]
    out: list[Hold] = []
    for x, y, heading in spots:
        fx, fy = first_contact(held.work, heading, like.width, x, y)
        way = math.radians(heading)
        reach = (fx - x) * math.cos(way) + (fy - y) * math.sin(way) + INSET
        if heading in (0.0, 180.0) and like.into != "insert":
            # a slot lets it slide to where its nose is as long as it was
            x, reach = x + (reach - like.nose if heading == 0.0 else like.nose - reach), like.nose
        if not SHORTEST_NOSE <= reach <= LONGEST_NOSE:
            continue
        hold = changed(like, x=x, y=y, heading=heading, nose=reach)
        high = work_height(held, hold)
        most = high + (reach + like.tail) * math.tan(math.radians(held.rules.nose))
        stack = packing_from(m.bed.blocks, high, most) if m.bed.blocks else None
        out.append(changed(hold, packing=sum(stack) if stack else high))
    return out
