# SPDX-License-Identifier: GPL-3.0-or-later
"""A PostgreSQL server of the tests' own, where its programs are installed."""

from __future__ import annotations

import contextlib
import os
import subprocess
from pathlib import Path

import pytest

MISSING = "no PostgreSQL server here: install Debian's package postgresql"
PLACES = [
    *sorted(Path("/usr/lib/postgresql").glob("*/bin"), reverse=True),
    *map(Path, os.environ.get("PATH", "").split(":")),
]
BIN = next((p for p in PLACES if all(os.access(p / name, os.X_OK) for name in ("initdb", "pg_ctl"))), None)
wanted = pytest.mark.skipif(BIN is None, reason=MISSING)


class Server:
    """url: of its one database."""

    def __init__(self, folder):
        self.folder, self.data = folder, folder / "pg"
        self.url = f"postgresql+psycopg://gatepost@/postgres?host={folder}"

    def run(self, *words):
        who = ["runuser", "-u", "nobody", "--"] if os.geteuid() == 0 else []
        return subprocess.run([*who, str(BIN / words[0]), *words[1:]], capture_output=True, text=True)

    def start(self):
        log, options = str(self.folder / "pg.log"), f"-k {self.folder} -h '' -c fsync=off"
        return self.run("pg_ctl", "-D", str(self.data), "-w", "-l", log, "-o", options, "start")

    def kill(self):
        """As when its power goes."""
        self.run("pg_ctl", "-D", str(self.data), "-m", "immediate", "stop")


@contextlib.contextmanager
def server(folder):
    """Running; skips the test where it can't be."""
    folder.chmod(0o777)
    for parent in list(folder.parents)[:3]:
        parent.chmod(parent.stat().st_mode | 0o055)
    made = Server(folder)
    told = made.run("initdb", "-D", str(made.data), "-U", "gatepost", "-A", "trust")
    if told.returncode:
        pytest.skip(f"initdb can't run here: {told.stderr[-200:]}")
    started = made.start()
    if started.returncode:
        pytest.skip(f"the server can't start here: {started.stderr[-200:]}")
    try:
        yield made
    finally:
        made.kill()
