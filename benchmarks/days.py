# SPDX-License-Identifier: GPL-3.0-or-later
"""Random shop days: a job of its own by seed, planned, what is offered to mend it taken, and gone through in a shop where nothing is quite as
planned, with a trouble in every third. Nothing may be cut outside what was said at worst, nothing may be hit, nothing cut on an axis that the
plain reckoning calls lost, and a trouble that could show must have been caught."""

from __future__ import annotations

import random
from typing import Any

import shop
from gatepost.core.carve.edits import outlines
from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.fixes import apply
from gatepost.core.job.model import Job
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.plan.pipeline import plan
from gatepost.core.plan.result import Plan
from gatepost.core.zero.trust import Trust, where
from gatepost.machine.rehearsal import BY_NAME, TROUBLES, tells_of
from histories import Plain

WORDS = ("IT", "ELM", "LOCK 7", "TEA", "PIER", "No 4", "QUAY")
MENDS = 12  # fixes taken at most
IN_ENGINE = tuple(t.name for t in TROUBLES if t.name not in ("drop link", "stall"))
LINK_CUT = ("power loss",)


def a_job(chance: random.Random) -> Job:
    """A board of about 200 × 120, lettered, now and then cut out or surfaced."""
    long, wide, tall = chance.uniform(150, 260), chance.uniform(90, 150), chance.uniform(12, 28)
    x, y = chance.uniform(150, 800), chance.uniform(210, 300)
    job = Job(tools=shipped_tools())
    top = round(tall, 1)

    def do(what: str, **values: Any) -> None:
        nonlocal job
        job = commands.run(job, what, values)

    do(
        "set wood",
        name=chance.choice(("elm", "oak", "larch")),
        kind=chance.choice(("soft", "medium", "hard")),
        density=chance.uniform(420, 760),
    )
    do("set blank", length=long, width=wide, label_thickness=top, reclaimed=False, rocks=False)
    for fx, fy in ((0.1, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9)):
        do("add caliper", x=fx * long, y=fy * wide, thickness=round(tall + chance.uniform(-0.1, 0.1), 2))
    rough = chance.random() < 0.25
    if rough:
        for fx, fy in ((0.1, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9), (0.5, 0.5)):
            do("add height", x=fx * long, y=fy * wide, z=tall + chance.uniform(0.0, 1.6))
    elif chance.random() < 0.25:
        do("set blank", shape=chance.choice(("round", "oval")))
    for setup in ("surface", "front"):
        do("place blank", setup=setup, x=x, y=y)
    way = chance.choice(("edge", "tape", "strap")) if job.blank.shape == "rectangle" else "tape"
    for setup in ("surface", "front") if rough else ("front",):
        held = "edge" if setup == "surface" else way
        for fx in (0.3, 0.7):
            at, pressing = x + fx * long, {"kind": "edge", "height": 0.5 * tall, "force": 1800.0}
            strapped = {"kind": "strap", "tail": 40, "packing": tall + 0.5, "width": 24}
            up = 500.0 if y + wide < 460 else 600.0
            if held == "edge":
                do("add hold", setup=setup, x=at, y=y, heading=90, **pressing)
                do("add hold", setup=setup, x=at, y=y + wide, heading=270, **pressing)
            elif held == "strap":
                do("add hold", setup=setup, x=at, y=200.0, heading=90, nose=y + 12 - 200.0, **strapped)
                do("add hold", setup=setup, x=at, y=up, heading=270, nose=up - (y + wide - 12), **strapped)
        if held == "tape":
            for fy in (0.3, 0.7):
                do(
                    "add hold",
                    setup=setup,
                    kind="tape",
                    x=x + 0.5 * long,
                    y=y + fy * wide,
                    heading=0,
                    length=0.7 * long,
                    width=25,
                )
    where_ = chance.choice(("centre", "front left", "back right")) if job.blank.shape == "rectangle" else "centre"
    xy_way = chance.choice(("pointer", "pin", "cutter")) if job.blank.shape == "rectangle" else "pointer"
    for setup in ("surface", "front"):
        do(
            "set zero", setup=setup, xy=where_, xy_way=xy_way, z="top", touch_x=0.5 * long, touch_y=0.5 * wide if setup == "surface" else 14.0,
            gauge=chance.choice(("plate", "paper")), gauge_thickness=0.1, square=chance.choice(("no", "edge", "line")), pin=chance.choice((3.0, 6.0, 8.0)),
        )  # fmt: skip
        if job.setup(setup).zero.gauge == "plate":
            do("set zero", setup=setup, gauge_thickness=chance.uniform(3, 20))
    do(
        "add line",
        height=chance.uniform(14, 0.35 * wide),
        **outlines(chance.choice(WORDS), chance.choice(("Sans", "Slab"))),
    )
    do("set carving", x=0.5 * long, y=0.5 * wide, tool=chance.choice((3, 4)), margin=6, sanding=0.2)
    if chance.random() < 0.3 and job.blank.shape == "rectangle" and way != "strap":
        do(
            "set plate",
            x=0.5 * long,
            y=0.5 * wide,
            width=long - 40,
            height=wide - 36,
            corner=10,
            tool=2,
            tabs=4,
            tab_width=10,
            tab_height=5,
        )
    do("set surfacing", wanted="yes" if rough else "no")
    return job


def mended(job: Job) -> Plan:
    """The plan once what is offered to mend it was taken; stops may stand."""
    reckoned = plan(job)
    for _ in range(MENDS):
        stop = next((f for f in reckoned.stops if f.fixes), None)
        if stop is None:
            break
        job = apply(job, stop.fixes[0])
        reckoned = plan(job)
    return reckoned


def of_a_shop_day(seed: int) -> str:
    """One day; how it ended, or an assertion."""
    chance = random.Random(seed)
    try:
        reckoned = mended(a_job(chance))
    except OperatorError as error:
        return f"refused: {str(error)[:90]}"
    if reckoned.stops:
        return "barred by a stop"
    if not any(s.programs for s in reckoned.setups):
        return "nothing to run"
    trouble = chance.choice(IN_ENGINE) if chance.random() < 1 / 3 else ""
    out = shop.run_through(reckoned, seed, [trouble] if trouble else [])
    announced = {f.code for f in reckoned.findings if f.level is Level.CARE}
    for setup, entries in out.cut_on:
        _known(reckoned, setup, entries)
    if trouble:
        if out.ended:
            assert (
                tells_of(BY_NAME[trouble], out.ended)
                or trouble in LINK_CUT
                or "no contact" in out.ended
                or "circuit" in out.ended
            ), (trouble, out.step, out.ended)
            return "a trouble caught"
        assert trouble in out.left or trouble in ("dead plate", "shorted plate", "dirty plate"), (
            trouble,
            "was not caught",
        )
        assert out.over == 0.0 or announced & {"zero.askew", "zero.budget"}, (trouble, out.where, out.over)
        return "a trouble that did not come about"
    if (
        out.ended
        and " ran into " in out.ended
        and any(f.code == "hold.clearance" and f.about in out.ended for f in reckoned.findings)
    ):
        return "ran into a hold that was said to be too near"
    assert not out.ended, (out.step, out.ended)
    assert out.over == 0.0 or announced & {"zero.askew", "zero.budget"}, (out.where, out.over)
    return "ended well, within at worst" if out.over == 0.0 else "outside at worst, and that was said"


def _known(reckoned: Plan, setup: str, entries: Any) -> None:
    """Nothing was cut on an axis that the plain reckoning calls lost."""
    plain = Plain(where(reckoned.job, reckoned.job.setup(setup)))
    for e in entries:
        plain.hear(e.kind, e.setup, dict(e.data))
    for name, axis in (("X", plain.x), ("Y", plain.y), ("Z", plain.z)):
        assert axis.known is not Trust.LOST, f"cut in {setup} with {name} lost by {axis.doubts}"


def of_a_day_through_the_process(seed: int) -> str:
    """The same day on the simulated machine as it is started, over its link: it ends as on its engine, where what is cut was held against
    what is said at worst, and touches the same zeros."""
    told = of_a_shop_day(seed)
    chance = random.Random(seed)
    reckoned = mended(a_job(chance))
    if reckoned.stops or not any(s.programs for s in reckoned.setups):
        return told
    trouble = chance.choice(IN_ENGINE) if chance.random() < 1 / 3 else ""
    faults = [trouble] if trouble else []
    engine = shop.run_through(reckoned, seed, faults, check=False)
    ended, zeros = shop.through_the_process(reckoned, seed, faults)
    assert bool(ended) == bool(engine.ended), (trouble, ended, engine.ended)
    assert trouble or ended == engine.ended, (ended, engine.ended)
    assert len(zeros) == len(engine.zeros), (trouble, zeros, engine.zeros)
    for (axis, here), (other, there) in zip(zeros, engine.zeros):
        assert axis == other and abs(here - there) < 0.002, (axis, here, there)
    return f"{told}, and so through the process"
