# SPDX-License-Identifier: GPL-3.0-or-later
"""Plan and machine as two witnesses, over the real link to a real process."""

import socket
import sys

import numpy as np
import pytest
from scipy.ndimage import maximum_filter, minimum_filter

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.plan.pipeline import plan as plan_of
from gatepost.core.zero.trust import Trust, trust, where
from gatepost.logbook.store import Logbook
from gatepost.machine import launch
from gatepost.machine.conduct import StepRunner
from gatepost.machine.connection import address
from gatepost.machine.failures import LinkLost, MachineRefused
from gatepost.machine.keeping import RunRecorder
from gatepost.machine.session import Session
from gatepost.machine.steps import getting_ready, running
from tests.conftest import some
from tests.core.catalogue_carve import BALL, gouged, holes, line, ramp, stencil
from tests.core.catalogue_jobs import JOBS, edited

pytestmark = pytest.mark.whole


@pytest.fixture
def book(tmp_path):
    log = Logbook(f"sqlite:///{tmp_path / 'log.sqlite'}")
    yield log
    log.close()


def on_machine(plan, faults=(), seed=None):
    """Exact: what is cut and how long it takes is held against the plan to the hundredth."""
    simulated = launch.start(plan, "max", list(faults), seed=seed)
    try:
        session = Session(simulated.host, simulated.port)
    except Exception:
        simulated.end()
        raise
    first = plan.setups[0].setup
    return simulated, session, StepRunner(session, plan, Journal(), (first.x, first.y))


@pytest.fixture(scope="module")
def raised_plan():
    return plan_of(JOBS["raised"](), cell=0.25)


@pytest.fixture(scope="module")
def carved_plan():
    """A gouged ground round letters, a border, two holes, and a relief, on one board."""
    job = edited(
        JOBS["strapped"](),
        ("remove operation", {"operation": "lettering"}),
        BALL,
        ramp(width=18.0, height=12.0),
        holes(tool=2, across=8.0, number=2, pitch=18.0),
    )
    job = edited(
        job, ("set art", {"art": "heights", "x": 95.0}), ("set art", {"art": "holes", "x": 60.0, "y": 40.0, "turn": 90.0}), ("set art", {"art": "lettering", "x": 30.0}),
        gouged(), ("set operation", {"operation": "gouge", "on": ("lettering",)}), ("set zero", {"setup": "front", "touch_x": 60, "touch_y": 8}), line(inset=24.0),
    )  # fmt: skip
    return plan_of(job, cell=0.25)


@pytest.fixture(scope="module")
def stencil_plan():
    """Two letters cut right through, what lies inside them held by bridges."""
    job = edited(JOBS["strapped"](), *stencil(), ("set zero", {"setup": "front", "touch_x": 60, "touch_y": 12}))
    return plan_of(job, cell=0.25)


@pytest.mark.parametrize("name", some(["quay_plan", "lock7_plan", "raised_plan", "carved_plan", "stencil_plan"], 3))
def test_wood_and_clock_agree_though_they_share_no_code(name, request, book):
    plan = request.getfixturevalue(name)
    simulated, session, conductor = on_machine(plan)
    keeper = RunRecorder(book, conductor)
    try:
        for setup in plan.setups:
            for step in setup.steps:
                before = session.last["clock"]
                assert keeper.carry_out(setup, step) == "done"
                if step.kind != "run":
                    continue
                program = plan.program(step.program)
                assert session.last["clock"] - before == pytest.approx(program.seconds, rel=0.03)
                swept = np.load(session.save_wood("after"))
                wanted = next(op for op in setup.operations if op.name == program.operations[-1]).after
                gap = np.abs(swept - wanted.z)[wanted.wood]
                near = maximum_filter(wanted.z, 3) - minimum_filter(wanted.z, 3)  # a wall that is a cell away
                assert (gap <= np.maximum(wanted.cell, near[wanted.wood] + 0.05)).all()
                assert np.quantile(gap[near[wanted.wood] < wanted.cell], 0.995) < 0.05  # a V's point is stamped
        axes = trust(conductor.journal.standing(), where(plan.job, plan.setups[-1].setup))
        assert axes.x.trust is Trust.TRUSTED and axes.z.trust is Trust.TRUSTED
        assert axes.z.machine is not None
    finally:
        session.close()
        simulated.end()
    rows = book.runs()
    assert {r.state for r in rows} == {"done"} and len(rows) == sum(len(s.programs) for s in plan.setups)
    for row in rows:
        assert row.real_minutes == pytest.approx(row.planned_minutes, rel=0.03)
        assert set(row.zeros) == {"x", "y", "z"} and row.blocks_done == row.blocks


def steps_until(plan, kind):
    for step in plan.setups[0].steps:
        yield step
        if step.kind == kind:
            return


def test_nothing_cuts_on_a_lost_axis_or_with_another_tool(quay_plan):
    simulated, session, conductor = on_machine(quay_plan)
    setup = quay_plan.setups[0]
    run = next(s for s in setup.steps if s.kind == "run")
    program = quay_plan.program(run.program)
    try:
        with pytest.raises(OperatorError, match="nothing cuts on a lost axis"):
            running.may_run(conductor, setup, program)
        for step in steps_until(quay_plan, "zero z"):
            conductor.carry_out(setup, step)
        with pytest.raises(OperatorError, match="comes first, and has not been answered"):
            conductor.carry_out(setup, run)  # plate and clip are still there
        for step in setup.steps[len(list(steps_until(quay_plan, "zero z"))) :]:
            if step.kind == "run":
                break
            conductor.carry_out(setup, step)
        running.may_run(conductor, setup, program)
        session.zero(x=session.last["zero"][0] + 40.0)
        with pytest.raises(OperatorError, match="X0 at .*it was changed elsewhere"):
            conductor.carry_out(setup, run)
        session.zero(x=session.last["zero"][0] - 40.0)
        running.may_run(conductor, setup, program)
        conductor.journal = conductor.journal.add("t", "fitted", setup.name, tool=2)
        with pytest.raises(OperatorError, match="nothing cuts on a lost axis|tool"):
            running.may_run(conductor, setup, program)
    finally:
        session.close()
        simulated.end()


@pytest.mark.parametrize(
    ("fault", "error", "words"),
    [
        ("stall", MachineRefused, "stalled"),
        ("drop link", LinkLost, "Look|look"),
        ("dead plate", OperatorError, "circuit"),
    ],
)
def test_a_fault_ends_in_a_clear_state_and_a_closed_row(fault, error, words, lock7_plan, book):
    simulated, session, conductor = on_machine(lock7_plan, [fault])
    keeper = RunRecorder(book, conductor)
    setup = lock7_plan.setups[0]
    try:
        with pytest.raises(error, match=words):
            for step in setup.steps:
                keeper.carry_out(setup, step)
    finally:
        session.close()
        simulated.end()
    if fault != "dead plate":
        (row,) = book.runs()
        assert row.state == "failed" and row.reason and row.ended
        assert conductor.journal.entries[-1].kind == {"stall": "stalled", "drop link": "link lost"}[fault]
        axes = trust(conductor.journal.standing(), where(lock7_plan.job, setup.setup))
        assert axes.x.trust is axes.z.trust is Trust.LOST and not axes.homed


def test_a_spindle_called_off_while_it_warms_up_does_not_go_on_turning(quay_plan):
    simulated, session, conductor = on_machine(quay_plan, [])
    try:
        session.home()
        spin = session.spin

        def called_off_after(rpm):
            spin(rpm)
            session.stop_moving()

        session.spin = called_off_after
        with pytest.raises(MachineRefused, match="Stopped"):
            getting_ready.warm(
                conductor, quay_plan.setups[0], next(s for s in quay_plan.setups[0].steps if s.kind == "warm")
            )
        session.look()
        assert session.last["spindle"] == 0.0
        assert "warmed" not in {e.kind for e in conductor.journal.entries}
    finally:
        session.close()
        simulated.end()


def test_no_machine_there_is_said_in_a_sentence():
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    with pytest.raises(LinkLost, match="switched on"):
        Session("127.0.0.1", port)


def test_the_machine_outlives_its_clients_and_takes_one_at_a_time(quay_plan):
    simulated = launch.start(quay_plan, "max")
    try:
        first = Session(simulated.host, simulated.port)
        with pytest.raises(OperatorError):
            Session(simulated.host, simulated.port, timeout=1.0)
        first.home()
        first.close()
        again = Session(simulated.host, simulated.port)
        assert again.last["state"] == "ready"
        again.close()
    finally:
        simulated.end()


def test_the_same_over_a_pseudo_terminal(quay_plan, tmp_path):
    import subprocess

    launch.prepare(quay_plan, tmp_path)
    process = subprocess.Popen(launch.command(tmp_path, "pty", "max", []), stdout=subprocess.PIPE, text=True)
    try:
        host, port = address(process.stdout.readline().removeprefix("listening ").strip())
        assert host.startswith("/dev/") and port == 0
        setup = quay_plan.setups[0]
        session = Session(host, port)
        conductor = StepRunner(session, quay_plan, Journal(), (setup.setup.x, setup.setup.y))
        for step in setup.steps:
            assert conductor.carry_out(setup, step) == "done"
        session.close()
        again = Session(host, port)
        assert again.last["state"] == "ready"
        again.close()
    finally:
        process.terminate()
        process.wait()
        process.stdout.close()


def test_an_address_is_a_host_or_a_terminal():
    assert address("127.0.0.1:7007") == ("127.0.0.1", 7007) and address("/dev/pts/3") == ("/dev/pts/3", 0)
    for words in ("nowhere", "host:", ":80x", ""):
        with pytest.raises(OperatorError, match="neither"):
            address(words)
    with pytest.raises(LinkLost):
        Session("/dev/null", 0)


def test_both_faces_are_cut_and_turned_and_measured_on_the_machine(lock7, book):
    from gatepost.core.job import commands
    from gatepost.core.plan.pipeline import plan as reckon

    job = commands.run(lock7, "set second face", {"turn": "about X"})
    plan = reckon(job)
    simulated, session, conductor = on_machine(plan)
    keeper = RunRecorder(book, conductor)
    try:
        for setup in plan.setups[:2]:
            for step in setup.steps:
                assert keeper.carry_out(setup, step) == "done"
        swept = np.load(session.save_wood("both"))
        thick = plan.setup("front").zero_height
        wood = np.isfinite(swept)
        assert np.abs(swept[wood] - thick).max() < 0.02
        measured = [e for e in conductor.journal.standing() if e.kind == "measured"]
        corners = [v for k, v in measured[-1].data.items() if k.startswith("corner")]
        assert len(corners) == 4 and corners == pytest.approx([thick] * 4, abs=0.03)
        assert reckon(job, conductor.journal).setup("front").zero_height == pytest.approx(np.mean(corners))
        front = plan.setup("front")
        thicker = {f"corner{i}": thick + 0.3 for i in range(1, 5)}
        conductor.journal = conductor.journal.add("t", "measured", "back", **thicker)
        with pytest.raises(OperatorError, match="Plan again"):
            running.may_run(conductor, front, front.programs[0])
    finally:
        session.close()
        simulated.end()


def test_folders_of_machines_go_with_them_and_stale_ones_at_the_next_start(quay_plan, tmp_path, monkeypatch):
    import os
    import tempfile

    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    for name, old in (
        ("gatepost-machine-999999999-abc", False),
        ("gatepost-machine-abcdefgh", True),
        ("gatepost-machine-newold00", False),
    ):
        (tmp_path / name).mkdir()
        (tmp_path / name / "wood.npy").write_bytes(b"x")
        if old:
            os.utime(tmp_path / name, (1.0, 1.0))
    ours = tmp_path / f"gatepost-machine-{os.getpid()}-mine"
    ours.mkdir()
    simulated = launch.start(quay_plan, "max")
    assert {p.name for p in tmp_path.glob("gatepost-machine-*")} == {
        "gatepost-machine-newold00",
        ours.name,
        simulated.folder.name,
    }
    simulated.end()
    assert not simulated.folder.exists()
    with pytest.raises(OperatorError, match="did not start"):
        launch.spawn([sys.executable, "-c", "print('no')"], tmp_path)
