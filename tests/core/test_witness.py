# SPDX-License-Identifier: GPL-3.0-or-later
"""Marks, the fixed sensor and what happened: how far each zero is known after."""

import pytest

from gatepost.core.acts import by_hand
from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.zero.recover import accepted, card, happened, looked, sensed
from gatepost.core.zero.trust import Trust, Where, trust

FRONT = Where("front", False, frozenset({"front"}))


def zeroed(*more):
    """A setup touched off with tool 3, and what happened then."""
    journal = Journal().add("t1", "fitted", "front", tool=3).add("t1", "homed", "front")
    for axis, at in (("x", -400.0), ("y", -300.0), ("z", -50.0)):
        journal = journal.add("t2", "touched", "front", axis=axis, machine=at, tool=3, spread=0.0)
    for kind, data in more:
        journal = journal.add("t3", kind, "front", **data)
    return journal


def axes_of(journal):
    return trust(journal.standing(), FRONT)


CRASHED = (("stalled", {}), ("homed", {}))


def test_a_witness_mark_that_agrees_brings_trust_back_and_moves_nothing():
    journal = looked(zeroed(*CRASHED), FRONT, (0.3, -0.3), "t4")
    axes = axes_of(journal)
    assert (axes.x.machine, axes.y.machine, axes.z.machine) == (-400.0, -300.0, -50.0)
    assert (
        axes.x.trust is axes.y.trust is Trust.TRUSTED and axes.z.trust is Trust.PROVISIONAL
    )  # a look proves nothing of Z


@pytest.mark.parametrize("off", [(0.31, 0.0), (0.0, -0.31), (2.0, -1.5), (-30.0, 30.0)])
def test_a_miss_at_the_witness_mark_moves_x0_and_y0_by_as_much_and_z_is_no_surer(off):
    axes = axes_of(looked(zeroed(*CRASHED), FRONT, off, "t4"))
    assert (axes.x.machine, axes.y.machine) == pytest.approx((-400.0 + off[0], -300.0 + off[1]))
    assert axes.z.machine == -50.0 and axes.z.trust is Trust.PROVISIONAL and axes.tool == 3


@pytest.mark.parametrize(
    ("more", "off", "words"),
    [
        ((("stalled", {}),), (0.0, 0.0), "X and Y .*home first"),
        ((("bumped", {}), ("homed", {})), (0.0, 0.0), "X and Y .*touch off again"),
        (CRASHED, (30.1, 0.0), "too far for a miss"),
        (CRASHED, (0.0, -30.1), "too far for a miss"),
    ],
)
def test_what_can_not_be_known_from_a_witness_mark_is_refused(more, off, words):
    with pytest.raises(OperatorError, match=words):
        looked(zeroed(*more), FRONT, off, "t4")


def test_a_later_tool_gets_its_zero_from_the_sensor_and_only_where_the_first_one_was_noted():
    with pytest.raises(OperatorError, match="How the first tool stood"):
        sensed(zeroed(("fitted", {"tool": 4.0})), FRONT, 4, (-12.5, -12.5), "t4")
    journal, none = sensed(zeroed(), FRONT, 3, (-20.0, -20.0), "t4")
    assert none is None and axes_of(journal).z.machine == -50.0
    journal = journal.add("t5", "fitted", "front", tool=4)
    assert axes_of(journal).z.trust is Trust.LOST
    journal, z = sensed(journal, FRONT, 4, (-12.5, -12.5), "t6")
    assert z == pytest.approx(-42.5) and axes_of(journal).z.machine == pytest.approx(-42.5)
    assert axes_of(journal).z.trust is Trust.TRUSTED and axes_of(journal).tool == 4
    other = journal.add("t7", "fitted", "front", tool=3)
    assert sensed(other, FRONT, 3, (-20.0, -20.0), "t8")[1] == pytest.approx(-50.0)  # and back again


def test_a_yes_needs_a_reason_and_something_to_say_it_to():
    warm = zeroed(("warmed", {}))
    assert axes_of(warm).z.trust is Trust.PROVISIONAL
    assert axes_of(accepted(warm, FRONT, " looked at it ", "t5")).z.accepted == "looked at it"
    for journal, why, words in (
        (warm, "  ", "Say why"), (zeroed(), "as it is", "nothing to say yes to"), (zeroed(("bumped", {})), "as it is", "lost axis"),
    ):  # fmt: skip
        with pytest.raises(OperatorError, match=words):
            accepted(journal, FRONT, why, "t5")


@pytest.mark.parametrize("kind", [a.kind for a in by_hand()])
def test_what_happened_is_written_once_and_counts_in_every_setup(kind):
    before = zeroed()
    journal = happened(before, kind, "front", 3, "t9")
    (new,) = journal.entries[len(before.entries) :]
    assert new.setup == "front" and new.kind == {"rocks": "rocked"}.get(kind, kind)
    assert new.data == {"fitted": {"tool": 3.0}, "rocks": {"answer": "rocks"}}.get(kind, {})
    rows = card(axes_of(journal)).rows
    assert [r[0] for r in rows] == ["X", "Y", "Z"] and [r[1] for r in rows] == [-400.0, -300.0, -50.0]
    back = Where("back", False, frozenset({"back"}))
    there = before.add("t2", "touched", "back", axis="z", machine=-40.0, spread=0.0)
    told = trust(happened(there, kind, "front", 3, "t9").standing(), back).z.trust
    assert (told is Trust.TRUSTED) is (kind == "bed skimmed")
    with pytest.raises(OperatorError, match="no “flooded”"):
        happened(before, "flooded", "front", 3, "t9")
