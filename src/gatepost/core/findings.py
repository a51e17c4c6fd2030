# SPDX-License-Identifier: GPL-3.0-or-later
"""Findings, fixes and figures: what a stage says about the job."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

from gatepost.core.working import Working


class Level(StrEnum):
    """How much a finding weighs. A stop bars the run; a care wants a look or a reason."""

    STOP = "stop"
    CARE = "care"
    NOTE = "note"
    OK = "ok"


class Gate(StrEnum):
    """What a stage's gate shows of the plan."""

    SHUT = "shut"
    AJAR = "ajar"
    OPEN = "open"
    WAITING = "waiting"
    NOT_NEEDED = "not needed"


@dataclass(frozen=True)
class Fix:
    """The smallest change that mends a finding: a command of the table, with its values."""

    kind: str
    values: Mapping[str, object]
    sentence: str


@dataclass(frozen=True)
class Place:
    """Where a finding is, for pictures. Bed coordinates, mm; z above the spoilboard."""

    x: float
    y: float
    z: float = 0.0
    size: float = 30.0


@dataclass(frozen=True)
class Finding:
    """A sentence about the job. code: ``room.what``, listed in docs/findings.md."""

    code: str
    level: Level
    stage: str
    message: str
    setup: str = ""
    working: Working | None = None
    fixes: tuple[Fix, ...] = ()
    place: Place | None = None
    about: str = ""
    accepted: str = ""

    @property
    def stands(self) -> bool:
        """Whether it still asks something of the operator."""
        return self.level is Level.STOP or (self.level is Level.CARE and not self.accepted)


@dataclass(frozen=True)
class Figure:
    """One figure of the slate. value: a number of the unit's kind, or words; setup: of which alone it is told, or of all."""

    label: str
    value: float | str
    unit: str = "length"
    working: Working | None = None
    places: int | None = None
    level: Level = Level.NOTE
    setup: str = ""


@dataclass(frozen=True)
class Question:
    """Something only the operator can answer. code: its name in acceptances and in plan.json."""

    code: str
    stage: str
    setup: str
    sentence: str


Table = tuple[str, tuple[tuple[str, ...], ...]]  # its title, and its rows, the first of which names the columns


@dataclass(frozen=True)
class Report:
    """What one stage says: its fact for the fence, a line under its title, figures and findings."""

    stage: str
    fact: str
    subtitle: str = ""
    figures: tuple[Figure, ...] = ()
    findings: tuple[Finding, ...] = ()
    gate: Gate = Gate.OPEN
    tables: tuple[Table, ...] = field(default=())


def with_more(report: Report, more: Sequence[Finding]) -> Report:
    """A report with more findings, its gate told again."""
    if not more:
        return report
    findings = (*report.findings, *more)
    return replace(report, findings=findings, gate=gate_of(findings))


def waiting(report: Report) -> Report:
    """A report of what has nothing to do yet: what is all right of nothing is not ticked."""
    return replace(report, gate=Gate.WAITING) if report.gate is Gate.OPEN else report


def gate_of(findings: tuple[Finding, ...], questions: int = 0) -> Gate:
    """Shut while a stop stands, ajar while a care or a question is open, else open."""
    if any(f.level is Level.STOP for f in findings):
        return Gate.SHUT
    if questions or any(f.stands for f in findings):
        return Gate.AJAR
    return Gate.OPEN
