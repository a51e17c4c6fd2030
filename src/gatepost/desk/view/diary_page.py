# SPDX-License-Identifier: GPL-3.0-or-later
"""A job's diary as a page."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Mapping, Sequence
from datetime import date
from html import escape
from itertools import groupby
from pathlib import Path
from types import MappingProxyType

from PyQt6.QtGui import QPageSize

from gatepost.core.log.diary import DiaryLine
from gatepost.core.units import spell
from gatepost.desk.theme.style import FAMILY
from gatepost.desk.view.pictures import gui
from gatepost.desk.view.sheet import Paper, written

Pictures = Mapping[str, bytes]
NONE: Pictures = MappingProxyType({})
SHOWN = 360  # px across of a picture
STEADY = {"result": "<b>{}</b>", "said": "<i>{}</i>"}  # how kinds of entries stand out


def _day(text: str) -> str:
    try:
        day = date.fromisoformat(text)
        return f"{day:%A}, {day.day} {day:%B %Y}"
    except ValueError:
        return text


def diary_html(lines: Sequence[DiaryLine], unit: str, pictures: Pictures = NONE) -> str:
    """Day by day; what was simulated says so, what was taken back is struck out. pictures: JPEG, by the names that lines have."""
    out = []
    for day, mine in groupby(lines, key=lambda line: line.day):
        rows = "".join(_row(line, unit, pictures) for line in mine)
        out.append(f"<h3>{escape(_day(day))}</h3><table cellspacing='0' cellpadding='3'>{rows}</table>")
    return f"<div style='font-family:\"{FAMILY}\"'>{''.join(out)}</div>"


def _words(line: DiaryLine, unit: str) -> str:
    words = STEADY.get(line.kind, "{}").format(escape(spell(line.words, unit)))
    words = f"<s>{words}</s>" if line.taken_back else words
    return f"{words} <small>(simulated)</small>" if line.simulated else words


def _row(line: DiaryLine, unit: str, pictures: Pictures) -> str:
    told = f"{_words(line, unit)}{_shown(line, pictures)}"
    return f"<tr><td width='52'>{escape(line.time)}</td><td width='84'>{escape(line.where)}</td><td>{told}</td></tr>"


def _shown(line: DiaryLine, pictures: Pictures) -> str:
    data = pictures.get(line.picture) if line.picture else None
    return f"<br/><img width='{SHOWN}' src='data:image/jpeg;base64,{b64encode(data).decode()}'/>" if data else ""


def paper_html(lines: Sequence[DiaryLine], unit: str, pictures: Pictures = NONE) -> str:
    """The same as paragraphs: a page of paper is turned between them, and a table is one."""
    out = []
    for day, mine in groupby(lines, key=lambda line: line.day):
        rows = (
            f"<p style='margin: 1px 0'>{escape(x.time)} &nbsp;&nbsp; {f'{escape(x.where)}: ' if x.where else ''}{_words(x, unit)}</p>{_on_paper(x, pictures)}"
            for x in mine
        )
        out.append(f"<h3>{escape(_day(day))}</h3>{''.join(rows)}")
    return f"<div style='font-family:\"{FAMILY}\"'>{''.join(out)}</div>"


def _on_paper(line: DiaryLine, pictures: Pictures) -> str:
    shown = _shown(line, pictures)
    return f"<p>{shown}</p>" if shown else ""


def write_diary(name: str, lines: Sequence[DiaryLine], unit: str, path: Path, pictures: Pictures = NONE) -> None:
    """As a PDF. Raises OperatorError."""
    gui()

    def on(device: object) -> None:
        paper = Paper(device, name)  # type: ignore[arg-type]
        paper.words(f"<div style='font-family:\"{FAMILY}\"'><h1>{escape(name)}</h1><p>Diary</p></div>")
        paper.words(paper_html(lines, unit, pictures))
        paper.end()

    written(f"{name}: diary", path, QPageSize.PageSizeId.A4, on)
