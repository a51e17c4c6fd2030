# SPDX-License-Identifier: GPL-3.0-or-later
"""Everything that can be done: a menu in groups, and a search over all of it, pages and their buttons too."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu, QWidget

from gatepost.desk.context.keys import COMMANDS, GROUPS
from gatepost.desk.context.stages import NAMES

if TYPE_CHECKING:
    from gatepost.desk.context.desk_context import DeskContext

Row = tuple[str, str, Callable[[], object]]


def menu(parent: QWidget, desk: DeskContext) -> QMenu:
    """A menu of menus. What needs a job is grey where none is open."""
    out = QMenu(parent)
    for command in GROUPS[-1][1]:
        if command.name == "find":
            out.addAction(_action(out, desk, command.name, command.words, command.key))
            out.addSeparator()
    for title, commands in GROUPS:
        inner = QMenu(title, out)
        for command in commands:
            action = _action(inner, desk, command.name, command.words, command.key)
            action.setEnabled(command.always or desk.document is not None)
            inner.addAction(action)
        out.addMenu(inner)
    return out


def _action(menu: QMenu, desk: DeskContext, name: str, words: str, key: str) -> QAction:
    action = QAction(words, menu)
    if key:
        action.setShortcut(QKeySequence(key))
        action.setShortcutVisibleInContextMenu(True)
    action.triggered.connect(lambda: desk.act(name))
    return action


def everything(desk: DeskContext) -> Iterator[Row]:
    """Words, what stands beside them, and what is done: commands, stages, and what the pages of the open job offer."""
    from gatepost.desk.pages.table import entries

    document = desk.document
    for command in COMMANDS:
        if command.always or document is not None:
            yield command.words.rstrip("…"), command.key, lambda n=command.name: desk.act(n)
    if document is None:
        return
    for i, (stage, name) in enumerate(NAMES.items()):
        yield f"Go to {name}", f"Ctrl+{(i + 1) % 10}", lambda s=stage: desk.stage_wanted.emit(s)
        for group in entries(stage, document.job, desk.showing.setup, document.kinds):
            for row in group.rows:
                for entry in row.entries[:1]:
                    words = f"{row.label or entry.label}: {group.title}"
                    yield words, name, lambda s=stage, label=entry.label: desk.field_wanted.emit(s, label)
            for act in group.acts:
                yield act.label.rstrip("…"), name, lambda s=stage, label=act.label: desk.field_wanted.emit(s, label)
