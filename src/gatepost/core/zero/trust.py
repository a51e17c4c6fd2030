# SPDX-License-Identifier: GPL-3.0-or-later
"""What is still known of each axis: a table, folded over the journal of what happened."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import StrEnum

from gatepost.core.job.journal import Entry

AGREES = 0.3  # mm that an eye takes for no miss at a witness mark
SPREAD_LIMIT = 0.05  # two touches nearer than this agree, mm


class Trust(StrEnum):
    """How well an axis is known."""

    TRUSTED = "trusted"
    PROVISIONAL = "provisional"
    LOST = "lost"


@dataclass(frozen=True)
class Axis:
    """One axis: its trust, why, when, the machine coordinate of its zero, and whether homing can bring it back; accepted:
    why a provisional one is gone on with as it is."""

    trust: Trust = Trust.LOST
    why: str = "not touched yet"
    at: str = ""
    machine: float | None = None
    recoverable: bool = False
    cold: bool = False
    accepted: str = ""


@dataclass(frozen=True)
class Axes:
    """X, Y and Z of a setup, and the tool last fitted."""

    x: Axis = Axis()
    y: Axis = Axis()
    z: Axis = Axis()
    tool: int | None = None
    warm: bool = False


KEEP, DROP, LOSE, CRASH = "as before", "provisional", "lost", "lost until homed"
# event -> (X and Y, Z touched on the top, Z touched on the bed), and the words for it
TABLE: dict[str, tuple[str, str, str, str]] = {
    "surfaced": (KEEP, DROP, KEEP, "the wood it was touched on has been surfaced away"),
    "fitted": (KEEP, LOSE, LOSE, "another bit, or the same gripped again"),
    "warmed": (KEEP, DROP, DROP, "touched cold, warm now"),
    "bumped": (LOSE, LOSE, LOSE, "the work was bumped"),
    "clamped": (LOSE, LOSE, LOSE, "the work was clamped again"),
    "squared": (LOSE, LOSE, LOSE, "the work was laid square"),
    "shimmed": (LOSE, LOSE, LOSE, "the work was shimmed"),
    "turned": (LOSE, LOSE, LOSE, "the work was turned"),
    "bed skimmed": (KEEP, KEEP, LOSE, "the bed was skimmed"),
    "stalled": (CRASH, CRASH, CRASH, "a stall, a crash or a limit was hit"),
    "power cut": (CRASH, CRASH, CRASH, "the drives were off"),
}


def _after(axis: Axis, change: str, why: str, at: str) -> Axis:
    if change == KEEP:
        return axis
    if change == DROP:
        if axis.trust is Trust.TRUSTED or axis.accepted:
            return replace(axis, trust=Trust.PROVISIONAL, why=why, at=at, accepted="")
        return axis
    if change == LOSE:
        return replace(axis, trust=Trust.LOST, why=why, at=at, recoverable=False)
    known = axis.trust is not Trust.LOST or axis.recoverable
    return replace(axis, trust=Trust.LOST, why=why, at=at, recoverable=known and axis.machine is not None)


def _touched(axes: Axes, entry: Entry) -> Axes:
    name = str(entry.data.get("axis", "z")).lower()
    spread = float(entry.data.get("spread", 0.0))
    trust = Trust.TRUSTED if spread <= SPREAD_LIMIT else Trust.PROVISIONAL
    why = "touched" if trust is Trust.TRUSTED else f"two touches {spread:.2f} mm apart"
    coordinate = float(entry.data["machine"]) if "machine" in entry.data else None
    axis = Axis(trust, why, entry.at, coordinate, cold=not axes.warm)
    return {"x": replace(axes, x=axis), "y": replace(axes, y=axis), "z": replace(axes, z=axis)}.get(name, axes)


def _homed(axis: Axis, at: str) -> Axis:
    if axis.trust is Trust.LOST and axis.recoverable:
        why = "homed after it was lost: look at the witness mark"
        return replace(axis, trust=Trust.PROVISIONAL, why=why, at=at, accepted="")
    return axis


def _seen(axis: Axis, at: str) -> Axis:
    if axis.trust is Trust.PROVISIONAL and axis.why.startswith("homed"):
        return replace(axis, trust=Trust.TRUSTED, why="witness mark looked at", at=at)
    return axis


def _accepted(axis: Axis, entry: Entry) -> Axis:
    """A yes to an axis that is known by a sum only."""
    why = str(entry.data.get("why", "")).strip()
    return replace(axis, accepted=why) if axis.trust is Trust.PROVISIONAL and why else axis


def step(axes: Axes, entry: Entry, z_on_bed: bool) -> Axes:
    """The axes after one entry of the journal."""
    if entry.kind == "touched":
        return _touched(axes, entry)
    if entry.kind == "homed":
        return replace(axes, x=_homed(axes.x, entry.at), y=_homed(axes.y, entry.at), z=_homed(axes.z, entry.at))
    if entry.kind == "answered":
        return replace(axes, x=_accepted(axes.x, entry), y=_accepted(axes.y, entry), z=_accepted(axes.z, entry))
    if entry.kind == "witness":
        if max(abs(float(entry.data.get(a, 0.0))) for a in ("x", "y")) > AGREES:
            return axes  # it was looked at, and it does not agree
        return replace(axes, x=_seen(axes.x, entry.at), y=_seen(axes.y, entry.at), z=_seen(axes.z, entry.at))
    if entry.kind not in TABLE:
        return axes
    across, on_top, on_bed, why = TABLE[entry.kind]
    if entry.kind == "warmed":
        axes = replace(axes, warm=True)
        if not axes.z.cold:
            return axes
    upright = on_bed if z_on_bed else on_top
    axes = replace(
        axes,
        x=_after(axes.x, across, why, entry.at),
        y=_after(axes.y, across, why, entry.at),
        z=_after(axes.z, upright, why, entry.at),
    )
    if entry.kind == "fitted" and "tool" in entry.data:
        axes = replace(axes, tool=int(float(entry.data["tool"])))
    return axes


def trust(entries: Iterable[Entry], setup: str, z_on_bed: bool) -> Axes:
    """What is known of a setup's axes after all that happened. Entries without a setup happened to all of them.

    Homing, warming, power cuts and stalls are the machine's and reach every setup; so does the bit in the collet.
    """
    shared = {"homed", "warmed", "power cut", "stalled", "fitted", "bed skimmed"}
    axes = Axes()
    for entry in entries:
        if entry.setup == setup or not entry.setup or entry.kind in shared:
            axes = step(axes, entry, z_on_bed)
    return axes
