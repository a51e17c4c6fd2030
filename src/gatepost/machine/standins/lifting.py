# SPDX-License-Identifier: GPL-3.0-or-later
"""Lifted out of the wood in the middle of a program, and brought down into the same place again; the spindle's speed changed as it turns."""

from __future__ import annotations

from typing import Any

import numpy as np

from gatepost.machine.standins.messages import FARTHEST, number
from gatepost.machine.standins.state import RouterState

LONGEST_WAIT = 60.0  # s for a spindle to come up to speed


def lift(m: RouterState, message: dict[str, Any]) -> None:
    """Straight up out of the wood, as far as it goes, then the spindle ends. What was half done is kept."""
    if m.state != "paused":
        return m._refuse(message, f"it is {m.state}")
    if m.waiting:
        return m._refuse(message, "it waits at a stop of its program")
    m.kept = (m.legs, m.owner, m.walk.copy(), m.expect.copy(), m.begun, m.at.copy(), m.spindle, m.dwell_left)
    m.dwell_left = 0.0
    m._go([(float(m.at[0]), float(m.at[1]), 0.0)], "lifting")
    m.state = "moving"


def lower(m: RouterState, message: dict[str, Any]) -> None:
    """The spindle up to the speed that it had, then down into the place that was left: quickly to a height, and from there at a feed.

    to: machine Z down to which nothing is in the way; feed: mm/min below that; wait: s for the spindle."""
    if m.state != "lifted" or m.kept is None:
        return m._refuse(message, f"it is {m.state}")
    to, feed = number(message, "to", -FARTHEST, 0.0), number(message, "feed", 1.0, FARTHEST)
    wait = number(message, "wait", 0.0, LONGEST_WAIT)
    place, m.spindle = m.kept[5], m.kept[6]
    high = np.array([place[0], place[1], max(float(place[2]), min(to, float(m.at[2])))])
    m._go([tuple(high)], "lowering")
    row = m._leg(high, place, False, feed)
    if row is not None:
        m.legs = np.vstack([m.legs, np.array([row])])
    m.dwell_left = wait
    m.state = "moving"
    m.tell()
    return None


def there(m: RouterState, kind: str) -> None:
    """Up, or down again: the program is as it was."""
    assert m.kept is not None
    if kind == "lifting":
        m.spindle = 0.0
        m.state = "lifted"
        m.said.append({"say": "lifted"})
    else:
        m.legs, m.owner, m.walk, m.expect, m.begun, _, _, m.dwell_left = m.kept
        m.kept = None
        m.state = "paused"
        m.said.append({"say": "lowered"})
    m.tell()


def turn_faster(m: RouterState, message: dict[str, Any]) -> None:
    """The spindle at a share of what programs ask for, within what it can."""
    m.speed = number(message, "percent", 50.0, 150.0) / 100.0
    if m.spindle and m.programmed:
        m.spindle = m.at_speed(m.programmed)
    m.tell()
