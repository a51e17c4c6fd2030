# SPDX-License-Identifier: GPL-3.0-or-later
"""Caliper readings: how thick the board is, and which reading is asked about."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.blank import Blank
from gatepost.core.tolerances import CALIPER_STEP, ODD_FACTOR
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working


@dataclass(frozen=True)
class Thickness:
    """least, greatest, mean: mm, of the readings that count. odd: numbers of those asked about. measured: any at all."""

    least: float
    greatest: float
    mean: float
    odd: tuple[int, ...]
    measured: bool

    @property
    def spread(self) -> Working:
        """Greatest less least."""
        return working("thickest - thinnest", Named("thickest", self.greatest), Named("thinnest", self.least))


def odd_readings(values: list[float]) -> tuple[int, ...]:
    """Numbers of readings far from the rest, from five readings on.

    Modified z-score 0.6745·(x - median)/MAD over 3.5 (Iglewicz and Hoaglin, 1993); MAD never finer than the
    caliper's step, so that a board of even thickness has no odd readings.
    """
    if len(values) < 5:
        return ()
    x = np.array(values)
    middle = np.median(x)
    mad = max(float(np.median(np.abs(x - middle))), CALIPER_STEP)
    return tuple(int(i) for i in np.nonzero(0.6745 * np.abs(x - middle) / mad > ODD_FACTOR)[0])


def thickness(blank: Blank) -> Thickness:
    """The board's thickness from its caliper readings; from its label when there are none."""
    counted = [r.thickness for r in blank.calipers if r.keep is not False]
    if not counted:
        return Thickness(blank.label_thickness, blank.label_thickness, blank.label_thickness, (), False)
    odd = odd_readings([r.thickness for r in blank.calipers])
    asked = tuple(i for i in odd if blank.calipers[i].keep is None)
    return Thickness(min(counted), max(counted), float(np.mean(counted)), asked, True)


def findings(blank: Blank, known: Thickness) -> list[Finding]:
    """What there is to say of the thickness."""
    said: list[Finding] = []
    if not known.measured:
        message = "No caliper reading yet: the label's thickness is used, and a label is not a measurement."
        said.append(Finding("blank.not-measured", Level.CARE, "blank", message))
    elif len(blank.calipers) < 4:
        message = f"{len(blank.calipers)} caliper readings: take four or more round the edge, each with its place."
        said.append(Finding("blank.few-readings", Level.CARE, "blank", message))
    for index in known.odd:
        reading = blank.calipers[index]
        middle = float(np.median([r.thickness for r in blank.calipers]))
        message = (
            f"Reading {index + 1} is odd: {mm(reading.thickness, 2)} against {mm(middle, 2)} for the middle one. "
            "Measure there again, or say what it is."
        )
        fixes = (
            Fix("set caliper", {"caliper": reading.id, "keep": True}, "It is right: keep it"),
            Fix("set caliper", {"caliper": reading.id, "keep": False}, "Leave it out"),
        )
        said.append(Finding("blank.odd-reading", Level.CARE, "blank", message, fixes=fixes, about=reading.id))
    if known.measured:
        off = working("measured - label", Named("measured", known.mean), Named("label", blank.label_thickness))
        if abs(off.result) > 0.3:
            message = f"The label says {mm(blank.label_thickness, 2)}; the board is {mm(known.mean, 2)}. The measured figure is used."
            said.append(Finding("blank.label", Level.NOTE, "blank", message, working=off))
    if blank.rocks:
        message = (
            "The board rocks on the bed. Shim under the high corners until it stands, then measure its heights again."
        )
        said.append(Finding("blank.rocks", Level.CARE, "blank", message))
    x0, y0, x1, y1 = blank.box
    outside = [r for r in blank.readings if not (x0 <= r.x <= x1 and y0 <= r.y <= y1)]
    if outside:
        lost = outside[0]
        message = f"The reading {lost.id} at X {mm(lost.x, 2)}, Y {mm(lost.y, 2)} is not on the board. Move it, or take it away."
        said.append(Finding("blank.reading-off-board", Level.STOP, "blank", message, about=lost.id))
    return said
