# SPDX-License-Identifier: GPL-3.0-or-later
"""Stops for the vacuum: where the bit is up, as often as was asked for, and the same wood comes out of it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost import running
from gatepost.core.job import commands
from gatepost.core.job.file import Document, save
from gatepost.core.plan.pipeline import plan
from gatepost.core.program.lines import filled_lines
from gatepost.core.run.vacuum import LAST
from tests.machine.test_faults import Rig

pytestmark = pytest.mark.whole


@given(st.floats(0.02, 3.0))
def test_it_stops_where_the_bit_is_up_and_no_sooner_than_asked_for(lock7_plan, every):
    for program in (p for s in lock7_plan.setups for p in s.programs):
        stops = program.vacuum_stops(every)
        lines = [number for number, _ in filled_lines(program.text)]
        ends = np.cumsum(program.move_seconds)
        line, z = np.asarray(program.line), np.asarray(program.moves.points)[1:, 2]
        at = []
        for n in stops:
            i = int(np.flatnonzero(line == lines[n - 1])[-1])  # the last move of the block behind which it stands
            assert program.moves.rapid[i] and program.moves.rapid[i + 1] and z[i] > 0.0 or z[i] >= z.max() - 1e-6
            at.append(float(ends[i]))
        assert all(b - a >= 60.0 * every - 1e-6 for a, b in zip([0.0, *at], at))
        assert all(ends[-1] - t > LAST for t in at)
        if not stops:
            assert ends[-1] <= 60.0 * every + LAST or len(at) == 0
    assert not any(p.vacuum_stops(0.0) for s in lock7_plan.setups for p in s.programs)


@pytest.fixture(scope="module")
def dusty(quay, memory):
    """With a stop every few seconds: as many as there are."""
    return plan(commands.run(quay, "set machine", {"vacuum_every": 0.05}), memory=memory)


def test_a_held_program_is_lifted_and_goes_on_and_leaves_the_same_wood(dusty, quay_plan, tmp_path):
    for name in ("whole", "held"):
        (tmp_path / name).mkdir()
    whole, held = (Rig(p, (), tmp_path / name) for p, name in ((quay_plan, "whole"), (dusty, "held")))
    try:
        program = dusty.setups[0].programs[0]
        stops = program.vacuum_stops(0.05)
        assert program.fingerprint == quay_plan.setups[0].programs[0].fingerprint and len(stops) >= 2
        told = dict(dusty.report("run").tables)["Stops for the vacuum, bit up"]
        assert [len(minutes.split(", ")) for _, minutes in told[1:]] == [
            len(p.vacuum_stops(0.05)) for p in dusty.setups[0].programs if p.vacuum_stops(0.05)
        ]
        stood = []

        def heard(event):
            session = held.session
            if event.kind == "paused":
                stood.append(session._link.done)
                if len(stood) == 1:
                    session.lift()
                else:
                    session.resume()
            elif event.kind == "lifted":
                session.lower(session.last["machine"][2] - 5.0, 300.0, 0.1)
                stood.pop()  # it is paused there once more
            elif event.kind == "lowered":
                session.resume()
                stood.append(session._link.done)

        held.session._listener = heard
        held.keeper.conductor.attended = True
        assert whole.steps() == held.steps() == "done"
        assert tuple(stood) == stops
        woods = [np.load(r.session.save_wood("after")) for r in (whole, held)]
        off = np.abs(
            woods[0] - woods[1]
        )  # its steps of time fall otherwise, and with them the places that the bit is stamped at
        assert off.max() < 0.15 and (off > 0.02).mean() < 2e-3
    finally:
        whole.close()
        held.close()


def test_stopped_while_it_is_held_it_is_over(dusty, tmp_path):
    rig = Rig(dusty, (), tmp_path)
    try:
        rig.keeper.conductor.attended = True
        rig.session._listener = lambda event: rig.session.stop() if event.kind == "paused" else None
        assert rig.steps() == "stopped"
        (row,) = rig.book.runs()
        assert row.state == "stopped" and row.blocks_done == dusty.setups[0].programs[0].vacuum_stops(0.05)[0]
    finally:
        rig.close()


def test_where_nobody_is_there_to_go_on_it_never_stops(dusty, tmp_path):
    rig = Rig(dusty, (), tmp_path)
    heard = []
    try:
        rig.session._listener = lambda event: heard.append(event.kind)
        assert rig.steps() == "done" and "paused" not in heard
    finally:
        rig.close()


def test_a_program_that_waits_for_its_bit_goes_on_where_nobody_can_press_start(quay, tmp_path):
    dialect = quay.machine.dialect.model_copy(update={"tool_change": "pause"})
    path, said = tmp_path / "quay.gatepost", []
    save(Document(commands.run(quay, "set machine", {"dialect": dialect.model_dump()})), path)
    assert running.run_job(path, None, "max", True, True, said.append, lambda told: None) == 0
    assert sum("it goes on" in s for s in said) == 2  # once for each bit
