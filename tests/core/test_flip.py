# SPDX-License-Identifier: GPL-3.0-or-later
"""What is cut from both faces meets: by the programs as they are read back, through the matrices, whichever way the board is turned over."""

import numpy as np
import pytest

from gatepost.core.cache import Memory
from gatepost.core.plan.pipeline import plan
from tests.conftest import some
from tests.core.catalogue_jobs import JOBS, edited
from tests.core.pinned import DEEP

MEMORY = Memory()
CORNERS = ("front left", "front right", "back left", "back right", "centre", "mark")


def lowest(setup):
    """Where the drill stands at the bottom, by the program's own text, on the blank's own frame."""
    program = next(p for p in setup.programs if p.tool.number == 2)
    points = np.asarray(program.moves.points)
    low = points[np.isclose(points[:, 2], points[:, 2].min(), atol=1e-6)]
    return setup.blank_to_work.inverse().array(low)[:, :2].mean(axis=0)


def some_job(seed):
    """A board anywhere on the bed, askew in each setup, its zeros anywhere, a hole drilled half from each face; and where that is."""
    chance = np.random.default_rng(seed)
    long, wide = chance.uniform(90, 400), chance.uniform(60, 250)
    x, y = chance.uniform(15, long - 15), chance.uniform(15, wide - 15)
    edits = [
        DEEP, ("set blank", {"length": long, "width": wide}), ("remove operation", {"operation": "lettering"}),
        ("add setup", {"id": "over", "up": "back"}), ("set setup", {"setup": "over", "spin": int(chance.choice([0, 180]))}),
    ]  # fmt: skip
    for name, face, at in (("front", "front", x), ("over", "back", long - x)):
        edits += [
            ("add art", {"kind": "holes", "id": f"hole-{face}", "face": face, "x": at, "y": y, "across": 6.0}),
            ("add operation", {"setup": name, "kind": "drill", "on": (f"hole-{face}",), "deep": 8.2, "tool": 2}),
            ("place blank", {"setup": name, "x": chance.uniform(200, 600), "y": chance.uniform(150, 350)}),
            ("set skew", {"setup": name, "degrees": chance.uniform(-5, 5)}),
            ("set zero", {"setup": name, "xy": str(chance.choice(CORNERS)), "x": chance.uniform(0, long), "y": chance.uniform(0, wide)}),
        ]  # fmt: skip
    return edited(JOBS["taped"](), *edits), np.array([x, y])


@pytest.mark.parametrize("seed", some(range(200), 12))
def test_a_hole_drilled_half_from_each_face_meets(seed):
    job, place = some_job(seed)
    made = plan(job, memory=MEMORY, cell=2.0)
    one, other = (lowest(made.setup(name)) for name in ("front", "over"))
    assert np.hypot(*(one - other)) < 0.0015
    assert np.hypot(*(one - place)) < 0.001  # and it lies where the front's drawing says
