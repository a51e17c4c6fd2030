# SPDX-License-Identifier: GPL-3.0-or-later
"""Heights out of a mesh: an STL file seen from above. The format: a head of 80 bytes, a count, and 50 bytes a triangle; or words."""

from __future__ import annotations

import math
import re
import struct
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatepost.core.errors import OperatorError
from gatepost.core.geometry.levels import MOST_SIDE, WHITE, ReadHeights

MOST_TRIANGLES = 2_000_000
HEAD = 84  # bytes before the first triangle
_VERTEX = re.compile(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)")
SAMPLES = 900  # along the longer side


def read_mesh(data: bytes, name: str) -> ReadHeights:
    """A mesh's heights as seen from above; what lies beside it is not asked. Its unit is taken for mm. Raises OperatorError."""
    corners = _triangles(data, name)
    low, high = corners.reshape(-1, 3).min(axis=0), corners.reshape(-1, 3).max(axis=0)
    wide, tall, deep = (float(v) for v in high - low)
    if min(wide, tall) <= 1e-9 or deep <= 1e-9:
        raise OperatorError(f"{name} is flat, or seen on edge from above: there is no relief in it.")
    if max(wide, tall, deep) > 1e7:
        raise OperatorError(f"{name} is larger than any board, whatever its unit is.")
    cell = max(wide, tall) / SAMPLES
    columns, rows = (min(MOST_SIDE, max(2, math.ceil(v / cell))) for v in (wide, tall))
    z = np.full((rows, columns), -1.0, np.float64)
    from gatepost.core.geometry import mesh_kernels

    at = (corners - low) / np.array([wide / columns, tall / rows, deep])
    mesh_kernels.top_of(at, z)
    z = z[::-1]  # rows from the top down
    seen = z >= 0.0
    if not seen.any():
        raise OperatorError(f"{name} shows nothing from above.")
    levels = np.where(seen, 1.0 + np.rint(np.clip(z, 0.0, 1.0) * (WHITE - 1)), 0.0).astype(np.uint16)
    said = (
        f"{len(corners)} triangles, {wide:.1f} × {tall:.1f} × {deep:.1f} mm if its unit is mm",
        f"seen from above at {columns} × {rows} places",
    )
    return ReadHeights(levels, wide, tall, deep, said)


def _triangles(data: bytes, name: str) -> NDArray[np.float64]:
    """(n, 3, 3): corners."""
    out: Any
    count = struct.unpack_from("<I", data, 80)[0] if len(data) >= HEAD else 0
    if count and len(data) == HEAD + 50 * count:
        if count > MOST_TRIANGLES:
            raise OperatorError(f"{name} has {count} triangles: {MOST_TRIANGLES} are the most that are read.")
        kind = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("more", "<u2")])
        out = np.frombuffer(data, kind, count, HEAD)["corners"].astype(np.float64)
    elif data[:5].lower() == b"solid":
        found = _VERTEX.findall(data)
        if len(found) > 3 * MOST_TRIANGLES:
            raise OperatorError(f"{name} has over {MOST_TRIANGLES} triangles, and no more are read.")
        if len(found) % 3 or not found:
            raise OperatorError(f"{name} is cut short, or has no triangles.")
        try:
            out = np.array([[float(v) for v in f] for f in found]).reshape(-1, 3, 3)
        except ValueError:
            raise OperatorError(f"{name}: a corner in it is no number.") from None
    else:
        raise OperatorError(f"{name} is no STL mesh, or is cut short.")
    if not np.isfinite(out).all():
        raise OperatorError(f"{name}: a corner in it is no number.")
    return np.asarray(out)
