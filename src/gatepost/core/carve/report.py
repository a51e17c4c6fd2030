# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Carve stage says: each letter by itself, the plate, its tabs and the wood under it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from gatepost.core.carve import spacing
from gatepost.core.carve.depth import bit_radius, depth_of, steepness
from gatepost.core.carve.flaws import carving_over_flaws, plate_over_flaws
from gatepost.core.carve.lettering import CutLetter, Lettering, thinnest
from gatepost.core.carve.paths import plate_outline
from gatepost.core.findings import Figure, Finding, Fix, Level, Place
from gatepost.core.geometry.outline import Area
from gatepost.core.job.carve import MOST_TABS, Carving, Plate
from gatepost.core.job.tool import Tool
from gatepost.core.operation_kind import JudgedBy, OperationTold
from gatepost.core.tolerances import PAINT_DEPTH, TAB_FACTOR
from gatepost.core.units import mm
from gatepost.core.working import Named, working

STAGE = "carve"
FLOOR = 2.0  # mm of wood wanted under the deepest groove
SMALL = 0.01  # mm that nobody moves by
FINE = 0.001  # mm of depth that a larger letter is given over what is wanted: its axis is followed no finer


@dataclass(frozen=True)
class Carved:
    """Lettering as it is judged. tool: the V that cuts it; lettering: its letters and their cuts; by: what it is judged by."""

    carving: Carving
    tool: Tool
    lettering: Lettering
    by: JudgedBy

    @property
    def setup(self) -> str:
        """In which it is done."""
        return self.by.setup


def no_text(setup: str) -> Finding:
    """Where nothing is to be lettered yet."""
    return Finding("carve.no-text", Level.CARE, STAGE, "No lettering yet: type a line of text.", setup)


def series_waits(rows: int, setup: str) -> Finding:
    """Where a job is a series, whose rows are not planned yet."""
    message = f"This job is a series of {rows} {'row' if rows == 1 else 'rows'}: only what its texts say as they stand is planned so far."
    fix = Fix("set series", {"rows": ()}, "No series")
    return Finding("carve.series", Level.STOP, STAGE, message, setup, fixes=(fix,))


def other_face(name: str, on: str, up: str, face: str, art: str, setup: str) -> Finding:
    """Where an operation works on artwork of a face that is not up. up, on: faces in words; face: the one that is up."""
    message = f"{name} works on the {on}, and here the {up} is up: nothing is cut. Turn the board over, or put it on the {up}."
    fix = Fix("set art", {"art": art, "face": face}, f"Put it on the {up}")
    return Finding("carve.other-face", Level.STOP, STAGE, message, setup, fixes=(fix,), about=name)


def lettering_told(c: Carved) -> OperationTold:
    """Figures and findings of lettering."""
    findings: list[Finding] = []
    if not any(line.text.strip() for line in c.carving.lines):
        findings.append(no_text(c.setup))
    elif c.tool.kind != "vee" or not 0 < c.tool.angle < 180:
        message = f"Tool {c.tool.number} is not a V-bit. Choose one for the lettering."
        findings.append(
            Finding("carve.not-a-vee", Level.STOP, STAGE, message, c.setup, fixes=tuple(_vee_fixes(c, 0.0)))
        )
    else:
        findings += _wide_findings(c) + _deep_findings(c) + _thin_findings(c) + _line_findings(c)
    findings += _place_findings(c)
    findings += carving_over_flaws(c.lettering.letters, c.tool, c.by.flaws, c.setup, c.by.to_bed, c.by.thickness)
    text = sum(len(line.text.replace(" ", "")) for line in c.carving.lines)
    line = " / ".join(li.text for li in c.carving.lines)
    fact = "a drawing" if _drawn(c) else f"{text} letters"
    return OperationTold(_figures(c, c.lettering.letters), tuple(findings), fact, line, c.lettering)


def _drawn(c: Carved) -> bool:
    """Whether it is a drawing and no lettering."""
    return any(not line.face for line in c.carving.lines)


def _figures(c: Carved, letters: tuple[CutLetter, ...]) -> tuple[Figure, ...]:
    figures: list[Figure] = []
    if letters and c.tool.kind == "vee":
        widest = max(letter.cut.widest for letter in letters)
        thin = min(thinnest(letter.cut) for letter in letters)
        deep = depth_of(widest, c.tool)
        figures += [
            Figure("Widest stroke", 2 * widest, working=working("2 * half_width", Named("half_width", widest))),
            Figure("Deepest groove", deep.result, working=deep),
            Figure("Thinnest stroke", 2 * thin, working=working("2 * half_width", Named("half_width", thin))),
        ]
    if figures and not _drawn(c):
        tallest = max(line.height for line in c.carving.lines)
        near = working(
            "height * 150 / 1000",
            Named("height", tallest),
            unit="m",
            assumption="1 : 150 reads easily, painted, square on",
            shop_rule=True,
        )
        figures.append(Figure("Reads easily to", near.result, "m", near))
    return tuple(figures)


def _spot(c: Carved, letter: CutLetter) -> Place:
    x0, y0, x1, y1 = letter.outline().bounds
    return Place(*c.by.to_bed.xy((x0 + x1) / 2, (y0 + y1) / 2), c.by.thickness, max(x1 - x0, y1 - y0) * 0.6)


def _scale_fix(c: Carved, factor: float) -> Fix:
    return Fix(
        "scale lettering", {"factor": factor, **c.by.named}, f"Make the lettering {(1 - factor) * 100:.1f} % smaller"
    )


def _vee_fixes(c: Carved, radius: float) -> list[Fix]:
    """Other V-bits of the table that cut a half width."""
    fit = [t for t in c.by.tools if t.kind == "vee" and t.number != c.tool.number and bit_radius(t) >= radius]
    return [Fix("set carving", {"tool": t.number, **c.by.named}, f"Use tool {t.number}, {t.name}") for t in fit]


def _wide_findings(c: Carved) -> list[Finding]:
    limit = bit_radius(c.tool)
    wide = [letter for letter in c.lettering.letters if letter.cut.widest > limit + 1e-9]
    if not wide:
        return []
    worst = max(letter.cut.widest for letter in wide)
    fixes = (*_vee_fixes(c, worst), _scale_fix(c, limit / worst * (1 - 1e-6)))
    return [
        Finding(
            "carve.too-wide", Level.STOP, STAGE,
            f"{letter.name} is too wide for the bit: its stroke is {mm(2 * letter.cut.widest)} across and the edge cuts {mm(2 * limit)}.",
            c.setup, depth_of(letter.cut.widest, c.tool), fixes if i == 0 else (), _spot(c, letter), letter.name,
        )
        for i, letter in enumerate(sorted(wide, key=lambda w: -w.cut.widest))
    ]  # fmt: skip


def _deep_findings(c: Carved) -> list[Finding]:
    worst = max(c.lettering.letters, key=lambda letter: letter.cut.widest)
    depth = depth_of(worst.cut.widest, c.tool)
    left = working("thickness - depth", Named("thickness", c.by.thickness), Named("depth", depth.result))
    if left.result >= FLOOR:
        message = f"{mm(left.result)} of wood stays under the deepest groove, in {worst.name}."
        return [Finding("carve.floor", Level.OK, STAGE, message, c.setup, left)]
    radius = (c.by.thickness - FLOOR) / steepness(c.tool) + c.tool.tip / 2.0
    fixes = (_scale_fix(c, radius / worst.cut.widest * (1 - 1e-6)),) if radius > 0 else ()
    message = f"{worst.name} is {mm(depth.result)} deep; {mm(max(left.result, 0.0))} of wood would stay under it and {mm(FLOOR)} is wanted."
    return [Finding("carve.too-deep", Level.STOP, STAGE, message, c.setup, left, fixes, _spot(c, worst), worst.name)]


def _thin_findings(c: Carved) -> list[Finding]:
    if not c.carving.painted:
        return []
    said: list[Finding] = []
    wanted = PAINT_DEPTH + c.carving.sanding + c.by.height_error
    thin = sorted((thinnest(letter.cut), i) for i, letter in enumerate(c.lettering.letters))
    radius = (wanted + FINE) / steepness(c.tool) + c.tool.tip / 2.0
    for r, i in thin:
        letter = c.lettering.letters[i]
        depth = depth_of(r, c.tool).result if r > c.tool.tip / 2.0 else 0.0
        left = working(
            "depth - sanding - height_error", Named("depth", depth), Named("sanding", c.carving.sanding), Named("height_error", c.by.height_error),
            assumption=f"a groove holds paint from {PAINT_DEPTH} mm after sanding", shop_rule=True,
        )  # fmt: skip
        if left.result >= PAINT_DEPTH:
            break
        message = f"{letter.name} is too thin for paint: {mm(max(left.result, 0.0))} of groove stays at its thinnest stroke, {mm(PAINT_DEPTH)} is wanted."
        fixes = (
            (
                Fix(
                    "scale lettering",
                    {"factor": radius / r, **c.by.named},
                    f"Make the lettering {(radius / r - 1) * 100:.1f} % larger",
                ),
            )
            if r > 0 and not said
            else ()
        )
        said.append(
            Finding("carve.too-thin", Level.CARE, STAGE, message, c.setup, left, fixes, _spot(c, letter), letter.name)
        )
    if not said:
        message = "Every letter's strokes are deep enough to hold paint after sanding."
        said.append(Finding("carve.holds-paint", Level.OK, STAGE, message, c.setup))
    return said


def _line_findings(c: Carved) -> list[Finding]:
    """Lines that run into each other."""
    lines = spacing.by_line(c.lettering.letters)
    near = [n for upper, lower in zip(lines, lines[1:]) if (n := spacing.nearest(upper, lower)) is not None]
    if not near:
        return []
    gap, a, b = min(near, key=lambda one: one[0])
    leading = spacing.leading_wanted(c.lettering.letters, c.carving.leading)
    fix = Fix("set carving", {"leading": leading, **c.by.named}, f"Set the line spacing to {leading:.2f}")
    message = (
        f"{a.name} and {b.name} are {mm(gap, 2)} apart: under {mm(spacing.NEAR)} the wall between two grooves breaks out (a shop rule)."
        if gap > 0.0
        else f"{a.name} runs into {b.name}: set the lines farther apart."
    )
    return [
        Finding("carve.lines-meet", Level.CARE, STAGE, message, c.setup, fixes=(fix,), place=_spot(c, b), about=b.name)
    ]


def _place_findings(c: Carved) -> list[Finding]:
    if not c.lettering.letters:
        return []
    room = plate_outline(c.carving.plate) if c.carving.plate else c.by.outline
    usable = room.buffer(-c.carving.margin, quad_segs=32)
    outlines = shapely.union_all([letter.outline() for letter in c.lettering.letters])
    if usable.contains(outlines):
        return [
            Finding(
                "carve.inside-margin",
                Level.OK,
                STAGE,
                f"The lettering keeps {mm(c.carving.margin)} from the edge.",
                c.setup,
            )
        ]
    factor = _fitting_factor(c, usable)
    fixes = (*_move_fixes(c, usable, outlines), *((_scale_fix(c, factor),) if factor is not None else ()))
    kind = "plate's" if c.carving.plate else "board's"
    message = f"The lettering comes nearer than {mm(c.carving.margin)} to the {kind} edge."
    inside = room.contains(outlines)
    return [Finding("carve.margin", Level.CARE if inside else Level.STOP, STAGE, message, c.setup, fixes=fixes)]


def _move_fixes(c: Carved, usable: shapely.Geometry, outlines: shapely.Geometry) -> list[Fix]:
    """The lettering as large as it is, moved as little as brings it inside its margin; to the middle where that does not."""
    if usable.is_empty:
        return []
    (x0, y0, x1, y1), (u0, v0, u1, v1) = outlines.bounds, usable.bounds
    least = (max(u0 - x0, 0.0) + min(u1 - x1, 0.0), max(v0 - y0, 0.0) + min(v1 - y1, 0.0))
    middle = (0.5 * (u0 + u1 - x0 - x1), 0.5 * (v0 + v1 - y0 - y1))
    for dx, dy in (least, middle):
        x, y = c.carving.x + dx + _over(dx), c.carving.y + dy + _over(dy)
        there = shapely.transform(outlines, lambda p, d=(x - c.carving.x, y - c.carving.y): p + np.array(d))
        if usable.contains(there):
            ways = [
                f"{mm(abs(d))} {words}"
                for d, words in ((dx, "right" if dx > 0 else "left"), (dy, "back" if dy > 0 else "forward"))
                if abs(d) > SMALL
            ]
            return (
                [Fix("set carving", {"x": x, "y": y, **c.by.named}, f"Move the lettering {' and '.join(ways)}")]
                if ways
                else []
            )
    return []


def _over(d: float) -> float:
    """A hair more than is needed, the same way."""
    return math.copysign(SMALL, d) if abs(d) > SMALL else 0.0


def _fitting_factor(c: Carved, usable: shapely.Geometry) -> float | None:
    """The largest scale about the lettering's middle at which it fits, or nothing when none does."""
    points = np.concatenate([shapely.get_coordinates(letter.outline().convex_hull) for letter in c.lettering.letters])
    middle = np.array([c.carving.x, c.carving.y])

    def fits(factor: float) -> bool:
        scaled = (points - middle) * factor + middle
        return bool(shapely.contains_xy(usable, scaled[:, 0], scaled[:, 1]).all())

    low, high = 0.02, 1.0
    if usable.is_empty or not fits(low):
        return None
    while high - low > 1e-5:
        half = 0.5 * (low + high)
        low, high = (half, high) if fits(half) else (low, half)
    return low


def fit_to_margin(carving: Carving, outline: Area, lettering: Lettering) -> float | None:
    """The factor by which the lettering may grow or must shrink to fill its room inside the margin."""
    if not lettering.letters:
        return None
    room = plate_outline(carving.plate) if carving.plate else outline
    usable = room.buffer(-carving.margin, quad_segs=32)
    points = np.concatenate([shapely.get_coordinates(letter.outline().convex_hull) for letter in lettering.letters])
    middle = np.array([carving.x, carving.y])
    low, high = 0.02, 50.0
    while high - low > 1e-5 * high:
        half = 0.5 * (low + high)
        scaled = (points - middle) * half + middle
        good = bool(shapely.contains_xy(usable, scaled[:, 0], scaled[:, 1]).all())
        low, high = (half, high) if good else (low, half)
    return low if low > 0.021 else None


def unfit(number: int, setup: str) -> Finding:
    """A tool that can't cut a plate out."""
    message = f"Tool {number} can't cut the plate out. Choose an end mill."
    return Finding("carve.cutout-tool", Level.STOP, STAGE, message, setup)


def plate_findings(plate: Plate, tool: Tool, c: JudgedBy, rounds: int) -> list[Finding]:
    """What is wrong with a cut-out. rounds: of one that is left out since there are too many to work out, else 0."""
    if tool.kind == "vee":
        return [unfit(plate.tool, c.setup)]
    said: list[Finding] = []
    if rounds:
        message = (
            f"Tool {tool.number} would go round {rounds} times, {mm(tool.pass_depth, 3)} deeper each: more than can be worked out, and "
            "than anybody runs. Take more at a pass; the plate is not cut out until then."
        )
        usual = min(0.5 * tool.diameter, tool.cutting_length)
        fix = Fix(
            "set tool", {"number": tool.number, "pass_depth": usual}, f"Take half its diameter a pass, {mm(usual)}"
        )
        said.append(Finding("carve.too-many-passes", Level.STOP, STAGE, message, c.setup, fixes=(fix,)))
    edge = c.outline
    if not edge.contains(plate_outline(plate)):
        said.append(
            Finding("carve.plate-off-board", Level.STOP, STAGE, "The plate does not lie wholly on the board.", c.setup)
        )
    if tool.cutting_length < c.thickness:
        message = (
            f"The board is {mm(c.thickness)} thick and tool {tool.number} cuts {mm(tool.cutting_length)} deep at most."
        )
        said.append(Finding("carve.cutter-short", Level.STOP, STAGE, message, c.setup))
    if plate.tabs and plate.skin <= 0.0 and c.peak > 0.0:
        said += _tab_findings(c, plate)
    return said + plate_over_flaws(plate, tool, c.flaws, c.setup)


APART = 300.0  # mm round the edge from tab to tab; a shop rule
BY_HAND = 150.0  # N that a tab is still broken by hand with; a shop rule


def _tab_findings(c: JudgedBy, plate: Plate) -> list[Finding]:
    shear = c.rules.tab_shear
    strength = working(
        "tabs * width * height * shear", Named("tabs", float(plate.tabs), "count"), Named("width", plate.tab_width), Named("height", plate.tab_height),
        Named("shear", shear, "N/mm²"), unit="force", assumption="grain running short across the tab", shop_rule=True,
    )  # fmt: skip
    wanted = TAB_FACTOR * c.peak
    words = f"{plate.tabs} tabs bear about {strength.result:.0f} N; {wanted:.0f} N is wanted (twice the peak push)."
    if strength.result >= wanted:
        return [
            Finding(
                "carve.tabs", Level.OK, STAGE, f"{words} {_breaking(strength.result / plate.tabs)}", c.setup, strength
            ),
            *_tabs_stand(c, plate),
        ]
    height = wanted / (plate.tabs * plate.tab_width * shear) * (1 + 1e-9)
    fixes = (
        (Fix("set plate", {"tab_height": height, **c.named}, f"Make the tabs {mm(height)} high"),)
        if height < c.thickness
        else ()
    )
    return [
        Finding("carve.tabs-weak", Level.CARE, STAGE, f"{words} The plate could break free.", c.setup, strength, fixes),
        *_tabs_stand(c, plate),
    ]


def _breaking(each: float) -> str:
    """How a tab is got off, by what it bears, N."""
    return f"Each breaks at about {each:.0f} N: {'by hand' if each <= BY_HAND else 'saw them through'}, then pare."


def _tabs_stand(c: JudgedBy, plate: Plate) -> list[Finding]:
    """How far apart they are, and whether they stand on end grain."""
    said: list[Finding] = []
    edge = plate_outline(plate).exterior.length
    apart = working("edge / tabs", Named("edge", edge), Named("tabs", float(plate.tabs), "count"), shop_rule=True)
    if apart.result > APART:
        count = min(2 * math.ceil(edge / APART / 2.0), MOST_TABS)
        fixes = (Fix("set plate", {"tabs": count, **c.named}, f"Leave {count} tabs"),) if count > plate.tabs else ()
        message = f"One tab to {mm(apart.result, 0)} of edge: between them a plate lifts or shivers. {mm(APART, 0)} at most is usual (a shop rule)."
        said.append(Finding("carve.tabs-apart", Level.NOTE, STAGE, message, c.setup, apart, fixes))
    along_x = plate.width >= plate.height  # tabs stand on the long sides
    slant = abs(math.sin(math.radians(c.grain if along_x else c.grain - 90.0)))
    if slant > math.sin(math.radians(60.0)):
        message = "The tabs stand on end grain: they bear more there, and tear the edge when they are broken. Saw and pare them, or leave a skin."
        said.append(Finding("carve.tabs-end-grain", Level.NOTE, STAGE, message, c.setup))
    return said
