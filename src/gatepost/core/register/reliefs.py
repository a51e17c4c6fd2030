# SPDX-License-Identifier: GPL-3.0-or-later
"""Two reliefs on opposite faces: both and what lies over them against the thinnest reading, and whether their middle planes meet.

The floor of each lies its own depth under its face. What is between the two floors is a skin; where they lie past each other the edges come out
thinner by so much, a step. How that changes with a board thicker or thinner than planned hangs on where Z0 is touched: on the top both times,
all of it; on the bed both times, the other way round; once each, not at all.
"""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.findings import Figure, Finding, Fix, Level, Place
from gatepost.core.register.kind import STAGE, Bounds, ComingTold
from gatepost.core.tolerances import PLANES_MEET, SKIN_PARED
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

FINE = 0.01  # mm
SHALLOWEST = 0.2  # mm: nothing is asked to be less deep than that
Z_ON = {"top": 1.0, "bed": 0.0}


@dataclass(frozen=True)
class OneRelief:
    """One of two. name: as people are told it; setup: where it is carved; art: the heights; field: of them that says how deep its deepest is; deep: that; over: what lies over its highest; z_on: what Z0 is
    touched on."""

    name: str
    setup: str
    operation: str
    art: str
    field: str
    deep: float
    over: float
    z_on: str


@dataclass(frozen=True)
class TwoReliefs:
    """Two that lie over one another. between: what is left between both floors as planned, whole: how thick the wood is planned; thinnest, thickest: of the readings, mm; apart: how far their outlines lie beside each other, mm, aside: by what shift of the later that is less, nothing where by none; bounds: how the
    later may lie; far: mm from the middle of the bed's turn to its farthest place; bridges: how many they leave; place: on the bed."""

    earlier: OneRelief
    later: OneRelief
    meets: bool
    between: float
    whole: float
    thinnest: float
    thickest: float
    apart: float
    aside: tuple[float, float] | None
    bounds: Bounds | None
    far: float
    bridges: int
    place: Place

    @property
    def follows(self) -> float:
        """By how much of it the middle follows the board's thickness: 1, 0 or -1."""
        return Z_ON[self.earlier.z_on] + Z_ON[self.later.z_on] - 1.0

    def skin(self, thick: float) -> Working:
        """What is left between both floors of a board so thick, mm; less than nothing where they lie past each other."""
        named = Named("between", self.between), Named("thick", thick), Named("planned", self.whole)
        if self.follows > 0.0:
            return working("between + thick - planned", *named, assumption="Z0 is touched on the top both times")
        if self.follows < 0.0:
            return working("between - (thick - planned)", *named, assumption="Z0 is touched on the bed both times")
        return working("between", named[0], assumption="Z0 is on the bed once: the thickness does not count")


def told(two: TwoReliefs) -> ComingTold:
    """What there is to say of them."""
    e, at = two.earlier, two.later
    both = working("one + other", Named("one", e.deep), Named("other", at.deep), assumption="each with what lies over its highest place")  # fmt: skip
    room = working("thinnest - other - over", Named("thinnest", two.thinnest), Named("other", e.deep), Named("over", at.over))  # fmt: skip
    figures = [
        Figure("Both reliefs and what lies over them", both.result, working=both, setup=at.setup),
        Figure("The wood at its thinnest", two.thinnest, setup=at.setup),
        Figure(f"How high {at.name} may be", room.result, working=room, setup=at.setup),
    ]
    said: list[Finding] = []
    if two.meets:
        skins = sorted((two.skin(two.thinnest), two.skin(two.thickest)), key=lambda w: w.result)
        figures.append(
            Figure("Between their grounds, at least", skins[0].result, "length", skins[0], 2, setup=at.setup)
        )
        figures.append(Figure("Between their grounds, at most", skins[1].result, "length", skins[1], 2, setup=at.setup))
        step = _step(two)
        if step is not None:
            figures.append(Figure("Step at their edges, at worst", step.result, "length", step, 2, setup=at.setup))
        said += [*_planes(two, *skins), *_apart(two), *_bridges(two)]
    return ComingTold(tuple(figures), tuple(said))


def _step(two: TwoReliefs) -> Working | None:
    """How far one outline may come to lie beside the other, mm."""
    b = two.bounds
    if b is None:
        return None
    return working(
        "sqrt(x ** 2 + y ** 2) + far * turn * pi / 180 + drawn", Named("x", b.x), Named("y", b.y), Named("far", two.far), Named("turn", b.degrees, "angle"),
        Named("drawn", two.apart), assumption=f"as the piece may lie {b.by}; drawn: as the two are drawn",
    )  # fmt: skip


def _planes(two: TwoReliefs, least: Working, most: Working) -> list[Finding]:
    """Whether their middle planes meet: as a skin, or as a step."""
    at, name = two.later, two.later.setup
    both = f"{two.earlier.name} and {at.name}"
    if least.result < -PLANES_MEET:
        shallower = at.deep + least.result
        fixes = _depth(at, shallower, f"Carve {at.name} {mm(shallower, 2)} deep")
        message = f"The middle planes of {both} lie {mm(-least.result, 2)} past each other: edges come out so much thinner, and what is less high than that is gone."
        return [Finding("register.planes-cross", Level.CARE, STAGE, message, name, least, fixes, two.place)]
    deeper = at.deep + least.result
    fixes = _depth(at, deeper, f"Carve {at.name} {mm(deeper, 2)} deep")
    if most.result <= PLANES_MEET:
        message = f"The middle planes of {both} meet within {mm(PLANES_MEET)}."
        return [Finding("register.planes-meet", Level.OK, STAGE, message, name, most)]
    if most.result <= SKIN_PARED:
        message = f"Between {both} a skin of {mm(max(least.result, 0.0), 2)} to {mm(most.result, 2)} is left, to be pared off by hand."
        return [Finding("register.skin", Level.NOTE, STAGE, message, name, most, fixes if least.result > FINE else ())]
    thick = "" if most.result - least.result < 0.05 else f" to {mm(most.result, 2)}"
    message = f"The middle planes of {both} don't meet: a skin of {mm(max(least.result, 0.0), 2)}{thick} is left between them. Up to {mm(SKIN_PARED)} is pared off by hand."
    return [Finding("register.planes-apart", Level.CARE, STAGE, message, name, most, fixes if least.result > FINE else (), two.place)]  # fmt: skip


def _depth(one: OneRelief, deep: float, words: str) -> tuple[Fix, ...]:
    if deep - one.over < SHALLOWEST:
        return ()
    return (Fix("set art", {"art": one.art, one.field: deep}, words),)


def _apart(two: TwoReliefs) -> list[Finding]:
    """Whether both are drawn with one outline."""
    if two.apart <= PLANES_MEET:
        return []
    fixes: tuple[Fix, ...] = ()
    if two.aside is not None:
        fixes = (Fix("set art", {"art": two.later.art, "x": two.aside[0], "y": two.aside[1]}, f"Move {two.later.name} over the other"),)  # fmt: skip
    message = f"The outlines of {two.earlier.name} and {two.later.name} lie up to {mm(two.apart)} beside each other as they are drawn: a step where they meet."
    return [Finding("register.reliefs-apart", Level.CARE, STAGE, message, two.later.setup, fixes=fixes, place=two.place)]  # fmt: skip


def _bridges(two: TwoReliefs) -> list[Finding]:
    if not two.bridges:
        return []
    message = f"{two.bridges} bridges at mid-thickness hold what the two reliefs free: they are sawn through and pared once it is finished."
    fix = Fix("set operation", {"operation": two.later.operation, "bridges": ()}, "Take the bridges away")
    return [Finding("register.bridges", Level.NOTE, STAGE, message, two.later.setup, fixes=(fix,))]
