# SPDX-License-Identifier: GPL-3.0-or-later
"""plan.json: the plan for scripts. docs/plan-json.md documents its keys; none changes without a version."""

from __future__ import annotations

import io
import math
from collections.abc import Callable
from typing import Any

import numpy as np

from gatepost.core.blank.batch import batched
from gatepost.core.blank.shape import ring
from gatepost.core.errors import OperatorError
from gatepost.core.findings import Finding
from gatepost.core.job.blank import Batch
from gatepost.core.plan.planned import PlannedCut, PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.surface.reckoned import Way
from gatepost.core.units import spell

VERSION = 1


def art_names(plan: Plan) -> dict[str, str]:
    """File name of each V-cut operation's art."""
    names: dict[str, str] = {}
    for setup in plan.setups:
        number = 0
        for op in setup.operations:
            if op.art is not None:
                number += 1
                names[op.name] = f"art-{setup.name}-{number}.svg"
    return names


def area_names(plan: Plan) -> dict[str, str]:
    """File name of what each operation clears or cuts round, by setup and id of the operation."""
    return _numbered(plan, lambda op: op.area is not None, "area-{}-{}.svg")


def target_names(plan: Plan) -> dict[str, str]:
    """File name of the heights that each relief is to become, less its ending, by setup and id of the operation."""
    return _numbered(plan, lambda op: op.target is not None, "target-{}-{}")


def _numbered(plan: Plan, has: Callable[[PlannedCut], bool], name: str) -> dict[str, str]:
    """Names with the setup's id and a number that counts its operations of a sort from 1."""
    names: dict[str, str] = {}
    for setup in plan.setups:
        ids = dict.fromkeys(op.operation for op in setup.operations if has(op))
        names |= {f"{setup.name} {i}": name.format(setup.setup.id, k) for k, i in enumerate(ids, start=1)}
    return names


def plan_json(plan: Plan, files: list[str], suggest: bool = False) -> dict[str, Any]:
    """The plan as plain values, mm, s, N. suggest: with the best places for the holds, which take a second."""
    job = plan.job
    return {
        "version": VERSION,
        "job": job.name,
        "fingerprint": plan.fingerprint,
        "blank": {
            "outline": [[float(x), float(y)] for x, y in ring(job.blank)],
            "thickness_min": plan.thickness.least,
            "thickness_max": plan.thickness.greatest,
            "readings": [[r.x, r.y, r.thickness] for r in job.blank.calipers],
            "spread": plan.thickness.greatest - plan.thickness.least,
            "doubt": job.blank.doubt,
            **({"batch": _batch(job.blank.batch)} if job.blank.batch is not None and job.blank.batch.pieces else {}),
        },
        "tools": [
            {
                "number": t.number, "name": t.name, "kind": t.kind, "diameter": t.diameter, "angle": t.angle, "tip": t.tip,
                "radius": t.radius, "cutting_length": t.cutting_length,
            }
            for t in job.tools
        ],
        "setups": [_setup(plan, s, suggest) for s in plan.setups],
        "order": {"names": list(plan.order.names), "minutes": plan.order.minutes, "changes": plan.order.changes},
        "findings": [_finding(f, job.unit) for f in plan.findings],
        "questions": [
            {"code": q.code, "stage": q.stage, "setup": q.setup, "sentence": spell(q.sentence, job.unit)} for q in plan.questions
        ],
        "next": spell(plan.next.sentence, job.unit),
        "files": files,
    }  # fmt: skip


def _batch(batch: Batch) -> dict[str, Any]:
    done = batched(batch)
    assert done is not None
    group = {i: n for n, g in enumerate(done.groups) for i in g.members}
    pieces = []
    for i, p in enumerate(batch.pieces):
        one: dict[str, Any] = {"name": p.name, "size": [p.length, p.width, p.thickness], "group": group[i]}
        if done.lying:
            lie = done.lying[i]
            one |= {"lies": [lie.length, lie.width, lie.height], "play": list(lie.play), "fits": lie.fits}
        pieces.append(one)
    return {
        "pieces": pieces,
        "trim": {"to": list(done.trim), "wood": done.wood, "touches": 1},
        "groups": [
            {"low": g.low, "high": g.high, "pieces": [batch.pieces[i].name for i in g.members]} for g in done.groups
        ],
        "chosen": batch.way,
    }


def _setup(plan: Plan, s: PlannedSetup, suggest: bool) -> dict[str, Any]:
    names, areas, targets = art_names(plan), area_names(plan), target_names(plan)
    mark = s.placed.mark
    program_of = {name: p.name for p in s.programs for name in p.operations}
    operations = []
    for op in s.operations:
        x0, y0, x1, y1 = s.placed.to_work.moves(op.moves).cutting_extents()
        cutting = op.moves.points[1:][~op.moves.rapid]
        operations.append(
            {
                "name": op.name, "operation": op.operation, "stage": op.stage, "kind": op.kind, "tool": op.tool.number, "program": program_of[op.name], "seconds": op.seconds,
                "extents": [x0, y0, x1, y1], "z_min": float(cutting[:, 2].min()) - s.zero_height if len(cutting) else 0.0,
                "art": names.get(op.name, ""),
                **(_area(op, areas[f"{s.name} {op.operation}"], s) if op.area is not None else {}),
                **({"target": f"{targets[f'{s.name} {op.operation}']}.npy"} if op.target is not None else {}),
            }
        )  # fmt: skip
    return {
        "name": s.name,
        "id": s.setup.id,
        "follows": s.setup.follows,
        "up": s.setup.up,
        "spin": s.setup.spin,
        "face": s.setup.up,
        "datum": {
            "xy": s.setup.zero.xy, "z": s.setup.zero.z, "bed_xy": list(mark), "bed_z": s.zero_height, "skew": s.setup.skew,
            "trust": {n: {"trust": a.trust.value, "why": a.why, "at": a.at} for n, a in (("x", s.axes.x), ("y", s.axes.y), ("z", s.axes.z))},
        },
        "blank_to_work": s.blank_to_work.square.tolist(),
        "hold": _hold(plan, s, suggest),
        "pieces": [
            {"operation": p.operation, "area": p.area, "at": list(s.placed.to_work.xy(*p.at)), "held_by": list(p.held_by)}
            for p in s.pieces if not p.hangs
        ],
        "programs": [
            {"name": p.name, "tool": p.tool.number, "fingerprint": p.fingerprint, "seconds": p.seconds} for p in s.programs
        ],
        "operations": operations,
        **({"surface": _surface(s)} if s.flattens or s is plan.setups[0] else {}),
        "tool_changes": [
            {
                "before": c.before, "tool": c.tool.number,
                "touch_off": {"at": [c.touch.x - mark[0], c.touch.y - mark[1]], "surface": c.touch.surface},
            }
            for c in s.changes
        ],
    }  # fmt: skip


def _area(op: PlannedCut, name: str, s: PlannedSetup) -> dict[str, Any]:
    """What an operation clears or cuts round, in work coordinates."""
    assert op.area is not None
    side = {"side": op.area.side} if op.area.side else {}
    return {"area": name, "floor": op.area.z - s.zero_height, **side}


def _hold(plan: Plan, s: PlannedSetup, suggest: bool) -> dict[str, Any]:
    """What holds a setup. Places are work coordinates, but a hold's own x and y, which are the bed's."""
    mark = s.placed.mark
    least = min((m.least for m in s.margins), key=lambda w: w.result, default=None)
    gaps = [
        {
            "hold": g.hold, "part": g.part, "tool_part": g.tool_part, "operation": words, "gap": g.gap,
            "at": [g.x - mark[0], g.y - mark[1], g.z - s.zero_height],
        }
        for words, g in s.gaps
    ]  # fmt: skip
    return {
        "ways": [h.model_dump(mode="json") for h in s.setup.holds],
        "margin": None if least is None or not s.setup.holds else least.result,
        "margins": [
            {
                "operation": m.load.operation, "push": m.load.push.result, "slide": m.slide.result, "turn": m.turn.result,
                "lift": None if m.lift is None else m.lift.result,
            }
            for m in s.margins
        ],
        "clearance": gaps,
        "free_span": None if s.span is None else {"length": s.span.length, "between": [s.span.first, s.span.last]},
        "unreached": 0.0 if s.unreached is None else float(s.unreached.area),
        "suggestions": _suggestions(plan, s) if suggest else [],
    }  # fmt: skip


def _suggestions(plan: Plan, s: PlannedSetup) -> list[dict[str, Any]]:
    """The best places for as many holds as there are, of each kind that places can be told for."""
    from gatepost.core.plan.holding_ways import suggestion

    out: list[dict[str, Any]] = []
    kinds = [h.kind for h in s.setup.holds]
    for kind in dict.fromkeys(k for k in kinds if plan.kinds.holds[k].placed):
        try:
            best = suggestion(plan, s.name, kind, max(2, kinds.count(kind)))
        except OperatorError as error:
            out.append({"kind": kind, "count": kinds.count(kind), "why_not": spell(str(error), plan.job.unit)})
            continue
        holds = [h.model_dump(mode="json") for h in best.holds]
        out.append({"kind": kind, "count": len(holds), "span": best.span, "moved": best.moved, "holds": holds})
    return out


def _surface(s: PlannedSetup) -> dict[str, Any]:
    done = s.surfaced
    ways = {"as_lies" if w.seat.name == "as it lies" else "shimmed": _way(w) for w in done.ways}
    return {
        "needed": done.needed,
        "as_lies": ways.get("as_lies"),
        "shimmed": ways.get("shimmed"),
        "missed": [{"at": [m.x, m.y], "area": m.area} for m in done.missed],
    }


def _way(way: Way) -> dict[str, Any]:
    passes = [{"z": p.z, "seconds": p.seconds, "clean": p.clean} for p in way.passes]
    out: dict[str, Any] = {"thickness": way.thickness, "removal": way.removal, "passes": passes}
    if way.seat.shims:
        out["tilt"] = list(way.seat.tilt)
        out["shims"] = [{"at": [s.x, s.y], "height": s.height} for s in way.seat.shims]
    return out


def _finding(f: Finding, unit: str) -> dict[str, Any]:
    return {
        "stage": f.stage, "setup": f.setup, "level": f.level.value, "code": f.code, "message": spell(f.message, unit),
        "about": f.about, "accepted": f.accepted,
        "working": None if f.working is None else {
            "expression": f.working.expression,
            "values": {v.name: v.value for v in f.working.values},
            "result": f.working.result if math.isfinite(f.working.result) else None,
            "assumption": f.working.assumption, "shop_rule": f.working.shop_rule,
        },
        "fixes": [{"kind": x.kind, "values": dict(x.values), "sentence": spell(x.sentence, unit)} for x in f.fixes],
    }  # fmt: skip


def art_files(plan: Plan) -> dict[str, str]:
    """SVG text of each V-cut operation's art, work coordinates, by file name."""
    names = art_names(plan)
    return {
        names[op.name]: op.art.through(s.placed.to_work.array).svg()
        for s in plan.setups
        for op in s.operations
        if op.art is not None
    }


def area_files(plan: Plan) -> dict[str, str]:
    """SVG text of what each operation clears or cuts round, work coordinates, by file name."""
    names = area_names(plan)
    return {
        names[f"{s.name} {op.operation}"]: op.area.through(s.placed.to_work.array).svg()
        for s in plan.setups
        for op in s.operations
        if op.area is not None
    }


def target_files(plan: Plan) -> dict[str, bytes]:
    """What each relief is to become, work coordinates, by file name: float32 z[j, i] in work Z at cell middles, NaN where nothing is asked, and
    beside it where its cells lie."""
    names = target_names(plan)
    out: dict[str, bytes] = {}
    for s in plan.setups:
        for op in s.operations:
            name = f"{names[f'{s.name} {op.operation}']}" if op.target is not None else ""
            if op.target is None or f"{name}.npy" in out:
                continue
            there = op.target.through(s.placed.to_work.array).lifted(-s.zero_height)
            held = io.BytesIO()
            np.save(held, there.z)
            out |= {f"{name}.npy": held.getvalue(), f"{name}.json": there.told().encode()}
    return out
