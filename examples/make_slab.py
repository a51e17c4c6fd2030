# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes the Lock 7 slab: a waney elm board with its photo and the heights of both faces, all reckoned, nothing copied.

The photo is seen by a pinhole camera over the bench: every pixel's ray is followed to the board's top, its bark edge or
the sheet that it lies on. Run by make examples when the files are wanted anew.
"""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
import shapely
from scipy import ndimage

HERE = Path(__file__).parents[1] / "src" / "gatepost" / "assets" / "examples"
LENGTH, WIDTH, THICK = 912.0, 318.0, 33.8
SHEET = (1000.0, 420.0)  # the rectangle whose corners are marked, mm; the board lies 50 in from its front left corner
INSET = 50.0
LENS = np.array([500.0, 226.0, 1480.0])  # on the sheet's own coordinates
LOOK = np.array([486.0, 205.0, 0.0])
SIZE, FOCAL = (1800, 1020), 2350.0
KNOT, CRACK = (846.0, 262.0), ((4.0, 171.0), (58.0, 158.0))


def outline() -> np.ndarray:
    """Corners of the board, anticlockwise from its front left, mm."""
    rng = np.random.default_rng(7)
    x = np.linspace(0.0, LENGTH, 229)

    def edge() -> np.ndarray:
        waves = [(5.2, 1.3), (3.1, 2.7), (1.6, 5.4), (0.6, 11.0)]
        return sum(a * np.sin(2 * np.pi * (f * x / LENGTH + rng.uniform(0, 1))) for a, f in waves)

    low, high = edge(), edge()
    low, high = low - low.min(), WIDTH + high - high.max()
    return np.vstack([np.column_stack([x, low]), np.column_stack([x, high])[::-1]])


def top(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Height of the top over the bed: cupped across, a little twisted, one corner up."""
    u, v = x / LENGTH - 0.5, y / WIDTH - 0.5
    return 33.62 + 4.4 * v**2 + 0.55 * u * v + 0.35 * u**2 + 0.08 * np.sin(7 * u + 3 * v) + 0.0 * x


def under(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Gap under the board: the cup's belly stands on the bed, the edges stand up."""
    u, v = x / LENGTH - 0.5, y / WIDTH - 0.5
    gap = 3.0 * v**2 + 0.5 * u * v + 0.25 * (u - 0.1) ** 2
    return gap - 0.0 * x


def grid() -> tuple[np.ndarray, np.ndarray]:
    """Where heights are read: a grid that keeps to the wood."""
    x, y = np.meshgrid(np.linspace(22, LENGTH - 22, 9), np.linspace(20, WIDTH - 20, 5))
    inside = shapely.contains_xy(shapely.Polygon(outline()).buffer(-8.0), x, y)
    return x[inside], y[inside]


def grain(x: np.ndarray, y: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Colour of the wood at places of its top, BGR."""
    bend = y - 150.0 + 16.0 * np.sin(x / 170.0 + 0.6) + 7.0 * np.sin(x / 61.0)
    near = np.hypot((x - KNOT[0]) / 1.5, y - KNOT[1])
    bend = bend + 26.0 * np.exp(-((near / 26.0) ** 2)) * np.sign(y - KNOT[1])
    rings = 0.5 + 0.5 * np.sin(np.abs(bend) ** 0.86 / 2.3 + 0.004 * x)
    fine = ndimage.gaussian_filter(rng.normal(0, 1, x.shape), (0.6, 7.0))
    shade = 0.62 * rings + 0.9 * fine
    light, dark = np.array([116.0, 160.0, 196.0]), np.array([74.0, 108.0, 146.0])
    colour = light + (dark - light) * np.clip(shade, 0, 1.1)[..., None]
    knot = np.clip(1.6 - near / 9.0, 0, 1)[..., None]
    colour = colour * (1 - knot) + np.array([34.0, 50.0, 78.0]) * knot
    (x0, y0), (x1, y1) = CRACK
    t = np.clip(((x - x0) * (x1 - x0) + (y - y0) * (y1 - y0)) / ((x1 - x0) ** 2 + (y1 - y0) ** 2), 0, 1)
    off = np.hypot(x - x0 - t * (x1 - x0), y - y0 - t * (y1 - y0) + 2.0 * np.sin(x / 6.0))
    crack = np.clip(1.4 - off / (1.6 * (1.05 - t)), 0, 1)[..., None]
    return colour * (1 - crack) + np.array([22.0, 28.0, 34.0]) * crack


def photo() -> tuple[bytes, np.ndarray]:
    """The photo as a JPEG file, and the sheet's corners in it, px."""
    rng = np.random.default_rng(70)
    forward = (LOOK - LENS) / np.linalg.norm(LOOK - LENS)
    right = np.cross(forward, [0.0, 1.0, 0.0])
    right /= np.linalg.norm(right)
    down = np.cross(forward, right)

    def see(p: np.ndarray) -> np.ndarray:
        there = p - LENS
        depth = there @ forward
        return np.column_stack(
            [SIZE[0] / 2 + FOCAL * (there @ right) / depth, SIZE[1] / 2 + FOCAL * (there @ down) / depth]
        )

    corners = np.array([[0, 0, 0], [SHEET[0], 0, 0], [SHEET[0], SHEET[1], 0], [0, SHEET[1], 0]], float)
    fine = 2  # rays each way of a pixel
    u, v = np.meshgrid((np.arange(SIZE[0] * fine) + 0.5) / fine - 0.5, (np.arange(SIZE[1] * fine) + 0.5) / fine - 0.5)
    ray = forward + ((u - SIZE[0] / 2) / FOCAL)[..., None] * right + ((v - SIZE[1] / 2) / FOCAL)[..., None] * down

    def at(z: float) -> np.ndarray:
        return LENS + ray * ((z - LENS[2]) / ray[..., 2])[..., None]

    board = shapely.Polygon(outline() + INSET)
    shapely.prepare(board)
    sheet, upper = at(0.0), at(THICK)
    image = np.full((*u.shape, 3), 0.0)
    image[:] = np.array([188.0, 186.0, 178.0])
    image += ndimage.gaussian_filter(rng.normal(0, 60, u.shape), 18.0)[..., None]
    shade = ndimage.gaussian_filter(shapely.contains_xy(board, sheet[..., 0] - 9, sheet[..., 1] + 7).astype(float), 8.0)
    image *= 1.0 - 0.22 * shade[..., None]
    for x, y, _ in corners:  # a cross at each corner of the sheet
        dx, dy = np.abs(sheet[..., 0] - x), np.abs(sheet[..., 1] - y)
        image[((dx < 0.7) & (dy < 14)) | ((dy < 0.7) & (dx < 14))] = 40.0
    foot = shapely.contains_xy(board.buffer(0.8), sheet[..., 0], sheet[..., 1])
    image[foot] = np.array([40.0, 52.0, 66.0]) + rng.normal(0, 9, (int(foot.sum()), 1))
    face = shapely.contains_xy(board, upper[..., 0], upper[..., 1])
    image[face] = grain(upper[..., 0] - INSET, upper[..., 1] - INSET, rng)[face]
    image = image.reshape(SIZE[1], fine, SIZE[0], fine, 3).mean(axis=(1, 3)) + rng.normal(0, 2.2, (SIZE[1], SIZE[0], 1))
    coded = cv2.imencode(".jpg", np.clip(image, 0, 255).astype(np.uint8), [int(cv2.IMWRITE_JPEG_QUALITY), 86])[1]
    return coded.tobytes(), see(corners)


def marks() -> list[tuple[float, float]]:
    """The sheet's corners in the photo as a careful hand picks them, px."""
    forward = (LOOK - LENS) / np.linalg.norm(LOOK - LENS)
    right = np.cross(forward, [0.0, 1.0, 0.0])
    right /= np.linalg.norm(right)
    there = np.array([[0, 0, 0], [SHEET[0], 0, 0], [SHEET[0], SHEET[1], 0], [0, SHEET[1], 0]], float) - LENS
    depth = there @ forward
    seen = (
        np.column_stack([there @ right, there @ np.cross(forward, right)]) * FOCAL / depth[:, None] + np.array(SIZE) / 2
    )
    return [(round(float(a) * 2) / 2, round(float(b) * 2) / 2) for a, b in seen]


def heights() -> tuple[list[list[float]], list[list[float]]]:
    """Readings of the top and of the gap under it, to a tenth of a millimetre and a hundredth."""
    x, y = grid()
    tops = [[round(float(a), 1), round(float(b), 1), round(float(z), 2)] for a, b, z in zip(x, y, top(x, y))]
    low = float(under(x, y).min())
    gaps = [[round(float(a), 1), round(float(b), 1), round(float(z) - low, 2)] for a, b, z in zip(x, y, under(x, y))]
    return tops, gaps


def main() -> None:
    """Write photo and tables."""
    (HERE / "lock-7-slab.jpg").write_bytes(photo()[0])
    for name, rows in zip(("top", "under"), heights()):
        text = "x,y,z\n" + "".join(f"{x:g},{y:g},{z:g}\n" for x, y, z in rows)
        (HERE / f"lock-7-{name}.csv").write_text(text)


if __name__ == "__main__":
    main()
