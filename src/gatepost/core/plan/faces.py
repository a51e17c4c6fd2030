# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Surface stage says of each face that is made flat."""

from __future__ import annotations

from dataclasses import replace

from gatepost.core.findings import Finding, Report, with_more
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.turning import FACES, SIDES
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.known import PlanInputs
from gatepost.core.plan.laid import borne
from gatepost.core.plan.layout import first_surfacing
from gatepost.core.plan.result import Reports
from gatepost.core.surface import report as surface_report
from gatepost.core.surface.second import report_of as second_face
from gatepost.core.surface.second import thickness as thickness_of

ASKED = ("surface.mixed", "surface.side")  # said whichever setups are cut
FIRST_ONLY = ("surface.no-lettering", "surface.seat", "surface.either-first")  # said of the first face alone


def mixed(c: Cuts) -> list[Finding]:
    """Whether a setup is asked both to make a face flat and to carve."""
    laid = c.draft.laid
    asked = next((o for o in laid.setup.operations if isinstance(o.figures, Surfacing)), None)
    if laid.flattens or asked is None or laid.surfacing is None or laid.surfacing.wanted == "no":
        return []
    return [surface_report.mixed(laid.setup.name, asked.id)]


def unread(job: Job) -> list[Finding]:
    """Sides that are asked to be made flat: their heights can't be told, so nothing is cut there."""
    return [
        surface_report.side(s.name, FACES[s.up], o.id)
        for s in job.setups if s.up in SIDES
        for o in s.operations if isinstance(o.figures, Surfacing) and o.figures.wanted != "no"
    ]  # fmt: skip


def surface_reports(k: PlanInputs, cuts: list[Cuts], journal: Journal, said: list[Finding]) -> Reports:
    """Of each face that is made flat; of the first one whether it is or not."""
    both = any(c.draft.laid.flattens and c.draft.laid.up != "front" for c in cuts)
    out: Reports = {}
    first = next((c for c in cuts if c.draft.laid.flattens and c.draft.laid.up == "front"), None)
    asked = [f for f in said if f.code in ASKED]
    wanted = first_surfacing(k.setups)[1]
    out["surface", ""] = with_more(_surface_report(k, wanted, first, both, said), asked)
    for c in cuts:
        if c is first or not c.draft.laid.flattens:
            continue
        name, here = c.draft.setup.name, c.draft.known
        mine = _surface_report(here, c.draft.laid.surfacing or wanted, c, both, said)
        own = next(w.operation.id for w in c.draft.laid.wanted)
        told = tuple(_of(f, name, own) for f in mine.findings if f.code not in FIRST_ONLY)
        mine = with_more(replace(mine, findings=told), [])
        thick = thickness_of(here.surfaced.plane, journal, k.job)
        figures, more = second_face(k.job, name, k.surfaced, here.surfaced, thick)
        out["surface", name] = with_more(replace(mine, figures=(*figures, *mine.figures)), more)
    return out


def _of(finding: Finding, setup: str, operation: str) -> Finding:
    """A finding of a surfacing as that of a setup's own."""
    fixes = tuple(
        replace(f, values={**f.values, "operation": operation}) if f.kind == "set surfacing" else f
        for f in finding.fixes
    )
    return replace(finding, setup=setup, fixes=fixes)


def _surface_report(k: PlanInputs, wanted: Surfacing, c: Cuts | None, both: bool, said: list[Finding]) -> Report:
    tool = next((t for t in k.job.tools if t.number == wanted.tool), None)
    if tool is None:
        return surface_report.no_tool(wanted.tool)
    seconds = sum(op.seconds for op in c.operations) if c is not None else 0.0
    done = replace(k.surfaced, seconds=seconds, other_face=both)
    report = surface_report.report(wanted, tool, borne(k.job.blank), done)
    names = ("", c.draft.setup.name) if c is not None else ("",)
    return with_more(report, [f for f in said if f.stage == "surface" and f.setup in names and f.code not in ASKED])
