# SPDX-License-Identifier: GPL-3.0-or-later
"""The first hour: a stranger's sign, from New job to a logged run, on a real X server with real keys at twenty a second."""

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from gatepost.core.job.file import load
from tests.desk.typist import XServer

ROOT = Path(__file__).parents[2]


@pytest.fixture
def server():
    if shutil.which("Xvfb") is None:
        pytest.skip("no Xvfb on this computer")
    one = XServer()
    yield one
    one.end()


@pytest.mark.whole
def test_a_stranger_s_sign_by_keyboard_alone(server, tmp_path):
    target = tmp_path / "tow-path.gatepost"
    env = {
        **os.environ,
        "DISPLAY": server.display,
        "QT_QPA_PLATFORM": "xcb",
        "GATEPOST_DATA": str(tmp_path / "data"),
        "PYTHONPATH": str(ROOT),
    }
    env.pop("WAYLAND_DISPLAY", None)
    ended = subprocess.run(
        [sys.executable, "-m", "tests.desk.first_hour", str(target)], env=env, cwd=ROOT, capture_output=True, text=True, timeout=240
    )  # fmt: skip
    assert ended.stdout.strip(), ended.stderr[-3000:]
    told = json.loads(ended.stdout.strip().splitlines()[-1])
    assert "wrong" not in told, told["wrong"]
    assert told["run"] <= 35, told  # acts at the desk; ticks at the machine are counted apart
    job = load(target).job
    assert (job.name, job.unit, job.wood.name) == ("Tow path", "mm", "oak")
    assert (job.blank.length, job.blank.width, job.blank.label_thickness) == (600.0, 220.0, 22.0)
    assert [(r.x, r.y, r.thickness) for r in job.blank.calipers] == [
        (24.0, 204.6, 21.4), (300.0, 204.6, 21.6), (576.0, 204.6, 21.5), (576.0, 15.4, 21.3),
    ]  # fmt: skip
    lettering, plate = job.artwork
    assert [(li.text, li.face, li.align) for li in lettering.figures.lines] == [
        ("TOW PATH", "Serif", "centre"), ("No cycling", "Serif", "centre"),
    ]  # fmt: skip
    assert (lettering.x, lettering.y, plate.x, plate.y) == (300.0, 110.0, 300.0, 110.0)
    assert (plate.figures.width, plate.figures.height) == (480.0, 176.0)
    front = job.setup("front")
    assert [o.kind for o in front.operations] == ["vcut", "cutout"]
    assert (front.zero.xy, front.zero.z) == ("front left", "top") and len(front.holds) >= 2
    assert [o.figures.wanted for o in job.setup("surface").operations] == ["no"]
    programs = {name for name, _ in told["runs"]}
    assert len(programs) == 2 and {state for _, state in told["runs"]} == {"done"}
