# SPDX-License-Identifier: GPL-3.0-or-later
"""The Register page."""

from __future__ import annotations

from typing import Any

from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.register import OnPins, Register
from gatepost.core.plan.kinds import Kinds
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act, single

YES = (("yes", True), ("no", False))


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """How the board comes into the setup that is looked at, and what that kind wants to know."""
    s = job.setup(setup)
    if s == job.setups[0]:
        return (Group("The first setup: the board comes from nowhere. Choose a later one above", ()),)
    ways = (("laid down again", ""), *((kind.one, name) for name, kind in kinds.registers.items()))
    comes = s.comes
    rows = [
        single(
            "Comes from the setup before",
            "choice",
            comes.kind if comes else "",
            "set register",
            "kind",
            ways,
            setup=setup,
        )
    ]
    if comes is not None:
        rows += [
            _entry(setup, comes, e.label, e.typed, e.field, e.choices, e.unit)
            for e in kinds.registers[comes.kind].entries
        ]
    if isinstance(comes, OnPins):
        rows += [
            _row_of_pins(setup, comes, a.id, a.title or a.id)
            for a in job.artwork
            if isinstance(a.figures, HolesFigures)
        ]
    return (Group(s.title or s.id, tuple(rows), acts=_acts(s)),)


def _acts(s: Setup) -> tuple[Act, ...]:
    pins = [act("Two pins on the line it turns about", "add pins", setup=s.id)]
    if isinstance(s.comes, OnPins) and s.comes.on:
        pins.append(act("A third pin, off their line", "add pins", setup=s.id, third=True))
    return tuple(pins)


def _entry(
    setup: str, comes: Register, label: str, typed: str, field: str, choices: tuple[tuple[str, Any], ...], unit: str
) -> PageRow:
    """One figure of its kind; the others stay."""
    kept = {"setup": setup, **dict(comes)}
    return PageRow(
        (PageEntry(label, typed, getattr(comes, field), "set register", lambda v: {**kept, field: v}, choices, unit),), label
    )  # fmt: skip


def _row_of_pins(setup: str, comes: OnPins, art: str, called: str) -> PageRow:
    """Whether pins go through a row of holes."""
    kept = {"setup": setup, **dict(comes)}

    def values(yes: Any) -> dict[str, Any]:
        others = tuple(i for i in comes.on if i != art)
        return {**kept, "on": (*others, art) if yes else others}

    label = f"Pins go through {called}"
    return PageRow((PageEntry(label, "choice", art in comes.on, "set register", values, YES),), label)
