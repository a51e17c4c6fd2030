# SPDX-License-Identifier: GPL-3.0-or-later
"""The files that a program is written to: one, or several where the control takes none so large."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.result import Plan
from gatepost.core.plan.resumed import own_moves
from gatepost.core.program.split import shared
from gatepost.core.program.write import Head, fingerprint, write


@dataclass(frozen=True)
class PartFile:
    """One file. fingerprint: of what stands in it."""

    name: str
    text: str
    fingerprint: str


def part_files(
    plan: Plan, setup: PlannedSetup, program: ProgramFile, on: Callable[[float], None] | None = None
) -> list[PartFile]:
    """Of a program, in the order in which they are run. on: is told what share of it is done, and may raise Cancelled. Raises OperatorError where it
    can't be shared out."""
    dialect = plan.job.machine.dialect
    largest = dialect.largest * 1000
    if largest <= 0 or len(program.text.encode()) <= largest:
        return [PartFile(program.name, program.text, program.fingerprint)]
    zero = f"X0 Y0 at {setup.setup.zero.xy}, Z0 on the {setup.setup.zero.z}"
    head = Head(
        plan.job.name, setup.name, program.tool, zero, setup.blank_to_work,
        note=f"PART of {program.name}, program {program.fingerprint}: run all of them, in order",
    )  # fmt: skip
    own = own_moves(program)[0]
    texts = shared(own, lambda moves: write(moves, head, dialect), largest, program.tool.plunge, on)
    stem, _, ending = program.name.rpartition(".")
    return [
        PartFile(f"{stem}-part-{i}-of-{len(texts)}.{ending}", text, fingerprint(text, head))
        for i, text in enumerate(texts, 1)
    ]
