# SPDX-License-Identifier: GPL-3.0-or-later
"""One table of figures: medians of five, as ratios to a baseline of the same run, and absolute ones beside their goals.

``bench.py`` measures the core and the window; ``bench.py core`` leaves the window out. Nothing here is asserted: the
machine may be busy, and says so by the gain that two bare threads get on it.
"""

from __future__ import annotations

import itertools
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import shapely

import baselines
import carving
import cutting
import finishing
import measured
import window
from gatepost.core.blank.top import Top, extremes
from gatepost.core.cache import Memory
from gatepost.core.carve.faces import shape
from gatepost.core.carve.lettering import area_cut, glyph_cut
from gatepost.core.hold import clearance
from gatepost.core.hold.solids import Solid
from gatepost.core.job import commands
from gatepost.core.job.carve import Glyph
from gatepost.core.job.file import load
from gatepost.core.job.model import Job
from gatepost.core.motion import Moves, Pen
from gatepost.core.plan.dragging import Judge
from gatepost.core.plan.drive import drive_of
from gatepost.core.plan.holding_ways import suggestion, ways_compared
from gatepost.core.plan.pipeline import plan
from gatepost.core.program.plain import read_plainly
from gatepost.core.program.read import read
from gatepost.core.program.time import move_seconds
from gatepost.core.surface import level
from gatepost.core.wood.field import Cutter, HeightField, cut, cutter_of
from gatepost.drawing import shade

EXAMPLES = Path(__file__).parents[1] / "src" / "gatepost" / "assets" / "examples"
LOCK = EXAMPLES / "lock-7-name-board.gatepost"
THREE_LINES = ("FENNICK WHARF", "LOCK SEVEN", "BOAT SHED")  # thirty letters


def row(what: str, mine: float, base: float | None = None, goal: str = "") -> None:
    """One line of the table, here and in docs/measured.md."""
    ratio = f"{base:9.4f} {mine / base:6.2f}" if base else " " * 16
    print(f"{what:<66} {mine:9.4f} {ratio}  {goal}".rstrip(), flush=True)
    came = f"{mine:.4g} against {base:.4g}: {mine / base:.2f}" if base else f"{mine:.4g}"
    measured.record("Speed, seconds unless it says", what, "median of five", came, goal)


def once(work: Callable[[], object]) -> float:
    """Seconds of one go."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def median(work: Callable[[], object], times: int = 5) -> float:
    """Seconds, the median of five after one to warm up."""
    work()
    return statistics.median(once(work) for _ in range(times))


def pair(mine: Callable[[], object], base: Callable[[], object], times: int = 5) -> tuple[float, float]:
    """Seconds of both, taken turn about so that a busy machine is busy for both."""
    mine()
    base()
    taken = [(once(mine), once(base)) for _ in range(times)]
    return statistics.median(a for a, _ in taken), statistics.median(b for _, b in taken)


# -- the jobs measured ------------------------------------------------------------------------------------------------


def with_lines(job: Job, texts: tuple[str, ...], height: float) -> Job:
    """The job with other lines of lettering."""
    while job.carving.lines:
        job = commands.run(job, "remove line", {"line": job.carving.lines[0].id})
    for text in texts:
        shaped = shape(text, "Sans")
        glyphs = tuple(Glyph(char=g.char, x=g.x, path=g.path) for g in shaped.glyphs)
        values = {"text": text, "face": "Sans", "height": height, "glyphs": glyphs, "width": shaped.width}
        job = commands.run(job, "add line", values)
    return job


def sign() -> Job:
    """The sign of the goals: the Lock 7 board with three lines, thirty letters."""
    return with_lines(load(LOCK).job, THREE_LINES, 50.0)


def lines(letters: int) -> tuple[str, ...]:
    """Lines of about ten letters each."""
    return tuple(itertools.islice(itertools.cycle(THREE_LINES), letters // 10))


def outlines(letters: int) -> shapely.Geometry:
    """The area of a number of letters, line under line."""
    area = plan(with_lines(load(LOCK).job, lines(letters), 50.0), coarse=True)
    return shapely.union_all([letter.outline() for letter in area.made["lettering"].letters])


def shortened(moves: Moves, count: int) -> Moves:
    """The same cutting in about a number of short moves that nothing can join again."""
    chance = np.random.default_rng(3)
    segments = moves.segments
    lengths = np.linalg.norm(segments[:, 3:] - segments[:, :3], axis=1)
    step = lengths[~moves.rapid].sum() / count
    pen = Pen(*segments[0, :3])
    for ends, rapid, length in zip(segments, moves.rapid.tolist(), lengths.tolist()):
        if rapid:
            pen.rapid(*ends[3:])
            continue
        t = np.linspace(0.0, 1.0, max(1, round(length / step)) + 1)[1:, None]
        points = ends[:3] + t * (ends[3:] - ends[:3])
        points += np.column_stack([chance.normal(0, 0.003, (len(points), 2)), np.zeros(len(points))])
        pen.run(points, 1500.0)
    return pen.moves()


def reach_of(moves: np.ndarray, cutter: Cutter, top: float) -> np.ndarray:
    """How far from the path a cutter can touch wood, per move."""
    low = np.minimum(moves[:, 2], moves[:, 5])
    deep = np.maximum(top - low, 0.0)
    full = np.full(len(moves), cutter.diameter / 2)
    if cutter.kind == "vee":
        return np.where(deep > 0, np.minimum(full, cutter.tip / 2 + deep / cutter.steepness), 0.0)
    return np.where(deep > 0, full, 0.0)


# -- the core ---------------------------------------------------------------------------------------------------------


def removal(name: str, wood: HeightField, moves: Moves, cutter: Cutter) -> None:
    """A sweep on one thread against a bare minimum over the same cells, and two threads against one."""
    segments = np.ascontiguousarray(moves.segments)
    reach = reach_of(segments, cutter, float(wood.z.max()))
    mine, bare = pair(
        lambda: cut(wood, moves, cutter, threads=1),
        lambda: baselines.bare_minimum(wood.z.copy(), wood.x0, wood.y0, wood.cell, segments, reach),
    )
    row(f"removal, {name}, {len(moves)} moves, one thread, to a bare minimum", mine, bare, "<= 2")
    one, two = pair(lambda: cut(wood, moves, cutter, threads=1), lambda: cut(wood, moves, cutter, threads=2))
    row(f"removal, {name}, one thread, to two", one, two, ">= 1.5")
    same = np.array_equal(cut(wood, moves, cutter, threads=1).after.z, cut(wood, moves, cutter, threads=2).after.z)
    print(f"  {name}: one and two threads bit-identical: {same}")


def ideal_gain() -> None:
    """What two threads that share nothing get on this machine now."""
    work = lambda: baselines.spin(60_000_000)  # noqa: E731

    def both() -> None:
        with ThreadPoolExecutor(2) as pool:
            list(pool.map(lambda _: work(), range(2)))

    one, two = pair(lambda: (work(), work()), both)
    row("bare spinning twice, one thread to two: the most there is", one, two)


def geometry_and_wood() -> None:
    """Axis, paths and removal of the three-line sign."""
    job = sign()
    reckoned = plan(job)
    area = shapely.union_all([letter.outline() for letter in reckoned.made["lettering"].letters])
    row(
        "medial axis and V paths of three lines, to the bare Voronoi",
        *pair(lambda: area_cut(area, 1.0), lambda: baselines.bare_voronoi(area)),
        "<= 4",
    )
    ideal_gain()
    surface, front = reckoned.setups
    op = surface.operations[0]
    removal("surfacing", surface.start, op.moves, cutter_of(op.tool))
    carve = next(o for o in front.operations if o.kind == "vcut")
    wood = front.start if front.operations[0] is carve else front.operations[0].after
    removal("V text", wood, carve.moves, cutter_of(carve.tool))
    removal("V text, short moves", wood, shortened(carve.moves, 250_000), cutter_of(carve.tool))


def programs() -> None:
    """Reading and timing."""
    text = window.long_program(1_000_000)
    mine, base = pair(lambda: read(text), lambda: baselines.bare_lines(text), 3)
    row("a million lines read, one regular expression a line to it", base, mine, ">= 15")
    row("the same, the plain reader to it", once(lambda: read_plainly(text)), mine)
    moves = read(text).moves
    wanted = np.full(len(moves), 30.0)
    drive = drive_of(load(LOCK).job)
    row(
        "time of a million moves, to a bare sum of length over feed",
        *pair(lambda: move_seconds(moves, drive), lambda: baselines.bare_seconds(moves.points, wanted)),
        "<= 12",
    )


def walls() -> None:
    """Clearance of a long program to twelve straps."""
    moves = read(window.long_program(200_000)).moves.moved(0.0, 0.0, 30.0)
    job = load(LOCK).job
    standing = [
        Solid(
            f"C{i}", "strap", shapely.box(60 + 90 * i, 20 + 500 * (i % 2), 96 + 90 * i, 110 + 500 * (i % 2)), 0.0, 58.0
        )
        for i in range(12)
    ]
    for tool in (job.tool(2), job.tool(1)):
        parts = clearance.sections(tool, job.machine)
        took = median(lambda: clearance.clearance(moves, parts, standing, 3.0))  # noqa: B023
        row(f"200,000 moves clear of 12 straps, {tool.diameter:g} mm {tool.kind}", took, None, "< 1 s")
        starts, ends = moves.points[:-1], moves.points[1:]
        took = median(lambda: clearance.passings(starts, ends, parts, standing))  # noqa: B023
        row(f"the same, every part's gap across and in height, {tool.diameter:g} mm", took, None, "< 1 s")
    reckoned = plan(job)
    judge = Judge(reckoned)
    judge.judge("front", "hold:C1", 1.0, 0.0)
    row("a dragged clamp judged again", median(lambda: judge.judge("front", "hold:C1", 7.0, 0.0)), None, "< 0.017 s")
    row("places for 8 clamps on the demo bed", median(lambda: suggestion(reckoned, "front", "strap", 8)), None, "< 2 s")
    row("ways of holding compared", median(lambda: ways_compared(reckoned, "front", 4)), None, "< 4 s")


def levelling() -> None:
    """Two faces of 5,000 readings each, and with only those passed on that can rule."""
    chance = np.random.default_rng(4)
    x, y = chance.uniform(0, 900, 5000), chance.uniform(0, 300, 5000)
    warp = 6.0 * (x / 900 - 0.5) * (y / 300 - 0.5) + 3.0 * (x / 900 - 0.5) ** 2
    read = level.readings(
        np.column_stack([x, y, 34 + warp + chance.normal(0, 0.1, 5000)]),
        np.column_stack([x, y, warp + chance.normal(2, 0.1, 5000)]),
    )
    full, quick = pair(lambda: level.best(read, hulls=False), lambda: level.best(read))
    row("levelling 5,000 readings, the full programme to it", full, quick, ">= 3")


def surfaces() -> None:
    """A height map of many readings with its picture, and what following the outline saves on three slabs."""
    chance = np.random.default_rng(6)
    places = chance.uniform(0, 1, (2000, 2)) * [900.0, 320.0]
    z = 34.0 + np.sin(places[:, 0] / 200.0) + 0.5 * np.cos(places[:, 1] / 90.0)
    area = shapely.box(0, 0, 900, 320)

    def mapped() -> None:
        top = Top(places, z, 34.0)
        extremes(top, area)
        fine = top.over(np.linspace(0, 900, 240), np.linspace(0, 320, 86))
        shade.height_map(fine)

    row("a height map of 2,000 readings and its picture", median(mapped), goal="<= 0.1")
    lock = load(LOCK).job
    round_ = commands.run(lock, "set blank", {"shape": "round", "length": 318.0})
    oval = commands.run(lock, "set blank", {"shape": "oval"})
    for name, job in (("the waney slab", lock), ("an oval as long", oval), ("a round of 318", round_)):
        keep = tuple(h for h in job.blank.heights if h.x < job.blank.length)
        job = commands.run(commands.run(job, "set blank", {"heights": keep}), "set surfacing", {"wanted": "yes"})
        way = plan(job, coarse=True).surfaced.ways[0]
        row(
            f"surfacing {name}: minutes over the rectangle, following it",
            way.by_path["rectangle"],
            way.by_path["outline"],
        )


def plans() -> None:
    """Whole plans of the three-line sign, kernels warm."""
    job = sign()

    def fresh(coarse: bool) -> object:
        glyph_cut.cache_clear()
        return plan(job, coarse=coarse)

    row("three lines: whole plan, nothing remembered", median(lambda: fresh(False)), None, "<= 1 s")
    row("three lines: coarse picture, nothing remembered", median(lambda: fresh(True)), None, "<= 0.3 s")
    memory = Memory()
    plan(job, memory=memory)
    texts = (f"{a}{THREE_LINES[0][1:]}" for a in "GJMPQUVXYZ")  # letters not met before
    others = [with_lines(job, (text, *THREE_LINES[1:]), 50.0) for text in texts]
    take = iter(others)
    row("three lines: one letter changed", median(lambda: plan(next(take), memory=memory)), None, "<= 0.3 s")
    places = iter(range(100))

    def moved() -> object:
        values = {"setup": "front", "hold": "C1", "x": 260.0 + next(places) * 0.5}
        return plan(commands.run(job, "set hold", values), memory=memory)

    row("three lines: a hold moved", median(moved))


def full_bed() -> None:
    """A board as large as the bed, planned at 0.25 mm, in this process: prints seconds and the most memory, MB."""
    job = commands.run(sign(), "set blank", {"length": 1190.0, "width": 690.0})
    for name in ("surface", "front"):
        job = commands.run(job, "place blank", {"setup": name, "x": 5.0, "y": 5.0})
    began = time.perf_counter()
    plan(job, cell=0.25)
    took = time.perf_counter() - began
    most = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmHWM"))
    print(took, int(most.split()[1]) / 1024.0)


def growth() -> None:
    """How it grows."""
    print("\ngrowth: seconds, and seconds for each of them in millionths")
    for letters in (30, 120, 480):
        area = outlines(letters)
        took, bare = pair(lambda: area_cut(area, 1.0), lambda: baselines.bare_voronoi(area), 3)  # noqa: B023
        print(
            f"  {letters:>9} letters, as one area: medial axis and V paths {took:8.4f} {took / letters * 1e6:9.1f}"
            f"  of that the bare Voronoi {bare:8.4f} {bare / letters * 1e6:9.1f}"
        )
        job = with_lines(load(LOCK).job, lines(letters), 8.0)
        whole = median(lambda: plan(job, coarse=False), 3)  # noqa: B023
        print(f"  {letters:>9} letters: whole plan, glyphs known {whole:8.4f} {whole / letters * 1e6:9.1f}")
    drive = drive_of(load(LOCK).job)
    cutter = cutter_of(load(LOCK).job.tool(4))
    board = HeightField(np.full((1200, 2240), 0.0, np.float32), 0.125, 0.125, 0.25)
    for count in (10_000, 100_000, 1_000_000):
        text = window.long_program(count)
        took = median(lambda: read(text), 3)  # noqa: B023
        moves = read(text).moves
        timed = median(lambda: move_seconds(moves, drive), 3)  # noqa: B023
        swept = median(lambda: cut(board, moves, cutter), 3)  # noqa: B023
        print(
            f"  {count:>9} moves: read {took:8.4f} {took / count * 1e6:6.2f}  timed {timed:8.4f} "
            f"{timed / count * 1e6:6.2f}  swept {swept:8.4f} {swept / count * 1e6:6.2f}"
        )
    for length, width in ((300.0, 175.0), (600.0, 350.0), (1190.0, 690.0)):
        job = commands.run(sign(), "set blank", {"length": length, "width": width})
        job = commands.run(job, "scale lettering", {"factor": length / 1190.0})
        job = commands.run(job, "set carving", {"x": length / 2, "y": width / 2})
        took = median(lambda: plan(job, cell=0.25), 3)  # noqa: B023
        cells = length * width / 0.25**2
        print(f"  {length:g} x {width:g} board at 0.25 mm: whole plan {took:8.4f}  {took / cells * 1e6:8.4f} a cell")


def main() -> None:
    """Measure and print."""
    if sys.argv[1:] == ["full-bed"]:
        full_bed()
        return
    before = processor()
    print(f"{'what':<66} {'seconds':>9} {'baseline':>9} {'ratio':>6}  goal")
    geometry_and_wood()
    programs()
    walls()
    levelling()
    surfaces()
    row("timetable of 20 jobs, 20 steps each", median(finishing.timetables), None, "< 1 s")
    plans()
    carving.rows(
        row,
        pair,
        median,
        sign(),
        lambda first: with_lines(load(LOCK).job, (f"{first}{THREE_LINES[0][1:]}", *THREE_LINES[1:]), 50.0),
    )
    carving.relief_rows(row, pair, median)
    cutting.rows(row, median)
    done = subprocess.run([sys.executable, __file__, "full-bed"], capture_output=True, text=True, check=True)
    seconds, megabytes = map(float, done.stdout.split())
    row("a board as large as the bed at 0.25 mm, planned", seconds)
    row("its process at most, MB", megabytes, None, "<= 600")
    if sys.argv[1:] != ["core"]:
        window.rows(row)
    growth()
    taken, ticks = (b - a for a, b in zip(before, processor()))
    print(
        f"\nwhile this was measured, other machines on the same host took {100.0 * taken / ticks:.0f} % of the processors"
    )


def processor() -> tuple[int, int]:
    """Ticks that the host gave to others, and all ticks."""
    ticks = [int(word) for word in Path("/proc/stat").read_text().splitlines()[0].split()[1:9]]
    return ticks[7], sum(ticks)


if __name__ == "__main__":
    main()
