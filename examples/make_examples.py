# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes the example jobs from nothing but commands of the table, so that they can be made again."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from gatepost.core.carve.faces import shape
from gatepost.core.job import commands
from gatepost.core.job.file import Document, save
from gatepost.core.job.model import Glyph, Job
from gatepost.core.tools.table import shipped_tools

HERE = Path(__file__).parents[1] / "src" / "gatepost" / "assets" / "examples"


def edit(job: Job, command: str, /, **values: Any) -> Job:
    return commands.run(job, command, values)


def line(job: Job, text: str, face: str, height: float, **values: Any) -> Job:
    shaped = shape(text, face)
    glyphs = tuple(Glyph(char=g.char, x=g.x, path=g.path) for g in shaped.glyphs)
    return edit(job, "add line", text=text, face=face, height=height, glyphs=glyphs, width=shaped.width, **values)


def lock_7() -> Job:
    """A cupped elm board: surfaced in edge clamps, lettered and cut out under straps."""
    job = edit(Job(tools=shipped_tools()), "set job", name="Lock 7 name board")
    job = edit(job, "set wood", name="elm", kind="medium", density=560)
    job = edit(job, "set blank", length=912, width=318, label_thickness=35)
    for x, y, t in [
        (40, 10, 34.2),
        (450, 8, 34.1),
        (880, 12, 34.0),
        (890, 308, 34.15),
        (455, 310, 34.05),
        (30, 300, 34.1),
    ]:
        job = edit(job, "add caliper", x=x, y=y, thickness=t)
    tops = [(20, 20, 34.9), (456, 20, 34.6), (890, 20, 35.2), (20, 159, 34.0), (456, 159, 33.6), (890, 159, 34.1),
            (20, 298, 35.0), (456, 298, 34.7), (890, 298, 35.6)]  # fmt: skip
    for x, y, z in tops:
        job = edit(job, "add height", x=x, y=y, z=z)
    job = edit(job, "set surfacing", tool=1, stepover=0.4, limit=1.0)
    job = edit(job, "place blank", setup="surface", x=150, y=141)
    for x, y, heading in [(400, 141, 90), (800, 141, 90), (400, 459, 270), (800, 459, 270)]:
        job = edit(job, "add hold", setup="surface", kind="edge", x=x, y=y, heading=heading, height=22, force=1800)
    job = edit(job, "set zero", setup="surface", xy="centre", z="top", touch_x=456, touch_y=159)
    job = edit(job, "place blank", setup="front", x=150, y=141)
    for x, y, heading in [(260, 100, 90), (940, 100, 90), (260, 500, 270), (940, 500, 270)]:
        nose = abs((141 if heading == 90 else 459) - y) + 10
        job = edit(
            job, "add hold", setup="front", kind="strap", x=x, y=y, heading=heading, nose=nose, tail=40, packing=34
        )
    job = edit(job, "set zero", setup="front", xy="centre", z="top", touch_x=40, touch_y=159)
    job = edit(
        job, "set plate", x=456, y=159, width=800, height=250, corner=30, tool=2, tabs=4, tab_width=10, tab_height=5
    )
    job = line(job, "FENNICK WHARF", "Sans", 56, tracking=0.08)
    job = line(job, "LOCK No 7", "Sans", 36, tracking=0.12)
    return edit(job, "set carving", x=456, y=159, tool=4, leading=0.8, margin=18)


def first_look() -> Job:
    """The same with one strap in the way."""
    job = lock_7()
    return edit(job, "set hold", setup="front", hold="C2", nose=75)


def quay_plate() -> Job:
    """A small plate in inches, corner zero, Z on the bed, programs in inches."""
    inch = 25.4
    job = edit(Job(tools=shipped_tools()), "set job", name="Quay plate", unit="inch")
    job = edit(job, "set wood", name="oak", kind="hard", density=720)
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


def main() -> None:
    for name, job in (
        ("lock-7-name-board", lock_7()),
        ("lock-7-first-look", first_look()),
        ("quay-plate", quay_plate()),
    ):
        save(Document(job), HERE / f"{name}.gatepost")


if __name__ == "__main__":
    main()
