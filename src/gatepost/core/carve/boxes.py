# SPDX-License-Identifier: GPL-3.0-or-later
"""The box about a piece of artwork, in its own directions."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from gatepost.core.carve.areas import area_of
from gatepost.core.carve.lettering import layout
from gatepost.core.errors import OperatorError
from gatepost.core.geometry.curves import flatten
from gatepost.core.job.base import Model
from gatepost.core.job.carve import Carving, Letters, Rounded
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.operation import Artwork
from gatepost.core.job.relief import HeightsFigures
from gatepost.core.motion import turned_about

Array = NDArray[np.float64]
ROUGH = 0.05  # mm


@lru_cache(maxsize=128)
def _own(kind: str, figures: Model) -> tuple[float, float, float, float] | None:
    if isinstance(figures, (Rounded, DrawnFigures, HeightsFigures)):
        return -figures.width / 2.0, -figures.height / 2.0, figures.width / 2.0, figures.height / 2.0
    if isinstance(figures, Letters):
        points = [
            p for g in layout(Carving(**dict(figures))) for contour in g.contours for p in flatten(contour, ROUGH)
        ]
        low, high = (np.min(points, axis=0), np.max(points, axis=0)) if points else (np.zeros(2), np.zeros(2))
        return (*low.tolist(), *high.tolist()) if points else None
    try:
        area = area_of(Artwork(id="one", kind=kind, figures=figures), ROUGH)
    except OperatorError:
        return None
    return None if area.is_empty else area.bounds


def own_box(art: Artwork) -> tuple[float, float, float, float] | None:
    """x0, y0, x1, y1 about its middle, as it is before it is turned, mm; nothing where it has no outline."""
    box = _own(art.kind, art.figures)
    return (-box[2], box[1], -box[0], box[3]) if box is not None and art.mirror else box


def corners_of(art: Artwork) -> Array | None:
    """Its box's corners as it stands on its face, (4, 2) mm: from the lower left on, to the left about it, in its own directions."""
    box = own_box(art)
    if box is None:
        return None
    x0, y0, x1, y1 = box
    corners = turned_about(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]), art.turn)
    return np.asarray(corners + np.array([art.x, art.y]))
