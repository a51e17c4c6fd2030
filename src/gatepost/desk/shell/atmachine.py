# SPDX-License-Identifier: GPL-3.0-or-later
"""At the machine: the next step, the one figure that matters, and the heights; large enough for two metres away."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QProgressBar, QVBoxLayout, QWidget

from gatepost.core.run.step import Step
from gatepost.core.units import LengthError, parse_length, spell
from gatepost.desk.shell.figures import show_value
from gatepost.desk.shell.holdbutton import BigKey, HeldKeys
from gatepost.desk.theme.style import font
from gatepost.desk.theme.table import THEMES
from gatepost.desk.theme.words import Label
from gatepost.desk.view.canvas import Canvas
from gatepost.drawing.shapes import Drawing

if TYPE_CHECKING:
    from gatepost.core.plan.planned import PlannedSetup
    from gatepost.core.plan.result import Plan

STEP_TALL, FIGURE_TALL = 9.0, 18.0  # mm at the screen's true size
CAPITAL = 0.668  # of the interface face
VERBS = {
    "home": "Home",
    "warm": "Warm up",
    "zero xy": "Set X and Y",
    "zero z": "Touch off",
    "run": "Run",
    "jog": "Jog",
    "again": "Touch again",
    "witness": "Go and look",
    "look": "Looked",
    "sensor": "Touch sensor",
    "square": "Touch both",
    "depth": "Measure",
    "rock": "Stands still",
}


class AtMachine(QWidget):
    """The second view. It asks; the window does."""

    done_wanted = pyqtSignal(object, object, tuple)  # setup, step, typed read-outs
    still_wanted = pyqtSignal()
    resume_wanted = pyqtSignal()
    stop_wanted = pyqtSignal()
    desk_wanted = pyqtSignal()
    told = pyqtSignal(str)
    ledger_wanted = pyqtSignal()
    rocks_wanted = pyqtSignal(object)  # setup: its work rocks
    fresh_wanted = pyqtSignal()  # another board lies there: all of it once more
    turned_to = pyqtSignal()  # another step is shown

    def __init__(self, theme: str) -> None:
        super().__init__()
        self.held_keys = HeldKeys(self)
        self.held_keys.came_up.connect(self._key_up)
        self.theme = theme
        self.unit = "mm"
        self.steps: list[tuple[PlannedSetup, Step]] = []
        self.done: list[bool] = []
        self.at = 0
        self._typed_for = ("", "")
        self.barred = ""  # what keeps everything from being done, or nothing
        self.linked = False
        self.state = "no link"
        self.progress = (0, 0)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setObjectName("machine")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._header())
        column.addLayout(self._words(), 0)
        column.addLayout(self._typed_row())
        self.canvas = Canvas(theme, stretch=True)
        self.canvas.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column.addWidget(self.canvas, 1)
        column.addWidget(self._foot())
        self.dress(theme)

    # -- building ---------------------------------------------------------------------------------------------

    def _header(self) -> QWidget:
        head = QWidget()
        head.setObjectName("mhead")
        row = QHBoxLayout(head)
        row.setContentsMargins(28, 10, 28, 10)
        self.job, self.where, self.link = Label(), Label(), Label()
        for label, bold in ((self.job, True), (self.where, False), (self.link, False)):
            label.setFont(font(18, bold))
        row.addWidget(self.job)
        row.addSpacing(14)
        row.addWidget(self.where)
        row.addStretch(1)
        row.addWidget(self.link)
        return head

    def _words(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(40, 18, 40, 0)
        left = QVBoxLayout()
        self.count, self.step, self.detail, self.caution = Label(), Label(), Label(), Label()
        self.trouble = Label()
        self.trouble.hide()
        for label in (self.step, self.detail, self.caution, self.trouble):
            label.setWordWrap(True)
        left.addWidget(self.count)
        left.addWidget(self.step)
        left.addWidget(self.detail)
        left.addWidget(self.trouble)
        left.addWidget(self.caution)
        left.addStretch(1)
        row.addLayout(left, 7)
        right = QVBoxLayout()
        self.label, self.figure, self.figure_unit, self.sum = Label(), Label(), Label(), Label()
        for label in (self.label, self.figure, self.figure_unit, self.sum):
            label.setAlignment(Qt.AlignmentFlag.AlignRight)
            right.addWidget(label)
        self.sum.setWordWrap(True)
        right.addStretch(1)
        row.addLayout(right, 4)
        return row

    def _typed_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(40, 4, 40, 6)
        self.typed: list[tuple[QLabel, QLineEdit]] = []
        for _ in range(4):
            name, field = Label(), QLineEdit()
            name.setFont(font(17))
            field.setFont(font(24, True))
            field.setFixedWidth(140)
            field.returnPressed.connect(self.press_main)
            field.hide()
            row.addWidget(name)
            row.addSpacing(12)
            row.addWidget(field)
            row.addSpacing(18)
            self.typed.append((name, field))
        self.bar = QProgressBar()
        self.bar.setTextVisible(True)
        self.bar.hide()
        row.addWidget(self.bar, 1)
        row.addStretch(0)
        return row

    def _foot(self) -> QWidget:
        foot = QWidget()
        foot.setObjectName("mfoot")
        column = QVBoxLayout(foot)
        column.setContentsMargins(28, 4, 28, 14)
        self.not_stop = Label(
            "Pause and stop here are requests over a cable. The emergency stop is the red button on the machine."
        )
        self.not_stop.setAlignment(Qt.AlignmentFlag.AlignRight)
        column.addWidget(self.not_stop)
        row = QHBoxLayout()
        row.setSpacing(14)
        self.back = BigKey("Back", "B", self.theme)
        self.ledger = BigKey("Z ledger", "L", self.theme)
        self.working = BigKey("Working", "W", self.theme)
        self.main = BigKey("Done", "Enter", self.theme, "main")
        self.rocks = BigKey("It rocks", "R", self.theme, "danger")
        self.halt = BigKey("Pause", "Esc", self.theme, "danger")
        self.stop = BigKey("Stop", "S", self.theme, "danger")
        for key, share in (
            (self.back, 4),
            (self.working, 4),
            (self.ledger, 4),
            (self.rocks, 4),
            (self.main, 7),
            (self.halt, 4),
            (self.stop, 3),
        ):
            row.addWidget(key, share)
        column.addLayout(row)
        self.back.fired.connect(lambda: self.go(self.at - 1))
        self.working.fired.connect(self._fold)
        self.ledger.fired.connect(self.ledger_wanted.emit)
        self.main.fired.connect(self._main)
        self.rocks.fired.connect(self._rocks)
        self.halt.fired.connect(self._halt)
        self.stop.fired.connect(self.stop_wanted.emit)
        return foot

    def dress(self, theme: str) -> None:
        """Colours and true sizes."""
        self.theme = theme
        c = THEMES[theme]
        per_mm = self._per_mm()
        self.step.setFont(font(STEP_TALL * per_mm / CAPITAL * 0.93, True))
        self.figure.setFont(font(FIGURE_TALL * per_mm / CAPITAL, True))
        for label, size in (
            (self.count, 20),
            (self.detail, 21),
            (self.caution, 18),
            (self.trouble, 24),
            (self.label, 20),
            (self.figure_unit, 22),
            (self.sum, 19),
            (self.not_stop, 16),
        ):
            label.setFont(font(size))
        dark = theme == "dark"
        ground, bar, ink, soft, good, care = (
            ("sunk", "slate", "chalk", "chalk-muted", "slate-ok", "slate-care")
            if dark
            else ("paper", "fence", "ink", "muted", "ok", "care")
        )
        self.setStyleSheet(
            f"QWidget#machine {{ background: {c[ground]}; }} QWidget#mhead, QWidget#mfoot {{ background: {c[bar]}; }}"
            f"QLabel {{ color: {c[ink]}; background: transparent; }}"
            f"QLineEdit {{ background: {c['field']}; color: {c['ink']}; border: 2px solid {c['muted']}; border-radius: 6px; padding: 6px; }}"
            f"QLineEdit:focus {{ border-color: {c[good]}; }}"
            f"QProgressBar {{ background: {c[bar]}; color: {c[ink]}; border: none; border-radius: 6px; height: 26px; text-align: center; font-size: 16px; }}"
            f"QProgressBar::chunk {{ background: {c['accent-soft']}; border-radius: 6px; }}"
        )
        for label in (self.count, self.sum):
            label.setStyleSheet(f"color: {c[good]};")
        for label in (self.where, self.link, self.label, self.figure_unit, self.detail):
            label.setStyleSheet(f"color: {c[soft]};")
        self.trouble.setStyleSheet(f"color: {c['slate-stop' if dark else 'stop']}; font-weight: 600;")
        for label in (self.caution, self.not_stop):
            label.setStyleSheet(f"color: {c[care]};")
        for key in (self.back, self.working, self.ledger, self.rocks, self.main, self.halt, self.stop):
            key.theme = theme
            key.update()
        self.canvas.theme = theme
        self.canvas.update()

    def _per_mm(self) -> float:
        screen = self.screen()
        dots = screen.physicalDotsPerInch() if screen is not None else 96.0
        return min(max(dots, 88.0), 220.0) / 25.4

    # -- showing ------------------------------------------------------------------------------------------------

    def show_steps(self, plan: Plan, steps: list[tuple[PlannedSetup, Step]], done: list[bool], unit: str) -> None:
        """All steps, and which are done; the first that is not is shown."""
        self.unit = unit
        self.barred = plan.stops[0].message if plan.stops else ""
        fresh = [s.key for _, s in steps] != [s.key for _, s in self.steps] or done != self.done
        self.steps, self.done = steps, done
        self.job.setText(plan.job.name)
        if fresh:
            self.show_trouble("")
            self.at = next((i for i, d in enumerate(done) if not d), max(len(steps) - 1, 0))
        self.go(self.at)

    def current(self) -> tuple[PlannedSetup, Step] | None:
        """The step shown."""
        return self.steps[self.at] if 0 <= self.at < len(self.steps) else None

    def go(self, index: int) -> None:
        """Show a step."""
        if not self.steps:
            self.step.setText("Nothing to do at the machine yet.")
            self.detail.setText(spell(self.barred, self.unit) or "Mend what the gates say at the desk first.")
            for label in (self.caution, self.count, self.label, self.figure, self.figure_unit, self.sum):
                label.setText("")
            self.rocks.hide()
            for _, field in self.typed:
                field.hide()
            self.main.label("Done", "Enter", False, enabled=False)
            return
        other = index != self.at
        self.at = min(max(index, 0), len(self.steps) - 1)
        if other:
            self.show_trouble("")
            self.turned_to.emit()
        setup, step = self.steps[self.at]
        finished = all(self.done)
        tool = f" · T{step.tool}" if step.tool else ""
        self.where.setText(f"{setup.name} setup{tool}")
        self.count.setText(
            "All steps are done"
            if finished
            else f"{self.at + 1} of {len(self.steps)}" + (" · done" if self.done[self.at] else "")
        )
        self.step.setText(spell(step.title, self.unit))
        self.detail.setText(spell(step.detail, self.unit))
        self.caution.setText(spell(step.caution, self.unit))
        self._show_figure(setup, step)
        self._show_typed(step)
        self._show_keys(setup, step)

    def _show_figure(self, setup: PlannedSetup, step: Step) -> None:
        digits, sign = (
            ("", "")
            if step.figure is None
            else show_value(step.figure, step.unit, self.unit, 2 if step.unit == "length" else None)
        )
        self.label.setText(step.label)
        self.figure.setText(digits)
        self.figure_unit.setText(sign)
        zero = setup.axes.z
        words = ""
        if step.kind == "zero z":
            words = f"Z0 = contact − {digits} {sign}"
        elif step.kind == "run":
            words = f"Z is {zero.trust.value}: {zero.why}"
        self.sum.setText(words)

    def _show_typed(self, step: Step) -> None:
        from gatepost.machine.by_hand import wanted

        names = wanted(step) if not self.linked or step.kind == "measure" else ()
        other = self._typed_for != (step.setup, step.key)  # what was typed for one step is not another's
        self._typed_for = (step.setup, step.key)
        for i, (name, field) in enumerate(self.typed):
            shown = i < len(names)
            name.setVisible(shown)
            if other or field.isVisible() != shown or (shown and name.text() != names[i]):
                field.clear()
            field.setVisible(shown)
            field.setFixedWidth(140 if len(names) < 4 else 96)
            if shown:
                name.setText(names[i])
                field.setAccessibleName(names[i])

    def _show_keys(self, setup: PlannedSetup, step: Step) -> None:
        busy = self.state in ("busy", "paused")
        moves = step.moves and self.linked
        verb = VERBS.get(step.kind, "Done") if self.linked or step.kind == "rock" else "Done"
        self.rocks.setVisible(step.kind == "rock")
        self.rocks.setEnabled(not busy)
        if self.state == "paused":
            self.main.label("Resume", "hold Enter", True)
        elif self.done and all(self.done):
            self.main.label("Fresh board", "hold Enter", True, enabled=not busy)
        else:
            self.main.label(
                verb,
                "hold Enter" if moves else "Enter",
                moves,
                enabled=not busy and self.state not in ("connecting", "lost"),
            )
        self.back.setEnabled(not busy)
        self.ledger.setEnabled(not busy)
        self.ledger.setVisible(setup.first_face and step.kind != "rock")
        self.halt.label("Pause", "Esc", False, enabled=self.state == "busy")
        self.stop.setEnabled(busy)
        self.halt.setVisible(self.linked)
        self.stop.setVisible(self.linked)

    def show_state(self, state: str, words: str) -> None:
        """The link's state."""
        self.state = state
        self.linked = state in ("ready", "busy", "paused", "lost", "connecting")
        said = {
            "busy": "moving",
            "no link": "without a link",
            "lost": "link lost: look at the machine",
            "connecting": "connecting…",
        }.get(state, state)
        self.link.setText(said)
        self.bar.setVisible(state in ("busy", "paused") and self.progress[1] > 0)
        self.go(self.at)

    def show_trouble(self, words: str) -> None:
        """What a check or the machine has told of the step shown; nothing takes it away."""
        self.trouble.setText(spell(words, self.unit))
        self.trouble.setVisible(bool(words))

    def show_progress(self, done: int, of: int, words: str, left: float | None, after: str) -> None:
        """Blocks done, minutes left, and what comes after."""
        self.progress = (done, of)
        if left is not None:
            self.label.setText("minutes left")
            self.figure.setText(f"{left:.1f}")
        self.sum.setText(f"then: {after}" if after else "")
        self.bar.setMaximum(max(of, 1))
        self.bar.setValue(done)
        self.bar.setFormat(words)
        self.bar.setVisible(self.state in ("busy", "paused"))

    def show_heights(self, drawing: Drawing) -> None:
        """The strip of heights."""
        self.canvas.show_drawing(drawing, self.unit)

    # -- keys -------------------------------------------------------------------------------------------------

    def press_main(self) -> None:
        """The main key goes down."""
        self.main.press()

    def _fold(self) -> None:
        self.sum.setVisible(not self.sum.isVisible())
        self.detail.setVisible(self.sum.isVisible())

    def _halt(self) -> None:
        if self.state == "busy":
            self.still_wanted.emit()

    def _rocks(self) -> None:
        now = self.current()
        if now is not None and now[1].kind == "rock":
            self.rocks_wanted.emit(now[0])

    def _main(self) -> None:
        if self.state == "paused":
            self.resume_wanted.emit()
            return
        now = self.current()
        if now is None:
            return
        if all(self.done):
            self.fresh_wanted.emit()
            return
        typed: list[float] = []
        for name, field in self.typed:
            if field.isVisibleTo(self):
                try:
                    is_length = "minutes" not in name.text()
                    typed.append(
                        parse_length(field.text(), self.unit) if is_length else float(field.text().replace(",", "."))
                    )
                except (LengthError, ValueError):
                    self.told.emit(f"Type “{name.text()}” first, as the control shows it.")
                    field.setFocus()
                    return
        self.show_trouble("")
        self.done_wanted.emit(now[0], now[1], tuple(typed))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Big keys by letter; any other key lets go of one that is being held."""
        if event is None or not self.held_keys.pressed(event):
            return
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and not (
            key == Qt.Key.Key_Space and self.main.held
        ):
            self.main.press()
            return
        self.main.let_go()
        table = {
            Qt.Key.Key_B: self.back,
            Qt.Key.Key_W: self.working,
            Qt.Key.Key_L: self.ledger,
            Qt.Key.Key_R: self.rocks,
            Qt.Key.Key_S: self.stop,
            Qt.Key.Key_Escape: self.halt,
        }
        if key in table and table[key].isEnabled() and table[key].isVisibleTo(self):
            table[key].press()
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        """Letting go of Enter lets go of the main key."""
        if event is not None:
            self.held_keys.released(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """Nothing is held by a view that does not have the keys."""
        self.held_keys.all_up()
        super().focusOutEvent(event)

    def _key_up(self, key: int) -> None:
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.main.let_go()
