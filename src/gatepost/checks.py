# SPDX-License-Identifier: GPL-3.0-or-later
"""Checks and sweeps of files for the command line."""

from __future__ import annotations

import io
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.hold.clearance import clearance, sections
from gatepost.core.job.file import load
from gatepost.core.job.model import Job
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.plan.drive import drive_of
from gatepost.core.plan.export import plan_json
from gatepost.core.plan.holds import LIFTS
from gatepost.core.plan.known import field_cell
from gatepost.core.plan.parted import part_files
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.program.fingerprint import blocks
from gatepost.core.program.lines import by_machine
from gatepost.core.program.plain import Program
from gatepost.core.program.read import read
from gatepost.core.program.time import move_seconds
from gatepost.core.program.units import doubts
from gatepost.core.reading import read_whole
from gatepost.core.tolerances import RESERVE
from gatepost.core.tools import forces
from gatepost.core.units import spell
from gatepost.core.wood.field import OUTSIDE, HeightField, Swept, cut, cutter_of
from gatepost.core.wood.loose import Cutting, hanging, loose, separate, standing, table
from gatepost.core.wood.report import RAPID_BITE
from gatepost.core.writing import write_whole
from gatepost.core.zero.datum import travel_misfits
from gatepost.planning import plan

FINEST = 16_000_000  # cells of a sweep asked for by name
Say = Callable[[str], None]


def check(file: Path, job: Path | None, as_json: bool, say: Say, show: Callable[[Any], None]) -> int:
    """0 sound, 1 a stop stands, 2 unusable."""
    if file.suffix == ".gatepost":
        if job is not None:
            raise OperatorError("--job goes with a program: a job is checked by itself.")
        document = load(file)
        reckoned = plan(document.job, document.journal)
        values = plan_json(reckoned, [])
        if as_json:
            show(
                {
                    "file": str(file),
                    "sound": not reckoned.stops,
                    "findings": values["findings"],
                    "questions": values["questions"],
                }
            )
        else:
            for f in values["findings"]:
                if f["level"] != "ok":
                    print(f"{f['level']}\t{f['code']}\t{f['message']}")
        return 1 if reckoned.stops else 0
    complaints = program_complaints(file, job)
    stop = any(c["level"] == "stop" for c in complaints)
    if as_json:
        show({"file": str(file), "sound": not stop, "findings": complaints})
    else:
        for c in complaints:
            print(f"{c['level']}\t{c['code']}\t{c['message']}")
    return 1 if stop else 0


LARGEST_PROGRAM = 256 * 2**20  # bytes


def read_text(path: Path) -> str:
    """A program's text. Raises UnusableFile."""
    data = read_whole(path, LARGEST_PROGRAM)
    if b"\x00" in data[:4096]:
        raise UnusableFile(f"{path.name} is not a program: it is not text.")
    return data.decode("utf-8", "replace")


def program_complaints(path: Path, job: Path | None, the_plan: Plan | None = None) -> list[dict[str, Any]]:
    """What is wrong with a program, alone or against a job (or its plan, where that is known)."""
    text = read_text(path)
    program = read(text)
    out = [_said("stop", "program.line", f"line {c.line}: {c.reason}") for c in program.complaints[:50]]
    out += [_said("care", "program.line", f"line {c.line}: {c.reason}") for c in program.cares[:50]]
    if program.barred:
        out.append(_said("stop", "program.barred", f"it says that it is not to be run: {program.barred}"))
    if not len(program.moves):
        out.append(_said("stop", "program.empty", "it moves nothing"))
    if job is not None and the_plan is None and not program.complaints:
        document = load(job)
        the_plan = plan(document.job, document.journal)
    if the_plan is not None and not program.complaints:
        out += _against_plan(program, text, the_plan)
    board = the_plan.job.blank.across if the_plan is not None else None
    out += [_said("care", "program.units", doubt) for doubt in doubts(program, board)]
    return out


def _said(level: str, code: str, message: str) -> dict[str, Any]:
    return {"level": level, "code": code, "message": message}


def _against_plan(program: Program, text: str, the_plan: Plan) -> list[dict[str, Any]]:
    own = {p.fingerprint: p for s in the_plan.setups for p in s.files}
    if program.fingerprint and program.fingerprint not in own and the_plan.job.machine.dialect.largest:
        parts = (part for s in the_plan.setups for p in s.files for part in part_files(the_plan, s, p))
        mine = next((part for part in parts if part.fingerprint == program.fingerprint), None)
        if mine is not None and _sent(mine.text) == _sent(text):
            return []  # the whole was swept, and this is a part of it
        if mine is not None:
            words = "it carries the fingerprint of a part of this plan's program, but is not what the plan writes"
            return [_said("stop", "program.changed", words)]
    claimed = own.get(program.fingerprint)
    if program.fingerprint and claimed is None:
        return [
            _said(
                "stop",
                "program.fingerprint",
                f"it is program {program.fingerprint}, and this job's plan writes {', '.join(own) or 'none'}: write it anew from this job",
            )
        ]
    if not program.tools:
        words = "it names no tool, so what it sweeps can't be held against this job: write the tool's number into it (T2 M6)"
        return [_said("stop", "program.tool", words)]
    setup = setup_of(the_plan, program, None)
    try:
        tool = tool_of(the_plan.job, program, None)
    except OperatorError as error:
        return [_said("stop", "program.tool", str(error).rstrip("."))]
    out: list[dict[str, Any]] = []
    if not program.fingerprint:
        out = [_said("care", "program.unknown", "it carries no fingerprint: made elsewhere, checked as it is")]
    elif claimed is not None and not program.barred and _sent(claimed.text) != _sent(text):
        words = "it carries the fingerprint of one of this plan's programs, but is not what the plan writes: changed by hand, or cut short"
        out = [_said("care", "program.changed", words)]
    back = read(text, home=home_of(the_plan, setup, tool))
    moves = back.moves
    on_bed = setup.placed.work_to_bed.moves(moves)
    unmoved = np.logical_and.accumulate(
        moves.points[1:] == moves.points[0], axis=0
    )  # where it was homed, and stands still
    for misfit in travel_misfits(
        on_bed, the_plan.job.machine, tool.length, by_machine(text, back.line.tolist()) | unmoved
    ):
        out.append(
            _said(
                "stop",
                "zero.travel",
                f"it leaves the travel on {misfit.axis} by {misfit.by:.2f} mm, {RESERVE:g} mm kept in reserve",
            )
        )
    for gap in clearance(
        on_bed, sections(tool, the_plan.job.machine), list(setup.solids), the_plan.job.holding.clearance
    ):
        level = "stop" if gap.gap < 0 else "care"
        out.append(
            _said(
                level, "hold.clearance", f"its {gap.tool_part} comes within {gap.gap:.2f} mm of {gap.hold}'s {gap.part}"
            )
        )
    swept = cut(setup.start, setup.on_board(moves), cutter_of(tool), amounts=claimed is None)
    if claimed is None:
        out += [*_zero_meant(moves, setup), *_comes_free(swept, back.moves, tool, setup, the_plan.job)]
    if (
        (swept.deepest[moves.rapid] > RAPID_BITE).any()
        and the_plan.setups[0].start is setup.start
        and tool is setup.programs[0].tool
    ):
        out.append(_said("stop", "wood.rapid", "a rapid ploughs wood"))
    return out


CENTRED = 0.05  # of a box's size by which its middle, or its corner, may lie off the zero it was drawn for


def _zero_meant(moves: Moves, setup: PlannedSetup) -> list[dict[str, Any]]:
    """Whether a program made elsewhere is drawn about its middle or from a corner, and X0 Y0 of the setup is another place."""
    x0, y0, x1, y1 = moves.cutting_extents()
    wide, tall = x1 - x0, y1 - y0
    if min(wide, tall) <= 0.0:
        return []
    near_x, near_y = CENTRED * wide, CENTRED * tall
    if abs(x0 + x1) / 2 <= near_x and abs(y0 + y1) / 2 <= near_y:
        drawn, share = "about its middle", (0.5, 0.5)
    elif min(abs(x0), abs(x1)) <= 2.0 * near_x and min(abs(y0), abs(y1)) <= 2.0 * near_y:
        right, back = abs(x1) < abs(x0), abs(y1) < abs(y0)
        drawn, share = (
            f"from its {'back' if back else 'front'} {'right' if right else 'left'} corner",
            (float(right), float(back)),
        )
    else:
        return []
    there = setup.placed.to_work.xy(*setup.blank.part(*share))
    long, broad = setup.blank.across
    if abs(there[0]) <= 0.25 * long and abs(there[1]) <= 0.25 * broad:
        return []
    words = f"it is drawn {drawn} as X0 Y0, and this setup has X0 Y0 at the {setup.setup.zero.xy}: check which is meant before it is run"
    return [_said("care", "program.zero", words)]


def _comes_free(swept: Swept, moves: Moves, tool: Tool, setup: PlannedSetup, job: Job) -> list[dict[str, Any]]:
    """Pieces that a program made elsewhere cuts free, and what has each. Its push is taken as a slot of the cutter's own width."""
    feeds = ~moves.rapid
    deep = min(float(swept.deepest[feeds].max(initial=0.0)), tool.pass_depth)
    fed = tool.model_copy(update={"feed": float(moves.feed[feeds].max(initial=tool.feed))})
    push = forces.push(fed, job.wood, tool.diameter, max(deep, 0.1)).result
    cutting = Cutting(setup.name, "it", push, push * forces.peak_factor(tool.diameter, tool), tool.spiral in LIFTS)
    apart, grips = separate(swept.after), list(setup.grips)
    said = loose(swept.after, apart, grips, cutting, setup.placed.to_bed, job.holding.tab_shear, job.holding.skin)
    out = [_said(f.level.value, f.code, spell(f.message, job.unit)) for f in said]
    all_of_it = standing(swept.after, apart, grips, cutting) + hanging(
        swept.after, apart, grips, cutting, job.holding.tab_shear
    )
    for _, rows in table(all_of_it):
        for piece, has, bears in rows[1:]:
            words = f"{piece.removeprefix('it: ')} comes free, held by {has}" + (
                f", which bears {bears}" if bears != "–" else ""
            )
            out.append(_said("note", "wood.pieces", spell(words, job.unit)))
    return out


def _sent(text: str) -> str:
    """What of a program is carried out, however its lines end."""
    return blocks(text.replace("\r\n", "\n").strip() + "\n")


def setup_of(reckoned: Plan, program: Program, asked: str | None) -> PlannedSetup:
    """The setup a program is for: as it says, as asked, else the last. Raises OperatorError where the two differ."""
    said = next(
        (
            setup
            for comment in program.comments
            if comment.startswith("GATEPOST")
            for setup in reckoned.setups
            if f" - {setup.name} - " in comment
        ),
        None,
    )
    if asked is not None:
        found = reckoned.setup(asked)
        if found is None:
            raise OperatorError(
                f"The plan has no setup “{asked}”; it has {', '.join(s.name for s in reckoned.setups)}."
            )
        if said is not None and said.name != found.name:
            raise OperatorError(f"The program says that it is for the {said.name} setup, not the {found.name} setup.")
        return found
    return said or reckoned.setups[-1]


def tool_of(job: Job, program: Program, asked: int | None) -> Tool:
    """The tool a program is for: as asked, else as it says. Raises OperatorError."""
    number = asked if asked is not None else (program.tools[0] if program.tools else None)
    if number is None:
        raise OperatorError("The program names no tool. Say which with --tool N.")
    return job.tool(number)


def home_of(reckoned: Plan, setup: PlannedSetup, tool: Tool) -> tuple[float, float, float]:
    """Machine zero in a setup's work coordinates."""
    m = reckoned.job.machine
    return (
        m.travel_x - setup.datum[0] - setup.setup.x, m.travel_y - setup.datum[1] - setup.setup.y,
        m.nose_at_home - tool.length - setup.zero_height,
    )  # fmt: skip


def start_field(reckoned: Plan, setup: PlannedSetup, cell: float) -> HeightField:
    """A setup's wood at its start, as fine as asked."""
    if abs(cell - setup.start.cell) < 1e-12:
        return setup.start
    again = plan(reckoned.job, None, cell=cell).setup(setup.name)
    assert again is not None
    return again.start


def simulate(
    programs: list[Path],
    job: Path,
    setup_name: str | None,
    tool_number: int | None,
    cell: float | None,
    heights: Path | None,
    picture: Path | None,
) -> dict[str, Any]:
    """Sweep programs one after another over a setup's wood; heights come in work coordinates, NaN off the blank."""
    document = load(job)
    blank = document.job.blank
    reckoned = plan(document.job, document.journal)
    fine = cell or field_cell(*blank.across, FINEST)
    said: list[str] = []
    wood: HeightField | None = None
    setup: PlannedSetup | None = None
    seconds = 0.0
    for path in programs:
        text = read_text(path)
        program = read(text)
        if program.complaints:
            worst = program.complaints[0]
            raise UnusableFile(f"{path.name}, line {worst.line}: {worst.reason}.")
        said += [f"{path.name}, line {c.line}: {c.reason}." for c in program.cares[:50]]
        setup = setup_of(reckoned, program, setup_name)
        tool = tool_of(document.job, program, tool_number)
        if wood is None:
            wood = start_field(reckoned, setup, fine)
        moves = read(text, home=home_of(reckoned, setup, tool)).moves
        swept = cut(wood, setup.on_board(moves), cutter_of(tool))
        if (swept.deepest[moves.rapid] > RAPID_BITE).any():
            said.append(f"{path.name}: a rapid ploughs wood.")
        wood = swept.after
        seconds += float(move_seconds(moves, drive_of(document.job)).sum()) + program.dwell
    assert wood is not None and setup is not None
    return _written(wood, setup, heights, picture, said, seconds)


def _written(
    wood: HeightField, setup: PlannedSetup, heights: Path | None, picture: Path | None, said: list[str], seconds: float
) -> dict[str, Any]:
    work = wood.moved(-setup.datum[0], -setup.datum[1], -setup.zero_height)
    frame = {"x0": work.x0, "y0": work.y0, "cell": work.cell}
    values: dict[str, Any] = {"setup": setup.name, **frame, "seconds": seconds, "said": said}
    if heights is not None:
        z = np.where(work.z > OUTSIDE / 2, work.z, np.nan).astype(np.float32)
        out = io.BytesIO()
        np.save(out, z)
        write_whole(heights, out.getvalue())
        write_whole(heights.with_suffix(".json"), (json.dumps(frame) + "\n").encode())
        values |= {"heights": str(heights), "frame": str(heights.with_suffix(".json"))}
    if picture is not None:
        from gatepost.desk.view.pictures import gui, heights_picture
        from gatepost.drawing.shade import shaded

        gui()
        heights_picture(shaded(wood), picture)
        values["picture"] = str(picture)
    return values
