# SPDX-License-Identifier: GPL-3.0-or-later
"""The second face: how thick the board is after it, and what there is to say of it beside its surfacing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gatepost.core.findings import Figure, Finding, Level
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.job.turning import other_face
from gatepost.core.surface.reckoned import SurfacingResult
from gatepost.core.tolerances import FLATNESS
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

ALIKE = 1.5  # mm by which what comes off one face may pass what comes off the other


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
    told = [e for e in journal.this_board() if back is not None and e.kind == "measured" and e.setup == back.id]
    return tuple(float(v) for k, v in sorted(told[-1].data.items()) if k.startswith("corner")) if told else ()


def thickness(plane: float, journal: Journal, job: Job) -> FinalThickness:
    """plane: of the second face, above the bed, the board lying on its cut face."""
    corners = measured_corners(journal, job)
    return FinalThickness(
        working("second_face - first_face", Named("second_face", plane), Named("first_face", 0.0)), corners
    )


def report_of(
    job: Job, setup: str, first: SurfacingResult, second: SurfacingResult, thick: FinalThickness
) -> tuple[list[Figure], list[Finding]]:
    """What there is to say of the second face beside its surfacing. setup: in which it is made flat."""
    figures = [Figure("Thickness after both, predicted", thick.predicted.result, working=thick.predicted, places=2)]
    said: list[Finding] = []
    if first.depths is not None and second.depths is not None:
        one, other = first.removal.result, second.removal.result
        if abs(one - other) > ALIKE:
            message = f"{mm(one, 2)} comes off the first face and {mm(other, 2)} off the second: unlike amounts let a board cup. Let it rest between, and look again."
            said.append(Finding("surface.unlike", Level.NOTE, "surface", message, setup))
        else:
            message = f"Like amounts come off both faces: {mm(one, 2)} and {mm(other, 2)}. Let the board rest between."
            said.append(Finding("surface.alike", Level.OK, "surface", message, setup))
    if not thick.corners:
        message = "After the second face, measure the thickness at four corners: the carving is planned on it then."
        said.append(Finding("surface.measure", Level.NOTE, "surface", message, setup))
        return figures, said
    mean, spread = thick.used, max(thick.corners) - min(thick.corners)
    corners = tuple(Named(f"corner{i}", c) for i, c in enumerate(thick.corners, start=1))
    middle = working(f"({' + '.join(c.name for c in corners)}) / {len(corners)}", *corners)
    apart = working("thickest - thinnest", Named("thickest", max(thick.corners)), Named("thinnest", min(thick.corners)))
    figures += [
        Figure("Measured, mean of the corners", mean, working=middle, places=2),
        Figure("Out of parallel", spread, working=apart, places=2),
    ]
    allowed = FLATNESS[job.tolerance] * 2.0
    off = working("measured - predicted", Named("measured", mean), Named("predicted", thick.predicted.result))
    if abs(off.result) > 0.3:
        message = f"It measures {mm(mean, 2)} where {mm(thick.predicted.result, 2)} was predicted: look for chips under it, a wrong zero, or a cut that pressed it down."
        said.append(Finding("surface.thickness-off", Level.CARE, "surface", message, setup, off))
    if spread > allowed:
        message = f"Its corners differ by {mm(spread, 2)}; {mm(allowed, 2)} is allowed. Something lay under it, or the spindle leans."
        said.append(Finding("surface.not-parallel", Level.CARE, "surface", message, setup))
    else:
        message = f"Parallel: its corners differ by {mm(spread, 2)}."
        said.append(Finding("surface.parallel", Level.OK, "surface", message, setup))
    return figures, said
