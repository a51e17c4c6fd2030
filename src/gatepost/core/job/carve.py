# SPDX-License-Identifier: GPL-3.0-or-later
"""Lettering and the plate that is cut out."""

from __future__ import annotations

import math
import re
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from gatepost.core.job.base import Amount, Called, Model, Name, Place, Size, Words, changed, with_ids
from gatepost.core.tolerances import CUTOUT_ALLOWANCE

MOST_LETTERS = 1000  # of all lines
MOST_TABS = 24
MOST_DRAWN_HOLES = 60  # of a drawing that are cut out
MOST_BOLDER = 20.0  # mm
MOST_RADIUS = 10_000.0
_PAIR = r"-?\d{1,3}(?:\.\d{1,9})? -?\d{1,3}(?:\.\d{1,9})?"
OUTLINE = re.compile(
    rf"(?:M{_PAIR}(?:L{_PAIR}|Q{_PAIR} {_PAIR}|C{_PAIR} {_PAIR} {_PAIR})*Z)*", re.ASCII
)  # as geometry.curves writes it


class Glyph(Model):
    """A glyph as used: its character and its outline in capital heights, placed in the line before tracking."""

    char: Annotated[str, Field(min_length=1, max_length=8)]
    x: Place
    path: Annotated[str, Field(max_length=200_000)]

    @field_validator("path")
    @classmethod
    def _an_outline(cls, path: str) -> str:
        if not OUTLINE.fullmatch(path):
            raise ValueError("a glyph's outline is closed runs of M, L, Q, C and Z with numbers under a thousand")
        return path


Kern = Annotated[float, Field(ge=-2, le=5)]


class TextLine(Model):
    """A line of lettering. height: of its capitals; run: straight, round an arc that rises in the middle (over) or hangs there (under), or letter under
    letter; radius: of the arc that the letters' feet stand on; kerns: what the hand adds after each character, capital heights; bolder: how far out the
    outlines are moved, mm; colour: that its letters get, where it is another than the artwork's. glyphs: the outlines used, kept with the job; width and advances in capital heights."""

    id: Called = ""
    text: Words
    face: Name
    height: Size
    tracking: Annotated[float, Field(ge=-0.5, le=3)] = 0.0
    align: Literal["left", "centre", "right"] = "centre"
    run: Literal["straight", "over", "under", "column"] = "straight"
    radius: Size = 200.0
    kerns: Annotated[tuple[Kern, ...], Field(max_length=400)] = ()
    bolder: Annotated[float, Field(ge=-MOST_BOLDER, le=MOST_BOLDER)] = 0.0
    colour: Annotated[str, Field(max_length=40)] = ""
    glyphs: Annotated[tuple[Glyph, ...], Field(max_length=400)] = ()
    width: Amount = 0.0

    def larger(self, factor: float) -> TextLine:
        """As large again by a factor: its capitals, its arc and what its strokes are bolder by."""
        bolder = min(max(self.bolder * factor, -MOST_BOLDER), MOST_BOLDER)
        return changed(self, height=self.height * factor, radius=min(self.radius * factor, MOST_RADIUS), bolder=bolder)


class Letters(Model):
    """Lines of lettering, one below the other; leading in heights of the line below; backwards: whether it is meant to be read so, where it is mirrored."""

    lines: Annotated[tuple[TextLine, ...], Field(max_length=60)] = ()
    leading: Amount = 0.6
    backwards: bool = False

    @field_validator("lines")
    @classmethod
    def _not_a_book(cls, lines: tuple[TextLine, ...]) -> tuple[TextLine, ...]:
        letters = sum(len(line.glyphs) for line in lines)
        if letters > MOST_LETTERS:
            raise ValueError(f"a job has {MOST_LETTERS} letters at most, and these are {letters}")
        return lines

    @field_validator("lines", mode="before")
    @classmethod
    def _called(cls, lines: Any) -> Any:
        return with_ids(lines, "line-")


class VCut(Model):
    """What is wanted of a V-cut. margin: wanted about the letters; sanding: taken off afterwards; painted: before or after; passes: in how many it is
    cut, each deeper than the one before, in hard wood or with a bit that was not tried yet."""

    margin: Amount = 15.0
    tool: int = 3
    sanding: Amount = 0.3
    painted: bool = True
    passes: Annotated[int, Field(ge=1, le=8)] = 1


Form = Literal["rounded", "hollow", "clipped", "oval", "arched"]


class Rounded(Model):
    """A plate or a border of a form. corner: radius of its corners, how much of them is clipped, or an arch's rise; an oval has none."""

    width: Size
    height: Size
    corner: Amount = 20.0
    form: Form = "rounded"


Share = Annotated[float, Field(ge=0, lt=1)]


PLATE = 0.8  # of its board that a plate is long and wide where nothing else is said


class CutOut(Model):
    """What is wanted of a cut-out. side: of its line that the cutter goes on; skin: left under the cut in the place of tabs, to be pared off by hand,
    0 for a cut right through; tab_at: where tabs stand that were put there by hand, as shares of the way round, none for evenly; grain_first: whether
    the last cut takes the ends of the grain before its long sides; hole: which of a drawing's holes it goes round, the largest first, 0 for its outer
    line."""

    tool: int = 2
    allowance: Amount = CUTOUT_ALLOWANCE
    tabs: Annotated[int, Field(ge=0, le=MOST_TABS)] = 4
    tab_width: Size = 8.0
    tab_height: Size = 4.0
    skin: Annotated[float, Field(ge=0, le=10)] = 0.0
    side: Literal["outside", "inside", "on"] = "outside"
    tab_at: Annotated[tuple[Share, ...], Field(max_length=MOST_TABS)] = ()
    grain_first: bool = False
    hole: Annotated[int, Field(ge=0, le=MOST_DRAWN_HOLES)] = 0


class Plate(CutOut, Rounded):
    """A plate and how it is cut out. x, y: its middle, blank frame; turn: degrees that it is turned by about that, mirror: whether it is seen from behind
    first; drawn: the outline of one that was drawn, about its middle and as large as it was drawn: wide by high, mm."""

    x: Place
    y: Place
    turn: float = 0.0
    mirror: bool = False
    drawn: str = ""
    wide: float = 1.0
    high: float = 1.0

    @property
    def out(self) -> float:
        """On which side of its line the cutter's middle goes: 1 outside, -1 inside, 0 on it."""
        return {"outside": 1.0, "inside": -1.0, "on": 0.0}[self.side]

    def beside(self, x: float, y: float) -> float:
        """How far a place of its face lies outside the box about it, mm; 0 inside."""
        way = math.radians(self.turn)
        dx, dy = x - self.x, y - self.y
        across, up = dx * math.cos(way) + dy * math.sin(way), dy * math.cos(way) - dx * math.sin(way)
        return math.hypot(max(abs(across) - self.width / 2.0, 0.0), max(abs(up) - self.height / 2.0, 0.0))


class Carving(Letters, VCut):
    """Lettering and how it is cut. x, y: its middle, blank frame; turn: degrees that it is turned by about that; mirror: whether it is seen from behind
    first; plate: what is cut out beside it."""

    x: Place = 0.0
    y: Place = 0.0
    turn: float = 0.0
    mirror: bool = False
    plate: Plate | None = None
