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


def _words(line: DiaryLine, unit: str) -> str:
    words = STEADY.get(line.kind, "{}").format(escape(spell(line.words, unit)))
    words = f"<s>{words}</s>" if line.taken_back else words
    return f"{words} <small>(simulated)</small>" if line.simulated else words


def _row(line: DiaryLine, unit: str) -> str:
    return f"<tr><td width='52'>{escape(line.time)}</td><td width='84'>{escape(line.where)}</td><td>{_words(line, unit)}</td></tr>"


def paper_html(lines: Sequence[DiaryLine], unit: str) -> str:
    """The same as paragraphs: a page of paper is turned between them, and a table is one."""
    out = []
    for day, mine in groupby(lines, key=lambda line: line.day):
        rows = (
            f"<p style='margin: 1px 0'>{escape(x.time)} &nbsp;&nbsp; {f'{escape(x.where)}: ' if x.where else ''}{_words(x, unit)}</p>"
            for x in mine
        )
        out.append(f"<h3>{escape(_day(day))}</h3>{''.join(rows)}")
    return f"<div style='font-family:\"{FAMILY}\"'>{''.join(out)}</div>"


def write_diary(name: str, lines: Sequence[DiaryLine], unit: str, path: Path) -> None:
    """As a PDF. Raises OperatorError."""
    gui()

    def on(device: object) -> None:
        paper = Paper(device, name)  # type: ignore[arg-type]
        paper.words(f"<div style='font-family:\"{FAMILY}\"'><h1>{escape(name)}</h1><p>Diary</p></div>")
        paper.words(paper_html(lines, unit))
        paper.end()

    written(f"{name}: diary", path, QPageSize.PageSizeId.A4, on)
