# SPDX-License-Identifier: GPL-3.0-or-later
"""What is known of the axes: the table of the shop's practice, random histories against a plain reckoning, and ways in which trust could be
laundered. ``make soak`` goes through twenty thousand histories."""

import sys
from pathlib import Path

import pytest

from gatepost.core.acts import ACTS, TABLE
from gatepost.core.job.journal import Journal
from gatepost.core.zero.recover import looked, sensed
from gatepost.core.zero.trust import Trust, Where, stood, trust

sys.path.insert(0, str(Path(__file__).parents[2] / "benchmarks"))
import histories

T, P, L = Trust.TRUSTED, Trust.PROVISIONAL, Trust.LOST
TOP, BED = Where("front", False, frozenset({"surface", "front"})), Where("front", True, frozenset({"surface", "front"}))
BACK = Where("back", False, frozenset({"back"}))


def touched(axes="xyz", journal=None, setup="front", **more):
    journal = journal or Journal().add("t", "homed", setup).add("t", "warmed", setup).add("t", "fitted", setup, tool=1)
    for axis in axes:
        journal = journal.add("t", "touched", setup, axis=axis, machine=-50.0, tool=1, **{"spread": 0.01, **more})
    return journal


def after(journal, *kinds):
    for kind in kinds:
        kind, data = (kind[0], dict(kind[1])) if isinstance(kind, tuple) else (kind, {})
        journal = journal.add("t", kind, data.pop("setup", "front"), **data)
    return journal


LOOK = ("witness", {"x": 0.1, "y": 0.0})
MOVED_BY = {
    base: (
        ("moved", {"degrees": 0.1, "x": 0.2, "y": 0.0}),
        *(("touched", {"axis": a, "machine": -49.8, "way": "proof", "base": base}) for a in "xy"),
    )
    for base in ("trusted", "provisional")
}  # what was seen taken, by so many marks
# what happened; X and Y, Z touched on the top, Z touched on the bed
SHOP = [
    ((), T, T, T),
    (("surfaced",), T, P, T),
    ((("surfaced", {"setup": "surface"}),), T, P, T),  # the same face, in another setup
    ((("surfaced", {"setup": "back"}),), T, T, T),
    ((("fitted", {"tool": 1}),), T, L, L),
    (("bumped",), L, L, T),
    (("clamped",), L, L, T),
    (("shimmed",), L, L, T),
    (("turned",), L, L, T),
    (("squared",), L, L, T),
    (("laid",), L, L, T),
    (("fresh board",), L, L, T),
    (("taken up",), T, L, T),
    ((("taken up", {"setup": "back"}),), T, L, T),
    ((("laid", {"setup": "back"}),), L, L, T),
    ((("laid", {"setup": "back", "still": 1.0}),), T, T, T),
    ((("rocked", {"answer": "rocks"}),), L, L, T),
    ((("rocked", {"answer": "still"}),), T, T, T),
    ((("marked", {"mark": "m", "x": -50.0, "y": -60.0}),), P, T, T),
    ((("marked", {"setup": "back", "mark": "m", "x": -50.0, "y": -60.0}),), T, T, T),
    ((("proved", {"mark": "m", "x": 0.4, "y": 0.3, "within": 0.5}),), T, T, T),
    ((("proved", {"mark": "m", "x": 0.4, "y": 0.31, "within": 0.5}),), P, T, T),
    ((("proved", {"setup": "back", "mark": "m", "x": 4.0, "y": 0.0, "within": 0.5}),), T, T, T),
    ((("ringed", {"mark": "m", "x": 0.2, "y": 0.0, "within": 0.1}),), P, T, T),
    ((("ringed", {"mark": "m", "x": 0.2, "y": 0.0, "within": 0.1}), *MOVED_BY["trusted"]), T, T, T),
    ((("ringed", {"mark": "m", "x": 0.2, "y": 0.0, "within": 0.1}), *MOVED_BY["provisional"]), P, T, T),
    (("bumped", *MOVED_BY["trusted"]), L, L, T),  # nothing follows from what is lost
    ((*MOVED_BY["trusted"], "stalled", "homed"), P, P, P),
    (("bed skimmed",), T, T, L),
    *(((kind,), L, L, L) for kind in ("stalled", "power cut", "red button", "link lost", "switched on", "drives off")),
    *(((kind, "homed"), P, P, P) for kind in ("stalled", "power cut", "red button", "link lost", "switched on")),
    *(((kind, "homed", LOOK), T, P, P) for kind in ("stalled", "power cut", "red button", "link lost", "switched on")),
    (("drives off", "homed", LOOK), T, L, L),
    (("stalled", LOOK), L, L, L),
    (("stalled", "homed", ("witness", {"x": 0.4, "y": 0.0})), P, P, P),
    (("stalled", "homed", ("witness", {})), P, P, P),  # not measured is not nought
    (("stalled", "homed", ("witness", {"x": 0.45, "y": 0.0, "within": 0.5})), T, P, P),  # what two such eyes miss by
    (
        ("stalled", "homed", ("witness", {"x": 2.0, "y": 0.0, "within": 5.0})),
        P,
        P,
        P,
    ),  # an eye like that proves nothing
    (("bumped", "homed", LOOK), L, L, T),
    (("stopped",), T, T, T),
    (("stalled", "homed", "stalled", "homed", LOOK), P, P, P),  # provisional before, and never more than that
]


@pytest.mark.parametrize(("kinds", "across", "top", "bed"), SHOP)
def test_trust_follows_the_practice_of_the_shop(kinds, across, top, bed):
    for place, upright in ((TOP, top), (BED, bed)):
        axes = trust(after(touched(), *kinds).standing(), place)
        assert (axes.x.trust, axes.y.trust, axes.z.trust) == (across, across, upright)


def test_no_act_is_left_out_of_the_practice():
    said = {k if isinstance(k, str) else k[0] for kinds, *_ in SHOP for k in kinds}
    assert {a.kind for a in ACTS if a.changes} - {"warmed", "rocks"} <= said


def test_touched_once_or_apart_or_cold_is_provisional():
    assert trust(touched("z").standing(), TOP).z.trust is T
    once = Journal().add("t", "touched", "front", axis="x", machine=-50.0, way="pin")
    assert trust(once.standing(), TOP).x.trust is P
    assert (
        trust(Journal().add("t", "touched", "front", axis="x", machine=-50.0, way="pointer").standing(), TOP).x.trust
        is T
    )
    assert trust(touched("x", spread=0.06).standing(), TOP).x.trust is P
    log = Journal().add("t", "touched", "front", axis="x", machine=-50.0, way="log", spread=0.0)
    assert trust(log.standing(), TOP).x.trust is P
    cold = touched("z", Journal())
    assert trust(after(cold, "warmed").standing(), TOP).z.trust is P
    assert trust(after(touched("z"), "warmed").standing(), TOP).z.trust is T


def test_cold_and_warm_again_counts_on_every_day():
    """Warm yesterday is not warm today."""
    journal = Journal()
    for day in ("2026-11-02", "2026-11-03"):
        journal = journal.add(f"{day}T09:00:00+00:00", "touched", "front", axis="z", machine=-50.0, spread=0.0)
        journal = journal.add(f"{day}T09:10:00+00:00", "warmed", "front")
        assert trust(journal.standing(), TOP).z.trust is P
    journal = journal.add("2026-11-03T09:20:00+00:00", "touched", "front", axis="z", machine=-50.0, spread=0.0)
    assert trust(journal.add("2026-11-03T09:40:00+00:00", "warmed", "front").standing(), TOP).z.trust is T


def test_what_was_touched_before_homing_can_not_be_found_again_by_homing():
    untied = touched("xyz", Journal())
    axes = trust(after(untied, "power cut", "homed", LOOK).standing(), TOP)
    assert axes.x.trust is axes.z.trust is L


def test_a_provisional_z_is_not_washed_clean_by_a_power_cut_and_a_look():
    axes = trust(after(touched(), "surfaced", "power cut", "homed", LOOK).standing(), TOP)
    assert axes.z.trust is P and axes.x.trust is T
    warm = after(touched("z", Journal().add("t", "homed", "front")), "power cut", "warmed", "homed", LOOK)
    assert trust(warm.standing(), TOP).z.trust is P


def test_a_bumped_board_is_not_found_again_by_a_new_tool_on_the_sensor():
    journal, none = sensed(touched(), TOP, 1, (-20.0, -20.0), "t")
    assert none is None
    for kinds, known in (((), T), (("surfaced",), P), (("power cut", "homed"), P)):
        grown = after(journal, *kinds, ("fitted", {"tool": 2}))
        grown, zero = sensed(grown, TOP, 2, (-12.0, -12.0), "t")
        assert zero == -42.0 and trust(grown.standing(), TOP).z.trust is known
    once, _ = sensed(after(journal, ("fitted", {"tool": 2})), TOP, 2, (-12.0,), "t")
    assert trust(once.standing(), TOP).z.trust is P
    for kind in ("bumped", "laid", "turned"):
        with pytest.raises(Exception, match="the work has been moved since"):
            sensed(after(journal, kind, ("fitted", {"tool": 2})), TOP, 2, (-12.0, -12.0), "t")


def test_a_miss_at_one_mark_moves_the_zero_and_makes_nothing_surer():
    journal = looked(after(touched(), "stalled", "homed"), TOP, (1.2, 0.0), "t")
    axes = trust(journal.standing(), TOP)
    assert axes.x.machine == pytest.approx(-48.8) and axes.x.trust is P and "turn" in axes.x.why
    again = trust(after(journal, LOOK).standing(), TOP)
    assert again.x.trust is P


def test_a_yes_lapses_with_whatever_happens_next():
    yes = after(touched(), "surfaced").add("t", "answered", "front", why="skimmed by a hair")
    assert trust(yes.standing(), TOP).z.accepted
    for kinds in (("surfaced",), ("stalled", "homed"), ("bumped",)):
        assert not trust(after(yes, *kinds).standing(), TOP).z.accepted


def test_one_setup_knows_nothing_of_anothers_touches_and_loses_with_it():
    assert trust(touched().standing(), BACK).x.trust is L
    both = touched("xyz", touched(), "back")
    assert trust(both.standing(), BACK).x.trust is T
    assert trust(after(both, "bumped").standing(), BACK).x.trust is L
    assert trust(after(both, "laid").standing(), BACK).laid == "front"


def test_trust_is_never_above_a_plain_reckoning_over_random_histories():
    alike = of = 0
    for seed in range(500):
        said, same, count = histories.above(seed)
        assert not said, said
        alike, of = alike + same, of + count
    assert alike / of > 0.97  # nor is it far below
    assert {k for k in TABLE if TABLE[k].changes} - {"rocks"} <= {
        "rocked",
        "marked",
        "proved",
        "ringed",
        "surfaced",
        "fitted",
        "warmed",
        "bed skimmed",
        "taken up",
        "drives off",
        *histories.MOVED,
        *histories.CRASHED,
    }


@pytest.mark.parametrize(
    ("way", "base", "known"),
    [
        ("kept", "trusted", T),
        ("kept", "provisional", P),
        ("marks", "trusted", T),
        ("marks", "provisional", P),
        ("marks", "", P),
        ("edge", "trusted", T),
    ],
)
def test_a_zero_that_is_found_and_not_touched_is_as_sure_as_what_it_is_found_by(way, base, known):
    axes = trust(touched("xy", way=way, base=base).standing(), TOP)
    assert axes.x.trust is axes.y.trust is known and axes.x.why


def test_where_a_zero_stood_on_the_machine_is_known_whatever_became_of_the_work():
    moved = after(touched(), "bumped", ("laid", {"setup": "back"}), ("turned", {"setup": "back"}))
    assert trust(moved.standing(), TOP).x.trust is L and stood(moved.standing(), TOP).x.trust is T
    assert stood(after(moved, "power cut").standing(), TOP).x.trust is L
    assert stood(after(moved, "power cut", "homed").standing(), TOP).x.trust is P
