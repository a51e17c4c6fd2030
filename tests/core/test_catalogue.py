# SPDX-License-Identifier: GPL-3.0-or-later
"""The catalogue of findings: each is silent up to its border and fires over it, and every fix mends what it is offered for."""

from dataclasses import replace

import pytest
import shapely

from gatepost.core.blank.shape import polygon
from gatepost.core.cache import Memory
from gatepost.core.carve.report import fit_to_margin
from gatepost.core.findings import Fix
from gatepost.core.job.fixes import apply
from gatepost.core.plan.pipeline import plan
from gatepost.core.surface import report as surface_report
from gatepost.core.surface import rows
from gatepost.core.tools import report as tools_report
from gatepost.core.tools.order import Order
from tests.conftest import some
from tests.core import told
from tests.core.catalogue import ROWS
from tests.core.catalogue_jobs import CARE, JOBS, STOP, edited, happened, slab
from tests.core.told import CELL, WAS, as_read, cell_of, differences, sound

MEMORY = Memory(keep=64, wholes=48)


def judged(name, edits=(), cell=CELL):
    """A sound job and its plan after some edits."""
    job = edited(JOBS[name](), *edits)
    return job, plan(job, happened(*edits), MEMORY, cell)


def of(reckoned, row):
    return [f for f in reckoned.findings if f.code == row.code and f.level is row.level]


@pytest.mark.parametrize("name", JOBS)
def test_a_sound_job_is_sound_and_is_told_as_it_was_looked_through(name):
    _, reckoned = judged(name)
    assert not reckoned.stops and not reckoned.questions
    assert not list(differences(as_read(sound(reckoned)), WAS["sound"].get(name, {})))


@pytest.mark.parametrize("row", some(ROWS, 120), ids=lambda r: r.name)
def test_a_finding_is_silent_up_to_its_border_and_fires_over_it_and_its_fixes_mend_it(row):
    cell = cell_of(row)
    if row.level in (STOP, CARE):
        assert not of(judged(row.job, (), cell)[1], row)
    if row.near:
        assert not of(judged(row.job, row.near, cell)[1], row)
    job, reckoned = judged(row.job, row.over, cell)
    fired = of(reckoned, row)
    assert fired and all(f.message and "⟦nan⟧" not in f.message and "⟦inf⟧" not in f.message for f in fired)
    assert not list(differences(as_read(told.fired(reckoned, row)), WAS["fired"].get(row.name, [])))
    if row.level in (STOP, CARE) and not row.code.endswith("-asked"):  # what is asked is answered, and may bar
        had = {(f.code, f.setup, f.about) for f in reckoned.stops}
        for finding in some(fired[:2], 1):
            for fix in some(finding.fixes[:2], 1):
                mended(job, row, finding, fix, had)


def mended(job, row, finding, fix, had):
    """A fix removes its finding and adds no stop; where it is an amount, nine tenths of it are not enough."""
    journal = happened(*row.over)
    me = (finding.code, finding.setup, finding.about)
    after = plan(apply(job, fix), journal, MEMORY, cell=CELL)
    assert not [f for f in after.findings if (f.code, f.setup, f.about) == me and f.stands], fix
    assert {(f.code, f.setup, f.about) for f in after.stops} <= had, fix
    now = {k: v for k, v in numbers_now(job, fix).items() if v != fix.values[k]}
    if now and row.code in LEAST and "on blocks of" not in fix.sentence:  # blocks come in whole numbers
        short = {**fix.values, **{k: v + 0.9 * (fix.values[k] - v) for k, v in now.items()}}
        still = plan(apply(job, Fix(fix.kind, short, "")), journal, MEMORY, cell=CELL)
        assert any((f.code, f.setup, f.about) == me and f.stands for f in still.findings), (fix, short)


LEAST = {
    "hold.clearance", "hold.nose-up", "hold.nose-steep", "zero.travel", "carve.too-wide", "carve.too-deep", "carve.margin",
    "carve.too-thin", "carve.tabs-weak", "tools.rubs", "tools.rpm", "tools.rim-speed", "surface.rubs", "surface.wished",
}  # fmt: skip
# the others' fixes go to a place (a slot, a jaw on its edge) or to whole passes, and nine tenths of the way may do


def numbers_now(job, fix):
    """What a fix's numbers are before it is applied."""
    v = fix.values
    if fix.kind == "set hold":
        hold = next(h for h in job.setup(v["setup"]).holds if h.name == v["hold"])
        return {k: getattr(hold, k) for k in v if k not in ("setup", "hold", "pilot", "fresh", "metal")}
    if fix.kind == "set tool":
        return {k: getattr(job.tool(v["number"]), k) for k in v if k != "number"}
    if fix.kind == "set plate":
        return {k: getattr(job.carving.plate, k) for k in v if k not in ("tabs", "operation")}
    if fix.kind == "set surfacing":
        return {k: getattr(job.surfacing, k) for k in v if k in ("limit", "last", "target_thickness")}
    if fix.kind == "place blank":
        return {"x": job.setup(v["setup"]).x, "y": job.setup(v["setup"]).y}
    return {"factor": 1.0} if fix.kind == "scale lettering" else {}


def test_no_figure_of_the_core_changes_unseen():
    assert told.constants() == WAS["constants"]


def test_the_table_notices_a_word_a_figure_and_something_left_out():
    was = {"a": ["cut ⟦1.5⟧ deep", 2.0, None]}
    assert not list(differences({"a": ["cut ⟦1.5001⟧ deep", 2.0001, None]}, was))
    for other in (["cut ⟦1.6⟧ deep", 2.0, None], ["cuts ⟦1.5⟧ deep", 2.0, None], ["cut ⟦1.5⟧ deep", 2.01, None], []):
        assert list(differences({"a": other}, was))
    assert list(differences({}, was))


def test_a_row_that_is_left_out_is_missed():
    job, reckoned = judged("slab")
    surfaced, tool = reckoned.surfaced, job.tool(1)
    board = shapely.box(0, 0, 120, 80)
    lines = [line for _, each in surfaced.lines[-1:] for line in each]
    points = shapely.get_coordinates(shapely.multilinestrings(lines))
    assert not rows.missed(board, [points], tool.diameter / 2)
    far = tuple(rows.missed(board, [points[points[:, 1] < 30.0]], tool.diameter / 2))
    assert far and far[0].y > 30.0
    for missed, code in (((), "surface.covered"), (far, "surface.missed")):
        said = surface_report.report(job.surfacing, tool, job.blank, replace(surfaced, missed=missed))
        assert code in {f.code for f in said.findings}


@pytest.mark.parametrize("minutes", [10.0, 10.5])
def test_an_order_that_takes_longer_than_the_quickest_says_by_how_much(minutes):
    order, best = Order(("a", "b"), minutes, 1), Order(("b", "a"), 10.0, 1)
    said = tools_report.report(tools_report.Tooled(order, best, "", (), (), slab().machine)).findings
    assert [f.code for f in said] == (["tools.slower"] if minutes > 10 else ["tools.order-kept"])


@pytest.mark.parametrize("name", ["plate", "strapped", "live"])
@pytest.mark.parametrize("margin", [0.0, 4.0, 12.0])
def test_lettering_made_to_fit_fills_its_room_up_to_the_margin_and_no_further(name, margin):
    job = edited(JOBS[name](), ("set carving", {"margin": margin}))
    reckoned = plan(job, memory=MEMORY, cell=CELL)
    factor = fit_to_margin(job.carving, polygon(job.blank), reckoned.made["lettering"])
    for times, fits in ((0.999, True), (1.01, False)):
        scaled = edited(job, ("scale lettering", {"factor": factor * times}))
        codes = {f.code for f in plan(scaled, memory=MEMORY, cell=CELL).findings}
        assert ("carve.inside-margin" in codes) is fits and ("carve.margin" in codes) is not fits
    assert fit_to_margin(job.carving, polygon(job.blank), replace(reckoned.made["lettering"], letters=())) is None
    wide = edited(job, ("set carving", {"margin": 200.0}))
    assert fit_to_margin(wide.carving, polygon(wide.blank), reckoned.made["lettering"]) is None


@pytest.mark.parametrize("name", ["plate", "whole"])
@pytest.mark.parametrize("rounds", [398.5, 399.9, 400.1, 401.5])
def test_a_cut_out_is_there_or_it_is_said_that_it_is_not(name, rounds):
    job = JOBS[name]()
    top = plan(job, memory=MEMORY, cell=CELL).setup("front").start.z.max() + 0.3
    told_ = plan(edited(job, ("set tool", {"number": 2, "pass_depth": float(top) / rounds})), memory=MEMORY, cell=CELL)
    cut = any(op.kind == "cutout" for op in told_.setup("front").operations)
    assert cut != ("carve.too-many-passes" in {f.code for f in told_.stops}) and cut == (rounds < 400)
