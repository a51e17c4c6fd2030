# SPDX-License-Identifier: GPL-3.0-or-later
"""What is carved, on paper at its true size: sheets that are joined and laid on the board, with the zero, the edges and a line to check the printer by."""

from __future__ import annotations

import math
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import shapely
from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QPageLayout, QPageSize, QPainter, QPainterPath, QPdfWriter, QPen, QTransform

from gatepost.core.blank.shape import polygon
from gatepost.core.carve.areas import area_of
from gatepost.core.carve.paths import plate_outline
from gatepost.core.errors import OperatorError
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.writing import write_whole
from gatepost.desk.theme.style import font
from gatepost.desk.view.pictures import gui

PAPERS = {"a4": QPageSize.PageSizeId.A4, "a3": QPageSize.PageSizeId.A3, "letter": QPageSize.PageSizeId.Letter}
DPI = 600
MARGIN, OVERLAP, FOOT = (
    10.0,
    10.0,
    12.0,
)  # mm: that printers keep clear, that sheets lie over each other, that words take at the foot
CHECK = 100.0  # mm of the line that the printer is checked by
FINE = 0.02  # mm that straight pieces may lie beside a curve
MOST_SHEETS = 200


def true_size(plan: Plan, setup: PlannedSetup, path: Path, paper: str = "a4") -> int:
    """Write the sheets of a setup's face; gives how many. paper: of PAPERS. Raises OperatorError."""
    if paper not in PAPERS:
        raise OperatorError(f"There is no paper “{paper}” here: {', '.join(PAPERS)}.")
    gui()
    shapes = list(_shapes(plan, setup))
    box = shapely.union_all([shape for _, shape in shapes]).bounds
    sheets = min((Sheets(paper, side, box) for side in QPageLayout.Orientation), key=lambda s: s.count)
    if sheets.count > MOST_SHEETS:
        raise OperatorError(f"That would be {sheets.count} sheets: {MOST_SHEETS} at most. Take larger paper.")
    out = QBuffer()
    out.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(out)
    writer.setTitle(f"{plan.job.name}: {setup.name}, true size")
    writer.setCreator("Gatepost")
    writer.setResolution(DPI)
    writer.setPageLayout(sheets.layout)
    painter = QPainter(writer)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for number, (row, column) in enumerate(sheets.places()):
        if number:
            writer.newPage()
        _sheet(painter, plan, setup, shapes, sheets, row, column)
    painter.end()
    write_whole(path, out.data().data())
    return sheets.count


class Sheets:
    """How a drawing is parted among sheets of one kind. wide, high: of a sheet, printable, mm; box: of what is drawn."""

    def __init__(self, paper: str, side: QPageLayout.Orientation, box: tuple[float, float, float, float]) -> None:
        margins = QMarginsF(MARGIN, MARGIN, MARGIN, MARGIN)
        self.layout = QPageLayout(QPageSize(PAPERS[paper]), side, margins, QPageLayout.Unit.Millimeter)
        room = self.layout.paintRect(QPageLayout.Unit.Millimeter)
        self.wide, self.high, self.box = room.width(), room.height() - FOOT, box
        across, up = box[2] - box[0], box[3] - box[1]
        self.columns = max(1, math.ceil((across - OVERLAP) / (self.wide - OVERLAP)))
        self.rows = max(1, math.ceil((up - OVERLAP) / (self.high - OVERLAP)))
        self.count = self.columns * self.rows

    def places(self) -> Iterator[tuple[int, int]]:
        """Rows from the front, columns from the left."""
        return ((row, column) for row in range(self.rows) for column in range(self.columns))

    def corner(self, row: int, column: int) -> tuple[float, float]:
        """Of a sheet, on the face, mm: all of them together lie about the middle of what is drawn."""
        wide, high = (n * (size - OVERLAP) + OVERLAP for n, size in ((self.columns, self.wide), (self.rows, self.high)))
        left, low = 0.5 * (self.box[0] + self.box[2] - wide), 0.5 * (self.box[1] + self.box[3] - high)
        return left + column * (self.wide - OVERLAP), low + row * (self.high - OVERLAP)


def _shapes(plan: Plan, setup: PlannedSetup) -> Iterator[tuple[str, shapely.Geometry]]:
    """What is drawn on the face as it is read: the board, plates, artwork."""
    from_bed = setup.face_to_bed.inverse()
    yield "board", from_bed.area(setup.placed.to_bed.area(polygon(setup.blank)))
    done = [o for o in setup.setup.operations if o.id in plan.made]
    for operation in done:
        cut = plan.job.cut_out(operation)
        if cut is not None:
            yield "cut", plate_outline(cut, tol=FINE)
    for art in plan.job.artwork:
        if any(art.id in o.on and plan.job.cut_out(o) is None for o in done):
            area = area_of(art, FINE)
            if not area.is_empty:
                yield "outline" if art.kind == "plate" else "art", area


def _sheet(
    p: QPainter, plan: Plan, setup: PlannedSetup, shapes: list[tuple[str, shapely.Geometry]], sheets: Sheets, row: int, column: int
) -> None:  # fmt: skip
    """One sheet: what lies on it, where it joins the next ones, and the line that is measured."""
    dots = DPI / 25.4
    x0, y0 = sheets.corner(row, column)
    to_page = QTransform(dots, 0, 0, -dots, -x0 * dots, (y0 + sheets.high) * dots)
    room = QRectF(0, 0, sheets.wide * dots, sheets.high * dots)
    p.save()
    p.setClipRect(room)
    looks = {
        "board": (0.25, Qt.PenStyle.SolidLine),
        "cut": (0.35, Qt.PenStyle.DashLine),
        "art": (0.25, Qt.PenStyle.SolidLine),
    }
    for kind, shape in shapes:
        wide, style = looks[kind]
        p.setPen(QPen(QColor("black"), wide * dots, style))
        p.setBrush(QColor(225, 225, 225) if kind == "art" else Qt.BrushStyle.NoBrush)
        p.drawPath(to_page.map(_path(shape)))
    _zero(p, setup, to_page, dots)
    p.restore()
    _joins(p, sheets, row, column, room, dots)
    _foot(p, plan, setup, sheets, row, column, dots)


def _path(shape: shapely.Geometry) -> QPainterPath:
    out = QPainterPath()
    out.setFillRule(Qt.FillRule.OddEvenFill)
    for part in shapely.get_parts(shape):
        for ring in (part.exterior, *part.interiors):
            points = np.asarray(ring.coords)[:, :2].tolist()
            out.moveTo(*points[0])
            for point in points[1:]:
                out.lineTo(*point)
            out.closeSubpath()
    return out


def _zero(p: QPainter, setup: PlannedSetup, to_page: QTransform, dots: float) -> None:
    """X0 Y0, and the ways of X and Y from there."""
    back = setup.face_to_bed.inverse()
    work = setup.placed.work_to_bed
    at = to_page.map(QPointF(*back.xy(*work.xy(0.0, 0.0))))
    p.setPen(QPen(QColor("black"), 0.4 * dots))
    p.setFont(_print(3.2, dots))
    for way, name in (((15.0, 0.0), "X"), ((0.0, 15.0), "Y")):
        end = to_page.map(QPointF(*back.xy(*work.xy(*way))))
        p.drawLine(at, end)
        p.drawText(end + QPointF(1.0 * dots, -1.0 * dots), name)
    p.drawEllipse(at, 2.0 * dots, 2.0 * dots)
    p.drawText(at + QPointF(2.5 * dots, 5.0 * dots), "X0 Y0")


def _joins(p: QPainter, sheets: Sheets, row: int, column: int, room: QRectF, dots: float) -> None:
    """The middle of each overlap: cut one sheet there, and lay it on the other's line."""
    p.setPen(QPen(QColor(120, 120, 120), 0.15 * dots, Qt.PenStyle.DotLine))
    half = OVERLAP / 2.0 * dots
    for there, line in (
        (column > 0, (half, 0.0, half, room.height())), (column < sheets.columns - 1, (room.width() - half, 0.0, room.width() - half, room.height())),
        (row > 0, (0.0, room.height() - half, room.width(), room.height() - half)), (row < sheets.rows - 1, (0.0, half, room.width(), half)),
    ):  # fmt: skip
        if there:
            p.drawLine(QPointF(line[0], line[1]), QPointF(line[2], line[3]))


def _foot(p: QPainter, plan: Plan, setup: PlannedSetup, sheets: Sheets, row: int, column: int, dots: float) -> None:
    """Which sheet it is, and the line to measure."""
    y = (sheets.high + FOOT - 3.0) * dots
    p.setPen(QPen(QColor("black"), 0.3 * dots))
    p.drawLine(QPointF(0, y), QPointF(CHECK * dots, y))
    for x in (0.0, CHECK * dots):
        p.drawLine(QPointF(x, y - 1.5 * dots), QPointF(x, y + 1.5 * dots))
    p.setFont(_print(2.8, dots))
    p.drawText(
        QPointF(1.0 * dots, y - 2.2 * dots), "This line is 100 mm: measure it. Print at 100 %, fitted to nothing."
    )
    where = f"row {row + 1} of {sheets.rows} from the front, {column + 1} of {sheets.columns} from the left"
    right = QRectF((CHECK + 4.0) * dots, y - 6.0 * dots, (sheets.wide - CHECK - 4.0) * dots, 7.0 * dots)
    name = plan.job.name if len(plan.job.name) < 40 else plan.job.name[:39] + "…"
    p.drawText(right, int(Qt.AlignmentFlag.AlignRight | Qt.TextFlag.TextWordWrap), f"{name}, {setup.name}: {where}")


def _print(mm: float, dots: float) -> QFont:
    shown = font(10)
    shown.setPixelSize(round(mm * dots))
    return shown
