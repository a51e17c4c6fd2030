# SPDX-License-Identifier: GPL-3.0-or-later
"""The piece is laid, turned over, into the frame that its own cut-out left."""

from __future__ import annotations

import math

from gatepost.core.findings import Figure, Finding, Fix, Level, Place
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.register import InStepNest
from gatepost.core.register.kind import STAGE, Bounds, Coming, ComingTold, RegisterKind
from gatepost.core.register.nest_tabs import STUB
from gatepost.core.register.nested import NestSeen
from gatepost.core.register.step_nest import NestTried, StepNest
from gatepost.core.tolerances import FRAME, REGISTERED
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

SEATED = "the worst of all ways in which the turned piece may lie in its frame, turned about its middle"
FOLLOWED = 0.02  # mm to which the two outlines are followed
REACH = 5.0  # mm inside its rim that a hold must reach
SAME = 0.02  # mm within which the piece's middle comes over that of its hole
YES = (("yes", True), ("no", False))


class StepNestKind(RegisterKind):
    """Into its own frame."""

    figures, one, keeps, zero = InStepNest, "laid into its frame", True, "as the setup before had it"
    laying = "Pare the tabs flush on piece and frame, those by risers only where they stand out far; the frame stays held. Turn the piece over and lay it into the frame, the board's corner as if at {where}."
    entries = (
        KindEntry("Slot, as it was measured", "length", "slot"), KindEntry("It was measured", "choice", "measured", YES), KindEntry("Clearance a side", "length", "clearance"),
        KindEntry("A wall leans by", "length", "lean"), KindEntry("With a key", "choice", "key", YES),
    )  # fmt: skip

    def told(self, coming: Coming) -> ComingTold:
        """Whether it goes in as it is turned, and no other way; by how much it may lie otherwise; whether the frame bears it."""
        seen, name = coming.nest, coming.setup.id
        comes = coming.setup.comes
        assert isinstance(comes, InStepNest)
        if seen is None or not comes.apart:
            message = f"{coming.name} is laid into a frame, and no cut-out before it has a stepped rim. Make one (“Make the rim stepped” on this page)."
            return ComingTold(findings=(Finding("register.nest-none", Level.STOP, STAGE, message, name),))
        if not coming.over:
            message = (
                f"{coming.name} is laid into its frame, and not turned over: a stepped nest holds a piece that is."
            )
            return ComingTold(findings=(Finding("register.nest-not-over", Level.STOP, STAGE, message, name),))
        said = [
            *_measured(coming, comes),
            *_beside(coming, seen),
            *_frame(coming, seen),
            *_held(coming),
            *_unheld(coming, seen),
            *_tabs(seen, name),
        ]
        if seen.tried is None:
            return ComingTold(findings=tuple(said))
        figures, more = _tried(coming, comes, seen)
        return ComingTold(tuple(figures), (*more, *said))

    def bounds(self, job: Job, setup: Setup) -> Bounds | None:
        """By what the slot is wider than the rim's two levels lie apart."""
        comes = setup.comes
        if not isinstance(comes, InStepNest) or not comes.apart:
            return None
        play = max(2.0 * (comes.slot - comes.lean - comes.apart), 0.0)
        art = next(
            (
                a
                for o in (o for s in job.setups for o in s.operations)
                if o.id == comes.cut
                for a in job.artwork
                if a.id in o.on
            ),
            None,
        )
        across = (
            min(getattr(art.figures, "wide", 100.0), getattr(art.figures, "high", 100.0)) if art is not None else 100.0
        )
        return Bounds(play / 2.0, play / 2.0, math.degrees(play / max(across, 1.0)), "in its own frame", play)


def _measured(coming: Coming, comes: InStepNest) -> list[Finding]:
    """Whether the slot was measured, and is cut now as it was then."""
    name, now = coming.setup.id, coming.job.cut_by(comes.cut)
    if comes.measured and comes.by in ("", now):
        return []
    if comes.measured:
        message = f"The slot was measured as cut by {comes.by}, and is cut by {now} now: cut a test slot and measure it again."
        return [Finding("register.nest-slot-other", Level.CARE, STAGE, message, name)]
    message = f"The slot is taken to be {mm(comes.slot, 2)} wide, as its cutter is: worn cutters leave less, a finishing allowance more. Cut a test slot in this wood and measure it."
    return [Finding("register.nest-slot", Level.CARE, STAGE, message, name)]


def _beside(coming: Coming, seen: NestSeen) -> list[Finding]:
    """Whether the turned piece comes over its hole."""
    middle = seen.middle
    there = coming.now.xy(*coming.was.inverse().xy(*middle))
    off = (middle[0] - there[0], middle[1] - there[1])
    if math.hypot(*off) <= SAME:
        return []
    setup = coming.setup
    message = f"Turned over, the piece comes {mm(math.hypot(*off), 2)} beside the frame that it is to lie in."
    fix = Fix(
        "place blank",
        {"setup": setup.id, "x": setup.x + off[0], "y": setup.y + off[1]},
        "Lay it where it comes into its frame",
    )
    return [Finding("register.nest-beside", Level.STOP, STAGE, message, setup.id, fixes=(fix,), place=Place(*middle))]


def _frame(coming: Coming, seen: NestSeen) -> list[Finding]:
    """How wide the frame is where it is narrowest."""
    comes = coming.setup.comes
    assert isinstance(comes, InStepNest)
    left = working(
        "edge - slot", Named("edge", float(seen.board.exterior.distance(seen.rim.exterior))), Named("slot", comes.slot), shop_rule=True,
        assumption="the rim's nearest place to the board's edge",
    )  # fmt: skip
    if not seen.board.contains(seen.rim) or left.result < FRAME:
        message = f"The frame is {mm(max(left.result, 0.0))} wide where it is narrowest: {mm(FRAME)} is wanted, or it gives way as the piece is pushed."
        return [Finding("register.nest-frame", Level.CARE, STAGE, message, coming.setup.id, left)]
    return []


def _held(coming: Coming) -> list[Finding]:
    """The frame must stay as it was held."""
    now = {_place(h) for h in coming.setup.holds}
    gone = [h.name for h in coming.before.holds if _place(h) not in now]
    if not gone:
        return []
    message = f"{' and '.join(gone)} held the frame while the piece was cut, and {'is' if len(gone) == 1 else 'are'} not set in {coming.name}: the frame must not be moved in between."
    return [Finding("register.nest-moved", Level.CARE, STAGE, message, coming.setup.id)]


def _unheld(coming: Coming, seen: NestSeen) -> list[Finding]:
    """The frame keeps the piece from sliding, and lets it lift."""
    if any(area.intersects(seen.rim.buffer(-REACH)) for _, area in coming.grips):
        return []
    message = f"Nothing in {coming.name} holds the piece itself down: its frame keeps it from sliding, and lets it lift. Tape under it, or a strap that reaches it."
    return [Finding("register.nest-unheld", Level.STOP, STAGE, message, coming.setup.id)]


def _place(hold: object) -> tuple[object, ...]:
    return tuple(getattr(hold, field) for field in ("kind", "x", "y", "heading"))


def _tabs(seen: NestSeen, name: str) -> list[Finding]:
    if not seen.tabs:
        return []
    away = seen.tabs.count(False)
    if not away:
        message = f"The {len(seen.tabs)} tabs stand by risers: broken in the middle of the slot, what is left of them is in nobody's way. Each was tried with stubs of {100.0 * STUB:.0f} % of the slot."
        return [Finding("register.nest-tabs-stand", Level.OK, STAGE, message, name)]
    all_ = f"{away} of {len(seen.tabs)} tabs stand" if away < len(seen.tabs) else f"The {away} tabs stand"
    message = f"{all_} where the turned piece needs the room: what is left of them is pared flush on piece and frame, or it does not go in. A rim that is made anew has its tabs by risers."
    return [Finding("register.nest-tabs", Level.NOTE, STAGE, message, name)]


def _tried(coming: Coming, comes: InStepNest, seen: NestSeen) -> tuple[list[Figure], list[Finding]]:
    tried, name = seen.tried, coming.setup.id
    assert tried is not None
    nest = tried.nest
    if not nest.asked.goes_in:
        message = f"Turned over about {nest.flip} the piece does not go into its frame: its rim's levels lie {mm(comes.apart, 2)} apart and the slot is {mm(comes.slot - comes.lean, 2)} wide. Make the rim anew."
        return [], [Finding("register.nest-tight", Level.STOP, STAGE, message, name)]
    ways = _ways(comes, tried.nest, name)
    if not len(coming.cut):
        return [], ways
    k, seat = tried.worst(coming.cut)
    worst = seat.told(FOLLOWED, 2.0 if coming.twice else 1.0, SEATED)
    sum_ = working(
        "2 * (slot - lean - apart)",
        Named("slot", comes.slot),
        Named("lean", comes.lean),
        Named("apart", comes.apart),
        assumption="a wall beside a low rim stands so far from a high one",
    )
    figures = [
        Figure("Play in its frame", sum_.result, "length", sum_, 2, setup=name),
        *(Figure(f"Play in {a}, as it was tried", sum_.result, "length", sum_, 2, setup=name) for a, sum_ in zip("XY", _plays(nest))),
        Figure("It can be turned by", nest.turning, "angle", _turning(tried), 2, setup=name),
        Figure("Beside the first side, at worst", worst.result, "length", worst, 2, setup=name),
    ]  # fmt: skip
    allowed = REGISTERED[coming.job.tolerance]
    rattle = min(nest.way("as cut").play)
    if worst.result <= allowed:
        message = f"Turned over about {nest.flip} it goes into its frame, and nothing cut here lies more than {mm(worst.result, 2)} beside the first side. As it was cut it goes in too, and rattles by {mm(rattle)}: that says that it was not turned."
        said = [Finding("register.nest-good", Level.OK, STAGE, message, name, worst)]
    else:
        place = Place(*map(float, coming.cut[k]))
        message = f"In its frame what is cut here may lie {mm(worst.result, 2)} beside the first side; {mm(allowed, 2)} suits this job. A smaller clearance, or pins."
        said = [Finding("register.nest-loose", Level.CARE, STAGE, message, name, worst, place=place)]
    return figures, [*said, *ways]


def _plays(nest: StepNest) -> list[Working]:
    """From one end of what it can be shifted by to the other, in X and in Y."""
    asked = nest.asked
    said = "shifts at which the turned piece, not turned on its plane, lies in its opening: the farthest either way"
    return [working("most - least", Named("most", low + play), Named("least", low), assumption=said) for low, play in zip(asked.least, asked.play)]  # fmt: skip


def _turning(tried: NestTried) -> Working:
    """From one end of what it can be turned by to the other."""
    turns = tried.seats[:, 0]
    return working("left - right", Named("left", float(turns.max()), "angle"), Named("right", float(turns.min()), "angle"), unit="angle", assumption="turns at which it lies in its opening, shifted as it needs")  # fmt: skip


def _ways(comes: InStepNest, nest: StepNest, name: str) -> list[Finding]:
    """Every way round that it goes in and should not."""
    if not nest.others:
        return []
    ways = " and ".join(w.way for w in nest.others)
    message = f"The piece goes into its frame {ways} as well: make the rim anew with a key, or mark face and end."
    return [Finding("register.nest-ways", Level.CARE, STAGE, message, name)]
