# SPDX-License-Identifier: GPL-3.0-or-later
import contextlib
import os
import sqlite3
import subprocess
import threading

import pytest
from sqlalchemy import create_engine, event, text

from gatepost.core.errors import OperatorError
from gatepost.logbook.notebook import RunFile
from gatepost.logbook.store import Logbook
from tests.logbook import servers

ROW = {
    "started": "2026-01-01T10:00", "kind": "simulated", "job": "Quay plate", "setup": "front", "program": "front-1-T3.nc",
    "tool": "T3", "fingerprint": "abc", "planned_minutes": 4.1,
}  # fmt: skip


@pytest.fixture
def url(tmp_path):
    return f"sqlite:///{tmp_path / 'log.sqlite'}"


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
        log.set_wood("bog oak", "hard", 900.0, "slow", "t")
        assert next(w for w in log.woods() if w.name == "bog oak").own
        offcut = log.keep_offcut("shelf", "oak", (1.0, 2.0, 3.0), f"job {number}", "t")
        log.use_offcut(offcut, "t")
        assert offcut not in [o.id for o in log.offcuts()]
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


OLD = """
create table runs (id integer primary key, started varchar(32) not null, ended varchar(32) not null,
 state varchar(16) not null, kind varchar(16) not null, job varchar(80) not null, path text not null,
 setup varchar(32) not null, program varchar(80) not null, tool varchar(80) not null, blank varchar(120) not null,
 fingerprint varchar(16) not null, planned_minutes float not null, real_minutes float, blocks_done integer not null,
 blocks integer not null, zeros text not null, stops text not null, remarks text not null, reason text not null,
 owner varchar(120) not null);
create table alembic_version (version_num varchar(32) not null primary key);
insert into alembic_version values ('0001');
insert into runs values (7, 't0', 't1', 'done', 'shop', 'Quay plate', '', 'front', 'front-1-T3.nc', 'T3', '', 'abc', 4.0,
 4.5, 10, 10, '{"x": 1.5}', '[]', 'kept in mind', '', '');
"""


def test_an_older_logbook_is_brought_up_to_date_and_a_copy_of_it_kept(tmp_path):
    path = tmp_path / "log.sqlite"
    with contextlib.closing(sqlite3.connect(path)) as old:
        old.executescript(OLD)
    log = Logbook(f"sqlite:///{path}")
    row = log.run(7)
    assert (row.remarks, row.real_minutes, row.zeros, row.resumes, row.after_block) == (
        "kept in mind",
        4.5,
        {"x": 1.5},
        None,
        0,
    )
    assert log.start(**ROW, resumes=7, after_block=3) == 8
    log.close()
    with contextlib.closing(sqlite3.connect(f"{path}.0001.copy")) as kept:
        assert kept.execute("select id, remarks from runs").fetchall() == [(7, "kept in mind")]
        assert kept.execute("select version_num from alembic_version").fetchall() == [("0001",)]


def test_a_newer_logbook_is_refused_and_left_alone(tmp_path):
    path = tmp_path / "log.sqlite"
    Logbook(f"sqlite:///{path}").close()
    with contextlib.closing(sqlite3.connect(path)) as newer:
        newer.execute("update alembic_version set version_num = '9999'")
        newer.commit()
    before = path.read_bytes()
    with pytest.raises(OperatorError, match="newer Gatepost"):
        Logbook(f"sqlite:///{path}")
    assert path.read_bytes() == before


def test_a_held_logbook_says_so_and_the_run_goes_to_a_file_that_is_taken_in_later(tmp_path, monkeypatch):
    path, folder = tmp_path / "log.sqlite", tmp_path / "runs"
    log = Logbook(f"sqlite:///{path}", folder)
    event.listen(log._engine, "checkout", lambda c, *_: c.execute("pragma busy_timeout=20"))
    with contextlib.closing(sqlite3.connect(path)) as other:
        other.execute("begin exclusive")
        with pytest.raises(OperatorError, match="another program holds it"):
            log.start(**ROW)
        file = RunFile.begin(folder, {**ROW, "blocks": 12, "zeros": {"z": -9.5}}, None)
        file.done(12)
        file.close("done", ended="t", blocks_done=12)
        other.rollback()
    assert log.close_leftovers("later") == 1 and log.close_leftovers("later still") == 0
    row = log.runs()[0]
    assert (row.state, row.blocks_done, row.zeros, row.job) == ("done", 12, {"z": -9.5}, "Quay plate")
    assert list(folder.iterdir()) == []
    log.close()


def test_a_note_of_a_run_that_is_no_note_is_left_where_it_is(tmp_path):
    folder = tmp_path / "runs"
    folder.mkdir()
    for name, words in (("a", ""), ("b", "{"), ("c", "[]"), ("d", '{"values": 3, "row": 1, "state": "x", "end": {}}')):
        (folder / f"{name}.run.json").write_text(words)
    log = Logbook(f"sqlite:///{tmp_path / 'log.sqlite'}", folder)
    assert log.close_leftovers("t") == 0 and len(list(folder.iterdir())) == 4
    log.close()


def test_a_damaged_database_is_said_in_a_sentence(tmp_path):
    path = tmp_path / "log.sqlite"
    path.write_bytes(b"this is no database at all, not even close to one" * 50)
    with pytest.raises(OperatorError, match="logbook can't be opened"):
        Logbook(f"sqlite:///{path}")


@servers.wanted
def test_the_same_on_a_postgresql_server(tmp_path):
    with servers.server(tmp_path) as made:
        use(made.url)


def test_woods_ship_as_starting_values_and_the_shop_s_own_stand_beside_what_its_runs_said(url):
    book = Logbook(url)
    try:
        shipped = {w.name: w for w in book.woods()}
        assert not any(w.own for w in shipped.values()) and {"elm", "oak", "larch"} <= set(shipped)
        book.set_wood("elm", "hard", 610.0, "burns under 3 m/min", "2026-01-02")
        book.set_wood("bog oak", "hard", 900.0, "", "2026-01-02")
        values = {
            "started": "t", "job": "a", "setup": "front", "program": "p", "tool": "T1", "fingerprint": "x", "planned_minutes": 1.0,
        }  # fmt: skip
        for kind, blank, remark in (
            ("shop", "elm 900 x 300 x 34.0 mm", "fuzzed at the crack"), ("simulated", "elm 900 x 300 x 34.0 mm", "only a trial"),
            ("shop", "bog oak 100 x 50 x 9.0 mm", "slow it down"), ("shop", "oak 100 x 50 x 9.0 mm", ""),
        ):  # fmt: skip
            book.note(book.start(**values, kind=kind, blank=blank), remarks=remark)
        now = {w.name: w for w in book.woods()}
        assert (now["elm"].own, now["elm"].kind, now["elm"].density) == (True, "hard", 610.0)
        assert (
            now["elm"].said == ("fuzzed at the crack",)
            and now["bog oak"].said == ("slow it down",)
            and now["oak"].said == ()
        )
        for wrong in (("", "hard", 600.0), ("elm", "stony", 600.0), ("elm", "hard", 6.0)):
            with pytest.raises(OperatorError, match="A wood wants"):
                book.set_wood(*wrong, "", "t")
    finally:
        book.close()


def test_offcuts_are_kept_once_offered_and_taken(url):
    from gatepost.core.blank.offcuts import that_would_do
    from gatepost.core.job.blank import Blank

    book = Logbook(url)
    try:
        first = book.keep_offcut("shelf 2", "elm", (400.0, 120.0, 34.0), "Lock 7", "t1")
        assert book.keep_offcut("shelf 2", "elm", (410.0, 120.0, 34.0), "Lock 7", "t2") == first
        large = book.keep_offcut("rack", "elm", (900.0, 300.0, 40.0), "Lock 7", "t3")
        assert [o.id for o in book.offcuts()] == [large, first] and book.offcuts()[1].length == 410.0
        wanted = Blank(length=300, width=100, label_thickness=30)
        assert [o.id for o in that_would_do(book.offcuts(), wanted)] == [first, large]
        assert that_would_do(book.offcuts(), Blank(length=100, width=350, label_thickness=30)) == []  # grain across
        book.use_offcut(first, "t4")
        assert [o.id for o in book.offcuts()] == [large]
        with pytest.raises(OperatorError, match="not on the shelf"):
            book.use_offcut(first, "t5")
    finally:
        book.close()


# -- a book that heals ------------------------------------------------------------------------------------------------


def test_many_who_open_a_new_book_at_once_find_one(tmp_path):
    """The window opens it behind its first paint while a job is begun: from threads, and from processes."""
    import subprocess
    import sys
    import threading

    url, wrong = f"sqlite:///{tmp_path / 'book.sqlite'}", []

    def open_it():
        try:
            Logbook(url).close()
        except Exception as error:
            wrong.append(error)

    threads = [threading.Thread(target=open_it) for _ in range(6)]
    code = f"from gatepost.logbook.store import Logbook; Logbook({url!r}).close()"
    runs = [subprocess.Popen([sys.executable, "-c", code], stderr=subprocess.PIPE) for _ in range(2)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    told = [r.communicate()[1] for r in runs]
    assert not wrong and all(r.returncode == 0 for r in runs), (wrong, told)
    assert sorted(p.name for p in tmp_path.iterdir()) == ["book.sqlite"]


def test_a_book_cut_short_while_it_was_made_is_put_aside_and_begun_anew(tmp_path):
    import sqlite3

    path = tmp_path / "book.sqlite"
    for made in ("", "create table runs (id integer)", "create table alembic_version (version_num text)"):
        with sqlite3.connect(path) as connection:
            connection.execute(made or "create table woods (name text)")
        connection.close()
        book = Logbook(f"sqlite:///{path}")
        assert "cut short" in book.healed and book.runs() == []
        book.close()
        assert path.with_name("book.sqlite.cut").exists()
        path.unlink()
    path.write_bytes(b"")
    book = Logbook(f"sqlite:///{path}")
    assert book.healed == "" and book.runs() == []
    book.close()


def test_a_book_made_where_nothing_can_be_written_is_a_sentence_and_leaves_nothing(tmp_path, monkeypatch):
    from gatepost.logbook import opening

    def full(*_, **__):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(opening.command, "upgrade", full)
    with pytest.raises(OperatorError, match="No space left"):
        Logbook(f"sqlite:///{tmp_path / 'book.sqlite'}")
    assert list(tmp_path.iterdir()) == []
    monkeypatch.undo()
    Logbook(f"sqlite:///{tmp_path / 'book.sqlite'}").close()


def test_one_spoilt_note_of_a_run_among_good_ones_loses_none_of_these(tmp_path):
    import json

    folder = tmp_path / "runs"
    good = {
        "started": "2026-11-20T10:00:00", "kind": "simulated", "job": "Quay plate", "setup": "front", "program": "front-1-T2.nc", "tool": "T2",
        "fingerprint": "abc", "planned_minutes": 3.0, "owner": "elsewhere:1", "zeros": {"x": -1.0}, "blocks": 40,
    }  # fmt: skip
    files = [RunFile.begin(folder, {**good, "job": f"Job {n}"}, None) for n in range(3)]
    for f in files:
        f.close("stopped", ended="2026-11-20T10:05:00", blocks_done=12)
    spoilt = [
        b"", b"{", b"[]", b"\xff\xfe", json.dumps({"values": [], "row": None, "state": "done", "end": {}}).encode(),
        json.dumps({"values": {}, "row": None, "state": "done", "end": {}}).encode(),
        json.dumps({"values": {**good, "blocks": "many"}, "row": None, "state": "done", "end": {}}).encode(),
        json.dumps({"values": {**good, "planned_minutes": None}, "row": None, "state": "done", "end": {}}).encode(),
        json.dumps({"values": good, "row": "7", "state": "done", "end": {}}).encode(),
        json.dumps({"values": good, "row": None, "state": "cooking", "end": {}}).encode(),
        json.dumps({"values": good, "row": None, "state": "done", "end": {"ended": 5}}).encode(),
        json.dumps({"values": {**good, "zeros": "x"}, "row": None, "state": "done", "end": {}}).encode(), b"[" * 100_000,
    ]  # fmt: skip
    for n, data in enumerate(spoilt):
        (folder / f"bad{n}.run.json").write_bytes(data)
    book = Logbook(f"sqlite:///{tmp_path / 'book.sqlite'}", folder)
    assert book.close_leftovers("2026-11-21T10:00:00") == 3
    assert sorted(r.job for r in book.runs()) == ["Job 0", "Job 1", "Job 2"] and {r.state for r in book.runs()} == {
        "stopped"
    }
    assert len(list(folder.glob("bad*.run.json"))) == len(spoilt)  # left where they are, for a person to look at
    book.close()


def test_a_book_that_another_writes_in_is_said_at_once_or_waited_for(url, tmp_path):
    quick, patient = Logbook(url, patience=0.0), Logbook(url, patience=30.0)
    with contextlib.closing(sqlite3.connect(tmp_path / "log.sqlite", isolation_level=None)) as other:
        other.execute("BEGIN EXCLUSIVE")
        with pytest.raises(OperatorError, match="another program holds it"):
            quick.start(**ROW)
        begun = []
        waiting = threading.Thread(target=lambda: begun.append(patient.start(**ROW)))
        waiting.start()
        other.execute("ROLLBACK")
        waiting.join()
    assert begun == [1] and [r.id for r in quick.runs()] == [1]
    quick.close()
    patient.close()
