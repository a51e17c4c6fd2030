# SPDX-License-Identifier: GPL-3.0-or-later
"""Faces for lettering: those shipped and those of the system, shaped with their own kerning.

The outlines that a line uses are kept in the job, so that it can be opened where the face is not.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from pathlib import Path
from typing import Any

import uharfbuzz
from fontTools.pens.basePen import BasePen
from fontTools.ttLib import TTFont, TTLibError

from gatepost.core.errors import OperatorError

SHIPPED = {
    "Serif": "LibreBaskerville-Bold.ttf",
    "Sans": "Cabin-Bold.ttf",
    "Slab": "ZillaSlab-SemiBold.ttf",
    "Condensed": "BarlowCondensed-SemiBold.ttf",
}
SYSTEM_FOLDERS = ("/usr/share/fonts", "/usr/local/share/fonts", "~/.local/share/fonts", "~/.fonts")


@dataclass(frozen=True)
class ShapedGlyph:
    """A glyph of a shaped line: character, place and outline (path data), all in capital heights."""

    char: str
    x: float
    path: str


@dataclass(frozen=True)
class ShapedLine:
    """A line shaped by its face. width: from the first glyph's origin past the last one's advance, capital heights."""

    glyphs: tuple[ShapedGlyph, ...]
    width: float


class _PathPen(BasePen):  # type: ignore[misc]
    """Writes an outline as M L Q C Z path data, scaled."""

    def __init__(self, glyphs: Any, scale: float) -> None:
        super().__init__(glyphs)
        self._scale = scale
        self.out: list[str] = []

    def _write(self, letter: str, *points: tuple[float, float]) -> None:
        self.out.append(letter + " ".join(f"{v * self._scale:.7f}".rstrip("0").rstrip(".") for p in points for v in p))

    def _moveTo(self, pt: tuple[float, float]) -> None:
        self._write("M", pt)

    def _lineTo(self, pt: tuple[float, float]) -> None:
        self._write("L", pt)

    def _qCurveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float]) -> None:
        self._write("Q", pt1, pt2)

    def _curveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float], pt3: tuple[float, float]) -> None:
        self._write("C", pt1, pt2, pt3)

    def _closePath(self) -> None:
        self.out.append("Z")

    def _endPath(self) -> None:
        self.out.append("Z")


def system_faces(folders: Iterable[str] = SYSTEM_FOLDERS) -> dict[str, Path]:
    """Faces of the system by file name without its ending."""
    found: dict[str, Path] = {}
    for folder in folders:
        root = Path(folder).expanduser()
        for path in sorted(root.rglob("*")) if root.is_dir() else ():
            if path.suffix.lower() in (".ttf", ".otf"):
                found.setdefault(path.stem, path)
    return found


def face_path(face: str) -> Path:
    """The file of a face by name. Raises OperatorError."""
    if face in SHIPPED:
        return Path(str(resources.files("gatepost").joinpath("assets", "faces", SHIPPED[face])))
    path = system_faces().get(face)
    if path is None:
        raise OperatorError(f"The face “{face}” is not on this computer. Choose one of {', '.join(SHIPPED)}.")
    return path


@lru_cache(maxsize=32)
def _opened(path: Path) -> tuple[TTFont, Any, float]:
    try:
        font = TTFont(path, fontNumber=0)
        shaper = uharfbuzz.Font(uharfbuzz.Face(path.read_bytes()))
        capital = float(getattr(font["OS/2"], "sCapHeight", 0) or 0) if "OS/2" in font else 0.0
        if capital <= 0:
            capital = 0.7 * float(font["head"].unitsPerEm)
    except (TTLibError, OSError, KeyError) as error:
        raise OperatorError(f"The face file {path.name} can't be used: {error}.") from None
    return font, shaper, capital


def shape(text: str, face: str) -> ShapedLine:
    """Shape a line with its face's own kerning. Raises OperatorError naming characters the face lacks."""
    font, shaper, capital = _opened(face_path(face))
    lacking = sorted({c for c in text if ord(c) not in font.getBestCmap()})
    if lacking:
        raise OperatorError(
            f"The face “{face}” has no {' '.join(repr(c) for c in lacking)}. Choose another face or spelling."
        )
    buffer = uharfbuzz.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    uharfbuzz.shape(shaper, buffer, {"kern": True, "liga": False, "clig": False})
    glyphs, order = font.getGlyphSet(), font.getGlyphOrder()
    out: list[ShapedGlyph] = []
    x = 0.0
    for info, position in zip(buffer.glyph_infos, buffer.glyph_positions):
        pen = _PathPen(glyphs, 1.0 / capital)
        glyphs[order[info.codepoint]].draw(pen)
        if pen.out:
            out.append(ShapedGlyph(text[info.cluster], (x + position.x_offset) / capital, "".join(pen.out)))
        x += position.x_advance
    return ShapedLine(tuple(out), x / capital)
