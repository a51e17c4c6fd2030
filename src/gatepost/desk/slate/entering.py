# SPDX-License-Identifier: GPL-3.0-or-later
"""The other side of the slate: groups of fields, choices and buttons, made from a page's table."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from gatepost.core.errors import OperatorError
from gatepost.core.units import LengthError
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow
from gatepost.desk.slate.fields import ROW, Choice, Field
from gatepost.desk.slate.layouts import away
from gatepost.desk.theme.words import Label, tip


def shape_of(group: Group) -> tuple[object, ...]:
    """What a group's widgets hang on, values apart."""
    rows = tuple(
        (row.label, row.remove.label if row.remove is not None else None, tuple((e.label, e.kind) for e in row.entries))
        for row in group.rows
    )
    return group.title, group.columns, group.folds, rows, tuple(act.label for act in group.acts)


class EntriesSide(QObject):
    """Fills a body. inputs: what is typed or chosen in, by where it stands on the page; added: the first of those that a press of a button
    here has brought with it, until something else is laid out."""

    command_wanted = pyqtSignal(str, dict, str)
    told = pyqtSignal(str)

    def __init__(self, body: QVBoxLayout) -> None:
        super().__init__()
        self._body = body
        self.unit = "mm"
        self.plan: Any = None
        self.inputs: dict[tuple[object, ...], QWidget] = {}
        self.added: QWidget | None = None
        self._pressed = False
        self._old: dict[tuple[object, ...], QWidget] = {}
        self._acts: dict[tuple[int, int], Act] = {}
        self._removals: dict[tuple[int, int], Act] = {}

    def keep(self, again: bool) -> frozenset[QWidget]:
        """Before the body is emptied: what stays as it is where the same page is laid out again, focus and all."""
        self._old, self.inputs = (self.inputs if again else {}), {}
        self._acts, self._removals = {}, {}
        return frozenset(self._old.values())

    def fill(self, groups: tuple[Group, ...]) -> None:
        """Lay the groups out."""
        before = set(self._old)
        for g, group in enumerate(groups):
            self._group(g, group)
        for widget in self._old.values():
            away(widget)
        self._old = {}
        new = [widget for key, widget in self.inputs.items() if key not in before]
        self.added = new[0] if self._pressed and len(self.inputs) > len(before) else None
        self._pressed = False

    def refresh(self, groups: tuple[Group, ...]) -> None:
        """Other figures in the same fields."""
        for g, group in enumerate(groups):
            for r, row in enumerate(group.rows):
                for e, entry in enumerate(row.entries):
                    self._put(self.inputs[(g, group.title, r, row.label, e, entry.label)], entry)
                    if row.remove is not None:
                        self._removals[(g, r)] = row.remove
            for a, act in enumerate(group.acts):
                self._acts[(g, a)] = act

    def find(self, group: str, label: str) -> QWidget | None:
        """What an entry of a group is typed in."""
        return next((w for (_, title, *_, name), w in self.inputs.items() if (title, name) == (group, label)), None)

    def _put(self, widget: QWidget, entry: PageEntry) -> None:
        if isinstance(widget, Field):
            widget.refresh(entry, self.unit)
        elif isinstance(widget, Choice):
            widget.refresh(entry)

    def _group(self, g: int, group: Group) -> None:
        title = Label(group.title)
        title.setObjectName("group")
        title.setWordWrap(True)
        self._body.addWidget(title)
        if group.columns:
            self._table(g, group)
        else:
            for r, row in enumerate(group.rows):
                self._row((g, group.title, r, row.label, 0, row.entries[0].label), row)
        for a, act in enumerate(group.acts):
            self._acts[(g, a)] = act
            button = QPushButton(act.label)
            button.setMinimumHeight(ROW)
            button.clicked.connect(lambda _=False, key=(g, a): self._do(self._acts[key]))
            self._body.addWidget(button)

    def _do(self, act: Act) -> None:
        try:
            values = act.values(self.plan)
        except OperatorError as error:
            self.told.emit(str(error))
            return
        if values is None:
            self.told.emit(
                "That can't be worked out yet: something it needs is missing. What is missing stands among the checks."
            )
            return
        self._pressed = True
        self.command_wanted.emit(act.command, values, act.label)
        self._pressed = False  # what is laid out later has not come of it

    def _row(self, key: tuple[object, ...], row: PageRow) -> None:
        line = QHBoxLayout()
        line.setSpacing(6)
        name = Label(row.label)
        name.setWordWrap(True)
        line.addWidget(name, 1)
        entry = row.entries[0]
        widget = self._input(key, entry)
        if entry.kind in ("choice", "words"):  # as wide as the slate lets it
            widget.setMinimumWidth(158)
            line.addWidget(widget, 1)
        else:
            widget.setFixedWidth(96)
            line.addWidget(widget)
        self._body.addLayout(line)

    def _table(self, g: int, group: Group) -> None:
        grid = QGridLayout()
        grid.setHorizontalSpacing(5)
        grid.setVerticalSpacing(3)
        wide = group.folds or len(group.columns)
        down = -(-len(group.columns) // wide)  # lines of a row
        first = group.rows[0].entries if group.rows else ()
        for column in range(wide):
            named = column < len(first) and first[column].kind == "words"
            grid.setColumnStretch(column + 1, 2 if named else 1)
        for column, words in enumerate(group.columns):
            label = Label(words)
            label.setObjectName("unit")
            grid.addWidget(label, column // wide, column % wide + 1)
        for r, row in enumerate(group.rows, start=1):
            grid.addWidget(Label(row.label), down * r, 0)
            for column, entry in enumerate(row.entries):
                key = (g, group.title, r - 1, row.label, column, entry.label)
                grid.addWidget(self._input(key, entry), down * r + column // wide, column % wide + 1)
            if row.remove is not None:
                remove = QPushButton("×")
                remove.setFixedSize(28, ROW - 1)
                tip(remove, row.remove.label)
                remove.setAccessibleName(f"{row.remove.label} {row.label}")
                self._removals[(g, r - 1)] = row.remove
                remove.clicked.connect(lambda _=False, at=(g, r - 1): self._do(self._removals[at]))
                grid.addWidget(remove, down * r, wide + 1)
        self._body.addLayout(grid)

    def _input(self, key: tuple[object, ...], entry: PageEntry) -> QWidget:
        """What an entry is typed or chosen in: the one that was there before, where there was one."""
        old = self._old.get(key)
        widget: Field | Choice
        if isinstance(old, Choice if entry.kind == "choice" else Field):
            widget = self._old.pop(key)  # type: ignore[assignment]
            self._put(widget, entry)
        elif entry.kind == "choice":
            widget = Choice(entry)
            widget.chosen.connect(lambda value, w=widget: self._entered(w.entry, value))
        else:
            widget = Field(entry, self.unit)
            widget.entered.connect(lambda value, w=widget: self._entered(w.entry, value))
        self.inputs[key] = widget
        return widget

    def _entered(self, entry: PageEntry, value: Any) -> None:
        if isinstance(value, Exception):
            words = str(value) if isinstance(value, LengthError) else f"“{entry.label}” wants a number."
            self.told.emit(words)
            return
        try:
            values = entry.values(value)
        except OperatorError as error:
            self.told.emit(str(error))
            return
        self.command_wanted.emit(entry.command, values, entry.label)
