# SPDX-License-Identifier: GPL-3.0-or-later
"""The logbook: a row before each run starts, closed whatever happens."""

from __future__ import annotations

import contextlib
import json
import os
import socket
from collections.abc import Iterator
from dataclasses import dataclass
from importlib import resources
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, String, Text, create_engine, event, select
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import DeclarativeBase, Mapped, Session, mapped_column

from gatepost.core.errors import OperatorError

STATES = ("running", "done", "stopped", "interrupted", "failed")


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


def _plain(row: Row) -> Run:
    values = {name: getattr(row, name) for name in Run.__dataclass_fields__}
    return Run(**{**values, "zeros": json.loads(row.zeros), "stops": json.loads(row.stops)})


def _owner() -> str:
    return f"{socket.gethostname()}:{os.getpid()}"


def _alive(owner: str) -> bool:
    host, _, pid = owner.rpartition(":")
    if host != socket.gethostname() or not pid.isdigit():
        return host != socket.gethostname()
    try:
        os.kill(int(pid), 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


class Logbook:
    """The store behind a database URL."""

    def __init__(self, url: str) -> None:
        self._url = url
        try:
            self._engine = _engine(url)
            self._migrate()
        except SQLAlchemyError as error:
            raise OperatorError(f"The logbook can't be opened: {str(error).splitlines()[0]}") from None

    def _migrate(self) -> None:
        config = Config()
        config.set_main_option("script_location", str(resources.files("gatepost.logbook").joinpath("migrations")))
        with self._engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    def close(self) -> None:
        """Let go of the database."""
        self._engine.dispose()

    @contextlib.contextmanager
    def _session(self) -> Iterator[Session]:
        try:
            with Session(self._engine) as session, session.begin():
                yield session
        except SQLAlchemyError as error:
            raise OperatorError(f"The logbook can't be written or read: {str(error).splitlines()[0]}") from None

    def start(self, **values: Any) -> int:
        """A row before a run starts; gives its number."""
        values["zeros"] = json.dumps(values.get("zeros", {}))
        with self._session() as session:
            row = Row(**values, owner=_owner())
            session.add(row)
            session.flush()
            return row.id

    def note(self, run: int, **values: Any) -> None:
        """Write more about a run."""
        if "stops" in values:
            values["stops"] = json.dumps(values["stops"])
        with self._session() as session:
            row = session.get(Row, run)
            if row is None:
                raise OperatorError(f"The logbook has no run {run}.")
            for name, value in values.items():
                setattr(row, name, value)

    def close_run(self, run: int, state: str, ended: str, **values: Any) -> None:
        """Close a row."""
        if state not in STATES:
            raise ValueError(state)
        self.note(run, state=state, ended=ended, **values)

    def runs(self, job: str | None = None) -> list[Run]:
        """All rows, newest first."""
        with self._session() as session:
            query = select(Row).order_by(Row.id.desc())
            if job is not None:
                query = query.where(Row.job == job)
            return [_plain(row) for row in session.scalars(query)]

    def run(self, number: int) -> Run:
        """One row. Raises OperatorError when there is none."""
        with self._session() as session:
            row = session.get(Row, number)
            if row is None:
                raise OperatorError(f"The logbook has no run {number}.")
            return _plain(row)

    def close_leftovers(self, ended: str) -> int:
        """Rows still running whose process is gone become interrupted; gives how many."""
        with self._session() as session:
            rows = [r for r in session.scalars(select(Row).where(Row.state == "running")) if not _alive(r.owner)]
            for row in rows:
                row.state, row.ended, row.reason = "interrupted", ended, "Gatepost ended before the run did"
            return len(rows)


def _engine(url: str) -> Engine:
    engine = create_engine(url)
    if url.startswith("sqlite"):

        @event.listens_for(engine, "connect")
        def _careful(connection: Any, _: Any) -> None:
            cursor = connection.cursor()
            cursor.execute("PRAGMA journal_mode=WAL")
            cursor.execute("PRAGMA synchronous=FULL")
            cursor.execute("PRAGMA busy_timeout=5000")
            cursor.close()

    return engine
