# SPDX-License-Identifier: GPL-3.0-or-later
"""Cutters from the side, as they are ground."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from gatepost.core.profile import Profile

ARC = 14  # pieces of an arc


def side_of(profile: Profile, top: float) -> NDArray[np.float64]:
    """The right half of a cutter's side from its tip up to a height, (n, 2) mm from the tip."""
    lean = math.pi / 2.0 if math.isinf(profile.steep) else math.atan(profile.steep)
    turn = np.linspace(0.0, lean, ARC) if profile.round > 0.0 else np.zeros(1)
    arc = np.column_stack([profile.flat + profile.round * np.sin(turn), profile.round * (1.0 - np.cos(turn))])
    arc = arc[arc[:, 0] <= profile.radius]
    shoulder = profile.shoulder
    return np.vstack([arc, [[profile.radius, shoulder], [profile.radius, max(top, shoulder)]]])
