# SPDX-License-Identifier: GPL-3.0-or-later
"""The logbook's tables, and their rows as plain values."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import String, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """Tables of the logbook."""


class Row(Base):
    """One run of one program. kind: simulated or shop; minutes from the plan and by the machine's own clock; metres: that its tool is fed in all; chip:
    planned, mm a tooth; cuts: of each its name, kind, metres, and minutes planned and real; overrides: of the feed, each with its time and block; marks: what was said while it ran; key:
    its own, by which it is known again when it is taken in from its file."""

    __tablename__ = "runs"

    id: Mapped[int] = mapped_column(primary_key=True)
    started: Mapped[str] = mapped_column(String(32))
    ended: Mapped[str] = mapped_column(String(32), default="")
    state: Mapped[str] = mapped_column(String(16), default="running")
    kind: Mapped[str] = mapped_column(String(16))
    job: Mapped[str] = mapped_column(String(80))
    path: Mapped[str] = mapped_column(Text, default="")
    setup: Mapped[str] = mapped_column(String(32))
    program: Mapped[str] = mapped_column(String(80))
    tool: Mapped[str] = mapped_column(String(80))
    blank: Mapped[str] = mapped_column(String(120), default="")
    fingerprint: Mapped[str] = mapped_column(String(16))
    planned_minutes: Mapped[float]
    real_minutes: Mapped[float | None] = mapped_column(default=None)
    blocks_done: Mapped[int] = mapped_column(default=0)
    blocks: Mapped[int] = mapped_column(default=0)
    zeros: Mapped[str] = mapped_column(Text, default="{}")
    stops: Mapped[str] = mapped_column(Text, default="[]")
    remarks: Mapped[str] = mapped_column(Text, default="")
    reason: Mapped[str] = mapped_column(Text, default="")
    owner: Mapped[str] = mapped_column(String(120), default="")
    key: Mapped[str] = mapped_column(String(32), default="")
    resumes: Mapped[int | None] = mapped_column(default=None)
    after_block: Mapped[int] = mapped_column(default=0)
    wood: Mapped[str] = mapped_column(Text, default="")
    wood_kind: Mapped[str] = mapped_column(Text, default="")
    metres: Mapped[float] = mapped_column(default=0.0)
    chip: Mapped[float] = mapped_column(default=0.0)
    cuts: Mapped[str] = mapped_column(Text, default="[]")
    overrides: Mapped[str] = mapped_column(Text, default="[]")
    marks: Mapped[str] = mapped_column(Text, default="[]")
    machine: Mapped[str] = mapped_column(Text, default="")


class WoodRow(Base):
    """A wood as this shop knows it."""

    __tablename__ = "woods"

    name: Mapped[str] = mapped_column(String(80), primary_key=True)
    kind: Mapped[str] = mapped_column(String(16))
    density: Mapped[float]
    note: Mapped[str] = mapped_column(Text, default="")
    changed: Mapped[str] = mapped_column(String(32))


class OffcutRow(Base):
    """An offcut worth keeping. used: when it was taken, or nothing."""

    __tablename__ = "offcuts"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    wood: Mapped[str] = mapped_column(String(80))
    length: Mapped[float]
    width: Mapped[float]
    thickness: Mapped[float]
    job: Mapped[str] = mapped_column(String(80), default="")
    added: Mapped[str] = mapped_column(String(32))
    used: Mapped[str] = mapped_column(String(32), default="")


class KeptRow(Base):
    """Something the shop keeps from job to job, as JSON: a bed, a machine, a plate or a sensor."""

    __tablename__ = "kept"

    kind: Mapped[str] = mapped_column(String(16), primary_key=True)
    name: Mapped[str] = mapped_column(String(80), primary_key=True)
    data: Mapped[str] = mapped_column(Text)
    changed: Mapped[str] = mapped_column(String(32))


class LessonRow(Base):
    """Something that was learned; see ``core.log.lesson``. declined: JSON."""

    __tablename__ = "lessons"

    id: Mapped[int] = mapped_column(primary_key=True)
    words: Mapped[str] = mapped_column(Text)
    stage: Mapped[str] = mapped_column(String(16))
    wood: Mapped[str] = mapped_column(String(80), default="")
    tool: Mapped[str] = mapped_column(String(80), default="")
    kind: Mapped[str] = mapped_column(String(80), default="")
    hold: Mapped[str] = mapped_column(String(80), default="")
    machine: Mapped[str] = mapped_column(String(80), default="")
    amount: Mapped[str] = mapped_column(String(80), default="")
    bad: Mapped[float | None] = mapped_column(default=None)
    good: Mapped[float | None] = mapped_column(default=None)
    made: Mapped[str] = mapped_column(String(32))
    run: Mapped[int] = mapped_column(default=0)
    held: Mapped[int] = mapped_column(default=0)
    failed: Mapped[int] = mapped_column(default=0)
    judged: Mapped[str] = mapped_column(String(32), default="")
    declined: Mapped[str] = mapped_column(Text, default="[]")
    ended: Mapped[str] = mapped_column(String(32), default="")


class ResultRow(Base):
    """A piece as it was judged; see ``core.log.judged``. told: its points, warnings and lessons, as JSON."""

    __tablename__ = "results"

    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[str] = mapped_column(String(32))
    kind: Mapped[str] = mapped_column(String(16))
    job: Mapped[str] = mapped_column(String(80))
    path: Mapped[str] = mapped_column(Text, default="")
    fingerprint: Mapped[str] = mapped_column(String(64), default="")
    words: Mapped[str] = mapped_column(Text, default="")
    told: Mapped[str] = mapped_column(Text, default="{}")


@dataclass(frozen=True)
class Kept:
    """Something the shop keeps. data: its values; changed: when."""

    kind: str
    name: str
    data: dict[str, Any]
    changed: str


@dataclass(frozen=True)
class KnownWood:
    """A wood of the shop's table. own: this shop's figures, not the shipped starting values; said: remarks of shop runs
    in it, newest first."""

    name: str
    kind: str
    density: float
    note: str
    own: bool
    said: tuple[str, ...] = ()


@dataclass(frozen=True)
class KeptOffcut:
    """An offcut on the shelf."""

    id: int
    name: str
    wood: str
    length: float
    width: float
    thickness: float
    job: str
    added: str


def share_done(state: str, blocks: int, done: int, after: int) -> float:
    """How much of a run was carried out, 0 to 1; all of it where it was done."""
    return 1.0 if state == "done" or not blocks else min(1.0, max(done - after, 0) / blocks)


@dataclass(frozen=True)
class ShopTime:
    """What running hours are added up from: a shop run's row, and no more of it than that."""

    started: str
    tool: str
    machine: str
    real_minutes: float | None
    planned_minutes: float
    share: float
    kind: str = "shop"


@dataclass(frozen=True)
class Run:
    """A row as read: plain values."""

    id: int
    started: str
    ended: str
    state: str
    kind: str
    job: str
    path: str
    setup: str
    program: str
    tool: str
    blank: str
    fingerprint: str
    planned_minutes: float
    real_minutes: float | None
    blocks_done: int
    blocks: int
    zeros: dict[str, Any]
    stops: list[Any]
    remarks: str
    reason: str
    resumes: int | None = None
    after_block: int = 0
    wood: str = ""
    wood_kind: str = ""
    metres: float = 0.0
    chip: float = 0.0
    cuts: list[Any] = field(default_factory=list)
    overrides: list[Any] = field(default_factory=list)
    marks: list[Any] = field(default_factory=list)
    machine: str = ""

    @property
    def share(self) -> float:
        """How much of it was carried out, 0 to 1; all of it where it was done."""
        return share_done(self.state, self.blocks, self.blocks_done, self.after_block)

    @property
    def kept_at(self) -> float:
        """The share of its feed at which it was kept last, 1 where nobody changed it."""
        feeds = [o["percent"] for o in self.overrides if isinstance(o, dict) and "percent" in o]
        return float(feeds[-1]) / 100.0 if feeds else 1.0
