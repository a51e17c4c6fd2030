# SPDX-License-Identifier: GPL-3.0-or-later
"""Pass by pass over awkward outlines: what the plan says is clean and left, against sweeping each pass over the wood."""

import numpy as np
import pytest

from gatepost.core.job import commands
from gatepost.core.motion import Moves
from gatepost.core.plan.pipeline import plan
from gatepost.core.surface import passes
from gatepost.core.tolerances import CLEAN
from gatepost.core.wood.field import cut, cutter_of
from tests.conftest import some

OUTLINES = {
    "round": {"shape": "round", "length": 260.0},
    "oval": {"shape": "oval", "length": 420.0, "width": 180.0},
    "an L": ((0, 0), (400, 0), (400, 80), (90, 80), (90, 240), (0, 240)),
    "a U": ((0, 0), (380, 0), (380, 220), (300, 220), (300, 70), (80, 70), (80, 220), (0, 220)),
    "a spike": ((0, 40), (420, 90), (0, 150), (60, 95)),
    "a rectangle": {"length": 300.0, "width": 140.0},
}
WAYS = [("along X", "outline", "both ways"), ("at an angle", "outline", "climb"), ("along Y", "rectangle", "both ways")]


TRIED = [(name, *WAYS[i % 2]) for i, name in enumerate(OUTLINES)] + [("an L", *WAYS[0]), ("a U", *WAYS[2])]


@pytest.mark.parametrize(("name", "direction", "path", "way"), TRIED, ids=[f"{t[0]}, {t[2]} {t[1]}" for t in TRIED])
def test_every_pass_leaves_what_the_plan_says(name, direction, path, way, quay):
    shape = OUTLINES[name]
    job = (
        commands.run(quay, "set blank", shape)
        if isinstance(shape, dict)
        else commands.run(quay, "set outline", {"points": shape})
    )
    b = job.blank
    rows = []
    for u in np.linspace(0.03, 0.97, 6):
        for v in np.linspace(0.05, 0.95, 5):
            rows.append(
                (u * b.length, v * b.width, 20.0 + 1.6 * (u - 0.4) ** 2 + 2.2 * (v - 0.5) ** 2 + 0.3 * np.sin(9 * u))
            )
    job = commands.run(job, "set heights", {"face": "top", "rows": rows})
    job = commands.run(
        job, "set surfacing",
        {"wanted": "yes", "direction": direction, "angle": 33.0, "path": path, "way": way, "limit": 0.5, "last": 0.2},
    )  # fmt: skip
    whole = plan(job, coarse=True)
    setup = whole.setup("surface")
    assert not [f for f in whole.findings if f.code == "surface.missed"]
    wood, tool = setup.start, job.tool(job.surfacing.tool)
    inside = wood.wood
    before = wood.z[inside].astype(float)
    for told, (plane, lines) in zip(setup.passes, whole.surfaced.lines, strict=True):
        assert told.z == plane
        if lines:
            start = (float(lines[0][0, 0]), float(lines[0][0, 1]), 60.0)
            moves = passes.moves([(plane, lines)], tool, 60.0, start)
            assert isinstance(moves, Moves)
            wood = cut(wood, moves, cutter_of(tool)).after
        # brute force: cell by cell, all above the plane is gone and nothing below it was touched
        assert np.abs(wood.z[inside] - np.minimum(before, plane)).max() <= CLEAN + 1e-3
        assert told.clean == pytest.approx(float((before >= plane - CLEAN).mean()), abs=0.03)


def test_a_cutter_that_can_t_plunge_wants_room_to_come_in_from_outside(quay):
    job = commands.run(quay, "set surfacing", {"wanted": "yes"})
    tight = commands.run(job, "place blank", {"setup": "surface", "x": 2.0, "y": 260.0})
    for centre, wanted in ((False, True), (True, False)):
        made = commands.run(tight, "set tool", {"number": 1, "centre_cutting": centre})
        assert ("surface.plunge" in {f.code for f in plan(made, coarse=True).stops}) == wanted
    assert "surface.plunge" not in {f.code for f in plan(job, coarse=True).findings}


@pytest.mark.parametrize(
    "values", [{"stop_after": 1}, {"stop_after": 2}, {"target_thickness": 32.55, "cleanup": 0.0}], ids=str
)
@pytest.mark.parametrize("path", some(["outline", "rectangle"], 1))
def test_what_is_left_rough_on_purpose_is_not_missed(path, values, lock7):
    whole = plan(commands.run(lock7, "set surfacing", {**values, "path": path}), coarse=True)
    codes = {f.code for f in whole.findings}
    assert not [f for f in whole.stops if f.stage == "surface"]
    assert codes & {"surface.rough", "surface.wished"}
