# SPDX-License-Identifier: GPL-3.0-or-later
"""What is done about a finding: a fix that was offered, or a reason why it is all right."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from gatepost.core.units import spell
from gatepost.desk.context.desk_context import DeskContext
from gatepost.desk.dialogs import questions

if TYPE_CHECKING:
    from gatepost.core.findings import Finding, Fix


class FindingActions:
    """done: puts the focus where Space is the next step again."""

    def __init__(self, desk: DeskContext, done: Callable[[], None]) -> None:
        self._desk, self._done = desk, done

    def apply(self, fix: Fix) -> None:
        """Apply a fix that was offered."""
        if self._desk.run(fix.kind, dict(fix.values), fix.sentence):
            self._done()

    def accept(self, finding: Finding) -> None:
        """Ask for a reason, and accept a care with it."""
        from gatepost.core.plan.nextstep import inputs_hash
        from gatepost.machine.standing_checks import now

        reason = questions.ask_reason(self._desk.window, spell(finding.message, self._desk.unit))
        if reason:
            values = {
                "code": finding.code,
                "setup": finding.setup,
                "about": finding.about,
                "inputs": inputs_hash(finding),
                "reason": reason,
                "at": now(),
            }
            self._desk.run("accept", values, "accept")
            self._done()
