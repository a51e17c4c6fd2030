# SPDX-License-Identifier: GPL-3.0-or-later
"""Lettering as it is judged."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.carve.lettering import CutLetter, Lettering
from gatepost.core.findings import Place
from gatepost.core.job.carve import Carving
from gatepost.core.job.tool import Tool
from gatepost.core.operation_kind import JudgedBy

STAGE = "carve"


@dataclass(frozen=True)
class Carved:
    """Lettering as it is judged. tool: the V that cuts it; lettering: its letters and their cuts; by: what it is judged by."""

    carving: Carving
    tool: Tool
    lettering: Lettering
    by: JudgedBy

    @property
    def setup(self) -> str:
        """In which it is done."""
        return self.by.setup


def spot(c: Carved, letter: CutLetter) -> Place:
    """Where a letter stands, on the bed."""
    x0, y0, x1, y1 = letter.outline().bounds
    return Place(*c.by.to_bed.xy((x0 + x1) / 2, (y0 + y1) / 2), c.by.thickness, max(x1 - x0, y1 - y0) * 0.6)
