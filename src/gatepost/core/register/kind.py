# SPDX-License-Identifier: GPL-3.0-or-later
"""What a way of coming from the setup before is: its figures, its checks, what is done at the machine."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from gatepost.core.findings import Figure, Finding, Table
from gatepost.core.frames import Bed, BlankFrame, Matrix
from gatepost.core.geometry.outline import Area
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.register import Register
from gatepost.core.job.turning import about, lies
from gatepost.core.register.marks import FoundAgain
from gatepost.core.register.nested import NestSeen

STAGE = "register"
Near = Callable[[float, float, float], bool]  # x, y on the bed, and a radius about it, mm


def _never(x: float, y: float, radius: float) -> bool:
    return False


@dataclass(frozen=True)
class Coming:
    """A setup, and the one that is planned before it. was, now: where the blank's own frame lay and lies; outline: of the board, its own frame; cut:
    places that are cut here, (n, 2) on the bed, mm; thickness: of the wood, mm; through: rows of holes that are drilled right through before, with how far into the
    spoilboard each goes; cut_here, cut_before: whether anything but those holes is cut near a place, here and before; beside: names of holds that stand over it here; found: what its marks say; nest: that it is
    laid into; grips: of each hold where it has the board, on the bed; bore: the program that bores the bare bed for its pins, past: by how much that leaves the travel, mm."""

    before: Setup
    setup: Setup
    job: Job
    was: Matrix[BlankFrame, Bed] = Matrix()
    now: Matrix[BlankFrame, Bed] = Matrix()
    outline: Area | None = None
    cut: NDArray[np.float64] = field(default_factory=lambda: np.zeros((0, 2)))
    thickness: float = 0.0
    through: Mapping[str, float] = field(default_factory=dict)
    cut_here: Near = _never
    cut_before: Near = _never
    beside: Callable[[float, float, float], tuple[str, ...]] = lambda x, y, radius: ()
    found: FoundAgain | None = None
    nest: NestSeen | None = None
    grips: tuple[tuple[str, Area], ...] = ()
    bore: str = ""
    past: float = 0.0

    @property
    def name(self) -> str:
        """Of the setup, as people are told it."""
        return self.setup.title or self.setup.id

    @property
    def twice(self) -> bool:
        """Whether the setup before was found in the same way: what it was off by then counts again."""
        return (
            self.before is not self.setup
            and self.before.comes is not None
            and self.before.comes.kind == getattr(self.setup.comes, "kind", "")
        )

    @property
    def over(self) -> bool:
        """Whether the board is turned over."""
        return bool(about(lies(self.before), lies(self.setup))) or {self.before.up, self.setup.up} == {"front", "back"}


@dataclass(frozen=True)
class ComingTold:
    """What there is to say of it."""

    figures: tuple[Figure, ...] = ()
    findings: tuple[Finding, ...] = ()
    tables: tuple[Table, ...] = ()

    def and_more(self, other: ComingTold) -> ComingTold:
        """With what else there is to say."""
        return ComingTold(self.figures + other.figures, self.findings + other.findings, self.tables + other.tables)


@dataclass(frozen=True)
class Bounds:
    """By how much a board may lie otherwise once it is found: mm along X and Y of the bed, degrees; by: what stops it, in words; play: of what it lies in or on,
    all in all, mm."""

    x: float
    y: float
    degrees: float
    by: str
    play: float = 0.0


class RegisterKind:
    """A way of coming from the setup before. figures: the model of its figures; one: as people are told it; entries: of its figures; keeps: whether X0 Y0 follows from
    where it was in the setup before, and is not touched; alone: whether it needs no setup before; by_machine: whether it
    lies at a place that the machine knows, so that X0 Y0 is set by its own count; zero: how X0 Y0 is set where it is not touched, in few words."""

    figures: ClassVar[type[Register]]
    one: ClassVar[str]
    moved: ClassVar[bool] = True  # whether the board is taken up
    laying: ClassVar[str] = ""  # the step, with {where} for the place of its corner; nothing for the usual one
    keeps: ClassVar[bool] = False
    alone: ClassVar[bool] = False
    by_machine: ClassVar[bool] = False
    zero: ClassVar[str] = ""
    entries: ClassVar[tuple[KindEntry, ...]] = ()

    @property
    def name(self) -> str:
        """What a job calls it."""
        return str(self.figures.model_fields["kind"].default)

    def told(self, coming: Coming) -> ComingTold:
        """What there is to say of it."""
        return ComingTold()

    def bounds(self, job: Job, setup: Setup) -> Bounds | None:
        """How the board may lie by it; nothing where that hangs on what holds it."""
        return None

    def pins(self, job: Job, setup: Setup) -> tuple[tuple[float, float], ...]:
        """Places of the blank's own frame at which it is laid on pins."""
        return ()

    def laid(self, job: Job, setup: Setup) -> str:
        """The step that lays it, with {where} for the place of its corner; nothing for the usual one."""
        return self.laying


RegisterKinds = Mapping[str, RegisterKind]
