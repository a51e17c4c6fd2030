# SPDX-License-Identifier: GPL-3.0-or-later
"""Every argument of every command, nonsense included: exit 2 and one sentence, at once, and nothing is said to be written that
was not."""

import argparse
import itertools
import json
import os
import subprocess
import sys
import time

import pytest

from gatepost import cli
from gatepost.core.job.file import load
from tests.conftest import EXAMPLES, some

JOB = EXAMPLES / "quay-plate.gatepost"
NONSENSE = ["abc", "nan", "-inf", "1e400", "", "-1e9", "\u0661", "\x1b[2J"]
# what each command wants at least, sound
LEAST = {
    "open": [str(JOB)], "plan": [str(JOB), "--out", "out"], "check": [str(JOB)], "level": ["top.csv"], "ledger": [str(JOB)],
    "outline": ["o.svg"], "clearance": ["p.nc", "--holds", "h.json", "--tool", "t.json"], "simulate": ["p.nc", "--job", str(JOB)],
    "machine": [], "run": [str(JOB)], "resume": [str(JOB)], "log": [], "demo": ["--headless"],
    "edit": [str(JOB), "c.jsonl", "--out", "o.gatepost"], "commands": [], "art": ["a.svg"], "fit": ["m.csv"], "stepnest": ["p.svg", "--flip", "X", "--tool", "6", "--slot", "6.2", "--out", "o"], "changes": ["a.gatepost", "b.gatepost"], "template": [str(JOB), "--out", "t.pdf"], "series": [str(JOB), "t.csv", "--out", "out"],
}  # fmt: skip


def commands():
    return next(a for a in cli.parser()._actions if isinstance(a, argparse._SubParsersAction)).choices


def ended(words, capsys):
    """Exit code and what was said."""
    begun = time.monotonic()
    try:
        code = cli.main(words)
    except SystemExit as end:
        code = end.code
    assert time.monotonic() - begun < 20
    told = capsys.readouterr()
    assert "Traceback" not in told.err and "should not" not in told.err, told.err
    return code, told


def one_sentence(told):
    lines = [line for line in told.err.splitlines() if line.strip()]
    assert len(lines) == 1 and lines[0].endswith(".") and lines[0].isprintable(), told.err
    assert not told.out


@pytest.mark.parametrize("name", sorted(LEAST))
def test_every_figure_of_every_command_refuses_nonsense(name, capsys, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    assert set(LEAST) == set(commands())
    least, tried = LEAST[name], 0
    for action in commands()[name]._actions:
        typed = action.type is not None and action.type not in (str,) and not isinstance(action.type, type)
        if not (typed or action.choices):
            continue
        for nonsense in NONSENSE:
            option = f"{action.option_strings[-1]}={nonsense}" if action.option_strings else nonsense
            words = (
                [name, *least, option]
                if action.option_strings
                else [name, *([option] if name == "log" else ["show", option])]
            )
            if name == "log" and not action.option_strings:
                words = ["log", nonsense] if action.choices else ["log", "show", nonsense]
            code, told = ended(words, capsys)
            assert code == 2, (words, told.err)
            one_sentence(told)
            tried += 1
    assert tried or name in (
        "open",
        "changes",
        "plan",
        "check",
        "clearance",
        "demo",
        "edit",
        "commands",
    )  # files and switches alone


def paths_of(name):
    """Commands with one path in the place of each in turn, and whether it is written to."""
    for action in commands()[name]._actions:
        if action.type is not None and getattr(action.type, "__name__", "") == "Path":
            yield action, action.dest in ("out", "heights", "picture", "left")


@pytest.mark.parametrize("name", sorted(set(LEAST) - {"open", "demo"}))
@pytest.mark.parametrize("path", ["nowhere/none", ".", "/dev/zero", "/dev/full", "/proc/none/x", "pipe", "a" * 300])
def test_every_path_of_every_command_that_can_t_be_used_is_one_sentence(name, path, capsys, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    os.mkfifo(tmp_path / "pipe")
    for action, written in paths_of(name):
        if written:
            continue
        least = list(LEAST[name])
        if action.option_strings:
            option = action.option_strings[-1]
            if option in least:
                least[least.index(option) + 1] = path
            else:
                least += [option, path]
        else:
            least[0] = path
        code, told = ended([name, *least], capsys)
        assert code == 2, (name, least, told.err)
        one_sentence(told)


@pytest.fixture
def program(tmp_path):
    assert cli.main(["plan", str(JOB), "--out", str(tmp_path / "plan"), "--no-pictures"]) == 0
    return next((tmp_path / "plan").glob("*.nc"))


@pytest.mark.parametrize(
    ("option", "where"),
    some(itertools.product(["--heights", "--picture"], ["nowhere/x.npy", ".", "/dev/full", "/proc/x.npy"]), 4),
)
def test_what_could_not_be_written_is_never_said_to_be(option, where, program, capsys, monkeypatch, tmp_path):
    monkeypatch.chdir(tmp_path)
    capsys.readouterr()
    code, told = ended(["simulate", str(program), "--job", str(JOB), option, where, "--cell", "2"], capsys)
    assert code == 2 and not told.out and told.err.count("\n") == 1


def test_a_folder_that_can_t_be_written_to_ends_a_plan(capsys, tmp_path):
    (tmp_path / "file").write_text("x")
    for out in ("/proc/x", str(tmp_path / "file"), str(tmp_path / "file" / "below"), "/dev/null"):
        code, told = ended(["plan", str(JOB), "--out", out], capsys)
        assert code == 2 and not told.out
        one_sentence(told)


@pytest.mark.parametrize("data", ["/etc/passwd", "/proc/none", "/dev/null/x"])
def test_a_data_folder_that_can_t_be_used_is_one_sentence(data, capsys, monkeypatch):
    monkeypatch.delenv("GATEPOST_DATA")
    for words in (["--data", data, "log"], ["log", "--data", data]):
        code, told = ended(words, capsys)
        assert code == 2
        one_sentence(told)


@pytest.mark.parametrize(
    "words", [["nonsense"], ["rnu", str(JOB)], ["--nonsense"], ["run"], ["none.gatepost"], ["/etc"], ["log", "show"]]
)
def test_what_is_no_command_and_no_job_opens_no_window(words, capsys):
    code, told = ended(words, capsys)
    assert code == 2
    one_sentence(told)


def test_two_who_write_into_one_job_at_once_lose_nothing(tmp_path):
    """Processes, each with an entry of its own."""
    job = tmp_path / "lock.gatepost"
    job.write_bytes((EXAMPLES / "lock-7-name-board.gatepost").read_bytes())
    before = len(load(job).journal.entries)
    run = [sys.executable, "-m", "gatepost.cli", "ledger", str(job), "--questioned", "--touch"]
    runs = [
        subprocess.Popen([*run, f"face=-6{n}.00"], stdout=subprocess.PIPE, stderr=subprocess.PIPE) for n in range(3)
    ]
    told = [r.communicate(timeout=120) for r in runs]
    assert all(r.returncode in (0, 1) for r in runs), told
    entries = load(job).journal.entries[before:]
    assert sorted(e.data["machine"] for e in entries) == [-62.0, -61.0, -60.0]


def test_the_window_and_another_lose_nothing_either(qapp, tmp_path):
    from gatepost.core.job.file import Document, save
    from gatepost.desk.context.document import opened

    path = tmp_path / "two.gatepost"
    path.write_bytes(JOB.read_bytes())
    desk = opened(path)
    other = load(path)
    save(Document(other.job, other.journal.add("t", "homed").add("t", "remark", words="theirs")), path)
    desk.happened(desk.journal.add("t", "remark", words="mine"))
    desk.run("set job", {"name": "Mine"})
    desk.save()
    back = load(path)
    assert back.job.name == "Mine" and {e.data.get("words") for e in back.journal.entries} >= {"mine", "theirs"}
    assert desk.journal == back.journal and not desk.dirty


def test_results_are_json_alone_even_when_told_to_a_reader_that_goes(capsys):
    """A pipe that is closed early is no traceback."""
    words = f"{sys.executable} -m gatepost.cli check {JOB} --json | head -c 1"
    done = subprocess.run(["sh", "-c", words], capture_output=True, text=True)
    assert done.stdout == "{" and "Traceback" not in done.stderr
    assert cli.main(["check", str(JOB), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["sound"] is True
