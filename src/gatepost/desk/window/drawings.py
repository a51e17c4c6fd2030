# SPDX-License-Identifier: GPL-3.0-or-later
"""What is drawn of a plan at the desk: the bed and the heights under it, with the slider over operations and passes."""

from __future__ import annotations

import weakref
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QTimer

from gatepost.core.errors import OperatorError
from gatepost.core.units import show_length

if TYPE_CHECKING:
    from gatepost.core.plan.result import Plan
    from gatepost.desk.context.desk_context import DeskContext
    from gatepost.desk.window.desk_view import DeskView
    from gatepost.drawing.heights import Look
    from gatepost.drawing.shapes import Drawing

SOON = 12  # ms
WOOD_STAGES = ("carve", "tools", "run", "surface")
BED_STAGES = ("blank", "surface", "hold", "zero", "carve", "tools", "run", "finish")


class Drawings(QObject):
    """Draws what is shown; a moment after it is asked to, once for all that come together."""

    def __init__(self, desk: DeskContext, view: DeskView) -> None:
        super().__init__(desk)
        self._desk, self._view, self._showing = desk, view, desk.showing
        self.waiting = False
        self.measure: Callable[[], tuple[str, int] | None] = lambda: None  # what is measured next
        self._pictures: weakref.WeakKeyDictionary[Any, Any] = weakref.WeakKeyDictionary()

    def forget(self) -> None:
        """Another job: nothing is known of it yet."""
        self._view.bed.forget()
        self._view.heights.forget()

    def pictured(self, field: Any, pixels: Any) -> None:
        """The picture of a height field has come."""
        self._pictures[field] = pixels
        if field in self._fields():
            self.soon()

    def picture_of(self, field: Any) -> Any:
        """A height field's picture; nothing while it is not made yet."""
        return self._pictures.get(field)

    def _fields(self) -> list[Any]:
        setup = self._showing.planned_setup()
        return [setup.start, *(op.after for op in setup.operations)] if setup is not None else []

    def soon(self) -> None:
        """Draw a moment later, so that keys are answered in between."""
        if not self.waiting:
            self.waiting = True
            QTimer.singleShot(SOON, self._later)

    def _later(self) -> None:
        if self._view.bed.dragging:  # what is in the hand stays in the hand
            QTimer.singleShot(4 * SOON, self._later)
            return
        self.waiting = False
        self.draw()

    # -- the slider -----------------------------------------------------------------------------------------------

    def slider(self) -> None:
        """The slider: over operations, on the Surface page over passes."""
        showing, view, setup = self._showing, self._view, self._showing.planned_setup()
        surfacing = showing.stage == "surface"
        passes = self._passes()
        count = len(passes) if surfacing else len(setup.operations) if setup is not None else 0
        view.show_scrub(showing.stage in WOOD_STAGES and count > 0)
        view.scrub.blockSignals(True)
        view.scrub.setRange(0, count)
        from gatepost.drawing.bed import shown_count

        if surfacing:
            shown = max(0, min(showing.after, count))
            words = self._pass_words(shown)
        else:
            shown = shown_count(setup, showing.stage, showing.after) if setup is not None else 0
            words = "as it is at the start" if shown == 0 else f"after {setup.operations[shown - 1].name}"
        view.scrub.setValue(shown)
        view.scrub.blockSignals(False)
        view.scrub_words.setText(words)
        stops = showing.plan.job.surfacing.stop_after if showing.plan is not None else 0
        first = setup is not None and setup.first_face
        view.stop_here.setVisible(surfacing and first and 0 < shown <= count and shown != (stops or count))
        view.stop_here.setText("Run all passes" if shown == count else f"Stop after pass {shown}")

    def _passes(self) -> tuple[Any, ...]:
        setup = self._showing.planned_setup()
        return tuple(setup.passes) if setup is not None else ()

    def _pass_words(self, shown: int) -> str:
        """What a pass leaves, in words."""
        passes, setup = self._passes(), self._showing.planned_setup()
        if not shown:
            return "as it is at the start"
        now, unit = passes[shown - 1], self._desk.unit
        left = show_length(now.z - passes[-1].z, unit)
        thick = show_length(now.z - setup.surfaced.under, unit)
        return f"pass {shown}: {100 * now.clean:.0f} % clean · {left} left · {thick} thick"

    def stop_here(self) -> None:
        """Stop the surfacing after the pass shown, or run them all."""
        count, after = len(self._passes()), self._showing.after
        if self._showing.stage == "surface" and 0 < after <= count:
            self._desk.run("set surfacing", {"stop_after": 0 if after == count else after}, "stop after pass")

    def step_wood(self, count: int) -> None:
        """Show the wood after so many operations."""
        self._showing.after = count
        if self._showing.plan is not None:
            self.slider()
            self.draw()

    # -- bed and heights ------------------------------------------------------------------------------------------

    @property
    def stage(self) -> str:
        """The stage as which the bed is drawn."""
        return self._showing.stage if self._showing.stage in BED_STAGES else "zero"

    def draw(self) -> None:
        """Bed and heights, now."""
        from gatepost.drawing.bed import bed
        from gatepost.drawing.lanes import lanes

        showing, unit = self._showing, self._desk.unit
        if showing.plan is None or self._desk.document is None or showing.stage == "log":
            return
        stage = self.stage
        if showing.stage == "register":
            from gatepost.drawing.finding import finding
            from gatepost.drawing.turning import turning

            turn = finding(showing.plan, showing.setup, unit) or turning(showing.plan, showing.setup)
            if turn is not None:
                self._view.bed.show_drawing(turn, unit)
                self.draw_heights("register")
                return
        at = showing.tip[:2] if showing.tip is not None and stage == "run" else None
        self._view.bed.show_drawing(
            bed(
                showing.plan, showing.setup, stage, showing.after, at, unit, self._pictures.get, self._photo(), self.measure(),
            ),
            unit,
        )  # fmt: skip
        if showing.stage == "finish":
            self._view.heights.show_drawing(_finish(showing.plan), unit)
        elif stage == "tools":
            self._view.heights.show_drawing(lanes(showing.plan), unit)
        else:
            self.draw_heights()

    def draw_heights(self, stage: str = "") -> None:
        """The heights alone. stage: as which, where not as the bed."""
        from gatepost.drawing.heights import heights

        showing, stage = self._showing, stage or self.stage
        if showing.plan is None or showing.stage in ("tools", "finish", "log"):
            return
        drawing = heights(showing.plan, showing.setup, stage, self.look(stage))
        self._view.heights.show_drawing(drawing, self._desk.unit)

    def _photo(self) -> bytes:
        """The squared-up photo of the board, as a file."""
        document = self._desk.document
        photo = document.job.blank.photo if document is not None else None
        return document.pictures.get(photo.squared, b"") if document is not None and photo is not None else b""

    def look(self, stage: str) -> Look:
        """How the heights are looked at."""
        from gatepost.drawing.heights import Look

        showing, tool = self._showing, None
        setup = showing.planned_setup()
        if showing.tip is not None and showing.plan is not None and setup is not None:
            tool = next((t for t in showing.plan.job.tools if t.number == setup.axes.tool), None)
        tip = showing.tip if stage == "run" else None
        return Look(showing.line_y, showing.after, tip, tool if tip else None, self._desk.unit, showing.slant)

    def small_picture(self, path: Path) -> None:
        """A small picture of the job's sign, for the start page and the log."""
        if self._showing.plan is None:
            return
        from gatepost.desk.view.pictures import sign_picture

        sign_picture(self._showing.plan, self._pictures.get).save(str(path))


def _finish(plan: Plan) -> Drawing:
    """When the job is ready, or why that can't be told."""
    from gatepost.core.finish.progress import alone
    from gatepost.drawing.finish_lanes import finish_lanes, no_lanes

    if plan.finishing is None:
        return no_lanes("Nothing is cut yet.")
    try:
        return finish_lanes(*alone(plan.finishing.work, datetime.now().replace(second=0, microsecond=0)))
    except OperatorError as error:
        return no_lanes(str(error))
