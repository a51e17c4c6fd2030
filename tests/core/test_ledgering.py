# SPDX-License-Identifier: GPL-3.0-or-later
"""The ledger followed through the journal, against the wood itself, whatever is entered in whatever order."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.job.journal import Journal
from gatepost.core.plan.ledgers import book_of, entered, left_program, taken_back
from gatepost.core.plan.pipeline import plan
from gatepost.core.program.read import read
from gatepost.core.wood.field import cut, cutter_of
from tests.conftest import tries

act = st.one_of(
    st.tuples(st.just("fit"), st.floats(-110, -60)),
    st.tuples(st.just("touch"), st.sampled_from(["face", "low spot", "bed"])),
    st.tuples(st.just("zero"), st.floats(-1.5, 1.5).map(lambda v: round(v, 3))),
    st.tuples(st.just("pass"), st.floats(0, 1.5).map(lambda v: round(v, 3))),
    st.tuples(st.just("back"), st.none()),
)


@settings(max_examples=tries(40))
@given(st.lists(act, max_size=12))
def test_the_book_has_the_face_where_the_wood_has_it(lock7_plan, acts):
    high, low = lock7_plan.extremes.highest[2], lock7_plan.extremes.lowest[2]
    stack = [np.linspace(low, high, 200)]  # the face after each pass: what is taken back was never cut
    made: list[str] = []
    journal, true, zero = Journal(), None, None
    zeros = [None]
    for what, value in acts:
        wood = stack[-1]
        if what == "fit":
            true, zero = value, None
            zeros = [None]
            journal, asked = entered(lock7_plan, journal, "t", "fitted")
            assert not asked
            made.append("fit")
        elif what == "back":
            if not any(m in ("touch", "zero", "pass") for m in made) or made[-1] == "fit":
                continue
            journal = taken_back(lock7_plan, journal, "t")
            last = made.pop()
            if last == "pass":
                stack.pop()
            elif last == "zero":
                zeros.pop()
                zero = zeros[-1]
        elif true is None:
            assert book_of(lock7_plan, journal).ledger.offset is None
        elif what == "touch":
            stands = {"face": wood.max(), "low spot": wood.min(), "bed": 0.0}[value]
            journal, asked = entered(lock7_plan, journal, "t", "ledger touched", on=value, machine=true + stands)
            assert not asked  # a true touch agrees with the ledger, or nothing was known before
            made.append("touch")
        elif book_of(lock7_plan, journal).ledger.offset is None:
            with pytest.raises(OperatorError):
                entered(lock7_plan, journal, "t", "ledger zero", machine=true + value)
        elif what == "zero":
            zero = true + wood.max() + value
            zeros.append(zero)
            journal, asked = entered(lock7_plan, journal, "t", "ledger zero", machine=zero)
            assert not asked
            made.append("zero")
        elif zero is None:
            with pytest.raises(OperatorError):
                entered(lock7_plan, journal, "t", "ledger pass", depth=value)
        else:
            plane = zero - true - value
            same, asked = entered(lock7_plan, journal, "t", "ledger pass", depth=value)
            takes = wood.max() - plane
            assert bool(asked) == (takes <= 0.005 + 1e-9 or takes > 1.005 - 1e-9 or "below the lowest" in asked)
            if asked:
                assert same == journal
                same, _ = entered(lock7_plan, journal, "t", "ledger pass", questioned=True, depth=value)
            journal = same
            stack.append(np.minimum(wood, plane))
            made.append("pass")
        book = book_of(lock7_plan, journal)
        assert book.ledger.plane == pytest.approx(stack[-1].max()) and book.ledger.low == pytest.approx(stack[-1].min())


def begun(reckoned, depth=0.6):
    journal = Journal().add("t", "fitted", "surface", tool=1, length=45.0)
    for kind, data in (
        ("ledger touched", {"on": "face", "machine": -62.0}),
        ("ledger zero", {"machine": -62.0}),
        ("ledger pass", {"depth": depth}),
    ):
        journal, asked = entered(reckoned, journal, "t", kind, **data)
        assert not asked
    return journal


def test_the_program_for_what_is_left_ends_where_the_whole_would_and_starts_no_deeper(lock7_plan):
    setup = lock7_plan.setup("surface")
    journal = begun(lock7_plan)
    book = book_of(lock7_plan, journal)
    program = left_program(lock7_plan, journal)
    wood = setup.start
    z = wood.z.copy()
    np.minimum(z, np.float32(book.ledger.plane), out=z, where=wood.wood)
    from dataclasses import replace

    home = tuple(program.moves.points[0])
    moves = read(program.text, home=home).moves
    stands = book.ledger.height(book.ledger.zero)  # where Z0 is by the ledger, not where it was planned
    assert abs(stands - setup.zero_height) > 0.1
    assert moves.points[:, 2].min() == pytest.approx(lock7_plan.surfaced.plane - stands, abs=1e-3)
    moves = setup.on_board(moves).moved(0.0, 0.0, stands - setup.zero_height)
    swept = cut(replace(wood, z=z), moves, cutter_of(program.tool))
    assert swept.after.z[wood.wood].max() == pytest.approx(lock7_plan.surfaced.plane, abs=0.006)
    assert swept.deepest[~moves.rapid].max() <= book.limit + 0.01
    assert program.seconds < setup.programs[0].seconds


def test_nothing_left_too_much_at_once_and_an_unfinished_run_are_sentences(lock7_plan):
    done = begun(lock7_plan).add("t", "surfaced", "surface", plane=lock7_plan.surfaced.plane)
    with pytest.raises(OperatorError, match="Nothing is left"):
        left_program(lock7_plan, done)
    with pytest.raises(OperatorError, match="the face is clean"):
        book_of(lock7_plan, done).next()
    half = begun(lock7_plan).add("t", "run ended", "surface", program="surface-1-T1.nc", outcome="stopped")
    with pytest.raises(OperatorError, match="part-way"):
        left_program(lock7_plan, half)
    with pytest.raises(OperatorError, match="no Z ledger"):
        book_of(plan(commands.run(lock7_plan.job, "set surfacing", {"wanted": "no"}), coarse=True), Journal())


def test_going_deeper_is_planned_from_where_the_face_is(lock7_plan):
    done = begun(lock7_plan).add("t", "surfaced", "surface", plane=lock7_plan.surfaced.plane)
    deeper = plan(
        commands.run(lock7_plan.job, "set surfacing", {"cleanup": lock7_plan.job.surfacing.cleanup + 0.5}), coarse=True
    )
    move = book_of(deeper, done).next()
    assert move.bite.takes.result == pytest.approx(0.5)
    assert left_program(deeper, done).operations == ("surfacing",)
