# SPDX-License-Identifier: GPL-3.0-or-later
"""Clearance alone, for the command line: any program past any solids with any tool."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, TypeVar

import numpy as np
from pydantic import Field, TypeAdapter, ValidationError
from shapely.geometry import Polygon

from gatepost.checks import read_text
from gatepost.core.errors import UnusableFile
from gatepost.core.hold.clearance import Array, Section, passings
from gatepost.core.hold.solids import Solid
from gatepost.core.job.base import Model, complaint
from gatepost.core.program.read import read

FIRST, SECOND = (-977.13, -1013.37, 1051.71), (1231.19, 1409.53, 1571.29)  # two places to begin at, apart from all else
NO_FEED = "before any feed"

Size = Annotated[float, Field(gt=0, le=2000)]
Height = Annotated[float, Field(ge=0, le=2000)]
Place = Annotated[float, Field(ge=-1e5, le=1e5)]


class GivenHold(Model):
    """Something that stands in the way: outline in work coordinates, heights from z0 to z1."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    outline: Annotated[list[tuple[Place, Place]], Field(min_length=3, max_length=10_000)]
    z0: Place
    z1: Place


class Stack(Model):
    """A tool: the cutter from the tip up to cutting_length, the shank up to stickout, the nut above it."""

    diameter: Size
    cutting_length: Height
    shank: Size
    stickout: Height
    nut_diameter: Size
    nut_height: Height


T = TypeVar("T")


def _read(path: Path, kind: Any) -> Any:
    try:
        data = json.loads(read_text(path))
    except json.JSONDecodeError as error:
        raise UnusableFile(f"{path.name} is not JSON: {error.msg} in line {error.lineno}.") from None
    except RecursionError:
        raise UnusableFile(f"{path.name} is not what is expected: it is nested too deep.") from None
    try:
        return TypeAdapter(kind).validate_python(data)
    except ValidationError as error:
        raise UnusableFile(f"{path.name}: {complaint(error)}") from None


def holds_of(path: Path) -> list[Solid]:
    """Solids out of a file. Raises UnusableFile naming the hold that is wrong."""
    out: list[Solid] = []
    for one in _read(path, list[GivenHold]):
        shape = Polygon(one.outline)
        if not shape.is_valid or shape.area <= 0.0:
            raise UnusableFile(
                f"{path.name}: the outline of {one.name} crosses itself or encloses nothing. Give its corners in order."
            )
        if one.z1 <= one.z0:
            raise UnusableFile(f"{path.name}: {one.name} has no height: z1 must lie above z0.")
        out.append(Solid(one.name, one.name, shape, one.z0, one.z1))
    return out


def parts_of(path: Path) -> list[Section]:
    """Cutter, shank and nut out of a file. Raises UnusableFile."""
    tool = _read(path, Stack)
    nut = max(tool.stickout, tool.cutting_length)
    return [
        Section("cutter", tool.diameter / 2.0, 0.0, tool.cutting_length),
        Section("shank", tool.shank / 2.0, tool.cutting_length, nut),
        Section("nut", tool.nut_diameter / 2.0, nut, nut + tool.nut_height),
    ]


def known_moves(text: str, name: str) -> tuple[Array, Array, list[int], int]:
    """Where each move starts and ends, (n, 3) each, its line, and how many are left out: those before the program says
    where it is. An axis that it never names is taken to stand at nought. Raises UnusableFile.

    Read from two unlike places to begin at; what comes out alike does not hang on them.
    """
    before = 0
    one = read(text, home=FIRST)
    if one.complaints and all(NO_FEED in c.reason for c in one.complaints):  # where it goes does not hang on how fast
        text, before = f"F1000\n{text}", 1
        one = read(text, home=FIRST)
    if one.complaints:
        raise UnusableFile(f"{name}, line {one.complaints[0].line - before}: {one.complaints[0].reason}.")
    if not len(one.moves):
        raise UnusableFile(f"{name} moves nothing.")
    a, b = one.moves.points, read(text, home=SECOND).moves.points
    count = min(len(a), len(b))  # an arc out of an unknown place falls into other pieces: alike from the end back
    alike = np.zeros(a.shape, bool)
    alike[len(a) - count :] = np.abs(a[len(a) - count :] - b[len(b) - count :]) < 1e-9
    never = ~alike.any(axis=0)
    points = np.where(never, 0.0, a)
    known = np.asarray((alike | never).all(axis=1))
    whole = known[:-1] & known[1:]
    arrived = known[1:] & ~known[:-1]  # it comes out of the unknown and is there: a moment at least
    starts, keep = np.where(arrived[:, None], points[1:], points[:-1]), whole | arrived
    lines = [int(n) - before for n, k in zip(one.line, keep) if k]
    return starts[keep], points[1:][keep], lines, int((~whole).sum())


def clear(
    program: Path, holds: Path, tool: Path, as_json: bool, say: Callable[[str], None], show: Callable[[Any], None]
) -> int:
    """Every part of the tool past every hold; gives the exit code: 0, or 1 where something would be hit."""
    standing, parts = holds_of(holds), parts_of(tool)
    text = read_text(program)
    starts, ends, lines, left_out = known_moves(text, program.name)
    for c in read(text).cares:
        say(f"line {c.line}: {c.reason}.")
    if left_out:
        say(f"{left_out} moves are left out: before them the program does not say where it is.")
    solid = [p for p in parts if p.top > p.bottom]
    found = {(p.name, p.part): p for p in passings(starts, ends, solid, standing)}
    rows: list[dict[str, Any]] = []
    for one in standing:
        for part in parts:
            passing = found.get((one.hold, part.part))
            at = passing.move if passing is not None else None
            rows.append(
                {
                    "name": one.hold, "part": part.part,
                    "gap_xy": None if passing is None else passing.gap_xy, "gap_z": None if passing is None else passing.gap_z,
                    "line": None if at is None else lines[at],
                }
            )  # fmt: skip
    hit = [r for r in rows if r["gap_xy"] is not None and r["gap_xy"] < 0.0]
    if as_json:
        show(rows)
    else:
        print("hold\tpart\tgap across\tgap in height\tline")
        for r in rows:
            gaps = ["never" if r[k] is None else f"{r[k]:.3f}" for k in ("gap_xy", "gap_z")]
            print("\t".join([r["name"], r["part"], *gaps, str(r["line"] or "")]))
    for r in hit:
        say(f"{r['name']} is hit by the {r['part']} in line {r['line']}.")
    return 1 if hit else 0
