# SPDX-License-Identifier: GPL-3.0-or-later
"""What comes into the back, held against the wood as the carving of the face over it leaves it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gatepost.core.carve.behind import Behind, areas_behind, behind_findings
from gatepost.core.carve.paths import plate_outline
from gatepost.core.findings import Finding, Place
from gatepost.core.geometry.outline import Area
from gatepost.core.geometry.raster import inside
from gatepost.core.job.operation import Artwork
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.known import PlanInputs


def behind(k: PlanInputs, cuts: Sequence[Cuts], surely: Area) -> list[Finding]:
    """Of all that comes in from behind, by the last setup in which its face is up. surely: the board where there is wood for certain."""
    said: list[Finding] = []
    for art in k.job.artwork:
        c = next((c for c in reversed(cuts) if c.draft.laid.up == art.face), None)
        if isinstance(art.figures, Behind) and c is not None:
            over = [_least(c, area) for area in areas_behind(art)]
            said += behind_findings(art, over, _kept(k, c, art, surely), c.draft.setup.name)
    return said


def _kept(k: PlanInputs, c: Cuts, art: Artwork, surely: Area) -> Area:
    """What stays of the wood about it, as the face is read: the plate that it lies in, else the board."""
    plate = k.job.standing_on(c.draft.setup.operations, art)
    return plate_outline(plate) if plate is not None else c.draft.pose.inverse().area(surely)


def _least(c: Cuts, area: Area) -> tuple[float, Place]:
    """The least wood from the back to the face over an area of it, mm, and where; 0 where there is none."""
    wood = c.operations[-1].after if c.operations else c.draft.start
    whole = c.draft.pose.area(area)
    under = inside(whole.buffer(wood.cell / 2.0), wood.x0, wood.y0, wood.cell, *wood.z.shape)
    middle = whole.centroid
    x, y, least = middle.x, middle.y, 0.0
    if under.any():
        z = np.where(wood.wood, wood.z, 0.0)
        j, i = np.unravel_index(int(np.argmin(np.where(under, z, np.inf))), z.shape)
        x, y, least = wood.x0 + i * wood.cell, wood.y0 + j * wood.cell, max(0.0, float(z[j, i]))
    return least, Place(*c.draft.placed.to_bed.xy(x, y), least, 10.0)
