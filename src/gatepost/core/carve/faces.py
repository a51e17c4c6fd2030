# SPDX-License-Identifier: GPL-3.0-or-later
"""Faces for lettering: those shipped and those of the system, shaped with their own kerning.

The outlines that a line uses are kept in the job, so that it can be opened where the face is not.
"""

from __future__ import annotations

import io
import math
import struct
import zlib
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources
from pathlib import Path
from typing import Any

import uharfbuzz
from fontTools.pens.basePen import BasePen
from fontTools.ttLib import TTFont, TTLibError

from gatepost.core.carve import single_line
from gatepost.core.carve.face_folders import SYSTEM_FOLDERS, kept_folders
from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.reading import read_whole

SHIPPED = {
    "Serif": "LibreBaskerville-Bold.ttf",
    "Sans": "Cabin-Bold.ttf",
    "Slab": "ZillaSlab-SemiBold.ttf",
    "Condensed": "BarlowCondensed-SemiBold.ttf",
}
ENDINGS = (".ttf", ".otf", ".woff")
MOST_BYTES = 32 * 2**20
COMMON = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789"
DAMAGED = (
    TTLibError, OSError, LookupError, AttributeError, AssertionError, ValueError, TypeError, ArithmeticError, EOFError, RecursionError,
    NotImplementedError, MemoryError, struct.error, zlib.error,
)  # fmt: skip


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


def system_faces(folders: Iterable[str] | None = None) -> dict[str, Path]:
    """Faces by file name without its ending: those that were brought in, then the system's."""
    found: dict[str, Path] = {}
    for folder in (*kept_folders(), *SYSTEM_FOLDERS) if folders is None else folders:
        root = Path(folder).expanduser()
        for path in sorted(root.rglob("*")) if root.is_dir() else ():
            if path.suffix.lower() in ENDINGS:
                found.setdefault(path.stem, path)
    return found


def face_path(face: str) -> Path:
    """The file of a face by name. Raises OperatorError."""
    if face in SHIPPED:
        return Path(str(resources.files("gatepost").joinpath("assets", "faces", SHIPPED[face])))
    path = system_faces().get(face)
    if path is None:
        raise OperatorError(
            f"The face “{face}” is not on this computer. Choose one of {', '.join(SHIPPED)}, {single_line.NAME}, or bring its file in."
        )
    return path


def _unpacked(data: bytes, name: str) -> bytes:
    """A WOFF file as the face that is packed in it, bounded before it is unpacked; others as they are. Raises UnusableFile.

    WOFF File Format 1.0, W3C 2012: a head of 44 bytes, then 20 for each table: tag, offset, packed and own length, checksum.
    """
    if data[:4] == b"wOF2":
        raise UnusableFile(f"{name} is WOFF 2, which Gatepost does not read. Bring the TTF, OTF or WOFF file.")
    if data[:4] != b"wOFF":
        return data
    if len(data) < 44:
        raise UnusableFile(f"{name} is cut short.")
    flavour, count = data[4:8], struct.unpack(">H", data[12:14])[0]
    tables: list[tuple[bytes, bytes, bytes]] = []
    whole = 0
    for i in range(count):
        entry = data[44 + 20 * i : 64 + 20 * i]
        if len(entry) < 20:
            raise UnusableFile(f"{name} is cut short.")
        tag, offset, packed, own, check = struct.unpack(">4sIII4s", entry)
        whole += own
        if whole > MOST_BYTES or packed > own:
            raise UnusableFile(f"{name} is damaged, or its face is over {MOST_BYTES / 2**20:.0f} MB.")
        body = data[offset : offset + packed]
        if packed < own:
            body = zlib.decompressobj().decompress(body, own + 1)
        if len(body) != own:
            raise UnusableFile(f"{name} is damaged: a table of it is not as long as it says.")
        tables.append((tag, check, body))
    power = 1 << max(count.bit_length() - 1, 0)
    head = flavour + struct.pack(">HHHH", count, 16 * power, power.bit_length() - 1, 16 * (count - power))
    at, entries, bodies = 12 + 16 * count, b"", b""
    for tag, check, body in tables:
        entries += tag + check + struct.pack(">II", at + len(bodies), len(body))
        bodies += body + b"\0" * (-len(body) % 4)
    return head + entries + bodies


def _read(data: bytes, name: str) -> tuple[TTFont, Any, float]:
    """A face, what shapes it and its capitals' height in its own units. Raises UnusableFile."""
    try:
        plain = _unpacked(data, name)
        font = TTFont(io.BytesIO(plain), fontNumber=0)
        shaper = uharfbuzz.Font(uharfbuzz.Face(plain))
        capital = float(getattr(font["OS/2"], "sCapHeight", 0) or 0) if "OS/2" in font else 0.0
        if capital <= 0:
            capital = 0.7 * float(font["head"].unitsPerEm)
        if not font.getBestCmap() or not math.isfinite(capital) or capital < 1.0:
            raise UnusableFile(f"The face file {name} has no letters.")
        font.getGlyphSet()
    except DAMAGED as error:
        raise UnusableFile(f"The face file {name} can't be used: {str(error)[:200] or type(error).__name__}.") from None
    return font, shaper, capital


@lru_cache(maxsize=32)
def _opened(path: Path) -> tuple[TTFont, Any, float]:
    return _read(read_whole(path, MOST_BYTES), path.name)


def forget() -> None:
    """Files are read anew: one of them is another now."""
    _opened.cache_clear()


def letters_in(data: bytes, name: str) -> str:
    """Of a face file the letters that can be set with it. Raises UnusableFile where there are none."""
    font, shaper, capital = _read(data, name)
    known = "".join(c for c in COMMON if ord(c) in font.getBestCmap())
    if not any(g.path for g in _shaped(known, name, font, shaper, capital).glyphs):
        raise UnusableFile(f"The face file {name} has no outlines of letters.")
    return known


def shape(text: str, face: str) -> ShapedLine:
    """Shape a line with its face's own kerning. Raises OperatorError naming characters the face lacks."""
    if face == single_line.NAME:
        return _single(text)
    return _shaped(text, face, *_opened(face_path(face)))


def _single(text: str) -> ShapedLine:
    """A line in the face of single lines."""
    lacking = sorted({c for c in text if not single_line.has(c)})
    if lacking:
        raise OperatorError(
            f"The face “{single_line.NAME}” has no {' '.join(repr(c) for c in lacking)}. Choose another face or spelling."
        )
    out: list[ShapedGlyph] = []
    x = 0.0
    for char in text:
        if char != " ":
            out.append(ShapedGlyph(char, x + single_line.BESIDE, single_line.path_of(char)))
        x += single_line.SPACE if char == " " else single_line.strokes_of(char)[0] + 2.0 * single_line.BESIDE
    return ShapedLine(tuple(out), x)


def _shaped(text: str, face: str, font: TTFont, shaper: Any, capital: float) -> ShapedLine:
    lacking = sorted({c for c in text if ord(c) not in font.getBestCmap()})
    if lacking:
        raise OperatorError(
            f"The face “{face}” has no {' '.join(repr(c) for c in lacking)}. Choose another face or spelling."
        )
    try:
        return _drawn(text, font, shaper, capital)
    except DAMAGED as error:
        raise UnusableFile(f"The face “{face}” is damaged: {str(error)[:200] or type(error).__name__}.") from None


def _drawn(text: str, font: TTFont, shaper: Any, capital: float) -> ShapedLine:
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
