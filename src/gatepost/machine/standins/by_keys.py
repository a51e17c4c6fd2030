# SPDX-License-Identifier: GPL-3.0-or-later
"""Jogged for as long as somebody keeps a key down: speeds that are told again and again, and a machine that ends it by itself."""

from __future__ import annotations

from typing import Any

import numpy as np

from gatepost.machine.standins.messages import LAPSE, number
from gatepost.machine.standins.state import RouterState

FASTEST = 20_000.0  # mm/min that may be asked for
AT_END = 1e-6  # mm


def creep(m: RouterState, message: dict[str, Any]) -> None:
    """Go at speeds along X, Y and Z until it is told otherwise, or nothing is told for LAPSE. n counts the presses of a key: words
    that come late, of a press that has ended, move nothing. No speed at all ends it."""
    n = int(number(message, "n", 1, 2**53 - 1))
    rates = np.array([number(message, axis, -FASTEST, FASTEST, 0.0) for axis in "xyz"])
    going = m.state == "moving" and m.moving_kind == "creeping"
    if n < m.hold or (n == m.hold and not going):
        return m._refuse(message, "that press has ended")
    if not going and m.state != "ready":
        return m._refuse(message, f"it is {m.state}")
    if m.spindle:
        return m._refuse(message, "the spindle is turning")
    if going and n != m.hold:
        return m._refuse(message, "another press goes on")
    m.hold, m.unheard = n, 0.0
    other = not np.allclose(rates, m.rates)
    m.rates = rates
    if going and other:
        m.braking = True  # it stands first, then goes the other way
    elif not going and not go(m):
        m.said.append({"say": "arrived"})
        m.tell()
    return None


def go(m: RouterState) -> bool:
    """Set off at the speeds asked for, to the end of the travel at most, along it where one axis is there already. Gives whether anything moves."""
    low = -np.array(m.profile.travel)
    at_end = ((m.rates > 0.0) & (m.at >= -AT_END)) | ((m.rates < 0.0) & (m.at <= low + AT_END))
    rates = np.where(at_end, 0.0, m.rates)
    speed = float(np.linalg.norm(rates))
    if speed == 0.0:
        m.rates = rates
        return False
    room = np.where(rates > 0.0, -m.at, m.at - low)
    seconds = min(room[i] / abs(rates[i]) for i in range(3) if rates[i])
    m._go([tuple(np.clip(m.at + rates * seconds, low, 0.0))], "creeping", speed)
    m.state = "moving"
    return True


def unheard_for(m: RouterState, seconds: float) -> None:
    """Time passes without a word."""
    m.unheard += seconds
    if m.unheard > LAPSE:
        m.rates = np.zeros(3)
        m.braking = True


def stands(m: RouterState) -> None:
    """It has come to a stand: another way is gone if one was asked for meanwhile, else the jog has ended."""
    m.braking = False
    if m.rates.any() and go(m):
        return
    m.state, m.rates = "ready", np.zeros(3)
    m.said.append({"say": "arrived"})
    m.tell()
