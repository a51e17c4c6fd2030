# SPDX-License-Identifier: GPL-3.0-or-later
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.working import Named, working


def workings_of(plan):
    for key, report in plan.reports.items():
        for figure in report.figures:
            if figure.working is not None:
                yield key, figure.label, figure.working, figure.value
        for finding in report.findings:
            if finding.working is not None:
                yield key, finding.code, finding.working, finding.working.result


@pytest.mark.parametrize("name", ["lock7_plan", "quay_plan"])
def test_every_figure_of_every_page_comes_out_again(name, request):
    seen = list(workings_of(request.getfixturevalue(name)))
    assert len(seen) >= 14
    for key, label, one, value in seen:
        assert one.evaluate() == pytest.approx(one.result, rel=1e-12, abs=1e-12), (key, label)
        assert one.result == pytest.approx(value, rel=1e-12, abs=1e-12), (key, label)
        shown = one.sentence(lambda v, unit: f"{v:.6g}")
        assert shown.endswith(f"{one.result:.6g}") and "=" in shown


@pytest.mark.parametrize("name", ["lock7_plan", "quay_plan"])
def test_figures_that_rest_on_shop_rules_say_so(name, request):
    plan = request.getfixturevalue(name)
    rules = {w.assumption for _, _, w, _ in workings_of(plan) if w.shop_rule}
    assert any("friction" in r for r in rules) and any("margin" in r or "grain" in r for r in rules)


@given(st.floats(0.1, 100), st.floats(0.1, 100), st.floats(1, 80))
def test_the_small_language_agrees_with_python(a, b, angle):
    values = (Named("a", a), Named("b", b), Named("t", angle, "angle"))
    result = working("a - (b - a) * 2 ** 0.5 / tan(t) + max(a, b)", *values).result
    assert result == pytest.approx(a - (b - a) * 2**0.5 / math.tan(math.radians(angle)) + max(a, b))


def test_brackets_and_minus_signs_are_written_where_they_are_needed():
    w = working("a - (b - c)", Named("a", 1), Named("b", -2), Named("c", 3))
    assert w.sentence(lambda v, u: f"{v:g}".replace("-", "−")) == "1 − (−2 − 3) = 6"
    w = working("a - b", Named("a", 1), Named("b", -2))
    assert w.sentence(lambda v, u: f"{v:g}".replace("-", "−")) == "1 − (−2) = 3"
    with pytest.raises(ValueError):
        working("__import__('os')", Named("a", 1))
