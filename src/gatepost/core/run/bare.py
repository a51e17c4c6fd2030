# SPDX-License-Identifier: GPL-3.0-or-later
"""The steps by which the bare bed is bored for pins: the board off, the bit in again, Z0 touched on the spoilboard, the program run."""

from __future__ import annotations

from dataclasses import replace

from gatepost.core.acts import HANDS, ISOLATE, LIFTING
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Setup
from gatepost.core.job.tool import Tool
from gatepost.core.run.step import ProgramLoad, Step, TouchOff, isolating
from gatepost.core.run.steps import running
from gatepost.core.run.toolsteps import fitting, once_more, touching


def bare_steps(
    setup: Setup, machine: Machine, tool: Tool, load: ProgramLoad, touch: TouchOff, near: tuple[str, ...], seen: tuple[float, float], at_zero: bool, times: int
) -> list[Step]:  # fmt: skip
    """near: holds that stand where it bores; seen: a mark on the bed that is looked at where isolating drops the drives, at_zero: whether that is X0 Y0; times: how often the tool was fitted in this setup, this time too."""
    name, n = setup.name, tool.number
    away = f" {' and '.join(near)} {'stands' if len(near) == 1 else 'stand'} in the way: off with {'it' if len(near) == 1 else 'them'}." if near else ""  # fmt: skip
    deep = "Nothing else is moved: X0 Y0 stays as the side before was cut by, and the holes come where its pins are to stand."
    out = [
        Step("up-bare", name, "tick", f"Take the board up and put it aside; pull its pins, brush the bed.{away}", deep, f"{ISOLATE} {LIFTING}", reach=True),
        *fitting(name, tool, first=False),
        *touching(setup, tool, touch, machine.isolating_drops, seen, at_zero),
        Step(f"look-{n}", name, "look", "Look over the bed: it is bare where the holes come.", "No board, no tool, no hands. Shoe up, extraction on.", HANDS),
        replace(running(name, load, machine, tool), title=f"Run {load.name} into the bare bed: {load.operations}."),
        isolating(name, "bit-out"),
        Step("bare-done", name, "tick", "Lift, park, spindle stopped and isolated; bit out. Try a pin in each hole.", "A pin that is loose in the bed shifts the board by as much: it counts as play.", ISOLATE, reach=True),
    ]  # fmt: skip
    return [replace(once_more(s, times), bare=True) if s.tool == n or s.key.endswith(f"-{n}") else replace(s, key=_again(s.key), bare=True) for s in out]  # fmt: skip


def _again(key: str) -> str:
    """A key of a step that the setup has once already."""
    return f"{key}-bare" if not key.endswith("bare") and key != "bare-done" else key
