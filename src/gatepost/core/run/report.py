# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Run stage says: what bars it, what is trusted, what it takes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gatepost.core.findings import Figure, Finding, Gate, Level, Report, Table
from gatepost.core.working import Named, working


@dataclass(frozen=True)
class RunProgram:
    """A program that is to run: its name, seconds, and what it does; learned: seconds by this machine's own runs, 0 where none are used; vacuum: minutes after which it stands still for the vacuum."""

    name: str
    seconds: float
    operations: str
    learned: float = 0.0
    vacuum: tuple[float, ...] = ()


def report(stops: int, programs: Sequence[RunProgram], lost: Sequence[tuple[str, list[str]]]) -> Report:
    """stops: how many findings bar it; lost: setups in which axes must be touched, and which."""
    figures = [Figure(f"{p.name}, minutes", p.seconds / 60.0, "minutes") for p in programs]
    findings: list[Finding] = []
    if any(p.learned for p in programs):
        planned = sum(p.seconds for p in programs) / 60.0
        longer = sum(p.learned - p.seconds for p in programs if p.learned) / 60.0
        own = working("planned + longer", Named("planned", planned, "minutes"), Named("longer", longer, "minutes"), unit="minutes",
                      assumption="each cut times its factor by this machine's shop runs")  # fmt: skip
        figures.append(Figure("All of them, by this machine's own runs", own.result, "minutes", own))
    if stops:
        message = f"{stops} stop{'s' if stops > 1 else ''} must be mended first; programs say at their head that they are not to be run."
        findings.append(Finding("run.barred", Level.NOTE, "run", message))
        return Report(
            "run", "waiting", "waiting for the gates before it", tuple(figures), tuple(findings), Gate.WAITING
        )
    if not programs:
        message = "There is nothing to run yet: no lettering and no cut-out."
        return Report("run", "waiting", "", (), (Finding("run.nothing", Level.NOTE, "run", message),), Gate.WAITING)
    for setup, axes in lost:
        message = (
            f"In the {setup} setup {', '.join(axes)} must be touched before anything cuts: nothing cuts on a lost axis."
        )
        findings.append(Finding("run.not-zeroed", Level.NOTE, "run", message, setup))
    count = f"{len(programs)} program{'s' if len(programs) != 1 else ''}"
    message = f"{count} written, read back and swept: what they cut is what is drawn."
    findings.append(Finding("run.read-back", Level.OK, "run", message))
    minutes = sum(p.seconds for p in programs) / 60.0
    return Report(
        "run", f"{count} · {minutes:.0f} min", ", then ".join(p.operations for p in programs),
        tuple(figures), tuple(findings), Gate.OPEN, _vacuum_table(programs),
    )  # fmt: skip


def _vacuum_table(programs: Sequence[RunProgram]) -> tuple[Table, ...]:
    """Where each program stands still for the vacuum."""
    rows = [(p.name, ", ".join(f"{m:.0f}" for m in p.vacuum)) for p in programs if p.vacuum]
    return (("Stops for the vacuum, bit up", (("Program", "after, min"), *rows)),) if rows else ()
