# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Finish stage is told of a plan: the sign's areas, what the cutters leave, what the grooves hold; and what it says of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
import shapely
from shapely.geometry import Polygon

from gatepost.core.cache import Memory
from gatepost.core.carve.lettering import Lettering, thinnest
from gatepost.core.carve.paths import plate_outline, tabs
from gatepost.core.carve.relief_cuts import Relieving
from gatepost.core.carve.sunk_report import SunkShape
from gatepost.core.finish import cleanup, pour
from gatepost.core.finish.cleanup import LeftOver
from gatepost.core.finish.report import Finished, GrooveFilled, SandedLetters
from gatepost.core.finish.scheme import FinishWork, SignArea, coats_for, scheme_of
from gatepost.core.frames import Bed, FaceFrame, Matrix
from gatepost.core.geometry.outline import Area
from gatepost.core.job.carve import Plate, VCut
from gatepost.core.job.tool import Tool
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.drafts import DraftCut, posed
from gatepost.core.plan.known import PlanInputs
from gatepost.core.plan.layout import Wanted
from gatepost.core.profile import VEES
from gatepost.core.tools.order import Order
from gatepost.core.wood.field import HeightField

SHOWS = 0.02  # mm: what is cut less deep shows no bare wood
FLOORS = ("flat", "bull", "surfacing")  # kinds that leave a level floor
ON_EDGE = 0.3  # mm that a line may lie from a floor's own edge and still be that
SHARP = 40.0  # degrees that an outline turns by where a round cutter leaves something in its corner


@dataclass(frozen=True)
class _Groove:
    """What an operation takes away of a colour: mm³, mm², and mm at the deepest."""

    name: str
    volume: float
    area: float
    deep: float
    colour: str = ""


def finished(k: PlanInputs, cuts: Sequence[Cuts], made: dict[str, Any], order: Order, memory: Memory) -> Finished:
    """All that the Finish stage works with."""
    job = k.job
    part, grain, told_of = _part(k, cuts)
    thick = _thick(told_of)
    arts = {a.id: a.colour.strip() for a in job.artwork}
    grooves = [g for c in cuts for g in _grooves(c, made, arts, memory)]
    letters = [o for o in made.values() if isinstance(o, Lettering)]
    left = [*(item for c in cuts for item in _left(c, made, job.wood.kind)), *from_both_faces(cuts)]
    count = sum(len(o.letters) for o in letters)
    face, edges = float(part.area), float(part.length) * thick
    area = SignArea(
        face, sum(g.area for g in grooves), edges, 2.0 * face + edges, count, tuple(_by_colour(grooves, "area"))
    )
    wet = [w.figures for c in cuts for w in c.draft.laid.wanted if isinstance(w.figures, VCut)]
    scheme = scheme_of(job.finish, bool(job.blank.coats), any(f.painted for f in wet))
    work = FinishWork(
        job.finish,
        scheme,
        area,
        job.wood.kind,
        cleanup.cleaning(left).result,
        tuple(item.what for item in left),
        order.minutes,
        max((g.deep for g in grooves), default=0.0),
        {g.colour: max(h.deep for h in grooves if h.colour == g.colour) for g in grooves if g.colour},
        coats_for(job),
    )
    carved = sum(g.volume for g in grooves)
    signs = [p for p in shapely.get_parts(part) if p.area > 0.0]
    x0, y0, x1, y1 = max(signs, key=lambda p: p.area).bounds if signs else part.bounds
    return Finished(
        work, tuple(left), _sanded(cuts, made, memory), tuple(GrooveFilled(g.name, g.volume, g.deep, g.colour) for g in grooves), job.wood.name, face * thick - carved, job.wood.density,
        _across_grain(part, grain), thick - max((g.deep for g in grooves), default=0.0), any(c.operations for c in cuts), cutting=sum(op.seconds for c in cuts for op in c.operations) / 60.0, laying=job.machine.lay_minutes * len(cuts),
        board=float(k.wood.outline.area) * (job.blank.label_thickness or thick), metres=_metres(cuts),
        size=(float(x1 - x0), float(y1 - y0)), pieces=max(len(signs), 1),
    )  # fmt: skip


def _metres(cuts: Sequence[Cuts]) -> tuple[tuple[str, float, float], ...]:
    """How far each bit cuts, m, and its price."""
    out: dict[str, tuple[float, float]] = {}
    for op in (op for c in cuts for op in c.operations):
        had = out.get(op.tool.name, (0.0, op.tool.price))[0]
        out[op.tool.name] = (had + op.moves.fed_metres(), op.tool.price)
    return tuple((name, m, price) for name, (m, price) in out.items())


def _part(k: PlanInputs, cuts: Sequence[Cuts]) -> tuple[Area, float, Cuts]:
    """What becomes the sign, mm, as the face is read that it is cut out of, the grain's degrees there, and that setup; the board where nothing is cut out. What is cut out inside is no part of it."""
    best: tuple[Area, float, Cuts] | None = None
    for c in cuts:
        plates = [w.figures for w in c.draft.laid.wanted if isinstance(w.figures, Plate)]
        outside, inside = ([plate_outline(p) for p in plates if (p.side == "inside") is side] for side in (False, True))
        kept = shapely.union_all(outside) if outside else None
        if kept is not None and (best is None or kept.area > best[0].area):
            best = kept.difference(shapely.union_all(inside)), posed(c.draft.site, c.draft.pose).grain, c
    if best is not None:
        return best
    carved = next((c for c in cuts if c.draft.laid.carves), cuts[-1])
    return k.wood.outline, k.job.blank.grain, carved


def _thick(c: Cuts) -> float:
    """Of the board in a setup before it is carved there, mm."""
    z = c.draft.start.z[c.draft.start.wood]
    return float(np.median(z)) if z.size else 0.0


def _across_grain(part: Area, grain: float) -> float:
    """How wide the sign is across its grain, mm."""
    x0, y0, x1, y1 = shapely.affinity.rotate(part, -grain, origin=(0.0, 0.0)).bounds
    return float(y1 - y0)


def _carves(c: Cuts) -> list[Wanted]:
    """What of a setup goes into the sign, and neither makes it flat nor cuts it out."""
    return [w for w in c.draft.laid.wanted if w.kind.stage == "carve" and not w.kind.frees]


def _by_colour(grooves: Sequence[_Groove], what: str) -> list[tuple[str, float]]:
    """A figure of the grooves, summed for each colour."""
    colours = dict.fromkeys(g.colour for g in grooves)
    return [(c, sum(getattr(g, what) for g in grooves if g.colour == c)) for c in colours]


def _grooves(c: Cuts, made: dict[str, Any], arts: Mapping[str, str], memory: Memory) -> list[_Groove]:
    """What each operation takes away, by the colours that it gets. arts: the colour of each artwork."""
    wanted = {w.operation.id: w for w in _carves(c)}
    out: dict[tuple[str, str], _Groove] = {}
    before = c.draft.start
    for cut in c.operations:
        if cut.operation in wanted:
            w, pair = wanted[cut.operation], (before, cut.after)
            for colour, areas in _coloured(w, made.get(cut.operation), arts):
                mine = tuple(c.draft.pose.area(a) for a in areas)
                key = (*pair, tuple(a.wkb for a in mine))
                volume, area, deep = memory.get("grooves", key, partial(_gone, *pair, mine), 64)
                had = out.get((w.name, colour), _Groove(w.name, 0.0, 0.0, 0.0, colour))
                out[w.name, colour] = _Groove(
                    w.name, had.volume + volume, max(had.area, area), max(had.deep, deep), colour
                )
        before = cut.after
    return [g for g in out.values() if g.volume > 0.0 or not g.colour]


def _coloured(w: Wanted, shape: Any, arts: Mapping[str, str]) -> list[tuple[str, tuple[Area, ...]]]:
    """The colours of what an operation carves, each with the outlines of its letters; no outlines where all of it gets the same."""
    of_art = next((arts[a] for a in w.operation.on if arts.get(a)), "")
    lines = getattr(w.figures, "lines", ())
    if not isinstance(shape, Lettering) or not any(line.colour.strip() for line in lines):
        return [(of_art, ())]
    each: dict[str, list[Area]] = {}
    for letter in shape.letters:
        n = letter.placed.line
        own = lines[n].colour.strip() if 0 <= n < len(lines) else ""
        each.setdefault(own or of_art, []).append(letter.outline())
    return [(colour, tuple(areas) if len(each) > 1 else ()) for colour, areas in each.items()]


def _gone(before: HeightField, after: HeightField, areas: Sequence[Area] = ()) -> tuple[float, float, float]:
    """mm³, mm² and mm that are cut away, of all of the wood or within some outlines."""
    where = None
    if areas:
        rows, columns = before.z.shape
        x, y = np.meshgrid(before.x0 + before.cell * np.arange(columns), before.y0 + before.cell * np.arange(rows))
        mine = shapely.union_all(list(areas)).buffer(before.cell)
        shapely.prepare(mine)
        where = shapely.contains_xy(mine, x, y)
    volume, deep = pour.grooves(before, after, where)
    shows = (before.z - after.z > SHOWS) & after.wood & before.wood
    cells = float((shows if where is None else shows & where).sum())
    return volume, cells * before.cell * before.cell, deep


def _sanded(cuts: Sequence[Cuts], made: dict[str, Any], memory: Memory) -> tuple[SandedLetters, ...]:
    """Strokes with sloping walls: of letters that are cut in, and gaps between those that stand."""
    out = []
    for c in cuts:
        for w in _carves(c):
            shape, vees = made.get(w.operation.id), [t for t in w.tools if t is not None and t.kind in VEES]
            if not vees:
                continue
            half = vees[-1].angle / 2.0
            if isinstance(shape, Lettering) and shape.letters:
                widths = tuple((letter.name, 2.0 * thinnest(letter.cut)) for letter in shape.letters)
                large = max(shape.letters, key=lambda letter: letter.cut.widest)
                widest = (large.name, 2.0 * large.cut.widest)
                out.append(
                    SandedLetters(widths, half, setup=c.draft.setup.name, where=_middles(c, shape), widest=widest)
                )
            elif isinstance(shape, SunkShape) and shape.art and not shape.top.is_empty:
                gap = memory.get("narrowest gap", shape.top.wkb, partial(narrowest, shape.top))
                out.append(SandedLetters(((f"the narrowest gap in {w.name}", gap),), half, True))
    return tuple(out)


def narrowest(area: Area) -> float:
    """How wide an area is at its narrowest, mm: the widest disc that still goes into all but a hundredth of it."""
    low, high = (
        0.0,
        2.0
        * float(
            shapely.maximum_inscribed_circle(
                area if isinstance(area, Polygon) else max(area.geoms, key=lambda p: p.area), tolerance=0.05
            ).length
        ),
    )
    for _ in range(12):
        middle = (low + high) / 2.0
        reached = area.buffer(-middle / 2.0).buffer(middle / 2.0).area
        low, high = (middle, high) if reached >= 0.99 * area.area else (low, middle)
    return low


def _to_bed(c: Cuts) -> Matrix[FaceFrame, Bed]:
    return c.draft.pose.then(c.draft.placed.to_bed)


def _on_bed(to_bed: Matrix[FaceFrame, Bed], spots: Sequence[tuple[float, float]]) -> cleanup.Spots:
    return tuple((float(x), float(y)) for x, y in (to_bed.xy(*s) for s in spots))


def _middles(c: Cuts, shape: Lettering) -> cleanup.Spots:
    """Of each letter, on the bed."""
    boxes = [letter.outline().bounds for letter in shape.letters]
    return _on_bed(_to_bed(c), [((b[0] + b[2]) / 2.0, (b[1] + b[3]) / 2.0) for b in boxes])


def _left(c: Cuts, made: dict[str, Any], wood: str) -> list[LeftOver]:
    """What the cutters of a setup leave."""
    name, out = c.draft.setup.name, []
    to_bed = _to_bed(c)
    cut = {p.wanted.operation.id for p in c.draft.pieces if isinstance(p, DraftCut)}
    for w in c.draft.laid.wanted:
        shape = made.get(w.operation.id)
        if w.operation.id not in cut:
            continue
        if isinstance(w.figures, Plate) and w.tools and w.tools[0] is not None:
            if w.figures.skin > 0.0:
                out.append(cleanup.skin_left(float(plate_outline(w.figures).length), w.figures.skin, name))
            elif w.figures.tabs:
                out.append(
                    cleanup.tabs_left(
                        _on_bed(to_bed, [(t.x, t.y) for t in tabs(w.figures, w.tools[0])]), w.figures.tab_height, name
                    )
                )
        elif isinstance(shape, Lettering) and shape.letters:
            out.append(cleanup.letters_left(len(shape.letters), wood, name, _middles(c, shape)))
        elif (
            isinstance(shape, SunkShape)
            and w.kind.name != "gouge"
            and all(t is None or t.kind not in VEES for t in w.tools)
        ):
            flat = [t.diameter / 2.0 for t in w.tools if t is not None]
            where = inner_corners(shape.top)
            if flat and where:
                out.append(cleanup.corners_left(len(where), min(flat), name, _on_bed(to_bed, where)))
            out += seams(shape.top, [t for t in w.tools if t is not None], name, to_bed)
        elif isinstance(w.figures, Relieving):
            area = float(getattr(shape, "top", Polygon()).area)
            out.append(cleanup.cusps_left(area, w.figures.figures.scallop, name))
    return out


def seams(floor: Area, tools: Sequence[Tool], setup: str, to_bed: Matrix[FaceFrame, Bed]) -> list[LeftOver]:
    """Lines on a floor where a smaller cutter went on from a larger one: each has touched off by itself."""
    flat = sorted({t.diameter: t for t in tools if t.kind in FLOORS}.values(), key=lambda t: -t.diameter)
    out = []
    edge = floor.boundary.buffer(ON_EDGE)
    for large, small in zip(flat, flat[1:]):
        half = large.diameter / 2.0
        line = floor.buffer(-half).buffer(half).boundary.difference(edge)
        if line.length > small.diameter:
            spots = [
                (p.x, p.y)
                for p in (
                    shapely.line_interpolate_point(part, 0.5, normalized=True) for part in shapely.get_parts(line)
                )
                if not p.is_empty
            ]
            out.append(
                cleanup.seam_left(
                    float(line.length), f"T{large.number} and T{small.number}", setup, _on_bed(to_bed, spots)
                )
            )
    return out


def from_both_faces(cuts: Sequence[Cuts]) -> list[LeftOver]:
    """The seam round a part that is cut out from both of its faces."""
    ways = {
        c.draft.setup.up: (
            c.draft.setup.name,
            sum(float(plate_outline(w.figures).length) for w in c.draft.laid.wanted if isinstance(w.figures, Plate)),
        )
        for c in cuts
        if any(isinstance(w.figures, Plate) for w in c.draft.laid.wanted)
    }
    if len(ways) < 2:
        return []
    setup, long = min(ways.values(), key=lambda w: w[1])
    return [cleanup.seam_left(long, "the cuts from both faces", setup)]


def inner_corners(area: Area) -> list[tuple[float, float]]:
    """Corners of an area that a round cutter inside it does not get into."""
    out = []
    plain = area.simplify(0.1)
    for polygon in getattr(plain, "geoms", [plain]):
        whole = shapely.geometry.polygon.orient(polygon)
        for ring in (whole.exterior, *whole.interiors):
            p = np.asarray(ring.coords)[:-1]
            a, b = p - np.roll(p, 1, axis=0), np.roll(p, -1, axis=0) - p
            turn = np.degrees(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1)))
            out += [(float(x), float(y)) for x, y in p[turn > SHARP]]
    return out
