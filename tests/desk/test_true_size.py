# SPDX-License-Identifier: GPL-3.0-or-later
"""Sheets at true size, rendered again from the PDF and measured in pixels."""

import numpy as np
import pytest
from PyQt6.QtCore import QSize
from PyQt6.QtGui import QImage
from PyQt6.QtPdf import QPdfDocument

from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.plan.pipeline import plan
from gatepost.desk.view.true_size import FOOT, MARGIN, OVERLAP, true_size
from tests.core.catalogue_jobs import JOBS

DOTS = 10.0  # px a mm that pages are rendered with
PAPER = {"a4": (210.0, 297.0), "a3": (297.0, 420.0), "letter": (215.9, 279.4)}


def rendered(path):
    """Pages as arrays of darkness, rows from the top."""
    document = QPdfDocument(None)
    document.load(str(path))
    pages = []
    for i in range(document.pageCount()):
        points = document.pagePointSize(i)
        size = QSize(round(points.width() / 72.0 * 25.4 * DOTS), round(points.height() / 72.0 * 25.4 * DOTS))
        image = document.render(i, size).convertToFormat(QImage.Format.Format_RGBA8888)
        raw = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), np.uint8).reshape(
            image.height(), image.width(), 4
        )
        alpha = raw[..., 3:4] / 255.0
        pages.append(255.0 - (raw[..., :3] * alpha + 255.0 * (1.0 - alpha)).mean(axis=2))
    return pages


@pytest.mark.parametrize("paper", PAPER)
def test_the_line_at_the_foot_is_100_mm_and_the_board_as_large_as_it_is(qtbot, tmp_path, paper):
    job = JOBS["plate"]()  # 120 by 80: on one sheet, turned so that it needs fewest
    told = plan(job, coarse=True)
    assert true_size(told, told.carving, tmp_path / "a.pdf", paper) == 1
    (page,) = rendered(tmp_path / "a.pdf")
    tall, wide = page.shape
    assert sorted((wide / DOTS, tall / DOTS)) == pytest.approx(sorted(PAPER[paper]), abs=0.2)
    foot = page[int(tall - (MARGIN + 4.0) * DOTS) : int(tall - (MARGIN + 2.0) * DOTS)]
    line = np.flatnonzero(foot.max(axis=0) > 100)
    line = line[line < (MARGIN + 103.0) * DOTS]
    assert line[-1] - line[0] == pytest.approx(100.0 * DOTS, abs=6)
    above = page[: int(tall - (MARGIN + FOOT + 1.0) * DOTS)] > 100
    columns, rows = np.flatnonzero(above.any(axis=0)), np.flatnonzero(above.any(axis=1))
    assert columns[-1] - columns[0] == pytest.approx(120.0 * DOTS, abs=6)
    assert rows[-1] - rows[0] == pytest.approx(80.0 * DOTS, abs=6)


def test_sheets_laid_over_each_other_are_one_drawing(qtbot, tmp_path):
    job = commands.run(JOBS["plate"](), "set blank", {"length": 300.0, "width": 90.0})
    told = plan(job, coarse=True)
    count = true_size(told, told.carving, tmp_path / "a.pdf")
    pages = rendered(tmp_path / "a.pdf")
    assert count == len(pages) == 2
    kept = int(OVERLAP * DOTS)
    side = int(MARGIN * DOTS)
    left, right = (p[side : int(p.shape[0] - (MARGIN + FOOT) * DOTS), side : p.shape[1] - side] > 120 for p in pages)
    met, same = left[:, -kept:], right[:, :kept]
    lines = [
        np.flatnonzero(part[:, 10:40].any(axis=1)) for part in (met, same)
    ]  # beside the line that they are joined by
    assert len(lines[0]) and abs(lines[0][0] - lines[1][0]) <= 2 and abs(lines[0][-1] - lines[1][-1]) <= 2
    whole = np.flatnonzero(left.any(axis=0))[0], np.flatnonzero(right.any(axis=0))[-1]
    across = left.shape[1] - kept + whole[1] - whole[0]
    assert across == pytest.approx(300.0 * DOTS, abs=10)


def test_what_no_paper_is_or_too_many_sheets_would_be_is_said(qtbot, tmp_path):
    told = plan(JOBS["plate"](), coarse=True)
    with pytest.raises(OperatorError, match="no paper"):
        true_size(told, told.carving, tmp_path / "a.pdf", "wall")
    wide = plan(commands.run(JOBS["plate"](), "set blank", {"length": 9000.0, "width": 4000.0}), coarse=True)
    with pytest.raises(OperatorError, match="sheets"):
        true_size(wide, wide.carving, tmp_path / "a.pdf")
    assert not (tmp_path / "a.pdf").exists()
