# SPDX-License-Identifier: GPL-3.0-or-later
"""Touching off at the machine, way by way: what moves, what is read, and the sums that make a zero of it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from gatepost.core.errors import OperatorError
from gatepost.core.job.model import Setup
from gatepost.core.job.tool import Tool
from gatepost.core.units import mm
from gatepost.core.zero import ways
from gatepost.core.zero.ways import FoundZero
from gatepost.machine.session import Session

QUICK, SLOW = 120.0, 30.0  # mm/min
BACK = 2.0  # mm between the quick touch and the slow one
PAST = 2.0  # mm past where a hole's wall is meant to be that a pin goes on
SIGHTS = 4  # looks over a point until it stands
STANDS = 0.01  # mm


class Touching(Protocol):
    """What touching wants of a machine."""

    def jog(self, **to: float) -> None: ...

    def touch(self, to: float, feed: float, gauge: float, axis: str = "z") -> float: ...

    def sight(self, x: float, y: float, eye: float) -> tuple[float, float]: ...


def by_eye(machine: Touching, want: tuple[float, float], bed: tuple[float, float], eye: float) -> list[FoundZero]:
    """The point is brought over the mark until it stands there. want: machine coordinates where the mark is meant to be;
    bed: the same on the bed."""
    x, y = want
    machine.jog(x=x, y=y, z=0.0)
    for _ in range(SIGHTS):
        dx, dy = machine.sight(*bed, eye)
        if abs(dx) <= STANDS and abs(dy) <= STANDS:
            break
        x, y = x + dx, y + dy
        machine.jog(x=x, y=y)
        if eye > 0.0:
            break  # no eye sees better than it does
    return [FoundZero(axis, value, 0.0, ways.z_zero(value, "nothing", 0.0)) for axis, value in (("x", x), ("y", y))]


def as_it_stands(machine: Session) -> list[FoundZero]:
    """X0 and Y0 where somebody has brought the tip by hand."""
    machine.look()
    x, y, _ = machine.last["machine"]
    return [FoundZero(a, float(v), 0.0, ways.z_zero(float(v), "nothing", 0.0)) for a, v in (("x", x), ("y", y))]


def one_edge(machine: Touching, edge: ways.EdgeTouch, travel: tuple[float, float]) -> tuple[float, float]:
    """Touch an edge twice, quick then slow; gives the second contact and the spread. travel: of X and Y, mm."""
    i = 0 if edge.axis == "x" else 1
    if not -travel[i] <= edge.start <= 0.0 or not -travel[1 - i] <= edge.along <= 0.0:
        raise OperatorError(
            f"There is no room beside the {edge.axis.upper()} edge for a pin: it would leave the travel. Lay the blank elsewhere, or "
            "take a corner on the other side."
        )
    here = {edge.axis: edge.start, ("y" if edge.axis == "x" else "x"): edge.along}
    machine.jog(**here, z=0.0)
    machine.jog(z=min(0.0, edge.z))
    first = machine.touch(edge.to, QUICK, edge.gauge, edge.axis)
    way = 1.0 if edge.to > edge.start else -1.0
    machine.jog(**{edge.axis: first - way * BACK})
    second = machine.touch(edge.to, SLOW, edge.gauge, edge.axis)
    machine.jog(**{edge.axis: edge.start})
    machine.jog(z=0.0)
    return second, abs(second - first)


def in_hole(
    machine: Touching, at: tuple[float, float], across: float, pin: float, z: float
) -> tuple[tuple[float, float], float, float]:
    """A pin down into a hole and against its wall on four sides, each quick, then slow: its middle, how wide it is, and the larger spread. at: machine coordinates that
    the pin is brought over; z: of its tip in the hole."""
    room = 0.5 * (across - pin)
    here = {"x": at[0], "y": at[1]}
    machine.jog(**here, z=0.0)
    machine.jog(z=z)
    middles, wide, spread = [], [], 0.0
    for axis in ("x", "y"):
        walls = []
        for way in (-1.0, 1.0):
            to = here[axis] + way * (room + PAST)
            first = machine.touch(to, QUICK, 0.0, axis)
            machine.jog(**{axis: first - way * min(BACK, room)})
            walls.append(machine.touch(to, SLOW, 0.0, axis))
            spread = max(spread, abs(walls[-1] - first))
            machine.jog(**{axis: here[axis]})
        middles.append(0.5 * (walls[0] + walls[1]))
        wide.append(walls[1] - walls[0] + pin)
        machine.jog(**{axis: middles[-1]})
        here[axis] = middles[-1]
    machine.jog(z=0.0)
    return (middles[0], middles[1]), max(wide), spread


def by_edges(
    machine: Touching, edges: Sequence[ways.EdgeTouch], diameter: float, travel: tuple[float, float]
) -> list[FoundZero]:
    """X0 and Y0 from edges: a corner's two, or the middles of opposite pairs."""
    out: list[FoundZero] = []
    for axis in ("x", "y"):
        mine = [e for e in edges if e.axis == axis]
        contacts, spreads = zip(*(one_edge(machine, e, travel) for e in mine))
        out.append(found_from(axis, mine, contacts, diameter, max(spreads)))
    return out


def found_from(
    axis: str, edges: Sequence[ways.EdgeTouch], contacts: Sequence[float], diameter: float, spread: float
) -> FoundZero:
    """A zero from an axis' contacts, however they were read."""
    if len(edges) == 1:
        sum_ = ways.edge(contacts[0], diameter, edges[0].side, edges[0].gauge)
        return FoundZero(axis, sum_.result, spread, sum_, tuple(contacts))
    low = next(c for e, c in zip(edges, contacts) if e.side == "low")
    high = next(c for e, c in zip(edges, contacts) if e.side == "high")
    sum_ = ways.middle(low, high)
    return FoundZero(axis, sum_.result, spread, sum_, tuple(contacts), ways.size_between(low, high, diameter).result)


def upright(
    machine: Touching, x: float, y: float, z: float, gauge: str, thickness: float, deeper: float = 15.0
) -> FoundZero:
    """Z0 through a plate or a paper, touched quick, then slow. x, y, z: machine coordinates where the contact is meant."""
    machine.jog(x=x, y=y, z=min(0.0, z + 8.0))
    first = machine.touch(z - deeper, QUICK, thickness)
    machine.jog(z=min(0.0, first + BACK))
    second = machine.touch(z - deeper, SLOW, thickness)
    sum_ = ways.z_zero(second, gauge, thickness)
    machine.jog(z=0.0)
    return FoundZero("z", sum_.result, abs(first - second), sum_, (first, second))


def skewed(machine: Touching, edges: Sequence[ways.EdgeTouch], travel: tuple[float, float]) -> tuple[ways.Skew, float]:
    """How a board lies by two touches of one edge, and how far the touches scatter."""
    one, two = edges
    (first, near), (second, far) = (one_edge(machine, e, travel) for e in (one, two))
    apart = two.along - one.along
    return ways.skew(one.axis, first, second, apart, apart), max(near, far)


def pin_of(setup: Setup, tool: Tool) -> float:
    """Diameter of what touches an edge: of the pin, or of the cutter itself."""
    return tool.diameter if setup.zero.xy_way == "cutter" else setup.zero.pin


def size_off(found: Sequence[FoundZero], length: float, width: float, allowed: float) -> str:
    """What a pair of edges says of the blank's size where it is not what was measured; nothing where it is."""
    for one, size, name in zip(found, (length, width), ("long", "wide")):
        if one.size is not None and abs(one.size - size) > allowed:
            off = one.size - size
            return (
                f"Between its edges the blank is {mm(one.size, 2)} {name}; {mm(size, 2)} was entered, {mm(abs(off), 2)} {'less' if off > 0 else 'more'}. "
                "Measure it again; if it is right, the axis has play or has lost steps: home it and touch both edges again."
            )
    return ""
