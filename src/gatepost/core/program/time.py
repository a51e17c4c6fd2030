# SPDX-License-Identifier: GPL-3.0-or-later
"""How long moves take on a machine with accelerations."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.motion import Moves
from gatepost.core.program import kernels


@dataclass(frozen=True)
class Drive:
    """What moves a machine. rapid, accel: per axis, mm/min and mm/s²; deviation: corner rounding reckoned with, mm."""

    rapid: tuple[float, float, float]
    accel: tuple[float, float, float]
    deviation: float


def move_seconds(moves: Moves, drive: Drive) -> NDArray[np.float64]:
    """Seconds of each move, from rest to rest. Source: constant acceleration; see the kernel for corners."""
    out = np.zeros(len(moves))
    if len(moves) == 0:
        return out
    ways = np.diff(moves.points, axis=0)
    length = np.linalg.norm(ways, axis=1)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        limits = np.where(np.abs(ways) > 1e-12, np.array(drive.rapid) / 60.0 * length[:, None] / np.abs(ways), np.inf)
    fastest = limits.min(axis=1)
    wanted = np.where(moves.rapid, fastest, np.minimum(moves.feed / 60.0, fastest))
    wanted[length < 1e-9] = 1.0
    kernels.seconds(moves.points, wanted, np.array(drive.accel), drive.deviation, out)
    return out
