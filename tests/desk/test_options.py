# SPDX-License-Identifier: GPL-3.0-or-later
"""Designs with what was wrong with each, approved, compared and put on paper at true size."""

import numpy as np
import pytest
from PyQt6.QtCore import QSize
from PyQt6.QtGui import QImage
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtWidgets import QInputDialog

from gatepost.core.errors import OperatorError
from gatepost.core.job.file import Document, save
from gatepost.desk.view.options_sheet import PAPERS, SMALLER, WORDS_TALL, fitting
from gatepost.desk.view.sheet import MARGIN
from tests.desk.looking import planned

DOTS = 4.0  # px a mm


def pages(path):
    """Pages as arrays of darkness."""
    document = QPdfDocument(None)
    document.load(str(path))
    out = []
    for i in range(document.pageCount()):
        points = document.pagePointSize(i)
        size = QSize(*(round(v / 72.0 * 25.4 * DOTS) for v in (points.width(), points.height())))
        image = document.render(i, size).convertToFormat(QImage.Format.Format_RGBA8888)
        raw = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), np.uint8).reshape(
            image.height(), image.width(), 4
        )
        alpha = raw[..., 3:4] / 255.0
        out.append(255.0 - (raw[..., :3] * alpha + 255.0 * (1.0 - alpha)).mean(axis=2))
    return out


@pytest.mark.parametrize(
    "sizes",
    [
        [(150, 90)],
        [(250, 60)],
        [(300, 110)],
        [(260, 250)],
        [(900, 200)],
        [(150, 90), (390, 60)],
        [(2400, 1200)],
        [(20, 3000)],
    ],
)
def test_the_smallest_paper_on_which_all_fit_and_no_smaller_than_need_be(sizes):
    paper, side, smaller = fitting(sizes)
    across, up = next(s for p, d, s in PAPERS if (p, d) == (paper, side))
    assert all(w / smaller <= across - 2 * MARGIN and t / smaller <= up - 2 * MARGIN for w, t in sizes)
    before = SMALLER[max(SMALLER.index(smaller) - 1, 0)]
    if smaller > 1:  # on no paper at all would it be larger
        assert not any(
            all(w / before <= a - 2 * MARGIN and t / before <= u - 2 * MARGIN - WORDS_TALL for w, t in sizes)
            for _, _, (a, u) in PAPERS
        )


def test_what_no_paper_holds_is_told():
    with pytest.raises(OperatorError, match="too large"):
        fitting([(9000.0, 100.0)])


def test_designs_are_kept_with_what_is_wrong_approved_compared_and_printed_at_true_size(
    qtbot, quay_open, tmp_path, monkeypatch, said
):
    w = quay_open
    monkeypatch.setattr(QInputDialog, "exec", lambda self: 1)
    monkeypatch.setattr(QInputDialog, "textValue", lambda self: "A. Rook: as drawn")
    w.act("designs")
    designs = w.lettering.designs
    qtbot.waitUntil(lambda: designs.dialog is not None, timeout=20_000)
    dialog = designs.dialog
    dialog.approve_wanted.emit("")
    (one,) = w.document.job.approvals
    assert (one.by, one.words, one.design) == ("A. Rook", "as drawn", "First design")
    dialog.name.setText("Larger")
    dialog.why.setText("too small from the quay")
    dialog.why.returnPressed.emit()
    kept = w.document.job.designs[0]
    assert kept.why == "too small from the quay" and not dialog.why.text()
    art = next(a for a in w.document.job.artwork if a.kind == "lettering")
    w.context.run("set line", {"line": art.figures.lines[1].id, "height": 1.2 * art.figures.lines[1].height})
    planned(qtbot, w)
    assert [v.stands for v in designs.versions()] == [False, True]
    designs.moved(kept.id)
    assert designs.changes_dialog.windowTitle() == "What changed"
    designs.changes_dialog.accept()
    designs.sheet_to(tmp_path / "options.pdf")
    qtbot.waitUntil(lambda: bool(said) and "options.pdf" in said[-1], timeout=60_000)
    assert "2 designs at true size" in said[-1]
    sheets = pages(tmp_path / "options.pdf")
    assert len(sheets) == 2
    wide, tall = w.presenter.plan.finishing.size
    for sheet in sheets:
        dark = sheet > 60  # wood: words do not fill whole rows
        rows = np.flatnonzero(dark.sum(axis=1) > 0.8 * wide * DOTS)
        columns = np.flatnonzero(dark[rows[0] : rows[-1]].sum(axis=0) > 0.5 * len(rows))
        assert len(columns) / DOTS == pytest.approx(wide, abs=1.5) and (rows[-1] - rows[0]) / DOTS == pytest.approx(
            tall, abs=12.0
        )
    dialog.accept()


def test_this_job_is_compared_with_another_file_of_it(qtbot, quay_open, tmp_path, said):
    w = quay_open
    path = tmp_path / "before.gatepost"
    save(Document(w.document.job), path)
    w.context.run("set blank", {"moisture": 12.5})
    w.lettering.designs.compare_with(path)
    dialog = w.lettering.designs.changes_dialog
    assert dialog is not None and dialog.isVisible()
    dialog.accept()
    path.write_bytes(b"no job")
    w.lettering.designs.compare_with(path)
    assert w.lettering.designs.changes_dialog is None and said
