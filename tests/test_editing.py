# SPDX-License-Identifier: GPL-3.0-or-later
"""Jobs made and changed by a file of commands."""

import json
from dataclasses import replace

import pytest

from gatepost.cli import main
from gatepost.core.job import commands
from gatepost.core.job.file import load
from gatepost.editing import edited, empty, told
from tests.conftest import EXAMPLES, ROOT

SIGN = """{"do": "set job", "name": "Reed Cottage"}

{"do": "set blank", "length": 420, "width": 160, "label_thickness": 20}
{"do": "add line", "text": "REED", "face": "Serif", "height": 30}
{"do": "set line", "line": "line-1", "text": "RÊVE"}
{"do": "set plate", "width": 400, "height": 140}
{"do": "add setup", "id": "back", "up": "back"}
{"do": "add tool", "number": 9, "name": "Long mill", "kind": "flat", "diameter": 6, "cutting_length": 40, "shank": 6, "length": 60, "rpm": 18000, "feed": 1500, "plunge": 400, "pass_depth": 3}
"""


def written(tmp_path, text, name="sign.jsonl", mode="w"):
    path = tmp_path / name
    path.write_bytes(text) if isinstance(text, bytes) else path.write_text(text, "utf-8")
    return path


def test_a_job_is_made_from_nothing_and_changed_in_its_place(tmp_path, capsys):
    out = tmp_path / "reed.gatepost"
    assert main(["edit", "-", str(written(tmp_path, SIGN)), "--out", str(out)]) == 0
    assert "7 commands carried out" in capsys.readouterr().err
    job = load(out).job
    (line,) = job.carving.lines
    assert line.text == "RÊVE" and line.face == "Serif" and [g.char for g in line.glyphs] == list("RÊVE")
    assert [s.id for s in job.setups] == ["surface", "front", "back"] and job.tool(9).diameter == 6.0
    more = written(tmp_path, '{"do": "remove setup", "setup": "back"}\n', "more.jsonl")
    assert main(["edit", str(out), str(more), "--out", str(out)]) == 0
    assert [s.id for s in load(out).job.setups] == ["surface", "front"]


def test_files_are_named_from_where_the_commands_are(tmp_path):
    (tmp_path / "there").mkdir()
    (tmp_path / "there" / "top.csv").write_text("x,y,z\n10,10,20.1\n400,10,20.4\n200,150,20.2\n")
    (tmp_path / "there" / "oval.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="420mm" height="160mm" viewBox="0 0 420 160"><path d="M0 0H420V160H0Z"/></svg>'
    )
    lines = '{"do": "set outline", "file": "oval.svg"}\n{"do": "set heights", "face": "top", "file": "top.csv"}\n'
    path = written(tmp_path / "there", lines)
    out = tmp_path / "o.gatepost"
    assert main(["edit", "-", str(path), "--out", str(out)]) == 0
    blank = load(out).job.blank
    assert (blank.shape, blank.length, blank.width) == ("outline", 420.0, 160.0) and [h.z for h in blank.heights] == [
        20.1,
        20.4,
        20.2,
    ]


@pytest.mark.parametrize(("lines", "words"), [
    ('{"do": "set job"}\n\n{"do": "dance"}', "line 3: There is no command “dance”."),
    ('{"do": "set blank", "length": "long"}', "line 1: Length is not a number"),
    ('{"do": "set blank", "colour": 1}', "line 1: There is no entry “colour” here."),
    ("[1]", "line 1: A line is an object with “do”"),
    ('{"do": 5}', "line 1: A line is an object with “do”"),
    ('{"do": "set job"', "line 1: That is not one JSON object"),
    ('{"do": "remove setup", "setup": "attic"}', "line 1: There is no setup “attic”"),
    ('{"do": "place blank", "setup": "front", "x": 1}', "line 1: The command “place blank” does not take these values"),
    ('{"do": "set heights", "face": "top", "file": "none.csv"}', "line 1:"),
    ('{"do": "set zero", "setup": "front", "file": "x"}', "line 1: “set zero” takes nothing from a file."),
    ('{"do": "add line", "text": 5, "face": "Serif", "height": 9}', "line 1: A text and a face are words."),
    ('{"do": "add line", "text": "A", "face": "No such face", "height": 9}', "line 1:"),
    ('{"do": "add tool", "number": 9}', "line 1: Name is missing"),
    (b'{"do": "set job", "name": "\xff"}', "is not UTF-8: its byte"),
])  # fmt: skip
def test_what_can_t_be_carried_out_is_told_with_its_line_and_nothing_is_written(lines, words, tmp_path, capsys):
    out = tmp_path / "quay.gatepost"
    out.write_bytes((EXAMPLES / "quay-plate.gatepost").read_bytes())
    before = out.read_bytes()
    assert main(["edit", str(out), str(written(tmp_path, lines)), "--out", str(out)]) == 2
    assert words in capsys.readouterr().err and out.read_bytes() == before


def test_every_command_is_listed_with_what_it_takes_and_can_be_asked_for_as_json(capsys):
    assert main(["commands", "--json"]) == 0
    listed = json.loads(capsys.readouterr().out)
    assert [one["do"] for one in listed] == sorted(commands.TABLE) and all(one["what"] for one in listed)
    zero = next(one for one in listed if one["do"] == "set zero")
    assert {"name": "setup", "is": "str", "must": True} in zero["values"]
    assert any(v["name"] == "xy" and "front left" in v["is"] for v in zero["values"])
    assert main(["commands"]) == 0 and "set plate:" in capsys.readouterr().out


def test_what_is_listed_as_a_value_is_one(tmp_path):
    """Every entry that a command lists is taken, or refused for what it is and not for its name."""
    document = edited(empty(), SIGN, tmp_path)
    for one in told():
        named = {n for n, _, _ in one.values}
        assert {n for n, _, must in one.values if must} <= named
        try:
            commands.run(
                document.job, one.name, {n: "?" for n, _, must in one.values if must} | {"colour of the moon": 1}
            )
        except Exception as error:  # whatever it is, it is a sentence
            assert str(error)


@pytest.mark.parametrize("path", sorted((ROOT / "examples").glob("*.jsonl")), ids=lambda p: p.stem)
def test_a_shipped_example_is_what_its_file_of_commands_makes(path):
    shipped, made = load(EXAMPLES / f"{path.stem}.gatepost"), edited(empty(), path.read_text("utf-8"), path.parent)
    photo = shipped.job.blank.photo
    if photo is not None:  # squared anew: another processor may round a pixel the other way
        drawn = {a.figures.source for a in shipped.job.artwork if a.kind == "drawing"}
        assert set(shipped.pictures) == {photo.file, photo.squared} | drawn and {photo.file, *drawn} <= set(
            made.pictures
        )
        blank = made.job.blank.model_copy(update={"photo": photo})
        made = replace(made, job=made.job.model_copy(update={"blank": blank}))
    assert made.job == shipped.job
