# SPDX-License-Identifier: GPL-3.0-or-later
"""What a message may say: its figures within bounds, its tool, the things that stand on the bed."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from gatepost.machine.standins.bench import BedThing, standing_of

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
LAPSE = 0.2  # s after the last word of whoever jogs by hand until the machine ends it by itself
FARTHEST = 10_000.0  # mm that a message may say
MOST_STANDING, MOST_CORNERS = 400, 4000  # things on the bed, and corners of one
KINDS = ("flat", "ball", "tapered_ball", "vee", "rounded_vee", "bull", "surfacing", "drill")
CONES = ("tapered_ball", "vee", "rounded_vee")  # kinds that are nothing without an angle
UPRIGHT = 1e9  # a slope that no cone has


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
    cone = told["kind"] in CONES
    tool: dict[str, Any] = {
        "number": int(number(told, "number", 0, 99_999)), "kind": told["kind"],
        "diameter": number(told, "diameter", 0.01, 500.0), "angle": number(told, "angle", 1.0 if cone else 0.0, 179.0 if cone else 360.0),
        "tip": number(told, "tip", 0.0, 500.0), "length": number(told, "length", 0.1, 1000.0),
    }  # fmt: skip
    tool["radius"] = number(told, "radius", 0.0, 250.0, 0.0)
    tool["shank"] = number(told, "shank", 0.01, 500.0, tool["diameter"])
    tool["edge"] = min(number(told, "edge", 0.0, 1000.0, tool["length"]), tool["length"])
    return tool


def ground(tool: dict[str, Any]) -> tuple[float, float, float, float]:
    """How a tool is ground: radius of its level tip, of the round beside that, slope of the cone beyond, radius of all of it."""
    kind, wide, rounded = tool["kind"], tool["diameter"] / 2.0, min(tool.get("radius", 0.0), tool["diameter"] / 2.0)
    slope = 1.0 / math.tan(math.radians(tool["angle"] / 2.0)) if 0.0 < tool["angle"] < 180.0 else UPRIGHT
    if kind == "ball":
        return 0.0, wide, UPRIGHT, wide
    if kind == "bull":
        return wide - rounded, rounded, UPRIGHT, wide
    if kind in ("tapered_ball", "rounded_vee"):
        return 0.0, rounded, slope, wide
    if kind == "vee":
        return min(tool["tip"] / 2.0, wide), 0.0, slope, wide
    if kind == "drill" and slope < UPRIGHT:
        return 0.0, 0.0, slope, wide
    return wide, 0.0, UPRIGHT, wide


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
