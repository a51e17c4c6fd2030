# SPDX-License-Identifier: GPL-3.0-or-later
"""What happened to a zero, and finding it again: home, go back, look at the witness mark, accept it or measure the miss."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from gatepost.core.acts import by_hand
from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.units import mm
from gatepost.core.zero.trust import AGREES, Axes, Trust, Where, trust
from gatepost.core.zero.ways import spread, z_by_sensor

FARTHEST = 30.0  # mm; further off it is another place, not a miss


@dataclass(frozen=True)
class Card:
    """A zero to be found again. rows: axis, machine coordinate or nothing, trust, why, when; tool: last fitted."""

    rows: tuple[tuple[str, float | None, str, str, str], ...]
    tool: int | None


def card(axes: Axes) -> Card:
    """What is known of a setup's zeros."""
    rows = tuple((n, a.machine, a.trust.value, a.why, a.at) for n, a in (("X", axes.x), ("Y", axes.y), ("Z", axes.z)))
    return Card(rows, axes.tool)


def happened(journal: Journal, kind: str, setup: str, tool: int | None, at: str) -> Journal:
    """Write down what happened in a setup. tool: in the collet. Raises OperatorError."""
    act = next((a for a in by_hand() if a.kind == kind), None)
    if act is None:
        raise OperatorError(f"There is no “{kind}” among what can have happened.")
    if kind == "rocks":
        return journal.add(at, "rocked", setup, answer="rocks")
    data: dict[str, float | str] = {"tool": tool} if kind == "fitted" and tool is not None else {}
    return journal.add(at, kind, setup, **data)  # type: ignore[arg-type]


def sensed(
    journal: Journal, place: Where, tool: int, contacts: Sequence[float], at: str
) -> tuple[Journal, float | None]:
    """A fixed sensor was touched. With the tool that Z0 was touched off with, how it stands by it is noted; with a later one
    Z0 follows by the difference, and is given. Raises OperatorError where nothing was noted to begin with."""
    axes, contact = trust(journal.standing(), place), contacts[-1]
    if axes.tool == tool and axes.z.trust is not Trust.LOST and axes.z.machine is not None:
        return journal.add(at, "sensed", place.setup, tool=tool, machine=contact, zero=axes.z.machine), None
    if axes.base is None:
        raise OperatorError(
            "How the first tool stood by the sensor is not known, or the work has been moved since: touch Z off on the work, then the sensor."
        )
    sum_ = z_by_sensor(axes.base.zero, axes.base.contact, contact)
    more: dict[str, float | str] = {"spread": round(spread(contacts), 4)} if len(contacts) > 1 else {}
    journal = journal.add(
        at, "touched", place.setup, axis="z", machine=round(sum_.result, 4), tool=tool, way="sensor", **more
    )
    return journal, sum_.result


LENGTH_OFF = 2.0  # mm by which a later bit may stick out otherwise than entered: both are gripped by hand to half a millimetre; a shop rule


def sensed_off(journal: Journal, lengths: Mapping[int, float], tool: int, found: float) -> str:
    """What is told where a later bit stands by the sensor otherwise than its entered length says; nothing where it does not. lengths: as entered, of each tool, mm; found: Z0
    on the machine. The board's own height, and the sensor's, are in both."""
    first = next((e for e in reversed(journal.standing()) if e.kind == "sensed"), None)
    base = lengths.get(int(float(first.data["tool"]))) if first is not None else None
    if first is None or base is None or tool not in lengths:
        return ""
    off = found - (float(first.data["zero"]) + lengths[tool] - base)
    if abs(off) <= LENGTH_OFF:
        return ""
    return (
        f"By the sensor Z0 comes out {mm(abs(off), 2)} {'lower' if off < 0 else 'higher'} than the entered length of this bit says: it sticks out {mm(abs(off), 2)} "
        f"{'less' if off < 0 else 'more'} than entered. Nothing is set. Look whether it is the right bit; grip it as entered, or enter how far it sticks out."
    )


def accepted(journal: Journal, place: Where, why: str, at: str) -> Journal:
    """A yes to provisional axes, with its reason; it lapses with whatever happens to them next. Raises OperatorError."""
    if not why.strip():
        raise OperatorError("Say why in a few words: the reason is kept with the job.")
    axes = trust(journal.standing(), place)
    known = [a.trust for a in (axes.x, axes.y, axes.z)]
    if Trust.LOST in known:
        raise OperatorError("A lost axis must be found again first: touch it. Nothing cuts on a lost axis.")
    if Trust.PROVISIONAL not in known:
        raise OperatorError("Every axis is trusted: there is nothing to say yes to.")
    return journal.add(at, "answered", place.setup, why=why.strip())


def looked(journal: Journal, place: Where, off: tuple[float, float], at: str) -> Journal:
    """The witness mark was looked at after homing, and lies off the tip by so much: a small miss is none, a larger one moves
    X0 and Y0 by as much. Z is as sure as it was. Raises OperatorError where there is nothing to go back to."""
    axes = trust(journal.standing(), place)
    lost = [n for n, a in (("X", axes.x), ("Y", axes.y)) if a.trust is Trust.LOST]
    if lost:
        why = "home first" if axes.x.recoverable or axes.y.recoverable else "touch off again"
        raise OperatorError(f"{' and '.join(lost)} can't be known from the witness mark: {why}.")
    if max(abs(v) for v in off) > FARTHEST:
        raise OperatorError("That is too far for a miss: it is another mark, or another board. Touch off again.")
    journal = journal.add(at, "witness", place.setup, x=off[0], y=off[1])
    if max(abs(v) for v in off) <= AGREES:
        return journal
    tool = axes.tool or 0
    for name, axis, miss in (("x", axes.x, off[0]), ("y", axes.y, off[1])):
        if axis.machine is not None:
            journal = journal.add(
                at, "touched", place.setup, axis=name, machine=round(axis.machine + miss, 4), tool=tool, way="witness"
            )
    return journal
