# SPDX-License-Identifier: GPL-3.0-or-later
"""A relief of 250,000 moves run in the window at sixty times its speed: how often the wood is shown as it is, and how long the window ever goes
without answering. A process of its own: ``live_run.py [SECONDS]``."""

from __future__ import annotations

import json
import math
import os
import subprocess
import sys
import threading
import time
from typing import Any

sys.dont_write_bytecode = False  # else modules that are loaded late are compiled in the window's thread, each time
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)

import window as measured  # noqa: E402

MOVES, TIMES, SECONDS = 250_000, "60", 45.0


def relief(low: tuple[float, float], high: tuple[float, float], top: float, moves: int) -> str:
    """A raster of so many short moves over a part of the board, as a relief has them. top: of the wood, work."""
    rows = max(2, round(math.sqrt(moves / 6.0)))
    columns = moves // rows
    out = ["G21", "G90", "G17", "G54", "T2 M6", "S16000 M3", f"G0 Z{top + 5:.3f}", f"G0 X{low[0]:.3f} Y{low[1]:.3f}"]
    out.append(f"G1 Z{top - 0.5:.4f} F600")
    for j in range(rows):
        y = low[1] + (high[1] - low[1]) * j / (rows - 1)
        out.append(f"G1 Y{y:.4f} F2400")
        for i in range(columns):
            k = i if j % 2 == 0 else columns - 1 - i
            x = low[0] + (high[0] - low[0]) * k / (columns - 1)
            z = top - 1.5 - math.sin(0.11 * x) * math.cos(0.13 * y)
            out.append(f"X{x:.4f} Z{z:.4f}")
    return "\n".join([*out, f"G0 Z{top + 5:.3f}", "M5", "M30"]) + "\n"


BYSTANDER = """
import sys, time
last = time.perf_counter()
while True:
    time.sleep(0.001)
    now = time.perf_counter()
    if now - last > 0.015:
        print(f"{last:.6f} {now:.6f}", flush=True)
    last = now
"""  # a process of nothing, which is held up by the computer alone


class Bystander:
    """What the computer itself held up meanwhile: spans of time, s, by the clock that all processes share."""

    def __init__(self) -> None:
        self.spans: list[tuple[float, float]] = []
        self._process = subprocess.Popen([sys.executable, "-c", BYSTANDER], stdout=subprocess.PIPE, text=True)
        threading.Thread(target=self._read, daemon=True).start()

    def _read(self) -> None:
        assert self._process.stdout is not None
        for line in self._process.stdout:
            a, b = map(float, line.split())
            self.spans.append((a, b))

    def end(self) -> None:
        """Enough seen."""
        self._process.kill()
        self._process.wait()


class AllGaps(measured.Gaps):
    """Each gap that is worth a look, with its time, and how much of it this process ran: what it did not run for, somebody else held the processors."""

    def reset(self) -> None:
        super().reset()
        self.seen: list[tuple[float, float, float]] = []
        self._ran = time.process_time()

    def tick(self) -> None:
        last, ran = self.last, self._ran
        super().tick()
        self._ran = time.process_time()
        if self.last - last > 0.02:
            self.seen.append((last, self.last, self._ran - ran))


def _run_for(seconds: float, operator: Any) -> None:
    """The window's own loop, as an operator has it, until the program has ended or so many seconds are over."""
    from PyQt6.QtCore import QEventLoop, QTimer

    loop = QEventLoop()
    operator.finished.connect(loop.quit)
    QTimer.singleShot(round(1000.0 * seconds), loop.quit)
    loop.exec()


def live(seconds: float) -> dict[str, float]:
    """Figures of so many seconds of it."""
    from gatepost.core.plan.imported import imported

    app, w = measured._window()
    w.begin()
    w.open_path(measured.DEMO)
    w.show()
    w.ready()
    measured._until(app, lambda: measured.settled(w))
    operator, plan = w.operator, w.presenter.plan
    ended: list[tuple[str, str]] = []
    operator.finished.connect(lambda outcome, words: ended.append((outcome, words)))
    operator.speed = TIMES
    operator.start_simulated(plan)
    measured._until(app, lambda: operator.state == "ready")
    setup = plan.setup("surface")
    program = setup.programs[0]
    text = relief((-300.0, -60.0), (300.0, 60.0), 0.0, MOVES).replace("T2 M6", f"T{program.tool.number} M6")
    text = text.replace("S16000", f"S{program.tool.rpm:.0f}")
    taken, step = imported(plan, "surface", program.tool.number, "relief.nc", text)
    for before in setup.steps:
        if before.kind == "run":
            break
        ended.clear()
        assert operator.do(w.presenter.plan, w.presenter.plan.setup("surface"), before, w.document.journal, ""), before
        measured._until(app, lambda: bool(ended))
        assert not ended[0][1], (before.title, ended)
        measured._until(app, lambda: measured.settled(w))
    operator._session.look()
    w.turn_to("machine")
    w.machine.show_extra(taken.plan, taken.setup, step)
    shown: list[float] = []
    follower = w._parts.follower
    follower._wood.made.connect(lambda: shown.append(time.perf_counter()))
    watch, bystander = AllGaps(), Bystander()  # long before it is counted: it takes a processor while it starts
    ended.clear()
    assert operator.do(taken.plan, taken.setup, step, w.document.journal, "")
    measured._until(app, lambda: operator.block > 2000 or bool(ended), 90.0)
    operator.feed(100.0)
    _run_for(3.0, operator)
    shown.clear()
    bystander.spans.clear()
    watch.reset()
    began, block = time.perf_counter(), operator.block
    _run_for(seconds, operator)
    assert not ended or ended == [("done", "")], ended
    longest, took, seen = watch.longest, time.perf_counter() - began, list(watch.seen)
    blocks = operator.block - block
    bystander.end()
    own = [min(b - a, ran) for a, b, ran in seen]
    if not ended:
        operator.stop()
    measured._until(app, lambda: not operator.busy)
    pauses = [b - a for a, b in zip(shown, shown[1:])]
    measured._close(w)
    return {
        "blocks": blocks, "seconds": took, "longest gap": longest, "longest by its own processor time": max(own, default=0.0),
        "gaps over 50 ms": sum(b - a > 0.05 for a, b, _ in seen), "of which its own": sum(one > 0.05 for one in own),
        "longest of a process of nothing": max((b - a for a, b in bystander.spans), default=0.0), "pictures a second": len(shown) / took,
        "longest between pictures": max(pauses, default=math.nan), "moves": len(taken.program.moves),
    }  # fmt: skip


if __name__ == "__main__":
    print(json.dumps(live(float(sys.argv[1]) if len(sys.argv) > 1 else SECONDS)))
