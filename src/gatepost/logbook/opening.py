# SPDX-License-Identifier: GPL-3.0-or-later
"""How a logbook is opened: made where there is none, and alone while it is brought up to date."""

from __future__ import annotations

import contextlib
import os
import sqlite3
import threading
from collections.abc import Iterator
from importlib import resources
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event

from gatepost.core.job.file import locked
from gatepost.logbook.rows import Base


def config_of() -> Config:
    """How its tables are brought up to date."""
    config = Config()
    config.set_main_option("script_location", str(resources.files("gatepost.logbook").joinpath("migrations")))
    return config


OPENING = threading.RLock()


@contextlib.contextmanager
def alone(url: str, patience: float) -> Iterator[Path | None]:
    """Alone with a SQLite database while it is made or brought up to date; gives its path. A server sees to that itself."""
    name = url.removeprefix("sqlite:///")
    if not url.startswith("sqlite:///") or name in ("", ":memory:"):
        yield None
        return
    with OPENING, locked(Path(name), patience):
        yield Path(name)


def made_first(path: Path) -> str:
    """Make the database where there is none, aside and then put in its place: it is whole or it is not there. One that was
    cut short while an older Gatepost made it, with no run in it, is put aside. Gives what was put right."""
    said = ""
    if path.exists() and path.stat().st_size:
        if not cut_short(path):
            return ""
        aside = path.with_name(f"{path.name}.cut")
        os.replace(path, aside)
        for more in ("-wal", "-shm"):
            Path(f"{path}{more}").unlink(missing_ok=True)
        said = f"The logbook had been cut short while it was made; it is kept as {aside.name}, and a new one was begun."
    new = path.with_name(f"{path.name}.{os.getpid()}.new")
    try:
        engine = engine_of(f"sqlite:///{new}")
        try:
            with engine.begin() as connection:
                config = config_of()
                config.attributes["connection"] = connection
                command.upgrade(config, "head")
        finally:
            engine.dispose()
        os.replace(new, path)
    finally:
        for more in ("", "-wal", "-shm", "-journal"):
            Path(f"{new}{more}").unlink(missing_ok=True)
    return said


def cut_short(path: Path) -> bool:
    """Whether a database has tables but not what says which form they have, and no run."""
    try:
        with contextlib.closing(sqlite3.connect(path, timeout=5.0)) as connection:
            names = {name for (name,) in connection.execute("select name from sqlite_master where type = 'table'")}
            known = (
                "alembic_version" in names and connection.execute("select count(*) from alembic_version").fetchone()[0]
            )
            runs = connection.execute("select count(*) from runs").fetchone()[0] if "runs" in names else 0
    except sqlite3.Error:
        return False  # damaged or locked: told when it is opened
    return not known and not runs and names <= {"alembic_version", *Base.metadata.tables}


def engine_of(url: str, patience: float = 5.0) -> Engine:
    """The database. patience: seconds that it waits for one that is in use."""
    if not url.startswith("sqlite"):
        wait = {"connect_timeout": max(2, round(patience))} if url.startswith("postgresql") else {}
        return create_engine(url, pool_pre_ping=True, connect_args=wait)
    engine = create_engine(url)

    @event.listens_for(engine, "connect")
    def _careful(connection: Any, _: Any) -> None:
        cursor = connection.cursor()
        cursor.execute("PRAGMA journal_mode=WAL")
        cursor.execute("PRAGMA synchronous=FULL")
        cursor.execute(f"PRAGMA busy_timeout={round(1000 * patience)}")
        cursor.close()

    return engine
