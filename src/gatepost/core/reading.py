# SPDX-License-Identifier: GPL-3.0-or-later
"""Files read whole, and only files: a device that never ends, a pipe that nobody writes into or a folder is refused at once."""

from __future__ import annotations

import os
import stat
from pathlib import Path

from gatepost.core.errors import UnusableFile


def read_whole(path: Path, most: int) -> bytes:
    """A file's bytes. most: bytes that it may have. Raises UnusableFile with a sentence."""
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with os.fdopen(handle, "rb") as file:
            told = os.fstat(handle)
            if stat.S_ISDIR(told.st_mode):
                raise UnusableFile(f"{path.name or path} is a folder. Name a file in it.")
            if not stat.S_ISREG(told.st_mode):
                raise UnusableFile(f"{path.name} is a pipe or a device, not a file. Save it as a file first.")
            data = file.read(most + 1)
    except IsADirectoryError:
        raise UnusableFile(f"{path.name or path} is a folder. Name a file in it.") from None
    except (OSError, ValueError) as error:
        raise UnusableFile(f"{path.name} can't be opened: {getattr(error, 'strerror', None) or error}.") from None
    if len(data) > most:
        raise UnusableFile(f"{path.name} is refused: it is over {most / 2**20:.0f} MB.")
    return data
