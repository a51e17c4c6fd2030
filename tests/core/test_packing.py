# SPDX-License-Identifier: GPL-3.0-or-later
"""Packing at hand, studs, screws, tape over scars, jack bolts."""

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import box

from gatepost.core.hold.kinds import strap as strap_kind
from gatepost.core.hold.kinds.blocks import MOST_STACKS
from gatepost.core.hold.lying import lying
from gatepost.core.job import commands
from gatepost.core.job.hold import InNest, Screw, Tape
from gatepost.core.job.machine import BedThings, Machine, Nest, Scar
from gatepost.core.plan.pipeline import plan
from tests.core.catalogue_jobs import JOBS
from tests.core.holds import KINDS, RULES, WORK, grip, held, load, strap

# -- packing at hand, studs, screws, tape over scars, jack bolts ------------------------------------------------------


@given(
    st.lists(st.floats(3, 40).map(lambda v: round(v, 1)), min_size=1, max_size=5, unique=True),
    st.floats(10, 60),
    st.floats(1, 8),
)
def test_stacks_of_blocks_at_hand_are_all_there_are_within_the_slope(blocks, low, more):
    found = strap_kind.stacks(tuple(blocks), low, low + more)
    every = {
        round(sum(c), 6)
        for n in (1, 2, 3)
        for c in itertools.combinations_with_replacement(blocks, n)
        if low - 1e-6 <= sum(c) <= low + more + 1e-6
    }
    assert [round(sum(s), 6) for s in found] == sorted(every)[:MOST_STACKS]
    assert all(set(s) <= set(blocks) for s in found)


@given(st.floats(5, 60), st.floats(4, 16), st.sampled_from(["slot", "insert"]))
def test_the_largest_work_that_a_stud_takes_wants_just_that_stud(work, thick, into):
    one, machine = strap(packing=work, thickness=thick, into=into), Machine()
    stud = strap_kind.stud_length(one, work, machine).result
    assert strap_kind.largest_work(one, stud, machine).result == pytest.approx(work)


def test_the_stud_to_fetch_is_the_shortest_that_is_long_enough():
    for studs, words in (
        ((60.0, 80.0, 100.0), "Stud to fetch, ⟦80|0⟧"),
        ((50.0, 60.0), "No stud at hand is long enough: ⟦60|0⟧"),
        ((), ""),
    ):
        machine = Machine(slots=(160.0, 440.0), bed=BedThings(studs=studs))
        labels = [f.label for f in KINDS["strap"].told(held(strap(), machine=machine), [strap()])]
        assert any(words and label.startswith(words) for label in labels) == bool(words)


def test_a_cranked_strap_is_judged_at_its_nose():
    """It may slope up and press straight down: 10 lower behind over 90 is 6.3° up, and a nose bent by as much lies flat."""
    low = strap(packing=20.0)
    assert strap_kind.nose_angle(low, 30.0).result == pytest.approx(-math.degrees(math.atan(10 / 90)))
    cranked = strap(packing=20.0, crank=math.degrees(math.atan(10 / 90)))
    assert strap_kind.nose_angle(cranked, 30.0).result == pytest.approx(0.0, abs=1e-9)
    for hold, up in ((low, True), (cranked, False)):
        assert ("hold.nose-up" in {f.code for f in KINDS["strap"].checks(held(hold), hold)}) == up


def test_a_jack_bolt_takes_less_of_the_bed_than_packing_and_goes_no_higher_than_it_goes():
    packed, jacked = (
        next(s for s in KINDS["strap"].solids(h, 30.0) if s.part == "packing")
        for h in (strap(), strap(heel="jack bolt"))
    )
    assert jacked.outline.area < 0.2 * packed.outline.area and jacked.top == packed.top
    short = strap(heel="jack bolt", jack=29.9)
    assert "hold.jack-short" in {f.code for f in KINDS["strap"].checks(held(short), short)}


def test_tape_does_not_stick_where_earlier_cuts_have_scarred_the_bed():
    tape = Tape(name="T1", x=350.0, y=300.0, heading=0.0, length=200.0, width=50.0, contact=0.8)
    scar = Scar(points=((200.0, 300.0), (500.0, 300.0)), width=10.0, depth=0.3, at="2026-01-01", run="1")
    clean, scarred_ = (grip(tape, WORK, RULES, BedThings(scars=scars)).shear for scars in ((), (scar,)))
    assert clean == pytest.approx(RULES.tape * 0.8 * 200 * 50)
    assert scarred_ == pytest.approx(RULES.tape * 0.8 * 200 * 40, rel=1e-3)
    machine = Machine(slots=(160.0, 440.0), bed=BedThings(scars=(scar,)))
    ((title, rows),) = KINDS["tape"].tables(held(tape, machine=machine), [tape])
    assert "skim" in title and rows[1][1:3] == ("100 cm²", "20 %")
    figures = {f.label: f.value for f in KINDS["tape"].told(held(tape, machine=machine, loads=(load(100.0),)), [tape])}
    wanted = RULES.factor * 130.0 / (RULES.tape * 0.8) / 100.0
    assert figures["Tape that the heaviest push asks for"] == pytest.approx(wanted)
    assert figures["Tape under the work, scars left out"] == pytest.approx(80.0, rel=1e-3)


def test_a_screw_s_pilot_and_length_by_hand():
    soft, hard = (
        strap_figures(Screw(name="S1", x=220.0, y=220.0, diameter=4.0, bite=12.0), soft) for soft in (True, False)
    )
    assert soft["Pilot for screws of ⟦4⟧"] == pytest.approx(2.4) and hard["Pilot for screws of ⟦4⟧"] == pytest.approx(
        3.0
    )
    assert soft["Screws, long under the head"] == pytest.approx(42.0)  # 30 of work and 12 of bite
    assert soft["and no longer than"] == pytest.approx(30.0 + Machine().spoilboard - 2.0)


def strap_figures(hold, soft):
    return {f.label.replace("|2", ""): f.value for f in KINDS[hold.kind].told(held(hold, soft=soft), [hold])}


def test_where_z_is_touched_far_from_any_hold_the_board_may_sit_high():
    job = commands.run(JOBS["strapped"](), "set blank", {"length": 600.0})
    for x, y, z in ((10, 10, 0.0), (590, 10, 0.6), (300, 70, 0.3)):
        job = commands.run(job, "add gap", {"x": x, "y": y, "z": z})
    far = commands.run(job, "set zero", {"setup": "front", "touch_x": 560.0, "touch_y": 40.0})
    near = commands.run(job, "set zero", {"setup": "front", "touch_x": 60.0, "touch_y": 40.0})
    assert "hold.free-at-touch" in {f.code for f in plan(far).findings}
    assert "hold.free-at-touch" not in {f.code for f in plan(near).findings}


@given(st.floats(0.0, 1.0), st.floats(0.2, 3.0), st.sampled_from(["front left", "back right"]))
def test_a_piece_in_a_nest_is_off_by_half_the_play_in_the_middle_and_by_all_of_it_in_the_corner(share, play, corner):
    size, at = (100.0, 60.0), (500.0, 300.0)
    x, y = (at[0] - size[0], at[1] - size[1]) if corner == "back right" else at
    nest = Nest(name="N", x=at[0], y=at[1], length=size[0], width=size[1], play=play, corner=corner)
    work = box(x + share * play, y + 0.5 * play, x + share * play + size[0] - play, y + 0.5 * play + size[1] - play)
    lies = lying([InNest(name="N1", x=at[0], y=at[1], heading=0.0, of="N")], BedThings(nests=(nest,)), work)
    assert lies.x == pytest.approx(max(share, 1.0 - share) * play, abs=1e-6) and lies.y == pytest.approx(
        0.5 * play, abs=1e-6
    )
    for i, (low, high) in enumerate(((x, x + size[0]), (y, y + size[1]))):  # and no wall is reached sooner
        bound = (lies.x, lies.y)[i]
        assert work.bounds[i] - bound <= low + 1e-6 or work.bounds[i + 2] + bound >= high - 1e-6
