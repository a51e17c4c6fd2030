# SPDX-License-Identifier: GPL-3.0-or-later
"""A game pad as the keypad in the hand: the kernel's joystick interface (linux/joystick.h: eight bytes an event), and when it may move anything.

It moves only while its second button is held; not where its sticks were off their middle when it was plugged in, until each has been
in the middle once; and not once it is unplugged or has not been heard for STALE.
"""

from __future__ import annotations

import contextlib
import os
import struct
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

from gatepost.machine.jogging import DOWN, PACES, STALE, Speeds

EVENT = struct.Struct("<IhBB")  # ms, value, kind, number
BUTTON, AXIS, FIRST = 0x01, 0x02, 0x80  # FIRST: how it stood when it was opened
FULL = 32767.0
MIDDLE = 0.18  # of full, within which a stick counts as let go
HELD, FINE = 4, 5  # buttons at the shoulders: held to move, and beside it fine
AXES = {0: 0, 1: 1, 4: 2, 6: 0, 7: 1}  # its axes: first stick and cross to X and Y, second stick up and down to Z
TURNED = (1, 4, 7)  # axes whose positive way is towards the hand, or down


@dataclass
class PadState:
    """What a pad says. Times in s."""

    axes: dict[int, float] = field(default_factory=dict)
    buttons: set[int] = field(default_factory=set)
    off_middle: set[int] = field(default_factory=set)  # that have not been in their middle yet
    heard: float | None = None
    part: bytes = b""  # of an event whose rest has not come

    def take(self, data: bytes, now: float) -> None:
        """Bytes that came, or none: it was asked and is there."""
        self.heard, data = now, self.part + data
        whole = len(data) // EVENT.size * EVENT.size
        self.part = data[whole:]
        for _, value, kind, number in EVENT.iter_unpack(data[:whole]):
            first, kind = bool(kind & FIRST), kind & ~FIRST
            if kind == BUTTON:
                (self.buttons.add if value and not first else self.buttons.discard)(number)
            elif kind == AXIS and number in AXES:
                share = max(-1.0, min(1.0, value / FULL))
                if abs(share) <= MIDDLE:
                    self.off_middle.discard(number)
                elif first:
                    self.off_middle.add(number)
                self.axes[number] = share

    def gone(self) -> None:
        """It was unplugged: whatever it said before counts no longer."""
        self.axes, self.buttons, self.off_middle, self.heard = {}, set(), set(), None
        self.part = b""

    @property
    def plugged_in(self) -> bool:
        """Whether there is one."""
        return self.heard is not None

    def speeds(self, now: float) -> Speeds | None:
        """mm/min along X, Y and Z; nothing where it may not move, or asks for nothing."""
        if self.heard is None or now - self.heard > STALE or HELD not in self.buttons or self.off_middle:
            return None
        out = [0.0, 0.0, 0.0]
        for number, axis in AXES.items():
            share = self.axes.get(number, 0.0)
            if abs(share) > MIDDLE:
                beyond = (abs(share) - MIDDLE) / (1.0 - MIDDLE)
                out[axis] += beyond * beyond * (1.0 if share > 0.0 else -1.0) * (-1.0 if number in TURNED else 1.0)
        fast = PACES["slow" if FINE in self.buttons else "quick"]
        x, y, z = (max(-1.0, min(1.0, v)) * fast for v in out)
        return (x, y, z * DOWN) if x or y or z else None


class Pad:
    """One pad, looked at again and again. folder: where the kernel has its joysticks."""

    def __init__(self, folder: Path = Path("/dev/input")) -> None:
        self.state = PadState()
        self._folder, self._fd = folder, -1

    def look(self, now: float) -> None:
        """Take what it said since, or find one that was plugged in. Never waits."""
        if self._fd < 0:
            self._find()
        if self._fd < 0:
            return
        try:
            self.state.take(b"".join(self._events()), now)
        except OSError:
            self.close()

    def _events(self) -> Iterator[bytes]:
        while True:
            try:
                data = os.read(self._fd, EVENT.size * 64)
            except BlockingIOError:
                return
            if not data:
                raise OSError("it is gone")
            yield data

    def _find(self) -> None:
        for path in sorted(self._folder.glob("js[0-9]*")):
            with contextlib.suppress(OSError):
                self._fd = os.open(path, os.O_RDONLY | os.O_NONBLOCK)
                return

    def close(self) -> None:
        """Let go of it: nothing that it said counts any more."""
        self.state.gone()
        if self._fd >= 0:
            with contextlib.suppress(OSError):
                os.close(self._fd)
            self._fd = -1
