# SPDX-License-Identifier: GPL-3.0-or-later
"""Where unexpected errors leave their trace: a log file that is kept small by turning over."""

from __future__ import annotations

import contextlib
import logging
import traceback
from logging.handlers import RotatingFileHandler
from pathlib import Path

from gatepost.core.errors import OperatorError

NAME = "trouble.log"
TRACE = "What happened is written in "
LARGEST, KEPT = 500_000, 3  # bytes of one file, and how many older ones stay beside it


def trouble_log() -> Path:
    """The file. Raises OperatorError where there is no data folder."""
    from gatepost.logbook.places import data_folder

    return data_folder() / NAME


def write_trouble(text: str) -> Path | None:
    """Keep a trace; gives where, or nothing where it can't be kept."""
    with contextlib.suppress(OSError, OperatorError):
        path = trouble_log()
        handler = RotatingFileHandler(path, maxBytes=LARGEST, backupCount=KEPT, encoding="utf-8", errors="replace")
        handler.setFormatter(logging.Formatter("%(asctime)s\n%(message)s\n"))
        try:
            handler.emit(logging.LogRecord("gatepost", logging.ERROR, "", 0, text, None, None))
        finally:
            handler.close()
        return path
    return None


def trace_in(words: str) -> Path | None:
    """Where a message says that its trace is; nothing where it says none."""
    _, said, rest = words.partition(TRACE)
    return Path(rest.removesuffix(".")) if said else None


def told(error: BaseException) -> str:
    """A sentence for an error that nobody expected; its trace is kept."""
    path = write_trouble("".join(traceback.format_exception(error)))
    where = f" {TRACE}{path}." if path is not None else ""
    return f"Something went wrong that should not have.{where}"
