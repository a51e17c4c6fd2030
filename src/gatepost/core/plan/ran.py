# SPDX-License-Identifier: GPL-3.0-or-later
"""Programs that were run before the piece was found, or seen, to lie otherwise: the same cut, written turned since."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from gatepost.core.job.journal import Entry, Journal
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.oldcuts import PATH
from gatepost.core.plan.planned import ProgramFile

LONGER, BESIDE = 1e-4, 0.02  # share, and mm, by which the same cut is told otherwise once it is written turned


def as_ran(c: Cuts, journal: Journal) -> Cuts:
    """A setup whose programs know by which fingerprint they were run, where the piece was found, or seen, to lie otherwise since: what was cut by then stays cut, and is not cut
    again for being written turned now."""
    entries = [e for e in journal.this_board() if e.setup == c.draft.setup.name]
    last = max((i for i, e in enumerate(entries) if e.kind in ("moved", "marked")), default=0)
    ran = [e for e in entries[:last] if e.kind == "run started" and all(n in e.data for n in PATH)]
    if not ran:
        return c
    return replace(c, programs=tuple(_as_ran(c, p, ran) for p in c.programs))


def _as_ran(c: Cuts, p: ProgramFile, ran: Sequence[Entry]) -> ProgramFile:
    mine = [e for e in ran if e.data.get("program") == p.name and e.data.get("does") == " and ".join(p.operations)]
    if not mine or mine[-1].data.get("fingerprint") == p.fingerprint:
        return p
    long, *middle = c.draft.placed.to_work.inverse().moves(p.moves).cutting_path()
    then, *was = (float(mine[-1].data[n]) for n in PATH)
    same = abs(long - then) <= LONGER * then + BESIDE and max(abs(a - b) for a, b in zip(middle, was)) <= BESIDE
    return replace(p, ran=str(mine[-1].data["fingerprint"])) if same else p
