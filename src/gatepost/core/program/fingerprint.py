# SPDX-License-Identifier: GPL-3.0-or-later
"""What tells a program from every other: what comes out of it, and not what it was worked out from.

Two programs have one fingerprint where they send the same blocks, with a cutter of the same shape, from the same zero, to the
same board lying the same way: then each cuts the same wood. A run, and its tick, hold for it as long as that stays so.
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable

import numpy as np

from gatepost.core.frames import BlankFrame, Matrix, Work
from gatepost.core.job.tool import Tool

DIGITS = 12
_SAID = re.compile(
    r"^(?:\([^)\n]*\)?[ \t]*|;.*|)\n", re.MULTILINE
)  # lines that are a comment and nothing else, as programs are written here


def blocks(text: str) -> str:
    """What of a program is carried out: without the lines that hold a comment and nothing else."""
    return _SAID.sub("", text)


def of_program(text: str, tool: Tool, zero: str, blank_to_work: Matrix[BlankFrame, Work]) -> str:
    """Twelve hex digits of a program.

    text: as written here; what its comments say does not count. zero: in words, as its head says it. blank_to_work: rounded to
    a millionth.
    """
    shape = (tool.kind, tool.diameter, tool.angle, tool.tip, tool.radius)
    lies = (np.round(blank_to_work.square, 6) + 0.0).tolist()
    return _digits([blocks(text), repr(shape), zero, repr(lies)])


def of_plan(programs: Iterable[str]) -> str:
    """Twelve hex digits of a plan. programs: the fingerprint of each, in the order in which they are run."""
    return _digits(programs)


def _digits(parts: Iterable[str]) -> str:
    return hashlib.sha256("\0".join(parts).encode()).hexdigest()[:DIGITS]
