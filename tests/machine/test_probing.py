# SPDX-License-Identifier: GPL-3.0-or-later
"""Probing a face by the simulated machine, over a real connection: heights, spread, no wood, an open circuit, a stop."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.plan.probes import probe_places
from gatepost.core.surface.probing import AGREE, Places, ProbeTouch, places, probed
from gatepost.machine import launch
from gatepost.machine.launch import tool_words
from gatepost.machine.probing import LEAST, probe
from gatepost.machine.session import Session
from tests.conftest import tries


@pytest.fixture
def linked(request, lock7_plan):
    """A machine with the slab on it, homed, with a thin bit for a probe."""
    made = []

    def start(*faults):
        simulated = launch.start(lock7_plan, "max", faults=faults)
        session = Session(simulated.host, simulated.port)
        made.extend([session.close, simulated.end])
        session.home()
        session.fit(tool_words(lock7_plan.job.tool(2)))
        return session

    yield start
    for end in made:
        end()


def run(session, plan, where, **more):
    return probe(session, plan, plan.setups[0], plan.job.tool(2), where, **more)


def test_heights_are_those_of_the_wood(linked, lock7_plan):
    setup = lock7_plan.setups[0]
    where = probe_places(lock7_plan.job, setup, 160.0)
    done = []
    found = run(linked(), lock7_plan, where, progress=lambda n, of: done.append((n, of)))
    assert done == [(n, len(where.spots)) for n in range(1, len(where.spots) + 1)]
    assert len(found.heights) == len(where.spots) and not found.skipped and not found.unsure
    for x, y, z in found.heights:
        turns = np.linspace(0.0, 2.0 * np.pi, 16, endpoint=False)  # a flat end meets the highest place under itself
        about = [setup.start.at(x + r * np.cos(t), y + r * np.sin(t)) for r in (0.0, 10.0, 20.0) for t in turns]
        assert setup.start.at(x, y) - 0.02 <= z <= np.nanmax(about) + 0.02
        assert z - setup.start.at(x, y) < 0.1
    assert found.spread < 0.001


def test_noisy_touches_have_a_spread_and_a_place_that_does_not_agree_is_left_out(linked, lock7_plan):
    setup = lock7_plan.setups[0]
    where = probe_places(lock7_plan.job, setup, 120.0)
    found = run(linked("touch noise"), lock7_plan, where)
    assert 0.0 < found.spread <= AGREE
    off = [z - setup.start.at(x, y) for x, y, z in found.heights]
    assert np.std(off) < 0.03 and max(map(abs, off)) < 0.1


def test_where_there_is_no_wood_it_is_skipped(linked, lock7_plan):
    b = lock7_plan.job.blank
    spots = np.array([[100.0, 150.0], [b.length + 30.0, 150.0], [400.0, 150.0], [600.0, 20.0], [600.0, -30.0]])
    found = run(linked(), lock7_plan, Places(spots, (-25.0, 150.0)))
    assert len(found.heights) == 3 and set(found.skipped) == {(b.length + 30.0, 150.0), (600.0, -30.0)}


def test_it_stops_when_the_circuit_stays_open(linked, lock7_plan):
    where = probe_places(lock7_plan.job, lock7_plan.setups[0], 160.0)
    session = linked("dead plate")
    with pytest.raises(OperatorError, match="circuit stays open"):
        run(session, lock7_plan, where)
    assert session.last["state"] == "ready"


def test_three_places_without_wood_one_after_another_stop_it_too(linked, lock7_plan):
    spots = np.array([[100.0, 150.0], *[[100.0 + 30 * k, -60.0] for k in range(4)]])
    session = linked()
    with pytest.raises(OperatorError, match="3 places one after another"):
        run(session, lock7_plan, Places(spots, (-25.0, 150.0)))
    assert session.last["machine"][2] == pytest.approx(0.0)  # lifted clear


def test_a_stop_leaves_the_tip_lifted_and_changes_nothing(linked, lock7_plan):
    where = probe_places(lock7_plan.job, lock7_plan.setups[0], 160.0)
    left = iter([True, True, False])
    session = linked()
    with pytest.raises(OperatorError, match="Stopped after 2 of"):
        run(session, lock7_plan, where, wanted=lambda: next(left))
    assert session.last["machine"][2] == pytest.approx(0.0)


@given(st.floats(40, 500), st.integers(0, 1000))
@settings(max_examples=tries(25))
def test_a_grid_fits_its_outline_and_keeps_off_what_stands(spacing, seed):
    rng = np.random.default_rng(seed)
    turn = np.sort(rng.uniform(0, 6.28, 9))
    area = shapely.Polygon(np.column_stack([np.cos(turn), np.sin(turn)]) * 300).buffer(20)
    hold = shapely.box(*(c := rng.uniform(-200, 100, 2)), *(c + 120))
    try:
        found = places(area, spacing, [hold], shapely.box(-400, -400, 400, 400))
    except OperatorError as error:
        assert str(error)
        return
    spots = shapely.points(found.spots)
    assert shapely.contains(area.buffer(-2.9), spots).all() and not shapely.intersects(hold.buffer(-1e-6), spots).any()
    assert not area.buffer(5).union(hold).intersects(shapely.Point(found.bed))
    steps = np.unique(np.round(found.spots[:, 1], 6))
    assert (np.diff(steps) >= 0).all() and (len(steps) < 2 or np.diff(np.unique(found.spots[:, 0])).max() < 1e4)


BAD = {
    "too near": (4.0, [], "nearer than 5 mm"),
    "not a number": (float("nan"), [], "nearer than 5 mm"),
    "too many": (8.0, [], "Choose a wider"),
    "nothing free": (60.0, [shapely.box(-500, -500, 900, 900)], "Fewer than three"),
}


@pytest.mark.parametrize("name", BAD)
def test_grids_that_can_t_be_are_a_sentence(name):
    spacing, keep_off, words = BAD[name]
    with pytest.raises(OperatorError, match=words):
        places(shapely.box(0, 0, 600, 300), spacing, keep_off, shapely.box(-100, -100, 1000, 600))


def test_too_few_sure_places_change_nothing():
    touches = [
        ProbeTouch(0, 0, -60.0),
        ProbeTouch(50, 0, -60.0, 0.2),
        ProbeTouch(90, 0, None),
        ProbeTouch(120, 0, -95.9),
    ]
    with pytest.raises(OperatorError, match="Only 1 places"):
        probed(touches, -96.0, LEAST)


def test_a_bit_too_short_for_the_bed_is_told_before_anything_moves(linked, lock7_plan):
    where = probe_places(lock7_plan.job, lock7_plan.setups[0], 160.0)
    session = linked()
    stub = lock7_plan.job.tool(2).model_copy(update={"length": 40.0})
    before = session.last["machine"]
    with pytest.raises(OperatorError, match="can't reach the bed"):
        probe(session, lock7_plan, lock7_plan.setups[0], stub, where)
    assert session.last["machine"] == before
