# SPDX-License-Identifier: GPL-3.0-or-later
"""Right click on the bed: what can be done with that thing, or at that place."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QMenu

from gatepost.core.zero.datum import CORNERS

if TYPE_CHECKING:
    from gatepost.desk.context.desk_context import DeskContext

Offer = tuple[str, Callable[[], object]]
READINGS = {"caliper": "caliper reading", "height": "height", "gap": "gap", "support": "support", "flaw": "flaw"}


class BedMenu:
    """Everything that it offers can be undone."""

    def __init__(
        self,
        desk: DeskContext,
        start_reading: Callable[[float, float], None],
        type_on_wood: Callable[[str, float, float], None],
    ) -> None:
        self._desk, self._start_reading, self._type_on_wood = desk, start_reading, type_on_wood

    def open(self, key: str, x: float, y: float, at: QPoint) -> None:
        """At a place of the screen; key: of what lies there; x, y: on the bed, mm."""
        offers = self.offers(key, x, y)
        if not offers:
            return
        menu = QMenu(self._desk.window)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for words, act in offers:
            action = menu.addAction(words)
            if action is not None:
                action.triggered.connect(lambda _=False, a=act: a())
        menu.popup(at)

    def offers(self, key: str, x: float, y: float) -> list[Offer]:
        """What can be done there."""
        kind, _, name = key.partition(":")
        setup = self._desk.showing.setup
        if kind == "hold":
            return self._hold(name, setup)
        if kind in READINGS:
            what = READINGS[kind]
            name = name.partition("/")[0]
            remove = self._run(f"remove {kind}", {kind: name}, f"{what} taken away")
            return [(f"Take this {what} away", remove), *self._to("blank", "")]
        if kind == "corner":
            return [("Take this corner away", self._corner(int(name)))]
        if kind == "lettering":
            another = ("One more line", lambda: self._desk.act("another_line"))
            on_wood = ("Type on the wood (Enter)", lambda: self._type_on_wood(key, x, y))
            return [on_wood, ("Type its words…", lambda: self._desk.act("write")), another, *self._arranged(key)]
        if kind == "art":
            return self._art(key, name)
        if kind == "plate":
            fields = ("Type its size…", lambda: self._desk.field_wanted.emit("carve", "Width"))
            return [
                fields,
                *self._arranged(key),
                ("Take the cut-out away", self._run("remove operation", {"operation": name}, "taken away")),
            ]
        if kind == "tab":
            even = self._run("set plate", {"operation": name.partition("/")[0], "tab_at": ()}, "tabs spread")
            return [("Spread the tabs evenly", even), *self._to("carve", "Tabs")]
        if kind in ("zero", "touch"):
            corners = [(f"X0 Y0 at the {c}", self._run("set zero", {"setup": setup, "xy": c}, "zero")) for c in CORNERS]
            return [*corners, ("What happened, and what is still known…", lambda: self._desk.act("happened"))]
        return self._bare(key, x, y, setup)

    def _hold(self, name: str, setup: str) -> list[Offer]:
        one = {"setup": setup, "hold": name}
        return [
            (f"Take {name} away", self._run("remove hold", one, f"{name} taken away")),
            (f"Copy {name}", self._run("copy hold", {**one, "dx": 80.0, "dy": 0.0}, f"{name} copied")),
            ("Mirror it to the other edge", self._run("mirror hold", {**one, "across": "Y"}, "mirrored")),
            ("Mirror it to the other end", self._run("mirror hold", {**one, "across": "X"}, "mirrored")),
            ("Places and ways of holding, compared…", lambda: self._desk.act("ways")),
            *self._to("hold", name),
        ]

    def _bare(self, key: str, x: float, y: float, setup: str) -> list[Offer]:
        """The board itself, or the bare bed."""
        stage, offers = self._desk.showing.stage, list[Offer]()
        planned = self._desk.showing.planned_setup()
        if key == "blank" and stage == "blank" and planned is not None:
            u, v = planned.carried.then(planned.placed.to_bed).inverse().xy(x, y)
            flaw = {"x": round(u, 1), "y": round(v, 1), "size": 20.0}
            offers += [
                ("Measure here", lambda: self._start_reading(x, y)), ("A flaw here", self._run("add flaw", flaw, "flaw")),
                ("Measure round the edge", lambda: self._desk.act("measure")),
            ]  # fmt: skip
        if key == "blank" and stage == "carve":
            offers += [
                ("Write something", lambda: self._desk.act("write")),
                ("Cut out a plate", lambda: self._desk.act("cut_out")),
                ("Sink the ground round what stays", self._run("add ground", {"setup": setup}, "ground")),
                ("Bring a drawing or picture in…", lambda: self._desk.act("art_file")),
                ("Sink a recess", self._run("add recess", {"setup": setup}, "recess")),
            ]
        if key == "blank" and stage == "zero" and planned is not None:
            u, v = planned.back(x, y)
            mark = {"setup": setup, "xy": "mark", "x": round(u, 1), "y": round(v, 1)}
            offers.append(("X0 Y0 here, at a mark", self._run("set zero", mark, "zero")))
        if stage == "hold":
            offers.append(("Places and ways of holding, compared…", lambda: self._desk.act("ways")))
        return [*offers, ("The board from near, or the whole bed", lambda: self._desk.act("near"))]

    def _art(self, key: str, name: str) -> list[Offer]:
        """Artwork that stays in a ground, frames it, or outlines a recess."""
        document = self._desk.document
        art = next((a for a in document.job.artwork if a.id == name), None) if document is not None else None
        if art is None:
            return []
        words = [("Type its words…", lambda: self._desk.act("write"))] if art.kind == "lettering" else []
        gone = ("Take it away", self._run("remove art", {"art": name}, "taken away"))
        return [*words, *self._arranged(key), gone]

    def _arranged(self, key: str) -> list[Offer]:
        """Where artwork may be set, and how."""
        from gatepost.core.plan.arranging import art_of
        from gatepost.desk.window.arrange import arrange, offered

        document = self._desk.document
        if document is None:
            return []
        art = art_of(document.job, document.job.setup(self._desk.showing.setup), key)
        offers = offered(art) if art is not None else ()
        return [(words, lambda w=what: arrange(self._desk, key, w)) for words, what in offers]

    def _corner(self, index: int) -> Callable[[], object]:
        document = self._desk.document
        assert document is not None
        return self._run("remove corner", {"at": document.job.blank.outline[index]}, "corner taken away")

    def _to(self, stage: str, label: str) -> list[Offer]:
        return [("Type its figures…", lambda: self._desk.field_wanted.emit(stage, label))]

    def _run(self, name: str, values: dict[str, Any], words: str) -> Callable[[], object]:
        return lambda: self._desk.run(name, values, words)
