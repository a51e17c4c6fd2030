# SPDX-License-Identifier: GPL-3.0-or-later
"""Gatepost killed in a run."""

from __future__ import annotations

import json
import random
import subprocess
import sys
import time
from pathlib import Path

EXAMPLES = Path(__file__).parents[1] / "src" / "gatepost" / "assets" / "examples"


def of_a_killed_run(folder: Path, seed: int) -> str:
    """Gatepost killed in a run on a machine of its own: the row is closed at the next start, and the run is taken up again."""
    chance = random.Random(seed)
    data = folder / str(seed)
    words = [sys.executable, "-m", "gatepost.cli", "--data", str(data)]
    job = str(EXAMPLES / "quay-plate.gatepost")
    going = subprocess.Popen(
        [*words, "run", job, "--yes", "--speed", "60"], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE
    )
    time.sleep(chance.uniform(4.0, 16.0))
    going.kill()
    going.communicate()
    rows = json.loads(subprocess.run([*words, "log", "--json"], capture_output=True, check=True).stdout)
    assert all(r["state"] != "running" for r in rows)
    if not rows or rows[0]["state"] == "done":
        return "killed outside a run"
    again = subprocess.run([*words, "resume", job, "--yes", "--speed", "max"], capture_output=True, text=True)
    assert "Traceback" not in again.stderr
    if rows[0]["blocks_done"] == 0:
        return "killed before the first block was done"
    assert again.returncode == 0, again.stderr
    return "taken up and done"
