# SPDX-License-Identifier: GPL-3.0-or-later
"""What is to be done, setup by setup: how the board lies, and which operations it gets there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork, Face, Operation
from gatepost.core.job.surface import Surfacing
from gatepost.core.operation_kind import OperationKind, Tools
from gatepost.core.plan.kinds import Kinds
from gatepost.core.plan.proved import Proving
from gatepost.core.register.marks import FoundAgain

SURFACE = "surface"  # the stage whose operations make faces flat


@dataclass(frozen=True)
class Wanted:
    """An operation as it is asked for. figures: all that its kind wants to know, of the artwork and of how it is cut; face: that its
    artwork is on, nothing where it works on what is up."""

    operation: Operation
    kind: OperationKind
    figures: Any
    tools: Tools
    face: Face | Literal[""] = ""

    @property
    def name(self) -> str:
        """As people are told it."""
        return self.operation.name


@dataclass(frozen=True)
class Laid:
    """A setup. flattens: whether all that is done here
    is to make a face flat; carves: whether the carving is told of here; lacking: kinds of operations whose tool is not there, and
    its number; misplaced: what works on another face than the one that is up; found: what its marks say of where the piece
    lies, by which the setup is told then; proving: what was seen of that since."""

    setup: Setup
    wanted: tuple[Wanted, ...]
    lacking: tuple[tuple[OperationKind, int], ...]
    flattens: bool
    carves: bool
    misplaced: tuple[Wanted, ...] = ()
    found: FoundAgain | None = None
    proving: Proving = Proving()

    @property
    def up(self) -> Face:
        """The face that is cut."""
        return self.setup.up

    @property
    def surfacing(self) -> Surfacing | None:
        """What is wanted of making the face flat here."""
        return next((o.figures for o in self.setup.operations if isinstance(o.figures, Surfacing)), None)


def layout(job: Job, kinds: Kinds) -> tuple[Laid, ...]:
    """All setups in the order in which they follow one another; the last that does anything but surfacing carries the
    carving, or else the last with the front up."""
    carving = [s for s in job.setups if any(kinds.operations[o.kind].stage != SURFACE for o in s.operations)]
    carving = carving or [s for s in job.setups if s.up == "front"] or [*job.setups]
    return tuple(_laid(job, s, kinds, s is carving[-1]) for s in job.setups)


def _laid(job: Job, setup: Setup, kinds: Kinds, carves: bool) -> Laid:
    wanted, lacking = _wanted(job, setup, kinds)
    here = tuple(w for w in wanted if w.face in ("", setup.up))
    away = tuple(w for w in wanted if w.face not in ("", setup.up))
    return Laid(setup, here, lacking, _flattens(setup, kinds), carves, away)


def _flattens(setup: Setup, kinds: Kinds) -> bool:
    return bool(setup.operations) and all(kinds.operations[o.kind].stage == SURFACE for o in setup.operations)


def _wanted(job: Job, setup: Setup, kinds: Kinds) -> tuple[tuple[Wanted, ...], tuple[tuple[OperationKind, int], ...]]:
    """Operations whose artwork is there and whose tool is; and those whose tool is not."""
    out: list[Wanted] = []
    lacking: list[tuple[OperationKind, int]] = []
    for operation in setup.operations:
        kind = kinds.operations[operation.kind]
        figures = kind.together(job, setup, operation)
        if figures is None:
            continue
        there = {t.number: t for t in job.tools}
        numbers = kind.tools(figures)
        gone = [n for n in numbers if n not in there]
        lacking += [(kind, n) for n in gone]
        if not gone:
            art = worked_on(job, kind, operation)
            tools = tuple(there[n] for n in numbers)
            own: Face | Literal[""] = setup.up if kind.arts else ""
            out.append(Wanted(operation, kind, figures, tools, art.face if art is not None else own))
    return tuple(out), tuple(lacking)


def worked_on(job: Job, kind: OperationKind, operation: Operation) -> Artwork | None:
    """The first artwork that an operation works on; nothing where it works on the face itself."""
    wanted = (kind.art, *kind.also, *kind.arts)
    return next((a for a in job.artwork if a.kind in wanted and a.id in operation.on), None)


def first_surfacing(setups: Sequence[Laid]) -> tuple[Setup, Surfacing]:
    """The setup in which the front is made flat first, or the first of all, and what is wanted of it."""
    for laid in setups:
        if laid.surfacing is not None and laid.up == "front":
            return laid.setup, laid.surfacing
    return setups[0].setup, Surfacing(wanted="no")


def made_on(setups: Sequence[Laid], face: Face) -> tuple[Wanted, ...]:
    """All that works on artwork of a face, whichever setup it is in."""
    return tuple(w for laid in setups for w in (*laid.wanted, *laid.misplaced) if w.face == face)
