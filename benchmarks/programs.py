# SPDX-License-Identifier: GPL-3.0-or-later
"""Programs as others write them, and a second reader of them written from the standard alone: one word after another, no speed,
no code of the core's."""

from __future__ import annotations

import math
import random
import re
from fractions import Fraction

from gatepost.core.program.plain import read_plainly
from gatepost.core.program.read import read

Place = tuple[float, float, float]


def valid(seed: int) -> str:
    """A program that means one thing only: lines, arcs by centre and radius, full circles, inches, relative moves, comments."""
    chance = random.Random(seed)
    inch, decimals = chance.random() < 0.3, chance.choice((2, 3, 4, 5))
    scale = 25.4 if inch else 1.0
    out = [
        chance.choice(("%\n", "", ""))
        + chance.choice(("G20 G90" if inch else "G21 G90", f"{'G20' if inch else 'G21'} G17 (units)\nG90"))
    ]
    x, y, z = 0.0, 0.0, 5.0  # in the program's units, as written
    relative, motion = False, -1

    def number(v: float) -> str:
        text = f"{v:.{decimals}f}"
        return text.rstrip("0").rstrip(".") if chance.random() < 0.5 and "." in text else text

    def to(axis: str, old: float, new: float) -> tuple[str, float]:
        if relative:
            told = number(new - old)
            return axis + told, old + float(told)
        told = number(new)
        return axis + told, float(told)

    out.append("G0 X0 Y0 Z5")
    out.append(f"F{number(900 / scale)}")
    motion = 0
    for _ in range(chance.randrange(5, 60)):
        way = chance.random()
        words: list[str] = []
        if way < 0.06:
            relative = not relative
            out.append("G91" if relative else "G90")
            continue
        if way < 0.12:
            out.append(
                chance.choice(
                    ("(a note)", "; a note", "M3 S12000", "G4 P0.5", "M5", f"F{number(600 / scale)}", "", "N10 G17")
                )
            )
            continue
        if way < 0.6:
            code = chance.choice((0, 1))
            nx, ny, nz = (v + chance.uniform(-30, 30) / scale for v in (x, y, z))
            axes = [a for a in "XYZ" if chance.random() < 0.7] or ["X"]
            if "X" in axes:
                word, x = to("X", x, nx)
                words.append(word)
            if "Y" in axes:
                word, y = to("Y", y, ny)
                words.append(word)
            if "Z" in axes:
                word, z = to("Z", z, nz)
                words.append(word)
        else:
            code = chance.choice((2, 3))
            if relative:
                continue  # its rounding adds up: a relative arc's centre is tried in the tests
            i, j = (float(number(chance.uniform(-40, 40) / scale)) for _ in range(2))
            r = math.hypot(i, j)
            if r * scale < 1.0:
                continue
            if way < 0.72:  # a full circle
                words += [f"I{number(i)}", f"J{number(j)}"]
                if chance.random() < 0.5:
                    words.insert(0, f"X{number(x)}")
            else:
                turn = chance.uniform(0.2, 6.0)
                a = math.atan2(-j, -i) + turn
                ex, ey = x + i + r * math.cos(a), y + j + r * math.sin(a)
                wx, ex = to("X", x, ex)
                wy, ey = to("Y", y, ey)
                if math.hypot(ex - x, ey - y) * scale < 0.5:
                    continue
                words += [wx, wy]
                if chance.random() < 0.3 and 0.3 < turn < 2.8:
                    code = 3
                    words.append(f"R{number(r)}")
                else:
                    words += [f"I{number(i)}", f"J{number(j)}"]
                x, y = ex, ey
        if code != motion or chance.random() < 0.3:
            words.insert(0, chance.choice((f"G{code}", f"G0{code}", f"g{code}")))
        motion = code
        out.append(chance.choice((" ", "")).join(words))
    out.append(chance.choice(("M30", "M2", "M30\n%")))
    return chance.choice(("\n", "\r\n")).join(out) + "\n"


def ends(text: str, home: Place) -> list[tuple[int, Place, float]]:
    """Where each line that moves ends, and how long its way is across; the second reader. Lines count from 1."""
    at = [Fraction(v) for v in home]
    scale, relative, motion = Fraction(1), False, ""
    out: list[tuple[int, Place, float]] = []
    for n, line in enumerate(re.split(r"\r\n|\n", text), start=1):
        bare = re.sub(r"\([^)]*\)|;.*", "", line).upper().replace(" ", "")
        words = re.findall(r"([A-Z])([-+]?[0-9.]+)", bare)
        values = {a: Fraction(v) for a, v in words if a not in "GM"}
        codes = [str(int(Fraction(v))) for a, v in words if a == "G"]
        for code in codes:
            scale = {"20": Fraction(254, 10), "21": Fraction(1)}.get(code, scale)
            relative = {"90": False, "91": True}.get(code, relative)
            motion = code if code in "0123" else motion
        moves = [a for a in "XYZIJR" if a in values]
        if "4" in codes or not moves:
            if ("M", "30") in words or ("M", "2") in words:
                return out
            continue
        new = [values[a] * scale + (at[i] if relative else 0) if a in values else at[i] for i, a in enumerate("XYZ")]
        if motion in "01":
            long = math.hypot(float(new[0] - at[0]), float(new[1] - at[1]))
        else:
            dx, dy = float(new[0] - at[0]), float(new[1] - at[1])
            chord = math.hypot(dx, dy)
            if "R" in values:
                r = float(values["R"] * scale)
                half = math.asin(min(1.0, chord / 2 / abs(r)))
                long = abs(r) * 2 * (half if r > 0 else math.pi - half)
            else:
                i, j = (float(values.get(a, Fraction(0)) * scale) for a in "IJ")
                r = math.hypot(i, j)
                a0, a1 = math.atan2(-j, -i), math.atan2(dy - j, dx - i)
                turn = (a0 - a1 if motion == "2" else a1 - a0) % math.tau
                long = r * (turn if chord > 0 and turn > 0 else math.tau)
        if new != at or motion in "23":
            out.append((n, (float(new[0]), float(new[1]), float(new[2])), long))
        at = new
    return out


def of_a_valid_program(seed: int) -> str:
    """Both of the core's readers against the second one: every end to a millionth, every way's length to its rounding."""
    text, home = valid(seed), (0.0, 0.0, 40.0)
    wanted = ends(text, home)
    written = max(len(told) for told in re.findall(r"[XYIJ][-+]?[0-9]*\.?([0-9]*)", text.upper()))
    unit = 10.0 ** -max(written, 1) * (25.4 if "G20" in text else 1.0)  # what rounding makes of ends, centres and radii
    for reading in (read, read_plainly):
        program = reading(text, home=home)
        assert not program.complaints, f"seed {seed}: {program.complaints[0]}"
        found: dict[int, tuple[list[float], float]] = {}
        points = program.moves.points
        for k, n in enumerate(program.line.tolist()):
            a, b = points[k], points[k + 1]
            old = found.get(n, ([], 0.0))[1]
            found[n] = (b.tolist(), old + math.hypot(b[0] - a[0], b[1] - a[1]))
        assert list(found) == [n for n, _, _ in wanted], f"seed {seed}: other lines move"
        for n, place, long in wanted:
            end, length = found[n]
            assert max(abs(p - q) for p, q in zip(end, place)) < 1e-6, (
                f"seed {seed}, line {n}: ends at {end}, not {place}"
            )
            assert abs(length - long) < 0.05 + 3e-3 * long + 8 * unit, (
                f"seed {seed}, line {n}: {length} long, not {long}"
            )
    return "alike"


PIECES = (
    "G0", "G1", "G2", "G3", "G20", "G21", "G90", "G91", "G53", "G99", "M3", "M6", "M30", "T2", "X1", "Y-2.5", "Z3", "I4",
    "J-1", "R3", "F500", "F0", "S12000", "(", ")", ";", "%", "\n", "\r\n", "\r", "\t", " ", "X", "-", "..", "1e9", "é", "\0",
    "X99999999999", "X" * 2100, "N10", "g1x2", "\u2028",
)  # fmt: skip


def of_a_program(text: str, seed: int) -> str:
    """A program with pieces put in, taken out or doubled: both readers say the same, and nothing breaks."""
    chance = random.Random(seed)
    lines = text.splitlines(keepends=True)[: chance.randrange(5, 60)]
    for _ in range(chance.randrange(1, 12)):
        at = chance.randrange(len(lines))
        where = chance.randrange(len(lines[at]) + 1)
        lines[at] = lines[at][:where] + chance.choice(PIECES) + lines[at][where + chance.choice((0, 0, 1, 4)) :]
    spoiled = "".join(lines)
    fast, plain = read(spoiled), read_plainly(spoiled)
    assert fast.complaints == plain.complaints and fast.comments == plain.comments
    assert fast.line.tolist() == plain.line.tolist()
    return "complained of" if fast.complaints else "read"
