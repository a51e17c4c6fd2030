# SPDX-License-Identifier: GPL-3.0-or-later
"""Layouts that are filled anew: emptied, shown, and gone through in the order of Tab."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QLayout, QLineEdit, QPushButton, QWidget


def empty(layout: QLayout, kept: frozenset[QWidget] = frozenset()) -> None:
    """Take everything out of a layout. kept: what stays as it is, focus and all, to be laid out again."""
    while layout.count():
        item = layout.takeAt(0)
        if item is None:
            return
        widget = item.widget()
        if widget is not None and widget not in kept:
            away(widget)
        elif item.layout() is not None:
            empty(item.layout(), kept)  # type: ignore[arg-type]


def away(widget: QWidget) -> None:
    """Take a widget away; never sooner than later: it may be the very button whose click brought us here."""
    widget.hide()
    widget.deleteLater()


def show_all(layout: QLayout) -> None:
    """Show every widget of a layout, inner ones too."""
    for i in range(layout.count()):
        item = layout.itemAt(i)
        if item is not None and item.widget() is not None:
            item.widget().show()  # type: ignore[union-attr]
        elif item is not None and item.layout() is not None:
            show_all(item.layout())  # type: ignore[arg-type]


def focusable(layout: QLayout) -> list[QWidget]:
    """Everything in a layout that takes the focus, in order."""
    found: list[QWidget] = []
    for i in range(layout.count()):
        item = layout.itemAt(i)
        if item is None:
            continue
        widget, inner = item.widget(), item.layout()
        if widget is not None:
            kind = isinstance(widget, (QLineEdit, QComboBox, QPushButton))
            below = widget.layout()
            if kind and widget.focusPolicy() != Qt.FocusPolicy.NoFocus:
                found.append(widget)
            elif below is not None:
                found += focusable(below)
        elif inner is not None:
            found += focusable(inner)
    return found
