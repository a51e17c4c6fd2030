# SPDX-License-Identifier: GPL-3.0-or-later
"""Labels that show words as they are: a job's name with a bracket in it is a name, never markup."""

from __future__ import annotations

import html

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QMessageBox, QWidget

from gatepost.core.units import spell


class Label(QLabel):
    """A label of plain words."""

    def __init__(self, words: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(words)

    def setText(self, words: str | None) -> None:
        """Words with their lengths written out, if nobody has yet."""
        super().setText(spell(words or ""))


def strong_then(head: str, rest: str) -> QLabel:
    """A label with its first words strong; both are plain words."""
    label = QLabel()
    label.setTextFormat(Qt.TextFormat.RichText)
    label.setText(f"<b>{html.escape(head)}</b> {html.escape(rest)}")
    return label


def tip(widget: QWidget, words: str) -> None:
    """Words that show when the mouse rests on a widget, as they are."""
    widget.setToolTip(f"<qt>{html.escape(spell(words))}</qt>" if words else "")


def plain(box: QMessageBox) -> QMessageBox:
    """A message box whose words are plain."""
    box.setTextFormat(Qt.TextFormat.PlainText)
    return box
