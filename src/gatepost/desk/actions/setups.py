# SPDX-License-Identifier: GPL-3.0-or-later
"""What the window does about setups: each is an edit like any other, and undone like any other."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QInputDialog

from gatepost.core.job.turning import OPPOSITE
from gatepost.desk.context.desk_context import DeskContext

if TYPE_CHECKING:
    from gatepost.core.job.model import Job


class SetupActions:
    """One of them is always there."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self._run, self._show = desk.run, desk.setup_wanted.emit

    def _job(self) -> Job:
        assert self._desk.document is not None
        return self._desk.document.job

    def ask(self, word: str, setup: str) -> None:
        """Do what the switch's menu offers."""
        name, _, value = word.partition(" ")
        getattr(self, f"_{name}")(setup, *([value] if value else []))

    def _added(self, done: bool, before: set[str]) -> None:
        """Show the setup that is new."""
        new = [s.id for s in self._job().setups if s.id not in before]
        if done and new:
            self._show(new[0])

    def _add(self, setup: str) -> None:
        before = {s.id for s in self._job().setups}
        self._added(self._run("add setup", {}, "one more setup"), before)

    def _copy(self, setup: str) -> None:
        before = {s.id for s in self._job().setups}
        self._added(self._run("copy setup", {"setup": setup}, "setup copied"), before)

    def _rename(self, setup: str) -> None:
        old = self._job().setup(setup)
        title, fine = QInputDialog.getText(
            self._desk.window, "Rename a setup", "What it is called", text=old.title or old.id
        )
        if fine and title.strip():
            self._run("set setup", {"setup": setup, "title": title.strip()}, "setup renamed")

    def _over(self, setup: str) -> None:
        up = self._job().setup(setup).up
        self._run("set setup", {"setup": setup, "up": OPPOSITE[up]}, "turned over")

    def _up(self, setup: str, face: str) -> None:
        self._run("set setup", {"setup": setup, "up": face}, "another face up")

    def _spin(self, setup: str, degrees: str) -> None:
        self._run("set setup", {"setup": setup, "spin": int(degrees)}, "turned on its plane")

    def _earlier(self, setup: str) -> None:
        self._moved(setup, -1)

    def _later(self, setup: str) -> None:
        self._moved(setup, 1)

    def _moved(self, setup: str, by: int) -> None:
        order = [s.id for s in self._job().setups]
        at = order.index(setup)
        if 0 <= at + by < len(order):
            order.insert(at + by, order.pop(at))
            self._run("order setups", {"order": tuple(order)}, "setups ordered")

    def _remove(self, setup: str) -> None:
        if self._run("remove setup", {"setup": setup}, "setup taken away"):
            self._show(self._job().setups[-1].id)
