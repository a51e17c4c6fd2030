# SPDX-License-Identifier: GPL-3.0-or-later
"""A table of texts as a series: each row a job, and what is too long made to fit."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.cli import main
from gatepost.core.carve.edits import outlines
from gatepost.core.carve.lettering import layout
from gatepost.core.carve.series import NARROWEST, columns_of, read_rows, row_job, slug, width_of
from gatepost.core.errors import OperatorError
from gatepost.core.geometry import curves
from gatepost.core.job import commands
from gatepost.core.job.carve import Carving
from gatepost.core.job.file import Document, load, save
from gatepost.core.job.model import Job
from gatepost.core.job.tool_table import shipped_tools


def template(*texts, height=18.0):
    job = commands.run(Job(tools=shipped_tools()), "set blank", {"length": 160.0, "width": 100.0, "reclaimed": False})
    for text in texts:
        job = commands.run(job, "add line", {"height": height, **outlines(text, "Sans")})
    return commands.run(job, "set carving", {"x": 80, "y": 50, "margin": 8.0})


def lines(job):
    return job.art("lettering", ("lettering",)).figures.lines


ROOM = 160 - 2 * 8.0


def test_columns_are_those_that_the_texts_name_and_rows_come_by_them():
    job = template("{place}", "{n}: {place}", "as it is")
    assert columns_of(job) == ("place", "n")
    done = row_job(job, {"place": "Lock 7", "n": "3", "more": "x"})
    assert [line.text for line in lines(done.job)] == ["Lock 7", "3: Lock 7", "as it is"]
    assert lines(done.job)[2] == lines(job)[2] and not done.said
    with pytest.raises(OperatorError, match="no column “n”"):
        row_job(job, {"place": "x"})
    left = row_job(job, {"place": "", "n": "3"})
    assert [line.text for line in lines(left.job)] == ["3:", "as it is"] and "left out" in left.said[0]


WORDS = st.lists(st.text("ABIMWaeiow", min_size=1, max_size=9), min_size=1, max_size=5).map(" ".join)


@given(WORDS, st.sampled_from(["smaller", "narrower", "two lines"]))
def test_a_text_fits_its_place_afterwards_and_says_how_or_is_told(text, way):
    job = template("{a}")
    done = row_job(job, {"a": text}, way)
    made = lines(done.job)
    as_it_was = commands.run(job, "set line", {"line": "line-1", **outlines(text, "Sans")})
    fits = width_of(lines(as_it_was)[0]) <= ROOM
    assert (not done.said and not done.over) is fits
    assert " ".join(line.text for line in made) == text
    assert done.over or all(width_of(line) <= ROOM + 1e-6 for line in made)
    if (
        way == "narrower" and not fits and not done.over and made[0].height == 18.0
    ):  # its outlines are, not only its figures
        flat = np.vstack(
            [
                curves.flatten(c, 0.05)
                for g in layout(
                    Carving(**dict(job.art("lettering", ("lettering",)).figures.model_copy(update={"lines": made})))
                )
                for c in g.contours
            ]
        )
        assert NARROWEST * 0.9 * width_of(lines(as_it_was)[0]) < np.ptp(flat[:, 0]) <= ROOM + 1.0


@pytest.mark.parametrize("between", [",", ";", "\t"])
def test_tables_are_read_as_people_save_them(between):
    text = "\ufeff" + "\r\n".join(
        between.join(row) for row in (["place", "n"], ["Lock 7", "3"], ["", ""], ["St Ann’s", "½"], ["Weir"])
    )
    assert read_rows(text, "t.csv") == [
        {"place": "Lock 7", "n": "3"},
        {"place": "St Ann’s", "n": "½"},
        {"place": "Weir", "n": ""},
    ]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "empty"),
        ("a,b\n", "no rows"),
        ("a,a\n1,2", "two columns"),
        ("a\n1,2", "one too many"),
        ('a\n"x', "can't be read"),
    ],
)
def test_what_is_wrong_with_a_table_is_told(text, words):
    with pytest.raises(OperatorError, match=words):
        read_rows(text, "t.csv")


def test_names_of_files_are_plain():
    assert slug(["St Ann’s / ½", "../x"]) == "st-ann-s-x" and slug(["½"]) == "piece" and len(slug(["a" * 90])) <= 40


def test_the_command_writes_a_job_a_row_and_says_what_each_has(tmp_path, capsys):
    job, table, out = tmp_path / "post.gatepost", tmp_path / "t.csv", tmp_path / "out"
    save(Document(template("{place}")), job)
    table.write_text("place\nLock 7\nUpper Tumbling Weir Bridge\n", "utf-8")
    assert main(["series", str(job), str(table), "--out", str(out), "--json"]) == 1  # nothing holds them
    told = json.loads(capsys.readouterr().out)
    assert [r["file"] for r in told] == ["01-lock-7.gatepost", "02-upper-tumbling-weir-bridge.gatepost"]
    assert json.loads((out / "series.json").read_text("utf-8")) == told
    assert (
        not told[0]["fitted"]
        and "smaller" in told[1]["fitted"][0]
        and all(any(f["level"] == "stop" for f in r["findings"]) for r in told)
    )
    assert lines(load(out / told[0]["file"]).job)[0].text == "Lock 7"
    before = {path: path.read_bytes() for path in out.iterdir()}
    assert main(["series", str(job), str(table), "--out", str(out), "--too-long", "narrower"]) == 2
    assert "another folder" in capsys.readouterr().err and {path: path.read_bytes() for path in out.iterdir()} == before
    table.write_text("place\nok\n漢字\n", "utf-8")
    assert main(["series", str(job), str(table), "--out", str(tmp_path / "none")]) == 2
    assert "row 2" in capsys.readouterr().err and not (tmp_path / "none").exists()
