# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures in words: a value of a kind, in the operator's unit."""

from __future__ import annotations

import math

from gatepost.core.units import show_length, spell

SIGNS = {
    "minutes": "min",
    "angle": "°",
    "force": "N",
    "times": "×",
    "count": "",
    "number": "",
    "rpm": "rpm",
    "feed": "mm/min",
    "words": "",
}


def show_value(value: float | str, kind: str, unit: str, places: int | None = None) -> tuple[str, str]:
    """The digits and the unit's sign."""
    if isinstance(value, str):
        return spell(value, unit), ""
    if not math.isfinite(value):
        return "–", ""
    if kind == "length":
        if places is None:
            places_ = None if unit == "inch" else (2 if abs(value) < 10 else 1)
            return show_length(value, unit, places_) if unit == "mm" else show_length(value, unit), _sign(unit)
        return show_length(value, unit, places if unit == "mm" else places + 1), _sign(unit)
    if kind == "count":
        return f"{value:.0f}", ""
    if kind in ("rpm", "feed"):
        return f"{value:,.0f}".replace(",", " "), SIGNS[kind]
    if kind in ("minutes", "angle", "times"):
        return f"{value:.{1 if places is None else places}f}", SIGNS[kind]
    if kind == "force":
        return f"{value:.0f}" if value >= 10 else f"{value:.1f}", SIGNS[kind]
    if places is not None:
        return f"{value:.{places}f}", SIGNS.get(kind, kind)
    return f"{value:.3g}", SIGNS.get(kind, kind)


def _sign(unit: str) -> str:
    return "mm" if unit == "mm" else "in"


def in_working(unit: str) -> object:
    """How a working writes its values."""

    def write(value: float, kind: str) -> str:
        digits, sign = show_value(value, kind, unit, 3 if kind == "length" and 0 < abs(value) < 0.1 else None)
        return f"{digits}{'' if sign in ('°', '') else ' '}{sign}".strip()

    return write
