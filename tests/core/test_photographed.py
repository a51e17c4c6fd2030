# SPDX-License-Identifier: GPL-3.0-or-later
"""A piece found by an overhead photo, against photos of a pinhole of their own."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.cache import Memory
from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.job.blank import Photo
from gatepost.core.plan.found import face_to_bed
from gatepost.core.plan.photographed import ScaleOnBed, first_fit
from gatepost.core.plan.pipeline import plan
from gatepost.core.register.fit import FitVerdict
from tests.conftest import some, tries
from tests.core.catalogue_jobs import edited
from tests.core.photos import Camera
from tests.core.pinned import brought_back
from tests.core.told import CELL

SCALE = ScaleOnBed(480.0, 260.0, 0.0)  # a rectangle of 250 × 180 that the taped board lies in
RECTANGLE = np.array([[0, 0, 0], [250, 0, 0], [250, 180, 0], [0, 180, 0]], float)
THICK = 16.0
CAMERAS = (
    Camera((600, 350, 900), (600, 350)),
    Camera((560, 300, 1000), (605, 365), roll=12.0),
    Camera((680, 420, 1200), (590, 340), roll=-95.0),
)


def lain(job, degrees, dx, dy):
    """The same job, its board laid elsewhere and turned."""
    setup = job.setup("front")
    return edited(
        job, ("place blank", {"setup": "front", "x": setup.x + dx, "y": setup.y + dy}), ("set skew", {"setup": "front", "degrees": degrees})
    )  # fmt: skip


def taken(job, true, camera, count=None, noise=0.0, seed=1, turn=0.0, clicked=None, **more):
    """A photo of a piece that lies as in another job; its marks as somebody clicks them. turn: of the scale on the bed; clicked: whose marks really were."""
    rng = np.random.default_rng(seed)
    to_bed = face_to_bed(true, true.setup("front"))
    marks = (clicked or job).setup("front").comes.marks[:count]
    seen = camera.see(np.array([[*to_bed.xy(m.x, m.y), THICK] for m in marks]))
    scale = ScaleOnBed(SCALE.x, SCALE.y, turn)
    corners = np.column_stack([scale.to_bed(RECTANGLE[:, :2]), np.zeros(4)])
    photo = Photo(
        file="photo-000000000000.jpg", squared="photo-000000000000-squared.jpg", marks=tuple(map(tuple, camera.see(corners) + rng.normal(0, noise, (4, 2)))),
        **{"across": 250.0, "up": 180.0, "above": THICK, "above_doubt": 0.5, "lens": camera.at[2], "lens_doubt": 20.0, **more},
    )  # fmt: skip
    return first_fit(job, "front", photo, camera.size, seen + rng.normal(0, noise, seen.shape), scale)


@settings(max_examples=tries(20))
@given(
    st.integers(0, 2),
    st.floats(-9.0, 9.0),
    st.floats(-25.0, 25.0),
    st.floats(-15.0, 15.0),
    st.floats(-170.0, 170.0),
    st.sampled_from([2, 3, 8]),
)
def test_what_is_clicked_right_is_found_where_it_lies(camera, degrees, dx, dy, turn, count):
    job = brought_back(edges=True)
    true = lain(job, degrees, dx, dy)
    found = taken(job, true, CAMERAS[camera], count, turn=turn)
    assert found.setup.skew == pytest.approx(degrees, abs=0.05)
    laid = commands.run(job, "lay by photo", found.values)
    one, other = (face_to_bed(j, j.setup("front")) for j in (laid, true))
    for corner in ((0.0, 0.0), (120.0, 0.0), (120.0, 80.0)):
        assert one.xy(*corner) == pytest.approx(other.xy(*corner), abs=0.1)
    # what is laid over the photo lies where the camera sees it
    outline = np.array(found.seen[0])
    corners = CAMERAS[camera].see(np.array([[*other.xy(*c), THICK] for c in ((0, 0), (120, 0), (120, 80), (0, 80))]))
    for c in corners:
        assert np.linalg.norm(outline - c, axis=1).min() < 1.0


@pytest.mark.parametrize("camera", some(CAMERAS, 2))
def test_its_doubt_holds_in_nearly_all_of_many_clickings(camera):
    job = brought_back()
    true = lain(job, 2.0, 4.0, -3.0)
    to_true = face_to_bed(true, true.setup("front"))
    held = []
    for seed in some(range(120), 4):
        found = taken(job, true, camera, noise=1.5, seed=seed)
        to_found = face_to_bed(job, found.setup)
        off = max(
            np.linalg.norm(np.subtract(to_found.xy(*c), to_true.xy(*c))) for c in ((0, 0), (120, 0), (120, 80), (0, 80))
        )
        held.append(off <= found.doubt and abs(found.setup.skew - 2.0) <= found.degrees * 1.3)
    assert np.mean(held) >= 0.8  # 95 in 100 is the claim; of so few one may fall outside


def test_a_mark_clicked_for_another_is_told_and_a_piece_the_other_way_round_refused():
    job = brought_back(edges=True)
    wrong = lain(job, 0.0, 0.0, 0.0)
    camera = CAMERAS[0]
    found = taken(job, wrong, camera)
    assert found.fit.verdict is FitVerdict.FITS and len(found.said) == 1
    marks = list(job.setup("front").comes.marks)
    other = edited(wrong, ("set mark", {"setup": "front", "mark": marks[2].id, "x": marks[2].x + 40.0}))
    found = taken(other, wrong, camera, clicked=job)  # as drawn it lies elsewhere than where it was clicked
    assert found.fit.verdict is not FitVerdict.FITS and "clicked that was asked for" in found.said[1]
    turned = edited(job, ("set setup", {"setup": "front", "spin": 180}))
    with pytest.raises(OperatorError, match="turned by"):
        taken(turned, wrong, camera)


def test_too_few_marks_are_refused_and_a_setup_that_is_not_found_by_marks():
    job = brought_back()
    with pytest.raises(OperatorError, match="two marks"):
        taken(job, job, CAMERAS[0], 1)
    with pytest.raises(OperatorError, match="first fit"):
        edited(
            edited(job, ("set register", {"setup": "front", "kind": "turned"})),
            ("lay by photo", {"setup": "front", "x": 1.0, "y": 1.0, "degrees": 0.0, "first": 2.0}),
        )


def test_a_photo_sets_no_zero_and_says_where_the_marks_are_looked_for():
    job = brought_back()
    true = lain(job, 2.0, 4.0, -3.0)
    laid = commands.run(job, "lay by photo", taken(job, true, CAMERAS[0], noise=1.0).values)
    made = plan(laid, memory=Memory(), cell=CELL)
    setup = made.setup("front")
    first = next(s for s in setup.steps if s.kind == "mark")
    to_true = face_to_bed(true, true.setup("front"))
    mark = laid.setup("front").comes.marks[0]
    assert first.place == pytest.approx(to_true.xy(mark.x, mark.y), abs=2.0)
    assert [s.key for s in setup.steps if s.kind.startswith("zero")][0] == "zero-xy"
    said = {f.code: f.message for f in made.findings}
    assert "By the photo" in said["register.marks-unread"]
    assert setup.axes.x.trust.value == "lost"
