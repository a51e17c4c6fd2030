# SPDX-License-Identifier: GPL-3.0-or-later
"""The plan: wires the rooms as one acyclic graph. Rooms import no other room; only this module knows them all.

entered layout and holds -> paths -> programs -> wood -> findings of every stage -> gates and the next step.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from typing import Any, cast

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry import Point as Spot
from shapely.geometry import Polygon

from gatepost.core.blank import thickness as blank_thickness
from gatepost.core.blank.thickness import Thickness
from gatepost.core.cache import Memory
from gatepost.core.carve import paths as carve_paths
from gatepost.core.carve import report as carve_report
from gatepost.core.carve.lettering import Art, Lettering, lettering
from gatepost.core.findings import Finding, Gate, Level, Report, gate_of
from gatepost.core.frames import Point as FramePoint
from gatepost.core.geometry.outline import Area
from gatepost.core.hold import solids as hold_solids
from gatepost.core.hold.report import kinds_in_words
from gatepost.core.hold.solids import Solid
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job, Plate, Setup, Tool
from gatepost.core.job.turning import other_face
from gatepost.core.motion import Moves, joined, turned_about
from gatepost.core.plan import nextstep
from gatepost.core.plan.blanks import carving_over_flaws, flaws_of, plate_over_flaws, resting_on_flaws
from gatepost.core.plan.blanks import report as blank_report
from gatepost.core.plan.holds import (
    LIFTS,
    Holds,
    Run,
    bears_of,
    bed_place,
    holds_of,
    loads_of,
    on_bed,
    run_of,
    touching_off,
)  # fmt: skip
from gatepost.core.plan.result import Next, Operation, Plan, PlannedSetup, ProgramFile, ToolChange
from gatepost.core.plan.surfaces import Wood, bites, drive_of, moves_of, surfaced, under_map, wood_of, zero_height
from gatepost.core.plan.turned import report_of as second_face
from gatepost.core.plan.turned import thickness as thickness_of
from gatepost.core.plan.turned import turned_job
from gatepost.core.plan.zeros import budget_of, covering, newest_date, spots_of, upright_of
from gatepost.core.program.read import read
from gatepost.core.program.time import move_seconds
from gatepost.core.program.write import Head, barred_text, body_lines, head_lines, write
from gatepost.core.run.steps import Load, Touch, steps_of
from gatepost.core.surface import advice
from gatepost.core.surface import report as surface_report
from gatepost.core.surface.report import Surfaced
from gatepost.core.surface.seat import THINNEST
from gatepost.core.tolerances import SAFE_TRAVEL, THROUGH_EXTRA
from gatepost.core.tools import forces, order, touchoff
from gatepost.core.tools import report as tools_report
from gatepost.core.units import spell
from gatepost.core.wood import loose
from gatepost.core.wood import report as wood_report
from gatepost.core.wood.field import Cutter, HeightField, board, cut
from gatepost.core.wood.loose import Cutting
from gatepost.core.working import Working
from gatepost.core.zero import datum as zeros
from gatepost.core.zero import report as zero_report
from gatepost.core.zero.trust import trust

ROUGHLY, COARSER = 60_000, 12.0  # cells of a first look, and how much less finely its outlines are followed
CELLS = 1_200_000  # of a plan's height field; finer is asked for by name
MOST_REMEMBERED = 60e6  # bytes of height fields of one kind
SMALL = 400  # results to remember where each is small


@dataclass(frozen=True)
class _Known:
    """What is known before any setup is planned."""

    job: Job
    fingerprint: str
    thickness: Thickness
    wood: Wood
    lettering: Lettering
    lettering_key: Hashable
    surfaced: Surfaced
    cell: float
    coarse: bool


@dataclass(frozen=True)
class _Draft:
    """A setup before its programs are written: where it lies, its zeros and its operations' moves in blank frame.

    known: what is known of the board as it lies there; rounds: of a cut-out that is left out, being more than can be worked
    out, else nought.
    """

    known: _Known
    setup: Setup
    datum: tuple[float, float]
    zero_height: float
    start: HeightField
    start_key: str
    travel: float
    raw: tuple[tuple[str, str, Tool, Moves, Working, float, Art | None], ...]
    rounds: int = 0


def fingerprint(job: Job) -> str:
    """Twelve hex digits of all that decides the programs: not the name, the unit shown or what was accepted."""
    bed: Any = {"bed": {"scars": True, "skimmed": True, "blocks": True}, "taken": True}
    data = job.model_dump_json(exclude={"name": True, "unit": True, "accepted": True, "holding": True, "machine": bed})
    return hashlib.sha256(data.encode()).hexdigest()[:12]


def cutter_of(tool: Tool) -> Cutter:
    """What of a tool removes wood."""
    return Cutter(tool.kind, tool.diameter, tool.angle, tool.tip)


def field_cell(length: float, width: float, cells: int = CELLS) -> float:
    """A round cell size that keeps a board within a number of cells, mm."""
    exact = math.sqrt(length * width / cells)
    return next((c for c in (0.05, 0.1, 0.2, 0.25, 0.4, 0.5, 0.8, 1.0, 2.0) if c >= exact), 4.0)


def plan(
    job: Job, journal: Journal | None = None, memory: Memory | None = None, cell: float | None = None,
    coarse: bool = False,
) -> Plan:  # fmt: skip
    """Reckon everything. memory: keeps parts whose inputs did not change; cell: of the height fields, mm.

    coarse: a first look, with outlines and wood followed less finely; good for a picture and for most findings, and
    marked so that nothing is run from it.
    """
    journal = journal or Journal()
    memory = memory or Memory()
    known = _known(
        job, memory, cell or field_cell(job.blank.length, job.blank.width, ROUGHLY if coarse else CELLS), coarse
    )
    drafts = _drafts(known, journal, memory)
    tasks = _tasks(known, drafts)
    change = job.machine.change_minutes + job.machine.touch_minutes
    best = order.best_order(tasks, change)
    asked = tuple(n for n in job.order if any(t.name == n for t in tasks))
    broken = order.broken_rule(tasks, asked) if asked else ""
    chosen = order.cost(tasks, asked, change) if asked and not broken else best
    cuts = [_cut(d.known, d, chosen.names, memory) for d in drafts]
    findings, built = _judge(known, cuts, journal, memory, chosen, best, broken)
    return _finish(known, journal, built, findings, chosen)


# -- what is known first ---------------------------------------------------------------------------------


def _known(job: Job, memory: Memory, cell: float, coarse: bool) -> _Known:
    thick = blank_thickness.thickness(job.blank)
    wood = wood_of(job, thick.mean, memory)
    v_tool = next((t for t in job.tools if t.number == job.carving.tool), None)
    letters, key = Lettering((), (), Art((), True), False), cast(Hashable, ())
    if v_tool is not None and v_tool.kind == "vee" and 0 < v_tool.angle < 180:
        key = (job.carving.lines, job.carving.x, job.carving.y, job.carving.leading, v_tool.angle, v_tool.tip, coarse)
        times = COARSER if coarse else 1.0
        letters = memory.get("lettering", key, lambda: lettering(job.carving, v_tool, times))
    flat = surfaced(job, wood, letters, v_tool, memory)
    return _Known(job, fingerprint(job), thick, wood, letters, key, flat, cell, coarse)


# -- setups and their moves --------------------------------------------------------------------------------


def _drafts(k: _Known, journal: Journal, memory: Memory) -> list[_Draft]:
    blank = k.job.blank
    made_of = (blank.shape, blank.length, blank.width, blank.outline, k.wood.heights, k.thickness.mean, k.cell)
    heavy = _heavy(blank.length * blank.width / k.cell**2)
    outline = None if blank.shape == "rectangle" else k.wood.outline
    start = memory.get(
        "field", made_of, lambda: board(blank.length, blank.width, k.cell, k.wood.top.over, outline), heavy
    )
    key = _digest(repr(made_of).encode())
    drafts: list[_Draft] = []
    plane: float | None = None
    if k.surfaced.needed and k.surfaced.lines:
        draft = _draft_surface(k, start, key)
        drafts.append(draft)
        plane = k.surfaced.plane
    if plane is not None:
        rough, cut_to = start, plane
        key = _digest(f"{key} cut to {plane!r}".encode())
        start = memory.get("surfaced", key, lambda: _surfaced_field(rough, cut_to), heavy)
        back = other_face(k.job)
        if back is not None:
            draft = _draft_back(k, back, plane, memory)
            drafts.append(draft)
            one, plane = start, thickness_of(draft.known.surfaced.plane, journal).used
            both, key = plane, _digest(f"{key} then {plane!r}".encode())
            start = memory.get("surfaced", key, lambda: _surfaced_field(one, both), heavy)
    drafts.append(_draft_front(k, start, key, plane, memory))
    return drafts


def _heavy(cells: float) -> int:
    """How many fields of a size to remember: what memory allows, and at least a plan's own."""
    return int(min(8.0, max(3.0, MOST_REMEMBERED / (4.0 * cells))))


def _digest(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def _home(k: _Known, setup: Setup, tool: Tool) -> tuple[float, float, float]:
    """Where a program is reached from: over the touch place at the top of the travel; blank XY, height above the bed."""
    spot = zeros.touch_place(setup.zero, k.job.blank)
    return (spot.x, spot.y, k.job.machine.nose_at_home - tool.length)


def _travel(k: _Known, setup: Setup, top: float) -> float:
    """Rapid height: over the wood and over everything that stands on the bed."""
    bed = k.job.machine.bed
    tops = [s.top for h in setup.holds for s in hold_solids.solids(h, top, bed)]
    tops += [s.top for s in hold_solids.bed_solids(bed, setup)]
    return max([top, *tops]) + SAFE_TRAVEL


def _draft_back(k: _Known, back: Setup, plane: float, memory: Memory) -> _Draft:
    """The second face: the board turned onto its cut face, surfaced as a board of its own."""
    job = turned_job(k.job, back, plane, k.wood.seat)
    wood = wood_of(job, k.thickness.mean, memory)
    flat = replace(surfaced(job, wood, k.lettering, None, memory), other_face=True)
    known = replace(k, job=job, wood=wood, surfaced=flat)
    made_of = ("back", job.blank.shape, job.blank.outline, job.blank.length, job.blank.width, wood.heights, k.cell)
    outline = None if job.blank.shape == "rectangle" else wood.outline
    heavy = _heavy(job.blank.length * job.blank.width / k.cell**2)
    start = memory.get(
        "field", made_of, lambda: board(job.blank.length, job.blank.width, k.cell, wood.top.over, outline), heavy
    )
    draft = _draft_surface(known, start, _digest(repr(made_of).encode()))
    return replace(draft, setup=back, raw=tuple(("surfacing back", *r[1:]) for r in draft.raw))


def _draft_surface(k: _Known, start: HeightField, key: str) -> _Draft:
    job, setup = k.job, k.job.setup("surface")
    tool = job.tool(job.surfacing.tool)
    travel = _travel(k, setup, k.wood.extremes.highest[2])
    moves = moves_of(k.surfaced, tool, travel, _home(k, setup, tool))
    step = tool.diameter * job.surfacing.stepover
    push = forces.push(tool, job.wood, step, max(bites(k.wood.extremes, k.surfaced.heights)))
    mark = zeros.datum(setup.zero, job.blank)
    raw = (("surfacing", "surface", tool, moves, push, forces.peak_factor(step, tool), None),)
    return _Draft(k, setup, mark.xy, zero_height(job, setup, k.wood.top), start, key, travel, raw)


def _draft_front(k: _Known, start: HeightField, key: str, plane: float | None, memory: Memory) -> _Draft:
    job, setup = k.job, k.job.setup("front")
    mark = zeros.datum(setup.zero, job.blank)
    height = plane if plane is not None else _top_at(k, setup)
    highest = plane if plane is not None else k.wood.extremes.highest[2]
    travel = _travel(k, setup, highest)
    raw: list[tuple[str, str, Tool, Moves, Working, float, Art | None]] = []
    if k.lettering.runs:
        tool = job.tool(job.carving.tool)
        over, home, runs = highest + SAFE_TRAVEL, _home(k, setup, tool), k.lettering.runs
        moves = memory.get(
            "lettering moves", (k.lettering_key, tool, height, over, home),
            lambda: carve_paths.v_moves(runs, tool, height, over, home),
        )  # fmt: skip
        deepest = height - float(moves.points[:, 2].min())
        raw.append(
            ("lettering", "vcut", tool, moves, forces.v_push(tool, job.wood, max(deepest, 0.1)), 1.3, k.lettering.art)
        )
    plate = job.carving.plate
    mill = next((t for t in job.tools if plate is not None and t.number == plate.tool and t.kind != "vee"), None)
    rounds = carve_paths.cutout_passes(highest, _cut_to(plate), mill.pass_depth) if plate and mill else 0
    if plate is not None and mill is not None and rounds <= carve_paths.MOST_PASSES:
        tool = cutting = mill
        home = _home(k, setup, cutting)
        moves = memory.get(
            "cut-out moves", (plate, cutting, highest, travel, home),
            lambda: carve_paths.cutout_moves(plate, cutting, highest, _cut_to(plate), travel, home),
        )  # fmt: skip
        raw.append(
            ("cut-out", "cutout", tool, moves, forces.push(tool, job.wood, tool.diameter, tool.pass_depth), 1.3, None)
        )
    zero = 0.0 if setup.zero.z == "bed" else height
    left_out = rounds if rounds > carve_paths.MOST_PASSES else 0
    return _Draft(k, setup, mark.xy, zero, start, key, travel, tuple(raw), left_out)


def _surfaced_field(start: HeightField, plane: float) -> HeightField:
    z = start.z.copy()
    np.minimum(z, np.float32(plane), out=z, where=start.wood)
    return replace(start, z=z)


def _top_at(k: _Known, setup: Setup) -> float:
    spot = zeros.touch_place(setup.zero, k.job.blank)
    if setup.zero.z == "bed":  # nothing is touched on the top: letters are cut to it where they stand
        spot = FramePoint(k.job.carving.x, k.job.carving.y)
    return float(k.wood.top.at(np.array([spot.x]), np.array([spot.y]))[0])


def _tasks(k: _Known, drafts: list[_Draft]) -> list[order.Task]:
    drive = drive_of(k.job)
    tasks: list[order.Task] = []
    for number, draft in enumerate(drafts):
        for name, kind, tool, moves, *_ in draft.raw:
            after = tuple(n for n, other, *_ in draft.raw if kind == "cutout" and other != "cutout")
            tasks.append(order.Task(name, number, tool.number, float(move_seconds(moves, drive).sum()) / 60.0, after))
    return tasks


# -- programs and the wood ---------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Cuts:
    """A setup with programs read back and the wood after each operation, and what the removal model said."""

    draft: _Draft
    operations: tuple[Operation, ...]
    programs: tuple[ProgramFile, ...]
    said: tuple[Finding, ...]
    keys: dict[str, str]
    pieces: tuple[loose.Standing, ...] = ()


def _grouped(names: list[str], tools: dict[str, int]) -> list[list[str]]:
    groups: list[list[str]] = []
    for name in names:
        if groups and tools[groups[-1][-1]] == tools[name]:
            groups[-1].append(name)
        else:
            groups.append([name])
    return groups


def _cut(k: _Known, draft: _Draft, names: tuple[str, ...], memory: Memory) -> _Cuts:
    by_name = {raw[0]: raw for raw in draft.raw}
    mine = [n for n in names if n in by_name]
    operations: list[Operation] = []
    programs: list[ProgramFile] = []
    said: list[Finding] = []
    keys: dict[str, str] = {}
    pieces: list[loose.Standing] = []
    wood, key = draft.start, draft.start_key
    for number, group in enumerate(_grouped(mine, {n: r[2].number for n, r in by_name.items()}), start=1):
        program, parts = _program(k, draft, group, number, by_name, memory)
        programs.append(program)
        for name, moves in zip(group, parts):
            key = _digest(f"{key} {cutter_of(by_name[name][2])}".encode() + moves.points.tobytes())
            operation, found = _swept(k, draft, by_name[name], moves, wood, key, memory)
            operations.append(operation)
            keys[name] = key
            said += found
            pieces += loose.standing(
                operation.after, _apart(operation, key, memory), _bears(k, draft.setup, memory), name
            )
            wood = operation.after
    return _Cuts(draft, tuple(operations), tuple(programs), tuple(said), keys, tuple(pieces))


def _program(
    k: _Known,
    draft: _Draft,
    group: list[str],
    number: int,
    by_name: dict[str, tuple[str, str, Tool, Moves, Working, float, Art | None]],
    memory: Memory,
) -> tuple[ProgramFile, list[Moves]]:
    """Write a group's program, read it back, and cut the moves as read into its operations again (blank frame)."""
    tool = by_name[group[0]][2]
    shift = (-draft.datum[0], -draft.datum[1], -draft.zero_height)
    moves = [by_name[n][3] for n in group]
    skew = draft.setup.skew
    whole = joined(moves).moved(*shift).turned(skew)
    home = np.array([_home(k, draft.setup, tool)]) + np.array([shift])
    x, y, z = (float(v) for v in turned_about(home, skew)[0]) if skew else (float(v) for v in home[0])
    work_home = (x, y, z)
    zero = f"X0 Y0 at {draft.setup.zero.xy}, Z0 on the {draft.setup.zero.z}"
    head, dialect = Head(k.job.name, draft.setup.name, tool, zero, k.fingerprint), k.job.machine.dialect
    before = len(head_lines(head, dialect))
    body = memory.get(
        "program", (_moves_digest(whole), dialect, before), lambda: body_lines(whole, dialect, before), SMALL
    )
    text = write(whole, head, dialect, body)
    back = read(text, home=work_home)
    seconds = move_seconds(back.moves, drive_of(k.job))
    name = f"{draft.setup.name}-{number}-T{tool.number}.nc"
    program = ProgramFile(
        name, draft.setup.name, tool, tuple(group), text, back.moves, tuple(int(v) for v in back.line),
        float(seconds.sum()) + k.job.machine.dialect.spin_up, tuple(float(v) for v in seconds),
    )  # fmt: skip
    read_back = back.moves.turned(-skew).moved(-shift[0], -shift[1], -shift[2])
    return program, _split(read_back, moves)


def _moves_digest(moves: Moves) -> str:
    return _digest(moves.points.tobytes() + moves.rapid.tobytes() + moves.feed.tobytes())


def _split(whole: Moves, parts: list[Moves]) -> list[Moves]:
    """Moves as read, shared out to the operations they came from; what joins them goes with the later one."""
    if len(parts) == 1:
        return [whole]
    out: list[Moves] = []
    at = 0
    for number, part in enumerate(parts):
        count = len(part) + (0 if number == 0 or np.array_equal(parts[number - 1].points[-1], part.points[0]) else 1)
        end = len(whole) if number == len(parts) - 1 else at + count
        out.append(Moves(whole.points[at : end + 1].copy(), whole.rapid[at:end].copy(), whole.feed[at:end].copy()))
        at = end
    return out


def _swept(
    k: _Known,
    draft: _Draft,
    raw: tuple[str, str, Tool, Moves, Working, float, Art | None],
    moves: Moves,
    wood: HeightField,
    key: str,
    memory: Memory,
) -> tuple[Operation, list[Finding]]:
    """key: tells the wood after it, by all that it comes from."""
    name, kind, tool, _, push, peak, art = raw
    swept = memory.get("wood", key, lambda: cut(wood, moves, cutter_of(tool)), _heavy(wood.z.size))
    seconds = float(move_seconds(moves, drive_of(k.job)).sum())
    operation = Operation(name, kind, tool, draft.setup.name, moves, seconds, push.result, peak, swept.after, art)
    found = wood_report.rapid_hits(moves, swept, draft.setup.name, name)
    return operation, found + _wood_findings(k, draft, operation, wood, key, memory)


def _wood_findings(
    k: _Known, draft: _Draft, op: Operation, before: HeightField, key: str, memory: Memory
) -> list[Finding]:
    setup, plate = draft.setup, k.job.carving.plate
    said: list[Finding] = []
    if op.kind == "surface":
        plane = k.surfaced.plane
        return memory.get(
            "left", (key, plane, setup.name), lambda: wood_report.left_standing(op.after, plane, setup.name), SMALL
        )
    slack = op.after.cell * 1.5
    if op.kind == "vcut":
        outlines = [letter.outline() for letter in k.lettering.letters]
        said += memory.get(
            "gouges", (key, k.lettering_key, setup.name, op.name),
            lambda: wood_report.gouges(
                before, op.after, shapely.union_all(outlines).buffer(slack), 0.0, setup.name, op.name
            ), SMALL,
        )  # fmt: skip
    if op.kind == "cutout" and plate is not None:
        slot = carve_paths.plate_outline(plate, op.tool.diameter + plate.allowance + slack).difference(
            carve_paths.plate_outline(plate, -slack)
        )
        said += memory.get(
            "gouges", (key, plate, setup.name, op.name),
            lambda: wood_report.gouges(before, op.after, slot, _cut_to(plate), setup.name, op.name), SMALL,
        )  # fmt: skip
    pieces, bears = _apart(op, key, memory), _bears(k, setup, memory)
    up = op.tool.spiral in LIFTS
    tabbed = op.kind == "cutout" and plate is not None
    hung = tabbed and plate is not None and plate.tabs > 0 and plate.skin <= 0.0
    cutting = Cutting(setup.name, op.name, op.push, op.push * op.peak, up, tabbed, hung)
    offset, rules = (setup.x, setup.y), k.job.holding
    said += loose.loose(op.after, pieces, bears, cutting, offset, rules.tab_shear, rules.skin)
    if op.kind == "cutout":
        said += memory.get(
            "slivers", (loose.solid_key(before, op.after), before.z.shape, before.cell, cutting, offset),
            lambda: loose.slivers(before, op.after, cutting, offset), SMALL,
        )  # fmt: skip
    return said


def _cut_to(plate: Plate) -> float:
    """How deep a cut-out goes: a little into the spoilboard, or down to the skin that is left."""
    return plate.skin if plate.skin > 0.0 else -THROUGH_EXTRA


def _apart(op: Operation, key: str, memory: Memory) -> loose.Separate:
    return memory.get("pieces", key, lambda: loose.separate(op.after), _heavy(op.after.z.size))


def _bears(k: _Known, setup: Setup, memory: Memory) -> list[loose.Bears]:
    """Where each hold has the blank in its grip."""
    blank = k.job.blank
    key = (
        setup.holds,
        setup.x,
        setup.y,
        setup.skew,
        setup.zero,
        k.job.holding,
        blank.shape,
        blank.length,
        blank.width,
        blank.outline,
    )
    return memory.get("bears", key, lambda: bears_of(k.job, setup, on_bed(k.job, setup, k.wood.outline)), SMALL)


# -- judging ------------------------------------------------------------------------------------------------


def _judge(
    k: _Known, cuts: list[_Cuts], journal: Journal, memory: Memory, chosen: order.Order, best: order.Order, broken: str
) -> tuple[dict[tuple[str, str], Report], list[PlannedSetup]]:
    reports: dict[tuple[str, str], Report] = {}
    built: list[PlannedSetup] = []
    changes: list[tools_report.Change] = []
    holds: dict[tuple[str, str], Report] = {}
    marks: dict[tuple[str, str], Report] = {}
    flaws = flaws_of(k.job, k.thickness, k.wood, k.surfaced)
    for c in cuts:
        here = c.draft.known
        done = _holds(here, c, journal, memory, c.draft.setup.name != "back" and not (c is cuts[-1] and len(cuts) > 2))
        hold, standing = done.report, done.standing
        if c.draft.setup.name in ("surface", "back"):
            hold = _with(hold, advice.holding(c.draft.setup.holds, c.draft.setup.name, here.surfaced.plane))
        if c.draft.setup.name != "back":
            hold = _with(hold, resting_on_flaws(c.draft.setup, _pads(c.draft.setup), flaws))
        planned, zero, judged = _planned(here, c, journal, standing, memory)
        planned = replace(
            planned, pieces=c.pieces, margins=done.margins, gaps=done.gaps, span=done.span, unreached=done.unreached
        )
        holds[("hold", c.draft.setup.name)] = hold
        marks[("zero", c.draft.setup.name)] = zero
        changes += judged
        built.append(planned)
    said = [f for c in cuts for f in c.said]
    v_tool = next((t for t in k.job.tools if t.number == k.job.carving.tool), None)
    said += plate_over_flaws(k.job, flaws)
    if flaws and v_tool is not None:
        front = cuts[-1].draft
        said += carving_over_flaws(
            k.lettering.letters,
            v_tool,
            flaws,
            front.setup,
            float(front.start.z.max()),
        )
    reports[("blank", "")] = blank_report(k.job, k.thickness, k.wood, k.surfaced, flaws)
    reports[("surface", "")] = _surface_report(k, "surface", cuts, said)
    second = next((c.draft.known for c in cuts if c.draft.setup.name == "back"), None)
    if second is not None:
        mine = _surface_report(second, "back", cuts, said)
        figures, more = second_face(k.job, k.surfaced, second.surfaced, thickness_of(second.surfaced.plane, journal))
        reports[("surface", "back")] = _with(replace(mine, figures=(*figures, *mine.figures)), more)
    reports.update(holds)
    reports.update(marks)
    reports[("register", "")] = _not_built("register")
    reports[("carve", "")] = _carve_report(k, cuts, said)
    used = tuple({op.tool.number: op.tool for c in cuts for op in c.operations}.values())
    tooled = tools_report.Tooled(chosen, best, broken, tuple(changes), used, k.job.machine)
    reports[("tools", "")] = tools_report.report(tooled)
    return reports, built


def _with(report: Report, more: list[Finding]) -> Report:
    """A report with more findings, its gate told again."""
    if not more:
        return report
    findings = report.findings + tuple(more)
    return replace(report, findings=findings, gate=gate_of(findings))


def _pads(setup: Setup) -> list[tuple[str, Polygon]]:
    """Where each hold bears, on the bed."""
    return [
        (h.name, hold_solids.bearing(h, Polygon())) for h in setup.holds if h.kind not in (*hold_solids.FLAT, "nest")
    ]


def _not_built(stage: str) -> Report:
    turning = "Register is not built yet: turning the wood over and registering finished parts come later."
    coats = "Finish is not built yet: coats, colour and waiting times come later."
    said = {
        "register": Finding("register.not-built", Level.NOTE, stage, turning),
        "finish": Finding("finish.not-built", Level.NOTE, stage, coats),
    }[stage]
    return Report(
        stage,
        "not built yet",
        "not built yet",
        (),
        (said,),
        Gate.NOT_BUILT,
    )


def _surface_report(k: _Known, setup: str, cuts: list[_Cuts], said: list[Finding]) -> Report:
    tool = next((t for t in k.job.tools if t.number == k.job.surfacing.tool), None)
    if tool is None:
        message = f"Tool {k.job.surfacing.tool} is not in the table."
        finding = Finding("surface.no-tool", Level.STOP, "surface", message)
        return Report("surface", "no tool", "", (), (finding,), Gate.SHUT)
    mine = [c for c in cuts if c.draft.setup.name == setup]
    seconds = sum(op.seconds for c in mine for op in c.operations if op.kind == "surface")
    done = replace(k.surfaced, seconds=seconds, other_face=len(cuts) > 2)
    report = surface_report.report(k.job.surfacing, tool, k.job.blank, done)
    if setup == "back":
        report = replace(
            report, findings=tuple(replace(f, setup="back") for f in report.findings if f.code not in FIRST_ONLY)
        )
    return _with(report, [f for f in said if f.stage == "surface" and f.setup in ("", setup)])


def _surely(k: _Known) -> Area:
    """The board where there is wood for certain: its outline less its ±."""
    inner = k.wood.outline.buffer(-k.job.blank.doubt) if k.job.blank.doubt else k.wood.outline
    return k.wood.outline if inner.is_empty else inner


def _carve_report(k: _Known, cuts: list[_Cuts], said: list[Finding]) -> Report:
    front = cuts[-1]
    v_tool = next((t for t in k.job.tools if t.number == k.job.carving.tool), None)
    if v_tool is None:
        finding = Finding("carve.no-tool", Level.STOP, "carve", f"Tool {k.job.carving.tool} is not in the table.")
        return Report("carve", "no tool", "", (), (finding,), Gate.SHUT)
    thick = float(front.draft.start.z.max())
    highest = (
        k.surfaced.plane if len(cuts) > 1 else k.wood.extremes.highest[2]
    )  # how far the face stands over its rough
    error = max(0.0, highest - k.wood.extremes.lowest[2])
    peak = max((op.push * op.peak for op in front.operations if op.kind == "cutout"), default=0.0)
    minutes = sum(op.seconds for op in front.operations) / 60.0
    carved = carve_report.Carved(
        k.job.carving, _surely(k), front.draft.setup, v_tool, k.job.tools, k.lettering, thick, error, peak, minutes,
        front.draft.rounds,
    )  # fmt: skip
    report = carve_report.report(carved)
    return _with(report, [f for f in said if f.stage == "carve"])


def _on_bed(c: _Cuts, program: ProgramFile) -> Moves:
    """A program's moves on the bed."""
    d = c.draft
    return program.moves.moved(d.datum[0] + d.setup.x, d.datum[1] + d.setup.y, d.zero_height)


def _holds(k: _Known, c: _Cuts, journal: Journal, memory: Memory, first: bool) -> Holds:
    """What holds a setup, judged. first: whether the board lies on its own underside there."""
    setup, job = c.draft.setup, k.job
    work = on_bed(job, setup, k.wood.outline)
    runs = [run_of(job, p, _on_bed(c, p)) for p in c.programs]
    runs += [_touching_off(k, c, tool) for tool in {p.tool.number: p.tool for p in c.programs}.values()]
    weight = k.wood.outline.area * k.thickness.mean * job.wood.density * 1e-9 * 9.81
    loads = loads_of(job, setup, c.operations, {r[0]: r[4] for r in c.draft.raw})
    return holds_of(job, setup, first, work, c.draft.start, weight, loads, runs, journal, memory, k.coarse)


def _touching_off(k: _Known, c: _Cuts, tool: Tool) -> Run:
    """The way down to where a tool touches off, and up again, as holding sees it."""
    setup = c.draft.setup
    chosen = next((t for t in setup.touches if t.tool == tool.number), None)
    x, y = (chosen.x + setup.x, chosen.y + setup.y) if chosen else _first_touch(k, c)
    return touching_off(k.job.machine, tool, x, y, c.draft.zero_height + setup.zero.gauge_thickness)


def _first_touch(k: _Known, c: _Cuts) -> tuple[float, float]:
    """Where Z is touched first, bed XY: for Z on the bed with nothing chosen, beside the board to its left."""
    setup = c.draft.setup
    if setup.zero.z == "bed" and setup.zero.touch_x is None:
        return (setup.x - 40.0, setup.y + k.job.blank.width / 2.0)
    spot = zeros.touch_place(setup.zero, k.job.blank)
    return (spot.x + setup.x, spot.y + setup.y)


def _planned(
    k: _Known, c: _Cuts, journal: Journal, standing: tuple[Solid, ...], memory: Memory
) -> tuple[PlannedSetup, Report, list[tools_report.Change]]:
    job, d = k.job, c.draft
    setup = d.setup
    first = _first_touch(k, c)
    touches, changes, judged = _touches(k, c, standing, first, memory)
    mark = (d.datum[0] + setup.x, d.datum[1] + setup.y)
    first_tool = c.programs[0].tool if c.programs else job.tools[0] if job.tools else None
    work = zeros.work_to_bed(setup, job.blank, d.zero_height)
    expected = zeros.machine_zero(job.machine, first_tool.length if first_tool else 40.0, work)
    misfits = tuple(
        (p.name, m) for p in c.programs for m in zeros.travel_misfits(_on_bed(c, p), job.machine, p.tool.length)
    )
    axes = trust(journal.standing(), setup.name, setup.zero.z == "bed")
    on_board = bool(k.wood.outline.intersects(Spot(first[0] - setup.x, first[1] - setup.y)))
    judge = zero_report.Zeroed(
        setup, job.machine, mark, first, d.zero_height, expected, misfits, covering(standing, mark, 4.0, float(d.start.z.max())),
        covering(standing, first, 12.0, 0.0 if setup.zero.z == "bed" else float(d.start.z.max())), on_board, axes,
        spots_of(job, setup, k.wood.outline, d.start, c.operations[-1].after if c.operations else d.start, standing),
        upright_of(job, setup, k.thickness.greatest - k.thickness.least, c.operations), budget_of(job, setup),
        job.carving.margin, _flat_allowed(k), newest_date(journal),
    )  # fmt: skip
    loads = [Load(p.name, p.tool.number, " and ".join(p.operations), p.seconds / 60.0) for p in c.programs]
    tools = {p.tool.number: p.tool for p in c.programs}
    seat = k.wood.seat if setup.name == ("surface" if k.surfaced.needed else "front") else None
    shims = tuple((s.x, s.y, s.height) for s in seat.shims if s.height >= THINNEST) if seat is not None else ()
    turned = _turned(k, setup)
    steps = (
        steps_of(
            setup,
            job.machine,
            tools,
            loads,
            touches,
            mark,
            shims,
            turned,
            kinds_in_words(setup.holds),
            job.irreplaceable,
            _witness(job, setup),
        )
        if c.programs
        else []
    )
    planned = PlannedSetup(
        setup,
        d.datum,
        d.zero_height,
        d.travel,
        d.start,
        c.operations,
        c.programs,
        tuple(changes),
        touches,
        standing,
        tuple(steps),
        axes,
        job.blank,
        k.surfaced,
        k.wood.extremes if k.wood.top.measured else None,
        _top_grid(k, memory),
        _top_map(k, memory),
        k.wood.seat is not None,
        _under_map(k, setup, memory),
    )
    return planned, zero_report.report(judge), judged


def _witness(job: Job, setup: Setup) -> tuple[float, float] | None:
    """Where the witness mark is, bed XY."""
    zero = setup.zero
    if zero.witness_x is None or zero.witness_y is None:
        return None
    return bed_place(job, setup, zero.witness_x, zero.witness_y)


def _flat_allowed(k: _Known) -> float:
    """How much of a height error this job's lettering and class allow, mm; nought where nothing says."""
    return k.surfaced.flatness.allowed.result if k.surfaced.flatness is not None else 0.0


def _touches(
    k: _Known, c: _Cuts, standing: tuple[Solid, ...], first: tuple[float, float], memory: Memory
) -> tuple[dict[int, Touch], list[ToolChange], list[tools_report.Change]]:
    """Where each tool of a setup touches off, and what each change is judged on."""
    setup, z_bed = c.draft.setup, c.draft.setup.zero.z == "bed"
    surface = "bed" if z_bed else "top"
    touches: dict[int, Touch] = {}
    changes: list[ToolChange] = []
    judged: list[tools_report.Change] = []
    after = {op.name: op.after for op in c.operations}
    now, now_key = c.draft.start, c.draft.start_key
    covered = [affinity.translate(s.outline.buffer(14.0), -setup.x, -setup.y) for s in standing]
    for number, program in enumerate(c.programs):
        tool = program.tool
        chosen = next((t for t in setup.touches if t.tool == tool.number), None)
        at = (chosen.x + setup.x, chosen.y + setup.y) if chosen else first
        spots: list[touchoff.TouchSpot] = []
        gone = 0.0
        if number > 0 and not z_bed:
            key = (c.draft.start_key, now_key, tuple(covered))
            spots = memory.get("spots", key, _spots(c.draft.start, now, covered), SMALL)
            gone = touchoff.is_top(c.draft.start, now, at[0] - setup.x, at[1] - setup.y, 6.0)
        if number > 0 and tool.number != c.programs[number - 1].tool.number:
            places = tuple((s.x, s.y, s.x + setup.x, s.y + setup.y) for s in spots)
            judged.append(
                tools_report.Change(
                    setup.name, program.operations[0], tool, at, surface, gone, chosen is not None, places
                )
            )
            changes.append(
                ToolChange(
                    program.operations[0], tool, Touch(tool.number, *at, surface, c.draft.zero_height), tuple(spots)
                )
            )
        touches.setdefault(tool.number, Touch(tool.number, *at, surface, c.draft.zero_height))
        now, now_key = after[program.operations[-1]], c.keys[program.operations[-1]]
    return touches, changes, judged


def _spots(start: HeightField, now: HeightField, covered: list[Polygon]) -> Callable[[], list[touchoff.TouchSpot]]:
    return lambda: touchoff.spots(start, now, covered)


FIRST_ONLY = ("surface.no-lettering", "surface.seat", "surface.either-first")  # said of the first face alone
UNDER = (41, 121)  # rows and columns of a picture of the underside
MAP = 240  # places along the longer side of a picture of the top


def _turned(k: _Known, setup: Setup) -> str:
    """How the board is turned before a setup, or nothing: onto its cut face, and back again for what follows."""
    back = other_face(k.job) or (setup if setup.name == "back" else None)
    return back.turn if back is not None and k.surfaced.needed and setup.name != "surface" else ""


def _top_grid(k: _Known, memory: Memory) -> tuple[object, object, object] | None:
    """Heights of the top for contours."""
    if not k.wood.top.measured:
        return None
    blank = k.job.blank
    key = (k.wood.heights, k.thickness.mean, blank.length, blank.width)
    return memory.get("grid", key, lambda: k.wood.top.grid(blank.length, blank.width, 41), SMALL)


def _top_map(k: _Known, memory: Memory) -> NDArray[np.float32] | None:
    """Heights of the top for pictures, rows from the front."""
    if not k.wood.top.measured:
        return None
    blank = k.job.blank
    key = (k.wood.heights, k.thickness.mean, blank.length, blank.width)
    return memory.get("map", key, lambda: _mapped(k), SMALL)


def _under_map(k: _Known, setup: Setup, memory: Memory) -> NDArray[np.float32] | None:
    """The underside as the board lies in a setup: its own, until it has been cut."""
    if setup.name == "back" or (setup.name == "front" and other_face(k.job) is not None):
        return None
    wood = k.wood if setup.name == "surface" or not k.surfaced.needed else replace(k.wood, seat=None)
    key = (k.job.blank.under, k.job.blank.length, k.job.blank.width, wood.seat)
    return memory.get("underside", key, lambda: under_map(k.job, wood, UNDER), SMALL)


def _mapped(k: _Known) -> NDArray[np.float32]:
    length, width = k.job.blank.length, k.job.blank.width
    step = max(length, width) / MAP
    x, y = (np.linspace(0.0, s, max(2, round(s / step))) for s in (length, width))
    return k.wood.top.over(x, y).astype(np.float32)


def _finish(
    k: _Known, journal: Journal, built: list[PlannedSetup], reports: dict[tuple[str, str], Report], chosen: order.Order
) -> Plan:
    reports = nextstep.with_acceptances(reports, k.job)
    reports[("run", "")] = nextstep.run_report(reports, built, journal)
    reports[("finish", "")] = _not_built("finish")
    reports[("log", "")] = Report("log", "", "what was run, and how it went")
    stops = [f for r in reports.values() for f in r.findings if f.level is Level.STOP]
    if stops:
        built = [replace(p, programs=tuple(_barred(k, q, stops[0].message) for q in p.programs)) for p in built]
    next_: Next = nextstep.next_step(k.job, reports, built, journal)
    return Plan(
        k.job, k.fingerprint, k.thickness, k.wood.extremes if k.wood.top.measured else None, k.surfaced, k.lettering, chosen, tuple(built),
        reports, nextstep.questions(reports), next_, k.coarse,
    )  # fmt: skip


def _barred(k: _Known, program: ProgramFile, reason: str) -> ProgramFile:
    """The program with why it is not to be run as its first comment; lines move down by one."""
    text = barred_text(program.text, spell(reason, k.job.unit), k.job.machine.dialect)
    return replace(program, text=text, line=tuple(n + 1 for n in program.line))
