# SPDX-License-Identifier: GPL-3.0-or-later
"""Several pieces of a series on one board: where they stand, by plain rectangles, and that each is what it is alone."""

import json
import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.cli import main
from gatepost.core.carve.areas import area_of
from gatepost.core.carve.edits import outlines
from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.file import Document, load, save
from gatepost.core.job.model import Job
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.plan.pipeline import plan
from gatepost.core.plan.several import Room, places, room_of, together
from gatepost.core.tolerances import WALL
from tests.conftest import tries
from tests.core.catalogue_jobs import edited


def template(length=600.0, width=400.0, *more):
    """A plate of 140 by 70 with a line on it, to be cut out of a board."""
    return edited(
        Job(tools=shipped_tools()), ("set blank", {"length": length, "width": width, "reclaimed": False, "label_thickness": 18.0}),
        ("add line", {**outlines("{place}", "Sans"), "height": 14.0}), ("set carving", {"x": 90.0, "y": 60.0, "margin": 8.0}),
        ("set plate", {"width": 140.0, "height": 70.0, "x": 90.0, "y": 60.0}), *more,
    )  # fmt: skip


@given(
    st.floats(60, 500),
    st.floats(60, 400),
    st.floats(20, 120),
    st.floats(20, 120),
    st.lists(st.tuples(st.floats(0, 500), st.floats(0, 400)), max_size=3),
)
@settings(max_examples=tries(15))
def test_pieces_lie_where_there_is_room_with_a_wall_between_them_and_a_plain_board_is_filled(
    length, width, wide, high, knots
):
    spots = [shapely.Point(p).buffer(12.0) for p in knots]
    free = shapely.box(0, 0, length, width).difference(shapely.union_all(spots))
    at = places(Room((3.0, 4.0, 3.0 + wide, 4.0 + high), free))
    boxes = [shapely.box(3 + x, 4 + y, 3 + x + wide, 4 + y + high) for x, y in at]
    for i, one in enumerate(boxes):
        assert free.buffer(1e-6).covers(one)
        for other in boxes[:i]:
            assert one.distance(other) > WALL - 1e-6
    if not knots:
        columns, rows = ((room + WALL) // math.ceil(one + WALL) for room, one in ((length, wide), (width, high)))
        assert len(at) >= min(60, columns * rows)


def fed(moves):
    """How far a cutter is fed, mm."""
    return np.linalg.norm(np.diff(moves.points, axis=0), axis=1)[~moves.rapid].sum()


def test_each_piece_is_what_it_is_alone_and_nothing_but_the_hold_is_missing():
    job = template()
    at = places(room_of(plan(job, coarse=True)))
    assert len(at) == 12
    pieces = [edited(job, ("set line", {"line": "line-1", **outlines(t, "Sans")})) for t in ("LOCK", "WEIR", "QUAY")]
    done = together(job, pieces, at)
    for number, (piece, (dx, dy)) in enumerate(zip(pieces, at)):
        for art in piece.artwork:
            mine = [a for a in done.artwork if a.id in (art.id, f"{art.id}-{number + 1}")][-1 if number else 0]
            alone = shapely.affinity.translate(area_of(art, 0.05), dx, dy)
            assert shapely.hausdorff_distance(area_of(mine, 0.05), alone) < 1e-6
    whole = plan(done)
    stops = {f.code for f in whole.findings if f.level is Level.STOP}
    assert stops == {"blank.label-only", "hold.too-few"}
    one = plan(pieces[0])
    alone, beside = (
        sum(fed(o.moves) for s in p.setups for o in s.operations if o.kind == "cutout") for p in (one, whole)
    )
    assert beside == pytest.approx(3 * alone, rel=2e-3)


def test_pieces_keep_off_flaws_and_off_what_holds_the_board():
    job = template()
    whole = room_of(plan(job, coarse=True)).free
    flawed = edited(job, ("add flaw", {"x": 300.0, "y": 200.0, "size": 40.0}))
    room = room_of(plan(flawed, coarse=True))
    assert whole.difference(room.free).area == pytest.approx(math.pi * 20.1**2, rel=0.02)
    spot = shapely.Point(300, 200).buffer(20)
    x0, y0, x1, y1 = room.box
    for dx, dy in places(room):
        assert shapely.box(x0 + dx, y0 + dy, x1 + dx, y1 + dy).disjoint(spot)
    held = edited(job, ("add hold", {"setup": "front", "kind": "strap", "x": 300.0, "y": 200.0}))
    planned = plan(held, coarse=True)
    back = planned.carving.face_to_bed.inverse()
    solids = shapely.union_all([back.area(s.outline) for s in planned.carving.solids])
    assert room_of(planned).free.distance(solids) > 4.9


@pytest.mark.parametrize(
    ("edits", "words"),
    [
        ([("remove operation", {"operation": "cut-out"})], "has to be cut out"),
        ([("set art", {"art": "lettering", "x": 240.0})], "reaches past"),
    ],
)
def test_what_can_t_stand_beside_itself_is_told(edits, words):
    with pytest.raises(OperatorError, match=words):
        room_of(plan(edited(template(), *edits), coarse=True))


def test_the_command_fills_boards_and_tells_every_row(tmp_path, capsys):
    job, table, out = tmp_path / "plate.gatepost", tmp_path / "t.csv", tmp_path / "out"
    save(Document(template(400.0, 240.0)), job)  # two by two
    table.write_text("place\n" + "\n".join(f"Lock {n}" for n in range(1, 7)) + "\n", "utf-8")
    assert main(["series", str(job), str(table), "--out", str(out), "--fill", "--json"]) == 1  # nothing holds them
    told = json.loads(capsys.readouterr().out)
    assert [r["file"] for r in told] == ["01-lock-1-to-lock-4.gatepost"] * 4 + ["02-lock-5-to-lock-6.gatepost"] * 2
    texts = [a.figures.lines[0].text for a in load(out / told[4]["file"]).job.artwork if a.kind == "lettering"]
    assert texts == ["Lock 5", "Lock 6"]
    assert json.loads((out / "series.json").read_text("utf-8")) == told
    save(Document(template(150.0, 90.0)), job)
    assert main(["series", str(job), str(table), "--out", str(tmp_path / "none"), "--fill"]) == 2
    assert "not one fits" in capsys.readouterr().err and not (tmp_path / "none").exists()


def test_lettering_is_judged_by_the_plate_that_it_stands_on():
    job = template(600.0, 400.0, ("copy art", {"art": "lettering", "x": 300.0, "y": 200.0}))
    job = commands.run(job, "copy art", {"art": "plate", "x": 300.0, "y": 200.0})
    margins = [f for f in plan(job).findings if f.code == "carve.margin"]
    assert not margins
    off = [
        f
        for f in plan(commands.run(job, "set art", {"art": "lettering-1", "x": 340.0})).findings
        if f.code == "carve.margin"
    ]
    assert len(off) == 1 and "lettering-1" in off[0].message
