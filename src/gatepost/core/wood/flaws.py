# SPDX-License-Identifier: GPL-3.0-or-later
"""Flaws of the wood, as they lie in the board."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.job.blank import Flaw


@dataclass(frozen=True)
class Lies:
    """Where a flaw lies: how far it reaches down from the finished top and up from the underside; through: right through."""

    flaw: Flaw
    down: float
    up: float
    through: bool
