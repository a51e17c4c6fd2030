# SPDX-License-Identifier: GPL-3.0-or-later
"""The slate: figures and findings of a stage, chalk on slate; working folds out under its figure; fixes are buttons."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QEvent, QPointF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QKeyEvent,
    QKeySequence,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Figure, Finding, Level, Report
from gatepost.core.units import LengthError, edit_length, parse_length, show_length, spell
from gatepost.core.working import Working
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow
from gatepost.desk.shell.figures import in_working, show_value
from gatepost.desk.theme.table import THEMES
from gatepost.desk.theme.words import Label, strong_then, tip

WIDTH = 336
ROW = 29  # px: what a field needs; a long page scrolls and is never squashed


class Mark(QWidget):
    """The sign of a finding's level: a shape, and a colour that repeats it."""

    def __init__(self, level: Level, theme: str, accepted: bool = False) -> None:
        super().__init__()
        self.level, self.theme, self.accepted = level, theme, accepted
        self.setFixedSize(18, 18)
        self.setAccessibleName(level.value)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Square with a bar: stop. Triangle: care. Tick: ok. Dot: note."""
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        c = THEMES[self.theme]
        p.setPen(Qt.PenStyle.NoPen)
        if self.level is Level.STOP:
            p.setBrush(QColor(c["slate-stop"]))
            p.drawRect(2, 2, 14, 14)
            p.setBrush(QColor(c["slate"]))
            p.drawRect(5, 8, 8, 3)
        elif self.level is Level.CARE:
            p.setBrush(QColor(c["chalk-muted" if self.accepted else "slate-care"]))
            p.drawPolygon(QPolygonF([QPointF(9, 2), QPointF(17, 16), QPointF(1, 16)]))
        elif self.level is Level.OK:
            p.setPen(QPen(QColor(c["slate-ok"]), 2.2))
            p.drawPolyline(QPolygonF([QPointF(2, 9), QPointF(7, 15), QPointF(16, 3)]))
        else:
            p.setBrush(QColor(c["chalk-muted"]))
            p.drawEllipse(6, 6, 6, 6)


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


class Field(QLineEdit):
    """A typed value. Enter or leaving it enters it, once; Escape puts the old one back. What is being typed stays as it is
    whatever changes meanwhile."""

    entered = pyqtSignal(object)

    def __init__(self, entry: PageEntry, unit: str) -> None:
        super().__init__(_text(entry, unit))
        self.entry, self.unit = entry, unit
        self._kept = self._tried = self.text()
        self.setAccessibleName(entry.label)
        self.setObjectName("field")
        self.setMinimumHeight(ROW)
        self.editingFinished.connect(self._enter)

    def _enter(self) -> None:
        if self.text() in (self._kept, self._tried):
            return
        self._tried = self.text()
        try:
            value = _value(self.entry, self.text(), self.unit)
        except (LengthError, ValueError) as error:
            self.setProperty("wrong", True)
            tip(self, str(error))
            self._restyle()
            self.entered.emit(error)
            return
        self.setProperty("wrong", False)
        self._restyle()
        self.entered.emit(value)

    def refresh(self, entry: PageEntry, unit: str) -> None:
        """The figure as it is now; what is typed and not entered yet is left alone."""
        typing = self.hasFocus() and self.text() not in (self._kept, self._tried)
        self.entry, self.unit = entry, unit
        text = _text(entry, unit)
        self._kept = text
        if typing:
            return
        self.setModified(False)
        if text == self.text():
            return
        whole = self.hasSelectedText() and self.selectedText() == self.text()
        self._tried = text
        self.setText(text)
        if whole:
            self.selectAll()
        if self.property("wrong"):
            self.setProperty("wrong", False)
            self.setToolTip("")
            self._restyle()

    def _restyle(self) -> None:
        style = self.style()
        if style is not None:
            style.unpolish(self)
            style.polish(self)

    def event(self, event: QEvent | None) -> bool:
        """Where nothing is being typed, undoing and redoing are the window's: what was entered is undone, not its letters."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and self._rests(event):
            event.ignore()
            return False
        return super().event(event)

    def _rests(self, event: QKeyEvent) -> bool:
        undoing = event.matches(QKeySequence.StandardKey.Undo) or event.matches(QKeySequence.StandardKey.Redo)
        return undoing and self.text() in (self._kept, self._tried)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape puts the old text back."""
        if event is not None and self._rests(event):
            event.ignore()
            return
        if event is not None and event.key() == Qt.Key.Key_Escape and self.text() != self._kept:
            self._tried = self._kept
            self.setText(self._kept)
            if self.property("wrong"):
                self.setProperty("wrong", False)
                self.setToolTip("")
                self._restyle()
            return
        super().keyPressEvent(event)


class Choice(QComboBox):
    """A value out of a few."""

    chosen = pyqtSignal(object)

    def __init__(self, entry: PageEntry) -> None:
        super().__init__()
        self.entry = entry
        self._choices: tuple[Any, ...] = ()
        self.setObjectName("field")
        self.setMinimumHeight(ROW)
        self.activated.connect(lambda i: self.chosen.emit(self.entry.choices[i][1]))
        self.refresh(entry)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Over a closed list the wheel scrolls the page: it changes no value that nobody looked at."""
        if event is not None:
            event.ignore()

    def refresh(self, entry: PageEntry) -> None:
        """The choices and the value as they are now."""
        self.entry = entry
        self.setAccessibleName(entry.label)
        if entry.choices != self._choices:
            self._choices = entry.choices
            self.clear()
            for words, value in entry.choices:
                self.addItem(words, value)
        values = [v for _, v in entry.choices]
        self.setCurrentIndex(values.index(entry.value) if entry.value in values else -1)


def _shape(group: Group) -> tuple[object, ...]:
    """What a group's widgets hang on, values apart."""
    rows = tuple(
        (row.label, row.remove.label if row.remove is not None else None, tuple((e.label, e.kind) for e in row.entries))
        for row in group.rows
    )
    return group.title, group.columns, group.folds, rows, tuple(act.label for act in group.acts)


def unit_in_heads(rows: Sequence[tuple[str, ...]]) -> list[tuple[str, ...]]:
    """A table with the unit told once, over its column, where each of the column's figures has it."""
    heads, *told = rows
    columns = list(zip(*told)) if told else []
    once = {
        j for j, column in enumerate(columns)
        if j and any(c.endswith(" mm") for c in column) and all(not any(d.isdigit() for d in c) or c.endswith(" mm") for c in column)
    }  # fmt: skip
    names = tuple(f"{h}, mm" if j in once else h for j, h in enumerate(heads))
    return [names, *(tuple(c.replace(" mm", "") if j in once else c for j, c in enumerate(row)) for row in told)]


def _text(entry: PageEntry, unit: str) -> str:
    if entry.kind == "length":
        if entry.value is None:  # not set is not 0
            return ""
        exact = edit_length(entry.value, unit)
        # too long to read: shown rounded; what is not changed is not entered, so the exact figure stays
        rounded = show_length(entry.value, unit, 4 if unit == "inch" else 3)
        return exact if len(exact) <= 9 else rounded.rstrip("0").rstrip(".")
    if entry.kind == "number":
        return f"{entry.value:.10g}"
    return str(entry.value)


def _value(entry: PageEntry, text: str, unit: str) -> Any:
    if entry.kind == "length":
        if entry.optional and not text.strip():
            return None
        return parse_length(text, unit)
    if entry.kind == "number":
        number = float(text.replace(",", ".").replace(" ", "").replace("−", "-"))
        return int(number) if isinstance(entry.value, int) and number.is_integer() else number
    return text


class Slate(QWidget):
    """Two sides: what is judged, and what is entered."""

    fix_wanted = pyqtSignal(object)
    accept_wanted = pyqtSignal(object)
    command_wanted = pyqtSignal(str, dict, str)
    place_wanted = pyqtSignal(object)
    told = pyqtSignal(str)

    def __init__(self, theme: str) -> None:
        super().__init__()
        self.setObjectName("slate")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDTH)
        self.theme, self.unit = theme, "mm"
        self.open_workings: set[str] = set()
        self._plan: Any = None
        self._side = "judged"
        self._shown: object = None  # what the body was made from
        self._inputs: dict[tuple[object, ...], QWidget] = {}
        self._old: dict[tuple[object, ...], QWidget] = {}
        self._acts: dict[tuple[int, int], Act] = {}
        self._removals: dict[tuple[int, int], Act] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 10, 8)
        column.setSpacing(4)
        column.addLayout(self._head())
        self._inside = QWidget()
        self._inside.setObjectName("inside")
        self.body = QVBoxLayout(self._inside)
        self.body.setContentsMargins(0, 2, 8, 8)
        self.body.setSpacing(6)
        self.scroll = QScrollArea()
        self.scroll.setWidgetResizable(True)
        self.scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.scroll.setWidget(self._inside)
        column.addWidget(self.scroll, 1)

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        words = QVBoxLayout()
        words.setSpacing(1)
        self.title, self.sub = Label(), Label()
        self.title.setObjectName("title")
        self.sub.setObjectName("sub")
        self.sub.setWordWrap(True)
        words.addWidget(self.title)
        words.addWidget(self.sub)
        row.addLayout(words, 1)
        self.sides = QButtonGroup(self)
        self.buttons: dict[str, QPushButton] = {}
        for side, label in (("judged", "Checks"), ("entered", "Your figures")):
            button = QPushButton(label)
            button.setCheckable(True)
            button.setToolTip("F2 changes sides")
            self.sides.addButton(button)
            button.clicked.connect(lambda _=False, s=side: self.turn(s))
            row.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
            self.buttons[side] = button
        self.buttons["judged"].setChecked(True)
        return row

    # -- showing ------------------------------------------------------------------------------------------

    def turn(self, side: str) -> None:
        """Turn to a side."""
        self._side = side
        self.buttons[side].setChecked(True)
        self._again()

    @property
    def side(self) -> str:
        """The side shown."""
        return self._side

    def show_stage(
        self, name: str, report: Report | None, groups: tuple[Group, ...], plan: Any, unit: str, theme: str
    ) -> None:
        """Show a stage's report and entries."""
        self._plan, self.unit, self.theme = plan, unit, theme
        self._name, self._report, self._groups = name, report, groups
        self._again()

    def _again(self) -> None:
        self.title.setText(getattr(self, "_name", ""))
        report: Report | None = getattr(self, "_report", None)
        self.sub.setText(spell(report.subtitle, self.unit) if report is not None else "")
        groups = getattr(self, "_groups", ())
        self.buttons["entered"].setEnabled(bool(groups))
        if not groups and self._side == "entered":
            self._side = "judged"
            self.buttons["judged"].setChecked(True)
        judged = self._side == "judged"
        shown = (
            (self._name_shown, report, self.unit, self.theme, frozenset(self.open_workings)) if judged
            else (self._name_shown, self.theme, tuple(_shape(g) for g in groups))
        )  # fmt: skip
        if shown == self._shown:  # the page is as it was: its figures, perhaps, are not
            self._refresh(() if judged else groups)
            return
        again = self._shown is not None and not judged and self._inputs and self._name_shown == self._shown[0]  # type: ignore[index]
        self._shown = shown
        focus, held = self._focus_place(), self.focusWidget()
        at = self.scroll.verticalScrollBar()
        where = at.value() if at is not None else 0
        self._old, self._inputs = (self._inputs if again else {}), {}
        empty(self.body, frozenset(self._old.values()))
        if judged:
            self._judged(report)
        else:
            self._acts, self._removals = {}, {}
            for g, group in enumerate(groups):
                self._group(g, group)
        for widget in self._old.values():
            away(widget)
        self._old = {}
        self.body.addStretch(1)
        show_all(self.body)  # what is not shown yet counts as no room at all, and the page would be squashed
        self._fit()
        if at is not None:
            at.setValue(where)
        if held is None or held not in self._inputs.values() or not held.hasFocus():
            self._focus_back(focus)

    @property
    def _name_shown(self) -> tuple[str, str]:
        return getattr(self, "_name", ""), self._side

    def _refresh(self, groups: tuple[Group, ...]) -> None:
        """Other figures in the same fields."""
        for g, group in enumerate(groups):
            for r, row in enumerate(group.rows):
                for e, entry in enumerate(row.entries):
                    self._put(self._inputs[(g, group.title, r, row.label, e, entry.label)], entry)
                    if row.remove is not None:
                        self._removals[(g, r)] = row.remove
            for a, act in enumerate(group.acts):
                self._acts[(g, a)] = act

    def _put(self, widget: QWidget, entry: PageEntry) -> None:
        if isinstance(widget, Field):
            widget.refresh(entry, self.unit)
        elif isinstance(widget, Choice):
            widget.refresh(entry)

    def _fit(self) -> None:
        """Give the page the height that its words need at this width; the rest scrolls."""
        view = self.scroll.viewport()
        width = view.width() if view is not None else WIDTH
        self.body.invalidate()
        tall = self.body.totalHeightForWidth(width) if self.body.hasHeightForWidth() else -1
        self._inside.setMinimumHeight(max(tall, self.body.totalMinimumSize().height()))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Words wrap anew."""
        self._fit()

    def _focus_place(self) -> int:
        fields = self.fields()
        focused = self.focusWidget()
        return next((i for i, f in enumerate(fields) if f is focused and f.hasFocus()), -1)

    def _focus_back(self, place: int) -> None:
        fields = self.fields()
        if 0 <= place < len(fields):
            fields[place].show()  # a field just made is shown later; only a shown one takes the focus
            fields[place].setFocus(Qt.FocusReason.TabFocusReason)

    def fields(self) -> list[QWidget]:
        """Everything in the body that takes the focus, in order."""
        found: list[QWidget] = []

        def gather(layout: QLayout) -> None:
            for i in range(layout.count()):
                item = layout.itemAt(i)
                if item is None:
                    continue
                widget, inner = item.widget(), item.layout()
                if widget is not None:
                    if widget.focusPolicy() != Qt.FocusPolicy.NoFocus and isinstance(
                        widget, (QLineEdit, QComboBox, QPushButton)
                    ):
                        found.append(widget)
                    elif widget.layout() is not None:
                        gather(widget.layout())  # type: ignore[arg-type]
                elif inner is not None:
                    gather(inner)

        gather(self.body)
        return found

    def focus_fix(self) -> None:
        """Put the focus on the first fix offered, else on the first button."""
        fixes = [f for f in self.fields() if f.property("fix")]
        if fixes:
            fixes[0].show()
            fixes[0].setFocus(Qt.FocusReason.TabFocusReason)
            self.scroll.ensureWidgetVisible(fixes[0])
        else:
            self.focus_first()

    def focus_first(self) -> None:
        """Put the focus on the first field or button."""
        fields = self.fields()
        if fields:
            fields[0].show()
            fields[0].setFocus(Qt.FocusReason.TabFocusReason)

    def _judged(self, report: Report | None) -> None:
        if report is None:
            return
        stops = [f for f in report.findings if f.level is Level.STOP]
        for finding in stops:
            self._finding(finding)
        for figure in report.figures:
            self._figure(figure)
        for title, rows in report.tables:
            self._short_table(title, rows)
        order = {Level.CARE: 0, Level.NOTE: 1, Level.OK: 2}
        for finding in sorted((f for f in report.findings if f.level is not Level.STOP), key=lambda f: order[f.level]):
            self._finding(finding)

    def _rule(self) -> QFrame:
        rule = QFrame()
        rule.setObjectName("rule")
        rule.setFixedHeight(1)
        return rule

    def _figure(self, figure: Figure) -> None:
        digits, sign = show_value(figure.value, figure.unit, self.unit, figure.places)
        if isinstance(figure.value, str) and len(digits) > 16:
            self._line_of_words(figure, digits)
            return
        row = QHBoxLayout()
        row.setSpacing(4)
        if figure.working is not None:
            name = QPushButton(figure.label)
            name.setObjectName("figure")
            name.setToolTip("Show the working")
            name.setCursor(Qt.CursorShape.PointingHandCursor)
            name.clicked.connect(lambda _=False, f=figure: self._fold(f))
        else:
            name = Label(figure.label)  # type: ignore[assignment]
        name.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        value, unit = Label(digits), Label(sign)
        value.setObjectName("value" if not isinstance(figure.value, str) else "words")
        unit.setObjectName("unit")
        row.addWidget(name, 1)
        row.addWidget(value)
        row.addWidget(unit, 0, Qt.AlignmentFlag.AlignBottom)
        self.body.addLayout(row)
        if figure.working is not None and figure.label in self.open_workings:
            self._working(figure.working)
        self.body.addWidget(self._rule())

    def _short_table(self, title: str, rows: tuple[tuple[str, ...], ...]) -> None:
        """A short table: its first row names the columns."""
        head = Label(spell(title, self.unit))
        head.setObjectName("unit")
        head.setWordWrap(True)
        self.body.addWidget(head)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(3)
        for i, row in enumerate(unit_in_heads([tuple(spell(words, self.unit) for words in row) for row in rows])):
            for j, words in enumerate(row):
                cell = Label(words)
                cell.setObjectName("unit" if i == 0 else "cell")
                cell.setWordWrap(len(words) > (24 if j == 0 else 18))
                side = Qt.AlignmentFlag.AlignLeft if j == 0 else Qt.AlignmentFlag.AlignRight
                grid.addWidget(cell, i, j, side | Qt.AlignmentFlag.AlignVCenter)
        grid.setColumnStretch(0, 1)
        self.body.addLayout(grid)
        self.body.addWidget(self._rule())

    def _line_of_words(self, figure: Figure, words: str) -> None:
        row = QHBoxLayout()
        row.addWidget(Mark(figure.level, self.theme), 0, Qt.AlignmentFlag.AlignTop)
        text = Label(f"{figure.label} {words}")
        text.setWordWrap(True)
        row.addWidget(text, 1)
        self.body.addLayout(row)

    def _fold(self, figure: Figure) -> None:
        self.open_workings ^= {figure.label}
        self._again()

    def _working(self, working: Working) -> None:
        words = working.sentence(in_working(self.unit))  # type: ignore[arg-type]
        lines = [words]
        if working.assumption:
            lines.append(working.assumption)
        if working.shop_rule:
            lines.append("Starting value, shop rule, not measured here.")
        if working.source:
            lines.append(f"Source: {working.source}")
        label = Label("\n".join(lines))
        label.setObjectName("working")
        label.setWordWrap(True)
        self.body.addWidget(label)

    def _finding(self, f: Finding) -> None:
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(Mark(f.level, self.theme, bool(f.accepted)), 0, Qt.AlignmentFlag.AlignTop)
        words = spell(f.message, self.unit)
        head, dot, rest = words.partition(". ") if f.level is Level.STOP else ("", "", words)
        text = strong_then(f"{head}{'.' if dot else ''}", rest) if head else Label(words)
        if f.accepted:
            text = Label(f"{words}\nAccepted: {f.accepted}")
        text.setWordWrap(True)
        text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        text.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        row.addWidget(text, 1)
        self.body.addLayout(row)
        self._buttons(f)
        if f.working is not None and (f.level is Level.STOP or f.code in self.open_workings):
            self._working(f.working)

    def _buttons(self, f: Finding) -> None:
        buttons: list[QPushButton] = []
        for fix in f.fixes:
            button = QPushButton(spell(fix.sentence, self.unit))
            button.setProperty("fix", True)
            button.clicked.connect(lambda _=False, x=fix: self.fix_wanted.emit(x))
            buttons.append(button)
        if f.level is Level.CARE and not f.accepted:
            button = QPushButton("Accept…")
            button.setToolTip("Accept this with a reason; it lapses when the figures change")
            button.clicked.connect(lambda _=False, x=f: self.accept_wanted.emit(x))
            buttons.append(button)
        if f.working is not None and f.level in (Level.CARE, Level.OK, Level.NOTE) and f.level is Level.CARE:
            button = QPushButton("Working")
            button.clicked.connect(lambda _=False, code=f.code: self._fold_code(code))
            buttons.append(button)
        for line in _wrapped(buttons, WIDTH - 64):
            row = QHBoxLayout()
            row.setContentsMargins(26, 0, 0, 0)
            row.setSpacing(5)
            for button in line:
                row.addWidget(button)
            row.addStretch(1)
            self.body.addLayout(row)

    def _fold_code(self, code: str) -> None:
        self.open_workings ^= {code}
        self._again()

    # -- entering -------------------------------------------------------------------------------------------

    def _group(self, g: int, group: Group) -> None:
        title = Label(group.title)
        title.setObjectName("group")
        title.setWordWrap(True)
        self.body.addWidget(title)
        if group.columns:
            self._table(g, group)
        else:
            for r, row in enumerate(group.rows):
                self._row((g, group.title, r, row.label, 0, row.entries[0].label), row)
        for a, act in enumerate(group.acts):
            self._acts[(g, a)] = act
            button = QPushButton(act.label)
            button.setMinimumHeight(ROW)
            button.clicked.connect(lambda _=False, key=(g, a): self._act(self._acts[key]))
            self.body.addWidget(button)

    def _act(self, act: Act) -> None:
        try:
            values = act.values(self._plan)
        except OperatorError as error:
            self.told.emit(str(error))
            return
        if values is None:
            self.told.emit(
                "That can't be worked out yet: something it needs is missing. What is missing stands among the checks."
            )
            return
        self.command_wanted.emit(act.command, values, act.label)

    def _row(self, key: tuple[object, ...], row: PageRow) -> None:
        line = QHBoxLayout()
        line.setSpacing(6)
        name = Label(row.label)
        name.setWordWrap(True)
        line.addWidget(name, 1)
        entry = row.entries[0]
        widget = self._input(key, entry)
        widget.setFixedWidth(158 if entry.kind in ("choice", "words") else 96)
        line.addWidget(widget)
        self.body.addLayout(line)

    def _table(self, g: int, group: Group) -> None:
        grid = QGridLayout()
        grid.setHorizontalSpacing(5)
        grid.setVerticalSpacing(3)
        wide = group.folds or len(group.columns)
        down = -(-len(group.columns) // wide)  # lines of a row
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
                remove.clicked.connect(lambda _=False, at=(g, r - 1): self._act(self._removals[at]))
                grid.addWidget(remove, down * r, wide + 1)
        self.body.addLayout(grid)

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
        self._inputs[key] = widget
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


def _wrapped(buttons: list[QPushButton], width: int) -> list[list[QPushButton]]:
    lines: list[list[QPushButton]] = []
    used = 0
    for button in buttons:
        wide = min(button.sizeHint().width() + 8, width)
        button.setMaximumWidth(width)
        if lines and used + wide <= width:
            lines[-1].append(button)
            used += wide
        else:
            lines.append([button])
            used = wide
    return lines
