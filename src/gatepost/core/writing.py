# SPDX-License-Identifier: GPL-3.0-or-later
"""Files replaced whole: written aside, synced, renamed."""

from __future__ import annotations

import contextlib
import glob
import os
import tempfile
from pathlib import Path

from gatepost.core.errors import OperatorError

STALE = 3600.0  # s after which what a save that was cut off left beside a file is taken away


def write_whole(path: Path, data: bytes) -> None:
    """Replace a file's bytes at once: the old file or the new one is always whole. Raises OperatorError with a sentence.

    A link is followed; a file that is marked read-only is not replaced.
    """
    try:
        path = path.resolve()
        if path.exists() and not path.is_file():
            kind = "a folder" if path.is_dir() else "a pipe or a device"
            raise OperatorError(f"{path.name} is {kind}, not a file. Save under another name.")
        if path.exists() and not path.stat().st_mode & 0o222:
            raise OperatorError(f"{path.name} is marked read-only. Save under another name, or unmark it.")
        handle, aside = tempfile.mkstemp(dir=path.parent, prefix=_prefix(path))
    except (OSError, ValueError, RuntimeError) as error:  # a name with a 0 byte, links in a ring
        why = getattr(error, "strerror", None) or error
        raise OperatorError(f"{path.name} can't be saved here: {why}. Choose another folder.") from None
    try:
        with os.fdopen(handle, "wb") as out:
            out.write(data)
            out.flush()
            os.fsync(out.fileno())
        os.chmod(aside, (path.stat().st_mode & 0o777) if path.exists() else 0o644)
        os.replace(aside, path)
    except OSError as error:
        Path(aside).unlink(missing_ok=True)
        raise OperatorError(
            f"{path.name} was not saved: {error.strerror or error}. The old file is untouched."
        ) from None
    except BaseException:
        Path(aside).unlink(missing_ok=True)
        raise
    _settle(path)


def _prefix(path: Path) -> str:
    return f".{path.name[:100]}."


def _settle(path: Path) -> None:
    """Sync the folder, and take away what saves that were cut off long ago have left. Failing here loses nothing."""
    with contextlib.suppress(OSError):
        folder = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
    for left in path.parent.glob(glob.escape(_prefix(path)) + "????????"):
        with contextlib.suppress(OSError):
            if left.stat().st_mtime < path.stat().st_mtime - STALE:
                left.unlink()
