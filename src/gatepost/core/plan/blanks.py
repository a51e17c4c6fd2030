# SPDX-License-Identifier: GPL-3.0-or-later
"""Wires what the Blank stage says: thickness, shape, what is known of the wood, the cut list and the batch."""

from __future__ import annotations

import numpy as np
import shapely
from shapely.geometry import Point as Spot

from gatepost.core.blank import batch as batches
from gatepost.core.blank import cutlist, known, photo
from gatepost.core.blank import thickness as thicknesses
from gatepost.core.blank.known import Lies
from gatepost.core.blank.shape import ring
from gatepost.core.blank.thickness import Thickness
from gatepost.core.carve.lettering import CutLetter
from gatepost.core.carve.paths import plate_outline, tabs
from gatepost.core.carve.report import depth_of
from gatepost.core.findings import Figure, Finding, Level, Place, Report, gate_of
from gatepost.core.frames import Bed, Board, Matrix
from gatepost.core.geometry.outline import problem
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.tool import Tool
from gatepost.core.plan.surfaces import LaidWood
from gatepost.core.surface.reckoned import Surfaced
from gatepost.core.units import mm

SHAPES = {"rectangle": "", "round": "round, ", "oval": "oval, ", "outline": "live edge, "}


def flaws_of(job: Job, thick: Thickness, wood: LaidWood, flat: Surfaced) -> tuple[Lies, ...]:
    """Where each flaw lies in the board as it will be."""
    if not job.blank.flaws:
        return ()
    places = np.array([(f.x, f.y) for f in job.blank.flaws])
    tops = wood.top.at(places[:, 0], places[:, 1]) if wood.top.measured else np.full(len(places), thick.least)
    finished = [min(float(t), flat.plane) if flat.needed and flat.lines else float(t) for t in tops]
    return tuple(known.lies(f, float(t), z) for f, t, z in zip(job.blank.flaws, tops, finished))


def report(job: Job, thick: Thickness, wood: LaidWood, flat: Surfaced, flaws: tuple[Lies, ...]) -> Report:
    """The Blank stage's report."""
    blank = job.blank
    surfaced = flat.depths.removal.result if flat.needed and flat.depths is not None else 0.0
    findings = [
        *thicknesses.findings(blank, thick),
        *_outline(job, wood),
        *photo.findings(blank.photo, blank.doubt),
        *known.findings(job, flaws, surfaced),
        *cutlist.findings(blank),
    ]
    figures = [
        Figure("Thinnest reading" if thick.measured else "Label thickness", thick.least),
        Figure("Thickest reading", thick.greatest),
        Figure("Spread", thick.spread.result, working=thick.spread),
    ]
    if wood.top.measured:
        figures += [
            Figure("Highest place of the top", wood.extremes.highest[2]),
            Figure("Lowest place of the top", wood.extremes.lowest[2]),
        ]
    if blank.shape != "rectangle":
        figures.append(Figure("Area of the face", f"{wood.outline.area / 100.0:.0f} cm²", "words"))
    if blank.doubt:
        figures.append(Figure("± of the outline", blank.doubt))
    done = batches.batched(blank.batch) if blank.batch is not None else None
    if done is not None and blank.batch is not None:
        figures += batches.figures(blank.batch, done)
        findings += batches.findings(blank.batch, done)
    fact = f"{mm(thick.mean, 1)} measured" if thick.measured else "not measured"
    line = f"{job.wood.name} · {SHAPES[blank.shape]}{mm(blank.length, 0)} × {mm(blank.width, 0)}"
    return Report("blank", fact, line, tuple(figures), tuple(findings), gate_of(tuple(findings)))


def _outline(job: Job, wood: LaidWood) -> list[Finding]:
    """Whether the outline is one, and whether every reading lies on it."""
    blank = job.blank
    said: list[Finding] = []
    wrong = problem(ring(blank)) if blank.shape == "outline" else ""
    if wrong:
        said.append(Finding("blank.outline", Level.STOP, "blank", f"{wrong} Its rectangle is taken meanwhile."))
    if blank.shape in ("rectangle",) or wrong:
        return said
    near = wood.outline.buffer(blank.doubt + 2.0)
    places = [(r.x, r.y) for r in blank.calipers] + [(h.x, h.y) for h in blank.heights]
    out = [i + 1 for i, place in enumerate(places) if not near.intersects(Spot(*place))]
    if out:
        message = f"Reading {out[0]} lies outside the outline: there is no wood there. Move it, or take it away."
        said.append(Finding("blank.reading-off-outline", Level.STOP, "blank", message, about=str(out[0])))
    return said


def carving_over_flaws(
    letters: tuple[CutLetter, ...],
    tool: Tool,
    flaws: tuple[Lies, ...],
    setup: str,
    to_bed: Matrix[Board, Bed],
    height: float,
) -> list[Finding]:
    """Letters that are cut into a flaw. height: of the face they are cut from, above the bed."""
    said: list[Finding] = []
    for lie in flaws:
        disc = Spot(lie.flaw.x, lie.flaw.y).buffer(max(lie.flaw.size / 2.0, 0.5))
        hit = [
            letter
            for letter in letters
            if letter.outline().intersects(disc)
            and (lie.down > 0.0 or height - depth_of(letter.cut.widest, tool).result <= lie.up)
        ]
        if not hit:
            continue
        names = ", ".join(letter.name for letter in hit[:3]) + (f" and {len(hit) - 3} more" if len(hit) > 3 else "")
        reach = "is cut through" if lie.down > 0.0 else "is reached from above by"
        message = f"The {lie.flaw.kind} at X {mm(lie.flaw.x)}, Y {mm(lie.flaw.y)} {reach} {names}: edges break out there. Move the lettering, or fill it first."
        place = Place(*to_bed.xy(lie.flaw.x, lie.flaw.y), height, lie.flaw.size)
        said.append(
            Finding(
                "carve.flaw", Level.CARE, "carve", message, setup, place=place, about=f"{lie.flaw.x:g},{lie.flaw.y:g}"
            )
        )
    return said


def plate_over_flaws(job: Job, flaws: tuple[Lies, ...]) -> list[Finding]:
    """Tabs that stand in a flaw, and flaws that the plate's edge is cut through."""
    plate = job.carving.plate
    tool = next((t for t in job.tools if plate is not None and t.number == plate.tool), None)
    if plate is None or tool is None:
        return []
    said: list[Finding] = []
    edge = plate_outline(plate).exterior
    places = tabs(plate, tool)
    for lie in flaws:
        f = lie.flaw
        disc = Spot(f.x, f.y).buffer(max(f.size / 2.0, 0.5))
        where = f"the {f.kind} at X {mm(f.x)}, Y {mm(f.y)}"
        standing = [t for t in places if disc.distance(Spot(t.x, t.y)) < plate.tab_width]
        if standing:
            message = f"A tab stands in {where}: it holds little there. Turn the number of tabs up or down, or move the plate."
            said.append(Finding("carve.tab-flaw", Level.CARE, "carve", message, "front", about=f"{f.x:g},{f.y:g}"))
        if f.kind != "knot" and edge.intersects(disc):
            message = (
                f"The plate's edge is cut through {where}: look whether it breaks out, and fill it before painting."
            )
            said.append(Finding("carve.edge-flaw", Level.NOTE, "carve", message, "front", about=f"{f.x:g},{f.y:g}"))
    return said


def resting_on_flaws(
    setup: Setup, to_bed: Matrix[Board, Bed], pads: list[tuple[str, shapely.Geometry]], flaws: tuple[Lies, ...]
) -> list[Finding]:
    """Holds that bear on a flaw. pads: name of each hold and where it bears, on the bed."""
    said: list[Finding] = []
    for name, pad in pads:
        for lie in flaws:
            disc = Spot(*to_bed.xy(lie.flaw.x, lie.flaw.y)).buffer(max(lie.flaw.size / 2.0, 0.5))
            if lie.flaw.kind != "knot" and pad.intersects(disc):
                message = f"{name} bears on the {lie.flaw.kind} at X {mm(lie.flaw.x)}, Y {mm(lie.flaw.y)} of the board: it may give or split. Move it."
                said.append(Finding("hold.on-flaw", Level.CARE, "hold", message, setup.name, about=name))
    return said
