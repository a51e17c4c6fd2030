# SPDX-License-Identifier: GPL-3.0-or-later
"""Drawings read as art: every element against shapes worked out by hand, any transform, and files that are damaged."""

import io
import json
import math
import random

import ezdxf
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from gatepost.artwork import brought_in, read_art, sentences, values
from gatepost.cli import main
from gatepost.core.errors import OperatorError
from gatepost.core.geometry.drawn_art import CLOSED
from gatepost.core.geometry.straight import as_drawn, path_of

SQUARE = 'd="M10 10h20v20h-20z"'


def svg(body, head='width="100mm" height="100mm" viewBox="0 0 100 100"'):
    return f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {head}>{body}</svg>'.encode()


def art(body, **more):
    return read_art(svg(body, **more), "x.svg")


PI = math.pi
FILLED = {
    "path": (f"<path {SQUARE}/>", 400),
    "relative, smooth and short": ('<path d="M10,10 l20,0 0,20 -20,0z"/>', 400),
    "vertical and horizontal": ('<path d="M10 10H30V30H10Z"/>', 400),
    "a cubic": ('<path d="M0 0C0 30 30 30 30 0Z"/>', 0.6 * 30 * 30),
    "a quadratic": ('<path d="M0 0Q15 30 30 0Z"/>', 2 / 3 * 30 * 15),
    "smooth cubics": ('<path d="M0 20C0 0 20 0 20 20S40 40 40 20L40 60H0Z"/>', 40 * 40 + 0),
    "smooth quadratics": ('<path d="M0 20Q10 0 20 20T40 20L40 60H0Z"/>', 40 * 40),
    "an arc": ('<path d="M10 50A20 20 0 0 1 50 50Z"/>', PI * 200),
    "a turned elliptical arc": ('<path d="M40 50 a20 10 30 1 0 0.0001 0z"/>', PI * 200),
    "flags run together": ('<path d="M10 50A20 20 0 0150 50Z"/>', PI * 200),
    "an arc too small for its ends": ('<path d="M10 50A1 1 0 0 1 50 50Z"/>', PI * 200),
    "rectangle": ('<rect x="5" y="5" width="30" height="20"/>', 600),
    "rounded rectangle": ('<rect width="30" height="20" rx="5"/>', 600 - (4 - PI) * 25),
    "circle": ('<circle cx="50" cy="50" r="20"/>', PI * 400),
    "ellipse": ('<ellipse cx="50" cy="50" rx="20" ry="10"/>', PI * 200),
    "polygon": ('<polygon points="0,0 30,0 0,40"/>', 600),
    "polyline, which a fill closes": ('<polyline points="0,0 30,0 0,40 0,0"/>', 600),
    "even-odd": ('<path fill-rule="evenodd" d="M0 0H40V40H0Z M10 10H30V30H10Z"/>', 1200),
    "non-zero, the same way round": ('<path d="M0 0H40V40H0Z M10 10H30V30H10Z"/>', 1600),
    "non-zero, the other way round": ('<path d="M0 0H40V40H0Z M10 10V30H30V10Z"/>', 1200),
    "a star, non-zero": ('<path d="M0 0 L20 0 L20 20 L0 20 Z M0 0 L20 0 L20 20 L0 20Z"/>', 400),
    "groups": (f'<g transform="translate(5 5)"><g transform="scale(2)"><path {SQUARE}/></g></g>', 1600),
    "use": (f'<defs><path id="a" {SQUARE}/></defs><use href="#a"/><use xlink:href="#a" x="30" y="30"/>', 800),
    "symbol": ('<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10"/></symbol><use href="#s"/>', 100),
    "matrix and skew": (f'<path transform="matrix(1 0 .5 1 0 0) skewX(20)" {SQUARE}/>', 400),
    "a nested drawing": ('<svg x="10" width="50" height="50" viewBox="0 0 10 10"><rect width="4" height="4"/></svg>', 400),
    "a stroke": ('<line x1="10" y1="10" x2="50" y2="10" stroke="black" stroke-width="4"/>', 160),
    "a stroke with round ends": ('<line x1="10" y1="10" x2="50" y2="10" stroke="black" stroke-width="4" stroke-linecap="round"/>', 160 + PI * 4),
    "a stroke with square ends": ('<line x1="10" y1="10" x2="50" y2="10" stroke="red" stroke-width="4" stroke-linecap="square"/>', 176),
    "a stroked ring": ('<circle cx="50" cy="50" r="20" fill="none" stroke="black" stroke-width="4"/>', PI * (22**2 - 18**2)),
    "fill and stroke": (f'<path {SQUARE} stroke="black" stroke-width="2"/>', 22 * 22),
    "a stroke scaled more one way": ('<g transform="scale(2 1)"><line x1="10" y1="10" x2="10" y2="30" stroke="black" stroke-width="2"/></g>', 80),
    "a style sheet": (f'<style>.k{{fill:none}} #b{{fill:black}}</style><path class="k" {SQUARE}/><path id="b" d="M0 0h5v5h-5z"/>', 25),
    "a style over an attribute": (f'<path fill="none" style="fill:#123" {SQUARE}/>', 400),
    "white is bare": (f'<path {SQUARE}/><path fill="#fff" d="M15 15h10v10h-10z"/>', 300),
    "a clip": (f'<clipPath id="c"><rect width="20" height="100"/></clipPath><path clip-path="url(#c)" {SQUARE}/>', 200),
    "what is not shown": (f'<path {SQUARE}/><g display="none"><rect width="90" height="90"/></g><rect visibility="hidden" width="90" height="90"/>', 400),
    "no fill at all": (f'<path {SQUARE}/><rect width="90" height="90" fill="none"/>', 400),
}  # fmt: skip


@pytest.mark.parametrize("name", FILLED)
def test_each_element_of_an_svg_covers_what_it_covers_by_hand(name):
    body, area = FILLED[name]
    assert art(body).area.area == pytest.approx(area, rel=4e-4)


@pytest.mark.parametrize(
    ("head", "unit", "wide"),
    [
        ('width="100mm" height="100mm" viewBox="0 0 50 50"', "mm", 40), ('width="10cm" viewBox="0 0 100 100"', "cm", 20), ('width="4in" viewBox="0 0 100 100"', "in", 20.32),
        ('viewBox="0 0 100 100"', "px", 20 * 25.4 / 96), ('width="100" height="100"', "px", 20 * 25.4 / 96), ('width="200px" viewBox="0 0 100 100"', "px", 40 * 25.4 / 96),
    ],
)  # fmt: skip
def test_its_size_is_the_one_it_says_and_what_else_it_may_be_is_told(head, unit, wide):
    told = art(f"<path {SQUARE}/>", head=head)
    assert told.unit == unit and told.box[2] - told.box[0] == pytest.approx(wide) and told.why
    assert (len(told.sizes) > 1) is (unit == "px")
    if unit == "px":  # 20 units
        assert {u: w for u, w, _ in told.sizes}["mm"] == pytest.approx(20)
        chosen = read_art(svg(f"<path {SQUARE}/>", head=head), "x.svg", "mm")
        assert chosen.box[2] - chosen.box[0] == pytest.approx(20)


def test_what_is_not_taken_is_told_line_by_line_and_why_nothing_comes_of_it():
    told = art(
        f'<text>OPEN</text><image href="a.png"/><path {SQUARE} fill="url(#g)"/><linearGradient id="g"/>'
        '<line x2="50" y2="50" stroke="black" stroke-width="2" stroke-dasharray="2 2"/><use href="#none"/>'
    )
    words = " / ".join(told.left_out)
    for part in ("text “OPEN”", "a picture", "gradient", "dashes", "not in the file"):
        assert part in words
    with pytest.raises(OperatorError, match="text “OPEN”"):
        art("<text>OPEN</text>")


def test_lines_alone_are_outlines_open_ones_are_told_with_their_gap_and_doubled_and_crossing_ones_counted():
    hair = 'fill="none" stroke="black" stroke-width="0.1"'
    told = art(
        f'<g {hair}><path {SQUARE}/><path {SQUARE}/><path d="M60 60h10v10h-10v-9.6"/><path d="M25 15h20v10h-20z"/></g>'
    )
    assert told.closed == 2 and told.doubled == 1 and len(told.crossing) == 1 and not told.sound
    (line,) = told.lines
    assert line.gap == pytest.approx(0.4) and line.x == pytest.approx(60) and 59.9 < line.y < 60.5
    near = art(f'<g {hair}><path d="M10 10h20v20h-20v-19.96"/></g>')
    assert near.closed == 1 and not near.lines and near.area.area == pytest.approx(400, rel=1e-2)
    eight = art(f'<path {hair} d="M0 0L20 20L20 0L0 20Z"/>')
    assert len(eight.crossing) == 1 and eight.crossing[0].x == pytest.approx(10)


# -- DXF --------------------------------------------------------------------------------------------------------------


def dxf(draw, units=4):
    document = ezdxf.new(units=units)
    draw(document.modelspace(), document)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def of_dxf(draw, units=4, **more):
    return read_art(dxf(draw, units), "x.dxf", **more)


def _plate(m, d):
    for a, b in (((0, 0), (100, 0)), ((100, 50), (100, 0)), ((0, 50), (100, 50))):
        m.add_line(a, b)
    m.add_arc((0, 25), 25, 90, 270)


def _block(m, d):
    b = d.blocks.new("B")
    b.add_lwpolyline([(0, 0), (4, 0), (4, 4), (0, 4)], close=True)
    m.add_blockref("B", (20, 20), dxfattribs={"rotation": 45, "xscale": 2, "yscale": 3})


ENTITIES = {
    "lines and an arc, end to end": (_plate, 5000 + PI * 25**2 / 2),
    "a circle": (lambda m, d: m.add_circle((5, 5), 20), PI * 400),
    "a circle in a circle": (lambda m, d: (m.add_circle((0, 0), 20), m.add_circle((0, 0), 10)), PI * 300),
    "an ellipse": (lambda m, d: m.add_ellipse((0, 0), (20, 0), 0.5), PI * 200),
    "half an ellipse and a line": (lambda m, d: (m.add_ellipse((0, 0), (20, 0), 0.5, 0, PI), m.add_line((-20, 0), (20, 0))), PI * 100),
    "a polyline with bulges": (lambda m, d: m.add_lwpolyline([(0, 0, 1), (20, 0, 1)], format="xyb", close=True), PI * 100),
    "a bulge the other way": (lambda m, d: m.add_lwpolyline([(0, 0), (40, 0), (40, 30, -1), (20, 30, 0), (0, 30)], format="xyb", close=True), 1200 - PI * 50),
    "an old polyline": (lambda m, d: m.add_polyline2d([(0, 0), (30, 0), (0, 40)], close=True), 600),
    "a block": (_block, 4 * 2 * 4 * 3),
    "a spline": (lambda m, d: m.add_open_spline([(0, 0), (0, 30), (30, 30), (30, 0)], 3) and m.add_line((30, 0), (0, 0)), 0.6 * 900),
}  # fmt: skip


@pytest.mark.parametrize("name", ENTITIES)
def test_each_entity_of_a_dxf_covers_what_it_covers_by_hand(name):
    draw, area = ENTITIES[name]
    told = of_dxf(draw)
    assert told.area.area == pytest.approx(area, rel=4e-4) and told.sound and told.unit == "mm"


@pytest.mark.parametrize(
    ("units", "unit", "wide"), [(1, "in", 2540), (5, "cm", 1000), (0, "mm", 100), (6, "m", 100_000)]
)
def test_a_dxf_is_as_large_as_its_unit_says_or_as_is_likely(units, unit, wide):
    told = of_dxf(lambda m, d: m.add_lwpolyline([(0, 0), (100, 0), (100, 50), (0, 50)], close=True), units)
    assert told.unit == unit and told.box[2] == pytest.approx(wide)
    small = of_dxf(lambda m, d: m.add_lwpolyline([(0, 0), (4, 0), (4, 2)], close=True), 0)
    assert small.unit == "in" and "4 mm" in small.why


def test_of_a_dxf_too_gaps_doubles_layers_and_what_is_not_taken_are_told():
    def draw(m, d):
        _plate(m, d)
        m.add_circle((50, 25), 10)
        m.add_circle((50, 25), 10)
        m.add_line((200, 0), (210, 0))
        m.add_text("HELLO")
        m.add_blockref("GONE", (0, 0))
        m.add_hatch().paths.add_polyline_path([(0, 0), (1, 0), (1, 1)])
        d.layers.add("off").off()
        m.add_circle((0, 0), 400, dxfattribs={"layer": "off"})

    told = of_dxf(draw)
    assert told.doubled == 1 and [line.gap for line in told.lines] == pytest.approx([10.0])
    for words in ("HELLO", "hatch", "a block that the file does not hold"):
        assert any(words in w for w in told.left_out)
    assert "off" in told.said[0]


def test_of_several_layers_those_that_are_chosen_are_taken_switched_on_or_not():
    def draw(m, d):
        d.layers.add("notes").off()
        m.add_circle((0, 0), 10, dxfattribs={"layer": "cut"})
        m.add_circle((40, 0), 5, dxfattribs={"layer": "engrave"})
        m.add_circle((90, 0), 2, dxfattribs={"layer": "notes"})

    data = dxf(draw, 4)
    areas = {"cut": 100, "engrave": 25, "notes": 4}
    for chosen in (None, ["cut"], ["engrave", "notes"], ["cut", "engrave", "notes"]):
        told = read_art(data, "x.dxf", "mm", chosen)
        taken = chosen or ["cut", "engrave"]
        assert told.layers == ("cut", "engrave", "notes") and told.taken == tuple(sorted(taken))
        assert told.area.area == pytest.approx(math.pi * sum(areas[name] for name in taken), rel=2e-3)
        assert bool(told.said) is (len(taken) < 3)
    with pytest.raises(OperatorError, match="no layer “paint”"):
        read_art(data, "x.dxf", "mm", ["paint"])


# -- laws -------------------------------------------------------------------------------------------------------------

NUMBERS = st.floats(-3, 3).map(lambda v: round(v, 3))


@given(st.tuples(NUMBERS, NUMBERS, NUMBERS, NUMBERS, NUMBERS, NUMBERS), st.sampled_from(sorted(FILLED)))
def test_any_transform_scales_the_area_by_its_determinant(six, name):
    body, area = FILLED[name]
    det = abs(six[0] * six[3] - six[1] * six[2])
    if det < 0.05:
        return
    told = art(f'<g transform="matrix({" ".join(str(v) for v in six)})">{body}</g>')
    assert told.area.area == pytest.approx(area * det, rel=2e-3)


@given(st.integers(0, 2**31), st.integers(2, 40))
def test_a_star_drawn_by_lines_in_any_order_and_direction_comes_to_one_outline(seed, corners):
    rng = np.random.default_rng(seed)
    angle = np.sort(rng.uniform(0, 2 * PI, corners + 2))
    if (np.diff(angle) < 0.02).any():
        return
    ring = np.column_stack([np.cos(angle), np.sin(angle)]) * rng.uniform(30, 60, (len(angle), 1))
    lines = [(ring[i], ring[(i + 1) % len(ring)]) for i in rng.permutation(len(ring))]
    shaken = [
        [(p + rng.uniform(-0.3, 0.3, 2) * CLOSED) for p in (line if rng.random() < 0.5 else line[::-1])]
        for line in lines
    ]
    told = of_dxf(lambda m, d: [m.add_line(a, b) for a, b in shaken])
    assert told.closed == 1 and not told.lines
    assert told.area.area == pytest.approx(shapely.make_valid(shapely.Polygon(ring)).area, abs=60 * CLOSED * len(ring))


@given(st.integers(0, 2**31))
def test_a_path_kept_in_a_job_reads_back_to_the_same_areas(seed):
    import sunk_proof

    area = sunk_proof.random_area(np.random.default_rng(seed))
    assert as_drawn(path_of(area)).symmetric_difference(area).area < 0.01


@pytest.mark.parametrize("kind", ["svg", "dxf"])
@pytest.mark.parametrize("part", range(4))
def test_a_damaged_file_is_told_in_a_sentence(kind, part):
    rng = random.Random(100 * part + len(kind))
    whole = (
        svg("".join(b for b, _ in FILLED.values()))
        if kind == "svg"
        else dxf(lambda m, d: [draw(m, d) for n, (draw, _) in ENTITIES.items()])
    )
    for _ in range(60 if kind == "svg" else 12):
        data = bytearray(whole)
        for _ in range(rng.choice([1, 1, 3, 30])):
            at = rng.randrange(max(1, len(data) - 1))
            way = rng.randrange(4)
            if way == 0:
                data[at] = rng.randrange(256)
            elif way == 1:
                del data[at : at + rng.randrange(1, 40)]
            elif way == 2:
                data[at:at] = rng.choice([b"NaN", b"1e999", b"-", b"999999999999", b"<", b'"', b"\\x00", b"inf"])
            else:
                data = data[: max(20, at)]
            data = data or bytearray(b" ")
        try:
            told = brought_in(bytes(data), f"x.{kind}")
        except OperatorError as error:
            assert str(error).startswith("x.") and str(error).endswith((".", "?")) and "Traceback" not in str(error)
        else:
            assert told.said and np.isfinite([told.values["wide"], told.values["high"]]).all()


def test_the_command_line_says_it_and_gives_it_as_json(tmp_path, capsys):
    good, bad = tmp_path / "good.svg", tmp_path / "open.svg"
    good.write_bytes(svg(f"<path {SQUARE}/>"))
    bad.write_bytes(svg('<path d="M10 10h20v20"/>'))
    assert main(["art", str(good), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert (
        told["width"] == pytest.approx(20)
        and told["area"] == pytest.approx(400)
        and told["open"] == []
        and told["unit"] == "mm"
    )
    assert main(["art", str(bad)]) == 1 and "next end is" in capsys.readouterr().err
    assert main(["art", str(tmp_path / "none.svg")]) == 2 and main(["art", __file__]) == 2
    assert (
        sentences(read_art(bad.read_bytes(), "open.svg"), "open.svg")
        and values(read_art(bad.read_bytes(), "open.svg"))["open"][0]["gap"] > 20
    )
