# SPDX-License-Identifier: GPL-3.0-or-later
"""Outlines: typed, dragged, out of drawings; and the blank's frame, that follows its lower left corner."""

import io
import typing

import ezdxf
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.blank.shape import polygon, ring
from gatepost.core.errors import OperatorError
from gatepost.core.geometry.drawn import read_drawing, thinned
from gatepost.core.geometry.outline import placed
from gatepost.core.job import commands
from gatepost.core.job.base import changed
from gatepost.core.job.blank import Blank
from gatepost.core.job.model import Job
from gatepost.core.plan.pipeline import plan
from gatepost.core.zero.datum import datum
from tests.conftest import tries

SVG = '<svg xmlns="http://www.w3.org/2000/svg" {}>{}</svg>'

MM = 'width="200mm" height="100mm" viewBox="0 0 400 200"'
DRAWINGS = {
    "a rectangle": (SVG.format(MM, '<rect x="20" y="20" width="300" height="120"/>'), 150 * 60),
    "a path with curves": (
        SVG.format(MM, '<path d="M0 0 H100 V100 A50 50 0 0 1 0 100 Z"/>'),
        (100 * 100 + np.pi * 50**2 / 2) / 4,
    ),
    "an ellipse": (SVG.format(MM, '<ellipse cx="100" cy="90" rx="80" ry="40"/>'), np.pi * 40 * 20),
    "turned and moved": (
        SVG.format(MM, '<g transform="translate(90 20) rotate(30)"><rect width="100" height="80"/></g>'),
        50 * 40,
    ),
    "quadratic curves": (SVG.format(MM, '<path d="M0 0 Q50 100 100 0 T200 0 V-60 H0 Z"/>'), None),
    "in inches": (SVG.format('width="4in" viewBox="0 0 4 4"', '<rect width="3" height="2"/>'), 6 * 25.4**2),
    "in px": (SVG.format("", '<rect width="96" height="192"/>'), 2 * 25.4**2),
    "moved by a group of groups": (
        SVG.format(
            MM, '<g transform="scale(2)"><g transform="rotate(90) scale(1 .5)"><rect width="50" height="40"/></g></g>'
        ),
        50 * 20,
    ),
    "used": (
        SVG.format(
            MM, '<defs><rect id="r" width="100" height="40"/></defs><use href="#r" x="30" transform="scale(1.5)"/>'
        ),
        75 * 30,
    ),
    "only defined": (
        SVG.format(
            MM,
            '<defs><rect width="390" height="190"/></defs><symbol><rect width="380" height="180"/></symbol><rect width="60" height="80"/>',
        ),
        30 * 40,
    ),
    "hidden": (
        SVG.format(
            MM,
            '<rect style="display:none" width="390" height="190"/><g visibility="hidden"><rect visibility="hidden" width="380" height="100"/></g><rect width="60" height="80"/>',
        ),
        30 * 40,
    ),
    "clipped": (
        SVG.format(
            MM,
            '<clipPath id="c"><circle cx="100" cy="100" r="60"/></clipPath><rect width="400" height="200" clip-path="url(#c)"/>',
        ),
        np.pi * 30**2,
    ),
    "clipped in a group": (
        SVG.format(
            MM,
            '<clipPath id="c"><rect width="50" height="60"/></clipPath><g transform="scale(2)" clip-path="url(#c)"><rect width="200" height="20"/></g>',
        ),
        50 * 20,
    ),
    "a drawing in a drawing": (
        SVG.format(MM, '<svg x="10" width="100" height="50" viewBox="0 0 10 5"><rect width="8" height="4"/></svg>'),
        40 * 20,
    ),
    "a symbol used": (
        SVG.format(MM, '<symbol id="s"><rect width="100" height="40"/></symbol><use href="#s"/>'),
        50 * 20,
    ),
    "two of them": (SVG.format(MM, '<rect width="60" height="60"/><rect x="100" width="160" height="150"/>'), 80 * 75),
}


@pytest.mark.parametrize("name", DRAWINGS)
def test_outlines_of_svg_files_have_their_own_size(name):
    text, area = DRAWINGS[name]
    drawn = read_drawing(text.encode(), "board.svg")
    found = shapely.Polygon(drawn.outlines[0])
    assert found.is_valid
    if area is not None:
        assert found.area == pytest.approx(area, rel=1e-3)
    assert ("px" in drawn.note or "unit" in drawn.note) == (name == "in px")


def dxf(draw, unit=4):
    document = ezdxf.new(units=unit)
    draw(document.modelspace())
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def loose_ends(space):
    space.add_line((0, 0), (300, 0))
    space.add_line((300, 120), (300, 0))
    space.add_arc((150, 120), 150, 0, 180)
    space.add_line((0, 120), (0, 0))


def in_blocks(space):
    inner = space.doc.blocks.new("INNER")
    inner.add_lwpolyline([(0, 0), (50, 0), (50, 20), (0, 20)], close=True)
    space.doc.blocks.new("OUTER").add_blockref("INNER", (5, 5), {"xscale": 2, "yscale": 2, "rotation": 30})
    space.add_blockref("OUTER", (40, 10), {"xscale": 2, "yscale": 2})


DXF = {
    "a closed polyline": (lambda s: s.add_lwpolyline([(0, 0), (300, 0), (280, 120), (10, 100)], close=True), 4, 0.5 * abs(300 * 120 + 280 * 100 - 10 * 120)),
    "a circle": (lambda s: s.add_circle((10, 10), 80), 4, np.pi * 80**2),
    "in inches": (lambda s: s.add_circle((1, 1), 3), 1, np.pi * 76.2**2),
    "lines and an arc that meet": (loose_ends, 4, 300 * 120 + np.pi * 150**2 / 2),
    "a block put in twice as large, in a block": (in_blocks, 4, 200 * 80),
    "a spline": (lambda s: s.add_spline([(0, 0), (200, 0), (200, 100), (0, 120), (0, 0)]), 4, None),
}  # fmt: skip


@pytest.mark.parametrize("name", DXF)
def test_outlines_of_dxf_files_have_their_own_size(name):
    draw, unit, area = DXF[name]
    found = shapely.Polygon(read_drawing(dxf(draw, unit), "board.dxf").outlines[0])
    assert found.is_valid and (area is None or found.area == pytest.approx(area, rel=1e-3))


BAD = {
    "not xml": (b"\x00\x01", "a.svg", "can't be read"),
    "an entity bomb": (b'<!DOCTYPE s [<!ENTITY a "aa">]><svg>&a;</svg>', "a.svg", "entities"),
    "a path of nonsense": (SVG.format(MM, '<path d="M 0 0 Q"/>').encode(), "a.svg", "path"),
    "uses that go on for ever": (SVG.format(MM, '<g id="a"><use href="#a"/></g>').encode(), "a.svg", "for ever"),
    "a transform of nonsense": (
        SVG.format(MM, '<rect transform="rotate(1 2)" width="60" height="60"/>').encode(),
        "a.svg",
        "can't be read",
    ),
    "nothing closed": (SVG.format(MM, '<path d="M0 0 L100 0 L100 50"/>').encode(), "a.svg", "no closed line"),
    "empty": (SVG.format(MM, "").encode(), "a.svg", "no closed line"),
    "not dxf": (b"hello", "a.dxf", "can't be read|no closed line"),
    "another kind": (b"", "a.pdf", "neither"),
}


@pytest.mark.parametrize("name", BAD)
def test_drawings_without_an_outline_are_a_sentence(name):
    data, called, words = BAD[name]
    with pytest.raises(OperatorError, match=words):
        read_drawing(data, called)


@given(st.integers(3, 400), st.integers(0, 10**6), st.integers(20, 200))
@settings(max_examples=tries(25))
def test_thinning_keeps_an_outline_near_itself(count, seed, most):
    rng = np.random.default_rng(seed)
    turn = np.sort(rng.uniform(0, 2 * np.pi, count))
    line = np.column_stack([np.cos(turn), np.sin(turn)]) * (200 + 20 * np.sin(5 * turn))[:, None]
    if shapely.Polygon(line).area < 100 or not shapely.Polygon(line).is_valid:
        return
    thin = thinned(line, most, 0.4)
    assert len(thin) <= max(most, 3)
    if len(thin) < most:
        assert shapely.hausdorff_distance(shapely.LinearRing(thin), shapely.LinearRing(line)) <= 0.4 * 1.5**12


CROSSING = ((0, 0), (100, 80), (100, 0), (0, 80))
WRONG = {
    "crossing itself": (CROSSING, "crosses or touches itself near X"),
    "two corners": (((0, 0), (100, 0)), "three corners at least"),
    "in a line": (((0, 0), (50, 0), (100, 0)), "next to no area|crosses"),
    "not a number": (((0, 0), (float("nan"), 4), (5, 5)), "not a number"),
    "a figure of eight": (((0, 0), (50, 50), (100, 0), (100, 100), (50, 50), (0, 100)), "itself"),
    "too many": (
        [(np.cos(t) * 500, np.sin(t) * 500) for t in np.linspace(0, 6.28, 2500)],
        "more than an outline keeps",
    ),
}


@pytest.mark.parametrize("name", WRONG)
def test_outlines_that_are_none_are_refused_and_nothing_is_lost(name):
    corners, words = WRONG[name]
    job = commands.run(Job(), "set outline", {"points": ((0, 0), (300, 0), (300, 200), (0, 200))})
    with pytest.raises(OperatorError, match=words):
        commands.run(job, "set outline", {"points": corners})
    with pytest.raises(OperatorError, match="itself"):
        commands.run(job, "set corner", {"at": (0, 0), "x": 350, "y": 150})


def test_a_file_with_an_outline_that_crosses_itself_opens_and_says_so():
    blank = Blank(length=100, width=80, shape="outline", outline=CROSSING, calipers=())
    assert polygon(blank).equals(shapely.box(0, 0, 100, 80))
    said = {f.code: f for f in plan(Job(blank=blank), coarse=True).findings}
    assert said["blank.outline"].level.value == "stop"


@pytest.mark.parametrize("shape", ["rectangle", "round", "oval", "outline"])
def test_every_shape_lies_in_its_rectangle_and_is_told_by_its_area(shape):
    job = commands.run(Job(), "set blank", {"length": 300.0, "width": 200.0})
    job = commands.run(job, "set blank", {"shape": shape})
    b = job.blank
    x0, y0, x1, y1 = polygon(b).bounds
    assert (x0, y0, x1, y1) == pytest.approx((0, 0, b.length, b.width), abs=0.01)
    area = {"rectangle": 6e4, "outline": 6e4, "round": np.pi * 1e4, "oval": np.pi * 150 * 100}[shape]
    assert polygon(b).area == pytest.approx(area, rel=1e-4) and b.length == (200.0 if shape == "round" else 300.0)
    assert shapely.LinearRing(ring(b)).is_ccw


def placed_things(blank):
    """Every list of the board whose items have a place on it, whatever they are: none may be left behind."""
    found = []
    for name, field in type(blank).model_fields.items():
        kinds = [a for a in typing.get_args(field.annotation) if isinstance(a, type)]
        if any({"x", "y"} <= set(getattr(kind, "model_fields", ())) for kind in kinds):
            assert getattr(blank, name), f"put one of its {name} on the board here"
            found.append(name)
    assert len(found) >= 5
    return found


@given(st.integers(0, 4), st.floats(-60, 60), st.floats(-60, 60))
@settings(max_examples=tries(40))
def test_dragging_a_corner_leaves_everything_else_where_it_is_on_the_bed(index, dx, dy):
    job = commands.run(Job(), "set outline", {"points": ((0, 20), (300, 0), (420, 150), (310, 260), (30, 240))})
    for name, values in (
        ("caliper", {"thickness": 20.0}),
        ("height", {"z": 20.0}),
        ("gap", {"z": 0.1}),
        ("support", {}),
        ("flaw", {}),
    ):
        job = commands.run(job, f"add {name}", {"x": 150.0, "y": 120.0, **values})
    job = commands.run(job, "set carving", {"x": 160.0, "y": 110.0})
    job = commands.run(job, "set plate", {"x": 150, "y": 130, "width": 90, "height": 60})
    job = commands.run(
        job, "set zero", {"setup": "front", "xy": "mark", "x": 100.0, "y": 90.0, "touch_x": 80.0, "touch_y": 85.0}
    )
    x, y = job.blank.outline[index]
    try:
        after = commands.run(job, "set corner", {"at": (x, y), "x": x + dx, "y": y + dy})
    except OperatorError:
        return

    def on_bed(j):
        s = j.setup("front")
        spots = [(i.x, i.y) for n in placed_things(j.blank) for i in getattr(j.blank, n)]
        spots += [(j.carving.x, j.carving.y), (j.carving.plate.x, j.carving.plate.y), (s.zero.touch_x, s.zero.touch_y)]
        mark = datum(s.zero, j.blank)
        corners = [p for i, p in enumerate(j.blank.outline) if i != index]
        return np.array([*spots, (mark.x, mark.y), *corners]) + [s.x, s.y]

    assert on_bed(after) == pytest.approx(on_bed(job), abs=1e-9)
    outline = np.array(after.blank.outline)
    assert after.blank.box == pytest.approx((*outline.min(axis=0), *outline.max(axis=0)))
    like = changed(after.blank, outline=job.blank.outline)  # nothing but the one corner is told otherwise
    assert changed(after, blank=like) == job


@given(st.lists(st.tuples(st.floats(-500, 500), st.floats(-500, 500)), min_size=3, max_size=9))
def test_a_laid_outline_is_the_same_outline(corners):
    try:
        laid, (dx, dy) = placed(corners)
    except OperatorError:
        return
    moved = shapely.affinity.translate(shapely.Polygon(corners), dx, dy)
    assert shapely.Polygon(laid).symmetric_difference(moved).area < 1e-6 * moved.area
    assert shapely.LinearRing(laid).is_ccw and laid.min(axis=0) == pytest.approx([0, 0])
