# SPDX-License-Identifier: GPL-3.0-or-later
"""Long trials of the window, each in a process of its own: a window that hangs or dies takes no other trial with it."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

HERE = Path(__file__).parent
JOBS = ("quay-plate", "lock-7-first-look", "lock-7-name-board", "sixteen-mileposts", "new")
ACTS = 800


def of_random_hands(folder: Path, seed: int) -> str:
    """ACTS random keys, clicks, wheels and drags at the window, then all of it undone. Raises AssertionError with what was wrong."""
    name = JOBS[seed % len(JOBS)]
    job = name if name == "new" else HERE.parent / "examples" / f"{name}.gatepost"
    words = [sys.executable, str(HERE / "handling.py"), str(job), str(folder / f"hands-{seed}"), str(seed), str(ACTS)]
    done = subprocess.run(
        words, capture_output=True, text=True, timeout=300, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    )
    assert done.returncode == 0, done.stdout.strip() or done.stderr[-400:]
    return "nothing raised, nothing half typed, all undone"
