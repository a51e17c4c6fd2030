# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Carve stage says of floors that are sunk: depth, what each cutter takes and leaves, which cutters pay."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any

import shapely
from shapely.geometry import MultiPolygon

from gatepost.core.carve.areas import area_of
from gatepost.core.carve.depth import bit_radius, steepness
from gatepost.core.carve.fitting import largest_inside
from gatepost.core.carve.paying import choices
from gatepost.core.carve.sink import Sink, cusp_step, fits, half_width, largest_that_fits, roles
from gatepost.core.carve.sunk_cuts import RIM, Sinking, SunkOutline
from gatepost.core.findings import Figure, Finding, Fix, Level, Place, Table
from gatepost.core.job.carve import Letters
from gatepost.core.job.operation import Artwork
from gatepost.core.job.sunk import MOST_TOOLS, Sunk
from gatepost.core.job.tool import Tool
from gatepost.core.operation_kind import JudgedBy, OperationTold
from gatepost.core.tolerances import FLOOR_LEFT, SUNK_PAYS
from gatepost.core.units import area_words, mm
from gatepost.core.working import Named, working

STAGE = "carve"
FINE = 0.001  # mm less deep than the limit: a fix is not right at it
ROUGH = 0.02  # mm by which an outline may lie beside itself
HARDLY = 0.5  # mm: no cutter is as thin as that
SMALL = 1.0  # mm²: less is not worth a word


@dataclass(frozen=True)
class LaidShape:
    """What is cleared as it is laid out: its outline in the face, and the artwork that it works on."""

    top: MultiPolygon
    art: tuple[Artwork, ...]


@dataclass(frozen=True)
class SunkShape(LaidShape):
    """What is sunk: what stays in it or outlines it is its artwork. depth: below the face, mm; frame: which of it a ground lies in."""

    depth: float = 0.0
    frame: str = ""

    def stays(self, but: Collection[str] = ()) -> Any:
        """Area of its artwork that is left standing. but: ids of artwork that is not looked at."""
        art = [area_of(a, ROUGH) for a in self.art if a.id != self.frame and a.id not in but]
        return shapely.union_all(art).difference(self.top)


@dataclass(frozen=True)
class JudgedFloor:
    """A floor as it is judged. tools: its own; one: what its kind is called; of: as people are told it."""

    sinking: Sinking
    tools: tuple[Tool, ...]
    laid: SunkOutline
    sink: Sink
    one: str
    by: JudgedBy
    of: str = "the floor"

    @property
    def setup(self) -> str:
        """In which it is done."""
        return self.by.setup


def sunk_told(m: JudgedFloor) -> OperationTold:
    """Figures, findings and the table of a floor."""
    figures, shape = m.sinking.figures, SunkShape(m.laid.top, m.sinking.art, m.sinking.figures.depth, m.laid.frame)
    if m.laid.top.is_empty:
        return OperationTold((), (_nothing(m),), m.one, "", shape)
    fix = m.by.operation
    wrong = tool_findings(figures, m.tools, m.setup, m.by.tools, fix)
    said = [*wrong, *_depth_findings(m), *place_findings(m)]
    tables: tuple[Table, ...] = ()
    if not wrong:
        said += reach_findings(m)
        options = choices(m.sink, figures, m.by.tools, m.by.change)
        tables = _table(m, options)
        said += _paying_findings(m, options)
    return OperationTold(_figures(m), tuple(said), f"{m.one} {mm(figures.depth)} deep", _line(m), shape, tables)


def _line(m: JudgedFloor) -> str:
    """What its letters say."""
    letters = [a.figures for a in m.sinking.art if isinstance(a.figures, Letters)]
    return " / ".join(line.text for figures in letters for line in figures.lines)


def _figures(m: JudgedFloor) -> tuple[Figure, ...]:
    depth = m.sinking.figures.depth
    left = working("thickness - depth", Named("thickness", m.by.thickness), Named("depth", depth))
    out = [
        Figure("Floor, below the face", depth),
        Figure("Wood left under the floor", left.result, working=left),
        Figure("Area of the floor", area_words(m.sink.floor.area), "words"),
    ]
    if m.sink.vee is not None:
        slope = working(
            "depth * tan(half_angle)", Named("depth", depth), Named("half_angle", m.sink.vee.angle / 2.0, "angle")
        )
        out.append(Figure("Edge slopes over", slope.result, working=slope))
    return tuple(out)


def _nothing(m: JudgedFloor) -> Finding:
    ground = hasattr(m.sinking.figures, "rim")
    words = "choose what stays in it" if ground else "choose the outlines it lies in"
    message = (
        f"Nothing is sunk: {words}, under Your figures."
        if not m.sinking.art
        else "Nothing is sunk: no area is left of it."
    )
    return Finding("carve.sunk-nothing", Level.CARE, STAGE, message, m.setup)


def tool_findings(
    figures: Sunk, tools: Sequence[Tool], setup: str, table: Sequence[Tool], operation: str
) -> list[Finding]:
    """What stands in the way of its tools: of the wrong kind, too short, a V not wide enough. table: all tools that there are."""
    mills, vee, others = roles(tools)
    said: list[Finding] = []

    def without(number: int) -> tuple[Fix, ...]:
        kept = tuple(n for n in figures.tools if n != number)
        values = {"operation": operation, "tools": kept}
        return (Fix("set operation", values, f"Leave tool {number} out"),) if kept else ()

    for tool in others:
        words = "one V-bit is enough" if tool.kind == "vee" and vee is not None else "end mills and a V-bit do"
        message = f"Tool {tool.number}, {tool.name}, can't cut a flat floor: {words}."
        said.append(Finding("carve.sunk-tool", Level.STOP, STAGE, message, setup, fixes=without(tool.number)))
    for tool in mills:
        if tool.cutting_length < figures.depth - 1e-9:
            message = f"Tool {tool.number} cuts {mm(tool.cutting_length)} deep at most; the floor lies {mm(figures.depth)} down."
            said.append(Finding("carve.sunk-short", Level.STOP, STAGE, message, setup, fixes=without(tool.number)))
    if vee is not None and not fits(vee, figures.depth):
        most = (bit_radius(vee) - vee.tip / 2.0) * steepness(vee) - FINE
        fixes = [
            Fix("set operation", {"operation": operation, "tools": tuple(t.number if n == vee.number else n for n in figures.tools)}, f"Use tool {t.number}, {t.name}")
            for t in table if t.kind == "vee" and t.number not in figures.tools and 0 < t.angle < 180 and fits(t, figures.depth)
        ]  # fmt: skip
        if most > 0.1:
            fixes.append(Fix("set operation", {"operation": operation, "depth": most}, f"Sink it {mm(most)} deep"))
        wide = working(
            "tip / 2 + depth * tan(half_angle)", Named("tip", vee.tip), Named("depth", figures.depth), Named("half_angle", vee.angle / 2.0, "angle")
        )  # fmt: skip
        message = (
            f"At {mm(figures.depth)} deep the edge of tool {vee.number} would have to cut {mm(2 * half_width(vee, figures.depth))} across; "
            f"it cuts {mm(2 * bit_radius(vee))}."
        )
        said.append(Finding("carve.sunk-vee", Level.STOP, STAGE, message, setup, wide, tuple(fixes)))
    return said


def _depth_findings(m: JudgedFloor) -> list[Finding]:
    depth = m.sinking.figures.depth
    left = working("thickness - depth", Named("thickness", m.by.thickness), Named("depth", depth))
    if left.result >= FLOOR_LEFT:
        return [
            Finding(
                "carve.sunk-floor", Level.OK, STAGE, f"{mm(left.result)} of wood stays under the floor.", m.setup, left
            )
        ]
    most = m.by.thickness - FLOOR_LEFT - FINE
    fixes = (
        (Fix("set operation", {"operation": m.by.operation, "depth": most}, f"Sink it {mm(most)} deep"),)
        if most > 0.1
        else ()
    )
    message = f"The floor lies {mm(depth)} down: {mm(max(left.result, 0.0))} of wood would stay under it and {mm(FLOOR_LEFT)} is wanted."
    return [Finding("carve.sunk-deep", Level.STOP, STAGE, message, m.setup, left, fixes)]


def place_findings(m: JudgedFloor) -> list[Finding]:
    """Outlines that run across each other, and what lies past the board's edge."""
    said = [
        Finding(
            "carve.sunk-crossing", Level.CARE, STAGE,
            f"{a[:1].upper()}{a[1:]} and {b} run across each other: what lies in both is not what either says. Move one of them.", m.setup,
            fixes=_smaller(m) if b == RIM else (), about=f"{a}, {b}",
        )
        for a, b in m.laid.meeting
    ]  # fmt: skip
    past = m.sink.top.difference(m.by.outline.buffer(1e-6)).area
    if past > SMALL and getattr(m.sinking.figures, "rim", 1.0) > 0.0:
        message = f"{area_words(past)} of it lies past the board's edge."
        said.append(Finding("carve.sunk-off-board", Level.CARE, STAGE, message, m.setup))
    return said


def _smaller(m: JudgedFloor) -> tuple[Fix, ...]:
    """Lettering that reaches over the rim, as large as lies inside it, where it is the only one."""
    letters = [a for a in m.sinking.art if isinstance(a.figures, Letters)]
    if len(letters) != 1 or m.laid.inner is None:
        return ()
    (art,) = letters
    points = shapely.get_coordinates(shapely.convex_hull(area_of(art, ROUGH)))
    factor = largest_inside(points, (art.x, art.y), m.laid.inner.buffer(-ROUGH), 1.0)
    if factor is None or factor >= 1.0:
        return ()
    values = {"operation": m.by.operation, "factor": factor}
    return (Fix("scale lettering", values, f"Make the lettering {(1 - factor) * 100:.1f} % smaller"),)


def reach_findings(m: JudgedFloor) -> list[Finding]:
    """What a tool fits in nowhere, and what stays that none reaches or the V alone."""
    said: list[Finding] = []
    largest = largest_that_fits(m.sink.floor)
    figures, operation = m.sinking.figures, m.by.operation
    free = [
        t
        for t in m.by.tools
        if t.kind == "flat" and t.number not in figures.tools and t.cutting_length >= figures.depth
    ]
    for tool in m.sink.unfit:
        kept = tuple(n for n in figures.tools if n != tool.number)
        better = max((t for t in free if t.diameter <= largest), key=lambda t: t.diameter, default=None)
        fixes = []
        if better is not None:
            fixes.append(
                Fix(
                    "set operation",
                    {"operation": operation, "tools": (*kept, better.number)},
                    f"Use tool {better.number}, {better.name}",
                )
            )
        if kept:
            fixes.append(Fix("set operation", {"operation": operation, "tools": kept}, f"Leave tool {tool.number} out"))
        fits_in = (
            f"the largest that would is Ø {mm(math.floor(largest * 100) / 100)}"
            if largest > HARDLY
            else "there is hardly any floor"
        )
        message = f"Tool {tool.number}, Ø {mm(tool.diameter)}, fits nowhere in it: {fits_in}."
        said.append(Finding("carve.sunk-unfit", Level.CARE, STAGE, message, m.setup, fixes=tuple(fixes)))
    rest = m.sink.rest.area
    if rest < SMALL:
        return said
    smallest = min((t.tool.diameter for t in m.sink.mills), default=0.0)
    smaller = max((t for t in free if smallest == 0.0 or t.diameter < smallest), key=lambda t: t.diameter, default=None)
    fixes = []
    if smaller is not None and len(figures.tools) < MOST_TOOLS:
        fixes = [
            Fix(
                "set operation",
                {"operation": operation, "tools": (*figures.tools, smaller.number)},
                f"Add tool {smaller.number}, {smaller.name}",
            )
        ]
    worst = max(m.sink.rest.geoms, key=lambda p: p.area)
    spot = worst.representative_point()
    place = Place(*m.by.to_bed.xy(spot.x, spot.y), m.by.thickness, 4.0 * math.sqrt(worst.area))
    if m.sink.vee is None:
        message = f"{area_words(rest)} of {m.of} no fitted cutter reaches: corners keep a radius of {mm(smallest / 2)}, and gaps narrower than Ø {mm(smallest)} stay."
        bulls = [t.tool for t in m.sink.mills if t.tool.kind == "bull"]
        if bulls and all(t.tool.kind == "bull" for t in m.sink.mills):
            left = min(t.radius for t in bulls)
            message += f" Tool {bulls[-1].number}'s round corners leave a hollow of {mm(left)} radius at the foot of every wall; where that is meant, accept it."
        said.append(
            Finding("carve.sunk-unreached", Level.CARE, STAGE, message, m.setup, fixes=tuple(fixes), place=place)
        )
        return said
    step = working(
        "tip / 2 + cusp * tan(half_angle)", Named("tip", m.sink.vee.tip), Named("cusp", figures.cusp), Named("half_angle", m.sink.vee.angle / 2.0, "angle")
    )  # fmt: skip
    minutes = rest / cusp_step(m.sink.vee, figures.cusp) / m.sink.vee.feed
    message = (
        f"{area_words(rest)} of the floor only the V reaches, line by line {mm(step.result, 3)} apart: {minutes:.1f} minutes at least, "
        f"with cusps up to {mm(figures.cusp)}."
    )
    level = Level.NOTE if m.sink.mills else Level.CARE
    said.append(Finding("carve.sunk-by-the-v", level, STAGE, message, m.setup, step, tuple(fixes), place))
    return said


def _table(m: JudgedFloor, options: Sequence[tuple[tuple[Tool, ...], float, float]]) -> tuple[Table, ...]:
    if len(options) < 2:
        return ()
    chosen = {t.number for t in m.tools if t.kind == "flat"}
    rows = [
        (
            " + ".join(f"T{t.number}" for t in tools) or "V alone", f"{minutes:.0f}", area_words(left),
            "chosen" if {t.number for t in tools} == chosen else "",
        )
        for tools, minutes, left in options
    ]  # fmt: skip
    return (("End mills for it, minutes with changes (estimate)", (("End mills", "min", "they leave", ""), *rows)),)


def _paying_findings(m: JudgedFloor, options: Sequence[tuple[tuple[Tool, ...], float, float]]) -> list[Finding]:
    """Whether other end mills would be quicker by enough to say so."""
    chosen = {t.number for t in m.tools if t.kind == "flat"}
    mine = next((o for o in options if {t.number for t in o[0]} == chosen), None)
    if mine is None or not options or m.sink.vee is None:
        return []
    best = min(options, key=lambda o: o[1])
    if best[1] >= mine[1] * (1.0 - SUNK_PAYS) or {t.number for t in best[0]} == chosen:
        return []
    names = " and ".join(f"tool {t.number} (Ø {mm(t.diameter)})" for t in best[0]) or "the V alone"
    fix = Fix(
        "set operation",
        {"operation": m.by.operation, "tools": (*(t.number for t in best[0]), m.sink.vee.number)},
        f"Use {names}",
    )
    message = f"With {names} it would take about {best[1]:.0f} minutes in place of {mine[1]:.0f}, changes counted."
    return [Finding("carve.sunk-pays", Level.NOTE, STAGE, message, m.setup, fixes=(fix,))]
