# SPDX-License-Identifier: GPL-3.0-or-later
"""Jogging by hand, and lifting a program out of the wood and lowering it again: what is asked, and what is kept of it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from gatepost.core.units import mm, spell
from gatepost.desk.context.desk_context import DeskContext

if TYPE_CHECKING:
    from gatepost.core.run.step import Step
    from gatepost.desk.machine.at_machine import AtMachine
    from gatepost.desk.machine.operator import Operator

LEAST_WAIT = (
    2.0  # s that a spindle is given to come up to speed before its bit goes into wood, where its control waits less
)
BY_HAND = "by hand"  # how the journal has it


def seen_from_the_tip(x: float, y: float) -> str:
    """Where a mark lies, as whoever looks over the tip sees it, mm."""
    across = f"{mm(abs(x), 2)} {'right' if x > 0 else 'left'} of the tip" if abs(x) >= 0.005 else ""
    along = f"{mm(abs(y), 2)} {'behind' if y > 0 else 'in front of'} it" if abs(y) >= 0.005 else ""
    return f"The mark lies {' and '.join(w for w in (across, along) if w) or 'under the tip'}, as the eye sees it."


class JogActions:
    """Between the keys and the machine."""

    def __init__(self, desk: DeskContext, operator: Operator, machine: AtMachine) -> None:
        self._desk, self._operator, self._machine = desk, operator, machine
        machine.jog.begun.connect(self.jog)
        machine.lift_wanted.connect(operator.lift)
        machine.lower_wanted.connect(self.lower)
        machine.cutting.speed_wanted.connect(operator.turn)
        operator.sped.connect(machine.cutting.show_sped)
        operator.crept.connect(self.crept)
        operator.heard.connect(self._heard)
        self._lowering = False

    def jog(self) -> None:
        """For as long as it is asked for; a place that the step is about is looked at when it stands."""
        now = self._machine.current()
        place = None
        if now is not None:
            place = now[1].place or (now[0].placed.mark if now[1].kind == "zero xy" else None)
        bed = now[0].meant(place) if now is not None and place is not None else None
        eye = now[0].setup.zero.eye if now is not None else 0.0
        if not self._operator.creep(self._machine.jog.asked, (*bed, eye) if bed is not None else None):
            self._machine.jog.ended()

    def crept(self, off: Any, words: str, moved: bool) -> None:
        """It stands. off: how far the mark lies from the tip, as the eye sees it, where that is known; words: what went wrong, or nothing; moved: whether anything did."""
        from gatepost.machine.standing_checks import now as at

        self._machine.jog.ended()
        document, now = self._desk.document, self._machine.current()
        if document is None or now is None:
            return
        last = document.journal.entries[-1] if document.journal.entries else None
        if moved and (
            last is None or (last.kind, last.setup, last.data.get("why")) != ("jogged", now[0].name, BY_HAND)
        ):
            document.happened(document.journal.add(at(), "jogged", now[0].name, why=BY_HAND))
        if now[1].kind == "zero xy" and now[0].setup.zero.xy_way == "pointer" and not words:
            self._machine.brought(now[1].key)
        if words:
            self._machine.jog.end()
            self._machine.show_trouble(words)
        elif off is not None:
            self._machine.say_seen(spell(seen_from_the_tip(*off), self._desk.unit))

    def lower(self, setup: Any, step: Step) -> None:
        """Down again into the place that was left, and on: quickly to where nothing is in the way, from there as the bit plunges."""
        program = next(
            (p for p in setup.files if p.name == step.program), None
        )  # of the setup shown: it may stand beside the plan
        if program is None or self._desk.plan is None:
            return
        zero = setup.axes.z.machine
        clear = min(0.0, zero + float(program.moves.points[:, 2].max())) if zero is not None else 0.0
        self._lowering = True
        wait = max(self._desk.plan.job.machine.dialect.spin_up, LEAST_WAIT)
        self._operator.lower(clear, program.tool.plunge, wait)

    def _heard(self, event: Any) -> None:
        if event.kind == "lowered" and self._lowering:
            self._operator.resume()
        if event.kind in ("lowered", "stopped", "fault", "lifted"):
            self._lowering = False
