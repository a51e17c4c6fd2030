# SPDX-License-Identifier: GPL-3.0-or-later
"""The shop's drawer of tools: looked through, drawn in its collet, taken into the job, copied, sharpened, and out and in as a table."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from gatepost.core.errors import OperatorError
from gatepost.core.job.machine import Machine
from gatepost.core.job.tool import Tool
from gatepost.core.tools.blunt import ToolLife
from gatepost.core.tools.drawer import KINDS, ORDERS, found, sorted_by
from gatepost.core.tools.grip import aged, gripped, size_words
from gatepost.core.tools.lookalikes import lookalikes
from gatepost.core.units import mm, spell
from gatepost.desk.dialogs.card import TitledDialog, button_of, words_of
from gatepost.desk.dialogs.drawing_box import DrawingBox
from gatepost.desk.theme.style import font
from gatepost.drawing.cutters import tool_in_collet

NAMES = 80  # letters of a name


class DrawerDialog(TitledDialog):
    """tools: in the drawer; own: names of those that the shop keeps, the others being shipped; life: what a tool has done in this shop. taken: one for the
    job; kept: one for the shop; forgotten: a name."""

    taken = pyqtSignal(object)
    kept = pyqtSignal(object)
    forgotten = pyqtSignal(str)

    def __init__(
        self, parent: QWidget, tools: Sequence[Tool], own: set[str], machine: Machine, unit: str, theme: str,
        life: Callable[[Tool], ToolLife], today: str,
    ) -> None:  # fmt: skip
        super().__init__(parent, "The tool drawer", 1080, 700)
        self.tools, self.own, self._machine, self._unit, self._life, self._today = (
            list(tools),
            set(own),
            machine,
            unit,
            life,
            today,
        )
        self.search, self.by, self.list = QLineEdit(), QComboBox(), QListWidget()
        self.search.setPlaceholderText("Search: 6 mm, V-bit, left wall…")
        self.search.setAccessibleName("Search the drawer")
        self.by.addItems(list(ORDERS))
        self.by.setAccessibleName("Sorted by")
        self.list.setAccessibleName("Tools in the drawer")
        for field in (self.search, self.by, self.list):
            field.setFont(font(15))
        self.picture = DrawingBox(theme, "The tool in its collet", 300)
        self.told = words_of("", 15)
        self.said = words_of("", 15)
        self._lay_out()
        self.search.textChanged.connect(lambda _: self.fill())
        self.search.installEventFilter(self)
        self.search.returnPressed.connect(self._take)
        self.by.currentTextChanged.connect(lambda _: self.fill())
        self.list.currentRowChanged.connect(lambda _: self._show())
        self.list.itemActivated.connect(lambda _: self._take())
        self.fill()

    def _lay_out(self) -> None:
        row = QHBoxLayout()
        row.setSpacing(16)
        self.body.addLayout(row, 1)
        left, right = QVBoxLayout(), QVBoxLayout()
        head = QHBoxLayout()
        head.addWidget(self.search, 2)
        head.addWidget(self.by, 1)
        left.addLayout(head)
        left.addWidget(self.list, 1)
        row.addLayout(left, 2)
        row.addLayout(right, 3)
        right.addWidget(self.picture, 3)
        right.addWidget(self.told)
        right.addWidget(self.said)
        right.addStretch(1)
        keys = QHBoxLayout()
        self.copy_key = button_of("Copy it", self._copy)
        self.sharpened_key = button_of("Sharpened today", self._sharpened)
        self.forget_key = button_of("Take it out of the drawer", self._forget)
        for key in (self.copy_key, self.sharpened_key, self.forget_key):
            keys.addWidget(key)
        right.addLayout(keys)
        self.out_key, self.in_key = button_of("Write a table…", lambda: None), button_of("Read a table…", lambda: None)
        self.take_key = button_of("Take it into this job", self._take, True)
        self.take_key.setObjectName("first")
        self.buttons(self.out_key, self.in_key, button_of("Close", self.reject), self.take_key)

    # -- the list ----------------------------------------------------------------------------------------------------

    def fill(self, name: str = "") -> None:
        """What is found, sorted; one of them chosen."""
        chosen = name or (self.chosen.name if self.chosen is not None else "")
        self.list.blockSignals(True)
        self.list.clear()
        for tool in sorted_by(found(self.tools, self.search.text()), self.by.currentText()):
            item = QListWidgetItem(spell(self._line(tool), self._unit))
            item.setData(Qt.ItemDataRole.UserRole, tool.name)
            self.list.addItem(item)
            if tool.name == chosen:
                self.list.setCurrentItem(item)
        if self.list.currentRow() < 0:
            self.list.setCurrentRow(0)
        self.list.blockSignals(False)
        self._show()

    def _line(self, tool: Tool) -> str:
        """Its name, how wide it is where that does not say it, and where it hangs."""
        wide = "" if f"{tool.diameter:g} mm" in tool.name else f" · Ø {mm(tool.diameter)}"
        return f"{tool.name}{wide}{f' · {tool.hangs}' if tool.hangs else ''}"

    @property
    def chosen(self) -> Tool | None:
        """The one that is chosen."""
        item = self.list.currentItem()
        name = item.data(Qt.ItemDataRole.UserRole) if item is not None else ""
        return next((t for t in self.tools if t.name == name), None)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:  # noqa: N802 - the toolkit's name
        """Up and down go along the list while one types."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and watched is self.search:
            step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
            if step is not None and self.list.count():
                self.list.setCurrentRow((self.list.currentRow() + step) % self.list.count())
                return True
        return super().eventFilter(watched, event)

    def _show(self) -> None:
        tool = self.chosen
        for key in (self.copy_key, self.sharpened_key, self.take_key):
            key.setEnabled(tool is not None)
        self.forget_key.setEnabled(tool is not None and tool.name in self.own)
        if tool is None:
            self.picture.show_drawing(None)
            self.told.setText(
                "Nothing in the drawer has these words." if self.search.text() else "The drawer is empty."
            )
            self.said.setText("")
            return
        held = gripped(tool, self._machine.collets)
        self.picture.show_drawing(tool_in_collet(tool, self._machine, held.collet, self._unit))
        self.told.setText(spell("\n".join(_facts(tool, held.collet is not None, tool.name in self.own)), self._unit))
        lines = [*self._done(tool), aged(held.collet, self._today) if held.collet is not None else ""]
        self.said.setText(spell("\n".join(line for line in lines if line), self._unit))

    def _done(self, tool: Tool) -> list[str]:
        """What it has done here, and what can be taken for it."""
        life = self._life(tool)
        far = [f"{metres:.0f} m, {minutes / 60.0:.1f} h in {wood}" for wood, metres, minutes in life.by_wood]
        since = f" since {tool.sharpened}" if tool.sharpened else ""
        lines = [f"Cut here{since}: {'; '.join(far) if far else 'nothing yet, by shop runs'}."]
        if life.offer:
            lines.append(life.offer)
        for one in lookalikes(tool, self.tools)[:1]:
            lines.append(
                f"Can be taken for {one.other.name}: {one.by[0] if one.by else 'nothing that is entered tells them apart'}.".replace(
                    f"T{one.other.number} ", "the other "
                )
            )
        return lines

    # -- what is done with one --------------------------------------------------------------------------------------

    def _take(self) -> None:
        if self.chosen is not None:
            self.taken.emit(self.chosen)
            self.accept()

    def put(self, *tools: Tool) -> None:
        """Keep tools for the shop, in the place of those of the same name."""
        for tool in tools:
            self.tools = [t for t in self.tools if t.name != tool.name] + [tool]
            self.own.add(tool.name)
            self.kept.emit(tool)
        if tools:
            self.search.clear()
            self.fill(tools[-1].name)

    def _copy(self) -> None:
        tool = self.chosen
        if tool is None:
            return
        stem, n = f"{tool.name}, copy"[: NAMES - 4], 2
        name = stem
        while any(t.name == name for t in self.tools):
            name, n = f"{stem} {n}", n + 1
        self.put(tool.model_copy(update={"name": name}))

    def _sharpened(self) -> None:
        if self.chosen is not None:
            self.put(self.chosen.model_copy(update={"sharpened": self._today}))

    def _forget(self) -> None:
        tool = self.chosen
        if tool is None:
            return
        self.tools = [t for t in self.tools if t.name != tool.name]
        self.own.discard(tool.name)
        self.forgotten.emit(tool.name)
        self.fill()

    def write(self, path: Path, text: str) -> None:
        """What became of a table."""
        self.said.setText(f"{text.count(chr(10)) - 1} tools are in {path.name}.")

    def read(self, tools: Callable[[], Sequence[Tool]]) -> None:
        """Take a table in, whole or not at all."""
        try:
            new = list(tools())
        except OperatorError as error:
            self.said.setText(str(error))
            return
        self.put(*new)
        self.said.setText(f"{len(new)} tool{'s are' if len(new) != 1 else ' is'} in the drawer from it.")


def _facts(tool: Tool, held: bool, own: bool) -> list[str]:
    """What is entered of a tool, in a few lines."""
    spiral = {
        "up": "flutes wind up",
        "down": "flutes wind down",
        "straight": "straight flutes",
        "compression": "flutes meet",
    }[tool.spiral]
    first = f"{tool.teeth} cutting edge{'s' if tool.teeth != 1 else ''}, {spiral}, {tool.body}; shank {size_words(tool.shank)}{'' if held else ': no collet of that size'}"
    speeds = f"{tool.rpm:.0f} rpm{f' of {tool.marked_rpm:.0f} marked' if tool.marked_rpm else ', none marked on it'}; {tool.feed:.0f} mm/min, {mm(tool.pass_depth)} a pass"
    where = "; ".join(
        w for w in (
            f"hangs at {tool.hangs}" if tool.hangs else "", f"sharpened {tool.sharpened}" if tool.sharpened else "", f"{tool.price:g} paid" if tool.price else "",
        ) if w
    )  # fmt: skip
    chips = "; ".join(
        f"{mm(c.least, 3)} to {mm(c.most, 3)} in {c.wood}, {'its maker' if c.by == 'maker' else 'this shop'}"
        for c in tool.chips
    )
    whose = "" if own else "Starting values as they ship: measure your own, and keep it."
    kind = KINDS[tool.kind]
    lines = (
        whose,
        f"{kind[:1].upper()}{kind[1:]}: {first}",
        speeds,
        f"Chips a tooth: {chips}" if chips else "",
        where[:1].upper() + where[1:],
    )
    return [words for words in lines if words]
