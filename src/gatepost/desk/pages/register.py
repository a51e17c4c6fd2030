# SPDX-License-Identifier: GPL-3.0-or-later
"""The Register page."""

from __future__ import annotations

from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.commands.faces import two_faces
from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.register import AgainstEdge, ByMarks, InStepNest, OnPins, Register
from gatepost.core.plan.kinds import Kinds
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act, single
from gatepost.desk.pages.proof import mark_row, proof
from gatepost.desk.pages.repeats import batch

YES = (("yes", True), ("no", False))


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """How the piece comes into the setup that is looked at, and what that kind wants to know."""
    s = job.setup(setup)
    first = s == job.setups[0]
    there = [(kind.one, name) for name, kind in kinds.registers.items() if kind.alone or not first]
    comes, label = s.comes, "How the piece comes here" if first else "Comes from the setup before"
    chosen = comes.kind if comes else ""
    rows = [single(label, "choice", chosen, "set register", "kind", (("laid down again", ""), *there), setup=setup)]
    if comes is not None:
        fences = ("", *(f.name for f in job.machine.bed.fences))
        rows += [_entry(job, setup, comes, e, fences) for e in kinds.registers[comes.kind].entries]
    if isinstance(comes, OnPins):
        drilled = [a for a in job.artwork if isinstance(a.figures, HolesFigures)]
        rows += [_row_of_pins(setup, comes, a.id, a.title or a.id) for a in drilled]
    groups = [Group(s.title or s.id, tuple(rows), acts=() if first else _pins(s))]
    if not first and _two_faces(job):
        acts = (
            act("Either face first, compared…", "window either_face"),
            act("Cut the other face first", "other face first"),
        )
        groups.append(Group("Which face comes first", (), acts=acts))
    if isinstance(comes, ByMarks):
        groups.append(_marks(setup, comes))
    if isinstance(comes, InStepNest):
        groups.append(_rim(setup, comes))
    return (*groups, *proof(job, s, kinds), *batch(job))


def _two_faces(job: Job) -> bool:
    """Whether either of two faces could come first."""
    try:
        two_faces(job)
    except OperatorError:
        return False
    return True


def _pins(s: Setup) -> tuple[Act, ...]:
    pins = [act("Two pins on the line it turns about", "add pins", setup=s.id)]
    if isinstance(s.comes, OnPins) and s.comes.on:
        pins.append(act("A third pin, off their line", "add pins", setup=s.id, third=True))
    return tuple(pins)


def _entry(job: Job, setup: str, comes: Register, e: KindEntry, fences: tuple[str, ...]) -> PageRow:
    """One figure of its kind; the others stay. fences: on the bed."""
    by_name = isinstance(comes, AgainstEdge) and e.field in ("fence", "stop")
    kept = {"setup": setup, **dict(comes)}
    if isinstance(comes, InStepNest) and e.field in ("slot", "measured"):
        kept["by"] = job.cut_by(comes.cut)
    entry = PageEntry(
        e.label,
        "choice" if by_name else e.typed,
        getattr(comes, e.field),
        "set register",
        lambda v: {**kept, e.field: v},
        tuple((f or "none", f) for f in fences) if by_name else e.choices,
        e.unit,
    )
    return PageRow((entry,), e.label)


def _row_of_pins(setup: str, comes: OnPins, art: str, called: str) -> PageRow:
    """Whether pins go through a row of holes."""
    kept = {"setup": setup, **dict(comes)}

    def values(yes: Any) -> dict[str, Any]:
        others = tuple(i for i in comes.on if i != art)
        return {**kept, "on": (*others, art) if yes else others}

    label = f"Pins go through {called}"
    return PageRow((PageEntry(label, "choice", art in comes.on, "set register", values, YES),), label)


def _rim(setup: str, comes: InStepNest) -> Group:
    """The rim made, and the slot measured on a test piece that is cut out as the piece will be."""
    acts = [act("Make the rim stepped", "window step_rim")]
    if comes.cut:
        acts.append(act("Cut a test piece", "add test slot", setup=setup, x=30.0, y=30.0))
        acts.append(act("Measure the test piece…", "window measure_slot"))
    return Group("The rim", (), acts=tuple(acts))


def _marks(setup: str, comes: ByMarks) -> Group:
    """Every mark, as its face is read; of an edge also which way its outside is."""
    acts = (
        *((act("First fit from an overhead photo…", "window piece_photo"),) if len(comes.marks) > 1 else ()),
        act("Take all holes and the edges", "marks from art", setup=setup),
        act("Add a mark", "add mark", setup=setup, title="a mark", x=0.0, y=0.0),
        act("Add a hole", "add mark", setup=setup, title="a hole", x=0.0, y=0.0, across=10.0),
        act("Add an edge", "add mark", setup=setup, title="an edge", x=0.0, y=0.0, normal=0.0),
    )
    told = (("normal", "faces, °"), ("across", "wide"))  # only where some mark has it: a row is not wide
    has = {"normal": any(m.normal is not None for m in comes.marks), "across": any(m.across for m in comes.marks)}
    more = tuple(field for field, _ in told if has[field])
    rows = tuple(
        mark_row(
            m,
            "set mark",
            {"setup": setup, "mark": m.id},
            act(f"Take {m.title or m.id} away", "remove mark", setup=setup, mark=m.id),
            more,
        )
        for m in comes.marks
    )
    columns = ("What it is", "X", "Y", *(title for field, title in told if field in more))
    return Group("Marks, as their face is read", rows, columns, acts)
