# SPDX-License-Identifier: GPL-3.0-or-later
"""A tool's feed between gentle and hard: where the figures come from, and what limits it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QSlider, QWidget

from gatepost.core.job.blank import Wood
from gatepost.core.job.machine import Machine
from gatepost.core.job.tool import Tool
from gatepost.core.tools.feeds import FeedOffer, GoodRun, offer, slowed, window
from gatepost.core.tools.uses import ToolUse
from gatepost.core.units import mm, spell
from gatepost.desk.dialogs.card import CardDialog, button_of, card, words_of
from gatepost.desk.dialogs.drawing_box import DrawingBox
from gatepost.desk.theme.style import font
from gatepost.drawing.feed_scale import feed_scale

STEPS = 100
ROUND = 10.0  # mm/min that a feed is set to


class FeedDialog(CardDialog):
    """use: the tool's heaviest cut. chosen: a feed, mm/min."""

    chosen = pyqtSignal(float)

    def __init__(
        self, parent: QWidget, tool: Tool, wood: Wood, machine: Machine, use: ToolUse | None, record: Sequence[GoodRun], unit: str,
        theme: str = "light",
    ) -> None:  # fmt: skip
        super().__init__(parent, f"How fast is tool {tool.number} fed?", 720, 620)
        self._tool, self._wood, self._machine, self._unit = tool, wood, machine, unit
        self._step, self._depth = (
            (use.step, use.depth) if use is not None else (tool.diameter, min(tool.pass_depth, 0.5 * tool.diameter))
        )
        self._chips = window(tool, wood, machine.light, record)
        where = (
            f"in {use.name}, its heaviest cut"
            if use is not None
            else "in a slot, since it cuts nothing in this job yet"
        )
        box, column = card(
            f"{tool.name} in {wood.name}",
            f"From {self._chips.words}. Judged {where}. Power and push are good to a factor of two.",
        )
        self.feed = words_of("", 26, True)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, STEPS)
        self.slider.setSingleStep(1)
        self.slider.setPageStep(10)
        self.slider.setMinimumHeight(36)
        self.slider.setAccessibleName("From gentle to hard")
        ends = QHBoxLayout()
        gentle, hard = words_of("gentle", 15), words_of("hard", 15)
        hard.setAlignment(Qt.AlignmentFlag.AlignRight)
        ends.addWidget(gentle)
        ends.addWidget(hard)
        self.rules, self.limits, self.slow = words_of("", 16, True), words_of("", 15), words_of("", 15)
        self.scale = DrawingBox(theme, "Where the bit rubs, what is offered, and what limits it, mm/min", 118)
        column.addWidget(self.feed)
        column.addWidget(self.scale)
        column.addWidget(self.slider)
        column.addLayout(ends)
        for words in (self.rules, self.limits, self.slow):
            column.addWidget(words)
        self.column.addWidget(box)
        self.column.addStretch(1)
        self.use = button_of("Feed it so", self._use, True)
        self.use.setObjectName("first")
        self.buttons(button_of("Close", self.reject), self.use)
        self.slider.valueChanged.connect(lambda _: self._show())
        self.slider.setFont(font(15))
        self.slider.setValue(self._nearest())
        self._show()

    def _at(self, value: int) -> FeedOffer:
        return offer(self._tool, self._wood, self._machine, self._chips, value / STEPS, self._step, self._depth)

    def _nearest(self) -> int:
        """Where the feed stands now."""
        return min(range(STEPS + 1), key=lambda v: abs(self._at(v).feed - self._tool.feed))

    @property
    def value(self) -> float:
        """The feed that is chosen, mm/min."""
        feed = self._at(self.slider.value()).feed
        return max(ROUND, feed // ROUND * ROUND)

    def _show(self) -> None:
        o, tool = self._at(self.slider.value()), self._tool
        fed = tool.model_copy(update={"feed": self.value})
        self.feed.setText(
            spell(f"{self.value:.0f} mm/min at {tool.rpm:.0f} rpm: {mm(o.thickest, 3)} a tooth", self._unit)
        )
        self.rules.setText(spell(f"Limited by {o.rules.words}.", self._unit))
        others = [
            f"{one.feed:.0f} mm/min by {one.words}"
            for one in sorted(o.all, key=lambda one: one.feed)
            if one is not o.rules
        ]
        self.limits.setText(spell("It would be " + "; ".join(others) + ".", self._unit))
        said = f"Now it is set to {tool.feed:.0f} mm/min. "
        if o.rubs:
            said += f"So fed it rubs: under {mm(tool.rub, 3)} a tooth it burns. Fewer rpm, or more depth a pass."
        else:
            rpm = slowed(fed, self._machine)
            said += (
                f"At 30 % of it, it rubs in the wood: slow the spindle to {rpm:.0f} rpm for first moves."
                if rpm
                else "At 30 % of it, it does not rub yet."
            )
        self.slow.setText(spell(said, self._unit))
        thin = o.thickest / o.chip if o.chip > 0.0 else 1.0
        rubs = tool.rub / thin * tool.teeth * tool.rpm if thin > 0.0 else 0.0
        self.scale.show_drawing(feed_scale(self._at(0), self._at(STEPS), o, tool.feed, rubs))
        self.use.setEnabled(o.feed >= ROUND)

    def _use(self) -> None:
        self.chosen.emit(self.value)
        self.accept()
