# SPDX-License-Identifier: GPL-3.0-or-later
"""What happened to a zero, and finding it again: home, go back, look at the witness mark, accept it or measure the miss."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal, Kind
from gatepost.core.zero.trust import AGREES, Axes, Trust, trust
from gatepost.core.zero.ways import z_by_sensor

FARTHEST = 30.0  # mm; further off it is another place, not a miss
# what can have happened, the entry that it leaves, and what the operator does then
EVENTS: tuple[tuple[Kind, str, str], ...] = (
    ("bumped", "The work was bumped", "Touch X, Y and Z again."),
    ("clamped", "The work was clamped again", "Press on its corners, then touch X, Y and Z again."),
    ("shimmed", "The work was shimmed", "Touch X, Y and Z again."),
    ("fitted", "The bit was gripped again, or another one fitted", "Touch Z again."),
    ("stalled", "A stall, a crash, or a limit was hit", "Home, go back to the witness mark, and look."),
    ("power cut", "The drives were off, or the power was cut", "Home, go back to the witness mark, and look."),
    ("bed skimmed", "The bed was skimmed", "Touch Z again where it is on the bed."),
    (
        "rocked",
        "The work rocks when its corners are pressed",
        "Shim it, never pull it flat; then touch X, Y and Z again.",
    ),
    ("warmed", "It has warmed up since it was touched", "Touch Z again, or say yes to it as it is."),
)
EVERY_SETUP: tuple[Kind, ...] = ("stalled", "power cut", "bed skimmed", "warmed")  # what is lost in one is lost in all


@dataclass(frozen=True)
class Card:
    """A zero to be found again. rows: axis, machine coordinate or nothing, trust, why, when; tool: last fitted."""

    rows: tuple[tuple[str, float | None, str, str, str], ...]
    tool: int | None


def card(axes: Axes) -> Card:
    """What is known of a setup's zeros."""
    rows = tuple((n, a.machine, a.trust.value, a.why, a.at) for n, a in (("X", axes.x), ("Y", axes.y), ("Z", axes.z)))
    return Card(rows, axes.tool)


def happened(journal: Journal, kind: str, setup: str, setups: tuple[str, ...], at: str) -> Journal:
    """Write down what happened. setups: of the job; what is lost in one by this is lost in all. Raises OperatorError."""
    known = {k: k for k, _, _ in EVENTS}
    if kind not in known:
        raise OperatorError(f"There is no “{kind}” among what can have happened.")
    for name in setups if known[kind] in EVERY_SETUP else (setup,):
        data: dict[str, float | str] = {}
        if kind == "fitted":
            tool = trust(journal.standing(), name, False).tool
            data = {"tool": tool} if tool is not None else {}
        if kind == "rocked":
            data = {"answer": "rocks"}
        journal = journal.add(at, known[kind], name, **data)
    return journal


def sensed(
    journal: Journal, setup: str, z_on_bed: bool, tool: int, contact: float, at: str
) -> tuple[Journal, float | None]:
    """A fixed sensor was touched. With the tool that Z0 was touched off with, how it stands by it is noted; with a later one
    Z0 follows by the difference, and is given. Raises OperatorError where nothing was noted to begin with."""
    axes = trust(journal.standing(), setup, z_on_bed)
    if axes.tool == tool and axes.z.trust is Trust.TRUSTED and axes.z.machine is not None:
        return journal.add(at, "sensed", setup, tool=tool, machine=contact, zero=axes.z.machine), None
    base = next((e for e in reversed(journal.standing()) if e.kind == "sensed" and e.setup == setup), None)
    if base is None:
        raise OperatorError("The sensor was not touched with the first tool: touch Z off on the work, then the sensor.")
    sum_ = z_by_sensor(float(base.data["zero"]), float(base.data["machine"]), contact)
    journal = journal.add(
        at, "touched", setup, axis="z", machine=round(sum_.result, 4), tool=tool, way="sensor", spread=0.0
    )
    return journal, sum_.result


def accepted(journal: Journal, setup: str, z_on_bed: bool, why: str, at: str) -> Journal:
    """A yes to provisional axes, with its reason; it lapses with whatever happens to them next. Raises OperatorError."""
    if not why.strip():
        raise OperatorError("Say why in a few words: the reason is kept with the job.")
    axes = trust(journal.standing(), setup, z_on_bed)
    known = [a.trust for a in (axes.x, axes.y, axes.z)]
    if Trust.LOST in known:
        raise OperatorError("A lost axis must be found again first: touch it. Nothing cuts on a lost axis.")
    if Trust.PROVISIONAL not in known:
        raise OperatorError("Every axis is trusted: there is nothing to say yes to.")
    return journal.add(at, "answered", setup, why=why.strip())


def looked(journal: Journal, setup: str, z_on_bed: bool, off: tuple[float, float], at: str) -> Journal:
    """The witness mark was looked at after homing, and lies off the tip by so much: a small miss is none, a larger one moves
    X0 and Y0 by as much. Z is as sure as it was. Raises OperatorError where there is nothing to go back to."""
    axes = trust(journal.standing(), setup, z_on_bed)
    lost = [n for n, a in (("X", axes.x), ("Y", axes.y)) if a.trust is Trust.LOST]
    if lost:
        why = "home first" if axes.x.recoverable or axes.y.recoverable else "touch off again"
        raise OperatorError(f"{' and '.join(lost)} can't be known from the witness mark: {why}.")
    if max(abs(v) for v in off) > FARTHEST:
        raise OperatorError("That is too far for a miss: it is another mark, or another board. Touch off again.")
    journal = journal.add(at, "witness", setup, x=off[0], y=off[1])
    if max(abs(v) for v in off) <= AGREES:
        return journal
    tool = axes.tool or 0
    for name, axis, miss in (("x", axes.x, off[0]), ("y", axes.y, off[1])):
        if axis.machine is not None:
            journal = journal.add(
                at, "touched", setup, axis=name, machine=round(axis.machine + miss, 4), tool=tool, way="witness"
            )
    return journal
