# SPDX-License-Identifier: GPL-3.0-or-later
"""Looking: over machine and bed, and over a mark."""

from __future__ import annotations

from gatepost.core.errors import OperatorError
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.run.step import Step
from gatepost.machine.in_hand import InHand
from gatepost.machine.standing_checks import looked_at, now, same_place


def look(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """What an operator sees who looks over machine and bed. Raises OperatorError where something is not as it should be."""
    seen = at.session.look_over({"spanners": "machine", "prove": "circuit"}.get(step.key.partition("-")[0], "bed"))
    if seen:
        raise OperatorError(f"Look: {'; '.join(seen)}. Put it right first.")


def walk(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """The bed looked over, and then the outline of what is cut gone round at the top of the travel, spindle off, corner by corner. Raises OperatorError where it is not known where that lies."""
    look(at, setup, step)
    axes = at.axes(setup)
    if step.box is None or axes.x.machine is None or axes.y.machine is None:
        raise OperatorError("The outline can't be walked: where X0 Y0 is, is not known. Set it first.")
    x0, y0, x1, y1 = step.box
    mark = setup.placed.mark
    for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0)):
        at.session.jog(x=axes.x.machine + x - mark[0], y=axes.y.machine + y - mark[1], z=0.0)
        if at.session.called_off:
            return


def go(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """A named place gone to at the top of the travel, spindle off; no farther than the travel goes."""
    if step.place is None:
        return
    at.session.spin(0.0)
    x, y = (min(max(p, 0.0), far) - far for p, far in zip(step.place, at.travel))
    at.session.jog(x=x, y=y, z=0.0)
    at.write(setup, "jogged", why=step.title)


def note(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """How the witness mark lies before wood is cut, where nothing was touched."""
    if step.place is not None:
        x, y = at.seen(setup, step.place)
        at.write(setup, "noted", x=x, y=y)


def witness(at: InHand, setup: PlannedSetup, step: Step) -> None:
    """The tip is brought over a mark, and how far it misses is looked at; before wood is cut it is noted how the witness mark lies."""
    if step.place is None:
        return
    at.journal, words = looked_at(setup, at.journal, step, at.seen(setup, step.place), now())
    if words:
        raise OperatorError(words)
    if step.key == "proof" and setup.witness is not None and not same_place(setup.witness, step.place):
        x, y = at.seen(setup, setup.witness)
        at.write(setup, "noted", x=x, y=y)
