# SPDX-License-Identifier: GPL-3.0-or-later
"""Letters cut with a V along the middle of their strokes."""

from __future__ import annotations

from collections.abc import Hashable

import shapely
from shapely import affinity
from shapely.geometry import box

from gatepost.core.cache import Memory
from gatepost.core.carve.lettered import Carved
from gatepost.core.carve.lettering import Lettering, lettering, parts_of, thinnest
from gatepost.core.carve.paths import v_moves
from gatepost.core.carve.report import lettering_told
from gatepost.core.carve.setting import block
from gatepost.core.cutting import Drawn, Engaged, Envelope, Site
from gatepost.core.geometry.art import Art
from gatepost.core.geometry.outline import Area
from gatepost.core.job.carve import Carving, VCut
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Operation
from gatepost.core.job.tool import Tool
from gatepost.core.operation_kind import JudgedBy, OperationKind, OperationTold, Tools
from gatepost.core.profile import VEES, is_vee
from gatepost.core.tolerances import SAFE_TRAVEL

YES = (("yes", True), ("no", False))
PEAK = 1.3  # over the mean push: a groove is a slot
SHALLOWEST = 0.1  # mm that a push is reckoned for at least
BESIDE = 5.0  # mm about what is used
LEAST = 0.1  # mm: a stroke is not counted thinner
SLACK = 1.5  # cells by which a groove may look wider than it is


def lettered(figures: Carving, tool: Tool | None, times: float, memory: Memory) -> tuple[Lettering, Hashable]:
    """The letters and their cuts, and what tells them from others. times: coarser by as much, for a first look."""
    if tool is None or not is_vee(tool):
        return Lettering((), (), Art((), True), False), ()
    key = (
        figures.lines,
        figures.x,
        figures.y,
        figures.turn,
        figures.mirror,
        figures.leading,
        tool.angle,
        tool.kind,
        tool.tip,
        tool.radius,
        times,
    )
    return memory.get("lettering", key, lambda: lettering(figures, tool, times)), key


class VCutKind(OperationKind):
    """Letters cut with a V."""

    name, figures, one, art, also = "vcut", VCut, "V-cut lettering", "lettering", ("drawing",)
    title, many = "Lettering", "letterings"
    entries = (
        KindEntry("V-bit", "tool", "tool", tuple((k, k) for k in VEES)), KindEntry("Margin to the edge", "length", "margin"),
        KindEntry("You will sand off", "length", "sanding"), KindEntry("Painted", "choice", "painted", YES),
        KindEntry("Cut in passes", "number", "passes"),
    )  # fmt: skip
    art_entries = (
        KindEntry("Middle, from the left edge", "length", "x"), KindEntry("Middle, from the front edge", "length", "y"),
        KindEntry("Turned left by", "number", "turn", (), "°"), KindEntry("Mirrored", "choice", "mirror", YES), KindEntry("Line spacing, × height", "number", "leading"),
    )  # fmt: skip

    def together(self, job: Job, setup: Setup, operation: Operation) -> Carving | None:
        """The lettering or drawing, how it is cut, and the plate that it stands on: the one on its face that is cut out here, or else elsewhere."""
        art = next((a for a in job.artwork if a.id in operation.on and a.kind in (self.art, *self.also)), None)
        everywhere = (o for s in job.setups for o in s.operations)
        plate = (
            (job.standing_on(setup.operations, art) or job.standing_on(everywhere, art)) if art is not None else None
        )
        if art is not None and art.kind != self.art and isinstance(operation.figures, VCut):
            return parts_of(art, operation.figures, plate)
        return job.lettering(operation, plate)

    def cuts(self, figures: Carving, tools: Tools, site: Site) -> tuple[Drawn, ...]:
        """All letters, one after another."""
        (tool,) = tools
        letters, key = lettered(figures, tool, site.times, site.memory)
        if not letters.runs:
            return ()
        over, home, face = site.highest + SAFE_TRAVEL, site.home(tool), site.face
        moves = site.memory.get(
            "lettering moves",
            (key, tool, face, over, home, figures.passes),
            lambda: v_moves(letters.runs, tool, face, over, home, figures.passes),
        )
        deepest = face - float(moves.points[:, 2].min())
        return (Drawn(tool, moves, Engaged(None, max(deepest / figures.passes, SHALLOWEST), PEAK), letters.art),)

    def envelope(self, figures: Carving, tools: Tools, site: Site) -> Envelope:
        """Inside the letters, down to the bed."""
        (tool,) = tools
        letters, key = lettered(figures, tool, site.times, site.memory)
        outlines = [letter.outline() for letter in letters.letters]
        return Envelope(lambda: shapely.union_all(outlines).buffer(SLACK * site.cell), 0.0, key=key)

    def finest(self, figures: Carving, tools: Tools, times: float, memory: Memory) -> tuple[float, float] | None:
        """Of all letters the thinnest stroke."""
        (tool,) = tools
        letters, _ = lettered(figures, tool, times, memory)
        if not letters.letters:
            return None
        return max(2 * min(thinnest(letter.cut) for letter in letters.letters), LEAST), tool.angle / 2.0

    def uses(self, figures: Carving, tools: Tools) -> Area | None:
        """The lines, as long and as high as they are set, with the margin that is wanted and a little more."""
        if not figures.lines:
            return None
        wide, tall = block(figures.lines, figures.leading)
        x, y, m = figures.x, figures.y, figures.margin + BESIDE
        about = box(x - wide / 2 - m, y - tall / 2 - m, x + wide / 2 + m, y + tall / 2 + m)
        return affinity.rotate(about, figures.turn, origin=(x, y)) if figures.turn else about

    def told(self, figures: Carving, tools: Tools, at: JudgedBy) -> OperationTold:
        """Each letter's strokes, the wood under them, the margin about them, and flaws that they meet."""
        (tool,) = tools
        letters, _ = lettered(figures, tool, at.site.times, at.site.memory)
        return lettering_told(Carved(figures, tool, letters, at))
