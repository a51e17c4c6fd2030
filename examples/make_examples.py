# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes the example jobs from nothing but commands of the table, so that they can be made again."""

from __future__ import annotations

import random
import sys
from functools import cache
from pathlib import Path
from typing import Any

from gatepost.core.carve.faces import shape
from gatepost.core.job import commands
from gatepost.core.job.carve import Glyph
from gatepost.core.job.file import Document, save
from gatepost.core.job.model import Job
from gatepost.core.plan.handling import on_edge
from gatepost.core.tools.table import shipped_tools
from gatepost.outlining import FoundOutline, from_photo

sys.path.insert(0, str(Path(__file__).parent))
import make_slab as slab

HERE = Path(__file__).parents[1] / "src" / "gatepost" / "assets" / "examples"


def edit(job: Job, command: str, /, **values: Any) -> Job:
    return commands.run(job, command, values)


def line(job: Job, text: str, face: str, height: float, **values: Any) -> Job:
    shaped = shape(text, face)
    glyphs = tuple(Glyph(char=g.char, x=g.x, path=g.path) for g in shaped.glyphs)
    return edit(job, "add line", text=text, face=face, height=height, glyphs=glyphs, width=shaped.width, **values)


def shed(job: Job) -> Job:
    """The boat shed's bed: blocks at hand, a date of its last skim, a scar of an earlier sign."""
    job = edit(job, "set bed", blocks=(6, 12, 18, 22, 34), skimmed="2026-10-12")
    scar = {"points": [(930, 560), (1120, 560), (1120, 640), (930, 640), (930, 560)], "width": 6, "depth": 0.3}
    return edit(job, "add to bed", what="scars", values={**scar, "at": "2026-10-20", "run": "Wharf door plate"})


def lock_7() -> Job:
    """A waney elm slab, cupped and out of true: surfaced in edge clamps, lettered and cut out under straps."""
    job = shed(edit(Job(tools=shipped_tools()), "set job", name="Lock 7 name board"))
    job = edit(job, "set wood", name="elm", kind="medium", density=560)
    found = slab_outline()
    points = [[round(x, 1), round(y, 1)] for x, y in found.values["points"]]
    job = edit(job, "set outline", points=points, doubt=found.values["doubt"], photo=found.values["photo"])
    job = edit(
        job,
        "set blank",
        label_thickness=35,
        reclaimed=False,
        good_face="front",
        moisture=11,
        moisture_taken="2026-10-30",
    )
    for x, y, t in [
        (40, 14, 33.9), (450, 18, 33.8), (880, 14, 33.9), (890, 300, 33.95), (455, 306, 33.85), (30, 304, 33.9),
    ]:  # fmt: skip
        job = edit(job, "add caliper", x=x, y=y, thickness=t)
    tops, gaps = slab.heights()
    job = edit(job, "set heights", face="top", rows=tops)
    job = edit(job, "set heights", face="under", rows=gaps)
    (x0, y0), (x1, y1) = slab.CRACK
    job = edit(job, "add flaw", kind="crack", x=(x0 + x1) / 2, y=(y0 + y1) / 2, size=58, depth=18)
    job = edit(job, "add flaw", kind="knot", x=slab.KNOT[0], y=slab.KNOT[1], size=26)
    job = edit(job, "set surfacing", tool=1, stepover=0.4, limit=1.0, path="outline")
    job = edit(job, "place blank", setup="surface", x=150, y=141)
    for x, heading in [(400, 90), (800, 90), (400, 270), (800, 270)]:
        setup = job.setup("surface")
        x, y = on_edge(job, setup, heading, 36.0, x, 300)
        job = edit(
            job, "add hold", setup="surface", kind="edge", x=x, y=round(y, 2), heading=heading, height=22, force=1800
        )
    job = edit(job, "set zero", setup="surface", xy="centre", z="top", touch_x=456, touch_y=159)
    job = edit(job, "place blank", setup="front", x=150, y=141)
    for x, y, heading in [(260, 100, 90), (940, 100, 90), (260, 500, 270), (940, 500, 270)]:
        edge = on_edge(job, job.setup("front"), heading, 36.0, x, 300)[1]
        nose = round(abs(edge - y) + 12, 1)
        job = edit(
            job, "add hold", setup="front", kind="strap", x=x, y=y, heading=heading, nose=nose, tail=40, packing=34
        )
    job = edit(job, "set zero", setup="front", xy="centre", z="top", touch_x=40, touch_y=100)
    job = edit(
        job, "set plate", x=456, y=159, width=800, height=244, corner=30, tool=2, tabs=4, tab_width=10, tab_height=5
    )
    job = line(job, "FENNICK WHARF", "Sans", 56, tracking=0.08)
    job = line(job, "LOCK No 7", "Sans", 36, tracking=0.12)
    return edit(job, "set carving", x=456, y=159, tool=4, leading=0.8, margin=18)


@cache
def slab_outline() -> FoundOutline:
    """The slab's outline, traced in its photo."""
    data = (HERE / "lock-7-slab.jpg").read_bytes()
    values = {
        "marks": tuple(slab.marks()), "across": slab.SHEET[0], "up": slab.SHEET[1], "above": slab.THICK,
        "lens": float(slab.LENS[2]), "lens_doubt": 10.0, "above_doubt": 0.5,
    }  # fmt: skip
    return from_photo(data, "lock-7-slab.jpg", values)


def first_look() -> Job:
    """The same with one strap in the way."""
    job = lock_7()
    return edit(job, "set hold", setup="front", hold="C2", nose=75)


def quay_plate() -> Job:
    """A small plate in inches, corner zero, Z on the bed, programs in inches."""
    inch = 25.4
    job = edit(Job(tools=shipped_tools()), "set job", name="Quay plate", unit="inch")
    job = edit(job, "set wood", name="oak", kind="hard", density=720)
    job = edit(job, "set blank", reclaimed=False)
    job = edit(job, "set blank", length=14 * inch, width=7 * inch, label_thickness=0.75 * inch)
    for x, y, t in [(1, 0.5, 0.751), (13, 0.5, 0.752), (13, 6.5, 0.75), (1, 6.5, 0.749), (7, 0.5, 0.7505)]:
        job = edit(job, "add caliper", x=x * inch, y=y * inch, thickness=t * inch)
    for x, y, z in [(1, 1, 0.751), (13, 1, 0.752), (13, 6, 0.75), (1, 6, 0.7495), (7, 3.5, 0.7505)]:
        job = edit(job, "add height", x=x * inch, y=y * inch, z=z * inch)
    job = edit(job, "set machine", dialect=job.machine.dialect.model_copy(update={"units": "inch"}))
    job = edit(job, "place blank", setup="surface", x=300, y=260)
    job = edit(job, "place blank", setup="front", x=300, y=260)
    y0, y1 = 260.0, 260 + 7 * inch
    for x, bolt, heading in [(335, 200, 90), (620, 200, 90), (335, 500, 270), (620, 500, 270)]:
        nose = abs((y0 if heading == 90 else y1) - bolt) + 9
        job = edit(
            job, "add hold", setup="front", kind="strap", x=x, y=bolt, heading=heading, nose=nose, tail=40, packing=19.5
        )
    job = edit(job, "set zero", setup="front", xy="front left", z="bed", gauge="paper", gauge_thickness=0.1)
    job = edit(
        job,
        "set plate",
        x=7 * inch,
        y=3.5 * inch,
        width=12 * inch,
        height=4.5 * inch,
        corner=0.75 * inch,
        tool=2,
        tabs=4,
        tab_width=9.525,
        tab_height=6.35,
    )
    job = line(job, "QUAY", "Slab", 1.5 * inch)
    job = line(job, "KEEP CLEAR", "Slab", 0.875 * inch, tracking=0.06)
    return edit(job, "set carving", x=7 * inch, y=3.5 * inch, tool=3, leading=0.6, margin=0.5 * inch, sanding=0.2)


def mileposts() -> Job:
    """One of sixteen small oak plates, with the whole batch measured: height groups, and whether each fits the nest."""
    job = shed(edit(Job(tools=shipped_tools()), "set job", name="Sixteen mileposts", tolerance="trial"))
    job = edit(job, "set wood", name="oak", kind="hard", density=720)
    job = edit(job, "set blank", length=140, width=90, label_thickness=14, reclaimed=False, rocks=False)
    rng = random.Random(16)
    rows = []
    for number in range(1, 17):
        long, wide = 140.0 + rng.gauss(0, 0.12), 90.0 + rng.gauss(0, 0.1)
        tall = 13.7 + 0.35 * (number % 3 == 0) + rng.gauss(0, 0.05)
        rows.append((str(number), round(long, 2), round(wide, 2), round(tall, 2)))
    job = edit(job, "set pieces", rows=rows)
    job = edit(job, "set batch", tolerance=0.25, nest_length=140.5, nest_width=90.5, play=0.8)
    first = rows[0]
    for x, y in [(8, 6), (132, 6), (132, 84), (8, 84)]:
        job = edit(job, "add caliper", x=x, y=y, thickness=first[3])
    for x, y in [(10, 10), (130, 10), (130, 80), (10, 80), (70, 45)]:
        job = edit(job, "add height", x=x, y=y, z=first[3])
    job = edit(job, "set surfacing", wanted="no")
    for setup in ("surface", "front"):
        job = edit(job, "place blank", setup=setup, x=500, y=300)
    nest = {
        "name": "Milepost nest",
        "x": 500,
        "y": 300,
        "length": 140.5,
        "width": 90.5,
        "height": 8,
        "play": 0.8,
        "relief": 3.2,
    }
    job = edit(job, "add to bed", what="nests", values=nest)
    job = edit(job, "add hold", setup="front", kind="nest", x=500, y=300, heading=0, of="Milepost nest")
    for x in (530, 610):
        job = edit(job, "add hold", setup="front", kind="tape", x=x, y=345, heading=90, length=80, width=25)
    job = edit(job, "set zero", setup="front", xy="front left", z="top", touch_x=30, touch_y=80)
    job = line(job, "7", "Slab", 34)
    job = line(job, "MILES", "Slab", 13, tracking=0.08)
    return edit(job, "set carving", x=70, y=45, tool=3, leading=0.55, margin=8, sanding=0.2)


def main() -> None:
    for name, job in (
        ("lock-7-name-board", lock_7()),
        ("lock-7-first-look", first_look()),
        ("quay-plate", quay_plate()),
        ("sixteen-mileposts", mileposts()),
    ):
        pictures = slab_outline().pictures if job.blank.photo is not None else {}
        save(Document(job, pictures=pictures), HERE / f"{name}.gatepost")


if __name__ == "__main__":
    main()
