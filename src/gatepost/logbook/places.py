# SPDX-License-Identifier: GPL-3.0-or-later
"""Where Gatepost keeps its own data: XDG folders, or what --data or GATEPOST_DATA says."""

from __future__ import annotations

import os
from pathlib import Path

from gatepost.core.errors import OperatorError


def data_folder(asked: str | None = None) -> Path:
    """The data folder, made when it is missing."""
    named = asked or os.environ.get("GATEPOST_DATA")
    base = (
        Path(named) if named else Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "gatepost"
    )
    try:
        base.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        why = "it is a file" if base.is_file() else (error.strerror or str(error))
        raise OperatorError(f"Gatepost's data folder {base} can't be used: {why}. Name another with --data.") from None
    return base


def logbook_url(data: Path) -> str:
    """The logbook's database: SQLite in the data folder, or the URL in GATEPOST_LOGBOOK."""
    return os.environ.get("GATEPOST_LOGBOOK") or f"sqlite:///{data / 'logbook.sqlite'}"
