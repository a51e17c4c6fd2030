# SPDX-License-Identifier: GPL-3.0-or-later
"""Starts the application: type, theme, exception hooks that save first, the window."""

from __future__ import annotations

import os
import sys
import threading
from pathlib import Path
from types import TracebackType
from typing import Any

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QGuiApplication, QIcon
from PyQt6.QtWidgets import QApplication

from gatepost.desk.theme.style import dress, load_type
from gatepost.desk.tidier import Tidier
from gatepost.desk.window.window import Window
from gatepost.logbook.places import data_folder, logbook_url

PATIENCE = 0.3  # seconds that the window waits for a book in use, before it says so


def book(patience: float = PATIENCE) -> Any:
    """The logbook, opened when it is wanted."""
    from gatepost.logbook.notebook import notebook
    from gatepost.logbook.store import Logbook

    return Logbook(logbook_url(data_folder()), notebook(data_folder()), patience)


def patient_book() -> Any:
    """The same for whoever runs programs, beside the window: a row is worth waiting for."""
    return book(5.0)


def hook(window: Window) -> None:
    """What nobody caught: the job is saved first, then its trace is kept, and offered to be shown."""

    def caught(kind: type[BaseException], error: BaseException, where: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, where)
            return
        from gatepost.trouble import told

        window.jobs.keep()
        window.messages.warn(f"The job is kept in the recovery folder. {told(error)}")

    def in_thread(args: threading.ExceptHookArgs) -> None:
        if args.exc_value is not None:
            window.failed.emit((args.exc_type, args.exc_value, args.exc_traceback))

    window.failed.connect(lambda told: caught(*told), Qt.ConnectionType.QueuedConnection)  # type: ignore[call-arg]

    sys.excepthook = caught
    threading.excepthook = in_thread


def make_app() -> QApplication:
    """The Qt application, dressed."""
    if not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY"):
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    running = QApplication.instance()
    app = running if isinstance(running, QApplication) else QApplication(["gatepost"])
    sys.setswitchinterval(0.0001)  # s: the thread at the machine gives way to the window ten times sooner than usual
    app.setApplicationName("Gatepost")
    app.setAttribute(Qt.ApplicationAttribute.AA_DontUseNativeDialogs)  # file dialogs follow the theme
    app.setDesktopFileName("gatepost")
    from importlib import resources

    app.setWindowIcon(QIcon(str(resources.files("gatepost").joinpath("assets", "icons", "gatepost.svg"))))
    load_type()
    if app.findChild(Tidier) is None:
        Tidier(app)
    return app


def wanted_theme(asked: str | None) -> str:
    """As asked, else as the desktop is."""
    if asked is not None:
        return asked
    hints = QGuiApplication.styleHints()
    return "dark" if hints is not None and hints.colorScheme().name == "Dark" else "light"


def open_window(job: Path | None, theme: str | None) -> int:
    """Open the window and run until it is closed."""
    app = make_app()
    chosen = wanted_theme(theme)
    dress(app, chosen)
    data = data_folder()
    window = Window(data, book, chosen, running=patient_book)
    hook(window)
    if job is not None:
        window.begin()  # both load at once
    if job is not None and not window.open_path(job):
        sys.stderr.write(f"{job} could not be opened.\n")
    window.show()
    QTimer.singleShot(0, window.ready)
    if job is None:
        QTimer.singleShot(300, window.shop.ask_once)
    QTimer.singleShot(1500, lambda: _leftover_runs(window))
    return int(app.exec())


def _leftover_runs(window: Window) -> None:
    """Rows of runs whose Gatepost is gone become interrupted; the database is opened behind the first paint."""

    def close() -> None:
        from gatepost.core.errors import OperatorError
        from gatepost.machine.standing_checks import now

        try:
            log = book()
        except OperatorError:
            return  # told when it is wanted
        try:
            log.close_leftovers(now())
            if log.healed:
                window.messages.warn(log.healed)
        except OperatorError as error:
            window.messages.warn(str(error))
        finally:
            log.close()

    threading.Thread(target=close, daemon=True).start()
