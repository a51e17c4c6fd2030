# SPDX-License-Identifier: GPL-3.0-or-later
"""Holes that are drilled larger where smaller ones are, and the faces of a piece that is carved on several."""

from __future__ import annotations

import math
from collections.abc import Sequence

from gatepost.core.findings import Finding, Fix, Level, Place, Table
from gatepost.core.frames import Bed, BlankFrame, Matrix
from gatepost.core.job.holes import HolesFigures
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork
from gatepost.core.job.rows import places
from gatepost.core.job.turning import FACES, OPPOSITE
from gatepost.core.units import mm
from gatepost.core.working import Named, working

STAGE = "register"
SHOWN = 16  # letters of what a face carries
LEAST = 0.01  # mm of difference of two diameters


def growing(
    job: Job, setup: Setup, to_bed: Matrix[BlankFrame, Bed], off: float | None
) -> tuple[list[Finding], list[Table]]:
    """Holes drilled in a setup where there are holes already, that nothing drills: old, new, wall taken off either side, and how far off the new may lie before the old one shows. off: by how much
    what is cut here may lie beside its place, mm, nothing where that is not known."""
    drilled = {i for s in job.setups for o in s.operations if o.kind == "drill" for i in o.on}
    mine = {i for o in setup.operations if o.kind == "drill" for i in o.on}
    old = [
        (a, p)
        for a in job.artwork
        if isinstance(a.figures, HolesFigures) and a.id not in drilled
        for p in places(a).tolist()
    ]
    said: list[Finding] = []
    rows: list[tuple[str, ...]] = [("Hole", "old", "new", "least wall off", "may lie off by")]
    for art in job.artwork:
        if art.id not in mine or not isinstance(art.figures, HolesFigures):
            continue
        for n, (x, y) in enumerate(places(art).tolist(), start=1):
            for other, (u, v) in old:
                was = other.figures
                assert isinstance(was, HolesFigures)
                apart = math.dist((x, y), (u, v))
                if other.face != art.face or apart >= 0.5 * (was.across + art.figures.across):
                    continue
                called = _called(art, n)
                sum_ = working(
                    "(new - old) / 2 - apart",
                    Named("new", art.figures.across),
                    Named("old", was.across),
                    Named("apart", apart),
                )
                rows.append(
                    (
                        called,
                        mm(was.across, 2),
                        mm(art.figures.across, 2),
                        mm(sum_.result, 2),
                        mm(max(sum_.result, 0.0), 2),
                    )
                )
                place = Place(*to_bed.xy(x if art.face != "back" else job.blank.length - x, y))
                if sum_.result < -LEAST:
                    message = f"{called} of Ø {mm(art.figures.across)} does not take in the old hole of Ø {mm(was.across)} there: {mm(-sum_.result, 2)} of that stays beside it."
                    fix = Fix(
                        "set art",
                        {"art": art.id, "across": was.across + 2.0 * apart + 2.0 * LEAST},
                        f"Ø {mm(was.across + 2.0 * apart + 2.0 * LEAST, 2)}",
                    )
                    said.append(
                        Finding(
                            "register.hole-breaks-out",
                            Level.STOP,
                            STAGE,
                            message,
                            setup.id,
                            sum_,
                            (fix,),
                            place,
                            about=called,
                        )
                    )
                elif off is not None and sum_.result < off:
                    message = f"{called} takes {mm(sum_.result, 2)} off round the old hole, and may lie {mm(off, 2)} beside its place: the old one may show on one side."
                    wide = was.across + 2.0 * (apart + off) + 2.0 * LEAST
                    fix = Fix("set art", {"art": art.id, "across": wide}, f"Ø {mm(wide, 2)}")
                    said.append(
                        Finding(
                            "register.hole-may-show",
                            Level.CARE,
                            STAGE,
                            message,
                            setup.id,
                            sum_,
                            (fix,),
                            place=place,
                            about=called,
                        )
                    )
    return said, [(f"{setup.title or setup.id}: holes that grow", tuple(rows))] if len(rows) > 1 else []


def _in_few(words: list[str]) -> str:
    """The first of some, and how many more."""
    first = words[0] if words else "–"
    return f"{first[:SHOWN]}{'…' if len(first) > SHOWN else ''}" + (
        f" and {len(words) - 1} more" if len(words) > 1 else ""
    )


def _called(art: Artwork, n: int) -> str:
    figures = art.figures
    assert isinstance(figures, HolesFigures)
    called = art.title or art.id
    return called if figures.number == 1 else f"{called}, hole {n}"


def faces(job: Job, setups: Sequence[Setup], done: frozenset[str]) -> list[Table]:
    """Which setup cuts which face, what it carries, what it lies on, and whether it was run. setups: that are planned; done: those whose programs were all run."""
    worked = [s for s in setups if s.operations and any(o.on for o in s.operations)]
    if len({s.up for s in worked}) < 2:
        return []
    rows: list[tuple[str, ...]] = [("Face", "carries", "lies on", "cut")]
    for s in worked:
        ids = {i for o in s.operations for i in o.on}
        words = [w for a in job.artwork if a.id in ids for line in getattr(a.figures, "lines", ()) if (w := line.text)]
        others = [a.title or a.kind for a in job.artwork if a.id in ids and not getattr(a.figures, "lines", ())]
        title = f"{s.title}, " if s.title else ""
        rows.append(
            (
                f"{title}{FACES[s.up]}",
                _in_few([*words, *others]),
                FACES[OPPOSITE[s.up]],
                "yes" if s.id in done else "not yet",
            )
        )
    return [("Faces, in the order they are cut", tuple(rows))]
