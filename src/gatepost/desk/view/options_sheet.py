# SPDX-License-Identifier: GPL-3.0-or-later
"""The options sheet: each design as large as it will be, from how far it reads told first, what it changes, and room to approve it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QImage, QPageLayout, QPageSize

from gatepost.core.errors import OperatorError
from gatepost.core.finish.cost import in_money
from gatepost.core.finish.report import cost_of
from gatepost.core.finish.scheme import WORDS
from gatepost.core.plan.result import Plan
from gatepost.core.units import show_length, spell
from gatepost.desk.theme.style import FAMILY
from gatepost.desk.view.pictures import gui
from gatepost.desk.view.sheet import DPI, MARGIN, Paper, written
from gatepost.drawing.look import first_look, picture, subject

READS = ("Reads easily to", "Its smallest line, easily to", "Can be read up to")  # figures of the lettering
SIDES = QPageLayout.Orientation
PAPERS = tuple(
    (paper, side, (wide, tall) if side is SIDES.Portrait else (tall, wide))
    for paper, wide, tall in ((QPageSize.PageSizeId.A4, 210.0, 297.0), (QPageSize.PageSizeId.A3, 297.0, 420.0))
    for side in (SIDES.Portrait, SIDES.Landscape)
)
WORDS_TALL = 96.0  # mm of a page that words and the place to sign take
SMALLER = (1, 2, 3, 4, 5, 8, 10, 15, 20)  # times that a sign is drawn smaller where no paper is as large
PX = 12.0  # of a picture, a mm of paper
MOST_PX = 3000


@dataclass(frozen=True)
class Option:
    """A design to choose. moved: what is other than in the first; approved: by whom it was, in words."""

    title: str
    plan: Plan
    moved: tuple[str, ...] = ()
    approved: str = ""


def fitting(sizes: Sequence[tuple[float, float]]) -> tuple[QPageSize.PageSizeId, QPageLayout.Orientation, int]:
    """The smallest paper on which all go at their true size, and how many times smaller they are drawn where none is large enough. sizes: across and up, mm."""
    wide, tall = max(w for w, _ in sizes), max(t for _, t in sizes)
    for smaller in SMALLER:
        for paper, side, (across, up) in PAPERS if smaller == 1 else PAPERS[-2:]:
            if wide / smaller <= across - 2 * MARGIN and tall / smaller <= up - 2 * MARGIN - WORDS_TALL:
                return paper, side, smaller
    raise OperatorError(f"It is too large for an options sheet, even {SMALLER[-1]} times smaller.")


def options_sheet(name: str, options: Sequence[Option], path: Path, today: date) -> int:
    """Write it; gives how many times smaller than true it is drawn. Raises OperatorError."""
    if not any(o.plan.carving.operations for o in options):
        raise OperatorError("Nothing is cut in it yet: there is nothing to choose from.")
    gui()
    seen = [subject(o.plan, o.plan.carving) for o in options]
    sizes = [(s.cell * s.z.shape[1], s.cell * s.z.shape[0]) for s in seen]
    paper_size, side, smaller = fitting(sizes)

    def on(device: object) -> None:
        paper = Paper(device, f"{name}: options of {today.isoformat()}")  # type: ignore[arg-type]
        for n, (option, of, (wide, tall)) in enumerate(zip(options, seen, sizes)):
            if n:
                paper.turn()
            paper.words(_head(name, option, n, smaller))
            scale = DPI / 25.4 / smaller
            rgba = np.ascontiguousarray(
                picture(of, first_look(option.plan, option.plan.carving), min(round(wide / smaller * PX), MOST_PX))
            )
            image = QImage(
                rgba.tobytes(), rgba.shape[1], rgba.shape[0], 4 * rgba.shape[1], QImage.Format.Format_RGBA8888
            )
            paper.painter.drawImage(
                QRectF((paper.area.width() - wide * scale) / 2.0, paper.at + 4.0, wide * scale, tall * scale), image
            )
            paper.at += tall * scale + 14.0
            paper.words(_told(option))
        paper.end()

    written(f"{name}: options", path, paper_size, on, side)
    return smaller


def _plain(plan: Plan, words: str) -> str:
    return spell(words, plan.job.unit).replace("&", "&amp;").replace("<", "&lt;")


def _head(name: str, option: Option, n: int, smaller: int) -> str:
    """Which it is, and first of all from how far it reads."""
    plan = option.plan
    told = {f.label: f.value for f in plan.report("carve").figures if f.unit == "m" and isinstance(f.value, float)}
    reads = [f"{label[:1].upper()}{label[1:]} {value:.1f} m" for label, value in told.items() if label in READS]
    far = (
        f"<p style='font-size:17px'><b>{' · '.join(reads)}</b>, square on; shop rules, by the height of its capitals.</p>"
        if reads
        else ""
    )
    size = "as large as it will be" if smaller == 1 else f"{smaller} times smaller than it will be"
    return f"<div style='font-family:\"{FAMILY}\"'><h1>{chr(65 + n)}: {_plain(plan, option.title)}</h1>{far}<p>{_plain(plan, name)}. Drawn {size}; print it at 100 %.</p></div>"


def _told(option: Option) -> str:
    plan, job, unit = option.plan, option.plan.job, option.plan.job.unit
    rows = [("Wood", job.wood.name)]
    sign = plan.finishing
    if sign is not None:
        rows.insert(
            0, ("Size", " × ".join(show_length(v, unit) for v in sign.size) + (" mm" if unit == "mm" else " in"))
        )
        rows.append(("Finish", WORDS[sign.work.scheme]))
        rates = sign.work.finish.rates
        if rates.hands or rates.machine or rates.wood:
            rows.append(("Price", in_money(cost_of(sign).price.result, rates)))
    if option.moved:
        rows.append(
            (
                "Beside A",
                " ".join(option.moved[:6]) + (f" And {len(option.moved) - 6} more." if len(option.moved) > 6 else ""),
            )
        )
    if option.approved:
        rows.append(("Approved", option.approved))
    out = "".join(f"<p style='font-size:14px'><b>{label}</b>&nbsp; {_plain(plan, words)}</p>" for label, words in rows)
    line = "_" * 28
    sign_here = (
        f"<p style='font-size:15px; margin-top:16px'>☐ This one. &nbsp; ☐ This one, with: {line}{line}</p>"
        f"<p style='font-size:15px; margin-top:18px'>Name {line} &nbsp; Date {'_' * 14}</p>"
    )
    return f"<div style='font-family:\"{FAMILY}\"'>{out}{sign_here}</div>"
