# SPDX-License-Identifier: GPL-3.0-or-later
import os
import shutil
import subprocess

import pytest
from sqlalchemy import create_engine, text

from gatepost.core.errors import OperatorError
from gatepost.logbook.store import Logbook

ROW = {
    "started": "2026-01-01T10:00", "kind": "simulated", "job": "Quay plate", "setup": "front", "program": "front-1-T3.nc",
    "tool": "T3", "fingerprint": "abc", "planned_minutes": 4.1,
}  # fmt: skip


def use(url):
    log = Logbook(url)
    try:
        number = log.start(**ROW, zeros={"x": -1.5})
        assert log.run(number).state == "running"
        log.note(number, remarks="slower next time", stops=[{"at": "t", "what": "pause"}])
        log.close_run(number, "done", "2026-01-01T10:05", real_minutes=4.3)
        run = log.run(number)
        assert (run.state, run.real_minutes, run.zeros, run.remarks) == ("done", 4.3, {"x": -1.5}, "slower next time")
        assert run.stops == [{"at": "t", "what": "pause"}]
        assert [r.id for r in log.runs("Quay plate")][0] == number and log.runs("Another") == []
        with pytest.raises(OperatorError, match="no run 999"):
            log.run(999)
        with pytest.raises(ValueError):
            log.close_run(number, "exploded", "t")
    finally:
        log.close()


def test_a_row_is_written_before_and_closed_after(tmp_path):
    use(f"sqlite:///{tmp_path / 'log.sqlite'}")
    use(f"sqlite:///{tmp_path / 'log.sqlite'}")


def test_rows_of_a_gatepost_that_is_gone_become_interrupted(tmp_path):
    url = f"sqlite:///{tmp_path / 'log.sqlite'}"
    log = Logbook(url)
    mine, lost = log.start(**ROW), log.start(**ROW)
    gone = subprocess.Popen(["true"])
    gone.wait()
    engine = create_engine(url)
    with engine.begin() as connection:
        connection.execute(
            text("update runs set owner = replace(owner, :a, :b) where id = :i"),
            {"a": f":{os.getpid()}", "b": f":{gone.pid}", "i": lost},
        )
    engine.dispose()
    assert log.close_leftovers("2026-01-02") == 1
    assert log.run(mine).state == "running" and log.run(lost).state == "interrupted"
    log.close()


def test_a_damaged_database_is_said_in_a_sentence(tmp_path):
    path = tmp_path / "log.sqlite"
    path.write_bytes(b"this is no database at all, not even close to one" * 50)
    with pytest.raises(OperatorError, match="logbook can't be opened"):
        Logbook(f"sqlite:///{path}")


@pytest.mark.skipif(
    shutil.which("initdb") is None or shutil.which("pg_ctl") is None, reason="no PostgreSQL server here"
)
def test_the_same_on_a_postgresql_server(tmp_path):
    data = tmp_path / "pg"
    who = ["runuser", "-u", "nobody", "--"] if os.geteuid() == 0 else []
    tmp_path.chmod(0o777)
    for parent in list(tmp_path.parents)[:3]:
        parent.chmod(parent.stat().st_mode | 0o055)
    run = lambda *words: subprocess.run([*who, *words], capture_output=True, text=True)  # noqa: E731
    made = run("initdb", "-D", str(data), "-U", "gatepost", "-A", "trust")
    if made.returncode:
        pytest.skip(f"initdb can't run here: {made.stderr[-200:]}")
    started = run(
        "pg_ctl", "-D", str(data), "-w", "-l", str(tmp_path / "pg.log"), "-o", f"-k {tmp_path} -h ''", "start"
    )
    if started.returncode:
        pytest.skip(f"the server can't start here: {started.stderr[-200:]}")
    try:
        use(f"postgresql+psycopg://gatepost@/postgres?host={tmp_path}")
    finally:
        run("pg_ctl", "-D", str(data), "-m", "immediate", "stop")
