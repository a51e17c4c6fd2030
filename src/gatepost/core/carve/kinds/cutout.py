# SPDX-License-Identifier: GPL-3.0-or-later
"""A plate cut out of the board, held by tabs or by a skin."""

from __future__ import annotations

from gatepost.core.carve.paths import MOST_PASSES, cutout_moves, cutout_passes, plate_outline
from gatepost.core.cutting import Drawn, Engaged, Envelope, Site
from gatepost.core.geometry.outline import Area
from gatepost.core.job.carve import CutOut, Plate
from gatepost.core.job.tool import Tool
from gatepost.core.tolerances import THROUGH_EXTRA

NAME, FIGURES, FREES = "cutout", CutOut, True
PEAK = 1.3  # over the mean push, in a slot
SLACK = 1.5  # cells by which a slot may look wider than it is


def bottom(figures: Plate) -> float:
    """How deep it goes, above the bed: a little into the spoilboard, or down to the skin that is left."""
    return figures.skin if figures.skin > 0.0 else -THROUGH_EXTRA


def rounds(figures: Plate, tool: Tool, site: Site) -> int:
    """How often it goes round."""
    return cutout_passes(site.highest, bottom(figures), tool.pass_depth)


def cuts(figures: Plate, tool: Tool, site: Site) -> Drawn | None:
    """Round and round, deeper each time; nothing for a V, and where more rounds are wanted than can be worked out."""
    if tool.kind == "vee" or rounds(figures, tool, site) > MOST_PASSES:
        return None
    home, low = site.home(tool), bottom(figures)
    moves = site.memory.get(
        "cut-out moves", (figures, tool, site.highest, site.travel, home),
        lambda: cutout_moves(figures, tool, site.highest, low, site.travel, home),
    )  # fmt: skip
    return Drawn(moves, Engaged(tool.diameter, tool.pass_depth, PEAK))


def envelope(figures: Plate, tool: Tool, site: Site) -> Envelope:
    """A slot as wide as the cutter and the allowance round the plate."""
    slack = SLACK * site.cell

    def slot() -> Area:
        outside = plate_outline(figures, tool.diameter + figures.allowance + slack)
        inside = plate_outline(figures, -slack)
        return outside.difference(inside)

    return Envelope(slot, bottom(figures), key=(figures, tool))
