# SPDX-License-Identifier: GPL-3.0-or-later
"""The Carve page."""

from __future__ import annotations

from functools import lru_cache
from typing import TYPE_CHECKING, Any

from gatepost.core.job.carve import Letters, TextLine
from gatepost.core.job.kinds import KindEntry
from gatepost.core.job.model import Job
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.plan.kinds import Kinds
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act, single

if TYPE_CHECKING:
    from gatepost.core.plan.result import Plan

ALIGN = (("left", "left"), ("centre", "centre"), ("right", "right"))


def _outlines(text: str, face: str) -> dict[str, Any]:
    from gatepost.core.carve.edits import outlines

    return outlines(text, face)


@lru_cache(maxsize=1)
def faces() -> tuple[tuple[str, str], ...]:
    """Shipped faces, then those of the system."""
    from gatepost.core.carve.faces import SHIPPED, system_faces

    return tuple((f, f) for f in (*SHIPPED, *sorted(system_faces())))


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """What is carved in a setup, operation by operation; what may be carved besides."""
    here = [o for o in job.setup(setup).operations if kinds.operations[o.kind].stage == "carve"]
    groups: list[Group] = []
    for operation in here:
        art = next((a for a in job.artwork if a.id in operation.on), None)
        own = _own(job, operation)
        if art is not None and isinstance(art.figures, Letters):
            lines = art.figures.lines
            groups += [_line(i, line, own, len(here) > 2 and operation.name) for i, line in enumerate(lines)]
            groups.append(_group(job, operation, art, kinds, "Lettering", _lettering_acts(operation, art, own)))
        else:
            away = act("No cut-out", "set plate", present=False) if operation.kind == "cutout" and not own else None
            acts = (away or act(f"Take {operation.name} away", "remove operation", operation=operation.id),)
            title = "Cut-out" if operation.kind == "cutout" else operation.name
            groups.append(_group(job, operation, art, kinds, title, acts))
    if any(kinds.operations[o.kind].stage == "surface" for o in job.setup(setup).operations):
        return (*groups, Group("This setup makes the face flat: carve in another one.", ()))
    there = {o.kind for o in here}
    acts = ()
    if "vcut" not in there:
        acts += (_add("Add a line", None, {"setup": setup}),)
    if "cutout" not in there:
        acts += (act("Cut out a rounded plate", "set plate", setup=setup),)
    acts += tuple(
        act(f"Add {kind.one}", "add operation", setup=setup, kind=name)
        for name, kind in kinds.operations.items()
        if kind.stage == "carve" and not kind.art
    )
    return (*groups, Group("Carve here as well" if here else "Carve here", (), acts=acts)) if acts else tuple(groups)


def _own(job: Job, operation: Operation) -> dict[str, Any]:
    """What tells an operation from the first of its kind in a command; nothing for the first."""
    first = next(o.id for s in job.setups for o in s.operations if o.kind == operation.kind)
    return {} if operation.id == first else {"operation": operation.id}


def _group(
    job: Job, operation: Operation, art: Artwork | None, kinds: Kinds, title: str, acts: tuple[Act, ...]
) -> Group:
    """An operation's figures, and those of what it works on."""
    kind = kinds.operations[operation.kind]
    mine = [_entry(job, e, operation.figures, "set operation", {"operation": operation.id}) for e in kind.entries]
    whole = art.figures if art is not None else operation.figures
    of_art = [
        _entry(job, e, art if e.field in ("x", "y") else whole, "set art", {"art": art.id})
        for e in (kind.art_entries if art is not None else ())
        if art is not None
    ]
    first = [row for row, e in zip(mine, kind.entries) if e.typed == "tool"]
    rest = [row for row, e in zip(mine, kind.entries) if e.typed != "tool"]
    return Group(title if not operation.title else operation.title, (*first, *of_art, *rest), acts=acts)


def _entry(job: Job, e: KindEntry, of: Any, command: str, fixed: dict[str, Any]) -> PageRow:
    value = getattr(of, e.field)
    if e.typed == "tool":
        fits = tuple((f"T{t.number} {t.name}", t.number) for t in job.tools if t.kind in [k for k, _ in e.choices])
        return single(e.label, "choice", value, command, e.field, fits, e.unit, **fixed)
    return single(e.label, e.typed, value, command, e.field, e.choices, e.unit, **fixed)


def _lettering_acts(operation: Operation, art: Artwork, own: dict[str, Any]) -> tuple[Act, ...]:
    assert isinstance(art.figures, Letters)
    lines = art.figures.lines
    add = _add("Add a line", lines[-1] if lines else None, own)

    def fit(plan: Plan | None) -> dict[str, Any] | None:
        return None if plan is None else _fitted(plan, operation.id, own)

    return (add, *((Act("Fit to the plate or board", "scale lettering", fit),) if lines else ()))


def _line(i: int, line: TextLine, own: dict[str, Any], of: str | bool) -> Group:
    def words(v: str) -> dict[str, Any]:
        return {"index": i, **_outlines(v, line.face), **own}

    def face(v: str) -> dict[str, Any]:
        return {"index": i, **_outlines(line.text, v), **own}

    rows = (
        PageRow((PageEntry("Text", "words", line.text, "set line", words),), "Text"),
        PageRow((PageEntry("Face", "choice", line.face, "set line", face, faces()),), "Face"),
        single("Height of capitals", "length", line.height, "set line", "height", index=i, **own),
        single("Letter spacing, × height", "number", line.tracking, "set line", "tracking", index=i, **own),
        single("Align", "choice", line.align, "set line", "align", ALIGN, index=i, **own),
    )
    title = f"Line {i + 1}" if not of else f"{of}, line {i + 1}"
    return Group(title, rows, acts=(act("Take this line away", "remove line", index=i, **own),))


def _add(words: str, like: TextLine | None, more: dict[str, Any]) -> Act:
    face, height = (like.face, like.height) if like is not None else ("Sans", 50.0)
    return Act(words, "add line", lambda plan: {**_outlines("NEW LINE", face), "height": height, **more})


def _fitted(plan: Plan, operation: str, own: dict[str, Any]) -> dict[str, Any] | None:
    from gatepost.core.carve.report import fit_to_margin

    here = next((s, o) for s in plan.job.setups for o in s.operations if o.id == operation)
    carving = plan.kinds.operations[here[1].kind].together(plan.job, *here)
    factor = fit_to_margin(carving, plan.outline, plan.made[operation]) if plan.made.get(operation) else None
    return None if factor is None else {"factor": factor, **own}
