# SPDX-License-Identifier: GPL-3.0-or-later
"""Several boards alike, bits that are not there, and a bit that sticks out otherwise than entered by the sensor."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.job import commands
from gatepost.core.job.journal import Journal
from gatepost.core.job.tool_table import all_shipped
from gatepost.core.plan.pipeline import plan
from gatepost.core.tools.batch import batch_ways
from gatepost.core.tools.missing import is_one, missing
from gatepost.core.units import spell
from gatepost.core.zero.recover import LENGTH_OFF, sensed_off


def acted_out(setups, cutting, change, laying, boards, by_bit):
    """Minutes by going through it act by act."""
    minutes, fitted, laid = boards * cutting, None, 0
    if not by_bit:
        for _ in range(boards):
            for tools in setups:
                laid += bool(tools)
                for tool in tools:
                    minutes += change if fitted not in (None, tool) else 0.0
                    fitted = tool
    else:
        for tools in setups:
            for i, tool in enumerate(tools):
                if i and tools[i - 1] == tool:
                    continue
                minutes += change if fitted not in (None, tool) else 0.0
                fitted, laid = tool, laid + boards
    return minutes + laid * laying


@given(
    st.lists(st.lists(st.sampled_from([1, 2, 4]), max_size=5), min_size=1, max_size=3), st.floats(0.0, 90.0), st.floats(0.0, 9.0),
    st.floats(0.0, 15.0), st.integers(1, 30),
)  # fmt: skip
def test_both_ways_cost_what_going_through_them_costs(setups, cutting, change, laying, boards):
    ways = batch_ways(setups, cutting, change, laying, boards)
    for by_bit, told in ((False, ways.by_board), (True, ways.by_bit)):
        assert told.result == pytest.approx(acted_out(setups, cutting, change, laying, boards, by_bit))
    if boards == 1:
        assert ways.changes[0] == ways.changes[1]


def test_both_ways_are_told_for_boards_alike_and_change_no_program(lock7, lock7_plan):
    many = plan(commands.run(lock7, "set job", {"boards": 16}))
    told = {f.label: f.value for f in many.report("tools").figures}
    assert (
        told["16 boards, board by board"] > told["16 boards, bit by bit"] > 16 * 20.0
    )  # its last bit is not its first
    assert not any("boards," in f.label for f in lock7_plan.report("tools").figures)
    assert many.fingerprint == lock7_plan.fingerprint


def test_what_the_drawer_lacks_is_told_with_what_could_be_taken(lock7):
    shipped = all_shipped()
    wanted = lock7.tool(4)  # a V of 90 degrees
    others = [t for t in shipped if not is_one(wanted, t)]
    (one,) = missing([wanted], others, {4: 3.0})
    assert (
        one.tool == wanted
        and one.ways
        and all(w.tool.number == 4 and w.tool.kind in ("vee", "rounded_vee") for w in one.ways)
    )
    assert "mm deep is" in spell(one.ways[0].does)
    same = wanted.model_copy(update={"number": 77, "name": "the one by the door", "feed": 900.0})
    assert missing([wanted], [*others, same], {}) == []  # known by kind and size, whatever it is called
    surfacing = lock7.tool(1)
    (none,) = missing([surfacing], [t for t in others if t.kind != "surfacing"], {})
    assert none.ways == ()
    clash = [t.model_copy(update={"number": 4}) for t in others]  # numbers of the drawer are its own
    assert missing([wanted], clash, {4: 3.0})[0].ways


@given(
    st.floats(20.0, 60.0), st.floats(20.0, 60.0), st.floats(-8.0, 8.0), st.floats(-120.0, -20.0), st.floats(-5.0, 5.0)
)
def test_a_bit_that_sticks_out_otherwise_than_entered_is_told_whatever_the_board_s_height(
    first, later, off, zero, higher
):
    journal = Journal().add("t", "sensed", "front", tool=4, machine=-60.0, zero=zero + higher)
    said = sensed_off(journal, {4: first, 2: later}, 2, zero + higher + later - first + off)
    if abs(abs(off) - LENGTH_OFF) > 1e-6:
        assert bool(said) == (abs(off) > LENGTH_OFF)
    if said:
        assert ("more than entered" in said) == (off > 0)
    assert sensed_off(Journal(), {4: first}, 4, zero) == ""
