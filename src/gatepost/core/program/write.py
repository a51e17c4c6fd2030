# SPDX-License-Identifier: GPL-3.0-or-later
"""RS-274 programs, written in the dialect that a machine's control understands."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from gatepost.core.frames import BlankFrame, Matrix, Work
from gatepost.core.job.machine import Dialect
from gatepost.core.job.tool import Tool
from gatepost.core.motion import Moves
from gatepost.core.program.fingerprint import of_program
from gatepost.core.program.lines import number


@dataclass(frozen=True)
class Head:
    """What a program says at its head. zero: in words; lies: how the board lies to it; fingerprint: its own, told when it
    is written; reason: why it is not to be run, or nothing; note: one comment more."""

    job: str
    setup: str
    tool: Tool
    zero: str
    lies: Matrix[BlankFrame, Work]
    reason: str = ""
    note: str = ""
    fingerprint: str = ""


FEED_DECIMALS = 3


def plain_text(words: str) -> str:
    """Words fit for a bracketed comment: ASCII, no brackets."""
    return re.sub(r"[^A-Za-z0-9 .,:+\-/*=]", "", words.replace("–", "-").replace("−", "-").replace("·", "-")).strip()


def comment(words: str, dialect: Dialect) -> list[str]:
    text = plain_text(words)
    return {"brackets": [f"({text})"], "semicolon": [f"; {text}"]}.get(dialect.comments, [])


def _in_last_places(values: NDArray[np.float64], decimals: int) -> NDArray[np.int64]:
    """Numbers as they are written, in units of the last place: what lies near the middle of two is rounded as its exact decimals say."""
    scaled = values * 10.0**decimals
    out = np.rint(scaled).astype(np.int64)
    between = np.abs(np.abs(scaled - np.floor(scaled)) - 0.5) < 1e-4
    for i in np.nonzero(between)[0]:
        out[i] = int(f"{float(values[i]):.{decimals}f}".replace(".", ""))
    return out


def head_lines(head: Head, dialect: Dialect) -> list[str]:
    """Lines before the first move: what it is, its units, plane, distance, zero, tool and spindle."""
    said = [f"NOT TO BE RUN: {head.reason}"] if head.reason else []
    said += [
        f"GATEPOST {head.job} - {head.setup} - T{head.tool.number} {head.tool.name} - program {head.fingerprint}",
        f"Zero {head.zero}; lengths in {dialect.units}",
    ]
    said += [head.note] if head.note else []
    said += [dialect.lead_in] if dialect.lead_in else []
    lines = [line for words in said for line in comment(words, dialect)]
    pause = dialect.tool_change == "pause"
    blocks: list[str | list[str]] = [
        "G21" if dialect.units == "mm" else "G20",
        "G17",
        "G90",
        dialect.offset,
        "G53 G0 Z0",
    ]
    blocks += ["M0", comment(f"Fit T{head.tool.number} {head.tool.name}", dialect)] if pause else []
    blocks += [] if pause else [f"T{head.tool.number} M6"]
    blocks += [f"S{number(head.tool.rpm, 0)} M3"]
    if dialect.spin_up:
        blocks += [f"G4 P{number(dialect.spin_up * (1000 if dialect.dwell == 'ms' else 1), 3)}"]
    for block in blocks:
        lines += block if isinstance(block, list) else [numbered(block, len(lines), dialect)]
    return lines


def numbered(block: str, before: int, dialect: Dialect) -> str:
    return f"N{10 * (before + 1)} {block}" if dialect.line_numbers else block


def body_lines(moves: Moves, dialect: Dialect, before: int) -> list[str]:
    """Lines of the moves. before: how many lines stand above them. Words are written only when they change.

    The first goes across to the first place; the height is the top of the travel, reached already.
    """
    if dialect.arcs != "none":
        return arc_lines(moves, dialect, before)[0]
    from gatepost.core.program import writer

    inch = dialect.units == "inch"
    points = moves.points / 25.4 if inch else moves.points
    decimals = dialect.decimals + inch
    x, y, z = (_in_last_places(points[:, i], decimals) for i in range(3))
    feed = _in_last_places(np.concatenate([[0.0], moves.feed / 25.4 if inch else moves.feed]), FEED_DECIMALS)
    rapid = np.concatenate([[True], moves.rapid])
    out = np.empty(6 * writer.WORD * len(points), np.uint8)
    size = writer.body(x, y, z, rapid, feed, decimals, FEED_DECIMALS, before, dialect.line_numbers, out)
    return out[:size].tobytes().decode("ascii").splitlines()


def arc_lines(moves: Moves, dialect: Dialect, before: int) -> tuple[list[str], list[int]]:
    """As body_lines, with arcs, and behind which move each line ends."""
    from gatepost.core.program.arcs import lines_with_arcs

    return lines_with_arcs(moves, dialect, before, dialect.decimals + (dialect.units == "inch"), FEED_DECIMALS)


def write(moves: Moves, head: Head, dialect: Dialect, body: list[str] | None = None) -> str:
    """A program that stands alone. moves: work coordinates, mm; the first is reached from the top of the travel.

    It lifts to the top of the travel in machine coordinates first and last, whatever its zero. body: the lines of the
    moves where they are known already. Its head says its fingerprint, which ``fingerprint`` gives of the whole text too.
    """
    before = head_lines(head, dialect)
    lines = body_lines(moves, dialect, len(before)) if body is None else list(body)
    for block in ("G53 G0 Z0", "M5", dialect.end):
        lines.append(numbered(block, len(before) + len(lines), dialect))
    told = fingerprint(_text([*before, *lines]), head)
    return _text([*head_lines(replace(head, fingerprint=told), dialect), *lines])


def fingerprint(text: str, head: Head) -> str:
    """Of a program as written; its comments do not count."""
    return of_program(text, head.tool, head.zero, head.lies)


def _text(lines: list[str]) -> str:
    return "\n".join(lines) + "\n"


def barred_text(text: str, reason: str, dialect: Dialect) -> str:
    """A program that begins with why it is not to be run."""
    return "".join(line + "\n" for line in comment(f"NOT TO BE RUN: {reason}", dialect)) + text
