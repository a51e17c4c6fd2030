# SPDX-License-Identifier: GPL-3.0-or-later
"""A finished piece, judged by the points that were promised: measured, or by eye; and what became of the warnings that were accepted."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from gatepost.core.units import mm


@dataclass(frozen=True)
class Promised:
    """A point of the plan that the piece is judged by. key: its name; figure: mm, nothing where it is looked at only; within: by which it may differ; at: the setup it belongs to."""

    key: str
    words: str
    figure: float | None = None
    within: float = 0.0
    at: str = ""


@dataclass(frozen=True)
class PointJudged:
    """A promise and what was found. found: mm, where it was measured; good: by eye, where it was not; said: in words."""

    promised: Promised
    found: float | None = None
    good: bool | None = None
    said: str = ""

    @property
    def judged(self) -> bool:
        """Whether anything was found out."""
        return self.holds is not None

    @property
    def off(self) -> float | None:
        """Found less promised, mm."""
        figure = self.promised.figure
        return None if figure is None or self.found is None else self.found - figure

    @property
    def holds(self) -> bool | None:
        """Whether the promise was kept; nothing where nobody has judged it. A measure counts more than an eye."""
        if self.off is not None:
            return abs(self.off) <= self.promised.within + 1e-9
        return self.good

    def told(self) -> str:
        """In a sentence."""
        p, off = self.promised, self.off
        if off is not None and p.figure is not None and self.found is not None:
            side = "as promised" if self.holds else f"{mm(abs(off), 2)} {'more' if off > 0 else 'less'} than promised"
            told = f"{p.words}: {mm(self.found, 2)} found, {mm(p.figure, 2)} ± {mm(p.within, 2)} promised, {side}"
        elif self.good is None:
            return f"{p.words}: not judged."
        else:
            told = f"{p.words}: {'good' if self.good else 'not good'} by eye"
        return f"{told}; {self.said}." if self.said else f"{told}."


@dataclass(frozen=True)
class WarningJudged:
    """A warning that was accepted, and whether it went well. held: nothing where nobody has said."""

    code: str
    setup: str
    about: str
    words: str
    reason: str
    held: bool | None = None
    said: str = ""

    def asked(self) -> str:
        """What is asked when the piece is judged."""
        return f"You accepted: “{self.words}” Your reason: “{self.reason}”. Did it go well?"

    def told(self) -> str:
        """In a sentence."""
        went = {True: "it went well", False: "it went wrong", None: "nobody has said yet how it went"}[self.held]
        return f"Accepted: “{self.words}” ({self.reason}); {went}{f': {self.said}' if self.said else ''}."


@dataclass(frozen=True)
class LessonJudged:
    """A lesson that stood at the job when the piece was made, and whether it held."""

    lesson: int
    words: str
    held: bool | None = None


@dataclass(frozen=True)
class Result:
    """A finished piece as it was judged. kind: shop where one of its programs ran on a real machine, else simulated; fingerprint: of the plan that it was judged by; words: of the whole; design: what was worked on, nothing for the first; picture: the name of one that is kept with it."""

    job: str
    at: str
    kind: str
    path: str = ""
    fingerprint: str = ""
    points: tuple[PointJudged, ...] = ()
    warnings: tuple[WarningJudged, ...] = ()
    lessons: tuple[LessonJudged, ...] = ()
    words: str = ""
    id: int = 0
    design: str = ""
    picture: str = ""

    @property
    def judged(self) -> int:
        """How many points somebody has judged."""
        return sum(p.judged for p in self.points)

    @property
    def kept(self) -> int:
        """How many of them are as promised."""
        return sum(p.holds is True for p in self.points)

    def told(self) -> str:
        """In a sentence."""
        if not self.judged:
            return "Nothing was judged."
        return f"{self.kept} of {self.judged} points judged are as promised."


@dataclass(frozen=True)
class Drifting:
    """A point that comes out on one side, over some results. by: mm in the middle; spread: mm; count: of results."""

    key: str
    words: str
    by: float
    spread: float
    count: int

    def told(self) -> str:
        """In a sentence."""
        return f"{self.words}: {mm(abs(self.by), 2)} {'more' if self.by > 0 else 'less'} than promised in the middle of {self.count} pieces."


def drifting(results: Sequence[Result], least: int = 3) -> list[Drifting]:
    """Points that come out on one side time and again, from shop results alone: their mean lies more than two standard errors from 0."""
    found: dict[str, list[tuple[str, float]]] = {}
    for result in results:
        for point in result.points if result.kind == "shop" else ():
            if point.off is not None:
                found.setdefault(point.promised.key, []).append((point.promised.words, point.off))
    out = []
    for key, offs in found.items():
        values = [v for _, v in offs]
        if len(values) < least:
            continue
        mean = sum(values) / len(values)
        spread = math.sqrt(sum((v - mean) ** 2 for v in values) / (len(values) - 1))
        if abs(mean) > max(2.0 * spread / math.sqrt(len(values)), 0.01):
            out.append(Drifting(key, offs[-1][0], mean, spread, len(values)))
    return sorted(out, key=lambda d: -abs(d.by))


@dataclass(frozen=True)
class ResultAsked:
    """What a piece is judged by, before anybody has."""

    points: tuple[Promised, ...]
    warnings: tuple[WarningJudged, ...] = ()
    lessons: tuple[LessonJudged, ...] = field(default=())


def result_values(result: Result) -> dict[str, object]:
    """As plain values, for the logbook."""
    return {
        "points": [
            {
                "key": p.promised.key, "words": p.promised.words, "figure": p.promised.figure, "within": p.promised.within, "at": p.promised.at,
                "found": p.found, "good": p.good, "said": p.said,
            }
            for p in result.points
        ],
        "warnings": [
            {"code": w.code, "setup": w.setup, "about": w.about, "words": w.words, "reason": w.reason, "held": w.held, "said": w.said}
            for w in result.warnings
        ],
        "lessons": [{"lesson": one.lesson, "words": one.words, "held": one.held} for one in result.lessons],
        "design": result.design, "picture": result.picture,
    }  # fmt: skip


def result_of(values: dict[str, object], **more: object) -> Result:
    """A result out of what the logbook keeps; what can't be read of it is left out."""
    points, warnings, lessons = (_rows(values.get(name)) for name in ("points", "warnings", "lessons"))
    return Result(
        points=tuple(
            PointJudged(
                Promised(_text(p, "key"), _text(p, "words"), _number(p, "figure"), _number(p, "within") or 0.0, _text(p, "at")),
                _number(p, "found"), _flag(p, "good"), _text(p, "said"),
            )
            for p in points
        ),
        warnings=tuple(
            WarningJudged(
                _text(w, "code"), _text(w, "setup"), _text(w, "about"), _text(w, "words"), _text(w, "reason"), _flag(w, "held"), _text(w, "said"),
            )
            for w in warnings
        ),
        lessons=tuple(LessonJudged(int(_number(x, "lesson") or 0), _text(x, "words"), _flag(x, "held")) for x in lessons),
        design=_text(values, "design"), picture=_text(values, "picture"),
        **more,  # type: ignore[arg-type]
    )  # fmt: skip


def _rows(value: object) -> list[dict[str, object]]:
    return [v for v in value if isinstance(v, dict)] if isinstance(value, list) else []


def _text(row: dict[str, object], name: str) -> str:
    value = row.get(name)
    return value if isinstance(value, str) else ""


def _number(row: dict[str, object], name: str) -> float | None:
    value = row.get(name)
    fine = isinstance(value, (int, float)) and not isinstance(value, bool) and math.isfinite(value)
    return float(value) if fine else None  # type: ignore[arg-type]


def _flag(row: dict[str, object], name: str) -> bool | None:
    value = row.get(name)
    return value if isinstance(value, bool) else None
