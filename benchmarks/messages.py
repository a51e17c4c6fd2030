# SPDX-License-Identifier: GPL-3.0-or-later
"""Messages of every kind, sound and senseless, thrown at the simulated machine, held against a plain reference of what may
move, when, and what a refusal may change: nothing."""

from __future__ import annotations

import copy
import json
import math
import random
from typing import Any

import numpy as np

from gatepost.machine.standins.messages import HANDS
from gatepost.machine.standins.router import Router
from gatepost.machine.standins.state import Profile
from gatepost.machine.standins.wood import BedWood

TRAVEL = (300.0, 200.0, 100.0)
STRANGE: tuple[Any, ...] = (
    None, True, False, "", "x", "NaN", [], {}, [1], math.nan, math.inf, -math.inf, 1e308, -1e308, 10**400, -1, 0, 0.0, 1e-9,
    200, "\ud800", "\x1b[2J", [[0, 0], [1, 1]], 2**63,
)  # fmt: skip
TOOL = {"number": 2, "kind": "flat", "diameter": 6.0, "angle": 0.0, "tip": 0.0, "length": 45.0}
BOX = {"name": "C1", "part": "strap", "outline": [[250, 5], [290, 5], [290, 30], [250, 30]], "z0": 0.0, "z1": 40.0}
BLOCKS = (
    "G21", "G90", "G53 G0 Z0", "S12000 M3", "M5", "M30", "M0", "G0 X5 Y5", "G1 X20 F900", "G1 Z-1 F300", "G2 X30 Y5 I5", "G2 I-4",
    "G4 P0.2", "T2 M6", "T9 M6", "X9999", "G1 X nan", "(a note)", "G0 Z40", "", "G3 X1 Y1 I99999999", "M3 M5", "é",
)  # fmt: skip


def sound(chance: random.Random, number: int) -> dict[str, Any]:
    """A message as a desk might send it."""
    do = chance.choice((
        "hello", "state", "home", "home", "jog", "jog", "touch", "touch", "zero", "zero", "fit", "lay", "turn", "sight", "look", "mend",
        "calipers", "spindle", "begin", "begin", "block", "block", "block", "block", "block", "block", "feed", "pause", "resume",
        "resume", "stop",
    ))  # fmt: skip
    place = {a: round(chance.uniform(-t, 0.0), 2) for a, t in zip("xyz", TRAVEL) if chance.random() < 0.6}
    more: dict[str, Any] = {
        "jog": place, "zero": place, "touch": {"to": -chance.uniform(0, 120), "feed": 600.0, "gauge": 5.0, "axis": chance.choice("xyz")},
        "fit": {"tool": dict(TOOL)}, "lay": {"dx": chance.uniform(-5, 5), "dy": 1.0, "standing": [BOX] if chance.random() < 0.5 else []},
        "turn": {"about": chance.choice(("about X", "about Y"))}, "sight": {"x": 10.0, "y": 10.0, "eye": 0.1},
        "look": {"at": "bed"}, "mend": {"what": chance.choice(HANDS)}, "spindle": {"rpm": chance.choice((0, 12000, 90000))},
        "block": {"n": number, "text": chance.choice(BLOCKS)}, "feed": {"percent": chance.choice((50, 100, 150))},
    }.get(do, {})  # fmt: skip
    return {"do": do, **more}


def spoiled(chance: random.Random, message: dict[str, Any]) -> dict[str, Any]:
    """A message with something of it strange, gone, or put in."""
    out: dict[str, Any] = copy.deepcopy(message)
    way = chance.random()
    names = [n for n in out if n != "do"]
    if way < 0.1:
        out["do"] = chance.choice((*STRANGE, "Home", "_forget", "fault", "tell", "dance"))
    elif way < 0.2 and names:
        del out[chance.choice(names)]
    elif way < 0.3:
        out[chance.choice(("x", "y", "z", "n", "to", "feed", "what", "standing", "tool"))] = chance.choice(STRANGE)
    elif names:
        name = chance.choice(names)
        inner = out[name]
        if isinstance(inner, dict) and inner and chance.random() < 0.7:
            inner[chance.choice(list(inner))] = chance.choice(STRANGE)
        elif isinstance(inner, list) and inner and isinstance(inner[0], dict):
            inner[0][chance.choice(list(inner[0]))] = chance.choice(STRANGE)
        else:
            out[name] = chance.choice(STRANGE)
    return out


class Reference:
    """A simulated machine, and beside it in plain words what it may do."""

    def __init__(self, seed: int, faults: tuple[str, ...] = ()) -> None:
        z = np.full((20, 30), 18.0, np.float32)
        profile = Profile(travel=TRAVEL, nose_at_home=150.0)
        self.router = Router(profile, BedWood(z, 50.0, 50.0, 5.0), faults, seed=seed)
        self.known = False  # whether it may move anywhere but to its switches
        self.begun = False
        self.doing = "nothing"  # or home, jog, touch, run, paused
        self.refusals = 0

    def everything(self) -> tuple[Any, ...]:
        """All that a message can change, to be compared."""
        r = self.router
        return (
            r.state, r.at.tolist(), r.zero.tolist(), r.spindle, r.override, r.braking, r.ending, dict(r.tool), vars(r.modal).copy(),
            [n for n, _ in r.queue], r.taken, r.done, r.expect.tolist(), len(r.legs), r.moving_kind, r.probe, r.begun, r.waiting,
            [s.name for s in r.standing], r.wood.x0, r.wood.y0, r.wood.outline.tolist(), float(r.wood.z.sum()), set(r.trouble),
        )  # fmt: skip

    def hear(self, message: dict[str, Any]) -> None:
        """Throw a message, and look at what came of it."""
        r = self.router
        before, said = self.everything(), len(r.said)
        r.hear(message)
        answers = list(r.said)[said:]
        assert answers or r.state == "moving", f"{message} was not answered"  # its end is told later
        for one in answers:
            json.dumps(one, allow_nan=False).encode()
        do = message.get("do")
        if any(a["say"] == "refused" for a in answers):
            self.refusals += 1
            assert self.everything() == before, f"{message} was refused and changed something"
        elif not any(a["say"] == "fault" for a in answers):
            self._taken(do, message)
        self._told(answers)
        self.law(before[1])

    def _taken(self, do: Any, message: dict[str, Any]) -> None:
        """What was not refused may have been sent now."""
        if do == "home":
            assert self.doing == "nothing"
            self.known, self.begun, self.doing = False, False, "home"
        elif do in ("jog", "touch"):
            assert self.known and self.doing == "nothing", f"{do} while {self.doing}, known {self.known}"
            self.doing, self.begun = do, False
        elif do == "begin":
            assert self.known and self.doing == "nothing"
            self.begun = True
        elif do == "block":
            assert self.begun and self.known and self.doing in ("nothing", "run", "paused")
            self.doing = "paused" if self.doing == "paused" else "run"
        elif do == "resume":
            assert self.doing == "paused"
            self.doing = "run"
        elif do == "pause":
            assert self.doing == "run" or (self.begun and self.doing == "nothing" and self.router.taken == 0)
        elif do == "zero":
            assert self.doing in ("nothing", "paused") and (self.known or self.doing == "nothing")
        elif do in ("fit", "lay", "turn"):
            assert self.doing == "nothing" and not self.router.spindle
        elif do == "spindle":
            assert 0 <= message["rpm"] <= 24_001

    def _told(self, answers: list[dict[str, Any]]) -> None:
        for one in answers:
            if one["say"] == "homed":
                self.known = True
            if one["say"] in ("homed", "arrived", "touched", "no-contact", "ended", "stopped", "fault"):
                self.begun = self.begun and one["say"] in ("homed", "arrived", "touched", "no-contact")
                self.known = (
                    self.known and one["say"] != "fault" and not (one["say"] == "stopped" and self.doing == "home")
                )
                self.doing = "nothing"
            if one["say"] == "paused":
                self.doing = "paused"
            if one["say"] == "touched":
                assert -TRAVEL["xyz".index(one["axis"])] - 0.5 <= one["z"] <= 0.5

    def wait(self, seconds: float) -> None:
        """Let its time pass."""
        r, doing = self.router, self.doing
        moving, before, said = r.state == "moving", r.at.tolist(), len(r.said)
        r.advance(seconds)
        if not moving:
            assert r.at.tolist() == before
        if r.dark:  # the power has been away
            r.dark = False
            r.said.clear()
            self.known, self.begun, self.doing = False, False, "nothing"
            return
        self._told(list(r.said)[said:])
        self.law(before, doing)

    def law(self, before: list[float], was: str = "nothing") -> None:
        """What holds at every moment. was: what it was doing when it stood at ``before``."""
        r = self.router
        assert r.state == {"nothing": r.state, "paused": "paused"}.get(self.doing, "moving")
        if self.doing == "nothing":
            assert r.state in (("ready",) if self.known else ("unhomed", "faulted")), (r.state, self.known)
        assert np.isfinite(r.at).all() and np.isfinite(r.zero).all() and np.isfinite(r.wood.z).all()
        assert all(-t - 0.02 <= v <= 0.02 for v, t in zip(r.at, TRAVEL)), f"it stands at {r.at}"
        if not self.known and self.doing != "home" and was == "nothing":
            assert r.at.tolist() == before or not any(r.at), "it moved without being homed"
        assert r.spindle == 0.0 or 6000 - 1 <= r.spindle <= 24000 + 1
        assert 0.1 <= r.override <= 2.0


def of_messages(seed: int, count: int = 40) -> str:
    """A run of messages with waits between; what it comes to, or an assertion."""
    chance = random.Random(seed)
    machine = Reference(seed, tuple(chance.sample(HANDS, 2)) if seed % 3 == 0 else ())
    for _ in range(count):
        number = machine.router.taken + 1 if chance.random() < 0.95 else chance.randrange(-2, 80)
        message = sound(chance, number)
        machine.hear(spoiled(chance, message) if chance.random() < 0.35 else message)
        if chance.random() < 0.6:
            machine.wait(chance.choice((0.001, 0.05, 0.5, 5.0, 40.0)))
    return "all laws held"
