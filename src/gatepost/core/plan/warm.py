# SPDX-License-Identifier: GPL-3.0-or-later
"""Compiles the kernels once, so that the first plan need not wait: ``python -m gatepost.core.plan.warm``."""

from __future__ import annotations

import numpy as np

from gatepost.core.carve import relief_kernels
from gatepost.core.geometry import kernels as edges
from gatepost.core.hold import kernels as clear
from gatepost.core.motion import Moves
from gatepost.core.program import arcs, scanner, writer
from gatepost.core.program.time import Drive, move_seconds
from gatepost.core.wood import kernels, survey_kernels


def warm() -> None:
    """Compile, or load from the cache."""
    kernels.warm()
    survey_kernels.warm()
    scanner.warm()
    writer.warm()
    arcs.warm()
    edges.warm()
    clear.warm()
    relief_kernels.warm()
    moves = Moves(np.array([[0.0, 0.0, 0.0], [1.0, 0.0, 0.0]]), np.array([False]), np.array([100.0]))
    move_seconds(moves, Drive((1.0, 1.0, 1.0), (1.0, 1.0, 1.0), 0.01))


if __name__ == "__main__":
    warm()
