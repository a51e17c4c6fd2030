# SPDX-License-Identifier: GPL-3.0-or-later
"""Random marks on a piece that lies somewhere, one thing at the most wrong with them; and a direct search for their turn and shift."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize

from gatepost.core.register.fit import FitVerdict, MeasuredMark, Turned, fitted, mirror

WRONGS = ("nothing", "one mark", "chamfer", "scale")


@dataclass(frozen=True)
class MarkSet:
    """Marks; what is wrong with them and by how much; where the piece truly lies."""

    marks: tuple[MeasuredMark, ...]
    turned: Turned
    wrong: str
    amount: float
    odd: str
    turn: float
    shift: tuple[float, float]


def drawn_set(rng: np.random.Generator, wrong: str, count: int, noise: float = 0.02) -> MarkSet:
    """Marks on the edges and inside of a board: on opposite edges where these are touched on a chamfer. noise: the sigma of each reading, mm."""
    wide, high = float(rng.uniform(60, 900)), float(rng.uniform(60, 500))
    edges = {0.0: (wide / 2, 0), 90.0: (0, high / 2), 180.0: (-wide / 2, 0), -90.0: (0, -high / 2)}
    places: list[tuple[float, float, float | None]] = []
    for i in range(count):
        if wrong == "chamfer" or (wrong != "scale" and rng.random() < 0.5):
            normal = (0.0, 180.0, 90.0, -90.0)[i % 4]
            x, y = edges[normal]
            along = float(rng.uniform(-0.45, 0.45))
            places.append((x or along * wide, y or along * high, normal))
        else:
            places.append((float(rng.uniform(-0.5, 0.5)) * wide, float(rng.uniform(-0.5, 0.5)) * high, None))
    turned: Turned = ("", "X", "Y")[int(rng.integers(3))]
    turn, shift = math.radians(float(rng.uniform(-180, 180))), rng.uniform(-500, 500, 2)
    r, m = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]]), mirror(turned)
    drawn = np.array([p[:2] for p in places])
    normals = np.array(
        [(0.0, 0.0) if n is None else (math.cos(math.radians(n)), math.sin(math.radians(n))) for _, _, n in places]
    )
    sign = 1.0 if rng.random() < 0.5 else -1.0
    amount = sign * float(
        {"chamfer": rng.uniform(0.4, 3), "scale": rng.uniform(0.003, 0.02), "one mark": rng.uniform(0.5, 5)}.get(
            wrong, 0.0
        )
    )
    lies = drawn * (1.0 + amount if wrong == "scale" else 1.0) + (amount if wrong == "chamfer" else 0.0) * normals
    odd = int(rng.integers(count)) if wrong == "one mark" else -1
    if odd >= 0:
        way = float(rng.uniform(0, 2 * math.pi))
        lies[odd] += abs(amount) * np.array([math.cos(way), math.sin(way)])
    measured = lies @ m @ r.T + shift + rng.normal(0, noise, lies.shape)
    marks = tuple(
        MeasuredMark(f"M{i + 1}", tuple(drawn[i].tolist()), tuple(measured[i].tolist()), places[i][2])
        for i in range(count)
    )
    return MarkSet(
        marks, turned, wrong, amount, f"M{odd + 1}" if odd >= 0 else "", math.degrees(turn), tuple(shift.tolist())
    )


def searched(marks: tuple[MeasuredMark, ...], turned: Turned) -> tuple[float, tuple[float, float]]:
    """Turn in degrees, and shift, of the least sum of squares, by trying turns all round and walking down from the best."""
    p, q = np.array([k.drawn for k in marks]) @ mirror(turned), np.array([k.measured for k in marks])

    def sum_at(turn: float) -> float:
        c, s = math.cos(turn), math.sin(turn)
        off = q - p @ np.array([[c, s], [-s, c]])
        return float(((off - off.mean(axis=0)) ** 2).sum())

    tried = np.linspace(-math.pi, math.pi, 721)
    best = tried[int(np.argmin([sum_at(float(t)) for t in tried]))]
    found = minimize(
        lambda t: sum_at(float(t[0])), [best], method="Nelder-Mead", options={"xatol": 1e-11, "fatol": 1e-16}
    )
    turn = float(found.x[0])
    c, s = math.cos(turn), math.sin(turn)
    shift = (q - p @ np.array([[c, s], [-s, c]])).mean(axis=0)
    return math.degrees(turn), (float(shift[0]), float(shift[1]))


def of_marks(seed: int) -> str:
    """A random set fitted: as a direct search has it, and nothing named that is not wrong."""
    rng = np.random.default_rng(seed)
    of = drawn_set(rng, WRONGS[int(rng.integers(len(WRONGS)))], int(rng.integers(2, 13)))
    found = fitted(of.marks, of.turned)
    assert found.odd in (None, of.odd), (of, found.sentence)
    if found.verdict is not FitVerdict.REFUSED:
        turn, shift = searched(tuple(m for m in of.marks if m.name != found.odd), of.turned)
        assert abs((found.turn - turn + 180.0) % 360.0 - 180.0) < 1e-5 and math.dist(found.shift, shift) < 1e-3, of
    return found.verdict.value if of.wrong == "nothing" else f"{of.wrong}: {found.verdict.value}"
