# SPDX-License-Identifier: GPL-3.0-or-later
"""The second face: the board turned about a line onto its cut face, as a job of its own for the surfacing to reckon.

Everything in the turned setup is told in the board's own coordinates as it lies then.
"""

from __future__ import annotations

from gatepost.core.job.blank import Blank, TopHeight
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.turning import other_face, there, turned_blank
from gatepost.core.surface.seat import Seat
from gatepost.core.zero.datum import Placed, placed


def lying(job: Job, setup: Setup) -> Blank:
    """The board as it lies in a setup: turned over for the second face."""
    return turned_blank(job.blank, setup.turn, ()) if setup == other_face(job) else job.blank


def placed_in(job: Job, setup: Setup) -> Placed:
    """Where the board lies in a setup; heights are left out."""
    return placed(setup, lying(job, setup))


def turned_job(job: Job, back: Setup, plane: float, seat: Seat | None) -> Job:
    """The job as the second face's surfacing sees it. plane: of the first face, above the bed, as it was cut.

    The board lies on its cut face, so that what was so far above the bed is now so far below that face. An underside that
    was not read is taken to have lain flat on the bed.
    """
    blank = job.blank
    a, b, c = seat.moved if seat is not None else (0.0, 0.0, 0.0)
    gaps = [(g.x, g.y, g.z) for g in blank.under]
    if not gaps:
        gaps = [(x, y, 0.0) for x in (0.0, blank.length) for y in (0.0, blank.width)]
    heights = []
    for x, y, z in gaps:
        tx, ty = there(blank, back.turn, x, y)
        heights.append(TopHeight(x=tx, y=ty, z=max(plane - (z + a * x + b * y + c), 0.001)))
    return job.model_copy(update={"blank": turned_blank(blank, back.turn, heights)})
