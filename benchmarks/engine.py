# SPDX-License-Identifier: GPL-3.0-or-later
"""Touching off and power cuts on the simulated machine's engine itself, in this process: random setups, seeded. A sample
is in the tests, and some of them go through the real process there."""

from __future__ import annotations

import math
import random
from typing import Any

import numpy as np

from gatepost.core.errors import OperatorError
from gatepost.core.hold.lying import AsLaid
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Setup
from gatepost.core.job.zero import Zero
from gatepost.core.zero import ways
from gatepost.core.zero.trust import Trust, Where, trust
from gatepost.core.zero.ways import Reach, askew, budget, inset_of
from gatepost.machine.standins.messages import TOUCH_NOISE
from gatepost.machine.standins.router import Router
from gatepost.machine.standins.state import Profile
from gatepost.machine.standins.wood import BedWood
from gatepost.machine.standins.world import World
from gatepost.machine.touching import FoundZero, by_edges, by_eye, one_edge, upright

HOMED, ARRIVED = "homed", "arrived"
NOISE = 6.0 * TOUCH_NOISE  # mm; one in a hundred million touches lies further off
EXACT = 2e-4  # mm: what the link rounds away
AT = "2026-11-02T10:00:00"


class Dark(Exception):
    """The power went."""


class Engine:
    """The engine with nobody between: what a session offers, without a link. cut: seconds of its time until the power
    goes, or inf."""

    def __init__(self, router: Router, cut: float = math.inf) -> None:
        self.router, self.cut = router, cut

    def _do(self, want: tuple[str, ...], do: str, **values: Any) -> dict[str, Any]:
        self.router.hear({"do": do, **values})
        for _ in range(100_000):
            while self.router.said:
                said = self.router.said.popleft()
                if said["say"] in want:
                    return said
                if said["say"] in ("refused", "fault"):
                    raise OperatorError(f"{do}: {said['reason']}")
            before = self.router.clock
            self.router.advance(min(0.5, max(self.cut - self.router.clock, 0.001)))
            if self.router.clock >= self.cut:
                self.cut = math.inf
                self.router.cut_power()
                self.router.said.clear()
                raise Dark
            if self.router.state != "moving" and self.router.clock == before and not self.router.said:
                break
        raise AssertionError(f"no answer to {do}")

    def home(self) -> tuple[float, ...]:
        return tuple(self._do(("homed",), "home")["miss"])

    def jog(self, **to: float) -> None:
        self._do(("arrived",), "jog", **to)

    def touch(self, to: float, feed: float, gauge: float, axis: str = "z") -> float:
        said = self._do(("touched", "no-contact"), "touch", to=to, feed=feed, gauge=gauge, axis=axis)
        if said["say"] == "no-contact":
            raise OperatorError("no contact")
        return float(said["z"])

    def sight(self, x: float, y: float, eye: float) -> tuple[float, float]:
        off = self._do(("sighted",), "sight", x=x, y=y, eye=eye)["off"]
        return float(off[0]), float(off[1])

    def fit(self, diameter: float, length: float) -> None:
        tool = {"number": 1, "kind": "flat", "diameter": diameter, "angle": 0.0, "tip": 0.0, "length": length}
        self._do(("fitted",), "fit", tool=tool)

    def zero(self, **at: float) -> None:
        self._do(("set",), "zero", **at)

    def run(self, blocks: list[str]) -> None:
        """A program, block by block as it asks for them."""
        self._do(("begun",), "begin")
        for n, text in enumerate(blocks, start=1):
            self._do(("taken",), "block", n=n, text=text)
            while n - self.router.done > 20:
                self._step()
        while self.router.state == "moving":
            self._step()
        self.router.said.clear()

    def _step(self) -> None:
        self.router.advance(0.2)
        self.router.said.clear()
        if self.router.clock >= self.cut:
            self.cut = math.inf
            self.router.cut_power()
            self.router.said.clear()
            raise Dark


def a_setup(chance: random.Random) -> dict[str, Any]:
    """A blank somewhere on the bed, not quite where it was meant to lie, and a way to find its zero."""
    long, wide, thick = chance.uniform(60, 900), chance.uniform(50, 500), chance.uniform(8, 50)
    x, y = chance.uniform(30, 1170 - long), chance.uniform(30, 670 - wide)
    xy = chance.choice(("front left", "front right", "back left", "back right", "centre"))
    way = (
        chance.choice(("pin", "cutter"))
        if xy == "centre"
        else chance.choice(("pin", "cutter", "corner plate", "pointer"))
    )
    zero = Zero(
        xy=xy,
        xy_way=way,
        gauge_thickness=round(chance.uniform(0.05, 20), 3),
        gauge_edge=round(chance.uniform(4, 15), 3),
    )
    return {
        "size": (long, wide), "thick": thick, "setup": Setup(id="front", x=x, y=y, zero=zero), "pin": chance.uniform(1.5, 14),
        "length": chance.uniform(48, 70), "off": (chance.uniform(-3, 3), chance.uniform(-3, 3)), "noisy": chance.random() < 0.5,
    }  # fmt: skip


def the_machine(s: dict[str, Any], skew: float = 0.0, cut: float = math.inf, faults: tuple[str, ...] = ()) -> Engine:
    """A machine with that blank on its bed, where it really lies."""
    (long, wide), (dx, dy) = s["size"], s["off"]
    x, y = s["setup"].x, s["setup"].y
    cell = 5.0
    inset = 12.0  # its heights are on a coarse grid well inside its sides, which are exact
    shape = (max(1, int((wide - 2 * inset) / cell) + 1), max(1, int((long - 2 * inset) / cell) + 1))
    z = np.full(shape, s["thick"], np.float32)
    corners = np.array([[x, y], [x + long, y], [x + long, y + wide], [x, y + wide]])
    wood = BedWood(z, x + inset, y + inset, cell, None, corners, sure=0.0)
    troubles = (*faults, *(("touch noise",) if s["noisy"] else ()))
    router = Router(Profile(), wood, troubles, seed=s.get("seed", 7), world=World(s.get("shop")))
    router.wood.knock(dx, dy)
    router.wood.push(x + dx, y + dy, skew)
    return Engine(router, cut)


def zeroed(engine: Engine, s: dict[str, Any]) -> list[FoundZero]:
    """X0, Y0 and Z0 touched off."""
    setup, (long, wide) = s["setup"], s["size"]
    corner = (setup.x - 1200.0, setup.y - 700.0)
    face = s["thick"] + s["length"] - 175.0
    if setup.zero.xy_way == "pointer":
        fx, fy = {"front left": (0, 0), "front right": (1, 0), "back left": (0, 1), "back right": (1, 1)}[setup.zero.xy]
        bed = (setup.x + fx * long, setup.y + fy * wide)
        found = by_eye(engine, (bed[0] - 1200.0, bed[1] - 700.0), bed, setup.zero.eye)
    else:
        edges = ways.edge_touches(setup, s["size"], corner, face, s["pin"])
        found = by_edges(engine, edges, s["pin"], (1200.0, 700.0))
    gauge = setup.zero.gauge_thickness
    middle = (setup.x + 0.5 * long - 1200.0, setup.y + 0.5 * wide - 700.0)
    found.append(upright(engine, *middle, face + gauge, "plate", gauge))
    return found


def truly(s: dict[str, Any]) -> tuple[float, float, float]:
    """Where the zero really is, machine coordinates, by plain arithmetic."""
    (long, wide), (dx, dy), setup = s["size"], s["off"], s["setup"]
    fx = {"left": 0.0, "right": 1.0}.get(setup.zero.xy.split()[-1], 0.5)
    fy = {"front": 0.0, "back": 1.0}.get(setup.zero.xy.split()[0], 0.5)
    x, y = setup.x + dx + fx * long - 1200.0, setup.y + dy + fy * wide - 700.0
    return (x, y, s["thick"] - 175.0 + s["length"])


def of_a_zero(seed: int) -> float:
    """A random setup zeroed on the engine: how far the worst axis is off, as a share of what its noise allows."""
    s = a_setup(random.Random(seed))
    engine = the_machine({**s, "seed": seed})
    engine.home()
    engine.fit(s["pin"], s["length"])
    found = zeroed(engine, s)
    allowed = NOISE if s["noisy"] else EXACT
    off = [abs(f.machine - t) for f, t in zip(found, truly(s))]
    for f, size in zip(found, s["size"]):
        if f.size is not None:
            off.append(0.5 * abs(f.size - size))
    return max(off) / allowed


def of_a_skew(seed: int) -> float:
    """A blank that lies turned, its front or left edge touched at two places: how far the angle told is off, degrees, over
    what the noise allows."""
    chance = random.Random(seed)
    s = a_setup(chance)
    s["off"] = (0.0, 0.0)
    axis = chance.choice(("x", "y"))
    long = s["size"][0 if axis == "y" else 1]
    most = math.degrees(math.atan(3.0 / long))  # so that the pin still stands clear beside it
    angle = chance.uniform(-most, most)
    engine = the_machine({**s, "seed": seed}, angle)
    engine.home()
    engine.fit(s["pin"], s["length"])
    z = s["thick"] + s["length"] - 175.0 - ways.BELOW_TOP
    x, y = s["setup"].x - 1200.0, s["setup"].y - 700.0
    base, other = (y, x) if axis == "y" else (x, y)
    contacts = []
    for share in (0.15, 0.85):
        edge = ways.EdgeTouch(axis, "low", base - s["pin"] / 2 - 4.5, base + 5.0, other + share * long, z)
        contacts.append(one_edge(engine, edge, (1200.0, 700.0))[0])
    told = ways.skew(axis, contacts[0], contacts[1], 0.7 * long, long)
    allowed = math.degrees((2 * NOISE if s["noisy"] else 2 * EXACT) / (0.7 * long))
    return abs(told.degrees.result - angle) / allowed


def of_a_power_cut(seed: int) -> str:
    """The power goes at any moment of zeroing or of a run, now and then with a knock to the board: what is known after
    it. ``found``: trusted, and right within the noise; ``unknown``: the app says so. Anything else raises."""
    chance = random.Random(seed)
    s = a_setup(chance)
    s["noisy"] = chance.random() < 0.3
    cut = chance.uniform(1.0, 160.0)
    engine = the_machine({**s, "seed": seed}, cut=cut)
    knocked = chance.random() < 0.2
    journal = Journal()
    mark = (s["setup"].x + 0.5 * s["size"][0], s["setup"].y + 0.5 * s["size"][1])  # a witness mark, bed as meant
    lost = False
    try:
        engine.home()
        journal = journal.add(AT, "homed", "front")
        engine.fit(s["pin"], s["length"])
        journal = journal.add(AT, "fitted", "front", tool=1, length=s["length"])
        for f in zeroed(engine, s):
            engine.zero(**{f.axis: f.machine})
            journal = journal.add(
                AT, "touched", "front", axis=f.axis, machine=round(f.machine, 4), spread=round(f.spread, 4)
            )
        over = ["G21 G90", "M3 S8000"]
        for _ in range(60):
            over.append(
                f"G1 X{chance.uniform(-20, 20):.3f} Y{chance.uniform(-20, 20):.3f} Z{chance.uniform(2, 6):.3f} F2500"
            )
        engine.router.modal.feed = 2500.0
        engine.run([*over, "M5", "M30"])
    except Dark:
        lost = True
        journal = journal.add(AT, "power cut", "front")
    if not lost:
        engine.router.cut_power()
        journal = journal.add(AT, "power cut", "front")
    if knocked:
        engine.router.wood.knock(0.9, -0.7)
    engine.cut = math.inf
    return _recovered(engine, journal, s, mark, knocked)


def _recovered(engine: Engine, journal: Journal, s: dict[str, Any], mark: tuple[float, float], knocked: bool) -> str:
    """Home, back to the witness mark, and look."""
    engine.home()
    journal = journal.add(AT, "homed", "front")
    place = Where("front", False, frozenset({"front"}))
    axes = trust(journal.standing(), place)
    known = [a for a in (axes.x, axes.y, axes.z) if a.trust is not Trust.LOST]
    touched = {str(e.data["axis"]) for e in journal.entries if e.kind == "touched"}
    if len(known) < 3:
        assert len(touched) < 3, "all three were touched, and one is given up"
        return "unknown"
    assert all(a.trust is Trust.PROVISIONAL for a in known)  # nothing cuts on it without a look
    engine.jog(x=mark[0] + s["off"][0] - 1200.0, y=mark[1] + s["off"][1] - 700.0)
    off = engine.sight(*mark, 0.0)
    if max(abs(v) for v in off) > 0.3:
        return "unknown"
    journal = journal.add(AT, "witness", "front", x=off[0], y=off[1])
    assert (
        trust(journal.standing(), place).z.trust is Trust.PROVISIONAL
    )  # a look proves nothing of Z: it is touched again
    again = zeroed(engine, s)[2]
    journal = journal.add(
        AT, "touched", "front", axis="z", machine=round(again.machine, 4), spread=round(again.spread, 4)
    )
    axes = trust(journal.standing(), place)
    allowed = NOISE if s["noisy"] else EXACT
    for axis, true in zip((axes.x, axes.y, axes.z), truly(s)):
        if axis.trust is Trust.TRUSTED:
            assert axis.machine is not None and abs(axis.machine - true) <= allowed, (axis, true)
            assert not knocked
        else:
            return "unknown"
    return "found"


def of_a_budget(seed: int) -> dict[str, tuple[float, float]]:
    """A random setup zeroed in a shop where nothing is quite as planned: how far the cut that is farthest from the zero is off, across and
    upright, as a share of what Zero says it is good to, and of what it says at worst."""
    chance = random.Random(seed)
    s = a_setup(chance)
    s["noisy"], s["off"], s["shop"] = False, (0.0, 0.0), seed
    zero = s["setup"].zero.model_copy(update={"eye": chance.choice((0.1, 0.2, 0.4))})
    s["setup"] = s["setup"].model_copy(update={"zero": zero})
    (long, wide), setup = s["size"], s["setup"]
    engine = the_machine({**s, "seed": seed})
    engine.home()
    lies = AsLaid() if chance.random() < 0.5 else AsLaid(0.1, 0.1, 0.02, "against F1")
    engine.router.hear({"do": "lay", "dx": 0.0, "dy": 0.0, "off": [lies.x, lies.y, lies.degrees]})
    engine.router.said.clear()
    engine.fit(s["pin"] + (0.0 if zero.xy_way == "cutter" else 1.0), s["length"])
    engine.fit(s["pin"], s["length"])
    found = zeroed(engine, s)
    fx = {"left": 0.0, "right": 1.0}.get(zero.xy.split()[-1], 0.5)
    fy = {"front": 0.0, "back": 1.0}.get(zero.xy.split()[0], 0.5)
    far = np.array([chance.choice((0.05, 0.95)), chance.choice((0.05, 0.95))])
    wood, size = engine.router.wood, np.array([long, wide])
    really = wood.outline.max(axis=0) - wood.outline.min(axis=0)  # it is not quite the size that it was said to be
    origin = wood.outline.min(axis=0)
    ways = (far - (fx, fy)) * size
    feature = origin + np.array([fx, fy]) * really
    (truly,) = wood.truly((feature + ways)[None])
    cut = np.array([found[0].machine + 1200.0, found[1].machine + 700.0]) + ways + engine.router.slip[:2]
    reach = Reach(
        abs(ways[0]),
        abs(ways[1]),
        askew(setup, lies.degrees, max(s["size"])),
        (1200.0, 700.0),
        False,
        inset=max(inset_of(v) for v in s["size"]),
        z=(abs(far[0] - 0.5) * long, abs(far[1] - 0.5) * wide),
    )
    told = budget(zero, reach)
    axis = 1 if reach.x > reach.y else 0
    off = abs(float(cut[axis] - truly[axis]))
    height = s["thick"] + float(engine.router.bed(*truly))
    tip = found[2].machine + 175.0 - s["length"] - engine.router.longer + engine.router.slip[2]
    deep = abs(tip - height)
    return {
        "across": (off / told.cut.good.result, off / told.cut.worst.result),
        "upright": (deep / told.deep.good.result, deep / told.deep.worst.result),
    }
