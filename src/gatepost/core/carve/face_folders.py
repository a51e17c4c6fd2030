# SPDX-License-Identifier: GPL-3.0-or-later
"""Where face files are looked for."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

SYSTEM_FOLDERS = ("/usr/share/fonts", "/usr/local/share/fonts", "~/.local/share/fonts", "~/.fonts")
_kept: list[Callable[[], Path]] = []


def keep_in(folder: Callable[[], Path]) -> None:
    """Where face files that were brought in are kept; asked for when it is first needed."""
    _kept[:] = [folder]


def kept_folders() -> tuple[str, ...]:
    """Folders of what was brought in."""
    return tuple(str(folder()) for folder in _kept)
