# SPDX-License-Identifier: GPL-3.0-or-later
"""The zeros of a setup, judged, and the setup as the window shows it: its touch-offs, tool changes, steps and pictures."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Point as Place
from shapely.geometry import Polygon

from gatepost.core.acts import ISOLATE
from gatepost.core.blank.warp import springs_up
from gatepost.core.cache import SMALL, Memory
from gatepost.core.findings import Report
from gatepost.core.hold.clearance import any_nearer
from gatepost.core.hold.lying import AsLaid
from gatepost.core.hold.report import kinds_in_words
from gatepost.core.hold.solids import Solid
from gatepost.core.job.hold import Hold
from gatepost.core.job.journal import Journal
from gatepost.core.job.register import ByMarks
from gatepost.core.job.tool import Tool
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.drafts import SetupDraft
from gatepost.core.plan.holds import touching_edges
from gatepost.core.plan.known import PlanInputs
from gatepost.core.plan.laid import under_map
from gatepost.core.plan.lookedat import depths, witness
from gatepost.core.plan.planned import PlannedSetup, ProgramFile, ToolChange
from gatepost.core.plan.proved import ring_art, ring_width
from gatepost.core.plan.tooling import told_of_bits, walked
from gatepost.core.plan.zeros import (
    beside,
    budget_of,
    covering,
    edges_on_bed,
    first_touch,
    kept_zero,
    lying_in,
    newest_date,
    spots_of,
    touched_at,
    upright_of,
    zero_found,
)
from gatepost.core.program.lines import by_machine
from gatepost.core.register.looks import Looked, to_take
from gatepost.core.run.step import Depth, MarkToRead, ProgramLoad, Rings, Step, TouchOff
from gatepost.core.run.steps import steps_of
from gatepost.core.surface.seat import THINNEST
from gatepost.core.tools import report as tools_report
from gatepost.core.tools import touchoff
from gatepost.core.wood.field import HeightField
from gatepost.core.zero import datum as zeros
from gatepost.core.zero import report as zero_report
from gatepost.core.zero.adviser import Spot
from gatepost.core.zero.inputs import Zeroed
from gatepost.core.zero.trust import Axes, trust, where
from gatepost.core.zero.ways import Budget

UNDER = (41, 121)  # rows and columns of a picture of the underside
MAP = 240  # places along the longer side of a picture of the top


def zeroed(
    c: Cuts, journal: Journal, standing: tuple[Solid, ...], memory: Memory
) -> tuple[PlannedSetup, Report, list[tools_report.Change]]:
    """A setup as it is shown, what there is to say of its zeros, and what its tool changes are judged on."""
    d, k = c.draft, c.draft.known
    first = first_touch(c)
    touches, changes, judged = _touches(c, standing, memory)
    mark = d.placed.mark
    spots, lies = _spots_in(c, standing), lying_in(c)
    budget = budget_of(c, lies)
    seen, deep = witness(c, spots), depths(c, budget, memory)
    axes = trust(journal.standing(), where(d.known.job, d.setup))
    planned = PlannedSetup(
        setup=d.setup, placed=d.placed, carried=d.carried, before=d.before, pose=d.pose, zero_height=d.zero_height, travel=d.travel, start=d.start, operations=c.operations,
        programs=c.programs, changes=tuple(changes), touches=touches, solids=standing,
        steps=tuple(_steps(c, touches, mark, seen, deep)), axes=axes, blank=k.job.blank, surfaced=k.surfaced,
        extremes=k.wood.extremes if k.wood.top.measured else None, top_grid=_top_grid(k, memory), top_map=_top_map(k, memory),
        flattens=d.laid.flattens, carves=d.laid.carves, on_shims=k.wood.seat is not None, lying=lies, witness=seen, depths={x.tool: x for x in deep}, under_map=_under_map(d, memory), found=d.laid.found, proving=d.laid.proving,
    )  # fmt: skip
    return planned, zero_report.report(_zeroed(c, journal, standing, first, mark, axes, spots, budget, lies)), judged


def _zeroed(
    c: Cuts,
    journal: Journal,
    standing: tuple[Solid, ...],
    first: tuple[float, float],
    mark: tuple[float, float],
    axes: Axes,
    spots: tuple[Spot, ...],
    budget: Budget,
    lies: AsLaid,
) -> Zeroed:
    """What the zeros of a setup are judged on. first: where Z is touched, mark: X0 Y0, both on the bed."""
    d, k, setup, job = c.draft, c.draft.known, c.draft.setup, c.draft.known.job
    tool = c.programs[0].tool if c.programs else job.tools[0] if job.tools else None
    expected = zeros.machine_zero(job.machine, tool.length if tool else 40.0, d.placed.work_to_bed)
    misfits = tuple(
        (p.name, m)
        for p in c.programs
        for m in zeros.travel_misfits(c.on_bed(p), job.machine, p.tool.length, by_machine(p.text, p.line))
    )
    top = float(d.start.z.max())
    on_board = bool(k.wood.outline.intersects(Place(*d.placed.to_bed.inverse().xy(*first))))
    return Zeroed(
        setup, job.machine, mark, first, d.zero_height, expected, misfits, covering(standing, mark, 4.0, top),
        covering(standing, first, 12.0, 0.0 if setup.zero.z == "bed" else top), on_board, axes,
        spots,
        upright_of(job, setup, k.thickness.greatest - k.thickness.least, c.operations), budget,
        _margin(c), _flat_allowed(k), newest_date(journal), _touched(c), lies.by, beside(c, lies, budget), job.holding.clearance, job.blank.shape == "rectangle", _squares(c, standing, lies, budget),
        tuple(edges_on_bed(c, setup.zero.pin if setup.zero.xy_way != "cutter" or tool is None else tool.diameter)), tool,
        _spreads(journal, setup.name), _lengths(c, journal), _depths(c), zero_found(d),
    )  # fmt: skip


def _squares(
    c: Cuts, standing: tuple[Solid, ...], lies: AsLaid, budget: Budget
) -> tuple[tuple[str, float, float], ...]:
    """Ways in which the board can be laid square here: each with what the farthest cut is good to then, and by how much the farthest hold may
    stand otherwise."""
    setup = c.draft.setup
    if setup.zero.square != "no" or setup.skew:
        return ()
    out = []
    for way in ("edge", "line"):
        if way == "edge" and not _edge_free(c, standing):
            continue
        squared = setup.model_copy(update={"zero": setup.zero.model_copy(update={"square": way})})
        set_by = beside(c, lies, budget, squared)
        out.append((way, budget_of(c, lies, squared).cut.good.result, set_by.result if set_by is not None else 0.0))
    return tuple(out)


def _edge_free(c: Cuts, standing: tuple[Solid, ...]) -> bool:
    """Whether the board's long edge can be touched at both its ends, clear of what stands there."""
    job, setup = c.draft.known.job, c.draft.setup
    if job.blank.shape != "rectangle" or not c.programs:
        return False
    tool = c.programs[0].tool
    pin = tool.diameter if setup.zero.xy_way == "cutter" else setup.zero.pin
    runs = touching_edges(job.machine, tool, pin, edges_on_bed(c, pin, square=True), "squaring")
    return not any(any_nearer(r.moves, r.parts, standing, job.holding.clearance) for r in runs)


def _spots_in(c: Cuts, standing: tuple[Solid, ...]) -> tuple[Spot, ...]:
    """Every place that X0 Y0 could be at."""
    d = c.draft
    end = c.operations[-1].after if c.operations else d.start
    return spots_of(d.known.job, d.setup, d.placed.to_bed, d.known.wood.outline, d.start, end, standing)


def _steps(
    c: Cuts,
    touches: dict[int, TouchOff],
    mark: tuple[float, float],
    seen: tuple[float, float] | None,
    deep: list[Depth],
) -> list[Step]:
    """The steps at the machine; none where nothing is run."""
    if not c.programs:
        return []
    d, job = c.draft, c.draft.known.job
    loads = [
        ProgramLoad(
            p.name,
            p.tool.number,
            " and ".join(p.operations),
            p.seconds / 60.0,
            p.done_as,
            p.first_move,
            _springs(c, p),
            len(p.text),
        )
        for p in c.programs
    ]
    shims = tuple((s.x, s.y, s.height) for s in d.seat.shims if s.height >= THINNEST) if d.seat is not None else ()
    steps = steps_of(
        setup=d.setup, machine=job.machine, tools={p.tool.number: p.tool for p in c.programs}, loads=loads, touches=touches,
        mark=mark, corner=(d.setup.x + d.known.job.blank.box[0], d.setup.y + d.known.job.blank.box[1]), shims=shims, before=d.before, laid=_laid(d), onto_cut=d.on_cut, held_by=kinds_in_words(d.setup.holds, d.known.kinds.holds), careful=job.irreplaceable,
        witness=seen, depths=deep, flattens=d.laid.flattens, settings=[_set(d, h) for h in d.setup.holds], laid_anew=_anew(d), kept_from=_kept_from(d), marks=_marks(d), edge=_edge(d), looks=_looks(d.laid.proving.looks), rings=_rings(c), seen=to_take(d.laid.proving.looks),
    )  # fmt: skip
    return walked(told_of_bits(steps, job, c.operations), [c.on_bed(p).cutting_extents() for p in c.programs])


def _springs(c: Cuts, p: ProgramFile) -> float:
    """How far what a program frees may spring up, mm."""
    frees = any(c.draft.known.kinds.frees(o.kind) for o in c.operations if o.name in p.operations)
    return springs_up(c.draft.known.job) if frees else 0.0


def _anew(d: SetupDraft) -> bool:
    """Whether the board is laid down in this setup, and not left where it lay in the one before."""
    comes = d.setup.comes
    return comes is None or d.previous is None or d.known.kinds.registers[comes.kind].moved


def _edge(d: SetupDraft) -> str:
    """The known edge that a board lies against, by whose place its X0 Y0 is set."""
    comes = d.setup.comes
    return getattr(comes, "fence", "") if comes is not None and d.known.kinds.registers[comes.kind].by_machine else ""


def _marks(d: SetupDraft) -> tuple[MarkToRead, ...]:
    """Marks of the piece that are read, where it is found by them."""
    comes, found = d.laid.setup.comes, d.laid.found
    if not isinstance(comes, ByMarks) or found is None:
        return ()
    return tuple(
        MarkToRead(i, m.name, *m.drawn, m.normal is not None, comes.pin, m.across > 0.0)
        for i, m in zip(found.ids, found.marks)
    )


def _looks(looks: Looked | None) -> tuple[MarkToRead, ...]:
    """Marks that the tip is brought over."""
    if looks is None:
        return ()
    return tuple(MarkToRead(i, m.name, *m.drawn, m.normal is not None, 0.0) for i, m in zip(looks.ids, looks.marks))


def _rings(c: Cuts) -> Rings | None:
    """Rings that are measured once they are cut; nothing where none are."""
    d = c.draft
    ring, drawn = d.setup.ring, ring_art(d.known.job, d.setup)
    cut = next((o.name for o in d.setup.operations if ring is not None and o.id == ring.operation), "")
    program = next((p.name for p in c.programs if cut in p.operations), "")
    if drawn is None or not program:
        return None
    return Rings(program, _looks(d.laid.proving.rings), ring_width(*drawn), to_take(d.laid.proving.rings))


def _kept_from(d: SetupDraft) -> str:
    """The setup by whose zero this one's is set; nothing where it is touched."""
    return d.tied.name if kept_zero(d) and d.tied is not None else ""


def _laid(d: SetupDraft) -> str:
    """What is done with the board, where it comes from the setup before in a way of its own."""
    comes = d.setup.comes
    return (
        d.known.kinds.registers[comes.kind].laid(d.known.job, d.setup)
        if comes is not None and d.previous is not None
        else ""
    )


def _set(d: SetupDraft, hold: Hold) -> Step:
    """A hold, set as drawn, with the one figure that it wants."""
    told = d.known.kinds.holds[hold.kind].setting(hold)
    caution = " ".join(w for w in (ISOLATE if told.isolate else "", told.caution) if w)
    return Step(
        f"set-{hold.name}",
        d.setup.name,
        "tick",
        told.title,
        told.detail,
        caution,
        told.label,
        told.figure,
        place=told.place,
        reach=told.isolate,
    )


def _spreads(journal: Journal, setup: str) -> tuple[tuple[str, float], ...]:
    """How far the newest touches of each axis lay apart, where it was touched more than once."""
    found: dict[str, float] = {}
    for e in journal.this_board():
        if e.kind == "touched" and e.setup == setup and "spread" in e.data:
            found[str(e.data["axis"])] = float(e.data["spread"])
    return tuple((a, found[a]) for a in "xyz" if a in found)


def _lengths(c: Cuts, journal: Journal) -> tuple[tuple[int, float, float | None], ...]:
    """Each tool in the order of its use: number, stickout, and machine Z0 by its newest touch since the board was laid."""
    name = c.draft.setup.name
    touched: dict[int, float] = {}
    for e in journal.this_board():
        if e.kind in ("laid", "homed", "turned"):
            touched = {}
        if e.kind == "touched" and e.setup == name and e.data.get("axis") == "z" and "tool" in e.data:
            touched[int(float(e.data["tool"]))] = float(e.data["machine"])
    tools = {p.tool.number: p.tool for p in c.programs}
    return tuple((n, t.length, touched.get(n)) for n, t in tools.items())


def _depths(c: Cuts) -> tuple[tuple[str, float, float], ...]:
    """How deep each program goes: below the top as it is at the start of the setup, and above the bed."""
    top, out = float(c.draft.start.z.max()), []
    for p in c.programs:
        low = float(c.on_bed(p).points[:, 2].min())
        out.append((" and ".join(p.operations), top - low, low))
    return tuple(out)


def _touched(c: Cuts) -> tuple[tuple[Tool, float], ...]:
    """Tools that touch off, and how high above the spoilboard; of several the first alone where a fixed sensor does the others."""
    tools = list({p.tool.number: p.tool for p in c.programs}.values())
    setup, machine = c.draft.setup, c.draft.known.job.machine
    by_sensor = setup.zero.later == "sensor" and machine.sensor is not None
    height = c.draft.zero_height + setup.zero.gauge_thickness
    return tuple((t, height) for t in (tools[:1] if by_sensor else tools))


def _margin(c: Cuts) -> float:
    """The least margin that is wanted about what is carved here, mm; 0 where nothing asks for one."""
    return min((float(w.figures.margin) for w in c.draft.laid.wanted if hasattr(w.figures, "margin")), default=0.0)


def _flat_allowed(k: PlanInputs) -> float:
    """How much of a height error this job's lettering and class allow, mm; nought where nothing says."""
    return k.surfaced.flatness.allowed.result if k.surfaced.flatness is not None else 0.0


def _touches(
    c: Cuts, standing: tuple[Solid, ...], memory: Memory
) -> tuple[dict[int, TouchOff], list[ToolChange], list[tools_report.Change]]:
    """Where each tool of a setup touches off, and what each change is judged on."""
    setup, z_bed = c.draft.setup, c.draft.setup.zero.z == "bed"
    surface = "bed" if z_bed else "top"
    touches: dict[int, TouchOff] = {}
    changes: list[ToolChange] = []
    judged: list[tools_report.Change] = []
    after = {op.name: op.after for op in c.operations}
    now, now_key = c.draft.start, c.draft.start_key
    to_bed, back = c.draft.placed.to_bed, c.draft.placed.to_bed.inverse()
    covered = [back.area(s.outline.buffer(14.0)) for s in standing]
    for number, program in enumerate(c.programs):
        tool = program.tool
        at = touched_at(c, tool)
        spots: list[touchoff.TouchSpot] = []
        gone = 0.0
        if number > 0 and not z_bed:
            key = (c.draft.start_key, now_key, tuple(covered))
            spots = memory.get("spots", key, _spots(c.draft.start, now, covered), SMALL)
            gone = touchoff.is_top(c.draft.start, now, *back.xy(*at), 6.0)
        chosen = any(t.tool == tool.number for t in setup.touches)
        if number > 0 and tool.number != c.programs[number - 1].tool.number:
            places = tuple((s.x, s.y, *to_bed.xy(s.x, s.y)) for s in spots)
            judged.append(
                tools_report.Change(setup.name, program.operations[0], tool, at, surface, gone, chosen, places)
            )
            changes.append(
                ToolChange(
                    program.operations[0], tool, TouchOff(tool.number, *at, surface, c.draft.zero_height), tuple(spots)
                )
            )
        touches.setdefault(tool.number, TouchOff(tool.number, *at, surface, c.draft.zero_height))
        now, now_key = after[program.operations[-1]], c.keys[program.operations[-1]]
    return touches, changes, judged


def _spots(start: HeightField, now: HeightField, covered: list[Polygon]) -> Callable[[], list[touchoff.TouchSpot]]:
    return lambda: touchoff.spots(start, now, covered)


def _top_grid(k: PlanInputs, memory: Memory) -> tuple[object, object, object] | None:
    """Heights of the top for contours."""
    if not k.wood.top.measured:
        return None
    blank = k.job.blank
    key = (k.wood.heights, k.thickness.mean, blank.box)
    return memory.get("grid", key, lambda: k.wood.top.grid(blank.box, 41), SMALL)


def _top_map(k: PlanInputs, memory: Memory) -> NDArray[np.float32] | None:
    """Heights of the top for pictures, rows from the front."""
    if not k.wood.top.measured:
        return None
    blank = k.job.blank
    key = (k.wood.heights, k.thickness.mean, blank.box)
    return memory.get("map", key, lambda: _mapped(k), SMALL)


def _under_map(d: SetupDraft, memory: Memory) -> NDArray[np.float32] | None:
    """The underside as the board lies in a setup: its own, until it has been cut."""
    if not d.own:
        return None
    job, wood = d.known.job, replace(d.known.wood, seat=d.seat)
    key = (job.blank.under, job.blank.box, wood.seat)
    return memory.get("underside", key, lambda: under_map(job, wood, UNDER), SMALL)


def _mapped(k: PlanInputs) -> NDArray[np.float32]:
    x0, y0, x1, y1 = k.job.blank.box
    step = max(x1 - x0, y1 - y0) / MAP
    x, y = (np.linspace(a, b, max(2, round((b - a) / step))) for a, b in ((x0, x1), (y0, y1)))
    return k.wood.top.over(x, y).astype(np.float32)
