# SPDX-License-Identifier: GPL-3.0-or-later
"""Autosave: a copy beside Gatepost's own data while a job is open, gone when it is closed in order."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path
from typing import TYPE_CHECKING

from gatepost.core.errors import OperatorError

if TYPE_CHECKING:
    from gatepost.core.job.file import Document


class Recovery:
    """The recovery copy of one open job."""

    def __init__(self, data: Path, path: Path | None) -> None:
        self._folder = data / "recovery"
        named = hashlib.sha256(str(path.resolve() if path else "new").encode()).hexdigest()[:12]
        self._named = named
        self._open = self._folder / f"{named}-{os.getpid()}.open"
        self.copy = self._folder / f"{path.stem if path else 'new-job'}-{named}-{os.getpid()}.gatepost"

    def keep(self, document: Document) -> str:
        """Write the copy; gives what went wrong, or nothing."""
        from gatepost.core.job.file import save

        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            save(document, self.copy)
        except (OperatorError, OSError) as error:
            return str(error)
        return ""

    def others(self) -> bool:
        """Mark the job as open here; whether another Gatepost has it open too."""
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            self._open.touch()
        except OSError:
            return False
        found = False
        for path in self._folder.glob(f"{self._named}-*.open"):
            pid = path.stem.rsplit("-", 1)[-1]
            if path == self._open:
                continue
            if pid.isdigit() and Path(f"/proc/{pid}").exists():
                found = True
            else:
                path.unlink(missing_ok=True)
        return found

    def closed(self) -> None:
        """The job is not open here any more."""
        self._open.unlink(missing_ok=True)

    def forget(self) -> None:
        """Nothing is unsaved: the copy is not wanted."""
        self.copy.unlink(missing_ok=True)


def leftovers(data: Path) -> list[Path]:
    """Copies of jobs whose Gatepost is no longer there, newest first."""
    found = []
    for path in (data / "recovery").glob("*.gatepost"):
        pid = path.stem.rsplit("-", 1)[-1]
        if not (pid.isdigit() and Path(f"/proc/{pid}").exists()):
            found.append(path)
    return sorted(found, key=lambda p: -p.stat().st_mtime)
