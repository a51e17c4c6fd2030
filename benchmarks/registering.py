# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece cut on one face, found again and cut on the other, on the simulated machine's engine in a shop where nothing is quite as planned: does the second
face's cut lie beside the first by no more than was said? Told by holes that go right through, as the machine itself remembers them."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from pathlib import Path

import numpy as np

import shop
from gatepost.core.cache import Memory
from gatepost.core.job.file import load
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.job.rows import places
from gatepost.core.plan.pipeline import plan
from gatepost.core.plan.result import Plan
from gatepost.machine.conduct import StepRunner, each_step

CELL = 0.5
EXAMPLES = Path(__file__).parents[1] / "src" / "gatepost" / "assets" / "examples"


def cut_through(made: Plan, seed: int) -> shop.Bench:
    """The whole of a plan, step by step; the machine as it is after. Raises OperatorError."""
    return gone_through(made, seed)[0]


def gone_through(made: Plan, seed: int) -> tuple[shop.Bench, Plan]:
    """The same, and the plan as it was by then. Raises OperatorError."""
    bench = shop.Bench(made, seed)
    memory = Memory()
    anew = lambda journal: plan(made.job, journal, memory, CELL)  # noqa: E731
    conductor = StepRunner(bench, made, Journal(), made.laid_first, anew)  # type: ignore[arg-type]
    for setup, step in each_step(conductor):
        conductor.carry_out(setup, step)
    return bench, plan(made.job, conductor.journal, memory, CELL)


def beside(made: Plan, bench: shop.Bench, first: str, second: str, also: str = "") -> float:
    """By how much holes drilled later lie beside where they are drawn, told from those drilled before, mm: the farthest. first, second: rows of holes; also: one that was drilled with the first."""
    drawn = [_on_piece(made.job, name) for name in (first, second)]
    drawn[0] = np.vstack([drawn[0], _on_piece(made.job, also)]) if also else drawn[0]
    real = np.array([h.piece for h in bench.router.holes.made])
    one, other = real[: len(drawn[0])], real[len(drawn[0]) :]
    assert len(other) == len(drawn[1]), f"{len(real)} holes went through"
    one, other = (_matched(at, want) for at, want in zip((one, other), drawn))
    turn, a, b = _fit(drawn[0], one)
    meant = (drawn[1] - a) @ turn.T + b
    return float(np.hypot(*(other - meant).T).max())


def _on_piece(job: Job, name: str) -> np.ndarray:
    art = next(a for a in job.artwork if a.id == name)
    at = places(art)
    return np.column_stack([job.blank.length - at[:, 0], at[:, 1]]) if art.face == "back" else at


def _matched(real: np.ndarray, drawn: np.ndarray) -> np.ndarray:
    away = np.hypot(real[:, None, 0] - drawn[None, :, 0], real[:, None, 1] - drawn[None, :, 1])
    return real[np.argmin(away, axis=0)]


def _fit(drawn: np.ndarray, real: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Turn, and the two middles, by least squares."""
    a, b = drawn.mean(axis=0), real.mean(axis=0)
    p, q = (drawn - a) @ [1.0, 1j], (real - b) @ [1.0, 1j]
    angle = np.angle(np.sum(np.conj(p) * q))
    return np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]]), a, b


@cache
def on_pins() -> Plan:
    """A small board, drilled from both faces, the second on two pins."""
    from tests.core.pinned import over

    return plan(over(), cell=CELL)


@cache
def on_three_pins() -> Plan:
    """The same, on a third pin too, whose hole is bored into the bare bed once the first face is cut."""
    from tests.core.catalogue_jobs import edited
    from tests.core.pinned import over

    return plan(edited(over(), ("add pins", {"setup": "over", "third": True})), cell=CELL)


def absolute(made: Plan, bench: shop.Bench, row: str) -> float:
    """By how much holes lie beside where they are drawn on the board, mm: the farthest. A board that is otherwise long or wide is so by as much at both ends."""
    wood = bench.router.wood
    assert wood is not None
    real = np.array([h.piece for h in bench.router.holes.made]) - 0.5 * wood.grown
    drawn = _on_piece(made.job, row)
    return float(np.hypot(*(_matched(real, drawn) - drawn).T).max())


@cache
def by_marks() -> Plan:
    """A small board brought back, found by three old holes, drilled again."""
    from tests.core.pinned import brought_back

    return plan(brought_back(), cell=CELL)


def of_marks(seed: int) -> tuple[float, float]:
    """By how much what is drilled lies beside where it is drawn, and what was said at worst, mm."""
    made = by_marks()
    return absolute(made, cut_through(made, seed), "marks"), promised(made)


@cache
def in_its_frame() -> Plan:
    """A tablet cut out through a stepped rim and turned over into its frame, drilled from both faces."""
    from tests.core.pinned import framed

    return plan(framed(), cell=CELL)


def of_a_frame(seed: int) -> tuple[float, float]:
    """By how much the second face lies beside the first, and what was said at worst, mm."""
    made = in_its_frame()
    return beside(made, cut_through(made, seed), "first", "marks"), promised(made)


@cache
def against_an_edge() -> Plan:
    """A small board laid against two edges that the machine knows, drilled."""
    from tests.core.catalogue_jobs import JOBS, edited
    from tests.core.pinned import fenced

    return plan(edited(JOBS["taped"](), *fenced()), cell=CELL)


def of_an_edge(seed: int) -> tuple[float, float]:
    """By how much what is drilled lies beside where it is drawn, and what was said at worst, mm."""
    made = against_an_edge()
    return absolute(made, cut_through(made, seed), "marks"), promised(made)


@cache
def over_marks() -> Plan:
    """A small board touched off, over whose old holes the tip goes before it is drilled."""
    from tests.core.pinned import seen

    return plan(seen(), cell=CELL)


@cache
def by_rings() -> Plan:
    """A small board touched off, round whose old holes rings are cut before it is drilled."""
    from tests.core.pinned import seen

    return plan(seen(ring=True), cell=CELL)


def of_looks(seed: int) -> tuple[float, float]:
    """By how much what is drilled lies beside where it is drawn, and what was said at worst, mm."""
    bench, made = gone_through(over_marks(), seed)
    return absolute(made, bench, "marks"), promised(made)


def of_rings(seed: int) -> tuple[float, float]:
    """By how much what is drilled lies beside where it is drawn, and what was said at worst, mm."""
    bench, made = gone_through(by_rings(), seed)
    return absolute(made, bench, "marks"), promised(made)


def promised(made: Plan) -> float:
    """What the page says at worst, mm."""
    return float(next(f.value for f in made.reports["register", ""].figures if f.label.endswith("at worst")))


@cache
def by_touched_marks() -> Plan:
    """The same by old holes of 8 mm, into which a pin is put."""
    from tests.core.pinned import brought_back

    return plan(brought_back(across=8.0), cell=CELL)


def of_touched_marks(seed: int) -> tuple[float, float]:
    """By how much holes lie beside where they are drawn on a board that is found by a pin in its old holes, and what was said at worst once it was found, mm."""
    bench, made = gone_through(by_touched_marks(), seed)
    return absolute(made, bench, "marks"), promised(made)


def of_pins(seed: int) -> tuple[float, float]:
    """By how much the second face lies beside the first, and what was said at worst, mm."""
    made = on_pins()
    return beside(made, cut_through(made, seed), "pins", "marks"), promised(made)


def of_three_pins(seed: int) -> tuple[float, float]:
    """The same on three pins."""
    made = on_three_pins()
    return beside(made, cut_through(made, seed), "pins", "marks", "third-pin"), promised(made)


def whole(name: str) -> Callable[[int], str]:
    """A shipped job gone through, found again on its way."""
    made = plan(load(EXAMPLES / f"{name}.gatepost").job)

    def one(seed: int) -> str:
        cut_through(made, seed)
        return "ended well"

    return one


def kept(shown_and_said: tuple[float, float]) -> str:
    """In a soak."""
    shown, said = shown_and_said
    assert shown <= said, f"{shown:.3f} beside the first face, {said:.3f} was said at worst"
    return "within, over half of it" if shown > said / 2.0 else "within half of what was said"
