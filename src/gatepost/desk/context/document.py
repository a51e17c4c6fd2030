# SPDX-License-Identifier: GPL-3.0-or-later
"""The open job: every change is a command of the table; undo and redo are the jobs before and after."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QUndoCommand, QUndoStack

from gatepost.core import shipped
from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.job import commands
from gatepost.core.job.file import Document, load, locked, save
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job

if TYPE_CHECKING:
    from gatepost.core.plan.kinds import Kinds


class _Edit(QUndoCommand):
    """One command's job before and after."""

    def __init__(self, desk: DeskDocument, words: str, before: Job, after: Job) -> None:
        super().__init__(words)
        self._desk, self._before, self._after = desk, before, after

    def redo(self) -> None:
        self._desk.put(self._after)

    def undo(self) -> None:
        self._desk.put(self._before)


def seen(path: Path | None) -> tuple[int, int, int] | None:
    """What tells one writing of a file from another; nothing where there is none."""
    try:
        told = path.stat() if path is not None else None
    except OSError:
        return None
    return (told.st_ino, told.st_size, told.st_mtime_ns) if told is not None else None


class DeskDocument(QObject):
    """Job, journal, file and undo stack. The stack's clean state is the only dirty flag for what is planned."""

    changed = pyqtSignal()
    journal_changed = pyqtSignal()
    refused = pyqtSignal(str)

    def __init__(self, document: Document, path: Path | None = None, kinds: str = shipped.KINDS) -> None:
        """kinds: where the tables of kinds stand by which it is read, changed, planned and shown."""
        super().__init__()
        self._kinds = kinds
        self.job = document.job
        self.journal = document.journal
        self.pictures = dict(document.pictures)  # all that were named since it was opened, so that undo finds them
        self.path = path
        self.stack = QUndoStack(self)
        self.journal_saved = len(document.journal.entries)
        self._seen = seen(path)

    @cached_property
    def kinds(self) -> Kinds:
        """Kinds of operations, artwork and holds."""
        from gatepost.core.plan.kinds import kinds_at  # with all the rooms: only when something is changed

        return kinds_at(self._kinds)

    @property
    def dirty(self) -> bool:
        """Whether something is not saved yet."""
        return not self.stack.isClean() or self.journal_saved != len(self.journal.entries)

    def put(self, job: Job) -> None:
        """Show another job; only the undo stack calls this."""
        self.job = job
        self.changed.emit()

    def run(self, name: str, values: Mapping[str, Any], words: str = "") -> bool:
        """Run a command; a refusal is told and changes nothing. Gives whether it was done."""
        try:
            after = commands.run(self.job, name, values, self.kinds.figures)
        except OperatorError as error:
            self.refused.emit(str(error))
            return False
        if after != self.job:
            self.stack.push(_Edit(self, words or name, self.job, after))
        return True

    def happened(self, journal: Journal) -> None:
        """The journal has grown, here or at the machine; it can't be undone, only corrected.

        This is where the job's journal is written, and nowhere else: what grew on an older one of it is joined to what has
        come since, and no entry is ever lost.
        """
        both = self.journal.met(journal)
        if both is not self.journal:
            self.journal = both
            self.journal_changed.emit()

    def document(self) -> Document:
        """What a file of it would hold."""
        return Document(self.job, self.journal, self.pictures)

    def changed_outside(self) -> bool:
        """Whether somebody else has written the file since it was opened or saved here."""
        now = seen(self.path)
        return now is not None and self._seen is not None and now != self._seen

    def save(self, path: Path | None = None) -> None:
        """Save here or elsewhere. Raises OperatorError; then nothing is lost."""
        target = path or self.path
        if target is None:
            raise OperatorError("The job has no file yet. Choose one with Save as.")
        with locked(target, 1.0):
            if target == self.path and self.changed_outside():
                with contextlib.suppress(UnusableFile):
                    self.happened(load(target).journal)  # what others have written there is not lost
            save(self.document(), target)
        self.path = target
        self._seen = seen(target)
        self.stack.setClean()
        self.journal_saved = len(self.journal.entries)


def opened(path: Path, kinds: str = shipped.KINDS) -> DeskDocument:
    """A document from a file. Raises UnusableFile."""
    if kinds == shipped.KINDS:
        return DeskDocument(load(path), path)
    from gatepost.core.plan.kinds import kinds_at

    return DeskDocument(load(path, kinds_at(kinds).figures), path, kinds)
