# SPDX-License-Identifier: GPL-3.0-or-later
"""A series that is written beside all else, and layers of a drawing, in the real window."""

import json

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QFileDialog, QPushButton

from gatepost.core.carve.edits import outlines
from gatepost.core.job import commands
from gatepost.core.job.file import Document, load
from gatepost.desk.dialogs import questions
from gatepost.desk.dialogs.art import ArtDialog
from gatepost.desk.worker.series_work import SHARE, SeriesWork
from tests.conftest import EXAMPLES
from tests.core.test_drawn_art import dxf
from tests.desk.looking import planned


def dialog_of(kind):
    return next((w for w in QApplication.topLevelWidgets() if isinstance(w, kind) and w.isVisible()), None)


def test_a_series_is_written_while_all_else_goes_on_and_can_be_called_off(qtbot, opened, monkeypatch, tmp_path):
    table = tmp_path / "places.csv"
    table.write_text("place\n" + "".join(f"WEIR {n}\n" for n in range(1, 6)), "utf-8")
    monkeypatch.setattr(questions, "ask_which", lambda *_: 0)
    monkeypatch.setattr(opened.context, "ask_open", lambda *_: table)
    folder = [tmp_path / "first"]
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(folder[0]))
    line = next(line for a in opened.document.job.artwork if a.kind == "lettering" for line in a.figures.lines)
    assert opened.context.run("set line", {"line": line.id, **outlines("{place}", line.face)}, "words")
    planned(qtbot, opened)
    outputs = opened.outputs
    opened.act("series")
    qtbot.waitUntil(lambda: outputs.sharing.dialog is not None and outputs.sharing.dialog.isVisible(), timeout=20_000)
    assert opened.context.run("set line", {"line": line.id, **outlines("{place} x", line.face)}, "words")
    planned(qtbot, opened)  # answered before the series is at its end
    assert outputs.sharing.dialog is not None
    qtbot.mouseClick(outputs.sharing.dialog.findChild(QPushButton), Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: (folder[0] / "series.json").exists() and outputs.sharing.dialog is None, timeout=20_000)
    told = json.loads((folder[0] / "series.json").read_text("utf-8"))
    assert len(told) < 5 and [r["file"] for r in told] == sorted(p.name for p in folder[0].glob("*.gatepost"))
    folder[0] = tmp_path / "second"
    table.write_text("place\nWEIR\nLOCK\n", "utf-8")
    opened.act("series")
    qtbot.waitUntil(lambda: (folder[0] / "series.json").exists(), timeout=60_000)
    assert len(json.loads((folder[0] / "series.json").read_text("utf-8"))) == 2
    qtbot.waitUntil(lambda: outputs.sharing.dialog is None)


def test_layers_of_a_drawing_are_ticked_before_it_is_used(qtbot, opened, tmp_path):
    path = tmp_path / "crest.dxf"
    path.write_bytes(
        dxf(
            lambda m, d: [
                m.add_circle((30 * i, 0), 10, dxfattribs={"layer": n}) for i, n in enumerate(("cut", "notes"))
            ]
        )
    )
    opened.outlines.art.read(path)
    qtbot.waitUntil(lambda: dialog_of(ArtDialog) is not None and dialog_of(ArtDialog).use.isEnabled(), timeout=20_000)
    dialog = dialog_of(ArtDialog)
    cut, notes = dialog.layers
    assert (cut.text(), cut.isChecked(), notes.isChecked()) == ("cut", True, True)
    notes.click()
    qtbot.waitUntil(
        lambda: dialog._found is not None and dialog._found.values["wide"] == pytest.approx(20.0, rel=1e-3),
        timeout=20_000,
    )
    cut.click()
    assert not dialog.use.isEnabled() and "No layer" in dialog.said.text()
    cut.click()
    qtbot.waitUntil(lambda: dialog.use.isEnabled(), timeout=20_000)
    qtbot.mouseClick(dialog.use, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: any(a.kind == "drawing" for a in opened.document.job.artwork))
    assert next(a for a in opened.document.job.artwork if a.kind == "drawing").figures.width == pytest.approx(
        20.0, rel=1e-3
    )
    opened.act("undo")


@pytest.mark.parametrize("called_off", [False, True])
def test_a_series_whose_folder_is_gone_ends_in_a_sentence_and_is_over(tmp_path, called_off):
    table, out = tmp_path / "t.csv", tmp_path / "out"
    table.write_text("place\nWEIR\nLOCK\n", "utf-8")
    job = load(EXAMPLES / "quay-plate.gatepost").job
    line = job.carving.lines[0]
    job = commands.run(job, "set line", {"line": line.id, **outlines("{place}", line.face)})
    told = []
    work = SeriesWork(lambda *answer: told.append(answer), lambda: False)
    work.begin(7, Document(job), str(table), str(out), "smaller", False)
    out.rmdir()
    out.write_text("a file where the folder was")
    work.end() if called_off else work.step()
    assert not work.going and told[0][:2] == (7, SHARE)
    asked, outcome, verdict, words = told[-1]
    assert (asked, outcome, verdict) == (7, "series", False) and words.endswith(".") and "Traceback" not in words
