# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables that people bring: CSV with named columns, lengths in mm."""

from __future__ import annotations

import csv
import io
import math
import re
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError
from gatepost.core.units import LengthError, parse_length

MOST_ROWS = 200_000
INCH = ('"', "″", "in", "inch", "inches", "ft", "'", "′")
HUGE = 10_000.0  # mm


def read_heights(
    text: str, name: str, columns: tuple[str, ...] = ("x", "y", "z"), bare: str = "mm"
) -> NDArray[np.float64]:
    """Rows of a table of heights, (n, len(columns)), mm, as read_table. Raises OperatorError with the line."""
    return np.array(read_table(text, name, columns, bare=bare), dtype=np.float64)


def says_unit(text: str) -> bool:
    """Whether a table says its unit anywhere: in a column's name, or in a cell."""
    lines = [line for line in text.lstrip("\ufeff").splitlines() if line.strip() and not line.lstrip().startswith("#")]
    head = lines[0].lower() if lines else ""
    if any(m in head for m in ("(mm", "(in", "[mm", "[in", " mm", " in", "″", '"')):
        return True
    return any(re.search(r"\d\s*(mm|in|inch|inches|ft|\"|″|'|′)\s*([,;\t]|$)", line.lower()) for line in lines)


def read_table(
    text: str, name: str, columns: tuple[str, ...], words: tuple[str, ...] = (), bare: str = "mm"
) -> list[tuple[float | str, ...]]:
    """Rows of a table, each with the values of its columns in their order, lengths in mm.

    The first row names the columns, in any order, others beside them being left alone; without names the columns are
    taken as they stand. Between values: comma, semicolon or tab; with a semicolon or tab, a comma may be the decimal
    sign. A column may say its unit in its name, as “z (in)” or “x mm”, and a cell its own; else they are in ``bare``. A row with more cells
    than there are columns is refused. words: columns that hold words and may be missing or empty. Raises OperatorError with the line.
    """
    order: list[int] | None = None
    units: dict[str, str] = dict.fromkeys(columns, bare)
    wide = 0
    out: list[tuple[float | str, ...]] = []
    for line, between, found in parted(text, name, f"rows of {', '.join(columns)} are wanted, in mm"):
        if order is None:
            order = _order(found, columns, name, words)
            wide = len(found) if order is not None else len(columns)
            if order is not None:
                units = {c: _unit(found[i], bare) for c, i in zip(columns, order) if i >= 0}
                continue
            order = list(range(len(columns)))
            if len(found) == len(columns) - len(words):  # the words were left out
                order = [-1 if c in words else i - len(words) for i, c in enumerate(columns)]
        refuse_more(found, wide, f"{name}, line {line}", between)
        out.append(_row(found, order, columns, name, line, between, words, units))
        if len(out) > MOST_ROWS:
            raise OperatorError(f"{name} has over {MOST_ROWS:,} rows: too many for one board.")
    if not out:
        raise OperatorError(f"{name} names its columns and has no rows.")
    return out


def parted(text: str, name: str, wanted: str, comments: bool = True) -> Iterator[tuple[int, str, list[str]]]:
    """Each row that is not empty: its line, the sign between its values, and the values. wanted: what is said of an empty table; comments: whether rows
    that begin with # are left out. Raises OperatorError with the line."""
    text = text.lstrip("\ufeff")
    lines = (line.strip() for line in text.splitlines())
    first = next((line for line in lines if line and not (comments and line.startswith("#"))), "")
    if not first:
        raise OperatorError(f"{name} is empty: {wanted}.")
    between = next((b for b in (";", "\t") if b in first), ",")
    rows = csv.reader(io.StringIO(text), delimiter=between, skipinitialspace=True, strict=True)
    try:
        for cells in rows:
            found = [cell.strip() for cell in cells]
            if any(found) and not (comments and found[0].startswith("#")):
                yield rows.line_num, between, found
    except csv.Error as error:
        raise OperatorError(f"{name}, line {rows.line_num}: it can't be read as a table ({error}).") from None


def refuse_more(found: list[str], wide: int, where: str, between: str) -> None:
    """Raises OperatorError for a row with more values than there are columns: a decimal comma parts one in two."""
    if len(found) > wide and any(found[wide:]):
        comma = "Is a comma in it the decimal sign? Then part the values with semicolons."
        why = comma if between == "," else "Is one too many?"
        raise OperatorError(f"{where}: it has {len(found)} values, and there are {wide} columns. {why}")


def _order(found: list[str], columns: tuple[str, ...], name: str, words: tuple[str, ...]) -> list[int] | None:
    """Where the wanted columns stand, when the row is one of names; -1 for words that are not there."""
    if any(_is_number(word) for word in found):
        return None
    plain = [_bare_name(word) for word in found]
    missing = [c for c in columns if c not in plain and c not in words]
    if missing:
        raise OperatorError(
            f"{name} has no column {missing[0]}: its first row says {', '.join(found) or 'nothing'}. "
            f"Columns {', '.join(columns)} are wanted, in mm."
        )
    return [plain.index(c) if c in plain else -1 for c in columns]


def _bare_name(word: str) -> str:
    """A column's name without its unit."""
    bare = word.lower().split("(")[0].split("[")[0].strip()
    first, _, last = bare.rpartition(" ")
    return first.strip(" ,") if first and last in UNITS else bare


UNITS = {"mm": "mm", "in": "inch", "inch": "inch", "inches": "inch", '"': "inch", "″": "inch"}


def _unit(word: str, bare: str) -> str:
    """The unit that a column's name says; bare where it says none. Raises OperatorError for one that is not known."""
    inside = [part.strip(" )]") for part in word.lower().replace("[", "(").split("(")[1:]]
    last = word.lower().rpartition(" ")[2]
    said = inside[0] if inside else last if last in UNITS else ""
    if not said:
        return bare
    if said not in UNITS:
        raise OperatorError(f"“{word}” is in {said}, which is not read here: mm or inches are.")
    return UNITS[said]


def _is_number(word: str) -> bool:
    """Whether a cell holds a figure, with its unit or without."""
    try:
        float(word.replace(",", "."))
    except ValueError:
        try:
            parse_length(word, "mm")
        except LengthError:
            return False
    return True


def _length(word: str, between: str, unit: str) -> float:
    """A cell's length, mm; in its column's unit where it says none itself. Raises ValueError."""
    bare = word.lower().strip()
    if any(bare.endswith(mark) for mark in (*INCH, "mm")):
        return parse_length(bare, "mm")
    return float(bare.replace(",", ".") if between != "," else bare) * (25.4 if unit == "inch" else 1.0)


def _row(
    cells: list[str], order: list[int], columns: tuple[str, ...], name: str, line: int, between: str,
    words: tuple[str, ...], units: dict[str, str],
) -> tuple[float | str, ...]:  # fmt: skip
    found: list[float | str] = []
    for column, index in zip(columns, order):
        word = cells[index] if 0 <= index < len(cells) else ""
        if column in words:
            found.append(word[:80])
            continue
        if not word:
            raise OperatorError(f"{name}, line {line}: there is no {column}.")
        try:
            value = _length(word, between, units.get(column, "mm"))
        except (ValueError, LengthError):
            raise OperatorError(f"{name}, line {line}: “{word}” is not a number for {column}.") from None
        if not math.isfinite(value) or abs(value) > HUGE:
            raise OperatorError(f"{name}, line {line}: {column} is {word}, which no board has.")
        found.append(value)
    return tuple(found)
