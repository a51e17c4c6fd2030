# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the top is probed by the machine."""

from __future__ import annotations

from shapely.geometry import box

from gatepost.core.blank import shape
from gatepost.core.job.model import Job
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.surface.probing import Places, places

PROBE_ROOM = 12.0  # mm about a probe that must be free of holds


def probe_places(job: Job, planned: PlannedSetup, spacing: float) -> Places:
    """Where the top is probed as a setup lies: on the board, in reach, clear of the holds. Raises OperatorError."""
    m, back = job.machine, planned.placed.to_bed.inverse()
    reach = back.area(box(0.0, 0.0, m.travel_x, m.travel_y))
    standing = [back.area(q.outline.buffer(PROBE_ROOM)) for q in planned.solids]
    doubt = job.blank.doubt
    area = shape.polygon(job.blank).buffer(-doubt) if doubt else shape.polygon(job.blank)
    return places(area, spacing, standing, reach)
