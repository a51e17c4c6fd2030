# SPDX-License-Identifier: GPL-3.0-or-later
"""What changes only how things are seen: sides, views, theme; the menu, the search and the help."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication

from gatepost.desk.context.desk_context import Act, DeskContext
from gatepost.desk.theme.style import dress

if TYPE_CHECKING:
    from gatepost.core.plan.advice import Advice
    from gatepost.desk.window.desk_view import DeskView
    from gatepost.desk.window.parts import Parts
    from gatepost.desk.window.shortcuts import WindowKeys


class ViewActions:
    """parts: what stands behind the start page; built: whether it is there yet; here, at_desk: which page of the window is looked at."""

    def __init__(
        self, desk: DeskContext, parts: Callable[[], Parts], built: Callable[[], bool], here: Callable[[], bool],
        at_desk: Callable[[], bool],
    ) -> None:  # fmt: skip
        self._desk, self._parts, self._built, self._here, self._at_desk = desk, parts, built, here, at_desk
        self.keys: WindowKeys | None = None
        self.wants_fix = False  # a fix was asked for, and none was known yet

    @property
    def _view(self) -> DeskView:
        return self._parts().desk

    def acts(self) -> dict[str, Act]:
        """By name; those that show something of a job do nothing where none is open."""

        def of_job(act: Callable[[], object]) -> Callable[[], None]:
            def do() -> None:
                if self._desk.document is not None:
                    act()

            return do

        shown: dict[str, Callable[[], object]] = {
            "side": self.side,
            "focus_bed": lambda: self._view.bed.setFocus(Qt.FocusReason.ShortcutFocusReason),
            "focus_heights": lambda: self._view.heights.setFocus(Qt.FocusReason.ShortcutFocusReason),
            "near": lambda: self._view.bed.other_view(),
            "other_setup": lambda: self._parts().presenter.next_setup(),
            "setups": lambda: self._view.setups.open_menu(),
            "first_fix": self.first_fix,
            "machine_view": lambda: self._desk.page_wanted.emit("desk" if self._here() else "machine"),
            "before": lambda: self._view.scrub.setValue(self._view.scrub.value() - 1),
            "after": lambda: self._view.scrub.setValue(self._view.scrub.value() + 1),
        }
        own: dict[str, Act] = {
            "theme": self.other_theme, "menu": self.menu, "find": self.find, "help": self.help, "quit": self._desk.window.close,
        }  # fmt: skip
        return {**own, **{name: of_job(act) for name, act in shown.items()}}

    def side(self) -> None:
        """The other side of the slate, with its first field."""
        slate = self._view.slate
        slate.turn("judged" if slate.side == "entered" else "entered")
        slate.focus_first()

    def first_fix(self) -> None:
        """The first fix of the page; where none is known yet, as soon as one is."""
        self._view.slate.turn("judged")
        self.wants_fix = not self._view.slate.focus_fix()

    def advised(self, advice: Advice) -> None:
        """What is offered for findings is known. Nothing changes its place under a hand that is on it."""
        slate, showing = self._view.slate, self._desk.showing
        focus: Any = QApplication.focusWidget()
        in_use = slate.underMouse() or (focus is not None and slate.isAncestorOf(focus))
        showing.advice = advice if not in_use or self.wants_fix else advice.where_none(showing.plan)
        self._parts().presenter.advised()
        if self.wants_fix and self._at_desk():
            self.wants_fix = not slate.focus_fix()

    def to_field(self, stage: str, label: str) -> None:
        """To a field or a button of a page."""
        self._desk.stage_wanted.emit(stage)
        self._view.slate.turn("entered")
        self._view.slate.focus_on(label)

    def other_theme(self) -> None:
        """Light or dark."""
        theme = "dark" if self._desk.theme == "light" else "light"
        self._desk.theme = theme
        app = QApplication.instance()
        if isinstance(app, QApplication):
            dress(app, theme)
        if self._built():
            self._view.dress(theme)
            self._parts().machine.dress(theme)
            self._parts().presenter.show()

    def menu(self) -> None:
        """Everything that can be done, in groups."""
        from gatepost.desk.window.menu import menu

        shown = menu(self._desk.window, self._desk)
        shown.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        if self.keys is not None:
            self.keys.watch(shown)
        shown.popup(self._desk.window.mapToGlobal(QPoint(10, 46)))

    def find(self) -> None:
        """Search everything that can be done."""
        from gatepost.desk.dialogs.find import FindDialog
        from gatepost.desk.window.menu import everything

        rows = list(everything(self._desk))
        dialog = FindDialog(self._desk.window, [(words, beside) for words, beside, _ in rows])
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.chosen.connect(lambda i: rows[i][2]())
        dialog.open()

    def help(self) -> None:
        """The page one is on, then all keys."""
        from gatepost.desk.dialogs.help import HelpDialog

        page = "start" if self._desk.document is None else "machine" if self._here() else self._desk.showing.stage
        dialog = HelpDialog(self._desk.window, page)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.open()
