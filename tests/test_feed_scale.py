# SPDX-License-Identifier: GPL-3.0-or-later
"""A feed on its scale: everything that is told lies on it, and what rules stands where the feed does."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.tools.feeds import offer, window
from gatepost.drawing.feed_scale import WIDE, feed_scale
from tests.conftest import tries


@given(st.sampled_from([1, 2, 3, 4]), st.integers(0, 100), st.floats(50.0, 9000.0), st.floats(0.5, 12.0))
@settings(max_examples=tries(40))
def test_all_of_it_lies_on_the_scale_and_what_rules_where_the_feed_is(lock7, number, percent, now, depth):
    tool = lock7.tool(number)
    chips = window(tool, lock7.wood, lock7.machine.light, [])
    step = 0.5 * tool.diameter
    ends = [offer(tool, lock7.wood, lock7.machine, chips, share, step, depth) for share in (0.0, 1.0, percent / 100.0)]
    drawing = feed_scale(*ends, now, tool.rub * tool.teeth * tool.rpm)
    for shape in drawing.shapes:
        if shape.kind != "text":
            assert shape.points[:, 0].min() >= -0.01 and shape.points[:, 0].max() <= WIDE + 0.61
    tip = next(s for s in drawing.shapes if s.role == "tip").points[0, 0]
    named = next(s for s in drawing.shapes if s.kind == "text" and s.role == "text")
    assert named.points[0, 0] == pytest.approx(tip) and named.text.startswith(ends[2].rules.name)
    set_to = next(s for s in drawing.shapes if s.role == "stud").points[0, 0]
    assert set_to / tip == pytest.approx(now / ends[2].feed)
