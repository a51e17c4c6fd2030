# SPDX-License-Identifier: GPL-3.0-or-later
"""The job: what is planned, as immutable models. Lengths are mm, forces N, angles degrees.

A job keeps a dated copy of every shop entry (machine, tools, wood) that it uses and is planned from that alone."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import Field, SerializeAsAny, ValidationInfo, field_validator, model_validator

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import Model, Name, Place, Words, of_its_kind, with_ids
from gatepost.core.job.blank import Blank, Wood
from gatepost.core.job.carve import Carving, CutOut, Plate, VCut
from gatepost.core.job.designs import MOST_APPROVALS, MOST_DESIGNS, Approval, Design
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.finish import Finish
from gatepost.core.job.hold import HOLDS, MOST_HOLDS, Hold, Holding, hold_of
from gatepost.core.job.machine import Machine
from gatepost.core.job.operation import Artwork, Face, Id, Operation
from gatepost.core.job.register import (
    MOST_COPIES,
    MOST_MARKS,
    MOST_ROWS,
    REGISTERS,
    Copy,
    PieceMark,
    Register,
    Ring,
    SeriesRow,
)
from gatepost.core.job.repeats import Repeats
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.tool import Tool
from gatepost.core.job.zero import TouchChoice, Zero

FORMAT = 5  # of job.json; its history stands in file.py


class Setup(Model):
    """One way the wood lies and is held, with one X0 Y0 and one Z0 plane. up: the face that is cut; spin: degrees that the
    board is turned by on its plane, seen from above, once that face is up; follows: the setup whose board it goes on with;
    x, y: the board's corner on the bed; comes: how it gets here from the setup before, nothing where it is laid down again; copies: more pieces
    in the same setup; proof: marks that are looked at before wood is cut; ring: cut round old holes before all else; skew: degrees that it lies turned by as measured, by which its programs are turned
    about X0 Y0.
    """

    id: Id
    title: Words = ""
    follows: Id | Literal[""] = ""
    up: Face = "front"
    spin: Literal[0, 90, 180, 270] = 0
    x: Place
    y: Place
    skew: Annotated[float, Field(ge=-10, le=10)] = 0.0
    holds: Annotated[tuple[SerializeAsAny[Hold], ...], Field(max_length=MOST_HOLDS)] = ()
    comes: SerializeAsAny[Register] | None = None
    copies: Annotated[tuple[Copy, ...], Field(max_length=MOST_COPIES)] = ()
    proof: Annotated[tuple[PieceMark, ...], Field(max_length=MOST_MARKS)] = ()
    ring: Ring | None = None
    zero: Zero = Zero()
    touches: Annotated[tuple[TouchChoice, ...], Field(max_length=200)] = ()
    operations: Annotated[tuple[Operation, ...], Field(max_length=100)] = ()

    @field_validator("holds", mode="before")
    @classmethod
    def _holds(cls, value: Any, info: ValidationInfo) -> Any:
        """Each of its kind, by a table that is given (``context={"holds": …}``), or the one shipped."""
        if not isinstance(value, (list, tuple)):
            return value
        kinds = (info.context or {}).get("holds", HOLDS)
        return [hold_of(h, kinds) if isinstance(h, dict) else h for h in value]

    @field_validator("comes", mode="before")
    @classmethod
    def _comes(cls, value: Any, info: ValidationInfo) -> Any:
        """Of its kind, by a table that is given (``context={"registers": …}``), or the one shipped."""
        if not isinstance(value, dict):
            return value
        return of_its_kind(
            value, Register, (info.context or {}).get("registers", REGISTERS), "way of coming into a setup"
        )

    @field_validator("copies", mode="before")
    @classmethod
    def _copies(cls, copies: Any) -> Any:
        return with_ids(copies, "copy-")

    @field_validator("proof", mode="before")
    @classmethod
    def _proof(cls, marks: Any) -> Any:
        return with_ids(marks, "look-")

    @property
    def name(self) -> str:
        """What programs, journal and log call it."""
        return self.id

    @property
    def turn(self) -> Literal["about X", "about Y"]:
        """About what a board is turned over to come from the front to the back, or back again."""
        return "about Y" if self.spin == 180 else "about X"


class Acceptance(Model):
    """A care accepted, or a question answered, with a reason. inputs: hash of what it was said about."""

    code: str
    setup: str
    about: str = ""
    inputs: str
    reason: Annotated[str, Field(min_length=1, max_length=400)]
    at: str


class Job(Model):
    """The whole of what is planned. design: what the one that is worked on is called; designs: others for the same board; repeats: how many parts of it, and what is measured of each; boards: made alike; read: what was read through of its
    words, as words_hash gives it; made_for: what it was made ready for, nothing for a job of one's own; finish: how it is coloured and coated; approvals: of its designs."""

    format: int = FORMAT
    name: Name = "New job"
    unit: Literal["mm", "inch"] = "mm"
    tolerance: Literal["trial", "sign", "heirloom"] = "sign"
    irreplaceable: bool = False
    boards: Annotated[int, Field(ge=1, le=1000)] = 1
    holding: Holding = Holding()
    blank: Blank = Blank()
    wood: Wood = Wood(name="elm")
    machine: Machine = Machine()
    tools: Annotated[tuple[Tool, ...], Field(max_length=200)] = ()
    artwork: Annotated[tuple[Artwork, ...], Field(max_length=400)] = ()
    setups: Annotated[tuple[Setup, ...], Field(min_length=1, max_length=40)] = (
        Setup(id="surface", x=150, y=200, operations=(Operation(id="surfacing", kind="surface", figures=Surfacing()),)),
        Setup(id="front", x=150, y=200, follows="surface"),
    )
    repeats: Repeats | None = None
    series: Annotated[tuple[SeriesRow, ...], Field(max_length=MOST_ROWS)] = ()
    order: Annotated[tuple[Words, ...], Field(max_length=200)] = ()
    accepted: Annotated[tuple[Acceptance, ...], Field(max_length=1000)] = ()
    design: Words = ""
    designs: Annotated[tuple[Design, ...], Field(max_length=MOST_DESIGNS)] = ()
    read: Annotated[str, Field(max_length=64)] = ""
    approvals: Annotated[tuple[Approval, ...], Field(max_length=MOST_APPROVALS)] = ()
    made_for: Literal["", "skim", "groove"] = ""
    finish: Finish = Finish()

    @field_validator("series", mode="before")
    @classmethod
    def _series(cls, series: Any) -> Any:
        return with_ids(series, "row-")

    @field_validator("designs", mode="before")
    @classmethod
    def _designs(cls, designs: Any) -> Any:
        return with_ids(designs, "design-")

    @model_validator(mode="after")
    def _ids(self) -> Job:
        for what, ids in (
            ("setups", [s.id for s in self.setups]),
            ("operations", [o.id for s in self.setups for o in s.operations]),
            ("operations", [o.name for s in self.setups for o in s.operations]),  # by which the plan tells them
            ("pieces of artwork", [a.id for a in self.artwork]),
        ):
            twice = next((i for i in ids if ids.count(i) > 1), None)
            if twice is not None:
                raise ValueError(f"two {what} are called “{twice}”")
        art, before = {a.id for a in self.artwork}, {""}
        for setup in self.setups:
            if setup.follows not in before:
                raise ValueError(f"the setup “{setup.id}” follows “{setup.follows}”, which does not come before it")
            before.add(setup.id)
            for missing in {c.row for c in setup.copies if c.row} - {r.id for r in self.series}:
                raise ValueError(f"a piece in the setup “{setup.id}” is the row “{missing}”, which is not there")
            own = {o.id for o in setup.operations}
            for operation in setup.operations:
                for missing in (*(set(operation.on) - art), *(set(operation.after) - own)):
                    raise ValueError(f"the operation “{operation.id}” names “{missing}”, which is not there")
        return self

    def art(self, kind: str, ids: tuple[str, ...]) -> Artwork | None:
        """The first piece of artwork of a kind among some."""
        return next((a for a in self.artwork if a.kind == kind and a.id in ids), None)

    @cached_property
    def surfacing(self) -> Surfacing:
        """What is wanted of the front's first surfacing; none at all where the job has none."""
        fronts = (s for s in self.setups if s.up == "front")
        return next(
            (o.figures for s in fronts for o in s.operations if isinstance(o.figures, Surfacing)),
            Surfacing(wanted="no"),
        )

    @cached_property
    def carving(self) -> Carving:
        """The first lettering and the first cut-out, and how they are cut."""
        done = [o for s in self.setups for o in s.operations]
        first = next((o for o in done if self.lettering(o) is not None), None)
        plate = self.standing_on(done, self.art("lettering", first.on) if first is not None else None)
        return (self.lettering(first, plate) if first is not None else None) or Carving(plate=plate)

    def lettering(self, operation: Operation, plate: Plate | None = None) -> Carving | None:
        """What a V-cut works on and how, together; nothing for other operations."""
        art = self.art("lettering", operation.on)
        if not isinstance(operation.figures, VCut) or art is None:
            return None
        place = {"x": art.x, "y": art.y, "turn": art.turn, "mirror": art.mirror}
        return Carving(**dict(art.figures), **dict(operation.figures), **place, plate=plate)

    def plate(self, operation: Operation) -> Plate | None:
        """The plate that a cut-out leaves: what it goes round, unless it goes round inside that."""
        found = self.cut_out(operation)
        return found if found is not None and found.side != "inside" else None

    def standing_on(self, operations: Iterable[Operation], art: Artwork | None) -> Plate | None:
        """Of the plates that some operations cut out, the one that artwork stands on: the smallest that its middle lies in, or else the nearest; the first
        where there is no artwork."""
        there = [
            p
            for o in operations
            if (art is None or art.id not in o.on) and (p := self.plate(o)) is not None and self._same_face(o, art)
        ]
        if art is None:
            return there[0] if there else None
        return min(there, key=lambda p: (p.beside(art.x, art.y), p.width * p.height), default=None)

    def _same_face(self, operation: Operation, art: Artwork | None) -> bool:
        return art is None or any(a.face == art.face for a in self.artwork if a.id in operation.on)

    def cut_out(self, operation: Operation) -> Plate | None:
        """What a cut-out goes round and how, together; nothing for other operations."""
        art = self.art("plate", operation.on) or self.art("drawing", operation.on)
        if not isinstance(operation.figures, CutOut) or art is None:
            return None
        place = {"x": art.x, "y": art.y, "turn": art.turn, "mirror": art.mirror}
        if isinstance(art.figures, DrawnFigures):
            f = art.figures
            size = {"width": f.width, "height": f.height, "corner": 0.0}
            return Plate(**size, drawn=f.path, wide=f.wide, high=f.high, **dict(operation.figures), **place)
        return Plate(**dict(art.figures), **dict(operation.figures), **place)

    def colours(self) -> tuple[str, ...]:
        """What is carved gets, each once, as they were typed."""
        lines = [line.colour for a in self.artwork for line in getattr(a.figures, "lines", ())]
        return tuple(dict.fromkeys(c.strip() for c in (*(a.colour for a in self.artwork), *lines) if c.strip()))

    def setup(self, name: str) -> Setup:
        """The setup of that name. Raises OperatorError when the job has none."""
        for setup in self.setups:
            if setup.name == name:
                return setup
        raise OperatorError(f"There is no setup “{name}”; this job has {', '.join(s.name for s in self.setups)}.")

    def tool(self, number: int) -> Tool:
        """The tool of that number. Raises OperatorError when the job has none."""
        for tool in self.tools:
            if tool.number == number:
                return tool
        raise OperatorError(f"Tool {number} is not in this job's table. Choose another, or add it under Tools.")

    def _cutter(self, operation: str) -> Tool | None:
        figures = next((o.figures for s in self.setups for o in s.operations if o.id == operation), None)
        return next((t for t in self.tools if t.number == getattr(figures, "tool", 0)), None)

    def width_of(self, operation: str) -> float:
        """How far across the cutter of an operation is, mm; 0 where it is not there."""
        tool = self._cutter(operation)
        return tool.diameter if tool is not None else 0.0

    def cut_by(self, operation: str) -> str:
        """What an operation is cut by, and in which wood, in words; nothing where it is not there."""
        tool = self._cutter(operation)
        return f"{tool.name}, {tool.diameter:g} mm across, in {self.wood.name}" if tool is not None else ""
