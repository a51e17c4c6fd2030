# SPDX-License-Identifier: GPL-3.0-or-later
"""What the shop looks after: when each thing was seen to last, what is due by running hours or by date, and what is signed when the machine is handed over."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date

from gatepost.core.errors import OperatorError
from gatepost.core.log.filtering import TimedRow, tool_of

SOON = 0.9  # of its hours or days, from which it is told as due soon


@dataclass(frozen=True)
class Check:
    """Something that is seen to time and again. of: the machine, tool, plate or fixture that it is of; hours: of running, days: after which it is due, 0 where that does not count;
    last: a date, nothing where it was never done; by: who did it; found: what was found then; lapses: what may not be trusted once it is over."""

    name: str
    of: str = ""
    hours: float = 0.0
    days: int = 0
    last: str = ""
    by: str = ""
    found: str = ""
    lapses: str = ""

    def checked(self) -> Check:
        """Itself. Raises OperatorError."""
        if not self.name.strip():
            raise OperatorError("What is looked after wants a name.")
        if self.hours < 0.0 or self.days < 0 or self.hours > 1e5 or self.days > 36_500 or not (self.hours or self.days):
            raise OperatorError("Say after how many running hours it is due, or after how many days, or both.")
        if self.last:
            day_of(self.last)
        return self


SHIPPED = (
    Check("Skim the spoilboard", hours=40.0, lapses="the bed's flatness, and every height that is counted from it"),
    Check("Tram the spindle", hours=100.0, days=182, lapses="flat floors: ridges from pass to pass say it first"),
    Check("Clean collets and nuts, look for rust and cracks", hours=20.0, lapses="grip, and how true a bit runs"),
    Check("Change collets", hours=500.0, days=730, lapses="grip: collets wear out"),
    Check("Square of X and Y, by its diagonals", hours=200.0, days=182, lapses="square parts, flipped parts, steps"),
    Check("Touch plate, measured", days=182, lapses="every Z0 that was set with it"),
    Check("Extraction: bag, filter, hose", hours=20.0, days=30, lapses="air that is fit to breathe"),
    Check("Stop button and limits, tried", days=30, lapses="that it stops when it must: the machine's manual says how it is tried"),
    Check("Extinguisher at the door, dust bin with its lid, outdoors", days=30, lapses="what is at hand when it smoulders"),
)  # fmt: skip


def plate_check(name: str, last: str) -> Check:
    """One of the shop's plates or sensors, by the date that is kept with it."""
    try:
        when = day_of(last).isoformat() if last else ""
    except OperatorError:
        when = ""  # what is no date is no proof that it was measured
    return Check("Measured", name, days=182, last=when, lapses="every Z0 that was set with it")


SKIM, SQUARE = SHIPPED[0].name, SHIPPED[4].name


def known_elsewhere(check: Check, skimmed: Mapping[str, str], squared: Mapping[str, str]) -> Check:
    """A check, done as late as what is kept of the machines says: a bed that was skimmed as a job, a gantry that was squared. skimmed, squared: dates by the machines' names; a check that names no machine is of
    the only one."""
    dates = {SKIM: skimmed, SQUARE: squared}.get(check.name, {})
    if not check.of and len(dates) != 1:
        return check
    when = dates.get(check.of) if check.of else next(iter(dates.values()))
    try:
        return newer(check, day_of(when).isoformat()) if when else check
    except OperatorError:
        return check  # what is no date is no proof


def newer(check: Check, last: str) -> Check:
    """A check, done when it says or on another date, whichever is later."""
    return replace(check, last=last) if last > check.last else check


def day_of(text: str) -> date:
    """A date as it is typed, what stands behind it left out. Raises OperatorError."""
    try:
        return date.fromisoformat(text[:10])
    except ValueError:
        raise OperatorError(f"“{text}” is not a date: type it as 2026-11-30.") from None


@dataclass(frozen=True)
class DueCheck:
    """A check as it stands. hours: run since it was done last; days: gone since; share: of what it is good for, 1 and over is due; never: nobody has ever done it."""

    check: Check
    hours: float
    days: int | None
    share: float
    never: bool

    @property
    def due(self) -> bool:
        """Whether it is."""
        return self.never or self.share >= 1.0

    @property
    def soon(self) -> bool:
        """Whether it will be before long."""
        return not self.due and self.share >= SOON

    def told(self) -> str:
        """In a sentence."""
        c = self.check
        if self.never:
            return "never done as far as is known: due"
        parts = []
        if c.hours:
            parts.append(f"{self.hours:.1f} of {c.hours:g} running hours")
        if c.days and self.days is not None:
            parts.append(f"{self.days} of {c.days} days")
        state = "due" if self.due else "due soon" if self.soon else "good"
        return f"{state}: {' · '.join(parts)} since {c.last[:10]}"


def hours_since(runs: Sequence[TimedRow], day: str, machine_or_tool: str = "", tools: Sequence[str] = ()) -> float:
    """Hours that shop runs took since a date, that day counted; of a tool alone where it is named among the shop's tools, of a machine alone where rows name it. What nobody timed counts as it was planned,
    by as much of it as was done."""
    mine = machine_or_tool.strip().casefold()
    of_tool = any(mine == t.casefold() for t in tools)
    of_machine = not of_tool and bool(mine) and any(_machine(run) == mine for run in runs)
    out = 0.0
    for run in runs:
        if run.kind != "shop" or run.started[:10] < day[:10]:
            continue
        if (of_tool and tool_of(run).casefold() != mine) or (of_machine and _machine(run) not in ("", mine)):
            continue
        minutes = run.real_minutes if run.real_minutes is not None else run.planned_minutes * getattr(run, "share", 1.0)
        out += minutes / 60.0
    return out


def _machine(run: TimedRow) -> str:
    return str(getattr(run, "machine", "")).casefold()


def due_of(check: Check, runs: Sequence[TimedRow], today: date, tools: Sequence[str] = ()) -> DueCheck:
    """How one stands today."""
    if not check.last:
        return DueCheck(check, 0.0, None, 1.0, True)
    last = day_of(check.last)
    hours = hours_since(runs, check.last, check.of, tools) if check.hours else 0.0
    days = (today - last).days
    shares = [hours / check.hours] if check.hours else []
    shares += [days / check.days] if check.days else []
    return DueCheck(check, hours, days, max(shares, default=0.0), False)


def all_due(
    checks: Sequence[Check], runs: Sequence[TimedRow], today: date, tools: Sequence[str] = ()
) -> tuple[DueCheck, ...]:
    """All, what is due first, then by how near it is."""
    found = [due_of(c, runs, today, tools) for c in checks]
    return tuple(sorted(found, key=lambda d: (not d.due, -d.share, d.check.name)))


def done_today(check: Check, today: date, by: str = "", found: str = "") -> Check:
    """A check, done."""
    return replace(check, last=today.isoformat(), by=by.strip(), found=found.strip())


HANDING_OVER = (
    "The bit is out of the collet, and lies where it hangs",
    "The drawer was counted, and what is missing is written down",
    "Clamps, screws, plates and keys lie in their places; no key is in the chuck",
    "The bed is clear, and its scars are marked",
    "Dust is taken up, the bag looked at; nothing smoulders, oily rags are in water or outdoors",
    "Drives and spindle are switched off, and the machine is isolated",
    "The next person is told what is wrong and what is due",
)


@dataclass(frozen=True)
class Handover:
    """That the machine was handed over. answers: to each of the points, in their order; from_, to: who; at: when; told: what whoever comes next has to know."""

    at: str
    from_: str
    to: str
    points: tuple[str, ...]
    answers: tuple[bool, ...]
    told: str = ""

    def checked(self) -> Handover:
        """Itself. Raises OperatorError."""
        if not self.from_.strip():
            raise OperatorError("Who hands it over signs with a name.")
        if len(self.points) != len(self.answers):
            raise OperatorError("Each point wants an answer.")
        if not all(self.answers) and not self.told.strip():
            raise OperatorError("A point is open: write down what is wrong, for the next person.")
        return self

    @property
    def whole(self) -> bool:
        """Whether every point was seen to."""
        return all(self.answers)
