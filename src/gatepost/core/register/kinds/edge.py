# SPDX-License-Identifier: GPL-3.0-or-later
"""The piece is laid against an edge that was milled true at this machine, and against a stop at its end."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from datetime import date

import shapely

from gatepost.core.findings import Figure, Finding, Fix, Level, Place
from gatepost.core.frames import Bed, BlankFrame, Matrix
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.machine import Fence
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.register import AgainstEdge
from gatepost.core.register.kind import STAGE, Bounds, Coming, ComingTold, RegisterKind
from gatepost.core.register.longest import longest_edge
from gatepost.core.register.marks import MOST_TURN
from gatepost.core.tolerances import AT_A_STOP, REGISTERED
from gatepost.core.units import mm
from gatepost.core.working import Named, working

TOUCHES = 0.3  # mm within which an edge is meant to lie against a fence, or off it by its blocks
ASKEW = 0.02  # degrees under which an edge lies along a fence
ENOUGH = 20.0  # mm of an edge along a fence, at the least
LONGER = 1.25  # times what lies along the edge, that another has at least to be spoken of
CLEAR = 3.0  # mm of wood that stays beside a fence that is to stay
SQUARE = 0.2  # sine of the angle by which a stop may be off square to the fence


class KnownEdgeKind(RegisterKind):
    """Against a known edge."""

    figures, one, alone, by_machine = AgainstEdge, "against a known edge", True, True
    zero = "set by a known edge"
    laying = "Brush the edge clean and lay the board against it and against its stop, its corner at {where}."
    entries = (
        KindEntry("The edge, by its name", "words", "fence"), KindEntry("The stop at its end", "words", "stop"), KindEntry("Off both by blocks of", "length", "block"),
    )  # fmt: skip

    def told(self, coming: Coming) -> ComingTold:
        """Whether both are there, true, and lain against; by how much the board may lie otherwise."""
        comes, name = coming.setup.comes, coming.setup.id
        assert isinstance(comes, AgainstEdge)
        there = {f.name: f for f in coming.job.machine.bed.fences}
        edge, stop = there.get(comes.fence), there.get(comes.stop)
        if edge is None or stop is None:
            return ComingTold(findings=(_missing(coming, comes, edge, stop),))
        if abs(math.cos(math.radians(edge.heading - stop.heading))) > SQUARE:
            message = f"{edge.name} and {stop.name} do not stand square to each other: one finds a line, the other must find the place along it."
            return ComingTold(findings=(Finding("register.edge-one-way", Level.STOP, STAGE, message, name),))
        said = [*_true(coming, edge), *_true(coming, stop)]
        lain = {f.name: _along(coming, f, comes.block, coming.now) for f in (edge, stop)}
        for fence in (edge, stop):
            along, off = lain[fence.name]
            if abs(off) > TOUCHES or along < (ENOUGH if fence is edge else 0.0):
                turned = _longest(coming, edge, stop, lain) if fence is edge else []
                return ComingTold(findings=(*said, _away(coming, fence, lain[fence.name], turned)))
        said += _longest(coming, edge, stop, lain) + _stays(coming, edge, stop)
        figures, more = _good_to(coming, edge, stop, lain[edge.name][0])
        return ComingTold(tuple(figures), (*more, *said, *_other_edge(coming, comes, (edge, stop))))

    def bounds(self, job: Job, setup: Setup) -> Bounds | None:
        """As a chip or a bruise keeps an edge off."""
        comes = setup.comes
        if not isinstance(comes, AgainstEdge) or comes.fence not in {f.name for f in job.machine.bed.fences}:
            return None
        long = max(min(max(job.blank.across), 2000.0), ENOUGH)
        return Bounds(AT_A_STOP, AT_A_STOP, math.degrees(AT_A_STOP / long), f"against {comes.fence}")


def _missing(coming: Coming, comes: AgainstEdge, edge: Fence | None, stop: Fence | None) -> Finding:
    names = [f.name for f in coming.job.machine.bed.fences]
    which = comes.fence if edge is None else comes.stop
    message = f"{coming.name} is laid against an edge and a stop, and {f'“{which}”' if which else 'one of them'} is not on this bed. {'On it are ' + ', '.join(names) + '.' if names else 'Add fences on the Hold page.'}"
    fixes: tuple[Fix, ...] = ()
    if edge is None and stop is None and len(names) > 1:
        fixes = (
            Fix(
                "set register",
                {"setup": coming.setup.id, "kind": "edge", "fence": names[0], "stop": names[1], "block": comes.block},
                f"{names[0]}, with {names[1]} as its stop",
            ),
        )
    return Finding("register.edge-none", Level.STOP, STAGE, message, coming.setup.id, fixes=fixes)


def _true(coming: Coming, fence: Fence) -> list[Finding]:
    """Whether it was milled true here, since the bed was skimmed and the gantry squared last."""
    name, machine = coming.setup.id, coming.job.machine
    milled, skimmed, squared = (_day(d) for d in (fence.milled, machine.bed.skimmed, machine.squared))
    if milled is None:
        message = f"Nobody has written down when {fence.name} was milled true at this machine: until it is, it is as straight as it was bought. Mill it in place, and enter the day."
        return [Finding("register.edge-not-milled", Level.CARE, STAGE, message, name, about=fence.name)]
    for day, what in ((skimmed, "the bed was skimmed"), (squared, "the gantry was squared")):
        if day is not None and day > milled:
            message = f"{fence.name} was milled true on {fence.milled}, and {what} after that, on {day.isoformat()}: mill it again."
            return [Finding("register.edge-lapsed", Level.CARE, STAGE, message, name, about=fence.name)]
    return []


def _day(words: str) -> date | None:
    try:
        return date.fromisoformat(words.strip()[:10])
    except ValueError:
        return None


def _along(coming: Coming, fence: Fence, block: float, lay: Matrix[BlankFrame, Bed]) -> tuple[float, float]:
    """How much of the board's edge lies along a fence, off it by a block, less than nothing where none of it does; and how far the board is from that."""
    if coming.outline is None:
        return -1.0, 0.0
    board = lay.area(coming.outline)
    n = _inwards(fence)
    line = shapely.affinity.translate(shapely.LineString(fence.ends), block * n[0], block * n[1])
    along = board.exterior.intersection(line.buffer(TOUCHES, cap_style="flat"))
    corners = shapely.get_coordinates(board)
    least = float(((corners - shapely.get_coordinates(line)[0]) @ n).min())
    return max(float(along.length) - 2.0 * TOUCHES, 0.0) if along.length else -1.0, least


def _inwards(fence: Fence) -> tuple[float, float]:
    """The side on which the work lies: on its left."""
    turn = math.radians(fence.heading)
    return -math.sin(turn), math.cos(turn)


def _away(coming: Coming, fence: Fence, lain: tuple[float, float], turned: Sequence[Finding]) -> Finding:
    """The board lies not along a fence. lain: how much of it does, and how far it is from that; turned: what there is to say of another edge of it."""
    setup, n = coming.setup, _inwards(fence)
    along, off = lain
    block = getattr(setup.comes, "block", 0.0)
    message = f"The board is drawn {mm(abs(off), 2)} {'off' if off > 0 else 'into'} {fence.name}{' and its blocks' if block else ''}: it is to lie against it."
    if abs(off) <= TOUCHES:
        message = f"{mm(max(along, 0.0))} of the board's edge lie along {fence.name}: {mm(ENOUGH)} at least find how it is turned."
    if abs(off) <= TOUCHES and along < 0.0:
        message = f"{fence.name} stands beside the board's edge, and touches it nowhere: lay the board along it."
    fix = Fix(
        "place blank",
        {"setup": setup.id, "x": setup.x - off * n[0], "y": setup.y - off * n[1]},
        f"Lay it against {fence.name}",
    )
    return Finding(
        "register.edge-away",
        Level.STOP,
        STAGE,
        message,
        setup.id,
        fixes=(*(f for told in turned for f in told.fixes), *((fix,) if abs(off) > TOUCHES else ())),
        place=Place(fence.x, fence.y),
        about=fence.name,
    )


def _longest(coming: Coming, edge: Fence, stop: Fence, lain: Mapping[str, tuple[float, float]]) -> list[Finding]:
    """Whether a longer edge of the board could lie along the edge, or more of it lies along the stop."""
    setup, comes, along = coming.setup, coming.setup.comes, lain[edge.name][0]
    assert isinstance(comes, AgainstEdge)
    if coming.outline is None or (coming.before is not setup and isinstance(coming.before.comes, AgainstEdge)):
        return []  # the same edges lie there again
    best = longest_edge(coming.now.area(coming.outline), edge.heading, TOUCHES, edge.length)
    if lain[stop.name][0] > LONGER * along and (best is None or lain[stop.name][0] >= best.long):
        message = f"{mm(lain[stop.name][0])} of the board lie along {stop.name}, and {mm(along)} along {edge.name}: the longer one finds its turn more surely."
        values = {"setup": setup.id, **dict(comes), "fence": stop.name, "stop": edge.name}
        fix = Fix("set register", values, f"{stop.name}, with {edge.name} as its stop")
        return [Finding("register.edge-longer", Level.NOTE, STAGE, message, setup.id, fixes=(fix,), about=edge.name)]
    if best is None or best.long <= LONGER * along:
        return []
    square = 90.0 * round(best.turn / 90.0)
    left = best.turn - square
    fixes: tuple[Fix, ...] = ()
    if abs(left) > ASKEW and abs(setup.skew + left) <= MOST_TURN:
        skew = round(setup.skew + left, 4) + 0.0
        fixes = (
            Fix("set skew", {"setup": setup.id, "degrees": skew}, f"Turn it by {abs(left):.2f}°, programs and all"),
        )
    elif abs(left) <= ASKEW and square:
        spin = round(setup.spin + square) % 360
        fixes = (Fix("set setup", {"setup": setup.id, "spin": spin}, f"Turn it by {abs(square):.0f}° on the bed"),)
    message = f"The board has a straight edge of which {mm(best.long)} could lie along {edge.name}, and {mm(along)} do: laid by that it is found more surely."
    return [Finding("register.edge-longer", Level.NOTE, STAGE, message, setup.id, fixes=fixes, about=edge.name)]


def _stays(coming: Coming, edge: Fence, stop: Fence) -> list[Finding]:
    """Whether both may stay on the bed for the next job."""
    for fence in (edge, stop):
        (x0, y0), (x1, y1) = fence.ends
        steps = max(math.ceil(fence.length / CLEAR), 1)
        for n in range(steps + 1):
            x, y = x0 + n / steps * (x1 - x0), y0 + n / steps * (y1 - y0)
            if coming.cut_here(x, y, CLEAR):
                message = f"Something is cut away within {mm(CLEAR)} of {fence.name}: once a cutter nicks it, it is no edge to lay by any more. Lay the board off it by blocks."
                return [Finding("register.edge-nicked", Level.CARE, STAGE, message, coming.setup.id, place=Place(x, y), about=fence.name)]  # fmt: skip
    message = f"{edge.name} and {stop.name} may stay for the next job: nothing is cut deep within {mm(CLEAR)} of them here. They come off when the bed is skimmed, and are milled anew after it."
    return [Finding("register.edge-stays", Level.NOTE, STAGE, message, coming.setup.id)]


def _good_to(coming: Coming, edge: Fence, stop: Fence, long: float) -> tuple[list[Figure], list[Finding]]:
    name = coming.setup.id
    if not len(coming.cut):
        return [], []
    from_edge = max(
        float(
            abs((coming.cut[:, 0] - edge.x) * _inwards(edge)[0] + (coming.cut[:, 1] - edge.y) * _inwards(edge)[1]).max()
        ),
        0.0,
    )
    along = max(
        float(
            abs((coming.cut[:, 0] - stop.x) * _inwards(stop)[0] + (coming.cut[:, 1] - stop.y) * _inwards(stop)[1]).max()
        ),
        0.0,
    )
    times = 2.0 if coming.twice else 1.0
    sum_ = working(
        f"{'2 * ' if coming.twice else ''}(chip * sqrt(2) + chip * far / long)", Named("chip", AT_A_STOP), Named("far", math.hypot(from_edge, along)), Named("long", long), shop_rule=True,
        assumption="a chip under the edge and one at the stop; at one end of the edge alone they turn it" + ("; both faces were laid so" if coming.twice else ""),
    )  # fmt: skip
    figures = [Figure("Against its edge, at worst", sum_.result, "length", sum_, 2, setup=name)]
    allowed = REGISTERED[coming.job.tolerance]
    if sum_.result <= allowed * times:
        message = f"Against {edge.name} nothing cut here lies more than {mm(sum_.result, 2)} beside its place."
        return figures, [Finding("register.edge-good", Level.OK, STAGE, message, name, sum_)]
    message = f"Against {edge.name} what is cut may lie {mm(sum_.result, 2)} beside its place, where it is farthest from the stop; {mm(allowed * times, 2)} suits this job. A longer edge, a clean one, or pins."
    return figures, [Finding("register.edge-loose", Level.CARE, STAGE, message, name, sum_)]


def _other_edge(coming: Coming, comes: AgainstEdge, fences: tuple[Fence, Fence]) -> list[Finding]:
    """Whether the same edges of the board lay there before."""
    before = coming.before.comes
    if coming.before is coming.setup or not isinstance(before, AgainstEdge) or coming.outline is None:
        return []
    was, now = coming.was, coming.now
    moved = []
    for fence in fences:
        n = _inwards(fence)
        faces = []
        for lay in (was, now):
            (a, b, _, _), (c, d, _, _), _z = lay.rows
            faces.append(
                (round(-(a * n[0] + c * n[1]), 3), round(-(b * n[0] + d * n[1]), 3))
            )  # which way of the blank looks at it
        if math.dist(faces[0], faces[1]) > 0.1:
            moved.append(fence.name)
    if not moved:
        return []
    message = f"Against {' and '.join(moved)} lies another edge of the board than before: what it is otherwise long or wide than measured comes in between the faces. Turn it about the other axis, or use pins."
    return [Finding("register.edge-other", Level.CARE, STAGE, message, coming.setup.id)]
