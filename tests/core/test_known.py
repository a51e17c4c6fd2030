# SPDX-License-Identifier: GPL-3.0-or-later
"""What is known of the wood, and what it changes."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.blank import cutlist, known, warp
from gatepost.core.blank.batch import batched, fewest_groups, lying, read_pieces
from gatepost.core.blank.batch import table as batch_table
from gatepost.core.blank.corners import bend, margin_rule, read_corners
from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.base import changed
from gatepost.core.job.blank import Batch, Blank, Coat, Flaw, Piece, SawCut, Stock, Support
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.plan import handling
from gatepost.core.plan.laid import borne
from gatepost.core.plan.oldcuts import surfaced_already
from gatepost.core.plan.pipeline import plan
from gatepost.core.tables import says_unit
from gatepost.core.whichunit import of_drawing, of_table
from gatepost.core.wood.flaws import flaw_area


def codes(findings):
    return {f.code: f for f in findings}


def board(**values):
    return Job(blank=Blank(**{"length": 600, "width": 200, "label_thickness": 30, **values}))


@pytest.mark.parametrize("field", ["metal", "old_paint", "treated"])
def test_old_wood_is_asked_about_and_what_is_found_is_a_stop(field):
    code = field.replace("_", "-")
    assert codes(known.findings(board(), (), 0.0))["blank.old-wood"].level is Level.NOTE
    assert not any(c.startswith(f"blank.{code}") for c in codes(known.findings(board(reclaimed=False), (), 0.0)))
    asked = codes(known.findings(board(reclaimed=True), (), 0.0))[f"blank.{code}-asked"]
    assert asked.level is Level.CARE and len(asked.fixes) == 2
    answered = [commands.run(board(reclaimed=True), x.kind, x.values) for x in asked.fixes]
    levels = [codes(known.findings(job, (), 0.0)) for job in answered]
    assert f"blank.{code}" not in levels[0] and levels[1][f"blank.{code}"].level is Level.STOP


@given(st.floats(100, 1500), st.floats(60, 600), st.floats(-20, 20))
def test_a_lean_is_found_again_from_the_diagonals(length, width, lean):
    corners = np.array([[0, 0], [length, 0], [length + lean, width], [lean, width]])
    diagonals = (math.dist(corners[0], corners[2]), math.dist(corners[1], corners[3]))
    side = math.hypot(lean, width)  # as a tape measures it along the edge
    job = board(length=length, width=side, diagonals=diagonals)
    said = codes(known.findings(job, (), 0.0))
    assert said["blank.square"].working.result == pytest.approx(lean, abs=1e-6)
    assert (said["blank.square"].level is Level.CARE) == (abs(said["blank.square"].working.result) > 1.0)


def test_diagonals_that_no_such_board_has_are_asked_about():
    assert "blank.diagonals" in codes(known.findings(board(diagonals=(660.0, 655.0)), (), 0.0))


@given(st.floats(0, 60), st.floats(20, 40), st.floats(0, 5), st.sampled_from(["front", "back"]))
def test_a_flaw_is_where_it_was_when_the_top_comes_down(depth, top, off, face):
    """By brute force: the flaw is a set of heights; what of it is left in the board is looked at from above and below."""
    flaw = Flaw(x=1, y=1, depth=depth, face=face)
    finished = top - off
    low, high = (top - depth, top) if face == "front" else (0.0, depth)
    low, high = max(low, 0.0), min(high, finished)
    lie = known.lies(flaw, top, finished)
    left = high > low
    if face == "front":
        assert lie.down == pytest.approx(max(0.0, finished - (top - depth)) if depth > off else 0.0)
        assert lie.through == (depth >= top)
    else:
        assert lie.up == pytest.approx(high if left else 0.0)
        assert lie.through == (depth >= finished)


CATALOGUE = {
    "damp": ({"moisture": 16.0}, 0.0, "blank.moisture", Level.CARE),
    "dry": ({"moisture": 9.0}, 0.0, "blank.moisture", Level.OK),
    "coated and used so": ({"coats": (Coat(thickness=0.1), Coat(thickness=0.05))}, 0.0, "blank.coats", Level.NOTE),
    "coated and surfaced": ({"coats": (Coat(),)}, 1.0, "blank.coats-surfaced", Level.CARE),
    "good face down": ({"good_face": "back"}, 0.0, "blank.good-face", Level.CARE),
}


@pytest.mark.parametrize("name", CATALOGUE)
def test_what_is_known_is_said(name):
    values, surfaced, code, level = CATALOGUE[name]
    assert codes(known.findings(board(**values), (), surfaced))[code].level is level


def test_an_irreplaceable_piece_asks_for_a_dry_run_and_a_class_sets_how_flat(lock7):
    strict = commands.run(lock7, "set job", {"tolerance": "heirloom", "irreplaceable": True})
    loose = commands.run(lock7, "set job", {"tolerance": "trial"})
    allowed = [plan(job, coarse=True).surfaced.flatness.allowed.result for job in (strict, lock7, loose)]
    assert allowed == pytest.approx([allowed[1] / 2, allowed[1], allowed[1] * 2])
    assert "blank.irreplaceable" in {f.code for f in plan(strict, coarse=True).findings}


def test_letters_and_holds_keep_off_flaws(lock7):
    calm = {f.code for f in plan(lock7, coarse=True).findings}
    assert "carve.flaw" not in calm and "hold.on-flaw" not in calm
    job = commands.run(lock7, "add flaw", {"kind": "bark", "x": 456.0, "y": 190.0, "size": 60.0, "depth": 20.0})
    strap = job.setup("front").holds[0]
    nose = (strap.x - job.setup("front").x, strap.y + strap.nose - job.setup("front").y)
    job = commands.run(job, "add flaw", {"kind": "crack", "x": nose[0], "y": nose[1], "size": 10.0, "depth": 10.0})
    said = codes(plan(job, coarse=True).findings)
    assert said["carve.flaw"].level is Level.CARE and said["hold.on-flaw"].about == strap.name
    shallow = commands.run(lock7, "add flaw", {"kind": "bark", "x": 456.0, "y": 190.0, "size": 60.0, "depth": 0.05})
    assert "carve.flaw" not in {f.code for f in plan(shallow, coarse=True).findings}  # gone with the surfacing


def test_tabs_and_the_plate_s_edge_are_held_against_flaws(lock7):
    from gatepost.core.carve.paths import tabs

    said = codes(plan(lock7, coarse=True).findings)
    assert said["carve.edge-flaw"].level is Level.NOTE and "carve.tab-flaw" not in said  # the crack at its left end
    tab = tabs(lock7.carving.plate, lock7.tool(2))[0]
    job = commands.run(lock7, "add flaw", {"kind": "knot", "x": tab.x, "y": tab.y, "size": 8.0, "depth": 30.0})
    assert codes(plan(job, coarse=True).findings)["carve.tab-flaw"].level is Level.CARE


# -- the cut list ---------------------------------------------------------------------------------------------


@given(
    st.tuples(st.floats(300, 2000), st.floats(100, 600), st.floats(20, 80)),
    st.lists(st.tuples(st.integers(0, 2), st.floats(0.3, 0.99)), max_size=6),
    st.floats(0, 6),
)
def test_blank_offcuts_and_dust_are_all_of_the_stock(size, cuts, kerf):
    now, steps, dust = list(size), [], 0.0
    for axis, share in cuts:
        steps.append(SawCut(size=cutlist.SIZES[axis], to=now[axis] * share))
        off = now[axis] * (1 - share)
        if off > kerf + 0.06:
            dust += kerf * np.prod([v for i, v in enumerate(now) if i != axis])
            now[axis] *= share
        elif off > 0.05 and off < kerf - 0.06:
            steps.pop()
        else:
            return  # to the last hair's breadth: either is right
    blank = Blank(stock=Stock(length=size[0], width=size[1], thickness=size[2], kerf=kerf), saw_cuts=tuple(steps))
    done = cutlist.steps(blank)
    assert all(not s.wrong for s in done)
    last = done[-1].after if done else size
    assert last == pytest.approx(now)
    offcuts = sum(s.offcut.length * s.offcut.width * s.offcut.thickness for s in done)
    assert np.prod(last) + offcuts + dust == pytest.approx(np.prod(size), rel=1e-9)


def test_steps_that_can_t_be_sawn_are_named():
    stock = Stock(length=1000, width=300, thickness=40, kerf=3)
    blank = Blank(
        length=600,
        width=200,
        label_thickness=40,
        stock=stock,
        saw_cuts=(SawCut(size="width", to=320), SawCut(size="width", to=298)),
    )
    said = [f.message for f in cutlist.findings(blank)]
    assert len(said) == 2 and "Step 1" in said[0] and "kerf" in said[1]
    short = blank.model_copy(update={"saw_cuts": (SawCut(size="length", to=600, keep="shelf"),)})
    assert codes(cutlist.findings(short))["blank.cut-list-size"].level is Level.CARE
    whole = blank.model_copy(update={"saw_cuts": (*short.saw_cuts, SawCut(size="width", to=200))})
    assert codes(cutlist.findings(whole))["blank.cut-list-sound"].level is Level.OK
    assert cutlist.keeping(whole) == [("shelf", cutlist.Offcut(397, 300, 40))]


# -- batches --------------------------------------------------------------------------------------------------


def partitions(items):
    """Every way to part a list."""
    if not items:
        yield []
        return
    first, *rest = items
    for parts in partitions(rest):
        yield [[first], *parts]
        for i in range(len(parts)):
            yield [*parts[:i], [first, *parts[i]], *parts[i + 1 :]]


@given(st.lists(st.floats(10, 14).map(lambda v: round(v, 2)), min_size=1, max_size=7), st.floats(0.05, 2))
def test_the_fewest_groups_are_the_best_of_every_way_to_part_them(heights, tolerance):
    groups = fewest_groups(heights, tolerance)
    assert sorted(i for g in groups for i in g.members) == list(range(len(heights)))
    spreads = [max(heights[i] for i in g.members) - min(heights[i] for i in g.members) for g in groups]
    assert all(s <= tolerance + 1e-9 for s in spreads)
    best = min(
        (len(parts), round(sum(max(p) - min(p) for p in parts), 9))
        for parts in partitions(heights)
        if all(max(p) - min(p) <= tolerance + 1e-9 for p in parts)
    )
    assert (len(groups), pytest.approx(sum(spreads), abs=1e-6)) == best


@given(st.tuples(*[st.floats(20, 60)] * 3), st.floats(20, 60), st.floats(20, 60), st.booleans())
def test_a_piece_lies_in_the_nest_the_way_that_suits_best(sizes, long, wide, any_face):
    piece = Piece(name="a", length=sizes[0], width=sizes[1], thickness=sizes[2])
    found = lying(piece, Batch(nest_length=long, nest_width=wide, any_face=any_face))
    assert sorted((found.length, found.width, found.height)) == sorted(sizes)
    batch = Batch(nest_length=long, nest_width=wide, any_face=any_face)
    as_listed = (long - sizes[0], wide - sizes[1])
    ways = [(0, 1, 2), (0, 2, 1), (1, 0, 2), (1, 2, 0), (2, 0, 1), (2, 1, 0)] if any_face else []
    plays = [(long - sizes[a], wide - sizes[b]) for a, b, _ in ways]
    suited = [p for p in plays if all(0 <= v <= batch.play for v in p)]
    assert found.play == pytest.approx(min(suited, key=sum, default=as_listed))
    if not suited and min(as_listed) < 0:
        assert not found.fits  # however it may be turned: stood on its end it would hide that it is too long


def test_a_piece_that_is_too_long_is_not_hidden_by_standing_it_on_its_end():
    plates = [("a", 140.0, 90.0, 14.0), ("long", 151.0, 90.0, 14.0)]
    cubes = [("b", 60.0, 60.0, 60.9), ("c", 60.9, 60.0, 60.0)]
    for rows, (long, wide), fits in ((plates, (140.5, 90.4), [True, False]), (cubes, (60.2, 60.2), [True, True])):
        pieces = tuple(Piece(name=n, length=a, width=b, thickness=c) for n, a, b, c in rows)
        batch = Batch(pieces=pieces, nest_length=long, nest_width=wide, play=0.6, any_face=True)
        done = batched(batch)
        assert [w.fits for w in done.lying] == fits
        heads, *told = batch_table(batch, done)[1]
        assert [r[0] for r in told] == [n for n, *_ in rows] and len({len(r) for r in (heads, *told)}) == 1


def test_what_each_choice_costs():
    rows = [("a", 100, 50, 12.0), ("b", 101, 50.5, 12.4), ("c", 100, 50, 12.1)]
    batch = Batch(pieces=tuple(Piece(name=n, length=a, width=b, thickness=c) for n, a, b, c in rows), allowance=0.5, nest_length=100.4, nest_width=50.6)  # fmt: skip
    done = batched(batch)
    assert done.trim == pytest.approx((99.5, 49.5, 11.5))
    assert done.wood == pytest.approx(sum(a * b * c for _, a, b, c in rows) - 3 * 99.5 * 49.5 * 11.5)
    assert [g.members for g in done.groups] == [(0, 2), (1,)]
    low = done.groups[0].low
    assert low <= 12.0 and done.group_wood == pytest.approx(
        100 * 50 * ((12.0 - low) + (12.1 - low)) + 101 * 50.5 * (12.4 - done.groups[1].low)
    )
    assert [w.fits for w in done.lying] == [True, False, True]
    assert batched(Batch()) is None


TABLES = {
    "name,length,width,thickness\na,1,2,3": [("a", 1.0, 2.0, 3.0)],
    "thickness;width;length\n3,5;2;1": [("1", 1.0, 2.0, 3.5)],
    "100\t50\t12\n101\t50\t12.5": [("1", 100.0, 50.0, 12.0), ("2", 101.0, 50.0, 12.5)],
    "7b, 100, 50, 12": [("7b", 100.0, 50.0, 12.0)],
}
BAD_TABLES = {
    "": "empty",
    "name,length,width": "no column thickness",
    "a,1,2,3\nb,1,2,4 furlongs": "not a number",
    "a,1,2,x": "not a number",
}


@pytest.mark.parametrize("text", TABLES)
def test_pieces_are_read_from_tables(text):
    assert read_pieces(text, "a table") == TABLES[text]


# -- corners, stations, bows, flaws from end to end --------------------------------------------------------------


@given(st.floats(150, 900), st.integers(6, 20), st.floats(0.6, 2.4))
def test_a_curved_edge_measured_at_places_lies_off_the_straight_between_them_by_what_is_told(radius, count, arc):
    """Places on an arc: between two of them it lies r·(1 - cos(step/2)) off the chord."""
    along = np.linspace(-arc / 2, arc / 2, count)
    edge = np.column_stack([radius * np.sin(along), radius * np.cos(along)])
    corners = np.vstack([edge, [0.0, -2.0 * radius]])
    step = arc / (count - 1)
    true = radius * (1.0 - math.cos(step / 2))
    if step < math.radians(30):
        assert bend(corners) == pytest.approx(true, rel=0.05)


STATIONS = {
    "x,front,back\n0,0,200\n300,12,190\n600,3,205": [(0, 0), (300, 12), (600, 3), (600, 205), (300, 190), (0, 200)],
    "x (in);front (in);back (in)\n0;0;8\n10;0.5;7.5": [(0, 0), (254, 12.7), (254, 190.5), (0, 203.2)],
    "0\t0\n600\t0\n600\t200\n0\t200": [(0, 0), (600, 0), (600, 200), (0, 200)],
    "x,y\n0,0\n600,0\n300,200\n0,0": [(0, 0), (600, 0), (300, 200)],
}
NO_OUTLINE = {
    "x,front,back\n0,0,200\n300,190,12": "does not lie behind",
    "x,y\n0,0\n600,0": "three at least",
    "x,y\n0,0\n600,200\n600,0\n0,200": "cross",
    "": "empty",
}


@pytest.mark.parametrize("text", STATIONS)
def test_an_outline_is_read_from_corners_or_from_both_edges_at_stations(text):
    assert np.allclose(read_corners(text, "a table"), STATIONS[text])


NONE = [(read_pieces, *row) for row in BAD_TABLES.items()] + [(read_corners, *row) for row in NO_OUTLINE.items()]


@pytest.mark.parametrize(("read", "text", "words"), NONE)
def test_tables_that_are_none_are_a_sentence(read, text, words):
    with pytest.raises(OperatorError, match=words):
        read(text, "a table")


def test_a_table_that_says_no_unit_is_asked_about_where_its_figures_may_be_inches():
    pieces = "a,12.3,3.5,0.55"
    assert not says_unit(pieces) and says_unit("name,length (in),width,thickness\na,1,2,3") and says_unit("a,12 in,3,1")
    asked = of_table("pieces.csv", (12.3, 3.5), "mm")
    assert "12.3 × 3.5 mm or 12.30 × 3.50 in: which?" in asked.sentence
    (_, mm_), (_, inch) = asked.ways
    assert read_pieces(pieces, "t", "inch")[0][1] == pytest.approx(12.3 * inch / mm_)
    assert (
        of_table("pieces.csv", (312.0, 90.0), "mm") is None
        and of_table("pieces.csv", (312.0, 90.0), "inch") is not None
    )
    drawn = of_drawing("art.svg", (826.77, 238.1), 25.4 / 96, True)
    assert [round(826.77 * times, 1) for _, times in drawn.ways] == [
        826.8,
        round(826.77 * 96 / 25.4, 1),
        round(826.77 * 96, 1),
    ]


@given(st.floats(0.2, 8), st.floats(300, 1500), st.floats(0.2, 1.0), st.floats(60, 300), st.floats(8, 50))
def test_a_bowed_part_springs_and_is_kept_down_as_a_beam_is(bow, length, share, wide, thick):
    """Against the beam's own differential equation, E·I·y'' = M(x), by the trapezoid rule."""
    job = Job(blank=Blank(length=length, width=min(wide, length), bow=bow))
    part = share * length
    up = warp.springs(job, bow, part).result
    x = np.linspace(0, length, 4001)
    arc = bow * (1 - ((2 * x / length) - 1) ** 2)  # an even bend: its middle stands off by the gap
    inside = np.abs(x - length / 2) <= part / 2
    assert up == pytest.approx(arc.max() - arc[inside].min(), rel=0.01, abs=1e-3)
    force = warp.keeps_flat(job, up, part, wide, thick).result
    stiff = warp.STIFFNESS[job.wood.kind] * wide * thick**3 / 12
    s = np.linspace(0, part, 4001)
    moment = force / part * s * (part - s) / 2
    step = s[1] - s[0]
    slope = np.concatenate([[0], np.cumsum((moment[1:] + moment[:-1]) / 2 * step)]) / stiff
    sag = np.concatenate([[0], np.cumsum((slope[1:] + slope[:-1]) / 2 * step)])
    sag -= s / part * sag[-1]
    assert -sag.min() == pytest.approx(up, rel=0.01)


def test_a_crack_runs_from_end_to_end_and_is_met_all_along():
    flaw = Flaw(x=100, y=40, to_x=400, to_y=160, size=6.0)
    area = flaw_area(flaw)
    assert area.area == pytest.approx(math.hypot(300, 120) * 6 + math.pi * 9, rel=0.01)
    assert area.contains(shapely.Point(250, 100)) and not area.contains(shapely.Point(250, 110))
    assert flaw.middle == (250, 100) and flaw_area(Flaw(x=5, y=6)).contains(shapely.Point(9, 6))
    job = commands.run(
        Job(blank=Blank(length=600, width=300)), "add flaw", {"x": 100, "y": 40, "to_x": 400, "to_y": 160, "size": 6.0}
    )
    (mine,) = job.blank.flaws
    job = commands.run(job, *handling.moved(job, "front", f"flaw:{mine.id}", 10.0, 5.0))
    assert job.blank.flaws[0].ends == ((110, 45), (410, 165))
    job = commands.run(job, *handling.moved(job, "front", f"flaw:{mine.id}/to", 20.0, 0.0))
    assert job.blank.flaws[0].ends == ((110, 45), (430, 165))


def test_a_flaw_of_a_face_that_was_surfaced_since_is_to_be_looked_at_again():
    flaw = Flaw(id="flaw-1", x=100, y=40, depth=5.0)
    job, lie = Job(blank=Blank(flaws=(flaw,))), known.lies(flaw, 30.0, 28.0)
    cut = Journal().add("t", "run started", "surface", program="p.nc", face="front", does="surfacing")
    assert surfaced_already(cut) == {"front"} and not surfaced_already(Journal())
    assert "blank.flaw-again" in codes(known.findings(job, (lie,), 2.0, surfaced_already(cut)))
    assert "blank.flaw-again" not in codes(known.findings(job, (lie,), 2.0))
    seen = changed(flaw, again=True)
    assert "blank.flaw-again" not in codes(
        known.findings(job, (known.lies(seen, 30.0, 28.0),), 2.0, surfaced_already(cut))
    )


def test_an_edge_that_bends_between_its_places_asks_for_as_much_doubt():
    x = np.linspace(0, 600, 7)
    y = 200 + 30 * np.sin(x / 600 * math.pi)
    corners = ((0.0, 0.0), (600.0, 0.0), *zip(x[::-1].tolist(), y[::-1].tolist()))
    blank = Blank(shape="outline", length=600, width=230, outline=corners)
    (said,) = margin_rule(blank)
    asked = said.fixes[0].values["doubt"]
    assert 0.5 < asked < 3.0 and not margin_rule(changed(blank, doubt=asked + 0.1))
    assert not margin_rule(changed(blank, outline=((0, 0), (600, 0), (600, 200), (0, 200))))


def test_moisture_is_kept_with_its_dates_and_tells_when_to_look_again():
    job = Job()
    for taken, percent in (("2026-09-01", 18.0), ("2026-09-29", 14.0)):
        job = commands.run(job, "set blank", {"moisture": percent, "moisture_taken": taken})
    assert [(m.percent, m.taken) for m in job.blank.moisture_before] == [(18.0, "2026-09-01")]
    said = codes(known.findings(job, (), 0.0))["blank.moisture"]
    assert "1.0 % a week" in said.message and "2026-10-13" in said.message  # two per cent over 12 in two weeks
    again = commands.run(job, "set blank", {"moisture": 13.9})  # a figure without its date wants one again
    assert [m.percent for m in again.blank.moisture_before] == [18.0, 14.0] and again.blank.moisture_taken == ""
    mended = commands.run(again, "set blank", {"moisture_taken": "2026-09-29"})  # the same day: a mistake mended
    assert [m.percent for m in mended.blank.moisture_before] == [18.0] and mended.blank.moisture == 13.9
    later = commands.run(again, "set blank", {"moisture_taken": "2026-10-20"})
    assert [m.percent for m in later.blank.moisture_before] == [
        18.0,
        14.0,
    ] and later.blank.moisture_taken == "2026-10-20"
    wetter = commands.run(job, "set blank", {"moisture": 15.0, "moisture_taken": "2026-10-06"})
    assert "not dried since" in codes(known.findings(wetter, (), 0.0))["blank.moisture"].message


def test_a_step_that_can_not_be_done_hides_none_of_the_others():
    stock = Stock(length=1000, width=300, thickness=40, kerf=3)
    cuts = (SawCut(size="width", to=320), SawCut(size="width", to=200), SawCut(size="length", to=600))
    blank = Blank(length=600, width=200, label_thickness=40, stock=stock, saw_cuts=cuts)
    ((_, rows),) = cutlist.table(blank)
    assert len(rows) == 4 and rows[1][1] == "can't be done" and "⟦600|1⟧ × ⟦200|1⟧" in rows[3][1]
    assert cutlist.figures(blank)[0].value == "40 %"
    assert "blank.cut-list" in codes(cutlist.findings(blank))


def test_a_support_beside_the_board_bears_nothing():
    outline = ((0.0, 0.0), (600.0, 0.0), (300.0, 200.0))
    supports = tuple(
        Support(id=f"s{i}", x=x, y=y) for i, (x, y) in enumerate(((100, 20), (500, 20), (300, 150), (20, 190)))
    )
    blank = Blank(shape="outline", length=600, width=200, outline=outline, supports=supports)
    assert [s.id for s in borne(blank).supports] == ["s0", "s1", "s2"]
    assert borne(changed(blank, supports=supports[:3])).supports == supports[:3]
