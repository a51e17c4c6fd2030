# SPDX-License-Identifier: GPL-3.0-or-later
"""The Hold page."""

from __future__ import annotations

from gatepost.core.hold.kind import HoldKind
from gatepost.core.job.hold import Hold, InNest
from gatepost.core.job.model import Job
from gatepost.core.job.turning import standing_in
from gatepost.core.plan.kinds import Kinds
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act, single

SLOTS = (("steel", "steel"), ("aluminium", "aluminium"))
CORNERS = tuple((c, c) for c in ("front left", "front right", "back left", "back right"))
RULES = (
    ("Friction of wood on the bed", "number", "friction", ""), ("Hold wanted over push", "number", "factor", "times"),
    ("Clear of holds", "length", "clearance", ""), ("One screw holds", "number", "screw", "N"), ("Tape holds in shear", "number", "tape", "N/mm²"),
    ("Tape holds against lifting", "number", "peel", "N/mm²"), ("An up-cut pulls, share of its push", "number", "pull", ""),
    ("Soft wood bears", "number", "bearing_soft", "N/mm²"), ("Hard wood bears", "number", "bearing_hard", "N/mm²"),
    ("A strap slopes, degrees at most", "number", "nose", ""), ("A tab bears", "number", "tab_shear", "N/mm²"), ("Skin, at least", "length", "skin", ""),
)  # fmt: skip


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """Where the board lies, every hold of the setup, what the bed has, and what is reckoned with."""
    s = job.setup(setup)
    board = standing_in(job, s)
    rows = (
        PageRow((PageEntry("X of its corner", "length", s.x + board.x0, "place blank", lambda v: {"setup": setup, "x": v - board.x0, "y": s.y}),), "X of its corner"),
        PageRow((PageEntry("Y of its corner", "length", s.y + board.y0, "place blank", lambda v: {"setup": setup, "x": s.x, "y": v - board.y0}),), "Y of its corner"),
    )  # fmt: skip
    offers = [
        act(o.words, "add hold", setup=setup, kind=name, **o.values)
        for name, kind in kinds.holds.items()
        for o in kind.offers(job, s)
    ]
    place = Group("The board on the bed", rows, acts=(act("Places and ways compared…", "window ways"), *offers))
    return (place, *(_hold(setup, h, kinds.holds[h.kind]) for h in s.holds), *_bed(job), _rules(job))


def _hold(setup: str, h: Hold, kind: HoldKind) -> Group:
    rows = tuple(
        single(e.label, e.typed, getattr(h, e.field), "set hold", e.field, e.choices, e.unit, setup=setup, hold=h.name)
        for e in kind.entries
    )
    acts = [act(f"Take {h.name} away", "remove hold", setup=setup, hold=h.name)]
    if kind.by != "walls":
        along = kind.by == "under" or abs(h.heading % 180.0) > 45.0
        dx, dy = (80.0, 0.0) if along else (0.0, 80.0)
        acts += [
            act(f"Copy {h.name}", "copy hold", setup=setup, hold=h.name, dx=dx, dy=dy),
            act("Mirror to the other edge", "mirror hold", setup=setup, hold=h.name, across="Y"),
            act("Mirror to the other end", "mirror hold", setup=setup, hold=h.name, across="X"),
        ]
    of = h.of if isinstance(h, InNest) else ""
    return Group(f"{h.name}, {kind.one}" + (f" {of}" if of else ""), rows, acts=tuple(acts))


def _bed(job: Job) -> tuple[Group, ...]:
    """What stays on the bed from job to job."""
    bed = job.machine.bed
    blocks = " ".join(f"{b:g}" for b in bed.blocks)
    studs = " ".join(f"{b:g}" for b in bed.studs)
    scars = f"{len(bed.scars)} scars of earlier cuts are drawn" if bed.scars else "No scars are kept"
    rows = (
        single("Last skimmed", "words", bed.skimmed, "set bed", "skimmed"),
        single("Gantry squared last", "words", job.machine.squared, "set machine", "squared"),
        PageRow((PageEntry("Blocks at hand, mm", "words", blocks, "set bed", _blocks),), "Blocks at hand, mm"),
        PageRow((PageEntry("Studs at hand, lengths in mm", "words", studs, "set bed", _studs),), "Studs at hand"),
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
            name = thing.name
            mine = tuple(
                _thing(what, name, label, kind, field, getattr(thing, field), choices)
                for label, kind, field, choices in fields
            )
            away = [act(f"Take {name} off the bed", "take off bed", what=what, name=name)]
            if what == "nests":
                away.append(Act("Write the nest's program…", f"window nest_program {i}", lambda plan: {}))
            out.append(Group(f"{name}{words}", mine, acts=tuple(away)))
    return tuple(out)


THINGS: tuple[tuple[str, str, tuple[tuple[str, str, str, tuple[tuple[str, object], ...]], ...]], ...] = (
    ("fences", ", fence", (("Name", "words", "name", ()), ("X", "length", "x", ()), ("Y", "length", "y", ()), ("Runs, degrees", "number", "heading", ()),
                          ("Long", "length", "length", ()), ("High", "length", "height", ()), ("Wide", "length", "width", ()), ("Milled true in place on", "words", "milled", ()))),
    ("nests", ", nest", (("Name", "words", "name", ()), ("Stop corner X", "length", "x", ()), ("Stop corner Y", "length", "y", ()),
                        ("Stop corner", "choice", "corner", CORNERS), ("Opening long", "length", "length", ()), ("Opening wide", "length", "width", ()),
                        ("Walls high", "length", "height", ()), ("Walls wide", "length", "rim", ()), ("Corners relieved by", "length", "relief", ()), ("Made on", "words", "made", ()), ("First part in it", "words", "first", ()))),
    ("inserts", "", (("First X", "length", "x", ()), ("First Y", "length", "y", ()), ("Columns", "number", "columns", ()), ("Rows", "number", "rows", ()),
                     ("Apart in X", "length", "across", ()), ("Apart in Y", "length", "up", ()), ("Thread", "length", "thread", ()))),
)  # fmt: skip


def _thing(
    what: str, name: str, label: str, kind: str, field: str, value: object, choices: tuple[tuple[str, object], ...]
) -> PageRow:
    whole = field in ("columns", "rows")
    return PageRow(
        (PageEntry(label, kind, value, "set on bed", lambda v: {"what": what, "name": name, "values": {field: int(v) if whole else v}}, choices),),
        label,
    )  # fmt: skip


def _studs(words: str) -> dict[str, object]:
    """Lengths of studs out of words."""
    return {"studs": _blocks(words)["blocks"]}


def _blocks(words: str) -> dict[str, object]:
    """Heights of blocks out of words."""
    from gatepost.core.units import parse_length

    return {"blocks": tuple(parse_length(w, "mm") for w in words.replace(",", " ").split())}


def _nest_for(job: Job) -> dict[str, object]:
    """A nest for blanks like this one, of the largest of its batch, with the play that the batch asks for."""
    batch = job.blank.batch
    pieces = batch.pieces if batch is not None else ()
    play = batch.play if batch is not None else 0.3
    long = max([p.length for p in pieces], default=job.blank.across[0]) + play
    wide = max([p.width for p in pieces], default=job.blank.across[1]) + play
    s = job.setups[-1]
    high = round(0.6 * min([p.thickness for p in pieces], default=job.blank.label_thickness), 1)
    count = len(job.machine.bed.nests) + 1
    return {"name": f"Nest {count}", "x": s.x, "y": s.y, "length": long, "width": wide, "height": high, "play": play}


def _rules(job: Job) -> Group:
    rows = tuple(
        single(label, kind, getattr(job.holding, field), "set holding", field, (), unit)
        for label, kind, field, unit in RULES
    )
    return Group("Shop rules for holding", rows)
