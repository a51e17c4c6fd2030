# SPDX-License-Identifier: GPL-3.0-or-later
"""Drawings as artwork: read, looked over and told, for the window's worker and the command line."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import shapely

from gatepost.core.errors import OperatorError
from gatepost.core.geometry.drawn_art import DrawnArt
from gatepost.core.job.file import source_name
from gatepost.core.reading import read_whole

LARGEST = 32 * 2**20  # bytes
DRAWINGS = (".svg", ".dxf")
PICTURES = (".png", ".jpg", ".jpeg")
MESH = ".stl"
DEEP = 6.0  # mm under the face that black lies at first
MOST_SIDE = 9000.0  # mm


def read_art(data: bytes, name: str, unit: str = "", layers: Sequence[str] | None = None) -> DrawnArt:
    """A drawing's art, by the ending of its name. unit: of its figures, or nothing for what is believed; layers: of a DXF that are taken, nothing for all
    that are switched on. Raises OperatorError."""
    ending = Path(name).suffix.lower()
    if len(data) > LARGEST:
        raise OperatorError(f"{name} is over 32 MB: too large for a drawing.")
    if ending == ".svg":
        from gatepost.core.geometry.svg_art import PER_UNIT, read_svg

        if unit and unit not in PER_UNIT:
            raise OperatorError(f"{name} is an SVG drawing: its unit is px, mm, cm or in.")
        return read_svg(data, name, unit)
    if ending == ".dxf":
        from gatepost.core.geometry.dxf_art import NAMED, read_dxf

        if unit and unit not in NAMED:
            raise OperatorError(f"{name} is a DXF drawing: its unit is mm, cm, in or m.")
        return read_dxf(data, name, unit, layers)
    raise OperatorError(f"{name} is neither an SVG nor a DXF file.")


@dataclass(frozen=True)
class BroughtIn:
    """A drawing as the job takes it. values: of the command “add drawing”; pictures: what it was read from, as the job keeps it; art: as it was
    looked over; said: what there is to say of it, sentence by sentence."""

    values: dict[str, Any]
    pictures: dict[str, bytes]
    art: DrawnArt
    said: tuple[str, ...]


def traced(data: bytes, name: str, width: float, threshold: float = 0.5, light: bool = False) -> BroughtIn:
    """A picture traced at a threshold, made ready to be added. width: of what is traced, mm. Raises OperatorError."""
    from gatepost.core.geometry.traced import read_picture

    return _ready(read_picture(data, name, width, threshold, light), data, name)


def brought_in(data: bytes, name: str, unit: str = "", layers: Sequence[str] | None = None) -> BroughtIn:
    """A drawing made ready to be added. Raises OperatorError."""
    return _ready(read_art(data, name, unit, layers), data, name)


@dataclass(frozen=True)
class HeightsIn:
    """A height picture or a mesh as the job takes it. values: of the command “add relief”; pictures: what it was read from, as the job keeps it; levels: rows
    from the top down, 0 where nothing is asked, else 1 to 65535; said: what there is to say of it."""

    values: dict[str, Any]
    pictures: dict[str, bytes]
    levels: Any
    said: tuple[str, ...]


def heights_in(data: bytes, name: str, width: float = 0.0, black: float | None = None, white: float = 0.0) -> HeightsIn:
    """A height picture or a mesh made ready to be carved. width: mm, nothing for a mesh's own; black, white: how deep they lie, mm, nothing for a mesh's
    own depth. Raises OperatorError."""
    from gatepost.core.geometry.levels import packed, read_height_picture
    from gatepost.core.geometry.mesh import read_mesh

    if len(data) > LARGEST:
        raise OperatorError(f"{name} is over 32 MB: too large for a picture or a mesh.")
    ending = Path(name).suffix.lower()
    if ending not in (*PICTURES, MESH):
        raise OperatorError(f"{name} is neither a PNG or JPEG picture nor an STL mesh.")
    found = (read_mesh if ending == MESH else read_height_picture)(data, name)
    rows, columns = found.levels.shape
    wide = width or found.wide
    high = wide * found.high / found.wide if found.wide else wide * rows / columns
    if not 0.0 < max(wide, high) <= MOST_SIDE:
        raise OperatorError(f"{name} would be {wide:.0f} × {high:.0f} mm. Type its width in mm.")
    deep = black if black is not None else (found.deep * wide / found.wide if found.wide else DEEP)
    part = source_name(data, ending)
    made = {
        "columns": columns, "rows": rows, "grid": packed(found.levels), "width": wide, "height": high, "black": deep, "white": white, "title": _title(name),
        "name": name[:200], "source": part,
    }  # fmt: skip
    return HeightsIn(made, {part: data}, found.levels, found.said)


def _title(name: str) -> str:
    return Path(name).stem.replace("-", " ").replace("_", " ").strip()[:60]


def _ready(art: DrawnArt, data: bytes, name: str) -> BroughtIn:
    from gatepost.core.geometry.straight import path_of

    if art.area.is_empty:
        gap = min((line.gap for line in art.lines), default=0.0)
        raise OperatorError(
            f"{name} encloses nothing: its lines are open, and the nearest ends are {gap:.2f} mm apart."
        )
    x0, y0, x1, y1 = art.area.bounds
    wide, high = x1 - x0, y1 - y0
    if max(wide, high) > MOST_SIDE:
        raise OperatorError(f"{name} would be {wide:.0f} × {high:.0f} mm: larger than any board. Is its unit right?")
    middle = np.array([(x0 + x1) / 2.0, (y0 + y1) / 2.0])
    path = path_of(shapely.transform(art.area, lambda p: p - middle))
    part = source_name(data, Path(name).suffix)
    title = _title(name)
    made = {"path": path, "wide": wide, "high": high, "title": title, "name": name[:200], "source": part}
    return BroughtIn(made, {part: data}, art, tuple(sentences(art, name)))


def values(art: DrawnArt) -> dict[str, Any]:
    """What there is to say of a drawing, as plain values: mm, mm²; places as the file has them, in mm."""
    x0, y0, x1, y1 = art.box
    return {
        "width": x1 - x0, "height": y1 - y0, "unit": art.unit, "area": float(art.area.area), "closed": art.closed,
        "open": [{"x": line.x, "y": line.y, "gap": line.gap} for line in art.lines], "doubled": art.doubled, "crossing": len(art.crossing),
        "left_out": list(art.left_out), "why": art.why, "sizes": [{"unit": u, "width": w, "height": h} for u, w, h in art.sizes],
        "crosses": [{"x": c.x, "y": c.y * art.up} for c in art.crossing], "said": list(art.said), "layers": list(art.layers),
    }  # fmt: skip


def sentences(art: DrawnArt, name: str) -> list[str]:
    """The same for people."""
    x0, y0, x1, y1 = art.box
    out = [
        f"{name}: {x1 - x0:.2f} × {y1 - y0:.2f} mm ({art.why}); {art.area.area / 100:.2f} cm² filled, {_count(art.closed, 'closed outline')}."
    ]
    if len(art.sizes) > 1:
        out.append(
            "It may also be "
            + ", ".join(f"{w:.1f} × {h:.1f} mm if its unit is {u}" for u, w, h in art.sizes if u != art.unit)
            + "."
        )
    out += [
        f"Open at X {line.x:.2f}, Y {line.y:.2f}: the next end is {line.gap:.2f} mm away." for line in art.lines[:20]
    ]
    out += [f"… and {len(art.lines) - 20} more open lines."] if len(art.lines) > 20 else []
    out += [f"{_count(art.doubled, 'line')} drawn once more: taken once."] if art.doubled else []
    out += [
        f"Outlines cross near X {c.x:.2f}, Y {c.y * art.up:.2f}: what they cover together is taken."
        for c in art.crossing[:20]
    ]
    out += [f"Not taken: {words}." for words in art.left_out] + [
        f"{words[:1].upper()}{words[1:]}." for words in art.said
    ]
    return out


def _count(number: int, what: str) -> str:
    return f"{number} {what}{'s' if number != 1 else ''}"


def check(
    path: Path, unit: str, as_json: bool, say: Callable[[str], None], show: Callable[[object], None],
    layers: Sequence[str] | None = None,
) -> int:  # fmt: skip
    """The import check of a file; gives the exit code: 0, or 1 where lines are open or cross."""
    art = read_art(read_whole(path, LARGEST), path.name, unit, layers)
    if as_json:
        show(values(art))
    else:
        for sentence in sentences(art, path.name):
            say(sentence)
    return 0 if art.sound else 1
