# SPDX-License-Identifier: GPL-3.0-or-later
"""What dialogs are made of: a head, cards in the order of the act, and a row of buttons at the foot."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from gatepost.desk.theme.style import font
from gatepost.desk.theme.words import Label


def words_of(words: str = "", size: float = 15, bold: bool = False) -> QLabel:
    """Words that wrap."""
    label = Label(words)
    label.setFont(font(size, bold))
    label.setWordWrap(True)
    return label


def button_of(words: str, act: Callable[[], object], bold: bool = False) -> QPushButton:
    """A button that does something; Enter elsewhere does not press it."""
    button = QPushButton(words)
    button.setFont(font(15, bold))
    button.setAutoDefault(False)
    button.clicked.connect(lambda _=False: act())
    return button


def card(title: str, note: str = "") -> tuple[QWidget, QVBoxLayout]:
    """A card with its title, and the column that it is filled through."""
    box = QFrame()
    box.setObjectName("panel")
    column = QVBoxLayout(box)
    column.setContentsMargins(16, 12, 16, 14)
    column.setSpacing(8)
    head = Label(title)
    head.setFont(font(16, True))
    column.addWidget(head)
    if note:
        below = Label(note)
        below.setObjectName("muted")
        below.setWordWrap(True)
        column.addWidget(below)
    return box, column


def figures_of(names: Iterable[str], typed: Callable[[], object]) -> tuple[QFormLayout, list[QLineEdit]]:
    """A field for each figure, under each other. typed: is called whenever one is changed."""
    form, fields = QFormLayout(), []
    for name in names:
        field = QLineEdit()
        field.setFont(font(16))
        field.setAccessibleName(name)
        field.textChanged.connect(lambda _: typed())
        fields.append(field)
        form.addRow(name, field)
    return form, fields


class TitledDialog(QDialog):
    """A head over its body, and a row of buttons at the foot, never larger than the window that it stands over."""

    def __init__(self, parent: QWidget, title: str, wide: int = 640, tall: int = 620) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setObjectName("carddialog")
        self.resize(min(wide, max(parent.width() - 80, 400)), min(tall, max(parent.height() - 60, 320)))
        outer = QVBoxLayout(self)
        outer.setContentsMargins(22, 18, 22, 16)
        outer.setSpacing(12)
        head = Label(title)
        head.setFont(font(24, True))
        outer.addWidget(head)
        self.body = QVBoxLayout()
        self.body.setSpacing(10)
        outer.addLayout(self.body, 1)
        self._foot = QHBoxLayout()
        self._foot.addStretch(1)
        outer.addLayout(self._foot)

    def wrong_line(self) -> QLabel:
        """A line for what is wrong, over the buttons: never scrolled out of sight. Add it last."""
        line = words_of("")
        line.setObjectName("stop")
        self.body.addWidget(line)
        return line

    def buttons(self, *buttons: QPushButton) -> None:
        """At the foot, from the left."""
        for button in buttons:
            button.setMinimumHeight(38)
            button.setMinimumWidth(120)
            self._foot.addWidget(button)


class CardDialog(TitledDialog):
    """column: filled with cards; what is longer than the screen scrolls, and the buttons stay in sight."""

    def __init__(self, parent: QWidget, title: str, wide: int = 640, tall: int = 620) -> None:
        super().__init__(parent, title, wide, tall)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inside = QWidget()
        inside.setObjectName("inside")
        self.column = QVBoxLayout(inside)
        self.column.setContentsMargins(0, 0, 8, 0)
        self.column.setSpacing(12)
        self._scroll.setWidget(inside)
        self.body.addWidget(self._scroll, 1)
