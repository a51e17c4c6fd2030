# SPDX-License-Identifier: GPL-3.0-or-later
"""Findings about what is sunk, and what brings each about."""

from __future__ import annotations

from typing import Any

import numpy as np

from gatepost.core.carve.edits import outlines
from gatepost.core.geometry.levels import WHITE, packed
from gatepost.core.job.tool import Tool
from tests.core.catalogue_jobs import CARE, NOTE, OK, STOP, Edit, spoiled, tool


def ground(**values: Any) -> Edit:
    """The ground round the letters."""
    return "set operation", {"operation": "ground", **values}


def recess(**values: Any) -> Edit:
    """A recess in the middle, 20 by 12 mm with corners of 3 mm radius where nothing else is said."""
    return "add recess", {
        "setup": "front",
        "depth": 2.0,
        "tools": (2,),
        "width": 20.0,
        "height": 12.0,
        "corner": 3.0,
        **values,
    }


def two_recesses(front: float, back: float, apart: float = 0.0) -> list[Edit]:
    """A recess in the middle of the front and no letters, and one in the back so far beside it, each so deep."""
    return [
        ("remove operation", {"operation": "lettering"}), recess(depth=front, corner=3.2), ("add setup", {"id": "over", "up": "back"}),
        recess(setup="over", depth=back, corner=3.2), ("set art", {"art": "outline-1", "x": 60.0 + apart}),
    ]  # fmt: skip


def PRESSING(y: float) -> Edit:
    """A strap on the board as it lies with its back up, its bolt so far from the front."""
    return "add hold", {
        "setup": "over",
        "kind": "strap",
        "heading": 90,
        "nose": 124,
        "tail": 50,
        "packing": 18,
        "width": 24,
        "x": 580,
        "y": y,
    }


def frame(hole: float) -> list[Edit]:
    """A square frame of 40 cut out in the place of the plate, with a square hole in it where that has a size."""
    half = hole / 2.0
    inner = f"M{-half} {-half}L{half} {-half}L{half} {half}L{-half} {half}Z" if hole else ""
    path = "M-20.0 -20.0L20.0 -20.0L20.0 20.0L-20.0 20.0Z" + inner
    return [
        ("set plate", {"present": False}), ("remove operation", {"operation": "lettering"}),
        ("add drawing", {"setup": "front", "path": path, "wide": 40.0, "high": 40.0, "id": "frame"}), ("set art", {"art": "frame", "x": 60.0, "y": 40.0}), ("cut out drawing", {"art": "frame"}),
    ]  # fmt: skip


def plate_of(high: float) -> Edit:
    """A plate 96 long with square corners, so wide."""
    return "set plate", {"height": high, "width": 96.0, "corner": 0.0}


def bored(x: float) -> list[Edit]:
    """A hole of 2 mm, at X and in the middle across."""
    return [("add holes", {"setup": "front", "across": 2.0, "id": "bored"}), ("set art", {"art": "bored", "x": x})]


WHOLE = ("set operation", {"operation": "cut-out", "side": "inside", "hole": 1, "tabs": 2})


def screw(long: float) -> Edit:
    """One screw from behind, in the middle."""
    return "add behind", {"setup": "front", "kind": "screws", "number": 1, "long": long}


def hanger(head: float) -> Edit:
    """A hanger recess 10 deep, its undercut so high."""
    return "add behind", {"setup": "front", "kind": "hanger", "head": head}


def stencil(tracking: float = 0.01, **values: Any) -> list[Edit]:
    """Two letters with something inside, cut through the board by an end mill that is long enough."""
    letters = set_line(**outlines("OO", "Sans"), height=40.0, tracking=tracking)
    long = tool(2, cutting_length=22.0)
    return [long, letters, ("cut letters through", {"operation": "lettering", "tools": (2,), **values})]


def ramp(**values: Any) -> Edit:
    """A relief 15 by 10 mm in the middle, from black on the left to white on the right, by an end mill and a ball, where nothing else is said."""
    levels = np.tile(np.linspace(1, WHITE, 60).astype(np.uint16), (40, 1))
    heights = {"columns": 60, "rows": 40, "grid": packed(levels), "width": 15.0, "height": 10.0, "black": 4.0}
    return "add relief", {"setup": "front", "tools": (2, 15), **heights, **values}


BALL: Edit = ("add tool", {"tool": Tool(number=15, name="ball", kind="ball", diameter=3, cutting_length=12, shank=6, length=50, rpm=20000, feed=1500, plunge=500, pass_depth=2)})  # fmt: skip
THIN: Edit = ("add tool", {"tool": Tool(number=16, name="thin ball", kind="ball", diameter=1, cutting_length=6, shank=3, length=42, rpm=20000, feed=800, plunge=300, pass_depth=1)})  # fmt: skip


def gouged(**values: Any) -> Edit:
    """A gouged ground round the letters, of strokes that are all alike where nothing else is said."""
    return "add gouged ground", {"setup": "front", "tools": (2, 15), "varied": 0.0, "rim": 24.0, **values}


DRILL: Edit = ("add tool", {"tool": Tool(number=17, name="drill", kind="drill", diameter=6, cutting_length=12, shank=6, length=50, rpm=6000, feed=400, plunge=400, pass_depth=6)})  # fmt: skip


def holes(**values: Any) -> Edit:
    """A hole of 6 mm in the middle, 8 deep, where nothing else is said."""
    return "add holes", {"setup": "front", "across": 6.0, "deep": 8.0, "tool": 17, **values}


def line(**values: Any) -> Edit:
    """A border 30 mm inside the board’s edge, where nothing else is said."""
    return "add engraved line", {"setup": "front", "inset": 22.0, **values}


SLIM: Edit = ("add tool", {"tool": Tool(number=18, name="slim end mill", kind="flat", diameter=1, cutting_length=18, shank=6, length=50, rpm=20000, feed=500, plunge=200, pass_depth=0.5)})  # fmt: skip


def cut_star(inner: float) -> list[Edit]:
    """A star of four, 40 across, cut out in the place of the plate. inner: how far its inner corners lie from its middle, mm."""
    at = inner / 2.0**0.5
    round_ = [(20.0, 0.0), (at, at), (0.0, 20.0), (-at, at), (-20.0, 0.0), (-at, -at), (0.0, -20.0), (at, -at)]
    path = "M" + "L".join(f"{x:.4f} {y:.4f}" for x, y in round_) + "Z"
    return [
        ("set plate", {"present": False}), ("remove operation", {"operation": "lettering"}),
        ("add drawing", {"setup": "front", "path": path, "wide": 40.0, "high": 40.0, "id": "star"}), ("set art", {"art": "star", "x": 60.0, "y": 40.0}), ("cut out drawing", {"art": "star"}),
    ]  # fmt: skip


SMALL: Edit = (
    "add tool",
    {"tool": Tool(number=12, name="small end mill", kind="flat", diameter=3, cutting_length=12, shank=3, length=42, rpm=20000, feed=1500, plunge=500, pass_depth=2)},
)  # fmt: skip


def mark(y: float) -> list[Edit]:
    """A square of 6 mm, V-cut with its middle so far from the board's front edge."""
    square = "M-3.0000 -3.0000L3.0000 -3.0000L3.0000 3.0000L-3.0000 3.0000Z"
    return [
        ("add drawing", {"setup": "front", "path": square, "wide": 6.0, "high": 6.0, "id": "mark"}),
        ("set art", {"art": "mark", "y": y, "x": 57.0}),
    ]


def set_line(**values: Any) -> Edit:
    """The line IT, 20.7 mm long at letters 16 high, 3.703 mm between them."""
    return "set line", {"line": "line-1", **values}


def coat(thick: float) -> Edit:
    """The front coated before it is carved."""
    return "add coat", {"name": "primer", "face": "front", "thickness": thick}


SUNK = [
    # the plate is 56 high: a cutter that leaves 0.3 on each side fits where it is 55.4
    spoiled("carve.cutout-narrow", STOP, "plate", [tool(2, diameter=55.3), ("set plate", {"side": "inside"})], tool(2, diameter=55.5), ("set plate", {"side": "inside"})),
    # the thinnest stroke is 2.4546 deep, and 0.3 are wanted under the film
    spoiled("carve.under-film", CARE, "strapped", coat(2.154), coat(2.156)),
    spoiled("carve.sands-film", CARE, "strapped", [coat(0.1), ("set carving", {"sanding": 0.0})], coat(0.1)),
    # the board is 16 thick: six tenths of it are 9.6
    spoiled("carve.ten-times", CARE, "strapped", recess(depth=9.55), recess(depth=9.65)),
    spoiled("carve.backwards", STOP, "strapped", [("set carving", {"mirror": True}), ("set art", {"art": "lettering", "backwards": True})], ("set carving", {"mirror": True})),
    spoiled("carve.meant-backwards", NOTE, "strapped", ("set carving", {"mirror": True}), ("set carving", {"mirror": True}), ("set art", {"art": "lettering", "backwards": True})),
    # its I is 2 · 1.463 wide
    spoiled("carve.letters-gone", STOP, "strapped", set_line(bolder=-1.46), set_line(bolder=-1.465)),
    spoiled("carve.single-line", STOP, "strapped", None, set_line(**outlines("IT", "Single line"))),
    # half of the bar of its T is 1.417
    spoiled("carve.letters-broken", CARE, "strapped", set_line(bolder=-1.41), set_line(bolder=-1.425)),
    # 20.709 / (2π · 0.97) is 3.398
    spoiled("carve.arc-tight", STOP, "strapped", set_line(run="over", radius=3.41), set_line(run="over", radius=3.39)),
    spoiled("carve.arc-tight", STOP, "strapped", set_line(run="under", radius=19.21), set_line(run="under", radius=19.19)),
    # a sixteenth of what the letters are to come nearer, less the 0.1 that are between them now
    spoiled("carve.letters-meet", CARE, "strapped", set_line(tracking=-0.1126), set_line(tracking=-0.1128)),
    spoiled("carve.sunk-nothing", CARE, "raised", None, ground(on=())),
    spoiled("carve.sunk-tool", STOP, "raised", None, ground(tools=(2, 1, 3))),
    spoiled("carve.sunk-short", STOP, "raised", tool(2, cutting_length=2.0), tool(2, cutting_length=1.95)),
    # 2 mm deep a 60° bit cuts 2·tan 30° to each side, with an edge that is 2 mm long and no longer
    spoiled("carve.sunk-vee", STOP, "raised", tool(3, cutting_length=2.0), tool(3, cutting_length=1.95)),
    spoiled("carve.sunk-deep", STOP, "raised", ground(depth=13.97), ground(depth=14.03)),
    spoiled("carve.sunk-floor", OK, "raised", ground(depth=14.03), ground(depth=3.0)),
    # the plate is 56 high and its rim 8: letters 16 high in its middle reach it when they stand 12 mm off
    spoiled("carve.sunk-crossing", CARE, "raised", ("set art", {"art": "lettering", "y": 51.9}), ("set art", {"art": "lettering", "y": 53.5})),
    # of a board 80 wide, a recess 12 high round Y 74 ends at its edge
    spoiled("carve.sunk-off-board", CARE, "strapped", [recess(), ("set art", {"art": "outline", "y": 74.0})], recess(), ("set art", {"art": "outline", "y": 74.2})),
    # as wide as the end mill, which is 6: it fits
    spoiled("carve.sunk-unfit", CARE, "strapped", recess(height=6.0, corner=0.0), recess(height=5.9, corner=0.0)),
    # of a corner of radius r a cutter of 3 leaves (1 - π/4)·(9 - r²): of four 1 mm² where r is 2.8
    spoiled("carve.sunk-unreached", CARE, "strapped", recess(corner=2.85), SMALL, recess(corner=2.7)),
    spoiled("carve.sunk-by-the-v", NOTE, "raised", None, ground(rim=8.0)),
    spoiled("carve.sunk-by-the-v", CARE, "raised", None, SMALL, ground(tools=(3,))),
    # letters 16 high about Y 40 of a ground that begins 20 lower, at Y 20: a mark below both, and over each
    spoiled("carve.cut-into-raised", CARE, "raised", mark(14.0), *mark(40.0)),
    spoiled("carve.cut-over-floor", CARE, "raised", mark(13.0), *mark(25.0)),
    # letters 16 high, from Y 32 to 48, and a plate about Y 40; a hole of 2 mm ends 1 mm before the plate's end at X 108
    spoiled("carve.cut-away", STOP, "raised", [ground(on=("lettering",)), plate_of(16.0)], ground(on=("lettering",)), plate_of(15.8)),
    spoiled("carve.cut-away", CARE, "strapped", [*bored(107.0), plate_of(60.0)], *bored(107.5), plate_of(60.0)),
    spoiled("carve.which-first", NOTE, "raised", None, ("add engraved line", {"setup": "front", "on": ("plate",), "inset": 3.0})),
    # letters 16 high about Y 40 end at 48: a mark 6 high stands over them from Y 51 down
    spoiled("carve.cut-twice", CARE, "strapped", mark(51.2), *mark(50.0)),
    spoiled("carve.stencil-nothing", CARE, "strapped", stencil(), *stencil(), ("set operation", {"operation": "lettering", "on": ()})),
    spoiled("carve.stencil-tool", STOP, "strapped", stencil(), *stencil(tools=(2, 3))),
    # the board is 16.0 thick, and 0.3 goes into what lies under it
    spoiled("carve.stencil-short", STOP, "strapped", [*stencil(), tool(2, cutting_length=16.35)], *stencil(), tool(2, cutting_length=16.25)),
    spoiled("carve.stencil-island", STOP, "strapped", stencil(bridge=0.5), *stencil(bridge=0.0)),
    spoiled("carve.stencil-held", OK, "strapped", stencil(bridge=0.0), *stencil()),
    # a quarter of 16.0, or 4
    spoiled("carve.stencil-bridge", CARE, "strapped", stencil(bridge=4.01), *stencil(bridge=3.99)),
    # the grain runs along X
    spoiled("carve.stencil-grain", NOTE, "strapped", stencil(way="across"), *stencil(way="upright")),
    # two O 40 high stand 4 apart by themselves
    spoiled("carve.stencil-web", CARE, "strapped", stencil(tracking=0.001), *stencil(tracking=-0.001)),
    spoiled("carve.stencil-rim", NOTE, "strapped", None, *stencil()),
    spoiled("carve.holes-left", CARE, "plate", frame(0.0), *frame(20.0)),
    spoiled("carve.no-hole", STOP, "plate", [*frame(20.0), WHOLE], *frame(0.0), WHOLE),
    # a floor 8 down in a board 16 thick, and a screw of 4 under its middle
    spoiled("carve.behind-through", STOP, "strapped", [recess(depth=8.0), screw(7.99)], recess(depth=8.0), screw(8.01)),
    spoiled("carve.behind-thin", CARE, "strapped", [recess(depth=8.0), screw(5.98)], recess(depth=8.0), screw(6.02)),
    spoiled("carve.behind-held", OK, "strapped", [recess(depth=8.0), screw(6.02)], recess(depth=8.0), screw(5.98)),
    spoiled("carve.behind-edge", CARE, "strapped", [screw(3.0), ("set art", {"art": "screws", "y": 8.01})], screw(3.0), ("set art", {"art": "screws", "y": 7.99})),
    spoiled("carve.behind-lip", CARE, "strapped", hanger(6.99), hanger(7.01)),
    spoiled("carve.sunk-pays", NOTE, "raised", [SMALL, ground(tools=(2, 3))], SMALL, ("add recess", {"setup": "front", "width": 80.0, "height": 45.0, "tools": (12, 3)})),
    spoiled("carve.relief-tool", STOP, "strapped", [BALL, ramp()], BALL, ramp(tools=(2, 3, 15))),
    spoiled("carve.relief-no-ball", STOP, "strapped", [BALL, ramp()], ramp(tools=(2,))),
    # the ball's edge is 12 long
    spoiled("carve.relief-short", STOP, "strapped", [BALL, ramp(black=12.0)], BALL, ramp(black=12.05)),
    # the board is 16 thick, and 2 are wanted under it
    spoiled("carve.relief-deep", STOP, "strapped", [BALL, tool(15, cutting_length=16), ramp(black=13.97)], BALL, tool(15, cutting_length=16), ramp(black=14.03)),
    spoiled("carve.relief-floor", OK, "strapped", [BALL, tool(15, cutting_length=16), ramp(black=14.03)], BALL, ramp()),
    # of a board 80 wide a relief 10 high about Y 75 ends at its edge
    spoiled("carve.relief-off-board", CARE, "strapped", [BALL, ramp(), ("set art", {"art": "heights", "y": 75.0})], BALL, ramp(), ("set art", {"art": "heights", "y": 75.2})),
    spoiled("carve.relief-flat", CARE, "strapped", [BALL, ramp(white=3.5)], BALL, ramp(white=4.0)),
    # along the deep side and half of both others a ball of radius r leaves a strip as wide as r at the foot of a wall
    spoiled("carve.relief-missed", NOTE, "strapped", [THIN, ramp(black=0.2, tools=(2, 16))], BALL, ramp()),
    spoiled("carve.gouge-nothing", CARE, "strapped", [BALL, gouged()], BALL, gouged(rim=41.0)),
    spoiled("carve.gouge-tool", STOP, "strapped", [BALL, gouged()], BALL, gouged(tools=(2, 3, 15))),
    spoiled("carve.gouge-no-ball", STOP, "strapped", [BALL, gouged()], gouged(tools=(2,))),
    # the ball takes 2 mm at once, and its edge is 12 long
    spoiled("carve.gouge-deep", STOP, "strapped", [BALL, gouged(scoop=2.0)], BALL, gouged(scoop=2.05)),
    spoiled("carve.gouge-short", STOP, "strapped", [BALL, gouged(cleared=11.0, scoop=1.0)], BALL, gouged(cleared=11.05, scoop=1.0)),
    # the board is 16 thick, and 2 are wanted under it
    spoiled("carve.gouge-through", STOP, "strapped", [BALL, tool(15, cutting_length=16), gouged(cleared=12.97, scoop=1.0)], BALL, tool(15, cutting_length=16), gouged(cleared=13.03, scoop=1.0)),
    spoiled("carve.gouge-floor", OK, "strapped", [BALL, tool(15, cutting_length=16), gouged(cleared=13.03, scoop=1.0)], BALL, gouged()),
    spoiled("carve.gouge-touched", OK, "strapped", [BALL, gouged(apart=12.0)], BALL, gouged(apart=2.0)),
    spoiled("carve.gouge-sparse", CARE, "strapped", [BALL, gouged(apart=2.0)], BALL, gouged(apart=12.0)),
    spoiled("carve.gouge-unreached", CARE, "strapped", [BALL, gouged(cleared=0.0)], BALL, SMALL, tool(12, diameter=0.5), gouged(cleared=2.0)),
    spoiled("carve.drill-tool", STOP, "strapped", [DRILL, holes()], DRILL, holes(across=6.1)),
    # the drill's edge is 12 long
    spoiled("carve.drill-short", STOP, "strapped", [DRILL, holes(deep=12.0)], DRILL, holes(deep=12.05)),
    # the board is 16 thick, and 2 are wanted under it
    spoiled("carve.drill-deep", STOP, "strapped", [DRILL, tool(17, cutting_length=20), holes(deep=13.97)], DRILL, tool(17, cutting_length=20), holes(deep=14.03)),
    spoiled("carve.drill-floor", OK, "strapped", [DRILL, tool(17, cutting_length=20), holes(through=True)], DRILL, holes()),
    # a hole of 6 about 3 from the edge of a board 80 wide
    spoiled("carve.drill-off-board", CARE, "strapped", [DRILL, holes(), ("set art", {"art": "holes", "y": 76.9})], DRILL, holes(), ("set art", {"art": "holes", "y": 77.1})),
    # the border is 64 high: 32 inside its outline nothing is left
    spoiled("carve.line-nothing", CARE, "strapped", line(inset=31.9), line(inset=32.1)),
    spoiled("carve.line-tool", STOP, "strapped", line(), line(tool=1)),
    # a V-bit of 25 and 60° cuts 12.5·√3 deep
    spoiled("carve.line-short", STOP, "strapped", [BALL, line(tool=15, sunk=12.0)], BALL, line(tool=15, sunk=12.05)),
    spoiled("carve.line-deep", STOP, "strapped", [BALL, tool(15, cutting_length=20), line(tool=15, sunk=13.97)], BALL, tool(15, cutting_length=20), line(tool=15, sunk=14.03)),
    spoiled("carve.line-off-board", CARE, "strapped", [line(inset=0.0), ("set art", {"art": "border", "y": 44.0})], line(inset=0.0), ("set art", {"art": "border", "y": 49.0})),
    # a star of four whose inner corners lie in by a share: a cutter of 3 leaves 0.9 mm² in them at 0.6, and 1.9 at 0.7
    spoiled("carve.cutout-unreached", CARE, "plate", [SLIM, *cut_star(8.0)], SLIM, *cut_star(6.0)),
]  # fmt: skip
