# SPDX-License-Identifier: GPL-3.0-or-later
"""Long trials of the window, each in a process of its own: a window that hangs or dies takes no other trial with it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

HERE = Path(__file__).parent


JOBS = ("quay-plate", "lock-7-first-look", "lock-7-name-board", "sixteen-mileposts", "new")
TO_TRY = (
    ("Tea-room hanging sign", "tea-room-sign"), ("Heron panel", "heron-panel"), ("Lock 7 with a water-lily", "lock-7-with-lily"),
    ("Raised milepost", "raised-milepost"), ("Sixteen mileposts", "sixteen-mileposts"),
)  # fmt: skip
ACTS, AT_MACHINE = 800, 300


def _by_mouse(folder: Path, seed: int, how: str, *words: str) -> tuple[dict[str, Any], Path]:
    """A person with a mouse, on an X server of its own: what they tell, and the job that they saved. Raises AssertionError with what was wrong."""
    sys.path.insert(0, str(HERE.parent))
    from tests.desk.typist import XServer

    server = XServer()
    at = folder / f"mouse-{seed}"
    at.mkdir(parents=True)
    target = at / "job.gatepost"
    env = {**os.environ, "DISPLAY": server.display, "QT_QPA_PLATFORM": "xcb", "GATEPOST_DATA": str(at / "data")}
    env.pop("WAYLAND_DISPLAY", None)
    try:
        asked = [sys.executable, str(HERE / how), str(target), *words]
        done = subprocess.run(asked, capture_output=True, text=True, timeout=1200, env=env)
    finally:
        server.end()
    told = json.loads(done.stdout.strip().splitlines()[-1]) if done.stdout.strip() else {"wrong": done.stderr[-400:]}
    assert "wrong" not in told, told["wrong"]
    return told, target


def of_a_sign_by_mouse(folder: Path, seed: int) -> str:
    """A first hour with a mouse. Raises AssertionError with what was wrong."""
    told, target = _by_mouse(folder, seed, "by_mouse.py")
    from tests.desk.first_hour import as_expected

    from gatepost.core.job.file import load

    as_expected(load(target).job, told["runs"])
    return "as expected, value by value, and run"


def of_a_job_to_try(folder: Path, seed: int) -> str:
    """A job of the start page with a mouse, one after the other by the seed. Raises AssertionError with what was wrong."""
    title, file = TO_TRY[seed % len(TO_TRY)]
    told, target = _by_mouse(folder, seed, "demos_by_mouse.py", title)
    from gatepost.core.job.file import load

    kept, shipped = load(target), load(HERE.parent / "src" / "gatepost" / "assets" / "examples" / f"{file}.gatepost")
    assert kept.job.artwork == shipped.job.artwork and kept.job.setups == shipped.job.setups, title
    assert told["runs"] and {state for _, state in told["runs"]} == {"done"}, told["runs"]
    return "put back as it was, and run whole"


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
