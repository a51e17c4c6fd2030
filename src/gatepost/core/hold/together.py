# SPDX-License-Identifier: GPL-3.0-or-later
"""All holds of a setup together: whether they are enough, lie round the cutting, and leave no edge free for too long."""

from __future__ import annotations

import math

import shapely
from shapely.geometry import MultiPoint, Point

from gatepost.core.findings import Finding, Level, Place
from gatepost.core.hold import solids as shapes
from gatepost.core.hold.kind import STAGE, HoldingInputs
from gatepost.core.hold.margins import HoldMargin, Span, spans
from gatepost.core.job.hold import Hold
from gatepost.core.job.machine import Fence
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

TOUCHES = 0.5  # mm within which the work lies against a fence
CORNER_NEAR = 150.0  # mm within which a corner that is left free for zeroing wants a hold
BENDS = 0.1  # mm that a free span may bend before it is asked about
CUPPED = 0.3  # mm of hollow under a free span before it is told


def span_places(held: HoldingInputs) -> list[tuple[str, float, float]]:
    """Where holds bear, of those that press in one place."""
    return [(h.name, *held.kind(h).touch_point(h)) for h in held.by("top", "edge")]


def free(held: HoldingInputs) -> list[Span]:
    return spans(held.work, span_places(held))


def weakest(done: list[HoldMargin]) -> HoldMargin | None:
    return min(done, key=lambda e: e.least.result, default=None)


def together(held: HoldingInputs, done: list[HoldMargin]) -> list[Finding]:
    name, holds = held.setup.name, held.setup.holds
    if held.idle and not holds:
        message = "Nothing is done in this setup yet, and nothing holds the work in it."
        return [Finding("hold.too-few", Level.NOTE, STAGE, message, name)]
    if len(holds) < 2 and not held.by("under", "walls"):
        message = "At least two holds are wanted: one lets the work swing." if holds else "Nothing holds the work yet."
        return [Finding("hold.too-few", Level.STOP, STAGE, message, name)]
    return _weak(held, done) + _ring(held) + _span_findings(held)


def _weak(held: HoldingInputs, done: list[HoldMargin]) -> list[Finding]:
    """Operations that the holds are weak against, by the weakest."""
    worst, name = weakest(done), held.setup.name
    if worst is None or worst.least.result >= held.rules.factor:
        return []
    what = {"slides": "slide", "turns": "turn", "lifts": "lift"}[worst.how]
    message = (
        f"In the {worst.load.operation} the work may {what}: what holds is about {worst.least.result:.1f} times the push, and "
        f"{held.rules.factor:g} times is wanted (estimates, good to a factor of two). Add a hold, or cut less deep."
    )
    level = Level.STOP if worst.least.result < 0.5 else Level.CARE
    if level is Level.STOP:
        message = (
            f"In the {worst.load.operation} the work would {what}: what holds is about {worst.least.result:.1f} times the push, and even twice that is too "
            "little. Add a hold, or cut less deep."
        )
    return [Finding("hold.weak", level, STAGE, message, name, worst.least)]


def _ring(held: HoldingInputs) -> list[Finding]:
    """Whether the middle of the cutting lies inside the ring of holds."""
    if not held.loads or held.by("walls"):
        return []
    boxes = [q.box for q in held.loads]
    x = (min(b[0] for b in boxes) + max(b[2] for b in boxes)) / 2
    y = (min(b[1] for b in boxes) + max(b[3] for b in boxes)) / 2
    places = [c for h in held.setup.holds for c in _bearing_places(held, h)]
    if held.by("edge"):  # what they press the work against
        places += [c for f in held.machine.bed.fences for c in _against(held, f)]
    ring = MultiPoint(places).convex_hull
    if ring.distance(Point(x, y)) <= 1.0:
        return []
    message = "The middle of the cutting lies outside the ring of holds: the board can lever up there."
    return [Finding("hold.ring", Level.CARE, STAGE, message, held.setup.name, place=Place(x, y))]


def _against(held: HoldingInputs, fence: Fence) -> list[tuple[float, float]]:
    """Ends of what the work lies along a fence."""
    along = shapes.fence_edge(fence).intersection(held.work.buffer(TOUCHES))
    return [(float(x), float(y)) for x, y in shapely.get_coordinates(along)]


def _bearing_places(held: HoldingInputs, hold: Hold) -> list[tuple[float, float]]:
    kind = held.kind(hold)
    if kind.by == "under":
        return [(float(x), float(y)) for x, y in kind.bearing(hold, held.work).exterior.coords]
    return [kind.touch_point(hold)]


def _span_findings(held: HoldingInputs) -> list[Finding]:
    """The longest free span: how long, what pulls there, and whether the wood is hollow under it."""
    stretches = free(held)
    name = held.setup.name
    if not stretches or len(held.setup.holds) < 2:
        return []
    worst = stretches[0]
    x, y = worst.middle
    pull = max((q.pull * q.push.result * q.peak for q in held.loads), default=0.0)
    press = max((held.rules.pull * q.push.result * q.peak for q in held.loads), default=0.0)  # down as well as up
    bends = span_bend(worst.chord, held.thick, pull if held.gap_under(x, y) <= CUPPED else max(pull, press))
    words = f"Nothing presses between {worst.first} and {worst.last}: {mm(worst.length)} of the edge is free"
    said: list[Finding] = []
    hollow = held.gap_under(x, y)
    if hollow > CUPPED:
        message = (
            f"{words}, and the board stands {mm(hollow)} off the bed there: a cut bends it by {mm(min(bends.result, hollow))}. Shim it "
            "there, or put a hold near."
        )
        level = Level.CARE if min(bends.result, hollow) > BENDS else Level.NOTE
        said.append(
            Finding("hold.cupped-span", level, STAGE, message, name, bends, (), Place(x, y, 0.0, 40.0), worst.first)
        )
    elif pull > 0.0:
        message = f"{words}. An up-cut pulls up to {pull:.0f} N and bends it {mm(bends.result)}."
        level = Level.CARE if bends.result > BENDS else Level.NOTE
        said.append(Finding("hold.span", level, STAGE, message, name, bends, (), Place(x, y, 0.0, 40.0), worst.first))
    else:
        said.append(
            Finding(
                "hold.span",
                Level.NOTE,
                STAGE,
                f"{words}. Nothing pulls it up.",
                name,
                None,
                (),
                Place(x, y, 0.0, 40.0),
                worst.first,
            )
        )
    zero = held.setup.zero
    if zero.xy not in ("centre", "mark"):
        corner = _corner(held, zero.xy)
        away = min((math.hypot(px - corner[0], py - corner[1]) for _, px, py in span_places(held)), default=math.inf)
        if CORNER_NEAR < away < math.inf:
            message = f"The {zero.xy} corner is left free for zeroing, with the nearest hold {mm(away)} away: it can sit high. Put a hold near it, not on it."
            said.append(Finding("hold.free-corner", Level.NOTE, STAGE, message, name, None, (), Place(*corner)))
    return said


def _corner(held: HoldingInputs, corner: str) -> tuple[float, float]:
    x0, y0, x1, y1 = held.work.bounds
    return (x1 if corner.endswith("right") else x0, y1 if corner.startswith("back") else y0)


ALONG = 9000.0  # N/mm², stiffness of common hardwood along its grain
STRIP = 100.0  # mm of the board's width that bends with its edge


def span_bend(length: float, thick: float, pull: float) -> Working:
    """How far a free span bends up under a pull in its middle, mm: a strip of the board as a beam on two supports."""
    return working(
        "pull * span ** 3 / (48 * stiffness * strip * thickness ** 3 / 12)", Named("pull", pull, "force"), Named("span", length),
        Named("stiffness", ALONG, "N/mm²"), Named("strip", STRIP), Named("thickness", thick),
        assumption="a strip 100 mm wide along the grain as a beam on two supports", shop_rule=True,
    )  # fmt: skip
