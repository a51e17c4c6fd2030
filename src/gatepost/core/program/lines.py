# SPDX-License-Identifier: GPL-3.0-or-later
"""A program's lines as every reader of it counts them."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray


def filled_lines(text: str) -> Iterator[tuple[int, str]]:
    """Lines with something on them, and their numbers from 1. A line ends at LF, CR LF or CR, as for ``read``.

    One at a time, so that other threads have their turn between the lines of a long program.
    """
    for number, line in enumerate(io.StringIO(text, newline=None), start=1):
        bare = line.rstrip("\n")
        if bare.strip():
            yield number, bare


_BY_MACHINE = re.compile(r"G0*53(?![\d.])", re.IGNORECASE)
_MAYBE = re.compile(r"[Gg](?:[0 \t]|\([^)\n]*\))*5(?:[ \t]|\([^)\n]*\))*3")  # what may say it
_TOLD = {axis: re.compile(axis + r"[-+.\d]", re.IGNORECASE) for axis in "XYZ"}
_BRACKETS = re.compile(r"\([^)]*\)|;.*")


def by_machine(text: str, line: Sequence[int]) -> NDArray[np.bool_]:
    """Of each move whether its X, Y and Z are the machine's own: told by G53, or where G53 left them; (moves, 3). line: of each
    move, from 1."""
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    rows = text.split("\n")
    held, told = [False] * 3, ([], [], [])  # type: ignore[var-annotated]
    done = 0
    for first in _may_say_it(text):
        n = max(first, done)
        while n < len(rows) and (n == first or any(held)):  # other lines change nothing
            words = _BRACKETS.sub("", rows[n]).replace(" ", "")
            for axis, word in enumerate(_TOLD.values()):
                if word.search(words):
                    held[axis] = bool(_BY_MACHINE.search(words))
                if held[axis] and rows[n].strip():
                    told[axis].append(n + 1)
            n += 1
        done = max(done, n)
    lines = np.asarray(line, np.int64)
    return np.column_stack([np.isin(lines, each) for each in told])


def _may_say_it(text: str) -> Iterator[int]:
    """Numbers, from 0, of lines in which G53 may stand."""
    line = done = 0
    for found in _MAYBE.finditer(text):
        line += text.count("\n", done, found.start())
        done = found.start()
        yield line


def number(value: float, decimals: int) -> str:
    """A number as programs write it: no zeros at its end that say nothing, no minus before 0."""
    text = f"{value:.{decimals}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text in ("-0", "") else text
