# SPDX-License-Identifier: GPL-3.0-or-later
"""Pins: what a piece on them may be shifted by, every way round that it goes on, and what is said of them in a job."""

import itertools
import math

import numpy as np
import pytest
import shapely

from gatepost.core.cache import Memory
from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.plan.pipeline import plan
from gatepost.core.register.pins import PinHole, bound, ways_on, widest_apart, worst_seating, worst_shifts
from tests.conftest import some
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.pinned import holes, over
from tests.core.told import CELL

MEMORY = Memory()


def seated(c, apart, place, turns=121):
    """The worst shift of a place over all seatings: by discs as polygons, and real turns."""
    worst = 0.0
    for t in c / apart * np.sin(np.linspace(-math.pi / 2, math.pi / 2, turns)):
        turn = np.array([[math.cos(t), -math.sin(t)], [math.sin(t), math.cos(t)]]) - np.eye(2)
        pin, there = turn @ [apart / 2, 0.0], turn @ np.array(place)
        discs = [shapely.Point(*(way * pin)).buffer(c / 2, quad_segs=48) for way in (1, -1)]
        lens = discs[0].intersection(discs[1])
        if not lens.is_empty:
            worst = max(worst, float(np.hypot(*(shapely.get_coordinates(lens) + there).T).max()))
    return worst


@pytest.mark.parametrize("number", some(range(50), 6))
def test_the_bound_holds_over_all_seatings_and_is_reached_square_to_the_pins(number):
    chance = np.random.default_rng(number)
    c, apart, far = chance.uniform(0.02, 0.6), chance.uniform(25.0, 500.0), chance.uniform(0.0, 600.0)
    sum_ = bound(c, far, apart)
    assert sum_.result == pytest.approx(c * math.sqrt(0.25 + (far / apart) ** 2)) == sum_.evaluate()
    angles = [*chance.uniform(0.0, 2.0 * math.pi, 4), 0.0, math.pi / 2]
    places = far * np.column_stack([np.cos(angles), np.sin(angles)])
    exact = worst_shifts(c, apart, places)
    for place, told in zip(places, exact):
        truly = seated(c, apart, place)
        assert truly <= sum_.result * (1 + 1e-9) and told <= sum_.result * (1 + 1e-9)
        assert told == pytest.approx(truly, rel=4e-3) and told >= truly * (1 - 1e-3)  # it turns in the small
    assert exact[-1] >= 0.98 * sum_.result
    if far > apart / 2.0:
        assert exact[-2] == pytest.approx(c * far / apart, rel=1e-6)  # on the pins' line, beyond them
    assert bound(c, far, apart, twice=True).result == pytest.approx(2.0 * sum_.result)


def holes_of(places, across=8.0, clearance=0.1):
    return [PinHole(f"h{n}", *map(float, p), across, clearance) for n, p in enumerate(places)]


def counted(places, **more):
    return len(ways_on(holes_of(places, **more), [tuple(map(float, p)) for p in places]))


@pytest.mark.parametrize("seed", some(range(40), 10))
def test_two_pins_leave_four_ways_and_three_off_a_line_one(seed):
    chance = np.random.default_rng(seed)
    two = chance.uniform(0.0, 300.0, (2, 2))
    ways = ways_on(holes_of(two), two)
    assert len(ways) == 4 and sum(w.asked for w in ways) == 1 and sum(w.over for w in ways) == 2
    three = chance.uniform(0.0, 300.0, (3, 2))
    sides = [math.dist(a, b) for a, b in itertools.combinations(three, 2)]
    off = 2.0 * shapely.Polygon(three).area / max(sides)
    unlike = min(abs(a - b) for a, b in itertools.combinations(sides, 2))
    if min(off, unlike) > 1.0:
        ways = ways_on(holes_of(three), three)
        assert len(ways) == 1 and ways[0].asked and abs(ways[0].turn) < 1e-6


def test_shapes_that_are_alike_some_other_way_round_are_counted():
    h = 60.0 * math.sqrt(3.0)
    assert counted([(0, 0), (120, 0), (60, h)]) == 6
    assert counted([(0, 0), (120, 0), (60, 50)]) == 2
    assert counted([(0, 0), (200, 0), (70, 0)]) == 2  # on one line: over, its ends as they are
    assert counted([(0, 0), (200, 0), (200, 90), (0, 90)]) == 4
    assert counted([(0, 0), (90, 0), (90, 90), (0, 90)]) == 8


def test_what_is_nearly_alike_goes_on_as_far_as_its_play_lets_it():
    def beside(e):
        return counted([(0, 0), (120, 0), (60 + e, 50)], clearance=0.4)

    assert beside(0.1) == 2 and beside(0.18) == 2  # both give: half the play, and a little turned
    assert beside(0.5) == 1


def test_a_thicker_pin_bars_half_a_turn_and_never_the_other_face():
    thick, thin = PinHole("a", 0, 0, 10.0, 0.1), PinHole("b", 200, 0, 6.0, 0.1)
    ways = ways_on([thick, thin], [(0, 0), (200, 0)])
    assert [(w.over, w.swapped) for w in ways] == [(False, False), (True, False)]
    assert widest_apart(np.array([[0, 0], [5, 5], [200, 0], [10, 0]])) in ((0, 2), (2, 0))


@pytest.mark.parametrize(("up", "spin"), some([("back", 0), ("back", 180), ("front", 180), ("back", 90)], 3))
def test_pins_are_put_on_the_line_that_it_turns_about_and_come_onto_their_own_holes(up, spin):
    made = plan(over(up=up, spin=spin), memory=MEMORY, cell=CELL)
    report = made.reports["register", ""]
    codes = {f.code for f in report.findings}
    if (up, spin) == ("back", 90):  # they stand across then
        assert "register.pins-new" in codes
        return
    assert codes >= {"register.pins-shift", "register.pins-ways"} and not codes & {
        "register.pins-beside",
        "register.pins-new",
    }
    setup, before = made.setups[-1], made.setups[-2]
    row = next(a for a in made.job.artwork if a.id == "pins")
    first = row.y if row.turn == 0.0 else row.x
    assert first == pytest.approx(40.0 if row.turn == 0.0 else 60.0)
    stand = {tuple(np.round(p, 6)) for p in setup.pins}
    drilled = {
        tuple(np.round(before.carried.then(before.placed.to_bed).xy(*p), 6))
        for p in made.kinds.registers["pins"].pins(made.job, setup.setup)
    }
    assert stand == drilled and len(stand) == 2
    told = next(f for f in report.findings if f.code == "register.pins-ways")
    assert ("That it was not turned over shows nowhere" in told.message) == (up == "back")


def test_the_worst_place_is_the_farthest_that_is_cut():
    made = plan(over(pitch=90.0), memory=MEMORY, cell=CELL)
    sum_ = next(f.working for f in made.reports["register", ""].figures if f.label.startswith("Beside"))
    values = {v.name: v.value for v in sum_.values}
    assert (
        values["apart"] == pytest.approx(102.0)
        and values["far"] == pytest.approx(45.0)
        and values["clearance"] == pytest.approx(0.15)
    )


def test_a_third_pin_is_asked_for_and_leaves_one_way():
    job = edited(over(), ("add pins", {"setup": "over", "across": 6.0, "third": True}))
    made = plan(job, memory=MEMORY, cell=CELL)
    codes = {f.code for f in made.reports["register", ""].findings}
    assert "register.pins-one-way" in codes and "register.pins-ways" not in codes
    new = next(f for f in made.reports["register", ""].findings if f.code == "register.pins-new")
    assert "Pull the pin of" in new.message and "bores it" in new.message and len(made.setup("over").pins) == 3


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        (("add pins", {"setup": "surface"}), "none before it"),
        (("add pins", {"setup": "gone"}), "no setup"),
    ],
)
def test_pins_that_can_t_be_put_are_told_in_a_sentence(edit, words):
    with pytest.raises(OperatorError, match=words):
        commands.run(JOBS["taped"](), *edit)


def test_x0_y0_is_not_touched_and_follows_from_the_side_before():
    steps = plan(over(), memory=MEMORY, cell=CELL).setup("over").steps
    kinds = [s.kind for s in steps]
    assert "zero kept" in kinds and "zero xy" not in kinds and "home" not in kinds
    assert next(s.key for s in steps if "switched on since" in s.title) == "stayed"


def test_pins_stand_in_the_waste_and_a_cut_out_that_takes_it_away_later_is_no_loss():
    job = edited(
        JOBS["plate"](), ("add setup", {"id": "over", "up": "back"}), ("add pins", {"setup": "over", "across": 6.0})
    )
    told = plan(job, memory=MEMORY, cell=CELL).findings
    assert not [f for f in told if f.code == "carve.cut-away"]
    other = edited(job, ("set register", {"setup": "over", "kind": "turned"}))  # holes for nothing
    assert [f.about for f in plan(other, memory=MEMORY, cell=CELL).findings if f.code == "carve.cut-away"] == [
        "drill-pins"
    ]


def test_with_a_setup_between_the_piece_still_goes_onto_the_pins_where_their_holes_were_bored():
    plain = plan(over(), memory=MEMORY, cell=CELL)
    held = [h.model_dump() for h in JOBS["taped"]().setups[-1].holds]
    moved = [("add hold", {"setup": "between", **{k: v for k, v in h.items() if k != "name"}}) for h in held]
    between = [
        ("add setup", {"id": "between", "up": "front"}), *moved, *holes("more", "front", 60.0, 62.0, number=1, setup="between", through=False, deep=4.0),
        ("order setups", {"order": ("surface", "front", "between", "over")}), ("place blank", {"setup": "between", "x": 700.0, "y": 200.0}),
    ]  # fmt: skip
    made = plan(edited(over(), *between), memory=MEMORY, cell=CELL)
    assert [s.name for s in made.setups][-3:] == ["front", "between", "over"]
    one, other = plain.setup("over"), made.setup("over")
    assert np.allclose(other.pins, one.pins)
    codes = [{f.code for f in p.report("register").findings if f.setup == "over"} for p in (plain, made)]
    assert codes[0] == codes[1] and "register.pins-beside" not in codes[1]
    kept = next(s for s in other.steps if s.kind == "zero kept")
    assert "front" in kept.title and "between" not in kept.title


@pytest.mark.parametrize("seed", some(range(60), 12))
def test_the_worst_seating_is_told_with_the_turn_and_shift_that_make_it(seed):
    chance = np.random.default_rng(seed)
    clearance, apart = chance.uniform(0.05, 0.6), chance.uniform(50, 400)
    place = (chance.uniform(-1.5, 1.5) * apart, chance.uniform(-1.5, 1.5) * apart)
    seat = worst_seating(clearance, apart, place)
    assert seat.off == pytest.approx(float(worst_shifts(clearance, apart, np.array([place]))[0]), rel=1e-6)
    for end in (-0.5, 0.5):  # each pin still stands in its hole
        x, y = seat.right, seat.back + seat.turn * end * apart
        assert math.hypot(x, y) <= clearance / 2.0 + 1e-6
    told = seat.told(0.0, 2.0)
    assert told.result == pytest.approx(2.0 * seat.off) and told.result == pytest.approx(told.evaluate())
