# SPDX-License-Identifier: GPL-3.0-or-later
"""Photos rendered from known slabs and cameras, by a pinhole of their own: a second witness for what is read from photos."""

from dataclasses import dataclass

import cv2
import numpy as np


@dataclass(frozen=True)
class Camera:
    """at: the lens, mm; look: the place on the bed that the photo's middle shows; roll: degrees; focal: px."""

    at: tuple
    look: tuple
    roll: float = 0.0
    focal: float = 2200.0
    size: tuple = (1800, 1350)

    def see(self, points):
        """px of places (n, 3), mm."""
        forward = np.array([*self.look, 0.0]) - np.array(self.at)
        forward /= np.linalg.norm(forward)
        turn = np.radians(self.roll)
        right = np.cross(forward, [-np.sin(turn), np.cos(turn), 0.0])
        right /= np.linalg.norm(right)
        down = np.cross(forward, right)
        there = np.asarray(points, float) - np.array(self.at)
        depth = there @ forward
        return np.column_stack(
            [
                self.size[0] / 2 + self.focal * (there @ right) / depth,
                self.size[1] / 2 + self.focal * (there @ down) / depth,
            ]
        )


def waney(seed=1, length=900.0, width=320.0, corners=160):
    """A slab's outline with live edges, anticlockwise from its lower left."""
    rng = np.random.default_rng(seed)
    t = np.linspace(0, 1, corners // 2)

    def edge():
        return sum(
            rng.normal(0, 14 / (k + 1)) * np.sin(2 * np.pi * (k + 0.5) * t + rng.uniform(0, 6)) for k in range(7)
        )

    x = t * length
    return np.vstack([np.column_stack([x, edge()]), np.column_stack([x, width + edge()])[::-1]])


FINE = 4  # times finer than the photo, so that half-covered pixels come out half


def fill(mask, points):
    """Fill a polygon of px; a pixel's middle is a whole number."""
    at = np.round(((points + 0.5) * FINE - 0.5) * 2**8).astype(np.int32)
    cv2.fillPoly(mask, [at], 255, cv2.LINE_8, 8)


def render(outline, thick, camera, seed=1, noise=4.0):
    """A JPEG of a slab with upright sides on a sheet."""
    rng = np.random.default_rng(seed)
    wide, tall = camera.size
    flat = np.column_stack([outline, np.zeros(len(outline))])
    low, high = camera.see(flat), camera.see(flat + [0, 0, thick])
    sides, top = (np.zeros((FINE * tall, FINE * wide), np.uint8) for _ in range(2))
    for i in range(len(outline)):
        j = (i + 1) % len(outline)
        fill(sides, np.array([low[i], low[j], high[j], high[i]]))
    fill(top, high)
    sides, top = (
        cv2.resize(m, (wide, tall), interpolation=cv2.INTER_AREA)[..., None] / np.float32(255) for m in (sides, top)
    )
    image = np.full((tall, wide, 3), (176, 184, 178), np.float32)
    image = image * (1 - sides) + np.array((48, 74, 104), np.float32) * sides
    image = image * (1 - top) + np.array((70, 104, 150), np.float32) * top
    image += rng.normal(0, noise, (tall, wide, 1)).astype(np.float32)
    grain = rng.normal(0, noise, (tall, 1, 1)).astype(np.float32)
    image = np.clip(image + grain, 0, 255).astype(np.uint8)
    return cv2.imencode(".jpg", image, [int(cv2.IMWRITE_JPEG_QUALITY), 92])[1].tobytes()
