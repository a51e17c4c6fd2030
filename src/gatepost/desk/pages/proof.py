# SPDX-License-Identifier: GPL-3.0-or-later
"""What of the Register page is about proving where a piece lies: marks that are looked at, and rings round old holes."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from gatepost.core.job.commands.old import old_letters
from gatepost.core.job.commands.proof import more_to_look_at
from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork
from gatepost.core.job.register import PieceMark, Ring
from gatepost.core.job.turning import face_size
from gatepost.core.plan.kinds import Kinds
from gatepost.core.plan.proved import ring_art, ring_width
from gatepost.desk.pages.carve import art_rows
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act, single

if TYPE_CHECKING:
    from gatepost.core.plan.result import Plan

MARK = (
    ("what it is", "words", "title"),
    ("X", "length", "x"),
    ("Y", "length", "y"),
    ("normal", "number", "normal"),
    ("wide", "length", "across"),
)


def proof(job: Job, s: Setup, kinds: Kinds) -> tuple[Group, ...]:
    """Marks that the tip goes over before wood is cut, rings, and old holes that both may be about."""
    return tuple(g for g in (_looks(job, s), _ring(job, s), *_old(job, s, kinds)) if g.rows or g.acts)


def _old(job: Job, s: Setup, kinds: Kinds) -> list[Group]:
    """Holes that are there already, and that nothing drills."""
    long, wide = face_size(job.blank, s.up)
    new = act("Holes that are there already", "add art", kind="holes", title="Old holes", face=s.up, x=0.5 * long, y=0.5 * wide)  # fmt: skip
    return [
        *(
            Group(
                f"{a.title or a.id}, there already",
                tuple(art_rows(job, a, kinds.operations["drill"].art_entries)),
                acts=(act(f"Take {a.title or a.id} away", "remove art", art=a.id),),
            )
            for a in _old_holes(job, s)
        ),
        *(_old_letters(job, s, a) for a in old_letters(job, s.up)),
        Group("What is there already", (), acts=(new,)),
    ]


def _old_letters(job: Job, s: Setup, a: Artwork) -> Group:
    """Old lettering: mended, cut again, or taken away. Lettering whose cut is taken away on the Carve page stays as this."""
    called = a.title or a.id

    def mend(plan: Plan | None) -> dict[str, Any] | None:
        from gatepost.core.plan.mended import mending

        return mending(job, a).values(s.id, a.id) if plan is not None else None

    acts = (
        Act(f"Mend {called}: a recess that swallows it", "mend lettering", mend),
        act(f"Cut {called} again, a little deeper", "cut again", setup=s.id, art=a.id),
        act(f"Take {called} away", "remove art", art=a.id),
    )
    return Group(f"{called}, there already", (), acts=acts)


def _old_holes(job: Job, s: Setup) -> list[Artwork]:
    drilled = {i for x in job.setups for o in x.operations if o.kind == "drill" for i in o.on}
    return [a for a in job.artwork if isinstance(a.figures, HolesFigures) and a.id not in drilled and a.face == s.up]


def mark_row(m: PieceMark, command: str, fixed: dict[str, Any], away: Act, more: tuple[str, ...] = ()) -> PageRow:
    """A mark as it is typed: what it is and where; more: which other fields of it are. fixed: what tells it in the command."""
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
        if field in ("title", "x", "y", *more)
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
    columns = ("What it is", "X", "Y") if rows else ()
    return Group("Proof before wood: the tip goes over these", rows, columns, tuple(acts))


def _ring(job: Job, s: Setup) -> Group:
    """The ring that is cut, or old holes that one could be cut round."""
    title = "Witness ring, cut before all else"
    if s.ring is None:
        acts = tuple(
            act(f"A ring round {a.title or a.id}", "add ring", setup=s.id, of=a.id) for a in _old_holes(job, s)
        )
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
