# SPDX-License-Identifier: GPL-3.0-or-later
"""The machine link as an engine without I/O: bytes in, frozen events out; commands in, bytes out.

Newline-delimited JSON; docs/machine-link.md describes it. What may follow what stands in one table; an illegal
command or message raises and changes nothing. Our mistakes are LinkMisuse, the peer's are PeerError.
"""

from __future__ import annotations

import json
import math
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, NoReturn

from gatepost.core.errors import OperatorError

LONGEST = 64 * 1024
WINDOW = 64
LONGEST_WORDS = 4000  # of what it says in words


class LinkMisuse(OperatorError):
    """We asked for something that is not possible now: told in a sentence for whoever stands at the machine."""


class PeerError(Exception):
    """The machine said something that it may not say now, or that can't be read. events: what it had said before that,
    in the same breath: it counts."""

    def __init__(self, why: str, events: list[Event] | None = None) -> None:
        super().__init__(why)
        self.events = events or []


class State(StrEnum):
    """What the link knows of the machine."""

    GREETING = "greeting"
    UNHOMED = "unhomed"
    READY = "ready"
    MOVING = "moving"  # homing, jogging, touching, lifting and lowering
    CREEPING = "creeping"  # jogged for as long as somebody keeps a key down
    RUNNING = "running"
    PAUSED = "paused"
    LIFTED = "lifted"  # paused, up out of the wood, the spindle standing
    STOPPING = "stopping"  # a stop has been asked for and not answered yet
    FAULTED = "faulted"
    LOST = "lost"


NOT_NOW = {
    State.GREETING: "The machine has not answered yet. Wait a moment.", State.UNHOMED: "The machine has not been homed. Home it first.",
    State.MOVING: "The machine is moving. Wait until it stands.", State.RUNNING: "A program is running. Wait for its end, or stop it first.",
    State.CREEPING: "It is being jogged. Let go of the key, and wait until it stands.",
    State.LIFTED: "A program is paused and lifted. Go on with it or stop it first.",
    State.PAUSED: "A program is paused. Resume or stop it first.", State.STOPPING: "The machine is stopping. Wait until it stands.",
    State.FAULTED: "The machine stopped with a fault. Home it before going on.", State.LOST: "The link to the machine is lost. Use its own red button.",
    State.READY: "The machine stands ready: there is nothing to pause, resume or stop.",
}  # fmt: skip


@dataclass(frozen=True)
class Event:
    """Something the machine said. kind: its word; data: the rest."""

    kind: str
    data: dict[str, Any] = field(default_factory=dict)


ANY = tuple(State)
LIVE = (
    State.UNHOMED, State.READY, State.MOVING, State.CREEPING, State.RUNNING, State.PAUSED, State.LIFTED, State.STOPPING, State.FAULTED,
)  # fmt: skip
STANDS = (State.READY, State.UNHOMED, State.FAULTED, State.LIFTED)
GOING = (State.MOVING, State.CREEPING, State.RUNNING, State.PAUSED, State.LIFTED)
# command -> the states in which we may send it, and the state that it leads to (None: as before); a stop of something
# that goes on leads to STOPPING
COMMANDS: dict[str, tuple[tuple[State, ...], State | None]] = {
    "hello": ((State.GREETING,), None),
    "state": (LIVE, None),
    "home": ((State.UNHOMED, State.READY, State.FAULTED), State.MOVING),
    "jog": ((State.READY,), State.MOVING),
    "creep": ((State.READY, State.CREEPING), State.CREEPING),
    "touch": ((State.READY,), State.MOVING),
    "zero": ((State.READY, State.PAUSED), None),
    "fit": ((State.UNHOMED, State.READY, State.FAULTED), None),
    "lay": ((State.UNHOMED, State.READY, State.FAULTED), None),
    "turn": ((State.UNHOMED, State.READY, State.FAULTED), None),
    "take-up": ((State.UNHOMED, State.READY, State.FAULTED), None),
    "push": ((State.UNHOMED, State.READY, State.FAULTED), None),
    "sight": ((State.READY, State.PAUSED), None),
    "look": ((State.UNHOMED, State.READY, State.PAUSED, State.FAULTED), None),
    "mend": ((State.UNHOMED, State.READY, State.PAUSED, State.FAULTED), None),
    "calipers": ((State.UNHOMED, State.READY, State.FAULTED), None),
    "gauge": ((State.UNHOMED, State.READY, State.FAULTED), None),
    "spindle": ((State.READY, State.PAUSED), None),
    "begin": ((State.READY,), State.RUNNING),
    "block": ((State.RUNNING, State.PAUSED), None),
    "feed": (LIVE, None),
    "pause": ((State.RUNNING,), None),
    "resume": ((State.PAUSED,), State.RUNNING),
    "lift": ((State.PAUSED,), State.MOVING),
    "lower": ((State.LIFTED,), State.MOVING),
    "rpm": (LIVE, None),
    "stop": (LIVE, None),
    "save-wood": (LIVE, None),
}
# message -> the states in which it may come, and the state that it leads to (None: as before; "said": as it says; "stands":
# as it says where it stands, which is ready, unhomed or faulted;
# "unless stopping": ready, but while stopping the answer to the stop is still to come)
MESSAGES: dict[str, tuple[tuple[State, ...], State | str | None]] = {
    "hello": ((State.GREETING,), None),
    "state": ((State.GREETING, *LIVE), "said"),
    "homed": ((State.MOVING, State.STOPPING), "unless stopping"),
    "arrived": ((State.MOVING, State.CREEPING, State.STOPPING), "unless stopping"),
    "lifted": ((State.MOVING, State.STOPPING), "lifted"),
    "lowered": ((State.MOVING, State.STOPPING), "paused"),
    "set": ((State.READY, State.PAUSED), None),
    "touched": ((State.MOVING, State.STOPPING), "unless stopping"),
    "no-contact": ((State.MOVING, State.STOPPING), "unless stopping"),
    "fitted": (LIVE, None),
    "laid": (LIVE, None),
    "pushed": (LIVE, None),
    "turned": (LIVE, None),
    "taken-up": (LIVE, None),
    "measured": (LIVE, None),
    "gauged": (LIVE, None),
    "sighted": (LIVE, None),
    "seen": (LIVE, None),
    "mended": (LIVE, None),
    "saved": (LIVE, None),
    "begun": ((State.RUNNING, State.STOPPING), None),
    "taken": ((State.RUNNING, State.PAUSED, State.STOPPING), None),
    "done": ((State.RUNNING, State.PAUSED, State.STOPPING), None),
    "pausing": ((State.RUNNING, State.PAUSED, State.STOPPING), None),
    "paused": ((State.RUNNING, State.PAUSED, State.STOPPING), "paused"),
    "ended": ((State.RUNNING, State.STOPPING), "unless stopping"),
    "stopped": (LIVE, "stands"),
    "refused": ((State.GREETING, *LIVE), None),
    "fault": (LIVE, State.FAULTED),
}
# message -> what it may carry, and then soundly
OPTIONAL: dict[str, dict[str, str]] = {
    "state": {"work": "place", "zero": "place", "spindle": "number", "feed": "number", "rpm": "number", "clock": "clock", "taken": "count", "done": "count", "reason": "words"},
    "homed": {"miss": "place"}, "no-contact": {"z": "number"}, "stopped": {"n": "count", "state": "words"},
    "refused": {"do": "words", "reason": "words", "n": "count"}, "fault": {"n": "count"}, "paused": {"n": "count"},
    "hello": {"machine": "words", "link": "count", "credits": "count", "done": "count"}, "touched": {"axis": "words"},
    "fitted": {"number": "count"}, "set": {"do": "words"},
}  # fmt: skip
# message -> what it must carry: int, a number, words, or three numbers
FIELDS: dict[str, dict[str, str]] = {
    "taken": {"n": "count"},
    "done": {"n": "count"},
    "touched": {"z": "number"},
    "state": {"state": "words", "machine": "place"},
    "fault": {"reason": "words"},
    "saved": {"path": "words"},
    "gauged": {"low": "number", "high": "number"},
    "measured": {"corners": "numbers"},
    "sighted": {"off": "pair"},
    "seen": {"things": "list"},
}


def _is(kind: str, value: object) -> bool:
    def number(v: object) -> bool:
        return isinstance(v, (int, float)) and not isinstance(v, bool) and math.isfinite(v) and abs(v) < 1e6

    if kind == "count":
        return isinstance(value, int) and not isinstance(value, bool) and 0 <= value < 2**53
    if kind == "clock":
        return isinstance(value, (int, float)) and not isinstance(value, bool) and 0.0 <= value < 1e12
    if kind == "place":
        return isinstance(value, list) and len(value) == 3 and all(number(v) for v in value)
    if kind == "numbers":
        return isinstance(value, list) and len(value) == 4 and all(number(v) for v in value)
    if kind == "pair":
        return isinstance(value, list) and len(value) == 2 and all(number(v) for v in value)
    if kind == "list":
        return isinstance(value, list) and len(value) <= 40 and all(isinstance(v, str) for v in value)
    return isinstance(value, str) and len(value) <= LONGEST_WORDS if kind == "words" else number(value)


def _cleaned(value: Any) -> Any:
    """Words with nothing in them that a terminal would obey; everything else as it is."""
    if isinstance(value, str):
        return "".join(c if c.isprintable() else "\ufffd" for c in value)
    if isinstance(value, list):
        return [_cleaned(v) for v in value]
    return {_cleaned(k): _cleaned(v) for k, v in value.items()} if isinstance(value, dict) else value


def _no_constant(word: str) -> float:
    raise ValueError(f"{word} is not a number")


class Link:
    """One connection's state. taken, done: last block numbers reported; sent: last sent."""

    def __init__(self) -> None:
        self.state = State.GREETING
        self.sent = self.taken = self.done = 0
        self._asked: tuple[str, State] | None = None  # what was asked for last that moves, and what it was until then
        self.hold = 0  # presses of a key by which it was jogged
        self._begun = False
        self._kept = b""

    @property
    def credits(self) -> int:
        """How many more blocks may be sent now."""
        return WINDOW - (self.sent - self.done)

    def send(self, do: str, **values: Any) -> bytes:
        """Bytes of a command. Raises LinkMisuse when it is not possible now."""
        if do not in COMMANDS:
            raise LinkMisuse(f"there is no command “{do}”")
        allowed, after = COMMANDS[do]
        if self.state not in allowed:
            raise LinkMisuse(NOT_NOW.get(self.state, f"That can't be done while the machine is {self.state.value}."))
        if do == "block":
            if self.credits <= 0:
                raise LinkMisuse("the window is full")
            values["n"] = self.sent + 1
        if do == "creep":
            self.hold += self.state is State.READY
            values["n"] = self.hold
        line = (json.dumps({"do": do, **values}, ensure_ascii=False) + "\n").encode()
        if len(line) > LONGEST:
            raise LinkMisuse("the line is over 64 kB")
        if do == "block":
            self.sent += 1
        if do == "begin":
            self.sent = self.taken = self.done = 0
            self._begun = False
        if do == "stop" and self.state in GOING:
            after = State.STOPPING
        if after is not None:
            self._asked = (do, self.state) if self.state is not after else self._asked
            self.state = after
        return line

    def receive(self, data: bytes) -> list[Event]:
        """Events of bytes that came; a part of a line is kept. Raises PeerError, and the link is then lost."""
        self._kept += data
        *lines, self._kept = self._kept.split(b"\n")
        events: list[Event] = []
        try:
            for line in lines:
                if len(line) > LONGEST:
                    self._lose("a line over 64 kB came")
                if line.strip():
                    events.append(self._event(line))
            if len(self._kept) > LONGEST:
                self._lose("a line over 64 kB came")
        except PeerError as error:
            raise PeerError(str(error), events) from None
        return events

    def lost(self) -> None:
        """The connection is gone."""
        self.state = State.LOST

    def _lose(self, why: str) -> NoReturn:
        self.state = State.LOST
        raise PeerError(why)

    def _event(self, line: bytes) -> Event:
        try:
            message = json.loads(line.decode("utf-8"), parse_constant=_no_constant)
            json.dumps(message, ensure_ascii=False).encode("utf-8")  # half a character is no text
        except (ValueError, RecursionError):
            self._lose("a line came that is not JSON")
        said = message.get("say") if isinstance(message, dict) else None
        if not isinstance(said, str) or said not in MESSAGES:
            self._lose(f"an unknown message came: {line[:60]!r}")
        message = _cleaned(message)
        kind = str(message.pop("say"))
        allowed, after = MESSAGES[kind]
        if self.state not in allowed:
            self._lose(f"“{kind}” came while {self.state.value}")
        for name, wanted in FIELDS.get(kind, {}).items():
            if not _is(wanted, message.get(name)):
                self._lose(f"“{kind}” came without a sound {name}")
        for name, wanted in OPTIONAL.get(kind, {}).items():
            if name in message and not _is(wanted, message[name]):
                self._lose(f"“{kind}” came with an unsound {name}")
        self._count(kind, message)
        if kind == "refused":
            self._refused(message)
        if after == "said":
            self._follow(message)
        elif after == "unless stopping":
            self.state = self.state if self.state is State.STOPPING else State.READY
        elif after in ("paused", "lifted"):
            self.state = self.state if self.state is State.STOPPING else State(after)
        elif after == "stands":
            said = message.get("state", "ready")
            if said not in ("ready", "unhomed", "faulted"):
                self._lose(f"“stopped” came, and the machine is {said}")
            self.state = State(said)
        elif isinstance(after, State):
            self.state = after
        return Event(kind, message)

    def _refused(self, message: dict[str, Any]) -> None:
        """What was refused has changed nothing: it is as it was before it was asked. Words of an earlier press of a key are another's."""
        if self._asked is None or message.get("do") != self._asked[0] or self.state is not COMMANDS[self._asked[0]][1]:
            return
        if message["do"] != "creep" or message.get("n") == self.hold:
            self.state, self._asked = self._asked[1], None

    def _count(self, kind: str, message: dict[str, Any]) -> None:
        n = message.get("n")
        self._begun = self._begun or kind == "begun"
        if kind == "state" and self._begun and self.state in (State.RUNNING, State.PAUSED):
            for name, heard in (("taken", self.taken), ("done", self.done)):  # one stream: a report comes first
                if message.get(name, heard) != heard:
                    self._lose(f"it counts {message.get(name)} blocks {name}, and has reported {heard}")
        if kind == "ended" and self.state is State.RUNNING and self.done != self.sent:
            self._lose(
                f"it says that the program has ended, after {self.done} of the {self.sent} blocks that it was sent"
            )
        if kind in ("taken", "done"):
            last = self.taken if kind == "taken" else self.done
            limit = self.sent if kind == "taken" else self.taken
            if not isinstance(n, int) or n != last + 1 or n > limit:
                self._lose(f"block {n} was reported {kind} after block {last}")
            if kind == "taken":
                self.taken = n
            else:
                self.done = n

    def _follow(self, message: dict[str, Any]) -> None:
        """A state message: believed for what the machine is, but a run stays a run until it ends."""
        try:
            said = State(message.get("state", ""))
        except ValueError:
            self._lose(f"an unknown state came: {message.get('state')!r}")
        if self.state is State.STOPPING or (said is State.MOVING and self.state is State.CREEPING):
            return
        if said is State.MOVING and self.state in (State.RUNNING, State.PAUSED):
            self.state = State.RUNNING
        elif (said in STANDS and self.state in (State.RUNNING, State.MOVING, State.CREEPING)) or (
            said is State.PAUSED and self.state is State.MOVING
        ):
            return  # said before it heard what it was sent; a word of arrival, end or fault is still to come
        elif said in LIVE:
            self.state = said
