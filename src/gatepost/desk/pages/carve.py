# SPDX-License-Identifier: GPL-3.0-or-later
"""The Carve page."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from gatepost.core.job.carve import Letters, TextLine
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job
from gatepost.core.job.operation import Artwork, Face, Operation
from gatepost.core.job.relief import HeightsFigures
from gatepost.core.job.sunk import MOST_TOOLS
from gatepost.core.job.surface import Surfacing
from gatepost.core.operation_kind import OperationKind
from gatepost.core.plan.kinds import Kinds
from gatepost.core.plan.layout import worked_on
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act, single

if TYPE_CHECKING:
    from gatepost.core.plan.result import Plan

YES = (("yes", True), ("no", False))
DRAWING = (
    KindEntry("Width, proportions kept", "length", "width"), KindEntry("Height, proportions kept", "length", "height"),
    KindEntry("Middle, from the left edge", "length", "x"), KindEntry("Middle, from the front edge", "length", "y"),
    KindEntry("Turned left by", "number", "turn", (), "°"), KindEntry("Mirrored", "choice", "mirror", YES),
)  # fmt: skip
COLOUR = KindEntry("Colour in it, as it is called", "words", "colour")
_PLACED = (
    KindEntry("Middle, from the left edge", "length", "x"), KindEntry("Middle, from the front edge", "length", "y"),
    KindEntry("Turned left by", "number", "turn", (), "°"),
)  # fmt: skip
BEHIND = {
    "screws": (
        KindEntry("Into the wood", "length", "long"), KindEntry("Thread's diameter", "length", "across"), KindEntry("Screws", "number", "number"),
        KindEntry("Apart, middle to middle", "length", "pitch"), *_PLACED,
    ),
    "hanger": (
        KindEntry("Slot, long", "length", "slot"), KindEntry("Slot, wide at the back", "length", "open"), KindEntry("Undercut on every side", "length", "undercut"),
        KindEntry("Floor, deep", "length", "deep"), KindEntry("Undercut, high", "length", "head"), *_PLACED,
    ),
}  # fmt: skip
RUNS = (
    ("straight", "straight"), ("arc, middle high", "over"), ("arc, middle low", "under"), ("column", "column"),
)  # fmt: skip
ALIGN = (("left", "left"), ("centre", "centre"), ("right", "right"))


def _outlines(text: str, face: str) -> dict[str, Any]:
    from gatepost.core.carve.edits import outlines

    return outlines(text, face)


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """What is carved in a setup, operation by operation; what may be carved besides."""
    here = [o for o in job.setup(setup).operations if kinds.operations[o.kind].stage == "carve"]
    groups: list[Group] = []
    lettered = {art.id for o in here for art in _letterings(job, o)}
    shown: set[str] = set()
    for operation in here:
        art = worked_on(job, kinds.operations[operation.kind], operation)
        acts: tuple[Act, ...] = (act(f"Take {operation.name} away", "remove operation", operation=operation.id),)
        if operation.kind == "vcut" and art is not None and art.kind == "drawing":
            acts = (act("Cut it out along its outer line", "cut out drawing", art=art.id, setup=setup), *acts)
        if operation.kind == "vcut":
            acts = (act("Cut it right through, as a stencil", "cut letters through", operation=operation.id), *acts)
        for letters in (a for a in _letterings(job, operation) if a.id not in shown):
            shown.add(letters.id)
            own = _own(job, operation, letters)
            number = len(shown)  # what is added changes no name of what was there
            before = "Line" if number == 1 else f"{letters.title or f'Lettering {number}'}, line"
            lines = letters.figures.lines
            groups += [_line(job, setup, operation, i, line, own, before) for i, line in enumerate(lines)]
            acts = (*_lettering_acts(job, setup, operation, letters.figures, own), *acts)
        groups.append(_group(job, operation, art, kinds, acts))
        groups += _outlines_of(job, operation, kinds)
    groups += _behind(job, setup)
    flat = (o.figures for o in job.setup(setup).operations if isinstance(o.figures, Surfacing))
    if any(f.wanted != "no" for f in flat):
        return (*groups, Group("This setup makes the face flat: carve in another one.", ()))
    there = {o.kind for o in here}
    more: tuple[Act, ...] = ()
    if not lettered:
        more += (Act("Write something here", "add line", lambda plan: {**_new_line(job, setup, None), "setup": setup}),)
    else:
        more += (
            Act(
                "Write something else here",
                "add lettering",
                lambda plan: _new_lettering(job, setup),
            ),
        )
    if "cutout" not in there:
        more += (Act("Cut out a rounded plate", "set plate", lambda plan: _new_plate(job, setup)),)
    more += (
        act("Sink the ground round what stays", "add ground", setup=setup),
        act("Sink a recess", "add recess", setup=setup),
        act("Gouge the ground round what stays", "add gouged ground", setup=setup),
        act("Engrave a line or border", "add engraved line", setup=setup),
        act("Drill holes", "add holes", setup=setup),
        act("Screws from behind", "add behind", setup=setup, kind="screws"),
        act("A hanger recess behind", "add behind", setup=setup, kind="hanger"),
        act("Bring a drawing or picture in…", "window art_file"),
        *((act("The sign as it will look…", "window look"),) if here else ()),
    )
    more += tuple(
        act(f"Add {kind.one}", "add operation", setup=setup, kind=name)
        for name, kind in kinds.operations.items()
        if kind.stage == "carve" and not kind.art and not kind.arts
    )
    return (*groups, Group("Carve here as well" if here else "Carve here", (), acts=more)) if more else tuple(groups)


def _behind(job: Job, setup: str) -> list[Group]:
    """What comes into the back under the face that is up."""
    up = job.setup(setup).up
    return [
        Group(
            a.title or a.id,
            tuple(
                _entry(job, e, a if e.field in ("x", "y", "turn") else a.figures, "set art", {"art": a.id})
                for e in entries
            ),
            acts=(act(f"Take {a.title or a.id} away", "remove art", art=a.id),),
        )
        for a in job.artwork
        if a.face == up and (entries := BEHIND.get(a.kind))
    ]


def _letterings(job: Job, operation: Operation) -> list[Any]:
    """All lettering that an operation works on."""
    return [a for a in job.artwork if a.id in operation.on and isinstance(a.figures, Letters)]


def _own(job: Job, operation: Operation, art: Artwork) -> dict[str, Any]:
    """What tells lettering from the first in a command about it; nothing for that one."""
    if len(_letterings(job, operation)) > 1:
        return {"operation": operation.id, "art": art.id}
    if operation.kind != "vcut":
        return {"operation": operation.id}
    first = next(o.id for s in job.setups for o in s.operations if o.kind == operation.kind)
    return {} if operation.id == first else {"operation": operation.id}


def _group(job: Job, operation: Operation, art: Artwork | None, kinds: Kinds, acts: tuple[Act, ...]) -> Group:
    """An operation's figures, its tool first, and those of what it works on."""
    kind = kinds.operations[operation.kind]
    fixed = {"operation": operation.id}
    first = [e for e in kind.entries if e.typed in ("tool", "tools")]
    tools = [r for e in first for r in _tool_rows(job, e, operation, fixed)]
    mine = [_entry(job, e, operation.figures, "set operation", fixed) for e in kind.entries if e not in first]
    on = _works_on(job, operation, kind)
    of_art = [] if art is None or kind.arts else art_rows(job, art, kind.art_entries)
    return Group(operation.title or kind.title or operation.id, (*tools, *on, *of_art, *mine), acts=acts)


def art_rows(job: Job, art: Artwork, entries: Sequence[KindEntry]) -> list[PageRow]:
    """What is entered of a piece of artwork. entries: of its kind, where it is not a drawing."""
    if isinstance(art.figures, DrawnFigures):
        entries = DRAWING
    if isinstance(art.figures, (DrawnFigures, Letters)):
        entries = (*entries, COLOUR)
    out: list[PageRow] = []
    for e in entries:
        of = art if e.field in ("x", "y", "turn", "mirror", "colour") else art.figures
        sized = isinstance(art.figures, (DrawnFigures, HeightsFigures)) and e.field in ("width", "height")
        out.append(_entry(job, e, of, "size art" if sized else "set art", {"art": art.id}))
    return out


def _entry(job: Job, e: KindEntry, of: Any, command: str, fixed: dict[str, Any]) -> PageRow:
    return single(e.label, e.typed, getattr(of, e.field), command, e.field, e.choices, e.unit, **fixed)


def _tool_rows(job: Job, e: KindEntry, operation: Operation, fixed: dict[str, Any]) -> list[PageRow]:
    """The tool, or one after another those of a list, with a place for one more."""
    fits = tuple((f"T{t.number} {t.name}", t.number) for t in job.tools if t.kind in [k for k, _ in e.choices])
    value = getattr(operation.figures, e.field)
    if e.typed == "tool":
        return [single(e.label, "choice", value, "set operation", e.field, fits, e.unit, **fixed)]

    def with_one(i: int) -> Callable[[Any], dict[str, Any]]:
        return lambda v: {**fixed, e.field: tuple(n for n in (*value[:i], v, *value[i + 1 :]) if n)}

    out: list[PageRow] = []
    for i in range(min(len(value) + 1, MOST_TOOLS, len(fits))):
        label = e.label if i == 0 else "then by"
        mine = value[i] if i < len(value) else 0
        free = tuple((words, n) for words, n in fits if n == mine or n not in value)
        chosen = (*free, ("no other", 0)) if i else free
        entry = PageEntry(label, "choice", mine, "set operation", with_one(i), chosen)
        out.append(PageRow((entry,), f"{label} {i + 1}" if i else label))
    return out


def _works_on(job: Job, operation: Operation, kind: OperationKind) -> list[PageRow]:
    """What of its face an operation works on, where it may work on several."""
    if not kind.arts:
        return []
    faces = {a.face for a in job.artwork if a.id in operation.on} or {_up(job, operation)}
    rows: list[PageRow] = []
    for art in (a for a in job.artwork if a.kind in kind.arts and a.face in faces):

        def chosen(v: bool, art: Artwork = art) -> dict[str, Any]:
            kept = tuple(i for i in operation.on if i != art.id)
            return {"operation": operation.id, "on": (*kept, art.id) if v else kept}

        label = f"{kind.on_words} {art.title or art.id}"
        rows.append(PageRow((PageEntry(label, "choice", art.id in operation.on, "set operation", chosen, YES),), label))
    return rows


def _up(job: Job, operation: Operation) -> Face:
    """The face that is up where an operation is done."""
    return next(s.up for s in job.setups if operation in s.operations)


def _outlines_of(job: Job, operation: Operation, kinds: Kinds) -> list[Group]:
    """Outlines that only this operation works on: their figures."""
    if not kinds.operations[operation.kind].arts:
        return []
    elsewhere = {i for s in job.setups for o in s.operations if o is not operation for i in o.on}
    own = [a for a in job.artwork if a.id in operation.on and a.kind != "lettering" and a.id not in elsewhere]
    entries = kinds.operations["cutout"].art_entries if "cutout" in kinds.operations else ()
    return [
        Group(
            a.title or a.id,
            tuple(art_rows(job, a, entries)),
            acts=(act(f"Take {a.title or a.id} away", "remove art", art=a.id),),
        )
        for a in own
    ]


def _lettering_acts(
    job: Job, setup: str, operation: Operation, letters: Letters, own: dict[str, Any]
) -> tuple[Act, ...]:
    add = Act("Add a line", "add line", lambda plan: {**_new_line(job, setup, operation), **own})

    def fit(plan: Plan | None) -> dict[str, Any] | None:
        return None if plan is None else _fitted(plan, operation.id, own)

    face = act("Letters from a face's file…", "window face_file")
    if operation.kind != "vcut":
        return (add, face)
    return (add, face, *((Act("Fit to the plate or board", "scale lettering", fit),) if letters.lines else ()))


def _line(
    job: Job, setup: str, operation: Operation, i: int, line: TextLine, own: dict[str, Any], before: str
) -> Group:
    from gatepost.core.carve.families import families, family_of

    family, style = family_of(line.face)

    def words(v: str) -> dict[str, Any]:
        from gatepost.core.carve.edits import typed

        return {"line": line.id, **typed(job, setup, operation, line, v), **own}

    def face(v: str) -> dict[str, Any]:
        return {"line": line.id, **_outlines(line.text, v), **own}

    known = [f for f in families() if f.name == family.name] or [family]
    others = [f for f in families() if f not in known]
    shown = sorted(
        (*known, *others), key=lambda f: [g.name for g in families()].index(f.name) if f in families() else -1
    )
    choices = tuple((f.name, line.face if f.name == family.name else f.nearest(style)) for f in shown)
    rows = (
        PageRow((PageEntry("Text", "words", line.text, "set line", words),), "Text"),
        PageRow((PageEntry("Letters", "choice", line.face, "set line", face, choices, drawn=tuple(f.file for f in shown)),), "Letters"),
        *((PageRow((PageEntry("Style", "choice", line.face, "set line", face, family.styles),), "Style"),) if len(family.styles) > 1 else ()),
        single("Height of capitals", "length", line.height, "set line", "height", line=line.id, **own),
        single("Letter spacing, × height", "number", line.tracking, "set line", "tracking", line=line.id, **own),
        single("Align", "choice", line.align, "set line", "align", ALIGN, line=line.id, **own),
        single("Colour in its letters, where another", "words", line.colour, "set line", "colour", line=line.id, **own),
        *_set_rows(line, own),
    )  # fmt: skip
    return Group(f"{before} {i + 1}", rows, acts=(act("Take this line away", "remove line", line=line.id, **own),))


def _set_rows(line: TextLine, own: dict[str, Any]) -> tuple[PageRow, ...]:
    """How the line is set: its run, its arc, spacing by hand, and how bold its strokes are."""
    from gatepost.core.carve import edits

    def row(label: str, typed: Any, value: Any, values: Callable[[Any], dict[str, Any]], choices: Any = ()) -> PageRow:
        entry = PageEntry(label, typed, value, "set line", lambda v: {"line": line.id, **values(v), **own}, choices)
        return PageRow((entry,), label)

    rows = [row("Set", "choice", line.run, lambda v: edits.bent(line, v), RUNS)]
    if line.run in ("over", "under"):
        rows += [
            single("Radius at the letters' feet", "length", line.radius, "set line", "radius", line=line.id, **own),
            row("The arc rises by", "length", edits.rise(line), lambda v: edits.risen(line, v)),
        ]
    return (
        *rows,
        row("Spacing by hand, × height", "words", edits.kerned_words(line), lambda v: edits.kerned(line, v)),
        single("Strokes bolder by, each side", "length", line.bolder, "set line", "bolder", line=line.id, **own),
    )


def _new_line(job: Job, setup: str, operation: Operation | None) -> dict[str, Any]:
    from gatepost.core.carve.edits import new_line

    return new_line(job, setup, operation)


def _new_plate(job: Job, setup: str) -> dict[str, Any]:
    from gatepost.core.carve.edits import new_plate

    return new_plate(job, setup)


def _new_lettering(job: Job, setup: str) -> dict[str, Any]:
    from gatepost.core.carve.edits import new_lettering

    return new_lettering(job, setup)


def _fitted(plan: Plan, operation: str, own: dict[str, Any]) -> dict[str, Any] | None:
    from gatepost.core.carve.report import fit_to_margin

    here = next((s, o) for s in plan.job.setups for o in s.operations if o.id == operation)
    carving: Any = plan.kinds.operations[here[1].kind].together(plan.job, *here)
    factor = None
    setup = plan.setup(here[0].id)
    if setup is not None and plan.made.get(operation):
        factor = fit_to_margin(carving, setup.face_outline, plan.made[operation])
    return None if factor is None else {"factor": factor, **own}
