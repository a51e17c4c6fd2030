# SPDX-License-Identifier: GPL-3.0-or-later
"""A figure typed on the bed, at the place that it belongs to."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QLineEdit

from gatepost.desk.theme.style import font
from gatepost.desk.view.canvas import Canvas

WIDE, TALL = 150, 42  # px
BELOW = 20.0  # px between the place and the field


class PlaceField(QLineEdit):
    """Lies on a canvas under its place and follows it. Enter takes what is typed, and so does leaving it, as in any field; Tab goes on to
    the next place, Shift+Tab back, and both take what is typed; Escape first clears, then leaves. Space in the empty field is not its own."""

    taken = pyqtSignal(str)
    stepped = pyqtSignal(int)
    left = pyqtSignal()
    next_wanted = pyqtSignal()
    dropped = pyqtSignal()  # the focus has gone elsewhere

    def __init__(self, canvas: Canvas) -> None:
        super().__init__(canvas)
        self._canvas = canvas
        self._at = (0.0, 0.0)
        self.setObjectName("placefield")
        self.setProperty("ownEscape", True)
        self.setFont(font(20, True))
        self.resize(WIDE, TALL)
        self.hide()
        canvas.resized.connect(self._follow)

    def put(self, x: float, y: float, unit: str, named: str, text: str = "") -> None:
        """At a place of the canvas, mm; what is typed already goes along."""
        self._at = (x, y)
        self.setPlaceholderText("mm" if unit == "mm" else "in")
        self.setAccessibleName(named)
        self.setText(text)
        self.selectAll()
        self.show()
        self._follow()
        self.setFocus(Qt.FocusReason.OtherFocusReason)

    def _follow(self) -> None:
        view = self._canvas.view()
        if view is None or not self.isVisibleTo(self._canvas):
            return
        at = view.to_screen(*self._at)
        x = min(max(at.x() - WIDE / 2, 4.0), self._canvas.width() - WIDE - 4.0)
        below = at.y() + BELOW + TALL < self._canvas.height() - 4.0
        y = at.y() + BELOW if below else at.y() - BELOW - TALL
        self.move(QPointF(x, max(y, 4.0)).toPoint())
        self.raise_()

    def event(self, event: QEvent | None) -> bool:
        """Tab and Shift+Tab go from place to place, not from widget to widget."""
        key = event.key() if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress else 0
        if key in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            self.stepped.emit(1 if key == Qt.Key.Key_Tab else -1)
            return True
        return super().event(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """It is left; not for a menu, another window, or the bed that it lies on, where a click says what is meant."""
        super().focusOutEvent(event)
        menu = event is not None and event.reason() in (
            Qt.FocusReason.PopupFocusReason,
            Qt.FocusReason.ActiveWindowFocusReason,
        )
        if not menu and self.isVisible() and not self._canvas.hasFocus():
            self.dropped.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter, Escape, and Space where nothing is typed."""
        if event is None:
            return
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if self.text().strip():
                self.taken.emit(self.text())
            else:
                self.stepped.emit(1)
        elif key == Qt.Key.Key_Escape:
            if self.text():
                self.clear()
            else:
                self.left.emit()
        elif key == Qt.Key.Key_Space and not self.text():
            self.next_wanted.emit()
        else:
            super().keyPressEvent(event)
