# SPDX-License-Identifier: GPL-3.0-or-later
"""The command line, as scripts use it."""

import json
import subprocess
import sys

import numpy as np
import pytest

from gatepost.cli import main
from gatepost.core.job import commands
from gatepost.core.job.file import Document, load, save
from tests.conftest import EXAMPLES

pytestmark = pytest.mark.usefixtures("quick_machines")
QUAY = str(EXAMPLES / "quay-plate.gatepost")
FIRST = str(EXAMPLES / "lock-7-first-look.gatepost")


def run(capsys, *words):
    code = main([str(w) for w in words])
    out = capsys.readouterr()
    return code, out.out, out.err


def test_plan_check_simulate(tmp_path, capsys):
    out = tmp_path / "plan"
    code, said, _ = run(capsys, "plan", QUAY, "--out", out, "--no-pictures", "--json")
    values = json.loads(said)
    assert code == 0 and set(values["files"]) == {p.name for p in out.iterdir()}
    programs = [out / op["program"] for op in values["setups"][0]["operations"]]
    assert [p.exists() for p in programs] == [True, True]
    code, said, _ = run(capsys, "check", programs[0], "--job", QUAY, "--json")
    assert code == 0 and json.loads(said)["sound"]
    heights = tmp_path / "wood.npy"
    code, said, _ = run(
        capsys,
        "simulate",
        *programs,
        "--job",
        QUAY,
        "--cell",
        "0.5",
        "--heights",
        heights,
        "--picture",
        tmp_path / "wood.png",
        "--json",
    )
    frame = json.loads(heights.with_suffix(".json").read_text())
    z = np.load(heights)
    assert code == 0 and z.dtype == np.float32 and set(frame) == {"x0", "y0", "cell"}
    assert (tmp_path / "wood.png").stat().st_size > 3000
    # Z on the bed: the top stands a board's thickness above nought, the slot goes 0.3 below it, letters are cut
    assert np.nanmax(z) == pytest.approx(19.1, abs=0.1) and np.nanmin(z) == pytest.approx(-0.3, abs=0.01)
    middle = z[round((88.9 - frame["y0"]) / 0.5), :]
    assert np.nanmin(middle[100:600]) > 8


def test_a_stop_bars_and_is_named(tmp_path, capsys):
    code, said, err = run(capsys, "run", FIRST)
    assert code == 1 and said == "" and "hold.clearance" in err and "C2" in err
    code, said, err = run(capsys, "plan", FIRST, "--out", tmp_path / "p", "--no-pictures")
    assert code == 1 and "stop" in err
    program = tmp_path / "p" / "front-2-T2.nc"
    assert program.read_text().startswith("(NOT TO BE RUN: C2")
    code, said, _ = run(capsys, "check", program)
    assert code == 1 and "program.barred" in said
    code, said, _ = run(capsys, "check", FIRST, "--json")
    assert code == 1 and not json.loads(said)["sound"]


def test_a_program_of_another_plan_is_refused_by_its_fingerprint(tmp_path, capsys):
    run(capsys, "plan", QUAY, "--out", tmp_path / "p", "--no-pictures")
    job = commands.run(load(EXAMPLES / "quay-plate.gatepost").job, "set tool", {"number": 3, "feed": 1500.0})
    save(Document(job), tmp_path / "newer.gatepost")
    code, said, _ = run(capsys, "check", tmp_path / "p" / "front-1-T3.nc", "--job", tmp_path / "newer.gatepost")
    assert code == 1 and "program.fingerprint" in said


@pytest.mark.parametrize(
    "words",
    [
        ("check", "nowhere.gatepost"),
        ("check", "junk.gatepost"),
        ("plan", "junk.gatepost", "--out", "x"),
        ("run", "junk.gatepost"),
        ("check", "binary.nc"),
        ("log", "show", "9"),
    ],
)
def test_what_can_t_be_used_is_exit_2_and_a_sentence(words, tmp_path, capsys, monkeypatch):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "junk.gatepost").write_bytes(b"PK\x03\x04 but no more")
    (tmp_path / "binary.nc").write_bytes(b"\x00\x01\x02")
    code, said, err = run(capsys, *words)
    assert code == 2 and said == "" and err.strip().endswith(".") and "Traceback" not in err


def test_a_run_is_logged_and_listed(capsys, tmp_path):
    code, said, err = run(capsys, "run", QUAY, "--json", "--exact")  # the clock is held against the plan's
    result = json.loads(said)
    assert code == 0 and result["outcome"] == "done" and [r["state"] for r in result["runs"]] == ["done", "done"]
    code, said, _ = run(capsys, "log", "--json")
    rows = json.loads(said)
    assert [r["program"] for r in rows] == ["front-2-T2.nc", "front-1-T3.nc"]
    assert all(abs(r["real_minutes"] / r["planned_minutes"] - 1) < 0.03 and r["kind"] == "simulated" for r in rows)
    code, said, _ = run(capsys, "log", "show", str(rows[0]["id"]))
    assert "Quay plate" in said
    code, said, _ = run(capsys, "log", "export")
    assert json.loads(said) == rows


def test_open_questions_are_asked_and_yes_is_for_a_simulated_machine_only(tmp_path, capsys):
    job = commands.run(load(EXAMPLES / "quay-plate.gatepost").job, "set tool", {"number": 2, "feed": 1200.0})
    save(Document(job), tmp_path / "asks.gatepost")
    code, _, err = run(capsys, "run", tmp_path / "asks.gatepost")
    assert code == 1 and "question: tools.rubs" in err
    code, _, err = run(capsys, "run", tmp_path / "asks.gatepost", "--yes", "--machine", "127.0.0.1:9")
    assert code == 1 and "Gatepost starts itself" in err
    code, said, err = run(capsys, "run", tmp_path / "asks.gatepost", "--yes", "--seed", "20")
    assert code == 0, (said, err)


@pytest.mark.whole
def test_the_headless_demo_and_help_as_processes(tmp_path):
    import os

    env = {**os.environ, "GATEPOST_DATA": str(tmp_path / "data"), "QT_QPA_PLATFORM": "offscreen"}
    env.pop("DISPLAY", None)
    done = subprocess.run(
        [sys.executable, "-m", "gatepost.cli", "demo", "--seed", "20", "--out", str(tmp_path / "out")],
        env=env,
        capture_output=True,
        text=True,
        timeout=280,
    )
    assert done.returncode == 0, done.stderr
    assert "Applied the fix offered" in done.stderr and "done" in done.stdout
    names = {p.name for p in (tmp_path / "out").iterdir()}
    assert {"plan.json", "run-sheet.pdf", "front-held.png", "surface-1-T1.nc", "art-front-1.svg"} <= names
    assert (tmp_path / "out" / "run-sheet.pdf").read_bytes().startswith(b"%PDF")
    for command in ("plan", "check", "simulate", "machine", "run", "log", "demo"):
        shown = subprocess.run(
            [sys.executable, "-m", "gatepost.cli", command, "--help"], capture_output=True, text=True
        )
        assert shown.returncode == 0 and "Example: gatepost" in shown.stdout


def test_an_outline_goes_from_a_photo_or_a_drawing_into_a_job(tmp_path, capsys):
    import make_slab

    job = tmp_path / "new.gatepost"
    save(Document(load(EXAMPLES / "quay-plate.gatepost").job), job)
    marks = [f"{u},{v}" for u, v in make_slab.marks()]
    told = ("--across", 1000, "--up", 420, "--above", 33.8, "--lens", 1480)
    slab = EXAMPLES / "lock-7-slab.jpg"
    code, said, words = run(capsys, "outline", slab, "--marks", *marks, *told, "--json", "--job", job)
    values = json.loads(said)
    assert code == 0 and "Traced: 912" in words and 1 < values["doubt"] < 6 and len(values["outline"]) > 20
    made = load(job)
    assert made.job.blank.shape == "outline" and made.job.blank.photo.file in made.pictures
    code, _, words = run(capsys, "outline", slab, "--marks", *marks[:3], *told)
    assert code == 2 and "Two marks or four" in words
    drawing = tmp_path / "plate.svg"
    drawing.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="80mm" viewBox="0 0 80 60"><rect width="80" height="60"/></svg>'
    )
    code, said, _ = run(capsys, "outline", drawing)
    assert code == 0 and sorted(said.split()) == ["0.000,0.000", "0.000,60.000", "80.000,0.000", "80.000,60.000"]
    assert run(capsys, "outline", tmp_path / "none.svg")[0] == 2


def test_the_ledger_says_the_next_move_and_asks_about_a_double(tmp_path, capsys):
    job, left = tmp_path / "lock.gatepost", tmp_path / "left.nc"
    job.write_bytes((EXAMPLES / "lock-7-name-board.gatepost").read_bytes())
    assert "No figure of this bit" in run(capsys, "ledger", job)[1]
    code, said, _ = run(
        capsys, "ledger", job, "--touch", "face=-62", "--zero=-62", "--pass", "0.6", "--left", left, "--json"
    )
    values = json.loads(said)
    assert (
        code == 0
        and values["offset"] == pytest.approx(values["plane"] + 0.6 + 62)
        and "Jog to Z" in values["next"]["sentence"]
    )
    assert "ONLY WHAT IS LEFT" in left.read_text()
    kept = load(job)
    code, _, words = run(capsys, "ledger", job, "--pass", "0.6")
    assert code == 1 and "cut air" in words and load(job) == kept
    code, said, _ = run(capsys, "ledger", job, "--pass", "0.6", "--questioned", "--json")
    assert code == 0 and json.loads(said)["entries"][-1]["questioned"]
    assert run(capsys, "ledger", job, "--touch", "roof=-1")[0] == 2


@pytest.mark.parametrize("which", [("--seed", "4"), ("--exact",)])
def test_a_shop_for_a_machine_that_is_not_started_here_is_refused(which, capsys):
    code, said, err = run(capsys, "run", QUAY, "--machine", "127.0.0.1:1", *which)
    assert code == 1 and said == "" and "Leave out --machine" in err


def test_a_run_is_in_a_shop_of_its_own_each_time_and_the_log_says_which(capsys, monkeypatch):
    monkeypatch.setattr("gatepost.machine.seeds.new_seed", lambda: 20)  # which is another one each time, elsewhere
    milepost = str(EXAMPLES / "sixteen-mileposts.gatepost")
    for seed in ([], ["--seed", "9"]):
        code, said, err = run(capsys, "run", milepost, *seed)
        assert code == 0, (said, err)
    kinds = [r["kind"] for r in json.loads(run(capsys, "log", "--json")[1])]
    assert kinds[0] == "simulated, seed 9" and kinds[1].startswith("simulated, seed ") and kinds[0] != kinds[1]
