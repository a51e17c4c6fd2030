# SPDX-License-Identifier: GPL-3.0-or-later
"""Times an earlier commit against this one, in turn: ``make ratio VS=<commit>``. Both plan the same jobs, each in processes of its
own; every figure is the median of nine pairs, and is to be 1.15 at most. The rows go to docs/measured.md.
"""

from __future__ import annotations

import argparse
import json
import os
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

import measured

ROOT = Path(__file__).parents[1]
PAIRS, MOST = 9, 1.15
WORK = """
import gc, json, sys, time
from pathlib import Path
from gatepost.core.cache import Memory
from gatepost.core.job import commands
from gatepost.core.job.file import load
from gatepost.core.plan.pipeline import plan
from gatepost.core.program.read import read

jobs = Path(sys.argv[1])
board, plate = (load(jobs / f"{name}.gatepost").job for name in ("lock-7-name-board", "quay-plate"))
memory, told = Memory(), {}
done = plan(board, memory=memory)
plan(board, coarse=True)


def timed(what, work):
    gc.collect()  # or it falls to whichever comes when enough has been made
    begun = time.perf_counter()
    work()
    told[what] = time.perf_counter() - begun


def edited(name, **values):
    plan(commands.run(board, name, values), memory=memory)


def again():
    for setup in done.setups:
        for program in setup.programs:
            read(program.text)


timed("a job opened", lambda: load(jobs / "lock-7-name-board.gatepost"))
timed("the demo planned whole", lambda: plan(board))
timed("its first look", lambda: plan(board, coarse=True))
timed("a small plate planned whole", lambda: plan(plate))
timed("a hold moved", lambda: edited("set hold", setup="front", hold="C1", x=263.5))
line = {"line": "line-2"} if hasattr(board.carving.lines[1], "id") else {"index": 1}
timed("a letter size changed", lambda: edited("set line", **line, height=35.5))
timed("a pass made less deep", lambda: edited("set surfacing", limit=0.9))
timed("three programs read back", again)
print(json.dumps(told))
"""


def once(tree: Path, jobs: Path) -> dict[str, float]:
    """Seconds of each, in a process of its own."""
    env = {**os.environ, "PYTHONPATH": str(tree / "src"), "OMP_NUM_THREADS": "1"}
    done = subprocess.run([sys.executable, "-c", WORK, str(jobs)], env=env, capture_output=True, text=True, check=True)
    return dict(json.loads(done.stdout))


def main() -> int:
    """Both, in turn."""
    asked = argparse.ArgumentParser(prog="make ratio", description=main.__doc__)
    asked.add_argument("vs", help="the commit to time against")
    told = asked.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        old = Path(folder) / "old"
        subprocess.run(
            ["git", "worktree", "add", "--detach", "--force", str(old), told.vs],
            cwd=ROOT,
            check=True,
            capture_output=True,
        )
        try:
            jobs = old / "src" / "gatepost" / "assets" / "examples"  # of the older one: both can read them
            for tree in (old, ROOT):
                once(tree, jobs)  # kernels compiled, files read once
            pairs = [(once(old, jobs), once(ROOT, jobs)) for _ in range(PAIRS)]
        finally:
            subprocess.run(
                ["git", "worktree", "remove", "--force", str(old)], cwd=ROOT, check=False, capture_output=True
            )
    worst = 0.0
    for what in pairs[0][0]:
        ratio = statistics.median(new[what] / before[what] for before, new in pairs)
        worst = max(worst, ratio)
        now = statistics.median(new[what] for _, new in pairs)
        print(f"{what}: {ratio:.2f} ({now:.3f} s)")
        measured.record(
            f"Ratios to {told.vs}", what, f"median of {PAIRS} pairs", f"{ratio:.2f}; {now:.3f} s now", f"<= {MOST}"
        )
    return int(worst > MOST)


if __name__ == "__main__":
    sys.exit(main())
