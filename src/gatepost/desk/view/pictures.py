# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures and the run sheet as files: the same drawings as the window's, on paper."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QBuffer, QIODevice, QRectF
from PyQt6.QtGui import (
    QColor,
    QGuiApplication,
    QImage,
    QPainter,
)
from PyQt6.QtWidgets import QApplication

from gatepost.core.errors import OperatorError
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.writing import write_whole
from gatepost.desk.theme.style import font, load_type
from gatepost.desk.theme.table import THEMES
from gatepost.desk.view.paint import Brush, fitted
from gatepost.drawing.bed import Shading, bed
from gatepost.drawing.heights import Look, heights
from gatepost.drawing.look import first_look, picture, subject
from gatepost.drawing.shade import shaded
from gatepost.drawing.shapes import Drawing
from gatepost.drawing.small import sign

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
    brush.draw(drawing, room)
    painter.restore()
    if drawing.rulers:
        brush.rulers(room, unit, not stretch)


def from_near(drawing: Drawing) -> Drawing:
    """The board and what holds it, filling the picture."""
    return replace(drawing, extents=drawing.close) if drawing.close is not None else drawing


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
        from_near(bed(plan, setup.name, stage, after, unit=unit, shading=shading)),
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


def sign_picture(plan: Plan, shading: Shading, width: int = 524, tall: int = 248) -> QImage:
    """The finished sign alone on the bed's ground."""
    image = QImage(width, tall, QImage.Format.Format_RGB32)
    image.fill(QColor(THEMES["light"]["bed"]))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    drawing = sign(plan, shading)
    room = QRectF(8, 8, width - 16, tall - 16)
    Brush(painter, fitted(drawing, room), "light").draw(drawing, room)
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
    write_whole(path, out.data().data())


def write_pictures(plan: Plan, folder: Path) -> list[str]:
    """A picture of each setup as held, one of the wood after each of its operations, and the sign as it will look."""
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
    if plan.carving.operations:
        save_picture(as_it_will_look(plan), folder / "sign.png")
        names.append("sign.png")
    return names


def as_it_will_look(plan: Plan, width: int = 1280) -> QImage:
    """The sign after its last operation, so many pixels across."""
    rgba = np.ascontiguousarray(picture(subject(plan, plan.carving), first_look(plan, plan.carving), width))
    return QImage(rgba.tobytes(), rgba.shape[1], rgba.shape[0], 4 * rgba.shape[1], QImage.Format.Format_RGBA8888).copy()
