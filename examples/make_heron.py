# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes the height picture of the heron panel: a heron among reeds, out of rounded limbs, as 16-bit grey."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np

HERE = Path(__file__).parent
ROWS, COLUMNS = 1000, 760  # a fifth of a mm each on a panel 152 by 200
Array = np.ndarray

# limbs: along a line of places (x, y of the picture, 0 to 1 across its width), how thick there, how high
NECK = ((0.50, 0.66), (0.42, 0.58), (0.40, 0.49), (0.47, 0.41), (0.55, 0.34), (0.55, 0.26), (0.47, 0.215))
BODY = ((0.48, 0.70), (0.56, 0.76), (0.66, 0.84), (0.74, 0.92))
WING = ((0.52, 0.71), (0.62, 0.79), (0.74, 0.90), (0.84, 1.00))
TAIL = ((0.74, 0.92), (0.82, 1.00), (0.86, 1.05))
LEGS = (
    ((0.57, 0.88), (0.55, 1.00), (0.57, 1.14), (0.56, 1.22)),
    ((0.65, 0.90), (0.66, 1.02), (0.63, 1.12), (0.64, 1.22)),
)
REEDS = (
    ((0.10, 1.30), (0.12, 0.90), (0.09, 0.45)), ((0.17, 1.30), (0.18, 0.98), (0.23, 0.62)), ((0.90, 1.30), (0.89, 0.85), (0.93, 0.38)),
    ((0.83, 1.30), (0.80, 1.05), (0.76, 0.62)), ((0.26, 1.30), (0.25, 1.10), (0.29, 0.88)),
)  # fmt: skip


def smooth(places: tuple[tuple[float, float], ...], count: int = 240) -> Array:
    """Places along a soft curve through some (Catmull-Rom)."""
    p = np.array([places[0], *places, places[-1]], float)
    out = []
    for a, b, c, d in zip(p, p[1:], p[2:], p[3:]):
        t = np.linspace(0.0, 1.0, count)[:, None]
        out.append(0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3))
    return np.vstack(out)


def limb(into: Array, places: tuple[tuple[float, float], ...], thick: tuple[float, ...], high: float) -> None:
    """A rounded limb laid over what is there. thick: half its width at even steps along it, of the picture's width."""
    line = smooth(places) * COLUMNS
    radius = np.interp(np.linspace(0, 1, len(line)), np.linspace(0, 1, len(thick)), thick) * COLUMNS
    y, x = np.mgrid[0:ROWS, 0:COLUMNS].astype(np.float32)
    best = np.zeros((ROWS, COLUMNS), np.float32)
    for (cx, cy), r in zip(line[::3], radius[::3]):
        x0, x1 = max(0, int(cx - r) - 1), min(COLUMNS, int(cx + r) + 2)
        y0, y1 = max(0, int(cy - r) - 1), min(ROWS, int(cy + r) + 2)
        if x0 >= x1 or y0 >= y1:
            continue
        part = slice(y0, y1), slice(x0, x1)
        far = ((x[part] - cx) ** 2 + (y[part] - cy) ** 2) / (r * r)
        best[part] = np.maximum(best[part], np.cos(np.pi / 2.0 * np.minimum(np.sqrt(far), 1.0)))
    np.maximum(into, high * best, out=into)


def heights() -> Array:
    """The heron, 0 the ground to 1 the highest feather."""
    out = np.zeros((ROWS, COLUMNS), np.float32)
    for reed in REEDS:
        limb(out, reed, (0.012, 0.012, 0.004), 0.30)
    for leg in LEGS:
        limb(out, leg, (0.022, 0.012, 0.014, 0.011), 0.45)
    limb(out, TAIL, (0.075, 0.05, 0.012), 0.62)
    limb(out, BODY, (0.10, 0.135, 0.12, 0.06), 0.86)
    limb(out, WING, (0.075, 0.10, 0.07, 0.012), 1.0)
    limb(out, NECK, (0.085, 0.060, 0.048, 0.046, 0.046, 0.044, 0.052), 0.90)
    limb(out, ((0.47, 0.215), (0.43, 0.205), (0.39, 0.208)), (0.055, 0.05, 0.03), 0.92)
    limb(out, ((0.40, 0.208), (0.28, 0.232), (0.16, 0.262)), (0.026, 0.018, 0.003), 0.62)
    limb(out, ((0.47, 0.185), (0.55, 0.175), (0.63, 0.215)), (0.016, 0.012, 0.003), 0.98)
    y, x = np.mgrid[0:ROWS, 0:COLUMNS] / COLUMNS
    wing = np.zeros_like(out)
    limb(wing, WING, (0.075, 0.10, 0.07, 0.012), 1.0)
    along = 0.62 * x + 0.78 * y
    out -= (0.05 * (0.5 + 0.5 * np.cos(2 * np.pi * along / 0.042)) * np.minimum(1.0, 3.0 * wing)).astype(np.float32)
    eye = np.hypot(x - 0.425, y - 0.198)
    out -= (0.16 * np.exp(-((eye / 0.008) ** 2))).astype(np.float32)
    water = (
        0.055
        * (0.5 + 0.5 * np.cos(2 * np.pi * (y - 1.2 + 0.02 * np.sin(9 * x)) / 0.035))
        * np.clip((y - 1.18) / 0.04, 0, 1)
    )
    out = np.maximum(out, water.astype(np.float32))
    return cv2.GaussianBlur(np.clip(out, 0.0, 1.0), (0, 0), 1.6)


def main() -> None:
    """Write it."""
    levels = np.round(1 + heights() * 65534).astype(np.uint16)
    cv2.imwrite(str(HERE / "heron.png"), levels)


if __name__ == "__main__":
    main()
