# SPDX-License-Identifier: GPL-3.0-or-later
"""The job: what is planned, as immutable models. Lengths are mm, forces N, angles degrees.

A job keeps a dated copy of every shop entry (machine, tools, wood) that it uses and is planned from that alone."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import Model, Name, Place, Words
from gatepost.core.job.blank import Blank, Wood
from gatepost.core.job.carve import Carving
from gatepost.core.job.hold import MOST_HOLDS, Hold, Holding
from gatepost.core.job.machine import Machine
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.job.zero import TouchChoice, Zero

FORMAT = 4  # of job.json; its history stands in file.py


class Setup(Model):
    """One way the wood lies and is held, with one X0 Y0 and one Z0 plane. x, y: the blank's corner on the bed; skew: degrees
    that the blank lies turned by as measured, by which its programs are turned about X0 Y0.

    back: the second face of a surfacing, the board turned about a direction onto its cut face.
    """

    name: Literal["surface", "back", "front"]
    turn: Literal["about X", "about Y"] = "about X"
    x: Place
    y: Place
    skew: Annotated[float, Field(ge=-10, le=10)] = 0.0
    holds: Annotated[tuple[Hold, ...], Field(max_length=MOST_HOLDS)] = ()
    zero: Zero = Zero()
    touches: Annotated[tuple[TouchChoice, ...], Field(max_length=200)] = ()


class Acceptance(Model):
    """A care accepted, or a question answered, with a reason. inputs: hash of what it was said about."""

    code: str
    setup: str
    about: str = ""
    inputs: str
    reason: Annotated[str, Field(min_length=1, max_length=400)]
    at: str


class Job(Model):
    """The whole of what is planned."""

    format: int = FORMAT
    name: Name = "New job"
    unit: Literal["mm", "inch"] = "mm"
    tolerance: Literal["trial", "sign", "heirloom"] = "sign"
    irreplaceable: bool = False
    holding: Holding = Holding()
    blank: Blank = Blank()
    wood: Wood = Wood(name="elm")
    machine: Machine = Machine()
    tools: Annotated[tuple[Tool, ...], Field(max_length=200)] = ()
    surfacing: Surfacing = Surfacing()
    carving: Carving = Carving()
    setups: Annotated[tuple[Setup, ...], Field(max_length=8)] = (
        Setup(name="surface", x=150, y=200),
        Setup(name="front", x=150, y=200),
    )
    order: Annotated[tuple[Words, ...], Field(max_length=200)] = ()
    accepted: Annotated[tuple[Acceptance, ...], Field(max_length=1000)] = ()

    @field_validator("setups")
    @classmethod
    def _both_setups(cls, setups: tuple[Setup, ...]) -> tuple[Setup, ...]:
        if sorted(s.name for s in setups if s.name != "back") != ["front", "surface"] or len(setups) > 3:
            raise ValueError("a job has one setup called surface and one called front, and at most one called back")
        return setups

    def setup(self, name: str) -> Setup:
        """The setup of that name. Raises OperatorError when the job has none."""
        for setup in self.setups:
            if setup.name == name:
                return setup
        raise OperatorError(f"There is no setup “{name}”; this job has {', '.join(s.name for s in self.setups)}.")

    def tool(self, number: int) -> Tool:
        """The tool of that number. Raises OperatorError when the job has none."""
        for tool in self.tools:
            if tool.number == number:
                return tool
        raise OperatorError(f"Tool {number} is not in this job's table. Choose another, or add it under Tools.")
