# SPDX-License-Identifier: GPL-3.0-or-later
"""Tracing a board in a photo, and squaring the photo up. Uses OpenCV, which only those who trace load."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.blank.photo import largest, mapped
from gatepost.core.errors import OperatorError
from gatepost.core.picture import MOST_PIXELS, told_size

Array = NDArray[np.float64]
MOST_BYTES = 60 * 1024 * 1024
WORKED = 2400  # px of the longer side that is looked at; a larger photo is taken smaller
FRAME = 0.04  # of a photo's sides, along its rim, that show what the board lies on
SHADOW = 3.0  # times less that lightness counts than colour: a shadow is darker and of the same colour
SQUARED = 1400  # px of the longer side of a squared-up picture
CORNERS = 400  # of a traced outline
LEAST_SHARE = 0.01  # of the photo that a board covers


@dataclass(frozen=True)
class Traced:
    """A photo that was looked at. size: px; outline: (n, 2), px of the photo as it was taken; unsure: px by which the edge comes out elsewhere
    where board and ground are parted a little lower or higher, and at which place;
    coloured: whether the board has a colour of its own, by which a shadow is told from it."""

    size: tuple[int, int]
    outline: Array
    unsure: float = 0.0
    at: tuple[float, float] = (0.0, 0.0)
    coloured: bool = True


def decoded(data: bytes, name: str) -> NDArray[np.uint8]:
    """The photo's pixels, (rows, columns, 3), turned as the camera says. Raises OperatorError."""
    import cv2

    if len(data) > MOST_BYTES:
        raise OperatorError(f"{name} is over {MOST_BYTES // 2**20} MB: too large a photo. Save it smaller.")
    size = told_size(data)
    if size is None:
        raise OperatorError(f"{name} can't be read: it is not a PNG or JPEG picture.")
    if size[0] * size[1] > MOST_PIXELS:
        raise OperatorError(f"{name} is {size[0]} × {size[1]} px: too large a photo. Save it smaller.")
    try:
        image = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)
    except cv2.error as error:
        raise OperatorError(f"{name} can't be read as a picture ({error.err or 'it is damaged'}).") from None
    if image is None or min(image.shape[:2]) < 50:
        raise OperatorError(f"{name} can't be read as a picture, or it is smaller than 50 px.")
    return np.asarray(image, np.uint8)


def traced(data: bytes, name: str, sensitivity: float = 0.0) -> Traced:
    """The outline of the largest thing that does not look like what is seen along the photo's rim.

    Each pixel's distance in colour from the rim's, parted where Otsu (1979) parts it; specks and threads taken away; the
    edge found between pixels half-way between what is within it and what is beyond it. sensitivity: -1 to 1, how much sooner something
    counts as the board. The same edge is looked for with the parting a quarter lower and a third higher: a shadow, or a board that hardly
    stands out, comes out elsewhere then. Raises OperatorError.
    """
    import cv2

    whole = decoded(data, name)
    rows, columns = whole.shape[:2]
    scale = min(1.0, WORKED / max(rows, columns))
    image = cv2.resize(whole, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1.0 else whole
    away = _unlike_rim(np.asarray(image, np.uint8))
    parting = _otsu(away) * 2.0 ** (-sensitivity)
    reach = max(3, round(max(image.shape[:2]) / 400) | 1)
    best = _parted(away, parting, reach)
    if best is None:
        raise OperatorError(
            f"No board stands out from what it lies on in {name}. A plain sheet under it, in another colour, helps; or draw the outline by hand."
        )
    hue = _other_hue(np.asarray(image, np.uint8))
    by_hue = _parted(hue, _otsu(hue), reach) if hue is not None else None
    others = [_parted(away, parting * times, reach) for times in (LOWER, HIGHER)]
    if hue is not None and by_hue is not None:  # a second witness, which no shadow moves
        agree = _apart(best, by_hue, 0.0)[0] <= 3.0 * reach
        shadow = not agree and _shadowed(best, by_hue, np.asarray(image, np.uint8))
        if shadow:
            best, away = by_hue, hue
        if agree or shadow:
            others = [_parted(hue, _otsu(hue) * times, reach) for times in (LOWER, HIGHER)]
        else:
            others.append(by_hue)
    line = _between(best, away, reach)
    unsure, at = 0.0, (0.0, 0.0)
    for other in others:
        far, place = _apart(best, other, max(image.shape[:2]))
        if far > unsure:
            unsure, at = far, place
    unsure = max(0.0, unsure - 2.0 * reach)  # smoothing and the specks taken away move it by as much
    return Traced(
        (columns, rows),
        largest((line + 0.5) / scale - 0.5),
        unsure / scale,
        (at[0] / scale, at[1] / scale),
        by_hue is not None,
    )


LOWER, HIGHER = 0.75, 1.33  # times the parting
COLOURED = (
    6.0  # times its own noise that a board's colour must stand out from the ground's, whatever light falls on both
)


def _otsu(away: Array) -> float:
    """Where Otsu parts two kinds of pixels."""
    import cv2

    return float(cv2.threshold(np.asarray(away, np.uint8), 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)[0])


def _other_hue(image: NDArray[np.uint8]) -> Array | None:
    """How unlike the rim each pixel is in colour alone, 0 to 255: red and green as shares of all light, which a shadow leaves as they are.
    Nothing where no colour stands out."""
    import cv2

    soft = cv2.GaussianBlur(image, (0, 0), 2.0).astype(np.float32) + 2.0
    shares = soft[..., 1:] / soft.sum(axis=2, keepdims=True)
    rim = _rim(shares)
    middle = np.median(rim, axis=0)
    spread = np.maximum(1.4826 * np.median(np.abs(rim - middle), axis=0), 1e-3)
    away = np.sqrt((((shares - middle) / spread) ** 2).sum(axis=2))
    top = float(np.quantile(away, 0.98))
    if top < COLOURED:
        return None
    return np.asarray(np.clip(away * (255.0 / top), 0, 255), np.float64)


def _shadowed(whole: Array, coloured: Array, image: NDArray[np.uint8]) -> bool:
    """Whether what is traced beyond a colour of its own is darker than the rim: a shadow, and not more board. Both contours: px."""
    import cv2

    masks = []
    for line in (whole, coloured):
        mask = np.zeros(image.shape[:2], np.uint8)
        cv2.fillPoly(mask, [np.rint(line).astype(np.int32)], 255)
        masks.append(mask > 0)
    more = masks[0] & ~masks[1]
    if more.sum() < 0.002 * masks[0].sum() or masks[1].sum() < 0.4 * masks[0].sum():
        return False
    light = image.astype(np.float32).sum(axis=2)
    return float(np.median(light[more])) < 0.9 * float(np.median(_rim(light[..., None])))


def _parted(away: Array, parting: float, reach: int) -> Array | None:
    """The contour of the largest thing over a parting, (n, 2) px; nothing where there is none worth it."""
    import cv2

    mask: NDArray[np.uint8] = np.asarray(away > parting, np.uint8) * np.uint8(255)
    ball = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach))
    clean = cv2.morphologyEx(cv2.morphologyEx(mask, cv2.MORPH_OPEN, ball), cv2.MORPH_CLOSE, ball)
    found, _ = cv2.findContours(clean, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    best = max(found, key=cv2.contourArea, default=None)
    if best is None or cv2.contourArea(best) < LEAST_SHARE * mask.size:
        return None
    return np.asarray(best, np.float64).reshape(-1, 2)


def _apart(one: Array, other: Array | None, most: float) -> tuple[float, tuple[float, float]]:
    """How far two contours lie apart at the most, px, and where; most where the other is none."""
    from scipy.spatial import cKDTree

    if other is None:
        return most, (float(one[0, 0]), float(one[0, 1]))
    out = 0.0, (0.0, 0.0)
    for a, b in ((one, other), (other, one)):
        away = np.asarray(cKDTree(b).query(a)[0], np.float64)
        n = int(np.argmax(away))
        if away[n] > out[0]:
            out = float(away[n]), (float(a[n, 0]), float(a[n, 1]))
    return out


def clicked(data: bytes, name: str, corners: tuple[tuple[float, float], ...]) -> Traced:
    """An outline that was clicked by hand. corners: px. Raises OperatorError."""
    image = decoded(data, name)
    if len(corners) < 3:
        raise OperatorError("Click three corners of the edge at least, one after another round the board.")
    return Traced((image.shape[1], image.shape[0]), largest(np.asarray(corners, np.float64)))


def _unlike_rim(image: NDArray[np.uint8]) -> Array:
    """How unlike the rim each pixel is, 0 to 255, lightly smoothed."""
    import cv2

    lab = cv2.cvtColor(cv2.GaussianBlur(image, (0, 0), 1.0), cv2.COLOR_BGR2LAB).astype(np.float32)
    rim = _rim(lab)
    middle = np.median(rim, axis=0)
    spread = np.maximum(1.4826 * np.median(np.abs(rim - middle), axis=0), 2.0) * np.array([SHADOW, 1.0, 1.0])
    away = np.sqrt((((lab - middle) / spread) ** 2).sum(axis=2))
    top = float(np.quantile(away, 0.995))
    return np.asarray(np.clip(away * (255.0 / max(top, 1e-6)), 0, 255), np.float64)


def _rim(values: NDArray[np.float32]) -> NDArray[np.float32]:
    """What is seen along a photo's rim, (n, channels)."""
    rows, columns, channels = values.shape
    deep = max(4, round(FRAME * min(rows, columns)))
    parts = (values[:deep], values[-deep:], values[:, :deep], values[:, -deep:])
    return np.vstack([p.reshape(-1, channels) for p in parts])


def _between(line: Array, away: Array, reach: int) -> Array:
    """An outline moved to half-way between what lies within it and what lies beyond, along its own normal, and smoothed.

    reach: px that the outline may be off, from closing and opening."""
    smooth = _round(line, 3)
    along = np.roll(smooth, -3, axis=0) - np.roll(smooth, 3, axis=0)
    normal = np.column_stack([along[:, 1], -along[:, 0]]) / np.maximum(np.linalg.norm(along, axis=1), 1e-9)[:, None]
    if float(np.dot(smooth[:, 0], np.roll(smooth[:, 1], -1)) - np.dot(smooth[:, 1], np.roll(smooth[:, 0], -1))) < 0:
        normal = -normal  # outwards
    far = float(reach) + 3.0
    steps = np.linspace(-far, far, 8 * int(far) + 1)
    values = _sampled(away, smooth[:, None] + steps[None, :, None] * normal[:, None])
    within, beyond = np.median(values[:, : int(far)], axis=1), np.median(values[:, -int(far) :], axis=1)
    values = values - 0.5 * (within + beyond)[:, None]
    cross = (values[:, :-1] > 0) & (values[:, 1:] <= 0)
    pick = np.argmin(np.where(cross, np.abs(steps[:-1])[None], np.inf), axis=1)
    rows = np.arange(len(line))
    a, b = values[rows, pick], values[rows, pick + 1]
    share = a / np.where(a - b > 1e-9, a - b, 1.0)
    good = cross.any(axis=1) & (within - beyond > 4.0)
    move = np.where(good, steps[pick] + share * (steps[1] - steps[0]), 0.0)
    return _round(smooth + move[:, None] * normal, 2)


def _round(line: Array, times: int) -> Array:
    for _ in range(times):
        line = 0.25 * np.roll(line, 1, axis=0) + 0.5 * line + 0.25 * np.roll(line, -1, axis=0)
    return line


def _sampled(values: Array, spots: Array) -> Array:
    """Values between pixels, bilinear."""
    x = np.clip(spots[..., 0], 0, values.shape[1] - 1.001)
    y = np.clip(spots[..., 1], 0, values.shape[0] - 1.001)
    i, j = x.astype(int), y.astype(int)
    s, t = x - i, y - j
    top = values[j, i] * (1 - s) + values[j, i + 1] * s
    low = values[j + 1, i] * (1 - s) + values[j + 1, i + 1] * s
    return np.asarray(top * (1 - t) + low * t)


@dataclass(frozen=True)
class Squared:
    """A squared-up picture as a JPEG file, and its box in the outline's mm: x0, y0, x1, y1."""

    data: bytes
    box: tuple[float, float, float, float]


def squared(data: bytes, name: str, matrix: Array, outline: Array, about: float = 0.06) -> Squared:
    """The photo as it would be seen from straight above at the edge's height, the board and a share about it."""
    import cv2

    image = decoded(data, name)
    low, high = outline.min(axis=0), outline.max(axis=0)
    edge = about * float((high - low).max())
    corners = mapped(
        matrix, np.array([[0, 0], [image.shape[1], 0], [image.shape[1], image.shape[0]], [0, image.shape[0]]], float)
    )
    x0, y0 = np.maximum(low - edge, corners.min(axis=0)) if np.isfinite(corners).all() else low - edge
    x1, y1 = np.minimum(high + edge, corners.max(axis=0)) if np.isfinite(corners).all() else high + edge
    per = SQUARED / max(x1 - x0, y1 - y0)
    wide, tall = max(1, math.ceil((x1 - x0) * per)), max(1, math.ceil((y1 - y0) * per))
    place = np.array([[per, 0.0, -x0 * per], [0.0, -per, y1 * per], [0.0, 0.0, 1.0]])
    flat = cv2.warpPerspective(image, place @ matrix, (wide, tall), flags=cv2.INTER_AREA, borderValue=(200, 200, 200))
    good, coded = cv2.imencode(".jpg", flat, [int(cv2.IMWRITE_JPEG_QUALITY), 82])
    if not good:
        raise OperatorError(f"{name} could not be squared up.")
    return Squared(coded.tobytes(), (float(x0), float(y1 - tall / per), float(x0 + wide / per), float(y1)))
