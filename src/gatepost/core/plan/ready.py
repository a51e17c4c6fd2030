# SPDX-License-Identifier: GPL-3.0-or-later
"""Jobs that are made ready: skimming the bed, and test grooves of a V on scrap. They are planned, run and logged like any other."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.errors import OperatorError
from gatepost.core.hold.kinds.bolted import four
from gatepost.core.job.base import changed
from gatepost.core.job.blank import Blank, Reading, TopHeight, Wood
from gatepost.core.job.carve import Rounded
from gatepost.core.job.hold import Tape
from gatepost.core.job.holes import Engraving
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.job.zero import Zero
from gatepost.core.profile import is_vee, profile_of

SKIM = "Skim of the bed"
EDGE = 6.0  # mm that is kept to the ends of the travel beside the cutter's own radius
SLACK = 0.05  # mm over what is taken off, so that one pass takes it
BASE = 0.001  # mm: what is left of a spoilboard as a height to count from, where it is the work itself
SCRAP = (130.0, 80.0, 18.0)  # mm
GROOVES = ((100.0, 52.0), (62.0, 26.0))  # mm: rectangles whose straight sides are measured


def whole_bed(machine: Machine, tool: Tool) -> tuple[float, float, float, float]:
    """What a cutter can skim: x, y of the corner, length and width; the passes run out over its edge as far as the travel goes."""
    away = tool.diameter / 2.0 + EDGE
    return away, away, max(machine.travel_x - 2.0 * away, 10.0), max(machine.travel_y - 2.0 * away, 10.0)


@dataclass(frozen=True)
class RoughSkim:
    """What a skim comes to before it is planned. rows: of passes; minutes: along them; left: of the spoilboard, mm."""

    rows: int
    minutes: float
    left: float


def rough_skim(machine: Machine, tool: Tool, length: float, width: float, deep: float, stepover: float) -> RoughSkim:
    """Of an area skimmed so deep, mm. stepover: share of the diameter."""
    rows = int(width / (stepover * tool.diameter)) + 2
    return RoughSkim(rows, rows * length / tool.feed, machine.spoilboard - deep)


def skimming(
    machine: Machine, tools: tuple[Tool, ...], number: int, area: tuple[float, float, float, float], deep: float, stepover: float, unit: str
) -> Job:  # fmt: skip
    """A job in which the spoilboard is the wood. area: x, y, length, width on the bed; deep: mm taken off; heights count from the spoilboard's underside. Raises OperatorError."""
    thick = machine.spoilboard
    if not 0.05 <= deep <= thick - 6.0:
        raise OperatorError(f"A skim takes 0.05 mm at least and leaves 6 mm: this spoilboard is {thick:g} mm thick.")
    x, y, length, width = area
    bare = changed(machine.bed, scars=(), fences=(), nests=(), inserts=())
    under = changed(machine, nose_at_home=machine.nose_at_home + thick, spoilboard=BASE, bed=bare)
    blank = _measured(length, width, thick)
    figures = Surfacing(
        wanted="yes",
        tool=number,
        stepover=stepover,
        limit=deep + SLACK,
        last=deep + SLACK,
        cleanup=0.0,
        target_thickness=thick - deep,
    )
    setup = Setup(
        id="skim",
        x=x,
        y=y,
        operations=(Operation(id="surfacing", kind="surface", figures=figures),),
        zero=Zero(xy="front left", xy_way="pointer", z="top", square="no"),
    )
    job = Job(
        name=SKIM, unit="inch" if unit == "inch" else "mm", made_for="skim", blank=blank, wood=Wood(name="spoilboard", kind="soft", density=700.0), machine=under,
        tools=tools, setups=(setup,),
    )  # fmt: skip
    return changed(job, setups=(changed(setup, holds=tuple(four(job, setup))),))


def _measured(length: float, width: float, thick: float) -> Blank:
    """A flat board, as thick in its corners."""
    x, y = min(20.0, 0.1 * length), min(20.0, 0.1 * width)
    corners = ((x, y), (length - x, y), (length - x, width - y), (x, width - y))
    return Blank(
        length=length, width=width, label_thickness=thick, reclaimed=False, rocks=False,
        calipers=tuple(Reading(x=px, y=py, thickness=thick) for px, py in corners),
        heights=tuple(TopHeight(x=px, y=py, z=thick) for px, py in corners),
    )  # fmt: skip


def groove_depths(tool: Tool) -> tuple[float, float]:
    """Two depths that tell a V well: a fifth and three fifths of what its edges cut, no deeper than 6 mm."""
    most = min(profile_of(tool).shoulder, tool.cutting_length, 10.0)
    return round(max(0.2, 0.2 * most), 1), round(max(0.5, 0.6 * most), 1)


def groove_job(
    machine: Machine, tools: tuple[Tool, ...], number: int, depths: tuple[float, float], wood: Wood, unit: str
) -> Job:
    """A job that cuts two lines with a V on a piece of scrap. Raises OperatorError."""
    tool = next((t for t in tools if t.number == number), None)
    if tool is None or not is_vee(tool):
        raise OperatorError("A test groove tells a V: this is none.")
    deepest = min(profile_of(tool).shoulder, tool.cutting_length)
    if not 0.2 <= depths[0] < depths[1] <= deepest:
        raise OperatorError(
            f"Its edges cut {deepest:.1f} mm deep: the second groove is deeper than the first, and no deeper than that."
        )
    length, width, thick = SCRAP
    art = tuple(
        Artwork(
            id=f"groove-{n}",
            title=f"Groove {n}",
            kind="plate",
            x=length / 2.0,
            y=width / 2.0,
            figures=Rounded(width=w, height=h, corner=2.0),
        )
        for n, (w, h) in enumerate(GROOVES, 1)
    )
    done = tuple(
        Operation(
            id=f"groove-{n}",
            title=f"groove {n}",
            kind="line",
            on=(f"groove-{n}",),
            figures=Engraving(tool=number, sunk=d),
        )
        for n, d in enumerate(depths, 1)
    )
    x, y = 0.35 * machine.travel_x, 0.4 * machine.travel_y
    holds = (Tape(name="T1", x=x + length / 2.0, y=y + width / 2.0, length=length - 20.0, width=50.0),)
    setup = Setup(id="front", x=x, y=y, operations=done, holds=holds, zero=Zero(xy="front left", z="top"))
    blank = _measured(length, width, thick)
    return Job(
        name=f"Test grooves of {tool.name}"[:80],
        unit="inch" if unit == "inch" else "mm",
        made_for="groove",
        blank=blank,
        wood=wood,
        machine=machine,
        tools=tools,
        artwork=art,
        setups=(setup,),
    )
