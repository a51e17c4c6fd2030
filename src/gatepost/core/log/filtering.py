# SPDX-License-Identifier: GPL-3.0-or-later
"""Rows of the log that are wanted: by words, wood, tool, kind of work, date, state, and whether they are of the shop."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Protocol


class TimedRow(Protocol):
    """What hours are added up from."""

    @property
    def started(self) -> str: ...
    @property
    def kind(self) -> str: ...
    @property
    def tool(self) -> str: ...
    @property
    def planned_minutes(self) -> float: ...
    @property
    def real_minutes(self) -> float | None: ...


class RunRow(TimedRow, Protocol):
    """What is read of a row."""

    @property
    def id(self) -> int: ...
    @property
    def state(self) -> str: ...
    @property
    def job(self) -> str: ...
    @property
    def setup(self) -> str: ...
    @property
    def program(self) -> str: ...
    @property
    def blank(self) -> str: ...
    @property
    def wood(self) -> str: ...
    @property
    def remarks(self) -> str: ...
    @property
    def reason(self) -> str: ...
    @property
    def cuts(self) -> list[object]: ...
    @property
    def marks(self) -> list[object]: ...


@dataclass(frozen=True)
class RowFilter:
    """Which rows. words: each of them somewhere in a row; work: a kind of cut; since, until: dates, both counted; kind: shop or simulated; nothing for any."""

    words: str = ""
    wood: str = ""
    tool: str = ""
    work: str = ""
    since: str = ""
    until: str = ""
    kind: str = ""
    state: str = ""


def tool_of(run: TimedRow) -> str:
    """A row's tool by its name, whatever its number was."""
    return run.tool.partition(" ")[2] if run.tool[:1] == "T" and run.tool[1:2].isdigit() else run.tool


def works_of(run: RunRow) -> tuple[str, ...]:
    """The kinds of its cuts, each once."""
    return tuple(dict.fromkeys(str(c["kind"]) for c in run.cuts if isinstance(c, dict) and c.get("kind")))


def said_of(run: RunRow) -> str:
    """All that was said of it."""
    marks = [str(m.get("what", "")) for m in run.marks if isinstance(m, dict)]
    return " · ".join(t for t in (run.remarks.strip(), *marks) if t)


@dataclass(frozen=True)
class KnownRow:
    """A row with what it is looked for by, made once. text: all of it that words are looked for in, without regard to capitals."""

    run: RunRow
    wood: str
    tool: str
    works: tuple[str, ...]
    day: str
    text: str


def known(run: RunRow) -> KnownRow:
    """A row made ready to be looked through."""
    works = works_of(run)
    text = " ".join(
        (
            str(run.id),
            run.job,
            run.program,
            run.setup,
            run.tool,
            run.blank,
            run.wood,
            run.state,
            run.kind,
            run.reason,
            getattr(run, "machine", ""),
            said_of(run),
            *works,
        )
    )
    return KnownRow(run, run.wood.casefold(), tool_of(run).casefold(), works, run.started[:10], text.casefold())  # fmt: skip


def chosen(rows: Sequence[KnownRow], wanted: RowFilter) -> list[RunRow]:
    """Those that are wanted, in their order."""
    words = wanted.words.casefold().split()
    wood, tool = wanted.wood.strip().casefold(), wanted.tool.strip().casefold()
    return [
        r.run
        for r in rows
        if (not wanted.kind or r.run.kind.startswith(wanted.kind))
        and (not wanted.state or r.run.state == wanted.state)
        and (not wood or r.wood == wood)
        and (not tool or r.tool == tool)
        and (not wanted.work or wanted.work in r.works)
        and (not wanted.since or r.day >= wanted.since)
        and (not wanted.until or r.day <= wanted.until)
        and all(w in r.text for w in words)
    ]


@dataclass(frozen=True)
class Choices:
    """What there is to choose from in some rows, each in order."""

    woods: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()
    works: tuple[str, ...] = field(default=())


def choices(rows: Sequence[KnownRow]) -> Choices:
    """Woods, tools and kinds of work of rows."""

    def each(values: Sequence[str]) -> tuple[str, ...]:
        return tuple(sorted({v for v in values if v}, key=str.casefold))

    return Choices(
        each([r.run.wood for r in rows]), each([tool_of(r.run) for r in rows]), each([w for r in rows for w in r.works])
    )


def totals(rows: Sequence[RunRow]) -> dict[str, tuple[int, float, float]]:
    """Of shop and of simulated rows apart: how many, minutes planned and minutes really taken, of those of which both are known."""
    out: dict[str, tuple[int, float, float]] = {}
    for run in rows:
        kind = "shop" if run.kind == "shop" else "simulated"
        count, planned, real = out.get(kind, (0, 0.0, 0.0))
        both = run.real_minutes is not None and run.state == "done"
        out[kind] = (count + 1, planned + (run.planned_minutes if both else 0.0), real + (run.real_minutes or 0.0 if both else 0.0))  # fmt: skip
    return out


COMPARED = (
    ("job", "Job"), ("wood", "Wood"), ("blank", "Board"), ("tool", "Tool"), ("machine", "Machine"), ("setup", "Setup"), ("program", "Program"), ("state", "State"), ("kind", "Kind"),
    ("planned", "Planned, min"), ("real", "Real, min"), ("ratio", "Real over planned"), ("chip", "Chip, mm a tooth"), ("feed", "Feed kept at, %"),
    ("metres", "Cut, m"), ("stops", "Pauses and stops"), ("said", "Said"), ("reason", "Why it ended"),
)  # fmt: skip


def side_by_side(runs: Sequence[RunRow]) -> list[tuple[str, tuple[str, ...], bool]]:
    """Rows of a table of runs beside each other: what, each run's, and whether they differ. What none of them has is left out."""
    columns = [_compared(run) for run in runs]
    out = []
    for name, words in COMPARED:
        values = tuple(c[name] for c in columns)
        if any(values):
            out.append((words, values, len(set(values)) > 1))
    return out


def _compared(run: RunRow) -> dict[str, str]:
    real = run.real_minutes
    feeds = [o["percent"] for o in getattr(run, "overrides", []) if isinstance(o, dict) and "percent" in o]
    chip, metres = getattr(run, "chip", 0.0), getattr(run, "metres", 0.0)
    return {
        "job": run.job, "wood": run.wood, "blank": run.blank, "tool": run.tool, "machine": getattr(run, "machine", ""), "setup": run.setup, "program": run.program, "state": run.state, "kind": run.kind,
        "planned": f"{run.planned_minutes:.1f}", "real": "" if real is None else f"{real:.1f}",
        "ratio": f"{real / run.planned_minutes:.2f}" if real is not None and run.planned_minutes > 0 and run.state == "done" else "",
        "chip": f"{chip:.3f}" if chip else "", "metres": f"{metres:.1f}" if metres else "", "feed": f"{feeds[-1]:.0f}" if feeds else "",
        "stops": str(len(getattr(run, "stops", []))) if getattr(run, "stops", []) else "", "said": said_of(run), "reason": run.reason,
    }  # fmt: skip
