# SPDX-License-Identifier: GPL-3.0-or-later
"""A program run."""

from __future__ import annotations

from gatepost.core.errors import OperatorError
from gatepost.core.plan.file_check import file_check
from gatepost.core.plan.oldcuts import cut_where
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.run.step import Step
from gatepost.core.surface.second import measured_corners
from gatepost.machine.in_hand import InHand
from gatepost.machine.session import Progress
from gatepost.machine.standing_checks import OFF_PLAN, ZERO_OFF, fitted, known_axes


def run(at: InHand, setup: PlannedSetup, step: Step, progress: Progress | None) -> str:
    """The program of a step sent; gives ``done`` or ``stopped``."""
    program = at.plan.program(step.program)
    if program is None:
        raise OperatorError(f"The plan has no program {step.program} any more.")
    may_run(at, setup, program)
    cut = {} if step.bare else cut_where(setup, program)  # the board is off
    at.write(setup, "run started", program=program.name, fingerprint=program.fingerprint, **cut)
    outcome = "failed"
    stops = program.vacuum_stops(at.plan.job.machine.vacuum_every) if at.attended and not step.bare else ()
    try:
        outcome = at.session.run(program.text, progress, program.block_seconds(), stops)
    finally:
        at.write(setup, "run ended", program=program.name, outcome=outcome)
    if outcome == "done" and any(name.startswith("surfacing") for name in program.operations):
        at.write(setup, "surfaced", plane=round(setup.surfaced.plane, 4))
    return outcome


def may_run(at: InHand, setup: PlannedSetup, program: ProgramFile) -> None:
    """Raise OperatorError when something bars this program: a stop, a lost axis, another tool in the collet, a zero on the machine that is
    not the journal's."""
    if at.plan.stops:
        raise OperatorError(f"Not run: {at.plan.stops[0].message}")
    corners = measured_corners(at.journal, at.plan.job) if setup.carves else ()
    planned = float(setup.start.z.max())
    if corners and abs(sum(corners) / len(corners) - planned) > OFF_PLAN:
        raise OperatorError(
            f"Not run: the board measures {sum(corners) / len(corners):.2f} mm after its second face and {planned:.2f} mm was "
            "planned. Plan again first."
        )
    wrong = file_check(setup, program, at.plan.job.machine).wrong
    if wrong:
        raise OperatorError(f"Not run: {program.name} is not as it was planned. {' '.join(wrong)} Write it anew.")
    axes = known_axes(at.journal, at.plan.job, setup)
    fitted(axes, program)
    at.session.look()
    on_machine = at.session.last.get("zero")
    if not isinstance(on_machine, (list, tuple)):
        return
    for name, there, axis in zip("XYZ", on_machine, (axes.x, axes.y, axes.z)):
        if axis.machine is not None and abs(float(there) - axis.machine) > ZERO_OFF:
            raise OperatorError(
                f"Not run: the machine has its {name}0 at {float(there):.2f}, and {axis.machine:.2f} was set here: it was changed elsewhere. Touch off again."
            )
