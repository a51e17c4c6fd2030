# SPDX-License-Identifier: GPL-3.0-or-later

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.job.blank import Wood
from gatepost.core.job.machine import Collet, Machine
from gatepost.core.job.tool import ChipRange, Tool
from gatepost.core.job.tool_table import all_shipped, shipped_tools
from gatepost.core.motion import Moves
from gatepost.core.tools import feeds, forces
from gatepost.core.tools.bending import bending
from gatepost.core.tools.blunt import ToolRun, life
from gatepost.core.tools.drawer import COLUMNS, ORDERS, found, from_csv, sorted_by, to_csv
from gatepost.core.tools.grip import aged
from gatepost.core.tools.groove import true_v, values_of
from gatepost.core.tools.lookalikes import across_at, differences, instead, lookalikes
from gatepost.core.tools.reach import met
from gatepost.core.wood.field import rectangle
from tests.conftest import tries

KINDS = ("flat", "ball", "tapered_ball", "vee", "rounded_vee", "bull", "surfacing", "drill")
words = st.text(
    st.characters(codec="utf-8", exclude_characters="\x00\r\n", exclude_categories=("Cs", "Cc", "Zl", "Zp", "Zs")),
    max_size=12,
)
size = st.floats(0.1, 60).map(lambda v: round(v, 3))


@st.composite
def tools(draw):
    ranges = draw(
        st.lists(
            st.tuples(
                st.sampled_from(["elm", "hard", "birch plywood"]), size, size, st.sampled_from(["maker", "shop"])
            ),
            max_size=3,
        )
    )
    return Tool(
        number=draw(st.integers(1, 99)), name=draw(words.filter(bool)), kind=draw(st.sampled_from(KINDS)), diameter=draw(size), angle=draw(st.floats(0, 180)),
        tip=draw(size), radius=draw(size), teeth=draw(st.integers(1, 6)), cutting_length=draw(size), shank=draw(size), length=draw(size), rpm=draw(size),
        feed=draw(size), plunge=draw(size), pass_depth=draw(size), overall=draw(size), centre_cutting=draw(st.booleans()), hangs=draw(words),
        spiral=draw(st.sampled_from(["up", "down", "straight", "compression"])), body=draw(st.sampled_from(["carbide", "steel"])), price=draw(size),
        chips=tuple(ChipRange(wood=w, least=min(a, b), most=max(a, b), by=by) for w, a, b, by in ranges),
    )  # fmt: skip


@given(st.lists(tools(), min_size=1, max_size=4))
@settings(max_examples=tries(60), deadline=None)
def test_a_drawer_written_as_a_table_is_read_as_it_was(drawer):
    assert from_csv(to_csv(drawer), "drawer.csv") == drawer


@pytest.mark.parametrize(
    "text, wanted",
    [
        ("name,kind,diameter\nslot mill,end mill,6\n", ("flat", 6.0)),
        ("Name;Kind;Diameter (in)\nquarter;flat;0,25\n", ("flat", 6.35)),
        ("name\tkind\tdiameter (in)\tcutting length (mm)\nx\tball\t1/8\t12\n", ("ball", 3.175)),
        ("name,kind,diameter,angle (degrees)\n#4 mill,flat,6,0\n", ("flat", 6.0)),
        ('\ufeffname,kind,diameter,colour\n"V, sharp",vee,1/2",red\n', ("vee", 12.7)),
    ],
)
def test_tables_of_other_programs_are_read(text, wanted):
    (tool,) = from_csv(text, "t.csv")
    assert (tool.kind, pytest.approx(tool.diameter)) == wanted


@pytest.mark.parametrize(
    "text, said",
    [
        ("", "is empty"),
        ("name,kind\nx,flat\n", "no column diameter"),
        ("name,kind,diameter\n", "no tools"),
        ("name,kind,diameter\nx,spoon,6\n", "line 2: Kind can be"),
        ("name,kind,diameter\nok,flat,6\nx,flat,six\n", "line 3: “six” is no length"),
        ("name,kind,diameter,rpm\nx,flat,6,fast\n", "line 2: “fast” is no number for rpm"),
        ("name,kind,diameter,chips\nx,flat,6,oak 0.2-0.1\n", "the first is the thinnest"),
        ("name,kind,diameter,chips\nx,flat,6,oak\n", "no range of chips"),
        ("name,kind,diameter\nx,flat,-2\n", "line 2"),
        ("name,kind,diameter,teeth\nx,flat,6,0\n", "Teeth must be 1 at least"),
        ("name,kind,diameter,teeth\nx,flat,6,2.5\n", "whole number"),
        ("name,kind,diameter\nx,flat,nan\n", "line 2"),
        ("name,kind,diameter,sharpened\nx,flat,6,30/11/2026\n", "line 2: sharpened: “30/11/2026” is no day"),
        (
            "name,kind,diameter\nx,flat,6,35\n",
            "line 2: it has 4 values, and there are 3 columns. Is a comma in it the decimal sign",
        ),
        ("name;kind;diameter\nx;flat;6,35;9\n", "line 2: it has 4 values"),
        ("name,kind,diameter (mm),diameter (in)\nx,flat,6,1/4\n", "two columns called “diameter”"),
        ("name,kind,diameter,shank (cm)\nx,flat,6,0.6\n", "“shank .cm.” is in cm, which is not read"),
        ('name,kind,diameter\n"x" y,flat,6\n', "line 2: it can't be read"),
        ("name,kind,diameter,centre_cutting\nx,flat,6,perhaps\n", "line 2: “perhaps” is neither yes nor no"),
        ("name,kind,diameter,sharpened\nx,flat,6,2026-02-30\n", "is no day"),
    ],
)
def test_a_table_that_is_wrong_is_refused_whole_with_its_line(text, said):
    with pytest.raises(OperatorError, match=said):
        from_csv(text, "drawer.csv")


@pytest.mark.parametrize(
    "since, today, said",
    [
        ("", "2026-11-30", ""),
        ("2024-11-30", "2026-11-30", "over 2 years"),
        ("2024-12-01", "2026-11-30", "in use since 2024-12-01."),
        ("2022-02-28", "2026-02-27", "over 3 years"),
        ("2026-12-01", "2026-11-30", "still to come"),
    ],
)
def test_a_collet_is_offered_to_be_looked_at_when_its_years_are_over_and_not_a_day_before(since, today, said):
    words = aged(Collet(size=6.0, since=since), today)
    assert said in words and ("look whether" in words) == ("over" in said) and bool(words) == bool(since)


def test_every_figure_of_a_tool_has_its_column():
    assert set(COLUMNS) == set(Tool.model_fields)


def test_the_drawer_is_searched_by_words_and_sizes_and_sorted():
    drawer = all_shipped()
    assert [t.name for t in found(drawer, "v-bit 60")] == ["60 degree V-bit", "60 degree V-bit, rounded tip"]
    assert {t.kind for t in found(drawer, "6mm")} >= {"flat", "drill"} and not found(drawer, "no such")
    assert [t.kind for t in found(drawer, "1/8")] == []
    for by in ORDERS:
        assert sorted(t.number for t in sorted_by(drawer, by)) == sorted(t.number for t in drawer)
    widths = [t.diameter for t in sorted_by(drawer, "diameter")]
    assert widths == sorted(widths)


# -- feeds -------------------------------------------------------------------------------------------------------------------------------

ELM = Wood(name="elm", kind="medium")


def test_the_maker_comes_before_own_runs_and_own_runs_before_starting_values():
    mill = shipped_tools()[1]
    record = [feeds.GoodRun(0.11, "2026-11-01", ("clean",)), feeds.GoodRun(0.13, "2026-11-08")]
    made = mill.model_copy(
        update={"chips": (ChipRange(wood="hard", least=0.05, most=0.09), ChipRange(wood="elm", least=0.06, most=0.1))}
    )
    assert feeds.window(mill, ELM).by == "starting" and feeds.window(mill, ELM, record=record).by == "record"
    assert feeds.window(made, ELM, record=record).by == "maker"
    assert (feeds.window(made, ELM).least, feeds.window(made, ELM).most) == (0.06, 0.1)
    assert "clean" in feeds.window(mill, ELM, record=record).words
    half = feeds.window(mill, ELM, light=True)
    assert half.most == pytest.approx(feeds.window(mill, ELM).most / 2) and "light" in half.words
    tops = [feeds.window(mill, Wood(name="x", kind=k)).most for k in ("soft", "medium", "hard")]
    assert tops == pytest.approx([0.25, 0.2075, 0.165])  # of 0.08 to 0.25: all, three quarters and half of the way


@pytest.mark.parametrize(
    "d, wanted",
    [
        (3, (0.03, 0.12, 0.02)),
        (6, (0.08, 0.25, 0.04)),
        (10, (0.15, 0.45, 0.08)),
        (12, (0.15, 0.45, 0.08)),
        (4.5, (0.055, 0.185, 0.03)),
        (1, (0.01, 0.04, 1 / 150)),
    ],
)
def test_starting_values_are_those_of_the_table_and_lie_between_them(d, wanted):
    mill = shipped_tools()[1].model_copy(update={"diameter": d})
    assert feeds.starting(mill) == pytest.approx(wanted)


@given(
    st.sampled_from([0, 1, 2, 3]),
    st.sampled_from(["soft", "medium", "hard"]),
    st.floats(0.05, 1),
    st.floats(0.5, 9),
    st.floats(0, 1),
    st.floats(0, 1),
)
@settings(max_examples=tries(150))
def test_no_feed_between_gentle_and_hard_breaks_what_limits_it(which, kind, wide, depth, a, b):
    tool, wood, machine = shipped_tools()[which], Wood(name="x", kind=kind), Machine()
    step = wide * tool.diameter
    chips = feeds.window(tool, wood)
    low, high = (feeds.offer(tool, wood, machine, chips, s, step, depth) for s in sorted((a, b)))
    assert low.feed <= high.feed + 1e-9
    for o in (low, high):
        fed = tool.model_copy(update={"feed": max(o.feed, 1e-3)})
        assert o.feed == min(limit.feed for limit in o.all) and o.rules in o.all
        assert (
            forces.taken(fed, wood, step, depth).result <= forces.available(machine, tool.rpm).result * (1 + 1e-6)
            or o.feed == 0
        )
        mean = forces.v_push(fed, wood, depth) if fed.kind == "vee" else forces.push(fed, wood, step, depth)
        push = mean.result * forces.peak_factor(step, tool)
        assert bending(fed, push).result <= feeds.MOST_BEND * (1 + 1e-6) or o.feed == 0
        assert o.thickest <= chips.most * (1 + 1e-9)
        assert (
            o.rubs == (forces.thickest_chip(fed, min(1, step / tool.diameter)).result < tool.rub - 1e-9) or o.feed < 1
        )


def test_at_a_third_of_its_feed_a_bit_rubs_unless_the_spindle_is_slowed():
    mill, machine = shipped_tools()[1], Machine()
    rpm = feeds.slowed(mill, machine)
    assert rpm == pytest.approx(0.3 * 2400 / (0.04 * 2)) == 9000
    assert feeds.slowed(mill.model_copy(update={"feed": 4300}), machine) == 0  # 0.3 × 0.134 is over 0.04
    assert feeds.slowed(mill.model_copy(update={"feed": 1300}), machine) == machine.rpm_min
    assert feeds.rubbing_share(mill) == pytest.approx(0.04 / 0.075)


# -- taken for one another ------------------------------------------------------------------------------------------------------------


def test_a_v_of_60_for_one_of_90_is_told_by_width_and_depth_and_by_a_caliper():
    sixty, ninety = shipped_tools()[2:4]
    assert [one.other.number for one in lookalikes(ninety, shipped_tools())] == [3]
    (first, *_) = differences(ninety, sixty)
    assert (
        "5" in first
        and "10" in first
        and across_at(ninety, 5) == pytest.approx(10)
        and across_at(sixty, 5) == pytest.approx(10 / math.sqrt(3))
    )
    said = instead(ninety, sixty, 4.0)
    for figure in (8.0, 8 / math.sqrt(3), 4 * math.sqrt(3)):  # planned, wide with the other, deep for the planned width
        assert f"⟦{figure:.9g}|2⟧" in said, (figure, said)
    assert not lookalikes(shipped_tools()[0], shipped_tools())


def test_twins_are_told_apart_by_nothing():
    mill = shipped_tools()[1]
    twin = mill.model_copy(update={"number": 9, "name": "its twin"})
    assert lookalikes(mill, (mill, twin))[0].by == ()


# -- a test groove ----------------------------------------------------------------------------------------------------------------------


@given(
    st.floats(30, 120),
    st.floats(0, 1.0),
    st.floats(0.5, 2),
    st.floats(1.5, 6),
    st.floats(-0.05, 0.05),
    st.floats(-0.05, 0.05),
)
@settings(max_examples=tries(80))
def test_two_grooves_tell_a_v_as_well_as_they_are_read(angle, tip, first, more, off1, off2):
    named = shipped_tools()[3]
    depths = (first, first + more)
    true = tuple(tip + 2 * d * math.tan(math.radians(angle / 2)) for d in depths)
    exact = true_v(named, depths, true)
    assert exact.angle.result == pytest.approx(angle, abs=1e-6) and exact.tip.result == pytest.approx(tip, abs=1e-6)
    read = true_v(named, depths, (true[0] + off1, true[1] + off2))
    assert abs(read.angle.result - angle) <= 1.5 * read.within[0] and abs(read.tip.result - tip) <= 2.5 * read.within[1]
    assert values_of(named, exact) == {"angle": round(angle, 1), "tip": pytest.approx(tip, abs=0.006)}


@given(st.floats(0.2, 1.5))
def test_a_rounded_tip_is_told_by_what_it_is_as_blunt_as(radius):
    bit = next(t for t in all_shipped() if t.kind == "rounded_vee").model_copy(
        update={"radius": radius, "diameter": 20.0}
    )
    from gatepost.core.profile import profile_of

    depths = (2.0, 5.0)
    found_ = true_v(bit, depths, tuple(2 * profile_of(bit).out_at(d) for d in depths))
    assert values_of(bit, found_) == {"angle": 60.0, "radius": pytest.approx(radius, abs=0.006)}


@pytest.mark.parametrize(
    "depths, widths",
    [((3, 2), (3, 5)), ((2, 2), (3, 5)), ((2, 3), (5, 4)), ((0, 3), (1, 4)), ((2, 3), (1.0, 40)), ((4, 6), (1.0, 9.0))],
)
def test_grooves_that_no_v_cuts_are_refused_in_words(depths, widths):
    with pytest.raises(OperatorError):
        true_v(shipped_tools()[3], depths, widths)


# -- blunt ---------------------------------------------------------------------------------------------------------------------------------


def test_a_bit_that_burnt_twice_or_went_far_is_offered_to_be_looked_at_and_a_sharpened_one_begins_anew():
    mill = shipped_tools()[1]
    runs = [ToolRun(f"2026-10-{d:02d}T10:00", "oak", "hard", 100.0, 6.0) for d in range(1, 11)]
    assert not life(mill, runs).offer and life(mill, runs).metres == 1000.0 and life(mill, runs).hours == 1.0
    burnt = [
        *runs[:8],
        *(ToolRun(r.at, r.wood, r.kind, r.metres, r.minutes, ("burn at the corners",)) for r in runs[8:]),
    ]
    assert "burn 2 times" in life(mill, burnt).offer and "1000 m" in life(mill, burnt).offer
    assert life(mill, runs * 2).offer and "shop rule" in life(mill, runs * 2).offer
    ground = mill.model_copy(update={"sharpened": "2026-10-09"})
    assert life(ground, runs).metres == 200.0 and not life(ground, runs).offer


# -- shank and nut -------------------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("out, deep", [(24.9, 0.0), (18.0, 2.0), (15.0, 5.0)])
def test_a_nut_meets_a_wall_by_as_much_as_the_pocket_is_deeper_than_the_bit_sticks_out(out, deep):
    """A slot 20 mm deep, in passes; the nut's 42 mm reach over its walls."""
    field = rectangle(120, 80, 0.5, lambda x, y: np.full_like(x, 20.0))
    tool = shipped_tools()[1].model_copy(update={"length": out, "cutting_length": out})
    pen = [(20.0, 40.0, 30.0)]
    rapid: list[bool] = []
    for z in (15.0, 10.0, 5.0, 0.0):
        for place, fast in (
            ((20.0, 40.0, 22.0), True),
            ((20.0, 40.0, z), False),
            ((100.0, 40.0, z), False),
            ((100.0, 40.0, 30.0), True),
            ((20.0, 40.0, 30.0), True),
        ):
            pen.append(place)
            rapid.append(fast)
    moves = Moves(np.array(pen), np.array(rapid), np.where(rapid, 0.0, 1000.0))
    found_ = {m.part: m.deep for m in met(field, moves, tool, Machine())}
    assert found_.get("nut", 0.0) == pytest.approx(deep, abs=0.01)
    wide = rectangle(
        70, 7, 0.5, lambda x, y: np.full_like(x, 20.0)
    )  # no wider than the bit, and cut from end to end: no walls stay
    assert not met(wide, moves.moved(-25.0, -36.5, 0.0), tool.model_copy(update={"diameter": 9.0}), Machine())


def test_a_shank_thicker_than_its_slot_meets_the_walls_from_its_edges_up():
    field = rectangle(120, 80, 0.5, lambda x, y: np.full_like(x, 20.0))
    tool = shipped_tools()[1].model_copy(update={"shank": 8.0, "cutting_length": 12.0, "length": 60.0})
    points = np.array([[20.0, 40.0, 30.0], [20.0, 40.0, 5.0], [100.0, 40.0, 5.0], [100.0, 40.0, 30.0]])
    moves = Moves(points, np.array([False, False, True]), np.array([500.0, 1000.0, 0.0]))
    (one,) = met(field, moves, tool, Machine())
    assert one.part == "shank" and one.deep == pytest.approx(20.0 - 5.0 - 12.0, abs=0.01)
    assert not met(field, moves, tool.model_copy(update={"shank": 6.0}), Machine())


def test_of_figures_for_a_wood_and_for_its_kind_the_wood_s_count_whoever_gave_them():
    elm, hard = Wood(name="elm", kind="hard"), ChipRange(wood="hard", least=0.01, most=0.02)
    own = ChipRange(wood="elm", least=0.05, most=0.06)
    for by in ("maker", "shop"):
        for chips in ((hard, own), (own, hard)):
            tool = shipped_tools()[1].model_copy(
                update={"chips": tuple(c.model_copy(update={"by": by}) for c in chips)}
            )
            found = feeds.window(tool, elm)
            assert (found.least, found.most, "elm" in found.words) == (0.05, 0.06, True)
