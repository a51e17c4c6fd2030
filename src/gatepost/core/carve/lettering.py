# SPDX-License-Identifier: GPL-3.0-or-later
"""Lettering laid out on the board, and V-cut along its true medial axis."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from gatepost.core.carve.setting import SetLine, caret_marks, set_line
from gatepost.core.carve.single_line import NAME
from gatepost.core.geometry import curves, medial
from gatepost.core.geometry.art import Art
from gatepost.core.geometry.straight import as_drawn
from gatepost.core.job.carve import Carving, Glyph, Plate, TextLine, VCut
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.operation import Artwork
from gatepost.core.job.tool import Tool
from gatepost.core.motion import turned_about
from gatepost.core.profile import CutterProfile, profile_of
from gatepost.core.tolerances import AXIS_DEPTH, FLATTEN_DEPTH

Array = NDArray[np.float64]
DRAWN = -1  # the line of what is not lettering but a drawing's part
FINEST, COARSEST = 2e-4, 3e-3  # mm a flattened outline may stray


@dataclass(frozen=True)
class PlacedGlyph:
    """A glyph on the board: line, place in the line, character, scale (mm a capital height) and shift, blank frame; own: degrees that it is turned by
    about its origin; turn: degrees that all of it is turned by about a place, seen from behind first where mirror says so."""

    line: int
    index: int
    char: str
    path: str
    scale: float
    x: float
    y: float
    own: float = 0.0
    turn: float = 0.0
    about: tuple[float, float] = (0.0, 0.0)
    mirror: bool = False

    @property
    def contours(self) -> list[curves.Contour]:
        """Its curves, blank frame, mm."""
        flat = curves.place(curves.parse_path(self.path), self.scale, self.x, self.y)
        moved = self.own or self.turn or self.mirror
        return [[self.turned(piece) for piece in contour] for contour in flat] if moved else flat

    def turned(self, points: Array) -> Array:
        """Places of the lettering as it is set straight, (n, 2 or more), as it is turned."""
        if self.own:
            points = _about(points, self.own, (self.x, self.y))
        if self.mirror:
            points = points * np.array([-1.0, *[1.0] * (points.shape[1] - 1)])
            points[:, 0] += 2.0 * self.about[0]
        return _about(points, self.turn, self.about) if self.turn else points


def _about(points: Array, degrees: float, place: tuple[float, float]) -> Array:
    """Points (n, 2 or more) turned about a place."""
    shift = np.zeros(points.shape[1])
    shift[:2] = place
    return turned_about(points - shift, degrees) + shift


def set_lines(carving: Carving) -> list[tuple[SetLine, float, float]]:
    """Each line as it is set, and where its middle and its lowest foot stand before all of it is turned; one below the other about the lettering's middle."""
    lines = carving.lines
    done = [set_line(line) for line in lines]
    gaps = [*(carving.leading * line.height for line in lines[1:]), 0.0]
    widest = max((one.wide for one in done), default=0.0)
    top = carving.y + (sum(one.tall for one in done) + sum(gaps)) / 2.0
    out: list[tuple[SetLine, float, float]] = []
    for line, one, gap in zip(lines, done, gaps):
        foot = top - one.tall
        off = {"left": (one.wide - widest) / 2.0, "centre": 0.0, "right": (widest - one.wide) / 2.0}[line.align]
        out.append((one, carving.x + off, foot))
        top = foot - gap
    return out


def layout(carving: Carving) -> list[PlacedGlyph]:
    """Every glyph's place. Lines stand one below the other about the lettering's middle, capitals to baseline."""
    middle = (carving.x, carving.y)
    placed: list[PlacedGlyph] = []
    for number, (line, (one, x, foot)) in enumerate(zip(carving.lines, set_lines(carving))):
        for s in one.stands:
            char = line.glyphs[s.index].char
            placed.append(
                PlacedGlyph(
                    number if line.face else DRAWN, s.index, char, s.path, line.height, x + s.x, foot + s.y, s.turn, carving.turn, middle, carving.mirror
                )
            )  # fmt: skip
    return placed


def solid(carving: Carving) -> list[PlacedGlyph]:
    """Every glyph that has strokes with a width: those of single lines have none."""
    return [g for g in layout(carving) if carving.lines[g.line].face != NAME]


def carets(carving: Carving, number: int) -> Array:
    """Where a caret stands before each character of a line and after its last: its foot and its top on the face, (n + 1, 2, 2) mm."""
    _, x, foot = set_lines(carving)[number]
    marks = caret_marks(carving.lines[number]) + np.array([x, foot])
    one = PlacedGlyph(number, 0, "", "", 1.0, 0.0, 0.0, 0.0, carving.turn, (carving.x, carving.y), carving.mirror)
    return one.turned(marks.reshape(-1, 2)).reshape(-1, 2, 2)


def parts_of(art: Artwork, figures: VCut, plate: Plate | None) -> Carving:
    """A drawing as lettering: each of its parts a glyph, all in one line about its middle."""
    drawn = art.figures
    assert isinstance(drawn, DrawnFigures)
    size = max(drawn.width, drawn.height)
    flip = -1.0 if art.mirror else 1.0
    glyphs = []
    for part in as_drawn(drawn.path).geoms:
        place = shapely.transform(
            part,
            lambda p: (
                (p * [flip * drawn.width / drawn.wide, drawn.height / drawn.high] + [drawn.width / 2, size / 2]) / size
            ),
        )
        data = curves.write_path(curves.polygon_contours(MultiPolygon([place])), 9)
        glyphs.append(Glyph.model_construct(char="", x=0.0, path=data))
    line = TextLine.model_construct(
        id="drawing", text=art.title or "a drawing", face="", height=size, tracking=0.0, align="centre", glyphs=tuple(glyphs), width=drawn.width / size
    )  # fmt: skip
    return Carving.model_construct(
        **dict(figures), lines=(line,), leading=0.6, x=art.x, y=art.y, turn=art.turn, plate=plate
    )


def depth_tolerance(steepness: float, share: float) -> float:
    """How far an outline or axis may stray in plan so that depth strays by at most ``share``, mm."""
    return min(COARSEST, max(FINEST, share / steepness))


@dataclass(frozen=True)
class GlyphCut:
    """The V-cut of one glyph, about its own origin at its size. runs: (n, 3) x, y, r; body: (m, 2) r and length of the
    stretches of axis that are a stroke's body; widest: greatest r; exact: whether even-odd of its own curves is its area."""

    runs: tuple[Array, ...]
    body: Array
    widest: float
    area: MultiPolygon
    exact: bool = True


@lru_cache(maxsize=2048)
def _own_area(path: str, scale: float, tol: float) -> MultiPolygon:
    return curves.region(curves.place(curves.parse_path(path), scale, 0.0, 0.0), tol)


def glyph_area(glyph: PlacedGlyph, tol: float) -> MultiPolygon:
    """A glyph's area where it stands, followed within tol, mm."""
    flat = _own_area(glyph.path, glyph.scale, tol)
    return shapely.transform(flat, lambda p: glyph.turned(p + np.array([glyph.x, glyph.y])))


@lru_cache(maxsize=2048)
def glyph_cut(path: str, scale: float, steepness: float, times: float = 1.0) -> GlyphCut:
    """Medial axis of a glyph. steepness: 1/tan(half angle) of the bit, which sets how fine the outline is followed.

    times: coarser by as much, for a first look.
    """
    own = curves.place(curves.parse_path(path), scale, 0.0, 0.0)
    area = curves.region(own, depth_tolerance(steepness, FLATTEN_DEPTH) * times)
    if times > 1.0:
        return area_cut(area, steepness, times)
    exact = abs(curves.even_odd_area(own, 0.01) - curves.region(own, 0.01).area) <= 1e-6 * area.area
    return replace(area_cut(area, steepness), exact=exact)


def area_cut(area: MultiPolygon, steepness: float, times: float = 1.0) -> GlyphCut:
    """Medial axis of an area, as glyph_cut."""
    tol = depth_tolerance(steepness, AXIS_DEPTH) * times
    axis = medial.medial_axis(area, tol)
    runs = tuple(medial.trails(axis, 0.5 * tol))
    widest = float(axis.points[:, 2].max(initial=0.0))
    return GlyphCut(runs, _body(axis), widest, area)


def _body(axis: medial.MedialAxis) -> Array:
    """r and length of the axis where its two nearest outline points face each other, over 120 degrees apart."""
    to = axis.sites - axis.middles[:, None, :2]
    size = np.hypot(to[:, 0, 0], to[:, 0, 1]) * np.hypot(to[:, 1, 0], to[:, 1, 1])
    facing = (to[:, 0] * to[:, 1]).sum(axis=1) < -0.5 * size
    return np.asarray(np.column_stack([axis.middles[:, 2], axis.lengths])[facing & (size > 0)])


def thinnest(cut: GlyphCut, ignore: float = 0.5) -> float:
    """Least r of a glyph's strokes, leaving out the thinnest ``ignore`` mm of axis; nought when it has no body."""
    if not len(cut.body):
        return 0.0
    order = np.argsort(cut.body[:, 0])
    along = np.cumsum(cut.body[order, 1])
    return float(cut.body[order[min(int(np.searchsorted(along, ignore)), len(order) - 1)], 0])


@dataclass(frozen=True)
class CutLetter:
    """A glyph where it stands, with its cut."""

    placed: PlacedGlyph
    cut: GlyphCut

    @property
    def name(self) -> str:
        """How messages call it."""
        if self.placed.line == DRAWN:
            return f"part {self.placed.index + 1} of the drawing"
        return f"“{self.placed.char}” in line {self.placed.line + 1}"

    def outline(self) -> MultiPolygon:
        """Its area, blank frame."""
        shift = np.array([self.placed.x, self.placed.y])
        return shapely.transform(self.cut.area, lambda p: self.placed.turned(p + shift))


@dataclass(frozen=True)
class Lettering:
    """All letters, the runs to cut (blank frame, x, y, r) and the art they are cut to."""

    letters: tuple[CutLetter, ...]
    runs: tuple[Array, ...]
    art: Art
    overlap: bool


def lettering(carving: Carving, tool: Tool, times: float = 1.0) -> Lettering:
    """Lay the lettering out and find its cuts. Letters that run into each other are cut as one area.

    times: coarser by as much, for a first look.
    """
    steepness = 1.0 / math.tan(math.radians(tool.angle / 2.0)) if 0 < tool.angle < 180 else 1.0
    letters = tuple(CutLetter(p, glyph_cut(p.path, p.scale, steepness, times)) for p in solid(carving))
    outlines = [letter.outline() for letter in letters]
    overlap = _overlapping(outlines)
    if overlap:
        whole = curves.as_multipolygon(shapely.union_all(outlines))
        art = Art(tuple(tuple(c) for c in curves.polygon_contours(whole)), False)
        return Lettering(letters, area_cut(whole, steepness, times).runs, art, True)
    runs = tuple(
        letter.placed.turned(run + np.array([letter.placed.x, letter.placed.y, 0.0]))
        for letter in letters
        for run in _near_first(letter.cut.runs)
    )
    return Lettering(letters, runs, _art(letters), False)


def _overlapping(outlines: list[MultiPolygon]) -> bool:
    if len(outlines) < 2:
        return False
    tree = shapely.STRtree(outlines)
    pairs = tree.query(outlines, predicate="intersects")
    return bool((pairs[0] != pairs[1]).any())


def _art(letters: tuple[CutLetter, ...]) -> Art:
    contours: list[tuple[Array, ...]] = []
    exact = True
    for letter in letters:
        own = letter.placed.contours if letter.cut.exact else curves.polygon_contours(letter.outline())
        exact = exact and letter.cut.exact
        contours += [tuple(c) for c in own]
    return Art(tuple(contours), exact)


def _near_first(runs: tuple[Array, ...]) -> list[Array]:
    """Runs in the order of the nearest next end, turned where that is shorter; left first."""
    left = sorted(runs, key=lambda r: float(r[:, 0].min()))
    if not left:
        return []
    ordered = [left.pop(0)]
    while left:
        here = ordered[-1][-1, :2]
        starts = np.array([[r[0, :2], r[-1, :2]] for r in left])
        far = np.hypot(*(starts - here).transpose(2, 0, 1))
        which, end = np.unravel_index(int(np.argmin(far)), far.shape)
        run = left.pop(int(which))
        ordered.append(run[::-1] if end else run)
    return ordered


def met(run: Array, r: float) -> Array:
    """A run of axis (x, y, r) with a point wherever its half width passes a value: what hangs on r bends there."""
    after = np.nonzero((run[:-1, 2] - r) * (run[1:, 2] - r) < 0.0)[0]
    if not len(after):
        return run
    a, b = run[after], run[after + 1]
    t = (r - a[:, 2]) / (b[:, 2] - a[:, 2])
    there = a + t[:, None] * (b - a)
    there[:, 2] = r
    return np.insert(run, after + 1, there, axis=0)


ARC_SAG = 0.002  # mm by which straight moves may lie under a rounded tip's arc


def _finely(run: Array, profile: CutterProfile) -> Array:
    """A run of axis with places between where it is narrower than a rounded tip: depth goes by an arc there, which bends by (1 + k²)^1.5/r at most."""
    if profile.arc <= 0.0:
        return run
    bend = math.hypot(1.0, profile.steep) ** 3 / profile.round
    most = math.sqrt(8.0 * ARC_SAG / bend)
    out = [run[:1]]
    for a, b in zip(run[:-1], run[1:]):
        narrow = min(a[2], b[2]) < profile.arc - 1e-9
        count = max(1, math.ceil(abs(b[2] - a[2]) / most)) if narrow else 1
        out.append(a + (b - a) * (np.arange(1, count + 1) / count)[:, None])
    return np.vstack(out)


def v_depths(run: Array, tool: Tool) -> Array:
    """Tip points below the top for a run of axis: depth (r - tip/2)/tan(half angle); strokes under the tip's flat are left, those under a rounded
    tip are as deep as its arc."""
    if tool.kind == "rounded_vee":
        profile = profile_of(tool)
        run = _finely(met(run, profile.arc), profile)
        return np.column_stack([run[:, :2], -profile.height(np.minimum(run[:, 2], profile.radius))])
    steepness = 1.0 / math.tan(math.radians(tool.angle / 2.0))
    run = met(run, tool.tip / 2.0) if tool.tip > 0.0 else run
    depth = np.maximum(run[:, 2] - tool.tip / 2.0, 0.0) * steepness
    return np.column_stack([run[:, :2], -depth])
