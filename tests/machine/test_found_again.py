# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece that was turned over, moved or brought back is found again on the simulated machine, and what is cut then lies where it was said to."""

import sys
from pathlib import Path

import pytest

sys.path.insert(0, str(Path(__file__).parents[2] / "benchmarks"))
import registering
import shop
from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.zero.trust import Trust, trust, where
from gatepost.machine.conduct import StepRunner
from tests.conftest import some


@pytest.mark.parametrize("seed", some(range(1, 21), 5))
def test_on_pins_the_second_face_lies_within_what_was_said(seed):
    shown, said = registering.of_pins(seed)
    assert shown <= said


def test_what_is_said_of_pins_is_no_more_than_twice_what_they_show():
    found = [registering.of_pins(seed) for seed in some(range(50), 10)]
    assert max(shown for shown, _ in found) >= found[0][1] / 2.0


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
