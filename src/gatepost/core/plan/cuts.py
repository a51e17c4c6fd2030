# SPDX-License-Identifier: GPL-3.0-or-later
"""Programs written and read back, and the wood after each of their operations."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gatepost.core.cache import SMALL, Memory
from gatepost.core.findings import Finding
from gatepost.core.frames import Board, Matrix, Point
from gatepost.core.job.register import Ring
from gatepost.core.motion import Moves, joined
from gatepost.core.plan.drafts import DraftCut, SetupDraft
from gatepost.core.plan.drive import drive_of
from gatepost.core.plan.holds import LIFTS, bears_of
from gatepost.core.plan.known import digest, heavy
from gatepost.core.plan.planned import PlannedCut, ProgramFile
from gatepost.core.program.lines import filled_lines
from gatepost.core.program.read import read
from gatepost.core.program.time import move_seconds
from gatepost.core.program.write import Head, arc_lines, body_lines, fingerprint, head_lines, write
from gatepost.core.tolerances import RESERVE
from gatepost.core.wood import loose, slivers
from gatepost.core.wood import report as wood_report
from gatepost.core.wood.field import OUTSIDE, HeightField, cut, cutter_of
from gatepost.core.wood.loose import Cutting


@dataclass(frozen=True)
class Cuts:
    """A setup with programs read back and the wood after each operation, what the removal model said, and of what each
    operation's wood comes."""

    draft: SetupDraft
    operations: tuple[PlannedCut, ...]
    programs: tuple[ProgramFile, ...]
    said: tuple[Finding, ...]
    keys: dict[str, str]
    pieces: tuple[loose.PieceState, ...] = ()

    def on_bed(self, program: ProgramFile) -> Moves:
        """A program's moves on the bed."""
        return self.draft.placed.work_to_bed.moves(program.moves)


def gone_on_with(draft: SetupDraft, before: Sequence[Cuts]) -> SetupDraft:
    """A setup whose wood is that of the last one before it in which the same face was carved, where there is one."""
    same = [c for c in before if c.draft.laid.up == draft.laid.up and not c.draft.laid.flattens and c.operations]
    if not same or draft.laid.flattens:
        return draft
    last = same[-1]
    left = _told_in(last.operations[-1].after, last.draft.carried.inverse().then(draft.carried), draft.start)
    z = np.minimum(draft.start.z, left)
    key = digest(f"{draft.start_key} after {last.keys[last.operations[-1].name]}".encode())
    return replace(draft, start=replace(draft.start, z=z), start_key=key)


def _told_in(left: HeightField, moved: Matrix[Board, Board], start: HeightField) -> NDArray[np.float32]:
    """Wood as it was left, over the cells of the board as it lies now; as it starts where there was none. moved: from how it lay."""
    lower = np.float32(moved.rows[2][3])  # what came off the other face meanwhile
    if _same_place(moved) and left.z.shape == start.z.shape:
        return np.where(start.wood, left.z + lower, start.z)
    x, y = np.meshgrid(
        start.x0 + start.cell * np.arange(start.z.shape[1]), start.y0 + start.cell * np.arange(start.z.shape[0])
    )
    there = moved.inverse().array(np.column_stack([x.ravel(), y.ravel()]))
    i = np.rint((there[:, 0] - left.x0) / left.cell).astype(int)
    j = np.rint((there[:, 1] - left.y0) / left.cell).astype(int)
    on = (i >= 0) & (j >= 0) & (i < left.z.shape[1]) & (j < left.z.shape[0]) & start.wood.ravel()
    out = start.z.ravel().copy()
    z = left.z[j[on], i[on]]
    out[on] = np.where(z > OUTSIDE / 2, z + lower, out[on])
    return out.reshape(start.z.shape)


def _same_place(moved: Matrix[Board, Board]) -> bool:
    """Whether what is seen from above lies as it did."""
    (a, b, _, x), (c, d, _, y), _z = moved.rows
    return bool(np.allclose((a, b, x, c, d, y), (1.0, 0.0, 0.0, 0.0, 1.0, 0.0), atol=1e-9))


def cuts_of(draft: SetupDraft, names: Sequence[str], memory: Memory) -> Cuts:
    """A setup cut. names: of all operations of the job, in their order."""
    by_name = {piece.name: piece for piece in draft.pieces}
    operations: list[PlannedCut] = []
    programs: list[ProgramFile] = []
    said: list[Finding] = []
    keys: dict[str, str] = {}
    pieces: list[loose.PieceState] = []
    wood, key = draft.start, draft.start_key
    for number, group in enumerate(_grouped([by_name[n] for n in names if n in by_name], draft.setup.ring), start=1):
        program, parts = _program(draft, group, number, memory)
        programs.append(program)
        for piece, moves in zip(group, parts):
            key = digest(f"{key} {cutter_of(piece.tool)}".encode() + moves.points.tobytes())
            operation, found = _swept(draft, piece, moves, wood, key, memory)
            operations.append(operation)
            keys[piece.name] = key
            said += found
            apart, bears, cutting = (
                _apart(operation, key, memory),
                grips_of(draft, memory),
                cutting_of(draft, piece, operation),
            )
            pieces += loose.standing(operation.after, apart, bears, cutting)
            pieces += loose.hanging(operation.after, apart, bears, cutting, draft.known.job.holding.tab_shear)
            wood = operation.after
    return Cuts(draft, tuple(operations), tuple(programs), tuple(said), keys, tuple(pieces))


def _grouped(pieces: Sequence[DraftCut], ring: Ring | None) -> list[list[DraftCut]]:
    """Operations that one tool does without being taken out; rings that are measured before anything else is cut are a program of their own."""
    groups: list[list[DraftCut]] = []
    rings = {p.name for p in pieces if ring is not None and p.wanted.operation.id == ring.operation}
    for piece in pieces:
        alone = bool(groups) and (groups[-1][-1].name in rings) != (piece.name in rings)
        if groups and groups[-1][-1].tool.number == piece.tool.number and not alone:
            groups[-1].append(piece)
        else:
            groups.append([piece])
    return groups


def _program(draft: SetupDraft, group: list[DraftCut], number: int, memory: Memory) -> tuple[ProgramFile, list[Moves]]:
    """Write a group's program, read it back, and cut the moves as read into its operations again (blank frame)."""
    tool, job, setup = group[0].tool, draft.known.job, draft.setup
    to_work = draft.placed.to_work
    moves = [piece.drawn.moves for piece in group]
    whole = to_work.moves(joined(moves))
    home = to_work.apply(Point(*draft.site.home(tool)))
    zero = f"X0 Y0 at {setup.zero.xy}, Z0 on the {setup.zero.z}"
    head, dialect = Head(job.name, setup.name, tool, zero, draft.carried.then(to_work)), job.machine.dialect
    before = len(head_lines(head, dialect))
    body = memory.get(
        "program", (_moves_digest(whole), dialect, before), lambda: body_lines(whole, dialect, before), SMALL
    )
    text = write(whole, head, dialect, body)
    back = read(text, home=(home.x, home.y, home.z + RESERVE))
    seconds = move_seconds(back.moves, drive_of(job))
    ends = _ends(len(back.moves), moves)
    if dialect.arcs != "none":
        ends = _ends_by_line(back.line, arc_lines(whole, dialect, before)[1], ends, before)
    program = ProgramFile(
        f"{setup.name}-{number}-T{tool.number}.nc", setup.name, tool, tuple(p.name for p in group), text, back.moves,
        tuple(int(v) for v in back.line), float(seconds.sum()) + dialect.spin_up, tuple(float(v) for v in seconds), fingerprint(text, head),
        ends=_last_blocks(text, back.line, ends),
    )  # fmt: skip
    return program, _split(to_work.inverse().moves(back.moves), ends)


def _moves_digest(moves: Moves) -> str:
    return digest(moves.points.tobytes() + moves.rapid.tobytes() + moves.feed.tobytes())


def _ends(count: int, parts: list[Moves]) -> list[int]:
    """Behind which of so many moves, as read, each operation's share ends."""
    out: list[int] = []
    at = 0
    for number, part in enumerate(parts):
        at += len(part) + (0 if number == 0 or np.array_equal(parts[number - 1].points[-1], part.points[0]) else 1)
        out.append(at)
    return [*out[:-1], count]


def _last_blocks(text: str, lines: NDArray[np.int64], ends: list[int]) -> tuple[int, ...]:
    """The block in which each of some moves lies, the last one of all for the last."""
    filled = np.array([number for number, _ in filled_lines(text)])
    found = [int(np.searchsorted(filled, lines[max(end - 1, 0)], side="right")) if len(lines) else 0 for end in ends]
    return (*found[:-1], len(filled))


def _ends_by_line(lines: NDArray[np.int64], upto: list[int], ends: list[int], before: int) -> list[int]:
    """As _ends, where one line stands for many moves, and is read as many others. lines: of each move as read; upto: behind which of the moves that were
    written each line ends; ends: behind which of those each operation does; before: lines that stand above."""
    at = [
        before + int(np.searchsorted(upto, end, side="right")) for end in ends[:-1]
    ]  # the last line that ends no later
    return [*(int(np.searchsorted(lines, line, side="right")) for line in at), len(lines)]


def _split(whole: Moves, ends: list[int]) -> list[Moves]:
    """Moves as read, shared out to the operations they came from; what joins them goes with the later one."""
    if len(ends) == 1:
        return [whole]
    out: list[Moves] = []
    at = 0
    for end in ends:
        out.append(Moves(whole.points[at : end + 1].copy(), whole.rapid[at:end].copy(), whole.feed[at:end].copy()))
        at = end
    return out


def _swept(
    draft: SetupDraft, piece: DraftCut, moves: Moves, wood: HeightField, key: str, memory: Memory
) -> tuple[PlannedCut, list[Finding]]:
    """key: tells the wood after it, by all that it comes from."""
    setup, tool = draft.setup.name, piece.tool
    swept = memory.get("wood", key, lambda: cut(wood, moves, cutter_of(tool)), heavy(wood.z.size))
    seconds = float(move_seconds(moves, drive_of(draft.known.job)).sum())
    operation = PlannedCut(
        piece.name, piece.wanted.operation.id, piece.drawn.stage, piece.wanted.kind.name, tool, setup, moves, seconds, piece.push.result, piece.peak, swept.after,
        piece.drawn.art, piece.drawn.area, piece.drawn.target, piece.drawn.engaged,
    )  # fmt: skip
    said = wood_report.rapid_hits(moves, swept, setup, piece.name)
    said += wood_report.plunges(moves, swept, tool, setup, piece.name, piece.wanted.kind.stage)
    allowed = piece.envelope if piece.last else replace(piece.envelope, high=None)
    said += memory.get(
        "against", (key, allowed.key, allowed.low, allowed.high, setup, piece.name),
        lambda: wood_report.against(allowed, wood, operation.after, setup, piece.name, piece.wanted.kind.stage), SMALL,
    )  # fmt: skip
    return operation, said if draft.laid.flattens else said + _freed(draft, piece, operation, wood, key, memory)


def _freed(
    draft: SetupDraft, piece: DraftCut, op: PlannedCut, before: HeightField, key: str, memory: Memory
) -> list[Finding]:
    """What comes loose, and what is left so narrow that it is thrown."""
    rules = draft.known.job.holding
    pieces, bears = _apart(op, key, memory), grips_of(draft, memory)
    cutting = cutting_of(draft, piece, op)
    to_bed = draft.placed.to_bed
    said = loose.loose(op.after, pieces, bears, cutting, to_bed, rules.tab_shear, rules.skin)
    if cutting.tabs:
        said += memory.get(
            "slivers", (slivers.solid_key(before, op.after), before.z.shape, before.cell, cutting, to_bed),
            lambda: slivers.slivers(before, op.after, cutting, to_bed), SMALL,
        )  # fmt: skip
    return said


def cutting_of(draft: SetupDraft, piece: DraftCut, op: PlannedCut) -> Cutting:
    """What an operation does to what it frees."""
    hung = piece.wanted.kind.hung(piece.wanted.figures)
    frees = draft.known.kinds.frees(op.kind)
    return Cutting(draft.setup.name, op.name, op.push, op.push * op.peak, op.tool.spiral in LIFTS, frees, hung)


def _apart(op: PlannedCut, key: str, memory: Memory) -> loose.Pieces:
    return memory.get("pieces", key, lambda: loose.separate(op.after), heavy(op.after.z.size))


def grips_of(draft: SetupDraft, memory: Memory) -> list[loose.GripArea]:
    """Where each hold has the blank in its grip."""
    k, setup = draft.known, draft.setup
    job, blank = k.job, k.job.blank
    key = (
        setup.holds, setup.x, setup.y, setup.skew, setup.zero, job.holding, blank.shape, blank.length, blank.width, blank.outline,
    )  # fmt: skip
    return memory.get("bears", key, lambda: bears_of(job, setup, draft.placed, k.wood.outline, k.kinds.holds), SMALL)
