# SPDX-License-Identifier: GPL-3.0-or-later
"""The log as tables that other programs read."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

from gatepost.core.log.diary import DiaryLine
from gatepost.core.log.register import HEADS, Registered
from gatepost.core.units import spell

FIRST = (
    "id", "started", "ended", "state", "kind", "job", "setup", "program", "tool", "wood", "blank", "planned_minutes", "real_minutes", "blocks_done", "blocks", "metres", "chip",
    "remarks", "reason",
)  # fmt: skip


def safe(text: str) -> str:
    """Words that a spreadsheet does not take for a formula."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text


def _table(head: Sequence[str], rows: Sequence[Sequence[Any]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(head)
    writer.writerows([[safe(v) if isinstance(v, str) else v for v in row] for row in rows])
    return out.getvalue()


def rows_csv(rows: Sequence[Mapping[str, Any]]) -> str:
    """Runs, a line each; what was said while they ran in one field, cuts and stops as JSON (RFC 4180)."""
    more = sorted({name for row in rows for name in row} - set(FIRST))
    names = [*FIRST, *more]
    return _table(names, [[_cell(row.get(n)) for n in names] for row in rows])


def _cell(value: Any) -> Any:
    return json.dumps(value, ensure_ascii=False) if isinstance(value, (dict, list)) else "" if value is None else value


def rows_json(rows: Sequence[Mapping[str, Any]]) -> str:
    """Runs, all of them as they are kept."""
    return json.dumps([dict(r) for r in rows], ensure_ascii=False, indent=1) + "\n"


def diary_csv(lines: Sequence[DiaryLine], unit: str) -> str:
    """A diary, a line each."""
    names = ("at", "kind", "where", "simulated", "taken_back", "words")
    return _table(names, [[spell(str(v), unit) if isinstance(v, str) else int(v) for v in (getattr(x, n) for n in names)] for x in lines])  # fmt: skip


def diary_json(lines: Sequence[DiaryLine], unit: str) -> str:
    """A diary."""
    return json.dumps([{**asdict(x), "words": spell(x.words, unit)} for x in lines], ensure_ascii=False, indent=1) + "\n"  # fmt: skip


def registers_csv(lines: Sequence[Registered], unit: str) -> str:
    """What the shop has, a line each."""
    names = ("name", "what", "seen", "lapses", "standing", "told")
    return _table(
        ("register", *names), [[HEADS[x.kind], *(spell(str(getattr(x, n)), unit) for n in names)] for x in lines]
    )
