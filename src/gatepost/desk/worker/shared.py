# SPDX-License-Identifier: GPL-3.0-or-later
"""Large arrays between the reckoning process and the window: written once into shared memory, never copied again.

A plan is pickled with a mark in the place of each height field (and of each picture made from one). The reckoning
process lays what a mark stands for into a file of the memory file system and keeps it while its field lives; the
window maps it, and takes the file's name away: the pages live as long as either side looks at them.
"""

from __future__ import annotations

import contextlib
import io
import mmap
import os
import pickle
import secrets
import tempfile
import weakref
from collections import OrderedDict
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatepost.core.wood.field import HeightField

Mark = tuple[int, str, str, tuple[int, ...], float, float, float]
FEWEST, MOST_BYTES = 8, 120e6  # fields that the window keeps by their marks


def memory_folder() -> Path:
    """Where files live in memory; the temporary folder where there is no such place."""
    return Path("/dev/shm") if os.access("/dev/shm", os.W_OK) else Path(tempfile.gettempdir())


def name_for(process: int) -> str:
    """How the files of a process begin."""
    return f"gatepost-{process}-"


def sweep_up(process: int) -> None:
    """Take away what a process that has ended left behind."""
    for path in memory_folder().glob(name_for(process) + "*"):
        with contextlib.suppress(OSError):
            path.unlink()


def sweep_leftovers() -> None:
    """Take away what processes of this user that are gone have left."""
    for path in memory_folder().glob("gatepost-*-*"):
        owner = path.name.split("-")[1]
        with contextlib.suppress(OSError):
            if owner.isdigit() and not Path(f"/proc/{owner}").exists() and path.lstat().st_uid == os.getuid():
                path.unlink()


class Sender:
    """The reckoning process's side."""

    def __init__(self) -> None:
        self._count = 0
        self._marks: weakref.WeakKeyDictionary[HeightField, Mark] = weakref.WeakKeyDictionary()

    def lay(self, array: NDArray[Any]) -> tuple[str, str, tuple[int, ...]]:
        """An array into shared memory: the file's name, the dtype and the shape."""
        self._count += 1
        path = memory_folder() / f"{name_for(os.getpid())}{secrets.token_hex(8)}-{self._count}"
        array = np.ascontiguousarray(array)
        # made here and by nobody before, read by this user alone
        with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW, 0o600), "wb") as out:
            out.write(array.data)
        return str(path), array.dtype.str, array.shape

    def mark(self, field: HeightField) -> Mark:
        """What stands for a field; the same as before while the field lives."""
        known = self._marks.get(field)
        if known is None:
            path, kind, shape = self.lay(field.z)
            known = (self._count, path, kind, shape, field.x0, field.y0, field.cell)
            self._marks[field] = known
        return known

    def forget(self) -> None:
        """Lay everything anew from now on."""
        self._marks.clear()

    def dumps(self, thing: object) -> bytes:
        """Pickled, with marks for fields."""
        out = io.BytesIO()
        _Pickler(out, self).dump(thing)
        return out.getvalue()


class _Pickler(pickle.Pickler):
    def __init__(self, out: io.BytesIO, giver: Sender) -> None:
        super().__init__(out, protocol=5)
        self._giver = giver

    def persistent_id(self, obj: Any) -> Mark | None:
        """A mark for a field, nothing for the rest."""
        return self._giver.mark(obj) if isinstance(obj, HeightField) else None


def mapped(path: str, kind: str, shape: tuple[int, ...]) -> NDArray[Any]:
    """Map an array and take its name away. Raises OSError when it is gone."""
    with open(path, "rb") as file:
        view = mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ)
    os.unlink(path)
    return np.frombuffer(view, dtype=np.dtype(kind)).reshape(shape)


class Receiver:
    """The window's side. One thread at a time."""

    def __init__(self) -> None:
        self._fields: OrderedDict[int, HeightField] = OrderedDict()

    def field(self, mark: Mark) -> HeightField:
        """The field that a mark stands for. Raises LostField."""
        number, path, kind, shape, x0, y0, cell = mark
        if number not in self._fields:
            try:
                self._fields[number] = HeightField(mapped(path, kind, shape), x0, y0, cell)
            except OSError:
                raise LostField(str(number)) from None
        self._fields.move_to_end(number)
        while len(self._fields) > FEWEST and sum(f.z.nbytes for f in self._fields.values()) > MOST_BYTES:
            self._fields.popitem(last=False)
        return self._fields[number]

    def loads(self, data: bytes) -> Any:
        """Unpickled, with the fields in place. Raises LostField."""
        return _Unpickler(io.BytesIO(data), self).load()


class LostField(Exception):
    """A field that was looked at long ago is wanted again: ask for the plan once more, from nothing."""


class _Unpickler(pickle.Unpickler):
    def __init__(self, data: io.BytesIO, taker: Receiver) -> None:
        super().__init__(data)
        self._taker = taker

    def persistent_load(self, pid: Any) -> HeightField:
        """The field of a mark."""
        return self._taker.field(pid)
