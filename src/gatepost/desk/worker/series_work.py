# SPDX-License-Identifier: GPL-3.0-or-later
"""A series written job by job between all else that is wanted of the process. No Qt here."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

from gatepost.core.errors import Cancelled, OperatorError
from gatepost.trouble import told

SHARE = "series share"


class SeriesWork:
    """One series at the most. tell: the window, by the question that it came by, the outcome, what came of it, and words; look: takes in what has come, and whether a plan is wanted."""

    def __init__(self, tell: Callable[[int, str, object, str], None], look: Callable[[], bool]) -> None:
        self._tell, self._look = tell, look
        self._asked = 0
        self._run: Any = None
        self._memory: Any = None

    @property
    def going(self) -> bool:
        """Whether there is more of it to be done."""
        return self._run is not None

    def begin(self, asked: int, document: Any, table: str, folder: str, way: Any, filled: bool) -> None:
        """A job for each row of a table of texts, or for each board full of them. Raises OperatorError."""
        from gatepost.core.cache import Memory
        from gatepost.core.carve import face_folders
        from gatepost.logbook.places import data_folder
        from gatepost.series import begun

        face_folders.keep_in(lambda: data_folder() / "faces")  # this process shapes letters here alone
        run = begun(document, document.job.name, Path(table), Path(folder), way, filled)
        self.end()
        self._asked, self._run = asked, run
        self._memory = Memory(keep=4, cancelled=lambda: self._look() or self._run is None)
        self._tell(self._asked, SHARE, (0, len(run.jobs)), "")

    def step(self) -> None:
        """The next job; it is taken again where a plan was wanted meanwhile."""
        run = self._run
        try:
            run.step(self._memory)
            self._tell(self._asked, SHARE, (run.done, len(run.jobs)), "")
            if run.ended:
                self.end()
        except Cancelled:
            return
        except Exception as error:
            with contextlib.suppress(OperatorError):  # it is told already that it went wrong
                self.leave()
            self._tell(self._asked, "series", False, str(error) if isinstance(error, OperatorError) else told(error))

    def end(self) -> None:
        """It goes no farther: what there is of it is told."""
        if self._run is None:
            return
        run = self._run
        try:
            self.leave()
        except OperatorError as error:
            self._tell(self._asked, "series", False, str(error))
            return
        stopped = sum(any(f["level"] == "stop" for f in row["findings"]) for row in run.told)
        fitted = sum(bool(row["fitted"]) for row in run.told)
        made = f"{run.done} jobs" if run.ended else f"Called off: {run.done} of {len(run.jobs)} jobs"
        self._tell(
            self._asked, "series", None,
            f"{made} written to {run.out}, {len(run.told)} rows: {fitted} with a text made to fit, {stopped} with a stop. series.json says which.",
        )  # fmt: skip

    def leave(self) -> None:
        """Nobody waits for it any more: series.json says what is there. Raises OperatorError where that can't be written."""
        run, self._run = self._run, None
        if run is not None:
            run.close()
