# SPDX-License-Identifier: GPL-3.0-or-later
"""The drawer of tools: looked through, sorted, and as a table that other programs read."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence
from typing import Any

from pydantic import ValidationError

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import complaint
from gatepost.core.job.tool import ChipRange, Tool
from gatepost.core.tables import UNITS, parted, refuse_more
from gatepost.core.units import LengthError, parse_length

KINDS = {
    "flat": "end mill", "ball": "ball-nose", "tapered_ball": "tapered ball", "vee": "V-bit", "rounded_vee": "V-bit, rounded", "bull": "bull-nose",
    "surfacing": "surfacing cutter", "drill": "drill",
}  # fmt: skip
LENGTHS = (
    "diameter",
    "tip",
    "radius",
    "cutting_length",
    "shank",
    "length",
    "overall",
    "runout",
    "pass_depth",
    "rub",
    "sleeve",
)
NUMBERS = ("number", "angle", "teeth", "marked_rpm", "rpm", "feed", "plunge", "sleeve_rpm", "price")
YES, NO = ("yes", "true", "1"), ("no", "false", "0")
WORDS = ("name", "kind", "spiral", "centre_cutting", "body", "hangs", "sharpened", "chips", "taken")
COLUMNS = (
    "number", "name", "kind", "diameter", "angle", "tip", "radius", "teeth", "cutting_length", "shank", "length", "overall", "runout", "spiral",
    "centre_cutting", "body", "marked_rpm", "rpm", "feed", "plunge", "pass_depth", "rub", "chips", "sleeve", "sleeve_rpm", "hangs", "sharpened", "price", "taken",
)  # fmt: skip
MOST = 500  # tools of a table
ORDERS = {"name": "name", "kind": "kind", "diameter": "diameter", "where it hangs": "hangs", "sharpened": "sharpened"}


def found(tools: Iterable[Tool], words: str) -> list[Tool]:
    """Those in which every word is found: in name, kind, where it hangs, what it is made of, or a size as it is written."""
    wanted = words.lower().split()
    return [t for t in tools if all(_has(t, w) for w in wanted)]


def _has(tool: Tool, word: str) -> bool:
    told = f"{tool.name} {KINDS[tool.kind]} {tool.kind} {tool.spiral} {tool.body} {tool.hangs} t{tool.number}".lower()
    if word in told:
        return True
    try:
        size = parse_length(word, "mm")
    except LengthError:
        return False
    return any(abs(size - v) < 0.02 for v in (tool.diameter, tool.shank, tool.angle))


def sorted_by(tools: Iterable[Tool], by: str) -> list[Tool]:
    """Sorted by one of ORDERS, then by name; what has no such entry comes last."""
    field = ORDERS[by]
    return sorted(
        tools,
        key=lambda t: (getattr(t, field) == "", _of_kind(t) if field == "kind" else getattr(t, field), t.name.lower()),
    )


def _of_kind(tool: Tool) -> tuple[int, float]:
    return tuple(KINDS).index(tool.kind), tool.diameter


def to_csv(tools: Sequence[Tool]) -> str:
    """A table of tools, a row each, lengths in mm, the first row naming the columns."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow([f"{c} (mm)" if c in LENGTHS else c for c in COLUMNS])
    for tool in tools:
        table.writerow([_cell(tool, c) for c in COLUMNS])
    return out.getvalue()


def _cell(tool: Tool, column: str) -> str:
    if column == "chips":
        return chips_words(tool.chips)
    value = getattr(tool, column)
    if isinstance(value, bool):
        return "yes" if value else "no"
    return repr(value) if isinstance(value, float) else str(value)


def from_csv(text: str, name: str) -> list[Tool]:
    """Tools of a table. Columns in any order, named as in COLUMNS, with “(mm)” or “(in)” behind a length; others are left alone; what is
    missing is as of a new tool. Raises OperatorError with the line, and nothing is taken."""
    heads: list[tuple[str, str]] = []
    out: list[Tool] = []
    wanted = "a row of columns is wanted first, and then a row for each tool"
    for line, between, cells in parted(text, name, wanted, comments=False):
        if not heads:
            heads = _heads(cells, name)
            continue
        where = f"{name}, line {line}"
        refuse_more(cells, len(heads), where, between)
        out.append(_tool(dict(zip(heads, cells)), where, len(out) + 1, between))
        if len(out) > MOST:
            raise OperatorError(f"{name} has over {MOST} tools: no drawer has.")
    if not out:
        raise OperatorError(f"{name} names its columns and has no tools.")
    return out


def _heads(cells: list[str], name: str) -> list[tuple[str, str]]:
    """Columns by name, each with its unit. Raises OperatorError where one that is needed is missing, stands twice, or has a unit that is not read."""
    heads = [_head(c, name) for c in cells]
    columns = [h for h, _ in heads]
    missing = [c for c in ("name", "kind", "diameter") if c not in columns]
    if missing:
        raise OperatorError(f"{name} has no column {missing[0]}: its first row says {', '.join(columns)}.")
    twice = next((c for c in COLUMNS if columns.count(c) > 1), None)
    if twice is not None:
        raise OperatorError(f"{name} has two columns called “{twice}”.")
    return heads


def _head(cell: str, name: str) -> tuple[str, str]:
    """A column's name and its unit."""
    match = re.fullmatch(r"(.*?)\s*(?:[(\[]\s*(.*?)\s*[)\]])?", cell.lower())
    assert match is not None
    column, unit = match[1].replace(" ", "_"), match[2] or "mm"
    if column in LENGTHS and unit not in UNITS:
        raise OperatorError(f"{name}: “{cell}” is in {unit}, which is not read here: mm or inches are.")
    return column, UNITS.get(unit, "mm")


def _tool(cells: dict[tuple[str, str], str], where: str, number: int, between: str) -> Tool:
    values: dict[str, Any] = {}
    for (column, unit), cell in cells.items():
        word = cell.strip()
        if not word or column not in COLUMNS:
            continue
        values[column] = _value(column, word, unit, where, between)
    wide = values.get("diameter", 6.0)
    usual = {
        "number": min(number, 99), "cutting_length": 3.0 * wide, "shank": wide, "length": 4.0 * wide, "rpm": 16000.0, "feed": 1500.0, "plunge": 500.0,
        "pass_depth": 0.5 * wide,
    }  # fmt: skip
    try:
        return Tool.model_validate({**usual, **values})
    except ValidationError as error:
        raise OperatorError(f"{where}: {complaint(error)}") from None


def _value(column: str, word: str, unit: str, where: str, between: str) -> Any:
    if column in LENGTHS:
        plain = word.replace(",", ".") if between != "," else word
        try:
            return parse_length(plain, unit)
        except LengthError:
            raise OperatorError(f"{where}: “{word}” is no length for {column}.") from None
    if column in NUMBERS:
        try:
            number = float(word.replace(",", "."))
        except ValueError:
            raise OperatorError(f"{where}: “{word}” is no number for {column}.") from None
        return int(number) if column in ("number", "teeth") and number == int(number) else number
    if column == "centre_cutting":
        if word.lower() not in (*YES, *NO):
            raise OperatorError(f"{where}: “{word}” is neither yes nor no for {column}.")
        return word.lower() in YES
    if column == "kind":
        return next((k for k, words in KINDS.items() if word.lower() in (k, words.lower())), word)
    return chips_of(word, f"{where}: ") if column == "chips" else word


def chips_words(chips: Iterable[ChipRange]) -> str:
    """Chips a tooth by wood, as they are typed: “oak 0.05-0.12; birch 0.06-0.14 shop”."""
    return "; ".join(f"{c.wood} {c.least:g}-{c.most:g}{' shop' if c.by == 'shop' else ''}" for c in chips)


def chips_of(word: str, where: str = "") -> list[ChipRange]:
    """Chips a tooth by wood, as they were typed. Raises OperatorError, which begins with where."""
    out = []
    for part in filter(None, (p.strip() for p in re.split(r"[;/]", word))):
        match = re.fullmatch(r"(.+?)\s+([\d.]+)\s*-\s*([\d.]+)(\s+shop)?", part)
        if match is None:
            raise OperatorError(f"{where}“{part}” is no range of chips: write “oak 0.05-0.12”.")
        try:
            out.append(
                ChipRange(
                    wood=match[1], least=float(match[2]), most=float(match[3]), by="shop" if match[4] else "maker"
                )
            )
        except (ValidationError, ValueError):
            raise OperatorError(f"{where}“{part}” is no range of chips: the first is the thinnest.") from None
    return out
