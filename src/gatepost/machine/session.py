# SPDX-License-Identifier: GPL-3.0-or-later
"""A connection to a machine: sockets around the link's engine. Blocking calls for one thread; pause, stop and feed
may be called from any other."""

from __future__ import annotations

import contextlib
import math
import re
import socket
import threading
import time
from collections.abc import Callable
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.program.lines import filled_lines
from gatepost.machine.link import GOING, Event, Link, LinkMisuse, PeerError, State
from gatepost.machine.terminal import TerminalLine

SILENCE = 1.8  # s without a word before the link counts as lost
LOOK = 0.25  # s of silence before the machine is asked how it is
STOPS_WITHIN = 2.0  # s that a machine may take to come to a stand
SOON = 2.0  # s for what is answered at once
Listener = Callable[[Event], None]


def address(words: str) -> tuple[str, int]:
    """HOST:PORT, or the path of a terminal with port 0. Raises OperatorError."""
    if words.startswith("/"):
        return words, 0
    host, _, port = words.rpartition(":")
    if not host or not port.isdigit():
        raise OperatorError(f"“{words}” is neither HOST:PORT nor the path of a terminal.")
    return host, int(port)


END = re.compile(r"M0*(2|30)(?![0-9])")


def blocks_of(text: str) -> list[str]:
    """A program's blocks as they are sent: every line with something on it. Block n is the n-th of these.

    A program that does not say that it ends is given its M30: a machine waits for more otherwise.
    """
    blocks: list[str] = []
    for _, line in filled_lines(text):
        blocks.append(line)
        if len(blocks) % 256 == 0:
            time.sleep(0.0)  # others have their turn: a window may be waiting for it
    if not any(END.search(_bare(line)) for line in blocks[-3:]):
        blocks.append("M30")
    return blocks


def _bare(line: str) -> str:
    """A line without comments and blanks, in capitals."""
    return re.sub(r"\([^)]*\)|;.*|\s", "", line).upper()


class LinkLost(OperatorError):
    """The connection is gone; the machine may still be moving."""


class MachineRefused(OperatorError):
    """The machine would not, or stopped with a fault."""


class Session:
    """One connection, to HOST and port, or to a terminal's path. listener: told every event, in the session's thread."""

    def __init__(self, host: str, port: int, listener: Listener | None = None, timeout: float = SOON) -> None:
        self._link = Link()
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
        except OperatorError:
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
        """Ask the machine to pause. Nothing happens when no program runs."""
        with contextlib.suppress(LinkMisuse):
            self._send("pause")

    def resume(self) -> None:
        """Ask it to go on."""
        with contextlib.suppress(LinkMisuse):
            self._send("resume")

    def stop(self) -> None:
        """Ask it to stop, end the spindle and forget its queue. This is not an emergency stop."""
        with contextlib.suppress(LinkMisuse):
            if self._link.state in GOING:
                self._stop_asked = time.monotonic()
            self._send("stop")

    def stop_moving(self) -> None:
        """Stop what moves now, and ask for nothing where nothing does: between two jogs a stop would cross the next."""
        with contextlib.suppress(LinkMisuse):
            self._send("stop", only_going=True)

    def feed(self, percent: float) -> None:
        """Feed override."""
        with contextlib.suppress(LinkMisuse):
            self._send("feed", percent=percent)

    # -- from the session's own thread -------------------------------------------------------------------

    def home(self) -> tuple[float, float, float]:
        """Home, and wait for it; gives how far its counting was off, mm, where the machine says so."""
        self._send("home")
        miss = self._until("homed", 600.0).data.get("miss", (0.0, 0.0, 0.0))
        if not isinstance(miss, (list, tuple)) or len(miss) != 3:
            return (0.0, 0.0, 0.0)
        return (float(miss[0]), float(miss[1]), float(miss[2]))

    def jog(self, **to: float) -> None:
        """Go to machine coordinates, up and across before down."""
        self._send("jog", **to)
        self._until("arrived", 600.0)

    def touch(self, to: float, feed: float, gauge: float, axis: str = "z") -> float:
        """Go along an axis until the plate closes, or a pin meets the wood; gives the machine coordinate of the contact."""
        more = {"axis": axis} if axis != "z" else {}
        self._send("touch", to=to, feed=feed, gauge=gauge, **more)
        event = self._until(("touched", "no-contact"), 600.0)
        if event.kind == "no-contact" and axis != "z":
            raise MachineRefused(
                f"The edge was not met on {axis.upper()}: the blank is not where it was meant to be. Look, and try again."
            )
        if event.kind == "no-contact":
            raise MachineRefused("The plate's circuit never closed. Lift, check clip and plate, and try again.")
        return float(event.data["z"])

    def zero(self, **at: float) -> None:
        """Set work zero, machine coordinates."""
        self._send("zero", **at)
        self._until("set", SOON)

    def fit(self, tool: dict[str, Any]) -> None:
        """Tell a simulated machine which bit is in its collet."""
        self._send("fit", tool=tool)
        self._until("fitted", SOON)

    def sight(self, x: float, y: float, eye: float) -> tuple[float, float]:
        """What an operator sees over the point on a simulated machine: how far a mark that is meant to be at a bed place lies
        from the tip, ± eye."""
        self._send("sight", x=x, y=y, eye=eye)
        off = self._until("sighted", SOON).data["off"]
        return float(off[0]), float(off[1])

    def look_over(self, at: str = "") -> list[str]:
        """What an operator sees who looks over a simulated machine, its bed or the plate's circuit: what is not as it should
        be."""
        self._send("look", at=at)
        return [str(v) for v in self._until("seen", SOON).data["things"]]

    def mend(self, what: str) -> None:
        """Tell a simulated machine that something was put right."""
        self._send("mend", what=what)
        self._until("mended", SOON)

    def lay(self, dx: float, dy: float, standing: list[dict[str, Any]] | None = None) -> None:
        """Tell a simulated machine that the board was laid elsewhere, and what was set about it."""
        more = {} if standing is None else {"standing": standing}
        self._send("lay", dx=dx, dy=dy, **more)
        self._until("laid", SOON)

    def turn(self, about: str) -> None:
        """Tell a simulated machine that the board was turned over."""
        self._send("turn", about=about)
        self._until("turned", 30.0)

    def calipers(self) -> list[float]:
        """What calipers show at a simulated board's corners: front left, front right, back right, back left."""
        self._send("calipers")
        return [float(v) for v in self._until("measured", SOON).data["corners"]]

    def spin(self, rpm: float) -> None:
        """Spindle on or off."""
        self._send("spindle", rpm=rpm)
        self._until("set", SOON)

    def halt(self) -> None:
        """Stop what an earlier desk left, and wait until it stands."""
        self._send("stop")
        limit = time.monotonic() + STOPS_WITHIN
        while time.monotonic() < limit:
            for event in self._hear(STOPS_WITHIN):
                if event.kind == "stopped":
                    self._stop_asked = math.inf
                    return
        raise LinkLost("The machine was asked to stop and has not said that it did. Use its own red button.")

    def look(self) -> None:
        """Ask how it is, while nothing else goes on. Raises LinkLost when it does not answer."""
        self._send("state")
        self._until("state", SOON)

    def save_wood(self, name: str) -> str:
        """Ask a simulated machine to keep its wood; gives the file."""
        self._send("save-wood", name=name)
        return str(self._until("saved", 30.0).data["path"])

    def run(self, text: str, progress: Callable[[int, int], None] | None = None) -> str:
        """Send a program in a window of blocks; gives ``done`` or ``stopped``. progress: blocks done, of how many."""
        blocks = blocks_of(text)
        self._send("begin")
        self._until("begun", SOON)
        queue = iter(blocks)
        waiting = next(queue, None)
        ended = False
        while True:
            while waiting is not None and self._link.credits > 0 and self._link.state in (State.RUNNING, State.PAUSED):
                try:
                    self._send("block", text=waiting)
                except LinkMisuse:  # a stop came between
                    break
                waiting = next(queue, None)
            for event in self._hear():
                if event.kind == "done" and progress is not None:
                    progress(int(event.data["n"]), len(blocks))
                if event.kind == "ended":
                    ended = True  # a stop may have crossed it: its answer is still to come then
                if event.kind == "stopped" and not ended:
                    return "stopped"
                self._raise_if_refused(event)
            if ended and self._link.state is not State.STOPPING:
                return "done"

    # -- inside ----------------------------------------------------------------------------------------

    def _send(self, do: str, only_going: bool = False, **values: Any) -> None:
        with self._guard:
            if only_going:
                if self._link.state not in GOING:
                    return
                self._stop_asked = time.monotonic()
            data = self._link.send(do, **values)
            try:
                self._socket.sendall(data)
            except OSError as error:
                self._link.lost()
                raise LinkLost(f"The link to the machine is lost ({error.strerror or error}).") from None

    def _hear(self, silence: float = SILENCE) -> list[Event]:
        limit = time.monotonic() + silence
        while True:
            try:
                data = self._socket.recv(65536)
            except TimeoutError:
                if time.monotonic() > limit:
                    self._link.lost()
                    raise LinkLost(
                        "The machine has not answered for two seconds: the link counts as lost. Look at the machine."
                    ) from None
                self._late_stop()
                if self._link.state in (State.RUNNING, State.PAUSED, State.MOVING, State.STOPPING):
                    self._send("state")
                continue
            except OSError as error:
                self._link.lost()
                raise LinkLost(
                    f"The link to the machine is lost ({error.strerror or error}). Look at the machine."
                ) from None
            if not data:
                self._link.lost()
                raise LinkLost("The machine closed the link. It may still be moving: look at it before anything else.")
            with self._guard:
                try:
                    events = self._link.receive(data)
                except PeerError as error:
                    raise LinkLost(
                        f"The machine said something that can't be right ({error}). The link is closed."
                    ) from None
            self._late_stop()
            for event in events:
                if event.kind == "state":
                    self._last = event.data
                self._listener(event)
            if events:
                return events

    def _late_stop(self) -> None:
        """A machine that was asked to stop and goes on is not one to trust."""
        if self._link.state is State.STOPPING and time.monotonic() > self._stop_asked + STOPS_WITHIN:
            self._link.lost()
            raise LinkLost(
                "The machine was asked to stop and has not said that it did. Use its own red button, and look at it."
            )

    def _until(self, kinds: str | tuple[str, ...], timeout: float) -> Event:
        wanted = (kinds,) if isinstance(kinds, str) else kinds
        limit = time.monotonic() + timeout
        while time.monotonic() < limit:
            found = None
            for event in self._hear(max(SILENCE, timeout) if timeout < 100 else SILENCE):
                if event.kind in wanted:
                    found = event
                elif event.kind == "stopped" and self._stop_asked < math.inf:
                    self._stop_asked = math.inf
                    raise MachineRefused("It was stopped.")
                else:
                    self._raise_if_refused(event)
            if found is not None and self._link.state is not State.STOPPING:
                return found
        raise LinkLost(f"The machine did not answer within {timeout:.0f} s.")

    def _raise_if_refused(self, event: Event) -> None:
        if event.kind == "refused" and event.data.get("do") not in ("pause", "resume", "feed", "state"):
            raise MachineRefused(f"The machine refused “{event.data.get('do')}”: {event.data.get('reason')}.")
        if event.kind == "fault":
            raise MachineRefused(
                f"The machine stopped with a fault: {event.data.get('reason')}. Home it before going on."
            )
