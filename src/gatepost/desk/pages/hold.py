# SPDX-License-Identifier: GPL-3.0-or-later
"""The Hold page."""

from __future__ import annotations

from gatepost.core.hold.report import NAMES
from gatepost.core.job.hold import Hold
from gatepost.core.job.model import Job
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act, single

YES = (("yes", True), ("no", False))
INTO = (("a slot", "slot"), ("an insert", "insert"))
SCREW_INTO = (("the spoilboard", "board"), ("an insert", "insert"))
METALS = (("steel", "steel"), ("brass", "brass"), ("plastic", "plastic"))
SLOTS = (("steel", "steel"), ("aluminium", "aluminium"))
CORNERS = tuple((c, c) for c in ("front left", "front right", "back left", "back right"))
# of each kind: label, what is typed, entry, choices, unit beside it
FIELDS: dict[str, tuple[tuple[str, str, str, tuple[tuple[str, object], ...], str], ...]] = {
    "strap": (
        ("Bolt X", "length", "x", (), ""), ("Bolt Y", "length", "y", (), ""), ("Nose points, degrees", "number", "heading", (), ""),
        ("Bolt to nose", "length", "nose", (), ""), ("Bolt to packing", "length", "tail", (), ""), ("Packing", "length", "packing", (), ""),
        ("Strap is thick", "length", "thickness", (), ""), ("Strap is wide", "length", "width", (), ""), ("Stud", "length", "stud", (), ""),
        ("Bolt goes into", "choice", "into", INTO, ""), ("Torque on its nut, N·m", "number", "torque", (), "N·m"),
        ("Bolt force, where no torque is typed", "number", "force", (), "N"),
    ),
    "edge": (
        ("Jaw X", "length", "x", (), ""), ("Jaw Y", "length", "y", (), ""), ("Presses, degrees", "number", "heading", (), ""),
        ("Top above the bed", "length", "height", (), ""), ("Jaw is wide", "length", "width", (), ""), ("Reaches back", "length", "body", (), ""),
        ("Force", "number", "force", (), "N"),
    ),
    "wedges": (
        ("Meets the work at X", "length", "x", (), ""), ("Meets it at Y", "length", "y", (), ""), ("Presses, degrees", "number", "heading", (), ""),
        ("Top above the bed", "length", "height", (), ""), ("Pair is wide", "length", "width", (), ""), ("Reaches back", "length", "body", (), ""),
        ("Shim beside it", "length", "shim", (), ""), ("Force, about", "number", "force", (), "N"),
    ),
    "screw": (
        ("X", "length", "x", (), ""), ("Y", "length", "y", (), ""), ("Goes into", "choice", "into", SCREW_INTO, ""),
        ("Diameter", "length", "diameter", (), ""), ("Washer", "length", "washer", (), ""), ("Head above the work", "length", "above", (), ""),
        ("Bites", "length", "bite", (), ""), ("Of", "choice", "metal", METALS, ""), ("Pilot drilled", "choice", "pilot", YES, ""),
    ),
    "tape": (
        ("Middle X", "length", "x", (), ""), ("Middle Y", "length", "y", (), ""), ("Runs, degrees", "number", "heading", (), ""),
        ("Long", "length", "length", (), ""), ("Wide", "length", "width", (), ""), ("Share that sticks", "number", "contact", (), ""),
        ("Fresh, on sealed or skimmed faces", "choice", "fresh", YES, ""),
    ),
}  # fmt: skip
FIELDS["glue"] = FIELDS["tape"]
RULES = (
    ("Friction of wood on the bed", "number", "friction", ""), ("Hold wanted over push", "number", "factor", "times"),
    ("Clear of holds", "length", "clearance", ""), ("One screw holds", "number", "screw", "N"), ("Tape holds in shear", "number", "tape", "N/mm²"),
    ("Tape holds against lifting", "number", "peel", "N/mm²"), ("An up-cut pulls, share of its push", "number", "pull", ""),
    ("Soft wood bears", "number", "bearing_soft", "N/mm²"), ("Hard wood bears", "number", "bearing_hard", "N/mm²"),
    ("A strap slopes, degrees at most", "number", "nose", ""), ("A tab bears", "number", "tab_shear", "N/mm²"), ("Skin, at least", "length", "skin", ""),
)  # fmt: skip


def page(job: Job, setup: str) -> tuple[Group, ...]:
    """Where the board lies, every hold of the setup, what the bed has, and what is reckoned with."""
    s = job.setup(setup)
    rows = (
        PageRow((PageEntry("X of its corner", "length", s.x, "place blank", lambda v: {"setup": setup, "x": v, "y": s.y}),), "X of its corner"),
        PageRow((PageEntry("Y of its corner", "length", s.y, "place blank", lambda v: {"setup": setup, "x": s.x, "y": v}),), "Y of its corner"),
    )  # fmt: skip
    acts = (
        act("Places and ways compared…", "window ways"), _strap(job, setup), _edge(job, setup), _wedges(job, setup), _screw(job, setup),
        _tape(job, setup, "tape"), _tape(job, setup, "glue"), *_nests(job, setup),
    )  # fmt: skip
    place = Group("The board on the bed", rows, acts=acts)
    return (place, *(_hold(job, setup, h) for h in s.holds), *_bed(job), _rules(job))


def _thick(job: Job) -> float:
    return max([h.z for h in job.blank.heights], default=job.blank.label_thickness)


def _strap(job: Job, setup: str) -> Act:
    s = job.setup(setup)
    below = [y for y in job.machine.slots if y < s.y - 20] or list(job.machine.slots) or [max(s.y - 45.0, 0.0)]
    y = max(below)
    nose = max(s.y + 14 - y, 20)
    x = s.x + job.blank.length * (0.15 + 0.2 * (len(s.holds) % 5))
    return act("Add a strap", "add hold", setup=setup, kind="strap", x=x, y=y, heading=90.0, nose=nose, tail=40.0, packing=_thick(job))  # fmt: skip


def _beside(job: Job, setup: str) -> tuple[float, float, float]:
    """A place along the front or the back edge for one more hold, with its heading."""
    s, count = job.setup(setup), len(job.setup(setup).holds)
    x = s.x + job.blank.length * (0.3 + 0.4 * ((count // 2) % 2))
    return (x, s.y, 90.0) if count % 2 == 0 else (x, s.y + job.blank.width, 270.0)


def _edge(job: Job, setup: str) -> Act:
    x, y, heading = _beside(job, setup)
    return act("Add an edge clamp", "add hold", setup=setup, kind="edge", x=x, y=y, heading=heading, height=job.blank.label_thickness * 0.6)  # fmt: skip


def _wedges(job: Job, setup: str) -> Act:
    x, y, heading = _beside(job, setup)
    height = job.blank.label_thickness * 0.6
    return act("Add a pair of wedges", "add hold", setup=setup, kind="wedges", x=x, y=y, heading=heading, height=height, width=60.0, body=80.0, force=400.0)  # fmt: skip


def _screw(job: Job, setup: str) -> Act:
    s, count = job.setup(setup), len(job.setup(setup).holds)
    left, front = count % 2 == 0, count % 4 < 2
    x = s.x + (15.0 if left else job.blank.length - 15.0)
    y = s.y + (15.0 if front else job.blank.width - 15.0)
    return act("Add a screw", "add hold", setup=setup, kind="screw", x=x, y=y, heading=90.0, into="board", bite=job.machine.bed.screws or 12.0)  # fmt: skip


def _tape(job: Job, setup: str, kind: str) -> Act:
    s, count = job.setup(setup), sum(h.kind == kind for h in job.setup(setup).holds)
    x = s.x + job.blank.length * (0.5, 0.2, 0.8, 0.35, 0.65)[count % 5]
    words = "Add double-sided tape" if kind == "tape" else "Add tape with glue between"
    values = {"x": x, "y": s.y + job.blank.width / 2.0, "heading": 90.0, "length": job.blank.width, "width": 50.0}
    return act(words, "add hold", setup=setup, kind=kind, **values)


def _nests(job: Job, setup: str) -> tuple[Act, ...]:
    used = {h.of for h in job.setup(setup).holds if h.kind == "nest"}
    return tuple(
        act(f"Lay it into {n.name}", "add hold", setup=setup, kind="nest", x=n.x, y=n.y, heading=n.heading, of=n.name)
        for n in job.machine.bed.nests
        if n.name not in used
    )


def _hold(job: Job, setup: str, h: Hold) -> Group:
    rows = tuple(
        single(label, kind, getattr(h, field), "set hold", field, choices, unit, setup=setup, hold=h.name)
        for label, kind, field, choices, unit in FIELDS.get(h.kind, ())
    )
    acts = [act(f"Take {h.name} away", "remove hold", setup=setup, hold=h.name)]
    if h.kind != "nest":
        along = h.kind in ("tape", "glue") or abs(h.heading % 180.0) > 45.0
        dx, dy = (80.0, 0.0) if along else (0.0, 80.0)
        acts += [
            act(f"Copy {h.name}", "copy hold", setup=setup, hold=h.name, dx=dx, dy=dy),
            act("Mirror to the other edge", "mirror hold", setup=setup, hold=h.name, across="Y"),
            act("Mirror to the other end", "mirror hold", setup=setup, hold=h.name, across="X"),
        ]
    return Group(f"{h.name}, {NAMES[h.kind][0]}" + (f" {h.of}" if h.of else ""), rows, acts=tuple(acts))


def _bed(job: Job) -> tuple[Group, ...]:
    """What stays on the bed from job to job."""
    bed = job.machine.bed
    blocks = " ".join(f"{b:g}" for b in bed.blocks)
    scars = f"{len(bed.scars)} scars of earlier cuts are drawn" if bed.scars else "No scars are kept"
    rows = (
        single("Last skimmed", "words", bed.skimmed, "set bed", "skimmed"),
        PageRow((PageEntry("Blocks at hand, mm", "words", blocks, "set bed", _blocks),), "Blocks at hand, mm"),
        single("Screws may bite", "length", bed.screws, "set bed", "screws"),
        single("Slots are of", "choice", bed.slot, "set bed", "slot", SLOTS),
        single("Slot nuts are thick", "length", bed.slot_nut, "set bed", "slot_nut"),
    )
    middle = {"x": job.machine.travel_x / 2, "y": job.machine.travel_y / 2}
    acts = (
        act("Add a fence", "add to bed", what="fences", values={"name": f"Fence {len(bed.fences) + 1}", "x": 100.0, "y": 60.0}),
        act("Add a nest for this blank", "add to bed", what="nests", values=_nest_for(job)),
        act("Add inserts", "add to bed", what="inserts", values={**middle, "columns": 3, "rows": 2}),
        act("Keep this bed for the shop", "window keep_bed"),
        act("Take the shop's bed", "window take_bed"),
        act("Skimmed: no scars any more", "window skimmed"),
    )  # fmt: skip
    out = [Group(f"The bed. {scars}", rows, acts=acts)]
    for what, words, fields in THINGS:
        for i, thing in enumerate(getattr(bed, what)):
            name = getattr(thing, "name", f"Inserts {i + 1}")
            mine = tuple(
                _thing(what, i, label, kind, field, getattr(thing, field), choices)
                for label, kind, field, choices in fields
            )
            away = [act(f"Take {name} off the bed", "take off bed", what=what, index=i)]
            if what == "nests":
                away.append(Act("Write the nest's program…", f"window nest_program_{i}", lambda plan: {}))
            out.append(Group(f"{name}{words}", mine, acts=tuple(away)))
    return tuple(out)


THINGS: tuple[tuple[str, str, tuple[tuple[str, str, str, tuple[tuple[str, object], ...]], ...]], ...] = (
    ("fences", ", fence", (("Name", "words", "name", ()), ("X", "length", "x", ()), ("Y", "length", "y", ()), ("Runs, degrees", "number", "heading", ()),
                          ("Long", "length", "length", ()), ("High", "length", "height", ()), ("Wide", "length", "width", ()))),
    ("nests", ", nest", (("Name", "words", "name", ()), ("Stop corner X", "length", "x", ()), ("Stop corner Y", "length", "y", ()),
                        ("Stop corner", "choice", "corner", CORNERS), ("Opening long", "length", "length", ()), ("Opening wide", "length", "width", ()),
                        ("Walls high", "length", "height", ()), ("Walls wide", "length", "rim", ()), ("Corners relieved by", "length", "relief", ()))),
    ("inserts", "", (("First X", "length", "x", ()), ("First Y", "length", "y", ()), ("Columns", "number", "columns", ()), ("Rows", "number", "rows", ()),
                     ("Apart in X", "length", "across", ()), ("Apart in Y", "length", "up", ()), ("Thread", "length", "thread", ()))),
)  # fmt: skip


def _thing(
    what: str, index: int, label: str, kind: str, field: str, value: object, choices: tuple[tuple[str, object], ...]
) -> PageRow:
    whole = field in ("columns", "rows")
    return PageRow(
        (PageEntry(label, kind, value, "set on bed", lambda v: {"what": what, "index": index, "values": {field: int(v) if whole else v}}, choices),),
        label,
    )  # fmt: skip


def _blocks(words: str) -> dict[str, object]:
    """Heights of blocks out of words."""
    from gatepost.core.units import parse_length

    return {"blocks": tuple(parse_length(w, "mm") for w in words.replace(",", " ").split())}


def _nest_for(job: Job) -> dict[str, object]:
    """A nest for blanks like this one, of the largest of its batch, with the play that the batch asks for."""
    batch = job.blank.batch
    pieces = batch.pieces if batch is not None else ()
    play = batch.play if batch is not None else 0.3
    long = max([p.length for p in pieces], default=job.blank.length) + play
    wide = max([p.width for p in pieces], default=job.blank.width) + play
    s = job.setups[-1]
    high = round(0.6 * min([p.thickness for p in pieces], default=job.blank.label_thickness), 1)
    count = len(job.machine.bed.nests) + 1
    return {"name": f"Nest {count}", "x": s.x, "y": s.y, "length": long, "width": wide, "height": high, "play": play}


def _rules(job: Job) -> Group:
    rows = tuple(
        single(label, kind, getattr(job.holding, field), "set holding", field, (), unit)
        for label, kind, field, unit in RULES
    )
    return Group("Reckoned with, shop rules", rows)
