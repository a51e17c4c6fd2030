# SPDX-License-Identifier: GPL-3.0-or-later
"""Whole jobs on the simulated machine's engine itself, in this process, in a shop where nothing is quite as planned: is what is cut
within what Zero says at worst? A sample is in the tests, a hundred seeds of each shipped job in the soak."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np
from scipy.ndimage import maximum_filter, minimum_filter

from engine import Engine
from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.machine import launch
from gatepost.machine.blocks import blocks_of
from gatepost.machine.conduct import StepRunner
from gatepost.machine.link import State
from gatepost.machine.session import Session
from gatepost.machine.standins.router import Router
from gatepost.machine.standins.state import Profile
from gatepost.machine.standins.wood import NONE, BedWood
from gatepost.machine.standins.world import OFF, World

GRAIN = 0.03  # mm that stamping and the plan's own grid may differ by at a floor
SIDE = 1.0  # cells that a wall may stand otherwise by


class Bench(Engine):
    """What a session offers, with the engine in this process."""

    def __init__(self, plan: Plan, seed: int | None, faults: Sequence[str] = ()) -> None:
        with TemporaryDirectory() as folder:
            launch.prepare(plan, Path(folder))
            wood = BedWood.load(Path(folder) / "wood.npy")
        profile = Profile(**json.loads(json.dumps(launch.profile_of(plan.job.machine))))
        super().__init__(Router(profile, wood, tuple(faults), world=World(seed)))
        self.limits: Any = None
        self.called_off = False
        self.state = State.UNHOMED

    @property
    def last(self) -> dict[str, Any]:
        r = self.router
        work, zero = (r.at - r.zero).tolist(), r.zero.tolist()
        return {"state": r.state, "clock": r.clock, "machine": r.at.tolist(), "work": work, "zero": zero}

    def fit(self, tool: dict[str, Any]) -> None:  # type: ignore[override]
        self._do(("fitted",), "fit", tool=tool)

    def lay(
        self, dx: float, dy: float, standing: Any = None, still: bool = False, off: Any = None, turned: Any = None,
        fresh: bool = False, pins: Any = (), play: float = 0.0, were: Any = (), seats: Any = (), holes: Any = (),
    ) -> None:  # fmt: skip
        more = (
            {
                "pins": [[*p] for p in pins],
                "play": play,
                "were": [[*p] for p in were],
                "seats": [[*s] for s in seats[:200]],
            }
            if pins
            else {}
        )
        more |= {"holes": [[*h] for h in holes]} if holes else {}
        more |= {"standing": standing} if standing is not None else {}
        more |= {"off": [*off]} if off is not None else {}
        more |= {"turned": [*turned]} if turned is not None else {}
        self._do(("laid",), "lay", dx=dx, dy=dy, still=still, fresh=fresh, **more)

    def push(self, x: float, y: float, degrees: float) -> None:
        self._do(("pushed",), "push", x=x, y=y, degrees=degrees)

    def turn(self, ways: Any) -> None:
        self._do(("turned",), "turn", ways=[[*w] for w in ways])

    def take_up(self) -> None:
        self._do(("taken-up",), "take-up")

    def look_over(self, at: str = "") -> list[str]:
        return list(self._do(("seen",), "look", at=at)["things"])

    def calipers(self) -> list[float]:
        return list(self._do(("measured",), "calipers")["corners"])

    def gauge(self, x: float, y: float, near: float, about: float) -> tuple[float, float]:
        said = self._do(("gauged",), "gauge", x=x, y=y, near=near, about=about)
        return float(said["low"]), float(said["deep"])

    def spin(self, rpm: float) -> None:
        self._do(("set",), "spindle", rpm=rpm)

    def look(self) -> None:
        self._do(("state",), "state")

    def mend(self, what: str) -> None:
        self._do(("mended",), "mend", what=what)

    def run(self, text: str, progress: Any = None, seconds: Any = (), holds: Any = ()) -> str:  # type: ignore[override]
        r, blocks = self.router, blocks_of(text)
        self._do(("begun",), "begin")
        r.said.clear()
        n = 0
        while n < len(blocks) or r.state == "moving":
            while n < len(blocks) and n - r.done < 60:
                n += 1
                r.hear({"do": "block", "n": n, "text": blocks[n - 1]})
            r.advance(2.0)
            while r.said:
                said = r.said.popleft()
                if said["say"] in ("fault", "refused"):
                    raise OperatorError(said["reason"])
            if r.dark:
                r.dark = False
                raise OperatorError("The link to the machine is lost.")
        return "done"


@dataclass
class Outcome:
    """How a job went. ended: why it ended early, or nothing; over: by how much the worst place is outside what was said at worst, mm; cut_on:
    of each run its setup, and all that had happened before it; left: troubles that did not come about; zeros: as touched, in
    order."""

    ended: str = ""
    step: str = ""
    over: float = 0.0
    where: str = ""
    cut_on: list[tuple[str, tuple[Any, ...]]] = field(default_factory=list)
    zeros: list[tuple[str, float]] = field(default_factory=list)
    left: frozenset[str] = frozenset()


def run_through(plan: Plan, seed: int | None, faults: Sequence[str] = (), check: bool = True) -> Outcome:
    """All steps of all setups, and what was cut held against what was planned after each program."""
    bench = Bench(plan, seed, faults)
    conductor = StepRunner(bench, plan, Journal(), plan.laid_first)  # type: ignore[arg-type]
    out = Outcome()
    for setup in plan.setups:
        for step in setup.steps:
            if step.kind == "run":
                out.cut_on.append((setup.name, conductor.journal.standing()))
            try:
                conductor.carry_out(setup, step)
            except OperatorError as error:
                out.ended, out.step = str(error), step.title
                break
            if step.kind == "run" and check:
                file = plan.program(step.program)
                assert file is not None
                after = next(o for o in setup.operations if o.name == file.operations[-1])
                over, where = outside(bench.router, setup, after.after, plan)
                if over > out.over:
                    out.over, out.where = over, f"{step.program}: {where}"
        if out.ended:
            break
    out.left, out.zeros = frozenset(bench.router.trouble), touched(conductor.journal)
    return out


def through_the_process(plan: Plan, seed: int, faults: Sequence[str] = ()) -> tuple[str, list[tuple[str, float]]]:
    """All steps of all setups on the simulated machine as it is started, over its link: why it ended early, or nothing, and every zero that was
    touched."""
    machine = launch.start(plan, "max", list(faults), seed=seed)
    session, ended = Session(machine.host, machine.port), ""
    try:
        conductor = StepRunner(session, plan, Journal(), plan.laid_first)
        for setup in plan.setups:
            for step in setup.steps:
                conductor.carry_out(setup, step)
    except OperatorError as error:
        ended = str(error)
    finally:
        session.close()
        machine.end()
    return ended, touched(conductor.journal)


def touched(journal: Journal) -> list[tuple[str, float]]:
    """Every zero that was touched, in order."""
    return [(str(e.data["axis"]), float(e.data["machine"])) for e in journal.standing() if e.kind == "touched"]


def outside(router: Router, setup: PlannedSetup, planned: Any, plan: Plan) -> tuple[float, str]:
    """By how much the wood on the bed is outside what was planned, moved by what the setup says at worst; and where. mm."""
    wood = router.wood
    assert wood is not None
    budget = {f.label: f.value for f in plan.reports["zero", setup.name].figures}
    across, deep = worst_of(plan, setup)
    cell = planned.cell
    reach = across + 0.5 * OFF["outline"] + SIDE * max(cell, wood.cell)
    steps = int(np.ceil(reach / cell))
    j, i = np.mgrid[-steps : steps + 1, -steps : steps + 1]
    disc = (j * j + i * i) * cell * cell <= reach * reach + 1e-9
    z = np.where(planned.wood, planned.z, np.nan)
    low = minimum_filter(np.where(np.isnan(z), np.inf, z), footprint=disc, mode="nearest")
    beyond = np.where(setup.start.wood, -np.inf, np.inf)  # an edge that lies otherwise may keep a hair of wood
    high = maximum_filter(np.where(np.isnan(z), beyond, z), footprint=disc, mode="constant", cval=np.inf)
    x0, y0 = planned.x0 + setup.setup.x, planned.y0 + setup.setup.y
    rows, columns = np.nonzero(planned.wood)
    places = np.column_stack([x0 + cell * columns, y0 + cell * rows])
    wi, wj = (
        np.rint((places[:, 0] - wood.x0) / wood.cell).astype(int),
        np.rint((places[:, 1] - wood.y0) / wood.cell).astype(int),
    )
    there = (wi >= 0) & (wj >= 0) & (wi < wood.z.shape[1]) & (wj < wood.z.shape[0])
    rows, columns, wi, wj = rows[there], columns[there], wi[there], wj[there]
    real = wood.z[wj, wi].astype(float)
    keep = real > NONE
    rows, columns, real = rows[keep], columns[keep], real[keep]
    thicker = OFF["thickness"] if not plan.thickness.measured else launch.MEASURED
    slack = deep + GRAIN + thicker
    above, below = real - high[rows, columns] - slack, low[rows, columns] - real - slack
    worst = np.maximum(above, below)
    at = int(np.argmax(worst))
    words = f"{'above' if above[at] > below[at] else 'below'} at {columns[at] * cell:.0f}, {rows[at] * cell:.0f} of {budget}"
    return max(0.0, float(worst[at])), words


def worst_of(plan: Plan, setup: PlannedSetup) -> tuple[float, float]:
    """What a setup's zeros say at worst, across and upright, at the farthest cut."""
    worst = [f.value for f in plan.reports["zero", setup.name].figures if f.label.endswith("at worst")]
    return float(worst[0]), float(worst[1])


def soak(name: str, plan: Plan, seeds: Sequence[int], tell: Callable[[str], None] = print) -> int:
    """How many of the seeds went ill."""
    ill = 0
    for seed in seeds:
        out = run_through(plan, seed)
        if out.ended or out.over > 0.0:
            ill += 1
            tell(f"{name}, seed {seed}: {out.ended or out.where} {out.step} {out.over:.3f}")
    return ill
