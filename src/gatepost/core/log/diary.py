# SPDX-License-Identifier: GPL-3.0-or-later
"""All that happened to a job, in its order, as one reads a diary of the bench: the journal's entries, the runs, what was said, what was accepted, and how it came out."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from types import MappingProxyType
from typing import TYPE_CHECKING

from gatepost.core.job.journal import Entry, Journal
from gatepost.core.job.model import Job
from gatepost.core.log.judged import Result
from gatepost.core.units import mm

if TYPE_CHECKING:
    from gatepost.core.log.filtering import RunRow

REST = 30.0  # minutes without an entry, over which nobody is taken to have worked; a shop rule
SIMULATED = "simulated"


@dataclass(frozen=True)
class DiaryLine:
    """at: ISO time; kind: touch, run, said, answer, setup, finish, result; words: a sentence; where: the setup; simulated: nothing of it happened in the shop; taken_back: a later entry took it back; goes: 1 where
    a program begins with it, -1 where one ends; picture: the name of one that is kept with it."""

    at: str
    kind: str
    words: str
    where: str = ""
    simulated: bool = False
    taken_back: bool = False
    goes: int = 0
    picture: str = ""

    @property
    def day(self) -> str:
        """Its date."""
        return self.at[:10]

    @property
    def time(self) -> str:
        """Hours and minutes."""
        return self.at[11:16]


Say = Callable[[Entry], str]


def _t(e: Entry, name: str, lead: str = "", tail: str = "") -> str:
    """A word or a length of an entry, where it has it."""
    value = e.data.get(name)
    if value in (None, ""):
        return ""
    return f"{lead}{mm(value) if isinstance(value, float) else value}{tail}"


def _n(e: Entry, name: str) -> str:
    value = e.data.get(name)
    return f"{value:g}" if isinstance(value, float) else str(value or "")


def _why(e: Entry, lead: str = ": ") -> str:
    return f"{lead}{e.data['why']}" if e.data.get("why") else ""


SAID: dict[str, tuple[str, Say]] = {
    "homed": ("setup", lambda e: "Homed."),
    "fitted": ("setup", lambda e: f"T{_n(e, 'tool')} fitted{_t(e, 'length', ', its tip ', ' below the nut')}." if e.data.get("tool") else "A bit fitted."),
    "warmed": ("setup", lambda e: "Spindle warmed up."),
    "touched": ("touch", lambda e: f"{_n(e, 'axis').upper()} touched{_t(e, 'gauge', ', with ', ' between')}, at {_t(e, 'machine')} on the machine{_t(e, 'spread', ', within ')}."),
    "ticked": ("setup", lambda e: f"{'Taken back' if e.data.get('off') else 'Done'}: {_n(e, 'step').replace('-', ' ')}."),
    "surfaced": ("run", lambda e: f"Surfaced{_t(e, 'plane', ', its face ', ' above the bed')}."),
    "bumped": ("setup", lambda e: f"The board was knocked or moved{_why(e)}."),
    "clamped": ("setup", lambda e: f"Clamps were changed{_why(e)}."),
    "shimmed": ("setup", lambda e: f"Shims were changed{_why(e)}."),
    "turned": ("setup", lambda e: "Turned over."),
    "bed skimmed": ("setup", lambda e: "The bed was skimmed."),
    "stalled": ("setup", lambda e: f"It stalled{_why(e)}."),
    "power cut": ("setup", lambda e: f"The power was cut{_why(e)}."),
    "witness": ("touch", lambda e: f"Witness mark looked at{_t(e, 'x', ': ')}{_t(e, 'y', ' and ', ' off')}{_t(e, 'within', ', within ', ' allowed')}."),
    "run started": ("run", lambda e: f"{_n(e, 'program')} begun."),
    "run ended": ("run", lambda e: f"{_n(e, 'program') or 'A program'} ended{_t(e, 'outcome', ': ')}{_why(e)}."),
    "answered": ("answer", lambda e: f"Answered{_why(e)}."),
    "remark": ("said", lambda e: f"Cut by {e.data['instead']} in the place of T{_n(e, 'tool')}, knowingly{_why(e)}." if e.data.get("instead") else f"Remark{_t(e, 'what', ': ')}{_why(e)}."),
    "ledger touched": ("touch", lambda e: f"The {_n(e, 'on')} touched for the ledger, at {_t(e, 'machine')} on the machine."),
    "ledger zero": ("touch", lambda e: f"The ledger's zero set, at {_t(e, 'machine')} on the machine."),
    "ledger pass": ("run", lambda e: f"A pass by the ledger, {_t(e, 'depth')} under its zero."),
    "probed": ("touch", lambda e: f"Heights probed at {_n(e, 'places') or 'some'} places{_t(e, 'spread', ', within ')}."),
    "measured": ("touch", lambda e: f"Measured at its corners{_t(e, 'corner1', ': ')}{_t(e, 'corner2', ', ')}{_t(e, 'corner3', ', ')}{_t(e, 'corner4', ', ')}{_t(e, 'thickness', ', thick ')}."),
    "rocked": ("answer", lambda e: f"Rock test: {'it lies still' if e.data.get('answer') == 'still' else 'it rocks'}."),
    "sensed": ("touch", lambda e: f"T{_n(e, 'tool')} touched the fixed sensor, at {_t(e, 'machine')} on the machine."),
    "squared": ("touch", lambda e: f"Pushed square{_t(e, 'push', ', by ')}."),
    "laid": ("setup", lambda e: "Laid on the bed." if not e.data.get("still") else "Left on the bed as it lay."),
    "red button": ("setup", lambda e: f"The red button was pressed{_why(e)}."),
    "link lost": ("setup", lambda e: f"The link was lost{_why(e)}."),
    "switched on": ("setup", lambda e: "Switched on."),
    "drives off": ("setup", lambda e: "Drives switched off."),
    "jogged": ("setup", lambda e: f"Moved by hand{_why(e)}."),
    "noted": ("touch", lambda e: f"Witness mark made, {_t(e, 'x')} and {_t(e, 'y')} from where it was meant."),
    "stopped": ("setup", lambda e: f"Stopped{_why(e)}."),
    "gauged": ("touch", lambda e: f"T{_n(e, 'tool')} cut {_t(e, 'depth')} deep{_t(e, 'planned', ', ', ' planned')}."),
    "fresh board": ("setup", lambda e: "A fresh board."),
    "taken up": ("setup", lambda e: "Taken off the bed."),
    "marked": ("touch", lambda e: f"Mark {_n(e, 'mark')} read at {_t(e, 'x')}, {_t(e, 'y')}{_t(e, 'within', ', within ')}."),
    "proved": ("touch", lambda e: f"Mark {_n(e, 'mark')} seen {_t(e, 'x')} and {_t(e, 'y')} beside the tip."),
    "ringed": ("touch", lambda e: f"The old hole {_n(e, 'mark')} seen {_t(e, 'x')} and {_t(e, 'y')} beside the middle of its ring."),
    "moved": ("setup", lambda e: f"Taken to lie {_t(e, 'x')} and {_t(e, 'y')} otherwise, turned by {_n(e, 'degrees')}°."),
}  # fmt: skip
KINDS = {
    "touch": "Touches and measures", "run": "Runs", "said": "Remarks", "answer": "Answers", "setup": "At the machine", "finish": "Finish", "result": "How it came out",
}  # fmt: skip


Titles = Mapping[tuple[str, str], str]  # of steps, by their setup and their key
NO_TITLES: Titles = MappingProxyType({})


def entry_line(e: Entry, back: bool = False, titles: Titles = NO_TITLES) -> DiaryLine:
    """An entry of the journal in words. titles: of the steps that can be ticked, as far as they are known."""
    kind, say = SAID[e.kind]
    title = titles.get((e.setup, str(e.data.get("step", "")))) if e.kind == "ticked" else None
    if title:
        return DiaryLine(
            e.at, kind, f"{'Taken back' if e.data.get('off') else 'Done'}: {title}", e.setup, taken_back=back
        )
    goes = {"run started": 1, "run ended": -1}.get(e.kind, 0)
    return DiaryLine(e.at, kind, say(e), e.setup, taken_back=back, goes=goes)


def run_lines(run: RunRow) -> list[DiaryLine]:
    """A row of the logbook: how it began and ended, what was changed and said meanwhile."""
    simulated = run.kind != "shop"
    where = run.setup
    told = f"Run {run.id}, {'simulated' if simulated else 'in the shop'}: {run.program} with {run.tool}, {run.planned_minutes:.1f} min planned."
    ended = getattr(run, "ended", "")
    out = [DiaryLine(run.started, "run", told, where, simulated, goes=1 if ended else 0)]
    for o in getattr(run, "overrides", []):
        if isinstance(o, dict) and "at" in o:
            words = f"Feed set to {o['percent']:.0f} %" if "percent" in o else f"Spindle set to {o.get('rpm', 0):.0f} %"
            out.append(DiaryLine(str(o["at"]), "run", f"{words}, at block {o.get('block', 0)}.", where, simulated))
    for s in getattr(run, "stops", []):
        if isinstance(s, dict) and "at" in s:
            out.append(DiaryLine(str(s["at"]), "run", f"{s.get('what', 'a stop')} asked for.".capitalize(), where, simulated))  # fmt: skip
    for m in run.marks:
        if isinstance(m, dict) and "at" in m:
            out.append(DiaryLine(str(m["at"]), "said", f"“{m.get('what', '')}”, at block {m.get('block', 0)}.", where, simulated))  # fmt: skip
    if ended:
        real = "" if run.real_minutes is None else f", {run.real_minutes:.1f} min"
        why = f": {run.reason}" if run.reason else ""
        out.append(DiaryLine(ended, "run", f"Run {run.id} {run.state}{real}{why}.", where, simulated, goes=-1))
    if run.remarks.strip():
        out.append(DiaryLine(ended or run.started, "said", f"Remark on run {run.id}: {run.remarks.strip()}", where, simulated))  # fmt: skip
    return out


def result_lines(result: Result) -> list[DiaryLine]:
    """How a piece came out."""
    simulated = result.kind != "shop"
    told = [f"Judged. {result.told()}{f' {result.words}' if result.words else ''}"]
    told += [p.told() for p in result.points if p.judged]
    told += [w.told() for w in result.warnings if w.held is not None]
    told += [
        f"Lesson “{x.words}”: it {'held' if x.held else 'did not hold'}." for x in result.lessons if x.held is not None
    ]
    return [
        DiaryLine(result.at, "result", words, "", simulated, picture=result.picture if n == 0 else "")
        for n, words in enumerate(told)
    ]


def diary(
    job: Job, journal: Journal, runs: Sequence[RunRow] = (), results: Sequence[Result] = (), titles: Titles = NO_TITLES
) -> tuple[DiaryLine, ...]:  # fmt: skip
    """All of it, in the order of time; what has the same time as it was written. An entry of the journal belongs to the run that it led to, the next to end after it, else to the last: where that
    was simulated, so was it."""
    back = {int(float(e.data["seq"])) for e in journal.entries if e.kind == "corrected"}
    ran = sorted(runs, key=lambda r: r.id)  # of one second, as they were run
    lines = [
        replace(entry_line(e, e.seq in back, titles), simulated=_simulated_at(e.at, ran))
        for e in journal.entries
        if e.kind != "corrected"
    ]
    for run in ran:
        lines += run_lines(run)
    for result in results:
        lines += result_lines(result)
    for step in job.finish.done:
        took = f", {step.minutes:.0f} min of hands, {step.planned:.0f} by shop rules" if step.minutes else ""
        words = f"{step.work.capitalize() or 'Carved'}: done{took}."
        lines.append(DiaryLine(step.at, "finish", words, simulated=_simulated_at(step.at, ran)))
    for one in job.approvals:
        words = f"{one.by} approved the design “{one.design}”{f': {one.words}' if one.words else '.'}"
        lines.append(DiaryLine(one.at, "answer", words))
    for a in job.accepted:
        lines.append(DiaryLine(a.at, "answer", f"Accepted ({a.code.replace('.', ': ').replace('-', ' ')}): {a.reason}", a.setup))  # fmt: skip
    return tuple(sorted(lines, key=lambda line: line.at))


def _simulated_at(at: str, ran: Sequence[RunRow]) -> bool:
    """Whether what happened then happened at a simulated machine. ran: the job's runs, in their order."""
    run = next((r for r in ran if (getattr(r, "ended", "") or r.started) >= at), ran[-1] if ran else None)
    return run is not None and run.kind != "shop"


def minutes_worked(lines: Sequence[DiaryLine]) -> dict[str, float]:
    """Minutes in which something was done at the bench, by whether a program ran: running, preparing. A stretch of over half an hour without an entry is not counted, unless a run fills it."""
    out = {"running": 0.0, "preparing": 0.0}
    ran = 0
    last: datetime | None = None
    for line in lines:
        if line.kind in ("result", "finish") or line.simulated:
            continue
        at = _time(line.at)
        if at is None:
            continue
        if last is not None:
            minutes = max(0.0, (at - last).total_seconds() / 60.0)
            if ran:
                out["running"] += minutes
            elif minutes <= REST:
                out["preparing"] += minutes
        last = at
        ran = max(
            0, ran + line.goes
        )  # a run by the link stands in the journal and in the log: it is over when both are
    return out


def _time(text: str) -> datetime | None:
    try:
        return datetime.fromisoformat(text.replace("Z", "+00:00")).replace(tzinfo=None)
    except ValueError:
        return None


def sought(lines: Sequence[DiaryLine], words: str = "", kind: str = "", simulated: bool | None = None) -> tuple[DiaryLine, ...]:  # fmt: skip
    """Lines that have all these words, are of a kind, and of the shop or simulated."""
    wanted = words.casefold().split()
    return tuple(
        line
        for line in lines
        if (not kind or line.kind == kind)
        and (simulated is None or line.simulated == simulated)
        and all(w in f"{line.words} {line.where} {line.at[:10]}".casefold() for w in wanted)
    )
