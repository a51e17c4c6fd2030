# SPDX-License-Identifier: GPL-3.0-or-later
"""Machines that do what they must not: every run ends in a sentence, its row closed, and is done only when all of it was."""

import pytest

import hostile
from tests.conftest import some

pytestmark = pytest.mark.whole


@pytest.mark.parametrize("misdeed", some(hostile.MISDEEDS, 8))
def test_a_run_on_a_machine_that_misbehaves_ends_in_a_sentence(quay_plan, tmp_path, misdeed):
    with hostile.impatient():
        for seed in (1, 2):
            outcome = hostile.of_a_hostile_machine(quay_plan, tmp_path / str(seed), seed, misdeed)
            assert outcome == "done" or misdeed != "none"
