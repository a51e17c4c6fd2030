# SPDX-License-Identifier: GPL-3.0-or-later
"""What is looked at before a step is carried out and after it, and what it leaves in the journal."""

from __future__ import annotations

import getpass
import math
from collections.abc import Sequence
from datetime import UTC, datetime

from gatepost.core.acts import TABLE
from gatepost.core.errors import OperatorError
from gatepost.core.frames import MachineFrame, Point
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.job.tool import Tool
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.proved import moved_by
from gatepost.core.plan.result import Plan
from gatepost.core.plan.tied import tied
from gatepost.core.run.standing import barring
from gatepost.core.run.step import Depth, Step
from gatepost.core.units import mm
from gatepost.core.zero.datum import machine_zero
from gatepost.core.zero.trust import Axes, Trust, least, stood, trust, where
from gatepost.core.zero.ways import (
    WHEEL,
    FoundZero,
    along_edge,
    shifted,
    sides_of,
)
from gatepost.machine.touching import pin_of

HOME_MISS, WITNESS, SLIPPED, SIZE_OFF = (
    0.1,
    0.3,
    0.1,
    1.2,
)  # mm past which it is told; a board is as long as a tape says it is
SURELY = 1.0  # mm; an eye that sees no better proves nothing
SQUARES = 10  # times that a board is pushed square: by eye each look is off by what the one before was off, so one in four is pushed again
JOG, PLAY = 10.0, 0.15  # mm of a short jog, and by which it may come back otherwise
FAR, FAR_ACROSS = 3.0, 10.0  # mm from what was expected at which a zero is asked about
ZERO_OFF = 0.02  # mm by which the machine's zero may be another than the journal's
OFF_PLAN = 0.1  # mm by which a measured board may differ from the one that was planned on


class CheckFailed(OperatorError):
    """A check has found something. journal: with what it found, to be kept though the step is not ticked."""

    def __init__(self, words: str, journal: Journal) -> None:
        super().__init__(words)
        self.journal = journal


def now() -> str:
    """The time, ISO, to the second."""
    return datetime.now(UTC).astimezone().isoformat(timespec="seconds")


def who() -> str:
    """Who is at the machine, as this computer knows them."""
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return ""


def known_axes(journal: Journal, job: Job, setup: PlannedSetup) -> Axes:
    """The axes of a setup. Raises OperatorError where one is lost, or provisional without a yes: nothing cuts on it."""
    axes = trust(journal.standing(), where(job, setup.setup))
    named = (("X", axes.x), ("Y", axes.y), ("Z", axes.z))
    lost = [(n, a) for n, a in named if a.trust is Trust.LOST]
    if lost:
        raise OperatorError(
            f"Not run: {', '.join(n for n, _ in lost)} is not known ({lost[0][1].why}). Touch off first; nothing cuts on a lost axis."
        )
    doubtful = [(n, a) for n, a in named if a.trust is Trust.PROVISIONAL and not a.accepted]
    if doubtful:
        raise OperatorError(
            f"Not run: {', '.join(n for n, _ in doubtful)} is provisional ({doubtful[-1][1].why}). Touch again, or say yes to it as it is: what "
            "happened, and what is still known (Ctrl+H)."
        )
    return axes


def barred(journal: Journal, plan: Plan, setup: PlannedSetup, step: Step) -> None:
    """Raise OperatorError where a guard of hands and work has not been answered since something undid it, or where the work of another
    setup lies on the bed."""
    asked = barring(journal, setup.steps, step)
    if asked is not None:
        what = "Not run" if step.kind == "run" else "Not yet"
        raise OperatorError(
            f"{what}: “{asked.title.rstrip('.?')}” comes first, and has not been answered since something moved or was changed."
        )
    before = setup.steps[: setup.steps.index(step)] if plan.job.machine.in_order and step in setup.steps else ()
    first = next(
        (s for s in before if not journal.ticked(s.setup, s.key, s.fingerprint)), None
    )  # a guard that was undone is asked above
    if first is not None:
        raise OperatorError(
            f"Not yet: “{first.title.rstrip('.?')}” comes first. This machine's steps are done one after another."
        )
    if step.kind == "run" and moved_by(journal, setup.name) != setup.proving.moved:
        raise OperatorError("Not run: the plan is being worked out anew by what was seen over the marks.")
    laid = trust(journal.standing(), where(plan.job, setup.setup)).laid
    if step.kind == "run" and step.bare:
        if laid:
            raise OperatorError("Not run: this bores into the bare bed, and the board lies on it. Take it up first.")
        return
    if step.kind == "run" and laid != setup.name:
        other = f"the work lies as in {laid}" if laid else "the work was not laid in this setup"
        raise OperatorError(f"Not run: {other}. Go through this setup's steps from its first.")


def laying(journal: Journal, plan: Plan, setup: PlannedSetup, step: Step, at: str) -> Journal:
    """What a tick says of the machine and of the work, beside being ticked."""
    if step.key == "turn":
        journal = journal.add(at, "turned", setup.name)
    if step.key == "hold":
        more: dict[str, float | str] = {} if anew(plan, setup) else {"still": 1.0}
        journal = journal.add(at, "laid", setup.name, **more)
    if step.key == "up-bare":
        journal = journal.add(at, "taken up", setup.name)
    if step.key == "power":
        journal = journal.add(at, "switched on", setup.name)
    if step.kind == "rock":
        journal = journal.add(at, "rocked", setup.name, answer="still")
    if step.guard == "isolate" and plan.job.machine.isolating_drops:
        journal = journal.add(at, "drives off", setup.name)
    return journal


def is_fresh(journal: Journal) -> bool:
    """Whether another board is on the bed, and has not been laid yet."""
    return any(e.kind == "fresh board" for e in journal.standing()) and not any(
        e.kind == "laid" for e in journal.this_board()
    )


def anew(plan: Plan, setup: PlannedSetup) -> bool:
    """Whether the work is laid down in a setup, and not left where it lay."""
    comes = setup.setup.comes
    return comes is None or setup.name == plan.setups[0].name or plan.kinds.registers[comes.kind].moved


def seen_off(setup: PlannedSetup, journal: Journal, step: Step, off: Sequence[float]) -> tuple[float, float]:
    """How far a mark lies from where it should, X and Y. off: as seen, over X0 Y0 or over the witness mark, whose place was noted before
    wood was cut."""
    noted = next((e for e in reversed(journal.this_board()) if e.kind == "noted" and e.setup == setup.name), None)
    if noted is None or step.key == "proof" or same_place(step.place, setup.placed.mark):
        return off[0], off[1]
    return off[0] - float(noted.data["x"]), off[1] - float(noted.data["y"])


def looked_at(setup: PlannedSetup, journal: Journal, step: Step, off: Sequence[float], at: str) -> tuple[Journal, str]:
    """The journal with a look at a mark as it was seen, and what it says where it misses; nothing where it does not."""
    x, y = seen_off(setup, journal, step, off)
    limit = miss_limit(setup)
    journal = journal.add(at, "witness", setup.name, x=round(x, 4), y=round(y, 4), within=limit)
    if max(abs(x), abs(y)) <= limit:
        return journal, ""
    name = "witness mark" if step.key == "witness" else "mark"
    told = ", ".join(f"{a} {'+' if v >= 0.0 else '−'}{mm(abs(v), 2)}" for a, v in (("X", x), ("Y", y)))
    words = f"The {name} lies {told} from where it should: the board has moved, or steps were lost. Home, look again, then touch off anew; or, where the mark itself is sure, let X0 Y0 follow it by the miss under What happened."
    return journal.add(at, "bumped", setup.name), words


def same_place(one: tuple[float, float] | None, other: tuple[float, float]) -> bool:
    """Whether two places on the bed are one."""
    return one is None or math.dist(one, other) < 0.01


def miss_limit(setup: PlannedSetup) -> float:
    """How far a mark may seem to lie off with nothing wrong: what two looks may miss by."""
    return min(SURELY, max(WITNESS, 2.0 * setup.setup.zero.eye + 0.1))


def fitted(axes: Axes, program: ProgramFile) -> None:
    """Raise OperatorError where another tool is in the collet than a program's."""
    if axes.tool != program.tool.number:
        there = f"tool {axes.tool} is fitted" if axes.tool is not None else "none is fitted"
        raise OperatorError(f"Not run: tool {program.tool.number} is wanted and {there}.")


def expected_zero(plan: Plan, setup: PlannedSetup, tool: Tool) -> Point[MachineFrame]:
    """Machine coordinates of a setup's zeros, if all were as planned."""
    return machine_zero(plan.job.machine, tool.length, setup.placed.work_to_bed)


def kept_zero(journal: Journal, plan: Plan, setup: PlannedSetup) -> tuple[dict[str, float], Trust]:
    """X0 and Y0 on the machine by those of the setup before, and how well they are known. Raises OperatorError where that is not known any more."""
    earlier = plan.setups[: [s.name for s in plan.setups].index(setup.name)]
    to = tied(setup.setup, [s.setup for s in earlier])
    before = next(s for s in earlier if to is not None and s.name == to.name)
    entries = journal.this_board()
    axes = stood(entries, where(plan.job, before.setup))
    if axes.x.machine is None or axes.y.machine is None or Trust.LOST in (axes.x.trust, axes.y.trust):
        why = next((a.why for a in (axes.x, axes.y) if a.trust is Trust.LOST), "not touched yet")
        raise OperatorError(
            f"X0 and Y0 of {before.setup.title or before.name} are not known ({why}), and this setup's are set by them. Home, look at a mark of the side that was cut, and touch X0 Y0 here by it."
        )
    now, then = setup.placed.mark, before.placed.mark
    base = least(axes.x.trust, axes.y.trust)
    began = next((i for i, e in enumerate(entries) if e.kind == "run started" and e.setup == before.name), len(entries))
    again = any(
        e.kind == "touched" and e.setup == before.name and e.data.get("axis") in ("x", "y") for e in entries[began:]
    )
    base = (
        least(base, Trust.PROVISIONAL) if again else base
    )  # touched anew in the middle: the holes may be by the one before
    return {"x": axes.x.machine + now[0] - then[0], "y": axes.y.machine + now[1] - then[1]}, base


def keeping_zero(journal: Journal, plan: Plan, setup: PlannedSetup, at: str) -> tuple[Journal, dict[str, float]]:
    """The journal with X0 and Y0 set by those of the setup before, and what they are."""
    found, base = kept_zero(journal, plan, setup)
    for axis, value in found.items():
        journal = journal.add(
            at, "touched", setup.name, axis=axis, machine=round(value, 4), way="kept", base=base.value, by=who()
        )
    return journal, found


def known_zero(journal: Journal, plan: Plan, setup: PlannedSetup, at: str) -> tuple[Journal, dict[str, float]]:
    """The journal with X0 and Y0 set by where a known edge has the work, and what they are. Raises OperatorError where the machine is not homed."""
    if not homed(journal):
        raise OperatorError(
            "The machine has not been homed since its place was lost: it does not know where the edge is. Home it first."
        )
    zero = expected_zero(plan, setup, plan.job.tools[0])  # X and Y are the same with every tool
    found = {"x": zero.x, "y": zero.y}
    lapsed = any(
        f.code in ("register.edge-lapsed", "register.edge-not-milled") and f.setup == setup.name for f in plan.findings
    )
    base = Trust.PROVISIONAL if lapsed else Trust.TRUSTED
    for axis, value in found.items():
        journal = journal.add(
            at, "touched", setup.name, axis=axis, machine=round(value, 4), way="edge", base=base.value, by=who()
        )
    return journal, found


def touched_with(setup: PlannedSetup, tool: Tool) -> dict[str, float | str]:
    """What an edge was touched with, for the record: how wide it is, and the step that it was jogged by."""
    zero = setup.setup.zero
    if zero.xy_way == "pointer":
        return {"eye": zero.eye}
    return {"across": pin_of(setup.setup, tool), "step": WHEEL, **({"block": zero.block} if zero.block else {})}


def squared_up(setup: PlannedSetup, found: Sequence[FoundZero]) -> list[FoundZero]:
    """X0 and Y0 with the last one's shift taken off; a corner's where the programs are turned: each edge was touched a little way along from the corner itself."""
    skew, sides = setup.setup.skew, sides_of(setup.setup.zero)
    found = [shifted(f, setup.setup.zero) for f in found]
    if not skew or sides is None or setup.setup.zero.xy_way == "pointer":
        return list(found)
    return [along_edge(f, setup.setup, setup.blank.across, skew) for f in found]


def placed(journal: Journal, state: object, at: str) -> Journal:
    """The journal, with a word where the machine says that it does not know its place and the journal thinks it does."""
    if state not in ("unhomed", "faulted") or not homed(journal):
        return journal
    return journal.add(at, "power cut", why="the machine says that it has not been homed")


def homed(journal: Journal) -> bool:
    """Whether the machine has been homed, and nothing has taken its place away since."""
    for entry in reversed(journal.standing()):
        act = TABLE.get(entry.kind)
        if act is not None and (act.session or entry.kind == "homed"):
            return entry.kind == "homed"
    return False


def deep_enough(journal: Journal, setup: PlannedSetup, told: Depth, measured: float, at: str) -> Journal:
    """The journal with what was measured of a cut. Raises CheckFailed where it is another depth than planned by more than the zeros can be
    off."""
    data: dict[str, float | str] = {"tool": told.tool, "depth": round(measured, 3), "planned": round(told.planned, 3)}
    journal = journal.add(at, "gauged", setup.name, **data)
    off = (told.planned - measured) if told.thick else (measured - told.planned)
    if abs(off) <= told.allowed:
        return journal
    raise CheckFailed(
        f"Tool {told.tool} cut {mm(abs(off), 2)} {'deeper' if off > 0 else 'less deep'} than planned there. The bit has crept in its collet, Z0 was off, or the board is not "
        "what was measured. Touch again where the top still stands before anything else is cut.",
        journal.add(at, "fitted", setup.name, tool=told.tool),
    )
