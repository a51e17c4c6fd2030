# SPDX-License-Identifier: GPL-3.0-or-later
"""Machines that lie, fall silent, chatter or break the link: each speaks it soundly until it does one thing that it must not.

Whatever it does, a run ends, in a sentence; its row is closed; and it is done only when every block was.
"""

from __future__ import annotations

import contextlib
import json
import random
import socket
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.plan.result import Plan
from gatepost.logbook.store import Logbook
from gatepost.machine import connection, hands_and_eyes, limits, session
from gatepost.machine.conduct import StepRunner
from gatepost.machine.keeping import RunRecorder
from gatepost.machine.limits import Limits
from gatepost.machine.session import Session

PATIENT = {
    "SILENCE": 0.4,
    "LOOK": 0.05,
    "SOON": 0.4,
    "STOPS_WITHIN": 0.4,
    "GRACE": 0.5,
    "QUICKLY": 0.45,
}  # s, instead of seconds
LONGEST = 20.0  # s that a trial may take
STRANGE: tuple[Any, ...] = (
    None,
    True,
    "x",
    [],
    {},
    1e300,
    -5,
    10**30,
    [0, 0],
    "\ud800",
    float("nan"),
    "\x1b]0;\x07",
    10**400,
)


class Machine:
    """Speaks the link soundly, one client, all at once; ``misdeed`` may change what it says."""

    def __init__(self, misdeed: str, seed: int) -> None:
        self.misdeed, self.chance = misdeed, random.Random(seed)
        self.at, self.state, self.zero = [-100.0, -100.0, -10.0], "unhomed", [0.0, 0.0, 0.0]
        self.taken = self.done = 0
        self.spoken = 0
        self.when = self.chance.randrange(1, 60)  # after so many lines it does what it must not
        self.ended_well = False
        self.gone = False
        self.listening = socket.create_server(("127.0.0.1", 0))
        self.port = self.listening.getsockname()[1]
        self.thread = threading.Thread(target=self._serve, daemon=True)
        self.thread.start()

    def close(self) -> None:
        """End it."""
        self.gone = True
        with contextlib.suppress(OSError):
            self.listening.shutdown(socket.SHUT_RDWR)
        self.listening.close()
        self.thread.join(5)

    def _serve(self) -> None:
        with contextlib.suppress(OSError):
            self.client, _ = self.listening.accept()
            self.client.settimeout(0.1)
            with self.client:
                self._talk()

    def _talk(self) -> None:
        kept = b""
        while not self.gone:
            try:
                data = self.client.recv(65536)
            except TimeoutError:
                continue
            if not data:
                return
            *lines, kept = (kept + data).split(b"\n")
            for line in lines:
                for said in self._answer(json.loads(line)):
                    if not self._say(said):
                        return

    def told(self) -> dict[str, Any]:
        """Its state."""
        return {
            "say": "state", "state": self.state, "machine": list(self.at), "zero": list(self.zero), "spindle": 0.0, "feed": 100,
            "clock": round(time.monotonic() % 1e6, 3), "taken": self.taken, "done": self.done,
        }  # fmt: skip

    def _answer(self, message: dict[str, Any]) -> Iterator[dict[str, Any]]:
        do = message["do"]
        if do == "home":
            self.at, self.state = [0.0, 0.0, 0.0], "ready"
            yield {"say": "homed", "miss": [0, 0, 0]}
        elif do == "jog":
            self.at = [float(message.get(a, v)) for a, v in zip("xyz", self.at)]
            yield {"say": "arrived"}
        elif do == "touch":
            i = "xyz".index(message.get("axis", "z"))
            into = 15.0 if i == 2 else 6.0  # how far past where it is expected it is sent
            self.at[i] = message["to"] + (into if message["to"] < self.at[i] else -into)
            yield {"say": "touched", "z": self.at[i], "axis": "xyz"[i]}
        elif do == "zero":
            self.zero = [float(message.get(a, v)) for a, v in zip("xyz", self.zero)]
            yield {"say": "set", "do": "zero"}
        elif do == "block":
            yield from self._block(message)
            return
        elif do == "begin":
            self.taken = self.done = 0
            yield {"say": "begun"}
            return
        elif do == "stop":
            yield {"say": "stopped", "n": self.done, "state": self.state}
        elif do == "pause":
            yield {"say": "paused", "n": self.done}
            return
        else:
            more: dict[str, Any] = {
                "hello": {"machine": "one", "link": 1, "credits": 64, "done": 0}, "sight": {"off": [0.0, 0.0]}, "look": {"things": []},
                "calipers": {"corners": [18.0] * 4}, "gauge": {"low": 12.0, "high": 18.0}, "spindle": {"do": "spindle"}, "fit": {"number": 1},
            }.get(do, {})  # fmt: skip
            word = {
                "hello": "hello", "sight": "sighted", "look": "seen", "calipers": "measured", "gauge": "gauged", "push": "pushed", "spindle": "set",
                "fit": "fitted", "lay": "laid", "turn": "turned", "mend": "mended",
            }.get(do)  # fmt: skip
            if word is not None:
                yield {"say": word, **more}
        yield self.told()

    def _block(self, message: dict[str, Any]) -> Iterator[dict[str, Any]]:
        n, text = message["n"], message["text"]
        self.taken = self.done = n
        yield {"say": "taken", "n": n}
        yield {"say": "done", "n": n}
        if "M30" in text:
            self.ended_well = True
            yield {"say": "ended"}
            yield self.told()

    def _say(self, said: dict[str, Any]) -> bool:
        """Say something, as the misdeed has it; whether to go on."""
        self.spoken += 1
        act: Callable[[dict[str, Any]], bytes | None] = getattr(self, "_" + self.misdeed.replace(" ", "_"))
        due = self.spoken > self.when or said["say"] == "ended"
        data = act(said) if due else self._line(said)
        if data is None:
            return False
        with contextlib.suppress(OSError):
            self.client.sendall(data)
        return True

    @staticmethod
    def _line(said: dict[str, Any]) -> bytes:
        return (json.dumps(said) + "\n").encode()

    # -- misdeeds --------------------------------------------------------------------------------------------------

    def _none(self, said: dict[str, Any]) -> bytes:
        return self._line(said)

    def _silence(self, said: dict[str, Any]) -> bytes:
        return b""

    def _chatter(self, said: dict[str, Any]) -> bytes:
        return self._line({**self.told(), "taken": 0, "done": 0}) if said["say"] == "state" else b""

    def _close(self, said: dict[str, Any]) -> None:
        return None

    def _half_a_line(self, said: dict[str, Any]) -> bytes:
        self.gone = True
        return self._line(said)[:-4]

    def _flood(self, said: dict[str, Any]) -> bytes:
        return b"x" * 300_000

    def _garbage(self, said: dict[str, Any]) -> bytes:
        return bytes(self.chance.randrange(256) for _ in range(40)) + b"\n"

    def _deep(self, said: dict[str, Any]) -> bytes:
        return b"[" * 50_000 + b"\n"

    def _ended_early(self, said: dict[str, Any]) -> bytes:
        return (
            self._line({"say": "ended"}) + self._line({**self.told(), "state": "ready"})
            if self.taken
            else self._line(said)
        )

    def _far_place(self, said: dict[str, Any]) -> bytes:
        place = self.chance.choice(([900.0, 0.0, 0.0], [0.0, -5000.0, 0.0], [0.0, 0.0, 77.0]))
        return self._line({**said, "machine": place}) if said["say"] == "state" else self._line(said)

    def _far_contact(self, said: dict[str, Any]) -> bytes:
        return (
            self._line({**said, "z": self.chance.choice((55.0, -8765.0, 8765.0))})
            if said["say"] == "touched"
            else self._line(said)
        )

    def _wrong_type(self, said: dict[str, Any]) -> bytes:
        out = dict(said)
        out[self.chance.choice(list(out))] = self.chance.choice(STRANGE)
        return self._line(out)

    def _field_gone(self, said: dict[str, Any]) -> bytes:
        out = dict(said)
        del out[self.chance.choice(list(out))]
        return self._line(out)

    def _double(self, said: dict[str, Any]) -> bytes:
        return self._line(said) * 2

    def _swapped(self, said: dict[str, Any]) -> bytes:
        return self._line({**said, "say": "done"}) if said["say"] == "taken" else self._line(said)

    def _skips(self, said: dict[str, Any]) -> bytes:
        return self._line({**said, "n": said["n"] + 1}) if said["say"] == "done" else self._line(said)

    def _fault(self, said: dict[str, Any]) -> bytes:
        self.state = "faulted"
        return self._line({"say": "fault", "reason": "\x1b[31mthe drive\x07 has stalled\r\n", "n": self.done})

    def _refusals(self, said: dict[str, Any]) -> bytes:
        return self._line({"say": "refused", "do": "jog", "n": 0, "reason": "no"})

    def _lies_of_its_state(self, said: dict[str, Any]) -> bytes:
        state = self.chance.choice(("running", "asleep", "moving", "unhomed", "paused", ""))
        return self._line({**said, "state": state}) if said["say"] == "state" else self._line(said)

    def _stops_unasked(self, said: dict[str, Any]) -> bytes:
        return self._line({"say": "stopped", "n": self.done, "state": "ready"})

    def _pauses_unasked(self, said: dict[str, Any]) -> bytes:
        self.when = 10**9
        return self._line(said) + (
            self._line({"say": "fault", "reason": "gone", "n": 0}) if self.chance.random() < 0.5 else b""
        )


MISDEEDS = (
    "none", "silence", "chatter", "close", "half a line", "flood", "garbage", "deep", "ended early", "far place", "far contact",
    "wrong type", "field gone", "double", "swapped", "skips", "fault", "refusals", "lies of its state", "stops unasked",
    "pauses unasked",
)  # fmt: skip


@contextlib.contextmanager
def impatient() -> Iterator[None]:
    """Every wait of the link shortened."""
    rooms = (connection, hands_and_eyes, limits, session)
    before = [(room, name, getattr(room, name)) for room in rooms for name in PATIENT if hasattr(room, name)]
    for room, name, _ in before:
        setattr(room, name, PATIENT[name])
    try:
        yield
    finally:
        for room, name, value in before:
            setattr(room, name, value)


def of_a_hostile_machine(plan: Plan, folder: Path, seed: int, misdeed: str | None = None) -> str:
    """Run a job on a machine that does what it must not; how it ended, or an assertion."""
    folder.mkdir(parents=True, exist_ok=True)
    machine = Machine(misdeed or MISDEEDS[seed % len(MISDEEDS)], seed)
    book = Logbook(f"sqlite:///{folder / 'log.sqlite'}", folder / "runs")
    begun = time.monotonic()
    session, words, outcome = None, "", "failed"
    try:
        session = Session(
            "127.0.0.1", machine.port, limits=Limits((1200.0, 700.0, 130.0), (8000.0, 8000.0, 3000.0), pace=0.01)
        )
        first = plan.setups[0].setup
        keeper = RunRecorder(book, StepRunner(session, plan, Journal(), (first.x, first.y)), folder=folder / "runs")
        outcome = "done"
        for step in plan.setups[0].steps:
            outcome = keeper.carry_out(plan.setups[0], step)
            if outcome != "done" or step.kind == "run":
                break
    except OperatorError as error:
        outcome, words = "failed", str(error)
    finally:
        if session is not None:
            session.close()
        machine.close()
    rows = book.runs()
    book.close()
    assert time.monotonic() - begun < LONGEST, f"{machine.misdeed} took {time.monotonic() - begun:.0f} s"
    assert words.isprintable() and (outcome != "failed" or len(words) > 20), repr(words)
    for row in rows:
        assert row.state != "running" and row.ended and row.reason.isprintable()
        assert row.state != "done" or row.blocks_done == row.blocks
    assert outcome != "done" or machine.ended_well
    assert not list((folder / "runs").glob("*.json"))
    return outcome
