# SPDX-License-Identifier: GPL-3.0-or-later
"""What is told beside the zeros themselves: room over the plate, tools by length and by touch, depths from top and bed."""

from __future__ import annotations

import math

from gatepost.core.findings import Figure, Table
from gatepost.core.units import mm
from gatepost.core.working import Named, working
from gatepost.core.zero.inputs import Zeroed

FUZZ = 0.1  # mm that raised fibres, or a figure of thickness, may be off by


def more_figures(z: Zeroed) -> list[Figure]:
    """Room over the plate, what a paper left out does, and how far the touches of each axis lay apart."""
    zero, out = z.setup.zero, []
    for tool, height in z.touched[:1]:
        room = working(
            "nose - sticks_out - height", Named("nose", z.machine.nose_at_home), Named("sticks_out", tool.length), Named("height", height),
            assumption="tip at the top of travel, over the plate or what else lies there",
        )  # fmt: skip
        down = working(
            "sticks_out + travel - nose + height", Named("sticks_out", tool.length), Named("travel", z.machine.travel_z), Named("nose", z.machine.nose_at_home),
            Named("height", height), assumption="how much further down it could go after the contact",
        )  # fmt: skip
        out += [
            Figure("Room over the plate, tip up", room.result, working=room, places=2),
            Figure("Travel left under the contact", down.result, working=down, places=2),
        ]
    if zero.gauge == "paper":
        wide = working(
            "2 * paper * tan(angle / 2)",
            Named("paper", zero.gauge_thickness),
            Named("angle", z.upright.angle or 0.0, "angle"),
            assumption="the paper forgotten in the sum, or counted twice",
        )
        out.append(Figure("A paper forgotten: cuts deeper by", zero.gauge_thickness, places=2))
        if z.upright.angle:
            out.append(Figure("and strokes are off by", wide.result, working=wide, places=2))
    out += [Figure(f"{axis.upper()} touched twice, apart by", apart, places=2) for axis, apart in z.spreads]
    return out


def _fuzz_on_strokes(angle: float) -> str:
    """By how much fuzz under a V changes a stroke, in words. angle: of the V, degrees."""
    return mm(2.0 * FUZZ * math.tan(math.radians(angle / 2.0)), 2)


def length_table(z: Zeroed) -> list[Table]:
    """Z0 of each tool as it was touched beside what its length says, and what fuzz or a crept bit between does to strokes."""
    if len(z.lengths) < 2:
        return []
    rows: list[tuple[str, ...]] = [("tool", "longer by", "touched", "differs")]
    (first, stickout, base), *_ = z.lengths
    for number, length, touched in z.lengths:
        grown = length - stickout
        got = f"{mm(touched - base, 2)}" if touched is not None and base is not None else "–"
        off = mm(touched - base - grown, 2) if touched is not None and base is not None else "–"
        rows.append(
            (
                f"T{number}",
                "–" if number == first else mm(grown, 2),
                "first" if number == first else got,
                "–" if number == first else off,
            )
        )
    fuzz = ""
    if z.upright.angle:
        fuzz = f"; {mm(FUZZ)} of fuzz under a V of {z.upright.angle:g}° makes strokes {_fuzz_on_strokes(z.upright.angle)} narrower"
    return [(f"Z0 of later tools against the first, by their lengths and as touched{fuzz}", tuple(rows))]


def depth_table(z: Zeroed) -> list[Table]:
    """How deep each program goes, told from the top and from the bed, whichever of them Z0 is on."""
    if not z.depths:
        return []
    rows = [("program", "below the top", "above the bed")]
    rows += [(name, mm(top, 2), mm(bed, 2)) for name, top, bed in z.depths]
    other = "the top" if z.setup.zero.z == "bed" else "the bed"
    wide = ""
    if z.upright.angle:
        wide = f"; {mm(FUZZ)} more wood than was measured makes strokes {_fuzz_on_strokes(z.upright.angle)} " + (
            "wider" if z.setup.zero.z == "bed" else "no wider"
        )
    return [(f"Depths, told from {other} too{wide}", tuple(rows))]
