# SPDX-License-Identifier: GPL-3.0-or-later
"""Jobs that are made ready: the bed skimmed, and test grooves on scrap, each run on the machine's engine."""

import sys
from pathlib import Path

import numpy as np
import pytest

from gatepost.core.errors import OperatorError
from gatepost.core.job.blank import Wood
from gatepost.core.job.journal import Journal
from gatepost.core.job.machine import BedThings, Machine, Scar
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.plan.pipeline import plan
from gatepost.core.plan.ready import groove_depths, groove_job, skimming, whole_bed
from gatepost.core.tools.groove import true_v
from gatepost.machine import keeping
from gatepost.machine.conduct import StepRunner

sys.path.insert(0, str(Path(__file__).parents[2] / "benchmarks"))
import shop

SCAR = Scar(points=((300.0, 300.0), (500.0, 300.0)), width=6.0, depth=0.4)


class Shelf:
    """What the shop keeps, as the logbook does."""

    def __init__(self, **kept):
        self.things = dict(kept)

    def keep(self, kind, name, data, at):
        self.things[kind, name] = data

    def kept(self, kind):
        return {n: type("Kept", (), {"data": d}) for (k, n), d in self.things.items() if k == kind}


def longer(tools, number, length):
    return tuple(t.model_copy(update={"length": length}) if t.number == number else t for t in tools)


def run(reckoned):
    bench = shop.Bench(reckoned, None)
    runner = StepRunner(bench, reckoned, Journal(), reckoned.laid_first)
    for setup in reckoned.setups:
        for step in setup.steps:
            runner.carry_out(setup, step)
    return bench.router, runner


@pytest.mark.parametrize("deep, area", [(0.3, (200.0, 150.0, 400.0, 300.0)), (1.2, (100.0, 300.0, 300.0, 200.0))])
def test_the_bed_is_skimmed_flat_by_as_much_as_is_asked_and_the_shop_keeps_it(deep, area):
    machine = Machine(bed=BedThings(scars=(SCAR,)))
    job = skimming(machine, longer(shipped_tools(), 1, 50.0), 1, area, deep, 0.4, "mm")
    reckoned = plan(job)
    assert not reckoned.stops and job.made_for == "skim" and not [q for q in reckoned.questions if q.stage == "hold"]
    (setup,) = reckoned.setups
    assert len(setup.passes) == 1 and float(setup.end.z.max()) == pytest.approx(18.0 - deep, abs=1e-4)
    router, _ = run(reckoned)
    z = router.wood.z[router.wood.z > 0]
    assert np.ptp(z) < 0.1 and float(z.mean()) == pytest.approx(18.0 - deep, abs=0.1)
    shelf = Shelf()
    shelf.keep("machine", machine.name, machine.model_dump(mode="json", exclude={"bed"}), "")
    shelf.keep("bed", machine.name, machine.bed.model_dump(mode="json"), "")
    keeping.scar_the_bed(reckoned, setup, setup.programs[0].name, "2026-11-30T10:15:00", shelf)
    bed, kept = shelf.things["bed", machine.name], shelf.things["machine", machine.name]
    assert bed["skimmed"] == "2026-11-30T10:15" and kept["spoilboard"] == pytest.approx(18.0 - deep)
    assert kept["nose_at_home"] == pytest.approx(machine.nose_at_home + deep)
    assert (len(bed["scars"]) == 0) == (deep == 0.3)  # it lies in the first area, not in the second


def test_as_much_as_is_left_can_t_be_skimmed_and_all_of_the_bed_fits_the_travel():
    machine, tools = Machine(), longer(shipped_tools(), 1, 50.0)
    for deep in (0.0, 12.1, 40.0):
        with pytest.raises(OperatorError, match="spoilboard"):
            skimming(machine, tools, 1, whole_bed(machine, tools[0]), deep, 0.4, "mm")
    reckoned = plan(skimming(machine, tools, 1, whole_bed(machine, tools[0]), 0.2, 0.45, "inch"), coarse=True)
    assert not reckoned.stops, [f.message for f in reckoned.stops]


@pytest.mark.parametrize("number, angle", [(3, 60.0), (4, 90.0)])
def test_grooves_cut_on_scrap_tell_the_v_that_cut_them(number, angle):
    """Measured on the wood that the simulated machine leaves, across a straight side of each, by a bit that is 1.5° blunter than is entered."""
    tools = shipped_tools()
    tool = tools[number - 1]
    depths = groove_depths(tool)
    job = groove_job(Machine(), tools, number, depths, Wood(name="pine", kind="soft"), "mm")
    reckoned = plan(job)
    assert not reckoned.stops, [f.message for f in reckoned.stops]
    (setup,) = reckoned.setups
    bench = shop.Bench(reckoned, None)
    bench.router.world.always = lambda what, which="": 1.5 if what == "angle" else 0.0
    runner = StepRunner(bench, reckoned, Journal(), reckoned.laid_first)
    for step in setup.steps:
        runner.carry_out(setup, step)
    wood = bench.router.wood
    top = wood.z.max()
    middle = wood.z[:, wood.z.shape[1] // 2]  # across both grooves' front and back sides
    found = [
        len(part) * wood.cell
        for part in np.split(
            np.flatnonzero(middle < top - 0.01), np.flatnonzero(np.diff(np.flatnonzero(middle < top - 0.01)) > 1) + 1
        )
    ]
    outer, inner = found[0], found[1]
    told = true_v(tool, depths, (outer, inner))
    assert told.angle.result == pytest.approx(angle + 1.5, abs=3 * wood.cell / (depths[1] - depths[0]) * 40)
    assert abs(told.angle.result - (angle + 1.5)) < abs(told.angle.result - angle) + told.within[0]


def test_no_groove_tells_what_is_no_v():
    with pytest.raises(OperatorError, match="none"):
        groove_job(Machine(), shipped_tools(), 2, (1.0, 3.0), Wood(name="pine", kind="soft"), "mm")
    with pytest.raises(OperatorError, match="deeper"):
        groove_job(Machine(), shipped_tools(), 4, (3.0, 2.0), Wood(name="pine", kind="soft"), "mm")
