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
    kernels.seconds(
        moves.points, moves.rapid, moves.feed / 60.0, np.array(drive.rapid) / 60.0, np.array(drive.accel),
        drive.deviation, out,
    )  # fmt: skip
    return out
