# SPDX-License-Identifier: GPL-3.0-or-later
"""What is known of the axes, reckoned plainly: a set of doubts an axis, put there and taken away by what happened. Nothing of the core's is
used but the names of what can happen. Random histories are held against it."""

from __future__ import annotations

import random
from dataclasses import dataclass, field
from typing import Any

from gatepost.core.job.journal import Entry
from gatepost.core.zero.trust import Axes, Trust, Where, step

WORTHLESS = {"untouched", "moved", "bit", "place", "gone", "skimmed"}  # any of these, and the axis is lost
UNSURE = {"once", "apart", "cut away", "warm", "only homed", "a sum"}
SETUPS = (
    Where("surface", False, frozenset({"surface", "front"})),
    Where("front", False, frozenset({"surface", "front"})),
    Where("back", True, frozenset({"back"})),
)
MOVED = ("laid", "bumped", "clamped", "shimmed", "turned", "squared", "fresh board")
CRASHED = ("stalled", "power cut", "red button", "link lost", "switched on")


@dataclass
class Doubted:
    """One axis: its doubts, whether homing can find it again, whether its spindle was cold."""

    doubts: set[str] = field(default_factory=lambda: {"untouched"})
    tied: bool = False
    cold: bool = False

    @property
    def known(self) -> Trust:
        return Trust.LOST if self.doubts & WORTHLESS else Trust.PROVISIONAL if self.doubts else Trust.TRUSTED


@dataclass
class Plain:
    """A setup's axes. base: doubts of the Z0 that the fixed sensor was noted with."""

    where: Where
    x: Doubted = field(default_factory=Doubted)
    y: Doubted = field(default_factory=Doubted)
    z: Doubted = field(default_factory=Doubted)
    base: set[str] | None = None
    homed: bool = False
    warm: bool = False

    def hear(self, kind: str, setup: str, data: dict[str, Any]) -> None:
        mine, w = setup == self.where.setup, self.where
        if kind in MOVED and not data.get("still") or kind == "rocked" and data["answer"] == "rocks":
            self.x.doubts.add("moved"), self.y.doubts.add("moved")
            if not w.z_on_bed:
                self.z.doubts.add("moved")
                self.base = None
        elif kind == "taken up":
            if not w.z_on_bed:
                self.z.doubts.add("moved")
                self.base = None
        elif kind == "surfaced" and setup in w.faces and not w.z_on_bed:
            self._upright("cut away")
        elif kind == "fitted":
            self.z.doubts.add("bit")
        elif kind == "warmed":
            if self.z.cold:
                self._upright("warm")
            self.z.cold, self.warm = False, True
        elif kind == "bed skimmed" and w.z_on_bed:
            self.z.doubts.add("skimmed")
            self.base = None
        elif kind in CRASHED or kind == "drives off":
            self._crash(kind)
        elif kind == "homed":
            self.homed = True
            for axis in (self.x, self.y, self.z):
                if "place" in axis.doubts:
                    axis.doubts -= {"place"}
                    axis.doubts.add("only homed")
        elif kind == "witness" and mine and max(abs(data["x"]), abs(data["y"])) <= 0.3:
            self.x.doubts -= {"only homed"}
            self.y.doubts -= {"only homed"}
        elif kind == "sensed" and mine and self.z.known is not Trust.LOST:
            self.base = set(self.z.doubts)
        elif kind == "marked" and mine:
            self.x.doubts.add("read anew"), self.y.doubts.add("read anew")
        elif kind in ("proved", "ringed") and mine and max(abs(data["x"]), abs(data["y"])) > data["within"]:
            self.x.doubts.add("seen beside"), self.y.doubts.add("seen beside")
        elif kind == "touched" and mine:
            self._touched(data)

    def _upright(self, doubt: str) -> None:
        self.z.doubts.add(doubt)
        if self.base is not None:
            self.base.add(doubt)

    def _crash(self, kind: str) -> None:
        self.homed = False
        if kind in ("power cut", "switched on", "red button"):
            self.warm = False
        for axis in (self.x, self.y, self.z):
            if "only homed" in axis.doubts:  # found by homing alone, and now again: never surer than that
                axis.doubts.add("a sum")
            axis.doubts.add("place" if axis.tied and not (kind == "drives off" and axis is self.z) else "gone")
        if self.base is not None:
            self.base = None if kind == "drives off" else self.base | {"a sum"}

    def _touched(self, data: dict[str, Any]) -> None:
        way = data.get("way", "")
        axis = {"x": self.x, "y": self.y, "z": self.z}[data["axis"]]
        if way == "witness":
            if axis.known is not Trust.LOST:
                axis.doubts = (axis.doubts - {"only homed"}) | {"a sum"}
            return
        if way == "proof" and axis.known is Trust.LOST:
            return
        axis.doubts = set()
        if way in ("kept", "marks", "proof"):
            axis.doubts |= set() if data["base"] == "trusted" else {"a sum"}
            axis.tied, axis.cold = self.homed, axis.cold
            return
        if way == "sensor":
            axis.doubts |= self.base - {"bit"} if self.base is not None else {"a sum"}
        elif axis is self.z:
            self.base = None
        if "spread" not in data and way != "pointer":
            axis.doubts.add("once")
        if data.get("spread", 0.0) > 0.05:
            axis.doubts.add("apart")
        axis.tied, axis.cold = self.homed, not self.warm


def happening(chance: random.Random) -> tuple[str, str, dict[str, Any]]:
    """Anything that can happen, anywhere."""
    setup = chance.choice(SETUPS).setup
    kind = chance.choice((
        "touched", "touched", "touched", "touched", "homed", "homed", "witness", "fitted", "warmed", "surfaced", "sensed", "sensed", "marked", "proved", "ringed", "taken up",
        "bed skimmed", "rocked", "drives off", *MOVED, *CRASHED,
    ))  # fmt: skip
    data: dict[str, Any] = {}
    if kind == "touched":
        axis = chance.choice("xyz")
        ways = ("sensor", "", "plate") if axis == "z" else ("pin", "pointer", "witness", "kept", "marks", "proof")
        data = {"axis": axis, "machine": -50.0, "tool": 1.0, "way": chance.choice(ways)}
        if chance.random() < 0.8 and data["way"] != "pointer":
            data["spread"] = chance.choice((0.0, 0.04, 0.06))
        if data["way"] in ("kept", "marks", "proof"):
            data["base"] = chance.choice(("trusted", "provisional"))
    elif kind == "marked":
        data = {"mark": "mark-1", "x": -50.0, "y": -60.0}
    elif kind in ("proved", "ringed"):
        data = {"mark": "look-1", "x": chance.choice((0.0, 0.2, 0.6)), "y": 0.0, "within": 0.4}
    elif kind == "witness":
        data = {"x": chance.choice((0.0, 0.2, 0.4)), "y": 0.1}
    elif kind == "fitted":
        data = {"tool": float(chance.randint(1, 3))}
    elif kind == "sensed":
        data = {"tool": 1.0, "machine": -20.0, "zero": -60.0}
    elif kind == "rocked":
        data = {"answer": chance.choice(("rocks", "still"))}
    elif kind == "laid" and chance.random() < 0.2:
        data = {"still": 1.0}
    return kind, setup, data


RANK = {Trust.LOST: 0, Trust.PROVISIONAL: 1, Trust.TRUSTED: 2}


def above(seed: int, length: int = 40) -> tuple[str, int, int]:
    """A random history: where trust was above the plain reckoning, or nothing; how often it was the same, of how many."""
    chance = random.Random(seed)
    plain = [Plain(w) for w in SETUPS]
    axes = [Axes() for _ in SETUPS]
    told: list[str] = []
    alike = of = 0
    for n in range(length):
        kind, setup, data = happening(chance)
        told.append(f"{kind} in {setup} {data}")
        entry = Entry(seq=n + 1, at="", kind=kind, setup=setup, data=data)  # type: ignore[arg-type]
        for i, p in enumerate(plain):
            p.hear(kind, setup, data)
            axes[i] = step(axes[i], entry, p.where)
            for name, mine, theirs in (("X", axes[i].x, p.x), ("Y", axes[i].y, p.y), ("Z", axes[i].z, p.z)):
                of += 1
                alike += mine.trust is theirs.known
                if RANK[mine.trust] > RANK[theirs.known]:
                    return (
                        f"{name} of {p.where.setup} is {mine.trust} and {theirs.known} by {theirs.doubts}: "
                        + "; ".join(told),
                        alike,
                        of,
                    )
    return "", alike, of
