# SPDX-License-Identifier: GPL-3.0-or-later
"""The face of single lines: what it draws, that a job keeps it, and that it is engraved along its strokes and nowhere else."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.carve.areas import area_of
from gatepost.core.carve.boxes import corners_of
from gatepost.core.carve.edits import outlines
from gatepost.core.carve.engraving import strokes
from gatepost.core.carve.faces import shape
from gatepost.core.carve.families import family_of
from gatepost.core.carve.single_line import GLYPHS, NAME, open_strokes, path_of, strokes_of
from gatepost.core.errors import OperatorError
from gatepost.core.geometry import curves
from gatepost.core.job import commands
from gatepost.core.job.carve import Glyph
from gatepost.core.plan.pipeline import plan
from tests.conftest import tries
from tests.core.catalogue_jobs import JOBS, edited


@pytest.mark.parametrize("char", sorted(GLYPHS))
def test_a_character_stands_in_its_width_between_foot_and_capital_and_comes_back_from_its_path(char):
    wide, own = strokes_of(char)
    points = np.vstack(own)
    assert points[:, 0].min() > -0.03 and points[:, 0].max() < wide + 0.03
    assert points[:, 1].min() > -0.16 and points[:, 1].max() < 1.15
    if char.isalnum():
        assert points[:, 1].max() == pytest.approx(1.0, abs=0.002) and points[:, 1].min() == pytest.approx(
            0.0, abs=0.07
        )
    Glyph(char=char, x=0.0, path=path_of(char))  # as a job keeps it
    rings = [np.array([piece[0] for piece in c]) for c in curves.parse_path(path_of(char))]
    again = open_strokes(rings)
    assert len(again) == len(own)
    for a, b in zip(own, again, strict=True):
        assert np.allclose(a, b, atol=2e-6)


def test_small_letters_are_small_capitals_and_what_it_lacks_is_named():
    small, large = strokes_of("k"), strokes_of("K")
    assert small[0] == pytest.approx(0.74 * large[0])
    with pytest.raises(OperatorError, match="has no 'ß' 'Ж'"):
        shape("aЖß", NAME)
    assert family_of(NAME)[0].suited


@settings(max_examples=tries(6))
@given(st.floats(-180, 180), st.booleans(), st.sampled_from(["straight", "over", "column"]))
def test_it_is_engraved_along_its_strokes_wherever_they_stand(turn, mirror, run):
    job = edited(
        JOBS["strapped"](), ("set line", {"line": "line-1", "height": 8.0, "run": run, "radius": 40.0, **outlines("S4", NAME)}),
        ("set art", {"art": "lettering", "turn": turn, "mirror": mirror}), ("engrave lettering", {"operation": "lettering", "sunk": 0.8}),
    )  # fmt: skip
    told = plan(job, cell=0.4)
    op = next(o for o in told.carving.operations if o.kind == "line")
    a, b = op.moves.points[:-1], op.moves.points[1:]
    low = (np.maximum(a[:, 2], b[:, 2]) < 16.0 - 0.8 + 1e-6) & ~op.moves.rapid
    cut = shapely.union_all(shapely.linestrings(np.stack([a[low][:, :2], b[low][:, :2]], axis=1)))
    wanted = shapely.union_all(
        [shapely.LineString(s) for s in strokes(next(x for x in job.artwork if x.kind == "lettering"))]
    )
    assert shapely.hausdorff_distance(cut, wanted) < 0.01 and cut.length == pytest.approx(wanted.length, rel=1e-3)
    art = next(x for x in job.artwork if x.kind == "lettering")
    assert shapely.Polygon(corners_of(art)).buffer(0.1).contains(wanted) and area_of(art, 0.05).is_empty


def test_no_v_cuts_it_until_it_is_engraved():
    job = commands.run(JOBS["strapped"](), "set line", {"line": "line-1", **outlines("ON", NAME)})
    told = plan(job, cell=0.4)
    (stop,) = [f for f in told.findings if f.code == "carve.single-line"]
    assert not [o for o in told.carving.operations if o.kind == "vcut"]
    mended = plan(commands.run(job, stop.fixes[0].kind, dict(stop.fixes[0].values)), cell=0.4)
    assert not mended.stops and [o.kind for o in mended.carving.operations] == ["line"]
    deep = 16.0 - float(mended.carving.end.z.min())
    assert deep == pytest.approx(1.0, abs=0.05) and math.isfinite(deep)
