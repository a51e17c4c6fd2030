# SPDX-License-Identifier: GPL-3.0-or-later
"""A kind of operation and a way of holding that only tests/toys.py knows, entered in the real window and planned by its worker."""

from gatepost.core.job import commands
from gatepost.core.job.file import Document, load, save
from tests.core.catalogue_jobs import JOBS
from tests.desk.looking import Keys, planned
from tests.toys import KINDS


def test_a_dimple_and_a_sandbag_are_added_changed_planned_undone_and_saved(qtbot, shown, tmp_path):
    w = shown(kinds="tests.toys:KINDS")
    path = tmp_path / "toys.gatepost"
    save(Document(commands.run(JOBS["plate"](), "set plate", {"present": False})), path)
    assert w.open_path(path)
    planned(qtbot, w)
    keys = Keys(qtbot, w)
    keys.stage(6)
    keys.entered()
    keys.push("Add row of dimples")
    planned(qtbot, w)
    assert {op.kind for op in w.presenter.plan.setup("front").operations} == {"vcut", "dimple"}
    keys.entered()
    keys.type("Deep", "2.5")
    planned(qtbot, w)
    dimple = w.document.job.setup("front").operations[-1]
    assert dimple.figures.depth == 2.5
    assert w.presenter.plan.setup("front").end.z.min() < w.presenter.plan.setup("front").start.z.max() - 2.4
    keys.stage(3)
    keys.entered()
    keys.push("Add a sandbag")
    planned(qtbot, w)
    assert "sandbag" in w.presenter.plan.report("hold", "front").subtitle
    w.act("undo")
    w.act("undo")
    assert w.document.job.setup("front").operations[-1].figures.depth == 1.5
    w.act("redo")
    assert w.jobs.save() and load(path, KINDS.figures).job.setup("front").operations[-1].figures.depth == 2.5
