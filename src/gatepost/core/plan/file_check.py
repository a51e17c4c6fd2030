# SPDX-License-Identifier: GPL-3.0-or-later
"""What a program's own text says, read again before it runs: its tool, units, spindle and feeds, how far it goes, and where first."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np

from gatepost.core.job.machine import Machine
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.program.lines import filled_lines
from gatepost.core.units import mm

HEAD = 60  # lines within which all that is set once is set
WORD = re.compile(r"([A-Z])\s*(-?\d+(?:\.\d+)?)")
LEAST = 0.5  # mm of a way that is told


@dataclass(frozen=True)
class FileCheck:
    """told: in sentences, lengths marked; wrong: what is not as planned, empty where all is."""

    told: tuple[str, ...]
    wrong: tuple[str, ...]


def file_check(setup: PlannedSetup, program: ProgramFile, machine: Machine) -> FileCheck:
    """Of a program as it is written. What is asked of its head is read from its text alone; feeds and ways are those that were read back from it."""
    words = _head_words(program.text)
    tool, wrong = program.tool, []
    numbers = [int(v) for letter, v in words if letter == "T"]
    if machine.dialect.tool_change != "pause" and numbers[:1] != [tool.number]:
        wrong.append(f"It asks for {f'T{numbers[0]}' if numbers else 'no tool'}, and T{tool.number} is planned.")
    inch, planned = ("G", 20.0) in words, machine.dialect.units == "inch"
    if inch is not planned or inch is (("G", 21.0) in words):
        wrong.append("Its units are not those of this machine's control.")
    for code, what in ((17.0, "level plane (G17)"), (90.0, "places counted from zero (G90)")):
        if ("G", code) not in words:
            wrong.append(f"It does not set the {what}.")
    speeds = [v for letter, v in words if letter == "S"]
    starts = any(letter == "M" and v in (3.0, 4.0) for letter, v in words)
    if machine.spindle == "program" and not (starts and speeds and speeds[0] > 0.0):
        wrong.append("It cuts without having started the spindle.")
    if speeds and not machine.rpm_min - 1.0 <= speeds[0] <= machine.rpm_max + 1.0:
        wrong.append(f"It asks for {speeds[0]:.0f} rpm, which this spindle does not turn at.")
    feeds = program.moves.feed[~program.moves.rapid]
    told = [
        f"T{tool.number} {tool.name}; lengths in {'inches' if inch else 'mm'}, counted from zero in the level plane.",
        f"{speeds[0]:.0f} rpm, started before it cuts." if speeds else "It sets no spindle speed.",
    ]
    if len(feeds):
        told.append(f"Fed at {feeds.min():.0f} to {feeds.max():.0f} mm/min.")
    told += [_reach(setup, program, machine), first_way(program)]
    count = sum(1 for _ in filled_lines(program.text))
    told.append(
        f"{count} lines, {program.seconds / 60.0:.0f} min, program {program.fingerprint}: "
        + ("beside the plan's own programs." if program.beside else "written by this plan.")
    )
    return FileCheck(tuple(t for t in told if t), tuple(wrong))


def _head_words(text: str) -> list[tuple[str, float]]:
    """Letters and numbers of the lines before the first cut, comments left out."""
    out: list[tuple[str, float]] = []
    for line in text.splitlines()[:HEAD]:
        body = re.sub(r"\([^)]*\)|;.*", "", line).upper()
        words = [(letter, float(value)) for letter, value in WORD.findall(body)]
        out += words
        if ("G", 1.0) in words:
            break
    return out


def _reach(setup: PlannedSetup, program: ProgramFile, machine: Machine) -> str:
    """How far it goes on the bed, and how much of the travel is left there."""
    points = np.asarray(setup.on_bed(program).points)
    low, high = points.min(axis=0), points.max(axis=0)
    left = min(low[0], low[1], machine.travel_x - high[0], machine.travel_y - high[1])
    return (
        f"On the bed it goes from X {mm(float(low[0]), 1)} to {mm(float(high[0]), 1)} and Y {mm(float(low[1]), 1)} to {mm(float(high[1]), 1)}, down to {mm(float(low[2]), 2)} "
        f"over it: {mm(float(left), 1)} inside the travel at the least."
    )


def first_way(program: ProgramFile) -> str:
    """Its first move in words, from where the tip stands over X0 Y0; nothing where it goes nowhere across."""
    first = program.first_move
    if first is None:
        return ""
    x, y, z = first
    ways = [
        f"{mm(abs(v), 1)} {plus if v > 0.0 else minus}"
        for v, plus, minus in ((x, "to the right", "to the left"), (y, "to the back", "to the front"))
        if abs(v) >= LEAST
    ]
    where = " and ".join(ways) or "straight over X0 Y0"
    return f"From over X0 Y0 its first move goes {where}, at Z {mm(z, 1)}."
