# SPDX-License-Identifier: GPL-3.0-or-later
"""Sunk grounds measured and tried: thirty raised letters against the bare buffers that they need, faces raised, random floors."""

from __future__ import annotations

import random
from collections.abc import Callable

import numpy as np
import shapely

import baselines
import relief_proof
import sunk_proof
from gatepost.core.cache import Memory
from gatepost.core.carve.areas import area_of
from gatepost.core.carve.edits import outlines
from gatepost.core.carve.faces import SHIPPED
from gatepost.core.carve.lettering import glyph_cut
from gatepost.core.carve.relief_cuts import CELL, relieved
from gatepost.core.carve.relief_paths import closely
from gatepost.core.carve.sink import FLAT, sink
from gatepost.core.carve.sunk_cuts import Sinking, flat_cuts, laid_out, slope_by
from gatepost.core.carve.sunk_moves import Heights
from gatepost.core.carve.target import lifted, target_of, underside
from gatepost.core.geometry.curves import as_multipolygon
from gatepost.core.geometry.levels import packed
from gatepost.core.job import commands
from gatepost.core.job.carve import Letters, TextLine
from gatepost.core.job.model import Job
from gatepost.core.job.operation import Artwork
from gatepost.core.job.relief import HeightsFigures, Relief
from gatepost.core.job.sunk import Ground
from gatepost.core.plan.pipeline import plan
from vcut_proof import CHARACTERS

Row = Callable[..., None]


def raised(job: Job) -> Job:
    """A sign with its letters left standing in a ground."""
    return commands.run(job, "add ground", {"setup": "front", "depth": 3.0})


def rows(row: Row, pair: Callable[..., tuple[float, float]], median: Callable[..., float], sign: Job, other: Callable[[str], Job]) -> None:  # fmt: skip
    """Figures of thirty raised letters. other: the sign with another first line."""
    job = raised(sign)
    ground = next(o for s in job.setups for o in s.operations if o.kind == "ground")
    figures = ground.figures
    assert isinstance(figures, Ground)
    mill = next(t for t in job.tools if t.kind == "flat" and t.number in figures.tools)
    alone = figures.model_copy(update={"tools": (mill.number,)})
    art = tuple(a for a in job.artwork if a.id in ground.on)
    board = shapely.box(0, 0, job.blank.length, job.blank.width)
    top = laid_out(Sinking(alone, art), board, slope_by(alone, (mill,))).top
    at = Heights(0.0, 0.0, 8.0, lambda tool: (0.0, 0.0, 50.0), top.convex_hull)
    radius, step = mill.diameter / 2.0, alone.stepover * mill.diameter
    mine, bare = pair(
        lambda: flat_cuts(sink(top, alone, [mill]), alone, at), lambda: baselines.bare_buffers(top, radius, step, FLAT)
    )
    row("30 letters' ground: an end mill's path, against the bare buffers", mine, bare, "<= 8 x")

    def fresh(coarse: bool) -> object:
        glyph_cut.cache_clear()
        return plan(job, coarse=coarse)

    row("30 raised letters: whole plan, nothing remembered", median(lambda: fresh(False)), None, "<= 2 s")
    row("30 raised letters: first look, nothing remembered", median(lambda: fresh(True)), None, "<= 0.3 s")
    memory = Memory()
    plan(job, memory=memory)
    others = iter([raised(other(first)) for first in "GJMPQUVXYZ"])
    row("30 raised letters: one letter changed", median(lambda: plan(next(others), memory=memory)), None, "<= 0.5 s")


def relief_rows(row: Row, pair: Callable[..., tuple[float, float]], median: Callable[..., float]) -> None:
    """Figures of a relief 300 by 200 mm, smooth, of 0.196 mm cells."""
    rng = np.random.default_rng(4)
    levels = relief_proof.smooth(rng, 600, 900)
    heights = HeightsFigures(columns=900, rows=600, grid=packed(levels), width=300, height=200, black=6.0)
    art = Artwork(id="heights", kind="heights", x=160.0, y=110.0, figures=heights)
    mill, ball = relief_proof.cutter(2, "flat", 6.0, 3.0), relief_proof.cutter(4, "ball", 3.0, 3.0)
    target = target_of(art, 30.0, CELL, 3.0, False)
    numbers = np.arange(20, 20 + round(300_000 / target.z.shape[1]) * 3, 3, dtype=np.int64)
    under, half = underside(ball, CELL), underside(ball, CELL, 0.5)

    def lines() -> object:
        tips, halves = lifted(target.z, under, numbers), lifted(target.z, half, numbers)
        return [closely(target, int(n), 0, tips[k], halves[k, :-1], 1.5) for k, n in enumerate(numbers)]

    lines()
    mine, bare = pair(lines, lambda: baselines.bare_dilation(target.z, numbers, 1.5, CELL))
    row("relief: lines of a ball's tip over 300,000 points, against a compiled dilation", mine, bare, "<= 6 x")
    of = relief_proof.Relieving(Relief(), art)
    at = Heights(30.0, 30.0, 38.0, lambda tool: (0.0, 0.0, 80.0), shapely.box(0, 0, 400, 300))
    whole = lambda: relieved(of, (mill, ball), at, CELL, False, lambda name: None)  # noqa: E731
    row("relief 300 x 200 mm at 0.196 mm: layers and rows", median(whole), None, "<= 6 s")


def of_a_floor(seed: int) -> str:
    """A random floor, cut by random tools and proved."""
    proof, figures = sunk_proof.trial(seed, tip=True)
    assert proof.holds(figures.cusp), proof
    return "true"


def of_a_relief(seed: int) -> str:
    """A random relief, carved by random tools and proved."""
    proof, figures = relief_proof.trial(seed, 60.0)
    assert proof.holds(figures.scallop), proof
    return "true"


def of_a_raised_letter(seed: int) -> str:
    """A letter of a shipped face left standing in a ground, and proved."""
    rng = random.Random(seed)
    face, char = rng.choice(list(SHIPPED)), rng.choice(CHARACTERS)
    return raised_letter(face, char, rng.choice([12.0, 20.0]), rng.choice([1.0, 2.5]), rng.choice([60.0, 90.0]))


def raised_letter(face: str, char: str, height: float, depth: float, angle: float) -> str:
    """The same of a letter so high, in a ground so deep with a V of an angle. Raises AssertionError where the proof does not hold."""
    letters = Letters(lines=(TextLine(height=height, **outlines(char, face)),))
    area = area_of(Artwork(id="letter", kind="lettering", figures=letters), FLAT)
    if area.is_empty:
        return "nothing to it"
    figures = Ground(depth=depth, tools=(1, 9))
    top = shapely.box(*area.bounds).buffer(6.0).difference(area)
    proof = sunk_proof.prove(as_multipolygon(top), figures, [sunk_proof.mill(1, 3.0), sunk_proof.vee(9, angle)])
    assert proof.holds(figures.cusp), (face, char, proof)
    return "true"
