# SPDX-License-Identifier: GPL-3.0-or-later
"""Findings about a piece that is proved before it is cut, made several times over, mended or cut again."""

from __future__ import annotations

import numpy as np

from gatepost.core.geometry.levels import WHITE, packed
from tests.core.catalogue_carve import BALL
from tests.core.catalogue_jobs import CARE, NOTE, OK, STOP, Edit, spoiled
from tests.core.pinned import old_holes


def seen(number: int, dx: float, dy: float = 0.0, kind: str = "proved", mark: str = "look") -> Edit:
    """How far one of three old holes was seen to lie beside the tip."""
    return kind, {"setup": "front", "mark": f"{mark}-{number}", "x": dx, "y": dy, "within": 0.4}


def all_seen(dx: float) -> list[Edit]:
    """All three, each so far to the right."""
    return [seen(n, dx) for n in (1, 2, 3)]


def ringed(dx: float) -> list[Edit]:
    """Both old holes in their rings, so far to the right."""
    return [seen(n, dx, 0.0, "ringed", "ring") for n in (1, 2)]


def dome(wide: float = 20.0, high: float = 15.0) -> dict[str, object]:
    """Half an egg over seven tenths of a rectangle, on a ground that lies as deep as its rim."""
    v, u = np.mgrid[-1:1:60j, -1:1:80j]
    up = np.sqrt(np.clip(1.0 - (u**2 + v**2) / 0.49, 0.0, 1.0))
    grid = packed(np.round(1 + (WHITE - 1) * up).astype(np.uint16))
    return {"columns": 80, "rows": 60, "grid": grid, "width": wide, "height": high, "white": 0.0}


def domes(front: float, back: float, wide: float = 20.0, high: float = 15.0) -> list[Edit]:
    """One on either face of a board 16 thick, so deep, that are to meet; under straps the same in either setup."""
    strap = {"kind": "strap", "nose": 124, "tail": 50, "packing": 18, "width": 24}
    return [
        ("remove operation", {"operation": "lettering"}), BALL, ("add relief", {"setup": "front", "tools": (2, 15), **dome(wide, high), "black": front}),
        ("add setup", {"id": "over", "up": "back"}), *(("add hold", {"setup": "over", **strap, "x": x, "y": y, "heading": h}) for x, y, h in STRAPS),
        ("set zero", {"setup": "over", "xy": "centre", "z": "top", "touch_x": 60, "touch_y": 18}),
        ("add relief", {"setup": "over", "id": "under", "tools": (2, 15), **dome(wide, high), "black": back, "meets": True}),
    ]  # fmt: skip


STRAPS = ((535, 200, 90), (625, 200, 90), (535, 500, 270), (625, 500, 270))
ONE_BRIDGE: Edit = (
    "set operation",
    {"operation": "relief-1", "bridges": ({"x0": 0.0, "y0": 0.3, "x1": 0.0, "y1": 0.6},)},
)
LOOKED = [*old_holes(), ("looks from art", {"setup": "front"})]
RINGED = [*old_holes(number=2), ("add ring", {"setup": "front", "of": "old"})]
BATCH = [("set parts", {"parts": 6}), ("add size", {"title": "long", "nominal": 120.0, "within": 0.3})]
SECOND = ("fresh board", {"setup": "front"}), ("laid", {"setup": "front"})


def measured(*values: float) -> list[Edit]:
    """One part after another."""
    return [("set part", {"part": n, "size": "size-1", "value": v}) for n, v in enumerate(values, start=1)]


def further(*values: float) -> list[Edit]:
    """Boards whose marks lie so far to the right."""
    out: list[Edit] = []
    for v in values:
        out += [("laid", {"setup": "front"}), seen(1, v), ("fresh board", {"setup": "front"})]
    return out


TWO = [
    ("set parts", {"parts": 2}),
    *(("add size", {"title": str(v), "nominal": v, "within": 9.0}) for v in (120.0, 40.0)),
]


def both(one: float, other: float) -> list[Edit]:
    """Both sizes of the first part."""
    return [
        *TWO,
        *(("set part", {"part": 1, "size": f"size-{n}", "value": v}) for n, v in enumerate((one, other), start=1)),
    ]


OLD = [("remove operation", {"operation": "lettering"})]


def mended(dx: float = 0.0, depth: float = 6.0) -> list[Edit]:
    """The taped board's letters are there already, and a recess of 50 by 34 about them."""
    where = {"x": 60.0 + dx, "y": 40.0, "turn": 0.0, "width": 50.0, "height": 34.0, "corner": 3.0}
    return [*OLD, ("mend lettering", {"setup": "front", "art": "lettering", **where, "depth": depth, "tool": 2})]


def again_by(deeper: float) -> list[Edit]:
    """They are cut again."""
    return [*OLD, ("cut again", {"setup": "front", "art": "lettering", "deeper": deeper, "tool": 3})]


MOVED = ("moved", {"setup": "front", "degrees": 0.0, "x": 0.5, "y": 0.0})
TWICE = [
    ("remove operation", {"operation": "lettering"}),
    *old_holes()[1:2],
    ("add setup", {"id": "later", "up": "front"}),
]


def back_again(measured: bool) -> list[Edit]:
    """The board taken away after a hole was drilled, and brought back for another."""
    drilled = [
        ("add operation", {"setup": "later", "kind": "drill", "id": "again", "on": ("old",), "tool": 6, "deep": 3.0})
    ]
    return [*TWICE, *drilled, ("set register", {"setup": "later", "kind": "brought back", "measured": measured})]


PROVED = [
    spoiled("register.brought-back", NOTE, "taped", [], *back_again(True)),
    spoiled("register.back-unmeasured", CARE, "taped", back_again(True), *back_again(False)),
    # the board is 16 thick, 0.02 less at its thinnest and as much more at its thickest
    spoiled("register.planes-cross", CARE, "strapped", domes(8.0, 8.06), *domes(8.0, 8.1)),
    spoiled("register.planes-meet", OK, "strapped", domes(8.0, 7.9), *domes(8.0, 7.95)),
    spoiled("register.skin", NOTE, "strapped", domes(8.0, 7.95), *domes(8.0, 7.9)),
    spoiled("register.planes-apart", CARE, "strapped", domes(8.0, 7.55), *domes(8.0, 7.5)),
    spoiled(
        "register.reliefs-apart",
        CARE,
        "strapped",
        domes(6.0, 6.0),
        *domes(6.0, 6.0),
        ("set art", {"art": "under", "x": 62.0}),
    ),
    spoiled("register.bridges", NOTE, "strapped", domes(8.0, 8.0), *domes(8.0, 8.0), ONE_BRIDGE),
    spoiled("register.proof-unseen", NOTE, "taped", [*LOOKED, *all_seen(0.0)], *LOOKED, *all_seen(0.0)[:2]),
    spoiled("register.proof-agrees", OK, "taped", [*LOOKED, *all_seen(0.41)], *LOOKED, *all_seen(0.39)),
    spoiled("register.proof-misses", CARE, "taped", [*LOOKED, *all_seen(0.39)], *LOOKED, *all_seen(0.41)),
    spoiled(
        "register.proof-does-not-fit",
        CARE,
        "taped",
        [*LOOKED, *all_seen(2.0)],
        *LOOKED,
        *all_seen(2.0)[:2],
        seen(3, 4.0),
    ),
    spoiled("register.proof-moved", NOTE, "taped", LOOKED, *LOOKED, MOVED),
    spoiled(
        "register.look-off-board",
        STOP,
        "taped",
        [*LOOKED, ("set look", {"setup": "front", "look": "look-3", "y": 80.4})],
        *LOOKED,
        ("set look", {"setup": "front", "look": "look-3", "y": 80.6}),
    ),
    spoiled("register.ring-gone", STOP, "taped", RINGED, *RINGED, ("set ring", {"setup": "front", "of": "none"})),
    spoiled(
        "register.ring-narrow",
        STOP,
        "taped",
        [*RINGED, ("set ring", {"setup": "front", "wide": 1.51})],
        *RINGED,
        ("set ring", {"setup": "front", "wide": 1.49}),
    ),
    spoiled("register.ring-unread", NOTE, "taped", [*RINGED, *ringed(0.0)], *RINGED),
    spoiled("register.ring-good", OK, "taped", [*RINGED, *ringed(0.11)], *RINGED, *ringed(0.09)),
    spoiled("register.ring-off", STOP, "taped", [*RINGED, *ringed(0.09)], *RINGED, *ringed(0.11)),
    spoiled("register.parts-count", NOTE, "taped", [], *BATCH),
    spoiled("register.parts-unmeasured", CARE, "taped", BATCH, BATCH[0]),
    spoiled("register.first-part", NOTE, "taped", [*BATCH, *measured(120.0)], *BATCH),
    spoiled(
        "register.first-part",
        STOP,
        "taped",
        [*BATCH, *measured(120.0), ("laid", {"setup": "front"}), *SECOND],
        *BATCH,
        ("laid", {"setup": "front"}),
        *SECOND,
    ),
    spoiled("register.first-part-off", STOP, "taped", [*BATCH, *measured(120.3)], *BATCH, *measured(120.31)),
    spoiled("register.part-off", CARE, "taped", [*BATCH, *measured(120.0, 119.7)], *BATCH, *measured(120.0, 119.69)),
    spoiled(
        "register.part-drift",
        CARE,
        "taped",
        [*BATCH, *measured(120.0, 120.1, 120.05, 120.2, 120.25)],
        *BATCH,
        *measured(120.0, 120.05, 120.1, 120.2, 120.25),
    ),
    spoiled(
        "register.place-drift",
        CARE,
        "taped",
        [*BATCH, *measured(120.0), *further(0.0, 0.1, 0.05, 0.2, 0.25)],
        *BATCH,
        *measured(120.0),
        *further(0.0, 0.05, 0.1, 0.2, 0.25),
    ),
    spoiled("register.parts-alike", CARE, "taped", both(119.6, 39.3), *both(119.6, 39.5)),
    spoiled("register.parts-scaled", CARE, "taped", both(118.8, 39.4), *both(118.8, 39.58)),
    spoiled("register.mended", OK, "taped", mended(depth=3.34), *mended(depth=3.36)),
    spoiled("register.mend-shallow", CARE, "taped", mended(depth=3.36), *mended(depth=3.34)),
    spoiled("register.mend-short", CARE, "taped", mended(-14.9), *mended(-15.2)),
    spoiled("register.cut-again", NOTE, "taped", OLD, *again_by(0.3)),
    spoiled("register.cut-again-shallow", CARE, "taped", again_by(0.01), *again_by(0.0)),
]
