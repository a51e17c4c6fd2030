# SPDX-License-Identifier: GPL-3.0-or-later
"""A program as it is sent: block by block."""

from __future__ import annotations

import re
import time

from gatepost.core.program.lines import filled_lines

END = re.compile(r"M0*(2|30)(?![0-9])")


def blocks_of(text: str) -> list[str]:
    """A program's blocks as they are sent: every line with something on it, up to its end. Block n is the n-th of these.

    A program that does not say that it ends is given its M30: a machine waits for more otherwise.
    """
    blocks: list[str] = []
    for _, line in filled_lines(text):
        blocks.append(line)
        if "M" in line.upper() and END.search(_bare(line)):
            return blocks
        if len(blocks) % 256 == 0:
            time.sleep(0.0)  # others have their turn: a window may be waiting for it
    return [*blocks, "M30"]


def _bare(line: str) -> str:
    """A line without comments and blanks, in capitals."""
    return re.sub(r"\([^)]*\)|;.*|\s", "", line).upper()
