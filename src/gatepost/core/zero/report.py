# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Zero stage says."""

from __future__ import annotations

import math
from collections.abc import Callable

from gatepost.core.findings import Figure, Finding, Fix, Level, Place, Report, gate_of
from gatepost.core.tolerances import RESERVE
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working
from gatepost.core.zero.adviser import best, xy_table, z_table
from gatepost.core.zero.datum import OutOfTravel
from gatepost.core.zero.inputs import Zeroed
from gatepost.core.zero.told import depth_table, length_table, more_figures
from gatepost.core.zero.trust import Axis, Trust
from gatepost.core.zero.ways import fits_way, z_zero

STAGE = "zero"


WAY_WORDS = {
    "pointer": "by eye with a point", "pin": "edges touched with a pin", "cutter": "edges touched with the cutter",
    "corner plate": "with a corner plate",
}  # fmt: skip
SEEN = 0.25  # of a margin by which an eye sees that it is uneven
STALE = 12  # months after which a plate's thickness is asked about


def report(z: Zeroed) -> Report:
    """Figures and findings of one setup's zeros."""
    findings = (
        _place_findings(z)
        + ([] if z.found else _edge_findings(z))
        + _reach_findings(z)
        + _travel_findings(z)
        + ([] if z.found else _way_findings(z))
        + _budget_findings(z)
    )
    where = z.setup.zero.xy if z.setup.zero.xy != "mark" else "a mark"
    figures = (
        _across_figure("X0 on the machine", z.mark[0], z.machine.travel_x),
        _across_figure("Y0 on the machine", z.mark[1], z.machine.travel_y),
        _z_figure(z),
        Figure("Z0 above the bed", z.zero_height, places=2),
        Figure("X0 Y0 good to", z.budget.cut.good.result, working=z.budget.cut.good, places=2),
        Figure("X0 Y0 at worst", z.budget.cut.worst.result, working=z.budget.cut.worst, places=2),
        Figure("Z0 good to", z.budget.deep.good.result, working=z.budget.deep.good, places=2),
        Figure("Z0 at worst", z.budget.deep.worst.result, working=z.budget.deep.worst, places=2),
        *more_figures(z),
        *(_trust_figure(name, axis) for name, axis in (("X", z.axes.x), ("Y", z.axes.y), ("Z", z.axes.z))),
    )
    how = z.found or f"at {where}, {WAY_WORDS[z.setup.zero.xy_way]}"
    fact = f"{where}, Z on {z.setup.zero.z}"
    tables = (xy_table(z.spots), z_table(z.upright), *length_table(z), *depth_table(z))
    return Report(
        STAGE, fact, f"X0 Y0 {how}; Z0 on the {z.setup.zero.z}", figures, tuple(findings),
        gate_of(tuple(findings)), tables,
    )  # fmt: skip


def _across_figure(label: str, mark: float, travel: float) -> Figure:
    """A zero's machine coordinate: home is at the far end of the travel."""
    sum_ = working("mark - travel", Named("mark", mark), Named("travel", travel))
    return Figure(label, sum_.result, working=sum_, places=2)


def _z_figure(z: Zeroed) -> Figure:
    contact = z.expected.z + z.setup.zero.gauge_thickness
    sum_ = z_zero(contact, z.setup.zero.gauge, z.setup.zero.gauge_thickness)
    return Figure("Z0 on the machine, first tool", sum_.result, working=sum_, places=2)


def _trust_figure(name: str, axis: Axis) -> Figure:
    level = {Trust.TRUSTED: Level.OK, Trust.PROVISIONAL: Level.CARE, Trust.LOST: Level.NOTE}[axis.trust]
    return Figure(f"{name} is", f"{axis.trust.value}: {axis.why}", "words", level=level)


def _place_findings(z: Zeroed) -> list[Finding]:
    name = z.setup.name
    said: list[Finding] = []
    if z.covered_touch:
        message = f"{z.covered_touch} covers the place where Z is touched. Choose a place clear of holds."
        said.append(Finding("zero.touch-covered", Level.STOP, STAGE, message, name, place=Place(*z.touch)))
    if z.covered_mark:
        message = f"{z.covered_mark} covers the X0 Y0 mark: the tip can't be brought over it."
        said.append(Finding("zero.mark-covered", Level.STOP, STAGE, message, name, place=Place(*z.mark)))
    if z.setup.zero.z == "top" and not z.touch_on_board:
        fix = Fix("set zero", {"setup": name, "touch_x": None, "touch_y": None}, "Touch at the X0 Y0 mark")
        message = "Z0 is on the top, and the touch place is not on the board."
        said.append(
            Finding("zero.touch-off-board", Level.STOP, STAGE, message, name, fixes=(fix,), place=Place(*z.touch))
        )
    if z.setup.zero.z == "bed" and z.touch_on_board:
        message = "Z0 is on the bed, and the touch place is under the board. Choose one on the open spoilboard."
        fix = Fix("set zero", {"setup": name, "touch_x": None, "touch_y": None}, "Touch beside the board")
        said.append(
            Finding("zero.touch-on-board", Level.STOP, STAGE, message, name, fixes=(fix,), place=Place(*z.touch))
        )
    if not said:
        message = "Mark and touch place can be reached and no hold covers them."
        said.append(Finding("zero.in-reach", Level.OK, STAGE, message, name))
    return said


def _way_findings(z: Zeroed) -> list[Finding]:
    """Whether the way can find the place, whether what is touched with is known, and what else the adviser says."""
    name, zero = z.setup.name, z.setup.zero
    said: list[Finding] = []
    why = fits_way(z.setup)
    if why:
        fix = Fix("set zero", {"setup": name, "xy_way": "pointer"}, "Set it by eye")
        said.append(Finding("zero.way", Level.STOP, STAGE, why, name, fixes=(fix,)))
    if zero.gauge != "paper" and zero.gauge_thickness <= 0.0:
        message = f"The {zero.gauge} has no thickness yet: Z0 would be wrong by all of it. Measure it."
        said.append(Finding("zero.no-thickness", Level.STOP, STAGE, message, name))
    if zero.later == "sensor" and z.machine.sensor is None:
        message = "Later tools are to touch the machine's sensor, and its profile has none."
        fix = Fix("set zero", {"setup": name, "later": "touch"}, "Touch each off on the work")
        said.append(Finding("zero.no-sensor", Level.STOP, STAGE, message, name, fixes=(fix,)))
    if zero.gauge_name and _months(zero.gauge_checked, z.now) > STALE:
        when = f"was last checked on {zero.gauge_checked}" if zero.gauge_checked else "was never checked"
        message = f"{zero.gauge_name} {when}: measure its thickness again."
        said.append(Finding("zero.gauge-unchecked", Level.NOTE, STAGE, message, name))
    chosen, least = next((s for s in z.spots if s.chosen), None), best(z.spots)
    if chosen is not None and not chosen.stays:
        message = f"The cutting takes X0 Y0 at the {chosen.name} away: it can't be looked at again afterwards. "
        message += (
            f"Least is against the {least.name}." if least.name != chosen.name else "Note a witness mark elsewhere."
        )
        said.append(Finding("zero.cut-away", Level.NOTE, STAGE, message, name, place=Place(*z.mark)))
    if chosen is not None and not chosen.wood and zero.xy_way != "pointer":
        message = f"There is no wood at the {chosen.name} to touch: the outline does not come so far. Choose another place, or set it by eye."
        said.append(Finding("zero.no-edge", Level.STOP, STAGE, message, name, place=Place(*z.mark)))
    return said


THIN, THICK = {"plate": 1.0, "corner plate": 1.0, "paper": 0.02}, {"plate": 60.0, "corner plate": 60.0, "paper": 0.6}


def _edge_findings(z: Zeroed) -> list[Finding]:
    """Whether edges can be touched where they are, and whether what touches them can give what it claims."""
    name, zero, said = z.setup.name, z.setup.zero, []
    pin = Fix("set zero", {"setup": name, "xy_way": "pin"}, "Touch them with a pin")
    eye = Fix("set zero", {"setup": name, "xy_way": "pointer"}, "Set it by eye")
    for e in z.edges:
        x, y = (e.start, e.along) if e.axis == "x" else (e.along, e.start)
        if not (0.0 <= x <= z.machine.travel_x and 0.0 <= y <= z.machine.travel_y):
            message = f"There is no room beside the board's {e.axis.upper()} edge for what touches it: at X {mm(x, 2)}, Y {mm(y, 2)} it would leave the travel. Lay the board elsewhere, or take a corner on the other side."
            said.append(
                Finding(
                    "zero.no-room",
                    Level.STOP,
                    STAGE,
                    message,
                    name,
                    fixes=(eye,),
                    place=Place(x, y),
                    about=e.axis + e.side,
                )
            )
    if zero.xy_way == "cutter" and z.first is not None and z.first.kind not in ("flat", "surfacing"):
        what = {
            "vee": "A V-bit meets an edge somewhere up its cone",
            "ball": "A ball meets an edge somewhere up its round",
        }.get(z.first.kind, "A drill's point meets an edge somewhere up its cone")
        message = f"{what}, so half its diameter is not what lies between: it can be millimetres off. Touch with a smooth pin, or a straight cutter."
        said.append(
            Finding("zero.not-straight", Level.STOP, STAGE, message, name, fixes=(pin,), about=f"T{z.first.number}")
        )
    if z.edges and not z.straight:
        message = "The board has no straight edges: touched a little way along, they say nothing of its corner or its middle. Rule a mark, and set it by eye."
        said.append(Finding("zero.live-edge", Level.STOP, STAGE, message, name, fixes=(eye,)))
    if zero.xy_way == "corner plate" and z.setup.skew:
        message = f"A corner plate lies along the board's edges, which lie turned by {z.setup.skew:g}°: touched along X and Y it gives a corner that is not the board's. Touch with a pin."
        said.append(Finding("zero.plate-askew", Level.STOP, STAGE, message, name, fixes=(pin,)))
    thick = zero.gauge_thickness
    if thick > 0.0 and not THIN[zero.gauge] <= thick <= THICK[zero.gauge]:
        message = f"The {zero.gauge} is entered as {mm(thick, 2)} thick. Is that so? Whatever it is wrong by, Z0 is wrong by too."
        said.append(Finding("zero.odd-thickness", Level.CARE, STAGE, message, name))
    return said


def _months(then: str, now: str) -> float:
    """Months between two dates, ISO; very many where there is none before."""
    try:
        (y0, m0), (y1, m1) = ((int(v) for v in date.split("-")[:2]) for date in (then, now))
    except ValueError:
        return 0.0 if not now else 1e9
    return (y1 - y0) * 12 + (m1 - m0)


def _budget_findings(z: Zeroed) -> list[Finding]:
    """Whether what the zeros may be off by is seen: against the margin about the lettering, and against the class."""
    said: list[Finding] = []
    name = z.setup.name
    words = {"edge": "Lay it square by two touches of its edge", "line": "Lay it square by a line ruled along it"}

    def ways(mends: Callable[[float, float], bool]) -> tuple[Fix, ...]:
        return tuple(
            Fix("set zero", {"setup": name, "square": way}, words[way])
            for way, cut, hold in z.squares
            if mends(cut, hold)
        )

    across = z.budget.cut.good
    if across.result > SEEN * z.margin > 0.0:
        askew = _share(across, "askew") > 0.5 * across.result
        message = (
            f"{z.lying[:1].upper()}{z.lying[1:]}, the farthest cut can be off by {mm(across.result, 2)}, more than a quarter of the margin of {mm(z.margin, 2)}: "
            f"that can be seen. {'Lay the board square.' if askew else 'Touch edges rather than look, or measure the blank better.'}"
        )
        said.append(
            Finding(
                "zero.budget",
                Level.CARE,
                STAGE,
                message,
                name,
                across,
                ways(lambda cut, hold: cut <= SEEN * z.margin) if askew else (),
            )
        )
    if z.beside is not None and z.beside.result > z.kept:
        message = (
            f"{z.lying[:1].upper()}{z.lying[1:]}, the board may lie so far askew that what is set from it stands up to {mm(z.beside.result, 2)} from where it was "
            f"judged; {mm(z.kept, 2)} is kept clear. Lay it square, or keep more clear."
        )
        said.append(
            Finding("zero.askew", Level.CARE, STAGE, message, name, z.beside, ways(lambda cut, hold: hold <= z.kept))
        )
    upright = z.budget.upright.good
    if upright.result > z.allowed > 0.0:
        message = f"Z0 is good to {mm(upright.result, 2)}; the quality wanted allows {mm(z.allowed, 2)}. Touch twice with a plate."
        said.append(Finding("zero.budget-z", Level.CARE, STAGE, message, name, upright))
    return said


def _share(sum_: Working, name: str) -> float:
    return next((v.value for v in sum_.values if v.name == name), 0.0)


def _reach_findings(z: Zeroed) -> list[Finding]:
    """Tools whose tip does not come down to where they are to touch, with a reserve for how far they really stick out."""
    m, said = z.machine, []
    for tool, height in z.touched:
        short = working(
            "nose - travel + reserve - sticks_out - height", Named("nose", m.nose_at_home), Named("travel", m.travel_z), Named("reserve", RESERVE),
            Named("sticks_out", tool.length), Named("height", height),
        )  # fmt: skip
        if short.result <= 1e-9:
            continue
        longer = math.ceil((tool.length + short.result) * 10.0 - 1e-6) / 10.0
        message = f"T{tool.number} sticks {mm(tool.length, 2)} out and does not come down to where it is to touch: {mm(short.result, 2)} short, {mm(RESERVE, 2)} kept in reserve."
        fix = Fix("set tool", {"number": tool.number, "length": longer}, f"Grip it so that {mm(longer, 2)} stick out")
        said.append(
            Finding(
                "zero.touch-reach", Level.STOP, STAGE, message, z.setup.name, short, (fix,), about=f"T{tool.number}"
            )
        )
    return said


def _travel_findings(z: Zeroed) -> list[Finding]:
    name = z.setup.name
    if not z.misfits:
        message = f"Every move fits the travel of {mm(z.machine.travel_x, 2)} × {mm(z.machine.travel_y, 2)} × {mm(z.machine.travel_z, 2)}."
        return [Finding("zero.fits", Level.OK, STAGE, message, name)]
    worst: dict[str, tuple[str, OutOfTravel]] = {}
    for program, misfit in z.misfits:
        if misfit.axis not in worst or misfit.by > worst[misfit.axis][1].by:
            worst[misfit.axis] = (program, misfit)
    return [_travel_finding(z, program, misfit) for program, misfit in worst.values()]


WAYS = {
    ("X", "far end"): "right", ("X", "home end"): "left", ("Y", "far end"): "back", ("Y", "home end"): "forward",
}  # fmt: skip


def _out_of_nut(z: Zeroed, program: str, misfit: OutOfTravel) -> tuple[tuple[Fix, ...], str]:
    """How a tool is gripped otherwise where the travel up or down does not do: too low is too short a tool, too high too long a one."""
    words = (
        " Choose a longer tool, or let it stick out farther."
        if misfit.end == "far end"
        else " Choose a shorter tool, or grip it deeper."
    )
    tool = next((t for t, _ in z.touched if f"-T{t.number}." in program), None)
    if tool is None:
        return (), words
    length = tool.length + (misfit.by if misfit.end == "far end" else -misfit.by)
    if length < tool.cutting_length + tool.runout or tool.overall and tool.overall - length < 0.0:
        return (), words
    return (
        Fix("set tool", {"number": tool.number, "length": length}, f"Grip it so that {mm(length, 2)} stick out"),
    ), words


def _travel_finding(z: Zeroed, program: str, misfit: OutOfTravel) -> Finding:
    message = f"{program} leaves the travel on {misfit.axis} by {mm(misfit.by, 2)} at the {misfit.end}, {mm(RESERVE, 2)} kept in reserve."
    fixes: tuple[Fix, ...] = ()
    if misfit.axis in "XY":
        shift = -misfit.by if misfit.end == "home end" else misfit.by
        x, y = {"X": (z.setup.x + shift, z.setup.y), "Y": (z.setup.x, z.setup.y + shift)}[misfit.axis]
        way = WAYS[misfit.axis, misfit.end]
        fixes = (
            Fix(
                "place blank",
                {"setup": z.setup.name, "x": x, "y": y},
                f"Lay the board {mm(misfit.by, 2)} further {way}",
            ),
        )
    else:
        fixes, words = _out_of_nut(z, program, misfit)
        message += words
    return Finding("zero.travel", Level.STOP, STAGE, message, z.setup.name, misfit.working, fixes, about=misfit.axis)
