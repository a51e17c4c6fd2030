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


def parts_of(journal: Journal, programs: Collection[str]) -> list[PartCut]:
    """Each part that was begun. programs: names of all that make one."""
    out: list[PartCut] = []
    for entries in boards(journal):
        ended = {
            str(e.data.get("program")): e.at
            for e in entries
            if e.kind == "run ended" and e.data.get("outcome") == "done"
        }
        if not any(e.kind in ("laid", "run started", "proved", "ringed") for e in entries) and out:
            continue  # a fresh board was told of, and nothing was done with it yet
        cut = bool(programs) and all(p in ended for p in programs)
        out.append(PartCut(len(out) + 1, cut, max(ended.values(), default=""), _seen(entries)))
    return out


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
