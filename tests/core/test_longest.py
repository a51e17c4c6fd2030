# SPDX-License-Identifier: GPL-3.0-or-later
"""Which edge of a board lies along a fence, and a board that is laid against it by following what is offered."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity

from gatepost.core.job import commands
from gatepost.core.plan.pipeline import plan
from gatepost.core.register.longest import longest_edge, straight_edges
from tests.conftest import tries
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.pinned import fenced

WITHIN = 0.3


@st.composite
def boards(draw):
    """Corners on an oval, at least so far apart, turned, some of their sides hollowed."""
    angles, at = [], draw(st.floats(0.0, 0.5))
    while at < 2.0 * math.pi - 0.4:
        angles.append(at)
        at += draw(st.floats(0.4, 1.8))
    corners = np.column_stack([200.0 * np.cos(angles), 120.0 * np.sin(angles)])
    if len(corners) < 3:
        corners = np.array([[0.0, 0.0], [200.0, 0.0], [80.0, 110.0]])
    return affinity.rotate(shapely.Polygon(corners), draw(st.floats(0.0, 360.0)), origin=(0, 0))


@settings(max_examples=tries(60), deadline=None)
@given(boards(), st.floats(-360.0, 360.0), st.floats(30.0, 500.0))
def test_turned_as_is_said_so_much_of_a_board_lies_along_the_fence_and_nothing_to_its_right(board, heading, fence):
    best = longest_edge(board, heading, WITHIN, fence)
    sides = np.hypot(*np.diff(np.asarray(board.exterior.coords), axis=0).T)
    assert best.long == pytest.approx(min(sides.max(), fence), rel=0.02, abs=1.0)
    turned = affinity.rotate(board, best.turn - heading, origin=(0, 0))  # the fence along X now
    y = np.asarray(turned.exterior.coords)[:, 1]
    low = shapely.box(-1e3, y.min() - 1.0, 1e3, y.min() + WITHIN)
    assert turned.exterior.intersection(low).length >= 0.98 * best.long - 1.0
    assert abs(best.turn) <= 180.0


def test_of_a_hollow_side_only_its_ends_touch():
    hollow = shapely.Polygon([(0, 0), (200, 0), (200, 90), (150, 90), (150, 70), (30, 70), (30, 90), (0, 90)])
    found = {round(e.turn) % 360: e.long for e in straight_edges(hollow, 0.0, WITHIN)}
    assert found[0] == pytest.approx(200.0, abs=1.0) and found[180] == pytest.approx(80.0, abs=2.0)


@pytest.mark.parametrize(
    "spoil",
    [
        ("set skew", {"setup": "front", "degrees": 3.0}),
        ("set outline", {"points": [(0, 0), (140, 6), (140, 70), (90, 80), (10, 78)]}),
        ("set register", {"setup": "front", "kind": "edge", "fence": "Stop", "stop": "Long edge"}),
        ("place blank", {"setup": "front", "x": 541.0, "y": 297.0}),
        ("set setup", {"setup": "front", "spin": 90}),
    ],
    ids=["askew", "no corner square", "the short one first", "elsewhere", "on its end"],
)
def test_a_board_is_laid_against_its_edges_by_what_is_offered(spoil):
    job = edited(JOBS["taped"](), *fenced(), spoil)
    for _ in range(6):
        made = plan(job, cell=1.0)
        about = [f for f in made.findings if f.code in ("register.edge-away", "register.edge-longer")]
        if not about:
            break
        fix = about[0].fixes[0]
        job = commands.run(job, fix.kind, dict(fix.values))
    assert not about and any(f.code == "register.edge-good" for f in made.findings)
    board = made.setup("front").placed.to_bed.area(shapely.Polygon(made.setup("front").blank.outline or shapely.box(0, 0, *made.setup("front").blank.across).exterior.coords))  # fmt: skip
    assert board.bounds[1] == pytest.approx(310.0, abs=0.01) or job.setup("front").comes.fence == "Stop"
    assert board.bounds[0] == pytest.approx(520.0, abs=0.01)
