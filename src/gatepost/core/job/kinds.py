# SPDX-License-Identifier: GPL-3.0-or-later
"""Tables of kinds as a job is read by them: what figures each has. They are given to whoever reads or changes a job."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from gatepost.core.job.base import Model
from gatepost.core.job.hold import HOLDS, Hold
from gatepost.core.job.operation import ARTWORK, OPERATIONS
from gatepost.core.job.register import REGISTERS, Register


@dataclass(frozen=True)
class KindEntry:
    """One thing that is entered of a kind's figures. typed: length, number, choice or words; field: of the figures; unit: beside it."""

    label: str
    typed: str
    field: str
    choices: tuple[tuple[str, object], ...] = ()
    unit: str = ""


@dataclass(frozen=True)
class FigureTables:
    """Figures' models by kind: of operations, of artwork, of holds, of ways of coming from the setup before."""

    operations: Mapping[str, type[Model]]
    artwork: Mapping[str, type[Model]]
    holds: Mapping[str, type[Hold]]
    registers: Mapping[str, type[Register]] = field(default_factory=lambda: REGISTERS)

    @property
    def context(self) -> dict[str, Any]:
        """As models are told them when they are read."""
        return {
            "operations": self.operations,
            "artwork": self.artwork,
            "holds": self.holds,
            "registers": self.registers,
        }


SHIPPED = FigureTables(OPERATIONS, ARTWORK, HOLDS)
