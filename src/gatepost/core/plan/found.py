# SPDX-License-Identifier: GPL-3.0-or-later
"""Where a piece lies by the marks that were measured on it, and by those that were looked at: what was read in the journal, the fit, and the setup as the piece really lies."""

from __future__ import annotations

from collections.abc import Mapping

from gatepost.core.frames import Bed, Board, FaceFrame, Matrix
from gatepost.core.job.journal import Entry, Journal
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.register import ByMarks, PieceMark
from gatepost.core.job.turning import face_turned, lies
from gatepost.core.plan.turned import lying, placed_in
from gatepost.core.register.marks import FoundAgain, ReadMark, by_pin, fit_of
from gatepost.core.register.moved import NOT_MOVED, Moved
from gatepost.core.tolerances import CONTACT
from gatepost.core.zero.datum import datum
from gatepost.core.zero.trust import laid_anew
from gatepost.core.zero.ways import WHEEL


def found_again(job: Job, setup: Setup, journal: Journal) -> FoundAgain | None:
    """What its marks say of a setup; nothing where it has none."""
    comes = setup.comes
    if not isinstance(comes, ByMarks):
        return None
    to_bed = face_to_bed(job, setup)
    read = readings(journal, setup.name)
    marks = tuple(_read(m, comes, to_bed, read.get(m.id), job) for m in comes.marks)
    all_read = bool(marks) and all(m.id in read for m in comes.marks)
    ids = tuple(m.id for m in comes.marks)
    return FoundAgain(
        ids,
        marks,
        frozenset(m.id for m in comes.marks if m.id in read),
        fit_of(marks, comes.good) if all_read else None,
        setup.skew,
    )


def face_to_bed(job: Job, setup: Setup) -> Matrix[FaceFrame, Bed]:
    """From the face that is up in a setup, as it is read, to the bed."""
    pose: Matrix[FaceFrame, Board] = Matrix(face_turned(job.blank.length, job.blank.width, lies(setup)).rows)
    return pose.then(placed_in(job, setup).to_bed)


def readings(journal: Journal, setup: str) -> Mapping[str, Entry]:
    """The newest reading of each mark since the piece was laid, or moved, in a setup."""
    found: dict[str, Entry] = {}
    for e in journal.this_board():
        if e.setup == setup and laid_anew(e):
            found = {}
        if e.kind == "marked" and e.setup == setup:
            found[str(e.data["mark"])] = e
    return found


def _read(mark: PieceMark, comes: ByMarks, to_bed: Matrix[FaceFrame, Bed], entry: Entry | None, job: Job) -> ReadMark:
    drawn = to_bed.xy(mark.x, mark.y)
    machine = job.machine
    read = drawn
    if entry is not None:
        read = (float(entry.data["x"]) + machine.travel_x, float(entry.data["y"]) + machine.travel_y)
    pin = float(entry.data.get("pin", comes.pin)) if entry is not None else comes.pin
    edge = mark.normal is not None
    normal = normal_on_bed(mark, to_bed)
    across = mark.across if not edge and by_pin(mark.across, comes.pin, comes.eye) else 0.0
    within = (CONTACT if edge or across else comes.eye) + 0.5 * WHEEL
    if entry is not None and across:
        within = float(entry.data.get("within", within))
    return ReadMark(mark.title or mark.id, drawn, read, normal, 0.5 * pin if edge else 0.0, within, across)


def normal_on_bed(mark: PieceMark, to_bed: Matrix[FaceFrame, Bed]) -> float | None:
    """Which way an edge's outside is on the bed, degrees; nothing for a hole or a point."""
    return mark.normal + to_bed.turn if mark.normal is not None else None


def as_it_lies(job: Job, setup: Setup, move: Moved) -> Setup:
    """A setup as its piece lies, by what it was moved by."""
    if move == NOT_MOVED:
        return setup
    mark = datum(setup.zero, lying(job, setup))
    there = move.there(mark.x + setup.x, mark.y + setup.y)
    skew = setup.skew + move.degrees
    return setup.model_copy(update={"x": there[0] - mark.x, "y": there[1] - mark.y, "skew": skew})
