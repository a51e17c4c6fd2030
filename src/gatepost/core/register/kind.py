# SPDX-License-Identifier: GPL-3.0-or-later
"""What a way of coming from the setup before is: its figures, its checks, what is done at the machine."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

from gatepost.core.findings import Finding
from gatepost.core.job.model import Setup
from gatepost.core.job.register import Register

STAGE = "register"


@dataclass(frozen=True)
class Coming:
    """A setup, and the one that is planned before it."""

    before: Setup
    setup: Setup


class RegisterKind:
    """A way of coming from the setup before. figures: the model of its figures; one: as people are told it."""

    figures: ClassVar[type[Register]]
    one: ClassVar[str]
    moved: ClassVar[bool] = True  # whether the board is taken up
    laying: ClassVar[str] = ""  # the step, with {where} for the place of its corner; nothing for the usual one

    @property
    def name(self) -> str:
        """What a job calls it."""
        return str(self.figures.model_fields["kind"].default)

    def checks(self, coming: Coming) -> list[Finding]:
        """What there is to say of it."""
        return []


RegisterKinds = Mapping[str, RegisterKind]
