# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Carve stage says, operation by operation."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from gatepost.core.carve.report import STAGE as CARVE
from gatepost.core.carve.report import no_text, other_face, series_waits
from gatepost.core.findings import Figure, Finding, Report, gate_of
from gatepost.core.frames import Board, FaceFrame, Matrix
from gatepost.core.geometry.outline import Area
from gatepost.core.job.turning import FACES
from gatepost.core.operation_kind import JudgedBy
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.drafts import posed
from gatepost.core.plan.known import PlanInputs
from gatepost.core.plan.layout import Wanted
from gatepost.core.wood.flaws import Lies


def _surely(k: PlanInputs) -> Area:
    """The board where there is wood for certain: its outline less its ±."""
    inner = k.wood.outline.buffer(-k.job.blank.doubt) if k.job.blank.doubt else k.wood.outline
    return k.wood.outline if inner.is_empty else inner


def carve_report(
    k: PlanInputs, cuts: list[Cuts], face: float, flaws: tuple[Lies, ...], said: list[Finding]
) -> tuple[Report, dict[str, Any]]:
    """All that is carved, operation by operation, and what each makes. face: how high the face stands over its rough, above the bed."""
    figures: list[Figure] = []
    findings: list[Finding] = []
    facts: list[str] = []
    lines: list[str] = []
    made: dict[str, Any] = {}
    seconds = 0.0
    for c in cuts:
        mine = [w for w in c.draft.laid.wanted if w.kind.stage == CARVE]
        seconds += sum(op.seconds for op in c.operations if op.operation in {w.operation.id for w in mine})
        for w in mine:
            told = w.kind.told(w.figures, w.tools, _judged_by(k, c, w, face, flaws))
            several = sum(o.kind == w.operation.kind for s in k.job.setups for o in s.operations) > 1
            figures += (
                [replace(f, label=f"{w.name}: {f.label[0].lower()}{f.label[1:]}") for f in told.figures]
                if several
                else told.figures
            )
            findings += (
                [replace(f, message=f"{w.name}: {f.message}") for f in told.findings] if several else told.findings
            )
            made |= {w.operation.id: told.made}
            facts += [told.fact] if told.fact else []
            lines += [told.line] if told.line else []
        for w in c.draft.laid.misplaced:
            if w.kind.stage == CARVE and w.face:
                findings.append(
                    other_face(
                        w.name,
                        FACES[w.face],
                        FACES[c.draft.laid.up],
                        c.draft.laid.up,
                        w.operation.on[0],
                        c.draft.setup.name,
                    )
                )
                facts.append("on another face")
        lacking = [kind.no_tool(n, c.draft.setup.name) for kind, n in c.draft.laid.lacking if kind.stage == CARVE]
        findings += lacking
        facts += ["no tool"] * bool(lacking)
    carved = [k.kinds.operations[o.kind] for s in k.job.setups for o in s.operations]
    if not any(kind.stage == CARVE and not kind.frees for kind in carved):
        findings.append(no_text(next(c.draft.setup.name for c in cuts if c.draft.laid.carves)))
        facts.insert(0, "0 letters")
    if k.job.series:
        findings.append(series_waits(len(k.job.series), next(c.draft.setup.name for c in cuts if c.draft.laid.carves)))
    figures.append(Figure("Minutes", seconds / 60.0, "minutes"))
    found = (*findings, *said)
    line = " / ".join(lines) or "no lettering yet"
    return Report(CARVE, ", ".join(facts), line, tuple(figures), found, gate_of(found)), made


def _judged_by(k: PlanInputs, c: Cuts, w: Wanted, face: float, flaws: tuple[Lies, ...]) -> JudgedBy:
    """What one operation is judged by."""
    pushes = [op.push * op.peak for op in c.operations if op.operation == w.operation.id]
    pose: Matrix[FaceFrame, Board] = c.draft.pose if w.face else Matrix()
    first = next(o.id for s in k.job.setups for o in s.operations if o.kind == w.operation.kind)
    return JudgedBy(
        c.draft.setup.name, {} if w.operation.id == first else {"operation": w.operation.id}, pose.then(c.draft.placed.to_bed), pose.inverse().area(_surely(c.draft.known)),
        k.job.tools, float(c.draft.start.z.max()), max(0.0, face - k.wood.extremes.lowest[2]),
        max(pushes, default=0.0), flaws if c.draft.laid.up == "front" else (), posed(c.draft.site, pose),
    )  # fmt: skip
