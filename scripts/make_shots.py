# SPDX-License-Identifier: GPL-3.0-or-later
"""Takes the pictures of docs/screenshots from the example jobs, in the real window, at 1280 x 800."""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
ROOT = Path(__file__).parents[1]
OUT = ROOT / "docs" / "screenshots"


def wait(condition, limit: int = 60_000) -> None:  # noqa: ANN001
    """Let the window work until something is so."""
    from PyQt6.QtCore import QEventLoop, QTimer

    loop, timer = QEventLoop(), QTimer()
    timer.timeout.connect(lambda: condition() and loop.quit())
    timer.start(20)
    QTimer.singleShot(limit, loop.quit)
    loop.exec()


def pause(ms: int = 120) -> None:
    """Let the window paint."""
    from PyQt6.QtCore import QEventLoop, QTimer

    loop = QEventLoop()
    QTimer.singleShot(ms, loop.quit)
    loop.exec()


def water_lily() -> bytes:
    """Heights of a water-lily in flower, 16 bit: petals that rise to their middles, the inner ones higher; clear about it."""
    import cv2
    import numpy as np

    y, x = np.mgrid[-1.0:1.0:480j, -1.0:1.0:480j]
    far, round_ = np.hypot(x, y), np.arctan2(y, x)
    height = np.zeros_like(far)
    for size, petals, lift in ((0.95, 9, 0.45), (0.66, 7, 0.7), (0.38, 6, 0.95)):
        petal = np.abs(np.cos(petals / 2.0 * round_ + size))
        edge = size * (0.55 + 0.45 * petal**0.6)
        inside = np.clip(1.0 - far / edge, 0.0, 1.0)
        height = np.where(inside > 0.0, np.maximum(height, lift * (0.45 + 0.55 * petal) * np.sqrt(inside)), height)
    grey = (np.clip(height, 0.0, 1.0) * 65535).astype(np.uint16)
    return bytes(
        cv2.imencode(".png", np.dstack([grey, grey, grey, np.where(far < 0.97, 65535, 0).astype(np.uint16)]))[1]
    )


def main() -> int:
    """Take them all."""
    os.environ["GATEPOST_DATA"] = tempfile.mkdtemp(prefix="gatepost-shots-")
    sys.path.insert(0, str(ROOT / "examples"))
    from make_slab import marks

    from gatepost import running
    from gatepost.desk.app import book, make_app
    from gatepost.desk.theme.style import dress
    from gatepost.desk.window.window import Window
    from gatepost.logbook.places import data_folder

    OUT.mkdir(parents=True, exist_ok=True)
    running.fennick_wharf()
    app = make_app()
    dress(app, "light")
    running.run_job(running.example("quay-plate.gatepost"), None, "max", True, False, lambda words: None, print)
    running.run_job(running.example("lock-7-name-board.gatepost"), None, "max", True, False, lambda words: None, print)
    window = Window(data_folder(), book)
    window.resize(1280, 800)
    window.show()
    window.ready()

    def settle() -> None:
        pause()
        wait(lambda: not window.desk.bed.painting and not window.desk.heights.painting and not window.desk.bed.busy)

    def take(name: str) -> None:
        settle()
        window.grab().save(str(OUT / f"{name}.png"))

    def over(dialog: object, name: str) -> None:
        """A dialog over the window, as it is seen."""
        from PyQt6.QtGui import QColor, QPainter

        settle()
        whole, part = window.grab(), dialog.grab()  # type: ignore[attr-defined]
        painter = QPainter(whole)
        painter.fillRect(whole.rect(), QColor(0, 0, 0, 70))
        x, y = (whole.width() - part.width()) // 2, (whole.height() - part.height()) // 2
        painter.fillRect(x - 1, y - 1, part.width() + 2, part.height() + 2, QColor("#525b57"))
        painter.drawPixmap(x, y, part)
        painter.end()
        whole.save(str(OUT / f"{name}.png"))

    def job(name: str) -> None:
        if window.document is not None:
            window.document.stack.setClean()
            window.document.journal_saved = len(window.document.journal.entries)
        work = data_folder() / name
        work.write_bytes(running.example(name).read_bytes())
        window.open_path(work)
        wait(lambda: window.presenter.plan is not None and window.presenter.plan.job == window.document.job)
        pause()
        window.save_to(work)

    for name in ("quay-plate.gatepost", "lock-7-name-board.gatepost", "lock-7-first-look.gatepost"):
        job(name)
    window.go("hold")
    window.presenter.choose_setup("front")
    wait(lambda: not window.desk.bed.busy)
    for strip in window.findChildren(type(window.desk.next).__mro__[1]):
        if strip.objectName() == "message":
            strip.hide()
    take("hold-to-fix")
    job("lock-7-name-board.gatepost")
    for strip in window.findChildren(type(window.desk.next).__mro__[1]):
        if strip.objectName() == "message":
            strip.hide()
    for stage, setup, side in (
        ("blank", "surface", "judged"),
        ("surface", "surface", "judged"),
        ("zero", "front", "judged"),
        ("tools", "front", "judged"),
        ("run", "front", "judged"),
        ("finish", "front", "judged"),
        ("log", "front", "judged"),
    ):
        window.go(stage)
        window.presenter.choose_setup(setup)
        window.desk.slate.turn(side)
        if stage == "surface":
            window.desk.scrub.setValue(2)
        settle()
        take(stage)
    window.go("hold")
    window.presenter.choose_setup("front")
    settle()
    take("hold")
    window.act("happened")
    pause()
    over(window.build().zeros.dialog, "what-happened")
    window.build().zeros.dialog.reject()
    window.act("ledger")
    pause(500)
    over(window.build().ledger.dialog, "z-ledger")
    window.build().ledger.dialog.reject()
    window.outlines.read_photo(Path(str(running.example("lock-7-name-board.gatepost"))).with_name("lock-7-slab.jpg"))
    wait(lambda: window.outlines.photo_dialog is not None)
    dialog = window.outlines.photo_dialog
    for mark in marks():
        dialog.view.add(mark)
    for key, words in (("across", "1000"), ("up", "420"), ("above", "33.8"), ("lens", "1480")):
        dialog.fields[key].setText(words)
    dialog.trace()
    wait(lambda: dialog.result_ is not None)
    pause(300)
    over(dialog, "outline-from-a-photo")
    dialog.reject()
    job("tea-room-sign.gatepost")
    window.go("carve")
    window.presenter.choose_setup("front")
    window.desk.slate.turn("judged")
    settle()
    window.desk.bed.selected = next(k for k in window.desk.bed.keys() if k.startswith("lettering:"))  # noqa: SIM118
    window.desk.bed.update()
    settle()
    take("carve")
    job("lock-7-name-board.gatepost")
    window.go("carve")
    window.presenter.choose_setup("front")
    lily = data_folder() / "water-lily.png"
    lily.write_bytes(water_lily())
    window.outlines.art.read(lily)
    wait(lambda: window.outlines.art.dialog is not None and window.outlines.art.dialog.use.isEnabled())
    pause(300)
    over(window.outlines.art.dialog, "picture-to-carve")
    window.outlines.art.dialog.reject()
    job("tea-room-both-sides.gatepost")
    window.go("register")
    window.presenter.choose_setup("back")
    for strip in window.findChildren(type(window.desk.next).__mro__[1]):
        if strip.objectName() == "message":
            strip.hide()
    settle()
    take("register")
    window.document.stack.setClean()
    window.act("new")
    wait(lambda: window.presenter.plan is not None and not window.desk.bed.busy)
    window.act("measure")
    for figure in ("21.4", "21.6", "21.5"):
        window.build().measuring.field.setText(figure)
        window.act("take_reading")
        wait(lambda: window.context.plan is not None)
    window.build().measuring.field.setText("21.3")
    window.build().measuring.changed.emit()
    take("measuring")
    window.build().measuring.leave()
    job("lock-7-name-board.gatepost")
    window.act("theme")
    window.turn_to("machine")
    window.machine.go(next(i for i, (_, step) in enumerate(window.machine.steps) if step.kind == "zero z"))
    take("at-the-machine-zero-dark")
    window.act("theme")
    window.operator.speed = "4"
    window.act("simulated")
    wait(lambda: window.operator.state == "ready")
    window.machine.go(0)
    while window.machine.current()[1].kind != "run":
        setup, step = window.machine.current()
        window.build().steps.do(setup, step, ())
        wait(lambda: not window.operator.busy and bool(window.document.journal.ticked(setup.name, step.key)))  # noqa: B023
        pause(60)
    setup, step = window.machine.current()
    window.build().steps.do(setup, step, ())
    wait(lambda: window.machine.progress[0] > 60)
    take("at-the-machine-run")
    window.operator.stop()
    wait(lambda: not window.operator.busy)
    window.act("unlink")
    window.document.stack.setClean()
    window.document.journal_saved = len(window.document.journal.entries)
    window.act("start")
    take("start")
    window.shut()
    return 0


if __name__ == "__main__":
    sys.exit(main())
