# SPDX-License-Identifier: GPL-3.0-or-later
"""What the head of a picture says, before anything of it is unpacked, and what it holds."""

from __future__ import annotations

from typing import Any

import numpy as np

from gatepost.core.errors import OperatorError

MOST_PIXELS = 120_000_000


def told_size(data: bytes) -> tuple[int, int] | None:
    """Width and height, px, as the head of a PNG or JPEG says; nothing where it is neither."""
    if data[:8] == b"\x89PNG\r\n\x1a\n" and len(data) >= 24:
        return int.from_bytes(data[16:20], "big"), int.from_bytes(data[20:24], "big")
    at = 2
    while data[:2] == b"\xff\xd8" and at + 9 < len(data) and data[at] == 0xFF:
        if data[at + 1] == 0xFF:  # filling
            at += 1
            continue
        if 0xC0 <= data[at + 1] <= 0xCF and data[at + 1] not in (0xC4, 0xC8, 0xCC):
            return int.from_bytes(data[at + 7 : at + 9], "big"), int.from_bytes(data[at + 5 : at + 7], "big")
        at += 2 + int.from_bytes(data[at + 2 : at + 4], "big")
    return None


def picture_is_sound(data: bytes) -> bool:
    """Whether it is a PNG or JPEG no larger than is worked with."""
    size = told_size(data)
    return size is not None and 0 < size[0] * size[1] <= MOST_PIXELS


def sixteen_bit(data: bytes) -> bool:
    """Whether it is a PNG of 16 bit, which is kept for heights."""
    return data[:8] == b"\x89PNG\r\n\x1a\n" and len(data) > 24 and data[24] == 16


def unpacked_picture(data: bytes, name: str) -> Any:
    """Its pixels as they are, rows from the top, blue first. Raises OperatorError."""
    import cv2

    if not picture_is_sound(data):
        raise OperatorError(f"{name} is not a PNG or JPEG picture of a size that can be.")
    try:
        raw: Any = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    except cv2.error:
        raw = None
    if raw is None:
        raise OperatorError(f"{name} can't be read as a picture.")
    return raw
