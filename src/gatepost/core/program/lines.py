# SPDX-License-Identifier: GPL-3.0-or-later
"""A program's lines as every reader of it counts them."""

from __future__ import annotations

import io
from collections.abc import Iterator


def filled_lines(text: str) -> Iterator[tuple[int, str]]:
    """Lines with something on them, and their numbers from 1. A line ends at LF, CR LF or CR, as for ``read``.

    One at a time, so that other threads have their turn between the lines of a long program.
    """
    for number, line in enumerate(io.StringIO(text, newline=None), start=1):
        bare = line.rstrip("\n")
        if bare.strip():
            yield number, bare
