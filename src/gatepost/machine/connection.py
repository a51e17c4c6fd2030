# SPDX-License-Identifier: GPL-3.0-or-later
"""A connection to a machine: sockets around the link's engine. Pause, stop and feed may be called from any thread; all else from one."""

from __future__ import annotations

import contextlib
import math
import socket
import threading
import time
from collections.abc import Callable
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.machine.failures import CalledOff, LinkLost, MachineRefused, Overdue
from gatepost.machine.limits import Limits
from gatepost.machine.link import GOING, Event, Link, LinkMisuse, PeerError, State
from gatepost.machine.terminal import TerminalLine

SILENCE = 1.8  # s without a word before the link counts as lost
LOOK = 0.25  # s of silence before the machine is asked how it is
STOPS_WITHIN = 2.0  # s that a machine may take to come to a stand
SOON = 2.0  # s for what is answered at once
QUIETLY = ("pause", "resume", "feed", "rpm", "state", "lift", "lower", "creep")  # whose refusal ends nothing
QUICKLY = 31.0  # s; what may take longer than this moves
NOT_NOW = {
    State.UNHOMED: "The machine has not been homed. Home it first.",
    State.FAULTED: "The machine stopped with a fault. Home it before going on.",
    State.PAUSED: "The machine is paused. Resume it or stop it first.",
    State.STOPPING: "The machine is coming to a stop. Wait until it stands.",
    State.MOVING: "The machine says that it is moving. Wait until it stands, and look at it.",
    State.RUNNING: "The machine is running a program. Wait for its end, or stop it first.",
}
GONE = "The link to the machine is lost: nothing that is asked from here reaches it. Use its own red button."
Listener = Callable[[Event], None]


def address(words: str) -> tuple[str, int]:
    """HOST:PORT, or the path of a terminal with port 0. Raises OperatorError."""
    if words.startswith("/"):
        return words, 0
    host, _, port = words.rpartition(":")
    if not host or not port.isdigit():
        raise OperatorError(f"“{words}” is neither HOST:PORT nor the path of a terminal.")
    return host, int(port)


class Connection:
    """One connection, to HOST and port, or to a terminal's path. listener: told every event, in the session's thread;
    limits: of the machine, where its profile is known."""

    def __init__(
        self,
        host: str,
        port: int,
        listener: Listener | None = None,
        timeout: float = SOON,
        limits: Limits | None = None,
    ) -> None:
        self._link = Link()
        self.limits = limits
        self._off = False  # called off: nothing more is begun until fresh()
        self._override = 1.0
        self._sends = self._lifts = False  # whether a program sends blocks now, and is to lift as soon as it may
        self._broken: LinkLost | None = None
        self._listened = 0.0  # s of waiting so far, the clock of every wait: what a desk slept itself is not in it
        self._looked = time.monotonic()  # when that was told last
        self._heard_at = 0.0  # when anything was heard last that was waited for, by that clock
        self._guard = threading.Lock()
        self._listener = listener or (lambda event: None)
        self._last: dict[str, Any] = {}
        self._stop_asked = math.inf
        try:
            self._socket = (
                TerminalLine(host) if host.startswith("/") else socket.create_connection((host, port), timeout)
            )
        except OSError as error:
            where = host if host.startswith("/") else f"{host}:{port}"
            raise LinkLost(f"No machine answers at {where} ({error.strerror or error}). Is it switched on?") from None
        self._socket.settimeout(LOOK)
        try:
            self._send("hello")
            self._until("state", timeout)
        except BaseException:
            self.close()
            raise

    # -- what is known ---------------------------------------------------------------------------------

    @property
    def state(self) -> State:
        """What the machine is doing, as far as the link knows."""
        return self._link.state

    @property
    def last(self) -> dict[str, Any]:
        """The last state message: machine, work, zero, spindle, feed, clock."""
        return dict(self._last)

    def close(self) -> None:
        """Let go of the connection."""
        self._link.lost()
        with contextlib.suppress(OSError):
            self._socket.close()

    # -- from any thread -------------------------------------------------------------------------------

    def pause(self) -> None:
        """Ask the machine to pause a program. Nothing happens when none runs. Raises LinkLost."""
        self._ask("pause")

    def resume(self) -> None:
        """Ask it to go on. Raises LinkLost."""
        self._ask("resume")

    def stop(self) -> None:
        """Ask it to stop, end the spindle and forget its queue, and begin nothing more. This is not an emergency stop.
        Raises LinkLost."""
        self._off = True
        if self._link.state in GOING:
            self._stop_asked = self._listened
        self._ask("stop")

    def hold_still(self) -> None:
        """Whatever moves: a program is paused; homing, a jog or a touch is stopped, and what was to follow it does not begin.
        Raises LinkLost."""
        if self._link.state in (State.RUNNING, State.PAUSED):
            self.pause()
        elif self._link.state is not State.LIFTED:  # it stands
            self.stop_moving()

    def stop_moving(self) -> None:
        """Stop what moves now, and begin nothing more. Between two moves nothing is sent: a stop would cross the next, which
        does not begin. Raises LinkLost."""
        self._off = True
        with contextlib.suppress(LinkMisuse):
            self._send("stop", only_going=True)

    @property
    def called_off(self) -> bool:
        """Whether an operator has stopped what goes on."""
        return self._off

    def fresh(self) -> None:
        """Something new begins: what was called off before it does not count any more."""
        self._off = False

    def feed(self, percent: float) -> None:
        """Feed override. Raises LinkLost."""
        self._ask("feed", percent=percent)

    def rpm(self, percent: float) -> None:
        """Of the spindle's speed. Raises LinkLost."""
        self._ask("rpm", percent=percent)

    def lift(self) -> None:
        """Paused: up out of the wood, then the spindle ends. Nothing happens where it is not. Raises LinkLost.

        Where a program sends blocks, it asks for it itself once all that it has sent is taken: else an answer would cross it."""
        if self._sends:
            self._lifts = True
        else:
            self._ask("lift")

    def lower(self, to: float, feed: float, wait: float) -> None:
        """Lifted: the spindle up to speed for wait s, quickly down to machine Z to, at a feed, mm/min, into the place that was left; it is
        paused there. Raises LinkLost."""
        self._ask("lower", to=to, feed=feed, wait=wait)

    def _ask(self, do: str, **values: Any) -> None:
        """Send what may be asked at any time; nothing where it makes no sense now."""
        with contextlib.suppress(LinkMisuse):
            self._send(do, **values)

    # -- inside ----------------------------------------------------------------------------------------

    def _begin(self, do: str, **values: Any) -> None:
        """Send what sets something going, unless everything was called off."""
        if self._off:
            raise CalledOff("Stopped. Nothing more of it was begun: begin it again.")
        self._order(do, **values)

    def _order(self, do: str, **values: Any) -> None:
        """Send what must be possible now. Raises MachineRefused where it is not, in an operator's words."""
        try:
            self._send(do, **values)
        except LinkMisuse as error:
            raise MachineRefused(
                NOT_NOW.get(self._link.state, f"That can't be asked of the machine now ({error}).")
            ) from None

    def _send(self, do: str, only_going: bool = False, **values: Any) -> None:
        if self._broken is not None:
            raise self._broken
        if self._link.state is State.LOST:
            raise LinkLost(GONE)
        with self._guard:
            if only_going:
                if self._link.state not in GOING:
                    return
                self._stop_asked = self._listened
            data = self._link.send(do, **values)
            try:
                self._socket.sendall(data)
            except OSError as error:
                self._link.lost()
                raise LinkLost(
                    f"The link to the machine is lost ({error.strerror or error}). Look at the machine: it may still be moving."
                ) from None

    def _receive(self) -> bytes:
        """What has come. Each look counts with what is done between two, so that a machine which never stops talking is waited for no
        longer than a silent one; and never with more than a look, so that a desk which slept does not count its sleep."""
        try:
            return self._socket.recv(65536)
        finally:
            now = time.monotonic()
            self._listened += min(now - self._looked, 2.0 * LOOK)
            self._looked = now

    def _wait_anew(self) -> None:
        """Another wait begins: what went by before it does not count."""
        self._looked = time.monotonic()
        self._heard_at = self._listened

    def _hear(self, silence: float = SILENCE) -> list[Event]:
        if self._broken is not None:
            raise self._broken
        while True:
            try:
                data = self._receive()
            except TimeoutError:
                if self._listened > self._heard_at + silence:
                    self._link.lost()
                    raise LinkLost(
                        "The machine has not answered for two seconds: the link counts as lost. Look at the machine."
                    ) from None
                self._late_stop()
                if self._link.state is State.CREEPING:
                    return []  # so that who jogs it can tell it to go on
                if self._link.state in (*GOING, State.STOPPING):
                    self._order("state")
                    if self._link.state is State.RUNNING:
                        return []  # so that who runs a program can look at the clock
                continue
            except OSError as error:
                self._link.lost()
                raise LinkLost(
                    f"The link to the machine is lost ({error.strerror or error}). Look at the machine."
                ) from None
            self._heard_at = self._listened
            if not data:
                self._link.lost()
                raise LinkLost("The machine closed the link. It may still be moving: look at it before anything else.")
            with self._guard:
                try:
                    events = self._link.receive(data)
                except PeerError as error:
                    events = error.events
                    self._broken = LinkLost(
                        f"The machine said something that can't be right ({error}). The link is closed."
                    )
            if self._broken is None:
                self._late_stop()
            for event in events:
                self._note(event)
                self._listener(event)
            if events:
                return events
            if self._broken is not None:
                raise self._broken

    def _note(self, event: Event) -> None:
        """What a state message tells; a place that can't be loses the link."""
        if event.kind != "state":
            return
        self._last = event.data
        self._override = max(0.05, float(event.data.get("feed", 100.0)) / 100.0)
        where = event.data["machine"]
        homed = event.data["state"] not in ("unhomed", "faulted") and self._link.state not in (
            State.MOVING,
            State.STOPPING,
        )
        if self.limits is not None and homed and not self.limits.holds(where):
            self._link.lost()
            places = ", ".join(f"{a} {v:.1f}" for a, v in zip("XYZ", where))
            self._broken = LinkLost(
                f"The machine says that it stands at {places}, outside its travel. The link is closed. Look at the machine."
            )

    def _late_stop(self) -> None:
        """A machine that was asked to stop and goes on is not one to trust."""
        if self._link.state is State.STOPPING and self._listened > self._stop_asked + STOPS_WITHIN:
            self._link.lost()
            raise LinkLost(
                "The machine was asked to stop and has not said that it did. Use its own red button, and look at it."
            )

    def _until(self, kinds: str | tuple[str, ...], timeout: float) -> Event:
        wanted = (kinds,) if isinstance(kinds, str) else kinds
        self._wait_anew()
        limit = self._listened + timeout
        moves = timeout > QUICKLY
        while self._listened < limit:
            found = None
            for event in self._hear(SILENCE if moves else max(SILENCE, timeout)):
                if event.kind in wanted:
                    found = event
                elif event.kind == "stopped" and self._stop_asked < math.inf:
                    self._stop_asked = math.inf
                    raise CalledOff("It was stopped. What it was to do is not done: begin it again.")
                else:
                    self._raise_if_refused(event)
            if found is not None and self._link.state is not State.STOPPING:
                return found
        if moves:
            with contextlib.suppress(OperatorError, LinkMisuse):
                self._send("stop", only_going=True)
            raise Overdue(
                f"It has not ended within {timeout:.0f} s, far longer than it can take. A stop was asked for. Look at the machine before "
                "anything else; if it moves, use its red button."
            )
        raise LinkLost(f"The machine did not answer within {timeout:.0f} s.")

    def _raise_if_refused(self, event: Event) -> None:
        if event.kind == "refused" and event.data.get("do") not in QUIETLY:
            raise MachineRefused(f"The machine refused “{event.data.get('do')}”: {event.data.get('reason')}.")
        if event.kind == "fault":
            raise MachineRefused(
                f"The machine stopped with a fault: {event.data.get('reason')}. Home it before going on."
            )
