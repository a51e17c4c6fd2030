# SPDX-License-Identifier: GPL-3.0-or-later
"""What is asked of the machine at any moment, while something goes on: pause, lift, stop, feed and spindle. The window never waits for it."""

from __future__ import annotations

import queue
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal

from gatepost.core.errors import OperatorError

if TYPE_CHECKING:
    from gatepost.machine.ramp import FeedRamp


class AtOnce(QObject):
    """A session that another thread owns, and a thread that sends what can't wait."""

    fed = pyqtSignal(float)  # the feed override, per cent
    sped = pyqtSignal(float)  # of the spindle's speed, per cent
    told = pyqtSignal(str)  # what went wrong beside the machine

    def __init__(self) -> None:
        super().__init__()
        self._session: Any = None
        self._keeper: Any = None
        self._urgent: queue.Queue[Callable[[], None] | None] = queue.Queue()
        self.state = "no link"
        self.busy = self._probing = False
        self.percent, self.block = 100.0, 0  # of the feed; blocks done of the program that runs
        self.speed_percent = 100.0  # of the spindle's speed
        self._ramp: FeedRamp | None = None
        self.last_words = ""

    def _run_threads(self) -> None:
        raise NotImplementedError

    def _post(self, act: Callable[[], None]) -> None:
        raise NotImplementedError

    def _note(self, what: str) -> None:
        if self._keeper is not None and self._keeper.current is not None:
            self._keeper.asked(what)

    def hold_still(self) -> None:
        """Whatever moves: a program is paused, everything else stopped, and nothing that was to follow it begins."""
        from gatepost.machine.link import State

        self._probing = False
        if self._session is not None and self._session.state is State.LIFTED:
            return  # it stands
        self._at_once("pause", "hold_still")

    stop_probing = hold_still  # and go to no other place

    def pause(self) -> None:
        """Ask for a pause."""
        self._at_once("pause", "pause")

    def resume(self) -> None:
        """Go on."""
        if self.busy:
            self._at_once("resume", "resume")
        else:
            self.told.emit(
                "Nothing leads this run any more: stop it, look at the machine, then resume it from the log."
            )

    def stop(self) -> None:
        """Ask for a stop."""
        self._probing = False
        self._at_once("stop", "stop")

    def feed(self, percent: float) -> None:
        """Feed override, noted with its block and time; told where the bit rubs at it."""
        self.percent = percent
        if self._keeper is not None:
            self._keeper.fed(percent, self.block)
        self._rubs()
        self._at_once("", "feed", percent)
        self.fed.emit(percent)

    def lift(self) -> None:
        """Paused: up out of the wood, then the spindle ends."""
        self._at_once("lift", "lift")

    def lower(self, to: float, feed: float, wait: float) -> None:
        """Lifted: the spindle up to speed, then down into the place that was left. to: machine Z down to which nothing is in the way; feed: mm/min
        below that; wait: s for the spindle. It is paused there."""
        self._at_once("lower", "lower", to, feed, wait)

    def turn(self, percent: float) -> None:
        """Of the spindle's speed, noted with its block and time; told where the bit rubs at it."""
        self.speed_percent = percent
        if self._keeper is not None:
            self._keeper.fed(percent, self.block, "rpm")
        self._rubs()
        self._at_once("", "rpm", percent)
        self.sped.emit(percent)

    def _turns_as_planned(self) -> None:
        """The program has ended: the next one's spindle turns as it says."""
        if self.speed_percent != 100.0:
            self.speed_percent = 100.0
            self._at_once("", "rpm", 100.0)
            self.sped.emit(100.0)

    def _rubs(self) -> None:
        """Told where the bit rubs: its chip is as much thinner as it is fed slower or turns faster."""
        if self._ramp is not None and self._ramp.rubs(self.block, 100.0 * self.percent / self.speed_percent):
            self.told.emit(self._ramp.words)

    def remark(self, what: str) -> bool:
        """Keep something that is seen or heard now with the run; gives whether there is one."""
        return self._keeper is not None and bool(self._keeper.said(what, self.block))

    def _at_once(self, note: str, act: str, *values: float) -> None:
        """Ask something of the machine from a thread of its own: the window never waits for it. On a lost link that is told."""
        session = self._session
        if session is None:
            if self.state == "lost":
                self.told.emit(self.last_words or "The link to the machine is lost. Use its own red button.")
            return
        if note:
            self._note(note)
        self._run_threads()
        self._urgent.put(lambda: getattr(session, act)(*values))

    def _ask_at_once(self) -> None:
        while (ask := self._urgent.get()) is not None:
            try:
                ask()
            except OperatorError as error:
                self._post(lambda words=str(error): self.told.emit(words))
