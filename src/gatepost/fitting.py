# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece fitted to measured marks, for the command line."""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

from gatepost.checks import read_text
from gatepost.core.errors import OperatorError
from gatepost.core.register.fit import Fit, FitVerdict, MeasuredMark, Turned, fitted
from gatepost.core.tables import read_table
from gatepost.core.units import spell

COLUMNS = ("name", "drawn_x", "drawn_y", "measured_x", "measured_y", "normal")
EXITS = {FitVerdict.FITS: 0, FitVerdict.REFUSED: 2}


def read_marks(path: Path) -> tuple[MeasuredMark, ...]:
    """Marks of a table. Those without a name are numbered, and a name that comes again too. Raises OperatorError."""
    marks: list[MeasuredMark] = []
    for n, row in enumerate(read_table(read_text(path), path.name, COLUMNS, words=("name", "normal")), start=1):
        words, normal = str(row[0]) or f"mark {n}", str(row[5]).rstrip("° ")
        taken = {m.name for m in marks}
        name = next(w for w in (words, *(f"{words} ({k})" for k in range(2, n + 2))) if w not in taken)
        dx, dy, mx, my = (float(v) for v in row[1:5])
        marks.append(MeasuredMark(name, (dx, dy), (mx, my), _degrees(normal, name, path.name) if normal else None))
    return tuple(marks)


def _degrees(words: str, mark: str, file: str) -> float:
    try:
        value = float(words.replace(",", "."))
    except ValueError:
        value = math.nan
    if not abs(value) <= 360.0:
        raise OperatorError(f"{file}, {mark}: “{words}” is no direction. A normal is in degrees from +X, as 90 or -90.")
    return value


def fit(
    path: Path, turned: Turned, good_to: float, as_json: bool, say: Callable[[str], None], show: Callable[[Any], None]
) -> int:
    """Tell how a piece lies; the exit code. Raises OperatorError."""
    found = fitted(read_marks(path), turned, good_to)
    if as_json:
        show(as_data(found))
        return EXITS.get(found.verdict, 1)
    if found.verdict is not FitVerdict.REFUSED:
        print(f"turn\t{found.turn:.4f}°")
        print(f"shift\tX {found.shift[0]:.3f} mm, Y {found.shift[1]:.3f} mm")
        print(f"scale\t{found.scale:.6f}")
        for r in found.residuals:
            along = "" if r.along is None else f", {r.along:+.3f} along its normal"
            left_out = "\tleft out" if r.name == found.odd else ""
            print(f"{r.name}\t{r.x:+.3f}, {r.y:+.3f} mm{along}{left_out}")
    say(found.sentence)
    return EXITS.get(found.verdict, 1)


def as_data(found: Fit) -> dict[str, Any]:
    """As JSON."""
    return {
        "turn": found.turn, "shift": list(found.shift), "scale": found.scale,
        "residuals": [{"name": r.name, "x": r.x, "y": r.y, "along_normal": r.along} for r in found.residuals],
        "odd": found.odd, "verdict": found.verdict.value, "sentence": spell(found.sentence),
    }  # fmt: skip
