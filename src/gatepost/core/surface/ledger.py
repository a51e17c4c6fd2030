# SPDX-License-Identifier: GPL-3.0-or-later
"""The Z ledger: where the cut face, its lowest spot and the zero are, whatever was touched, fitted and cut meanwhile.

Every plane is kept as a height above the bed, mm. A machine figure is good only with the bit and grip that it was read
with: it is turned into a height by a touch on something of known height, and never compared across a change of bit.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal

from gatepost.core.errors import OperatorError
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

SAME = 0.005  # mm; nearer than this two heights are one
On = Literal["face", "low spot", "bed"]


@dataclass(frozen=True)
class Ledger:
    """plane: how high the highest wood of the face stands; low: its lowest spot; both above the bed.

    offset: height of the tip above the bed less its machine figure, with this bit in this grip; zero: machine figure of
    Z0; nothing where they are not known.
    """

    plane: float
    low: float
    offset: float | None = None
    zero: float | None = None

    @property
    def left(self) -> float:
        """What still has to come off until the low spot is clean."""
        return max(0.0, self.plane - self.low)

    def height(self, machine: float) -> float:
        """Height above the bed of a machine figure. Raises OperatorError after a change of bit."""
        if self.offset is None:
            raise OperatorError(
                "No figure of this bit is known yet: touch off on the face, the low spot or the bed first."
            )
        return machine + self.offset

    def machine(self, height: float) -> float:
        """Machine figure of a height. Raises OperatorError after a change of bit."""
        self.height(0.0)
        assert self.offset is not None
        return height - self.offset


@dataclass(frozen=True)
class Fitted:
    """Another bit, or the same gripped again: every machine figure of before is void."""


@dataclass(frozen=True)
class Touched:
    """The tip stood on something of known height at a machine figure. gauge: what lay between, mm."""

    machine: float
    on: On = "face"
    gauge: float = 0.0


@dataclass(frozen=True)
class ZeroSet:
    """Z0 was set at a machine figure."""

    machine: float


@dataclass(frozen=True)
class PassCut:
    """A program was run over the whole face that cuts a depth below its zero, mm."""

    depth: float


Entry = Fitted | Touched | ZeroSet | PassCut


@dataclass(frozen=True)
class Bite:
    """What a pass takes and leaves, and what there is to say against it: nothing when it is sound."""

    takes: Working
    leaves: Working
    against: str = ""


def after(ledger: Ledger, entry: Entry) -> Ledger:
    """The ledger after an entry. Raises OperatorError when the entry can't be placed."""
    if isinstance(entry, Fitted):
        return replace(ledger, offset=None, zero=None)
    if isinstance(entry, Touched):
        known = {"face": ledger.plane, "low spot": ledger.low, "bed": 0.0}[entry.on]
        return replace(ledger, offset=known + entry.gauge - entry.machine)
    if isinstance(entry, ZeroSet):
        return replace(ledger, zero=entry.machine)
    plane = _cut_at(ledger, ledger.zero, entry.depth)
    return replace(ledger, plane=min(ledger.plane, plane), low=min(ledger.low, plane))


def followed(ledger: Ledger, entries: Iterable[Entry]) -> Ledger:
    """The ledger after all entries."""
    for entry in entries:
        ledger = after(ledger, entry)
    return ledger


def _cut_at(ledger: Ledger, zero: float | None, depth: float) -> float:
    if zero is None:
        raise OperatorError("Z0 is not set with this bit yet: a figure of the bit before says nothing of it.")
    return ledger.height(zero) - depth


def judged(ledger: Ledger, zero: float, depth: float, limit: float) -> Bite:
    """What a pass would do with Z0 at a machine figure. depth: of the program below its zero; limit: of the cutter, mm.

    bite = plane now - (zero - depth); left = (zero - depth) - low spot.
    """
    height = ledger.height(zero)
    takes = working(
        "plane - (zero - depth)", Named("plane", ledger.plane), Named("zero", height), Named("depth", depth)
    )
    leaves = working(
        "max(0, zero - depth - low)", Named("zero", height), Named("depth", depth), Named("low", ledger.low)
    )
    if takes.result <= SAME:
        against = (
            f"It would cut air: the face stands {mm(-takes.result, 2)} below where this pass goes. "
            "Was a pass written down twice, or the zero set on another face?"
            if takes.result < -SAME
            else "It would cut air: the face has been cut at this height already."
        )
    elif takes.result > limit + SAME:
        against = f"It would take {mm(takes.result, 2)} at once, and this cutter is given {mm(limit, 2)} at most."
    elif leaves.result == 0.0 and ledger.low - (height - depth) > limit + SAME:
        against = (
            f"It goes {mm(ledger.low - height + depth, 2)} below the lowest spot: more than is needed to clean it."
        )
    else:
        against = ""
    return Bite(takes, leaves, against)


@dataclass(frozen=True)
class Move:
    """The next zero: machine figure to go to and set, and what comes of it."""

    machine: float
    bite: Bite
    sentence: str


def next_move(ledger: Ledger, depth: float, limit: float, cleanup: float = 0.0) -> Move:
    """Where to set Z0 for the next pass of a program of a depth: as deep as the limit allows, no deeper than is needed.
    cleanup: how far below the lowest spot it is to end, less than nought to leave hollows.

    Raises OperatorError after a change of bit, or when nothing is left.
    """
    wanted = ledger.left + cleanup
    if wanted <= SAME:
        raise OperatorError("Nothing is left to come off: the face is clean.")
    takes = min(limit, wanted)
    machine = ledger.machine(ledger.plane - takes + depth)
    bite = judged(ledger, machine, depth, limit)
    stays = wanted - takes
    rest = f"{mm(stays, 2)} stays." if stays > SAME else "nothing stays then."
    shown = (
        f"{mm(machine - ledger.zero, 2)} on the display (machine {mm(machine, 2)})"
        if ledger.zero is not None
        else f"machine {mm(machine, 2)}"
    )
    steps = f"Jog to Z {shown} and set Z0 there: the program, which cuts {mm(depth, 2)} below its zero, takes {mm(takes, 2)} next, {rest}"
    return Move(machine, bite, steps)
