# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Carve stage says: each letter by itself, the plate, its tabs and the wood under it."""

from __future__ import annotations

import math

import numpy as np
import shapely

from gatepost.core.carve.depth import bit_radius, depth_of, steepness
from gatepost.core.carve.fitting import largest_inside
from gatepost.core.carve.flaws import carving_over_flaws
from gatepost.core.carve.letter_tables import letter_tables
from gatepost.core.carve.lettered import STAGE, Carved, spot
from gatepost.core.carve.lettering import CutLetter, Lettering, thinnest
from gatepost.core.carve.line_report import lines_told
from gatepost.core.carve.painted import film_findings
from gatepost.core.carve.paths import plate_outline
from gatepost.core.findings import Figure, Finding, Fix, Level
from gatepost.core.geometry.outline import Area
from gatepost.core.job.carve import MOST_BOLDER, Carving
from gatepost.core.operation_kind import OperationTold
from gatepost.core.profile import blunt, is_vee, profile_of
from gatepost.core.tolerances import PAINT_DEPTH
from gatepost.core.units import mm
from gatepost.core.working import Named, working

FLOOR = 2.0  # mm of wood wanted under the deepest groove
SMALL = 0.01  # mm that nobody moves by
EASY, MOST = 150.0, 400.0  # times their height that capitals are read from, easily and at the most
FINE = 0.001  # mm of depth that a larger letter is given over what is wanted: its axis is followed no finer


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
    elif not is_vee(c.tool):
        message = f"Tool {c.tool.number} is not a V-bit. Choose one for the lettering."
        findings.append(
            Finding("carve.not-a-vee", Level.STOP, STAGE, message, c.setup, fixes=tuple(_vee_fixes(c, 0.0)))
        )
    else:
        cut = (
            _wide_findings(c) + _deep_findings(c) + _thin_findings(c) + film_findings(c) if c.lettering.letters else []
        )
        findings += cut + lines_told(c)
    findings += _place_findings(c)
    findings += carving_over_flaws(c.lettering.letters, c.tool, c.by.flaws, c.setup, c.by.to_bed, c.by.thickness)
    text = sum(len(line.text.replace(" ", "")) for line in c.carving.lines)
    line = " / ".join(li.text for li in c.carving.lines)
    fact = "a drawing" if _drawn(c) else f"{text} letters"
    return OperationTold(_figures(c, c.lettering.letters), tuple(findings), fact, line, c.lettering, letter_tables(c))


def _drawn(c: Carved) -> bool:
    """Whether it is a drawing and no lettering."""
    return any(not line.face for line in c.carving.lines)


def _figures(c: Carved, letters: tuple[CutLetter, ...]) -> tuple[Figure, ...]:
    figures: list[Figure] = []
    if letters and is_vee(c.tool):
        widest = max(letter.cut.widest for letter in letters)
        thin = min(thinnest(letter.cut) for letter in letters)
        deep = depth_of(widest, c.tool)
        figures += [
            Figure("Widest stroke", 2 * widest, working=working("2 * half_width", Named("half_width", widest))),
            Figure("Deepest groove", deep.result, working=deep),
            Figure("Thinnest stroke", 2 * thin, working=working("2 * half_width", Named("half_width", thin))),
        ]
    if figures and not _drawn(c):
        heights = [line.height for line in c.carving.lines if line.glyphs]
        figures.append(_reads("Reads easily to", max(heights), EASY, c.carving.painted))
        if min(heights) < 0.99 * max(heights):
            figures.append(_reads("Its smallest line, easily to", min(heights), EASY, c.carving.painted))
        figures.append(_reads("Can be read up to", max(heights), MOST, c.carving.painted))
    return tuple(figures)


def _reads(label: str, height: float, times: float, painted: bool) -> Figure:
    """From how far capitals of a height are read, m."""
    square_on = "painted in contrast, square on" if painted else "bare carving reads half as far, square on"
    far = working(
        "height * times * share / 1000", Named("height", height), Named("times", times, "number"), Named("share", 1.0 if painted else 0.5, "number"),
        unit="m", assumption=f"1 : {times:.0f} of their height, {square_on}", shop_rule=True,
    )  # fmt: skip
    return Figure(label, far.result, "m", far)


def _scale_fix(c: Carved, factor: float) -> Fix:
    return Fix(
        "scale lettering", {"factor": factor, **c.by.named}, f"Make the lettering {(1 - factor) * 100:.1f} % smaller"
    )


def _larger_fix(c: Carved, factor: float) -> Fix:
    words = f"Make the lettering {(factor - 1) * 100:.1f} % larger"
    return Fix("scale lettering", {"factor": factor, **c.by.named}, words)


def _bolder_fix(c: Carved, letter: CutLetter, more: float) -> tuple[Fix, ...]:
    """Strokes of a line made wider on each side."""
    line = c.carving.lines[letter.placed.line]
    bolder = line.bolder + more + FINE
    if bolder > MOST_BOLDER:
        return ()
    words = f"Make line {letter.placed.line + 1} bolder by {mm(more + FINE, 2)}"
    return (Fix("set line", {"line": line.id, "bolder": bolder, **c.by.named}, words),)


def _vee_fixes(c: Carved, radius: float) -> list[Fix]:
    """Other V-bits of the table that cut a half width."""
    fit = [t for t in c.by.tools if is_vee(t) and t.number != c.tool.number and bit_radius(t) >= radius]
    return [Fix("set carving", {"tool": t.number, **c.by.named}, f"Use tool {t.number}, {t.name}") for t in fit]


def _floor_fix(c: Carved, radius: float) -> tuple[Fix, ...]:
    """A flat floor where a stroke is wider than twice a half width, or the wood too thin."""
    depth = min((radius - blunt(c.tool)) * steepness(c.tool), c.by.thickness - FLOOR) - FINE
    values = {"operation": c.by.operation, "depth": depth}
    return (Fix("flat floor", values, f"Cut it {mm(depth)} deep, with a flat floor"),) if depth > 0.5 else ()


def _wide_findings(c: Carved) -> list[Finding]:
    limit = bit_radius(c.tool)
    wide = [letter for letter in c.lettering.letters if letter.cut.widest > limit + 1e-9]
    if not wide:
        return []
    worst = max(letter.cut.widest for letter in wide)
    fixes = (*_vee_fixes(c, worst), _scale_fix(c, limit / worst * (1 - 1e-6)), *_floor_fix(c, limit))
    return [
        Finding(
            "carve.too-wide", Level.STOP, STAGE,
            f"{letter.name} is too wide for the bit: its stroke is {mm(2 * letter.cut.widest)} across and the edge cuts {mm(2 * limit)}.",
            c.setup, depth_of(letter.cut.widest, c.tool), fixes if i == 0 else (), spot(c, letter), letter.name,
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
    radius = (c.by.thickness - FLOOR) / steepness(c.tool) + blunt(c.tool)
    fixes = (
        *((_scale_fix(c, radius / worst.cut.widest * (1 - 1e-6)),) if radius > 0 else ()),
        *_floor_fix(c, bit_radius(c.tool)),
    )
    message = f"{worst.name} is {mm(depth.result)} deep; {mm(max(left.result, 0.0))} of wood would stay under it and {mm(FLOOR)} is wanted."
    return [Finding("carve.too-deep", Level.STOP, STAGE, message, c.setup, left, fixes, spot(c, worst), worst.name)]


def _thin_findings(c: Carved) -> list[Finding]:
    if not c.carving.painted:
        return []
    said: list[Finding] = []
    bolder: set[int] = set()
    wanted = PAINT_DEPTH + c.carving.sanding + c.by.height_error
    thin = sorted((thinnest(letter.cut), i) for i, letter in enumerate(c.lettering.letters))
    radius = (wanted + FINE) / steepness(c.tool) + blunt(c.tool)
    for r, i in thin:
        letter = c.lettering.letters[i]
        depth = depth_of(r, c.tool).result if r > profile_of(c.tool).flat else 0.0
        left = working(
            "depth - sanding - height_error", Named("depth", depth), Named("sanding", c.carving.sanding), Named("height_error", c.by.height_error),
            assumption=f"a groove holds paint from {PAINT_DEPTH} mm after sanding", shop_rule=True,
        )  # fmt: skip
        if left.result >= PAINT_DEPTH:
            break
        message = f"{letter.name} is too thin for paint: {mm(max(left.result, 0.0))} of groove stays at its thinnest stroke, {mm(PAINT_DEPTH)} is wanted."
        fixes: tuple[Fix, ...] = (_larger_fix(c, radius / r),) if r > 0 and not said else ()
        if letter.placed.line not in bolder and letter.placed.line >= 0:
            bolder.add(letter.placed.line)
            fixes += _bolder_fix(c, letter, radius - r)
        said.append(
            Finding("carve.too-thin", Level.CARE, STAGE, message, c.setup, left, fixes, spot(c, letter), letter.name)
        )
    if not said:
        message = "Every letter's strokes are deep enough to hold paint after sanding."
        said.append(Finding("carve.holds-paint", Level.OK, STAGE, message, c.setup))
    return said


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
    return largest_inside(points, (c.carving.x, c.carving.y), usable, 1.0)


def fit_to_margin(carving: Carving, outline: Area, lettering: Lettering) -> float | None:
    """The factor by which the lettering may grow or must shrink to fill its room inside the margin."""
    if not lettering.letters:
        return None
    room = plate_outline(carving.plate) if carving.plate else outline
    usable = room.buffer(-carving.margin, quad_segs=32)
    points = np.concatenate([shapely.get_coordinates(letter.outline().convex_hull) for letter in lettering.letters])
    return largest_inside(points, (carving.x, carving.y), usable, 50.0)
