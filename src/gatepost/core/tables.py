# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables that people bring: CSV with named columns, lengths in mm."""

from __future__ import annotations

import csv
import io
import math

import numpy as np
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError

MOST_ROWS = 200_000
INCH = ('"', "″", "in", "inch", "inches", "ft", "'", "′")
HUGE = 10_000.0  # mm


def read_heights(text: str, name: str, columns: tuple[str, ...] = ("x", "y", "z")) -> NDArray[np.float64]:
    """Rows of a table of heights, (n, len(columns)), mm, as read_table. Raises OperatorError with the line."""
    return np.array(read_table(text, name, columns), dtype=np.float64)


def read_table(
    text: str, name: str, columns: tuple[str, ...], words: tuple[str, ...] = ()
) -> list[tuple[float | str, ...]]:
    """Rows of a table, each with the values of its columns in their order, lengths in mm.

    The first row names the columns, in any order, others beside them being left alone; without names the columns are
    taken as they stand. Between values: comma, semicolon or tab; with a semicolon or tab, a comma may be the decimal
    sign. words: columns that hold words and may be missing or empty. Raises OperatorError with the line.
    """
    text = text.lstrip("\ufeff")
    lines = [line for line in text.splitlines() if line.strip() and not line.lstrip().startswith("#")]
    if not lines:
        raise OperatorError(f"{name} is empty: rows of {', '.join(columns)} are wanted, in mm.")
    between = next((b for b in (";", "\t") if b in lines[0]), ",")
    rows = csv.reader(io.StringIO(text), delimiter=between, skipinitialspace=True, strict=True)
    order: list[int] | None = None
    out: list[tuple[float | str, ...]] = []
    try:
        for cells in rows:
            found = [cell.strip() for cell in cells]
            if not any(found) or found[0].startswith("#"):
                continue
            if order is None:
                order = _order(found, columns, name, words)
                if order is not None:
                    continue
                order = list(range(len(columns)))
                if len(found) == len(columns) - len(words):  # the words were left out
                    order = [-1 if c in words else i - len(words) for i, c in enumerate(columns)]
            out.append(_row(found, order, columns, name, rows.line_num, between, words))
            if len(out) > MOST_ROWS:
                raise OperatorError(f"{name} has over {MOST_ROWS:,} rows: too many for one board.")
    except csv.Error as error:
        raise OperatorError(f"{name}, line {rows.line_num}: it can't be read as a table ({error}).") from None
    if not out:
        raise OperatorError(f"{name} names its columns and has no rows.")
    return out


def _order(found: list[str], columns: tuple[str, ...], name: str, words: tuple[str, ...]) -> list[int] | None:
    """Where the wanted columns stand, when the row is one of names; -1 for words that are not there."""
    if any(_is_number(word) for word in found):
        return None
    plain = [word.lower().split("(")[0].split("[")[0].strip().removesuffix(" mm") for word in found]
    missing = [c for c in columns if c not in plain and c not in words]
    if missing:
        raise OperatorError(
            f"{name} has no column {missing[0]}: its first row says {', '.join(found) or 'nothing'}. "
            f"Columns {', '.join(columns)} are wanted, in mm."
        )
    return [plain.index(c) if c in plain else -1 for c in columns]


def _is_number(word: str) -> bool:
    try:
        float(word.replace(",", "."))
    except ValueError:
        return False
    return True


def _row(
    cells: list[str], order: list[int], columns: tuple[str, ...], name: str, line: int, between: str,
    words: tuple[str, ...],
) -> tuple[float | str, ...]:  # fmt: skip
    found: list[float | str] = []
    for column, index in zip(columns, order):
        word = cells[index] if 0 <= index < len(cells) else ""
        if column in words:
            found.append(word[:80])
            continue
        if not word:
            raise OperatorError(f"{name}, line {line}: there is no {column}.")
        bare = word.lower().removesuffix("mm").strip()
        if any(bare.endswith(mark) for mark in INCH):
            raise OperatorError(
                f"{name}, line {line}: “{word}” is in inches. The table is read in mm; change it, or have all of it in mm."
            )
        try:
            value = float(bare.replace(",", ".") if between != "," else bare)
        except ValueError:
            raise OperatorError(f"{name}, line {line}: “{word}” is not a number for {column}.") from None
        if not math.isfinite(value) or abs(value) > HUGE:
            raise OperatorError(f"{name}, line {line}: {column} is {word}, which no board has.")
        found.append(value)
    return tuple(found)
