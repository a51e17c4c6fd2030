# SPDX-License-Identifier: GPL-3.0-or-later
"""Something cut again alone: only there, only so much deeper, and not where it can't be; and what is looked at after a stop."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.job.journal import Journal
from gatepost.core.plan.again import MOST, again, items
from gatepost.core.plan.imported import imported
from gatepost.core.plan.oldcuts import cut_where
from gatepost.core.plan.pipeline import plan
from gatepost.core.run.stopped import FIRST, OTHERWISE, look_first, why_it_ended
from gatepost.core.units import spell
from gatepost.core.wood.field import cut, cutter_of
from tests.conftest import tries
from tests.machine.test_elsewhere import POCKET


def ran_all(plan, name):
    return [p.name for p in plan.setup(name).programs]


@given(data=st.data(), deeper=st.sampled_from([0.0, 0.1, 0.25, 0.8]))
@settings(max_examples=tries(18))
def test_only_what_was_chosen_is_cut_and_only_so_much_deeper(lock7_plan, data, deeper):
    setup = lock7_plan.setup("front")
    ran = ran_all(lock7_plan, "front")
    letters = [i for i in items(lock7_plan, setup, ran) if i.letter >= 0]
    chosen = data.draw(st.lists(st.sampled_from(letters), min_size=1, max_size=3, unique=True))
    taken, step = again(lock7_plan, "front", chosen, ran, deeper)
    assert not taken.stops and step.kind == "run" and step.program == taken.program.name
    went = taken.wood.z.astype(float) - taken.after.z
    assert went.max() == pytest.approx(deeper, abs=1e-3) and went.min() >= 0.0
    if deeper:  # nothing goes but in those letters, as wide as they come out now
        j, i = np.nonzero(went > 1e-3)
        x, y = taken.wood.x0 + i * taken.wood.cell, taken.wood.y0 + j * taken.wood.cell
        made = next(m for m in lock7_plan.made.values() if hasattr(m, "letters"))
        outlines = [setup.pose.area(made.letters[c.letter].outline()).buffer(deeper + 1.0) for c in chosen]
        inside = np.zeros(len(x), bool)
        for outline in outlines:
            inside |= shapely.contains_xy(outline, x, y)
        assert inside.all()
    # what it does is what the letter's own passes do, lowered
    lowest = min(p.moves.points[:, 2].min() for p in setup.programs if p.name == chosen[0].program)
    assert taken.program.moves.points[:, 2].min() >= lowest - deeper - 1e-3


def test_all_of_a_cut_again_is_that_cut_lowered(lock7_plan):
    setup = lock7_plan.setup("surface")
    ran = ran_all(lock7_plan, "surface")
    (whole,) = items(lock7_plan, setup, ran)
    taken, _ = again(lock7_plan, "surface", [whole], ran, 0.4)
    lowered = cut(
        taken.wood, setup.on_board(setup.programs[0].moves).moved(0.0, 0.0, -0.4), cutter_of(taken.program.tool)
    )
    inner = np.abs(taken.after.z - lowered.after.z)
    assert np.quantile(inner, 0.999) < 1e-3


def test_what_can_t_be_cut_again_says_why(lock7_plan):
    setup = lock7_plan.setup("front")
    ran = ran_all(lock7_plan, "front")
    things = items(lock7_plan, setup, ran)
    assert len({t.name for t in things}) == len(things) > 20  # each by a name of its own
    cut_out = next(t for t in things if t.operation == "cut-out")
    letter = next(t for t in things if t.letter >= 0)
    with pytest.raises(OperatorError, match="one program"):
        again(lock7_plan, "front", [cut_out, letter], ran)
    with pytest.raises(OperatorError, match="at once"):
        again(lock7_plan, "front", [letter], ran, MOST + 0.1)
    with pytest.raises(OperatorError, match="was not run to its end"):
        again(lock7_plan, "front", [letter], [])
    deep, _ = again(lock7_plan, "front", [cut_out], ran, 0.5)
    assert "into the bed" in deep.stops[0]
    assert not items(lock7_plan, setup, [])
    fine, _ = again(lock7_plan, "front", [letter], ran, 0.5)
    assert "1 mm wider" in spell(fine.words) and "may be loose" in fine.words  # a 90 degree V
    before = ran[:1]
    early, _ = again(lock7_plan, "front", [letter], before, 0.5)
    assert "may be loose" not in early.words


def test_what_is_looked_at_first_goes_by_what_stopped_it_since_it_was_started():
    journal = Journal().add("t", "run started", "front", program="a").add("t", "stalled", "front", why="x")
    assert why_it_ended(journal, "a") == "stalled" and why_it_ended(journal.add("t", "red button"), "a") == "red button"
    again_ = journal.add("t", "run started", "front", program="a")
    assert why_it_ended(again_, "a") == "" and look_first("", ())[0] == OTHERWISE
    for kind in ("link lost", "stalled", "power cut", "red button"):
        assert "witness mark" in FIRST[kind]
    told = look_first("stopped", ["it burns", "it lifted"])
    assert len(told) == 3 and "extractor" in told[1] and "corner" in told[2]


def test_what_was_cut_again_or_made_elsewhere_bars_nothing_that_is_still_to_be_cut(lock7, lock7_plan):
    ran = ran_all(lock7_plan, "front")
    letter = next(i for i in items(lock7_plan, lock7_plan.setup("front"), ran) if i.letter >= 0)
    taken, _ = again(lock7_plan, "front", [letter], ran, 0.2)
    tray, _ = imported(lock7_plan, "front", 2, "tray.nc", POCKET.format(x=-100, y=0))
    assert cut_where(taken.setup, taken.program)["beside"] == "again"
    for made, told in ((taken, 0), (tray, 1)):
        where = cut_where(made.setup, made.program)
        journal = Journal().add(
            "2026-11-30T10:00:00+00:00",
            "run started",
            "front",
            program=made.program.name,
            fingerprint=made.program.fingerprint,
            **where,
        )
        said = [f for f in plan(lock7, journal).findings if f.code == "carve.old-cut"]
        assert len(said) >= told and all(f.level is Level.CARE for f in said) and (told or not said)
        assert all("made elsewhere" in f.message for f in said)


def test_a_way_of_kilometres_can_be_written_down():
    journal = Journal().add("t", "run started", "front", program="relief.nc", long=4.2e6)
    assert journal.entries[-1].data["long"] == 4.2e6
    with pytest.raises(OperatorError, match="long"):
        Journal().add("t", "run started", "front", program="relief.nc", long=4.2e9)
