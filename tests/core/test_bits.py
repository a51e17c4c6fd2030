# SPDX-License-Identifier: GPL-3.0-or-later
"""Twenty bits in three woods against figures that were worked out apart, with a pocket calculator's formulas:

chip f = feed/(rpm·teeth); thickest 2·f·√(x(1 − x)) under half of the diameter; mean chip h = f·(1 − cos φ)/φ, cos φ = 1 − 2x; power
P = step·depth·feed·(k_s + k_e/h); rim v = π·d·n; push F = P/v; bending F/3E·(a³/I_c + (L³ − a³)/I_s), I = π·d⁴/64 of 0.8 of the
diameter along the flutes and of the plain shank above; grip (overall − length)/collet.
"""

import math

import pytest

from gatepost.core.job.blank import Wood
from gatepost.core.job.machine import Collet
from gatepost.core.job.tool import Tool
from gatepost.core.tools import forces
from gatepost.core.tools.bending import bending, length_for
from gatepost.core.tools.grip import gripped

# name, kind, diameter, teeth, shank, out, edges, overall, body, rpm, feed, collet's grip, step, depth; share gripped, chip, thickest, rim m/s; W, N, mm in each wood
BY_HAND = [
    ("1.0 end mill", "flat", 1.0, 2, 3.175, 30, 4, 50, "carbide", 24000, 600, 18, 1.0, 0.5, 1.1111, 0.0125, 0.0125, 1.257, ((1.6, 1.272, 0.0062726), (2.66, 2.119, 0.010454), (3.73, 2.967, 0.014636))),
    ("1.5 ball", "ball", 1.5, 2, 3.175, 32, 6, 50, "carbide", 24000, 900, 18, 0.3, 0.8, 1.0, 0.01875, 0.015, 1.885, ((1.13, 0.601, 0.0029875), (1.89, 1.002, 0.0049791), (2.64, 1.403, 0.0069708))),
    ("2.0 end mill", "flat", 2.0, 1, 6, 36, 8, 55, "carbide", 22000, 1200, 18, 2.0, 1.0, 1.0556, 0.05455, 0.05455, 2.304, ((3.48, 1.513, 0.002014), (5.81, 2.521, 0.0033567), (8.13, 3.529, 0.0046993))),
    ("3.0 down-cut", "flat", 3.0, 2, 6, 40, 12, 60, "carbide", 20000, 1600, 18, 3.0, 1.5, 1.1111, 0.04, 0.04, 3.142, ((13.47, 4.288, 0.0050265), (22.45, 7.146, 0.0083775), (31.43, 10.004, 0.011729))),
    ("3.0 ball", "ball", 3.0, 2, 6, 45, 15, 70, "carbide", 20000, 2000, 18, 0.6, 1.5, 1.3889, 0.05, 0.04, 3.142, ((3.88, 1.234, 0.0024489), (6.46, 2.057, 0.0040815), (9.05, 2.88, 0.0057141))),
    ("3.175 end mill", "flat", 3.175, 2, 6.35, 42, 14, 64, "carbide", 18000, 1500, 20, 1.6, 2.0, 1.1, 0.04167, 0.04167, 2.992, ((8.66, 2.893, 0.0037195), (14.43, 4.822, 0.0061992), (20.2, 6.751, 0.0086789))),
    ("4.0 up-cut", "flat", 4.0, 2, 6, 42, 20, 62, "carbide", 18000, 1800, 18, 4.0, 2.0, 1.1111, 0.05, 0.05, 3.77, ((22.42, 5.946, 0.0088611), (37.36, 9.91, 0.014768), (52.3, 13.874, 0.020676))),
    ("6.0 up-cut", "flat", 6.0, 2, 6, 50, 42, 76, "carbide", 16000, 2400, 18, 6.0, 5.0, 1.4444, 0.075, 0.075, 5.027, ((81.92, 16.297, 0.034126), (136.53, 27.162, 0.056877), (191.14, 38.027, 0.079627))),
    ("6.0 compression", "flat", 6.0, 2, 6, 45, 25, 70, "carbide", 18000, 3600, 18, 6.0, 3.0, 1.3889, 0.1, 0.1, 5.655, ((60.16, 10.638, 0.010922), (100.26, 17.73, 0.018203), (140.36, 24.821, 0.025484))),
    ("6.0 steel", "flat", 6.0, 2, 6, 45, 20, 70, "steel", 14000, 1800, 18, 6.0, 3.0, 1.3889, 0.06429, 0.06429, 4.398, ((41.39, 9.41, 0.024102), (68.98, 15.683, 0.040171), (96.57, 21.957, 0.056239))),
    ("6.0 ball", "ball", 6.0, 2, 6, 48, 22, 72, "carbide", 16000, 2600, 18, 1.2, 3.0, 1.3333, 0.08125, 0.065, 5.027, ((13.49, 2.684, 0.0030535), (22.48, 4.473, 0.0050891), (31.48, 6.262, 0.0071248))),
    ("6.35 end mill", "flat", 6.35, 3, 6.35, 46, 25, 70, "carbide", 16000, 3600, 20, 6.35, 3.0, 1.2, 0.075, 0.075, 5.32, ((78.03, 14.667, 0.012659), (130.05, 24.446, 0.021099), (182.06, 34.224, 0.029538))),
    ("8.0 bull", "bull", 8.0, 2, 8, 45, 25, 70, "carbide", 16000, 2400, 20, 5.0, 4.0, 1.25, 0.075, 0.075, 6.702, ((51.74, 7.721, 0.0025081), (86.24, 12.868, 0.0041801), (120.74, 18.015, 0.0058521))),
    ("8.0 end mill", "flat", 8.0, 3, 8, 50, 30, 78, "carbide", 15000, 3600, 20, 8.0, 4.0, 1.4, 0.08, 0.08, 6.283, ((125.04, 19.9, 0.0093241), (208.4, 33.167, 0.01554), (291.76, 46.434, 0.021756))),
    ("10.0 end mill", "flat", 10.0, 2, 10, 52, 32, 80, "carbide", 14000, 4200, 22, 4.0, 8.0, 1.2727, 0.15, 0.14697, 7.33, ((101.67, 13.87, 0.0030503), (169.45, 23.116, 0.0050838), (237.23, 32.363, 0.0071173))),
    ("12.0 end mill", "flat", 12.0, 2, 12, 55, 35, 90, "carbide", 12000, 4000, 24, 12.0, 6.0, 1.4583, 0.16667, 0.16667, 7.54, ((194.97, 25.859, 0.0033315), (324.96, 43.099, 0.0055525), (454.94, 60.338, 0.0077735))),
    ("12.0 steel", "flat", 12.0, 2, 12, 60, 40, 90, "steel", 9000, 2000, 24, 12.0, 4.0, 1.25, 0.11111, 0.11111, 5.655, ((83.09, 14.693, 0.0070628), (138.48, 24.488, 0.011771), (193.87, 34.284, 0.01648))),
    ("16.0 planing", "flat", 16.0, 2, 12, 50, 20, 85, "carbide", 12000, 3600, 24, 12.0, 2.0, 1.4583, 0.15, 0.15, 10.053, ((58.09, 5.778, 0.00040188), (96.82, 9.631, 0.0006698), (135.54, 13.483, 0.00093772))),
    ("30 surfacing", "surfacing", 30.0, 3, 8, 40, 10, 66, "carbide", 12000, 3000, 18, 20.0, 1.0, 1.4444, 0.08333, 0.08333, 18.85, ((59.27, 3.144, 0.00057522), (98.78, 5.241, 0.0009587), (138.3, 7.337, 0.0013422))),
    ("50 surfacing", "surfacing", 50.0, 3, 8, 42, 12, 68, "carbide", 10000, 3000, 18, 30.0, 1.5, 1.4444, 0.1, 0.1, 26.18, ((120.25, 4.593, 0.00097269), (200.41, 7.655, 0.0016211), (280.58, 10.717, 0.0022696))),
]  # fmt: skip
WOODS = [Wood(name=kind, kind=kind) for kind in ("soft", "medium", "hard")]


@pytest.mark.parametrize("row", BY_HAND, ids=lambda row: row[0].replace(" ", "-"))
def test_grip_chip_power_push_rim_and_bending_are_as_worked_out_by_hand(row):
    (
        name,
        kind,
        d,
        teeth,
        shank,
        out,
        edges,
        overall,
        body,
        rpm,
        feed,
        grip,
        step,
        depth,
        share,
        chip,
        thickest,
        rim,
        woods,
    ) = row
    tool = Tool(
        number=1, name=name, kind=kind, diameter=d, teeth=teeth, shank=shank, length=out, cutting_length=edges, overall=overall, body=body, rpm=rpm, feed=feed,
        plunge=500, pass_depth=depth,
    )  # fmt: skip
    held = gripped(tool, [Collet(size=shank, grip=grip)])
    assert held.share.result == pytest.approx(share, abs=1e-4) and held.share.evaluate() == held.share.result
    assert forces.chip(tool).result == pytest.approx(chip, abs=1e-5)
    assert forces.thickest_chip(tool, step / d).result == pytest.approx(thickest, abs=1e-5)
    assert math.pi * d * rpm / 60_000 == pytest.approx(rim, abs=1e-3)
    for wood, (watts, newtons, aside) in zip(WOODS, woods):
        assert forces.power(tool, wood, step, depth).result == pytest.approx(watts, abs=0.006)
        push = forces.push(tool, wood, step, depth).result
        assert push == pytest.approx(newtons, abs=6e-4)
        bent = bending(tool, push)
        assert bent.result == pytest.approx(aside, rel=2e-4) and bent.evaluate() == bent.result


@pytest.mark.parametrize("row", BY_HAND, ids=lambda row: row[0].replace(" ", "-"))
def test_it_sticks_out_as_far_as_its_bending_allows(row):
    tool = Tool(
        number=1, name=row[0], kind=row[1], diameter=row[2], shank=row[4], length=row[5], cutting_length=row[6], rpm=row[9], feed=row[10], plunge=500, pass_depth=1,
    )  # fmt: skip
    push = 40.0
    whole = bending(tool, push).result
    for most in (0.3 * whole, 0.7 * whole, 1.5 * whole):
        long = length_for(tool, push, most)
        assert tool.cutting_length <= long <= tool.length
        bent = bending(tool.model_copy(update={"length": long}), push).result
        assert bent <= most * (1 + 1e-6) or long == pytest.approx(tool.cutting_length)
        assert bent == pytest.approx(min(most, whole), rel=1e-6) or long == pytest.approx(tool.cutting_length)


@pytest.mark.parametrize("share", [0.1, 0.4, 0.9])
def test_a_push_spread_over_a_cut_bends_by_all_its_shares(share):
    """Against the push shared out over the depth in two hundred places, each with its own arm, summed by unit loads."""
    tool = Tool(
        number=1,
        name="x",
        kind="flat",
        diameter=6,
        shank=8,
        length=50,
        cutting_length=40,
        rpm=1,
        feed=1,
        plunge=1,
        pass_depth=1,
    )
    depth, push = share * tool.cutting_length, 30.0
    core, shank = (math.pi / 64 * d**4 for d in (0.8 * 6, 8.0))
    total, count, pieces = 0.0, 200, 2000
    for k in range(count):
        s = depth * (k + 0.5) / count
        for n in range(pieces):
            x = 50.0 * (n + 0.5) / pieces
            if x > s:
                total += push / count * x * (x - s) / (580_000 * (core if x < 40 else shank)) * 50.0 / pieces
    assert bending(tool, push, depth).result == pytest.approx(total, rel=2e-3)
    assert bending(tool, push, 1e-9).result == pytest.approx(bending(tool, push).result)
