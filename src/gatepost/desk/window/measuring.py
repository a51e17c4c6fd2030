# SPDX-License-Identifier: GPL-3.0-or-later
"""Readings typed where they belong: on the Blank page the next place is marked on the board, and what is typed goes there."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, pyqtSignal

from gatepost.core.blank.places import MeasuringPlace, measuring_places, next_place
from gatepost.core.units import LengthError, edit_length, parse_length
from gatepost.desk.context.desk_context import Act
from gatepost.desk.view.place_field import PlaceField

if TYPE_CHECKING:
    from gatepost.desk.context.desk_context import DeskContext
    from gatepost.desk.window.desk_view import DeskView

VALUE = {"caliper": "thickness", "height": "z", "gap": "z"}
ASKED = {
    "caliper": ("Measure at place {0}, {1}.", "Caliper reading"), "height": ("Height of the top at place {0}, {1}.", "Height of the top"),
    "gap": ("Gap under the board at place {0}, {1}.", "Gap under the board"),
}  # fmt: skip


class Measuring(QObject):
    """changed: another place is marked, or none, or something else is typed there."""

    changed = pyqtSignal()
    next_wanted = pyqtSignal()

    def __init__(self, desk: DeskContext, view: DeskView) -> None:
        super().__init__(desk)
        self._desk, self._view = desk, view
        self.what = "caliper"
        self.place: MeasuringPlace | None = None  # that is marked
        self._own: tuple[float, float] | None = None  # a place of one's own, on the board
        self._reading = ""  # one that is there and typed anew
        self.field = PlaceField(view.bed)
        self.field.taken.connect(self._take)
        self.field.stepped.connect(self._step)
        self.field.left.connect(self.leave)
        self.field.dropped.connect(self._dropped)
        self.field.next_wanted.connect(self._next)
        self.field.textEdited.connect(lambda _: self.changed.emit())
        view.bed.clicked.connect(self._clicked)
        view.bed.typed.connect(self.begin_with)
        view.fence.typed.connect(self.begin_with)

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "measure": lambda: self.begin("caliper"),
            "measure_heights": lambda: self.begin("height"),
            "measure_gaps": lambda: self.begin("gap"),
            "take_reading": self.take_typed,
        }

    @property
    def active(self) -> bool:
        """Whether a figure is typed on the bed."""
        return self.field.isVisibleTo(self._view.bed)

    @property
    def marked(self) -> tuple[str, int] | None:
        """What is drawn on the bed: the kind of reading, and the number of the place that is next."""
        document = self._desk.document
        if document is None or self._desk.showing.stage != "blank":
            return None
        if self.active and self.place is not None:
            return self.what, self.place.number
        if self.active or self.what != "caliper":
            return self.what, 0
        at = next_place(document.job.blank)
        return ("caliper", at.number) if at is not None and len(document.job.blank.calipers) < 6 else None

    def begin(self, what: str) -> None:
        """Mark the next place, and let its figure be typed."""
        if self._desk.document is None:
            return
        self.what = what
        if self._desk.showing.stage != "blank":
            self._desk.stage_wanted.emit("blank")
        at = next_place(self._desk.document.job.blank, what)
        if at is None:
            self._desk.messages.say("Every place is measured. Click on the board for one of your own.")
            self.leave()
        else:
            self._at(at)

    def begin_with(self, figure: str) -> None:
        """A figure is begun while no field has the focus: it goes to the next place."""
        if self._desk.document is None or self._desk.showing.stage != "blank" or self._desk.showing.plan is None:
            return
        if self.active:  # left for a moment, to look closer
            self.field.setFocus()
            self.field.insert(figure)
        else:
            self.begin(self.what)
            self.field.setText(figure)
        self.changed.emit()

    def _at(self, place: MeasuringPlace, typed: str = "") -> None:
        self.place, self._own, self._reading = place, None, ""
        self._put(place.x, place.y, f"{ASKED[self.what][1]}, {place.words}", typed)

    def _put(self, x: float, y: float, named: str, typed: str) -> None:
        setup = self._desk.showing.planned_setup()
        if setup is None:
            self._desk.when_planned("measure", lambda _: self._put(x, y, named, typed))
            return
        on_bed = setup.carried.then(setup.placed.to_bed).xy(x, y)
        self.field.put(on_bed[0], on_bed[1], self._desk.unit, named, typed)
        self.changed.emit()

    def words(self) -> str:
        """What is asked, for the next step."""
        if self.place is None:
            return f"{ASKED[self.what][1]} at the place you chose."
        return ASKED[self.what][0].format(self.place.number, self.place.words)

    def take_typed(self) -> None:
        """Take what is typed, by a button."""
        if self.field.text().strip():
            self._take(self.field.text())
        else:
            self._step(1)

    def _take(self, text: str) -> None:
        if self._entered(text):
            self._on()

    def _kept(self) -> bool:
        """What is typed is taken, as in any field that is left. False where it can't be read, which is said: then it stays."""
        text = self.field.text().strip()
        if not self.active or not text:
            return True
        done = self._entered(text)
        if done:
            self.field.clear()
        return done

    def _entered(self, text: str) -> bool:
        """A figure into the job, at its place."""
        document = self._desk.document
        if document is None:
            return False
        try:
            value = parse_length(text, document.job.unit)
        except LengthError as error:
            self._desk.messages.say(str(error))
            self.field.selectAll()
            return False
        figure = {VALUE[self.what]: value}
        if self._reading:
            return self._desk.run(f"set {self.what}", {self.what: self._reading, **figure}, "reading")
        at = self._own or ((self.place.x, self.place.y) if self.place is not None else (0.0, 0.0))
        return self._desk.run(f"add {self.what}", {"x": at[0], "y": at[1], **figure}, "reading")

    def _on(self) -> None:
        """To the next place that is not measured; where there is none, the keys go back to the fence."""
        assert self._desk.document is not None
        after = self.place.number if self.place is not None else 0
        at = next_place(self._desk.document.job.blank, self.what, after)
        if at is None:
            self.leave()
        else:
            self._at(at)

    def _step(self, by: int) -> None:
        """On or back round the board; what is typed is taken first, as in any field that is left."""
        if self._desk.document is None or not self._kept():
            return
        free = [p for p in measuring_places(self._desk.document.job.blank, self.what) if not p.taken]
        if not free:
            self.leave()
            return
        number = self.place.number if self.place is not None else 0
        later = [p for p in free if p.number > number] if by > 0 else [p for p in reversed(free) if p.number < number]
        self._at(later[0] if later else free[0 if by > 0 else -1], self.field.text())

    def _next(self) -> None:
        self.leave()
        self.next_wanted.emit()

    def leave(self) -> None:
        """Nothing is typed on the bed any more."""
        was = self.active
        self.place, self._own, self._reading = None, None, ""
        if was:
            self.field.hide()
            self._view.fence.setFocus()
            self.changed.emit()

    def _dropped(self) -> None:
        if self._kept():
            self.gone()
        self.changed.emit()

    def turned(self) -> None:
        """Something else is looked at: what is typed is taken, or told where it can't be read."""
        self._kept()
        self.gone()

    def gone(self) -> None:
        """Another job: whatever was begun is left, and the focus with whoever has it."""
        self.field.clear()
        self.place, self._own, self._reading, self.what = None, None, "", "caliper"
        self.field.hide()

    def _clicked(self, key: str, x: float, y: float) -> None:
        """A place that is marked, a reading that is there, or a place of one's own."""
        document, setup = self._desk.document, self._desk.showing.planned_setup()
        if document is None or setup is None or self._desk.showing.stage != "blank":
            return
        kind, _, name = key.partition(":")
        same = kind == "place" and self.active and self.place is not None and self.place.number == int(name)
        if same or not self._kept():
            self.field.setFocus()
        elif kind == "place":
            places = measuring_places(document.job.blank, self.what)
            self._at(next(p for p in places if p.number == int(name)))
        elif kind in VALUE:
            self.what = kind
            readings: dict[str, tuple[Any, ...]] = {
                "caliper": document.job.blank.calipers,
                "height": document.job.blank.heights,
                "gap": document.job.blank.under,
            }
            one = next((r for r in readings[kind] if r.id == name), None)
            if one is not None:
                self.place, self._own, self._reading = None, None, name
                self._put(one.x, one.y, ASKED[kind][1], edit_length(getattr(one, VALUE[kind]), self._desk.unit))
        elif key == "blank":
            self.at_bed(x, y)
        else:
            self.leave()

    def at_bed(self, x: float, y: float) -> None:
        """A reading at a place of one's own, on the bed, mm."""
        setup = self._desk.showing.planned_setup()
        if setup is not None and self._kept():
            at = setup.carried.then(setup.placed.to_bed).inverse().xy(x, y)
            self.place, self._own, self._reading = None, at, ""
            self._put(at[0], at[1], f"{ASKED[self.what][1]} at a place of your own", "")
