# SPDX-License-Identifier: GPL-3.0-or-later
"""No step at the machine without a reason, and no reason without a step."""

import ast
from pathlib import Path

import gatepost.core
from gatepost.core.plan.pipeline import plan
from gatepost.core.run.reasons import REASONS, reason


def test_every_step_that_the_core_can_ask_for_has_a_reason_and_every_reason_a_step():
    words = set()
    for path in Path(gatepost.core.__file__).parent.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if not (isinstance(node, ast.Call) and getattr(node.func, "id", "") == "Step"):
                continue
            key = node.args[0]
            if isinstance(key, ast.JoinedStr):
                key = key.values[0]
            if isinstance(key, ast.Constant):
                words.add(key.value.partition("-")[0])
    keyed = {"home", "mark", "take"}  # made by functions that are given the whole key
    assert words | keyed == set(REASONS)


def test_steps_that_stand_beside_each_other_for_the_same_reason_have_a_figure_of_their_own(lock7):
    for setup in plan(lock7).setups:
        for one, other in zip(setup.steps, setup.steps[1:], strict=False):
            if reason(one) == reason(other):
                assert (
                    one.figure is not None
                    and other.figure is not None
                    and (one.label, one.key) != (other.label, other.key)
                )
