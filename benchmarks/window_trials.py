# SPDX-License-Identifier: GPL-3.0-or-later
"""Long trials of the window, each in a process of its own: a window that hangs or dies takes no other trial with it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

HERE = Path(__file__).parent


JOBS = ("quay-plate", "lock-7-first-look", "lock-7-name-board", "sixteen-mileposts", "new")
ACTS, AT_MACHINE = 800, 300


def of_a_sign_by_mouse(folder: Path, seed: int) -> str:
    """A first hour with a mouse, on an X server of its own. Raises AssertionError with what was wrong."""
    sys.path.insert(0, str(HERE.parent))
    from tests.desk.first_hour import as_expected
    from tests.desk.typist import XServer

    from gatepost.core.job.file import load

    server = XServer()
    at = folder / f"mouse-{seed}"
    at.mkdir(parents=True)
    target = at / "tow-path.gatepost"
    env = {**os.environ, "DISPLAY": server.display, "QT_QPA_PLATFORM": "xcb", "GATEPOST_DATA": str(at / "data")}
    env.pop("WAYLAND_DISPLAY", None)
    try:
        words = [sys.executable, str(HERE / "by_mouse.py"), str(target)]
        done = subprocess.run(words, capture_output=True, text=True, timeout=300, env=env)
    finally:
        server.end()
    told = json.loads(done.stdout.strip().splitlines()[-1]) if done.stdout.strip() else {"wrong": done.stderr[-400:]}
    assert "wrong" not in told, told["wrong"]
    as_expected(load(target).job, told["runs"])
    return "as expected, value by value, and run"


def _hands(folder: Path, seed: int, how: str, name: str, acts: int) -> None:
    """A life at the window, in a process of its own. Raises AssertionError with what was wrong."""
    job = name if name == "new" else HERE.parent / "examples" / f"{name}.gatepost"
    words = [sys.executable, str(HERE / how), str(job), str(folder / f"{how}-{seed}"), str(seed), str(acts)]
    done = subprocess.run(
        words, capture_output=True, text=True, timeout=600, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    )
    assert done.returncode == 0, done.stdout.strip() or done.stderr[-400:]


def of_hands_at_the_machine(folder: Path, seed: int) -> str:
    """AT_MACHINE random keys, held and not, clicks, cables pulled out and linked again."""
    _hands(folder, seed, "machine_hands.py", "quay-plate", AT_MACHINE)
    return "nothing raised, nothing taken back, nothing left running"


def of_random_hands(folder: Path, seed: int) -> str:
    """ACTS random keys, clicks, wheels and drags at the window, then all of it undone."""
    _hands(folder, seed, "handling.py", JOBS[seed % len(JOBS)], ACTS)
    return "nothing raised, nothing half typed, all undone"
