# SPDX-License-Identifier: GPL-3.0-or-later
"""Words typed on the wood itself: a caret and a selection in the letters as they stand, on arcs and in columns too."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen, QPolygonF

from gatepost.core.errors import OperatorError
from gatepost.core.job.carve import Carving, Letters, TextLine
from gatepost.core.job.operation import Artwork, Operation
from gatepost.desk.theme.table import THEMES

if TYPE_CHECKING:
    from gatepost.desk.context.desk_context import DeskContext
    from gatepost.desk.view.canvas import Canvas
    from gatepost.desk.view.paint import View

NEAR = 40.0  # px from a caret within which a click belongs to its line
KERN = 0.01  # × height that Alt and an arrow move letters apart


class WoodTyping:
    """One line at a time; every key is a change that can be undone."""

    def __init__(self, desk: DeskContext, bed: Canvas) -> None:
        self._desk, self._bed = desk, bed
        self._art = self._operation = self._line = ""
        self._at = self._from = 0  # the caret, and where the selection began
        bed.typing_wanted.connect(self.begin)

    # -- beginning and ending -------------------------------------------------------------------------------------------

    def begin(self, key: str, x: float, y: float) -> None:
        """The caret goes into the words of a key, nearest to a place of the bed, mm; to the end of the first line where none is told."""
        from gatepost.core.plan.arranging import art_of

        document = self._desk.document
        if document is None or self._desk.showing.stage != "carve":
            return
        setup = document.job.setup(self._desk.showing.setup)
        art = art_of(document.job, setup, key) if key else None
        if art is None or not isinstance(art.figures, Letters) or not art.figures.lines:
            return
        self._operation = next((o.id for o in setup.operations if art.id in o.on), "")
        self._art, self._line = art.id, art.figures.lines[0].id
        self._at = self._from = len(art.figures.lines[0].text)
        if not math.isnan(x):
            self._to(x, y, keep=False)
        from gatepost.core.carve.edits import PLACEHOLDER

        now = self._now()
        if now is not None and now[2].text == PLACEHOLDER:
            self._from, self._at = 0, len(now[2].text)
        self._bed.typing = self
        self._bed.selected = key
        self._bed.setProperty("typing", True)
        self._bed.setFocus(Qt.FocusReason.OtherFocusReason)
        self._bed.update()
        self._desk.messages.say(
            "Type on the wood. Alt and an arrow move letters apart at the caret; Enter or Esc leaves."
        )

    def end(self) -> None:
        """It is left."""
        if self._bed.typing is self:
            self._bed.typing = None
            self._bed.setProperty("typing", False)
            self._desk.messages.say("")
            self._bed.update()

    # -- what is there -------------------------------------------------------------------------------------------------

    def _now(self) -> tuple[Artwork, Operation, TextLine, int] | None:
        """The artwork, its operation, the line and its number, as the job has them now; nothing where they are gone."""
        document = self._desk.document
        if document is None:
            return None
        job = document.job
        art = next((a for a in job.artwork if a.id == self._art), None)
        done = next((o for s in job.setups for o in s.operations if o.id == self._operation), None)
        lines = art.figures.lines if art is not None and isinstance(art.figures, Letters) else ()
        number = next((i for i, line in enumerate(lines) if line.id == self._line), -1)
        return (art, done, lines[number], number) if art is not None and done is not None and number >= 0 else None

    @staticmethod
    def _carving(art: Artwork) -> Carving:
        return Carving(**dict(art.figures), x=art.x, y=art.y, turn=art.turn, mirror=art.mirror)

    def _carets(self, art: Artwork, number: int) -> Any:
        """Foot and top of each place for the caret, on the bed, mm."""
        from gatepost.core.carve.lettering import carets

        setup = self._desk.showing.planned_setup()
        marks = carets(self._carving(art), number)
        return setup.face_to_bed.array(marks.reshape(-1, 2)).reshape(-1, 2, 2) if setup is not None else marks

    def _to(self, x: float, y: float, keep: bool) -> bool:
        """The caret to the place nearest to one on the bed, in any line. keep: the selection begins where it did. Gives whether it is near."""
        now, view = self._now(), self._bed.view()
        if now is None or view is None:
            return False
        art = now[0]
        assert isinstance(art.figures, Letters)
        best: tuple[float, int, int] = (math.inf, 0, 0)
        for number in range(len(art.figures.lines)):
            for i, (foot, top) in enumerate(self._carets(art, number)):
                way, to = top - foot, np.array([x, y]) - foot
                share = min(1.0, max(0.0, float(to @ way / max(way @ way, 1e-9))))
                best = min(best, (float(np.hypot(*(to - share * way))), number, i))
        if best[0] * view.scale_x > NEAR:
            return False
        line = art.figures.lines[best[1]]
        keep = keep and line.id == self._line
        self._line, self._at = line.id, best[2]
        self._from = self._from if keep else self._at
        self._bed.update()
        return True

    # -- keys and mouse -------------------------------------------------------------------------------------------------

    def click(self, event: QMouseEvent, view: View | None) -> bool:
        """A press in its words moves the caret, with Shift what is chosen; elsewhere it is left."""
        held = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if view is not None and self._to(*view.to_mm(event.position()), held):
            return True
        self.end()
        return False

    def key(self, event: QKeyEvent) -> bool:
        """What is typed; whether it was its own."""
        now = self._now()
        if now is None:
            self.end()
            return False
        key, held = Qt.Key(event.key()), event.modifiers()
        control = bool(held & Qt.KeyboardModifier.ControlModifier)
        if key in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Tab):
            self.end()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and held & Qt.KeyboardModifier.AltModifier:
            self._kern(now, KERN if key == Qt.Key.Key_Right else -KERN)
        elif not self._walked(now, key, bool(held & Qt.KeyboardModifier.ShiftModifier), control):
            text = event.text()
            if key in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete):
                self._erase(now, key == Qt.Key.Key_Backspace)
            elif text and text.isprintable() and not control:
                self._put(now, text)
            else:
                return control  # the window's own keys are theirs; nothing else is typed
        self._bed.update()
        return True

    def _walked(self, now: tuple[Artwork, Operation, TextLine, int], key: Qt.Key, keep: bool, control: bool) -> bool:
        """Whether the key moved the caret. keep: the selection begins where it did."""
        art, _, line, number = now
        assert isinstance(art.figures, Letters)
        last, lines = len(line.text), art.figures.lines
        if key == Qt.Key.Key_A and control:
            self._from, self._at = 0, last
            return True
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            other = lines[min(max(number + (1 if key == Qt.Key.Key_Down else -1), 0), len(lines) - 1)]
            self._line, self._at = other.id, min(self._at, len(other.text))
            self._from = self._at
            return True
        to = {
            Qt.Key.Key_Left: self._at - 1, Qt.Key.Key_Right: self._at + 1, Qt.Key.Key_Home: 0, Qt.Key.Key_End: last,
        }.get(key)  # fmt: skip
        if to is None:
            return False
        if not keep and self._at != self._from and key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            to = min(self._at, self._from) if key == Qt.Key.Key_Left else max(self._at, self._from)
        self._at = min(max(to, 0), last)
        self._from = self._from if keep else self._at
        return True

    def _put(self, now: tuple[Artwork, Operation, TextLine, int], text: str) -> None:
        a, b = sorted((self._from, self._at))
        self._say(now, now[2].text[:a] + text + now[2].text[b:], a + len(text))

    def _erase(self, now: tuple[Artwork, Operation, TextLine, int], before: bool) -> None:
        a, b = sorted((self._from, self._at))
        if a == b:
            a, b = (max(a - 1, 0), b) if before else (a, min(b + 1, len(now[2].text)))
        self._say(now, now[2].text[:a] + now[2].text[b:], a)

    def _say(self, now: tuple[Artwork, Operation, TextLine, int], text: str, at: int) -> None:
        """The line says something else."""
        from gatepost.core.carve.edits import typed

        art, done, line, _ = now
        document = self._desk.document
        if document is None or text == line.text:
            return
        try:
            values = typed(document.job, self._desk.showing.setup, done, line, text)
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return
        if self._desk.run(
            "set line", {"line": line.id, "operation": done.id, "art": art.id, **values}, "typed on the wood"
        ):
            self._at = self._from = at

    def _kern(self, now: tuple[Artwork, Operation, TextLine, int], by: float) -> None:
        """The letters on both sides of the caret farther apart."""
        art, done, line, _ = now
        if not 0 < self._at < len(line.text):
            return
        kerns = [*line.kerns, *[0.0] * len(line.text)][: len(line.text)]
        kerns[self._at - 1] = round(kerns[self._at - 1] + by, 4)
        values = {"line": line.id, "operation": done.id, "art": art.id, "kerns": tuple(kerns)}
        self._desk.run("set line", values, "spacing by hand")

    # -- what is seen -----------------------------------------------------------------------------------------------------

    def paint(self, p: QPainter, view: View) -> None:
        """The letters as the job has them, which the plan may not show yet; what is chosen of them; the caret."""
        now, setup = self._now(), self._desk.showing.planned_setup()
        if now is None or setup is None:
            return
        from gatepost.core.carve.lettering import layout

        art, _, _, number = now
        c = THEMES[self._bed.theme]
        carving = self._carving(art)
        plan = self._desk.showing.plan
        shown = next((a for a in plan.job.artwork if a.id == art.id), None) if plan is not None else None
        if shown != art:
            path = QPainterPath()
            path.setFillRule(Qt.FillRule.WindingFill)
            for glyph in layout(carving):
                for contour in glyph.contours:
                    points = np.vstack([contour[0][:1], *(piece[1:] for piece in contour)])
                    path.addPolygon(
                        QPolygonF([view.to_screen(x, y) for x, y in setup.face_to_bed.array(points).tolist()])
                    )
                    path.closeSubpath()
            shade = QColor(c["accent"])
            shade.setAlpha(110)
            p.fillPath(path, shade)
        marks = self._carets(art, number)
        a, b = sorted((min(self._from, len(marks) - 1), min(self._at, len(marks) - 1)))
        if a != b:
            chosen = QColor(c["accent"])
            chosen.setAlpha(70)
            p.setBrush(chosen)
            p.setPen(Qt.PenStyle.NoPen)
            for i in range(a, b):
                corners = (marks[i][0], marks[i][1], marks[i + 1][1], marks[i + 1][0])
                p.drawPolygon(QPolygonF([view.to_screen(*q) for q in corners]))
        foot, top = (view.to_screen(*q) for q in marks[min(self._at, len(marks) - 1)])
        p.setPen(QPen(QColor(c["stop"]), 2.4))
        p.drawLine(QPointF(foot), QPointF(top))
