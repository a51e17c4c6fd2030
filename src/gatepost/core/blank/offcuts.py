# SPDX-License-Identifier: GPL-3.0-or-later
"""Which offcut on the shelf a blank can be cut from."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol, TypeVar

from gatepost.core.job.blank import Blank

SLACK = 0.05  # mm


class Sized(Protocol):
    """Anything with three sizes, mm."""

    @property
    def length(self) -> float:
        """Along the grain."""

    @property
    def width(self) -> float:
        """Across it."""

    @property
    def thickness(self) -> float:
        """Through it."""


S = TypeVar("S", bound=Sized)


def that_would_do(offcuts: Sequence[S], blank: Blank) -> list[S]:
    """Offcuts that hold a blank, its length along theirs so that the grain runs as it should, least waste first."""
    fits = [
        o
        for o in offcuts
        if o.length >= blank.across[0] - SLACK
        and o.width >= blank.across[1] - SLACK
        and o.thickness >= blank.label_thickness - SLACK
    ]
    return sorted(fits, key=lambda o: o.length * o.width * o.thickness)
