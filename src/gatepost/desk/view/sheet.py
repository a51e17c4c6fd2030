# SPDX-License-Identifier: GPL-3.0-or-later
"""What is printed: the run sheet to pin up at the machine, and the card of the zeros."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import date
from pathlib import Path

from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QRectF, QSizeF
from PyQt6.QtGui import QFont, QPagedPaintDevice, QPageLayout, QPageSize, QPainter, QPdfWriter, QTextDocument

from gatepost.core.errors import OperatorError
from gatepost.core.job.model import Job
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.run.step import Step
from gatepost.core.units import show_length, spell
from gatepost.core.writing import write_whole
from gatepost.core.zero.recover import Card
from gatepost.desk.theme.style import FAMILY, font
from gatepost.desk.view.pictures import as_it_will_look, gui, setup_picture

DPI = 96
MARGIN = 14.0  # mm
PICTURE = 0.34  # of a page's height
SIGN = (0.7, 0.2)  # of a page's width and height, that the picture of the sign takes at most
FOOT = 22.0  # px under the words, for the page's number
PROMISE = "Gatepost says what it checked, never that a setup is safe. The machine's manual and local rules come first."


UPRIGHT = QPageLayout.Orientation.Portrait


def _layout(size: QPageSize.PageSizeId, side: QPageLayout.Orientation) -> QPageLayout:
    margins = QMarginsF(MARGIN, MARGIN, MARGIN, MARGIN)
    return QPageLayout(QPageSize(size), side, margins, QPageLayout.Unit.Millimeter)


def written(
    title: str, path: Path, size: QPageSize.PageSizeId, print_on: Callable[[QPagedPaintDevice], None], side: QPageLayout.Orientation = UPRIGHT
) -> None:  # fmt: skip
    """A PDF, whole or not at all. Raises OperatorError."""
    out = QBuffer()
    out.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(out)
    writer.setTitle(title)
    writer.setCreator("Gatepost")
    writer.setResolution(DPI)
    writer.setPageLayout(_layout(size, side))
    print_on(writer)
    write_whole(path, out.data().data())


class Paper:
    """Pages that are printed on one after the other. named: at the foot of each, with its number."""

    def __init__(self, device: QPagedPaintDevice, named: str) -> None:
        self.device, self._named, self._page = device, named, 1
        self.painter = QPainter(device)
        if not self.painter.isActive():
            raise OperatorError("It can't be printed: the printer or the file does not take it.")
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        page = device.pageLayout().paintRect(QPageLayout.Unit.Point)
        dots = self.painter.device().logicalDpiX() if self.painter.device() is not None else DPI  # type: ignore[union-attr]
        self.painter.scale(dots / DPI, dots / DPI)  # everything is laid out at one resolution, whatever the printer's
        self.area = QRectF(0, 0, page.width() * DPI / 72.0, page.height() * DPI / 72.0 - FOOT)
        self.at = 0.0

    def turn(self) -> None:
        """On to the next page."""
        self._foot()
        self.device.newPage()
        self._page += 1
        self.at = 0.0

    def _foot(self) -> None:
        self.painter.setFont(_sized(11))
        foot = QRectF(0, self.area.bottom() + 4, self.area.width(), FOOT - 4)
        self.painter.drawText(foot, 0, self._named)
        self.painter.drawText(foot, 2, f"page {self._page}")  # to the right

    def words(self, html: str) -> None:
        """Rich text down the page and on to as many as it takes, never through a line."""
        document = QTextDocument()
        document.setDefaultFont(_sized(12))
        document.setHtml(html)
        document.documentLayout().setPaintDevice(None)  # type: ignore[union-attr]
        document.setPageSize(QSizeF(self.area.width(), 1e6))
        layout = document.documentLayout()
        assert layout is not None
        block = document.begin()
        while block.isValid():
            rect = layout.blockBoundingRect(block)
            tall = rect.height() * (
                4 if block.blockFormat().headingLevel() else 1
            )  # a heading stays with what it is over
            if self.at + tall > self.area.bottom():
                self.turn()
            self.painter.save()
            self.painter.translate(0, self.at - rect.top())
            document.drawContents(self.painter, rect)
            self.painter.restore()
            self.at += rect.height()
            block = block.next()

    def end(self) -> None:
        """The last page is done."""
        self._foot()
        self.painter.end()


def _sized(px: int) -> QFont:
    shown = font(px)
    shown.setPixelSize(px)
    return shown


# -- the run sheet ------------------------------------------------------------------------------------------------


def run_sheet(plan: Plan, path: Path, today: str = "") -> None:
    """The run sheet as a PDF. Raises OperatorError."""
    gui()
    written(
        f"{plan.job.name}: run sheet", path, QPageSize.PageSizeId.A4, lambda device: print_sheet(plan, device, today)
    )


def sign_on(paper: Paper, plan: Plan) -> None:
    """The sign as it will look, under the head."""
    if not plan.carving.operations:
        return
    image = as_it_will_look(plan, 1200)
    room = QRectF(0, 0, paper.area.width() * SIGN[0], paper.area.height() * SIGN[1])
    scale = min(room.width() / max(image.width(), 1), room.height() / max(image.height(), 1))
    wide, tall = image.width() * scale, image.height() * scale
    paper.painter.drawImage(QRectF((paper.area.width() - wide) / 2.0, paper.at + 4.0, wide, tall), image)
    paper.at += tall + 12.0


def print_sheet(plan: Plan, device: QPagedPaintDevice, today: str = "") -> None:
    """The run sheet on paper. today: the date at its head. Raises OperatorError."""
    paper = Paper(device, f"{plan.job.name} · plan {plan.fingerprint}")
    paper.words(head_html(plan, today or date.today().isoformat()))
    sign_on(paper, plan)
    for number, setup in enumerate(plan.setups):
        if number:
            paper.turn()
        tall = paper.area.height() * PICTURE
        image = setup_picture(plan, setup, "hold", 0, width=1400, tall=round(1400 * tall / paper.area.width()))
        paper.painter.drawImage(QRectF(0, paper.at, paper.area.width(), tall), image)
        paper.at += tall + 8.0
        paper.words(sheet_html(plan, setup))
    paper.end()


def _say(plan: Plan, words: str) -> str:
    return spell(words, plan.job.unit).replace("&", "&amp;").replace("<", "&lt;")


def head_html(plan: Plan, today: str) -> str:
    """Date, wood, sizes, readings, bits and zeros, at a glance."""
    job, unit = plan.job, plan.job.unit
    size = " × ".join(show_length(v, unit) for v in job.blank.across)
    read = [r.thickness for r in job.blank.calipers]
    readings = (
        f"{len(read)} readings, {show_length(min(read), unit)} to {show_length(max(read), unit, mark=True)}"
        if read
        else "no readings: measure it before it is laid"
    )
    bits = [
        f"T{t.number} {t.name}"
        for t in job.tools
        if any(p.tool.number == t.number for s in plan.setups for p in s.programs)
    ]
    zeros = "; ".join(
        f"{s.setup.title or s.name}: X0 Y0 at {s.setup.zero.xy}, Z0 on the {s.setup.zero.z}" for s in plan.setups
    )
    rows = (
        ("Date", today), ("Wood", job.wood.name), ("Size", f"{size} {'mm' if unit == 'mm' else 'in'}"), ("Thickness", readings),
        ("Bits", ", ".join(bits) or "none"), ("Zeros", zeros), ("Plan", plan.fingerprint),
    )  # fmt: skip
    told = "".join(f"<p><b>{name}</b>&nbsp; {_say(plan, words)}</p>" for name, words in rows)
    return f"<div style='font-family:\"{FAMILY}\"'><h1>{_say(plan, job.name)}</h1>{told}<p>{PROMISE}</p></div>"


def sections(setup: PlannedSetup) -> Iterator[tuple[str, list[Step]]]:
    """A setup's steps under headings: what is done before a bit is in, each bit's, and what comes after the last cut."""
    title, some = "Lay it and hold it", list[Step]()
    last = max((i for i, s in enumerate(setup.steps) if s.kind == "run"), default=-1)
    for i, step in enumerate(setup.steps):
        new = f"Tool {step.tool}" if step.kind == "fit" else "Afterwards" if i == last + 1 and last >= 0 else ""
        if new and some:
            yield title, some
            some = []
        title = new or title
        some.append(step)
    if some:
        yield title, some


def sheet_html(plan: Plan, setup: PlannedSetup) -> str:
    """One setup's part of the run sheet: programs, holds, then a row a step with its box; each caution once a section."""
    unit = plan.job.unit
    out = [f"<div style='font-family:\"{FAMILY}\"'>", f"<h2>{_say(plan, setup.setup.title or setup.name)} setup</h2>"]
    for program in setup.files:
        out.append(
            f"<p><b>{program.name}</b>: {' and '.join(program.operations)} with T{program.tool.number} {_say(plan, program.tool.name)}, "
            f"{program.tool.rpm:.0f} rpm, {program.seconds / 60:.0f} min, program {program.fingerprint}</p>"
        )
    kinds = plan.kinds.holds
    for hold in setup.setup.holds:
        place = f"X {show_length(hold.x, unit)}, Y {show_length(hold.y, unit)}"
        out.append(f"<p>{hold.name}: {kinds[hold.kind].one} at {place}{_say(plan, kinds[hold.kind].set_to(hold))}</p>")
    number = 0
    for title, steps in sections(setup):
        out.append(f"<h3>{title}</h3>")
        cautions = list(dict.fromkeys(s.caution for s in steps if s.caution))
        out += [f"<p><i>{_say(plan, words)}</i></p>" for words in cautions]
        for step in steps:
            number += 1
            figure = f" · <b>{_figure(step.label, step.figure, step.unit, unit)}</b>" if step.figure is not None else ""
            out.append(
                f"<p><span style='font-size:17px'>☐</span>&nbsp; {number}. <b>{_say(plan, step.title)}</b>{figure} {_say(plan, step.detail)}</p>"
            )
    for f in plan.findings:
        if f.setup in ("", setup.name) and f.level.value in ("stop", "care"):
            word = f"accepted: {_say(plan, f.accepted)}" if f.accepted else f.level.value
            out.append(f"<p>[{word}] {_say(plan, f.message)}</p>")
    return "".join(out) + "</div>"


def _figure(label: str, value: float, kind: str, unit: str) -> str:
    shown = f"{value:.0f} min" if kind == "minutes" else show_length(value, unit, mark=True)
    return f"{label} {shown}"


# -- the card of the zeros ----------------------------------------------------------------------------------------


def zero_card(job: Job, setup: str, card: Card, path: Path) -> None:
    """A card to print: where the zeros are on the machine, with tool and time, and how to find them again."""
    gui()

    def on(device: QPagedPaintDevice) -> None:
        paper = Paper(device, job.name)
        paper.words(card_html(job, setup, card))
        paper.end()

    written(f"{job.name}: zeros of the {setup} setup", path, QPageSize.PageSizeId.A5, on)


def card_html(job: Job, setup: str, card: Card) -> str:
    """The card's words."""
    zero, tool = job.setup(setup).zero, f"T{card.tool}" if card.tool else "no tool yet"
    rows = "".join(
        f"<tr><td><b>{axis}0</b>&nbsp;</td><td align='right'><b>{'–' if value is None else show_length(value, job.unit, 3, mark=True)}</b></td>"
        f"<td>&nbsp;{trust}: {why}</td><td>&nbsp;{at[:16].replace('T', ' ')}</td></tr>"
        for axis, value, trust, why, at in card.rows
    )
    mark = ""
    if zero.witness_x is not None and zero.witness_y is not None:
        mark = f"<p>Witness mark at X {show_length(zero.witness_x, job.unit, mark=True)}, Y {show_length(zero.witness_y, job.unit, mark=True)} of the board.</p>"
    name = job.name.replace("&", "&amp;").replace("<", "&lt;")
    return (
        f"<div style='font-family:\"{FAMILY}\"'><h2>{name}: zeros of the {setup} setup</h2><p>X0 Y0 at {zero.xy}, Z0 on the {zero.z}; {tool}; "
        f"{zero.gauge} of {show_length(zero.gauge_thickness, job.unit, mark=True)}.</p><table>{rows}</table>{mark}"
        "<p>To find them again: home; lift clear; go to X0 and Y0 by the machine's own coordinates; look at the witness mark; touch Z. "
        "Nothing cuts on an axis that is not known.</p></div>"
    )
