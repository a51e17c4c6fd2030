# SPDX-License-Identifier: GPL-3.0-or-later
"""The board: laid, turned, measured."""

from __future__ import annotations

from gatepost.core.job.model import Job
from gatepost.core.job.rows import holes_there
from gatepost.core.job.turning import lies, relative
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.run.step import LIES_ABOUT, Step
from gatepost.core.zero.ways import askew
from gatepost.machine.in_hand import InHand
from gatepost.machine.launch import standing_words
from gatepost.machine.standing_checks import anew, deep_enough, is_fresh, laying, now


def tick(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """What is ticked; on a simulated bed the board is turned, or laid and held, with it."""
    if step.key == "turn":
        at.session.turn(relative(setup.before, lies(setup.setup)))
    if step.key == "up-bare":
        at.session.take_up()
    if step.key == "hold":
        fresh = is_fresh(at.journal)
        if fresh:
            at.laid = at.plan.laid_first
        dx, dy = setup.corner[0] - at.laid[0], setup.corner[1] - at.laid[1]
        as_laid, turned_by = setup.lying, setup.setup.skew
        degrees = askew(setup.setup, as_laid.degrees, max(setup.blank.across)) if turned_by else as_laid.degrees
        off, turned = (as_laid.x, as_laid.y, degrees), (turned_by, *setup.placed.mark)
        at.session.lay(
            dx,
            dy,
            standing_words(setup.solids),
            not anew(at.plan, setup),
            off,
            turned,
            fresh,
            setup.pins,
            setup.play,
            setup.were,
            setup.seats,
            holes_up(at.plan.job, setup),
        )
        at.laid = setup.corner
    at.journal = laying(at.journal, at.plan, setup, step, now())


def holes_up(job: Job, setup: PlannedSetup) -> tuple[tuple[float, float, float], ...]:
    """Holes of the face that is up that are there already: where each is meant to be on the bed, and its diameter."""
    return tuple((*setup.face_to_bed.xy(h.x, h.y), h.across) for h in holes_there(job, job.setup(setup.name)))


def measure(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """What calipers would show of a simulated board."""
    corners = at.session.calipers()
    data: dict[str, float | str] = {f"corner{i}": v for i, v in enumerate(corners, start=1)}
    at.write(setup, "measured", **data)


def depth(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """How deep a tool cut, measured on a simulated board."""
    told = setup.depths[step.tool or 0]
    thick, deep = at.session.gauge(*setup.meant(told.bed), told.near, LIES_ABOUT)
    at.journal = deep_enough(at.journal, setup, told, thick if told.thick else deep, now())
