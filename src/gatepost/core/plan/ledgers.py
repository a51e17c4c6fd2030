# SPDX-License-Identifier: GPL-3.0-or-later
"""Wires the Z ledger to the journal: where the face stands now, the next move, and a program only for what is left."""

from __future__ import annotations

from dataclasses import dataclass, replace

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.frames import Point, shift
from gatepost.core.job.journal import Entry, Journal
from gatepost.core.plan.drive import drive_of
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.result import Plan
from gatepost.core.program.read import read
from gatepost.core.program.time import move_seconds
from gatepost.core.program.write import Head, fingerprint, write
from gatepost.core.surface import passes
from gatepost.core.surface.ledger import (
    SAME,
    Bite,
    Fitted,
    Ledger,
    Move,
    PassCut,
    Touched,
    ZeroSet,
    after,
    judged,
    next_move,
)
from gatepost.core.units import mm

KINDS = {"ledger touched": "touched", "ledger zero": "Z0 set", "ledger pass": "pass cut", "fitted": "bit fitted"}
ONCE = "It is written down all the same, marked as questioned."


@dataclass(frozen=True)
class Line:
    """One line of the ledger as it is read: the entry's number, words, and the face and low spot after it, mm."""

    seq: int
    at: str
    words: str
    plane: float
    left: float
    questioned: bool = False


@dataclass(frozen=True)
class Book:
    """The ledger as it stands. lines: oldest first; unknown: why nothing can be said of the face, or nothing; limit: of a
    pass, mm; depth: that a program cuts below its zero, unless another is told; target: the planned finished plane; first: where the
    highest of the face stood before anything was cut."""

    ledger: Ledger
    lines: tuple[Line, ...]
    limit: float
    depth: float
    target: float
    unknown: str = ""
    first: float = 0.0

    @property
    def taken(self) -> float:
        """What has come off the highest place in all, mm."""
        return max(0.0, self.first - self.ledger.plane)

    def next(self, depth: float | None = None) -> Move:
        """The next move. Raises OperatorError with why there is none."""
        if self.unknown:
            raise OperatorError(self.unknown)
        below = self.ledger.plane - self.target - self.ledger.left
        return next_move(self.ledger, self.depth if depth is None else depth, self.limit, below)

    def bite(self, depth: float) -> Bite:
        """What a pass of a program of a depth would do with Z0 as it is set. Raises OperatorError."""
        if self.ledger.zero is None:
            raise OperatorError("Z0 is not set with this bit yet.")
        return judged(self.ledger, self.ledger.zero, depth, self.limit)


def book_of(plan: Plan, journal: Journal) -> Book:
    """The ledger of the surfacing, followed through the journal. Raises OperatorError where there is nothing to follow."""
    setup = plan.surfaced_in()
    if setup is None or plan.extremes is None or not plan.surfaced.needed:
        raise OperatorError("There is no surfacing in this job, so there is no Z ledger.")
    tool = plan.job.tool(plan.job.surfacing.tool)
    limit = min(plan.job.surfacing.limit, tool.pass_depth)
    ledger = Ledger(plan.extremes.highest[2], plan.extremes.lowest[2])
    first = plan.surfaced.heights[0] if plan.surfaced.heights else ledger.plane
    depth = round(min(limit, max(plan.extremes.highest[2] - first, 0.1)), 2)
    lines: list[Line] = []
    unknown = ""
    for entry in journal.this_board():
        if entry.setup != setup.name:
            continue
        try:
            new, words = _followed(ledger, entry, setup, plan)
        except OperatorError as error:
            new, words = ledger, f"{_words(entry)}: {error}"
        if entry.kind == "run ended" and entry.data.get("outcome") != "done" and entry.data.get("program"):
            unknown = (
                "A surfacing run ended part-way: part of the face is at one height and part at another. Go on with that run, "
                "or touch the highest place again and take the ledger from there."
            )
        if entry.kind in ("surfaced", "ledger touched"):
            unknown = ""
        if words:
            lines.append(Line(entry.seq, entry.at, words, new.plane, new.left, bool(entry.data.get("questioned"))))
        ledger = new
    target = plan.surfaced.plane if plan.surfaced.lines else ledger.low
    return Book(ledger, tuple(lines), limit, depth, target, unknown, plan.extremes.highest[2])


def _name(plan: Plan) -> str:
    """The setup that the ledger is of."""
    setup = plan.surfaced_in()
    return setup.name if setup is not None else ""


def _followed(ledger: Ledger, entry: Entry, setup: PlannedSetup, plan: Plan) -> tuple[Ledger, str]:
    """The ledger after an entry, and the entry's words; none where it says nothing of heights."""
    data = entry.data
    if entry.kind == "fitted":
        return after(ledger, Fitted()), _words(entry)
    if entry.kind == "touched" and data.get("axis") == "z":  # Z0 is on that place of the top, or on the bed
        zero = float(data["machine"])
        stands = 0.0 if setup.setup.zero.z == "bed" else min(setup.zero_height, ledger.plane)
        ledger = replace(ledger, offset=stands - zero)
        return after(ledger, ZeroSet(zero)), f"Z0 touched at {mm(zero, 2)} on the machine"
    if entry.kind == "ledger touched":
        on = str(data.get("on", "face"))
        if on not in ("face", "low spot", "bed"):
            raise OperatorError(f"“{on}” is not a place that the ledger knows.")
        touched = Touched(float(data["machine"]), on, float(data.get("gauge", 0.0)))  # type: ignore[arg-type]
        return after(ledger, touched), _words(entry)
    if entry.kind == "ledger zero":
        return after(ledger, ZeroSet(float(data["machine"]))), _words(entry) + _shifted(ledger, float(data["machine"]))
    if entry.kind == "ledger pass":
        return after(ledger, PassCut(float(data["depth"]))), _words(entry)
    if entry.kind == "surfaced":
        plane = float(data["plane"]) if "plane" in data else plan.surfaced.plane
        new = replace(ledger, plane=min(ledger.plane, plane), low=min(ledger.low, plane))
        return new, f"surfacing run: the face is at {mm(new.plane, 2)}"
    return ledger, ""


def _shifted(ledger: Ledger, machine: float) -> str:
    """How far Z0 was moved from where it was with the same bit, in words."""
    if ledger.zero is None or abs(machine - ledger.zero) <= SAME:
        return ""
    return f", {mm(abs(machine - ledger.zero), 2)} {'lower' if machine < ledger.zero else 'higher'} than before"


def _words(entry: Entry) -> str:
    data = entry.data
    if entry.kind == "fitted":
        return "bit fitted: every machine figure of before is void"
    if entry.kind == "ledger touched":
        gauge = f", {mm(float(data['gauge']), 2)} between" if float(data.get("gauge", 0.0)) else ""
        return f"the {data.get('on', 'face')} touched at {mm(float(data['machine']), 2)} on the machine{gauge}"
    if entry.kind == "ledger zero":
        return f"Z0 set at {mm(float(data['machine']), 2)} on the machine"
    return f"pass cut, {mm(float(data.get('depth', 0.0)), 2)} below Z0"


def entered(
    plan: Plan, journal: Journal, at: str, kind: str, questioned: bool = False, **data: float | str
) -> tuple[Journal, str]:
    """The journal with one more entry, and what is to be asked about it.

    An entry that would cut twice, or air, or deeper than the cutter's limit is asked about and not written, until it is
    entered again as ``questioned``. Raises OperatorError when it can't be placed at all.
    """
    book = book_of(plan, journal)
    against = ""
    if kind == "ledger pass":
        against = book.bite(float(data["depth"])).against
    elif kind == "ledger zero":
        if book.ledger.offset is None:
            raise OperatorError(
                "No figure of this bit is known yet: touch off on the face, the low spot or the bed first."
            )
        high = book.ledger.height(float(data["machine"]))
        if not -1.0 <= high <= book.ledger.plane + 50.0:
            against = f"That puts Z0 {mm(abs(high - book.ledger.plane), 2)} {'above' if high > book.ledger.plane else 'below'} the face. Was the figure read with another bit, or another sign?"
    elif kind == "ledger touched" and book.ledger.offset is not None:
        known = {"face": book.ledger.plane, "low spot": book.ledger.low, "bed": 0.0}[str(data.get("on", "face"))]
        off = float(data["machine"]) + book.ledger.offset - known - float(data.get("gauge", 0.0))
        if abs(off) > 0.3:
            against = f"With the figures so far it stands {mm(abs(off), 2)} {'higher' if off > 0 else 'lower'} than the ledger has it. Fuzz, a chip, or another bit?"
    if against and not questioned:
        return journal, against
    if kind == "fitted" and plan.surfaced_in() is not None:
        data = {"tool": float(plan.job.surfacing.tool), **data}
    more: dict[str, float | str] = {**data, **({"questioned": 1.0} if questioned else {})}
    grown = journal.add(at, kind, _name(plan), **more)  # type: ignore[arg-type]
    book_of(plan, grown)
    return grown, ""


def taken_back(plan: Plan, journal: Journal, at: str) -> Journal:
    """The journal with the ledger's newest own entry taken back. Raises OperatorError when there is none."""
    mine = [
        e
        for e in journal.this_board()
        if e.setup == _name(plan) and e.kind in ("ledger touched", "ledger zero", "ledger pass")
    ]
    if not mine:
        raise OperatorError("There is no ledger entry to take back.")
    return journal.add(at, "corrected", _name(plan), seq=float(mine[-1].seq))


def left_program(plan: Plan, journal: Journal) -> ProgramFile:
    """A program only for the passes that are left, as the ledger has the face. Raises OperatorError."""
    setup = plan.surfaced_in()
    book = book_of(plan, journal)
    if setup is None or not setup.operations:
        raise OperatorError("There is no surfacing in this job.")
    stops = [f for f in plan.findings if f.level is Level.STOP]
    if stops:
        raise OperatorError(f"Not written: {stops[0].message}")
    if book.unknown:
        raise OperatorError(book.unknown)
    left = [(z, lines) for z, lines in plan.surfaced.lines if z < book.ledger.plane - SAME and lines]
    if not left:
        raise OperatorError(
            "Nothing is left: the face has been cut down to the last pass. Go deeper by a figure first."
        )
    bite = book.ledger.plane - left[0][0]
    if bite > book.limit + SAME:
        raise OperatorError(
            f"The next pass would take {mm(bite, 2)} at once; this cutter is given {mm(book.limit, 2)} at most."
        )
    operation = setup.operations[0]
    tool = operation.tool
    start = operation.moves.points[0]
    moves = passes.moves(left, tool, setup.travel, (float(start[0]), float(start[1]), float(start[2])))
    to_work, zero = setup.placed.to_work, f"Z0 on the {setup.setup.zero.z} as it was first"
    if (
        book.ledger.zero is not None and book.ledger.offset is not None
    ):  # set anew since: the program is for the zero that stands
        stands = book.ledger.height(book.ledger.zero)
        to_work = to_work.then(shift(0.0, 0.0, setup.zero_height - stands))
        zero = f"Z0 as it stands in the ledger, {stands:.2f} above the bed"
    head = Head(
        plan.job.name, setup.name, tool, f"X0 Y0 at {setup.setup.zero.xy}, {zero}", setup.carried.then(to_work),
        note=f"ONLY WHAT IS LEFT: {len(left)} of {len(plan.surfaced.lines)} passes",
    )  # fmt: skip
    text = write(to_work.moves(moves), head, plan.job.machine.dialect)
    home = to_work.apply(Point(float(start[0]), float(start[1]), float(start[2])))
    back = read(text, home=(home.x, home.y, home.z))
    seconds = move_seconds(back.moves, drive_of(plan.job))
    return ProgramFile(
        f"{setup.name}-left-T{tool.number}.nc", setup.name, tool, (operation.name,), text, back.moves, tuple(int(n) for n in back.line),
        float(seconds.sum()) + plan.job.machine.dialect.spin_up, tuple(float(s) for s in seconds), fingerprint(text, head),
    )  # fmt: skip
