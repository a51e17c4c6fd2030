# SPDX-License-Identifier: GPL-3.0-or-later
"""The cut as it is shown while it runs: nothing is dark that is not cut, and all of it is at the end."""

import numpy as np
import pytest

from gatepost.drawing.live import StillBed, _runs, live_path, machine_bed


@pytest.fixture(params=range(2), ids=["lettering", "cut-out"])
def running(request, quay_plan):
    setup = quay_plan.setup("front")
    program = setup.programs[request.param]
    step = next(s for s in setup.steps if s.kind == "run" and s.program == program.name)
    return setup, step, live_path(quay_plan, setup, program)


def roles(plan, setup, step, path, done):
    shapes = machine_bed(plan, setup, step, 0, lambda *_: None, path, done).shapes
    return [s for s in shapes if s.role in ("uncut", "art", "cut-done", "cut-left")]


def test_how_much_is_cut_grows_from_nothing_to_all_of_it_line_by_line(running):
    _, _, path = running
    lines = np.unique(path.program.line)
    shares = [path.share(path.moves_done(int(n))) for n in (0, *lines)]
    assert shares[0] == 0.0 and shares[-1] == 1.0 and np.all(np.diff(shares) >= 0.0)


def test_at_the_start_all_is_still_to_come_and_at_the_end_none_of_it(running, quay_plan):
    setup, step, path = running
    start, end = (roles(quay_plan, setup, step, path, n) for n in (0, len(path.rapid)))
    assert start and {s.role for s in start} == {"uncut" if path.letters else "cut-left"}
    assert ("art" if path.letters else "cut-done") in {s.role for s in end}
    assert not {"uncut", "cut-left"} & {s.role for s in end}


def test_cut_and_uncut_stretches_are_the_whole_path_and_never_the_same_move(running):
    _, _, path = running
    count = len(path.rapid)
    for done in range(0, count, max(count // 40, 1)):
        told = [m for span in ((0, done), (done, count)) for a, b in _runs(path, *span) for m in range(a, b - 1)]
        assert sorted(told) == np.nonzero(~path.rapid)[0].tolist()


def test_letters_are_named_in_the_order_in_which_they_are_cut(running):
    _, _, path = running
    told = [path.letter_at(n) for n in range(len(path.owner))]
    changes = [a for (a, _), (b, _) in zip(told, told[1:]) if a != b]
    if path.letters:
        assert len(changes) >= len(path.letters) - 1 and {a for a, _ in told} - {""} == {
            name for name, _ in path.letters
        }
    else:
        assert set(told) == {("", "")}


def test_what_is_kept_of_the_bed_is_what_would_be_drawn_anew_whatever_was_shown_before(running, quay_plan):
    setup, step, path = running
    still = StillBed()
    other = next(s for s in setup.steps if s.kind.startswith("zero"))
    wood = [None, *(np.full((4, 6, 4), v, np.uint8) for v in (10, 90, 200))]
    rng = np.random.default_rng(3)
    count = len(path.rapid)
    for _ in range(40):
        at, done, before = rng.integers(len(wood)), int(rng.integers(count + 1)), int(rng.integers(2))
        shown, unit = (step, other)[int(rng.integers(4) == 0)], ("mm", "inch")[int(rng.integers(5) == 0)]
        asked = (quay_plan, setup, shown, before, lambda *_, at=at: wood[at], path, done, (0.0, 0.0), unit)
        kept, anew = machine_bed(*asked, still=still), machine_bed(*asked)
        assert (kept.title, kept.subtitle, kept.close, kept.extents) == (anew.title, anew.subtitle, anew.close, anew.extents)  # fmt: skip
        assert [told(s) for s in kept.shapes] == [told(s) for s in anew.shapes]


def told(shape):
    """A shape, so that it can be held against another."""
    pixels = None if shape.pixels is None else shape.pixels.tobytes()
    return shape.kind, shape.role, shape.key, shape.text, shape.points.tobytes(), pixels, shape.size, shape.index
