# SPDX-License-Identifier: GPL-3.0-or-later
"""What is still known of each axis: the table of acts, folded over the journal of what happened."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from enum import StrEnum

from gatepost.core.acts import DROP, KEEP, LOSE, TABLE, ShopAct
from gatepost.core.job.journal import Entry
from gatepost.core.job.model import Job, Setup

AGREES = 0.3  # mm that an eye takes for no miss at a witness mark
SEEN_AT_BEST = 1.0  # mm; a wider miss agrees with nothing, whatever the eye
SPREAD_LIMIT = 0.05  # two touches nearer than this agree, mm
STAYS_WARM = timedelta(hours=2)  # a spindle that has stood so long is cold again


class Trust(StrEnum):
    """How well an axis is known."""

    TRUSTED = "trusted"
    PROVISIONAL = "provisional"
    LOST = "lost"


FOUND = {  # ways of finding X0 Y0 without touching it: what is known then, surely or not
    "kept": ("set by the setup before", "set by the setup before, which is no surer"),
    "edge": ("where the known edge has it", "where the edge has it, which is no surer"),
    "proof": (
        "moved to where marks were seen",
        "moved to where a mark or two were seen, which can't say whether one is wrong",
    ),
    "marks": ("found by marks that fit", "found by marks that can't say whether one is wrong"),
}
ORDER = (Trust.LOST, Trust.PROVISIONAL, Trust.TRUSTED)


def least(*known: Trust) -> Trust:
    """The worst of several."""
    return min(known, key=ORDER.index)


@dataclass(frozen=True)
class Axis:
    """One axis: its trust, why, when, the machine coordinate of its zero; tied: whether the machine was homed when it was touched;
    recoverable: whether homing can bring it back, and was: never to more than that; cold: touched with a cold spindle; accepted:
    why a provisional one is gone on with as it is."""

    trust: Trust = Trust.LOST
    why: str = "not touched yet"
    at: str = ""
    machine: float | None = None
    recoverable: bool = False
    cold: bool = False
    accepted: str = ""
    tied: bool = False
    was: Trust = Trust.LOST


@dataclass(frozen=True)
class SensorBase:
    """How Z0 stood by the fixed sensor, touched with a tool whose Z was known. trust: of that Z, since then."""

    zero: float
    contact: float
    trust: Trust


@dataclass(frozen=True)
class Axes:
    """X, Y and Z of a setup, and the tool last fitted; homed: since its place was unknown last; warm: when the spindle was warmed up, or
    nothing; base: for later tools by the fixed sensor; laid: the setup in which the work was laid last."""

    x: Axis = Axis()
    y: Axis = Axis()
    z: Axis = Axis()
    tool: int | None = None
    warm: str = ""
    homed: bool = False
    base: SensorBase | None = None
    laid: str = ""


@dataclass(frozen=True)
class Where:
    """A setup whose axes are asked about. z_on_bed: whether its Z0 is; faces: setups with the same face up."""

    setup: str
    z_on_bed: bool
    faces: frozenset[str] = frozenset()


def where(job: Job, setup: Setup) -> Where:
    """Of a job's setup."""
    return Where(setup.name, setup.zero.z == "bed", frozenset(s.name for s in job.setups if s.up == setup.up))


def _after(axis: Axis, change: str, why: str, at: str) -> Axis:
    if change == KEEP:
        return axis
    if change == DROP:
        if axis.trust is Trust.LOST:
            return replace(axis, was=least(axis.was, Trust.PROVISIONAL))
        why = why if axis.trust is Trust.TRUSTED or axis.accepted else axis.why
        return replace(
            axis, trust=Trust.PROVISIONAL, why=why, at=at, accepted="", was=least(axis.was, Trust.PROVISIONAL)
        )
    if change == LOSE:
        return replace(axis, trust=Trust.LOST, why=why, at=at, recoverable=False, accepted="")
    was = axis.was if axis.trust is Trust.LOST else axis.trust
    known = axis.recoverable if axis.trust is Trust.LOST else axis.tied
    recoverable = known and axis.machine is not None
    return replace(axis, trust=Trust.LOST, why=why, at=at, recoverable=recoverable, accepted="", was=was)


def _number(entry: Entry, name: str) -> float | None:
    value = entry.data.get(name)
    return float(value) if isinstance(value, (int, float)) else None


def _touch(axes: Axes, axis: Axis, entry: Entry) -> Axis:
    """An axis as it is touched, or found by a sum."""
    way = str(entry.data.get("way", ""))
    machine, spread = _number(entry, "machine"), _number(entry, "spread")
    if way == "witness":
        if axis.trust is Trust.LOST:
            return axis
        why = "moved by the miss at one mark, which can't tell a turn"
        return replace(axis, trust=Trust.PROVISIONAL, why=why, at=entry.at, machine=machine, accepted="")
    if way == "log":
        return Axis(Trust.PROVISIONAL, "as the log has it", entry.at, machine, tied=axes.homed, was=Trust.PROVISIONAL)
    trust, why = Trust.TRUSTED, "touched"
    if way == "proof" and axis.trust is Trust.LOST:
        return axis
    if way in FOUND:
        sure = entry.data.get("base") == Trust.TRUSTED.value
        trust, why = (Trust.TRUSTED, FOUND[way][0]) if sure else (Trust.PROVISIONAL, FOUND[way][1])
        return Axis(trust, why, entry.at, machine, tied=axes.homed, was=trust)
    if way != "pointer" and spread is None:
        trust, why = Trust.PROVISIONAL, "touched once only"
    elif spread is not None and spread > SPREAD_LIMIT:
        trust, why = Trust.PROVISIONAL, f"two touches {spread:.2f} mm apart"
    if way == "sensor":
        base = axes.base.trust if axes.base is not None else Trust.PROVISIONAL
        if ORDER.index(base) < ORDER.index(trust):
            trust, why = base, "by the sensor, from a Z0 that is no surer"
    return Axis(trust, why, entry.at, machine, cold=not axes.warm, tied=axes.homed, was=trust)


def _touched(axes: Axes, entry: Entry) -> Axes:
    name = str(entry.data.get("axis", "z")).lower()
    if name not in ("x", "y", "z"):
        return axes
    axis = _touch(axes, {"x": axes.x, "y": axes.y, "z": axes.z}[name], entry)
    axes = {"x": replace(axes, x=axis), "y": replace(axes, y=axis), "z": replace(axes, z=axis)}[name]
    return replace(axes, base=None) if name == "z" and entry.data.get("way") != "sensor" else axes


def _homed(axis: Axis, at: str, z: bool) -> Axis:
    if axis.trust is Trust.LOST and axis.recoverable and axis.was is not Trust.LOST:
        then = "touch it" if z else "look at the witness mark"
        return replace(axis, trust=Trust.PROVISIONAL, why=f"homed after it was lost: {then}", at=at, accepted="")
    return axis


def _seen(axis: Axis, at: str) -> Axis:
    if axis.trust is Trust.PROVISIONAL and axis.why.startswith("homed") and axis.was is Trust.TRUSTED:
        return replace(axis, trust=Trust.TRUSTED, why="witness mark looked at", at=at)
    return axis


def _accepted(axis: Axis, entry: Entry) -> Axis:
    """A yes to an axis that is known by a sum only."""
    why = str(entry.data.get("why", "")).strip()
    return replace(axis, accepted=why) if axis.trust is Trust.PROVISIONAL and why else axis


def act_of(entry: Entry) -> ShopAct | None:
    """The act that an entry tells of."""
    if entry.kind == "rocked":
        return TABLE["rocks"] if entry.data.get("answer") == "rocks" else None
    return TABLE.get(entry.kind)


def laid_anew(entry: Entry) -> bool:
    """Whether the work lies elsewhere since an entry."""
    act = act_of(entry)
    return act is not None and act.across == LOSE and not entry.data.get("still")


def reaches(act: ShopAct, entry: Entry, place: Where) -> bool:
    """Whether an act in one setup counts in another. Without a setup it happened to all."""
    if not entry.setup or entry.setup == place.setup:
        return True
    if act.own:
        return False
    return entry.setup in place.faces if act.face else True


def step(axes: Axes, entry: Entry, place: Where) -> Axes:
    """The axes after one entry of the journal."""
    act = act_of(entry)
    mine = not entry.setup or entry.setup == place.setup
    if entry.kind == "answered" and mine:
        return replace(axes, x=_accepted(axes.x, entry), y=_accepted(axes.y, entry), z=_accepted(axes.z, entry))
    if act is None or not reaches(act, entry, place):
        return axes
    if entry.kind == "laid" and entry.data.get("still"):
        return replace(axes, laid=entry.setup)
    if axes.warm and _cooled(axes.warm, entry.at):
        axes = replace(axes, warm="")
    if entry.kind == "touched":
        return _touched(axes, entry)
    if entry.kind == "sensed":
        return _sensed(axes, entry)
    if entry.kind == "homed":
        x, y, z = (_homed(a, entry.at, i == 2) for i, a in enumerate((axes.x, axes.y, axes.z)))
        return replace(axes, x=x, y=y, z=z, homed=True)
    if entry.kind in ("proved", "ringed"):
        return _proved(axes, entry)
    if entry.kind == "witness":
        off = [_number(entry, a) for a in ("x", "y")]
        limit = max(
            AGREES, min(_number(entry, "within") or 0.0, SEEN_AT_BEST)
        )  # what two looks may miss by with nothing wrong
        if any(v is None or abs(v) > limit for v in off):
            return axes  # it was not measured, or it does not agree
        return replace(axes, x=_seen(axes.x, entry.at), y=_seen(axes.y, entry.at))
    return _changed(axes, act, entry, place)


def _proved(axes: Axes, entry: Entry) -> Axes:
    """After a look before wood is cut: where it misses, X and Y are no surer than a sum."""
    off = math.hypot(*(_number(entry, a) or 0.0 for a in ("x", "y")))
    if off <= (_number(entry, "within") or 0.0):
        return axes
    why = f"a mark was seen {off:.2f} mm beside where it should lie"
    return replace(axes, x=_after(axes.x, DROP, why, entry.at), y=_after(axes.y, DROP, why, entry.at))


def _changed(axes: Axes, act: ShopAct, entry: Entry, place: Where) -> Axes:
    upright = act.bed if place.z_on_bed else act.top
    if act.kind == "warmed":
        upright = upright if axes.z.cold else KEEP
        axes = replace(axes, warm=entry.at or "once", z=replace(axes.z, cold=False) if upright == KEEP else axes.z)
    axes = replace(
        axes,
        x=_after(axes.x, act.across, act.words, entry.at),
        y=_after(axes.y, act.across, act.words, entry.at),
        z=_after(axes.z, upright, act.words, entry.at),
    )
    if act.session:
        axes = replace(
            axes, homed=False, warm="" if act.kind in ("power cut", "switched on", "red button") else axes.warm
        )
    if axes.base is not None and act.kind != "fitted" and upright != KEEP:
        kept = None if upright == LOSE else replace(axes.base, trust=least(axes.base.trust, Trust.PROVISIONAL))
        axes = replace(axes, base=kept)
    if act.kind == "fitted" and "tool" in entry.data:
        axes = replace(axes, tool=int(float(entry.data["tool"])))
    if act.kind == "taken up":
        return replace(axes, laid="")
    return replace(axes, laid=entry.setup) if act.kind == "laid" else axes


def _sensed(axes: Axes, entry: Entry) -> Axes:
    zero, contact = _number(entry, "zero"), _number(entry, "machine")
    if axes.z.trust is Trust.LOST or zero is None or contact is None:
        return axes
    return replace(axes, base=SensorBase(zero, contact, axes.z.trust))


def _cooled(warmed: str, at: str) -> bool:
    """Whether a spindle that was warmed up at one time has stood so long by another; ISO times."""
    try:
        return datetime.fromisoformat(at) - datetime.fromisoformat(warmed) > STAYS_WARM
    except (ValueError, TypeError):
        return False


def stood(entries: Iterable[Entry], place: Where) -> Axes:
    """What is known of where a setup's zeros are on the machine, whatever has become of the work since."""
    return trust((e for e in entries if (act := act_of(e)) is None or act.across != LOSE), place)


def trust(entries: Iterable[Entry], place: Where) -> Axes:
    """What is known of a setup's axes after all that happened."""
    axes = Axes()
    for entry in entries:
        axes = step(axes, entry, place)
    return axes
