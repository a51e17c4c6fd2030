# SPDX-License-Identifier: GPL-3.0-or-later
"""The checks side of the slate: figures with their working, and findings with their fixes."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QSizePolicy, QVBoxLayout

from gatepost.core.findings import Figure, Finding, Level, Report
from gatepost.core.units import spell
from gatepost.core.working import Working
from gatepost.desk.slate.marks import Mark
from gatepost.desk.theme.words import Label, strong_then
from gatepost.desk.view.figures import in_working, show_value

LONG = 9  # rows over which a table is folded
BESIDE = 49  # px of the slate's width that its page has not: margins and the bar


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


class ChecksSide(QObject):
    """Fills a body. open: figures and findings whose working is folded out; folded: that has changed."""

    fix_wanted = pyqtSignal(object)
    accept_wanted = pyqtSignal(object)
    folded = pyqtSignal()

    def __init__(self, body: QVBoxLayout) -> None:
        super().__init__()
        self._body, self.open = body, set[str]()
        self.unit, self.theme, self._width = "mm", "light", 336

    def fill(self, report: Report, unit: str, theme: str, width: int) -> None:
        """Put a report into the body. width: px that words and buttons have."""
        self.unit, self.theme, self._width = unit, theme, width
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
        self._body.addLayout(row)
        if figure.working is not None and figure.label in self.open:
            self._working(figure.working)
        self._body.addWidget(self._rule())

    def _short_table(self, title: str, rows: tuple[tuple[str, ...], ...]) -> None:
        """A short table: its first row names the columns. A long one is folded until its title is pressed."""
        if len(rows) > LONG:
            fold = QPushButton(f"{spell(title, self.unit)}: {len(rows) - 1} rows")
            fold.setObjectName("figure")
            fold.setCursor(Qt.CursorShape.PointingHandCursor)
            fold.clicked.connect(lambda _=False, t=title: self._fold_code(t))
            self._body.addWidget(fold)
            if title not in self.open:
                self._body.addWidget(self._rule())
                return
        else:
            head = Label(spell(title, self.unit))
            head.setObjectName("unit")
            head.setWordWrap(True)
            self._body.addWidget(head)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(3)
        columns: dict[int, list[QLabel]] = {}
        for i, row in enumerate(unit_in_heads([tuple(spell(words, self.unit) for words in row) for row in rows])):
            for j, words in enumerate(row):
                cell = Cell(words)
                cell.setObjectName("unit" if i == 0 else "cell")
                side = Qt.AlignmentFlag.AlignLeft if j == 0 else Qt.AlignmentFlag.AlignRight
                cell.setAlignment(side | Qt.AlignmentFlag.AlignVCenter)
                grid.addWidget(cell, i, j, side | Qt.AlignmentFlag.AlignVCenter)
                columns.setdefault(j, []).append(cell)
        grid.setColumnStretch(0, 1)
        _into(list(columns.values()), self._width - BESIDE - 8 * (len(columns) - 1))
        self._body.addLayout(grid)
        self._body.addWidget(self._rule())

    def _line_of_words(self, figure: Figure, words: str) -> None:
        row = QHBoxLayout()
        row.addWidget(Mark(figure.level, self.theme), 0, Qt.AlignmentFlag.AlignTop)
        text = Label(f"{figure.label} {words}")
        text.setWordWrap(True)
        row.addWidget(text, 1)
        self._body.addLayout(row)

    def _fold(self, figure: Figure) -> None:
        self.open ^= {figure.label}
        self.folded.emit()

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
        self._body.addWidget(label)

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
        self._body.addLayout(row)
        self._buttons(f)
        if f.working is not None and (f.level is Level.STOP or f.code in self.open):
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
        for line in _wrapped(buttons, self._width - 64):
            row = QHBoxLayout()
            row.setContentsMargins(26, 0, 0, 0)
            row.setSpacing(5)
            for button in line:
                row.addWidget(button)
            row.addStretch(1)
            self._body.addLayout(row)

    def _fold_code(self, code: str) -> None:
        self.open ^= {code}
        self.folded.emit()


class Cell(Label):
    """Words in a table: as high as their lines, in the type that they are shown in."""

    def resizeEvent(self, event: QResizeEvent | None) -> None:  # noqa: N802 - the toolkit's name
        """Its row follows."""
        super().resizeEvent(event)
        if self.wordWrap():
            self.setMinimumHeight(max(self.heightForWidth(self.width()), 0))  # less than nothing for no words


def _into(columns: list[list[QLabel]], room: int) -> None:
    """Wrap the cells of the widest columns until all of them go into so many px, no word broken."""
    for cells in columns:
        for cell in cells:
            cell.ensurePolished()
    wide = [max(c.sizeHint().width() for c in cells) for cells in columns]
    over = sum(wide) - room
    for j in sorted(range(len(columns)), key=lambda j: -wide[j]):
        if over <= 0:
            return
        cells = columns[j]
        longest = max(c.fontMetrics().horizontalAdvance(word) for c in cells for word in c.text().split() or [""]) + 4
        into = max(longest, wide[j] - over)
        if into < wide[j]:
            for cell in cells:
                cell.setWordWrap(True)
                cell.setFixedWidth(into)
            over -= wide[j] - into


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
