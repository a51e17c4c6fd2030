# SPDX-License-Identifier: GPL-3.0-or-later
"""Rehearsal: a setup gone through on the simulated machine with something wrong with it, and where that is caught."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.plan.pipeline import plan as worked_out
from gatepost.core.plan.result import Plan
from gatepost.machine import launch
from gatepost.machine.conduct import StepRunner, each_step
from gatepost.machine.session import Session


@dataclass(frozen=True)
class Trouble:
    """Something that can be wrong. name: of the fault; is_: what it is, for the operator; says: what tells of it; shows:
    where it is looked for."""

    name: str
    is_: str
    says: str
    shows: str


LINK_WORDS = "closed the link|link to the machine is lost|has not answered|link counts as lost"
TROUBLES = (
    Trouble("dead plate", "The plate's wire is broken.", "circuit (stays open|never closed)", "proving the circuit by hand"),
    Trouble("shorted plate", "The clip's wire is chafed through.", "circuit is closed", "proving the circuit by hand"),
    Trouble("dirty plate", "There is dust under the plate.", "touches lie", "two touches held against each other"),
    Trouble("backlash", "The screws of X and Y have play.", "has play", "a short jog each way"),
    Trouble("missed steps", "X loses steps during a program.", "counting was off|mark lies", "homing again, and the witness mark"),
    Trouble("bump", "Somebody leans on the board after it was touched.", "mark lies|Touched again", "looking over X0 Y0 before wood is cut"),
    Trouble("hold in the way", "A clamp was left on the board.", "clamp stands on the board|ran into", "looking over the bed, or the machine's own stop"),
    Trouble("spanner on", "A spanner was left on the nut.", "spanner", "looking over the machine, or its own stop"),
    Trouble("tool slips", "The bit creeps out of its collet.", "Touched again|deeper than planned", "measuring how deep it cut"),
    Trouble("drives asleep", "The drives have no power.", "axes do not move", "homing, and a short jog each way"),
    Trouble("power loss", "The mains fail during a program.", LINK_WORDS, "the link that is gone"),
    Trouble("drop link", "The cable falls out during a program.", LINK_WORDS, "the link that is gone"),
    Trouble("stall", "The Z drive stalls during a program.", "stalled", "the machine's own stop"),
)  # fmt: skip
LINK = re.compile(LINK_WORDS)
BY_NAME = {t.name: t for t in TROUBLES}


@dataclass(frozen=True)
class Caught:
    """Where a trouble was caught. step: the title of the step, or nothing where it was missed; told: what was said."""

    trouble: Trouble
    step: str
    told: str

    @property
    def missed(self) -> bool:
        """Whether nothing told of it."""
        return not self.step


def tells_of(trouble: Trouble, words: str) -> bool:
    """Whether a sentence tells of a trouble."""
    return re.search(trouble.says, words) is not None


def rehearse(plan: Plan, name: str, tell: Callable[[str], None] = lambda words: None) -> Caught:
    """Go through all steps of a plan with one trouble, as somebody does who leaves out none, until something tells of it."""
    trouble = BY_NAME[name]
    machine = launch.start(plan, "max", [name])
    session: Session | None = None
    try:
        session = Session(machine.host, machine.port)
        conductor = StepRunner(
            session, plan, Journal(), plan.laid_first, lambda journal: worked_out(plan.job, journal, kinds=plan.kinds)
        )
        for setup, step in each_step(conductor):
            tell(step.title)
            try:
                conductor.carry_out(setup, step)
            except OperatorError as error:
                return Caught(trouble, step.title, str(error))
        return Caught(trouble, "", "")
    finally:
        if session is not None:
            session.close()
        machine.end()


def table(caught: list[Caught]) -> str:
    """What was caught where, as a page of the manual."""
    from gatepost.core.units import spell

    lines = [
        "# Rehearsal", "",
        "Each trouble that the simulated machine can have, in a setup gone through step by step with none left out: where it is",
        "caught, and what the operator is told. Made by going through it.", "",
        "| trouble | what it is | caught at | what is said |", "|---|---|---|---|",
    ]  # fmt: skip
    for c in caught:
        said = re.sub(r"[+-]?\d+\.\d+", "…", spell(c.told, "mm"))
        if LINK.search(said):  # one of several, as the cable has it
            said = "The link to the machine is lost. It may still be moving: look at it before anything else."
        lines.append(f"| {c.trouble.name} | {c.trouble.is_} | {spell(c.step, 'mm') or 'not caught'} | {said} |")
    return "\n".join(lines) + "\n"
