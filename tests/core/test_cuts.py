# SPDX-License-Identifier: GPL-3.0-or-later
"""An operation of several cuts, each with its own tool: each is ordered, written, swept and told by itself."""

from dataclasses import replace

import numpy as np
import pytest
from shapely.geometry import box

from gatepost.core.cutting import Drawn, Engaged, Envelope
from gatepost.core.job import commands
from gatepost.core.job.base import Model
from gatepost.core.motion import Pen
from gatepost.core.operation_kind import OperationKind, OperationTold
from gatepost.core.plan.export import plan_json
from gatepost.core.plan.kinds import SHIPPED, Kinds
from gatepost.core.plan.pipeline import plan
from tests.core.catalogue_jobs import JOBS
from tests.core.told import CELL


class Stepped(Model):
    """A slot along X from x0 to x1 at y: so deep by the first tool, deeper by the second."""

    first: int = 2
    second: int = 3
    y: float = 20.0
    x0: float = 30.0
    x1: float = 90.0
    rough: float = 1.0
    deep: float = 2.0


class SteppedKind(OperationKind):
    name, figures, one = "stepped", Stepped, "stepped slot"

    def tools(self, figures):
        return figures.first, figures.second

    def cuts(self, figures, tools, site):
        return tuple(
            self._slot(figures, tool, site, depth, stage)
            for tool, depth, stage in zip(tools, (figures.rough, figures.deep), ("rough", "clean"))
        )

    def _slot(self, f, tool, site, depth, stage):
        pen = Pen(*site.home(tool))
        pen.rapid(z=site.travel)
        pen.rapid(x=f.x0, y=f.y)
        pen.feed(tool.plunge, z=site.face - depth)
        pen.feed(tool.feed, x=f.x1)
        pen.rapid(z=site.travel)
        return Drawn(tool, pen.moves(), Engaged(tool.diameter, depth), stage=stage)

    def envelope(self, figures, tools, site):
        half = max(t.diameter for t in tools) / 2.0 + 2 * site.cell

        def slot():
            return box(figures.x0 - half, figures.y - half, figures.x1 + half, figures.y + half)

        return Envelope(slot, site.face - figures.deep - 0.01, key=figures)

    def told(self, figures, tools, at):
        return OperationTold(fact=f"{len(tools)} tools")


STEPPED = Kinds("tests.core.test_cuts:STEPPED", {**SHIPPED.operations, "stepped": SteppedKind()}, SHIPPED.artwork, SHIPPED.holds)  # fmt: skip


def edited(job, *edits):
    for name, values in edits:
        job = commands.run(job, name, values, STEPPED.figures)
    return job


@pytest.fixture(scope="module")
def job():
    small = JOBS["plate"]().tool(2).model_copy(update={"number": 7, "name": "small end mill", "diameter": 3.0})
    return edited(
        JOBS["plate"](), ("add tool", {"tool": small}),
        ("add operation", {"setup": "front", "kind": "stepped", "id": "groove", "second": small.number}),
    )  # fmt: skip


def test_each_cut_is_a_row_with_its_operation_stage_and_tool(job):
    done = plan(job, cell=CELL, kinds=STEPPED)
    rows = [r for r in plan_json(done, [])["setups"][0]["operations"] if r["operation"] == "groove"]
    assert [(r["name"], r["stage"], r["tool"]) for r in rows] == [
        ("groove, rough", "rough", 2),
        ("groove, clean", "clean", 7),
    ]
    assert rows[0]["program"] != rows[1]["program"]
    front = done.setup("front")
    rough, clean = (next(o for o in front.operations if o.stage == s) for s in ("rough", "clean"))
    assert [front.start.at(60.0, 20.0) - c.after.at(60.0, 20.0) for c in (rough, clean)] == pytest.approx(
        [1.0, 2.0], abs=0.01
    )
    assert (
        rough.push > 0
        and clean.push > 0
        and {m.load.operation for m in front.margins} >= {"groove, rough", "groove, clean"}
    )
    assert "2 tools" in done.report("carve").fact


def test_a_cut_comes_after_those_before_it_whatever_order_is_asked_for(job):
    names = list(plan(job, cell=CELL, kinds=STEPPED, coarse=True).order.names)
    assert names.index("groove, rough") < names.index("groove, clean")
    asked = edited(job, ("set order", {"order": tuple(reversed(names))}))
    told = plan(asked, cell=CELL, kinds=STEPPED, coarse=True)
    assert told.order.names.index("groove, rough") < told.order.names.index("groove, clean")
    assert [
        f for f in told.findings if f.stage == "tools" and f.level.value != "ok"
    ]  # and that it can't be had is said
    waits = edited(
        job, ("add operation", {"setup": "front", "kind": "stepped", "id": "later", "y": 40.0, "after": ("groove",)})
    )
    order = plan(waits, cell=CELL, kinds=STEPPED, coarse=True).order.names
    assert max(order.index(n) for n in ("groove, rough", "groove, clean")) < order.index("later, rough")


def test_what_is_left_standing_counts_after_the_last_cut_alone(job, monkeypatch):
    plain = SteppedKind.envelope

    def flat(self, figures, tools, site):
        return replace(plain(self, figures, tools, site), area=None, high=site.face - 0.5, low=-np.inf)

    monkeypatch.setattr(SteppedKind, "envelope", flat)
    said = [f for f in plan(job, cell=CELL, kinds=STEPPED).findings if f.code == "wood.left"]
    assert len(said) == 1  # the rest of the face stands, and that is told once


def test_a_tool_that_is_not_there_leaves_the_whole_operation_out(job):
    done = plan(
        edited(job, ("set operation", {"operation": "groove", "second": 9})), cell=CELL, kinds=STEPPED, coarse=True
    )
    assert not [o for o in done.setup("front").operations if o.operation == "groove"]
    assert [f.message for f in done.stops if f.code == "carve.no-tool"] == ["Tool 9 is not in the table."]
