# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated router: axes, spindle, limits, plate and wood, driven by messages and by ticks of its own clock."""

from __future__ import annotations

import copy
import math
import random
from collections import deque
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from gatepost.machine.standins.bench import BedThing, Parts, first_hit, first_touch, standing_of
from gatepost.machine.standins.blocks import Action, BadBlock, Modal, understand
from gatepost.machine.standins.motion import march, stamp, thinned
from gatepost.machine.standins.wood import BedWood
from gatepost.machine.standins.world import OFF, World

TICK = 0.001  # s
CREDITS = 64
HANDS = (  # of the workshop, not of the link: what an operator can meet in a setup
    "dead plate", "shorted plate", "dirty plate", "touch noise", "backlash", "missed steps", "bump", "hold in the way", "spanner on",
    "tool slips", "drives asleep", "power loss")  # fmt: skip
FAULTS = (
    "drop link", "stall", *HANDS,
    "mute", "lag", "garble", "split", "double ack", "no ack", "late answer", "deaf to stop", "die")  # fmt: skip
DUST = (0.18, 0.05)  # mm under a plate at one touch and at the next
TOUCH_NOISE = 0.012  # mm, of a worn plate on fuzzy wood
BACKLASH, MISSED, SLIPPED = 0.4, 1.2, 0.8  # mm
BUMP = (1.6, -1.1)
TROUBLE = 25  # blocks of a program done before steps are missed, a tool slips or the power goes
PLATE = 20.0  # mm from the middle of a plate to its edge
SIDE_UP = 0.5  # mm of wood that must stand above a pin's tip for its side to be felt
LAG = 0.12  # s by which a slow link is late
AFTER = 80  # blocks taken, or messages heard, before a fault of the link shows
FARTHEST = 10_000.0  # mm that a message may say
MOST_STANDING, MOST_CORNERS = 400, 4000  # things on the bed, and corners of one
KINDS = {"flat": 0, "surfacing": 0, "drill": 0, "ball": 1, "vee": 2}


class BadMessage(Exception):
    """A message that is refused whole: nothing of it is carried out."""


def number(message: dict[str, Any], name: str, low: float, high: float, default: float | None = None) -> float:
    """A finite number of a message within bounds. Raises BadMessage."""
    value = message.get(name, default)
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not low <= value <= high:
        raise BadMessage(f"its {name} is not a number from {low:g} to {high:g}")
    return float(value)


def tool_of(message: dict[str, Any]) -> dict[str, Any]:
    """The tool of a message. Raises BadMessage."""
    told = message.get("tool")
    if not isinstance(told, dict) or not isinstance(told.get("kind"), str) or told["kind"] not in KINDS:
        raise BadMessage(f"its tool is not one of {', '.join(KINDS)}")
    vee = told["kind"] == "vee"
    tool: dict[str, Any] = {
        "number": int(number(told, "number", 0, 99_999)), "kind": told["kind"],
        "diameter": number(told, "diameter", 0.01, 500.0), "angle": number(told, "angle", 1.0 if vee else 0.0, 179.0 if vee else 360.0),
        "tip": number(told, "tip", 0.0, 500.0), "length": number(told, "length", 0.1, 1000.0),
    }  # fmt: skip
    tool["shank"] = number(told, "shank", 0.01, 500.0, tool["diameter"])
    tool["edge"] = min(number(told, "edge", 0.0, 1000.0, tool["length"]), tool["length"])
    return tool


def things_of(rows: Any) -> list[BedThing]:
    """What a message says stands on the bed. Raises BadMessage."""
    if not isinstance(rows, list) or len(rows) > MOST_STANDING:
        raise BadMessage(f"what stands on the bed is not a list of {MOST_STANDING} at most")
    for row in rows:
        corners = row.get("outline") if isinstance(row, dict) else None
        if not isinstance(corners, list) or not 3 <= len(corners) <= MOST_CORNERS:
            raise BadMessage("something that stands on the bed has no outline of three corners or more")
        if not all(isinstance(c, list) and len(c) == 2 for c in corners):
            raise BadMessage("a corner of what stands on the bed is not a pair")
        for x, y in corners:
            number({"corner": x}, "corner", -FARTHEST, FARTHEST), number({"corner": y}, "corner", -FARTHEST, FARTHEST)
        low, high = (number(row, z, -FARTHEST, FARTHEST) for z in ("z0", "z1"))
        if low > high or not isinstance(row.get("name"), str) or not isinstance(row.get("part"), str):
            raise BadMessage("something that stands on the bed has no name, no part, or its top under its bottom")
    return standing_of(rows)


def ways_of(told: Any) -> np.ndarray:
    """How a message says that wood is turned: X, Y and Z of the bed then, in the bed's directions now. Raises BadMessage."""
    whole = isinstance(told, list) and len(told) == 3 and all(isinstance(w, list) and len(w) == 3 for w in told)
    if not whole or not all(type(v) is int and abs(v) <= 1 for way in told for v in way):
        raise BadMessage("how it is turned is not three directions of whole numbers")
    ways = np.array(told)
    if (np.abs(ways).sum(axis=0) != 1).any() or (np.abs(ways).sum(axis=1) != 1).any() or np.linalg.det(ways) < 0.0:
        raise BadMessage("no piece of wood can be turned like that")
    return ways


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
class Router:
    """The machine. ``hear`` takes a message, ``advance`` lets time pass; both append to ``said``."""

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
        self.queue: deque[tuple[int, Action]] = deque()
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
        self.asked_for: list[BedThing] = []
        self.slip = np.zeros(3)  # what the axes really are beyond what is counted: steps that were lost
        self.lag = np.zeros(3)  # backlash, by the way they went last
        self.missed = np.zeros(3)  # by how much its counting was off when it was homed last
        self.dusty = False
        self.longer = 0.0  # what the tool sticks out beyond what was told
        self.bits: dict[int, float] = {}  # diameter that each bit was told with first: a pin in its place has another
        self.bed = self.world.spoilboard(self.profile.travel[0], self.profile.travel[1])
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

    # -- messages ---------------------------------------------------------------------------------------

    def hear(self, message: dict[str, Any]) -> None:
        """Take one message. A refusal is said, and changes nothing."""
        do = message.get("do", "")
        act = getattr(self, "_do_" + do.replace("-", "_"), None) if isinstance(do, str) and do.isascii() else None
        if act is None:
            self._refuse(message, "not a message that this machine knows")
            return
        try:
            act(message)
        except BadMessage as error:
            self._refuse(message, str(error))

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

    def _do_hello(self, message: dict[str, Any]) -> None:
        self.said.append(
            {"say": "hello", "machine": "simulated router", "link": 1, "credits": CREDITS, "done": self.done}
        )
        self.tell()

    def _do_state(self, message: dict[str, Any]) -> None:
        self.tell()

    def _do_home(self, message: dict[str, Any]) -> None:
        if self.state not in ("unhomed", "ready", "faulted"):
            return self._refuse(message, f"it is {self.state}")
        self._forget()
        self.homed = False
        if "drives asleep" in self.trouble:
            return self.fault("a home switch was not found: the axes do not move, look whether the drives have power")
        switches = np.array([self.world.off("homing") for _ in range(3)])  # no switch closes twice at the same place
        self.missed, self.lag = self.slip - switches, np.zeros(3)
        low = -np.array(self.profile.travel)
        self.at, self.slip = np.clip(self.at + self.missed, low, 0.0), switches  # where it really stands
        self._go([tuple(np.array([self.at[0], self.at[1], 0.0])), (0.0, 0.0, 0.0)], "homing")
        self.state = "moving"

    def _do_fit(self, message: dict[str, Any]) -> None:
        if not self._stands():
            return self._refuse(message, "the spindle must stand and nothing may move")
        tool = tool_of(message)
        if tool["number"] != self.tool["number"]:  # a pin in its place, or the same bit again, is not gripped anew
            self.longer = self.world.off("stickout")
        self.tool = self._bit(tool)
        self.said.append({"say": "fitted", "number": self.tool["number"]})

    def _bit(self, told: dict[str, Any]) -> dict[str, Any]:
        """A tool as it really is: a bit is always otherwise by the same, a pin in its place is as told."""
        which = told["number"]
        bit = dict(told)
        if self.bits.setdefault(which, told["diameter"]) == told["diameter"]:
            bit["diameter"] = max(0.01, told["diameter"] + self.world.always("diameter", which))
        if told["kind"] == "vee":
            bit["angle"] = min(179.0, max(1.0, told["angle"] + self.world.always("angle", which)))
            bit["tip"] = max(0.0, told["tip"] + self.world.always("tip", which))
        return bit

    def _do_lay(self, message: dict[str, Any]) -> None:
        """The operator lays the board elsewhere on the bed: only a simulated machine can be told so. off: by how much it can lie
        otherwise than asked, X, Y and degrees, where something stops it; turned: degrees that it is asked to lie turned by, and about
        which place; still: it is not taken up; fresh: it is another board, not cut yet, that lies where the first one did."""
        if not self._stands():
            return self._refuse(message, "the spindle must stand and nothing may move")
        dx, dy = (number(message, name, -FARTHEST, FARTHEST) for name in ("dx", "dy"))
        things = things_of(message["standing"]) if "standing" in message else None  # what is set about it there
        told = message.get("off", [OFF["place"], OFF["place"], OFF["skew"]])
        if not isinstance(told, list) or len(told) != 3:
            raise BadMessage("how it can lie otherwise is not three numbers")
        most = [number({"off": value}, "off", 0.0, 45.0) for value in told]
        meant = message.get("turned", [0.0, 0.0, 0.0])
        if not isinstance(meant, list) or len(meant) != 3:
            raise BadMessage("by how much it is asked to lie turned is not three numbers")
        degrees, x, y = (number({"turned": value}, "turned", -FARTHEST, FARTHEST) for value in meant)
        if message.get("fresh") is True:
            self._take_another()
        if self.wood is not None:
            self.wood.carry(dx, dy)
            self.wood.meant = (degrees, x, y)
            if message.get("still") is not True:
                self.wood.lie(
                    self.world.off("place", most[0]), self.world.off("place", most[1]), self.world.off("skew", most[2])
                )
        if things is not None:  # clamps are set from the board as it lies
            self.asked_for = things
            self._set_about()
        self.said.append({"say": "laid"})

    def _take_another(self) -> None:
        """Another board, as uncut as the first was and as little quite as planned."""
        self.wood = copy.deepcopy(self.uncut)
        if self.wood is not None:
            sure = self.wood.sure if self.wood.sure is not None else OFF["thickness"]
            self.wood.otherwise(self.world.off("thickness", sure), self.world.off("outline"), self.world.off("outline"))

    def _set_about(self) -> None:
        """What stands about the board stands as it lies."""
        left = [s for s in self.standing if s.name == "a forgotten clamp"]
        if self.wood is not None:
            self.standing = [*(replace(t, corners=self.wood.truly(t.corners)) for t in self.asked_for), *left]
        else:
            self.standing = [*self.asked_for, *left]

    def _do_push(self, message: dict[str, Any]) -> None:
        """The operator turns the board about a place on the bed, and sets what holds it anew: only a simulated machine can be
        told so."""
        if not self._stands():
            return self._refuse(message, "the spindle must stand and nothing may move")
        x, y = (number(message, name, -FARTHEST, FARTHEST) for name in ("x", "y"))
        degrees = number(message, "degrees", -45.0, 45.0)
        if self.wood is not None:
            self.wood.push(x, y, degrees)
            self._set_about()
        self.said.append({"say": "pushed"})

    def _do_sight(self, message: dict[str, Any]) -> None:
        """The operator looks over the point at a mark: how far the mark lies from the tip. x, y: where it is meant to be on
        the bed. Only a simulated machine can be asked."""
        x, y, _ = self.tip()
        eye = number(message, "eye", 0.0, 100.0, 0.0)
        wanted = np.array([number(message, name, -FARTHEST, FARTHEST) for name in ("x", "y")])
        truly = self.wood.seen(wanted) if self.wood is not None else wanted
        noise = [self.world.off("eye", eye) for _ in range(2)]
        off = [truly[0] - x + noise[0], truly[1] - y + noise[1]]
        self.said.append({"say": "sighted", "off": [round(float(v), 4) for v in off]})

    def _do_look(self, message: dict[str, Any]) -> None:
        """The operator looks over the machine, the bed or the plate's circuit: what is not as it should be. Only a simulated
        machine can be asked."""
        at = str(message.get("at", ""))
        there = {
            "spanner on": ("machine", "a spanner hangs on the nut"),
            "hold in the way": ("bed", "a clamp stands on the board that is not in the plan"),
            "shorted plate": ("circuit", "the circuit is closed before anything touches"),
            "dead plate": ("circuit", "the circuit stays open when clip and plate are touched together"),
        }
        things = [words for name, (where, words) in there.items() if name in self.trouble and at in ("", where)]
        self.said.append({"say": "seen", "things": things})

    def _do_mend(self, message: dict[str, Any]) -> None:
        """The operator has put something right. Only a simulated machine can be told so."""
        what = str(message.get("what", ""))
        self.trouble.discard(what)
        if what == "hold in the way":
            self.standing = [s for s in self.standing if s.name != "a forgotten clamp"]
        self.said.append({"say": "mended"})

    def _do_turn(self, message: dict[str, Any]) -> None:
        """The operator turns the board over, or stands it on another face: only a simulated machine can be told so."""
        if not self._stands():
            return self._refuse(message, "the spindle must stand and nothing may move")
        ways = ways_of(message.get("ways"))
        if self.wood is not None:
            self.wood.turn(ways)
        self.said.append({"say": "turned"})

    def _do_calipers(self, message: dict[str, Any]) -> None:
        """The operator measures the board: only a simulated machine can be asked."""
        if self.wood is None or self.state == "moving":
            return self._refuse(message, "there is no wood on its bed" if self.wood is None else "it is moving")
        self.said.append({"say": "measured", "corners": self.wood.corners()})

    def _do_gauge(self, message: dict[str, Any]) -> None:
        """The operator measures the board at a place that is meant: only a simulated machine can be asked."""
        if self.wood is None or self.state == "moving":
            return self._refuse(message, "there is no wood on its bed" if self.wood is None else "it is moving")
        x, y = (number(message, name, -FARTHEST, FARTHEST) for name in ("x", "y"))
        near, about = (number(message, name, 0.0, 100.0) for name in ("near", "about"))
        low, high = self.wood.about(x, y, near, about)
        if low is None:
            return self._refuse(message, "there is no wood at that place")
        self.said.append({"say": "gauged", "low": round(low, 2), "high": round(high, 2)})

    def _do_zero(self, message: dict[str, Any]) -> None:
        """Work zero. While it waits at an M0 the blocks that it holds are read again with it; paused anywhere else a move is
        half done, and a zero is refused."""
        if self.state != "ready" and not (self.state == "paused" and self.waiting):
            return self._refuse(message, "a move is half done" if self.state == "paused" else f"it is {self.state}")
        zero = self.zero.copy()
        for i, axis in enumerate("xyz"):
            if axis in message:
                zero[i] = number(message, axis, -FARTHEST, FARTHEST)
        if self.state == "paused":
            try:
                self.queue, self.expect = self._read_again(zero)
            except BadBlock as error:
                return self._refuse(message, f"with it {error}")
        self.zero = zero
        self.said.append({"say": "set", "do": "zero"})
        if "z" in message and "bump" in self.trouble and self.wood is not None:  # somebody leans on the board
            self.trouble.discard("bump")
            self.wood.knock(*BUMP)
        self.tell()

    def _read_again(self, zero: np.ndarray) -> tuple[deque[tuple[int, Action]], np.ndarray]:
        """The blocks that wait, read with another zero from where it stands, and where they end. Raises BadBlock."""
        queue: deque[tuple[int, Action]] = deque()
        expect = self.at.copy()
        for n, _ in self.queue:
            text, modal = self.words[n]
            action = understand(text, replace(modal), tuple(expect - zero))
            expect = self._ends(action, expect, zero)
            queue.append((n, action))
        return queue, expect

    def _stands(self) -> bool:
        return self.state in ("unhomed", "ready", "faulted") and not self.spindle

    def _do_feed(self, message: dict[str, Any]) -> None:
        self.override = number(message, "percent", 10.0, 200.0) / 100.0
        self.tell()

    def _do_jog(self, message: dict[str, Any]) -> None:
        if self.state != "ready":
            return self._refuse(message, f"it is {self.state}")
        target = self.at.copy()
        for i, axis in enumerate("xyz"):
            if axis in message:
                target[i] = number(message, axis, -FARTHEST, FARTHEST)
        if not self._inside(target):
            return self._refuse(message, "that is past a soft limit")
        high = np.array([self.at[0], self.at[1], max(self.at[2], target[2])])
        over = np.array([target[0], target[1], high[2]])
        self._go([tuple(high), tuple(over), tuple(target)], "jogging")
        self.state = "moving"

    def _do_spindle(self, message: dict[str, Any]) -> None:
        if self.state not in ("ready", "paused"):
            return self._refuse(message, f"it is {self.state}")
        rpm = number(message, "rpm", 0.0, self.profile.rpm[1] + 1)
        if rpm and rpm < self.profile.rpm[0] - 1:
            raise BadMessage(f"the spindle turns from {self.profile.rpm[0]:g} to {self.profile.rpm[1]:g} rpm")
        if rpm and "spanner on" in self.trouble:
            return self.fault("the spindle did not start: a spanner is on its nut")
        self.spindle = rpm
        self.said.append({"say": "set", "do": "spindle"})
        self.tell()

    def _do_touch(self, message: dict[str, Any]) -> None:
        """Go slowly along an axis until a plate closes its circuit, or a pin meets the wood's side; the low end of the travel
        ends it."""
        if self.state != "ready" or self.spindle:
            return self._refuse(message, "it must be ready, with the spindle standing")
        axis = message.get("axis", "z")
        if axis not in ("x", "y", "z"):
            raise BadMessage("its axis is none of x, y, z")
        i = "xyz".index(axis)
        gauge, feed = number(message, "gauge", 0.0, 500.0), number(message, "feed", 0.1, 20_000.0)
        to = max(number(message, "to", -FARTHEST, FARTHEST), -self.profile.travel[i])
        if to > 0.01:
            return self._refuse(message, "that is past a soft limit")
        if axis == "z" and "shorted plate" in self.trouble:
            return self._refuse(message, "the circuit is closed already")
        contact = self._upright_contact(gauge) if i == 2 else self._side_contact(i, to, gauge)
        low, high = min(to, self.at[i]), max(to, self.at[i])
        dead = "dead plate" in self.trouble and i == 2
        self.probe = {
            "contact": contact if contact is not None and low <= contact <= high and not dead else None,
            "axis": axis,
        }
        target = self.at.copy()
        target[i] = self.probe["contact"] if self.probe["contact"] is not None else to
        self._go([tuple(target)], "touching", feed)
        self.state = "moving"

    def _upright_contact(self, gauge: float) -> float:
        """Machine Z at which the tip stands on what lies under it."""
        x, y, _ = self.tip()
        flat = 0.5 * self.tool["diameter"] if self.tool["kind"] in ("flat", "surfacing") else 0.0
        wide = (
            PLATE if gauge >= 1.0 else flat
        )  # a plate lies on the highest place under it, a flat end on that under itself
        surface = (self.wood.highest(x, y, wide) if self.wood is not None else 0.0) + float(self.bed(x, y))
        between = gauge + self.world.always("plate", gauge) if gauge > 0.0 else 0.0
        return float(surface + between - self.profile.nose_at_home + self.tool["length"] + self.longer - self.slip[2])

    def _side_contact(self, i: int, to: float, gauge: float) -> float | None:
        """Machine coordinate of an axis at which a pin, with a plate's wall between, meets the wood's side."""
        x, y, z = self.tip()
        sign = math.copysign(1.0, to - self.at[i])
        lag = -0.5 * BACKLASH * sign if "backlash" in self.trouble else 0.0  # its play is taken up by then
        x, y = (x - self.lag[0] + lag, y) if i == 0 else (x, y - self.lag[1] + lag)
        if self.wood is None or self.wood.z.max() + self.bed(x, y) < z + SIDE_UP and gauge == 0.0:
            return None
        way = (sign, 0.0) if i == 0 else (0.0, sign)
        far = abs(to - self.at[i])
        gone = first_touch(self.wood.sides, float(x), float(y), way, far, self.tool["diameter"] / 2.0 + gauge)
        return None if math.isinf(gone) else float(self.at[i] + sign * gone)

    def _played(self, before: np.ndarray, trace: np.ndarray) -> np.ndarray:
        """How far X and Y stay behind what is counted, place by place: play is taken up before a screw takes the axis along."""
        steps = np.diff(np.vstack([before, trace]), axis=0)
        out = np.zeros((len(trace) + 1, 3))
        out[0] = self.lag
        for k, step in enumerate(steps):
            out[k + 1, :2] = np.clip(out[k, :2] - step[:2], -0.5 * BACKLASH, 0.5 * BACKLASH)
        self.lag = out[-1].copy()
        return out

    def _do_begin(self, message: dict[str, Any]) -> None:
        """A program begins: its blocks are numbered from 1."""
        if self.state != "ready":
            return self._refuse(message, f"it is {self.state}")
        self._forget()
        self.begun = True
        self.said.append({"say": "begun"})

    def _do_block(self, message: dict[str, Any]) -> None:
        n, text = message.get("n"), message.get("text")
        if type(n) is not int or not isinstance(text, str):
            raise BadMessage("a block is a whole number n and a text")
        if not self.begun:
            return self._refuse(message, "no program was begun")
        if self.state not in ("ready", "moving", "paused") or (
            self.state == "moving" and self.moving_kind != "running"
        ):
            return self._refuse(message, f"it is {self.state}")
        if n != self.taken + 1:
            return self._refuse(message, f"block {self.taken + 1} was expected")
        if n - self.done > CREDITS:
            return self._refuse(message, f"more than {CREDITS} blocks in flight")
        if self.end_seen:
            return self._refuse(message, "the program has ended")
        before = replace(self.modal)
        try:
            action = understand(text, self.modal, tuple(self.expect - self.zero))
            self.expect = self._ends(action, self.expect, self.zero)
        except BadBlock as error:
            self.fault(f"block {n}: {error}")
            return None
        self.taken = n
        self.queue.append((n, action))
        self.words[n] = (text, before)
        self.end_seen = self.end_seen or action.kind == "end"
        self.said.append({"say": "taken", "n": n})
        if self.state == "ready":
            self.state, self.moving_kind = "moving", "running"

    def _do_pause(self, message: dict[str, Any]) -> None:
        if self.state == "moving" and self.moving_kind == "running":
            self.braking = True
            self.said.append({"say": "pausing"})
        elif (
            self.state == "ready" and self.begun and self.taken == 0
        ):  # a program whose first block is still on its way
            self.said.append({"say": "pausing"})
            self._paused()
        else:
            self._refuse(message, f"it is {self.state}")

    def _do_resume(self, message: dict[str, Any]) -> None:
        if self.state != "paused":
            return self._refuse(message, f"it is {self.state}")
        self.braking = self.waiting = False
        self.state, self.moving_kind = "moving", "running"
        self.tell()

    def _do_stop(self, message: dict[str, Any]) -> None:
        if "deaf to stop" in self.faults:
            return
        if self.state == "moving":
            self.ending = self.braking = True
        else:
            self._stopped()

    # -- planning -----------------------------------------------------------------------------------------

    def _ends(self, action: Action, expect: np.ndarray, zero: np.ndarray) -> np.ndarray:
        """Where the tip is after an action, machine coordinates. Raises BadBlock where it leaves the travel."""
        for leg in action.legs:
            target = np.array(leg)
            target = np.where(action.axes, target, expect) if action.machine else target + zero
            if not self._inside(target):
                where = ", ".join(f"{a}{v:.2f}" for a, v in zip("XYZ", target))
                raise BadBlock(f"it leaves the travel at machine {where}")
            expect = target
        return expect

    def _inside(self, target: np.ndarray) -> bool:
        low = -np.array(self.profile.travel)
        return bool((target <= 0.01).all() and (target >= low - 0.01).all())

    def _forget(self) -> None:
        self.queue.clear()
        self.words.clear()
        self.begun = False
        self.legs, self.owner = np.zeros((0, 10)), []
        self.walk[:] = 0.0
        self.taken = self.done = 0
        self.expect = self.at.copy()
        self.modal = Modal()
        self.braking = self.ending = self.end_seen = self.waiting = False
        self.dwell_left = 0.0

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

    # -- time ---------------------------------------------------------------------------------------------

    @property
    def hungry(self) -> bool:
        """Whether it would run dry of blocks it has not been sent yet: time then waits for them."""
        return self.moving_kind == "running" and not self.end_seen and self.taken - self.done < CREDITS // 2

    def advance(self, seconds: float) -> float:
        """Let time pass; gives the seconds that passed."""
        if self.state != "moving":
            return 0.0
        if self.moving_kind == "running":
            return self._run(seconds)
        used = self._march(seconds, self.braking)
        if self.state == "moving" and (self.walk[0] >= len(self.legs) or (self.braking and self.walk[2] == 0.0)):
            self._arrived()
        return used

    def _arrived(self) -> None:
        """It stands: where it was to go, or where it was stopped on the way. Nothing that was cut short has been done."""
        kind, self.moving_kind = self.moving_kind, ""
        if self.ending or self.braking:
            self._stopped(told=self.ending)
            return
        self.homed = self.homed or kind == "homing"
        self.state = "ready"
        if kind == "homing":
            self.said.append({"say": "homed", "miss": [round(float(v), 4) for v in self.missed]})
        if kind == "touching" and self.probe is not None:
            if self.probe["contact"] is None:
                self.said.append({"say": "no-contact", "z": float(self.at[2])})
            else:
                noise = self.chance.gauss(0.0, TOUCH_NOISE) if "touch noise" in self.trouble else 0.0
                noise += self.world.off("contact")
                i = "xyz".index(self.probe["axis"])
                if "dirty plate" in self.trouble and i == 2:
                    self.dusty = not self.dusty
                    noise += DUST[self.dusty]
                self.said.append({"say": "touched", "z": float(self.at[i]) + noise, "axis": self.probe["axis"]})
            self.probe = None
        if kind == "jogging":
            self.said.append({"say": "arrived"})
        self.tell()

    def _run(self, seconds: float) -> float:
        passed = 0.0
        while passed < seconds and self.state == "moving":
            if self.braking and self.walk[2] == 0.0:
                self._stopped() if self.ending else self._paused()
                break
            if self.dwell_left > 0:
                step = min(self.dwell_left, seconds - passed)
                self.dwell_left -= step
                self.clock += step
                passed += step
                if self.dwell_left <= 1e-12:
                    self._finish_head()
                continue
            if len(self.legs) == int(self.walk[0]) and not self._next():
                break
            if self.dwell_left > 0:
                continue
            used = self._march(seconds - passed, self.braking)
            passed += used
            self._report_done()
            if used == 0.0 and len(self.legs) > int(self.walk[0]):
                break
        return passed

    def _next(self) -> bool:
        """Take what stands at the head of the queue: words at once, moves as legs. False when there is nothing."""
        self._report_done()
        if not self.queue:
            return False
        n, action = self.queue[0]
        if action.kind == "legs":
            self._load_legs()
            return True
        if action.kind == "dwell" and action.value > 0:
            self.dwell_left = action.value
            return True
        if action.kind == "wait":
            self._finish_head()
            self.waiting = True
            self._paused()
            return False
        if action.kind == "spindle":
            if action.value and not self.profile.rpm[0] - 1 <= action.value <= self.profile.rpm[1] + 1:
                self.fault(f"block {n}: the spindle does not turn at {action.value:.0f}")
                return False
            self.spindle = action.value
        if action.kind == "tool" and int(action.value) != int(self.tool["number"]):
            self.fault(f"block {n}: tool {int(action.value)} is asked for, tool {int(self.tool['number'])} is fitted")
            return False
        self._finish_head()
        if action.kind == "end":
            self.spindle = 0.0
            self.state, self.moving_kind, self.begun = "ready", "", False
            self.said.append({"say": "ended"})
            self.tell()
            return False
        return True

    def _finish_head(self) -> None:
        n, _ = self.queue.popleft()
        self.words.pop(n, None)
        self.done = n
        self.said.append({"say": "done", "n": n})
        if self.trouble and n >= TROUBLE:
            self._goes_wrong()

    def _goes_wrong(self) -> None:
        """What befalls a program that is well under way."""
        if "missed steps" in self.trouble:
            self.trouble.discard("missed steps")
            self.slip[0] += MISSED
        if "tool slips" in self.trouble:
            self.trouble.discard("tool slips")
            self.longer += SLIPPED
        if "power loss" in self.trouble:
            self.trouble.discard("power loss")
            self.cut_power()

    def cut_power(self) -> None:
        """The mains fail and come back: it stands, knows its place no longer, and nothing starts by itself."""
        done = self.done
        self._forget()
        self.done = done
        self.spindle, self.homed = 0.0, False
        self.slip = self.slip + self.at  # what it counts from now on is nought where it stands
        self.at = np.zeros(3)
        self.expect = self.at.copy()
        self.state, self.moving_kind, self.dark = "unhomed", "", True

    def _load_legs(self) -> None:
        """Legs of all moves that stand in the queue before its next word."""
        self.loaded_to = 0
        rows, self.owner = self._legs_after(self.at.copy())
        self.legs = np.array(rows).reshape(-1, 10)
        self.walk[0], self.walk[1] = 0.0, 0.0
        if not rows:
            while self.queue and self.queue[0][0] <= self.loaded_to:
                self._finish_head()

    def _legs_after(self, here: np.ndarray) -> tuple[list[list[float]], list[int]]:
        """Legs of the moves after what is loaded, up to the next word, and the block that each belongs to."""
        rows: list[list[float]] = []
        owner: list[int] = []
        for n, action in self.queue:
            if n <= self.loaded_to or action.kind == "nothing":
                continue
            if action.kind != "legs":
                break
            for leg in action.legs:
                target = np.where(action.axes, np.array(leg), here) if action.machine else np.array(leg) + self.zero
                row = self._leg(here, target, action.rapid, action.feed)
                if row is not None:
                    rows.append(row)
                    owner.append(n)
                    here = target
            self.loaded_to = n
        return rows, owner

    def _extend(self) -> None:
        """Take moves that arrived since into the legs, so that the look-ahead sees them."""
        at = int(self.walk[0])
        if not self.owner or self.queue[-1][0] == self.loaded_to:
            return
        rows, owner = self._legs_after(self.legs[-1, :3] + self.legs[-1, 3:6] * self.legs[-1, 6])
        if rows:
            self.legs = np.vstack([self.legs[at:], np.array(rows)])
            self.owner = self.owner[at:] + owner
            self.walk[0] = 0.0

    def _report_done(self) -> None:
        """Blocks whose last leg lies behind are done."""
        at = int(self.walk[0])
        current = self.owner[at] if at < len(self.owner) else math.inf
        while self.queue and self.queue[0][1].kind in ("legs", "nothing") and self.queue[0][0] < current:
            n, action = self.queue[0]
            if action.kind == "legs" and (not self.owner or n > self.loaded_to):
                break
            if action.kind == "nothing" and at < len(self.owner) and n > current:
                break
            self._finish_head()
        if at >= len(self.owner):
            self.legs, self.owner = np.zeros((0, 10)), []
            self.walk[0], self.walk[1] = 0.0, 0.0

    def _march(self, seconds: float, braking: bool) -> float:
        if self.moving_kind == "running" and self.queue:
            self._extend()
        ticks = max(1, math.ceil(seconds / TICK - 1e-9))
        trace = np.empty((ticks, 4))
        before = self.at.copy()
        used, _ = march(self.legs, self.walk, self.override, braking, TICK, ticks, float(self.profile.deviation), trace)
        if used:
            self.at = trace[used - 1, :3].copy()
            self.clock += used * TICK
            played = self._played(before, trace[:used, :3]) if "backlash" in self.trouble else None
            self._cut(np.vstack([before, trace[:used, :3]]), played)
        return float(used * TICK)

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
        parts = [
            ("cutter", t["diameter"] / 2.0, 0.0, edge),
            ("nut", self.profile.nut[0] / 2.0, long, long + self.profile.nut[1]),
        ]
        if edge < long:
            parts.append(("shank", t.get("shank", t["diameter"]) / 2.0, edge, long))
        if self.profile.shoe[0] > 0.0:
            low = long + self.profile.shoe[1]
            parts.append(("shoe", self.profile.shoe[0] / 2.0, low, low + self.profile.shoe[2]))
        return parts

    def _bumps(self, places: np.ndarray, played: np.ndarray | None) -> bool:
        """Whether the tool meets something that stands there: it stops at the spot and says what it is."""
        if not self.standing:
            return False
        path = self._tips(places, played)
        hit = first_hit(path, self._parts(), self.standing)
        if hit is None:
            return False
        at, part, thing = hit
        self.at = places[at].copy()
        x, y, _ = path[at]
        self.fault(f"the {part} ran into {thing.name}, its {thing.part}, at X {x:.1f}, Y {y:.1f} on the bed")
        return True

    def _cut(self, places: np.ndarray, played: np.ndarray | None = None) -> None:
        if self._bumps(places, played) or self.wood is None or self.moving_kind == "touching":
            return
        path = self._tips(places, played)
        over = self.bed(path[:, 0], path[:, 1])
        path = np.column_stack([self.wood.asked(path[:, :2]), path[:, 2] - over])
        if path[:, 2].min() > self.wood.z.max():
            return
        t = self.tool
        slope = 1.0 / math.tan(math.radians(t["angle"] / 2.0)) if t["kind"] == "vee" else 1.0
        wide = (
            t["diameter"] / 2.0 if self.spindle else max(0.0, t["diameter"] / 2.0 - self.wood.cell)
        )  # a side felt is not run into
        shape = (KINDS[t["kind"]], wide, slope, t["tip"] / 2.0)
        path = thinned(path, 0.5 * self.wood.cell)
        z = self.wood.z if self.spindle else self.wood.z.copy()
        worst = stamp(z, self.wood.x0, self.wood.y0, self.wood.cell, path, *shape)
        if worst > 0.05 and not self.spindle:
            self.fault("the tool ran into the wood with the spindle standing")

    # -- ends ---------------------------------------------------------------------------------------------

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
                "spindle": self.spindle, "feed": round(self.override * 100), "clock": round(self.clock, 3),
                "taken": self.taken, "done": self.done, "reason": self.reason if self.state == "faulted" else "",
            }
        )  # fmt: skip
