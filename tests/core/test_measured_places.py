# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables of pieces and places, curved and bowed edges, flaws from end to end."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.blank import cutlist, known, warp
from gatepost.core.blank.batch import read_pieces
from gatepost.core.blank.corners import bend, margin_rule, read_corners
from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.job.base import changed
from gatepost.core.job.blank import Blank, Flaw, SawCut, Stock, Support
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.plan import handling
from gatepost.core.plan.laid import borne
from gatepost.core.plan.oldcuts import surfaced_already
from gatepost.core.tables import says_unit
from gatepost.core.whichunit import of_drawing, of_table
from gatepost.core.wood.flaws import flaw_area
from tests.core.told_of import codes

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
