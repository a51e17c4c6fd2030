# SPDX-License-Identifier: GPL-3.0-or-later
"""The logbook: a row before each run starts, closed whatever happens."""

from __future__ import annotations

import contextlib
import json
import os
import socket
import sqlite3
import uuid
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from alembic import command
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import func, select, text
from sqlalchemy.exc import InterfaceError, OperationalError, SQLAlchemyError
from sqlalchemy.orm import Session

from gatepost.core.errors import OperatorError
from gatepost.core.job.file import locked
from gatepost.logbook.learned import Learned
from gatepost.logbook.notebook import RunFile, left_behind
from gatepost.logbook.opening import alone, config_of, engine_of, made_first
from gatepost.logbook.rows import LessonRow, Row, Run, ShopTime, share_done
from gatepost.logbook.shelves import Shelves

TOLD = {"zeros": dict, "stops": list, "cuts": list, "overrides": list, "marks": list}  # columns that hold JSON
ONE_AT_A_TIME = 7_205_759  # of those who bring a server's tables up to date
STATES = ("running", "done", "stopped", "interrupted", "failed")


NAMES = tuple(Run.__dataclass_fields__)
COLUMNS = tuple(
    getattr(Row, name) for name in NAMES
)  # read without an object of the mapper for each: many rows are read at once
JSON_AT = tuple((NAMES.index(name), kind) for name, kind in TOLD.items())


def _plain(row: Sequence[Any]) -> Run:
    """A row, of COLUMNS."""
    values = list(row)
    for at, kind in JSON_AT:
        values[at] = _json(values[at], kind)
    return Run(*values)


def _json(text: str, kind: type) -> Any:
    """What a column of JSON holds; nothing of it where it was spoilt."""
    if text in ("[]", "{}"):
        return kind()
    try:
        value = json.loads(text)
    except (ValueError, TypeError):
        return kind()
    return value if isinstance(value, kind) else kind()


def _owner() -> str:
    return f"{socket.gethostname()}:{os.getpid()}"


def _lost(error: SQLAlchemyError) -> bool:
    """Whether a server could not be reached, or went away: nothing else of its errors."""
    cause = getattr(error, "orig", None)
    if not type(cause).__module__.startswith("psycopg") or not isinstance(error, (OperationalError, InterfaceError)):
        return False
    state = getattr(cause, "sqlstate", None)
    return state is None or state.startswith(("08", "57P"))  # connection exceptions; shut down, starting up


def _why(error: SQLAlchemyError) -> str:
    """The first line of what a database says, in words where they are known."""
    words = str(error).splitlines()[0]
    if "database is locked" in words:
        return "another program holds it. Close what else has it open, and try again."
    if "malformed" in words or "not a database" in words:
        return "it is damaged. Put it aside, and a new one is begun; runs noted meanwhile are taken in."
    if "readonly" in words or "read-only" in words:
        return "it may not be written here."
    if _lost(error):
        return "its server can't be reached. Runs are noted beside it meanwhile, and taken in later."
    return words


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


class Logbook(Shelves):
    """The store behind a database URL. folder: where runs are noted that could not be written; see ``notebook``.

    An older database is brought up to date, a copy of it being kept beside it (SQLite; a server has its own backups);
    a newer one is refused.
    """

    def __init__(self, url: str, folder: Path | None = None, patience: float = 5.0) -> None:
        """patience: seconds that a write waits for another that is going on before it says that the book is in use."""
        self._url = url
        self.folder = folder
        self.healed = ""  # what was put right when it was opened, for whoever is watching
        try:
            with alone(url, patience) as path:
                if path is not None:
                    self.healed = made_first(path)
                self._engine = engine_of(url, patience)
                try:
                    self._migrate()
                except BaseException:
                    self._engine.dispose()
                    raise
        except SQLAlchemyError as error:
            raise OperatorError(f"The logbook can't be opened: {_why(error)}") from None
        except OSError as error:
            raise OperatorError(f"The logbook can't be opened: {error.strerror or error}.") from None

    def _migrate(self) -> None:
        config = config_of()
        scripts = ScriptDirectory.from_config(config)
        with self._engine.connect() as connection:
            now = MigrationContext.configure(connection).get_current_revision()
        known = {script.revision for script in scripts.walk_revisions()}
        head = scripts.get_current_head()
        if now == head:
            return
        if now is not None and now not in known:
            raise OperatorError(
                f"The logbook was written by a newer Gatepost (its form is {now}; this one knows up to {head}). "
                "Use the newer one, or point this one at another logbook."
            )
        if now is not None:
            self._keep_copy(now)
        with self._engine.begin() as connection:
            if self._engine.dialect.name == "postgresql":  # one after another, whoever comes first
                connection.execute(text("select pg_advisory_xact_lock(:key)"), {"key": ONE_AT_A_TIME})
                if MigrationContext.configure(connection).get_current_revision() == head:
                    return
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    def _keep_copy(self, revision: str) -> None:
        """A copy of a SQLite database before it is changed."""
        path = self._engine.url.database
        if not self._url.startswith("sqlite") or not path or path == ":memory:":
            return
        aside = Path(f"{path}.{revision}.copy")
        with contextlib.closing(sqlite3.connect(path)) as old, contextlib.closing(sqlite3.connect(aside)) as new:
            old.backup(new)

    @property
    def learned(self) -> Learned:
        """Lessons, and pieces as they were judged."""
        return Learned(self._session)

    def close(self) -> None:
        """Let go of the database."""
        self._engine.dispose()

    @contextlib.contextmanager
    def _session(self) -> Iterator[Session]:
        try:
            with Session(self._engine) as session, session.begin():
                yield session
        except SQLAlchemyError as error:
            raise OperatorError(f"The logbook can't be written or read: {_why(error)}") from None

    def start(self, **values: Any) -> int:
        """A row before a run starts; gives its number."""
        values = {"owner": _owner(), "zeros": {}, "key": uuid.uuid4().hex, **values}
        values = {name: json.dumps(v) if name in TOLD else v for name, v in values.items()}
        with self._session() as session:
            row = Row(**values)
            session.add(row)
            session.flush()
            return row.id

    def note(self, run: int, **values: Any) -> None:
        """Write more about a run."""
        values = {name: json.dumps(v) if name in TOLD else v for name, v in values.items()}
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

    def runs(self, job: str | None = None, most: int | None = None) -> list[Run]:
        """All rows, newest first. job: of that alone; most: so many at the most."""
        with self._session() as session:
            query = select(*COLUMNS).order_by(Row.id.desc())
            if job is not None:
                query = query.where(Row.job == job)
            if most is not None:
                query = query.limit(most)
            return [_plain(row) for row in session.execute(query)]

    def shop_times(self) -> list[ShopTime]:
        """Of all shop runs: a long book's in a tenth of the time that its rows take."""
        columns = (
            Row.started,
            Row.tool,
            Row.machine,
            Row.real_minutes,
            Row.planned_minutes,
            Row.state,
            Row.blocks,
            Row.blocks_done,
            Row.after_block,
        )
        with self._session() as session:
            rows = session.execute(select(*columns).where(Row.kind == "shop"))
            return [ShopTime(*row[:5], share_done(*row[5:])) for row in rows]

    def runs_of_tool(self, name: str) -> list[Run]:
        """Shop runs of a tool by its name, whatever its number was, newest first: of what it has done, and of what was said."""
        with self._session() as session:
            query = select(*COLUMNS).where(Row.kind == "shop", Row.tool.like("T% %")).order_by(Row.id.desc())
            return [_plain(row) for row in session.execute(query) if row.tool.partition(" ")[2] == name]

    def told(self) -> list[str]:
        """Where it is and how it stands, a line each, once something was written to it and taken back. Raises OperatorError where it can't be."""
        name, at = "check " + uuid.uuid4().hex[:8], datetime.now(UTC).isoformat(timespec="seconds")
        self.keep("trial", name, {"at": at}, at)
        read = self.kept("trial")[name].data == {"at": at}
        self.forget("trial", name)
        url, dialect = self._engine.url, self._engine.dialect
        version = ".".join(str(v) for v in dialect.server_version_info or ())
        with self._session() as session:
            machines = sorted(m for m in session.scalars(select(Row.machine).distinct()) if m)
        where = (
            str(url.database) if dialect.name == "sqlite" else f"{url.host or 'this computer'}, database {url.database}"
        )
        return [
            f"Logbook: {dialect.name} {version}, {where}",
            f"Written and read back: {'yes' if read else 'no'}",
            f"Runs: {self.count()}; machines: {', '.join(machines) or 'none yet'}",
            f"Runs noted beside it, to be taken in: {len(left_behind(self.folder)) if self.folder is not None else 0}",
        ]

    def count(self) -> int:
        """How many rows there are."""
        with self._session() as session:
            return session.scalar(select(func.count()).select_from(Row)) or 0

    def mark(self) -> str:
        """What tells a book from what it becomes when a run or a lesson comes, ends or is told otherwise."""
        columns = (func.count(), func.max(Row.id), func.max(Row.ended))
        lessons = (
            func.count(),
            func.max(LessonRow.id),
            func.max(LessonRow.ended),
            func.sum(LessonRow.held),
            func.sum(LessonRow.failed),
        )
        with self._session() as session:
            told = [
                session.execute(select(*some).select_from(of)).one()
                for some, of in ((columns, Row), (lessons, LessonRow))
            ]
        return repr([tuple(row) for row in told])

    def newest(self) -> int:
        """The number of the newest row, or 0."""
        with self._session() as session:
            return session.scalar(select(func.max(Row.id))) or 0

    def run(self, number: int) -> Run:
        """One row. Raises OperatorError when there is none."""
        with self._session() as session:
            row = session.execute(select(*COLUMNS).where(Row.id == number)).first()
            if row is None:
                raise OperatorError(f"The logbook has no run {number}.")
            return _plain(row)

    def close_leftovers(self, ended: str) -> int:
        """Rows still running whose process is gone become interrupted, with the last block done; gives how many.

        What was noted beside the database meanwhile is taken in.
        """
        if self.folder is None or not self.folder.is_dir():
            return self._taken_in(ended)
        with locked(self.folder / "taking in", 5.0):  # else two would take the same files in
            return self._taken_in(ended)

    def _taken_in(self, ended: str) -> int:
        noted = left_behind(self.folder) if self.folder is not None else []
        noted = [f for f in noted if (f.row is not None or _sound(f.values)) and _fits(f)]
        mine = {f.row: f for f in noted if f.row is not None}
        with self._session() as session:
            over = {number for number, file in mine.items() if file.state != "running"}
            running = session.scalars(select(Row).where(Row.state == "running"))
            rows = [r for r in running if r.id in over or not _alive(r.owner)]
            for row in rows:
                file = mine.pop(row.id, None)
                if file is not None and file.state != "running":
                    _fill(row, {**file.end, "state": file.state})
                    continue
                row.state, row.ended, row.reason = "interrupted", ended, "Gatepost ended before the run did"
                row.blocks_done = max(row.blocks_done, file.last_done() if file is not None else 0)
            new = [
                f for f in noted if f.row is None and (f.state != "running" or not _alive(f.values.get("owner", "")))
            ]
            for file in new:
                row = _with_key(session, file.values.get("key")) or Row()
                _fill(row, file.values)
                if file.state == "running":
                    late = {"state": "interrupted", "ended": ended, "blocks_done": file.last_done()}
                    _fill(row, {**late, "reason": "Gatepost ended before the run did"})
                else:
                    _fill(row, {**file.end, "state": file.state})
                session.add(row)
            ours = [f.row for f in noted if f.row is not None]
            closed = set(session.scalars(select(Row.id).where(Row.state != "running", Row.id.in_(ours))))
        for file in noted:
            if file in new or file.row in closed:
                file.forget()
        return len(rows) + len(new)


def _with_key(session: Session, key: Any) -> Row | None:
    """The row of a run whose answer never came: it was written all the same."""
    return session.scalars(select(Row).where(Row.key == key)).first() if isinstance(key, str) and key else None


def _fits(file: RunFile) -> bool:
    """Whether how a noted run ended can be written; else its file is left where it is, and the others are taken in."""
    return file.state in STATES and _sound({**file.values, **file.end, **_NEEDED, "state": file.state})


_NEEDED = {
    "started": "",
    "kind": "",
    "job": "",
    "setup": "",
    "program": "",
    "tool": "",
    "fingerprint": "",
    "planned_minutes": 0.0,
}


def _fill(row: Row, values: dict[str, Any]) -> None:
    for name, value in values.items():
        if name in TOLD and not isinstance(value, str):
            value = json.dumps(value)
        if name in Row.__table__.columns:
            setattr(row, name, value)


def _sound(values: dict[str, Any]) -> bool:
    """Whether what was noted of a run can stand in a row."""
    for name, column in Row.__table__.columns.items():
        value = values.get(name)
        if name in TOLD or value is None:
            continue
        kind = column.type.python_type
        if kind is not str and (
            isinstance(value, bool) or not isinstance(value, (int, float) if kind is float else kind)
        ):
            return False
        if kind is str and not isinstance(value, str):
            return False
    whole = all(isinstance(values.get(name, kind()), kind) for name, kind in TOLD.items())
    needed = ("started", "kind", "job", "setup", "program", "tool", "fingerprint", "planned_minutes")
    return whole and all(values.get(n) is not None for n in needed)
