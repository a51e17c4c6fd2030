# SPDX-License-Identifier: GPL-3.0-or-later
"""Faces that are both carved, held against each other: those that adjoin at their arris, those that are opposite through the wood between."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from gatepost.core.carve.cut_away import kept
from gatepost.core.carve.tenfold import FIELDS
from gatepost.core.findings import Finding, Fix
from gatepost.core.geometry.outline import Area
from gatepost.core.job.turning import FACES, OPPOSITE
from gatepost.core.plan.carved import cut_outs
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.in_the_round import Facing
from gatepost.core.plan.known import PlanInputs
from gatepost.core.tolerances import FLOOR_LEFT
from gatepost.core.units import mm
from gatepost.core.wood.arris import CutFace, arrises
from gatepost.core.wood.between import Between, between, between_findings

FINE = 0.01  # mm less deep than the limit: a fix is not right at it
WALLED = 1.0  # mm about where two reliefs meet that their walls lean over
SHALLOWEST = 0.2  # mm: nothing is asked to be less deep than that


def both_faces(k: PlanInputs, cuts: Sequence[Cuts], reliefs: Sequence[Facing] = ()) -> list[Finding]:
    """Every two faces that are both carved, each as it is left, told of the later. reliefs: those that lie over one another: what is to meet there is judged by itself."""
    carved = [c for c in cuts if c.operations and not c.draft.laid.flattens]
    last = [c for n, c in enumerate(carved) if all(c.draft.laid.up != d.draft.laid.up for d in carved[n + 1 :])]
    faces = [
        CutFace(FACES[d.laid.up], d.setup.name, d.carried, d.uncut, c.operations[-1].after)
        for c in last for d in (c.draft,)
    ]  # fmt: skip
    said = arrises(faces)
    for n, c in enumerate(last):
        for before, face in zip(last[:n], faces[:n]):
            if OPPOSITE[c.draft.laid.up] == before.draft.laid.up:
                here = [r for r in reliefs if r.later is c and r.earlier is before]
                found = between(faces[n], face, _but(_kept(cuts, c, before), here, c), _thinnest(k, cuts))
                if found is not None:
                    less = (*_less_deep(found, c), *_meet(found, here))
                    said += between_findings(found, faces[n], face, c.draft.placed.to_bed, less)
    return said


def _thinnest(k: PlanInputs, cuts: Sequence[Cuts]) -> float:
    """Of the readings, where no face was made flat."""
    return math.inf if any(c.draft.laid.flattens for c in cuts) else k.thickness.least


def _but(stays: Area | None, reliefs: Sequence[Facing], c: Cuts) -> Area | None:
    """What stays, but for where two reliefs are to meet."""
    met = [r.area for r in reliefs if r.meets]
    if not met:
        return stays
    return (stays if stays is not None else c.draft.known.wood.outline).difference(
        shapely.union_all(met).buffer(WALLED)
    )


def _meet(found: Between, reliefs: Sequence[Facing]) -> tuple[Fix, ...]:
    """That two reliefs are to meet, where it is they that come through."""
    mine = [r for r in reliefs if not r.meets and r.area.intersects(shapely.Point(found.x, found.y))]
    if not mine or found.left.result > 0.0:
        return ()
    return (Fix("set operation", {"operation": mine[0].other.id, "meets": True}, "They are to meet in the middle"),)


def _kept(cuts: Sequence[Cuts], c: Cuts, before: Cuts) -> Area | None:
    """What stays of the board once all is cut out of either face, as the later lies; nothing where nothing is cut out. There may be several
    pieces, each cut out in a setup of its own."""
    pieces: list[Area] = []
    holes: list[Area] = []
    for one in cuts:
        if one.draft.laid.up in (c.draft.laid.up, before.draft.laid.up):
            stays, gone = kept(cut_outs(one))
            there = one.draft.pose.then(one.draft.carried.inverse()).then(c.draft.carried)
            pieces += [there.area(stays)] if stays is not None else []
            holes += [there.area(gone)] if not gone.is_empty else []
    if not pieces and not holes:
        return None
    whole = shapely.union_all(pieces) if pieces else c.draft.known.wood.outline
    return whole.difference(shapely.union_all(holes))


def _less_deep(found: Between, c: Cuts) -> tuple[Fix, ...]:
    """The last operation that cut there, so much less deep that as much is left as is wanted."""
    field = c.operations[-1].after
    j, i = round((found.y - field.y0) / field.cell), round((found.x - field.x0) / field.cell)
    before = [c.draft.start, *(op.after for op in c.operations)]
    cut = [op for op, was in zip(c.operations, before) if np.float32(was.z[j, i]) - op.after.z[j, i] > FINE]
    if not cut:
        return ()
    found_before = float(before[c.operations.index(cut[-1])].z[j, i]) - found.from_other - found.slack
    if found_before < FLOOR_LEFT:  # something else has left too little there before: this alone mends nothing
        return ()
    operation = next(o for o in c.draft.setup.operations if o.id == cut[-1].operation)
    name = FIELDS.get(operation.kind, "")
    if not name:
        return ()
    less = float(getattr(operation.figures, name)) - (FLOOR_LEFT - found.left.result) - FINE
    if less < SHALLOWEST:
        return ()
    return (Fix("set operation", {"operation": operation.id, name: less}, f"Cut {operation.name} {mm(less)} deep"),)
