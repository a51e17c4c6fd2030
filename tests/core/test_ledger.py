# SPDX-License-Identifier: GPL-3.0-or-later
"""The Z ledger against the removal model, through any order of bits, touches, zeros, passes and mistakes."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.motion import Pen
from gatepost.core.surface.ledger import Fitted, Ledger, PassCut, Touched, ZeroSet, after, followed, judged, next_move
from gatepost.core.wood.field import Cutter, cut, rectangle
from tests.conftest import tries

FACE = Cutter("surfacing", 40.0)


def board():
    """A small cupped board: 30 to 32.4 above the bed."""
    return rectangle(60.0, 40.0, 1.0, lambda x, y: 30.0 + 2.4 * ((x - 30.0) / 29.5) ** 2)


def swept(wood, height):
    pen = Pen(-30.0, 20.0, 80.0)
    pen.feed(1000.0, z=height)
    pen.feed(1000.0, x=90.0)
    return cut(wood, pen.moves(), FACE).after


heights = st.floats(-3.0, 3.0).map(lambda v: round(v, 3))
act = st.one_of(
    st.tuples(st.just("fit"), st.floats(-120.0, -40.0)),
    st.tuples(st.just("touch"), st.sampled_from(["face", "low spot", "bed"])),
    st.tuples(st.just("zero"), heights),
    st.tuples(st.just("cut"), st.floats(0.0, 2.0).map(lambda v: round(v, 3))),
)


@settings(max_examples=tries(80))
@given(st.lists(act, max_size=14))
def test_wood_left_by_the_ledger_is_wood_left_by_the_removal_model(acts):
    wood = board()
    ledger = Ledger(float(wood.z.max()), float(wood.z.min()))
    true = None  # machine figure of the bed with the bit that is in now
    zero = None
    for what, value in acts:
        if what == "fit":
            true, zero = value, None
            ledger = after(ledger, Fitted())
        elif true is None:
            with pytest.raises(OperatorError):
                ledger.height(-50.0)
        elif what == "touch":
            stands = {"face": float(wood.z.max()), "low spot": float(wood.z.min()), "bed": 0.0}[value]
            ledger = after(ledger, Touched(true + stands + 12.0, value, 12.0))
        elif what == "zero":
            zero = true + float(wood.z.max()) + value
            ledger = after(ledger, ZeroSet(zero))
        elif ledger.offset is None or zero is None:
            with pytest.raises(OperatorError):
                after(ledger, PassCut(value))
        else:
            before = float(wood.z.max())
            bite = judged(ledger, zero, value, 1.0)
            wood = swept(wood, zero - true - value)
            ledger = after(ledger, PassCut(value))
            took = before - float(wood.z.max())
            assert max(0.0, bite.takes.result) == pytest.approx(took, abs=2e-5)
            assert ("cut air" in bite.against) == (bite.takes.result <= 0.005)
            assert ("at once" in bite.against) == (bite.takes.result > 1.005)
        assert ledger.plane == pytest.approx(float(wood.z.max()), abs=2e-5)
        assert ledger.low == pytest.approx(float(wood.z.min()), abs=2e-5)
        assert ledger.left == pytest.approx(float(np.ptp(wood.z)), abs=4e-5)


@settings(max_examples=tries(40))
@given(st.floats(-120, -40), st.floats(0.0, 3.0), st.floats(0.2, 1.5))
def test_followed_from_move_to_move_the_face_comes_clean_and_never_takes_too_much(true, depth, limit):
    wood = board()
    ledger = followed(Ledger(float(wood.z.max()), float(wood.z.min())), [Fitted(), Touched(true + float(wood.z.max()))])
    passes = 0
    while passes < 20:
        passes += 1
        try:
            move = next_move(ledger, depth, limit)
        except OperatorError as error:
            assert "clean" in str(error)
            break
        assert move.bite.against == "" and move.bite.takes.result <= limit + 1e-9
        before = float(wood.z.max())
        wood = swept(wood, move.machine - true - depth)
        assert before - float(wood.z.max()) == pytest.approx(move.bite.takes.result, abs=2e-5)
        ledger = followed(ledger, [ZeroSet(move.machine), PassCut(depth)])
    assert float(np.ptp(wood.z)) < 0.006 and passes <= np.ceil(2.4 / limit) + 2


def test_the_sum_that_people_lose_count_of():
    """Old zero at machine -62.00, a program that cuts 1.00 below it: the plane is at -63.00, the low spot at -64.35."""
    ledger = Ledger(31.0, 29.65, offset=94.0, zero=-62.0)  # the bed is at -94 with this bit
    assert ledger.machine(ledger.plane) == -63.0 and ledger.machine(ledger.low) == pytest.approx(-64.35)
    move = next_move(ledger, 1.0, 1.0)
    assert move.machine == pytest.approx(-63.0) and move.bite.takes.result == pytest.approx(1.0)
    assert move.bite.leaves.result == pytest.approx(0.35) and "⟦0.35|2⟧ stays" in move.sentence
    assert (
        "Jog to Z ⟦-1|2⟧ on the display (machine ⟦-63|2⟧) and set Z0 there: the program, which cuts ⟦1|2⟧ below its zero"
        in move.sentence
    )
    twice = judged(ledger, -62.0, 1.0, 1.0)
    assert "cut at this height already" in twice.against
    assert "cut air" in judged(ledger, -61.0, 1.0, 1.0).against
    with pytest.raises(OperatorError, match="Z0 is not set"):
        followed(ledger, [Fitted(), Touched(-80.0), PassCut(1.0)])
