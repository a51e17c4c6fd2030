# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables of kinds: of operations, of artwork, of ways of holding, of ways of coming from the setup before. They are given to whoever plans, draws or shows a job; these
are the ones shipped."""

from __future__ import annotations

import importlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property

from gatepost.core import shipped
from gatepost.core.carve.kinds.cutout import CutOutKind
from gatepost.core.carve.kinds.drill import DrillKind
from gatepost.core.carve.kinds.gouge import GougeKind
from gatepost.core.carve.kinds.line import LineKind
from gatepost.core.carve.kinds.relief import ReliefKind
from gatepost.core.carve.kinds.stencil import StencilKind
from gatepost.core.carve.kinds.sunk import GroundKind, RecessKind
from gatepost.core.carve.kinds.vcut import VCutKind
from gatepost.core.hold.kind import HoldKind, HoldKinds
from gatepost.core.hold.kinds.bolted import BoltedKind
from gatepost.core.hold.kinds.jaw import EdgeKind, WedgesKind
from gatepost.core.hold.kinds.nest import NestKind
from gatepost.core.hold.kinds.screw import ScrewKind
from gatepost.core.hold.kinds.strap import StrapKind
from gatepost.core.hold.kinds.tape import GlueKind, TapeKind
from gatepost.core.job.base import Model
from gatepost.core.job.kinds import FigureTables
from gatepost.core.job.operation import ARTWORK
from gatepost.core.operation_kind import OperationKind
from gatepost.core.register.kind import RegisterKinds
from gatepost.core.register.kinds.as_it_lies import AsItLiesKind
from gatepost.core.register.kinds.brought_back import BroughtBackKind
from gatepost.core.register.kinds.edge import KnownEdgeKind
from gatepost.core.register.kinds.marks import MarksKind
from gatepost.core.register.kinds.nest import StepNestKind
from gatepost.core.register.kinds.pins import PinsKind
from gatepost.core.register.kinds.turned import TurnedKind
from gatepost.core.surface.kinds.surfacing import SurfacingKind


def called(kind: str) -> str:
    """A kind of operation as people call it, by the table that ships; its own name where it is not there."""
    known = SHIPPED.operations.get(kind)
    return (known.one or known.title.lower() or kind) if known is not None else kind.replace("_", " ")


@dataclass(frozen=True)
class Kinds:
    """Kinds by name. source: where they stand, module:name, by which other processes find them."""

    source: str
    operations: Mapping[str, OperationKind]
    artwork: Mapping[str, type[Model]]
    holds: HoldKinds
    registers: RegisterKinds = field(default_factory=lambda: REGISTERING)

    def __reduce__(self) -> tuple[Callable[[str], Kinds], tuple[str]]:
        return kinds_at, (self.source,)

    @cached_property
    def figures(self) -> FigureTables:
        """The models of their figures, by which a job is read and changed."""
        return FigureTables(
            {name: kind.figures for name, kind in self.operations.items()}, self.artwork,
            {name: kind.figures for name, kind in self.holds.items()}, {name: kind.figures for name, kind in self.registers.items()},
        )  # fmt: skip

    def frees(self, operation: str) -> bool:
        """Whether a kind of operation cuts pieces out of the board."""
        return operation in self.operations and self.operations[operation].frees


def kinds_at(source: str) -> Kinds:
    """The tables that stand somewhere, module:name."""
    module, _, name = source.partition(":")
    found = getattr(importlib.import_module(module), name)
    assert isinstance(found, Kinds), source
    return found


REGISTERING: RegisterKinds = {
    kind.name: kind
    for kind in (
        AsItLiesKind(),
        TurnedKind(),
        BroughtBackKind(),
        PinsKind(),
        MarksKind(),
        StepNestKind(),
        KnownEdgeKind(),
    )
}
OPERATIONS: tuple[OperationKind, ...] = (
    SurfacingKind(),
    VCutKind(),
    GroundKind(),
    RecessKind(),
    StencilKind(),
    GougeKind(),
    ReliefKind(),
    LineKind(),
    DrillKind(),
    CutOutKind(),
)
HOLDING: tuple[HoldKind, ...] = (
    StrapKind(),
    EdgeKind(),
    WedgesKind(),
    ScrewKind(),
    TapeKind(),
    GlueKind(),
    NestKind(),
    BoltedKind(),
)
SHIPPED = Kinds(
    shipped.KINDS,
    {kind.name: kind for kind in OPERATIONS},
    ARTWORK,
    {kind.name: kind for kind in HOLDING},
)
