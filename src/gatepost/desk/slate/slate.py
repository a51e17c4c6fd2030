# SPDX-License-Identifier: GPL-3.0-or-later
"""The slate: figures and findings of a stage, chalk on slate; working folds out under its figure; fixes are buttons."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from gatepost.core.findings import Report
from gatepost.core.units import spell
from gatepost.desk.pages.entries import Group
from gatepost.desk.slate.checks import ChecksSide
from gatepost.desk.slate.entering import EntriesSide, shape_of
from gatepost.desk.slate.layouts import empty, focusable, show_all
from gatepost.desk.theme.words import Label, tip

NARROW, WIDE = 336, 460  # px
SIGHT = (50, 90)  # px about what has the focus that are in sight with it
HEAD = 66  # px: a title and two lines under it, whatever they say: nothing below moves for them


def _called(field: QWidget) -> str:
    """What a field or a button is called."""
    return field.text() if isinstance(field, QPushButton) and not field.accessibleName() else field.accessibleName()


class Slate(QWidget):
    """Two sides: what is checked, and what is entered. aside: a box between head and page, for a stage that has one."""

    fix_wanted = pyqtSignal(object)
    accept_wanted = pyqtSignal(object)
    command_wanted = pyqtSignal(str, dict, str)
    told = pyqtSignal(str)

    def __init__(self, theme: str) -> None:
        super().__init__()
        self.setObjectName("slate")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(NARROW)
        self.theme, self.unit = theme, "mm"
        self._name, self._report, self._groups = "", None, ()  # type: str, Report | None, tuple[Group, ...]
        self._side = "judged"
        self._shown: tuple[object, ...] | None = None  # what the body was made from
        self._laying = self._more = False  # the body is being laid out; and is to be once more
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(18, 12, 10, 8)
        self._column.setSpacing(4)
        self._column.addWidget(self._head())
        self._inside = QWidget()
        self._inside.setObjectName("inside")
        self.body = QVBoxLayout(self._inside)
        self.body.setContentsMargins(0, 2, 12, 8)
        self.body.setSpacing(6)
        self.page = QScrollArea()
        self.page.setWidgetResizable(True)
        self.page.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.page.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.page.setWidget(self._inside)
        self._column.addWidget(self.page, 1)
        self.checks, self.entries = ChecksSide(self.body), EntriesSide(self.body)
        self.checks.fix_wanted.connect(self.fix_wanted)
        self.checks.accept_wanted.connect(self.accept_wanted)
        self.checks.folded.connect(self._again)
        self.entries.command_wanted.connect(self.command_wanted)
        self.entries.told.connect(self.told)

    def _head(self) -> QWidget:
        head = QWidget()
        head.setFixedHeight(HEAD)
        column = QVBoxLayout(head)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(1)
        row = QHBoxLayout()
        self.title, self.sub = Label(), Label()
        self.title.setObjectName("title")
        self.sub.setObjectName("sub")
        self.sub.setWordWrap(True)
        self.sub.setAlignment(Qt.AlignmentFlag.AlignTop)
        row.addWidget(self.title, 1)
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
        column.addLayout(row)
        column.addWidget(self.sub, 1)
        return head

    def set_aside(self, box: QWidget) -> None:
        """A box between head and page."""
        self._column.insertWidget(1, box)

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
        self.entries.plan, self.unit, self.theme = plan, unit, theme
        self._name, self._report, self._groups = name, report, groups
        self._again()

    def _again(self) -> None:
        """Lay the page out; what comes in while that is done (a field that loses the focus enters its figure) is laid out after it."""
        if self._laying:
            self._more = True
            return
        self._laying = True
        try:
            self._lay_out()
        finally:
            self._laying = False
        if self._more:
            self._more = False
            self._again()

    def _lay_out(self) -> None:
        report, groups = self._report, self._groups
        self.title.setText(self._name)
        sub = spell(report.subtitle, self.unit) if report is not None else ""
        self.sub.setText(sub)
        tip(self.sub, sub)
        self.buttons["entered"].setEnabled(bool(groups))
        if not groups and self._side == "entered":
            self._side = "judged"
            self.buttons["judged"].setChecked(True)
        judged = self._side == "judged"
        named = (self._name, self._side)
        shown: tuple[object, ...] = (
            (named, report, self.unit, self.theme, frozenset(self.checks.open), self.width()) if judged
            else (named, self.theme, tuple(shape_of(g) for g in groups))
        )  # fmt: skip
        self.entries.unit = self.unit
        if shown == self._shown:  # the page is as it was: its figures, perhaps, are not
            self.entries.refresh(() if judged else groups)
            return
        again = self._shown is not None and not judged and named == self._shown[0]
        self._shown = shown
        focus, held = self._focused(), self.focusWidget()
        at = self.page.verticalScrollBar()
        where = at.value() if at is not None else 0
        empty(self.body, self.entries.keep(again))
        if not judged:
            self.entries.fill(groups)
        elif report is not None:
            self.checks.fill(report, self.unit, self.theme, self.width())
        self.body.addStretch(1)
        self.body.setEnabled(False)  # else each that is shown has the whole page laid out anew
        show_all(self.body)  # what is not shown yet counts as no room at all, and the page would be squashed
        self.body.setEnabled(True)
        self._fit()
        if at is not None:
            at.setValue(where)
        if again and self.entries.added is not None:
            self._focus(self.entries.added)
            self.page.ensureWidgetVisible(self.entries.added, *SIGHT)
        elif held is None or held not in self.entries.inputs.values() or not held.hasFocus():
            self._focus_back(focus)

    def _fit(self) -> None:
        """Give the page the height that its words need at this width; the rest scrolls."""
        view = self.page.viewport()
        width = view.width() if view is not None else NARROW
        self.body.invalidate()
        tall = self.body.totalHeightForWidth(width) if self.body.hasHeightForWidth() else -1
        self._inside.setMinimumHeight(max(tall, self.body.totalMinimumSize().height()))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Words wrap anew."""
        self._again()
        self._fit()

    # -- focus --------------------------------------------------------------------------------------------

    def fields(self) -> list[QWidget]:
        """Everything in the body that takes the focus, in order."""
        return focusable(self.body)

    def _focused(self) -> tuple[int, str] | None:
        """What has the focus here: which it is on the page, and its name."""
        focused = self.focusWidget()
        return next(
            ((i, _called(f)) for i, f in enumerate(self.fields()) if f is focused and f.hasFocus()),
            None,
        )

    def _focus_back(self, was: tuple[int, str] | None) -> None:
        """On what has that name, the nearest to where it was; where nothing has, on nothing: what is typed or pressed next was not meant
        for whatever stands there now."""
        if was is None:
            return
        fields = self.fields()
        alike = [(abs(i - was[0]), i) for i, f in enumerate(fields) if _called(f) == was[1]]
        if alike:
            self._focus(fields[min(alike)[1]])
        else:
            self.page.setFocus()

    def _focus(self, field: QWidget) -> None:
        field.show()  # a field just made is shown later; only a shown one takes the focus
        field.setFocus(Qt.FocusReason.TabFocusReason)

    def focus_fix(self) -> bool:
        """Put the focus on the first fix offered; gives whether there was one."""
        fixes = [f for f in self.fields() if f.property("fix")]
        if fixes:
            self._focus(fixes[0])
            self.page.ensureWidgetVisible(fixes[0], *SIGHT)
        return bool(fixes)

    def focus_first(self) -> None:
        """Put the focus on the first field or button."""
        fields = self.fields()
        if fields:
            self._focus(fields[0])

    def focus_on(self, label: str) -> None:
        """Put the focus on the field or button of that name; before a slash stands the group that it is in."""
        group, _, name = label.rpartition("/")
        at = self.entries.find(group, name) if group else None
        for field in [at] if at is not None else self.fields():
            words = field.text() if isinstance(field, QPushButton) else ""
            if at is not None or name in (field.accessibleName(), words):
                self._focus(field)
                self.page.ensureWidgetVisible(field, *SIGHT)
                return
