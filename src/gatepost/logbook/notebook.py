# SPDX-License-Identifier: GPL-3.0-or-later
"""A small file beside every run: what is known of it when Gatepost or the logbook's database is not there any more.

Written whole before the run starts; the last block done is put into it as the run goes on (in place, so that it is
there whatever becomes of the process); taken away once the row is closed. What is left behind is taken in later.
"""

from __future__ import annotations

import json
import os
import uuid
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.writing import write_whole

WIDTH = 12  # digits of the count of blocks
SUFFIX = ".run.json"
EARLY = ("interrupted", "stopped", "failed")  # how a run ends that can be gone on with


def notebook(data: Path) -> Path:
    """The folder of such files."""
    return data / "runs"


@dataclass
class RunFile:
    """One run's file. values: of the row; row: its number, where there is one."""

    path: Path
    values: dict[str, Any]
    row: int | None = None
    state: str = "running"
    end: dict[str, Any] = field(default_factory=dict)
    _count: int = -1

    @classmethod
    def begin(cls, folder: Path, values: dict[str, Any], row: int | None) -> RunFile:
        """Write the file before the run starts. Raises OperatorError."""
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise OperatorError(f"The run can't be noted in {folder}: {error.strerror or error}.") from None
        file = cls(folder / f"{uuid.uuid4().hex}{SUFFIX}", values, row)
        file._write()
        file._count = os.open(file._blocks, os.O_WRONLY | os.O_CREAT, 0o644)
        file.done(0)
        return file

    @property
    def _blocks(self) -> Path:
        return self.path.with_suffix(".blocks")

    def _write(self) -> None:
        told = {"values": self.values, "row": self.row, "state": self.state, "end": self.end}
        write_whole(self.path, json.dumps(told, ensure_ascii=False).encode())

    def done(self, block: int) -> None:
        """The last block that was carried out."""
        if self._count >= 0:
            os.pwrite(self._count, f"{block:0{WIDTH}d}\n".encode(), 0)

    def last_done(self) -> int:
        """The last block that was carried out, as noted."""
        try:
            return int(self._blocks.read_text("ascii"))
        except (OSError, ValueError):
            return 0

    def close(self, state: str, **end: Any) -> None:
        """The run has ended, and its row could not be closed: keep how, to be taken in later."""
        self.state, self.end = state, end
        self._write()
        self._let_go()

    def forget(self) -> None:
        """The row says it all now."""
        self._let_go()
        self.path.unlink(missing_ok=True)
        self._blocks.unlink(missing_ok=True)

    def _let_go(self) -> None:
        if self._count >= 0:
            os.close(self._count)
            self._count = -1


def _made(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return 0.0


def left_behind(folder: Path) -> list[RunFile]:
    """Files of runs whose rows are not closed yet, oldest first; what can't be read is left where it is."""
    found: list[RunFile] = []
    for path in sorted(folder.glob(f"*{SUFFIX}"), key=_made):
        try:
            told = json.loads(path.read_text("utf-8"))
            row = told["row"]
            if row is not None and (not isinstance(row, int) or isinstance(row, bool)):
                continue
            found.append(RunFile(path, dict(told["values"]), row, str(told["state"]), dict(told["end"])))
        except (OSError, ValueError, KeyError, TypeError, RecursionError):
            continue
    return found
