# SPDX-License-Identifier: GPL-3.0-or-later
"""How soon the window is there, how soon the first plan is, and how long it ever goes without answering.

Each figure is taken in a process of its own. Run alone it prints the same table as ``bench``.
"""

from __future__ import annotations

import json
import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

HERE = Path(__file__)
DEMO = HERE.parents[1] / "src" / "gatepost" / "assets" / "examples" / "lock-7-name-board.gatepost"
Row = Callable[[str, float, "float | None", str], None]
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


def _paint_and_key(make: Callable[[object], object], started: float) -> None:
    """Show a window, wait for its first paint, send a key, print when it was answered."""
    from PyQt6.QtCore import QEvent, QObject, Qt
    from PyQt6.QtTest import QTest
    from PyQt6.QtWidgets import QApplication

    app = QApplication.instance() or QApplication(["bench"])
    window = make(app)

    class Watch(QObject):
        painted = answered = 0.0

        def eventFilter(self, _: QObject | None, event: QEvent | None) -> bool:
            if event is not None and event.type() == QEvent.Type.Paint and not self.painted:
                self.painted = time.time()
            if event is not None and event.type() == QEvent.Type.KeyPress and not self.answered:
                self.answered = time.time()
            return False

    watch = Watch()
    app.installEventFilter(watch)
    window.show()
    while not watch.painted:
        app.processEvents()
    QTest.keyClick(window, Qt.Key.Key_Down)
    print(json.dumps({"seconds": watch.answered - started}))


def bare(started: float) -> None:
    """A bare PyQt6 window."""
    from PyQt6.QtWidgets import QApplication, QMainWindow

    QApplication(["bench"])
    _paint_and_key(lambda app: QMainWindow(), started)


def start_page(started: float) -> None:
    """Gatepost's start page."""
    from gatepost.desk.app import book, dress, make_app
    from gatepost.desk.window.window import Window
    from gatepost.logbook.places import data_folder

    app = make_app()
    dress(app, "light")
    _paint_and_key(lambda _: Window(data_folder(), book), started)


def _window() -> tuple[object, object]:
    from gatepost.desk.app import book, dress, make_app
    from gatepost.desk.window.window import Window
    from gatepost.logbook.places import data_folder

    app = make_app()
    dress(app, "light")
    window = Window(data_folder(), book)
    window.resize(1280, 800)
    return app, window


def first_plan(_: float) -> None:
    """From the first paint of the demo job to its coarse picture and gates, and to its whole plan."""
    app, window = _window()
    window.begin()
    window.open_path(DEMO)
    window.show()
    app.processEvents()
    painted = time.time()
    window.ready()
    coarse = None
    while window.presenter.plan is None or window.presenter.plan.coarse:
        app.processEvents()
        if coarse is None and window.presenter.plan is not None:
            coarse = time.time() - painted
        time.sleep(0.001)
    whole = time.time() - painted
    _close(window)
    print(json.dumps({"coarse": coarse or whole, "whole": whole}))


def _close(window: object) -> None:
    if window.document is not None:
        window.document.stack.setClean()
        window.document.journal_saved = len(window.document.journal.entries)
    window.shut()


class Gaps:
    """The longest time between two looks of the event loop at its timers."""

    def __init__(self) -> None:
        from PyQt6.QtCore import Qt, QTimer

        self.timer = QTimer()
        self.timer.setTimerType(Qt.TimerType.PreciseTimer)
        self.timer.timeout.connect(self.tick)
        self.timer.start(1)
        self.reset()

    def reset(self) -> None:
        self.last, self.longest = time.perf_counter(), 0.0

    def tick(self) -> None:
        now = time.perf_counter()
        self.longest = max(self.longest, now - self.last)
        self.last = now


def _until(app: object, done: Callable[[], bool], most: float = 90.0) -> None:
    end = time.time() + most
    while not done() and time.time() < end:
        app.processEvents()
        time.sleep(0.0005)


def gaps(_: float) -> None:
    """Longest gap while plans are reckoned, a hold is dragged, files are written, blocks stream."""
    import numpy as np
    from PyQt6.QtCore import QPointF, Qt
    from PyQt6.QtTest import QTest

    app, window = _window()
    window.open_path(DEMO)
    window.show()
    app.processEvents()
    out: dict[str, float] = {}
    watch = Gaps()
    window.ready()
    _until(app, lambda: settled(window))
    end = time.time() + 0.6
    _until(app, lambda: time.time() > end)
    out["the first plan, from nothing"] = watch.longest
    watch.reset()
    for i in range(6):
        window.run("set hold", {"setup": "front", "hold": "C1", "x": 262.0 + i})
        window.run("scale lettering", {"factor": 1.0 + 0.002 * (i % 2)})
        _until(app, lambda: settled(window))
    out["edits, planned again"] = watch.longest
    window.go("hold")
    window.presenter.choose_setup("front")
    end = time.time() + 0.5
    _until(app, lambda: time.time() > end)
    bed, view = window.desk.bed, window.desk.bed.view()
    strap = next(s for s in bed.drawing.shapes if s.key == "hold:C2" and s.kind == "area")
    at = view.to_screen(*np.asarray(strap.points).mean(axis=0))
    watch.reset()
    QTest.mousePress(bed, Qt.MouseButton.LeftButton, pos=at.toPoint())
    told: list[float] = []
    for i in range(60):
        begun = time.perf_counter()
        before = bed.verdict
        QTest.mouseMove(bed, (at + QPointF(1.0 + i, 0.5 * i)).toPoint())
        _until(app, lambda b=before: bed.verdict is not b, 1.0)
        bed.repaint()
        told.append(time.perf_counter() - begun)
    bed.cancel()
    out["a hold dragged"] = watch.longest
    window.go("surface")
    _until(app, lambda: settled(window))
    slid: list[float] = []
    for step in range(24):
        begun = time.perf_counter()
        window.desk.scrub.setValue(1 + step % 3)
        app.processEvents()
        while window.desk.bed.painting or window.desk.heights.painting:
            app.processEvents()
        slid.append(time.perf_counter() - begun)
    out["slid to another pass, a frame"] = statistics.median(slid)
    out["a dragged hold judged and painted, a frame"] = statistics.median(told)
    out["a program of a million lines checked"] = _import_gap(app, window, watch)
    _close(window)
    print(json.dumps(out))


def stream(_: float) -> None:
    """Longest gap while 200,000 blocks stream."""
    app, window = _window()
    window.open_path(DEMO)
    window.show()
    app.processEvents()
    watch = Gaps()
    window.ready()
    _until(app, lambda: settled(window))
    longest = _stream_gap(app, window, watch)
    _close(window)
    print(json.dumps({"200,000 blocks streamed to a machine": longest}))


def noise(_: float) -> None:
    """Longest gap of a bare window's timer while one other process is busy: what this machine adds by itself."""
    from PyQt6.QtWidgets import QApplication, QMainWindow

    app = QApplication(["bench"])
    window = QMainWindow()
    window.show()
    busy = subprocess.Popen([sys.executable, "-c", "while True: sum(range(10000))"])
    try:
        watch = Gaps()
        end = time.time() + 20.0
        _until(app, lambda: time.time() > end)
    finally:
        busy.kill()
        busy.wait()
    print(json.dumps({"nothing at all, a bare window beside a busy process": watch.longest}))


def cold(_: float) -> None:
    """Longest gap while the first plan waits for kernels to be compiled."""
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        os.environ["NUMBA_CACHE_DIR"] = folder
        app, window = _window()
        window.open_path(DEMO)
        window.show()
        app.processEvents()
        watch = Gaps()
        began = time.time()
        window.ready()
        _until(app, lambda: settled(window), 300.0)
        assert settled(window)
        _close(window)
    print(json.dumps({"kernels compiled from nothing": watch.longest, "until the whole plan": time.time() - began}))


def long_program(lines: int) -> str:
    """A program of a number of lines with short moves, as a relief has."""
    import numpy as np

    rng = np.random.default_rng(5)
    x, y, z = np.cumsum(rng.uniform(-1, 1, lines)), np.cumsum(rng.uniform(-1, 1, lines)), -3 * rng.random(lines)
    x, y = 300 + 250 * np.sin(x / 40), 150 + 120 * np.sin(y / 40)
    head = "G21 G90 G17 G54\nT2 M6\nS16000 M3\nG0 X0 Y0 Z5\nG1 Z0 F1500\n"
    return head + "".join(f"G1 X{a:.3f} Y{b:.3f} Z{c:.3f}\n" for a, b, c in zip(x.tolist(), y.tolist(), z.tolist()))


def _import_gap(app: object, window: object, watch: Gaps) -> float:
    import tempfile

    with tempfile.NamedTemporaryFile("w", suffix=".nc") as file:
        file.write(long_program(1_000_000))
        file.flush()
        heard: list[object] = []
        window.context.worker.told.connect(heard.append)
        watch.reset()
        window.outputs.check_program(Path(file.name))
        _until(app, lambda: any(a.outcome == "check" for a in heard))
        return watch.longest


def _stream_gap(app: object, window: object, watch: Gaps) -> float:
    """The window's own operator leads the simulated machine through a setup and then sends it 200,000 blocks."""
    from dataclasses import replace

    operator, presenter = window.operator, window.presenter
    operator.speed = "max"
    ended: list[tuple[str, str]] = []
    operator.finished.connect(lambda outcome, words: ended.append((outcome, words)))
    operator.start_simulated(presenter.plan)
    _until(app, lambda: operator.state == "ready")
    for step in presenter.plan.setups[0].steps:
        _until(app, lambda: settled(window))
        plan = presenter.plan
        if step.kind == "run":
            blocks = "".join(f"G1 X{(i * 7) % 400 - 200} Y{(i * 3) % 100 - 50} Z5 F30000\n" for i in range(200_000))
            long = replace(plan.program(step.program), text="G21 G90 G17 G54\nG0 Z5\n" + blocks)
            first = replace(plan.setups[0], programs=(long,))
            plan = replace(plan, setups=(first, *plan.setups[1:]))
            watch.reset()
        ended.clear()
        assert operator.do(plan, plan.setups[0], step, window.document.journal, "")
        _until(app, lambda: bool(ended), 600.0)
        assert ended and not ended[0][1], (step, ended)
        if step.kind == "run":
            return watch.longest
    raise AssertionError("the setup has no run")


def settled(window: object) -> bool:
    """Is what is shown the whole plan of what is entered?"""
    plan = window.presenter.plan
    return plan is not None and not plan.coarse and plan.job == window.document.job and not window.desk.bed.busy


def alone(what: str) -> dict[str, float]:
    """One measurement in a process of its own."""
    # as on any machine: the second start of a program finds its byte code kept
    env = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    command = [sys.executable, str(HERE), what, repr(time.time())]
    done = subprocess.run(command, capture_output=True, text=True, timeout=900, check=True, env=env)
    return dict(json.loads(done.stdout.splitlines()[-1]))


def median(what: str, key: str = "seconds", times: int = 5) -> float:
    """The median of five, each from nothing."""
    return statistics.median(alone(what)[key] for _ in range(times))


def rows(row: Row) -> None:
    """Everything that is measured with the window."""
    alone("start_page")
    row("first paint and key answered, to a bare PyQt6 window", median("start_page"), median("bare"), "<= 2")
    alone("first_plan")
    plans = [alone("first_plan") for _ in range(5)]
    row(
        "demo: coarse picture and gates after the first paint",
        statistics.median(p["coarse"] for p in plans),
        None,
        "<= 1.5",
    )
    row("demo: whole plan after the first paint", statistics.median(p["whole"] for p in plans), None, "<= 3")
    runs = [alone("gaps") for _ in range(3)]
    for name in runs[0]:
        row(
            f"window: {name}",
            statistics.median(r[name] for r in runs),
            None,
            "<= 0.033" if "slid" in name else "<= 0.016" if "frame" in name else "<= 0.05",
        )
    command = [sys.executable, str(HERE.with_name("live_run.py"))]
    live = json.loads(subprocess.run(command, capture_output=True, text=True, check=True).stdout.splitlines()[-1])
    row("a relief of 250,000 moves run at 60 times its speed: longest gap", live["longest gap"], None, "<= 0.05")
    row("  between two pictures of the wood, at the longest", live["longest between pictures"], None, "<= 0.2")
    for name, seconds in {**alone("cold"), **alone("stream"), **alone("noise")}.items():
        row(f"window: {name}", seconds, None, "" if "until" in name or "nothing" in name else "<= 0.05")


def _print(what: str, mine: float, base: float | None = None, goal: str = "") -> None:
    print(f"{what:<60} {mine:8.4f}" + (f" {mine / base:6.2f}" if base else "") + f"  {goal}", flush=True)


if __name__ == "__main__":
    if len(sys.argv) > 2:
        ways = {
            "bare": bare,
            "start_page": start_page,
            "first_plan": first_plan,
            "gaps": gaps,
            "stream": stream,
            "cold": cold,
            "noise": noise,
        }
        ways[sys.argv[1]](float(sys.argv[2]))
    else:
        rows(_print)
