# SPDX-License-Identifier: GPL-3.0-or-later
"""Reliefs: heights read and kept, how low a cutter may go, and what the moves leave against the closing of what was asked."""

from __future__ import annotations

import io
import struct
import zipfile

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

import relief_proof
from gatepost.artwork import heights_in
from gatepost.core.carve.relief_cuts import row_step, scallop
from gatepost.core.carve.target import left_by, lifted, target_of, underside
from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.geometry.grid import GridHeights
from gatepost.core.geometry.levels import WHITE, packed, read_height_picture, unpacked
from gatepost.core.job import commands
from gatepost.core.job.file import Document, from_bytes, to_bytes
from gatepost.core.job.operation import Artwork
from gatepost.core.job.relief import HeightsFigures
from gatepost.core.job.tool_table import of_kind
from gatepost.core.plan.export import target_files
from gatepost.core.plan.pipeline import plan
from gatepost.core.wood.field import Cutter, HeightField, cut
from tests.conftest import some, tries
from tests.core.catalogue_jobs import plate


def png(values: np.ndarray) -> bytes:
    """A picture as a PNG."""
    import cv2

    return bytes(cv2.imencode(".png", values)[1])


@pytest.mark.parametrize("seed", some(range(3), 2))
def test_nothing_is_cut_deeper_than_asked_and_nothing_stays_over_the_scallop(seed):
    """Judged on the moves read back from the program, against the closing of what is asked by the last ball."""
    proof, figures = relief_proof.trial(seed + 7, 18.0)
    assert proof.holds(figures.scallop), (proof, figures)


def test_the_proof_sees_moves_that_lie_two_hundredths_too_deep_or_a_tenth_too_high():
    """It fails for what it is to find."""
    rng = np.random.default_rng(3)
    levels = relief_proof.surface(rng, 40, 60)
    heights = HeightsFigures(columns=60, rows=40, grid=packed(levels), width=20, height=14, black=3.0)
    art = Artwork(id="heights", kind="heights", x=30.0, y=20.0, figures=heights)
    of = relief_proof.Relieving(relief_proof.Relief(), art)
    tools = [relief_proof.cutter(4, "ball", 3.0, 3.0)]
    assert relief_proof.prove(of, tools).holds(0.05)
    assert relief_proof.prove(of, tools, path=lambda m: m.moved(0.0, 0.0, -0.025)).gouged > relief_proof.TRUE
    assert relief_proof.prove(of, tools, path=lambda m: m.moved(0.0, 0.0, 0.1)).over > 0.05 + relief_proof.TRUE


@given(arrays(np.uint16, st.tuples(st.integers(2, 12), st.integers(2, 12))))
def test_levels_come_back_as_they_were_packed(levels):
    """Whatever they are."""
    assert np.array_equal(unpacked(packed(levels), *levels.shape), levels)


@pytest.mark.parametrize(
    "grid", ["", "AAAA", "not base64!", packed(np.zeros((3, 4), np.uint16)), packed(np.zeros((2000, 2000), np.uint16))]
)
def test_a_grid_that_is_not_what_is_said_of_it_is_refused_with_a_sentence(grid):
    """None unpacks to more than is asked for."""
    with pytest.raises(OperatorError, match="Bring the picture in again"):
        unpacked(grid, 5, 4)


@settings(max_examples=tries(25))
@given(st.integers(0, 10_000), st.sampled_from(["flat", "ball"]), st.floats(0.8, 3.0))
def test_a_tip_goes_as_low_as_any_point_under_the_cutter_lets_it_and_leaves_the_closing(seed, kind, diameter):
    """Against every point by itself, at the cells and half way between them."""
    z = np.random.default_rng(seed).uniform(0, 4, (9, 11)).astype(np.float32)
    tool, cell, radius = relief_proof.cutter(1, kind, diameter, 3.0), 0.2, diameter / 2.0
    j, i = (a.ravel() for a in np.mgrid[0:9, 0:11])

    def lowest(at: float, row: int) -> float:
        d2 = ((i - at) ** 2 + (j - row) ** 2) * cell * cell
        under = d2 <= radius * radius * (1 + 1e-12)
        drop = radius - np.sqrt(np.maximum(radius * radius - d2, 0.0)) if kind == "ball" else 0.0 * d2
        return float((z.ravel() - drop)[under].max())

    rows = np.array([0, 4, 8])
    tips = lifted(z, underside(tool, cell), rows)
    halves = lifted(z, underside(tool, cell, 0.5), rows)
    for k, row in enumerate(rows):
        assert tips[k] == pytest.approx([lowest(a, row) for a in range(11)], abs=1e-5)
        assert halves[k, :-1] == pytest.approx([lowest(a + 0.5, row) for a in range(10)], abs=1e-5)
    whole = lifted(z, underside(tool, cell), np.arange(9))
    left = left_by(whole, underside(tool, cell))
    assert (left >= z - 1e-5).all()  # never deeper than asked
    again = lifted(left, underside(tool, cell), np.arange(9))
    assert again == pytest.approx(whole, abs=1e-5)  # and closing twice changes nothing


@given(st.floats(0.3, 6.0), st.floats(0.01, 0.5))
def test_rows_so_far_apart_leave_the_scallop_that_was_wished(radius, height):
    """The formula and its inverse."""
    asked = min(height, 0.9 * radius)
    assert scallop(radius, row_step(radius, asked)) == pytest.approx(asked, rel=1e-9)


@pytest.mark.parametrize(("turn", "mirror"), [(0, False), (90, False), (180, True), (30, False)])
def test_a_picture_turned_and_mirrored_stands_where_its_corners_say(turn, mirror):
    """A ramp is lit on its right: how high it stands is told by how far along its own width a place lies."""
    levels = np.tile(np.linspace(1, WHITE, 200).astype(np.uint16), (90, 1))
    figures = HeightsFigures(columns=200, rows=90, grid=packed(levels), width=40, height=18, black=5.0, white=1.0)
    art = Artwork(id="heights", kind="heights", x=50.0, y=30.0, turn=turn, mirror=mirror, figures=figures)
    target = target_of(art, 20.0, 0.25, 2.0, False)
    j, i = np.nonzero(target.asked)
    x, y = target.x0 + i * target.cell - 50.0, target.y0 + j * target.cell - 30.0
    along = x * np.cos(np.radians(turn)) + y * np.sin(np.radians(turn))
    along = np.clip(-along if mirror else along, -19.9, 19.9)
    assert target.z[j, i] == pytest.approx(20.0 - 5.0 + 4.0 * (along + 20.0) / 40.0, abs=0.02)
    assert target.asked.sum() * target.cell**2 == pytest.approx(40 * 18, rel=0.03)
    assert (target.z[~target.asked] == 20.0).all()


@given(st.integers(0, 7), st.floats(-50, 50), st.floats(-50, 50))
def test_heights_seen_in_another_frame_stand_on_the_places_that_went_with_them(way, dx, dy):
    """Turned by quarters, seen from behind, shifted."""
    z = np.random.default_rng(way).normal(size=(5, 7)).astype(np.float32)
    grid = GridHeights(z, 3.0, -2.0, 0.5)
    turn = [np.eye(2), np.array([[0, -1], [1, 0]]), -np.eye(2), np.array([[0, 1], [-1, 0]])][way % 4]
    turn = turn @ np.diag([-1.0, 1.0]) if way >= 4 else turn
    there = grid.through(lambda p: p @ turn.T + np.array([dx, dy]))
    j, i = (a.ravel() for a in np.mgrid[0:5, 0:7])
    places = np.column_stack([3.0 + 0.5 * i, -2.0 + 0.5 * j]) @ turn.T + np.array([dx, dy])
    assert there.at(places) == pytest.approx(z.ravel())
    assert there.z.size == z.size


def test_a_height_picture_is_read_in_8_and_16_bit_and_what_is_clear_is_not_asked():
    """Black is 1, white 65535, clear 0."""
    ramp = np.tile(np.linspace(0, 65535, 50), (20, 1))
    deep = read_height_picture(png(ramp.astype(np.uint16)), "a.png").levels
    flat = read_height_picture(png((ramp / 257).astype(np.uint8)), "b.png")
    assert deep[0, 0] == 1 and deep[0, -1] == WHITE and np.abs(deep.astype(int) - flat.levels).max() < 300
    assert any("stepped" in words for words in flat.said)
    clear = np.dstack([ramp / 257] * 3 + [np.where(ramp > 30000, 255, 0)]).astype(np.uint8)
    assert ((read_height_picture(png(clear), "c.png").levels > 0) == (ramp > 30000)).all()


@pytest.mark.parametrize(
    ("data", "name", "words"),
    [
        (b"", "a.png", "not a PNG"), (b"\x89PNG\r\n\x1a\n" + b"0" * 60, "a.png", "picture"),
        (png(np.full((9, 9), 7, np.uint8)), "a.png", "one brightness"),
        (png(np.zeros((9, 9, 4), np.uint8)), "a.png", "clear all over"), (png(np.array([[1, 2]], np.uint8)), "a.png", "too small"),
        (b"", "a.stl", "no STL"), (b"solid x\nvertex 0 0 0\n", "a.stl", "cut short"), (b"solid x\nvertex 0 0 z\nvertex 0 1 0\nvertex 1 0 0\n", "a.stl", "no number"),
        (bytes(80) + struct.pack("<I", 5) + bytes(50 * 4), "a.stl", "cut short"),
        (bytes(80) + struct.pack("<I", 2) + bytes(100), "a.stl", "flat"),
        (bytes(80) + struct.pack("<I", 1) + struct.pack("<12fH", *[float("nan")] * 12, 0), "a.stl", "no number"), (b"x", "a.txt", "neither"),
    ],
)  # fmt: skip
def test_what_holds_no_heights_is_refused_with_a_sentence(data, name, words):
    """Nothing else is raised."""
    with pytest.raises(OperatorError, match=words):
        heights_in(data, name, 50.0)


def pyramid(as_words: bool) -> bytes:
    """A pyramid 20 × 20 × 8 mm over its corner."""
    a, b, c, d, top = (0, 0, 0), (20, 0, 0), (20, 20, 0), (0, 20, 0), (10, 10, 8)
    sides = [(a, b, top), (b, c, top), (c, d, top), (d, a, top)]
    if as_words:
        return (
            "solid p\n" + "".join(f"facet\n{''.join(f'vertex {x} {y} {z}{chr(10)}' for x, y, z in s)}" for s in sides)
        ).encode()
    packed_sides = b"".join(struct.pack("<12fH", 0, 0, 1, *s[0], *s[1], *s[2], 0) for s in sides)
    return bytes(80) + struct.pack("<I", 4) + packed_sides


@pytest.mark.parametrize("as_words", [False, True])
def test_a_mesh_is_seen_from_above_at_its_own_size(as_words):
    """A pyramid's height is told by the distance to its nearest side."""
    found = heights_in(pyramid(as_words), "pyramid.stl")
    v, levels = found.values, found.levels.astype(float)
    assert (v["width"], v["height"], v["black"]) == pytest.approx((20.0, 20.0, 8.0))
    rows, columns = levels.shape
    x, y = (np.arange(columns) + 0.5) / columns * 20, (np.arange(rows) + 0.5) / rows * 20
    away = np.minimum(np.minimum(x, 20 - x)[None, :], np.minimum(y, 20 - y)[:, None])
    assert np.abs((levels - 1) / (WHITE - 1) * 8 - 0.8 * away).max() < 0.02
    half = heights_in(pyramid(as_words), "pyramid.stl", 10.0).values
    assert (half["height"], half["black"]) == pytest.approx((10.0, 4.0))


def relieved(face: str = "front") -> tuple[Document, str]:
    """The plate's board with a relief on it in the place of its letters, and the setup's id."""
    job = commands.run(plate(), "remove operation", {"operation": "lettering"})
    job = commands.run(job, "set plate", {"present": False})
    job = commands.run(job, "add tool", {"tool": of_kind(job.tools, "ball")})
    setup = "front"
    if face != "front":
        job = commands.run(job, "add setup", {"up": face})
        setup = job.setups[-1].id
        job = commands.run(job, "set setup", {"setup": setup, "spin": 90})
    values = (np.linspace(0.2, 1, 60)[None, :] * np.linspace(1, 0.5, 40)[:, None] * 255).astype(np.uint8)
    found = heights_in(png(values), "wave.png", 30.0, 4.0)
    job = commands.run(job, "add relief", {"setup": setup, **found.values})
    return Document(job, pictures=found.pictures), setup


@pytest.mark.parametrize("face", ["front", "back"])
def test_the_programs_of_a_plan_become_the_target_that_is_written_beside_them(face):
    """Swept over the target's own cells, in work coordinates, on a face that is turned over and by a quarter too; the job opens again to the same."""
    document, setup = relieved(face)
    again = from_bytes(to_bytes(document))
    assert again.job == document.job and again.pictures == document.pictures
    planned = plan(again.job, again.journal)
    assert not [f.message for f in planned.findings if f.code in ("wood.gouged", "wood.left", "wood.rapid")]
    (s,) = [s for s in planned.setups if s.setup.id == setup]
    files = target_files(planned)
    target = np.load(io.BytesIO(files[f"target-{setup}-1.npy"]))
    import json

    where = json.loads(files[f"target-{setup}-1.json"])
    assert where["cell"] <= 0.2 and target.dtype == np.float32 and np.nanmax(target) <= 0.0 and np.nanmin(target) > -4.0
    wood = HeightField(np.zeros(target.shape, np.float32), where["x0"], where["y0"], where["cell"])
    for program in s.programs:
        wood = cut(wood, program.moves, Cutter(program.tool.kind, program.tool.diameter)).after
    asked = ~np.isnan(target)
    assert (target - wood.z)[asked].max() < relief_proof.TRUE
    inner = (
        asked & ~np.roll(~asked, 12, 0) & ~np.roll(~asked, -12, 0) & ~np.roll(~asked, 12, 1) & ~np.roll(~asked, -12, 1)
    )
    assert (wood.z - target)[inner].max() < 0.05 + 0.08  # no wall is near: it is as good as flat


def test_a_job_whose_heights_were_changed_by_hand_is_refused_with_a_sentence():
    """It is the picture that is named, not a trace."""
    document, _ = relieved()
    text = to_bytes(document)
    with zipfile.ZipFile(io.BytesIO(text)) as archive:
        held = archive.read("job.json").decode()
    grid = next(a.figures.grid for a in document.job.artwork if a.kind == "heights")
    from gatepost.core.job.file import read_job

    with pytest.raises(UnusableFile, match="picture"):
        read_job(held.replace(grid, grid[: len(grid) // 2]).encode(), "A job")


@pytest.mark.parametrize(("width", "height"), [(0.02, 0.02), (0.02, 30.0), (3.0, 0.3)])
def test_a_picture_thinner_than_a_cell_is_planned_all_the_same(width, height):
    """Nothing is asked of it, or a single row, and nothing fails."""
    document, _ = relieved()
    job = commands.run(document.job, "size art", {"art": "heights", "width": width, "height": height})
    told = plan(job)
    assert not [f for f in told.findings if f.code in ("wood.gouged", "wood.rapid")]


def test_heights_that_ask_for_nothing_are_refused():
    """As a job changed by hand may have them."""
    with pytest.raises(ValueError, match="ask for nothing"):
        HeightsFigures(columns=3, rows=2, grid=packed(np.zeros((2, 3), np.uint16)), width=10, height=10)
