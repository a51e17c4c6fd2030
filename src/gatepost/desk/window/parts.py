# SPDX-License-Identifier: GPL-3.0-or-later
"""What stands behind the start page: made once, when it is first wanted."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from gatepost.desk.actions.again import AgainActions
from gatepost.desk.actions.finish import FinishActions
from gatepost.desk.actions.finish_steps import FinishStepActions
from gatepost.desk.actions.jogging import JogActions
from gatepost.desk.actions.link import LinkActions
from gatepost.desk.actions.logging import LogActions
from gatepost.desk.actions.looked_after import LookedAfterActions
from gatepost.desk.actions.result_photos import ResultPhotoActions
from gatepost.desk.actions.runs import RunActions
from gatepost.desk.actions.setups import SetupActions
from gatepost.desk.actions.steps import StepActions
from gatepost.desk.actions.surfacing import LedgerActions, ProbingActions
from gatepost.desk.actions.zeros import ZeroActions
from gatepost.desk.context.desk_context import Act, DeskContext
from gatepost.desk.machine.at_machine import AtMachine
from gatepost.desk.machine.operator import Operator
from gatepost.desk.machine.words import BUSY
from gatepost.desk.window.book_news import BookNews
from gatepost.desk.window.desk_view import DeskView
from gatepost.desk.window.drawings import Drawings
from gatepost.desk.window.follow import MachineFollower
from gatepost.desk.window.hands import BedHands
from gatepost.desk.window.measuring import Measuring
from gatepost.desk.window.presenter import PlanPresenter
from gatepost.desk.window.strip import Strip


class Acting(Protocol):
    """What is done by an act's name."""

    def acts(self) -> dict[str, Act]: ...


@dataclass
class Parts:
    """What stands behind the start page."""

    operator: Operator
    desk: DeskView
    machine: AtMachine
    drawings: Drawings
    follower: MachineFollower
    presenter: PlanPresenter
    hands: BedHands
    measuring: Measuring
    setups: SetupActions
    steps: StepActions
    link: LinkActions
    runs: RunActions
    probing: ProbingActions
    ledger: LedgerActions
    zeros: ZeroActions
    jogging: JogActions
    again: AgainActions
    finishing: FinishActions
    logging: LogActions
    looked_after: LookedAfterActions
    finish_steps: FinishStepActions
    photos: ResultPhotoActions
    news: BookNews

    def acting(self) -> tuple[Acting, ...]:
        """Those that know acts by their names."""
        return (
            self.steps, self.link, self.runs, self.probing, self.ledger, self.zeros, self.measuring, self.again, self.finishing, self.logging, self.looked_after, self.finish_steps,
            self.photos,
        )  # fmt: skip


def made(context: DeskContext, here: Callable[[], bool], first_fix: Act, show_log: Act) -> Parts:
    """here: whether the view at the machine is looked at; first_fix: shows the first fix; show_log: reads the log again."""
    operator = Operator(context.running_book)
    desk, machine = DeskView(context.theme, context.messages), AtMachine(context.theme)
    drawings = Drawings(context, desk)
    follower = MachineFollower(context, machine, drawings, operator, here)
    runs = RunActions(context, operator, machine, show_log)
    steps = StepActions(context, operator, machine, first_fix)
    _asked_at_the_machine(context, machine, operator, steps, runs)
    parts = Parts(
        operator, desk, machine, drawings, follower,
        PlanPresenter(context, desk, drawings, follower, runs.rows, here), BedHands(context, desk, drawings),
        Measuring(context, desk),
        SetupActions(context), steps, LinkActions(context, operator), runs,
        ProbingActions(context, operator), LedgerActions(context),
        ZeroActions(context, lambda: operator.state not in ("no link", "lost")),
        JogActions(context, operator, machine), AgainActions(context, machine), FinishActions(context), LogActions(context, runs), LookedAfterActions(context), FinishStepActions(context), ResultPhotoActions(context, runs),
        BookNews(context, context.book, lambda: operator.state in BUSY),
    )  # fmt: skip
    _logged(context, parts)
    return parts


def _logged(context: DeskContext, parts: Parts) -> None:
    """The log's keys, and what comes of them."""
    log, logging, presenter = parts.desk.log, parts.logging, parts.presenter
    log.chosen.connect(presenter.show_run)
    log.compared.connect(presenter.show_runs)
    log.remarked.connect(parts.runs.remark)
    log.resumed.connect(parts.runs.resume)
    log.act_wanted.connect(context.act)
    presenter.begun.connect(logging.remember)
    presenter.begun.connect(parts.finish_steps.watch)
    parts.news.came.connect(logging.remember)
    parts.news.came.connect(lambda: presenter.show_log() if context.showing.stage == "log" else None)
    presenter.begun.connect(parts.news.begin)
    logging.picked = log.picked
    logging.chosen, logging.shown, logging.changed = log.current, lambda: log.rows, presenter.entered


def _asked_at_the_machine(
    context: DeskContext, machine: AtMachine, operator: Operator, steps: StepActions, runs: RunActions
) -> None:
    """What is asked there while something moves, or hands want room."""
    machine.troubled.connect(Strip(context.messages, machine, machine.foot).stands_there)
    machine.told.connect(context.messages.warn)
    machine.ledger_wanted.connect(lambda: context.act("ledger"))
    machine.simulated_wanted.connect(lambda: context.act("simulated"))
    machine.still_wanted.connect(operator.hold_still)
    machine.resume_wanted.connect(operator.resume)
    machine.stop_wanted.connect(operator.stop)
    machine.places.wanted.connect(steps.go_to)
    machine.cutting.feed_wanted.connect(operator.feed)
    machine.cutting.remark_wanted.connect(runs.remarked)
    operator.fed.connect(machine.cutting.show_fed)
