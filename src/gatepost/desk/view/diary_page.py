# SPDX-License-Identifier: GPL-3.0-or-later
"""A job's diary as a page."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from html import escape
from itertools import groupby
from pathlib import Path

from PyQt6.QtGui import QPageSize

from gatepost.core.log.diary import DiaryLine
from gatepost.core.units import spell
from gatepost.desk.theme.style import FAMILY
from gatepost.desk.view.pictures import gui
from gatepost.desk.view.sheet import Paper, written

STEADY = {"result": "<b>{}</b>", "said": "<i>{}</i>"}  # how kinds of entries stand out


def _day(text: str) -> str:
    try:
        day = date.fromisoformat(text)
        return f"{day:%A}, {day.day} {day:%B %Y}"
    except ValueError:
        return text


def diary_html(lines: Sequence[DiaryLine], unit: str) -> str:
    """Day by day; what was simulated says so, what was taken back is struck out."""
    out = []
    for day, mine in groupby(lines, key=lambda line: line.day):
        rows = "".join(_row(line, unit) for line in mine)
        out.append(f"<h3>{escape(_day(day))}</h3><table cellspacing='0' cellpadding='3'>{rows}</table>")
    return f"<div style='font-family:\"{FAMILY}\"'>{''.join(out)}</div>"


def _row(line: DiaryLine, unit: str) -> str:
    words = escape(spell(line.words, unit))
    words = STEADY.get(line.kind, "{}").format(words)
    words = f"<s>{words}</s>" if line.taken_back else words
    note = " <small>(simulated)</small>" if line.simulated else ""
    return f"<tr><td width='52'>{escape(line.time)}</td><td width='84'>{escape(line.where)}</td><td>{words}{note}</td></tr>"


def write_diary(name: str, lines: Sequence[DiaryLine], unit: str, path: Path) -> None:
    """As a PDF. Raises OperatorError."""
    gui()

    def on(device: object) -> None:
        paper = Paper(device, name)  # type: ignore[arg-type]
        paper.words(f"<div style='font-family:\"{FAMILY}\"'><h1>{escape(name)}</h1><p>Diary</p></div>")
        for day, mine in groupby(lines, key=lambda line: line.day):
            paper.words(diary_html(tuple(mine), unit))
            del day
        paper.end()

    written(f"{name}: diary", path, QPageSize.PageSizeId.A4, on)
