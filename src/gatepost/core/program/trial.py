# SPDX-License-Identifier: GPL-3.0-or-later
"""A small program by which a control shows what it understands: all of it at the top of the travel, and what to look for at each line."""

from __future__ import annotations

from gatepost.core.job.machine import Machine
from gatepost.core.program.lines import number
from gatepost.core.program.write import comment, numbered

SIDE, ARC, SLOW, WAITS = 100.0, 20.0, 1000.0, 3.0  # mm, mm, mm/min, s


def trial(machine: Machine) -> tuple[str, tuple[str, ...]]:
    """The program, and what is looked for, in its order. Nothing moves down: Z0 is set at the top of the travel too, so that a control
    which does not know G53 goes nowhere; X0 Y0 where there is room to the right and to the back."""
    d = machine.dialect
    scale, digits = (1.0 / 25.4, d.decimals + 1) if d.units == "inch" else (1.0, d.decimals)
    side, arc, slow = (number(v * scale, digits) for v in (SIDE, ARC, SLOW))
    blocks: list[tuple[str, str]] = [
        ("G21" if d.units == "mm" else "G20", ""), ("G17", ""), ("G90", ""), (d.offset, ""),
        ("G53 G0 Z0", "It stays at the top of the travel, or goes up to it. If it goes down, stop it: it does not understand G53."),
        ("G0 X0 Y0", f"It goes over X0 Y0. If it goes elsewhere, {d.offset} is not the zero that was set."),
        (f"G1 X{side} F{slow}", f"It goes {SIDE:.0f} mm to the right, in {SIDE / SLOW * 60:.0f} s: lay a ruler beside it. If it goes 25 times as far, or hardly at all, its units are wrong."),
        (f"Y{side}", f"It goes {SIDE:.0f} mm to the back, as slowly: a line without G1 goes on as the one before."),
    ]  # fmt: skip
    if d.arcs != "none":
        blocks.append(
            (
                f"G2 X{side} Y{side} I-{arc} J0",
                f"A whole circle of {2 * ARC:.0f} mm across, with the clock, on its left. If it goes straight, or stands, it takes no arcs: let none be written.",
            )
        )
        blocks.append(("G1", ""))
    wait = WAITS * (1000.0 if d.dwell == "ms" else 1.0)
    blocks.append(
        (
            f"G4 P{number(wait, 3)}",
            f"It stands still for {WAITS:.0f} s. If it hardly stands, or stands for an hour, it counts a dwell otherwise: change that on the Run page.",
        )
    )
    if machine.spindle == "program":
        blocks += [
            (f"S{number(machine.rpm_min, 0)} M3", f"The spindle starts and turns at {machine.rpm_min:.0f} rpm, with the clock as seen from above. No bit, no collet nut loose."),
            (f"G4 P{number(wait, 3)}", ""), ("M5", "It ends."),
        ]  # fmt: skip
    if d.tool_change == "pause":
        blocks.append(("M0", "It waits, and goes on when you press start."))
    blocks += [("G0 X0 Y0", "It goes back over X0 Y0, at full speed."), ("G53 G0 Z0", ""), (d.end, "It ends, and is ready for another program.")]  # fmt: skip
    lines = comment("GATEPOST a trial of the control: all at the top of the travel, no bit in the collet", d)
    for block, _ in blocks:
        lines.append(numbered(block, len(lines), d))
    return "\n".join(lines) + "\n", tuple(f"{block}: {words}" for block, words in blocks if words)
