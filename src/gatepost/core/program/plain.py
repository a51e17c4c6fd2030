# SPDX-License-Identifier: GPL-3.0-or-later
"""The plain reader of RS-274 programs, a line at a time: it says what a line means, and the quick one is held against it.

Understood: G0 G1 G2 G3 (G17; I J or R), G4, G17, G20 G21, G40 G49 (as nothing), G53, G54 to G59 (one of them), G80 (no motion in force),
G90 G91, G94; M0 M2 M3 M4 M5 M6 M8 M9 M30; F S T N; bracketed and semicolon comments; % before and after. Nothing is
dropped: what can't be made sense of is a complaint with its line, or a care where it can move nothing.

Arcs (docs/programs.md says how each reader decides): with I or J, ends that agree as written are a full circle; ends that
differ by less than SAME_PLACE agree only by rounding, and are taken for a full circle with a care, since that sweeps over
whatever the other reading would. With R, a chord may be longer than the diameter by what rounding makes of it.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from gatepost.core.motion import Moves

_WORD = re.compile(r"[ \t]*([A-Za-z])[ \t]*([-+]?(?:\d+\.?\d*|\.\d+))", re.ASCII)
_TOLD = re.compile(r"GATEPOST .* (?:program|plan) ([0-9a-f]{12})$")  # the latter in programs of earlier versions
LINE_END = re.compile(r"\r\n|\n|\r")
_KNOWN_G = {0, 1, 2, 3, 4, 17, 20, 21, 40, 49, 53, 54, 55, 56, 57, 58, 59, 80, 90, 91, 94}
ZEROS = (54, 55, 56, 57, 58, 59)  # work zeros that a control may keep
_KNOWN_M = {0, 2, 3, 4, 5, 6, 8, 9, 30}
_LETTERS = frozenset("GMNFSTXYZIJRP")
_PLACES = frozenset("XYZIJRT")  # a letter written twice can move something, or fit another tool
# words of one group exclude each other in a block
_G_GROUPS: tuple[frozenset[float], ...] = (
    frozenset({0, 1, 2, 3, 80}), frozenset({20, 21}), frozenset({90, 91}), frozenset({4, 53}), frozenset({4, 0, 1, 2, 3}),
)  # fmt: skip
_M_GROUPS: tuple[frozenset[float], ...] = (frozenset({0, 2, 30}), frozenset({3, 4, 5}), frozenset({8, 9}))
SAME_PLACE = 1e-6  # mm; an arc's ends nearer than this are apart by rounding alone: no program writes so finely
ROUNDED = 2.5  # units of the last decimal: both ends' and the radius' rounding, √2 + 1; an end's and a centre's, 3/√2
LARGEST_ARC = 1e6  # mm of radius
MOST_PIECES = 3_000_000  # of all arcs of a program
ARC_TOLERANCE = 0.002  # mm an arc's pieces may stray
LARGEST = 1e5  # mm; no router is this large
LONGEST_LINE = 2000
MOST_COMPLAINTS = 500


@dataclass(frozen=True)
class Complaint:
    """Something in a program that can't be used, or that wants a look. line: from 1."""

    line: int
    reason: str


@dataclass(frozen=True)
class Program:
    """A program as read. moves: work coordinates, mm; line: of each move; complaints: what bars it; cares: what wants a
    look and moves nothing, or was judged in every way that it can be meant."""

    moves: Moves
    line: NDArray[np.int64]
    complaints: tuple[Complaint, ...]
    tools: tuple[int, ...]
    spindle: float
    dwell: float
    units: str
    fingerprint: str
    barred: str
    comments: tuple[str, ...]
    units_said: bool = True
    cares: tuple[Complaint, ...] = ()


@dataclass
class ReadingState:
    """What stands while a program is read."""

    home: tuple[float, float, float]
    factor: float = 1.0
    units: str = ""
    absolute: bool = True
    motion: int = -1
    feed: float = 0.0
    at: list[float] = field(default_factory=list)
    points: list[tuple[float, float, float]] = field(default_factory=list)
    rapid: list[bool] = field(default_factory=list)
    feeds: list[float] = field(default_factory=list)
    lines: list[int] = field(default_factory=list)
    complaints: list[Complaint] = field(default_factory=list)
    tools: list[int] = field(default_factory=list)
    spindle: float = 0.0
    dwell: float = 0.0
    comments: list[str] = field(default_factory=list)
    ended: bool = False
    zero: int = 0
    cares: list[Complaint] = field(default_factory=list)
    words: bool = False  # whether any word stood in it yet: a % before them opens it, one after them closes it
    pieces: int = 0  # of all arcs

    def complain(self, line: int, reason: str) -> None:
        """Something that bars the program."""
        self.complaints.append(Complaint(line, reason))

    def care(self, line: int, reason: str) -> None:
        """Something that wants a look; the first MOST_COMPLAINTS are kept."""
        if len(self.cares) < MOST_COMPLAINTS:
            self.cares.append(Complaint(line, reason))


def strip_comments(line: str) -> tuple[str, list[str]]:
    """A line without its comments, and the comments. An open bracket runs to the end of its line."""
    out, said, at = "", [], 0
    while at < len(line):
        if line[at] == ";":
            said.append(line[at + 1 :].strip())
            break
        if line[at] == "(":
            end = line.find(")", at)
            end = len(line) if end < 0 else end
            said.append(line[at + 1 : end].strip())
            at = end + 1
            continue
        out += line[at]
        at += 1
    return out, said


Home = tuple[float, float, float]


def read_plainly(text: str, home: Home = (0.0, 0.0, 100.0)) -> Program:
    """Read a program line by line. home: machine zero in work coordinates, mm: the start, and where G53 counts from."""
    s = ReadingState(home=home, at=list(home))
    s.points.append(home)
    lines = LINE_END.split(text)
    for number, line in enumerate(lines, start=1):
        if s.ended:
            after_end(lines[number - 1 :], number, s)
            break
        plain_line(line, number, s)
    return program_of(s, np.array(s.points), np.array(s.rapid, bool), np.array(s.feeds), np.array(s.lines, np.int64))


def plain_line(line: str, number: int, s: ReadingState) -> None:
    """One line, whatever it says."""
    if len(line) > LONGEST_LINE:
        s.complaints.append(Complaint(number, f"the line is over {LONGEST_LINE} characters"))
    else:
        body, said = strip_comments(line)
        s.comments += said
        words = _words(body, number, s)
        if words:
            _block(words, number, s)
    if len(s.complaints) >= MOST_COMPLAINTS and not s.ended:
        s.complaints.append(Complaint(number, "too much is not understood; nothing after this line was read"))
        s.ended = True


def after_end(lines: list[str], number: int, s: ReadingState) -> None:
    """Lines after the program's end are named: a control does not carry them out. number: of the first of them."""
    left = [n for n, line in enumerate(lines, start=number) if strip_comments(line)[0].strip(" \t") not in ("", "%")]
    if left and len(s.complaints) < MOST_COMPLAINTS:
        more = f", nor {len(left) - 1} more after it" if len(left) > 1 else ""
        s.care(left[0], f"it stands after the program's end and is not carried out{more}")


def program_of(
    s: ReadingState, points: NDArray[np.float64], rapid: NDArray[np.bool_], feeds: NDArray[np.float64],
    lines: NDArray[np.int64],
) -> Program:  # fmt: skip
    """What was read, with what its comments say of it."""
    fingerprint = next((m[1] for c in s.comments if (m := _TOLD.match(c))), "")
    barred = next((c.split(":", 1)[1].strip() for c in s.comments if c.startswith("NOT TO BE RUN:")), "")
    return Program(
        Moves(points, rapid, feeds), lines, tuple(s.complaints), tuple(s.tools), s.spindle, s.dwell, s.units or "mm",
        fingerprint, barred, tuple(s.comments), bool(s.units), tuple(s.cares),
    )  # fmt: skip


def _words(body: str, number: int, s: ReadingState) -> list[tuple[str, float, int]]:
    """Letter, value and decimals as written, of each word."""
    body = body.strip(" \t")
    if body == "%":
        s.ended = s.words
    if not body or body == "%":
        return []
    words: list[tuple[str, float, int]] = []
    at = 0
    while at < len(body):
        match = _WORD.match(body, at)
        if match is None:
            s.words = True
            s.complain(number, f"“{body[at : at + 12].strip()}” is not a word of a program")
            return []
        words.append((match[1].upper(), float(match[2]), len(match[2].partition(".")[2])))
        at = match.end()
        while at < len(body) and body[at] in " \t":
            at += 1
    s.words = True
    return words


def _sense(words: list[tuple[str, float, int]], g: list[float], m: list[float], number: int, s: ReadingState) -> bool:
    """Whether a block's words can be made sense of together; what can't be is told."""
    before = len(s.complaints)
    letters = [letter for letter, _, _ in words if letter not in "GM"]
    strange = [f"G{v:g}" for v in g if v not in _KNOWN_G] + [f"M{v:g}" for v in m if v not in _KNOWN_M]
    unknown = [f"{letter}{v:g}" for letter, v, _ in words if letter not in _LETTERS]
    if [letter for letter, _, _ in words if letter != "N"] == ["O"]:  # a program's number on a line of its own
        s.care(number, f"{unknown[0]}, a program's number, is passed over")
        return False
    if strange or unknown:
        s.complain(number, f"{', '.join(strange + unknown)} is not understood")
    for letter in dict.fromkeys(letter for letter in letters if letters.count(letter) > 1):
        (s.complain if letter in _PLACES else s.care)(number, f"{letter} is written twice in one line")
    for group, codes, name in [(v, g, "G") for v in _G_GROUPS] + [(v, m, "M") for v in _M_GROUPS]:
        met = sorted(set(codes) & group)
        if len(met) > 1:
            s.complain(number, f"{' and '.join(f'{name}{v:g}' for v in met)} in one line exclude each other")
    axes, centre = [v for v in letters if v in "XYZ"], [v for v in letters if v in "IJR"]
    if 4 in g and axes + centre:
        s.complain(number, f"{(axes + centre)[0]} is no part of a dwell")
    if any(letter == "T" and not v.is_integer() for letter, v, _ in words):
        s.complain(number, "a tool's number is a whole number")
    if "P" in letters and 4 not in g:
        s.complain(number, "P is only understood with G4")
    if 80 in g and axes + centre:
        s.complain(number, f"{(axes + centre)[0]} stands beside G80, which ends all motion")
    return len(s.complaints) == before


def _block(words: list[tuple[str, float, int]], number: int, s: ReadingState) -> None:
    g = [v for letter, v, _ in words if letter == "G"]
    m = [v for letter, v, _ in words if letter == "M"]
    if not _sense(words, g, m, number, s):
        return
    zero = next((int(v) for v in g if v in ZEROS), 0)
    if zero and s.zero not in (0, zero):
        s.complain(number, f"it changes to another zero, G{zero} after G{s.zero}: only one is known here")
        return
    s.zero = zero or s.zero
    values = {letter: v for letter, v, _ in words if letter not in "GMN"}
    _modes(g, m, values, number, s)
    if 4 in g:
        if values.get("P", -1.0) < 0.0:
            s.care(
                number,
                "the dwell has no length" if "P" not in values else "the dwell's length is negative: it is taken as 0",
            )
        s.dwell += max(0.0, values.get("P", 0.0))
        return
    axes = {a: values[a] for a in "XYZ" if a in values}
    if axes and not _finite(axes, number, s):
        return
    centre = [a for a in "IJR" if a in values]
    if centre and (s.motion < 2 or 53 in g):
        s.complain(number, f"{centre[0]} belongs to an arc, and this line moves straight or not at all")
    elif 53 in g and s.motion >= 2:
        s.complain(number, "G53 goes straight, and an arc is in force")
    elif 53 in g:
        _machine_move(axes, number, s)
    elif axes or centre:
        _move(axes, values, max((n for letter, _, n in words if letter in "XYIJR"), default=0), number, s)
    if 30 in m or 2 in m:
        s.ended = True


def _modes(g: list[float], m: list[float], values: dict[str, float], number: int, s: ReadingState) -> None:
    for v in g:
        if v in (20, 21):
            s.factor, s.units = (25.4, "inch") if v == 20 else (1.0, "mm")
        elif v in (90, 91):
            s.absolute = v == 90
        elif v in (0, 1, 2, 3):
            s.motion = int(v)
        elif v == 80:
            s.motion = -1
    if "F" in values:
        s.feed = values["F"] * s.factor
        if s.feed <= 0:
            s.complain(number, "the feed is 0 or less")
    if "S" in values:
        s.spindle = values["S"]
        if s.spindle < 0:
            s.care(number, "the spindle's speed is negative")
    if 6 in m and "T" in values:
        s.tools.append(int(values["T"]))


def _finite(axes: dict[str, float], number: int, s: ReadingState) -> bool:
    far = [a for a, v in axes.items() if abs(v * s.factor) > LARGEST]
    if far:
        s.complaints.append(Complaint(number, f"{far[0]}{axes[far[0]]:g} is further than any machine reaches"))
    return not far


def _machine_move(axes: dict[str, float], number: int, s: ReadingState) -> None:
    new = [s.home[i] + axes[a] * s.factor if a in axes else s.at[i] for i, a in enumerate("XYZ")]
    _line_to(new, s.motion in (-1, 0), number, s)


def _move(axes: dict[str, float], values: dict[str, float], decimals: int, number: int, s: ReadingState) -> None:
    if s.motion < 0:
        s.complaints.append(Complaint(number, "it moves before any of G0, G1, G2, G3"))
        return
    new = list(s.at)
    for i, a in enumerate("XYZ"):
        if a in axes:
            new[i] = axes[a] * s.factor + (0.0 if s.absolute else s.at[i])
    if s.motion >= 1 and s.feed <= 0:
        s.complaints.append(Complaint(number, "it cuts before any feed is set"))
        return
    if s.motion >= 2:
        _arc(new, values, decimals, number, s)
    else:
        _line_to(new, s.motion == 0, number, s)


def _line_to(new: list[float], rapid: bool, number: int, s: ReadingState) -> None:
    if new == s.at:
        return
    s.at = new
    s.points.append((new[0], new[1], new[2]))
    s.rapid.append(rapid)
    s.feeds.append(0.0 if rapid else s.feed)
    s.lines.append(number)


def _arc(new: list[float], values: dict[str, float], decimals: int, number: int, s: ReadingState) -> None:
    """An arc in the XY plane, Z in proportion, in pieces within ARC_TOLERANCE."""
    x0, y0, z0 = s.at
    x1, y1, z1 = new
    clockwise = s.motion == 2
    centre = _centre(new, values, decimals, number, s)
    if centre is None:
        return
    radius, end = math.hypot(x0 - centre[0], y0 - centre[1]), math.hypot(x1 - centre[0], y1 - centre[1])
    rounding = ROUNDED * 10.0 ** -max(decimals, 1) * s.factor
    if radius < 1e-9 or abs(radius - end) > max(0.01, 0.001 * radius, rounding):
        s.complain(number, f"the arc's ends are {radius:.3f} and {end:.3f} mm from its centre")
        return
    if radius > LARGEST_ARC:
        s.complain(number, f"the arc's radius of {radius:.6g} mm is further than any machine reaches")
        return
    apart = math.hypot(x1 - x0, y1 - y0)
    a0, a1 = math.atan2(y0 - centre[1], x0 - centre[0]), math.atan2(y1 - centre[1], x1 - centre[0])
    turn = (a0 - a1) if clockwise else (a1 - a0)
    turn = 2 * math.pi if apart <= SAME_PLACE else turn % (2 * math.pi) or 2 * math.pi
    if 0.0 < apart <= SAME_PLACE:
        s.care(
            number, "this arc's ends agree by rounding only: some controls cut a full circle here and some nothing. It is "
            "judged as the full circle, which takes in both; write its ends alike, or apart"
        )  # fmt: skip
    step = 2 * math.acos(max(0.0, 1 - ARC_TOLERANCE / max(radius, ARC_TOLERANCE)))
    count = max(1, math.ceil(turn / step))
    if s.pieces + count > MOST_PIECES:
        s.complain(
            number,
            f"its arcs fall into more than {MOST_PIECES} pieces: too much to be judged; nothing after this line was read",
        )
        s.ended = True
        return
    s.pieces += count
    for i in range(1, count + 1):
        a = a0 + (-turn if clockwise else turn) * i / count
        r = radius + (end - radius) * i / count
        point = [centre[0] + r * math.cos(a), centre[1] + r * math.sin(a), z0 + (z1 - z0) * i / count]
        _line_to(point if i < count else [x1, y1, z1], False, number, s)


def _centre(
    new: list[float], values: dict[str, float], decimals: int, number: int, s: ReadingState
) -> tuple[float, float] | None:
    """An arc's centre; nothing, and a complaint, where it has none."""
    (x0, y0, _), (x1, y1, _) = s.at, new
    if "R" not in values:
        if "I" not in values and "J" not in values:
            s.complain(number, "the arc has neither centre nor radius")
            return None
        return x0 + values.get("I", 0.0) * s.factor, y0 + values.get("J", 0.0) * s.factor
    if "I" in values or "J" in values:
        s.complain(number, "the arc has a centre and a radius: which is meant can't be told")
        return None
    r = values["R"] * s.factor
    dx, dy = x1 - x0, y1 - y0
    chord = math.hypot(dx, dy)
    if chord <= SAME_PLACE:
        s.complain(number, "the arc's ends agree, and a radius alone does not say where its centre is: write I and J")
        return None
    over = chord - 2 * abs(r)
    if over > ROUNDED * 10.0 ** -max(decimals, 1) * s.factor:
        s.complain(
            number,
            f"the arc's radius does not reach its end: its ends are {chord:.4f} mm apart, {over:.4f} more than it spans",
        )
        return None
    h = math.sqrt(max(0.0, r * r - chord * chord / 4))
    side = (-1 if s.motion == 2 else 1) * (1 if r > 0 else -1)
    return (x0 + x1) / 2 - side * h * dy / chord, (y0 + y1) / 2 + side * h * dx / chord
