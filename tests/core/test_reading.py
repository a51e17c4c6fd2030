# SPDX-License-Identifier: GPL-3.0-or-later
"""How the faces of a sign and of a post are read, told from places on them carried to the wood."""

import itertools

import numpy as np
import pytest

from gatepost.core.job import commands
from gatepost.core.job.file import load
from gatepost.core.job.turning import Lay, face_turned, turned
from gatepost.core.register.reading import reading, reads
from tests.conftest import EXAMPLES
from tests.core.catalogue_found import read_behind
from tests.core.catalogue_jobs import JOBS, edited

POST = load(EXAMPLES / "four-faced-milepost.gatepost").job
FOUR = ("lettering", "lettering-1", "lettering-2", "lettering-3")


def on_the_wood(job, setup, x, y):
    """A place of the face that is up, on the board's own axes, by how the board is laid."""
    blank, lie = job.blank, Lay(setup.up, setup.spin)
    to = turned(blank.length, blank.width, blank.label_thickness, lie)
    face = face_turned(blank.length, to.size[1] if setup.up not in ("left", "right") else blank.width, lie)
    ways = np.array([r[:3] for r in to.rows])
    return ways.T @ np.array([r[:3] for r in face.rows]) @ np.array([x, y, 0.0])


@pytest.mark.parametrize("turn", [0.0, 90.0, 180.0, 270.0, 33.0])
@pytest.mark.parametrize("job", [POST, edited(JOBS["taped"](), *read_behind(0.0))], ids=["post", "sign"])
def test_tops_and_lines_go_where_their_places_come_to_lie_on_the_wood(job, turn):
    for art in [f.art.id for f in reads(job, job.setups)]:
        job = commands.run(job, "set art", {"art": art, "turn": turn})
    for f in reads(job, job.setups):
        c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
        assert on_the_wood(job, f.setup, c, s) == pytest.approx(f.on, abs=1e-9)
        assert on_the_wood(job, f.setup, -s, c) == pytest.approx(f.up, abs=1e-9)


@pytest.mark.parametrize("round_", list(itertools.product((False, True), repeat=4)))
def test_every_face_of_a_post_that_is_read_the_other_way_is_named_and_turned_round(round_):
    job = POST
    for art, over in zip(FOUR, round_):
        if over:
            turn = next(a.turn for a in job.artwork if a.id == art) + 180.0
            job = commands.run(job, "set art", {"art": art, "turn": turn % 360.0})
    said, _ = reading(job, job.setups)
    assert {f.about for f in said} == {art for art, over in zip(FOUR, round_) if over != round_[0]}
    for f in said:
        job = commands.run(job, f.fixes[0].kind, dict(f.fixes[0].values))
    assert reading(job, job.setups)[0] == []


def test_what_is_mirrored_on_a_post_is_read_the_other_way():
    job = commands.run(POST, "set art", {"art": "lettering-1", "mirror": True})
    said, _ = reading(job, job.setups)
    assert [f.about for f in said] == ["lettering-1"] and "downwards" in said[0].message


def test_letters_across_a_post_stand_with_their_tops_to_one_end():
    job = POST
    for art, turn in zip(FOUR, (90.0, 90.0, 270.0, 270.0)):
        job = commands.run(job, "set art", {"art": art, "turn": turn})
    said, tables = reading(job, job.setups)
    tops = [row[1] for row in tables[0][1][1:]]
    assert tops == ["left end", "left end", "left end", "right end"]
    assert [f.about for f in said] == ["lettering-3"] and "on its head" in said[0].message
