# SPDX-License-Identifier: GPL-3.0-or-later
"""What a machine is asked to do, one thing after the other: blocking calls for one thread."""

from __future__ import annotations

import contextlib
import math
from collections import deque
from collections.abc import Callable, Sequence
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.machine.blocks import blocks_of
from gatepost.machine.connection import LOOK, SOON, STOPS_WITHIN
from gatepost.machine.failures import CalledOff, LinkLost, MachineRefused, Overdue
from gatepost.machine.hands_and_eyes import HandsAndEyes
from gatepost.machine.limits import BEYOND, longest
from gatepost.machine.link import Event, LinkMisuse, State

ACROSS = 120.0  # s to cross a machine whose profile is not known
KEEP_ON = 0.05  # s between words of whoever jogs by hand; the machine waits for four of them
Speeds = tuple[float, float, float]  # mm/min along X, Y and Z
Progress = Callable[[int, int], None]  # blocks done, of how many


def _along(speeds: Speeds) -> dict[str, Any]:
    """A message's words of speeds."""
    return dict(zip("xyz", speeds))


class Session(HandsAndEyes):
    """One machine, over one connection. held_at: after how many blocks a program is held, 0 where it is not."""

    held_at = 0

    def home(self) -> tuple[float, float, float]:
        """Home, and wait for it; gives how far its counting was off, mm, where the machine says so."""
        self._begin("home")
        miss = self._until("homed", self._moving()).data.get("miss", (0.0, 0.0, 0.0))
        return (float(miss[0]), float(miss[1]), float(miss[2]))

    def jog(self, **to: float) -> None:
        """Go to machine coordinates, up and across before down."""
        self._begin("jog", **to)
        self._until("arrived", self._moving())

    def creep(self, speeds: Callable[[], Speeds | None]) -> bool:
        """Jog for as long as speeds gives any, mm/min along X, Y and Z; it is asked again and again, and the machine ends it by itself where it
        is not. Gives whether anything was asked for. Raises MachineRefused, CalledOff, LinkLost."""
        first = speeds()
        if first is None:
            return False
        self._socket.settimeout(KEEP_ON)
        try:
            self._begin("creep", **_along(first))
            self._wait_anew()
            told, ends = self._listened, False
            while self._link.state in (State.CREEPING, State.STOPPING):
                for event in self._hear():
                    if event.kind == "arrived" and self._link.state is not State.STOPPING:
                        return True  # what is refused after that was a word too late
                    self._jogged(event)
                if self._link.state is State.CREEPING and not ends and self._listened - told >= KEEP_ON:
                    going, told = speeds(), self._listened
                    ends = going is None
                    self._ask("creep", **(_along(going) if going is not None else {}))
            return True
        finally:
            self._socket.settimeout(LOOK)

    def _jogged(self, event: Event) -> None:
        """What is heard while it is jogged by hand: stopped, refused, a fault."""
        if event.kind == "stopped":
            self._stop_asked = math.inf
            raise CalledOff("It was stopped.")
        if event.kind == "refused" and event.data.get("do") == "creep" and self._link.state is not State.CREEPING:
            raise MachineRefused(f"The machine does not jog: {event.data.get('reason')}.")
        self._raise_if_refused(event)

    def touch(self, to: float, feed: float, gauge: float, axis: str = "z") -> float:
        """Go along an axis until the plate closes, or a pin meets the wood; gives the machine coordinate of the contact."""
        more = {"axis": axis} if axis != "z" else {}
        i = "xyz".index(axis)
        self.look()
        here = self._last["machine"][i]
        self._begin("touch", to=to, feed=feed, gauge=gauge, **more)
        event = self._until(("touched", "no-contact"), self._moving(abs(to - here) / (feed / 60.0)))
        if event.kind == "no-contact" and axis != "z":
            raise MachineRefused(
                f"The edge was not met on {axis.upper()}: the blank is not where it was meant to be. Look, and try again."
            )
        if event.kind == "no-contact":
            raise MachineRefused("The plate's circuit never closed. Lift, check clip and plate, and try again.")
        contact = float(event.data["z"])
        self._can_be(axis, here, to, contact)
        return contact

    def _can_be(self, axis: str, here: float, to: float, contact: float) -> None:
        """Raise LinkLost where a contact lies off the way that was gone."""
        low, high, i = min(to, here), max(to, here), "xyz".index(axis)
        if not low - BEYOND <= contact <= high + BEYOND or (
            self.limits is not None and not -self.limits.travel[i] - BEYOND <= contact <= BEYOND
        ):
            self._link.lost()
            raise LinkLost(
                f"The machine says that it touched at {axis.upper()} {contact:.2f}, and was sent from {here:.2f} to {to:.2f}: that can't "
                "be right. The link is closed. Look at the machine."
            )

    def zero(self, **at: float) -> None:
        """Set work zero, machine coordinates; not where what it was found by has been called off."""
        self._begin("zero", **at)
        self._until("set", SOON)

    def spin(self, rpm: float) -> None:
        """Spindle on or off."""
        if rpm:
            self._begin("spindle", rpm=rpm)
        else:
            self._order("spindle", rpm=rpm)
        self._until("set", SOON)

    def halt(self) -> None:
        """Stop what an earlier desk left, and wait until it stands."""
        self._send("stop")
        self._wait_anew()
        limit = self._listened + STOPS_WITHIN
        while self._listened < limit:
            for event in self._hear(STOPS_WITHIN):
                if event.kind == "stopped":
                    self._stop_asked = math.inf
                    return
        raise LinkLost("The machine was asked to stop and has not said that it did. Use its own red button.")

    def look(self) -> None:
        """Ask how it is, while nothing else goes on. Raises LinkLost when it does not answer."""
        self._order("state")
        self._until("state", SOON)

    def run(
        self, text: str, progress: Progress | None = None, seconds: Sequence[float] = (), holds: Sequence[int] = ()
    ) -> str:  # fmt: skip
        """Send a program in a window of blocks; gives ``done`` or ``stopped``. progress: blocks done, of how many; seconds:
        that each block is planned to take; holds: after how many blocks it is paused by itself, until somebody resumes it.

        A block that takes PATIENCE times as long as planned, and GRACE, at the override that stands, is overdue: a pause is
        asked for, and Overdue raised. The clock stands while the machine is paused, and a stop goes on to its answer.
        """
        blocks = blocks_of(text)
        self.rpm(100.0)  # whatever a desk before this one has left it at
        self._begin("begin")
        self._until("begun", SOON)
        for after in holds:
            self._ask("pause", after=after)  # a stop may have come between
        self._sends = True
        try:
            return self._sent(blocks, progress, seconds, holds)
        finally:
            self._sends = self._lifts = False
            self.held_at = 0

    def _sent(
        self, blocks: Sequence[str], progress: Progress | None, seconds: Sequence[float], holds: Sequence[int]
    ) -> str:  # fmt: skip
        """All blocks, one after another, until the last is done or a stop is answered."""
        waiting = deque(blocks)
        ended = False
        since = self._listened
        while True:
            if self._link.state is not State.RUNNING:
                since = self._listened
            self.held_at = self._link.done if self._link.done in holds else 0
            self._in_time(since, seconds, len(blocks))
            self._lift_or_fill(waiting)
            for event in self._hear():
                if event.kind == "done":
                    since = self._listened
                    if progress is not None:
                        progress(int(event.data["n"]), len(blocks))
                if event.kind == "ended":
                    ended = True  # a stop may have crossed it: its answer is still to come then
                    self._all_done(len(blocks))
                if event.kind == "stopped" and not ended:
                    return "stopped"
                if event.kind == "refused" and event.data.get("do") == "pause" and self._link.state is State.RUNNING:
                    self.stop()  # it was to stand still, and would not pause: it stops
                self._raise_if_refused(event)
            if ended and self._link.state is not State.STOPPING:
                return "done"

    def _lift_or_fill(self, waiting: deque[str]) -> None:
        """Send what there is room for; nothing more where it is to be lifted, which is asked for once all that was sent is taken."""
        if self._lifts and self._link.state is State.PAUSED:
            if self._link.taken == self._link.sent:
                self._lifts = False
                self._ask("lift")
            return
        self._lifts = False  # it goes on already
        self._fill(waiting)

    def _fill(self, waiting: deque[str]) -> None:
        """Send as many blocks as the machine has room for."""
        while waiting and self._link.credits > 0 and self._link.state in (State.RUNNING, State.PAUSED):
            try:
                self._send("block", text=waiting[0])
            except LinkMisuse:  # a stop came between
                return
            waiting.popleft()

    def _in_time(self, since: float, seconds: Sequence[float], count: int) -> None:
        """Raise Overdue where the block that is being carried out takes far longer than planned."""
        at = self._link.done
        planned = (seconds[at] if at < len(seconds) else 0.0) / min(1.0, self._override)
        taken = self._listened - since
        if taken > longest(self.limits, planned):
            with contextlib.suppress(OperatorError):
                self.pause()
            raise Overdue(
                f"Block {at + 1} of {count} should take {planned:.0f} s and has not ended after {taken:.0f} s. A pause was asked for. Look at "
                "the machine before anything else; if it moves, use its red button."
            )

    def _all_done(self, count: int) -> None:
        """Raise LinkLost where a machine says that a program has ended before all its blocks are done."""
        if self._link.done != count:
            self._link.lost()
            raise LinkLost(
                f"The machine says that the program has ended, and has carried out {self._link.done} of {count} blocks. The link is closed. "
                "Look at the machine and at the work."
            )

    def _moving(self, more: float = 0.0) -> float:
        """Seconds that homing, a jog or a touch may take."""
        return longest(self.limits, more) + (
            self.limits.pace * self.limits.across() if self.limits is not None else ACROSS
        )
