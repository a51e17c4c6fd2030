# SPDX-License-Identifier: GPL-3.0-or-later
"""The Zero page."""

from __future__ import annotations

from gatepost.core.job.model import Job
from gatepost.core.zero.datum import CORNERS, datum
from gatepost.desk.pages.entries import Entry, Group, Row, single

PLACES = tuple((c, c) for c in CORNERS) + (("a mark", "mark"),)
PLANES = (("the top", "top"), ("the bed", "bed"))
GAUGES = (("plate", "plate"), ("paper", "paper"))


def page(job: Job, setup: str) -> tuple[Group, ...]:
    """Where the zeros are and what they are touched with."""
    zero = job.setup(setup).zero
    mark = datum(zero, job.blank)
    rows = [single("X0 Y0 at", "choice", zero.xy, "set zero", "xy", PLACES, setup=setup)]
    if zero.xy == "mark":
        rows += [
            single("Mark X on the board", "length", zero.x, "set zero", "x", setup=setup),
            single("Mark Y on the board", "length", zero.y, "set zero", "y", setup=setup),
        ]
    touch_x = mark.x if zero.touch_x is None else zero.touch_x
    touch_y = mark.y if zero.touch_y is None else zero.touch_y
    rows += [
        Row(
            (
                Entry(
                    "Z0 on",
                    "choice",
                    zero.z,
                    "set zero",
                    lambda v: {"setup": setup, "z": v, "touch_x": None, "touch_y": None},
                    PLANES,
                ),
            ),
            "Z0 on",
        ),
        Row(
            (
                Entry(
                    "Touch at X",
                    "length",
                    touch_x,
                    "set zero",
                    lambda v: {"setup": setup, "touch_x": v, "touch_y": touch_y},
                ),
            ),
            "Touch at X on the board",
        ),
        Row(
            (
                Entry(
                    "Touch at Y",
                    "length",
                    touch_y,
                    "set zero",
                    lambda v: {"setup": setup, "touch_x": touch_x, "touch_y": v},
                ),
            ),
            "Touch at Y on the board",
        ),
        single("Touched with", "choice", zero.gauge, "set zero", "gauge", GAUGES, setup=setup),
        single("Its thickness", "length", zero.gauge_thickness, "set zero", "gauge_thickness", setup=setup),
    ]
    return (Group("Zeros", tuple(rows)),)
