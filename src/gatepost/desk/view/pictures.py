# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures and the run sheet as files: the same drawings as the window's, on paper."""

from __future__ import annotations

import os
from pathlib import Path

from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QRectF
from PyQt6.QtGui import (
    QColor,
    QGuiApplication,
    QImage,
    QPageLayout,
    QPageSize,
    QPainter,
    QPdfWriter,
    QTextDocument,
)
from PyQt6.QtWidgets import QApplication

from gatepost.core.errors import OperatorError
from gatepost.core.job.model import Job
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.units import show_length, spell
from gatepost.core.writing import write_whole
from gatepost.core.zero.recover import Card
from gatepost.desk.theme.style import FAMILY, font, load_type
from gatepost.desk.theme.table import THEMES
from gatepost.desk.view.paint import Brush, fitted
from gatepost.drawing.bed import Shading, bed
from gatepost.drawing.heights import Look, heights
from gatepost.drawing.shade import shaded
from gatepost.drawing.shapes import Drawing

_kept: list[QApplication] = []  # Qt's application must outlive what is painted with it


def gui() -> QGuiApplication:
    """The application that painting needs; without a display, the offscreen platform."""
    running = QApplication.instance()
    if isinstance(running, QGuiApplication):
        return running
    if not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY"):
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = QApplication(["gatepost"])
    _kept.append(app)
    load_type()
    return app


def paint_drawing(
    painter: QPainter, drawing: Drawing, rect: QRectF, theme: str, unit: str, stretch: bool = False
) -> None:
    """One drawing with title and rulers in a rectangle."""
    c = THEMES[theme]
    left = 52.0 if drawing.rulers else 8.0
    room = rect.adjusted(left, 46.0, -14.0, -10.0)
    view = fitted(drawing, room, stretch)
    brush = Brush(painter, view, theme)
    painter.setPen(QColor(c["ink"]))
    painter.setFont(font(13, True))
    painter.drawText(QRectF(rect.left() + left, rect.top() + 6, 80, 18), drawing.title)
    painter.setPen(QColor(c["muted"]))
    painter.setFont(font(13))
    tall = f" · ×{view.scale_y / view.scale_x:.3g} tall" if stretch and drawing.tall else ""
    painter.drawText(QRectF(rect.left() + left + 56, rect.top() + 6, rect.width() - 80, 18), drawing.subtitle + tall)
    painter.save()
    painter.setClipRect(room.adjusted(-2, -2, 2, 2))
    brush.draw(drawing)
    painter.restore()
    if drawing.rulers:
        brush.rulers(room, unit, not stretch)


def setup_picture(
    plan: Plan,
    setup: PlannedSetup,
    stage: str,
    after: int = -1,
    theme: str = "light",
    width: int = 1200,
    tall: int = 1000,
    shading: Shading = shaded,
) -> QImage:
    """Bed above, heights below."""
    image = QImage(width, tall, QImage.Format.Format_RGB32)
    image.fill(QColor(THEMES[theme]["paper"]))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    split = tall * 0.7
    unit = plan.job.unit
    paint_drawing(
        painter,
        bed(plan, setup.name, stage, after, unit=unit, shading=shading),
        QRectF(0, 0, width, split),
        theme,
        unit,
    )
    paint_drawing(
        painter,
        heights(plan, setup.name, stage, Look(after=after, unit=unit)),
        QRectF(0, split, width, tall - split),
        theme,
        unit,
        True,
    )
    painter.end()
    return image


def heights_picture(pixels: object, path: Path) -> None:
    """An array of RGBA rows as a PNG."""
    import numpy as np

    array = np.ascontiguousarray(pixels)
    save_picture(
        QImage(array.tobytes(), array.shape[1], array.shape[0], 4 * array.shape[1], QImage.Format.Format_RGBA8888), path
    )


def save_picture(image: QImage, path: Path) -> None:
    """A picture as a PNG, whole or not at all. Raises OperatorError."""
    out = QBuffer()
    out.open(QIODevice.OpenModeFlag.WriteOnly)
    if not image.save(out, "PNG"):
        raise OperatorError(f"{path.name} can't be made: the picture is too large.")
    write_whole(path, bytes(out.data()))


def _pdf(title: str) -> tuple[QPdfWriter, QBuffer]:
    out = QBuffer()
    out.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(out)
    writer.setTitle(title)
    writer.setCreator("Gatepost")
    writer.setResolution(96)
    return writer, out


def _painter(writer: QPdfWriter, path: Path) -> QPainter:
    painter = QPainter(writer)
    if not painter.isActive():
        raise OperatorError(f"{path.name} can't be made.")
    return painter


def write_pictures(plan: Plan, folder: Path) -> list[str]:
    """A picture of each setup as held, and one of the wood after each of its operations."""
    gui()
    names: list[str] = []
    for setup in plan.setups:
        name = f"{setup.name}-held.png"
        save_picture(setup_picture(plan, setup, "hold", 0), folder / name)
        names.append(name)
        for number, op in enumerate(setup.operations, start=1):
            name = f"{setup.name}-after-{op.name}.png"
            save_picture(setup_picture(plan, setup, "run", number), folder / name)
            names.append(name)
    return names


def run_sheet(plan: Plan, path: Path) -> None:
    """The run sheet: steps with their cautions, programs, tools and open findings, and a picture of each setup."""
    gui()
    writer, out = _pdf(f"{plan.job.name}: run sheet")
    writer.setPageLayout(
        QPageLayout(
            QPageSize(QPageSize.PageSizeId.A4),
            QPageLayout.Orientation.Portrait,
            QMarginsF(14, 14, 14, 14),
            QPageLayout.Unit.Millimeter,
        )
    )
    painter = _painter(writer, path)
    area = QRectF(0, 0, writer.width(), writer.height())
    for number, setup in enumerate(plan.setups):
        if number:
            writer.newPage()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        top = QRectF(area.left(), area.top(), area.width(), area.height() * 0.36)
        image = setup_picture(plan, setup, "hold", 0, width=1000, tall=round(1000 * top.height() / top.width()))
        painter.drawImage(top, image)
        _pages(writer, painter, sheet_html(plan, setup), area, top.bottom() + 12)
    painter.end()
    write_whole(path, bytes(out.data()))


def zero_card(job: Job, setup: str, card: Card, path: Path) -> None:
    """A card to print: where the zeros are on the machine, with tool and time, and how to find them again."""
    gui()
    writer, out = _pdf(f"{job.name}: zeros of the {setup} setup")
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A5))
    painter = _painter(writer, path)
    area = QRectF(0, 0, writer.width(), writer.height())
    _pages(writer, painter, card_html(job, setup, card), area, 0.0)
    painter.end()
    write_whole(path, bytes(out.data()))


def card_html(job: Job, setup: str, card: Card) -> str:
    """The card's words."""
    zero, tool = job.setup(setup).zero, f"T{card.tool}" if card.tool else "no tool yet"
    rows = "".join(
        f"<tr><td><b>{axis}0</b>&nbsp;</td><td align='right'><b>{'–' if value is None else show_length(value, job.unit, 3, mark=True)}</b></td>"
        f"<td>&nbsp;{trust}: {why}</td><td>&nbsp;{at[:16].replace('T', ' ')}</td></tr>"
        for axis, value, trust, why, at in card.rows
    )
    mark = ""
    if zero.witness_x is not None and zero.witness_y is not None:
        mark = f"<p>Witness mark at X {show_length(zero.witness_x, job.unit, mark=True)}, Y {show_length(zero.witness_y, job.unit, mark=True)} of the board.</p>"
    name = job.name.replace("&", "&amp;").replace("<", "&lt;")
    return (
        f"<div style='font-family:\"{FAMILY}\"'><h2>{name}: zeros of the {setup} setup</h2><p>X0 Y0 at {zero.xy}, Z0 on the {zero.z}; {tool}; "
        f"{zero.gauge} of {show_length(zero.gauge_thickness, job.unit, mark=True)}.</p><table>{rows}</table>{mark}"
        "<p>To find them again: home; lift clear; go to X0 and Y0 by the machine's own coordinates; look at the witness mark; touch Z. "
        "Nothing cuts on an axis that is not known.</p></div>"
    )


def _pages(writer: QPdfWriter, painter: QPainter, html: str, area: QRectF, start: float) -> None:
    """Print rich text down the page and on to as many as it takes, never through a line."""
    document = QTextDocument()
    document.setDefaultFont(font(12))
    document.setHtml(html)
    document.setTextWidth(area.width())
    layout = document.documentLayout()
    assert layout is not None
    block = document.begin()
    at = start
    while block.isValid():
        rect = layout.blockBoundingRect(block)
        if at + rect.height() > area.bottom():
            writer.newPage()
            at = area.top()
        painter.save()
        painter.translate(0, at - rect.top())
        document.drawContents(painter, rect)
        painter.restore()
        at += rect.height()
        block = block.next()


def sheet_html(plan: Plan, setup: PlannedSetup) -> str:
    """One setup's part of the run sheet."""
    unit = plan.job.unit

    def say(words: str) -> str:
        return spell(words, unit).replace("&", "&amp;").replace("<", "&lt;")

    out = [f"<div style='font-family:\"{FAMILY}\"'>", f"<h2>{say(plan.job.name)}: {setup.name} setup</h2>"]
    out.append(f"<p>Plan {plan.fingerprint} · X0 Y0 at {setup.setup.zero.xy}, Z0 on the {setup.setup.zero.z}. "
               "Gatepost says what it checked, never that a setup is safe. The machine's manual and local rules come first.</p>")  # fmt: skip
    for program in setup.programs:
        out.append(f"<p><b>{program.name}</b>: {' and '.join(program.operations)} with T{program.tool.number} {say(program.tool.name)}, "
                   f"{program.tool.rpm:.0f} rpm, {program.seconds / 60:.0f} min, program {program.fingerprint}</p>")  # fmt: skip
    kinds = plan.kinds.holds
    for hold in setup.setup.holds:
        place = f"X {show_length(hold.x, unit)}, Y {show_length(hold.y, unit)}"
        out.append(f"<p>{hold.name}: {kinds[hold.kind].one} at {place}{say(kinds[hold.kind].set_to(hold))}</p>")
    for number, step in enumerate(setup.steps, start=1):
        figure = f" <b>{_figure(step.label, step.figure, step.unit, unit)}</b>" if step.figure is not None else ""
        out.append(
            f"<p>[ ] {number}. <b>{say(step.title)}</b>{figure} {say(step.detail)}"
            + (f" <i>{say(step.caution)}</i>" if step.caution else "")
            + "</p>"
        )
    for f in plan.findings:
        if f.setup in ("", setup.name) and f.level.value in ("stop", "care"):
            word = f"accepted: {say(f.accepted)}" if f.accepted else f.level.value
            out.append(f"<p>[{word}] {say(f.message)}</p>")
    return "".join(out) + "</div>"


def _figure(label: str, value: float, kind: str, unit: str) -> str:
    shown = f"{value:.0f} min" if kind == "minutes" else show_length(value, unit, mark=True)
    return f"{label} {shown}"
