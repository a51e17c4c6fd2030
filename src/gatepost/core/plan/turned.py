# SPDX-License-Identifier: GPL-3.0-or-later
"""The second face: the board turned about a line onto its cut face, as a job of its own for the surfacing to reckon.

Everything in the turned setup is told in the board's own coordinates as it lies then.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gatepost.core.findings import Figure, Finding, Level
from gatepost.core.job.blank import Blank, TopHeight
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.turning import other_face, there, turned_blank
from gatepost.core.surface.reckoned import Surfaced
from gatepost.core.surface.seat import Seat
from gatepost.core.tolerances import FLATNESS
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working
from gatepost.core.zero.datum import Placed, placed

ALIKE = 1.5  # mm by which what comes off one face may pass what comes off the other


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


@dataclass(frozen=True)
class FinalThickness:
    """Of the board after both faces. predicted: working; corners: as measured, mm; used: what the carving is planned on."""

    predicted: Working
    corners: tuple[float, ...]

    @property
    def used(self) -> float:
        """Measured where it was, else predicted."""
        return float(np.mean(self.corners)) if self.corners else self.predicted.result


def measured_corners(journal: Journal, job: Job) -> tuple[float, ...]:
    """Thickness at the corners as it was measured last, after the second face, mm; none before."""
    back = other_face(job)
    told = [e for e in journal.standing() if back is not None and e.kind == "measured" and e.setup == back.id]
    return tuple(float(v) for k, v in sorted(told[-1].data.items()) if k.startswith("corner")) if told else ()


def thickness(plane: float, journal: Journal, job: Job) -> FinalThickness:
    """plane: of the second face, above the bed, the board lying on its cut face."""
    corners = measured_corners(journal, job)
    return FinalThickness(
        working("second_face - first_face", Named("second_face", plane), Named("first_face", 0.0)), corners
    )


def report_of(job: Job, first: Surfaced, second: Surfaced, thick: FinalThickness) -> tuple[list[Figure], list[Finding]]:
    """What there is to say of the second face beside its surfacing."""
    figures = [Figure("Thickness after both, predicted", thick.predicted.result, working=thick.predicted)]
    said: list[Finding] = []
    if first.depths is not None and second.depths is not None:
        one, other = first.depths.removal.result, second.depths.removal.result
        if abs(one - other) > ALIKE:
            message = f"{mm(one)} comes off the first face and {mm(other)} off the second: unlike amounts let a board cup. Let it rest between, and look again."
            said.append(Finding("surface.unlike", Level.NOTE, "surface", message, "back"))
        else:
            message = f"Like amounts come off both faces: {mm(one)} and {mm(other)}. Let the board rest between."
            said.append(Finding("surface.alike", Level.OK, "surface", message, "back"))
    if not thick.corners:
        message = "After the second face, measure the thickness at four corners: the carving is planned on it then."
        said.append(Finding("surface.measure", Level.NOTE, "surface", message, "back"))
        return figures, said
    mean, spread = thick.used, max(thick.corners) - min(thick.corners)
    corners = tuple(Named(f"corner{i}", c) for i, c in enumerate(thick.corners, start=1))
    middle = working(f"({' + '.join(c.name for c in corners)}) / {len(corners)}", *corners)
    apart = working("thickest - thinnest", Named("thickest", max(thick.corners)), Named("thinnest", min(thick.corners)))
    figures += [
        Figure("Measured, mean of the corners", mean, working=middle),
        Figure("Out of parallel", spread, working=apart),
    ]
    allowed = FLATNESS[job.tolerance] * 2.0
    off = working("measured - predicted", Named("measured", mean), Named("predicted", thick.predicted.result))
    if abs(off.result) > 0.3:
        message = f"It measures {mm(mean)} where {mm(thick.predicted.result)} was predicted: look for chips under it, a wrong zero, or a cut that pressed it down."
        said.append(Finding("surface.thickness-off", Level.CARE, "surface", message, "back", off))
    if spread > allowed:
        message = f"Its corners differ by {mm(spread)}; {mm(allowed)} is allowed. Something lay under it, or the spindle leans."
        said.append(Finding("surface.not-parallel", Level.CARE, "surface", message, "back"))
    else:
        message = f"Parallel: its corners differ by {mm(spread)}."
        said.append(Finding("surface.parallel", Level.OK, "surface", message, "back"))
    return figures, said
