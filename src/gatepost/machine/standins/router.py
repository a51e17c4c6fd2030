# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated router: axes, spindle, limits, plate and wood, driven by messages and by ticks of its own clock."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from gatepost.machine.standins import by_keys, contacts, hands, lifting, sending
from gatepost.machine.standins.contacts import bumps, with_backlash
from gatepost.machine.standins.messages import (
    CREDITS,
    DUST,
    FARTHEST,
    TICK,
    TOUCH_NOISE,
    BadMessage,
    ground,
    number,
)
from gatepost.machine.standins.motion import march, stamp, thinned
from gatepost.machine.standins.sending import extend, finish_head, next_block, report_done
from gatepost.machine.standins.state import RouterState

ACTS = {
    "fit": hands.fit,
    "lay": hands.lay,
    "push": hands.push,
    "sight": hands.sight,
    "look": hands.look,
    "mend": hands.mend,
    "turn": hands.turn,
    "take-up": hands.take_up,
    "calipers": hands.calipers,
    "gauge": hands.gauge,
    "creep": by_keys.creep,
    "lift": lifting.lift,
    "lower": lifting.lower,
    "rpm": lifting.turn_faster,
    "touch": contacts.touch,
    "zero": sending.set_zero,
    "begin": sending.begin,
    "block": sending.block,
    "pause": sending.pause,
    "resume": sending.resume,
    "stop": sending.stop,
}


@dataclass
class Router(RouterState):
    """The machine. ``hear`` takes a message, ``advance`` lets time pass; both append to ``said``."""

    def hear(self, message: dict[str, Any]) -> None:
        """Take one message. A refusal is said, and changes nothing."""
        do = message.get("do", "")
        known = isinstance(do, str) and do.isascii()
        act = ACTS.get(do) or getattr(type(self), "_do_" + do.replace("-", "_"), None) if known else None
        if act is None:
            self._refuse(message, "not a message that this machine knows")
            return
        try:
            act(self, message)
        except BadMessage as error:
            self._refuse(message, str(error))

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

    @property
    def hungry(self) -> bool:
        """Whether it would run dry of blocks it has not been sent yet: time then waits for them."""
        return self.moving_kind == "running" and not self.end_seen and self.taken - self.done < CREDITS // 2

    @property
    def fed_for(self) -> float:
        """Seconds that what it has been sent lasts at the least, while more is to come: hurried time takes no more than a part of it at once."""
        if self.moving_kind != "running" or self.end_seen or not len(self.legs):
            return math.inf
        left = self.legs[int(self.walk[0]) :]
        return float((left[:, 6] / left[:, 7]).sum())

    def advance(self, seconds: float) -> float:
        """Let time pass; gives the seconds that passed."""
        if self.state != "moving":
            return 0.0
        if self.moving_kind == "running":
            return self._run(seconds)
        if self.moving_kind == "creeping":
            by_keys.unheard_for(self, seconds)
        if self.dwell_left > 0:  # the spindle comes up to speed before the bit goes down
            step = min(self.dwell_left, seconds)
            self.dwell_left -= step
            self.clock += step
            if self.braking:
                self._arrived()
            return step
        used = self._march(seconds, self.braking)
        if self.state == "moving" and (self.walk[0] >= len(self.legs) or (self.braking and self.walk[2] == 0.0)):
            self._arrived()
        return used

    def _arrived(self) -> None:
        """It stands: where it was to go, or where it was stopped on the way. Nothing that was cut short has been done."""
        kind, self.moving_kind = self.moving_kind, ""
        if kind == "creeping" and not self.ending:
            return by_keys.stands(self)
        if kind in ("lifting", "lowering") and not self.ending and not self.braking:
            return lifting.there(self, kind)
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
                    finish_head(self)
                continue
            if len(self.legs) == int(self.walk[0]) and not next_block(self):
                break
            if self.dwell_left > 0:
                continue
            used = self._march(seconds - passed, self.braking)
            passed += used
            report_done(self)
            if used == 0.0 and len(self.legs) > int(self.walk[0]):
                break
        return passed

    def _march(self, seconds: float, braking: bool) -> float:
        if self.moving_kind == "running" and self.queue:
            extend(self)
        ticks = max(1, math.ceil(seconds / TICK - 1e-9))
        trace = np.empty((ticks, 4))
        before = self.at.copy()
        used, _ = march(self.legs, self.walk, self.override, braking, TICK, ticks, float(self.profile.deviation), trace)
        if used:
            self.at = trace[used - 1, :3].copy()
            self.clock += used * TICK
            played = with_backlash(self, before, trace[:used, :3]) if "backlash" in self.trouble else None
            self._cut(np.vstack([before, trace[:used, :3]]), played)
        return float(used * TICK)

    def _cut(self, places: np.ndarray, played: np.ndarray | None = None) -> None:
        if bumps(self, places, played) or self.moving_kind == "touching":
            return
        path = self._tips(places, played)
        over = self.bed(path[:, 0], path[:, 1])
        self.holes.follow(np.column_stack([path[:, :2], path[:, 2] - over]), self.wood)
        if self.wood is None:
            return
        low = path[path[:, 2] - over < self.wood.z.max()]
        if not self.spindle and len(low) and self.hole_about(low[:, :2]) is not None:
            return
        path = np.column_stack([self.wood.asked(path[:, :2]), path[:, 2] - over])
        if path[:, 2].min() > self.wood.z.max():
            return
        t = self.tool
        flat, rounded, slope, wide = ground(t)
        if not self.spindle:  # a side felt is not run into
            wide = max(0.0, wide - self.wood.cell)
        shape = (flat, rounded, slope, wide)
        path = thinned(path, 0.5 * self.wood.cell)
        z = self.wood.z if self.spindle else self.wood.z.copy()
        worst = stamp(z, self.wood.x0, self.wood.y0, self.wood.cell, path, *shape)
        if worst > 0.05 and not self.spindle:
            self.fault("the tool ran into the wood with the spindle standing")
