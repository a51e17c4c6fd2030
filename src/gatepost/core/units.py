# SPDX-License-Identifier: GPL-3.0-or-later
"""Lengths as people type them, and as they are shown. Inside, everything is mm."""

from __future__ import annotations

import re
from decimal import Decimal
from fractions import Fraction

from gatepost.core.errors import OperatorError

INCH = Fraction(254, 10)
FOOT = 12 * INCH
LONGEST = 1_000_000  # mm; a kilometre is a typing mistake

_NUMBER = r"(?:\d+\s+\d+\s*/\s*\d+|\d+\s*/\s*\d+|\d+(?:[.,]\d+)?|[.,]\d+)"
_PART = re.compile(rf"\s*({_NUMBER})\s*(mm|cm|m|inches|inch|in|feet|foot|ft|\"|''|″|”|'|′|’)?", re.IGNORECASE)
_UNITS = {
    "mm": Fraction(1), "cm": Fraction(10), "m": Fraction(1000),
    "in": INCH, "inch": INCH, "inches": INCH, '"': INCH, "''": INCH, "″": INCH, "”": INCH,
    "ft": FOOT, "foot": FOOT, "feet": FOOT, "'": FOOT, "′": FOOT, "’": FOOT,
}  # fmt: skip


class LengthError(OperatorError):
    """A length that can't be read."""


def _number(text: str) -> Fraction:
    text = text.strip().replace(",", ".")
    whole, _, rest = text.partition(" ")
    if rest.strip():
        return Fraction(whole) + Fraction(rest.replace(" ", ""))
    return Fraction(text.replace(" ", ""))


def parse_exact(text: str, unit: str = "mm") -> Fraction:
    """Read a length as an exact number of mm.

    text: such as ``19.05``, ``3/4"``, ``1 3/16 in``, ``2' 6"``, ``-0,5``; unit: ``mm`` or ``inch``,
    what a bare number means. Raises LengthError with a sentence.
    """
    default = INCH if unit == "inch" else Fraction(1)
    body = text.strip().replace("−", "-").replace("⁄", "/").replace("½", " 1/2").replace("¼", " 1/4")
    body = body.replace("¾", " 3/4").strip()
    sign = -1 if body.startswith("-") else 1
    body = body.lstrip("+-").strip()
    total, at, last = Fraction(0), 0, None
    try:
        while at < len(body):
            match = _PART.match(body, at)
            if match is None or match.end() == at:
                raise LengthError(f'“{text}” is not a length. Type it like 19.05, 3/4" or 1 3/16".')
            factor = _UNITS[match[2].lower()] if match[2] else default
            if last is not None and (factor >= last or match[2] is None):
                raise LengthError(f'“{text}” is not one length. Type it like 2\' 6" or 1 3/16".')
            total, at, last = total + _number(match[1]) * factor, match.end(), factor
            at += len(body[at:]) - len(body[at:].lstrip())
    except ZeroDivisionError:
        raise LengthError(f"“{text}” divides by 0.") from None
    if last is None:
        raise LengthError('A length is wanted here, such as 19.05 or 3/4".')
    if total > LONGEST:
        raise LengthError(f"“{text}” is longer than a kilometre.")
    return sign * total


def parse_length(text: str, unit: str = "mm") -> float:
    """Read a length in mm, as the nearest float to the exact value."""
    return float(parse_exact(text, unit))


def _inch_fraction(value: float, finest: int = 64) -> str | None:
    parts = round(value / 25.4 * finest)
    if abs(parts * 25.4 / finest - value) > 1e-9 * max(1.0, abs(value)):
        return None
    fraction = Fraction(abs(parts), finest)
    whole, rest = divmod(fraction.numerator, fraction.denominator)
    sign = "−" if parts < 0 else ""
    if rest == 0:
        return f"{sign}{whole}"
    return f"{sign}{whole} {rest}/{fraction.denominator}" if whole else f"{sign}{rest}/{fraction.denominator}"


def area_words(area: float) -> str:
    """An area to read, from mm²: in cm² from one upward."""
    return f"{area / 100.0:.1f} cm²" if area >= 100.0 else f"{area:.1f} mm²"


def show_length(value: float, unit: str = "mm", places: int | None = None, mark: bool = False) -> str:
    """Show a length to read: mm to a hundredth at most, inches as a fraction when it is one, else thou.

    value: mm. places: digits after the point (default 2 in mm, 3 in inches, trailing noughts dropped).
    """
    if unit == "inch":
        text = _inch_fraction(value) if places is None else None
        if text is None:
            text = _trim(f"{value / 25.4:.{3 if places is None else places}f}", places is None)
        return text + ('"' if mark else "")
    text = _trim(f"{value:.{2 if places is None else places}f}", places is None)
    return text + (" mm" if mark else "")


def edit_length(value: float, unit: str = "mm") -> str:
    """Show a length so that reading it back gives the very same number."""
    if unit == "inch":
        text = _inch_fraction(value)
        if text is not None and parse_length(text, unit) == value:
            return text
        scaled = value / 25.4
        for digits in range(1, 18):
            text = f"{scaled:.{digits}g}"
            if "e" not in text and parse_length(text, unit) == value:
                return text
        return f"{_plain(value)} mm"
    return _plain(value)


def _plain(value: float) -> str:
    """The shortest digits that give the very same number, never with an exponent."""
    text = format(Decimal(repr(value)), "f")
    return text[:-2] if text.endswith(".0") else text


def _trim(text: str, trim: bool) -> str:
    if trim and "." in text:
        text = text.rstrip("0").rstrip(".")
    if text.startswith("-") and not any(c in "123456789" for c in text):
        text = text[1:]
    return text.replace("-", "−")


_MARKED = re.compile(r"⟦(-?[\d.e+-]+)(?:\|(\d))?⟧")


def mm(value: float, places: int | None = None) -> str:
    """A length inside a sentence, shown later in the operator's unit by ``spell``."""
    return f"⟦{value:.9g}{'' if places is None else f'|{places}'}⟧"


def spell(sentence: str, unit: str = "mm") -> str:
    """A sentence with its lengths in the operator's unit."""

    def show(match: re.Match[str]) -> str:
        value = float(match[1])
        places = int(match[2]) if match[2] else (2 if abs(value) < 10 else 1)
        if unit == "inch":
            return show_length(value, unit, None if _inch_fraction(value, 32) else max(2, places + 1), mark=True)
        sign = "" if sentence.startswith(" × ⟦", match.end()) else " mm"  # 600 × 220 mm: told once
        return _trim(f"{value:.{places}f}", True) + sign

    return _MARKED.sub(show, sentence)
