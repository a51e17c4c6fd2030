# SPDX-License-Identifier: GPL-3.0-or-later
import itertools
import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.blank import photo as core
from gatepost.core.blank.trace import squared, traced
from gatepost.core.errors import OperatorError
from gatepost.core.job.blank import Photo
from tests.conftest import some, tries
from tests.core.photos import Camera, render, waney

ACROSS, UP = 1000.0, 420.0
CORNERS = np.array([[0, 0, 0], [ACROSS, 0, 0], [ACROSS, UP, 0], [0, UP, 0]], float) - [50, 50, 0]
CAMERAS = {
    "straight down": Camera((450, 160, 1500), (450, 160)),
    "tilted": Camera((450, 100, 1400), (450, 330)),
    "off-centre and turned": Camera((640, 220, 1600), (480, 150), roll=17.0),
    "tilted both ways, from near": Camera((300, 60, 1250), (470, 190), roll=-8.0, focal=1800.0),
    "from far": Camera((500, 200, 2600), (440, 150), roll=95.0, focal=4000.0, size=(1400, 1800)),
}


def taken(camera, thick, marks=None, **more):
    marks = camera.see(CORNERS) if marks is None else marks
    values = {"across": ACROSS, "up": UP, "above": thick, "lens": camera.at[2], "lens_doubt": 10.0, "above_doubt": 0.5}
    return Photo(
        file="photo-000000000000.jpg",
        squared="photo-000000000000-squared.jpg",
        marks=tuple(map(tuple, marks)),
        **{**values, **more},
    )


def worst(found, true):
    """The farthest that either outline lies from the other, mm."""
    one, other = shapely.LinearRing(found), shapely.LinearRing(true)
    shapely.prepare([one, other])
    share = np.linspace(0, 1, 800)
    far = [
        shapely.distance(shapely.line_interpolate_point(a, share, normalized=True), b).max()
        for a, b in ((one, other), (other, one))
    ]
    return max(far)


@pytest.mark.parametrize(("name", "thick"), some(itertools.product(CAMERAS, [0.0, 60.0]), 2))
def test_a_traced_outline_is_within_three_parts_in_a_thousand(name, thick):
    camera, slab = CAMERAS[name], waney(len(name))
    shot = render(slab, max(thick, 0.01), camera)
    seen = traced(shot, "slab.jpg")
    assert seen.size == camera.size
    done = core.measured(taken(camera, thick), seen.size, seen.outline)
    true = slab - CORNERS[0, :2]
    off = worst(done.outline, true)
    foot = core.side_seen(
        taken(camera, thick), true, done.under
    )  # an upright side that the lens sees is taken for the edge
    assert off <= max(1.5, 0.003 * 900.0) + foot and off <= done.doubt
    assert abs(shapely.Polygon(done.outline).area / shapely.Polygon(true).area - 1) < 0.004
    if thick and camera.at[:2] != camera.look:
        assert done.under == pytest.approx((camera.at[0] + 50, camera.at[1] + 50), abs=2.0)


@pytest.mark.parametrize("name", some(CAMERAS, 1))
def test_the_stated_doubt_holds_in_nearly_all_of_many_pickings(name):
    camera, slab = CAMERAS[name], waney(7)
    rng = np.random.default_rng(11)
    edge = camera.see(np.column_stack([slab, np.full(len(slab), 40.0)]))
    true, held = slab - CORNERS[0, :2], 0
    for trial in range(12):
        marks = camera.see(CORNERS) + rng.normal(0, 1.5, (4, 2))
        thick, high = 40.0 + rng.uniform(-0.5, 0.5), camera.at[2] + rng.normal(0, 5.0)
        done = core.measured(taken(camera, thick, marks, lens=high), camera.size, edge, seed=trial)
        held += np.linalg.norm(done.outline - true, axis=1).max() <= done.doubt
    assert (
        held >= 9
    )  # 95 in 100 is the claim; this few may fall short by luck once in a thousand times, and the soak tries hundreds


@given(st.floats(0.2, 5), st.floats(0, 6.28), st.floats(-300, 300), st.floats(-300, 300))
@settings(max_examples=tries(15))
def test_two_marks_turn_scale_and_shift(per, turn, dx, dy):
    rng = np.random.default_rng(3)
    places = np.vstack([[[0.0, 0.0], [500.0, 0.0]], rng.uniform(-300, 800, (6, 2))])
    c, s = np.cos(turn), np.sin(turn)
    px = (places @ np.array([[c, s], [-s, c]]) * per + [dx, dy]) * [1, -1]
    if np.linalg.norm(px[1] - px[0]) < 20:
        return
    matrix = core.to_plane(px[:2], 500.0, 0.0)
    assert core.mapped(matrix, px) == pytest.approx(places, abs=1e-6)


@given(st.integers(0, 10**6))
@settings(max_examples=tries(15))
def test_four_marks_undo_any_camera(seed):
    rng = np.random.default_rng(seed)
    look = (rng.uniform(200, 700), rng.uniform(0, 300))
    camera = Camera((look[0] + rng.uniform(-400, 400), look[1] + rng.uniform(-400, 400), rng.uniform(900, 3000)), look, rng.uniform(-180, 180))  # fmt: skip
    places = rng.uniform(-100, 900, (8, 2))
    matrix = core.to_plane(camera.see(CORNERS), ACROSS, UP)
    seen = core.mapped(matrix, camera.see(np.column_stack([places, np.zeros(8)])))
    assert seen == pytest.approx(places + 50, abs=1e-5)
    lens = camera.at[2]
    high = core.mapped(matrix, camera.see(np.column_stack([places, np.full(8, 45.0)])))
    under = core.under_lens(matrix, camera.size, 4, lens)
    assert core.lowered(high, 45.0, lens, under) == pytest.approx(places + 50, abs=0.02)


GOOD = CAMERAS["straight down"].see(CORNERS)
BAD = {
    "in a line": (GOOD * [1, 0.001] + [[0, 300], [30, 300], [60, 300], [90, 300]], "lie in a line"),
    "three in a line": (np.vstack([GOOD[:2], GOOD[:2].mean(axis=0) + [0, 0.2], GOOD[3]]), "lie in a line"),
    "on each other": (GOOD[[0, 1, 1, 3]], "on each other"),
    "crossing over": (GOOD[[0, 2, 1, 3]], "cross over"),
    "clockwise": (GOOD[::-1], "clockwise"),
    "three of them": (GOOD[:3], "Two marks or four"),
    "not a place": (GOOD * np.array([[np.nan], [1], [1], [1]]), "not a place"),
}


@pytest.mark.parametrize("name", BAD)
def test_marks_that_carry_no_scale_are_a_sentence(name):
    marks, words = BAD[name]
    with pytest.raises(OperatorError, match=words):
        core.to_plane(marks, ACROSS, UP)


def test_an_edge_over_the_lens_and_a_lens_that_sees_nothing_so_are_sentences():
    camera = CAMERAS["tilted"]
    with pytest.raises(OperatorError, match="can't stand"):
        core.measured(taken(camera, 50.0, lens=40.0, under=(0.0, 0.0)), camera.size, GOOD)
    with pytest.raises(OperatorError, match="No camera sees"):
        core.measured(taken(camera, 50.0, lens=10.0, above=2.0), camera.size, GOOD)


@pytest.mark.parametrize("turn", [1, -1], ids=["anticlockwise", "clockwise"])
def test_how_far_a_foot_is_taken_for_the_edge_by_hand(turn):
    """A square 100 mm wide, seen from over (200, 50): at its right corners, whose normals point half right and half up or
    down, the foot shows by 100 / √2 - 50 / √2 mm for each mm of lens height that the edge is over the bed."""
    square = np.array([[0.0, 0.0], [100.0, 0.0], [100.0, 100.0], [0.0, 100.0]])[::turn]
    photo = taken(CAMERAS["off-centre and turned"], 40.0).model_copy(update={"lens": 1000.0, "above": 2.0})
    assert core.side_seen(photo, square, (200.0, 50.0)) == pytest.approx(50.0 / math.sqrt(2.0) * 2.0 / 1000.0)
    assert core.side_seen(photo, square, (50.0, 50.0)) == 0.0  # from above its middle no side is seen
    assert core.side_seen(photo.model_copy(update={"above": 0.0}), square, (200.0, 50.0)) == 0.0


def test_a_check_length_tells_a_wrong_scale():
    camera, slab = CAMERAS["tilted"], waney(2)
    ends = camera.see(np.array([[100, 0, 0], [800, 0, 0]]))
    for across, off in ((ACROSS, 0.0), (ACROSS * 1.02, 14.0)):
        taken_ = taken(
            camera, 40.0, across=across, up=UP * across / ACROSS, check=tuple(map(tuple, ends)), check_length=700.0
        )
        done = core.measured(taken_, camera.size, camera.see(np.column_stack([slab, np.full(len(slab), 40.0)])))
        assert done.check == pytest.approx(off, abs=0.02)
        assert core.check_finding(taken_, done.check, 2.0).level.value == ("ok" if off == 0.0 else "care")


NOTHING = {
    "not a picture": (b"\x00\x01nothing", "can't be read"),
    "cut short": (render(waney(1), 20, CAMERAS["tilted"])[:300], "can't be read"),
    "empty": (b"", "can't be read"),
    "giant by its own word": (
        b"\x89PNG\r\n\x1a\n" + b"\x00\x00\x00\rIHDR" + (10**6).to_bytes(4, "big") * 2,
        "too large",
    ),
    "nothing on it": (render(waney(1) * 0.001, 0.01, CAMERAS["from far"]), "No board stands out"),
}


@pytest.mark.parametrize("name", NOTHING)
def test_photos_without_a_board_are_a_sentence(name):
    data, words = NOTHING[name]
    with pytest.raises(OperatorError, match=words):
        traced(data, "a photo")


def test_the_squared_picture_shows_the_board_where_its_outline_is():
    import cv2

    camera, slab = CAMERAS["off-centre and turned"], waney(9)
    shot = render(slab, 40.0, camera)
    seen = traced(shot, "a photo")
    done = core.measured(taken(camera, 40.0), seen.size, seen.outline)
    flat = squared(shot, "a photo", done.matrix, done.outline)
    image = cv2.imdecode(np.frombuffer(flat.data, np.uint8), cv2.IMREAD_COLOR)
    x0, y0, x1, y1 = flat.box
    per = image.shape[1] / (x1 - x0)
    low, high, about = done.outline.min(axis=0), done.outline.max(axis=0), 0.06 * np.ptp(done.outline, axis=0).max()
    for near, far, end in ((low[0], x0, -1), (low[1], y0, -1), (high[0], x1, 1), (high[1], y1, 1)):
        assert 0.0 <= (far - near) * end <= about + 1.0 / per  # all of the board, and a little about it
    assert max(image.shape) == 1400 and image.shape[0] / (y1 - y0) == pytest.approx(
        per
    )  # as wide as tall, to the pixel
    inner, outer = shapely.Polygon(done.outline).buffer(-6), shapely.Polygon(done.outline).buffer(6)
    i, j = np.meshgrid(np.arange(0, image.shape[1], 5), np.arange(0, image.shape[0], 5))
    x, y = x0 + i / per, y1 - j / per
    blue = image[j, i, 0].astype(float)
    assert (
        blue[shapely.contains_xy(inner, x, y)].max() < 125 < np.quantile(blue[~shapely.contains_xy(outer, x, y)], 0.1)
    )


def test_a_squared_picture_ends_where_the_photo_does():
    """A turned photo of a board that reaches beyond it: nothing is made up beside what was seen."""
    import cv2

    shot = cv2.imencode(".png", np.full((100, 200, 3), 120, np.uint8))[1].tobytes()
    c, s = 40.0 * math.cos(0.35), 40.0 * math.sin(0.35)  # mm a px, so that a pixel more would be seen
    matrix = np.array([[c, s, 7.0], [s, -c, 60.0], [0.0, 0.0, 1.0]])  # y up
    flat = squared(shot, "a photo", matrix, np.array([[-9e4, -9e4], [9e4, -9e4], [9e4, 9e4], [-9e4, 9e4]]))
    corners = np.array([[0, 0], [200, 0], [200, 100], [0, 100]]) @ matrix[:2, :2].T + matrix[:2, 2]
    per = 1400 / np.ptp(corners, axis=0).max()
    assert flat.box == pytest.approx((*corners.min(axis=0), *corners.max(axis=0)), abs=1.01 / per)


def test_a_board_as_light_as_a_mottled_sheet_is_told_by_its_colour():
    """What wavers on the sheet counts less than what does not: light and shade waver, colour hardly."""
    import cv2

    rng = np.random.default_rng(5)
    lab = np.zeros((300, 420, 3), np.float32)
    lab[..., 0] = 60.0 + 25.0 * cv2.GaussianBlur(rng.normal(0, 9, (300, 420)).astype(np.float32), (0, 0), 6)
    lab[70:230, 90:330, 1:] = (14.0, 20.0)
    image = (cv2.cvtColor(lab, cv2.COLOR_LAB2BGR) * 255).clip(0, 255).astype(np.uint8)
    seen = traced(cv2.imencode(".png", image)[1].tobytes(), "a photo")
    board = shapely.box(89.5, 69.5, 329.5, 229.5)
    assert shapely.Polygon(seen.outline).symmetric_difference(board).area < 0.03 * board.area


@given(
    st.tuples(*[st.floats(-50, 50)] * 4),
    st.lists(st.tuples(st.floats(0, 8.9), st.floats(0, 5.9)), min_size=1, max_size=20),
)
def test_values_between_pixels_are_those_of_the_one_surface_through_them(made_of, spots):
    """a + b·x + c·y + d·x·y is its own bilinear interpolation, up to the last pixel."""
    from gatepost.core.blank.trace import _sampled

    a, b, c, d = made_of
    j, i = np.mgrid[0:7, 0:10].astype(float)
    there = np.array(spots)
    x, y = there.T
    assert _sampled(a + b * i + c * j + d * i * j, there) == pytest.approx(a + b * x + c * y + d * x * y, abs=1e-9)


def shadowed(shot, camera, slab, darker):
    """The photo with a shadow of the board on the ground, 30 mm to the right of it and 47 in front, as dark as that."""
    import cv2

    image = cv2.imdecode(np.frombuffer(shot, np.uint8), cv2.IMREAD_COLOR)
    board, dark = (np.zeros(image.shape[:2], np.float32) for _ in range(2))
    cv2.fillPoly(board, [camera.see(np.column_stack([slab, np.full(len(slab), 30.0)])).astype(np.int32)], 1.0)
    cv2.fillPoly(dark, [camera.see(np.column_stack([slab + [30.0, -47.0], np.zeros(len(slab))])).astype(np.int32)], 1.0)
    light = 1.0 - (1.0 - darker) * cv2.GaussianBlur(dark, (0, 0), 6.0)
    light[board > 0] = 1.0
    made = (image * light[..., None]).clip(0, 255).astype(np.uint8)
    return cv2.imencode(".jpg", made, [1, 92])[1].tobytes()


@pytest.mark.parametrize(
    ("name", "darker"), some(itertools.product(["tilted", "tilted both ways, from near"], [0.75, 0.5, 0.3]), 1)
)
def test_a_shadow_is_not_taken_for_the_board(name, darker):
    camera, slab = CAMERAS[name], waney(7)
    seen = traced(shadowed(render(slab, 30.0, camera), camera, slab, darker), "slab.jpg")
    done = core.measured(taken(camera, 30.0), seen.size, seen.outline, unsure=seen.unsure)
    assert worst(done.outline, slab - CORNERS[0, :2]) <= done.doubt < 8.0


def test_an_edge_that_depends_on_where_it_is_parted_is_unsure_by_as_much():
    """A board that fades into the ground over 60 px: wherever it is parted, that is told, and the ± holds it."""
    import cv2

    image = np.full((400, 700, 3), 200.0, np.float32)
    image[100:300, 150:500] = (120.0, 150.0, 180.0)
    share = np.linspace(0.0, 1.0, 60)[None, :, None]
    image[100:300, 500:560] = (1 - share) * np.array([120.0, 150.0, 180.0]) + share * 200.0
    image += np.random.default_rng(3).normal(0, 2, image.shape)
    seen = traced(cv2.imencode(".png", image.clip(0, 255).astype(np.uint8))[1].tobytes(), "a photo")
    assert 5.0 < seen.unsure < 60.0 and 480 < seen.at[0] < 570
    sharp = render(waney(3), 30.0, CAMERAS["tilted"])
    assert traced(sharp, "slab.jpg").unsure == 0.0 and traced(sharp, "slab.jpg").coloured


def test_a_camera_out_of_level_is_in_the_doubt_of_two_marks():
    """2° of tilt, no more than an eye sees, moves an outline scaled by two marks; four marks undo it."""
    slab = waney(4)
    level, tilted = (
        Camera((450, 160, 1500), (450, 160)),
        Camera((450, 160, 1500), (450, 160 + 1500 * math.tan(math.radians(2.0)))),
    )
    edge = np.column_stack([slab, np.zeros(len(slab))])
    for camera in (level, tilted):
        two = taken(camera, 0.0, camera.see(CORNERS[:2]), up=0.0, lens=0.0)
        done = core.measured(two, camera.size, camera.see(edge))
        four = core.measured(taken(camera, 0.0, lens=0.0), camera.size, camera.see(edge))
        assert worst(done.outline, slab - CORNERS[0, :2]) <= done.doubt
        assert four.doubt < done.doubt and worst(four.outline, slab - CORNERS[0, :2]) <= four.doubt


def test_an_edge_clicked_by_hand_is_taken_as_it_was_clicked():
    from gatepost.outlining import from_photo

    camera, slab = CAMERAS["tilted"], waney(9)
    shot = render(slab, 0.01, camera)
    px = camera.see(np.column_stack([slab, np.zeros(len(slab))]))[:: max(1, len(slab) // 300)]
    values = taken(camera, 0.0).model_dump(
        include={"across", "up", "above", "lens", "lens_doubt", "above_doubt", "marks"}
    )
    found = from_photo(shot, "slab.jpg", {**values, "by_hand": tuple(map(tuple, px))})
    true = slab - slab.min(axis=0)
    assert worst(np.array(found.values["points"]), true) < 6.0
    with pytest.raises(OperatorError, match="three corners"):
        from_photo(shot, "slab.jpg", {**values, "by_hand": tuple(map(tuple, px[:2]))})
