# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of rival designs: kept, taken in the place of the one that is worked on, renamed, taken away."""

from __future__ import annotations

import hashlib

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.commands.parts import Commands, free_id, in_setup, one_of
from gatepost.core.job.designs import MOST_APPROVALS, MOST_DESIGNS, Approval, Design, DesignSetup
from gatepost.core.job.model import Job

COMMANDS = Commands()
FLAT = "surface"  # the operation that every design shares: the board is made flat once
FIRST = "First design"


def present(job: Job, id: str, title: str) -> Design:
    """What is worked on now, as a design."""
    setups = tuple(
        DesignSetup(setup=s.id, operations=tuple(o for o in s.operations if o.kind != FLAT)) for s in job.setups
    )
    return Design(id=id, title=title, artwork=job.artwork, setups=tuple(s for s in setups if s.operations))


@COMMANDS("keep design")
def keep_design(job: Job, title: str, why: str = "") -> Job:
    """The present design kept under its name; what is worked on from now on has another. title: of that; why: what is wrong with the one that is kept."""
    if not title.strip():
        raise OperatorError("Give the new design a name.")
    if len(job.designs) >= MOST_DESIGNS:
        raise OperatorError(f"A job keeps {MOST_DESIGNS} other designs at most. Take one away first.")
    name = job.design or FIRST
    if title.strip() in {name, *(d.title for d in job.designs)}:
        raise OperatorError(f"There is a design called “{title.strip()}” already.")
    kept = changed(present(job, free_id("design", (d.id for d in job.designs)), name), why=why.strip())
    return changed(job, design=title.strip(), designs=(*job.designs, kept))


@COMMANDS("take design")
def take_design(job: Job, design: str) -> Job:
    """Another design worked on; the present one is kept in its place."""
    taken = one_of(job.designs, design, "design")
    kept = present(job, taken.id, job.design or FIRST)
    others = tuple(kept if d is taken else d for d in job.designs)
    does = {s.setup: s.operations for s in taken.setups}
    used = {i for s in taken.setups for o in s.operations for i in o.on}
    if not used <= {a.id for a in taken.artwork}:
        raise OperatorError(f"The design “{taken.title}” names artwork that it does not have.")
    bare = job
    for setup in job.setups:
        bare = in_setup(bare, setup.id, operations=tuple(o for o in setup.operations if o.kind == FLAT))
    done = changed(bare, artwork=taken.artwork, design=taken.title, designs=others)
    for setup in done.setups:
        done = in_setup(done, setup.id, operations=(*setup.operations, *does.get(setup.id, ())))
    return done


def mark_of(design: Design) -> str:
    """What tells a design as it is from what it becomes when anything of it is changed; its name, and what was said of it, do not count."""
    return hashlib.sha256(design.model_dump_json(exclude={"id", "title", "why"}).encode()).hexdigest()[:16]


def design_of(job: Job, id: str) -> Design:
    """One by its id, nothing for the one that is worked on. Raises OperatorError."""
    return one_of(job.designs, id, "design") if id else present(job, "", job.design or FIRST)


def approval_of(job: Job, id: str) -> tuple[Approval, bool] | None:
    """The last approval of a design, and whether it is still as it was approved; nothing where nobody approved it."""
    design = design_of(job, id)
    last = next((a for a in reversed(job.approvals) if a.design == design.title), None)
    return (last, last.mark == mark_of(design)) if last is not None else None


@COMMANDS("approve design", Approval)
def approve_design(job: Job, by: str, at: str = "", design: str = "", words: str = "") -> Job:
    """Somebody approves a design, the one that is worked on where none is named, as it is now. design: its id."""
    chosen = design_of(job, design)
    if not chosen.artwork:
        raise OperatorError("There is nothing in this design yet that could be approved.")
    made = {"design": chosen.title, "by": by.strip(), "at": at, "mark": mark_of(chosen), "words": words.strip()}
    return changed(job, approvals=(*job.approvals, made)[-MOST_APPROVALS:])


@COMMANDS("rename design")
def rename_design(job: Job, title: str, design: str = "") -> Job:
    """Another name for a design; for the one that is worked on where none is named."""
    name = title.strip()
    others = {d.title for d in job.designs if d.id != design} | ({job.design or FIRST} if design else set())
    if not name or name in others:
        raise OperatorError("A design has a name, and no other of the job has the same.")
    if not design:
        was, new = job.design or FIRST, changed(job, design=name)
    else:
        old = one_of(job.designs, design, "design")
        was = old.title
        new = changed(job, designs=tuple(changed(d, title=name) if d is old else d for d in job.designs))
    return changed(new, approvals=tuple(changed(a, design=name) if a.design == was else a for a in new.approvals))


@COMMANDS("remove design")
def remove_design(job: Job, design: str) -> Job:
    """Take a design away that is not worked on."""
    gone = one_of(job.designs, design, "design")
    return changed(job, designs=tuple(d for d in job.designs if d is not gone))
