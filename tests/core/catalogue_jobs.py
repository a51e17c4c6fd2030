# SPDX-License-Identifier: GPL-3.0-or-later
"""The jobs that findings are looked for in, and how each is changed."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Any

from gatepost.core.carve.edits import outlines
from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.journal import Journal, Kind
from gatepost.core.job.model import Job
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.plan.handling import on_edge

STOP, CARE, NOTE, OK = Level.STOP, Level.CARE, Level.NOTE, Level.OK
LONG, WIDE, TALL = 120.0, 80.0, 16.0  # of the boards, which lie with their corner at X 520, Y 310 of the bed
X, Y = 520.0, 310.0
Edit = tuple[str, dict[str, Any]]
ENTRIES = frozenset(Kind.__args__)  # type: ignore[attr-defined]


def edited(job: Job, *edits: Edit) -> Job:
    """The job after some commands; entries of the journal change nothing of it."""
    for name, values in edits:
        job = job if name in ENTRIES else commands.run(job, name, values)
    return job


def happened(*edits: Edit) -> Journal:
    """The journal after some entries, which are told from commands by their names."""
    journal = Journal()
    for name, values in edits:
        data = {k: v for k, v in values.items() if k != "setup"}
        journal = journal if name not in ENTRIES else journal.add("2026-11-02T10:00:00", name, values["setup"], **data)  # type: ignore[arg-type]
    return journal


def board(tall: float = TALL, tops: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0, 0.0), text: str = "IT") -> Job:
    """A measured board of elm with two letters. tops: by how much its four corners and its middle stand higher."""
    job = edited(
        Job(tools=shipped_tools()),
        ("set job", {"name": "Berth plate"}),
        ("set wood", {"name": "elm", "kind": "medium", "density": 560}),
        ("set blank", {"length": LONG, "width": WIDE, "label_thickness": tall, "reclaimed": False, "rocks": False}),
    )
    for x, y, t in [(8, 6, 0.02), (112, 6, 0.0), (112, 74, -0.02), (8, 74, 0.0), (60, 6, 0.01)]:
        job = edited(job, ("add caliper", {"x": x, "y": y, "thickness": tall + t}))
    for (x, y), z in zip([(10, 10), (110, 10), (110, 70), (10, 70), (60, 40)], tops, strict=True):
        job = edited(job, ("add height", {"x": x, "y": y, "z": tall + z}))
    job = edited(job, *(("place blank", {"setup": s, "x": X, "y": Y}) for s in ("surface", "front")))
    if text:
        job = edited(job, ("add line", {"height": 16.0, "tracking": 0.1, **outlines(text, "Sans")}))
    return edited(job, ("set carving", {"x": 60, "y": 40, "tool": 3, "margin": 8}))


def hold(name: str, **values: Any) -> Edit:
    """A hold of the front setup."""
    return "set hold", {"setup": "front", "hold": name, **values}


def tool(number: int, **values: Any) -> Edit:
    """A tool."""
    return "set tool", {"number": number, **values}


def blank(**values: Any) -> Edit:
    """The blank."""
    return "set blank", values


def zero(**values: Any) -> Edit:
    """Zeros of the front setup."""
    return "set zero", {"setup": "front", **values}


def cut(**values: Any) -> Edit:
    """The plate."""
    return "set plate", values


def flat(**values: Any) -> Edit:
    """What is wanted of surfacing."""
    return "set surfacing", values


def machine(**values: Any) -> Edit:
    """The router."""
    return "set machine", values


def bed(what: str, **values: Any) -> Edit:
    """Something that stays on the bed."""
    return "add to bed", {"what": what, "values": values}


def without(name: str, setup: str = "front") -> Edit:
    """A hold taken away."""
    return "remove hold", {"setup": setup, "hold": name}


def jaws(job: Job, setup: str) -> Job:
    """Four edge clamps, half as high as the board."""
    for x, y, heading in [(550, Y, 90), (610, Y, 90), (550, Y + WIDE, 270), (610, Y + WIDE, 270)]:
        place = {"x": x, "y": y, "heading": heading, "height": 8.0, "force": 1800.0}
        job = edited(job, ("add hold", {"setup": setup, "kind": "edge", **place}))
    return job


@cache
def plate() -> Job:
    """Letters and a plate, cut out between edge clamps: its lower edge 12 mm from the board's."""
    return edited(
        jaws(board(), "front"),
        ("set zero", {"setup": "front", "xy": "centre", "z": "top", "touch_x": 60, "touch_y": 14}),
        ("set plate", {"x": 60, "y": 40, "width": 96, "height": 56, "corner": 10, "tool": 2, "tabs": 4, "tab_width": 10, "tab_height": 5}),
    )  # fmt: skip


@cache
def strapped() -> Job:
    """Letters only, under four straps whose noses lie 14 mm on the board."""
    job = board()
    for x, y, heading in [(535, 200, 90), (625, 200, 90), (535, 500, 270), (625, 500, 270)]:
        place = {"x": x, "y": y, "heading": heading, "nose": 124, "tail": 50, "packing": TALL, "width": 24}
        job = edited(job, ("add hold", {"setup": "front", "kind": "strap", **place}))
    return edited(job, ("set zero", {"setup": "front", "xy": "centre", "z": "top", "touch_x": 60, "touch_y": 18}))


@cache
def slab() -> Job:
    """A board out of true by 1.6 mm, surfaced between edge clamps and lettered between them."""
    job = jaws(jaws(board(20.0, (0.0, 1.2, 1.6, 0.4, 0.8)), "surface"), "front")
    return edited(
        job,
        ("set zero", {"setup": "surface", "xy": "centre", "z": "top", "touch_x": 60, "touch_y": 40}),
        ("set zero", {"setup": "front", "xy": "centre", "z": "top", "touch_x": 60, "touch_y": 14}),
        ("set surfacing", {"tool": 1, "stepover": 0.4, "limit": 1.0}),
    )


@cache
def screwed() -> Job:
    """Letters only, four screws through its corners."""
    job = board()
    for x, y in [(530, 320), (630, 320), (530, 380), (630, 380)]:
        job = edited(job, ("add hold", {"setup": "front", "kind": "screw", "x": x, "y": y, "heading": 0}))
    return edited(job, ("set zero", {"setup": "front", "xy": "centre", "z": "top", "touch_x": 60, "touch_y": 14}))


@cache
def taped() -> Job:
    """Letters only, on two strips of tape along it."""
    job = board()
    for y in (330, 370):
        place = {"x": 580, "y": y, "heading": 0, "length": 110, "width": 25}
        job = edited(job, ("add hold", {"setup": "front", "kind": "tape", **place}))
    return edited(job, ("set zero", {"setup": "front", "xy": "centre", "z": "top", "touch_x": 60, "touch_y": 14}))


@cache
def whole() -> Job:
    """The slab with a plate cut out of it: all that there is, in two setups."""
    return edited(
        slab(),
        ("set plate", {"x": 60, "y": 40, "width": 96, "height": 56, "corner": 10, "tool": 2, "tabs": 4, "tab_width": 10, "tab_height": 5}),
    )  # fmt: skip


NEST = {"name": "Tray", "x": X, "y": Y, "length": 120.4, "width": 80.4, "height": 8}


@cache
def nested() -> Job:
    """The taped one, in a nest."""
    return edited(
        taped(),
        ("add to bed", {"what": "nests", "values": NEST}),
        ("add hold", {"setup": "front", "kind": "nest", "x": X, "y": Y, "heading": 0, "of": "Tray"}),
    )


@cache
def wedged() -> Job:
    """Letters only, wedges before it and a fence behind it."""
    fence = {"name": "Rail", "x": 700, "y": Y + WIDE, "heading": 180, "length": 240, "height": 8}
    job = edited(board(), ("add to bed", {"what": "fences", "values": fence}))
    for x in (550, 610):
        place = {"x": x, "y": Y, "heading": 90, "height": 8}
        job = edited(job, ("add hold", {"setup": "front", "kind": "wedges", **place}))
    return edited(job, ("set zero", {"setup": "front", "xy": "centre", "z": "top", "touch_x": 60, "touch_y": 14}))


@cache
def batch() -> Job:
    """Three pieces of a batch, in a nest with 0.4 to 0.5 mm of play."""
    rows = [("1", 120.0, 80.0, 16.0), ("2", 119.95, 79.95, 16.1), ("3", 119.9, 79.9, 16.5)]
    return edited(
        plate(),
        ("set pieces", {"rows": rows}),
        ("set batch", {"tolerance": 0.2, "nest_length": 120.4, "nest_width": 80.4, "play": 0.6}),
    )


@cache
def inches() -> Job:
    """The plate for a control of another kind: inches, numbered lines, pauses for tools, Z0 on the bed, a corner touched."""
    words = {
        "units": "inch",
        "decimals": 4,
        "line_numbers": True,
        "comments": "semicolon",
        "tool_change": "pause",
        "dwell": "ms",
    }
    return edited(
        plate(),
        ("set job", {"unit": "inch"}),
        machine(dialect=words),
        tool(3, length=47.0),
        zero(xy="front left", xy_way="pin", z="bed", gauge="paper", gauge_thickness=0.1, touch_x=None, touch_y=None),
        hold("E1", height=7.0),
    )


@cache
def live() -> Job:
    """A live edge, surfaced on both faces along its outline, at an angle, on its own underside; its crack filled, lettered."""
    points = [(2, 8), (40, 0), (85, 3), (119, 10), (120, 60), (112, 76), (70, 80), (30, 74), (0, 66)]
    low = [(12, 14, 0.0), (108, 16, 0.5), (104, 66, 0.9), (14, 60, 0.2), (60, 40, 0.6)]
    job = edited(
        board(24.0, (0.0, 0.4, 0.9, 0.3, 0.5), "T"),
        blank(shape="outline", outline=tuple(points), grain=8.0, moisture=10.0, moisture_taken="2026-10-30"),
        *(
            ("set caliper", {"caliper": f"caliper-{i + 1}", "x": x, "y": y})
            for i, (x, y) in enumerate([(20, 14), (100, 14), (104, 66), (16, 60), (60, 12)])
        ),
        *(("set height", {"height": f"height-{i + 1}", "x": x, "y": y}) for i, (x, y, _) in enumerate(low)),
        ("set heights", {"face": "under", "rows": low}),
        ("add flaw", {"kind": "crack", "x": 20, "y": 30, "size": 12, "depth": 4.0}),
        ("add coat", {"name": "oil", "face": "back", "thickness": 0.05}),
        flat(tool=1, path="outline", direction="at an angle", angle=20.0, way="climb", limit=0.8, stepover=0.3),
    )
    for setup, high in (("surface", 12.0), ("front", 10.0)):
        for x, y, heading in [(560, 300, 90), (600, 300, 90), (560, 400, 270), (600, 400, 270)]:
            edge = on_edge(job, job.setup(setup), heading, 36.0, x, y)
            place = {"x": edge[0], "y": edge[1], "heading": heading, "height": high, "force": 1500.0}
            job = edited(job, ("add hold", {"setup": setup, "kind": "edge", **place}))
    return edited(
        job, ("set second face", {"present": True, "turn": "about Y"}),
        ("set zero", {"setup": "surface", "xy": "outline middle", "z": "top", "touch_x": 60, "touch_y": 40}),
        zero(xy="outline middle", z="top", touch_x=60, touch_y=14),
    )  # fmt: skip


@cache
def raised() -> Job:
    """The plate's letters left standing in a ground 2 mm deep, 8 mm inside its edge."""
    return edited(plate(), ("add ground", {"setup": "front", "depth": 2.0, "rim": 8.0, "tools": (2, 3)}))


JOBS = {
    f.__name__: f for f in (plate, strapped, slab, whole, screwed, taped, nested, wedged, batch, inches, live, raised)
}


@dataclass(frozen=True)
class Row:
    """A finding of a code and level, in a setup or about a thing where that matters. near: silent still; over: fires."""

    code: str
    level: Level
    job: str
    number: int  # of those of its code and level
    near: tuple[Edit, ...]
    over: tuple[Edit, ...]  # commands, and among them entries of the journal

    @property
    def name(self) -> str:
        """For a test's list."""
        return f"{self.code} {self.level.value} {self.number}"


def spoiled(code: str, level: Level, job: str, near: Edit | list[Edit] | None, *over: Edit) -> Row:
    before = [] if near is None else near if isinstance(near, list) else [near]
    _MADE[code, level] = _MADE.get((code, level), 0) + 1
    return Row(code, level, job, _MADE[code, level], tuple(before), over)


_MADE: dict[tuple[str, Level], int] = {}


AS_IT_LIES: Edit = ("set register", {"setup": "front", "kind": "as it lies"})


def MOVED(by: float) -> Edit:
    """The board laid that far from where it lay."""
    there = whole().setup("surface")
    return "place blank", {"setup": "front", "x": there.x + by, "y": there.y}


ON_END: Edit = ("add setup", {"id": "end", "up": "left"})
ON_THE_END: list[Edit] = [  # the same letter once more, on the left end
    ("add setup", {"id": "end", "up": "left"}),
    (
        "add art",
        {"kind": "lettering", "id": "mark", "face": "left", "x": 9.0, "y": 40.0, "lines": plate().carving.lines},
    ),
    ("add operation", {"setup": "end", "kind": "vcut", "id": "marking", "on": ("mark",), "tool": 4}),
]
JAWS = ("E1", "E2", "E3", "E4")
OLD = {"reclaimed": True, "metal": False, "old_paint": False, "treated": False}
HALF = 1.79465743  # of the widest stroke, of the T: half the width of a 16 mm letter's stem
