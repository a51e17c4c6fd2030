# SPDX-License-Identifier: GPL-3.0-or-later
"""A board that is drilled on both faces, laid on pins for the second."""

import json
from pathlib import Path

from tests.core.catalogue_jobs import JOBS, edited

DEEP = ("set machine", {"travel_z": 160.0, "nose_at_home": 200.0})


def holes(name="marks", face="back", x=60.0, y=40.0, pitch=70.0, number=2, setup="over", **more):
    """A row of holes that goes right through, drilled in a setup."""
    done = {"through": True, "into": 3.0, "tool": 2, **more}
    return [
        ("add art", {"kind": "holes", "id": name, "face": face, "x": x, "y": y, "across": 6.0, "number": number, "pitch": pitch}),
        ("add operation", {"setup": setup, "kind": "drill", "id": f"drilling-{name}", "on": (name,), **done}),
    ]  # fmt: skip


def turned(up="back", spin=0):
    """The taped board turned over, held as before."""
    held = [h.model_dump() for h in JOBS["taped"]().setups[-1].holds]
    return [
        DEEP, ("add setup", {"id": "over", "up": up}), ("set setup", {"setup": "over", "spin": spin}),
        *(("add hold", {"setup": "over", **{k: v for k, v in h.items() if k != "name"}}) for h in held),
    ]  # fmt: skip


def pinned(across=6.0, up="back", spin=0, **more):
    """The same, laid on two pins, two holes drilled right through from behind."""
    return [*turned(up, spin), ("add pins", {"setup": "over", "across": across}), *holes(face=up, **more)]


def over(**more):
    """The job."""
    return edited(JOBS["taped"](), *pinned(**more))


def old_holes(number=3, across=6.0):
    """Old holes in the taped board; two more are drilled."""
    old = [
        ("add art", {"kind": "holes", "id": "old", "face": "front", "x": 60.0, "y": 40.0, "across": across, "number": 2, "pitch": 90.0}),
        ("add art", {"kind": "holes", "id": "third", "face": "front", "x": 30.0, "y": 66.0, "across": across, "number": 1}),
    ]  # fmt: skip
    return [DEEP, *old[: number - 1], *holes("marks", "front", 60.0, 20.0, 80.0, setup="front")]


def again(edges=False, number=3, across=6.0):
    """The same, found by the old holes; a pin of 6 goes into them where they are 7 across."""
    deep, *made = old_holes(number, across)
    return [deep, *made[: number - 1], ("marks from art", {"setup": "front", "edges": edges}), *made[number - 1 :]]


def brought_back(**more):
    """The job."""
    return edited(JOBS["taped"](), *again(**more))


RIMS = json.loads((Path(__file__).parent / "rims.json").read_text())  # stepped rims of a tablet, with a key and without


def tablet(key=True, rim=True, **values):
    """A tablet cut out of the taped board through a stepped rim and turned over into its frame. rim: whether it is made already; values: of how it is laid there."""
    held = [{**h.model_dump(), "x": h.x - 20.0, "y": h.y - 10.0} for h in JOBS["taped"]().setups[-1].holds]
    return [
        DEEP, ("set blank", {"length": 150.0, "width": 110.0}), ("place blank", {"setup": "front", "x": 500.0, "y": 300.0}),
        ("add art", {"kind": "plate", "id": "tablet", "face": "front", "x": 75.0, "y": 55.0, "width": 80.0, "height": 52.0, "corner": 3.0}),
        ("add operation", {"setup": "front", "kind": "cutout", "id": "cutting", "on": ("tablet",), "tool": 2, "tabs": 4}),
        ("add setup", {"id": "over", "up": "back"}), *(("add hold", {"setup": "over", **{k: v for k, v in h.items() if k != "name"}}) for h in held),
        *([("set rim", RIMS[str(key)])] if rim else []),
        ("set register", {"setup": "over", "kind": "nest", "cut": "cutting", "of": "tablet" if rim else "", "slot": 6.0, "measured": True, "apart": 5.9 if rim else 0.0, "key": key, **values}),
    ]  # fmt: skip


def framed(key=True, **values):
    """The job, with two holes drilled through from either face."""
    more = [*holes("first", "front", 75.0, 40.0, 60.0, setup="front"), *holes("marks", "back", 75.0, 70.0, 60.0)]
    return edited(JOBS["taped"](), *tablet(key, **values), *more)


def fenced(up="front", spin=0, **more):
    """Two known edges on the bed that the taped board lies against, its corner at 520, 310; holes drilled right through. more: of the long edge."""
    edge = {
        "name": "Long edge",
        "x": 400.0,
        "y": 310.0,
        "heading": 0.0,
        "length": 300.0,
        "milled": "2026-11-20",
        **more,
    }
    stop = {"name": "Stop", "x": 520.0, "y": 420.0, "heading": -90.0, "length": 140.0, "milled": "2026-11-20"}
    return [
        DEEP, ("add to bed", {"what": "fences", "values": edge}), ("add to bed", {"what": "fences", "values": stop}),
        ("set register", {"setup": "front", "kind": "edge", "fence": "Long edge", "stop": "Stop"}),
        *holes("marks", "front", 60.0, 20.0, 80.0, setup="front"),
    ]  # fmt: skip


def seen(ring=False, number=3, **more):
    """The taped board with old holes, X0 Y0 touched; the tip goes over them before anything is cut, or a ring is cut round each of so many in a row. more: of the ring."""
    made = edited(JOBS["taped"](), *old_holes(3 if ring else number))
    if ring:
        row = ("set art", {"art": "old", "number": number, "pitch": 90.0 / max(number - 1, 1)})
        return edited(made, row, ("add ring", {"setup": "front", "of": "old", **more}))
    return edited(made, ("looks from art", {"setup": "front"}))
