# SPDX-License-Identifier: GPL-3.0-or-later
"""Files replaced whole: written aside, synced, renamed."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from gatepost.core.errors import OperatorError


def write_whole(path: Path, data: bytes) -> None:
    """Replace a file's bytes at once. Raises OperatorError with a sentence when the disk won't take it."""
    try:
        handle, aside = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    except OSError as error:
        raise OperatorError(
            f"{path.name} can't be saved here: {error.strerror or error}. Choose another folder."
        ) from None
    try:
        with os.fdopen(handle, "wb") as out:
            out.write(data)
            out.flush()
            os.fsync(out.fileno())
        os.chmod(aside, (path.stat().st_mode & 0o777) if path.exists() else 0o644)
        os.replace(aside, path)
        folder = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
    except OSError as error:
        Path(aside).unlink(missing_ok=True)
        raise OperatorError(
            f"{path.name} was not saved: {error.strerror or error}. The old file is untouched."
        ) from None
