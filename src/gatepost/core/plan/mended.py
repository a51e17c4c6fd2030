# SPDX-License-Identifier: GPL-3.0-or-later
"""Old lettering that is there already: the smallest recess that swallows it and the plug for that; the same cut again, and how much wider it gets."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import shapely

from gatepost.core.carve.areas import area_of
from gatepost.core.errors import OperatorError
from gatepost.core.findings import Finding, Fix, Level, Table
from gatepost.core.job.carve import Letters, Rounded, VCut
from gatepost.core.job.commands.old import old_letters
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork
from gatepost.core.job.sunk import Recess
from gatepost.core.job.tool import Tool
from gatepost.core.profile import blunt, is_vee
from gatepost.core.register.kind import STAGE, ComingTold
from gatepost.core.units import mm
from gatepost.core.working import Named, working

ROUGH = 0.02  # mm of outlines
ROUND_IT, UNDER_IT = 1.0, 0.5  # mm that a recess goes past old strokes, and under their deepest groove: shop rules
GLUE, PROUD = 0.1, 0.5  # mm a side that a plug is smaller, and that it stands proud to be planed off
USUAL = 60.0  # degrees of the V that cut old lettering, where there is none among the tools
STEP = 0.25  # mm by which a recess grows until its round corners leave nothing out


@dataclass(frozen=True)
class Mending:
    """A recess that swallows old lettering, on its face: middle, turn, sizes, and how deep."""

    x: float
    y: float
    turn: float
    width: float
    height: float
    corner: float
    depth: float
    tool: int

    def values(self, setup: str, art: str) -> dict[str, Any]:
        """Of the command that makes it."""
        sizes = {n: round(getattr(self, n), 2) for n in ("x", "y", "turn", "corner")}
        up = {n: math.ceil(100.0 * getattr(self, n) - 1e-6) / 100.0 for n in ("width", "height", "depth")}
        return {"setup": setup, "art": art, **sizes, **up, "tool": self.tool}


def deepest(art: Artwork, tool: Tool | None) -> float:
    """How deep a V cuts its widest stroke, mm: (r - tip/2)/tan(half the angle), r of the largest disc inside any of its strokes."""
    half = math.radians((tool.angle if tool is not None else USUAL) / 2.0)
    narrow = blunt(tool) if tool is not None else 0.0
    discs = [shapely.maximum_inscribed_circle(p).length for p in shapely.get_parts(area_of(art, ROUGH))]
    return max(0.0, (max(discs, default=0.0) - narrow) / math.tan(half))


def mending(job: Job, art: Artwork) -> Mending:
    """The smallest rectangle, turned as need be, whose round corners leave none of the strokes out. Raises OperatorError where no end mill is there for it."""
    strokes = area_of(art, ROUGH).buffer(ROUND_IT)
    if strokes.is_empty:
        raise OperatorError(
            f"{art.title or art.id} has no letters that leave anything in the wood: there is nothing to mend."
        )
    box = shapely.minimum_rotated_rectangle(strokes)
    a, b, c, _ = shapely.get_coordinates(box)[:4]
    if math.dist(a, b) < math.dist(b, c):
        a, b, c = b, c, a + (c - b)
    long, wide = math.dist(a, b), math.dist(b, c)
    turn = math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
    turn = (turn + 90.0) % 180.0 - 90.0
    mills = [t for t in job.tools if t.kind == "flat" and t.diameter <= wide / 2.0]
    if not mills:
        raise OperatorError("None of the end mills is thin enough to sink a recess there.")
    mill = max(mills, key=lambda t: t.diameter)
    corner = mill.diameter / 2.0
    vee = next((t for t in job.tools if t.kind == "vee"), None)
    middle = box.centroid
    grown = 0.0
    while True:
        made = Mending(
            middle.x, middle.y, turn, long + grown, wide + grown, corner, deepest(art, vee) + UNDER_IT, mill.number
        )
        if _recess(made).covers(strokes.buffer(-1e-3)):
            return made
        grown += STEP


def _recess(m: Mending) -> shapely.Geometry:
    shape = Rounded(width=m.width, height=m.height, corner=m.corner)
    return area_of(Artwork(id="mending", kind="plate", x=m.x, y=m.y, turn=m.turn, figures=shape), ROUGH)


def told(job: Job, setups: Sequence[Setup]) -> ComingTold:
    """What there is to say of old lettering that is mended or cut again in some setups."""
    said: list[Finding] = []
    plugs: list[tuple[str, ...]] = [("Plug", "long", "wide", "thick", "corners")]
    vee = next((t for t in job.tools if t.kind == "vee"), None)
    for s in setups:
        old = old_letters(job, s.up)
        for o in s.operations:
            art = next((a for a in job.artwork if a.id in o.on), None)
            if art is None:
                continue
            if isinstance(o.figures, Recess) and isinstance(art.figures, Rounded):
                for letters in old:
                    said += _mended(s, o.id, o.figures, art, letters, vee, plugs)
            if isinstance(o.figures, VCut):
                said += [f for letters in old if (f := _again(job, s, o.figures, art, letters)) is not None]
    tables: list[Table] = [("Plugs, their grain as the board's", tuple(plugs))] if len(plugs) > 1 else []
    return ComingTold((), tuple(said), tuple(tables))


def _mended(
    s: Setup, operation: str, recess: Recess, art: Artwork, letters: Artwork, vee: Tool | None, plugs: list[tuple[str, ...]]
) -> list[Finding]:  # fmt: skip
    strokes, sunk = area_of(letters, ROUGH), area_of(art, ROUGH)
    if not strokes.intersects(sunk):
        return []
    called = letters.title or letters.id
    beside = strokes.difference(sunk).area
    if beside > ROUGH:
        message = f"{beside:.1f} mm² of {called} stays beside the recess that mends it."
        return [Finding("register.mend-short", Level.CARE, STAGE, message, s.id, about=art.id)]
    deep = deepest(letters, vee)
    by = f"tool {vee.number}" if vee is not None else f"a V of {USUAL:.0f}°"
    under = working(
        "recess - groove",
        Named("recess", recess.depth),
        Named("groove", deep),
        assumption=f"the deepest groove as {by} cuts it: measure it",
        shop_rule=True,
    )
    if under.result < 0.5 * UNDER_IT:
        message = f"The recess that mends {called} goes {mm(recess.depth, 2)} down, and its deepest groove {mm(deep, 2)}: it would show, or hold the plug up."
        fix = Fix("set operation", {"operation": operation, "depth": deep + UNDER_IT}, f"{mm(deep + UNDER_IT, 2)} deep")
        return [Finding("register.mend-shallow", Level.CARE, STAGE, message, s.id, under, (fix,), about=art.id)]
    assert isinstance(art.figures, Rounded)
    plugs.append(
        (
            called,
            *(
                mm(v, 2)
                for v in (
                    art.figures.width - 2.0 * GLUE,
                    art.figures.height - 2.0 * GLUE,
                    recess.depth + PROUD,
                    art.figures.corner,
                )
            ),
        )
    )
    message = f"The recess swallows {called} and goes {mm(under.result, 2)} under its deepest groove. Its plug is {mm(GLUE)} a side smaller and stands {mm(PROUD)} proud, to be planed off."
    return [Finding("register.mended", Level.OK, STAGE, message, s.id, under)]


def _again(job: Job, s: Setup, how: VCut, art: Artwork, letters: Artwork) -> Finding | None:
    """The same lettering in the same place, bolder than it is there: how much deeper, and how much wider it gets."""
    now, was = art.figures, letters.figures
    if not isinstance(now, Letters) or not isinstance(was, Letters) or len(now.lines) != len(was.lines):
        return None
    same = all((a.text, a.face, a.height) == (b.text, b.face, b.height) for a, b in zip(now.lines, was.lines))
    if not same or math.dist((art.x, art.y), (letters.x, letters.y)) > 1.0:
        return None
    tool = next((t for t in job.tools if t.number == how.tool), None)
    bolder = min(a.bolder - b.bolder for a, b in zip(now.lines, was.lines))
    if tool is None or not is_vee(tool):
        return None
    called = letters.title or letters.id
    deeper = working("bolder / tan(half)", Named("bolder", bolder), Named("half", tool.angle / 2.0, "angle"))
    if bolder <= 0.0:
        message = f"{called} is cut again no deeper than it is: nothing is taken but what sits in its grooves."
        return Finding("register.cut-again-shallow", Level.CARE, STAGE, message, s.id, deeper, about=art.id)
    most = deepest(art, tool) - deepest(letters, tool)
    meet = f", up to {mm(most, 2)} where they meet" if most > deeper.result + 0.05 else ""
    message = f"{called} is cut again {mm(deeper.result, 2)} deeper along its strokes{meet}: every stroke gets {mm(2.0 * bolder, 2)} wider at the face. It is cut on the same zero: what it lies off by shows as a step in the grooves."
    return Finding("register.cut-again", Level.NOTE, STAGE, message, s.id, deeper)
