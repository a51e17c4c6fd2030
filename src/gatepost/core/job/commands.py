# SPDX-License-Identifier: GPL-3.0-or-later
"""The one table of edits: every change to a job is a named command with named values.

A command is a pure function of the job. Undo is the job before; nothing else needs to know how to go back.
"""

from __future__ import annotations

import inspect
from collections.abc import Callable, Mapping
from typing import Any

from pydantic import ValidationError

from gatepost.core.errors import OperatorError, UnknownCommand
from gatepost.core.job.model import (
    LETTERS,
    Acceptance,
    Batch,
    Coat,
    Fence,
    Flaw,
    Gap,
    Glyph,
    Hold,
    Inserts,
    Job,
    Nest,
    Piece,
    Plate,
    Reading,
    SawCut,
    Scar,
    Setup,
    Stock,
    Support,
    TextLine,
    Tool,
    TopHeight,
    TouchChoice,
    changed,
    complaint,
)

MOST_HEIGHTS = 5000  # of one face
Command = Callable[..., Job]
TABLE: dict[str, Command] = {}


def _command(name: str) -> Callable[[Command], Command]:
    def enter(function: Command) -> Command:
        TABLE[name] = function
        return function

    return enter


def run(job: Job, name: str, values: Mapping[str, Any]) -> Job:
    """The job after a command. Raises OperatorError when it can't be done; the job is untouched either way."""
    if name not in TABLE:
        raise UnknownCommand(f"There is no command “{name}”.")
    try:
        inspect.signature(TABLE[name]).bind(job, **values)
    except TypeError as error:
        raise UnknownCommand(f"The command “{name}” does not take these values: {error}.") from None
    return TABLE[name](job, **values)


def _item(items: tuple[Any, ...], index: int, what: str) -> Any:
    if not 0 <= index < len(items):
        raise OperatorError(f"There is no {what} number {index + 1}.")
    return items[index]


def _swap(items: tuple[Any, ...], index: int, new: Any) -> tuple[Any, ...]:
    return (*items[:index], new, *items[index + 1 :])


def _setup(job: Job, setup: str, **values: Any) -> Job:
    job.setup(setup)
    return changed(job, setups=tuple(changed(s, **values) if s.name == setup else s for s in job.setups))


def _hold_index(setup: Setup, hold: str) -> int:
    for index, h in enumerate(setup.holds):
        if h.name == hold:
            return index
    raise OperatorError(f"There is no hold {hold} in this setup.")


@_command("set job")
def set_job(job: Job, **values: Any) -> Job:
    """Name, unit shown, tolerance class, and whether it can be replaced."""
    known = ("name", "unit", "tolerance", "irreplaceable")
    return changed(job, **{k: v for k, v in values.items() if k in known})


@_command("set blank")
def set_blank(job: Job, **values: Any) -> Job:
    """Its sizes, its shape and what is known of it. A round one is as long as it is wide."""
    if values.get("shape") == "outline" and len(values.get("outline", job.blank.outline)) < 3:
        corners = ((0.0, 0.0), (job.blank.length, 0.0), (job.blank.length, job.blank.width), (0.0, job.blank.width))
        values["outline"] = corners
    if values.get("shape", job.blank.shape) == job.blank.shape == "outline" and "outline" not in values:
        values |= _scaled(job, values)
    round_ = values.get("shape", job.blank.shape) == "round"
    if round_ and {"length", "width", "shape"} & set(values):
        across = values.get("length", values.get("width", min(job.blank.length, job.blank.width)))
        values |= {"length": across, "width": across}
    return changed(job, blank=changed(job.blank, **values))


def _scaled(job: Job, values: Mapping[str, Any]) -> dict[str, Any]:
    """An outline made as long or as wide as is asked."""
    b = job.blank
    times = tuple(float(values.get(name, old)) / old for name, old in (("length", b.length), ("width", b.width)))
    if times == (1.0, 1.0) or not all(0.0 < t < 1e4 for t in times):
        return {}
    return {"outline": tuple((x * times[0], y * times[1]) for x, y in b.outline)}


@_command("set outline")
def set_outline(job: Job, points: Any, doubt: float | None = None, **values: Any) -> Job:
    """The outline's corners, laid with their lower left at the blank's corner. doubt: its ±, mm."""
    corners, _ = _placed(points)
    size = corners.max(axis=0)
    outline = tuple((float(x), float(y)) for x, y in corners)
    doubt = job.blank.doubt if doubt is None else doubt
    shaped = {"shape": "outline", "outline": outline, "length": float(size[0]), "width": float(size[1])}
    return set_blank(job, **values, **shaped, doubt=doubt)


@_command("set corner")
def set_corner(job: Job, index: int, x: float, y: float) -> Job:
    """Move a corner of the outline; what is on the blank stays where it is on the wood."""
    _item(job.blank.outline, index, "corner")
    return _outlined(job, _swap(job.blank.outline, index, (x, y)))


@_command("add corner")
def add_corner(job: Job, index: int, x: float, y: float) -> Job:
    """One more corner, before the one of that number."""
    outline = job.blank.outline
    return _outlined(job, (*outline[:index], (x, y), *outline[index:]))


@_command("remove corner")
def remove_corner(job: Job, index: int) -> Job:
    """Take a corner away."""
    _item(job.blank.outline, index, "corner")
    return _outlined(job, (*job.blank.outline[:index], *job.blank.outline[index + 1 :]))


def _placed(points: Any) -> tuple[Any, tuple[float, float]]:
    from gatepost.core.geometry.outline import placed  # with it comes shapely, which the first paint does without

    return placed(points)


def _outlined(job: Job, points: tuple[tuple[float, float], ...]) -> Job:
    """Another outline in the same coordinates: where its lower left has moved, everything on the blank is told anew."""
    corners, (dx, dy) = _placed(points)
    new = set_outline(job, corners)
    return new if (dx, dy) == (0.0, 0.0) else _reframed(new, dx, dy)


def _reframed(job: Job, dx: float, dy: float) -> Job:
    """All places on the blank shifted, and the blank laid the other way, so that nothing moves on the bed."""

    def there(items: tuple[Any, ...]) -> tuple[Any, ...]:
        return tuple(changed(i, x=i.x + dx, y=i.y + dy) for i in items)

    blank, photo = job.blank, job.blank.photo
    if photo is not None:
        x0, y0, x1, y1 = photo.box
        photo = changed(photo, box=(x0 + dx, y0 + dy, x1 + dx, y1 + dy))
    lists = {name: there(getattr(blank, name)) for name in ("calipers", "heights", "under", "supports", "flaws")}
    plate = job.carving.plate
    carving = changed(
        job.carving, x=job.carving.x + dx, y=job.carving.y + dy,
        plate=None if plate is None else changed(plate, x=plate.x + dx, y=plate.y + dy),
    )  # fmt: skip
    setups = []
    for setup in job.setups:
        zero = setup.zero
        touch = (
            {}
            if zero.touch_x is None or zero.touch_y is None
            else {"touch_x": zero.touch_x + dx, "touch_y": zero.touch_y + dy}
        )
        zero = changed(zero, x=zero.x + dx, y=zero.y + dy, **touch)
        setups.append(changed(setup, x=setup.x - dx, y=setup.y - dy, zero=zero, touches=there(setup.touches)))
    return changed(job, blank=changed(blank, photo=photo, **lists), carving=carving, setups=tuple(setups))


@_command("set wood")
def set_wood(job: Job, **values: Any) -> Job:
    """The wood's copy."""
    return changed(job, wood=changed(job.wood, **values))


def _list_of(field: str, what: str, blank: Any) -> None:
    """Commands that add, change and take away one of a list of things of the blank."""

    @_command(f"add {what}")
    def add(job: Job, **values: Any) -> Job:
        return set_blank(job, **{field: (*getattr(job.blank, field), changed(blank, **values))})

    @_command(f"set {what}")
    def put(job: Job, index: int, **values: Any) -> Job:
        items = getattr(job.blank, field)
        return set_blank(job, **{field: _swap(items, index, changed(_item(items, index, what), **values))})

    @_command(f"remove {what}")
    def remove(job: Job, index: int) -> Job:
        items = getattr(job.blank, field)
        _item(items, index, what)
        return set_blank(job, **{field: (*items[:index], *items[index + 1 :])})


_list_of("calipers", "caliper", Reading(x=0, y=0, thickness=1))
_list_of("heights", "height", TopHeight(x=0, y=0, z=1))
_list_of("under", "gap", Gap(x=0, y=0, z=0))
_list_of("supports", "support", Support(x=0, y=0))
_list_of("flaws", "flaw", Flaw(x=0, y=0))
_list_of("coats", "coat", Coat())
_list_of("saw_cuts", "saw cut", SawCut(size="length", to=1))


@_command("set stock")
def set_stock(job: Job, present: bool = True, **values: Any) -> Job:
    """The rough stock that the blank is sawn from; present false takes it away."""
    if not present:
        return set_blank(job, stock=None)
    b = job.blank
    old = b.stock or Stock(length=b.length + 20, width=b.width + 10, thickness=b.label_thickness)
    return set_blank(job, stock=changed(old, **values))


@_command("set batch")
def set_batch(job: Job, present: bool = True, **values: Any) -> Job:
    """How a batch of pieces is dealt with; present false takes it away."""
    return set_blank(job, batch=changed(job.blank.batch or Batch(), **values) if present else None)


@_command("set pieces")
def set_pieces(job: Job, rows: Any) -> Job:
    """All pieces of the batch at once, from rows of name, length, width, thickness."""
    blank = Piece(name="1", length=1, width=1, thickness=1)
    pieces = tuple(
        changed(blank, **dict(zip(("name", "length", "width", "thickness"), row, strict=True))) for row in rows
    )
    return set_batch(job, pieces=pieces)


@_command("set heights")
def set_heights(job: Job, face: str, rows: Any) -> Job:
    """All heights of one face at once, top or under, from rows of x, y, z."""
    if face not in ("top", "under"):
        raise OperatorError(f"There is no face “{face}”: it is top or under.")
    if len(rows) > MOST_HEIGHTS:
        raise OperatorError(
            f"{len(rows)} heights are more than a job keeps: {MOST_HEIGHTS} at most. Leave out some of them."
        )
    make: Any = TopHeight if face == "top" else Gap
    return set_blank(job, **{"heights" if face == "top" else "under": tuple(_row(make, row) for row in rows)})


def _row(make: Any, row: Any) -> Any:
    x, y, z = row
    return changed(make(x=0, y=0, z=1), x=x, y=y, z=z)


@_command("set surfacing")
def set_surfacing(job: Job, **values: Any) -> Job:
    """What is wanted of surfacing."""
    return changed(job, surfacing=changed(job.surfacing, **values))


@_command("set second face")
def set_second_face(job: Job, present: bool = True, turn: str = "about X") -> Job:
    """Whether the other face is surfaced too, and what the board is turned about. Its holds are mirrored with it."""
    others = tuple(s for s in job.setups if s.name != "back")
    if not present:
        return changed(job, setups=others)
    from gatepost.core.job.turning import turned_hold

    first = job.setup("surface")
    empty = Setup(name="back", x=first.x, y=first.y)
    back = changed(empty, turn=turn, zero=changed(first.zero, xy="centre", touch_x=None, touch_y=None))
    back = changed(back, holds=tuple(turned_hold(h, first, job.blank, turn) for h in first.holds))
    return changed(
        job, setups=(*(s for s in others if s.name == "surface"), back, *(s for s in others if s.name != "surface"))
    )


@_command("place blank")
def place_blank(job: Job, setup: str, x: float, y: float) -> Job:
    """Lay the blank elsewhere on the bed; what holds it and its marks go along."""
    old = job.setup(setup)
    dx, dy = x - old.x, y - old.y
    holds = tuple(changed(h, x=h.x + dx, y=h.y + dy) for h in old.holds)
    return _setup(job, setup, x=x, y=y, holds=holds)


@_command("add hold")
def add_hold(job: Job, setup: str, kind: str, x: float, y: float, heading: float, **values: Any) -> Job:
    """Put one more hold on the bed."""
    holds = job.setup(setup).holds
    letter = LETTERS.get(kind, "H")
    number = 1 + max((int(h.name[1:]) for h in holds if h.name[:1] == letter and h.name[1:].isdigit()), default=0)
    empty = Hold(name="C1", kind="strap", x=0, y=0, heading=0)
    hold = changed(empty, **{"name": f"{letter}{number}", **values}, kind=kind, x=x, y=y, heading=heading)
    return _setup(job, setup, holds=(*holds, hold))


@_command("set hold")
def set_hold(job: Job, setup: str, hold: str, **values: Any) -> Job:
    """Move a hold or change what it is made of."""
    here = job.setup(setup)
    index = _hold_index(here, hold)
    return _setup(job, setup, holds=_swap(here.holds, index, changed(here.holds[index], **values)))


@_command("copy hold")
def copy_hold(job: Job, setup: str, hold: str, dx: float, dy: float) -> Job:
    """Another hold just like one, moved by an amount."""
    here = job.setup(setup)
    old = here.holds[_hold_index(here, hold)]
    return add_hold(job, setup, old.kind, old.x + dx, old.y + dy, old.heading, **_set_of(old))


@_command("mirror hold")
def mirror_hold(job: Job, setup: str, hold: str, across: str) -> Job:
    """Another hold just like one, on the other side of the blank. across: ``X`` for its other end, ``Y`` for its other edge."""
    from gatepost.core.job.turning import turned_hold

    if across not in ("X", "Y"):
        raise OperatorError(f"A hold is mirrored across X or across Y, not “{across}”.")
    here = job.setup(setup)
    old = here.holds[_hold_index(here, hold)]
    new = turned_hold(old, here, job.blank, "about Y" if across == "X" else "about X")
    return add_hold(job, setup, new.kind, new.x, new.y, new.heading, **_set_of(new))


def _set_of(hold: Hold) -> dict[str, Any]:
    """What a hold is set to, beside its name and place."""
    return {k: v for k, v in hold.model_dump().items() if k not in ("name", "kind", "x", "y", "heading")}


@_command("set holds")
def set_holds(job: Job, setup: str, holds: Any) -> Job:
    """All holds of a setup at once."""
    empty = Hold(name="C1", kind="strap", x=0, y=0, heading=0)
    new = tuple(h if isinstance(h, Hold) else changed(empty, **dict(h)) for h in holds)
    if len({h.name for h in new}) < len(new):
        raise OperatorError("Two holds have the same name.")
    return _setup(job, setup, holds=new)


@_command("set holding")
def set_holding(job: Job, **values: Any) -> Job:
    """What holding is reckoned with."""
    return changed(job, holding=changed(job.holding, **values))


@_command("set bed")
def set_bed(job: Job, **values: Any) -> Job:
    """What stays on the bed from job to job, in this job's copy of the machine."""
    return changed(job, machine=changed(job.machine, bed=changed(job.machine.bed, **values)))


ON_BED: dict[str, Any] = {"fences": Fence, "nests": Nest, "inserts": Inserts, "scars": Scar}


def _on_bed(job: Job, what: str) -> tuple[Any, ...]:
    if what not in ON_BED:
        raise OperatorError(f"A bed keeps {', '.join(ON_BED)}, not “{what}”.")
    return tuple(getattr(job.machine.bed, what))


@_command("add to bed")
def add_to_bed(job: Job, what: str, values: Mapping[str, Any]) -> Job:
    """One more fence, nest, grid of inserts or scar on this job's copy of the bed."""
    things = _on_bed(job, what)
    if any("name" in values and getattr(t, "name", None) == values["name"] for t in (*things, *_named_things(job))):
        raise OperatorError(f"There is something called {values['name']} on the bed already.")
    try:
        new = ON_BED[what].model_validate(dict(values))
    except ValidationError as error:
        raise OperatorError(complaint(error)) from None
    return set_bed(job, **{what: (*things, new)})


def _named_things(job: Job) -> tuple[Any, ...]:
    """What on the bed has a name."""
    return (*job.machine.bed.fences, *job.machine.bed.nests)


@_command("set on bed")
def set_on_bed(job: Job, what: str, index: int, values: Mapping[str, Any]) -> Job:
    """Change something that stays on the bed. What lies in a nest whose name changes stays in it."""
    things = _on_bed(job, what)
    old = _item(things, index, what.removesuffix("s"))
    new = changed(old, **values)
    if what in ("fences", "nests") and new.name != old.name and any(t.name == new.name for t in _named_things(job)):
        raise OperatorError(f"There is something called {new.name} on the bed already.")
    job = set_bed(job, **{what: _swap(things, index, new)})
    if what == "nests":
        for setup in job.setups:
            holds = tuple(
                changed(h, of=new.name, x=new.x, y=new.y, heading=new.heading) if h.of == old.name else h
                for h in setup.holds
            )
            job = _setup(job, setup.name, holds=holds)
    return job


@_command("take off bed")
def take_off_bed(job: Job, what: str, index: int) -> Job:
    """Take something off this job's copy of the bed."""
    things = _on_bed(job, what)
    _item(things, index, what.removesuffix("s"))
    return set_bed(job, **{what: things[:index] + things[index + 1 :]})


@_command("remove hold")
def remove_hold(job: Job, setup: str, hold: str) -> Job:
    """Take a hold off the bed."""
    here = job.setup(setup)
    index = _hold_index(here, hold)
    return _setup(job, setup, holds=here.holds[:index] + here.holds[index + 1 :])


@_command("set zero")
def set_zero(job: Job, setup: str, **values: Any) -> Job:
    """Where X0 Y0 and Z0 are, and how they are touched."""
    return _setup(job, setup, zero=changed(job.setup(setup).zero, **values))


@_command("set skew")
def set_skew(job: Job, setup: str, degrees: float) -> Job:
    """By how much the blank lies turned, as measured; its programs are turned by as much about X0 Y0."""
    return _setup(job, setup, skew=degrees)


@_command("set touch")
def set_touch(job: Job, setup: str, tool: int, x: float, y: float) -> Job:
    """Where a tool fitted later touches off."""
    others = tuple(t for t in job.setup(setup).touches if t.tool != tool)
    return _setup(job, setup, touches=(*others, changed(TouchChoice(tool=1, x=0, y=0), tool=tool, x=x, y=y)))


@_command("set carving")
def set_carving(job: Job, **values: Any) -> Job:
    """Where the lettering stands, its margin, tool and finish."""
    return changed(job, carving=changed(job.carving, **values))


def _lines(job: Job, lines: tuple[TextLine, ...]) -> Job:
    return changed(job, carving=changed(job.carving, lines=lines))


@_command("add line")
def add_line(
    job: Job, text: str, face: str, height: float, glyphs: tuple[Glyph, ...], width: float, **values: Any
) -> Job:
    """One more line of lettering, with the outlines that its face gave."""
    empty = TextLine(text="", face=face, height=10)
    line = changed(empty, **values, text=text, height=height, glyphs=glyphs, width=width)
    return _lines(job, (*job.carving.lines, line))


@_command("set line")
def set_line(job: Job, index: int, **values: Any) -> Job:
    """Change a line; another text or face comes with its outlines."""
    if ("text" in values or "face" in values) and not {"glyphs", "width"} <= set(values):
        raise OperatorError("Another text or face needs its outlines with it.")
    line = changed(_item(job.carving.lines, index, "line"), **values)
    return _lines(job, _swap(job.carving.lines, index, line))


@_command("remove line")
def remove_line(job: Job, index: int) -> Job:
    """Take a line of lettering away."""
    _item(job.carving.lines, index, "line")
    return _lines(job, job.carving.lines[:index] + job.carving.lines[index + 1 :])


@_command("scale lettering")
def scale_lettering(job: Job, factor: float) -> Job:
    """Every line larger or smaller by a factor."""
    if not 0.01 <= factor <= 100:
        raise OperatorError("Lettering can be scaled between a hundredth and a hundred times.")
    return _lines(job, tuple(changed(line, height=line.height * factor) for line in job.carving.lines))


@_command("set plate")
def set_plate(job: Job, present: bool = True, **values: Any) -> Job:
    """The rounded plate that is cut out; present false takes it away."""
    if not present:
        return set_carving(job, plate=None)
    middle = {"x": job.blank.length / 2, "y": job.blank.width / 2}
    old = job.carving.plate or Plate(width=0.8 * job.blank.length, height=0.8 * job.blank.width, **middle)
    return set_carving(job, plate=changed(old, **values))


@_command("add tool")
def add_tool(job: Job, tool: Tool) -> Job:
    """One more tool for this job."""
    if any(t.number == tool.number for t in job.tools):
        raise OperatorError(f"Tool {tool.number} is in the table already.")
    return changed(job, tools=tuple(sorted((*job.tools, tool), key=lambda t: t.number)))


@_command("set tool")
def set_tool(job: Job, number: int, **values: Any) -> Job:
    """Change this job's copy of a tool."""
    job.tool(number)
    return changed(job, tools=tuple(changed(t, **values) if t.number == number else t for t in job.tools))


@_command("remove tool")
def remove_tool(job: Job, number: int) -> Job:
    """Take a tool out of this job's table."""
    job.tool(number)
    return changed(job, tools=tuple(t for t in job.tools if t.number != number))


@_command("set machine")
def set_machine(job: Job, **values: Any) -> Job:
    """Change this job's copy of the machine."""
    return changed(job, machine=changed(job.machine, **values))


@_command("set order")
def set_order(job: Job, order: tuple[str, ...]) -> Job:
    """Ask for an order of operations; empty leaves it to the reckoning."""
    return changed(job, order=order)


@_command("accept")
def accept(job: Job, code: str, setup: str, inputs: str, reason: str, at: str, about: str = "") -> Job:
    """Accept a care, or answer a question, with a reason."""
    if not reason.strip():
        raise OperatorError("Say why in a few words: the reason is kept with the job.")
    others = tuple(a for a in job.accepted if (a.code, a.setup, a.about) != (code, setup, about))
    new = Acceptance(code=code, setup=setup, about=about, inputs=inputs, reason=reason.strip(), at=at)
    return changed(job, accepted=(*others, new))


@_command("take back")
def take_back(job: Job, code: str, setup: str, about: str = "") -> Job:
    """Take an acceptance back."""
    return changed(job, accepted=tuple(a for a in job.accepted if (a.code, a.setup, a.about) != (code, setup, about)))
