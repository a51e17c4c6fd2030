# SPDX-License-Identifier: GPL-3.0-or-later
"""What of the Register page is about proving where a piece lies: marks that are looked at, and rings round old holes."""

from __future__ import annotations

from functools import partial
from typing import Any

from gatepost.core.job.commands.proof import more_to_look_at
from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.register import PieceMark, Ring
from gatepost.core.plan.proved import ring_art, ring_width
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act, single

FOLDS = 4  # fields of a mark on a line
MARK = (("what it is", "words", "title"), ("X", "length", "x"), ("Y", "length", "y"), ("normal", "number", "normal"))


def proof(job: Job, s: Setup) -> tuple[Group, ...]:
    """Marks that the tip goes over before wood is cut, and rings."""
    return tuple(g for g in (_looks(job, s), _ring(job, s)) if g.rows or g.acts)


def mark_row(m: PieceMark, command: str, fixed: dict[str, Any], away: Act) -> PageRow:
    """A mark as it is typed: what it is, where, and of an edge which way its outside is. fixed: what tells it in the command."""
    called = m.title or m.id
    entries = tuple(
        PageEntry(
            f"{called}: {label}",
            typed,
            getattr(m, field),
            command,
            partial(_with, fixed, field),
            optional=field == "normal",
        )
        for label, typed, field in MARK
    )
    return PageRow(entries, "", away)


def _with(fixed: dict[str, Any], field: str, value: Any) -> dict[str, Any]:
    return {**fixed, field: value}


def _looks(job: Job, s: Setup) -> Group:
    acts = [act("Add a mark to look at", "add look", setup=s.id, title="a mark", x=0.0, y=0.0)]
    if more_to_look_at(job, s):
        acts.insert(0, act("Take what is there already", "looks from art", setup=s.id))
    rows = tuple(
        mark_row(
            m,
            "set look",
            {"setup": s.id, "look": m.id},
            act(f"Do not look at {m.title or m.id}", "remove look", setup=s.id, look=m.id),
        )
        for m in s.proof
    )
    columns = ("What it is", "X", "Y", "Edge looks to, °") if rows else ()
    return Group("Proof before wood: the tip goes over these", rows, columns, tuple(acts), FOLDS)


def _ring(job: Job, s: Setup) -> Group:
    """The ring that is cut, or old holes that one could be cut round."""
    title = "Witness ring, cut before all else"
    if s.ring is None:
        drilled = {i for x in job.setups for o in x.operations if o.kind == "drill" for i in o.on}
        old = [a for a in job.artwork if isinstance(a.figures, HolesFigures) and a.id not in drilled and a.face == s.up]
        acts = tuple(act(f"A ring round {a.title or a.id}", "add ring", setup=s.id, of=a.id) for a in old)
        return Group(title, (), acts=acts)
    both = ring_art(job, s)
    wide = ring_width(*both) if both is not None else 0.0
    rows = [single("How wide", "length", wide, "set ring", "wide", setup=s.id)]
    rows += [_entry(s, s.ring, label, field) for label, field in LIMITS]
    return Group(title, tuple(rows), acts=(act("No ring", "remove ring", setup=s.id),))


LIMITS = (
    ("Hole may lie off its middle", "limit"),
    ("Board is higher at its right end by", "right"),
    ("Board is higher at its back by", "back"),
)


def _entry(s: Setup, ring: Ring, label: str, field: str) -> PageRow:
    return single(label, "length", getattr(ring, field), "set ring", field, setup=s.id)
