# SPDX-License-Identifier: GPL-3.0-or-later
"""RS-274 programs read into moves.

``read`` runs a compiled scanner over the bytes and hands every line that is out of the usual to the plain reader
(``plain.py``), which alone says what such a line means.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from gatepost.core.errors import Cancelled
from gatepost.core.program import plain, scanner
from gatepost.core.program.plain import (
    ARC_TOLERANCE,
    LARGEST,
    LARGEST_ARC,
    LINE_END,
    LONGEST_LINE,
    SAME_PLACE,
    Home,
    Program,
    ReadingState,
    after_end,
    plain_line,
    program_of,
)  # fmt: skip

AT_ONCE = 100_000  # lines between two looks at whether to go on


class _Scan:
    """The scanner's columns and state, and their way to the plain reader's and back."""

    def __init__(self, data: bytes, home: Home) -> None:
        self.raw = data
        self.data = np.frombuffer(data, np.uint8)
        room = data.count(b"\n") + data.count(b"\r") + 64
        self.points = np.empty((room + 1, 3))
        self.points[0] = home
        self.rapid = np.empty(room, np.bool_)
        self.feeds, self.lines = np.empty(room), np.empty(room, np.int64)
        self.said = np.empty((4096, 2), np.int64)
        self.reals = np.array([*home, 1.0, 0.0, 0.0])
        self.whole = np.array([0, 1, -1, 1, 0, 0, 0, 0, 0], np.int64)

    def go_on(self) -> int:
        """Scan on until something is wanted of the caller."""
        return int(
            scanner.scan(
                self.data, self.reals, self.whole, self.points, self.rapid, self.feeds, self.lines, self.said,
                LONGEST_LINE, LARGEST, ARC_TOLERANCE, AT_ONCE, SAME_PLACE, LARGEST_ARC, plain.MOST_PIECES,
            )
        )  # fmt: skip

    def make_room(self, more: int = 0) -> None:
        """Twice as many moves."""
        room = len(self.rapid) + more + 4096
        self.points = np.concatenate([self.points, np.empty((room, 3))])
        self.rapid = np.concatenate([self.rapid, np.empty(room, np.bool_)])
        self.feeds = np.concatenate([self.feeds, np.empty(room)])
        self.lines = np.concatenate([self.lines, np.empty(room, np.int64)])

    def take_comments(self, s: ReadingState) -> bool:
        """Comments found since last asked; whether they had filled their array."""
        full = bool(self.whole[scanner.SAID] + 64 > len(self.said))
        for begin, end in self.said[: self.whole[scanner.SAID]].tolist():
            s.comments.append(self.raw[begin:end].decode("utf-8", "surrogatepass").strip())
        self.whole[scanner.SAID] = 0
        return full

    def hand_over(self, s: ReadingState) -> None:
        """Let the plain reader do one line, and take up what it left."""
        begin, number = int(self.whole[scanner.AT]), int(self.whole[scanner.LINE])
        end = _next_end(self.raw, begin)
        s.at = self.reals[scanner.X : scanner.Z + 1].tolist()
        s.factor, s.feed, s.spindle = (float(v) for v in self.reals[scanner.FACTOR :])
        s.motion, s.absolute = int(self.whole[scanner.MOTION]), bool(self.whole[scanner.ABSOLUTE])
        s.units = ("", "mm", "inch")[self.whole[scanner.UNITS]]
        s.words, s.pieces = bool(self.whole[scanner.WORDS]), int(self.whole[scanner.PIECES])
        s.points, s.rapid, s.feeds, s.lines = [], [], [], []
        plain_line(self.raw[begin:end].decode("utf-8", "surrogatepass"), number, s)
        self.reals[:] = [*s.at, s.factor, s.feed, s.spindle]
        self.whole[scanner.MOTION], self.whole[scanner.ABSOLUTE] = s.motion, s.absolute
        self.whole[scanner.UNITS] = ("", "mm", "inch").index(s.units)
        self.whole[scanner.WORDS], self.whole[scanner.PIECES] = s.words, s.pieces
        self.whole[scanner.AT] = end + (2 if self.raw[end : end + 2] == b"\r\n" else 1)
        self.whole[scanner.LINE] = number + 1
        count, new = int(self.whole[scanner.COUNT]), len(s.rapid)
        if new:
            if count + new > len(self.rapid):
                self.make_room(new)
            self.points[count + 1 : count + 1 + new] = s.points
            self.rapid[count : count + new], self.feeds[count : count + new] = s.rapid, s.feeds
            self.lines[count : count + new] = s.lines
            self.whole[scanner.COUNT] = count + new


def _next_end(data: bytes, begin: int) -> int:
    feed, back = data.find(b"\n", begin), data.find(b"\r", begin, begin + LONGEST_LINE * 5)
    if back >= 0 and (feed < 0 or back < feed):
        return back
    if back < 0 and (feed < 0 or feed > begin + LONGEST_LINE * 5):  # a very long line: look for either
        back = data.find(b"\r", begin)
        return min(v for v in (feed, back) if v >= 0)
    return feed


def read(text: str, home: Home = (0.0, 0.0, 100.0), ask: Callable[[], bool] | None = None) -> Program:
    """Read a program. home: machine zero in work coordinates, mm: the start, and where G53 counts from.

    ask: true when nobody waits for it any longer, asked every AT_ONCE lines. Raises Cancelled.
    """
    s = ReadingState(home=home, at=list(home))
    data = text.encode("utf-8", "surrogatepass")
    scan = _Scan(data if data.endswith((b"\n", b"\r")) else data + b"\n", home)
    handed = 0
    while not s.ended:
        status = scan.go_on()
        full = scan.take_comments(s)
        if status == scanner.DONE:
            break
        if status == scanner.ROOM and not full:
            scan.make_room()
        elif status == scanner.HAND:
            scan.hand_over(s)
            handed += 1
        if ask is not None and (status == scanner.REST or handed % 1000 == 999) and ask():
            raise Cancelled("The reading was called off.")
    if s.ended:
        rest = scan.raw[int(scan.whole[scanner.AT]) :].decode("utf-8", "surrogatepass")
        after_end(LINE_END.split(rest), int(scan.whole[scanner.LINE]), s)
    count = int(scan.whole[scanner.COUNT])
    s.units = ("", "mm", "inch")[scan.whole[scanner.UNITS]]
    s.spindle = float(scan.reals[scanner.SPINDLE])
    return program_of(
        s, scan.points[: count + 1].copy(), scan.rapid[:count].copy(), scan.feeds[:count].copy(),
        scan.lines[:count].copy(),
    )  # fmt: skip
