# SPDX-License-Identifier: GPL-3.0-or-later
"""Every tolerance and shop-rule starting value, each with its reason, in one place. mm unless said."""

from __future__ import annotations

GRID = 1e-5  # outlines are snapped to this before the Voronoi construction: well under a jog step
AXIS_DEPTH = 0.0025  # share of a V-cut's depth error given to the medial axis
FLATTEN_DEPTH = 0.0025  # and to the straight pieces that stand for the face's own curves
COARSE_FLATTEN = 0.01  # curves for pictures and cut-outs: a tenth of what a router repeats
CLEAN = 0.005  # a cell this near the plane counts as cut clean
MOST_CORNERS = 2000  # of an outline, as many as a job keeps

# Shop rules: starting values without a standard behind them. The app says so beside each.
THROUGH_EXTRA = 0.3  # a little deeper than through
CUTOUT_ALLOWANCE = 0.3  # left by roughing for the last full-depth pass
PAINT_DEPTH = 0.8  # a groove shallower than this after sanding holds no paint
FLOOR_LEFT = 2.0  # of wood wanted under a sunk floor
LIP, WALL = 3.0, 6.0  # of wood that a hanging screw's head bears on, and beside what comes in from behind
BRIDGE, BRIDGE_SHARE = (
    4.0,
    0.25,
)  # mm, and share of the wood's thickness, that a bridge or web of a stencil is wide at least
SHIELD = 50.0  # mm of rim that a spray gun's fan stays on
SUNK_PAYS = 0.1  # share of the minutes that other end mills must save before they are spoken of
NARROW, OF_DEPTH = 3.0, 4.0  # a strip narrower than this, or than its depth over this, is thrown
TAB_SHEAR = 1.5  # N/mm², grain running short across the tab
TAB_FACTOR = 2.0
LAID_OFF, LAID_SKEW = 1.5, 0.3  # mm, and degrees, by which a board laid by hand to a mark may lie otherwise
AT_A_STOP = 0.1  # mm by which one against a fence may: chips, a bruised edge
PUSHED = 0.1  # mm within which the far end of a board is pushed square
CONTACT, PLATE_OFF, PAPER_OFF, BIT_OFF, BED_OFF = (
    0.01,
    0.02,
    0.03,
    0.05,
    0.1,
)  # mm: of a touch, a plate, a paper, a bit's diameter; the bed's corners
VEE_OFF, TIP_OFF = 0.5, 0.05  # degrees of a V's whole angle, and mm across its tip
RESERVE = 2.0  # mm that moves keep from both ends of the travel: a bit, a plate and a board measure a little otherwise than planned
SAFE_TRAVEL = 8.0  # travel height above the highest wood
ODD_FACTOR = 3.5  # modified z-score past which a reading is asked about (Iglewicz and Hoaglin, 1993)
CALIPER_STEP = 0.05
CLEANUP = 0.2  # surfaced this much below the lowest reading, so that no saw mark stays
LAST_PASS = 0.4
HOLLOW = 0.3  # a hollow this deep is sanded out
PICKING = 1.5  # px by which a mark in a photo is picked wrong
FLATNESS = {
    "trial": 0.20,
    "sign": 0.10,
    "heirloom": 0.05,
}  # share of the thinnest stroke that a height error may change
OUTLINE_STEP = 0.005  # mm by which the straight pieces of a round outline lie inside it
UNDER_A_PIN = 3.0  # mm of spoilboard that stay under a pin
FRAME = 15.0  # of wood about a piece that is laid back into what it was cut from
REGISTERED = {"trial": 0.5, "sign": 0.25, "heirloom": 0.1}  # mm that one face may lie beside the other
SQUARE = {"trial": 3.0, "sign": 1.0, "heirloom": 0.5}  # lean of the ends over the width
DAMP = 12.0  # per cent moisture; damper wood moves once it stands in a heated room
PLANES_MEET = 0.1  # mm within which the middle planes of two reliefs meet
FLAT_SPOT = 0.1  # mm by which wood may be hollow under the highest places of a relief
SKIN_PARED = 0.5  # mm of skin that is pared off by hand
