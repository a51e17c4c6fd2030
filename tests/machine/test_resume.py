# SPDX-License-Identifier: GPL-3.0-or-later
"""Runs that end early, and how they are gone on with: by the plan's own sweep, and on the machine's own wood."""

import io
import os
import socket
import subprocess
import sys
import time
from dataclasses import replace

import numpy as np
import pytest
from scipy import ndimage

import resuming
from gatepost import running
from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.job.file import Document, save
from gatepost.core.job.history import fingerprints_4
from gatepost.core.job.journal import Journal
from gatepost.core.plan.pipeline import plan
from gatepost.core.plan.resumed import resumed
from gatepost.core.program.read import read
from gatepost.core.run.resume import line_of_block, take_up
from gatepost.logbook.notebook import RunFile, left_behind, notebook
from gatepost.logbook.places import data_folder, logbook_url
from gatepost.logbook.store import Logbook
from gatepost.machine import launch
from gatepost.machine.blocks import blocks_of
from gatepost.machine.conduct import StepRunner
from gatepost.machine.keeping import RunRecorder, row_of
from gatepost.machine.resume import taken_up
from gatepost.machine.session import Session
from tests.conftest import tries
from tests.core.test_program import level_arcs


@pytest.fixture(scope="module")
def with_arcs(quay):
    """Quay plate on a control that takes arcs."""
    dialect = quay.machine.dialect.model_copy(update={"arcs": "helix"})
    return plan(quay.model_copy(update={"machine": quay.machine.model_copy(update={"dialect": dialect})}))


@pytest.mark.parametrize("name", ["lock7_plan", "quay_plan", "with_arcs"])
def test_stopped_anywhere_and_taken_up_there_or_where_somebody_pointed(name, request):
    of, seen = request.getfixturevalue(name), set()
    for seed in range(tries(24)):
        seen.add(resuming.of_a_stop(of, seed))
    assert "where it ended" in seen and len(seen) > 1


def test_what_is_taken_up_again_says_so_and_sets_every_modal_word(quay_plan):
    program = quay_plan.setups[0].programs[0]
    taken = resumed(quay_plan, program.name, len(program.line) // 2)
    text = taken.program.text.splitlines()
    assert any("TAKEN UP AGAIN after block" in line for line in text[:3])
    for word in ("G21" if quay_plan.job.machine.dialect.units == "mm" else "G20", "G90", "G17", "G54", "G53 G0 Z0"):
        assert word in text[:12]


def test_a_run_taken_up_twice_still_gives_the_whole(lock7_plan):
    setup = lock7_plan.setups[0]
    program = setup.programs[0]
    first = resumed(lock7_plan, program.name, len(program.line) // 3)
    second = resumed(first.plan, program.name, len(first.program.line) // 2, first.wood)
    assert second.minutes < first.minutes < program.seconds / 60
    assert np.abs(second.after.z - setup.operations[0].after.z).max() < 0.02


def test_it_is_never_taken_up_inside_an_arc():
    moves, lines = level_arcs()
    for done in sorted(set(lines)):
        up = take_up(moves, lines, done, 3.0, 20.0, 300.0)
        own = [i for i, n in enumerate(lines) if n == lines[up.move]]
        if len(own) > 1:
            assert up.move == own[0] and np.allclose(up.at, moves.points[up.move])
        assert np.array_equal(up.moves.points[-1], moves.points[-1])


def test_blocks_are_counted_alike_by_who_sends_and_who_takes_up(lock7_plan):
    text = "\n" + lock7_plan.setups[0].programs[0].text.replace("\nG90", "\n\n  \nG90")
    lines = text.splitlines()
    for n, block in enumerate(blocks_of(text), start=1):
        assert lines[line_of_block(text, n) - 1] == block


# -- on the machine's own wood ----------------------------------------------------------------------------------------

KILLED = """
import sys
from pathlib import Path
from gatepost import running
sys.exit(running.run_job(Path(sys.argv[1]), sys.argv[2], "max", True, False, print, print))
"""


def wait_for(what, most=60.0):
    end = time.monotonic() + most
    while not what():
        assert time.monotonic() < end, "it never came to that"


@pytest.fixture
def quay_file(tmp_path, quay):
    path = tmp_path / "quay.gatepost"
    save(Document(quay), path)
    return path


def blocks_noted():
    return max((f.last_done() for f in left_behind(notebook(data_folder()))), default=0)


@pytest.mark.whole
def test_gatepost_killed_in_a_run_is_gone_on_with_on_the_same_wood(quay_file, quay_plan, tmp_path, monkeypatch, capsys):
    """The machine, its wood and its clock go on; only Gatepost is gone."""
    simulated = launch.start(quay_plan, "40", folder=tmp_path)
    where = f"{simulated.host}:{simulated.port}"
    try:
        killed = subprocess.Popen(
            [sys.executable, "-c", KILLED, str(quay_file), where], stdout=subprocess.DEVNULL, env=dict(os.environ)
        )
        wait_for(lambda: blocks_noted() >= 25)
        killed.kill()
        killed.wait()
        assert running.resume_job(quay_file, None, where, "max", True, False, print, print) == 1  # nobody looked
        monkeypatch.setattr(sys, "stdin", Typed("y\n"))
        said = []
        code = running.resume_job(quay_file, None, where, "max", False, True, said.append, lambda v: said.append(v))
        assert code == 0, said
        session = Session(simulated.host, simulated.port)
        swept = np.load(session.save_wood("after"))
        session.close()
    finally:
        simulated.end()
    assert_within_a_cell(swept, quay_plan.setups[-1].end.z)
    book = Logbook(logbook_url(data_folder()), notebook(data_folder()))
    rows = {r.id: r for r in book.runs()}
    book.close()
    lost = next(r for r in rows.values() if r.state == "interrupted")
    after = next(r for r in rows.values() if r.resumes == lost.id)
    assert lost.blocks_done >= 25 and after.after_block == lost.blocks_done and after.state == "done"
    assert said[-1]["outcome"] == "done" and not left_behind(notebook(data_folder()))


def assert_within_a_cell(z, whole):
    """Equal to 0.05 mm in height or to a cell sideways."""
    low, high = ndimage.minimum_filter(whole, 3) - 0.05, ndimage.maximum_filter(whole, 3) + 0.05
    assert ((z >= low) & (z <= high)).all()
    assert np.quantile(np.abs(z - whole), 0.999) < 0.05


class Typed(io.StringIO):
    """What somebody types at a terminal."""

    def isatty(self):
        return True


def test_going_on_is_refused_in_sentences(quay_file, quay, tmp_path):
    said = []
    resume = lambda path=quay_file, number=None, yes=True: running.resume_job(  # noqa: E731
        path, number, None, "max", yes, False, said.append, print
    )
    with pytest.raises(OperatorError, match="no run of this job that ended early"):
        resume()
    book = Logbook(logbook_url(data_folder()), notebook(data_folder()))
    reckoned = plan(quay)
    program = reckoned.setups[0].programs[0]
    values = row_of(reckoned, reckoned.setups[0], program.name, "simulated", "")
    mark, machine = reckoned.setups[0].placed.mark, quay.machine
    zeros = {"x": mark[0] - machine.travel_x, "y": mark[1] - machine.travel_y, "z": -60.0}
    number = book.start(**values, zeros=zeros)
    book.close_run(number, "stopped", "t", blocks_done=30)
    assert resume(yes=False) == 1 and any("witness mark" in w for w in said)
    with pytest.raises(OperatorError, match="no run 99"):
        resume(number=99)
    changed = tmp_path / "changed.gatepost"
    save(Document(commands.run(quay, "set carving", {"leading": 0.31})), changed)
    with pytest.raises(OperatorError, match="changed since"):
        resume(path=changed)
    rows = book.runs()
    taken = lambda job, some=rows: taken_up(some, plan(job, coarse=False), None)[0].id  # noqa: E731
    front = reckoned.setups[0].setup
    moved = commands.run(quay, "place blank", {"setup": front.id, "x": front.x + 40.0, "y": front.y})
    with pytest.raises(OperatorError, match="40.2. from where the plan has it now"):
        taken(moved)
    # what comes out is the same: a name, a bit's stickout, a hold's torque; then also after more programs
    same = commands.run(
        commands.run(quay, "set job", {"name": quay.name, "unit": "mm"}), "set tool", {"number": 1, "feed": 999.0}
    )
    assert taken(same) == number
    before = replace(rows[0], fingerprint=min(fingerprints_4(quay)))
    assert (
        taken(quay, [before]) == number
        and taken(same, [replace(before, fingerprint=min(fingerprints_4(same)))]) == number
    )
    with pytest.raises(OperatorError, match="changed since"):
        taken(same, [before])  # by the old rule every figure counts
    second = replace(
        rows[0],
        id=rows[0].id + 1,
        program=reckoned.setups[0].programs[1].name,
        fingerprint=reckoned.setups[0].programs[1].fingerprint,
    )
    other = replace(rows[0], state="done", fingerprint="0" * 12)
    for before in ([other], [replace(rows[0], state="stopped")], []):  # run as another, not to its end, or not at all
        with pytest.raises(OperatorError, match="the log does not have|The log does not have"):
            taken(quay, [second, *before])
    assert taken(quay, [second, replace(rows[0], state="done")]) == second.id
    # what comes out counts, not what it is called: another operation has been put before it since
    renamed = replace(second, program="front-1-T9.nc")
    run, what = taken_up([renamed, replace(rows[0], state="done", program="front-7.nc")], plan(quay), None)
    assert what.program.name == second.program and run.program == "front-1-T9.nc"
    again = book.start(**values)
    book.close_run(again, "done", "t")
    with pytest.raises(OperatorError, match="run to its end"):
        resume()
    book.close()
    air = read("G21 G90\nG0 X1 Y1 Z5\nX3\n")
    with pytest.raises(OperatorError, match="cuts nothing"):
        take_up(air.moves, air.line.tolist(), 2, 3.0, 20.0, 300.0)


# -- what is noted beside the logbook -----------------------------------------------------------------------------------


def test_a_run_without_a_logbook_is_noted_and_taken_in_later(quay_plan, tmp_path, quay_file):
    path = data_folder() / "logbook.sqlite"
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(b"no database at all" * 100)
    said = []
    assert running.opened_book(said.append) is None and "damaged" in said[0] and "noted" in said[0]
    simulated = launch.start(quay_plan, "max")
    setup = quay_plan.setups[0]
    try:
        session = Session(simulated.host, simulated.port)
        conductor = StepRunner(session, quay_plan, Journal(), (setup.setup.x, setup.setup.y))
        keeper = RunRecorder(None, conductor, folder=notebook(data_folder()), tell=said.append)
        for step in setup.steps:
            assert keeper.carry_out(setup, step) == "done"
        session.close()
    finally:
        simulated.end()
    path.unlink()
    book = running.opened_book(said.append)
    rows = book.runs()
    book.close()
    assert [r.state for r in rows] == ["done"] * len(setup.programs) and rows[0].blocks_done == rows[0].blocks
    assert rows[0].real_minutes and set(rows[0].zeros) == {"x", "y", "z"}
    assert not left_behind(notebook(data_folder()))


def test_a_note_of_a_run_whose_gatepost_is_gone_says_how_far_it_came(tmp_path):
    gone = subprocess.Popen(["true"])
    gone.wait()
    values = {"started": "t", "kind": "simulated", "job": "J", "setup": "front", "program": "p.nc", "tool": "T1",
              "fingerprint": "f", "planned_minutes": 1.0, "owner": f"{socket.gethostname()}:{gone.pid}"}  # fmt: skip
    file = RunFile.begin(tmp_path / "runs", values, None)
    for n in (1, 7, 123456):
        file.done(n)
    (tmp_path / "runs" / "half.run.json").write_text("{")
    book = Logbook(f"sqlite:///{tmp_path / 'log.sqlite'}", tmp_path / "runs")
    assert book.close_leftovers("later") == 1 and book.close_leftovers("later") == 0
    (row,) = book.runs()
    book.close()
    assert (row.state, row.blocks_done, row.ended) == ("interrupted", 123456, "later")
    assert [p.name for p in (tmp_path / "runs").iterdir()] == ["half.run.json"]
