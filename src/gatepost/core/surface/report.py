# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Surface stage says."""

from __future__ import annotations

import math

from gatepost.core.findings import Figure, Finding, Fix, Gate, Level, Report, gate_of
from gatepost.core.job.blank import Blank
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.surface import advice
from gatepost.core.surface.passes import Depths, Flatness, Overhang
from gatepost.core.surface.reckoned import SurfacingResult
from gatepost.core.surface.rows import Missed
from gatepost.core.surface.seat import FEWEST, THINNEST, WORTH
from gatepost.core.surface.slips import slip, slip_finding, too_many_rows
from gatepost.core.units import mm
from gatepost.core.working import Named, working

STAGE = "surface"
RULES = {
    "turning round off the wood": "to turn round",
    "reaching the corners": "for corners",
    "scallops between passes": "for scallops",
}


def verdict(flat: Flatness) -> str:
    """Is it flat enough for this lettering, in one sentence."""
    if flat.needed:
        return (
            f"Not flat enough for this lettering: {mm(flat.error, 2)} out of true would change the thinnest stroke by "
            f"{mm(flat.widening.result, 2)}; {mm(flat.allowed.result, 2)} is allowed."
        )
    return (
        f"Flat enough for this lettering: {mm(flat.error, 2)} out of true, and {mm(flat.allowed.result, 2)} is allowed."
    )


def mixed(setup: str, operation: str) -> Finding:
    """Where a setup is to be made flat and carved at once. operation: that is to make it flat."""
    message = f"The {setup} setup makes the face flat and carves: only one of them is planned in one setup. Carve in a setup of its own."
    fix = Fix("set surfacing", {"operation": operation, "wanted": "no"}, "Don't surface it in this setup")
    return Finding("surface.mixed", Level.STOP, STAGE, message, setup, fixes=(fix,))


def side(setup: str, face: str, operation: str) -> Finding:
    """Where an end or an edge is to be made flat, whose heights nobody can have read."""
    message = f"The {face} can't be made flat: heights are read on the front and the back alone. Joint it beforehand, and only carve it here."
    fix = Fix("set surfacing", {"operation": operation, "wanted": "no"}, "Don't surface it in this setup")
    return Finding("surface.side", Level.STOP, STAGE, message, setup, fixes=(fix,))


def no_tool(number: int) -> Report:
    """Where the tool that is asked for is not there."""
    finding = Finding("surface.no-tool", Level.STOP, STAGE, f"Tool {number} is not in the table.")
    return Report(STAGE, "no tool", "", (), (finding,), Gate.SHUT)


def report(wanted: Surfacing, tool: Tool, blank: Blank, done: SurfacingResult) -> Report:
    """Figures and findings of a surfacing."""
    odd = slip(blank.heights)
    if odd is not None:
        asked = (slip_finding(odd),)
        return Report(STAGE, "a height to check", "one height looks mistyped", (), asked, gate_of(asked))
    if done.too_many is not None:
        many = (too_many_rows(*done.too_many, wanted, tool),)
        return Report(STAGE, "too many rows", f"{done.too_many[0]} passes", (), many, gate_of(many))
    if not done.measured and wanted.wanted == "no":
        return Report(STAGE, "left as planed", "left as it is, as you asked", (), (), Gate.NOT_NEEDED)
    if not done.measured:
        message = "Is the top flat? Measure it in at least three places, not in a line, on the Blank page; or leave it as planed."
        leave = Fix("set surfacing", {"wanted": "no"}, "Leave it as planed")
        said = (Finding("surface.no-heights", Level.CARE, STAGE, message, fixes=(leave,)),)
        return Report(STAGE, "heights wanted", "not measured yet", (), said, Gate.WAITING)
    findings = _flatness_findings(wanted, done)
    if not done.needed or done.depths is None or done.overhang is None:
        figures = _flat_figures(done)
        gate = Gate.NOT_NEEDED if not any(f.stands for f in findings) else gate_of(tuple(findings))
        return Report(STAGE, "not needed", "the board is used as it is", figures, tuple(findings), gate)
    findings += (
        _pass_findings(wanted, tool, done.depths)
        + _path_findings(done.overhang, done.missed, tool, wanted)
        + _chip_findings(tool, done)
        + _load_findings(wanted, tool, done)
        + _seat_findings(wanted, blank, done)
        + advice.findings(wanted, tool, blank, done)
    )
    figures = _flat_figures(done) + _figures(done.depths, done.overhang, done, blank.outline_doubt) + _way_figures(done)
    fact = f"{len(done.lines) or len(done.depths.heights)} passes · {max(1, round(done.seconds / 60))} min"
    seat = ", on shims" if wanted.seat == "shimmed" and len(done.ways) > 1 else ""
    line = f"{mm(tool.diameter, 2)} cutter, {wanted.direction}, in edge clamps{seat}"
    tables = advice.tables(wanted, tool, blank, done)
    return Report(STAGE, fact, line, figures, tuple(findings), gate_of(tuple(findings)), tables)


def _flat_figures(done: SurfacingResult) -> tuple[Figure, ...]:
    if done.flatness is None:
        return ()
    return (
        Figure("Out of true", done.flatness.error, places=2),
        Figure("Allowed for this lettering", done.flatness.allowed.result, working=done.flatness.allowed, places=2),
    )


def _figures(d: Depths, over: Overhang, done: SurfacingResult, doubt: float) -> tuple[Figure, ...]:
    early = bool(done.lines) and len(done.lines) < len(d.heights)
    plane = (
        working(
            "highest - removal",
            Named("highest", d.plane.result + d.removal.result),
            Named("removal", done.removal.result),
        )
        if early
        else d.plane
    )
    return (
        Figure("Finished face above the bed", plane.result, working=plane, places=2),
        Figure("Comes off the highest place", done.removal.result, working=done.removal, places=2),
        Figure("Passes", f"{len(done.lines)} of {len(d.heights)}", "words")
        if early
        else Figure("Passes", d.count.result, "count", d.count),
        Figure("First bite at the highest", d.first_bite.result, working=d.first_bite, places=2),
        *_past(over, doubt),
        Figure("Minutes", done.seconds / 60.0, "minutes"),
    )


def _past(over: Overhang, doubt: float) -> tuple[Figure, ...]:
    """How far the cutter's edge passes the edge as it was measured, by each rule; ● marks what rules. doubt: ± of the outline, mm."""
    rules = [(over.corner, "reaching the corners"), (over.scallop, "scallops between passes")]
    rules += [(over.turn, "turning round off the wood")] if over.turns_outside else []
    out = []
    for rule, name in rules:
        with_doubt = working(
            f"{rule.expression} + outline",
            *rule.values,
            Named("outline", doubt),
            assumption=rule.assumption,
            shop_rule=rule.shop_rule,
        )
        mark = "● " if over.rule == name else ""
        out.append(Figure(f"{mark}Past the edge, {RULES[name]}", with_doubt.result, working=with_doubt))
    return tuple(out)


def _flatness_findings(wanted: Surfacing, done: SurfacingResult) -> list[Finding]:
    flat = done.flatness
    if flat is None:
        message = "No lettering yet, so nothing says how flat is flat enough."
        return [Finding("surface.no-lettering", Level.NOTE, STAGE, message)]
    words = verdict(flat)
    if flat.needed and wanted.wanted == "no":
        fix = Fix("set surfacing", {"wanted": "ask"}, "Surface it")
        return [Finding("surface.not-flat", Level.CARE, STAGE, words, working=flat.widening, fixes=(fix,))]
    if flat.needed:
        return [Finding("surface.needed", Level.NOTE, STAGE, words, working=flat.widening)]
    return [Finding("surface.flat-enough", Level.OK, STAGE, words, working=flat.widening)]


def _pass_findings(wanted: Surfacing, tool: Tool, d: Depths) -> list[Finding]:
    said: list[Finding] = []
    limit = min(wanted.limit, tool.pass_depth)
    if d.first_bite.result > limit + 1e-9:
        message = (
            f"The first bite is {mm(d.first_bite.result, 2)} at the highest place; this cutter is given {mm(limit, 2)} at most. "
            "It would stall or be torn out."
        )
        fixes = () if wanted.limit <= tool.pass_depth else (
            Fix("set surfacing", {"limit": tool.pass_depth}, f"Take {mm(tool.pass_depth, 2)} a pass at most"),
        )  # fmt: skip
        said.append(Finding("surface.first-bite", Level.STOP, STAGE, message, working=d.first_bite, fixes=fixes))
    if d.plane.result <= NOTHING:
        message = f"Only {mm(max(d.plane.result, 0.0), 2)} of board would be left."
        said.append(Finding("surface.nothing-left", Level.STOP, STAGE, message, working=d.plane))
    return said


def _path_findings(over: Overhang, missed: tuple[Missed, ...], tool: Tool, wanted: Surfacing) -> list[Finding]:
    if missed:
        worst = missed[0]
        message = f"The cutter misses {worst.area:.1f} mm² at X {mm(worst.x, 2)}, Y {mm(worst.y, 2)} of the board."
        said = [Finding("surface.missed", Level.STOP, STAGE, message)]
    else:
        said = [
            Finding(
                "surface.covered", Level.OK, STAGE, "Every place of the face is reached: the cutter's discs cover it."
            )
        ]
    if over.turns_outside:
        past = over.turn.result - over.corner.result / (1 - 1 / math.sqrt(2))
        message = (
            f"Turns happen off the wood, the cutter's middle {mm(past, 2)} past its ends: no marks from slowing down."
        )
        said.append(Finding("surface.turns", Level.OK, STAGE, message, working=over.turn))
    else:
        message = "The cutter slows to its turns over the wood, or has no travel to turn off it: expect marks near the ends of the rows."
        said.append(Finding("surface.turn-marks", Level.CARE, STAGE, message, working=over.turn))
        if not tool.centre_cutting and wanted.area == "all":
            message = (
                f"Tool {tool.number} is not centre-cutting and there is no travel to lead it in from outside the wood: it would "
                "be lowered onto the board's edge. Move the board, or run the rows the other way."
            )
            said.append(Finding("surface.plunge", Level.STOP, STAGE, message, working=over.turn))
    return said


SHALLOWEST = 0.1  # mm a pass that is still worth offering
SLOWEST = 0.2  # of a tool's feed that is still worth offering: slower it rubs
NOTHING = 3.0  # mm of board that are none


def _chip_findings(tool: Tool, done: SurfacingResult) -> list[Finding]:
    if done.chip is None or round(done.chip.result, 6) >= tool.rub:
        return []
    message = f"The thickest chip is {mm(done.chip.result, 3)}, under the {mm(tool.rub, 3)} at which this cutter rubs and burns."
    faster = tool.feed * tool.rub / done.chip.result
    fix = Fix("set tool", {"number": tool.number, "feed": faster}, f"Feed at {faster:.0f} mm/min")
    return [Finding("surface.rubs", Level.CARE, STAGE, message, working=done.chip, fixes=(fix,))]


def _load_findings(wanted: Surfacing, tool: Tool, done: SurfacingResult) -> list[Finding]:
    load = done.load
    if load is None:
        return []
    asked, there = load.power.result, load.available.result
    figures = (
        f"about {asked:.0f} W, and the spindle has {there:.0f} W at {tool.rpm:.0f} rpm (both good to a factor of two)"
    )
    if asked <= there:
        return [Finding("surface.power", Level.NOTE, STAGE, f"The deepest pass takes {figures}.", working=load.power)]
    fixes: list[Fix] = []
    shallower = math.floor(100.0 * load.depth * there / asked) / 100.0
    if shallower >= SHALLOWEST:
        fixes.append(
            Fix(
                "set surfacing",
                {"limit": shallower, "last": min(wanted.last, shallower)},
                f"Take {mm(shallower, 2)} a pass at most",
            )
        )
    if load.feed > SLOWEST * tool.feed:
        fixes.insert(
            0,
            Fix("set tool", {"number": tool.number, "feed": float(int(load.feed))}, f"Feed at {load.feed:.0f} mm/min"),
        )
    message = f"The deepest pass would take {figures}: it would slow down and burn, or stall."
    return [Finding("surface.power", Level.CARE, STAGE, message, working=load.power, fixes=tuple(fixes))]


def _way_figures(done: SurfacingResult) -> tuple[Figure, ...]:
    if len(done.ways) < 2:  # the figures before say it all
        return ()
    return tuple(
        figure
        for way in done.ways
        for figure in (
            Figure(f"Kept {way.seat.name}", way.thickness, working=way.kept, places=2),
            Figure(f"Passes and minutes {way.seat.name}", f"{len(way.passes)}, {way.minutes:.0f} min", "words"),
        )
    )


def _seat_findings(wanted: Surfacing, blank: Blank, done: SurfacingResult) -> list[Finding]:
    """Whether shims would keep more wood, and what to put where."""
    seats = done.seats
    if seats is None or not done.ways:
        return []
    if seats.problem:
        return [Finding("surface.seat-open", Level.CARE, STAGE, seats.problem)]
    lies = done.ways[0]
    if wanted.seat == "shimmed":
        if len(done.ways) < 2:
            message = (
                "It is to be laid on shims, and shims gain nothing here."
                if len(blank.supports) >= FEWEST
                else f"It is to be laid on shims, which want {FEWEST} supports at least, round its middle: {len(blank.supports) or 'none'} so far."
            )
            fix = Fix("set surfacing", {"seat": "as it lies"}, "Lay it as it lies")
            return [Finding("surface.no-supports", Level.CARE, STAGE, message, fixes=(fix,))]
        shims = done.ways[1].seat.shims
        put = "; ".join(f"{mm(s.height, 2)} at X {mm(s.x, 2)}, Y {mm(s.y, 2)}" for s in shims if s.height >= THINNEST)
        message = (
            f"Shims under the board: {put or 'none, let it lie down on its underside'}. {mm(done.ways[1].thickness, 2)} is kept, and {mm(lies.thickness, 2)} as it lies. "
            "Wedges in opposed pairs, no steeper than 1 in 8, tapped; nothing may push outside their ring."
        )
        return [Finding("surface.shims", Level.NOTE, STAGE, message, working=done.ways[1].kept)]
    gain = seats.promised - lies.thickness
    if gain < WORTH:
        return [Finding("surface.seat", Level.OK, STAGE, "Laid as it lies: shims would keep no more worth having.")]
    message = f"On shims it would keep {mm(seats.promised, 2)}, which is {mm(gain, 2)} more than as it lies."
    if len(blank.supports) >= FEWEST:
        fixes = (Fix("set surfacing", {"seat": "shimmed"}, "Lay it on shims"),)
    else:
        fixes = (Fix("set blank", {"supports": _corners(blank)}, "Put a support near each of three corners"),)
    return [Finding("surface.seat", Level.NOTE, STAGE, message, working=lies.kept, fixes=fixes)]


def _corners(blank: Blank) -> tuple[dict[str, float], ...]:
    """Three places for supports: a board always stands on three."""
    (x0, y0, x1, y1), (long, wide) = blank.box, blank.across
    x, y = round(0.1 * long), round(0.1 * wide)
    places = ((x0 + x, y0 + y), (x1 - x, y0 + y), (blank.middle[0], y1 - y))
    return tuple({"x": float(a), "y": float(b)} for a, b in places)
