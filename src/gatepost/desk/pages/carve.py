# SPDX-License-Identifier: GPL-3.0-or-later
"""The Carve page."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from gatepost.core.job.carve import Letters, TextLine
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.job.surface import Surfacing
from gatepost.core.plan.kinds import Kinds
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act, single

if TYPE_CHECKING:
    from gatepost.core.plan.result import Plan

ALIGN = (("left", "left"), ("centre", "centre"), ("right", "right"))


def _outlines(text: str, face: str) -> dict[str, Any]:
    from gatepost.core.carve.edits import outlines

    return outlines(text, face)


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """What is carved in a setup, operation by operation; what may be carved besides."""
    here = [o for o in job.setup(setup).operations if kinds.operations[o.kind].stage == "carve"]
    groups: list[Group] = []
    several = sum(o.kind == "vcut" for o in here) > 1
    for operation in here:
        art = next((a for a in job.artwork if a.id in operation.on), None)
        acts: tuple[Act, ...] = (act(f"Take {operation.name} away", "remove operation", operation=operation.id),)
        if art is not None and isinstance(art.figures, Letters):
            own = _own(job, operation)
            before = f"{operation.name}, line" if several else "Line"
            groups += [_line(job, setup, operation, i, line, own, before) for i, line in enumerate(art.figures.lines)]
            acts = (*_lettering_acts(job, setup, operation, art.figures, own), *acts)
        groups.append(_group(job, operation, art, kinds, acts))
    flat = (o.figures for o in job.setup(setup).operations if isinstance(o.figures, Surfacing))
    if any(f.wanted != "no" for f in flat):
        return (*groups, Group("This setup makes the face flat: carve in another one.", ()))
    there = {o.kind for o in here}
    more: tuple[Act, ...] = ()
    if "vcut" not in there:
        more += (Act("Write something here", "add line", lambda plan: {**_new_line(job, setup, None), "setup": setup}),)
    if "cutout" not in there:
        more += (act("Cut out a rounded plate", "set plate", setup=setup),)
    more += tuple(
        act(f"Add {kind.one}", "add operation", setup=setup, kind=name)
        for name, kind in kinds.operations.items()
        if kind.stage == "carve" and not kind.art
    )
    return (*groups, Group("Carve here as well" if here else "Carve here", (), acts=more)) if more else tuple(groups)


def _own(job: Job, operation: Operation) -> dict[str, Any]:
    """What tells an operation from the first of its kind in a command; nothing for the first."""
    first = next(o.id for s in job.setups for o in s.operations if o.kind == operation.kind)
    return {} if operation.id == first else {"operation": operation.id}


def _group(job: Job, operation: Operation, art: Artwork | None, kinds: Kinds, acts: tuple[Act, ...]) -> Group:
    """An operation's figures, its tool first, and those of what it works on."""
    kind = kinds.operations[operation.kind]
    mine = [_entry(job, e, operation.figures, "set operation", {"operation": operation.id}) for e in kind.entries]
    tools = sum(e.typed == "tool" for e in kind.entries)
    of_art = [] if art is None else [
        _entry(job, e, art if e.field in ("x", "y") else art.figures, "set art", {"art": art.id}) for e in kind.art_entries
    ]  # fmt: skip
    return Group(operation.title or kind.title or operation.id, (*mine[:tools], *of_art, *mine[tools:]), acts=acts)


def _entry(job: Job, e: KindEntry, of: Any, command: str, fixed: dict[str, Any]) -> PageRow:
    value = getattr(of, e.field)
    if e.typed == "tool":
        fits = tuple((f"T{t.number} {t.name}", t.number) for t in job.tools if t.kind in [k for k, _ in e.choices])
        return single(e.label, "choice", value, command, e.field, fits, e.unit, **fixed)
    return single(e.label, e.typed, value, command, e.field, e.choices, e.unit, **fixed)


def _lettering_acts(
    job: Job, setup: str, operation: Operation, letters: Letters, own: dict[str, Any]
) -> tuple[Act, ...]:
    add = Act("Add a line", "add line", lambda plan: {**_new_line(job, setup, operation), **own})

    def fit(plan: Plan | None) -> dict[str, Any] | None:
        return None if plan is None else _fitted(plan, operation.id, own)

    return (add, *((Act("Fit to the plate or board", "scale lettering", fit),) if letters.lines else ()))


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
    )  # fmt: skip
    return Group(f"{before} {i + 1}", rows, acts=(act("Take this line away", "remove line", line=line.id, **own),))


def _new_line(job: Job, setup: str, operation: Operation | None) -> dict[str, Any]:
    from gatepost.core.carve.edits import new_line

    return new_line(job, setup, operation)


def _fitted(plan: Plan, operation: str, own: dict[str, Any]) -> dict[str, Any] | None:
    from gatepost.core.carve.report import fit_to_margin

    here = next((s, o) for s in plan.job.setups for o in s.operations if o.id == operation)
    carving: Any = plan.kinds.operations[here[1].kind].together(plan.job, *here)
    factor = None
    setup = plan.setup(here[0].id)
    if setup is not None and plan.made.get(operation):
        factor = fit_to_margin(carving, setup.face_outline, plan.made[operation])
    return None if factor is None else {"factor": factor, **own}
