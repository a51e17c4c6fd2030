# SPDX-License-Identifier: GPL-3.0-or-later
"""The next step: shown, ticked by hand or carried out by the machine; and what becomes of the zeros meanwhile."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QInputDialog

from gatepost.core.errors import OperatorError
from gatepost.core.units import spell
from gatepost.desk.context.desk_context import SOON, Act, DeskContext

if TYPE_CHECKING:
    from gatepost.core.run.step import Step
    from gatepost.desk.machine.at_machine import AtMachine
    from gatepost.desk.machine.operator import Operator


CHANGED = "That step has changed meanwhile. Look at it again."


def asks_the_same(step: Step, seen: Step) -> bool:
    """Whether a step still asks what was read: what is ticked is what somebody has seen."""
    asked, read = ((s.setup, s.key, s.title, s.label, s.figure, s.pair, s.place, s.fingerprint) for s in (step, seen))
    return asked == read


class StepActions:
    """first_fix: shows the first fix of the page that is open."""

    def __init__(self, desk: DeskContext, operator: Operator, machine: AtMachine, first_fix: Act) -> None:
        self._desk, self._operator, self._machine, self._first_fix = desk, operator, machine, first_fix
        self._asked: tuple[str, str, tuple[float, ...]] | None = None  # read-outs that were asked about
        machine.done_wanted.connect(self.do)
        machine.rocks_wanted.connect(self.rocks)
        machine.other_wanted.connect(self.other_bit)
        machine.fresh_wanted.connect(self.fresh_board)
        operator.unplaced.connect(self.unplaced)
        operator.grown.connect(self._grown)

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {"do_next": self.do_next, "fresh_board": self.fresh_board, "from_step": self.from_step}

    def do_next(self) -> None:
        """Show or tick the next step; it is ticked only where it is the one that was shown when the key went down."""
        shown = self._desk.showing.plan
        seen = shown.next.step if shown is not None else None
        self._desk.when_planned("next", lambda plan: self._do_next(plan, seen))

    def _do_next(self, plan: Any, seen: Step | None) -> None:
        showing, step = self._desk.showing, plan.next.step
        here = showing.stage == plan.next.stage
        if plan.next.act:
            self._desk.stage_wanted.emit(plan.next.stage)
            self._desk.act(plan.next.act)
            return
        if step is None:
            if plan.next.setup:
                self._desk.setup_wanted.emit(plan.next.setup)
            self._desk.stage_wanted.emit(plan.next.stage)
            self._first_fix()
            return
        setup = plan.setup(plan.next.setup)
        if not step.moves and setup is not None and here:
            if seen is not None and asks_the_same(step, seen):
                self.do(setup, step, ())
            else:
                self._desk.messages.say(CHANGED)
            return
        self._desk.setup_wanted.emit(plan.next.setup)
        if here or step.moves:
            self._desk.page_wanted.emit("machine")
        else:
            self._desk.stage_wanted.emit(plan.next.stage)

    def do(self, setup: Any, step: Any, typed: tuple[float, ...]) -> None:
        """Carry a step out, or tick it."""

        def act(plan: Any) -> None:  # of the plan as it is by then
            now = plan.setup(setup.name)
            extra = self._machine.extra
            if extra is not None and extra[2] is step and extra[0].job == plan.job:
                self._carry_out(extra[0], extra[1], step, typed)
                return
            same = next((s for s in now.steps if s.key == step.key), None) if now is not None else None
            if same is None or not asks_the_same(same, step):
                self._desk.messages.warn(CHANGED)
                return
            self._carry_out(plan, now, same, typed)

        self._desk.when_planned("step", act, SOON if step.moves else 600.0)

    def _carry_out(self, plan: Any, setup: Any, step: Any, typed: tuple[float, ...]) -> None:
        document = self._desk.document
        if document is None:
            return
        path = str(document.path or "")
        if self._operator.state not in ("no link", "lost") and not typed:
            self._operator.do(plan, setup, step, document.journal, path, self._machine.here == step.key)
            return
        from gatepost.machine import by_hand
        from gatepost.machine.failures import Questioned
        from gatepost.machine.standing_checks import CheckFailed, now

        book = None
        try:
            book = self._desk.book()
            sure = self._asked == (setup.name, step.key, typed)
            self._asked = None
            document.happened(by_hand.tick(plan, setup, step, document.journal, typed, now(), book, path, sure))
        except OperatorError as error:
            if isinstance(error, CheckFailed):
                document.happened(error.journal)
            if isinstance(error, Questioned):
                self._asked = (setup.name, step.key, typed)
            self._desk.messages.warn(str(error))
            self._machine.show_trouble(str(error))
        finally:
            if book is not None:
                book.close()

    # -- what becomes of the zeros --------------------------------------------------------------------------------

    def rocks(self, setup: Any) -> None:
        """The second answer of the rock test."""
        from gatepost.core.acts import TABLE
        from gatepost.core.zero.recover import happened
        from gatepost.machine.standing_checks import now

        document = self._desk.document
        if document is not None:
            document.happened(happened(document.journal, "rocks", setup.name, None, now()))
            self._machine.show_trouble(TABLE["rocks"].then)

    def other_bit(self, setup: Any, step: Step) -> None:
        """Another bit is in the collet, knowingly: which, what comes of it, and why; kept with the job and with every run by it."""
        document = self._desk.document
        tool = next((t for t in document.job.tools if t.number == step.tool), None) if document is not None else None
        if document is None or tool is None:
            return
        from gatepost.core.tools.lookalikes import instead

        others = [t for t in document.job.tools if t.number != tool.number]
        names = [f"T{t.number} {t.name}" for t in others]
        name, fine = QInputDialog.getItem(
            self._desk.window, "Another bit", f"In the place of T{tool.number}, {tool.name}", names, 0, False
        )
        if not fine:
            return
        other = others[names.index(name)]
        deep = max(
            (op.engaged.depth for op in setup.operations if op.tool.number == tool.number and op.engaged is not None),
            default=1.0,
        )
        words = spell(instead(tool, other, deep), document.job.unit)
        why, fine = QInputDialog.getText(
            self._desk.window, "Another bit", f"{words} Nothing is planned anew for it. Why is it meant so?"
        )
        if not fine or not why.strip():
            self._desk.messages.say("Nothing was kept: it is still asked whether it is the right bit.")
            return
        self.cut_by(setup, step, tool.number, f"T{other.number} {other.name}", why.strip())

    def cut_by(self, setup: Any, step: Step, number: int, name: str, why: str) -> None:
        """A knowing exception kept, and the step ticked."""
        from gatepost.machine.standing_checks import now

        document = self._desk.document
        if document is not None:
            document.happened(
                document.journal.add(now(), "remark", setup.name, tool=number, instead=name[:80], why=why[:300])
            )
            self.do(setup, step, ())

    def go_to(self, name: str) -> None:
        """The machine brought to a place by its name, at the top of its travel."""
        from gatepost.core.acts import HANDS
        from gatepost.core.run.step import Step as Going

        document, now = self._desk.document, self._machine.current()
        place = next((p for p in document.job.machine.places if p.name == name), None) if document is not None else None
        if document is None or now is None or place is None or self._desk.plan is None:
            return
        step = Going(
            f"go-{name.replace(' ', '-')}",
            now[0].name,
            "go",
            f"Go to {name}.",
            "Spindle off, at the top of the travel.",
            HANDS,
            place=(place.x, place.y),
        )
        self._operator.do(self._desk.plan, now[0], step, document.journal, str(document.path or ""))

    def fresh_board(self) -> None:
        """All of it once more, on another board."""
        self._desk.when_planned("fresh board", self._fresh_board)

    def _fresh_board(self, plan: Any) -> None:
        from gatepost.core.zero.recover import happened
        from gatepost.machine.standing_checks import now

        document = self._desk.document
        if document is None or not plan.setups:
            return
        document.happened(happened(document.journal, "fresh board", plan.setups[0].name, None, now()))
        self._desk.run("finish another", {}, "another piece")
        self._desk.messages.say(
            "A fresh board: go through the steps from the first. What was cut before stays in the log."
        )

    def from_step(self, index: int) -> None:
        """Everything from a step on is to be done again: its ticks are taken back; the zeros are as the journal knows them."""
        from gatepost.machine.standing_checks import now

        document = self._desk.document
        if document is None:
            return
        at, journal = now(), document.journal
        for i, (setup, step) in enumerate(self._machine.steps):
            if i >= index and self._machine.done[i]:
                journal = journal.add(at, "ticked", setup.name, step=step.key, off=1.0)
        document.happened(journal)
        self._desk.messages.say("Those steps are to be done again. What was cut stays in the log.")

    def unplaced(self, kind: str, why: str) -> None:
        """The machine's place is not known any more, by what it says or by its silence."""
        from gatepost.machine.standing_checks import homed, now

        document = self._desk.document
        if document is not None and homed(document.journal):
            document.happened(document.journal.add(now(), kind, why=why[:300]))  # type: ignore[arg-type]

    def _grown(self, journal: Any) -> None:
        if self._desk.document is not None:
            self._desk.document.happened(journal)
