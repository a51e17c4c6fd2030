# SPDX-License-Identifier: GPL-3.0-or-later
"""A plate cut out of the board, held by tabs or by a skin."""

from __future__ import annotations

from shapely.geometry import MultiPolygon

from gatepost.core.carve.paths import MOST_PASSES, cutout_moves, cutout_passes, middle_line, plate_outline
from gatepost.core.carve.plate_report import plate_findings, unfit
from gatepost.core.cutting import Drawn, Engaged, Envelope, Site, SunkArea
from gatepost.core.findings import Figure, Finding, Level
from gatepost.core.geometry.art import Art
from gatepost.core.geometry.curves import polygon_contours
from gatepost.core.geometry.outline import Area
from gatepost.core.geometry.region import reach
from gatepost.core.job.carve import CutOut, Plate
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Operation
from gatepost.core.job.tool import Tool
from gatepost.core.operation_kind import JudgedBy, OperationKind, OperationTold, Tools
from gatepost.core.profile import upright
from gatepost.core.tolerances import THROUGH_EXTRA
from gatepost.core.units import mm

FORMS = (
    ("rounded", "rounded"), ("hollow corners", "hollow"), ("clipped corners", "clipped"), ("oval", "oval"), ("arched top", "arched"),
)  # fmt: skip
SIDES = (("outside its line", "outside"), ("inside its line", "inside"), ("on its line", "on"))
ORDERS = (("all round at once", False), ("ends of the grain first", True))
PEAK = 1.3  # over the mean push, in a slot
BESIDE = 5.0  # mm about what is used
SLACK = 1.5  # cells by which a slot may look wider than it is


def bottom(figures: Plate) -> float:
    """How deep it goes, above the bed: a little into the spoilboard, or down to the skin that is left."""
    return figures.skin if figures.skin > 0.0 else -THROUGH_EXTRA


def too_narrow(figures: Plate, tool: Tool) -> bool:
    """Whether the cutter does not fit inside."""
    return bool(middle_line(figures, tool, figures.allowance).is_empty)


def rounds(figures: Plate, tool: Tool, site: Site) -> int:
    """How often it goes round."""
    return cutout_passes(site.highest, bottom(figures), tool.pass_depth)


class CutOutKind(OperationKind):
    """Plates cut out."""

    name, figures, one = "cutout", CutOut, "cut out"
    frees, art, title, many, also = True, "plate", "Cut-out", "cut-outs", ("drawing",)
    entries = (
        KindEntry("End mill", "tool", "tool", (("flat", "flat"),)), KindEntry("Cuts", "choice", "side", SIDES), KindEntry("Tabs", "number", "tabs"),
        KindEntry("Tab width", "length", "tab_width"), KindEntry("Tab height", "length", "tab_height"),
        KindEntry("Left for a clean last cut", "length", "allowance"), KindEntry("Thin skin in place of tabs", "length", "skin"),
        KindEntry("Last cut takes", "choice", "grain_first", ORDERS),
    )  # fmt: skip
    art_entries = (
        KindEntry("Shape", "choice", "form", FORMS), KindEntry("Width", "length", "width"), KindEntry("Height", "length", "height"), KindEntry("Corner, or rise of the arch", "length", "corner"),
        KindEntry("Middle, from the left edge", "length", "x"), KindEntry("Middle, from the front edge", "length", "y"),
        KindEntry("Turned left by", "number", "turn", (), "°"),
    )  # fmt: skip

    def together(self, job: Job, setup: Setup, operation: Operation) -> Plate | None:
        """The plate, and how it is cut out."""
        return job.cut_out(operation)

    def cuts(self, figures: Plate, tools: Tools, site: Site) -> tuple[Drawn, ...]:
        """Round and round, deeper each time; nothing for a V, and where more rounds are wanted than can be worked out."""
        (tool,) = tools
        if not upright(tool) or rounds(figures, tool, site) > MOST_PASSES or too_narrow(figures, tool):
            return ()
        home, low = site.home(tool), bottom(figures)
        moves = site.memory.get(
            "cut-out moves", (figures, tool, site.highest, site.travel, home, site.grain),
            lambda: cutout_moves(figures, tool, site.highest, low, site.travel, home, site.grain),
        )  # fmt: skip
        outline = MultiPolygon([plate_outline(figures)])
        area = SunkArea(Art(tuple(tuple(c) for c in polygon_contours(outline)), False), None, low, figures.side)
        return (Drawn(tool, moves, Engaged(tool.diameter, tool.pass_depth, PEAK), area=area),)

    def envelope(self, figures: Plate, tools: Tools, site: Site) -> Envelope:
        """What the cutter reaches of a slot as wide as itself and the allowance round the plate."""
        (tool,) = tools
        slack = SLACK * site.cell

        def slot() -> Area:
            far = tool.diameter + figures.allowance + slack
            half = tool.diameter / 2.0 + slack
            out, into = {"outside": (far, -slack), "inside": (slack, -far), "on": (half, -half)}[figures.side]
            inside = plate_outline(figures, into)
            return reach(plate_outline(figures, out).difference(inside), tool.diameter / 2.0)

        return Envelope(slot, bottom(figures), key=(figures, tool))

    def told(self, figures: Plate, tools: Tools, at: JudgedBy) -> OperationTold:
        """Whether it lies on the board, whether the cutter reaches, and whether tabs bear it."""
        (tool,) = tools
        if plate_outline(figures).is_empty:
            message = f"The drawing has no hole {figures.hole}: nothing is cut out."
            return OperationTold((), (Finding("carve.no-hole", Level.STOP, "carve", message, at.setup),), self.one)
        times = rounds(figures, tool, at.site) if upright(tool) else 0
        findings = plate_findings(figures, tool, at, times if times > MOST_PASSES else 0)
        x0, y0, x1, y1 = plate_outline(figures).bounds if figures.hole else (0.0, 0.0, figures.width, figures.height)
        size = Figure("Hole" if figures.hole else "Plate", f"{mm(x1 - x0, 0)} × {mm(y1 - y0, 0)}", "words")
        return OperationTold((size, Figure("Wood to cut through", at.thickness)), tuple(findings), self.one)

    def uses(self, figures: Plate, tools: Tools) -> Area:
        """The plate, the slot round it and a little more; what is cut out of its inside is in it."""
        (tool,) = tools
        return plate_outline(figures, max(figures.out, 0.0) * (figures.allowance + tool.diameter) + BESIDE)

    def hung(self, figures: Plate) -> bool:
        """By tabs, where no skin is left."""
        return figures.tabs > 0 and figures.skin <= 0.0

    def no_tool(self, number: int, setup: str) -> Finding:
        """Nothing cuts it out."""
        return unfit(number, setup)
