# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Blank stage says: thickness, shape, what is known of the wood, the cut list and the batch."""

from __future__ import annotations

from shapely.geometry import Point as Spot
from shapely.geometry import Polygon

from gatepost.core.blank import batch as batches
from gatepost.core.blank import cutlist, known, other_unit, photo, warp
from gatepost.core.blank import thickness as thicknesses
from gatepost.core.blank.corners import margin_rule
from gatepost.core.blank.shape import ring
from gatepost.core.blank.thickness import Thickness
from gatepost.core.blank.top import Extremes
from gatepost.core.findings import Figure, Finding, Level, Report, Table, gate_of
from gatepost.core.geometry.outline import problem
from gatepost.core.job.model import Job
from gatepost.core.units import mm
from gatepost.core.wood.flaws import Lies

SHAPES = {"rectangle": "", "round": "round, ", "oval": "oval, ", "outline": "live edge, "}


def report(
    job: Job, thick: Thickness, outline: Polygon, ends: Extremes | None, surfaced: float, flaws: tuple[Lies, ...],
    cut: frozenset[str] = frozenset(), room: tuple[Table, ...] = (),
) -> Report:  # fmt: skip
    """The Blank stage's report. ends: of its top where that was measured; surfaced: mm that come off it; cut: faces that were surfaced
    already; room: what is left beside what is cut."""
    blank = job.blank
    findings = [
        *thicknesses.findings(blank, thick),
        *_label_only(job, thick),
        *_outline(job, outline),
        *other_unit.findings(job),
        *margin_rule(blank),
        *photo.findings(blank.photo, blank.doubt),
        *known.findings(job, flaws, surfaced, cut),
        *warp.findings(job, thick.least - surfaced),
        *cutlist.findings(blank),
    ]
    figures = [
        Figure("Thinnest reading" if thick.measured else "Thickness as sold", thick.least, places=2),
        *(
            (
                Figure("Thickest reading", thick.greatest, places=2),
                Figure("Spread", thick.spread.result, working=thick.spread, places=2),
            )
            if thick.measured
            else ()
        ),
    ]
    if ends is not None:
        figures += [
            Figure("Highest place of the top", ends.highest[2], places=2),
            Figure("Lowest place of the top", ends.lowest[2], places=2),
        ]
    if blank.shape != "rectangle":
        figures.append(Figure("Area of the face", f"{outline.area / 100.0:.0f} cm²", "words"))
    if blank.doubt:
        figures.append(Figure("± of the outline", blank.doubt))
    done = batches.batched(blank.batch) if blank.batch is not None else None
    if done is not None and blank.batch is not None:
        figures += batches.figures(blank.batch, done)
        findings += batches.findings(blank.batch, done)
    figures += cutlist.figures(blank)
    tables = (
        *room,
        *cutlist.table(blank),
        *((batches.table(blank.batch, done),) if done is not None and blank.batch is not None else ()),
    )
    fact = f"{mm(thick.mean, 1)} measured" if thick.measured else "not measured"
    line = f"{job.wood.name} · {SHAPES[blank.shape]}{' × '.join(mm(v, 0) for v in blank.across)}"
    return Report("blank", fact, line, tuple(figures), tuple(findings), gate_of(tuple(findings)), tables)


def _label_only(job: Job, thick: Thickness) -> list[Finding]:
    """What may not rest on a label alone: how deep through is, a Z0 on the bed, a board that is turned over."""
    if thick.measured or len(job.blank.heights) >= 3:
        return []
    done = [s for s in job.setups if s.operations]
    why = [
        *(["it is cut right through"] if any(o.through for s in done for o in s.operations) else []),
        *(["Z0 is on the bed"] if any(s.zero.z == "bed" for s in done) else []),
        *(["it is turned over"] if len({s.up for s in done}) > 1 else []),
    ]
    if not why:
        return []
    message = f"The board's thickness is known from its label alone, and {' and '.join(why)}. Measure it with calipers at four places or more."
    return [Finding("blank.label-only", Level.STOP, "blank", message)]


def _outline(job: Job, outline: Polygon) -> list[Finding]:
    """Whether the outline is one, and whether every reading lies on it."""
    blank = job.blank
    said: list[Finding] = []
    wrong = problem(ring(blank)) if blank.shape == "outline" else ""
    if wrong:
        said.append(Finding("blank.outline", Level.STOP, "blank", f"{wrong} Its rectangle is taken meanwhile."))
    off = [s for s in blank.supports if not outline.buffer(1e-6).intersects(Spot(s.x, s.y))] if not wrong else []
    if off:
        message = f"The support at X {mm(off[0].x)}, Y {mm(off[0].y)} has no wood over it: a shim there bears nothing, and it is not counted. Move it under the board."
        said.append(Finding("blank.support-off", Level.CARE, "blank", message, about=off[0].id))
    if blank.shape in ("rectangle",) or wrong:
        return said
    near = outline.buffer(blank.doubt + 2.0)
    out = [r for r in blank.readings if not near.intersects(Spot(r.x, r.y))]
    if out:
        message = f"The reading {out[0].id} at X {mm(out[0].x)}, Y {mm(out[0].y)} lies outside the outline: there is no wood there. Move it, or take it away."
        said.append(Finding("blank.reading-off-outline", Level.STOP, "blank", message, about=out[0].id))
    return said
