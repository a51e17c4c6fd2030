# SPDX-License-Identifier: GPL-3.0-or-later
"""A face made flat, pass by pass."""

from __future__ import annotations

import math

from gatepost.core.cutting import Drawn, Engaged, Envelope, Site
from gatepost.core.job.surface import Surfacing
from gatepost.core.operation_kind import OperationKind, Tools
from gatepost.core.surface import passes


class SurfacingKind(OperationKind):
    """Faces made flat. What is said of them is told of the face, by ``surface/report.py``."""

    name, figures, one, stage = "surface", Surfacing, "surfacing", "surface"

    def cuts(self, figures: Surfacing, tools: Tools, site: Site) -> tuple[Drawn, ...]:
        """All passes that are laid out for the board, the highest first."""
        (tool,) = tools
        if not site.levels:
            return ()
        levels = [(z, lines) for z, lines in site.levels if lines]
        moves = passes.moves(levels, tool, site.travel, site.home(tool))
        return (Drawn(tool, moves, Engaged(tool.diameter * figures.stepover, site.bite)),)

    def envelope(self, figures: Surfacing, tools: Tools, site: Site) -> Envelope:
        """Anywhere, and nothing is to stand above the last pass."""
        return Envelope(None, -math.inf, site.levels[-1][0] if site.levels else None)
