# SPDX-License-Identifier: GPL-3.0-or-later
"""Findings about a piece that is found again."""

from __future__ import annotations

import math
from typing import Any

from tests.core.catalogue_jobs import CARE, JOBS, NOTE, OK, STOP, Edit, blank, machine, plate, spoiled, tool
from tests.core.pinned import again, fenced, holes, pinned, tablet, turned


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


def by_marks(*marks: dict[str, Any], **values: Any) -> Edit:
    """By which marks it is found."""
    return "set register", {"setup": "front", "kind": "marks", "marks": marks, **values}


def eye(within: float) -> Edit:
    """What a look at the three holes is good to."""
    return by_marks(*({"x": x, "y": y} for x, y in HOLES), eye=within)


def by_edges(*edges: dict[str, Any]) -> list[Edit]:
    """Found by edges alone."""
    return [*again(), by_marks(*edges)]


def mark(**values: Any) -> Edit:
    """The third hole."""
    return "set mark", {"setup": "front", "mark": "mark-3", **values}


def read(number: int, x: float, y: float, dx: float = 0.0, dy: float = 0.0, **more: float) -> Edit:
    """A mark read, so far from where it is meant to be: the board's corner is at 520, 310 of a bed of 1200 by 700."""
    return "marked", {
        "setup": "front",
        "mark": f"mark-{number}",
        "x": 520.0 + x + dx - 1200.0,
        "y": 310.0 + y + dy - 700.0,
        **more,
    }


def around(degrees: float) -> list[Edit]:
    """All three read of a board turned about its corner."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return [read(n, c * x - s * y, s * x + c * y) for n, (x, y) in enumerate(HOLES, start=1)]


def touched(out: float) -> list[Edit]:
    """Its five edges touched with a pin of 6 mm, each so far outside of where it is drawn."""
    by = 3.0 + out
    return [
        read(4, -by, 40.0, pin=6.0), read(5, 120.0 + by, 40.0, pin=6.0), read(6, 24.0, -by, pin=6.0), read(7, 96.0, -by, pin=6.0), read(8, 60.0, 80.0 + by, pin=6.0),
    ]  # fmt: skip


HOLES = ((15.0, 40.0), (105.0, 40.0), (30.0, 66.0))
READ = [read(n, x, y) for n, (x, y) in enumerate(HOLES, start=1)]
LEFT, RIGHT = (
    {"title": "left", "x": 0.0, "y": 40.0, "normal": 180.0},
    {"title": "right", "x": 120.0, "y": 40.0, "normal": 0.0},
)
LOWER, OTHER = (
    {"title": "lower", "x": 24.0, "y": 0.0, "normal": -90.0},
    {"title": "lower, right", "x": 96.0, "y": 0.0, "normal": -90.0},
)


def framed_at(by: float) -> Edit:
    """Where the tablet's board lies for its second face."""
    return "place blank", {"setup": "over", "x": 500.0, "y": 300.0 + by}


BY_RISERS: Edit = (
    "set operation",
    {"operation": "cutting", "tabs": 6, "tab_width": 5.0, "tab_at": (0.0347, 0.3251, 0.4163, 0.5426, 0.7838, 0.9081)},
)  # of the tablet


def read_behind(turn: float) -> list[Edit]:
    """The same letters on the back, turned there."""
    made = JOBS["taped"]()
    front = next(a for a in made.artwork if a.kind == "lettering")
    cut = next(o for s in made.setups for o in s.operations if front.id in o.on)
    art = {"kind": "lettering", "id": "behind", "face": "back", "x": 60.0, "y": 40.0, "turn": turn, "lines": front.figures.lines}  # fmt: skip
    done = {"setup": "over", "kind": "vcut", "id": "lettering-behind", "on": ("behind",), "tool": cut.figures.tool}
    return [("add setup", {"id": "over", "up": "back"}), ("add art", art), ("add operation", done)]


MEASURED: Edit = ("measure slot", {"setup": "over", "opening": 52.0, "piece": 40.0})


def against(fence: str, stop: str) -> Edit:
    """Which edges the board lies against."""
    return "set register", {"setup": "front", "kind": "edge", "fence": fence, "stop": stop}


def stands(heading: float) -> Edit:
    """How the stop runs."""
    return "set on bed", {"what": "fences", "name": "Stop", "values": {"heading": heading}}


def skimmed(day: str) -> Edit:
    """When the bed was skimmed last."""
    return "set bed", {"skimmed": day}


def LOWER_BY(much: float) -> Edit:
    """The board laid so far off the long edge."""
    return "place blank", {"setup": "front", "x": 520.0, "y": 310.0 + much}


def lain(up: str) -> list[Edit]:
    """The board laid against the same edges once more, a face up, and drilled."""
    edge = ("set register", {"setup": "over", "kind": "edge", "fence": "Long edge", "stop": "Stop"})
    return [("add setup", {"id": "over", "up": up}), edge, *holes("more", up, 60.0, 30.0, 60.0)]


def larger(x: float) -> list[Edit]:
    """A hole of 7 mm drilled over the old one of 6 at 15, 40."""
    return [*holes("larger", "front", x, 40.0, number=1, setup="front"), ("set art", {"art": "larger", "across": 7.0})]


def behind(x: float) -> list[Edit]:
    """The plate's letters once more, on its back."""
    return [
        ("add setup", {"id": "over", "up": "back"}), ("add art", {"kind": "lettering", "id": "rear", "face": "back", "x": x, "y": 40.0, "lines": plate().carving.lines}),
        ("add operation", {"setup": "over", "kind": "vcut", "on": ("rear",), "tool": 4}),
    ]  # fmt: skip


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
    # the tip of a bit 48 long gets 6 deep into the bed, 2 short of where its travel ends
    spoiled(
        "register.pins-out-of-travel",
        STOP,
        "taped",
        [*pinned(), pins(turn=2.0), tool(2, length=48.1)],
        *pinned(),
        pins(turn=2.0),
        tool(2, length=47.9),
    ),
    spoiled(
        "register.pins-unbored",
        STOP,
        "taped",
        [*pinned(), pins(turn=2.0, across=6.0)],
        *pinned(),
        pins(turn=2.0, across=5.9),
    ),
    spoiled("register.pins-new", NOTE, "taped", [*pinned(), pins(turn=0.01)], *pinned(), pins(turn=2.0)),
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
    spoiled("register.marks-few", STOP, "taped", again(), *again(), by_marks()),
    spoiled("register.marks-free", STOP, "taped", by_edges(LEFT, LOWER, OTHER), *by_edges(LEFT, LOWER)),
    spoiled("register.mark-off-board", STOP, "taped", [*again(), mark(y=80.4)], *again(), mark(y=80.6)),
    spoiled("register.marks-two", CARE, "taped", again(), *again(number=2)),
    spoiled("register.marks-three", NOTE, "taped", again(edges=True), *again()),
    spoiled(
        "register.marks-one-sided", CARE, "taped", by_edges(LEFT, LOWER, OTHER, RIGHT), *by_edges(LEFT, LOWER, OTHER)
    ),
    spoiled("register.marks-good", OK, "taped", [*again(), by_marks(eye=0.2)], *again()),
    spoiled("register.marks-loose", CARE, "taped", [*again(), eye(0.107)], *again(), eye(0.109)),
    spoiled("register.marks-unread", NOTE, "taped", [*again(), *READ], *again(), *READ[:2]),
    spoiled("register.marks-fit", OK, "taped", [*again(), *READ[:2]], *again(), *READ),
    spoiled(
        "register.marks-do-not-fit",
        CARE,
        "taped",
        [*again(), *READ[:2], read(3, 30.0, 66.0, dx=0.3)],
        *again(),
        *READ[:2],
        read(3, 30.0, 66.0, dx=2.5),
    ),
    spoiled("register.marks-turned", CARE, "taped", [*again(), *around(9.9)], *again(), *around(10.1)),
    spoiled(
        "register.marks-chamfer",
        CARE,
        "taped",
        [*again(edges=True), *READ, *touched(0.25)],
        *again(edges=True),
        *READ,
        *touched(2.0),
    ),
    spoiled("register.nest-none", STOP, "taped", tablet(), *tablet(rim=False)),
    spoiled(
        "register.nest-not-over",
        STOP,
        "taped",
        tablet(),
        *tablet(),
        ("set setup", {"setup": "over", "up": "front", "spin": 180}),
    ),
    spoiled("register.nest-slot", CARE, "taped", tablet(), *tablet(measured=False)),
    spoiled(
        "register.nest-slot-other",
        CARE,
        "taped",
        [*tablet(), MEASURED],
        *tablet(),
        MEASURED,
        ("set tool", {"number": 2, "name": "Another"}),
    ),
    spoiled("register.nest-beside", STOP, "taped", [*tablet(), framed_at(0.015)], *tablet(), framed_at(0.025)),
    spoiled("register.nest-frame", CARE, "taped", [*tablet(), blank(length=154.1)], *tablet(), blank(length=153.9)),
    spoiled(
        "register.nest-moved", CARE, "taped", tablet(), *tablet(), ("remove hold", {"setup": "over", "hold": "T2"})
    ),
    spoiled("register.nest-tabs", NOTE, "taped", [*tablet(), BY_RISERS], *tablet()),
    spoiled("register.nest-tabs-stand", OK, "taped", tablet(), *tablet(), BY_RISERS),
    spoiled("register.nest-tight", STOP, "taped", tablet(slot=5.93), *tablet(slot=5.87)),
    spoiled(
        "register.nest-good", OK, "taped", [*tablet(slot=6.12), *holes(y=70.0)], *tablet(slot=5.97), *holes(y=70.0)
    ),
    spoiled(
        "register.nest-loose", CARE, "taped", [*tablet(slot=5.97), *holes(y=70.0)], *tablet(slot=6.12), *holes(y=70.0)
    ),
    spoiled("register.nest-ways", CARE, "taped", tablet(), *tablet(key=False)),
    spoiled("register.edge-none", STOP, "taped", fenced(), *fenced(), against("Gone", "Stop")),
    spoiled("register.edge-none", STOP, "taped", fenced(), *fenced(), against("", "")),
    spoiled("register.edge-one-way", STOP, "taped", [*fenced(), stands(-80.0)], *fenced(), stands(-78.0)),
    spoiled("register.edge-not-milled", CARE, "taped", fenced(), *fenced(milled="")),
    spoiled(
        "register.edge-lapsed", CARE, "taped", [*fenced(), skimmed("2026-11-20")], *fenced(), skimmed("2026-11-21")
    ),
    spoiled(
        "register.edge-lapsed",
        CARE,
        "taped",
        [*fenced(), machine(squared="2026-11-20")],
        *fenced(),
        machine(squared="2026-11-22"),
    ),
    spoiled("register.edge-away", STOP, "taped", [*fenced(), LOWER_BY(0.29)], *fenced(), LOWER_BY(0.31)),
    spoiled("register.edge-good", OK, "taped", [*fenced(), ("set job", {"tolerance": "heirloom"})], *fenced()),
    spoiled("register.edge-loose", CARE, "taped", fenced(), *fenced(), ("set job", {"tolerance": "heirloom"})),
    spoiled("register.edge-longer", NOTE, "taped", fenced(), *fenced(), against("Stop", "Long edge")),
    spoiled(
        "register.edge-stays",
        NOTE,
        "taped",
        [*fenced(), *holes("near", "front", 60.0, 5.0, 60.0, setup="front")],
        *fenced(),
    ),
    spoiled(
        "register.edge-nicked",
        CARE,
        "taped",
        [*fenced(), *holes("near", "front", 60.0, 8.0, 60.0, setup="front")],
        *fenced(),
        *holes("near", "front", 60.0, 5.0, 60.0, setup="front"),
    ),
    spoiled("register.reads-otherwise", CARE, "taped", read_behind(119.0), *read_behind(121.0)),
    spoiled("register.edge-other", CARE, "taped", [*fenced(), *lain("front")], *fenced(), *lain("back")),
    spoiled(
        "register.nest-unheld",
        STOP,
        "taped",
        tablet(),
        *tablet(),
        ("remove hold", {"setup": "over", "hold": "T1"}),
        ("remove hold", {"setup": "over", "hold": "T2"}),
    ),
    # the old is 6 wide: 7 about its middle takes 0.5 off, and 0.3 beside it 0.2
    spoiled("register.hole-breaks-out", STOP, "taped", [*again(), *larger(15.49)], *again(), *larger(15.52)),
    spoiled("register.hole-may-show", CARE, "taped", [*again(), *larger(15.25)], *again(), *larger(15.29)),
    # letters 19 wide in a plate from 12 to 108, seen from behind
    spoiled("carve.cut-away", STOP, "plate", behind(97.0), *behind(104.0)),
    spoiled("carve.cut-away", STOP, "plate", behind(23.0), *behind(16.0)),
]
