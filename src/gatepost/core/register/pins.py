# SPDX-License-Identifier: GPL-3.0-or-later
"""Pins that a piece is laid on: by how much it may lie otherwise, and every way round that it goes on them.

Each hole may lie beside its pin by half its clearance. A piece on two pins, c the clearance and L apart, turns by c/L at most; a place of it at ρ
from the middle between them, square to their line, moves by c·√(¼ + (ρ/L)²) at the worst, which bounds it at every other angle too. Plain
geometry: both pins' moves are t ± θ·L/2 square to their line, each no longer than c/2, and the place's is t + θ·ρ square to its own way.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gatepost.core.register.seating import Seating
from gatepost.core.working import Named, Working, working

Array = NDArray[np.float64]
TURNS = 801  # angles that a piece on its pins is tried at
EQUAL = 60  # rounds of weighing until the farthest are equally far
MOST_PINS = 4
HALF = 45.0  # degrees from a half turn, or from none, within which a way is called so


@dataclass(frozen=True)
class PinHole:
    """A hole for a pin. x, y: on the blank's own frame, mm; across: its diameter; clearance: of hole and pin, in the work and in the bed together."""

    name: str
    x: float
    y: float
    across: float
    clearance: float

    @property
    def pin(self) -> float:
        """Its pin's diameter, mm; what it has of play in the bed makes it thinner here."""
        return self.across - self.clearance


@dataclass(frozen=True)
class WayOn:
    """A way in which a piece goes on its pins, told by how it lies asked for: with the other face up or not, then turned by so many degrees; swapped:
    whether its holes come onto each other's pins."""

    over: bool
    turn: float
    swapped: bool

    @property
    def asked(self) -> bool:
        """Whether it is the one that is meant."""
        return not self.over and not self.swapped


def widest_apart(places: Array) -> tuple[int, int]:
    """Which two of some places, (n, 2), lie farthest apart."""
    pairs = itertools.combinations(range(len(places)), 2)
    return max(pairs, key=lambda p: float(np.hypot(*(places[p[0]] - places[p[1]]))))


def bound(clearance: float, far: float, apart: float, twice: bool = False) -> Working:
    """What a place at ``far`` from the middle between two pins may be shifted by at the worst, mm. twice: where the face before was cut on them too."""
    named = Named("clearance", clearance), Named("far", far), Named("apart", apart)
    times = "2 * " if twice else ""
    return working(
        f"{times}clearance * sqrt(1 / 4 + (far / apart) ** 2)", *named,
        assumption="square to the pins' line; less at every other angle" + ("; both faces are cut on the pins" if twice else ""),
    )  # fmt: skip


def worst_shifts(clearance: float, apart: float, places: Array) -> Array:
    """The worst shift of places, (n, 2), told from the middle between two pins along their line and square to it, mm: of all ways in which the
    piece may be seated.

    For each turn the middle lies where two discs overlap; what is farthest in it is one of its corners, or a farthest place of either round.
    """
    r = clearance / 2.0
    turn = np.linspace(0.0, clearance / apart, TURNS)[:, None]
    worst = np.zeros(len(places))
    for way in (1.0, -1.0):
        p = np.stack([-way * turn * places[None, :, 1], way * turn * places[None, :, 0]], axis=-1)  # of the turn alone
        e = np.concatenate([np.zeros_like(turn), turn * apart / 2.0], axis=1)[:, None, :]
        corner = np.sqrt(np.maximum(r * r - e[..., 1] ** 2, 0.0))
        for side in (1.0, -1.0):
            worst = np.maximum(worst, np.hypot(p[..., 0] + side * corner, p[..., 1]).max(axis=0))
            away = p + side * e
            length = np.maximum(np.hypot(away[..., 0], away[..., 1]), 1e-300)
            top = side * e + r * away / length[..., None]
            seated = np.hypot(top[..., 0] + side * e[..., 0], top[..., 1] + side * e[..., 1]) <= r + 1e-12
            worst = np.maximum(worst, np.where(seated, length + r, 0.0).max(axis=0))
    return worst


def worst_seating(clearance: float, apart: float, place: tuple[float, float]) -> Seating:
    """How a piece lies on two pins where a place of it, told as above, lies farthest beside where it is meant to: what ``worst_shifts`` finds of it."""
    r, best = clearance / 2.0, Seating(0.0, 0.0, 0.0, *place)
    for t in np.linspace(0.0, clearance / apart, TURNS).tolist():
        for way in (1.0, -1.0):
            p = np.array([-way * t * place[1], way * t * place[0]])
            e = np.array([0.0, t * apart / 2.0])
            corner = math.sqrt(max(r * r - e[1] ** 2, 0.0))
            for side in (1.0, -1.0):
                away = p + side * e
                top = side * e + r * away / max(float(np.hypot(*away)), 1e-300)
                for x, y in ((side * corner, 0.0), top.tolist()):
                    if math.hypot(x + e[0], y + e[1]) <= r + 1e-9 and math.hypot(x - e[0], y - e[1]) <= r + 1e-9:
                        best = max(best, Seating(way * t, x, y, *place), key=lambda s: s.off)
    return best


def ways_on(holes: Sequence[PinHole], pins: Sequence[tuple[float, float]]) -> tuple[WayOn, ...]:
    """Every way in which a piece with some holes goes on some pins, as many of them. pins: where each hole's own pin stands on the bed as it is asked
    for; the way that is asked for is among them where it goes on at all."""
    stand = np.array(pins, float)
    found: list[WayOn] = []
    for order in itertools.permutations(range(len(holes))):
        room = [(h.across - holes[k].pin) / 2.0 for h, k in zip(holes, order)]
        if min(room) < 0.0:
            continue  # a pin is thicker than the hole
        for over in (False, True):
            drawn = stand * ([1.0, -1.0] if over else [1.0, 1.0])
            turn, beside = _laid_best(drawn, stand[list(order)], np.array(room))
            if beside <= 1.0:
                found.append(WayOn(over, turn, list(order) != sorted(order)))
    return tuple(sorted(found, key=lambda w: (w.over, abs(w.turn))))


def _laid_best(drawn: Array, meant: Array, room: Array) -> tuple[float, float]:
    """The turn, degrees, by which drawn places come nearest to meant ones, the farthest of them as near as can be; and how far that one is then,
    in times of its room. By least squares, weighed again and again by what is left (Lawson, 1961)."""
    a, b = drawn[:, 0] + 1j * drawn[:, 1], meant[:, 0] + 1j * meant[:, 1]
    scale = np.maximum(room, 1e-9)
    weight = 1.0 / scale**2
    best = (0.0, math.inf)
    for _ in range(EQUAL):
        w = weight / weight.sum()
        ma, mb = np.sum(w * a), np.sum(w * b)
        turn = np.angle(np.sum(w * np.conj(a - ma) * (b - mb)))
        left = np.abs(b - mb - np.exp(1j * turn) * (a - ma)) / scale
        if left.max() < best[1]:
            best = (math.degrees(turn), float(left.max()))
        if best[1] <= 1.0 or left.max() < 1e-12:
            break
        weight = weight * np.maximum(left, 1e-9)
    return best


def way_in_words(way: WayOn) -> str:
    """A way that is not the one asked for."""
    if way.over:
        return f"with the other face up{', its ends changed' if way.swapped else ''}"
    turn = math.remainder(way.turn, 360.0)
    return "turned by half a turn" if abs(abs(turn) - 180.0) < HALF else f"turned by {turn:.0f}°"
