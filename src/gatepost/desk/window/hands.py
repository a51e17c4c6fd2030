# SPDX-License-Identifier: GPL-3.0-or-later
"""What is taken hold of on the bed and in the heights: dragged, judged while it is dragged, chosen, or a line drawn across."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from gatepost.core.units import spell
from gatepost.desk.window.arrange import arrange
from gatepost.desk.window.wood_typing import WoodTyping

if TYPE_CHECKING:
    from gatepost.desk.context.desk_context import DeskContext
    from gatepost.desk.view.handles import Handling
    from gatepost.desk.window.desk_view import DeskView
    from gatepost.desk.window.drawings import Drawings

SLANT = 15.0  # mm across; less is a line along X
NEAR = 7.0  # px within which what is dragged snaps
ART = ("lettering", "art", "plate")  # keys of artwork


class BedHands:
    """What dragging asks for."""

    def __init__(self, desk: DeskContext, view: DeskView, drawings: Drawings) -> None:
        self._desk, self._view, self._drawings, self._showing = desk, view, drawings, desk.showing
        self._asked: tuple[Any, ...] | None = None  # what a drag has asked and not heard yet
        self._to_ask: tuple[Any, ...] | None = None
        self.typing = WoodTyping(desk, view.bed)
        view.bed.moved.connect(self.moved_on_bed)
        view.bed.nudged.connect(lambda key, dx, dy: self._move(key, dx, dy))
        view.bed.handled.connect(self.handled)
        view.bed.asked.connect(lambda key, what: arrange(self._desk, key, what))
        view.bed.picked.connect(self.picked)
        view.bed.lined.connect(self.line_across)
        view.heights.moved.connect(self.moved_in_heights)
        view.heights.nudged.connect(self.nudged_in_heights)

    def moved_on_bed(self, key: str, dx: float, dy: float, let_go: bool) -> None:
        """Something was dragged or nudged on the bed."""
        if self._desk.document is None:
            return
        if not let_go:
            self._judge(key, dx, dy)
            return
        self._to_ask = None
        if key.partition(":")[0] in ART:
            dx, dy, _ = self._snapped(key, dx, dy)
        self._move(key, dx, dy)

    def _move(self, key: str, dx: float, dy: float) -> None:
        from gatepost.core.plan.arranging import tab_moved
        from gatepost.core.plan.handling import moved

        document = self._desk.document
        if document is None:
            return
        if key.startswith("tab:"):
            edit = tab_moved(document.job, self._showing.setup, key, dx, dy)
        else:
            edit = moved(document.job, self._showing.setup, key, dx, dy, kinds=document.kinds)
        if edit is not None:
            self._desk.run(edit[0], edit[1], f"move {key}")

    def _snapped(self, key: str, dx: float, dy: float) -> tuple[float, float, str]:
        """A drag of artwork brought to what is near on the screen."""
        from gatepost.core.plan.arranging import snapped

        document, view = self._desk.document, self._view.bed.view()
        if document is None or view is None:
            return dx, dy, ""
        return snapped(document.job, self._showing.setup, key, dx, dy, NEAR / view.scale_x)

    def handled(self, asked: Handling) -> None:
        """Artwork was sized or turned by a handle."""
        from gatepost.core.plan import arranging

        document = self._desk.document
        if document is None:
            return
        job, setup = document.job, self._showing.setup
        if asked.handle == "turn":
            edit = arranging.turned(job, setup, asked.key, asked.degrees, asked.free)
        else:
            corner = int(asked.handle) if asked.handle.isdigit() else -1
            edit = arranging.resized(job, setup, asked.key, corner, asked.across, asked.up)
        if edit is not None:
            self._desk.run(edit[0], edit[1], f"{'turn' if asked.handle == 'turn' else 'size'} {asked.key}")

    def _judge(self, key: str, dx: float, dy: float) -> None:
        """Ask what a dragged hold would say there: one question at a time, the newest next. Of artwork it is said at once where it snaps to."""
        if key.partition(":")[0] in ART:
            x, y, words = self._snapped(key, dx, dy)
            if words:
                self._view.bed.judged(key, (x, y), False, spell(words, self._desk.unit))
        if not key.startswith("hold:") or self._desk.worker is None:
            return
        question = ("judge", self._showing.setup, key, dx, dy)
        if self._asked is not None:
            self._to_ask = question
            return
        self._asked = question
        self._desk.question(*question)

    def told(self, answer: Any) -> None:
        """What would be said of it there."""
        self._asked = None
        verdict = answer.plan
        if verdict is not None and self._showing.plan is not None:
            name = verdict.key.partition(":")[2]
            words = (
                spell(verdict.sentence, self._desk.unit) if verdict.sentence else f"{name} is clear of every move here."
            )
            bad = verdict.worst is not None and verdict.worst.value == "stop"
            self._view.bed.judged(verdict.key, verdict.by, bad, words)
        if self._to_ask is not None:
            question, self._to_ask = self._to_ask, None
            self._asked = question
            self._desk.question(*question)

    def moved_in_heights(self, key: str, dx: float, dy: float, let_go: bool) -> None:
        """Something was dragged in the heights: Z0 goes to the top or the bed."""
        if key.startswith("cut:"):
            self._reordered(key, dx, dy, let_go)
            return
        setup, document = self._showing.planned_setup(), self._desk.document
        if not let_go or key != "z0" or setup is None or document is None:
            return
        from gatepost.core.plan.handling import z_dragged

        edit = z_dragged(document.job, self._showing.setup, setup.zero_height + dy, float(setup.start.z.max()))
        self._desk.run(edit[0], edit[1], "move Z0")

    def _reordered(self, key: str, dx: float, dy: float, let_go: bool) -> None:
        """A cut is dragged along the lanes: what that costs is said while it is, and the order asked for when it is let go."""
        from gatepost.core.tools.order import dragged, times

        plan, name = self._desk.plan, key.partition(":")[2]
        if plan is None or name not in plan.order.names:
            return
        begins, ends = times(plan.tasks, plan.order.names, plan.prices)[name]
        put = dragged(plan.tasks, plan.order.names, plan.prices, name, 0.5 * (begins + ends) + dx)
        if not let_go:
            self._view.heights.judged(key, (dx, 0.0), bool(put.broken), put.words)
            return
        self._put(put, name)

    def nudged_in_heights(self, key: str, dx: float, dy: float) -> None:
        """A cut brought one place earlier or later in the lanes by an arrow key."""
        from gatepost.core.tools.order import tried

        plan, name = self._desk.plan, key.partition(":")[2]
        if plan is None or not key.startswith("cut:") or name not in plan.order.names or not dx:
            return
        now = plan.order.names.index(name)
        self._put(tried(plan.tasks, plan.order.names, plan.prices, name, now + (1 if dx > 0 else -1)), name)

    def _put(self, put: Any, name: str) -> None:
        plan = self._desk.plan
        if plan is None or put.names == plan.order.names:
            return
        if put.broken:
            self._desk.messages.say(put.words)
        elif self._desk.run("set order", {"order": put.names}, f"move {name}"):
            self._desk.messages.say(f"{name[:1].upper()}{name[1:]}: {put.words[:1].lower()}{put.words[1:]}")

    def picked(self, key: str) -> None:
        """Something was chosen on the bed: a place to touch off is taken."""
        setup = self._showing.planned_setup()
        if not key.startswith("spot:") or setup is None:
            return
        _, number, letter = key.split(":")
        for change in setup.changes:
            if change.tool.number == int(number):
                spot = change.spots["ABC".index(letter)]
                values = {"setup": self._showing.setup, "tool": int(number), "x": spot.x, "y": spot.y}
                self._desk.run("set touch", values, "choose a place to touch off")

    def line_across(self, x0: float, y0: float, x1: float, y1: float) -> None:
        """A line was dragged across the bed: the heights follow it; one that runs along X, or hardly runs, all across."""
        level = abs(y1 - y0) < max(0.09 * abs(x1 - x0), SLANT)
        self._showing.line_y, self._showing.slant = (y1, None) if level else (None, (x0, y0, x1, y1))
        self._drawings.draw_heights()
