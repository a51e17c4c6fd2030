# SPDX-License-Identifier: GPL-3.0-or-later
"""Strips so narrow beside a cut that they break off and are thrown. All from the removal model."""

from __future__ import annotations

import hashlib
import math

import numpy as np
from numpy.typing import NDArray

from gatepost.core.findings import Finding, Level, Place
from gatepost.core.frames import Bed, Board, Matrix
from gatepost.core.tolerances import NARROW, OF_DEPTH
from gatepost.core.units import mm
from gatepost.core.wood.field import HeightField, bands, by_bands
from gatepost.core.wood.loose import DUST, Cutting

LONG = 3.0  # times its limit that a narrow strip must be long: corners are narrow too and stay


def solid_key(before: HeightField, after: HeightField) -> tuple[float, bytes, bytes]:
    """All of two woods that strips hang on: how thick it was, and where more than half of that stands. Letters that go less
    deep change none of it."""
    deep = float(before.z.max())

    def digest(field: HeightField) -> bytes:
        told = hashlib.blake2b(digest_size=16)
        for band in bands(len(field.z)):
            told.update(np.packbits(field.z[band] > 0.5 * deep).tobytes())
        return told.digest()

    return deep, digest(before), digest(after)


def slivers(before: HeightField, after: HeightField, cutting: Cutting, to_bed: Matrix[Board, Bed]) -> list[Finding]:
    """Strips left so narrow beside a cut through the wood that they break off and are thrown, by place and size."""
    import cv2  # only where something is cut through

    deep = float(before.z.max())
    limit = max(NARROW, deep / OF_DEPTH)
    floor = 0.5 * deep

    half = 0.5 * limit / after.cell  # cells
    about = math.ceil(2.0 * half + 1.5) + 2  # rows beside a band that decide what is narrow in it

    def narrow(field: HeightField, band: slice) -> NDArray[np.bool_]:
        low = max(band.start - about, 0)
        solid = np.pad(field.z[low : band.stop + about] > floor, 1).view(np.uint8)
        thin = (cv2.distanceTransform(solid, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) < half).view(np.uint8)
        away = cv2.distanceTransform(thin, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        here = slice(band.start - low + 1, band.stop - low + 1)
        return np.asarray((solid[here, 1:-1] > 0) & (away[here, 1:-1] > half + 1.5))

    found = by_bands(after, lambda b: narrow(after, b))
    for band in bands(len(found)):
        if found[band].any():
            found[band] &= ~narrow(before, band)
    if not found.any():
        return []
    count, labels, stats, _ = cv2.connectedComponentsWithStats(found.view(np.uint8), connectivity=8, ltype=cv2.CV_16U)
    if count > np.iinfo(np.uint16).max:
        count, labels, stats, _ = cv2.connectedComponentsWithStats(found.view(np.uint8), connectivity=8)
    said: list[Finding] = []
    for number in range(1, count):
        wide, tall = (float(v) * after.cell for v in stats[number][2:4])
        area = float(stats[number][4]) * after.cell**2
        long = math.hypot(wide, tall)
        if long < LONG * limit or area < DUST:
            continue
        j, i = np.nonzero(labels == number)
        middle = int(np.argmin((i - i.mean()) ** 2 + (j - j.mean()) ** 2))
        x, y = after.x0 + float(i[middle]) * after.cell, after.y0 + float(j[middle]) * after.cell
        message = (
            f"{cutting.operation} leaves a strip about {mm(area / long)} wide and {mm(long)} long at X {mm(x)}, Y {mm(y)} of the board: "
            f"narrower than {mm(limit)} beside a cut {mm(deep)} deep it breaks off and is thrown. Move the cut, or cut the strip away first."
        )
        place = Place(*to_bed.xy(x, y), deep, long / 2.0)
        said.append(
            Finding(
                "wood.sliver",
                Level.CARE,
                "carve",
                message,
                cutting.setup,
                None,
                (),
                place,
                f"{cutting.operation} strip {number}",
            )
        )
    return said
