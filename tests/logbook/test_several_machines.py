# SPDX-License-Identifier: GPL-3.0-or-later
"""Several Gateposts on one book on a server: all see all, nothing is lost or doubled, and a server that is gone is a sentence."""

import collections
import os
import subprocess
import sys
import threading
from pathlib import Path

import pytest

from gatepost.core.errors import OperatorError
from gatepost.core.log.lesson import Lesson
from gatepost.logbook.notebook import left_behind
from gatepost.logbook.store import Logbook
from tests.logbook import servers

COUNT = int(os.environ.get("GATEPOST_ROWS", "300"))  # of each of two: 5,000 in make soak


def gatepost(url, folder, name, count=COUNT):
    where = Path(__file__).with_name("one_gatepost.py")
    return subprocess.Popen([sys.executable, str(where), url, str(folder), name, str(count)], stdout=subprocess.PIPE, text=True)  # fmt: skip


def each_once(book, names, count=COUNT):
    rows = book.runs()
    seen = collections.Counter((r.job, r.blocks) for r in rows)
    assert set(seen) == {(name, i) for name in names for i in range(1, count + 1)}
    assert set(seen.values()) == {1}
    assert {r.state for r in rows} == {"done"} and all(r.blocks_done == r.blocks for r in rows)


@servers.wanted
def test_two_at_once_on_a_new_server_and_one_sees_what_the_other_keeps(tmp_path):
    with servers.server(tmp_path) as made:
        both = [gatepost(made.url, tmp_path / name, name, 40) for name in ("north", "south")]
        assert [p.communicate(timeout=60)[0][-6:] and p.returncode for p in both] == [0, 0]
        one, other = Logbook(made.url), Logbook(made.url)
        each_once(one, ("north", "south"), 40)
        number = one.learned.add(Lesson("slower at the knot", wood="elm", made="2026-03-02"))
        one.keep("tool", "60° V", {"feed": 900.0}, "t")
        assert other.learned.lessons()[0].words == "slower at the knot" and other.kept("tool")["60° V"].data == {"feed": 900.0}  # fmt: skip
        counting = [threading.Thread(target=lambda book=b: [book.learned.count(number, True, "t") for _ in range(25)]) for b in (one, other)]  # fmt: skip
        for thread in counting:
            thread.start()
        for thread in counting:
            thread.join()
        assert one.learned.lesson(number).held == 50
        one.close()
        other.close()


@servers.wanted
def test_a_server_that_is_killed_while_two_write_to_it_loses_and_doubles_nothing(tmp_path):
    folders = {name: tmp_path / name for name in ("north", "south")}
    with servers.server(tmp_path) as made:
        both = {name: gatepost(made.url, folder, name) for name, folder in folders.items()}
        for process in both.values():
            process.stdout.readline()  # the first fifty are written
        made.kill()
        for process in both.values():
            process.stdout.readline()  # it goes on without
        assert made.start().returncode == 0
        said = {name: process.communicate(timeout=250)[0].splitlines()[-1] for name, process in both.items()}
        assert all(words.startswith("end ") and "server can't be reached" in words for words in said.values()), said
        for name, folder in folders.items():
            book = Logbook(made.url, folder)
            book.close_leftovers("t")
            assert book.close_leftovers("t") == 0 and left_behind(folder) == [], name
            book.close()
        book = Logbook(made.url)
        each_once(book, folders)
        book.close()


@servers.wanted
def test_a_run_whose_answer_never_came_is_taken_in_once(tmp_path):
    """It was written all the same, and nobody knew: its key tells."""
    from gatepost.logbook.notebook import RunFile
    from tests.logbook.one_gatepost import VALUES

    with servers.server(tmp_path) as made:
        folder = tmp_path / "runs"
        book = Logbook(made.url, folder)
        values = {**VALUES, "job": "Quay", "key": "k1", "owner": "", "blocks": 7}
        book.start(**values)
        RunFile.begin(folder, values, None).close("done", ended="t", blocks_done=7)
        assert book.close_leftovers("t") == 1
        (row,) = book.runs()
        assert (row.state, row.blocks_done) == ("done", 7)
        book.close()


@servers.wanted
def test_a_server_that_is_gone_is_a_sentence_and_is_found_again_by_itself(tmp_path):
    with servers.server(tmp_path) as made:
        book = Logbook(made.url)
        book.keep("tool", "a", {}, "t")
        made.kill()
        for act in (book.runs, lambda: book.keep("tool", "b", {}, "t"), lambda: Logbook(made.url, patience=1.0)):
            with pytest.raises(OperatorError, match="server can't be reached"):
                act()
        assert made.start().returncode == 0
        book.keep("tool", "c", {}, "t")
        assert set(book.kept("tool")) == {"a", "c"}
        book.close()
