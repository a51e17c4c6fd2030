# SPDX-License-Identifier: GPL-3.0-or-later
"""The machine's state, and what everything that it does has in common."""

from __future__ import annotations

import copy
import math
import random
from collections import deque
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from gatepost.machine.standins.bench import BedThing, Parts, standing_of
from gatepost.machine.standins.blocks import Action, Modal
from gatepost.machine.standins.messages import CONES, HANDS, UPRIGHT, ground, number, tool_of
from gatepost.machine.standins.pinned import Holes
from gatepost.machine.standins.wood import BedWood
from gatepost.machine.standins.world import OFF, World

FELT = 0.05  # mm that a side may be pressed in and is only felt
SLICES = 24  # that a V's cone stands for when it may run into something


@dataclass
class Profile:
    """What the machine can do; mm, mm/min, mm/s²."""

    travel: tuple[float, float, float] = (1200.0, 700.0, 130.0)
    nose_at_home: float = 175.0
    rapid: tuple[float, float, float] = (8000.0, 8000.0, 3000.0)
    accel: tuple[float, float, float] = (500.0, 500.0, 250.0)
    deviation: float = 0.02
    rpm: tuple[float, float] = (6000.0, 24000.0)
    nut: tuple[float, float] = (42.0, 45.0)
    shoe: tuple[float, float, float] = (0.0, 10.0, 20.0)
    standing: list[dict[str, Any]] = field(default_factory=list)
    collet: dict[str, Any] = field(default_factory=dict)  # what is fitted already, and how much longer than told


@dataclass
class RouterState:
    """All that the machine knows of itself. What is said goes to ``said``."""

    profile: Profile = field(default_factory=Profile)
    wood: BedWood | None = None
    faults: tuple[str, ...] = ()
    seed: int = 7
    world: World = field(default_factory=World)

    def __post_init__(self) -> None:
        chance = random.Random(self.seed)
        self.chance = random.Random(self.seed + 1)
        self.said: deque[dict[str, Any]] = deque()
        self.state = "unhomed"
        self.reason = ""
        self.at = -np.array(self.profile.travel) * [chance.uniform(0.1, 0.4) for _ in range(3)]
        self.zero = np.zeros(3)
        self.clock = 0.0
        self.spindle = 0.0
        self.override = 1.0
        self.braking = False
        self.ending = False
        self.tool: dict[str, Any] = {
            "number": 0,
            "kind": "flat",
            "diameter": 3.0,
            "angle": 0.0,
            "tip": 0.0,
            "length": 40.0,
        }
        self.modal = Modal()
        self.queue: deque[tuple[float, Action]] = deque()
        self.holds: set[int] = set()  # after which blocks a program is paused by itself
        self.words: dict[int, tuple[str, Modal]] = {}  # each queued block as it came, and what was modal before it
        self.homed = False
        self.begun = False  # whether a program goes on: blocks are taken from begin to its end
        self.loaded_to = 0  # the last block whose legs are loaded
        self.taken = 0
        self.done = 0
        self.expect = self.at.copy()  # where the queue ends, machine coordinates
        self.legs = np.zeros((0, 10))
        self.owner: list[int] = []
        self.walk = np.zeros(3)
        self.dwell_left = 0.0
        self.waiting = False
        self.probe: dict[str, Any] | None = None
        self.end_seen = False
        self.moving_kind = ""
        self.hold, self.rates = 0, np.zeros(3)  # of a jog by hand: which press of a key, and how fast, mm/min
        self.unheard = 0.0  # s since it was told to go on with it
        self.kept: tuple[Any, ...] | None = None  # what was half done when it was lifted out of the wood
        self.speed, self.programmed = 1.0, 0.0  # share of the spindle's speed that is asked for, and the program's rpm
        self.asked_for: list[BedThing] = []
        self.slip = np.zeros(3)  # what the axes really are beyond what is counted: steps that were lost
        self.lag = np.zeros(3)  # backlash, by the way they went last
        self.missed = np.zeros(3)  # by how much its counting was off when it was homed last
        self.dusty = False
        self.longer = 0.0  # what the tool sticks out beyond what was told
        self.bits: dict[int, float] = {}  # diameter that each bit was told with first: a pin in its place has another
        self.bed = self.world.spoilboard(self.profile.travel[0], self.profile.travel[1])
        self.holes = Holes()
        self.in_it = np.zeros(
            (0, 3)
        )  # holes that are in the board already: where they are meant to be on the bed, and their diameters
        self.aside: BedWood | None = None  # the board, where it was taken off the bed
        self.uncut = self.wood  # what another board would be
        self._take_another()
        self.standing = standing_of(self.profile.standing)
        if self.profile.collet:
            self.tool = self._bit(tool_of(self.profile.collet))
            self.longer = number(self.profile.collet, "longer", -20.0, 20.0, 0.0)
        self.dark = False  # whether the power has just been away: whoever was connected is cut off
        self.trouble = set(self.faults) & set(HANDS)
        if "hold in the way" in self.trouble and self.wood is not None:
            (x0, y0), (x1, y1) = self.wood.outline.min(axis=0), self.wood.outline.max(axis=0)
            x, y, top = 0.5 * (x0 + x1), 0.5 * (y0 + y1), float(self.wood.z.max())
            box = np.array([[x - 20, y - 15], [x + 20, y - 15], [x + 20, y + 15], [x - 20, y + 15]])
            self.standing.append(BedThing("a forgotten clamp", "clamp", box, top, top + 40.0))

    def _bit(self, told: dict[str, Any]) -> dict[str, Any]:
        """A tool as it really is: a bit is always otherwise by the same, a pin in its place is as told."""
        which = told["number"]
        bit = dict(told)
        if self.bits.setdefault(which, told["diameter"]) == told["diameter"]:
            bit["diameter"] = max(0.01, told["diameter"] + self.world.always("diameter", which))
        if told["kind"] in CONES:
            bit["angle"] = min(179.0, max(1.0, told["angle"] + self.world.always("angle", which)))
            bit["tip"] = max(0.0, told["tip"] + self.world.always("tip", which))
        return bit

    def _take_another(self) -> None:
        """Another board, as uncut as the first was and as little quite as planned."""
        self.wood = copy.deepcopy(self.uncut)
        if self.wood is not None:
            sure = self.wood.sure if self.wood.sure is not None else OFF["thickness"]
            self.wood.otherwise(self.world.off("thickness", sure), self.world.off("outline"), self.world.off("outline"))

    def _refuse(self, message: dict[str, Any], why: str) -> None:
        n = message.get("n", 0)
        self.said.append(
            {
                "say": "refused",
                "do": str(message.get("do", ""))[:40],
                "n": n if type(n) is int and abs(n) < 2**53 else 0,
                "reason": why,
            }
        )

    def _stands(self) -> bool:
        return self.state in ("unhomed", "ready", "faulted") and not self.spindle

    def _inside(self, target: np.ndarray) -> bool:
        low = -np.array(self.profile.travel)
        return bool((target <= 0.01).all() and (target >= low - 0.01).all())

    def _forget(self) -> None:
        self.queue.clear()
        self.holds.clear()
        self.words.clear()
        self.begun = False
        self.legs, self.owner = np.zeros((0, 10)), []
        self.walk[:] = 0.0
        self.kept = None
        self.rates = np.zeros(3)
        self.taken = self.done = 0
        self.expect = self.at.copy()
        self.modal = Modal()
        self.braking = self.ending = self.end_seen = self.waiting = False
        self.dwell_left = 0.0

    def hole_about(self, places: np.ndarray) -> tuple[np.ndarray, float] | None:
        """The middle, on the bed, and the diameter of a hole of the board that the tool lies in at all of some places, (n, 2); nothing where there is none."""
        radius = 0.5 * self.tool["diameter"]
        wood = self.wood
        for x, y, across in self.in_it if wood is not None else ():
            assert wood is not None
            middle = wood.seen(np.array([x, y]))
            if np.hypot(*(places - middle).T).max() <= 0.5 * across - radius + FELT:
                return middle, float(across)
        return None

    def at_speed(self, rpm: float) -> float:
        """What the spindle turns at where a program asks for rpm: as much faster or slower as was asked for, within what it can."""
        return min(max(rpm * self.speed, self.profile.rpm[0]), self.profile.rpm[1]) if rpm else 0.0

    def tip(self) -> np.ndarray:
        """The tip on the bed."""
        return np.asarray(self._tips(self.at[None, :])[0])

    def _tips(self, places: np.ndarray, played: np.ndarray | None = None) -> np.ndarray:
        shift = np.array(
            [
                self.profile.travel[0], self.profile.travel[1],
                self.profile.nose_at_home - self.tool["length"] - self.longer,
            ]
        )  # fmt: skip
        return np.asarray(places + shift + self.slip + (self.lag if played is None else played))

    def _parts(self) -> Parts:
        """The tool as it hangs there: cutter, shank, nut and shoe."""
        t, long = self.tool, self.tool["length"] + self.longer
        edge = t.get("edge", long)
        cone = 0.0
        flat, rounded, slope, radius = ground(t)
        parts: Parts = []
        if (
            slope < UPRIGHT
        ):  # thin at its tip, in slices as wide as their middles; one that is rounded is as wide as if it were flat there
            flat += rounded * (math.hypot(1.0, slope) - 1.0) / slope
            cone = min((radius - flat) * slope, edge)
            step = cone / SLICES
            parts = [("cutter", flat + (k + 0.5) * step / slope, k * step, (k + 1) * step) for k in range(SLICES)]
        parts += [
            ("cutter", radius, cone, max(edge, cone)),
            ("nut", self.profile.nut[0] / 2.0, long, long + self.profile.nut[1]),
        ]
        if edge < long:
            parts.append(("shank", t.get("shank", t["diameter"]) / 2.0, edge, long))
        if self.profile.shoe[0] > 0.0:
            low = long + self.profile.shoe[1]
            parts.append(("shoe", self.profile.shoe[0] / 2.0, low, low + self.profile.shoe[2]))
        return parts

    def fault(self, reason: str) -> None:
        """Something is wrong: it stands, the spindle stops, the queue is gone, and it must be homed."""
        done = self.done
        self._forget()
        self.done = done
        self.spindle = 0.0
        self.homed, self.probe = False, None
        self.state, self.reason, self.moving_kind = "faulted", reason, ""
        self.said.append({"say": "fault", "reason": reason, "n": done})
        self.tell()

    def tell(self) -> None:
        """Say where it is and what it does."""
        self.said.append(
            {
                "say": "state", "state": self.state, "machine": [round(float(v), 4) for v in self.at],
                "work": [round(float(v), 4) for v in self.at - self.zero], "zero": [round(float(v), 4) for v in self.zero],
                "spindle": self.spindle, "feed": round(self.override * 100), "rpm": round(self.speed * 100), "clock": round(self.clock, 3),
                "taken": self.taken, "done": self.done, "reason": self.reason if self.state == "faulted" else "",
            }
        )  # fmt: skip

    def _leg(self, a: np.ndarray, b: np.ndarray, rapid: bool, feed: float) -> list[float] | None:
        way = b - a
        length = float(math.sqrt(float(way @ way)))
        if length < 1e-9:
            return None
        u = way / length
        fastest = min(self.profile.rapid[i] / 60.0 / abs(u[i]) for i in range(3) if abs(u[i]) > 1e-12)
        reach = min(self.profile.accel[i] / abs(u[i]) for i in range(3) if abs(u[i]) > 1e-12)
        speed = fastest if rapid else min(feed / 60.0, fastest)
        return [*a, *u, length, speed, reach, 1.0 if rapid else 0.0]

    def _go(self, places: list[tuple[float, ...]], kind: str, feed: float = 0.0) -> None:
        self.moving_kind, self.begun = kind, False
        self.legs, self.owner = np.zeros((0, 10)), []
        self.walk[:] = 0.0
        here = self.at
        rows = []
        for place in places:
            row = self._leg(here, np.array(place), feed == 0.0, feed)
            if row is not None:
                rows.append(row)
                here = np.array(place)
        self.legs = np.array(rows).reshape(-1, 10)
        self.expect = here.copy()

    def _paused(self) -> None:
        self.state, self.braking = "paused", False
        self.said.append({"say": "paused", "n": self.done})
        self.tell()

    def _stopped(self, told: bool = True) -> None:
        """It stands with nothing left to do: what was cut short is not done, and homing that was cut short leaves it
        unhomed. told: whether a stop was asked for and is answered."""
        done = self.done
        self._forget()
        self.done = done
        self.spindle = 0.0
        self.probe = None
        if self.state != "faulted":
            self.state = "ready" if self.homed else "unhomed"
        self.moving_kind = ""
        if told:
            self.said.append({"say": "stopped", "n": done, "state": self.state})
        self.tell()

    def cut_power(self) -> None:
        """The mains fail and come back: it stands, knows its place no longer, and nothing starts by itself."""
        done = self.done
        self._forget()
        self.done = done
        self.spindle, self.homed = 0.0, False
        self.slip = self.slip + self.at  # what it counts from now on is 0 where it stands
        self.at = np.zeros(3)
        self.expect = self.at.copy()
        self.state, self.moving_kind, self.dark = "unhomed", "", True
