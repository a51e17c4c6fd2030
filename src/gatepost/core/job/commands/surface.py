# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of surfacing."""

from __future__ import annotations

from typing import Any

from gatepost.core.job.base import changed
from gatepost.core.job.commands.parts import Commands, operation_in, with_operation
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Operation
from gatepost.core.job.surface import Surfacing

COMMANDS = Commands()


@COMMANDS("set surfacing", Surfacing)
def set_surfacing(job: Job, operation: str = "", **values: Any) -> Job:
    """What is wanted of a surfacing: of the first one, where none is named."""
    if not operation:
        operation = next((o.id for s in job.setups for o in s.operations if o.kind == "surface"), "surfacing")
    _, old = operation_in(job, operation)
    figures = changed(old.figures, **values)
    assert isinstance(figures, Surfacing)
    measured = any(values.get(n, getattr(old.figures, n)) != getattr(old.figures, n) for n in ("step_x", "step_y"))
    if measured and "patch_stepover" not in values:  # a step is that of the patch it was measured on
        tool = next((t for t in job.tools if t.number == figures.tool), None)
        if tool is not None:
            figures = changed(figures, patch_stepover=tool.diameter * figures.stepover, patch_diameter=tool.diameter)
    return with_operation(job, operation, figures=figures)


OTHER_FACE: dict[str, Any] = {"wanted": "yes", "seat": "as it lies", "stop_after": 0, "area": "all", "hollow": 0.0}


@COMMANDS("set second face")
def set_second_face(job: Job, present: bool = True, turn: str = "about X") -> Job:
    """Whether the other face is surfaced too, and what the board is turned about. Its holds are mirrored with it."""
    from gatepost.core.job.turning import other_face, turned_hold

    old = other_face(job)
    others = tuple(s for s in job.setups if s is not old)
    if old is not None:  # what followed it follows what it followed
        others = tuple(changed(s, follows=old.follows) if s.follows == old.id else s for s in others)
    if not present:
        return changed(job, setups=others)
    first, *rest = others
    surfacing = changed(job.surfacing, **OTHER_FACE, angle=-job.surfacing.angle)
    back = Setup(
        id="back", follows=first.id, up="back", spin=180 if turn == "about Y" else 0, x=first.x, y=first.y,
        zero=changed(first.zero, xy="centre", touch_x=None, touch_y=None),
        holds=tuple(turned_hold(h, first, job.blank, turn) for h in first.holds),
        operations=(Operation(id="surfacing-back", title="surfacing back", kind="surface", figures=surfacing),),
    )  # fmt: skip
    after = tuple(changed(s, follows=back.id) if s.follows == first.id else s for s in rest)
    return changed(job, setups=(first, back, *after))
