# SPDX-License-Identifier: GPL-3.0-or-later
"""What the command line takes: each kind of argument says in one sentence what it wants, and the exit code is 2."""

from __future__ import annotations

import argparse
import math
import sys
from collections.abc import Callable
from typing import Any, NoReturn

FARTHEST = 100_000.0  # mm that a length on the command line may be
SLOWEST, QUICKEST = (
    0.5,
    100_000.0,
)  # times that a simulated machine may be hurried, short of max; slower, and every wait for it would run out


class Parser(argparse.ArgumentParser):
    """Says what is wrong in one sentence."""

    def __init__(self, **values: Any) -> None:
        super().__init__(**{"allow_abbrev": False, **values})

    def error(self, message: str) -> NoReturn:
        """One sentence on stderr; exit 2."""
        words = message.replace("\n", " ").rstrip(".")
        sys.stderr.write(f"{printable(words)}. See {self.prog} --help.\n")
        raise SystemExit(2)


def printable(words: str) -> str:
    """Words with nothing in them that a terminal would obey, or that can't be written."""
    return "".join(c if c.isprintable() else f"\\x{ord(c):02x}" for c in words)


def number(low: float = -FARTHEST, high: float = FARTHEST) -> Callable[[str], float]:
    """A number from low to high."""

    def take(words: str) -> float:
        try:
            value = float(words) if words.isascii() and "_" not in words else math.nan
        except ValueError:
            value = math.nan
        if not low <= value <= high:
            raise argparse.ArgumentTypeError(f"“{words}” is not a number from {low:g} to {high:g}")
        return value

    return take


def place(words: str) -> tuple[float, float]:
    """X and Y on the bed, mm, with a comma between."""
    take = number(-FARTHEST, FARTHEST)
    parts = words.split(",")
    if len(parts) != 2:
        raise argparse.ArgumentTypeError(f"“{words}” is not a place on the bed, such as 120,85.5")
    return take(parts[0].strip()), take(parts[1].strip())


def whole(low: int, high: int) -> Callable[[str], int]:
    """A whole number from low to high."""

    def take(words: str) -> int:
        try:
            value = int(words) if words.isascii() and "_" not in words else low - 1
        except ValueError:
            value = low - 1
        if not low <= value <= high:
            raise argparse.ArgumentTypeError(f"“{words[:40]}” is not a whole number from {low} to {high}")
        return value

    return take


def speed(words: str) -> str:
    """How many times faster a simulated machine goes, or max."""
    if words != "max":
        number(SLOWEST, QUICKEST)(words)
    return words


def listen(words: str) -> str:
    """HOST:PORT to listen at, or pty."""
    return words if words == "pty" else address(words, 0)


def address(words: str, least: int = 1) -> str:
    """HOST:PORT, or the path of a terminal."""
    host, _, port = words.rpartition(":")
    if words.startswith("/") or (host and port.isascii() and port.isdigit() and least <= int(port) <= 65535):
        return words
    raise argparse.ArgumentTypeError(f"“{words}” is neither HOST:PORT nor the path of a terminal")
