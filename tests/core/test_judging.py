# SPDX-License-Identifier: GPL-3.0-or-later
"""A hold that is dragged is judged as the plan judges it where it is put down."""

import pytest

from gatepost.core.cache import Memory
from gatepost.core.carve.report import FLOOR
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.plan.dragging import Judge
from gatepost.core.plan.handling import moved
from gatepost.core.plan.pipeline import plan
from tests.conftest import some
from tests.core.catalogue_jobs import JOBS
from tests.core.told import CELL, differences

MEMORY = Memory(keep=32)
# what needs more than the hold itself and the moves: all holds together, the wood, how near a cut is, the finished face
NOT_ITS_OWN = {
    "hold.weak", "hold.ring", "hold.too-few", "hold.span", "hold.cupped-span", "hold.free-corner", "hold.on-flaw",
    "hold.steel-near", "hold.above-plane", "hold.on-the-face", "hold.rocks", "hold.work-off-bed", "hold.on-fence",
}  # fmt: skip
RANK = [Level.STOP, Level.CARE, None]
LAID = {**JOBS, "askew": lambda: commands.run(JOBS["plate"](), "set skew", {"setup": "front", "degrees": 2.5})}
BY = [(0.0, 0.0), (12.0, 0.0), (0.0, -6.0), (45.0, 1.5), (-70.0, 0.0), (25.0, 30.0), (0.0, 95.0)]
HELD = [
    (name, hold.name)
    for name in ("plate", "strapped", "screwed", "taped", "wedged", "askew")
    for hold in LAID[name]().setup("front").holds
]


@pytest.mark.parametrize("by", some(BY, 2))
@pytest.mark.parametrize(("name", "hold"), HELD)
def test_where_it_is_put_down_the_plan_says_what_the_drag_said(name, hold, by):
    reckoned = plan(LAID[name](), memory=MEMORY, cell=CELL)
    verdict = Judge(reckoned).judge("front", f"hold:{hold}", *by)
    after = plan(
        commands.run(reckoned.job, *moved(reckoned.job, "front", f"hold:{hold}", *by)), memory=MEMORY, cell=CELL
    )
    said = [
        f
        for f in after.findings
        if f.stage == "hold" and f.setup == "front" and hold in f.about.split() and f.code not in NOT_ITS_OWN
    ]
    worst = min((RANK.index(f.level) for f in said if f.level in RANK), default=2)
    assert verdict.worst is RANK[worst], [(f.code, f.message) for f in said]
    if verdict.worst is not None:
        assert any(not list(differences(verdict.sentence, f.message)) for f in said if f.level is verdict.worst)
    old, new = (next(h for h in p.job.setup("front").holds if h.name == hold) for p in (reckoned, after))
    assert verdict.by == (new.x - old.x, new.y - old.y)


def test_what_is_no_hold_is_not_judged():
    judge = Judge(plan(JOBS["plate"](), memory=MEMORY, cell=CELL))
    assert judge.judge("front", "zero", 1.0, 1.0) is None and judge.judge("front", "hold:C9", 1.0, 1.0) is None
    assert judge.judge("front", "hold:E1", 1e9, 0.0).worst is Level.STOP


@pytest.mark.parametrize("tip", [0.0, 0.8])
def test_lettering_too_deep_made_smaller_as_offered_leaves_the_wood_that_is_wanted(tip):
    job = commands.run(JOBS["plate"](), "set tool", {"number": 3, "tip": tip})
    job = commands.run(job, "scale lettering", {"factor": 6.0})
    deep = next(f for f in plan(job, memory=MEMORY, cell=CELL).findings if f.code == "carve.too-deep")
    done = plan(commands.run(job, deep.fixes[0].kind, deep.fixes[0].values), memory=MEMORY, cell=CELL)
    left = next(f for f in done.findings if f.code == "carve.floor")
    assert left.working.result == pytest.approx(FLOOR, abs=1e-3) and left.working.result >= FLOOR
