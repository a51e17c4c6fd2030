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
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.turning import Ways
from gatepost.core.program.lines import filled_lines
from gatepost.machine.link import GOING, Event, Link, LinkMisuse, PeerError, State
from gatepost.machine.terminal import TerminalLine

SILENCE = 1.8  # s without a word before the link counts as lost
LOOK = 0.25  # s of silence before the machine is asked how it is
STOPS_WITHIN = 2.0  # s that a machine may take to come to a stand
SOON = 2.0  # s for what is answered at once
QUICKLY = 31.0  # s; what may take longer than this moves
PATIENCE, GRACE = 3.0, 30.0  # times longer than planned, and s more, before what is done counts as overdue
BEYOND = 1.0  # mm that a place may lie outside the travel, or a contact outside its way, by rounding and by play
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


END = re.compile(r"M0*(2|30)(?![0-9])")


def blocks_of(text: str) -> list[str]:
    """A program's blocks as they are sent: every line with something on it, up to its end. Block n is the n-th of these.

    A program that does not say that it ends is given its M30: a machine waits for more otherwise.
    """
    blocks: list[str] = []
    for _, line in filled_lines(text):
        blocks.append(line)
        if "M" in line.upper() and END.search(_bare(line)):
            return blocks
        if len(blocks) % 256 == 0:
            time.sleep(0.0)  # others have their turn: a window may be waiting for it
    return [*blocks, "M30"]


def _bare(line: str) -> str:
    """A line without comments and blanks, in capitals."""
    return re.sub(r"\([^)]*\)|;.*|\s", "", line).upper()


def _bound(limits: Limits | None, seconds: float) -> float:
    return PATIENCE * seconds * (limits.pace if limits is not None else 1.0) + GRACE


@dataclass(frozen=True)
class Limits:
    """What the machine can do, by its profile: nothing it says may go past this, and nothing it does may take for ever.

    travel: mm; rapid: mm/min; pace: how many times longer than its own clock says everything takes (a slowed simulation).
    """

    travel: tuple[float, float, float]
    rapid: tuple[float, float, float]
    pace: float = 1.0

    def across(self) -> float:
        """Seconds for the whole travel, axis by axis, at a quarter of its rapids: the longest that homing or a jog takes."""
        return sum(t / (r / 60.0) for t, r in zip(self.travel, self.rapid)) * 4.0

    def holds(self, place: Sequence[float]) -> bool:
        """Whether a place lies within the travel."""
        return all(-t - BEYOND <= v <= BEYOND for v, t in zip(place, self.travel))


class LinkLost(OperatorError):
    """The connection is gone; the machine may still be moving."""


class MachineRefused(OperatorError):
    """The machine would not, or stopped with a fault."""


class CalledOff(MachineRefused):
    """An operator stopped what was going on: nothing of it is done."""


class Overdue(OperatorError):
    """What was to be done takes far longer than it can: a pause has been asked for."""


class Session:
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
        self._broken: LinkLost | None = None
        self._quiet: float | None = None  # since when nothing has been heard that was waited for
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
            self._stop_asked = time.monotonic()
        self._ask("stop")

    def hold_still(self) -> None:
        """Whatever moves: a program is paused; homing, a jog or a touch is stopped, and what was to follow it does not begin.
        Raises LinkLost."""
        if self._link.state in (State.RUNNING, State.PAUSED):
            self.pause()
        else:
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

    def _ask(self, do: str, **values: Any) -> None:
        """Send what may be asked at any time; nothing where it makes no sense now."""
        with contextlib.suppress(LinkMisuse):
            self._send(do, **values)

    # -- from the session's own thread -------------------------------------------------------------------

    def home(self) -> tuple[float, float, float]:
        """Home, and wait for it; gives how far its counting was off, mm, where the machine says so."""
        self._begin("home")
        miss = self._until("homed", self._longest()).data.get("miss", (0.0, 0.0, 0.0))
        return (float(miss[0]), float(miss[1]), float(miss[2]))

    def jog(self, **to: float) -> None:
        """Go to machine coordinates, up and across before down."""
        self._begin("jog", **to)
        self._until("arrived", self._longest())

    def touch(self, to: float, feed: float, gauge: float, axis: str = "z") -> float:
        """Go along an axis until the plate closes, or a pin meets the wood; gives the machine coordinate of the contact."""
        more = {"axis": axis} if axis != "z" else {}
        i = "xyz".index(axis)
        self.look()
        here = self._last["machine"][i]
        self._begin("touch", to=to, feed=feed, gauge=gauge, **more)
        event = self._until(("touched", "no-contact"), self._longest(abs(to - here) / (feed / 60.0)))
        if event.kind == "no-contact" and axis != "z":
            raise MachineRefused(
                f"The edge was not met on {axis.upper()}: the blank is not where it was meant to be. Look, and try again."
            )
        if event.kind == "no-contact":
            raise MachineRefused("The plate's circuit never closed. Lift, check clip and plate, and try again.")
        contact = float(event.data["z"])
        low, high = min(to, here), max(to, here)
        if not low - BEYOND <= contact <= high + BEYOND or (
            self.limits is not None and not -self.limits.travel[i] - BEYOND <= contact <= BEYOND
        ):
            self._link.lost()
            raise LinkLost(
                f"The machine says that it touched at {axis.upper()} {contact:.2f}, and was sent from {here:.2f} to {to:.2f}: that can't "
                "be right. The link is closed. Look at the machine."
            )
        return contact

    def zero(self, **at: float) -> None:
        """Set work zero, machine coordinates; not where what it was found by has been called off."""
        self._begin("zero", **at)
        self._until("set", SOON)

    def fit(self, tool: dict[str, Any]) -> None:
        """Tell a simulated machine which bit is in its collet."""
        self._order("fit", tool=tool)
        self._until("fitted", SOON)

    def sight(self, x: float, y: float, eye: float) -> tuple[float, float]:
        """What an operator sees over the point on a simulated machine: how far a mark that is meant to be at a bed place lies
        from the tip, ± eye."""
        self._order("sight", x=x, y=y, eye=eye)
        off = self._until("sighted", SOON).data["off"]
        return float(off[0]), float(off[1])

    def look_over(self, at: str = "") -> list[str]:
        """What an operator sees who looks over a simulated machine, its bed or the plate's circuit: what is not as it should
        be."""
        self._order("look", at=at)
        return [str(v) for v in self._until("seen", SOON).data["things"]]

    def mend(self, what: str) -> None:
        """Tell a simulated machine that something was put right."""
        self._order("mend", what=what)
        self._until("mended", SOON)

    def lay(
        self, dx: float, dy: float, standing: list[dict[str, Any]] | None = None, still: bool = False,
        off: tuple[float, float, float] | None = None, turned: tuple[float, float, float] | None = None,
        fresh: bool = False,
    ) -> None:  # fmt: skip
        """Tell a simulated machine that the board was laid elsewhere, and what was set about it. still: it was not taken up; off: by
        how much it can lie otherwise, X, Y and degrees, where something stops it; turned: degrees that it is meant to lie turned by,
        and the place on the bed about which; fresh: it is another board, and dx, dy are from where the first one lay first."""
        more: dict[str, Any] = {} if standing is None else {"standing": standing}
        more |= {"still": True} if still else {}
        more |= {"fresh": True} if fresh else {}
        more |= {"off": [*off]} if off is not None else {}
        more |= {"turned": [*turned]} if turned is not None else {}
        self._order("lay", dx=dx, dy=dy, **more)
        self._until("laid", SOON)

    def push(self, x: float, y: float, degrees: float) -> None:
        """Tell a simulated machine that the board was turned about a place on the bed, and what holds it was set anew."""
        self._order("push", x=x, y=y, degrees=degrees)
        self._until("pushed", SOON)

    def turn(self, ways: Ways) -> None:
        """Tell a simulated machine that the board was turned. ways: X, Y and Z of the bed then, in the bed's directions before."""
        self._order("turn", ways=[[*way] for way in ways])
        self._until("turned", 30.0)

    def calipers(self) -> list[float]:
        """What calipers show at a simulated board's corners: front left, front right, back right, back left."""
        self._order("calipers")
        return [float(v) for v in self._until("measured", SOON).data["corners"]]

    def gauge(self, x: float, y: float, near: float, about: float) -> tuple[float, float]:
        """What is measured of a simulated board at a place: how thick it is in its lowest place so near, and in its highest about."""
        self._order("gauge", x=x, y=y, near=near, about=about)
        said = self._until("gauged", SOON).data
        return float(said["low"]), float(said["high"])

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
        limit = time.monotonic() + STOPS_WITHIN
        while time.monotonic() < limit:
            for event in self._hear(STOPS_WITHIN):
                if event.kind == "stopped":
                    self._stop_asked = math.inf
                    return
        raise LinkLost("The machine was asked to stop and has not said that it did. Use its own red button.")

    def look(self) -> None:
        """Ask how it is, while nothing else goes on. Raises LinkLost when it does not answer."""
        self._order("state")
        self._until("state", SOON)

    def save_wood(self, name: str) -> str:
        """Ask a simulated machine to keep its wood; gives the file."""
        self._order("save-wood", name=name)
        return str(self._until("saved", 30.0).data["path"])

    def run(self, text: str, progress: Callable[[int, int], None] | None = None, seconds: Sequence[float] = ()) -> str:
        """Send a program in a window of blocks; gives ``done`` or ``stopped``. progress: blocks done, of how many; seconds:
        that each block is planned to take.

        A block that takes PATIENCE times as long as planned, and GRACE, at the override that stands, is overdue: a pause is
        asked for, and Overdue raised. The clock stands while the machine is paused, and a stop goes on to its answer.
        """
        blocks = blocks_of(text)
        self._begin("begin")
        self._until("begun", SOON)
        queue = iter(blocks)
        waiting = next(queue, None)
        ended = False
        since = time.monotonic()
        while True:
            if self._link.state is not State.RUNNING:
                since = time.monotonic()
            at = self._link.done
            planned = (seconds[at] if at < len(seconds) else 0.0) / min(1.0, self._override)
            if time.monotonic() - since > _bound(self.limits, planned):
                with contextlib.suppress(OperatorError):
                    self.pause()
                raise Overdue(
                    f"Block {at + 1} of {len(blocks)} should take {planned:.0f} s and has not ended after {time.monotonic() - since:.0f} s. A "
                    "pause was asked for. Look at the machine before anything else; if it moves, use its red button."
                )
            while waiting is not None and self._link.credits > 0 and self._link.state in (State.RUNNING, State.PAUSED):
                try:
                    self._send("block", text=waiting)
                except LinkMisuse:  # a stop came between
                    break
                waiting = next(queue, None)
            for event in self._hear():
                if event.kind == "done":
                    since = time.monotonic()
                    if progress is not None:
                        progress(int(event.data["n"]), len(blocks))
                if event.kind == "ended":
                    ended = True  # a stop may have crossed it: its answer is still to come then
                    if self._link.done != len(blocks):
                        self._link.lost()
                        raise LinkLost(
                            f"The machine says that the program has ended, and has carried out {self._link.done} of {len(blocks)} blocks. "
                            "The link is closed. Look at the machine and at the work."
                        )
                if event.kind == "stopped" and not ended:
                    return "stopped"
                if event.kind == "refused" and event.data.get("do") == "pause" and self._link.state is State.RUNNING:
                    self.stop()  # it was to stand still, and would not pause: it stops
                self._raise_if_refused(event)
            if ended and self._link.state is not State.STOPPING:
                return "done"

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

    def _longest(self, more: float = 0.0) -> float:
        """Seconds that homing, a jog or a touch may take."""
        return _bound(self.limits, (self.limits.across() if self.limits is not None else 120.0) / PATIENCE + more)

    def _send(self, do: str, only_going: bool = False, **values: Any) -> None:
        if self._broken is not None:
            raise self._broken
        if self._link.state is State.LOST:
            raise LinkLost(GONE)
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
                raise LinkLost(
                    f"The link to the machine is lost ({error.strerror or error}). Look at the machine: it may still be moving."
                ) from None

    def _hear(self, silence: float = SILENCE) -> list[Event]:
        if self._broken is not None:
            raise self._broken
        if self._quiet is None:
            self._quiet = time.monotonic()
        while True:
            try:
                data = self._socket.recv(65536)
            except TimeoutError:
                if time.monotonic() > self._quiet + silence:
                    self._link.lost()
                    raise LinkLost(
                        "The machine has not answered for two seconds: the link counts as lost. Look at the machine."
                    ) from None
                self._late_stop()
                if self._link.state in (State.RUNNING, State.PAUSED, State.MOVING, State.STOPPING):
                    self._order("state")
                    if self._link.state is State.RUNNING:
                        return []  # so that who runs a program can look at the clock
                continue
            except OSError as error:
                self._link.lost()
                raise LinkLost(
                    f"The link to the machine is lost ({error.strerror or error}). Look at the machine."
                ) from None
            self._quiet = None
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
            self._quiet = time.monotonic()

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
        if self._link.state is State.STOPPING and time.monotonic() > self._stop_asked + STOPS_WITHIN:
            self._link.lost()
            raise LinkLost(
                "The machine was asked to stop and has not said that it did. Use its own red button, and look at it."
            )

    def _until(self, kinds: str | tuple[str, ...], timeout: float) -> Event:
        wanted = (kinds,) if isinstance(kinds, str) else kinds
        self._quiet = None
        limit = time.monotonic() + timeout
        moves = timeout > QUICKLY
        while time.monotonic() < limit:
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
        if event.kind == "refused" and event.data.get("do") not in ("pause", "resume", "feed", "state"):
            raise MachineRefused(f"The machine refused “{event.data.get('do')}”: {event.data.get('reason')}.")
        if event.kind == "fault":
            raise MachineRefused(
                f"The machine stopped with a fault: {event.data.get('reason')}. Home it before going on."
            )
