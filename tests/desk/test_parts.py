# SPDX-License-Identifier: GPL-3.0-or-later
"""The desk's parts by themselves: worker, pictures, recent jobs, fields, saving, pages of the log."""

import json
import os

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Finding, Fix, Gate, Level, Report
from gatepost.core.job import commands
from gatepost.core.job.file import Document, save
from gatepost.core.job.journal import Journal
from gatepost.core.wood.field import OUTSIDE, HeightField
from gatepost.desk.context.document import DeskDocument, opened
from gatepost.desk.pages.entries import PageEntry
from gatepost.desk.slate.fields import Field
from gatepost.desk.slate.slate import Slate
from gatepost.desk.start.recent import recent, remember
from gatepost.desk.view.figures import in_working, show_value
from gatepost.desk.view.paint import fitted, hit
from gatepost.desk.view.pictures import setup_picture
from gatepost.desk.view.sheet import head_html, run_sheet, sheet_html
from gatepost.desk.window.log_page import report_of
from gatepost.desk.worker.server import Request, _Server
from gatepost.desk.worker.shared import LostField, Receiver, Sender, memory_folder, name_for, sweep_leftovers, sweep_up
from gatepost.desk.worker.worker import PlanWorker
from gatepost.drawing import shade
from gatepost.drawing.bed import bed
from gatepost.drawing.shapes import Drawing, box
from gatepost.logbook.rows import Run


def test_the_worker_answers_the_newest_and_only_the_newest(qtbot, quay, lock7):
    plan_worker = PlanWorker()
    heard = []
    plan_worker.answered.connect(heard.append)
    try:
        for job in (lock7, quay, lock7, quay):
            last = plan_worker.ask(job, Journal())
        qtbot.waitUntil(lambda: any(r.outcome == "done" for r in heard), timeout=60_000)
        done = [r for r in heard if r.outcome == "done"]
        assert [r.id for r in done] == [last] and done[0].plan.job == quay
        assert {r.outcome for r in heard} <= {"progress", "done"}
    finally:
        plan_worker.end()


def test_a_first_look_is_given_of_another_job_and_never_of_one_whose_figures_stand(qtbot, quay):
    plan_worker = PlanWorker()
    heard = []
    plan_worker.answered.connect(heard.append)

    def outcomes(journal, first):
        heard.clear()
        number = plan_worker.ask(quay, journal, first=first)
        qtbot.waitUntil(lambda: any(r.outcome == "done" and r.id == number for r in heard), timeout=60_000)
        return [r.outcome for r in heard if r.outcome in ("coarse", "done")]

    try:
        assert outcomes(Journal(), True) == ["coarse", "done"]
        assert outcomes(Journal().add("t", "homed", "front"), True) == ["done"]
    finally:
        plan_worker.end()


def test_what_is_undone_is_there_at_once_and_what_comes_after_it_has_its_first_look(quay):
    class Pipe:
        def __init__(self):
            self.sent = []

        def poll(self, *_):
            return False

        def send_bytes(self, data):
            self.sent.append(data)

    server, receiver = _Server(Pipe()), Receiver()
    jobs = [commands.run(quay, "set plate", {"tab_height": h}) for h in (3.0, 3.5, 4.5)]

    def outcomes(number, job):
        server.pipe.sent.clear()
        server.reckon(Request(number, job, Journal()))
        told = [receiver.loads(data) for data in server.pipe.sent]
        return [r for r in told if r.outcome in ("coarse", "done", "progress")]

    server.took = 9.0
    first = outcomes(1, jobs[0])
    assert "coarse" in {r.outcome for r in first}
    server.took = 9.0
    outcomes(2, jobs[1])
    server.took = 9.0
    again = outcomes(3, jobs[0])  # undone: nothing is reckoned
    assert [r.outcome for r in again] == ["done"] and again[-1].plan.job == jobs[0]
    assert again[-1].plan.fingerprint == first[-1].plan.fingerprint and server.took == 9.0
    assert "coarse" in {r.outcome for r in outcomes(4, jobs[2])}
    sweep_up(os.getpid())


def test_pictures_and_the_run_sheet_say_what_the_plan_says(qapp, lock7_plan, tmp_path):
    image = setup_picture(lock7_plan, lock7_plan.setups[1], "hold", 0)
    colours = {image.pixelColor(x, y).name() for x in range(0, image.width(), 7) for y in range(0, image.height(), 7)}
    assert len(colours) > 50
    run_sheet(lock7_plan, tmp_path / "sheet.pdf")
    assert (tmp_path / "sheet.pdf").stat().st_size > 30_000
    with pytest.raises(OperatorError, match="another folder"):
        run_sheet(lock7_plan, tmp_path / "nowhere" / "sheet.pdf")
    html = head_html(lock7_plan, "2026-02-03") + sheet_html(lock7_plan, lock7_plan.setups[1])
    for words in (
        "C1: strap",
        "front-1-T4.nc",
        "Isolate",
        "emergency stop",
        lock7_plan.fingerprint,
        lock7_plan.setups[1].programs[0].fingerprint,
        "Touch off Z",
    ):
        assert words in html


def test_shaded_wood_is_transparent_where_it_is_cut_through_and_maps_go_from_low_to_high():
    z = np.full((20, 30), 10.0, np.float32)
    z[5:8, 4:9] = -0.3
    z[:, 25:] = OUTSIDE
    pixels = shade.shaded(HeightField(z, 0, 0, 1.0))
    assert pixels[20 - 6, 5, 3] == 0 and pixels[2, 2, 3] == 255 and pixels[2, 27, 3] == 0
    x, y = np.meshgrid(np.arange(5.0), np.arange(4.0))
    low, high = shade.height_map(x)[0, 0], shade.height_map(x)[0, -1]
    assert low[2] > low[0] and high[0] > high[2]
    flat = shade.height_map(np.full((4, 5), 13.65))[..., :3].astype(int)  # neither low nor high
    assert (np.abs(flat - shade.MIDDLE) <= 1).all()
    for level, pieces in shade.contours(x, y, x, 0.5):
        assert all(np.allclose(p[:, 0], level) for p in pieces)


@pytest.mark.parametrize("cell", [0.5, 2.0])
def test_the_quick_shading_equals_the_plain_one(cell):
    chance = np.random.default_rng(8)
    z = chance.uniform(5.0, 30.0, (37, 51)).astype(np.float32).round(1)
    z[chance.random(z.shape) < 0.1] = OUTSIDE
    z[10:14, 20:30] = 0.0
    field = HeightField(z, 0.0, 0.0, cell)
    quick, plain = shade.shaded(field).astype(int), shade.shaded_plainly(field).astype(int)
    assert abs(quick - plain).max() <= 1 and (quick[..., 3] == plain[..., 3]).all()
    assert not shade.shaded(HeightField(np.full((4, 4), OUTSIDE, np.float32), 0, 0, 1.0)).any()


def test_fields_are_shared_once_their_files_go_and_a_lost_one_is_said(tmp_path):
    giver, taker = Sender(), Receiver()
    field = HeightField(np.arange(12, dtype=np.float32).reshape(3, 4), 1.0, 2.0, 0.5)
    data = giver.dumps({"a": field, "b": (field, "words")})
    mine = set(memory_folder().glob(name_for(os.getpid()) + "*"))
    assert len(mine) == 1
    got = taker.loads(data)
    assert got["a"] is got["b"][0] and (got["a"].z == field.z).all()
    assert (got["a"].x0, got["a"].y0, got["a"].cell) == (1.0, 2.0, 0.5)
    assert not any(path.exists() for path in mine)
    assert taker.loads(giver.dumps(field)) is got["a"]
    with pytest.raises(LostField):
        Receiver().loads(giver.dumps(field))
    giver.forget()
    again = giver.dumps(field)
    assert (Receiver().loads(again).z == field.z).all()
    path, *_ = giver.lay(np.ones(5))
    assert os.stat(path).st_mode & 0o777 == 0o600  # read by nobody else
    (memory_folder() / f"{name_for(999_999_999)}left").write_bytes(b"x")
    sweep_leftovers()  # of processes that are gone, and of no other
    assert os.path.exists(path) and not (memory_folder() / f"{name_for(999_999_999)}left").exists()
    sweep_up(os.getpid())
    assert not set(memory_folder().glob(name_for(os.getpid()) + "*"))


def test_nothing_is_left_in_shared_memory_when_the_worker_ends(qtbot, quay):
    plan_worker = PlanWorker()
    heard = []
    plan_worker.answered.connect(heard.append)
    plan_worker.ask(quay, Journal())
    qtbot.waitUntil(lambda: any(r.outcome == "done" for r in heard), timeout=60_000)
    plan_worker.ask(quay, Journal())
    number = plan_worker._worker.process.pid
    plan_worker.end()
    assert not list(memory_folder().glob(name_for(number) + "*"))


def test_what_is_under_the_mouse_is_found_and_views_go_there_and_back(lock7_plan):
    drawing = bed(lock7_plan, "front", "hold")
    room = QRectF(46, 46, 700, 400)
    view = fitted(drawing, room)
    strap = next(h for h in lock7_plan.job.setup("front").holds if h.name == "C3")
    assert hit(drawing, view, view.to_screen(strap.x, strap.y + 20)).key == "hold:C3"
    assert hit(drawing, view, view.to_screen(30, 650)) is None
    assert view.to_mm(view.to_screen(123.5, -7.25)) == pytest.approx((123.5, -7.25))
    near = fitted(Drawing((box(0, 0, 1, 1, "bed"),), drawing.close), room)
    assert near.scale_x > view.scale_x
    assert hit(drawing, view, QPointF(-500, -500)) is None


def test_a_long_figure_is_shown_short_and_stays_exact_until_it_is_changed(qtbot):
    entry = PageEntry("X", "length", 300.0, "place blank", lambda v: {"x": v})
    field = Field(entry, "inch")
    qtbot.addWidget(field)
    heard = []
    field.entered.connect(heard.append)
    assert field.text() == "11.811"
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert heard == []
    field.selectAll()
    QTest.keyClicks(field, "12")
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert field.text() == "11.811" and heard == []
    field.selectAll()
    QTest.keyClicks(field, "11 13/16")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert heard == [pytest.approx(300.0375)]


def test_the_slate_offers_fixes_accepting_and_working(qtbot, lock7_plan):
    slate = Slate("light")
    qtbot.addWidget(slate)
    slate.show()
    fix = Fix("set tool", {"number": 1, "feed": 1.0}, "Feed slower")
    findings = (
        Finding("a.b", Level.STOP, "hold", "It hits. By much.", fixes=(fix,)),
        Finding("a.c", Level.CARE, "hold", "Is it so?"),
        Finding("a.d", Level.CARE, "hold", "It was.", accepted="tried"),
        Finding("a.e", Level.OK, "hold", "Clear."),
    )
    report = Report("hold", "", "", lock7_plan.report("hold", "front").figures, findings, Gate.SHUT)
    wanted, asked = [], []
    slate.fix_wanted.connect(wanted.append)
    slate.accept_wanted.connect(asked.append)
    slate.show_stage("Hold", report, (), lock7_plan, "mm", "light")
    slate.focus_fix()
    buttons = {b.text(): b for b in slate.fields()}
    QTest.keyClick(slate.focusWidget(), Qt.Key.Key_Space)
    assert wanted == [fix]
    buttons["Accept…"].click()
    assert [f.code for f in asked] == ["a.c"]
    margin = next(name for name in buttons if name.startswith("Margin"))
    buttons[margin].click()
    QApplication.processEvents()
    assert slate.checks.open == {margin}
    shown = [
        w.text() for w in slate.findChildren(type(slate.title)) if w.objectName() == "working" and not w.isHidden()
    ]
    assert any("shop rule" in words and " N" in words for words in shown), shown


@pytest.mark.parametrize(
    ("value", "kind", "unit", "shown"),
    [
        (34.126, "length", "mm", ("34.1", "mm")),
        (19.05, "length", "inch", ("3/4", "in")),
        (18000.0, "rpm", "mm", ("18 000", "rpm")),
        (0.0503, "length", "mm", ("0.05", "mm")),
        (float("inf"), "length", "mm", ("–", "")),
        ("words", "words", "mm", ("words", "")),
        (3.0, "count", "mm", ("3", "")),
    ],
)
def test_figures_in_words(value, kind, unit, shown):
    assert show_value(value, kind, unit) == shown
    if kind == "rpm":
        assert in_working("mm")(value, kind) == "18 000 rpm"


def test_recent_jobs_newest_first_without_those_that_are_gone(tmp_path, quay):
    data = tmp_path / "data"
    data.mkdir()
    paths = [tmp_path / f"{n}.gatepost" for n in "abc"]
    for path in paths:
        save(Document(quay), path)
        remember(data, path, path.stem)
    remember(data, paths[0], "a")
    paths[1].unlink()
    assert [job.name for job in recent(data)] == ["a", "c"]
    (data / "recent.json").write_text("{broken")
    assert recent(data) == []


def test_a_file_changed_outside_is_noticed_and_saving_makes_it_clean(tmp_path, quay, qapp):
    path = tmp_path / "q.gatepost"
    save(Document(quay), path)
    desk = opened(path)
    assert not desk.changed_outside() and not desk.dirty
    desk.run("set job", {"name": "Mine"})
    save(Document(quay), path)
    os.utime(path, ns=(1, 1))
    assert desk.changed_outside() and desk.dirty
    desk.save()
    assert not desk.changed_outside() and not desk.dirty and opened(path).job.name == "Mine"
    desk.happened(desk.journal.add("t", "homed"))
    assert desk.dirty
    desk.happened(Journal())
    assert [e.kind for e in desk.journal.entries] == ["homed"]  # nothing of it is lost


def test_a_refusal_is_told_and_pushes_nothing(qapp, quay):
    desk = DeskDocument(Document(quay))
    said = []
    desk.refused.connect(said.append)
    assert not desk.run("set blank", {"width": 0.0}) and said and desk.stack.count() == 0
    assert desk.run("set blank", {"width": quay.blank.width}) and desk.stack.count() == 0


def test_a_run_in_words():
    run = Run(4, "2026-01-01T10:00:00", "", "stopped", "simulated", "J", "", "front", "p.nc", "T3", "elm", "abc", 5.0, 1.25, 40, 90,
              {"x": -5.0}, [{"at": "2026-01-01T10:01:07", "what": "pause"}], "slower", "it was stopped")  # fmt: skip
    report = report_of(run)
    words = json.dumps([f.message for f in report.findings])
    for part in ("stopped, simulated", "10:01:07: pause", "Remark: slower", "it was stopped"):
        assert part in words
    assert ("Blocks done", "40 of 90") in [(f.label, f.value) for f in report.figures]


def test_nothing_heavy_is_imported_before_the_first_paint():
    import subprocess
    import sys

    code = "import sys, gatepost.desk.app; print([m for m in ('scipy', 'shapely', 'numba', 'sqlalchemy', 'fontTools') if m in sys.modules])"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
    assert done.stdout.strip() == "[]", done.stderr


def test_what_the_window_s_process_loads_to_lead_a_machine_reckons_nothing():
    import subprocess
    import sys

    code = (
        "import sys; from gatepost.machine import conduct, resume, keeping, launch, session; import gatepost.desk.machine.operator, "
        "gatepost.desk.window.presenter, gatepost.core.tables, gatepost.core.plan.result; "
        "print([m for m in ('scipy', 'numba') if m in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
    assert done.stdout.strip() == "[]", done.stderr


def test_each_question_has_one_answer_whatever_else_is_worked_out(qtbot, quay, tmp_path):
    """Asked while a plan is made, and while a comparison of ways is; and when the process dies with some open."""
    plan_worker, answers = PlanWorker(), []
    plan_worker.told.connect(lambda answer: answers.append(answer) if answer.outcome != "share" else None)
    with qtbot.waitSignal(plan_worker.answered, timeout=60_000, check_params_cb=lambda r: r.outcome == "done"):
        plan_worker.ask(quay, Journal())
    (tmp_path / "p.nc").write_text("G21 G90\nG0 X1 Y1\nM30\n")
    asked = [plan_worker.question("ways", quay, "front", 4)]
    asked += [plan_worker.question("judge", "front", "hold:C1", 1.0 * n, 0.0) for n in range(3)]
    asked += [
        plan_worker.question("check", quay, str(tmp_path / "p.nc")),
        plan_worker.question("drawing", str(tmp_path / "none.svg")),
    ]
    asked += [plan_worker.question("nonsense"), plan_worker.question("call off")]
    qtbot.waitUntil(lambda: len(answers) == len(asked), timeout=60_000)
    assert sorted(a.asked for a in answers) == asked and not plan_worker._open
    assert {a.outcome for a in answers if a.asked == asked[4]} == {"check"}
    del answers[:]
    asked = [
        plan_worker.question("ways", quay, "front", 4),
        plan_worker.question("check", quay, str(tmp_path / "p.nc")),
    ]
    plan_worker._worker.process.kill()
    qtbot.waitUntil(lambda: len(answers) == 2, timeout=10_000)
    assert sorted(a.asked for a in answers) == asked and all(a.plan is False and "ended" in a.words for a in answers)
    plan_worker.end()


def test_a_job_that_grows_a_figure_while_it_is_sent_is_sent_all_the_same():
    from types import SimpleNamespace

    from gatepost.desk.worker.worker import PlanWorker

    sent, tries = [], iter([RuntimeError("dictionary changed size during iteration")] * 3)

    def send(asked):
        wrong = next(tries, None)
        if wrong is not None:
            raise wrong
        sent.append(asked)

    PlanWorker._send(SimpleNamespace(_pipe=SimpleNamespace(send=send)), "a job")
    assert sent == ["a job"]


@pytest.mark.parametrize("name", ["X0 Y0 at", "Laid square by", "Z0 on"])
def test_a_list_that_opens_shows_all_of_its_choices_whole(qtbot, opened, name):
    opened.go("zero")
    opened.desk.slate.turn("entered")
    box = next(f for f in opened.desk.slate.fields() if f.accessibleName() == name)
    box.showPopup()
    view = box.view()
    qtbot.waitUntil(view.isVisible)
    room = view.viewport().rect()
    for row in range(box.count()):
        at = view.visualRect(view.model().index(row, 0))
        assert room.contains(at) and at.height() >= 26, box.itemText(row)
        assert view.fontMetrics().horizontalAdvance(box.itemText(row)) < room.width()
    box.hidePopup()
