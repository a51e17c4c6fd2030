# SPDX-License-Identifier: GPL-3.0-or-later
"""Parts of a batch as the journal has them: one after another on fresh boards."""

from __future__ import annotations

from collections.abc import Collection

from gatepost.core.job.journal import Entry, Journal
from gatepost.core.register.repeats import PartCut


def boards(journal: Journal) -> list[list[Entry]]:
    """What happened to each board, in their order: the last is on the bed, or is to come."""
    out: list[list[Entry]] = [[]]
    for e in journal.standing():
        if e.kind == "fresh board":
            out.append([])
        else:
            out[-1].append(e)
    return out


def parts_of(journal: Journal, operations: Collection[str]) -> list[PartCut]:
    """Each part that was begun. operations: all that make one: it is cut once each was run to its end, by whichever program and bit that was then."""
    out: list[PartCut] = []
    for entries in boards(journal):
        done, at = _done(entries)
        if not any(e.kind in ("laid", "run started", "proved", "ringed") for e in entries) and out:
            continue  # a fresh board was told of, and nothing was done with it yet
        cut = bool(operations) and all(any(_did(does, name) for does in done) for name in operations)
        out.append(PartCut(len(out) + 1, cut, at, _seen(entries)))
    return out


def _did(does: str, name: str) -> bool:
    """Whether a program did an operation, or with a bit of several what that was to do of it."""
    return f" and {name} and " in does or f" and {name}, " in does


def _done(entries: list[Entry]) -> tuple[list[str], str]:
    """What each program did that ran to its end, between “ and ”s; when the last of them had."""
    does: dict[str, str] = {}
    done, at = [], ""
    for e in entries:
        program = str(e.data.get("program"))
        if e.kind == "run started":
            does[program] = f" and {e.data.get('does', '')} and "
        if e.kind == "run ended" and e.data.get("outcome") == "done" and program in does:
            done.append(does[program])
            at = e.at
    return done, at


def _seen(entries: list[Entry]) -> tuple[float, float] | None:
    """How far its marks lay off when they were looked at first, in their middle: rings, which tell more, where there are any."""
    for kind in ("ringed", "proved"):
        found: dict[str, tuple[float, float]] = {}
        for e in entries:
            if e.kind == "moved" and found:
                break
            if e.kind == kind:
                found[str(e.data["mark"])] = (float(e.data["x"]), float(e.data["y"]))
        if found:
            return sum(x for x, _ in found.values()) / len(found), sum(y for _, y in found.values()) / len(found)
    return None
