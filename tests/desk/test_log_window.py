# SPDX-License-Identifier: GPL-3.0-or-later
"""The log by keys: rows looked for and compared, a lesson that comes back where it belongs, a piece judged, a diary written, what is due."""

import csv
import io
import json
from datetime import date, timedelta

import cv2
import numpy as np
import pytest
import shapely
from PyQt6.QtCore import QItemSelectionModel
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from gatepost.core.log.lesson import Lesson
from gatepost.desk.app import book
from tests.desk.looking import ROW, Keys, planned, push, rows


def seen(label):
    """Whether words stand where they are seen, and are not scrolled away."""
    QApplication.processEvents()
    return label.isVisible() and label.visibleRegion().boundingRect().height() >= label.fontMetrics().height()


def test_rows_are_found_by_what_is_typed_and_chosen_and_two_stand_beside_each_other(qtbot, quay_open):
    w = quay_open
    rows(
        {},
        {"wood": "oak", "remarks": "burned at the knot", "tool": "T2 6 flat"},
        {"kind": "simulated", "started": "2025-01-01T09:00:00"},
    )
    w.go("log")
    log = w.desk.log
    assert (
        len(log.rows) == 3
        and "2 in the shop, real × 1.25" in log.filter.told.text()
        and "1 simulated" in log.filter.told.text()
    )
    QTest.keyClicks(log.filter.words, "KNOT burned")
    qtbot.waitUntil(lambda: len(log.rows) == 1, timeout=5_000)
    assert log.current().wood == "oak"
    push(log.filter.clear)
    assert len(log.rows) == 3
    log.filter.since.setText("2026-0x")
    qtbot.waitUntil(lambda: "not a date" in log.filter.told.text(), timeout=5_000)
    assert len(log.rows) == 3  # what is no date leaves nothing out
    log.filter.since.setText("2026")
    qtbot.waitUntil(lambda: len(log.rows) == 2, timeout=5_000)
    log.filter.until.setText("2025-12")
    qtbot.waitUntil(lambda: log.rows == [], timeout=5_000)
    push(log.filter.clear)
    log.filter.wood.setFocus()
    QTest.keyClicks(log.filter.wood, "o")
    assert [r.wood for r in log.rows] == ["oak"]
    w.presenter.show_log(1)  # chosen by its number: all are shown again
    assert log.current().id == 1 and len(log.rows) == 3
    for row in (0, 2):
        flag = QItemSelectionModel.SelectionFlag.Rows | QItemSelectionModel.SelectionFlag.Select
        log.table.selectionModel().select(log.model.index(row, 0), flag)
    assert [r.id for r in log.picked()] == [3, 1] and not log.lesson.isEnabled()
    push(log.acts["compare"])
    table = w.build().logging.dialog.table
    told = {table.item(r, 0).text(): [table.item(r, c).text() for c in (1, 2)] for r in range(table.rowCount())}
    assert told["Kind"] == ["simulated", "shop"] and told["Job"] == ["Quay plate"] * 2
    assert table.item(0, 1).font().bold() and not table.item(table.rowCount() - 1, 1).font().bold()


def test_twenty_thousand_rows_are_looked_through_while_one_types(qtbot, quay_open):
    from sqlalchemy import insert

    from gatepost.logbook.rows import Row

    w = quay_open
    log = book()
    with log._session() as session:
        many = [
            {**ROW, "started": f"{date(2024, 1, 1) + timedelta(days=i % 900)}T09:00:00", "kind": "shop", "job": f"Job {i % 300}", "tool": "T1 60° V", "wood": "elm", "state": "done", "key": f"{i}"}
            for i in range(20_000)
        ]  # fmt: skip
        session.execute(insert(Row), many)
    log.close()
    w.go("log")
    page = w.desk.log
    assert len(page.rows) == 300  # the newest at once, the others as they are read
    qtbot.waitUntil(lambda: len(page.rows) == 20_000, timeout=60_000)
    QTest.keyClicks(page.filter.words, "Job 299")
    qtbot.waitUntil(lambda: 66 <= len(page.rows) < 400, timeout=10_000)
    assert all("299" in f"{r.id} {r.job}" for r in page.rows) and sum(r.job == "Job 299" for r in page.rows) == 66


def test_a_remark_becomes_a_lesson_that_comes_back_is_taken_and_declined_with_a_reason(qtbot, quay_open, said, monkeypatch):  # fmt: skip
    w, keys = quay_open, Keys(qtbot, quay_open)
    plan = w.presenter.plan
    cut = next(op for s in plan.setups for op in s.operations if op.kind == "vcut")
    wood, tool = plan.job.wood.name, cut.tool
    rows(
        {
            "wood": wood,
            "tool": f"T9 {tool.name}",
            "remarks": "burned in the corners",
            "cuts": [{"name": "a", "kind": "vcut"}],
        }
    )
    rows({"kind": "simulated, seed 7", "remarks": "burned"})
    w.go("log")
    push(w.desk.log.lesson)
    assert "learned in the shop" in said[-1] and w.build().logging.second is None
    w.desk.log.table.selectRow(1)
    push(w.desk.log.lesson)
    dialog = w.build().logging.second
    assert dialog.words.text() == "burned in the corners" and [n for n, (tick, _) in dialog.ties.items() if tick.isChecked()] == ["wood", "tool", "kind"]  # fmt: skip
    dialog.amount.setCurrentIndex(dialog.amount.findData("feed"))
    dialog._figure_chosen()
    dialog.bad.setText(f"{tool.feed:g} mm")
    dialog.good.setText("fast")
    dialog.keep()
    assert "no figure" in dialog.wrong.text() and seen(dialog.wrong)
    dialog.good.setText(f"{1.25 * tool.feed / 1000.0:g} m/min")
    dialog.keep()
    assert "comes back" in said[-1]
    keys.stage(7)
    report = w.context.showing.report("tools")
    (told,) = [f for f in report.findings if f.code == "lesson.returns"]
    assert "burned in the corners" in told.message and not told.stands
    assert not [f for f in w.context.showing.report("hold").findings if f.code == "lesson.returns"]
    w.findings.apply(told.fixes[0])
    planned(qtbot, w)
    assert w.document.job.tool(tool.number).feed == pytest.approx(1.25 * tool.feed)
    (told,) = [f for f in w.context.showing.report("tools").findings if f.code == "lesson.returns"]
    assert [f.sentence for f in told.fixes] == ["Not here, with a reason"]
    monkeypatch.setattr("gatepost.desk.dialogs.questions.ask_reason", lambda parent, words: "another maker's bit")
    w.findings.apply(told.fixes[0])
    assert not [f for f in w.context.showing.report("tools").findings if f.code == "lesson.returns"]
    w.act("lessons")
    listed = w.build().logging.dialog
    assert "burned in the corners" in listed.list.item(0).text() and "another maker's bit" in listed.told.text()
    push(listed.away)
    assert listed.list.count() == 0 and w.context.showing.lessons == ()


def test_a_piece_is_judged_only_where_one_was_made_and_what_is_found_is_kept(qtbot, quay_open, said):
    w = quay_open
    w.act("judge")
    assert "no piece to judge" in said[-1]
    rows({"job": w.document.job.name, "kind": "simulated"})
    w.act("judge")
    dialog = w.build().logging.dialog
    dialog.keep()
    assert "Nothing is judged yet" in dialog.wrong.text() and seen(dialog.wrong)
    at = next(i for i, p in enumerate(dialog.asked.points) if p.figure is not None)
    promised = dialog.asked.points[at]
    found, eye, _ = dialog.points[at]
    found.setText("wide")
    dialog.keep()
    assert promised.words in dialog.wrong.text() and dialog.isVisible()
    found.setText(f"{promised.figure + promised.within + 0.5:.3f} mm")
    eye.setCurrentIndex(1)  # good by eye: the measure counts more
    dialog.keep()
    assert "0 of 1 points" in said[-1]
    log = book()
    (kept,) = log.learned.results(w.document.job.name)
    log.close()
    assert kept.kind == "simulated" and kept.fingerprint == w.presenter.plan.fingerprint
    (point,) = [p for p in kept.points if p.judged]
    assert point.promised.key == promised.key and point.off == pytest.approx(promised.within + 0.5, abs=1e-3)


def test_the_diary_is_one_page_that_is_searched_and_written(qtbot, quay_open, tmp_path, said):
    w = quay_open
    journal = w.document.journal.add("2026-03-02T08:50:00", "homed", "front").add("2026-03-02T08:55:00", "touched", "front", axis="z", machine=-40.0)  # fmt: skip
    w.document.happened(journal)
    rows(
        {"job": w.document.job.name, "marks": [{"at": "2026-03-02T09:03:00", "block": 3, "what": "=burning"}]},
        {"job": "Another"},
    )
    w.act("diary")
    logging = w.build().logging
    dialog = logging.dialog
    page = dialog.page.toPlainText()
    assert page.index("Homed") < page.index("Z touched") < page.index("Run 1, in the shop") < page.index("=burning")
    assert "Monday, 2 March 2026" in page and "Run 2" not in page
    QTest.keyClicks(dialog.sought, "burning")
    assert [x.kind for x in dialog.shown()] == ["said"]
    dialog.sought.clear()
    for kind in ("pdf", "csv", "json"):
        logging.write_diary(tmp_path / f"d.{kind}", w.document.job.name, dialog.shown())
    qtbot.waitUntil(lambda: (tmp_path / "d.pdf").exists() and "d.pdf" in said[-1], timeout=20_000)
    assert (tmp_path / "d.pdf").read_bytes().startswith(b"%PDF")
    table = list(csv.DictReader(io.StringIO((tmp_path / "d.csv").read_bytes().decode(), newline="")))
    read = json.loads((tmp_path / "d.json").read_text("utf-8"))
    assert [r["words"] for r in table] == [r["words"] for r in read] and len(read) == len(dialog.shown())
    w.go("log")
    logging.export_to(tmp_path / "rows.csv")
    logging.export_to(tmp_path / "rows.json")
    told = list(csv.DictReader(io.StringIO((tmp_path / "rows.csv").read_bytes().decode(), newline="")))
    assert [r["id"] for r in told] == [str(r["id"]) for r in json.loads((tmp_path / "rows.json").read_text("utf-8"))] == ["2", "1"]  # fmt: skip


def test_what_is_due_is_done_changed_put_away_and_handed_over(qtbot, quay_open, said):
    w = quay_open
    w.context.keep_for_shop("gauge", "block 25", {"gauge": "plate", "gauge_checked": date.today().isoformat()})
    w.act("due")
    logging = w.build().looked_after
    dialog = logging.dialog
    assert [d.check.of for d in dialog.found if not d.due] == ["block 25"]
    first = dialog.current().check.name
    dialog.by.setText("Wyn")
    push(dialog.did)
    again = next(d for d in dialog.found if d.check.name == first)
    assert not again.due and again.check.by == "Wyn"
    count = len(dialog.found)
    dialog.change_wanted.emit(None)
    other = logging.second
    other.fields["name"].setText("Oil the rails")
    other.keep()
    assert "after how many" in other.wrong.text().lower() and seen(other.wrong)
    other.fields["hours"].setText("12,5")
    other.keep()
    assert len(dialog.found) == count + 1
    oiled = next(d.check for d in dialog.found if d.check.name == "Oil the rails")
    dialog.away_wanted.emit(oiled)
    dialog.away_wanted.emit(dialog.found[0].check)
    assert len(dialog.found) == count - 1
    dialog.handover_wanted.emit()
    signing = logging.second
    signing.from_.setText("Wyn")
    signing.keep()
    assert "open" in signing.wrong.text() and seen(signing.wrong)
    for tick in signing.points:
        tick.setChecked(True)
    signing.keep()
    assert "Signed by Wyn" in said[-1]
    assert len(w.context.kept_by_shop("handover")) == 1


def test_the_registers_show_what_the_shop_has_and_a_plate_that_was_measured_is_known_everywhere(
    qtbot, quay_open, tmp_path
):
    w = quay_open
    w.context.keep_for_shop(
        "gauge", "block 25", {"gauge": "plate", "gauge_thickness": 25.4, "gauge_checked": "2020-01-02"}
    )
    w.context.keep_for_shop("tool", "8 mm flat", {"diameter": 8.0, "hangs": "B4"})
    w.act("registers")
    acts = w.build().looked_after
    dialog = acts.dialog
    top = [dialog.tree.topLevelItem(n) for n in range(dialog.tree.topLevelItemCount())]
    assert [t.text(1).partition(":")[0] for t in top][:3] == ["Machines", "Tools", "Plates and sensors"]
    dialog.tree.setFocus()
    dialog.tree.setCurrentItem(top[2].child(0))
    assert dialog.tree.currentItem().text(1) == "block 25" and "Due" in dialog.told.text() and seen(dialog.told)
    dialog.by.setText("Wyn")
    push(dialog.did)
    today = date.today().isoformat()
    assert dialog.current().name == "block 25" and dialog.current().standing == "good"  # the same line stays chosen
    assert w.context.kept_by_shop("gauge")["block 25"].data["gauge_checked"] == today
    dialog.tree.setCurrentItem(dialog.tree.topLevelItem(1).child(0))
    assert not dialog.did.isEnabled() and dialog.change.text() == "Look after it…"
    push(dialog.change)
    asked = acts.second
    assert asked.fields["of"].text() == "8 mm flat"
    asked.fields["name"].setText("Look at its edges")
    asked.fields["days"].setText("14")
    asked.keep()
    line = dialog.current()
    assert (line.kind, line.name, line.standing) == ("tool", "8 mm flat", "due") and line.what.startswith(
        "Look at its edges"
    )
    acts.write_to(tmp_path / "registers.csv")
    read = list(csv.DictReader(io.StringIO((tmp_path / "registers.csv").read_text("utf-8"))))
    assert len(read) == len(dialog.lines) and {"Woods", "Tools"} <= {r["register"] for r in read}


def test_a_photo_of_the_piece_is_laid_over_its_plan_and_kept_with_how_it_came_out(qtbot, quay_open, tmp_path, said):
    from shapely import affinity

    from gatepost.core.plan.photo_over import face_of
    from tests.core.photos import Camera, fill

    w = quay_open
    setup = w.presenter.plan.carving.name
    face = face_of(w.presenter.plan, setup)
    wide, tall = face.size
    camera = Camera((wide / 2 + 30, tall / 2 - 20, 700.0), (wide / 2, tall / 2), 4.0, focal=1500.0, size=(1200, 800))
    seen = lambda ring: camera.see(np.column_stack([np.asarray(ring)[:, :2], np.zeros(len(ring))]))  # noqa: E731
    corners = seen([(0, 0), (wide, 0), (wide, tall), (0, tall)])
    board, cut = (np.zeros((4 * 800, 4 * 1200), np.uint8) for _ in range(2))
    fill(board, corners)
    for _, shape in face.shapes:
        for part in shapely.get_parts(affinity.translate(shape, 3.0, -1.6)):
            fill(cut, seen(part.exterior.coords))
            for ring in part.interiors:
                hole = np.zeros_like(cut)
                fill(hole, seen(ring.coords))
                cut[hole > 0] = 0
    image = np.full((4 * 800, 4 * 1200, 3), 130, np.uint8)
    image[board > 0], image[cut > 0] = (120, 170, 205), (60, 60, 70)
    cv2.imwrite(str(tmp_path / "piece.png"), cv2.resize(image, (1200, 800), interpolation=cv2.INTER_AREA))
    photos = w.build().photos
    photos.read(w.presenter.plan, tmp_path / "piece.png")
    qtbot.waitUntil(lambda: photos.dialog is not None, timeout=20_000)
    dialog = photos.dialog
    assert not dialog.over.isEnabled()
    dialog.across.setText("wide")
    for corner in corners:
        dialog.view.add(tuple(corner))
        dialog.view.changed.emit()
    push(dialog.over)
    assert dialog.found is None and dialog.told.text()  # what is no length is told
    dialog.across.setText(f"{wide:.2f} mm")
    push(dialog.over)
    qtbot.waitUntil(lambda: dialog.found is not None, timeout=60_000)
    found = dialog.found
    dialog.up.setText(f"{tall + 1:.2f} mm")
    dialog.show_found(found)  # an answer to what was asked before: it says nothing of the size that stands now
    assert dialog.found is None and not dialog.keep.isEnabled()
    dialog.up.setText(f"{tall:.2f} mm")
    push(dialog.over)
    qtbot.waitUntil(lambda: dialog.found is not None, timeout=60_000)
    found = dialog.found
    assert np.hypot(found.right - 3.0, found.behind + 1.6) <= found.doubt and len(dialog.view.drawn) == len(found.seen)
    assert "to the right" in dialog.told.text() and "±" in dialog.told.text()
    push(dialog.keep)
    log = book()
    (kept,) = log.learned.results(w.document.job.name)
    log.close()
    assert kept.points[0].found == pytest.approx(found.off) and kept.kind == "simulated" and "±" in said[-1]


def test_what_others_write_into_the_book_comes_by_itself(qtbot, quay_open):
    w = quay_open
    news = w.build().news
    with qtbot.waitSignal(news._looked, timeout=10_000):
        news.look()
    w.go("log")
    assert not w.desk.log.rows and not w.context.showing.lessons
    rows({"job": "Another one"})
    other = book()
    other.learned.add(Lesson("burned at full feed", wood="elm", made="2026-03-02"))
    other.close()
    with qtbot.waitSignal(news.came, timeout=10_000):
        news.look()
    assert [r.job for r in w.desk.log.rows] == ["Another one"]
    assert [x.words for x in w.context.showing.lessons] == ["burned at full feed"]
    with qtbot.waitSignal(news._looked, timeout=10_000), qtbot.assertNotEmitted(news.came):
        news.look()  # nothing new
