# SPDX-License-Identifier: GPL-3.0-or-later
"""The logbook's tables, and their rows as plain values."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy import String, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """Tables of the logbook."""


class Row(Base):
    """One run of one program. kind: simulated or shop; minutes from the plan and by the machine's own clock."""

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
    resumes: Mapped[int | None] = mapped_column(default=None)
    after_block: Mapped[int] = mapped_column(default=0)


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
