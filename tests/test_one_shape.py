# SPDX-License-Identifier: GPL-3.0-or-later
"""A kind of operation and a way of holding that only tests/toys.py knows go all the way: planned, written, read back, swept, judged,
drawn, entered in the window, run on the simulated machine, logged. And a job has any setups, each with any operations."""

import contextlib
import json
import pickle

import numpy as np
import pytest

from gatepost import running
from gatepost.core.errors import UnusableFile
from gatepost.core.job import commands
from gatepost.core.job.file import Document, load, save
from gatepost.core.job.journal import Journal
from gatepost.core.job.schema import schema
from gatepost.core.plan.dragging import Judge
from gatepost.core.plan.export import plan_json
from gatepost.core.plan.pipeline import plan
from gatepost.core.program.read import read
from gatepost.desk.pages.table import entries
from gatepost.desk.view.sheet import sheet_html
from gatepost.drawing.bed import bed as drawing
from gatepost.logbook.places import data_folder, logbook_url
from gatepost.logbook.store import Logbook
from gatepost.machine import launch
from gatepost.machine.conduct import StepRunner
from gatepost.machine.session import Session
from tests.core.catalogue_jobs import JOBS
from tests.core.told import CELL
from tests.toys import KINDS

LIES = [("front", 0), ("back", 180), ("top", 0), ("front", 0)]
BETWEEN = 5.0  # mm from row to row


def edited(job, *edits):
    for name, values in edits:
        job = commands.run(job, name, values, KINDS.figures)
    return job


@pytest.fixture(scope="module")
def four():
    """A board cut in four setups on three faces, two rows of dimples in each, held by clamps and a bag."""
    job = edited(JOBS["plate"](), ("set plate", {"present": False}), ("remove operation", {"operation": "lettering"}))
    front = job.setup("front")
    job = edited(
        job, ("add hold", {"setup": "front", "kind": "sandbag", "x": front.x + 60, "y": front.y, "weight": 200.0})
    )
    for number, (up, spin) in enumerate(LIES):
        name = front.id if number == 0 else f"lie-{number}"
        if number:
            job = edited(
                job,
                ("copy setup", {"setup": job.setups[-1].id, "id": name}),
                ("set setup", {"setup": name, "up": up, "spin": spin}),
            )
            for operation in job.setup(name).operations:
                job = edited(job, ("remove operation", {"operation": operation.id}))
        deep = front.y + (job.blank.label_thickness if up == "top" else job.blank.width)
        for hold in job.setup("front").holds:  # a strip as wide as the board is thick: the jaws at its back come nearer
            job = edited(job, ("set hold", {"setup": name, "hold": hold.name, "y": min(hold.y, deep)}))
        for row in (0, 1):
            first = 5.0 if up == "top" else 20.0 + 9 * number
            d = {
                "x0": 20.0 + 3 * number,
                "x1": 90.0,
                "y": first + BETWEEN * row,
                "depth": 1.0 + 0.2 * number,
                "tool": 2,
            }
            job = edited(job, ("add operation", {"setup": name, "kind": "dimple", "id": f"dots-{number}-{row}", **d}))
    return job


@pytest.fixture(scope="module")
def planned(four):
    return plan(four, cell=CELL, kinds=KINDS)


def test_nobody_knows_them_who_is_not_told(four, tmp_path):
    path = tmp_path / "four.gatepost"
    save(Document(four), path)
    assert load(path, KINDS.figures).job == four
    with pytest.raises(UnusableFile, match="sandbag|dimple"):
        load(path)
    told = json.dumps(schema(KINDS.figures))
    assert "Dimple" in told and "Sandbag" in told and "Dimple" not in json.dumps(schema())


def test_each_setup_is_swept_in_its_own_programs_and_read_back(planned, four):
    assert [s.name for s in planned.setups] == [s.id for s in four.setups if s.id != "surface"] and not planned.stops
    for number, setup in enumerate(planned.setups):
        assert [op.kind for op in setup.operations] == ["dimple", "dimple"]
        text = setup.programs[0].text
        assert not read(text).complaints and setup.name in text.splitlines()[0]
        for row, op in enumerate(setup.operations):
            d = next(o.figures for o in four.setup(setup.name).operations if o.id == op.operation)
            work = setup.end
            for x in KINDS.operations["dimple"].places(d):
                there = setup.start.at(float(x), d.y) - op.after.at(float(x), d.y)
                assert there == pytest.approx(d.depth, abs=0.011), (setup.name, row, x)
        cut = setup.start.z[work.wood] - setup.end.z[work.wood]
        assert cut.max() == pytest.approx(1.0 + 0.2 * number, abs=0.011)
    # what was cut on a face stays there the next time that it is up
    again = planned.setups[3]
    first = four.setup("front").operations[0].figures
    assert again.start.at(40.0, first.y) < planned.setups[0].start.at(40.0, first.y) - 0.9
    values = plan_json(planned, [])
    assert len(values["setups"]) == 4 and all(len(s["operations"]) == 2 for s in values["setups"])
    squares = [np.array(s["blank_to_work"]) for s in values["setups"]]
    assert [s[2, :3].tolist() for s in squares] == [[0, 0, 1], [0, 0, -1], [0, 1, 0], [0, 0, 1]]
    assert all(np.linalg.det(s[:3, :3]) == pytest.approx(1.0) for s in squares)
    length, width, thick = four.blank.length, four.blank.width, four.blank.label_thickness
    for square, setup, corner in zip(squares, planned.setups, [(0, 0), (length, 0), (0, width), (0, 0)]):
        left = setup.at(0.0, 0.0)  # the board's lower left as it lies, and which of its places that is
        mark = setup.placed.mark
        there = square @ [*corner, 0.0 if setup.setup.up != "top" else thick, 1.0]
        assert there[:2] == pytest.approx(np.subtract(left, mark), abs=1e-9)


def test_both_are_judged_drawn_and_led_through(planned, four):
    front = planned.setups[0]
    assert "sandbag" in planned.report("hold", "front").fact and "8 rows of dimples" in planned.report("carve").fact
    far = edited(
        four,
        ("set hold", {"setup": "front", "hold": "B1", "y": 100.0}),
        ("set operation", {"operation": "dots-0-0", "depth": 9.0}),
    )
    said = {f.code: f for f in plan(far, cell=CELL, kinds=KINDS, coarse=True).findings}
    assert said["hold.bag-off"].about == "B1" and said["carve.dimple-deep"].setup == "front"
    assert any(m.load.operation == "dots-0-0" for m in front.margins)
    keys = {s.key for s in drawing(planned, front, "hold").shapes if s.key}
    assert "hold:B1" in keys
    bag = next(s for s in front.steps if s.key == "set-B1")
    assert bag.figure == 200.0 and "bag of 200 N" in bag.title
    html = sheet_html(planned, front)
    assert "B1: sandbag at" in html and ", 200 N" in html
    assert Judge(planned).judge("front", "hold:B1", 0.0, -5.0).worst.value == "stop"
    assert Judge(planned).judge("front", "hold:B1", 0.5, 0.0).worst is None


def test_what_can_be_entered_of_them_stands_on_their_pages(four):
    for stage, setup, label, command in (
        ("hold", "front", "Weighs", "set hold"),
        ("carve", "lie-2", "Apart", "set operation"),
    ):
        groups = entries(stage, four, setup, KINDS)
        entry = next(e for g in groups for row in g.rows for e in row.entries if e.label == label)
        after = edited(four, (entry.command, entry.values(12.5)))
        assert entry.command == command and after != four
        words = [a.label for g in groups for a in g.acts]
        assert ("Add a sandbag" if stage == "hold" else "Add row of dimples") in words
        assert not any(
            "sandbag" in a.label or "dimple" in a.label
            for g in entries(stage, JOBS["plate"](), "front")
            for a in g.acts
        )


@pytest.mark.whole
def test_it_is_run_on_the_simulated_machine_and_logged(four, tmp_path, monkeypatch, quick_machines):
    path = tmp_path / "four.gatepost"
    save(Document(four), path)
    said = []
    assert running.run_job(path, None, "max", True, False, said.append, said.append, kinds=KINDS) == 0, said
    book = Logbook(logbook_url(data_folder()))
    rows = book.runs()
    book.close()
    done = plan(four, kinds=KINDS)
    assert [(r.setup, r.fingerprint, r.state) for r in reversed(rows)] == [
        (s.name, p.fingerprint, "done") for s in done.setups for p in s.programs
    ]


@pytest.mark.whole
def test_the_machine_leaves_the_wood_that_is_planned_on_each_face(four):
    """Through the real process, step by step: two witnesses that share no code."""
    done = plan(four, kinds=KINDS)
    first = done.setups[0].setup
    with contextlib.ExitStack() as closing:
        simulated = launch.start(done, "max")
        closing.callback(simulated.end)
        session = Session(simulated.host, simulated.port)
        closing.callback(session.close)
        runner = StepRunner(session, done, Journal(), (first.x, first.y))
        for setup in done.setups:
            for step in setup.steps:
                assert runner.carry_out(setup, step) == "done"
            swept = np.load(session.save_wood(setup.name))
            wanted = setup.end
            assert swept.shape == wanted.z.shape
            gap = np.abs(swept - wanted.z)[wanted.wood]
            assert np.quantile(gap, 0.99) < 0.05 and gap.max() < 2.5, setup.name
            assert (gap > 0.05).mean() < 0.01  # a cell on an upright wall


@pytest.mark.parametrize("name", sorted(JOBS))
def test_what_comes_from_the_worker_is_drawn_as_what_was_planned_here(name):
    reckoned = plan(JOBS[name](), cell=CELL, coarse=True)
    sent = pickle.loads(pickle.dumps(reckoned))
    for setup in reckoned.setups:
        for stage in ("hold", "carve"):
            one, other = (drawing(p, setup.name, stage).shapes for p in (reckoned, sent))
            assert [(s.kind, s.role, s.key, s.points.tolist()) for s in one] == [
                (s.kind, s.role, s.key, s.points.tolist()) for s in other
            ]
    assert sent.kinds is reckoned.kinds
