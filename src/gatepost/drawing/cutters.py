# SPDX-License-Identifier: GPL-3.0-or-later
"""Cutters from the side, as they are ground."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from gatepost.core.job.machine import Collet, Machine
from gatepost.core.job.tool import Tool
from gatepost.core.profile import CutterProfile, profile_of
from gatepost.core.units import mm, spell
from gatepost.drawing.shapes import Drawing, Shape, box, line, text

ARC = 14  # pieces of an arc


def side_of(profile: CutterProfile, top: float) -> NDArray[np.float64]:
    """The right half of a cutter's side from its tip up to a height, (n, 2) mm from the tip."""
    lean = math.pi / 2.0 if math.isinf(profile.steep) else math.atan(profile.steep)
    turn = np.linspace(0.0, lean, ARC) if profile.round > 0.0 else np.zeros(1)
    arc = np.column_stack([profile.flat + profile.round * np.sin(turn), profile.round * (1.0 - np.cos(turn))])
    arc = arc[arc[:, 0] <= profile.radius]
    shoulder = profile.shoulder
    return np.vstack([arc, [[profile.radius, shoulder], [profile.radius, max(top, shoulder)]]])


MARGIN = 3.0  # mm about a tool
COLLET = 14.0  # mm that a collet is drawn wider than its shank


def _half(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """A closed outline from its right half, (n, 2), tip first."""
    return np.vstack([points, points[::-1] * [-1.0, 1.0], points[:1]])


def tool_in_collet(tool: Tool, machine: Machine, collet: Collet | None, unit: str = "mm") -> Drawing:
    """A tool to scale as it hangs in its collet, its tip at 0, 0, with what sticks out, what cuts and what is gripped. collet: nothing where none takes it."""
    profile = profile_of(tool)
    edge = max(min(tool.cutting_length, tool.length), profile.shoulder)
    long = max(tool.length, edge)
    grip = collet.grip if collet is not None else 0.0
    whole = tool.overall if tool.overall > tool.length else long + grip
    nut = machine.nut_diameter / 2.0
    shank = tool.shank / 2.0
    high = max(whole, long + grip) + MARGIN
    shapes: list[Shape] = []
    if collet is not None:
        half = max(shank, (tool.sleeve or tool.shank) / 2.0) + COLLET / 2.0
        for way in (-1.0, 1.0):
            shapes.append(box(min(way * shank, way * half), long, max(way * shank, way * half), long + grip, "packing"))
    tall = min(machine.nut_height, 0.45 * grip) if grip else 8.0
    for way in (-1.0, 1.0):
        shapes.append(
            box(min(way * (shank + 2.0), way * nut), long, max(way * (shank + 2.0), way * nut), long + tall, "nut")
        )
    shapes.append(box(-shank, edge, shank, whole, "shank"))
    shapes.append(Shape("area", _half(side_of(profile, edge)), "cutter", index=tool.number))
    right = max(nut, profile.radius) + 10.0
    left = -right
    shapes += _measured(right, 0.0, long, spell(f"{mm(long)} out", unit))
    shapes += _measured(-max(profile.radius, shank) - 6.0, 0.0, edge, spell(f"{mm(edge)} edges", unit), "right")
    if collet is not None and tool.overall:
        shapes += _measured(right, long, min(whole, long + grip), spell(f"{mm(min(whole - long, grip))} gripped", unit))
    wide = f"Ø {mm(tool.diameter, 2)}" + (
        f", {tool.angle:g}°" if 0.0 < tool.angle < 180.0 and profile.flat < profile.radius else ""
    )
    shapes.append(text(0.0, -MARGIN - 2.5, spell(wide, unit), "text"))
    return Drawing(tuple(shapes), (left - 26.0, -MARGIN - 6.0, right + 26.0, high), tool.name, rulers=False)


def _measured(x: float, low: float, high: float, words: str, align: str = "left") -> list[Shape]:
    """A length upright beside a tool, with its words."""
    ticks = [line(np.array([[x - 1.5, y], [x + 1.5, y]]), "touch") for y in (low, high)]
    away = 2.5 if align == "left" else -2.5
    return [
        line(np.array([[x, low], [x, high]]), "touch"),
        *ticks,
        text(x + away, 0.5 * (low + high), words, "touch-text", align),
    ]
