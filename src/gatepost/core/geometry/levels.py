# SPDX-License-Identifier: GPL-3.0-or-later
"""Heights as 16-bit levels over a grid: packed for the job, and read out of a picture or a mesh."""

from __future__ import annotations

import base64
import binascii
import zlib
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError
from gatepost.core.picture import unpacked_picture

MOST_SIDE = 1500  # samples that a picture is brought to
WHITE = 65535

Levels = NDArray[np.uint16]  # rows from the top down; 0 where nothing is asked, 1 black to WHITE


@dataclass(frozen=True)
class ReadHeights:
    """Heights read from a file. wide, high, deep: their size as the file tells it, mm, nothing where it tells none; said: what there is to say of them."""

    levels: Levels
    wide: float = 0.0
    high: float = 0.0
    deep: float = 0.0
    said: tuple[str, ...] = ()


def packed(levels: Levels) -> str:
    """Levels as text: each less its neighbour to the left, least byte first, deflated, base 64."""
    steps = np.diff(levels, axis=1, prepend=np.uint16(0)).astype("<u2")
    return base64.b64encode(zlib.compress(steps.tobytes(), 9)).decode()


@lru_cache(maxsize=8)
def unpacked(grid: str, rows: int, columns: int) -> Levels:
    """Levels out of text. Raises OperatorError where they are not as many as said."""
    wanted = 2 * rows * columns
    try:
        deflated = zlib.decompressobj()
        raw = deflated.decompress(base64.b64decode(grid, validate=True), wanted + 1)
    except (binascii.Error, zlib.error, ValueError):
        raise OperatorError("The heights of a picture in this job can't be read. Bring the picture in again.") from None
    if len(raw) != wanted:
        raise OperatorError(
            f"The heights of a picture in this job are not {columns} × {rows}. Bring the picture in again."
        )
    steps = np.frombuffer(raw, "<u2").reshape(rows, columns)
    out: Levels = np.cumsum(steps, axis=1, dtype=np.uint64).astype(np.uint16)
    out.setflags(write=False)
    return out


def read_height_picture(data: bytes, name: str) -> ReadHeights:
    """A picture whose brightness is height: PNG of 8 or 16 bit, or JPEG; what is clear is not asked. Raises OperatorError."""
    import cv2

    raw = unpacked_picture(data, name)
    bits = 16 if raw.dtype == np.uint16 else 8
    values = raw.astype(np.float32) / (65535.0 if bits == 16 else 255.0)
    clear = values[:, :, 3] < 0.5 if values.ndim == 3 and values.shape[2] == 4 else np.zeros(values.shape[:2], bool)
    said = [f"{values.shape[1]} × {values.shape[0]} px of {bits} bit"]
    if values.ndim == 3:
        if values.shape[2] >= 3 and float(np.ptp(values[:, :, :3], axis=2).max()) > 0.02:
            said.append("it has colours: their brightness is taken for height")
        values = (
            cv2.cvtColor(np.ascontiguousarray(values[:, :, :3]), cv2.COLOR_BGR2GRAY)
            if values.shape[2] >= 3
            else values[:, :, 0]
        )
    most = max(values.shape)
    if most > MOST_SIDE:
        size = (max(2, round(values.shape[1] * MOST_SIDE / most)), max(2, round(values.shape[0] * MOST_SIDE / most)))
        values = cv2.resize(values, size, interpolation=cv2.INTER_AREA)
        clear = cv2.resize(clear.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST).astype(bool)
        said.append(f"brought to {size[0]} × {size[1]} px")
    levels = _levels(values, clear, name)
    if bits == 8 and not clear.all():
        said.append(f"{len(np.unique(levels[~clear]))} heights of 256: between them it is stepped, 16 bit are smoother")
    return ReadHeights(levels, said=tuple(said))


def _levels(values: NDArray[Any], clear: NDArray[np.bool_], name: str) -> Levels:
    """Values 0 to 1 as levels. Raises OperatorError where there is nothing to carve."""
    if min(values.shape) < 2:
        raise OperatorError(f"{name} is only {values.shape[1]} × {values.shape[0]} px: too small for a relief.")
    if clear.all():
        raise OperatorError(f"{name} is clear all over: nothing in it asks for a height.")
    asked = values[~clear]
    if float(asked.max() - asked.min()) < 1e-6:
        raise OperatorError(f"{name} is of one brightness all over: there is no relief in it.")
    out: Levels = (1.0 + np.rint(np.clip(values, 0.0, 1.0) * (WHITE - 1))).astype(np.uint16)
    out[clear] = 0
    return out
