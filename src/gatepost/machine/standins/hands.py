# SPDX-License-Identifier: GPL-3.0-or-later
"""What the hands of an operator do: fit a bit, lay, turn and push the board, look at it, measure it, put things right."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from gatepost.machine.standins.messages import FARTHEST, BadMessage, number, things_of, tool_of, ways_of
from gatepost.machine.standins.state import RouterState
from gatepost.machine.standins.world import OFF

MOST_PINS, MOST_SEATS, MOST_IN_IT = 12, 400, 400


def fit(m: RouterState, message: dict[str, Any]) -> None:
    if not m._stands():
        return m._refuse(message, "the spindle must stand and nothing may move")
    tool = tool_of(message)
    if tool["number"] != m.tool["number"]:  # a pin in its place, or the same bit again, is not gripped anew
        m.longer = m.world.off("stickout")
    m.tool = m._bit(tool)
    m.said.append({"say": "fitted", "number": m.tool["number"]})


def lay(m: RouterState, message: dict[str, Any]) -> None:
    """The operator lays the board elsewhere on the bed: only a simulated machine can be told so. off: by how much it can lie
    otherwise than asked, X, Y and degrees, where something stops it; turned: degrees that it is asked to lie turned by, and about
    which place; pins: where on the bed it is laid on pins, and by how much their holes are wider; still: it is not taken up; fresh: it is another board, not cut yet, that lies where the first one did."""
    if not m._stands():
        return m._refuse(message, "the spindle must stand and nothing may move")
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
    if m.wood is None:
        m.wood, m.aside = m.aside, None
    if message.get("fresh") is True:
        m._take_another()
    if m.wood is not None:
        m.wood.carry(dx, dy)
        m.wood.meant = (degrees, x, y)
        pins, play, were, seats = _pins(message)
        if message.get("still") is not True and not (
            len(pins) and m.holes.seat(m.wood, m.world, pins, play, were, seats)
        ):
            m.wood.lie(m.world.off("place", most[0]), m.world.off("place", most[1]), m.world.off("skew", most[2]))
    m.in_it = _holes(message)
    if things is not None:  # clamps are set from the board as it lies
        m.asked_for = things
        set_about(m)
    m.said.append({"say": "laid"})


def _pins(message: dict[str, Any]) -> tuple[np.ndarray, float, np.ndarray, np.ndarray]:
    """Where it is laid on pins, (n, 2), how much wider their holes are; of a frame the corners of its slot where it was cut and the middle, and ways in which
    it lies there, (n, 3)."""
    pins, were = _places(message, "pins"), _places(message, "were")
    seats = _rows(
        message, "seats", 3, MOST_SEATS, 45.0, "how it may lie in its frame is not a list of turns and shifts"
    )
    return pins, number(message, "play", 0.0, 10.0, 0.0), were, seats if len(were) == 3 else seats[:0]


def _holes(message: dict[str, Any]) -> np.ndarray:
    """Holes that are in the board already, (n, 3): where each is meant to be on the bed, and its diameter."""
    return _rows(message, "holes", 3, MOST_IN_IT, FARTHEST, "the holes that are in it are not places with diameters")


def _rows(message: dict[str, Any], name: str, size: int, most: int, farthest: float, wrong: str) -> np.ndarray:
    """Rows of so many numbers, (n, size). most: rows; farthest: of a number from 0; wrong: what is said of anything else."""
    told = message.get(name, [])
    if not isinstance(told, list) or len(told) > most or not all(isinstance(r, list) and len(r) == size for r in told):
        raise BadMessage(wrong)
    return np.array([[number({"at": v}, "at", -farthest, farthest) for v in r] for r in told]).reshape(-1, size)


def _places(message: dict[str, Any], name: str) -> np.ndarray:
    return _rows(message, name, 2, MOST_PINS, FARTHEST, f"{name} is not a list of places")


def set_about(m: RouterState) -> None:
    """What stands about the board stands as it lies."""
    left = [s for s in m.standing if s.name == "a forgotten clamp"]
    if m.wood is not None:
        m.standing = [*(replace(t, corners=m.wood.truly(t.corners)) for t in m.asked_for), *left]
    else:
        m.standing = [*m.asked_for, *left]


def push(m: RouterState, message: dict[str, Any]) -> None:
    """The operator turns the board about a place on the bed, and sets what holds it anew: only a simulated machine can be
    told so."""
    if not m._stands():
        return m._refuse(message, "the spindle must stand and nothing may move")
    x, y = (number(message, name, -FARTHEST, FARTHEST) for name in ("x", "y"))
    degrees = number(message, "degrees", -45.0, 45.0)
    if m.wood is not None:
        m.wood.push(x, y, degrees)
        set_about(m)
    m.said.append({"say": "pushed"})


def sight(m: RouterState, message: dict[str, Any]) -> None:
    """The operator looks over the point at a mark: how far the mark lies from the tip. x, y: where it is meant to be on
    the bed. Only a simulated machine can be asked."""
    x, y, _ = m.tip()
    eye = number(message, "eye", 0.0, 100.0, 0.0)
    wanted = np.array([number(message, name, -FARTHEST, FARTHEST) for name in ("x", "y")])
    truly = m.wood.seen(wanted) if m.wood is not None else wanted
    noise = [m.world.off("eye", eye) for _ in range(2)]
    off = [truly[0] - x + noise[0], truly[1] - y + noise[1]]
    m.said.append({"say": "sighted", "off": [round(float(v), 4) for v in off]})


def look(m: RouterState, message: dict[str, Any]) -> None:
    """The operator looks over the machine, the bed or the plate's circuit: what is not as it should be. Only a simulated
    machine can be asked."""
    at = str(message.get("at", ""))
    there = {
        "spanner on": ("machine", "a spanner hangs on the nut"),
        "hold in the way": ("bed", "a clamp stands on the board that is not in the plan"),
        "shorted plate": ("circuit", "the circuit is closed before anything touches"),
        "dead plate": ("circuit", "the circuit stays open when clip and plate are touched together"),
    }
    things = [words for name, (where, words) in there.items() if name in m.trouble and at in ("", where)]
    m.said.append({"say": "seen", "things": things})


def mend(m: RouterState, message: dict[str, Any]) -> None:
    """The operator has put something right. Only a simulated machine can be told so."""
    what = str(message.get("what", ""))
    m.trouble.discard(what)
    if what == "hold in the way":
        m.standing = [s for s in m.standing if s.name != "a forgotten clamp"]
    m.said.append({"say": "mended"})


def take_up(m: RouterState, message: dict[str, Any]) -> None:
    """The operator takes the board off the bed and puts it aside, until it is laid again: only a simulated machine can be told so."""
    if not m._stands():
        return m._refuse(message, "the spindle must stand and nothing may move")
    if m.wood is not None:
        m.aside, m.wood = m.wood, None
    m.said.append({"say": "taken-up"})


def turn(m: RouterState, message: dict[str, Any]) -> None:
    """The operator turns the board over, or stands it on another face: only a simulated machine can be told so."""
    if not m._stands():
        return m._refuse(message, "the spindle must stand and nothing may move")
    ways = ways_of(message.get("ways"))
    board = m.wood if m.wood is not None else m.aside
    if board is not None:
        board.turn(ways)
    m.said.append({"say": "turned"})


def calipers(m: RouterState, message: dict[str, Any]) -> None:
    """The operator measures the board: only a simulated machine can be asked."""
    if m.wood is None or m.state == "moving":
        return m._refuse(message, "there is no wood on its bed" if m.wood is None else "it is moving")
    m.said.append({"say": "measured", "corners": m.wood.corners()})


def gauge(m: RouterState, message: dict[str, Any]) -> None:
    """The operator measures the board at a place that is meant: only a simulated machine can be asked."""
    if m.wood is None or m.state == "moving":
        return m._refuse(message, "there is no wood on its bed" if m.wood is None else "it is moving")
    x, y = (number(message, name, -FARTHEST, FARTHEST) for name in ("x", "y"))
    near, about = (number(message, name, 0.0, 100.0) for name in ("near", "about"))
    low, high, deep = m.wood.about(x, y, near, about)
    if low is None:
        return m._refuse(message, "there is no wood at that place")
    m.said.append({"say": "gauged", "low": round(low, 2), "high": round(high, 2), "deep": round(deep, 2)})
