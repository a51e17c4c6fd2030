# SPDX-License-Identifier: GPL-3.0-or-later
"""What a sign costs: worked out by hand, part by part, and never less than nothing."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.finish.cost import CostOf, cost, in_money, not_counted
from gatepost.core.finish.report import cost_of, finish_report, price_of_each
from gatepost.core.job import commands
from gatepost.core.job.finish import Rates
from gatepost.core.plan.pipeline import plan

RATES = Rates(
    money="marks",
    hands=30.0,
    machine=12.0,
    wood=2000.0,
    waste=0.25,
    life=500.0,
    waiting=1.5,
    preparation=20.0,
    margin=0.2,
)
OF = CostOf(
    10.0,
    60.0,
    90.0,
    2.0,
    0.01e9,
    {"60 degree V-bit": (50.0, 24.0), "6 mm end mill": (20.0, 0.0)},
    [("primer", 0.05, 18.0), ("stain", 0.1, 0.0)],
)


def test_every_part_is_as_worked_out_by_hand():
    told = cost(OF, RATES)
    parts = {name: w.result for name, w in told.parts}
    assert parts == pytest.approx(
        {
            "Preparation": 15.0,
            "Machine": 14.0,
            "Beside the machine": 30.0,
            "Hands": 45.0,
            "Waiting": 3.0,
            "Wood": 25.0,
            "Wear of 60 degree V-bit": 2.4,
            "Primer": 0.9,
        }
    )
    assert told.cost.result == pytest.approx(135.3) and told.price.result == pytest.approx(162.36)
    assert not_counted(OF, RATES) == ("wear of 6 mm end mill", "stain") and not_counted(OF, Rates(wood=1.0))[:2] == (
        "hands",
        "the machine",
    )
    assert all(w.evaluate() == w.result for _, w in told.parts) and told.cost.evaluate() == told.cost.result
    assert in_money(1234.5, RATES) == "1 234.50 marks" and in_money(2.0, Rates()) == "2.00"


@given(
    st.builds(
        Rates,
        hands=st.floats(0, 200),
        machine=st.floats(0, 200),
        wood=st.floats(0, 5000),
        waste=st.floats(0, 2),
        margin=st.floats(0, 3),
        waiting=st.floats(0, 50),
    ),
    st.floats(1.0, 4.0),
)
def test_what_takes_longer_never_costs_less_and_the_price_is_never_under_the_cost(rates, times):
    told = cost(OF, rates)
    assert told.price.result >= told.cost.result >= 0.0 and told.cost.result == pytest.approx(
        sum(w.result for _, w in told.parts)
    )
    longer = CostOf(
        OF.preparing * times,
        OF.cutting * times,
        OF.hands * times,
        OF.days * times,
        OF.board * times,
        OF.metres,
        OF.tins,
    )
    assert cost(longer, rates).cost.result >= told.cost.result - 1e-9


def test_a_plan_s_own_cost_is_told_where_rates_are_entered_and_nowhere_else(quay, memory):
    assert not [t for t in plan(quay, memory=memory).report("finish").tables if t[0] == "What it costs"]
    job = commands.run(quay, "set rates", {"hands": 30.0, "machine": 10.0, "wood": 1500.0, "margin": 0.5})
    made = plan(job, memory=memory)
    told, sign = cost_of(made.finishing), made.finishing
    parts = dict(told.parts)
    cutting = sum(op.seconds for s in made.setups for op in s.operations) / 60.0
    assert parts["Beside the machine"].result == pytest.approx(cutting / 60 * 30)
    assert parts["Wood"].result == pytest.approx(1.2 * 1500 * sign.board * 1e-9) and sign.board > sign.volume
    figures = {f.label: f.value for f in made.report("finish").figures}
    assert figures["Price"] == pytest.approx(1.5 * figures["It costs"]) and figures["It costs"] == pytest.approx(
        told.cost.result
    )
    assert made.fingerprint == plan(quay, memory=memory).fingerprint


def test_a_board_that_becomes_several_signs_costs_as_much_each_as_all_of_it_over_their_number(quay, memory):
    sign = plan(commands.run(quay, "set rates", RATES.model_dump()), memory=memory).finishing
    four = replace(sign, pieces=4)
    assert sign.pieces == 1 and 4 * price_of_each(four).result == pytest.approx(cost_of(sign).price.result)
    figures = {f.label: f.value for f in finish_report(four).figures}
    alone = {f.label: f.value for f in finish_report(sign).figures}
    assert figures["Price of each of 4"] * 4 == pytest.approx(alone["Price"]) and figures[
        "Weight of each of 4"
    ] * 4 == pytest.approx(alone["Weight"])
