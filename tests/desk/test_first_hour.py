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
from tests.desk.first_hour import as_expected
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
    as_expected(load(target).job, told["runs"])
