# SPDX-License-Identifier: GPL-3.0-or-later
"""What a kind of operation is: one module each in its room's ``kinds/``, told to whoever asks by a table.

A kind says how its artwork and its figures come together, what is cut, what that may take and must leave, what else is to be
said of it, and what is entered of it. What it does not say is as here.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

from gatepost.core.cache import Memory
from gatepost.core.cutting import Drawn, Envelope, Site
from gatepost.core.findings import Figure, Finding, Level, Table
from gatepost.core.frames import Bed, FaceFrame, Matrix
from gatepost.core.geometry.outline import Area
from gatepost.core.job.base import Model
from gatepost.core.job.hold import Holding
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Operation
from gatepost.core.job.tool import Tool
from gatepost.core.wood.flaws import Lies

Tools = tuple[Tool, ...]  # those that an operation asks for


@dataclass(frozen=True)
class JudgedBy:
    """What an operation that was cut is judged by. setup: in which it is done; named: what tells it from the first of its kind in
    a command, nothing for the first; to_bed: where the board lies; outline: of the board, where there is wood for certain;
    tools: of the job; thickness: of the wood at the start of the setup; height_error: of the face it is cut from, mm; peak:
    of its push, N, 0 where it is not cut; rules: of holding; grain: degrees from X of the face it is cut from; change: minutes of one change of tool; operation: its id; flaws: of the wood; site: where it was drawn; film: how thick what the face is coated with is, mm."""

    setup: str
    named: dict[str, str]
    to_bed: Matrix[FaceFrame, Bed]
    outline: Area
    tools: tuple[Tool, ...]
    thickness: float
    height_error: float
    peak: float
    flaws: tuple[Lies, ...]
    site: Site
    rules: Holding = Holding()
    grain: float = 0.0
    change: float = 0.0
    operation: str = ""
    film: float = 0.0


@dataclass(frozen=True)
class OperationTold:
    """What is said of an operation. fact: in few words; line: what is made, in a line; made: what is made as it is laid out, for
    whoever draws or fits it; tables: of several ways to do it."""

    figures: tuple[Figure, ...] = ()
    findings: tuple[Finding, ...] = ()
    fact: str = ""
    line: str = ""
    made: Any = None
    tables: tuple[Table, ...] = ()


class OperationKind:
    """A kind of operation. figures: the model of its figures; one: as people are told it; frees: whether it cuts pieces out of
    the board; stage: whose page it is on; art: the kind of artwork that it works on, nothing for the face itself; arts: kinds of artwork of
    which it may work on several."""

    name: ClassVar[str]
    figures: ClassVar[type[Model]]
    one: ClassVar[str]
    many: ClassVar[str] = ""  # of several, where that is not its own with an s
    title: ClassVar[str] = ""  # of its figures on its page, where it is not its own
    frees: ClassVar[bool] = False
    stage: ClassVar[str] = "carve"
    art: ClassVar[str] = ""
    also: ClassVar[tuple[str, ...]] = ()  # kinds of artwork that it works on in the place of that one
    arts: ClassVar[tuple[str, ...]] = ()
    on_words: ClassVar[str] = "With"  # before the name of each of them, where it is chosen
    entries: ClassVar[tuple[KindEntry, ...]] = ()  # of its figures
    art_entries: ClassVar[tuple[KindEntry, ...]] = ()  # of the artwork that it works on, its place among them

    def together(self, job: Job, setup: Setup, operation: Operation) -> Any | None:
        """All that it wants to know, of the artwork and of how it is cut; nothing where its artwork is not there."""
        return operation.figures

    def tools(self, figures: Any) -> tuple[int, ...]:
        """Numbers of the tools that it asks for, in the order in which they cut."""
        return (figures.tool,)

    def cuts(self, figures: Any, tools: Tools, site: Site) -> tuple[Drawn, ...]:
        """What is cut, one cut after another; none where there is nothing to cut, or more than can be worked out."""
        raise NotImplementedError

    def envelope(self, figures: Any, tools: Tools, site: Site) -> Envelope:
        """What it may take and must leave."""
        raise NotImplementedError

    def told(self, figures: Any, tools: Tools, at: JudgedBy) -> OperationTold:
        """What else there is to say of it."""
        return OperationTold(fact=self.one)

    def finest(self, figures: Any, tools: Tools, times: float, memory: Memory) -> tuple[float, float] | None:
        """Its thinnest stroke, mm, and half the angle of what cuts it, degrees: what a face must be flat for; nothing where that does
        not count. times: coarser by as much, for a first look."""
        return None

    def uses(self, figures: Any, tools: Tools) -> Area | None:
        """What of its face it uses, as that is read; nothing where there is nothing."""
        return None

    def hung(self, figures: Any) -> bool:
        """Whether what it frees hangs by tabs."""
        return False

    def no_tool(self, number: int, setup: str) -> Finding:
        """Where the tool that it asks for is not there."""
        return Finding("carve.no-tool", Level.STOP, "carve", f"Tool {number} is not in the table.", setup)
