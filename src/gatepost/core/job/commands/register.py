# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of how a piece is found again."""

from __future__ import annotations

import math
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.commands.parts import Commands, before_cut_out, in_setup, unused
from gatepost.core.job.holes import Drilling, HolesFigures
from gatepost.core.job.kinds import FigureTables
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork
from gatepost.core.job.register import OnPins, Register
from gatepost.core.job.turning import about, lies

COMMANDS = Commands()
INSET, UNDER = 1.5, 3.0  # diameters from a pin's middle to the board's end; mm of spoilboard under a pin


@COMMANDS("add pins", Register)
def add_pins(job: Job, setup: str, kinds: FigureTables, across: float = 8.0, third: bool = False) -> Job:
    """Two pins for a setup, on the line that the board is turned about, near its ends: their holes drilled right through in the setup before, into the spoilboard.
    third: one more instead, off the line of those that are there."""
    here = job.setup(setup)
    number = job.setups.index(here)
    if number == 0:
        raise OperatorError("The first setup has none before it, in which pins' holes could be drilled.")
    before = job.setups[number - 1]
    if before.up not in ("front", "back"):
        raise OperatorError("Pins stand square to the face that is drilled: lay the board flat in the setup before.")
    old = here.comes if isinstance(here.comes, OnPins) else OnPins()
    x0, y0, x1, y1 = job.blank.box
    along_x = about(lies(before), lies(here)) != "about Y"
    if before.spin % 180:
        along_x = not along_x  # told on the bed; holes are told on the face
    inset = INSET * across
    (long0, long1), (wide0, wide1) = ((x0, x1), (y0, y1)) if along_x else ((y0, y1), (x0, x1))
    middle = 0.5 * (wide0 + wide1)
    if third:
        row = HolesFigures(across=across, number=1)
        place = (long0 + 0.25 * (long1 - long0), wide1 - inset)
    else:
        row = HolesFigures(across=across, number=2, pitch=max(long1 - long0 - 2.0 * inset, 1.0))
        place = (0.5 * (long0 + long1), middle)
    x, y = place if along_x else place[::-1]
    if before.up == "back":
        x = job.blank.length - x
    ids = [a.id for a in job.artwork]
    called = unused("third pin" if third else "pins", ids)
    art = changed(
        Artwork(id="pins", kind="holes", figures=row),
        id=called.replace(" ", "-"), title="Third pin" if third else "Pins", x=x, y=y, turn=0.0 if along_x else 90.0, face=before.up,
    )  # fmt: skip
    job = changed(job, artwork=(*job.artwork, art))
    into = min(across, max(1.0, job.machine.spoilboard - UNDER))
    done = Drilling(tool=_tool(job, across, into), through=True, into=into)
    job = before_cut_out(job, before.id, "drill", done, (art.id,), id=f"drill-{art.id}")
    comes = changed(old, on=(*(old.on if third else ()), art.id))
    return in_setup(job, setup, comes=comes, **({} if third else _onto(before, here)))


def _onto(before: Setup, here: Setup) -> dict[str, Any]:
    """Where it lies so that pins in the middle come onto the holes that they were drilled through."""
    return {"x": before.x, "y": before.y} if before.spin % 180 == here.spin % 180 else {}


def _tool(job: Job, across: float, into: float) -> int:
    """What drills or bores them: a drill as thick, else the thickest end mill that is long enough."""
    deep = job.blank.label_thickness + into
    drills = [t for t in job.tools if t.kind == "drill" and math.isclose(t.diameter, across, abs_tol=0.05)]
    mills = [t for t in job.tools if t.kind == "flat" and t.diameter <= across + 1e-9]
    best = sorted([*drills, *mills], key=lambda t: (t.cutting_length < deep, t.kind != "drill", -t.diameter))
    return best[0].number if best else 6
