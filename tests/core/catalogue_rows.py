# SPDX-License-Identifier: GPL-3.0-or-later
"""Findings by stage."""

from __future__ import annotations

import math

from gatepost.core.carve.edits import outlines
from tests.core.catalogue_jobs import (
    CARE,
    HALF,
    JAWS,
    NOTE,
    OK,
    OLD,
    ON_END,
    STOP,
    Edit,
    bed,
    blank,
    cut,
    flat,
    hold,
    machine,
    spoiled,
    tool,
    without,
    zero,
)


def spaced(leading: float) -> Edit:
    """Lines so far apart."""
    return "set carving", {"leading": leading}


LOWER: Edit = ("add line", {"height": 6.0, **outlines("EEE", "Sans")})

BLANK = [
    spoiled("blank.other-unit", CARE, "plate", blank(calipers=(), heights=(), length=60.1, width=5, label_thickness=4),
            blank(calipers=(), heights=(), length=8, width=5, label_thickness=0.7)),
    *(spoiled(f"blank.{code}", STOP, "plate", blank(**OLD), blank(**{**OLD, field: True}))
      for field, code in (("metal", "metal"), ("old_paint", "old-paint"), ("treated", "treated"))),
    *(spoiled(f"blank.{code}-asked", CARE, "plate", blank(**OLD), blank(**{**OLD, field: None}))
      for field, code in (("metal", "metal"), ("old_paint", "old-paint"), ("treated", "treated"))),
    spoiled("blank.old-wood", NOTE, "plate", None, blank(reclaimed=None)),
    spoiled("blank.good-face", CARE, "plate", blank(good_face="either"), blank(good_face="back")),
    spoiled("blank.irreplaceable", CARE, "plate", None, ("set job", {"irreplaceable": True})),
    spoiled("blank.moisture", CARE, "plate", blank(moisture=12.0), blank(moisture=12.1)),
    spoiled("blank.square", CARE, "plate", blank(diagonals=(144.2, 144.2)), blank(diagonals=(146.0, 142.4))),
    spoiled("blank.diagonals", CARE, "plate", blank(diagonals=(146.2, 146.2)), blank(diagonals=(146.3, 146.3))),  # √(120² + 80²) + 2
    spoiled("blank.label-only", STOP, "plate", [("remove caliper", {"caliper": f"caliper-{i}"}) for i in range(1, 6)],
         ("set heights", {"face": "top", "rows": []}), *(("remove caliper", {"caliper": f"caliper-{i}"}) for i in range(1, 6))),
    spoiled("blank.not-measured", CARE, "plate", None, *(("remove caliper", {"caliper": f"caliper-{i}"}) for i in range(1, 6))),
    spoiled("blank.few-readings", CARE, "plate", ("remove caliper", {"caliper": "caliper-1"}), *(("remove caliper", {"caliper": f"caliper-{i}"}) for i in (1, 2))),
    spoiled("blank.odd-reading", CARE, "plate", ("set caliper", {"caliper": "caliper-5", "thickness": 16.1}), ("set caliper", {"caliper": "caliper-5", "thickness": 16.4})),
    spoiled("blank.label", NOTE, "plate", blank(label_thickness=16.3), blank(label_thickness=16.31)),  # mean 16.002 + 0.3
    spoiled("blank.rocks", CARE, "plate", None, blank(rocks=True)),
    spoiled("blank.reading-off-board", STOP, "plate", ("set caliper", {"caliper": "caliper-5", "x": 120.0}), ("set caliper", {"caliper": "caliper-5", "x": 120.5})),
    spoiled("blank.reading-off-outline", STOP, "plate", [blank(shape="oval"), *(("set caliper", {"caliper": f"caliper-{i + 1}", "x": 60, "y": 6 + i}) for i in range(5)), *(("set height", {"height": f"height-{i + 1}", "x": 40 + 9 * i, "y": 40 - 10 * (i % 2)}) for i in range(5))],
         blank(shape="oval")),
    spoiled("blank.outline", STOP, "plate", blank(shape="outline", outline=((0, 0), (120, 0), (120, 80), (0, 80))), blank(shape="outline", outline=((0, 0), (120, 80), (120, 0), (0, 80)))),
    spoiled("blank.coats", NOTE, "plate", ("add coat", {"name": "primer", "face": "back", "thickness": 0.1}), ("add coat", {"name": "primer", "thickness": 0.1})),
    spoiled("blank.coats-surfaced", CARE, "slab", ("add coat", {"name": "primer", "face": "back", "thickness": 0.1}), ("add coat", {"name": "primer", "thickness": 0.1})),
    spoiled("blank.flaw-depth", NOTE, "plate", ("add flaw", {"kind": "knot", "x": 20, "y": 20, "depth": 3.0}), ("add flaw", {"kind": "knot", "x": 20, "y": 20})),
    spoiled("blank.flaw-through", CARE, "plate", ("add flaw", {"kind": "knot", "x": 20, "y": 20, "depth": 15.9}), ("add flaw", {"kind": "knot", "x": 20, "y": 20, "depth": 16.0})),
    spoiled("blank.flaw-gone", OK, "slab", ("add flaw", {"kind": "knot", "x": 100, "y": 60, "depth": 3.0}), ("add flaw", {"kind": "knot", "x": 100, "y": 60, "depth": 0.5})),
    spoiled("blank.batch-nothing-left", STOP, "batch", ("set batch", {"way": "trim all to the smallest", "allowance": 15.9}), ("set batch", {"way": "trim all to the smallest", "allowance": 16.0})),
    spoiled("blank.batch-each", CARE, "batch", ("set batch", {"tolerance": 0.11}), ("set batch", {"tolerance": 0.09})),
    spoiled("blank.batch-nest", CARE, "batch", ("set batch", {"nest_length": 120.0}), ("set batch", {"nest_length": 119.99})),
    spoiled("blank.batch-play", CARE, "batch", ("set batch", {"play": 0.5}), ("set batch", {"play": 0.49})),
    spoiled("blank.cut-list", CARE, "plate", [("set stock", {"length": 250, "width": 85, "thickness": 18}), ("add saw cut", {"size": "length", "to": 246.85})], ("set stock", {"length": 250, "width": 85, "thickness": 18}), ("add saw cut", {"size": "length", "to": 246.9})),
]  # fmt: skip

LOOKED: Edit = ("clamped", {"setup": "front"})  # something happened, on 2026-11-02


def thin(tall: float) -> list[Edit]:
    """A thinner board."""
    return [*(("set caliper", {"caliper": f"caliper-{i + 1}", "thickness": tall}) for i in range(5)), *(("set height", {"height": f"height-{i + 1}", "z": tall}) for i in range(5))]  # fmt: skip


def under(gap: float) -> Edit:
    """A board that stands off the bed everywhere by as much."""
    places = [(10, 10), (110, 10), (110, 70), (10, 70), (60, 40)]
    return "set heights", {"face": "under", "rows": [(x, y, gap) for x, y in places]}


UNDER = [under(0.5)]

HOLD = [
    spoiled("hold.bolt-deep", STOP, "plate", ("add hold", {"setup": "front", "kind": "bolted", "x": 560, "y": 340, "into": 13.0}), ("add hold", {"setup": "front", "kind": "bolted", "x": 560, "y": 340, "into": 13.01})),  # of 16, 3 over it
    spoiled("hold.clearance", CARE, "plate", cut(height=61.3), cut(height=61.6)),  # the cutter's edge: 40 - height / 2 - 0.3 - 6 from the jaws
    spoiled("hold.clearance", STOP, "plate", cut(height=67.3), cut(height=67.5)),
    spoiled("hold.clear", OK, "plate", cut(height=61.6), cut(height=61.3)),
    *(spoiled("hold.jaw-off", STOP, "plate", hold("E1", y=near), hold("E1", y=over)) for near, over in ((311.0, 311.02), (309.0, 308.98))),
    spoiled("hold.bows", CARE, "plate", hold("E1", force=0), hold("E1", force=50000)),
    spoiled("hold.nose-up", STOP, "strapped", hold("C1", packing=16.0), hold("C1", packing=15.99)),
    spoiled("hold.nose-steep", CARE, "strapped", hold("C1", packing=31.22), hold("C1", packing=31.23)),  # 16 + 174·tan 5°
    spoiled("hold.off-work", STOP, "strapped", hold("C1", nose=113.01), hold("C1", nose=112.99)),  # 110 + 10 - 7
    spoiled("hold.no-slot", STOP, "strapped", hold("C1", y=201.0), hold("C1", y=201.01)),
    spoiled("hold.packing-on-work", STOP, "strapped", hold("C1", nose=10, tail=40, y=300.0), hold("C1", nose=10, tail=40, y=300.0, heading=270)),
    spoiled("hold.bruise", CARE, "strapped", hold("C1", force=4500), hold("C1", force=6000)),
    spoiled("hold.nut-thin", CARE, "strapped", hold("C1", stud=10.0), hold("C1", stud=10.1)),
    spoiled("hold.no-insert", STOP, "strapped", [bed("inserts", x=535, y=200), hold("C1", into="insert")], hold("C1", into="insert")),
    spoiled("hold.no-insert", STOP, "strapped", [bed("inserts", x=534, y=200), hold("C1", into="insert")], bed("inserts", x=533.9, y=200), hold("C1", into="insert")),
    spoiled("hold.too-few", NOTE, "plate", None, ("add setup", {"id": "later"})),
    spoiled("hold.too-few", STOP, "strapped", [without(n) for n in ("C1", "C2")], *(without(n) for n in ("C1", "C2", "C3"))),
    spoiled("hold.too-few", STOP, "screwed", [without(n) for n in ("S1", "S2")], *(without(n) for n in ("S1", "S2", "S3", "S4"))),
    spoiled("hold.off-bed", STOP, "strapped", hold("C1", x=-23.99), hold("C1", x=-24.01)),  # -40, and half of the packing's 32 mm
    spoiled("hold.overlap", STOP, "strapped", hold("C2", x=567.1), hold("C2", x=566.9)),  # the packings are 8 mm wider than the straps
    spoiled("hold.overlap", STOP, "strapped", bed("fences", name="Rail", x=520, y=120, length=300), bed("fences", name="Rail", x=520, y=160, length=300)),
    spoiled("hold.work-off-bed", STOP, "strapped", ("place blank", {"setup": "front", "x": 1139, "y": 310}), ("place blank", {"setup": "front", "x": 1141, "y": 310})),
    spoiled("hold.rocks", STOP, "plate", None, ("rocked", {"setup": "front", "answer": "rocks"})),
    spoiled("hold.ring", CARE, "strapped", [without(n) for n in ("C3",)], *(without(n) for n in ("C3", "C4"))),
    spoiled("hold.weak", CARE, "plate", [hold(n, force=90) for n in JAWS], *(hold(n, force=80) for n in JAWS)),
    spoiled("hold.weak", STOP, "plate", [hold(n, force=24) for n in JAWS], *(hold(n, force=22) for n in JAWS)),
    spoiled("hold.screw-edge", CARE, "screwed", hold("S1", x=528.0), hold("S1", x=527.99)),
    spoiled("hold.screw-edge", STOP, "screwed", hold("S1", x=522.0), hold("S1", x=521.99)),
    spoiled("hold.no-pilot", CARE, "screwed", None, hold("S1", pilot=False)),
    spoiled("hold.no-screws", STOP, "screwed", ("set bed", {"screws": 0.1}), ("set bed", {"screws": 0.0})),
    spoiled("hold.too-long", STOP, "screwed", hold("S1", bite=18.0), hold("S1", bite=18.1)),
    spoiled("hold.steel-near", CARE, "screwed", hold("S1", x=555, y=350, metal="brass"), hold("S1", x=555, y=350)),
    spoiled("hold.tape-off", STOP, "taped", hold("T1", length=20.1), hold("T1", length=19.9)),  # 20 × 25 × 0.8 = 400
    spoiled("hold.tape-old", CARE, "taped", None, hold("T1", fresh=False)),
    spoiled("hold.tape-scarred", CARE, "taped", bed("scars", points=[(530, 330), (571, 330)], width=6, depth=0.3), bed("scars", points=[(530, 330), (571.2, 330)], width=6, depth=0.3)),  # 6·41.1 + 9·π = 275 of 2750 mm²
    spoiled("hold.no-nest", STOP, "nested", None, hold("N1", of="Drawer")),
    spoiled("hold.not-in-nest", STOP, "nested", ("place blank", {"setup": "front", "x": 520.4, "y": 310.4}), ("place blank", {"setup": "front", "x": 520.5, "y": 310.4})),
    spoiled("hold.nest-lifts", CARE, "nested", without("T1"), without("T1"), without("T2")),
    spoiled("hold.no-stop", STOP, "wedged", None, ("take off bed", {"what": "fences", "name": "Rail"})),
    spoiled("hold.on-fence", STOP, "wedged", ("set on bed", {"what": "fences", "name": "Rail", "values": {"y": 389.993}}), ("set on bed", {"what": "fences", "name": "Rail", "values": {"y": 389.99}})),  # 120 mm of it by 0.007 and by 0.01: a mm²
    spoiled("hold.on-the-face", STOP, "slab", None, ("add hold", {"setup": "surface", "kind": "strap", "x": 535, "y": 200, "heading": 90, "nose": 124, "packing": 20})),
    spoiled("hold.above-plane", STOP, "slab", ("set hold", {"setup": "surface", "hold": "E1", "height": 18.61}), ("set hold", {"setup": "surface", "hold": "E1", "height": 18.62})),
    spoiled("hold.free-corner", NOTE, "strapped", [zero(xy="front left"), *(hold(f"C{i}", x=669.3) for i in (1, 2, 3, 4))], zero(xy="front left"), *(hold(f"C{i}", x=669.4) for i in (1, 2, 3, 4))),  # √(150² - 14²) = 149.345
    spoiled("hold.on-flaw", CARE, "strapped", ("add flaw", {"kind": "hole", "x": 15, "y": 26.1, "size": 10}), ("add flaw", {"kind": "hole", "x": 15, "y": 25.9, "size": 10})),
    spoiled("hold.on-flaw", CARE, "strapped", ("add flaw", {"kind": "knot", "x": 15, "y": 16, "size": 10}), ("add flaw", {"kind": "crack", "x": 15, "y": 16, "size": 10})),
    spoiled("hold.span", NOTE, "plate", UNDER[:1], ("set heights", {"face": "under", "rows": []})),
    spoiled("hold.span", CARE, "plate", [*thin(4.0), ("set holding", {"pull": 1.0})], *thin(4.0), ("set holding", {"pull": 1.4})),
    spoiled("hold.cupped-span", NOTE, "plate", under(0.3), under(0.31)),
    spoiled("hold.cupped-span", CARE, "plate", [*thin(4.0), ("set holding", {"pull": 1.0}), under(0.5)], *thin(4.0), ("set holding", {"pull": 1.4}), under(0.5)),
]  # fmt: skip

BESIDE = 0.475 + math.dist((60, 40), (15, 14)) * math.tan(
    math.radians(0.3)
)  # the eye, the line that the middle is ruled with, half a step, and a board laid by hand
ZERO = [
    spoiled("zero.way", STOP, "plate", zero(xy="front left", xy_way="corner plate"), zero(xy_way="corner plate")),
    spoiled("zero.way", STOP, "plate", zero(xy="mark", x=10, y=10), zero(xy="mark", x=10, y=10, xy_way="pin")),
    spoiled("zero.no-thickness", STOP, "plate", zero(gauge="plate", gauge_thickness=0.01), zero(gauge="plate", gauge_thickness=0.0)),
    spoiled("zero.no-sensor", STOP, "plate", [machine(sensor={"x": 50, "y": 50}), zero(later="sensor")], zero(later="sensor")),
    spoiled("zero.touch-off-board", STOP, "plate", zero(touch_x=119.9, touch_y=14), zero(touch_x=120.1, touch_y=14)),
    spoiled("zero.touch-on-board", STOP, "plate", zero(z="bed", touch_x=120.1, touch_y=100), zero(z="bed", touch_x=119.9, touch_y=79)),
    spoiled("zero.touch-covered", STOP, "strapped", zero(touch_x=60, touch_y=10), zero(touch_x=15, touch_y=10)),
    spoiled("zero.mark-covered", STOP, "strapped", zero(xy="mark", x=40, y=10), zero(xy="mark", x=15, y=10)),
    spoiled("zero.no-room", STOP, "inches", ("place blank", {"setup": "front", "x": 7.01, "y": 310}), ("place blank", {"setup": "front", "x": 6.99, "y": 310})),  # half the pin of 6, and 4 beside the edge
    spoiled("zero.not-straight", STOP, "inches", [zero(xy_way="cutter"), tool(3, kind="flat")], zero(xy_way="cutter")),
    spoiled("zero.live-edge", STOP, "inches", None, blank(shape="oval")),
    spoiled("zero.plate-askew", STOP, "inches", [zero(xy_way="corner plate", gauge="corner plate", gauge_thickness=12)], zero(xy_way="corner plate", gauge="corner plate", gauge_thickness=12), ("set skew", {"setup": "front", "degrees": 0.4})),
    spoiled("zero.odd-thickness", CARE, "plate", zero(gauge_thickness=1.0), zero(gauge_thickness=0.99)),
    spoiled("zero.odd-thickness", CARE, "plate", zero(gauge_thickness=60.0), zero(gauge_thickness=60.01)),
    spoiled("zero.no-edge", STOP, "plate", [blank(shape="round"), zero(xy="front left")], blank(shape="round"), zero(xy="front left", xy_way="pin")),
    spoiled("zero.cut-away", NOTE, "plate", zero(xy="front left"), zero(xy="centre")),
    spoiled("zero.budget", CARE, "plate", zero(eye=1.7), zero(eye=1.8)),
    spoiled("zero.askew", CARE, "strapped", ("set holding", {"clearance": BESIDE + 0.001}), ("set holding", {"clearance": BESIDE - 0.001})),
    spoiled("zero.budget-z", CARE, "plate", [("scale lettering", {"factor": 0.16}), zero(gauge="plate")], ("scale lettering", {"factor": 0.16}), zero(gauge="paper")),
    spoiled("zero.gauge-unchecked", NOTE, "plate", [zero(gauge_name="Touch plate", gauge_checked="2025-11-02"), LOOKED], zero(gauge_name="Touch plate", gauge_checked="2025-10-02"), LOOKED),
    spoiled("zero.gauge-unchecked", NOTE, "plate", LOOKED, zero(gauge_name="Touch plate"), LOOKED),
    spoiled("zero.in-reach", OK, "plate", zero(touch_x=121, touch_y=14), zero(touch_x=119, touch_y=14)),
    spoiled("zero.fits", OK, "plate", ("place blank", {"setup": "front", "x": 1130, "y": 310}), ("place blank", {"setup": "front", "x": 500, "y": 310})),
    spoiled("zero.touch-reach", STOP, "inches", tool(3, length=46.91), tool(3, length=46.89)),  # 130 of travel under a nose at 175, paper of 0.1
    spoiled("zero.travel", STOP, "plate", ("place blank", {"setup": "front", "x": 1086.6, "y": 310}), ("place blank", {"setup": "front", "x": 1086.8, "y": 310})),  # 60 + 48 + 3.3 to the cutter's middle, and 2 in reserve
    spoiled("zero.travel", STOP, "plate", ("place blank", {"setup": "front", "x": -6.6, "y": 310}), ("place blank", {"setup": "front", "x": -6.8, "y": 310})),
    spoiled("zero.travel", STOP, "plate", ("place blank", {"setup": "front", "x": 520, "y": 626.6}), ("place blank", {"setup": "front", "x": 520, "y": 626.8})),
    spoiled("zero.travel", STOP, "plate", tool(2, length=70), tool(2, length=200)),
]  # fmt: skip

TOOLS = [
    spoiled("tools.rpm", STOP, "plate", tool(2, rpm=24000), tool(2, rpm=24001)),
    spoiled("tools.rpm", STOP, "plate", tool(2, rpm=6000), tool(2, rpm=5999)),
    spoiled("tools.rpm", STOP, "plate", tool(2, marked_rpm=16000), tool(2, marked_rpm=15999)),
    spoiled("tools.rim-speed", STOP, "slab", tool(1, marked_rpm=0, rpm=15278), tool(1, marked_rpm=0, rpm=15279)),  # 40 m/s at 50 mm: 15278.9
    spoiled("tools.rubs", CARE, "plate", tool(2, feed=1280), tool(2, feed=1279)),  # 0.04 × 2 × 16000
    spoiled("tools.order", STOP, "plate", ("set order", {"order": ("lettering", "cut-out")}), ("set order", {"order": ("cut-out", "lettering")})),
    spoiled("tools.order-kept", OK, "plate", ("set order", {"order": ("cut-out", "lettering")}), ("set order", {"order": ("lettering", "cut-out")})),
    spoiled("tools.touch-again", NOTE, "plate", cut(present=False), cut(tabs=4)),
    spoiled("tools.touch-gone", STOP, "plate", ("set touch", {"setup": "front", "tool": 2, "x": 20, "y": 5}), ("set touch", {"setup": "front", "tool": 2, "x": 64, "y": 40})),
    spoiled("tools.collet", STOP, "plate", tool(2, shank=6.03), tool(2, shank=6.031)),
    spoiled("tools.collet", STOP, "plate", tool(2, shank=6.0), tool(2, shank=6.35)),
    spoiled("tools.sleeve", STOP, "plate", tool(2, sleeve=8, sleeve_rpm=16000), tool(2, sleeve=8, sleeve_rpm=15999)),
    spoiled("tools.sleeve", STOP, "plate", tool(2, sleeve=8, sleeve_rpm=16000), tool(2, sleeve=8)),
    spoiled("tools.sleeve", STOP, "plate", tool(2, shank=5.95, sleeve=6, sleeve_rpm=16000), tool(2, shank=5.98, sleeve=6, sleeve_rpm=16000)),
    spoiled("tools.sleeved", NOTE, "plate", tool(2, sleeve=0, sleeve_rpm=16000), tool(2, sleeve=8, sleeve_rpm=16000)),
    spoiled("tools.grip-unknown", NOTE, "plate", tool(2, overall=76), tool(2, overall=0)),
    spoiled("tools.grip-short", STOP, "plate", tool(2, overall=62), tool(2, overall=61.99)),  # 50 out, two thirds of 18 in
    spoiled("tools.grip-part", CARE, "plate", tool(2, overall=68), tool(2, overall=67.99)),
    spoiled("tools.bottomed", STOP, "plate", ("set machine", {"collets": [{"size": 6, "bore": 27.5}, {"size": 8}]}), ("set machine", {"collets": [{"size": 6, "bore": 27.49}, {"size": 8}]})),
    spoiled("tools.flutes-in", STOP, "plate", tool(2, length=48), tool(2, length=47.99)),  # 42 of edges, 6 of run-out
    spoiled("tools.nut-in-wood", STOP, "plate", tool(2, length=16.251), tool(2, length=16.24)),  # 16 of wood and 0.3 into the bed, less what is let pass
    spoiled("tools.shank-in-wood", STOP, "plate", tool(2, shank=8, cutting_length=16.251), tool(2, shank=8, cutting_length=16.24)),
    spoiled("tools.bends", CARE, "plate", tool(2, overall=110, length=70.04), tool(2, overall=110, length=70.05)),
    spoiled("tools.power", CARE, "plate", tool(2, rpm=6000, feed=26819), tool(2, rpm=6000, feed=26824)),
    spoiled("tools.rubs-slowly", NOTE, "plate", [tool(3, feed=6000), tool(4, feed=6000), tool(2, feed=4267)], tool(3, feed=6000), tool(4, feed=6000), tool(2, feed=4266)),  # 0.04 × 2 × 16000 ÷ 0.3
]  # fmt: skip

CARVE = [
    spoiled("carve.lines-meet", CARE, "plate", [LOWER, spaced(0.0501)], LOWER, spaced(0.0499)),
    spoiled("carve.no-tool", STOP, "plate", ("set carving", {"tool": 4}), ("set carving", {"tool": 9})),
    spoiled("carve.other-face", STOP, "plate", ("set art", {"art": "lettering", "face": "front"}), ("set art", {"art": "lettering", "face": "left"})),
    spoiled("carve.not-a-vee", STOP, "plate", ("set carving", {"tool": 4}), ("set carving", {"tool": 2})),
    spoiled("carve.no-text", CARE, "plate", None, ("remove line", {"line": "line-1"})),
    spoiled("carve.cutout-tool", STOP, "plate", cut(tool=2), cut(tool=3)),
    spoiled("carve.cutout-tool", STOP, "plate", cut(tool=2), cut(tool=9)),
    spoiled("carve.cutter-short", STOP, "plate", tool(2, cutting_length=16.02), tool(2, cutting_length=15.99)),
    spoiled("carve.too-many-passes", STOP, "plate", tool(2, pass_depth=0.0408), tool(2, pass_depth=0.0407)),  # (16 + 0.3) / 400 = 0.04075
    spoiled("carve.plate-off-board", STOP, "plate", cut(x=72.0), cut(x=72.1)),
    spoiled("carve.too-wide", STOP, "plate", tool(3, diameter=2 * HALF + 1e-5), tool(3, diameter=2 * HALF - 1e-3)),
    spoiled("carve.too-wide", STOP, "plate", tool(3, cutting_length=HALF * math.sqrt(3) + 1e-5), tool(3, cutting_length=HALF * math.sqrt(3) - 1e-3)),
    spoiled("carve.too-deep", STOP, "plate", ("scale lettering", {"factor": 4.503}), ("scale lettering", {"factor": 4.505})),  # 14 / (HALF·√3)
    spoiled("carve.floor", OK, "plate", ("scale lettering", {"factor": 4.505}), ("scale lettering", {"factor": 4.503})),
    spoiled("carve.margin", CARE, "plate", ("set carving", {"margin": 19.9}), ("set carving", {"margin": 20.1})),  # (56 - 16) / 2
    spoiled("carve.margin", STOP, "plate", ("scale lettering", {"factor": 2.5}), ("scale lettering", {"factor": 4.0})),
    spoiled("carve.inside-margin", OK, "plate", ("set carving", {"margin": 20.1}), ("set carving", {"margin": 19.9})),
    spoiled("carve.too-thin", CARE, "plate", ("set carving", {"painted": False, "sanding": 3.0}), ("set carving", {"sanding": 3.0})),
    spoiled("carve.holds-paint", OK, "plate", ("set carving", {"sanding": 3.0}), ("set carving", {"sanding": 0.3})),
    spoiled("carve.tabs-weak", CARE, "plate", cut(tab_height=1.18), cut(tab_height=1.17)),
    spoiled("carve.tabs", OK, "plate", cut(tab_height=1.17), cut(tab_height=1.18)),
    spoiled("carve.flaw", CARE, "plate", ("add flaw", {"kind": "knot", "x": 20, "y": 40, "depth": 5}), ("add flaw", {"kind": "knot", "x": 64, "y": 40, "depth": 5})),
    spoiled("carve.edge-flaw", NOTE, "plate", ("add flaw", {"kind": "hole", "x": 17.1, "y": 40, "depth": 5}), ("add flaw", {"kind": "hole", "x": 16.9, "y": 40, "depth": 5})),
    spoiled("carve.tab-flaw", CARE, "plate", ("add flaw", {"kind": "hole", "x": 60, "y": 12, "depth": 5}), ("add flaw", {"kind": "hole", "x": 30, "y": 12, "depth": 5})),
    spoiled("wood.loose", STOP, "plate", cut(tabs=1), cut(tabs=0)),
]  # fmt: skip

SURFACE = [
    spoiled("surface.needed", NOTE, "slab", flat(wanted="no"), flat(wanted="ask")),
    spoiled("surface.not-flat", CARE, "slab", flat(wanted="yes"), flat(wanted="no")),
    spoiled("surface.flat-enough", OK, "plate", ("set height", {"height": "height-5", "z": 16.6}), ("set height", {"height": "height-5", "z": 16.1})),
    spoiled("surface.no-lettering", NOTE, "plate", None, ("remove line", {"line": "line-1"})),
    spoiled("surface.no-heights", CARE, "slab", [("remove height", {"height": f"height-{i}"}) for i in (1, 2)], *(("remove height", {"height": f"height-{i}"}) for i in (1, 2, 3))),
    spoiled("surface.height-odd", STOP, "slab", ("set height", {"height": "height-1", "z": 63.0}), ("set height", {"height": "height-1", "z": 63.1})),  # three times 21, the median of the others
    # 2.1733 mm come off, the last pass 0.4: 1,268 passes of 5 rows at 0.0014, and 6,000 rows are the most
    spoiled("surface.too-many-rows", STOP, "slab", flat(limit=0.05), flat(limit=0.0014)),
    spoiled("surface.no-tool", STOP, "slab", None, flat(tool=9)),
    spoiled("surface.side", STOP, "plate", ON_END, ON_END, ("add operation", {"setup": "end", "kind": "surface", "wanted": "yes"})),
    spoiled("surface.mixed", STOP, "whole", None, ("add operation", {"setup": "surface", "kind": "vcut", "on": ("lettering",)})),
    spoiled("surface.first-bite", STOP, "slab", tool(1, pass_depth=0.9), tool(1, pass_depth=0.5)),
    spoiled("surface.nothing-left", STOP, "slab", flat(cleanup=0.2), flat(cleanup=17.1)),
    spoiled("surface.rubs", CARE, "slab", tool(1, feed=2500), tool(1, feed=1500)),
    spoiled("surface.power", CARE, "slab", machine(rated_power=300), machine(rated_power=200)),
    spoiled("surface.rough", CARE, "slab", flat(stop_after=3), flat(stop_after=1)),
    spoiled("surface.wished", CARE, "slab", flat(target_thickness=20.1), flat(target_thickness=20.5)),
    spoiled("surface.ridges", CARE, "slab", flat(step_x=0.05), flat(step_x=0.051)),
    spoiled("surface.ridges", NOTE, "slab", flat(step_x=0.0), flat(step_x=0.04)),
    spoiled("surface.one-sided", NOTE, "slab", flat(cleanup=0.02), flat(cleanup=0.03)),
    spoiled("surface.no-supports", CARE, "slab", flat(seat="as it lies"), flat(seat="shimmed")),
    spoiled("surface.turn-marks", CARE, "slab", ("place blank", {"setup": "surface", "x": 40, "y": 310}), ("place blank", {"setup": "surface", "x": 10, "y": 310})),
    spoiled("wood.plunge", STOP, "slab", [tool(1, centre_cutting=True), flat(area="used")], flat(area="used")),
    spoiled("surface.plunge", STOP, "slab", [tool(1, centre_cutting=True), ("place blank", {"setup": "surface", "x": 10, "y": 310})], ("place blank", {"setup": "surface", "x": 10, "y": 310})),
]  # fmt: skip

BACK: Edit = ("set second face", {"present": True})
TILTED: Edit = ("set heights", {"face": "top", "rows": [(10, 10, 20), (110, 10, 23), (110, 70, 23), (10, 70, 20), (60, 40, 21.5)]})  # fmt: skip
TILTED_UNDER: Edit = ("set heights", {"face": "under", "rows": [(10, 10, 0), (110, 10, 3), (110, 70, 3), (10, 70, 0), (60, 40, 1.5)]})  # fmt: skip
