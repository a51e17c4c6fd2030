# SPDX-License-Identifier: GPL-3.0-or-later
"""A step at the machine: what it shows, warns of, asks for and leaves in the journal."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from gatepost.core.acts import GUARDS, ISOLATE
from gatepost.core.job.journal import Journal

LIES_ABOUT = 15.0  # mm about a groove within which the top beside it is
StepKind = Literal[
    "tick",
    "fit",
    "home",
    "warm",
    "zero xy",
    "zero kept",
    "zero found",
    "zero known",
    "mark",
    "over",
    "ring",
    "take",
    "note",
    "zero z",
    "run",
    "measure",
    "jog",
    "again",
    "witness",
    "look",
    "walk",
    "go",
    "sensor",
    "square",
    "rock",
    "depth",
]


@dataclass(frozen=True)
class Step:
    """One step. figure: its one number; unit: of what kind; reads: what is typed where the operator's own control is used;
    moves: whether an axis or the spindle moves; fingerprint: of the program that is run, or was
    before it, where the step is looked at again after each run; reach: whether hands go under the spindle, which stands and is isolated
    then; pair: an X and a Y on the bed that are shown in the place of one figure; bare: whether the board is off the bed then; box: x0, y0, x1, y1 on the bed that are gone round; back: the first word of the step that is gone back to where it is not so yet."""

    key: str
    setup: str
    kind: StepKind
    title: str
    detail: str
    caution: str = ""
    label: str = ""
    figure: float | None = None
    unit: str = "length"
    tool: int | None = None
    program: str = ""
    place: tuple[float, float] | None = None
    reads: tuple[str, ...] = ()
    fingerprint: str = ""
    reach: bool = False
    pair: tuple[float, float] | None = None
    bare: bool = False
    box: tuple[float, float, float, float] | None = None
    back: str = ""

    @property
    def guard(self) -> str:
        """Which guard of hands and work it is, or nothing."""
        first = self.key.partition("-")[0]
        return first if first in GUARDS else ""

    @property
    def moves(self) -> bool:
        """Whether it moves an axis or starts the spindle."""
        return self.kind in (
            "home",
            "warm",
            "zero xy",
            "mark",
            "over",
            "note",
            "zero z",
            "run",
            "jog",
            "walk",
            "go",
            "again",
            "witness",
            "sensor",
            "square",
        )


@dataclass(frozen=True)
class MarkToRead:
    """A mark of the piece that is read. id, name; x, y: where it is meant to be on the bed; edge: whether a pin is put against it, else a point over it; pin: how
    thick; hole: whether the pin goes into it."""

    id: str
    name: str
    x: float
    y: float
    edge: bool
    pin: float
    hole: bool = False


@dataclass(frozen=True)
class Rings:
    """Rings that are cut round old holes before all else. program: its name; marks: each hole; wide: how wide a ring is drawn, mm; told: what comes of taking them, once all are measured."""

    program: str
    marks: tuple[MarkToRead, ...]
    wide: float
    told: str = ""


@dataclass(frozen=True)
class TouchOff:
    """Where a tool touches off: bed XY, surface, and the height of that surface above the spoilboard."""

    tool: int
    x: float
    y: float
    surface: str
    height: float


@dataclass(frozen=True)
class Depth:
    """Where it is measured how deep a tool cut. x, y: on the board, bed: the same on the bed; planned: depth under the top about it, or
    with thick what is left over the underside; near: how far about it the deepest place is looked for; allowed: by which it may differ."""

    tool: int
    x: float
    y: float
    bed: tuple[float, float]
    planned: float
    thick: bool
    near: float
    allowed: float


@dataclass(frozen=True)
class ProgramLoad:
    """A program to run: its name, tool, what it does, minutes, fingerprint; first: where it goes first, X, Y and Z of the work; springs: mm
    that what it frees may spring up; large: bytes of its text."""

    name: str
    tool: int
    operations: str
    minutes: float
    fingerprint: str = ""
    first: tuple[float, float, float] | None = None
    springs: float = 0.0
    large: int = 0


def isolating(name: str, before: str) -> Step:
    """The spindle isolated, before hands go under it."""
    why = {
        "rings": "before the rings are measured", "lay": "before the board is laid and held", "rock": "before the board is pressed on", "clear": "before the part is freed",
    }.get(before, "before the bit is touched")  # fmt: skip
    return Step(f"isolate-{before}", name, "tick", f"Isolate the spindle, {why}.", "Any motion, spindle start or power after it undoes it, and you are asked again.",
                ISOLATE)  # fmt: skip


def ticked(journal: Journal, at: str, step: Step) -> Journal:
    """The journal with a step done; a run, and what follows it, is ticked with what was run."""
    more = {"fingerprint": step.fingerprint} if step.fingerprint else {}
    return journal.add(at, "ticked", step.setup, step=step.key, **more)
