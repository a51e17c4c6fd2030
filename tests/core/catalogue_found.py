# SPDX-License-Identifier: GPL-3.0-or-later
"""Findings about a piece that is found again."""

from __future__ import annotations

from typing import Any

from tests.core.catalogue_jobs import CARE, NOTE, OK, STOP, Edit, machine, spoiled
from tests.core.pinned import holes, pinned, turned


def pins(**values: Any) -> Edit:
    """The row of two pins."""
    return "set art", {"art": "pins", **values}


def drilled(**values: Any) -> Edit:
    """How it is drilled."""
    return "set operation", {"operation": "drill-pins", **values}


def on(*rows: str, **values: Any) -> Edit:
    """Which rows of holes pins go through."""
    return "set register", {"setup": "over", "kind": "pins", "on": rows, **values}


def lies(dx: float = 0.0, dy: float = 0.0) -> Edit:
    """Where it lies for its second face."""
    return "place blank", {"setup": "over", "x": 520.0 + dx, "y": 310.0 + dy}


def sunk(x: float, depth: float) -> list[Edit]:
    """A recess in the front, 10 mm long, beside the left pin."""
    return [
        ("add recess", {"setup": "front", "width": 10.0, "height": 10.0, "depth": depth, "tools": (2,)}),
        ("set art", {"art": "outline", "x": x, "y": 40.0}),
    ]


def strap(x: float) -> Edit:
    """A strap from the left over the left pin; its nose reaches 20 mm."""
    return "add hold", {"setup": "over", "kind": "strap", "x": x, "y": 350.0, "heading": 0.0, "nose": 20.0}


FOUR = (
    holes("more", "front", 60.0, 20.0, number=1, setup="front"),
    holes("again", "front", 60.0, 60.0, number=1, setup="front"),
)
SHEET = ("set wood", {"kind": "sheet"})
FOUND = [
    spoiled("register.touched-anew", NOTE, "taped", [*turned(), on("none")], *turned(), *holes()),
    spoiled("register.pins-few", STOP, "taped", pinned(), *pinned(), on()),
    spoiled(
        "register.pins-many",
        STOP,
        "taped",
        [*pinned(), *FOUR[0], *FOUR[1], on("pins", "more", "again")],
        *pinned(),
        *FOUR[0],
        *FOUR[1],
        *holes("last", "front", 40.0, 66.0, number=1, setup="front"),
        on("pins", "more", "again", "last"),
    ),
    spoiled("register.pins-near", STOP, "taped", [*pinned(), pins(pitch=12.0)], *pinned(), pins(pitch=11.9)),
    spoiled("register.pin-not-drilled", STOP, "taped", pinned(), *pinned(), drilled(through=False)),
    spoiled("register.pin-deep", STOP, "taped", [*pinned(), drilled(into=15.0)], *pinned(), drilled(into=15.1)),
    spoiled("register.pin-shallow", CARE, "taped", [*pinned(), drilled(into=4.8)], *pinned(), drilled(into=4.7)),
    spoiled("register.pins-beside", STOP, "taped", [*pinned(), lies(dx=0.02)], *pinned(), lies(dx=0.03)),
    spoiled("register.pins-new", CARE, "taped", [*pinned(), pins(turn=0.01)], *pinned(), pins(turn=2.0)),
    spoiled("register.pin-edge", CARE, "taped", [*pinned(), pins(pitch=108.0)], *pinned(), pins(pitch=108.2)),
    spoiled(
        "register.pin-in-the-way",
        STOP,
        "taped",
        pinned(x=60.0, y=40.0, pitch=86.0),
        *pinned(x=60.0, y=40.0, pitch=95.0),
    ),
    spoiled("register.pin-cut-into", STOP, "taped", [*pinned(), *sunk(11.0, 7.9)], *pinned(), *sunk(11.0, 8.1)),
    spoiled("register.pin-held", CARE, "taped", [*pinned(), strap(496.0)], *pinned(), strap(508.0)),
    spoiled(
        "register.pin-slot", CARE, "taped", [*pinned(), machine(slots=(362.5,))], *pinned(), machine(slots=(361.5,))
    ),
    spoiled("register.pins-shift", OK, "taped", [*pinned(), on("pins", work=0.5)], *pinned()),
    spoiled("register.pins-loose", CARE, "taped", [*pinned(), on("pins", work=0.36)], *pinned(), on("pins", work=0.37)),
    spoiled(
        "register.pins-ways",
        CARE,
        "taped",
        [*pinned(), ("add pins", {"setup": "over", "across": 6.0, "third": True})],
        *pinned(),
    ),
    spoiled(
        "register.pins-one-way",
        OK,
        "taped",
        pinned(),
        *pinned(),
        ("add pins", {"setup": "over", "across": 6.0, "third": True}),
    ),
]
