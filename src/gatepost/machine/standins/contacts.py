# SPDX-License-Identifier: GPL-3.0-or-later
"""What the tip meets: plates, edges, the bed, and what stands in its way."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from gatepost.machine.standins.bench import first_hit, first_touch
from gatepost.machine.standins.messages import BACKLASH, FARTHEST, PLATE, SIDE_UP, BadMessage, number
from gatepost.machine.standins.state import RouterState


def touch(m: RouterState, message: dict[str, Any]) -> None:
    """Go slowly along an axis until a plate closes its circuit, or a pin meets the wood's side; the low end of the travel
    ends it."""
    if m.state != "ready" or m.spindle:
        return m._refuse(message, "it must be ready, with the spindle standing")
    axis = message.get("axis", "z")
    if axis not in ("x", "y", "z"):
        raise BadMessage("its axis is none of x, y, z")
    i = "xyz".index(axis)
    gauge, feed = number(message, "gauge", 0.0, 500.0), number(message, "feed", 0.1, 20_000.0)
    to = max(number(message, "to", -FARTHEST, FARTHEST), -m.profile.travel[i])
    if to > 0.01:
        return m._refuse(message, "that is past a soft limit")
    if axis == "z" and "shorted plate" in m.trouble:
        return m._refuse(message, "the circuit is closed already")
    contact = upright_contact(m, gauge) if i == 2 else side_contact(m, i, to, gauge)
    low, high = min(to, m.at[i]), max(to, m.at[i])
    dead = "dead plate" in m.trouble and i == 2
    m.probe = {
        "contact": contact if contact is not None and low <= contact <= high and not dead else None,
        "axis": axis,
    }
    target = m.at.copy()
    target[i] = m.probe["contact"] if m.probe["contact"] is not None else to
    m._go([tuple(target)], "touching", feed)
    m.state = "moving"


def upright_contact(m: RouterState, gauge: float) -> float:
    """Machine Z at which the tip stands on what lies under it."""
    x, y, _ = m.tip()
    flat = 0.5 * m.tool["diameter"] if m.tool["kind"] in ("flat", "surfacing") else 0.0
    wide = (
        PLATE if gauge >= 1.0 else flat
    )  # a plate lies on the highest place under it, a flat end on that under itself
    surface = (m.wood.highest(x, y, wide) if m.wood is not None else 0.0) + float(m.bed(x, y))
    between = gauge + m.world.always("plate", gauge) if gauge > 0.0 else 0.0
    return float(surface + between - m.profile.nose_at_home + m.tool["length"] + m.longer - m.slip[2])


def side_contact(m: RouterState, i: int, to: float, gauge: float) -> float | None:
    """Machine coordinate of an axis at which a pin, with a plate's wall between, meets the wood's side."""
    x, y, z = m.tip()
    sign = math.copysign(1.0, to - m.at[i])
    lag = -0.5 * BACKLASH * sign if "backlash" in m.trouble else 0.0  # its play is taken up by then
    x, y = (x - m.lag[0] + lag, y) if i == 0 else (x, y - m.lag[1] + lag)
    if m.wood is None or m.wood.z.max() + m.bed(x, y) < z + SIDE_UP and gauge == 0.0:
        return None
    way = (sign, 0.0) if i == 0 else (0.0, sign)
    within = m.hole_about(np.array([[x, y]]))
    if within is not None:  # against its wall, from inside
        middle, across = within
        beside, ahead = (middle[1 - i] - (x, y)[1 - i], sign * (middle[i] - (x, y)[i]))
        room = 0.5 * (across - m.tool["diameter"])
        return float(m.at[i] + sign * (ahead + math.sqrt(max(room * room - beside * beside, 0.0))))
    far = abs(to - m.at[i])
    gone = first_touch(m.wood.sides, float(x), float(y), way, far, m.tool["diameter"] / 2.0 + gauge)
    return None if math.isinf(gone) else float(m.at[i] + sign * gone)


def with_backlash(m: RouterState, before: np.ndarray, trace: np.ndarray) -> np.ndarray:
    """How far X and Y stay behind what is counted, place by place: play is taken up before a screw takes the axis along."""
    steps = np.diff(np.vstack([before, trace]), axis=0)
    out = np.zeros((len(trace) + 1, 3))
    out[0] = m.lag
    for k, step in enumerate(steps):
        out[k + 1, :2] = np.clip(out[k, :2] - step[:2], -0.5 * BACKLASH, 0.5 * BACKLASH)
    m.lag = out[-1].copy()
    return out


def bumps(m: RouterState, places: np.ndarray, played: np.ndarray | None) -> bool:
    """Whether the tool meets something that stands there: it stops at the spot and says what it is."""
    if not m.standing:
        return False
    path = m._tips(places, played)
    hit = first_hit(path, m._parts(), m.standing)
    if hit is None:
        return False
    at, part, thing = hit
    m.at = places[at].copy()
    x, y, _ = path[at]
    m.fault(f"the {part} ran into {thing.name}, its {thing.part}, at X {x:.1f}, Y {y:.1f} on the bed")
    return True
