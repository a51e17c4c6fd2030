# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece that was turned over, moved or brought back is found again on the simulated machine, and what is cut then lies where it was said to."""

import math
import sys
from pathlib import Path

import numpy as np
import pytest

sys.path.insert(0, str(Path(__file__).parents[2] / "benchmarks"))
import registering
import shop
from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.plan.pipeline import plan
from gatepost.core.plan.resumed import resumed
from gatepost.core.run.standing import next_step
from gatepost.core.zero.trust import Trust, trust, where
from gatepost.drawing.live import live_path, machine_bed
from gatepost.machine import by_hand
from gatepost.machine.conduct import StepRunner, each_step
from gatepost.machine.failures import Questioned
from gatepost.machine.standins import world
from tests.conftest import some
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.pinned import brought_back, fenced, seen

AT = "2026-11-02T10:00:00"
WAYS = {
    "pins": (registering.of_pins, 5, 0),
    "third pin": (registering.of_three_pins, 4, 4),
    "marks": (registering.of_marks, 5, 5),
    "marks touched by a pin": (registering.of_touched_marks, 3, 27),
    "frame": (registering.of_a_frame, 4, 0),
    "edge": (registering.of_an_edge, 4, 15),
    "looks": (registering.of_looks, 5, 1),
    "rings": (registering.of_rings, 4, 10),
}  # each with how many shops are tried at once, and one that shows over half of what was said
SHOPS = [(way, seed) for way, (_, few, _shows) in WAYS.items() for seed in some(range(1, 21), few)]


@pytest.mark.parametrize("way, seed", SHOPS)
def test_what_is_cut_on_a_piece_that_is_found_again_lies_within_what_was_said(way, seed):
    shown, said = WAYS[way][0](seed)
    assert shown <= said


@pytest.mark.parametrize("way", WAYS)
def test_what_is_said_is_no_more_than_twice_what_some_shop_shows(way):
    of, _few, shows = WAYS[way]
    found = [of(seed) for seed in (range(50) if len(some(range(50), 1)) > 1 else (shows,))]  # all of them in the soak
    assert max(shown for shown, _ in found) >= min(said for _, said in found) / 2.0


@pytest.mark.parametrize("seed", some(range(1, 41), 3))
def test_a_pin_in_old_holes_is_promised_better_than_an_eye_and_better_once_more_over_the_link(seed):
    _shown, said = registering.of_touched_marks(seed)
    assert 2.0 * said < registering.promised(registering.by_touched_marks()) < 0.5 * registering.of_marks(seed)[1]


def test_a_hole_s_walls_are_typed_and_another_hole_is_asked_about():
    made = registering.by_touched_marks()
    setup = made.setup("front")
    step = next(s for s in setup.steps if s.kind == "mark")
    x, y = (p - t for p, t in zip(setup.found.marks[0].drawn, (made.job.machine.travel_x, made.job.machine.travel_y)))

    def typed(*walls):
        return by_hand.tick(made, setup, step, Journal(), walls, AT, None, "").entries[0].data

    data = typed(x - 0.4, x + 1.6, y - 1.3, y + 0.7)  # a pin of 6 in a hole of 8
    assert (data["x"], data["y"], data["pin"]) == pytest.approx((x + 0.6, y - 0.3, 6.0))
    with pytest.raises(OperatorError, match="is it this hole"):
        typed(x - 0.4, x + 3.6, y - 1.3, y + 2.7)
    with pytest.raises(OperatorError, match="no place of this machine"):
        typed(x - 0.4, x + 1.6, y - 1.3, 40.0)
    with pytest.raises(OperatorError, match="Type the read-outs"):
        typed(x, y)


def carried(made, seed, until):
    """All steps up to one of the last setup; the runner."""
    bench = shop.Bench(made, seed)
    runner = StepRunner(bench, made, Journal(), made.laid_first)
    for setup in made.setups:
        for step in setup.steps:
            if setup is made.setups[-1] and step.key == until:
                return runner, setup, step
            runner.carry_out(setup, step)
    raise AssertionError(until)


def test_zeros_that_follow_from_the_side_before_are_as_good_as_those_and_lost_with_them():
    made = registering.on_pins()
    runner, setup, step = carried(made, 3, "zero-xy")
    before = trust(runner.journal.standing(), where(made.job, setup.setup))
    assert before.x.trust is Trust.LOST  # turned over: nothing is known by itself
    runner.carry_out(setup, step)
    axes = trust(runner.journal.standing(), where(made.job, setup.setup))
    assert axes.x.trust is Trust.TRUSTED and "setup before" in axes.x.why

    runner, setup, step = carried(made, 3, "zero-xy")
    runner.write(setup, "power cut")
    with pytest.raises(OperatorError, match="not known"):
        runner.carry_out(setup, step)
    runner.session.home()
    runner.write(setup, "homed")
    runner.carry_out(setup, step)
    axes = trust(runner.journal.standing(), where(made.job, setup.setup))
    assert axes.x.trust is Trust.PROVISIONAL  # the machine's count is as good as its homing, and no mark was looked at


def test_the_bare_bed_is_bored_with_the_board_off_and_nothing_else_is_run_then():
    """By the X0 Y0 of the side before, its Z0 on the bed, deep enough for the pin; the board on the bed, or off it, bars the other."""
    made = registering.on_three_pins()
    front = made.setup("front")
    (program,) = front.bare
    bored = front.on_bed(program).points
    assert bored[:, 2].min() == pytest.approx(-8.0, abs=1e-3)
    third = next(np.array(p) for p in made.setup("over").pins if math.hypot(p[0] - 550, p[1] - 322) < 1e-6)
    assert 0.5 * (bored[:, :2].min(axis=0) + bored[:, :2].max(axis=0)) == pytest.approx(third, abs=2e-3)
    drawn = {
        step.key: machine_bed(made, front, step, 0, lambda *_: None, live_path(made, front, program))
        for step in front.steps
    }
    assert all(any(s.role == "wood-edge" for s in drawn[step.key].shapes) is not step.bare for step in front.steps)
    bench = shop.Bench(made, 5)
    runner = StepRunner(bench, made, Journal(), made.laid_first)
    boring = next(s for s in front.steps if s.program == program.name)
    for step in front.steps:
        if step.key == "up-bare":
            with pytest.raises(OperatorError, match="first"):
                runner.carry_out(front, boring)
        if step is boring:
            assert bench.router.wood is None and known(runner, front).x.trust is Trust.TRUSTED
            cut = next(s for s in front.steps if s.kind == "run" and not s.bare)
            with pytest.raises(OperatorError, match="not laid|tool|not answered|first"):
                runner.carry_out(front, cut)
        runner.carry_out(front, step)
    assert len(bench.router.holes.bare) == 1 and not next_step(runner.journal, front.steps)
    over = made.setup("over")
    for step in over.steps:
        runner.carry_out(over, step)
    assert bench.router.wood is not None and bench.router.aside is None
    again = plan(made.job, runner.journal, cell=0.5)
    assert not [
        f for f in again.findings if f.code == "carve.old-cut"
    ]  # what was bored into the bed is no cut in the board
    assert not any(next_step(runner.journal, s.steps) for s in again.setups)
    with pytest.raises(OperatorError, match="bored anew"):
        resumed(again, program.name, 5)


def test_z_on_the_bare_bed_is_typed_and_asked_about_where_it_is_the_board_s():
    made = registering.on_three_pins()
    front = made.setup("front")
    touch = next(s for s in front.steps if s.key == "touch-time2-2")
    tool, gauge = made.job.tool(2), front.setup.zero.gauge_thickness
    contact = (
        gauge + tool.length - made.job.machine.nose_at_home
    )  # the tip on the plate on the bed, as the machine counts

    def typed(z):
        fitted = Journal().add(AT, "fitted", "front", tool=2)
        return by_hand.tick(made, front, touch, fitted, (z, z), AT, None, "")

    entry = next(e for e in typed(contact).entries if e.kind == "touched")
    assert entry.data["machine"] == pytest.approx(tool.length - made.job.machine.nose_at_home)
    with pytest.raises(Questioned):  # that is the top of the board
        typed(contact + 16.0)


def at_the_marks(job, seed=4, replan=True):
    """A machine, and its steps up to where X0 Y0 is set by the marks."""
    made = plan(job, cell=0.5)
    bench = shop.Bench(made, seed)
    anew = (lambda journal: plan(job, journal, cell=0.5)) if replan else None
    runner = StepRunner(bench, made, Journal(), made.laid_first, anew)
    for setup, step in each_step(runner):
        if step.kind == "zero found":
            return runner, setup, step
        runner.carry_out(setup, step)
    raise AssertionError("nothing is found by marks")


def known(runner, setup):
    return trust(runner.journal.standing(), where(runner.plan.job, setup.setup))


def test_a_piece_that_is_brought_back_is_lost_until_its_marks_are_read_and_fit():
    runner, setup, step = at_the_marks(brought_back())
    assert known(runner, setup).x.trust is Trust.LOST
    runner.carry_out(setup, step)
    axes = known(runner, setup)
    assert axes.x.trust is axes.y.trust is Trust.TRUSTED and "marks" in axes.x.why
    first = next(s for s in setup.steps if s.kind == "mark")
    runner.carry_out(setup, first)  # read once more: where it lies is another now
    assert known(runner, setup).x.trust is Trust.PROVISIONAL
    assert next_step(runner.journal, runner.plan.setup("front").steps).kind == "zero found"


def test_two_marks_fit_and_are_never_sure():
    runner, setup, step = at_the_marks(brought_back(number=2))
    runner.carry_out(setup, step)
    assert known(runner, setup).x.trust is Trust.PROVISIONAL


def test_nothing_is_set_by_marks_that_do_not_fit_nor_by_a_plan_that_is_of_others():
    runner, setup, step = at_the_marks(brought_back(), replan=False)
    with pytest.raises(OperatorError, match="worked out anew"):
        runner.carry_out(setup, step)
    wrong = runner.journal.standing()[-2]
    assert wrong.kind == "marked"
    runner.write(setup, "marked", mark="mark-1", x=float(wrong.data["x"]) + 7.0, y=float(wrong.data["y"]))
    with pytest.raises(OperatorError, match="Nothing is set"):
        runner.carry_out(setup, step)
    assert known(runner, setup).x.trust is Trust.LOST


def test_a_mark_read_by_hand_is_asked_about_where_it_is_far_off_and_refused_where_no_machine_is():
    runner, setup, step = at_the_marks(brought_back())
    mark = next(s for s in setup.steps if s.kind == "mark")
    m = setup.found.marks[0]
    x, y = m.drawn[0] - 1200.0, m.drawn[1] - 700.0

    def typed(x, y, sure=False):
        return by_hand.tick(runner.plan, setup, mark, runner.journal, (x, y), "2026-11-02T10:00:00", None, "", sure)

    with pytest.raises(OperatorError, match="no place of this machine"):
        typed(-x, y)
    with pytest.raises(Questioned, match="press once more"):
        typed(x + 40.0, y)
    assert typed(x + 40.0, y, sure=True).entries[-2].data["x"] == x + 40.0
    assert typed(x + 0.5, y).entries[-2].kind == "marked"


def test_edges_touched_with_a_pin_find_a_board_that_is_as_large_as_it_was_measured(monkeypatch):
    monkeypatch.setitem(world.OFF, "outline", 0.0)
    job = edited(
        brought_back(edges=True),
        *[("remove mark", {"setup": "front", "mark": f"mark-{n}"}) for n in (1, 2, 3)],
    )
    made = plan(job, cell=0.5)
    said = registering.promised(made)
    assert said < 0.15
    for seed in (2, 3):
        shown = registering.absolute(made, registering.cut_through(made, seed), "marks")
        assert shown <= said


def test_a_known_edge_is_as_sure_as_the_machine_is_homed_and_the_edge_is_true():
    for more, known_as in (({}, Trust.TRUSTED), ({"milled": ""}, Trust.PROVISIONAL)):
        made = plan(edited(JOBS["taped"](), *fenced(**more)), cell=0.5)
        runner, setup, step = carried(made, 2, "zero-xy")
        runner.write(setup, "power cut")
        with pytest.raises(OperatorError, match="has not been homed"):
            runner.carry_out(setup, step)
        runner.session.home()
        runner.write(setup, "homed")
        runner.carry_out(setup, step)
        assert trust(runner.journal.standing(), where(made.job, setup.setup)).x.trust is known_as


def at_the_taking(job, seed=4):
    """A machine, and its steps up to where what was seen is taken."""
    made = plan(job, cell=0.5)
    bench = shop.Bench(made, seed)
    runner = StepRunner(bench, made, Journal(), made.laid_first, lambda journal: plan(job, journal, cell=0.5))
    for setup, step in each_step(runner):
        if step.kind == "take":
            return runner, setup, step
        runner.carry_out(setup, step)
    raise AssertionError("nothing is taken")


def askew(runner, setup, key="look-1", kind="proved", **data):
    """One mark more that was seen, as somebody typed it."""
    runner.write(setup, kind, mark=key, within=0.4, **data)


@pytest.mark.parametrize("number, told", [(1, Trust.PROVISIONAL), (2, Trust.PROVISIONAL), (3, Trust.TRUSTED)])
def test_what_so_many_marks_say_is_taken_and_x_and_y_are_as_sure_as_they_can_make_them(number, told):
    job = seen()
    for n in range(number + 1, 4):
        job = edited(job, ("remove look", {"setup": "front", "look": f"look-{n}"}))
    runner, setup, step = at_the_taking(job)
    zero = known(runner, setup).x.machine
    for n in range(1, number + 1):
        askew(runner, setup, f"look-{n}", x=0.9, y=-0.1)
    assert known(runner, setup).x.trust is Trust.PROVISIONAL
    runner.carry_out(setup, step)
    axes = known(runner, setup)
    assert axes.x.machine == pytest.approx(zero + 0.9, abs=2e-4) and axes.x.trust is axes.y.trust is told
    assert runner.plan.setup("front").proving.moved.x == pytest.approx(0.9, abs=0.01)
    runner.carry_out(setup, step := next(s for s in runner.plan.setup("front").steps if s.kind == "over"))
    assert runner.journal.entries[-2].kind == "proved" and abs(float(runner.journal.entries[-2].data["x"]) + 0.9) < 0.5


def test_what_does_not_fit_or_was_not_seen_or_is_of_another_plan_moves_nothing():
    runner, setup, step = at_the_taking(seen())
    zero, journal = known(runner, setup).x.machine, runner.journal
    askew(runner, setup, "look-3", x=3.0, y=2.0)
    with pytest.raises(OperatorError, match="Nothing is changed"):
        runner.carry_out(setup, step)
    runner.journal = journal
    runner.write(setup, "moved", degrees=0.0, x=0.5, y=0.0)
    with pytest.raises(OperatorError, match="worked out anew"):
        runner.carry_out(setup, step)
    run = next(s for s in setup.steps if s.kind == "run")
    with pytest.raises(OperatorError, match="Not"):
        runner.carry_out(setup, run)
    runner.journal = journal.add("2026-11-02T10:00:00", "touched", "front", axis="y", machine=-300.0, way="pointer")
    with pytest.raises(OperatorError, match="Look at .* first"):
        runner.carry_out(setup, step)
    assert known(runner, setup).x.machine == zero


def test_looks_and_rings_are_typed_by_hand_and_what_can_t_be_is_asked_again():
    for job, kind, wrong, right in (
        (seen(), "over", (41.0, 0.0), (0.6, -0.2)),
        (seen(ring=True), "ring", (4.6, 4.0, 3.8, 3.1), (3.9, 4.0, 4.1, 4.0)),
    ):
        made = plan(job, cell=0.5)
        setup = made.setup("front")
        step = next(s for s in setup.steps if s.kind == kind)

        begun = Journal().add("2026-11-02T09:59:00", "run started", "front", program=setup.programs[0].name)
        cut = begun.add("2026-11-02T09:59:30", "run ended", "front", program=setup.programs[0].name, outcome="done")

        def typed(*figures, step=step, made=made, setup=setup, cut=cut):
            isolated = cut.add("2026-11-02T10:00:00", "ticked", "front", step="isolate-rings")
            return by_hand.tick(made, setup, step, isolated, figures, "2026-11-02T10:00:00", None, "")

        with pytest.raises(OperatorError):
            typed(*wrong)
        with pytest.raises(OperatorError, match="Type the read-outs"):
            typed(*right[:1])
        entry = typed(*right).entries[3]
        want = right if kind == "over" else (0.1, 0.0)
        assert (entry.data["x"], entry.data["y"]) == pytest.approx(want)


def test_a_ring_says_nothing_of_a_zero_that_it_was_not_cut_by():
    runner, setup, step = at_the_taking(seen(ring=True, number=3))
    measure = next(s for s in setup.steps if s.kind == "ring")
    before = runner.journal
    for n in (1, 2, 3):
        askew(runner, setup, f"ring-{n}", "ringed", x=0.8, y=0.0)
    runner.carry_out(setup, step)  # taken: measured again it would say the same, and be taken once more
    for journal in (
        runner.journal,
        before.add("2026-11-02T10:00:00", "touched", "front", axis="x", machine=-600.0, way="pointer"),
        before.add("2026-11-02T10:00:00", "bumped", "front"),
    ):
        runner.journal = journal.add("2026-11-02T10:00:01", "ticked", "front", step="isolate-rings")
        with pytest.raises(OperatorError, match="since this ring was cut"):
            runner.carry_out(runner.plan.setup("front"), measure)
