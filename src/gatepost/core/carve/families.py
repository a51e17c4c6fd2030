# SPDX-License-Identifier: GPL-3.0-or-later
"""Faces by their families, as their makers call them: those that suit being cut first."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from fontTools.ttLib import TTFont, TTLibError

from gatepost.core.carve import single_line
from gatepost.core.carve.face_folders import kept_folders
from gatepost.core.carve.faces import SHIPPED, face_path, system_faces

STRONG = ("bold", "black", "heavy", "semi", "demi")  # strokes that a V-bit makes something of
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789"


@dataclass(frozen=True)
class Family:
    """name: as it is called; styles: the face of each of its styles; file: of the style that shows what it looks like; suited: whether
    it has a style that is strong enough to be cut."""

    name: str
    styles: tuple[tuple[str, str], ...]
    file: str
    suited: bool

    def nearest(self, style: str) -> str:
        """The face whose style is called most like another: the same, else the first that is strong, else the first."""
        same = [face for name, face in self.styles if name == style]
        strong = [face for name, face in self.styles if _strong(name)]
        return (same or strong or [self.styles[0][1]])[0]


def _strong(style: str) -> bool:
    return any(word in style.lower() for word in STRONG)


@lru_cache(maxsize=1)
def families() -> tuple[Family, ...]:
    """Shipped faces, then those that were brought in, then those of the system that suit being cut, then the rest; none that lacks plain letters."""
    shipped = [Family(name, (("as shipped", name),), str(face_path(name)), True) for name in SHIPPED]
    mine = system_faces(kept_folders())
    brought = [Family(face, (("as brought in", face),), str(path), True) for face, path in mine.items()]
    found: dict[str, list[tuple[str, str, Path]]] = {}
    for face, path in system_faces().items():
        called = _called(path) if face not in mine else None
        if called is not None:
            found.setdefault(called[0], []).append((called[1], face, path))
    others = []
    for name, styles in found.items():
        styles.sort(key=lambda s: (not _strong(s[0]), s[0]))
        told = tuple((style, face) for style, face, _ in styles)
        others.append(Family(name, told, str(styles[0][2]), any(_strong(style) for style, _ in told)))
    lines = Family(single_line.NAME, (("to engrave", single_line.NAME),), "", True)
    return (*shipped, lines, *brought, *sorted(others, key=lambda f: (not f.suited, f.name)))


def family_of(face: str) -> tuple[Family, str]:
    """The family of a face and the name of its style; of a face that is not here, one by itself."""
    for family in families():
        for style, one in family.styles:
            if one == face:
                return family, style
    return Family(face, (("as in this job", face),), "", True), "as in this job"


def _called(path: Path) -> tuple[str, str] | None:
    """Family and style by the file's own names; nothing where it can't be read or lacks plain letters."""
    try:
        with TTFont(path, fontNumber=0, lazy=True) as font:
            names, known = font["name"], font.getBestCmap()
            family = names.getDebugName(16) or names.getDebugName(1)
            style = names.getDebugName(17) or names.getDebugName(2) or "Regular"
    except (TTLibError, OSError, KeyError, AttributeError, AssertionError):
        return None
    if not family or not known or any(ord(c) not in known for c in LETTERS):
        return None
    return str(family), str(style)
