# SPDX-License-Identifier: GPL-3.0-or-later
"""The Zero page."""

from __future__ import annotations

from gatepost.core.job.model import Job
from gatepost.core.plan.kinds import Kinds
from gatepost.core.zero.datum import CORNERS, datum
from gatepost.desk.pages.entries import Group, PageEntry, PageRow, act, single

PLACES = (*((c, c) for c in CORNERS), ("outline middle", "outline middle"), ("a mark", "mark"))
PLANES = (("the top", "top"), ("the bed", "bed"))
WAYS = (
    ("by eye, a point", "pointer"),
    ("a pin at edges", "pin"),
    ("the cutter at edges", "cutter"),
    ("corner plate", "corner plate"),
)
LATER = (("the work again", "touch"), ("the fixed sensor", "sensor"))
SQUARES = (("as it is laid", "no"), ("two touches of its edge", "edge"), ("a ruled line, looked at", "line"))
GAUGES = (("plate", "plate"), ("paper", "paper"), ("corner plate", "corner plate"))


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """Where the zeros are and what they are touched with."""
    s = job.setup(setup)
    zero = s.zero
    mark = datum(zero, job.blank)
    across = [single("X0 Y0 at", "choice", zero.xy, "set zero", "xy", PLACES, setup=setup)]
    if zero.xy == "mark":
        across += [
            single("Mark X on the board", "length", zero.x, "set zero", "x", setup=setup),
            single("Mark Y on the board", "length", zero.y, "set zero", "y", setup=setup),
        ]
    across.append(single("Found with", "choice", zero.xy_way, "set zero", "xy_way", WAYS, setup=setup))
    if zero.xy_way == "pointer":
        across.append(single("Lined up by eye, good to ±", "length", zero.eye, "set zero", "eye", setup=setup))
    else:
        across.append(single("Pin or shank", "length", zero.pin, "set zero", "pin", setup=setup))
    if zero.xy_way == "corner plate":
        across.append(
            single("Walls of the corner plate", "length", zero.gauge_edge, "set zero", "gauge_edge", setup=setup)
        )
    across += [
        _pair(
            "Witness mark X",
            zero.witness_x,
            lambda v: {"setup": setup, "witness_x": v},
        ),
        _pair(
            "Witness mark Y",
            zero.witness_y,
            lambda v: {"setup": setup, "witness_y": v},
        ),
        *(
            [single("Block between edge and pin", "length", zero.block, "set zero", "block", setup=setup)]
            if zero.xy_way in ("pin", "cutter")
            else []
        ),
        single("The last one came out right by", "length", zero.shift_x, "set zero", "shift_x", setup=setup),
        single("and back by", "length", zero.shift_y, "set zero", "shift_y", setup=setup),
        single("Laid square by", "choice", zero.square, "set zero", "square", SQUARES, setup=setup),
        single("Board lies askew by, degrees", "number", s.skew, "set skew", "degrees", setup=setup),
    ]
    touch_x = mark.x if zero.touch_x is None else zero.touch_x
    touch_y = mark.y if zero.touch_y is None else zero.touch_y
    up = [
        PageRow(
            (PageEntry("Z0 on", "choice", zero.z, "set zero", lambda v: {"setup": setup, "z": v, "touch_x": None, "touch_y": None}, PLANES),),
            "Z0 on",
        ),
        _pair("Touch at X on the board", touch_x, lambda v: {"setup": setup, "touch_x": v, "touch_y": touch_y}),
        _pair("Touch at Y on the board", touch_y, lambda v: {"setup": setup, "touch_x": touch_x, "touch_y": v}),
        single("Touched with", "choice", zero.gauge, "set zero", "gauge", GAUGES, setup=setup),
        single("Its thickness", "length", zero.gauge_thickness, "set zero", "gauge_thickness", setup=setup),
        *([single("Across the plate", "length", zero.gauge_size, "set zero", "gauge_size", setup=setup)] if zero.gauge != "paper" else []),
        single("Later tools touch", "choice", zero.later, "set zero", "later", LATER, setup=setup),
        single("Its name in the shop", "words", zero.gauge_name, "set zero", "gauge_name", setup=setup),
        single("Last checked", "words", zero.gauge_checked, "set zero", "gauge_checked", setup=setup),
    ]  # fmt: skip
    square = (
        act("Square: two touches on an edge…", "window square"),
        act("What happened, and what is still known…", "window happened"),
    )
    gauges = (
        act("Take a plate of the shop…", "window gauges"),
        act("Keep this plate for the shop", "window keep_gauge"),
    )
    return (Group("X0 Y0", tuple(across), acts=square), Group("Z0", tuple(up), acts=gauges))


def _pair(label: str, value: float | None, values: object) -> PageRow:
    return PageRow((PageEntry(label, "length", value, "set zero", values, optional=True),), label)  # type: ignore[arg-type]
