# SPDX-License-Identifier: GPL-3.0-or-later
"""What is to be done, setup by setup: how the board lies, and which operations it gets there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from gatepost.core.carve.kinds import cutout, vcut
from gatepost.core.cutting import Kind
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.tool import Tool
from gatepost.core.job.turning import other_face
from gatepost.core.surface.kinds import surfacing

KINDS: dict[str, Kind] = {kind.NAME: kind for kind in (surfacing, vcut, cutout)}
FREES = (cutout.NAME,)  # kinds that cut pieces out of the board


@dataclass(frozen=True)
class Wanted:
    """An operation as it is asked for. figures: of its kind."""

    name: str
    kind: Kind
    figures: Any
    tool: Tool


@dataclass(frozen=True)
class Laid:
    """A setup. up: the face that is cut there; turn: about what the board was turned when another face was up before;
    carves: whether the carving is told of here."""

    setup: Setup
    up: Literal["front", "back"]
    turn: str
    wanted: tuple[Wanted, ...]
    carves: bool = False

    @property
    def flattens(self) -> bool:
        """Whether all that is done here is to make a face flat."""
        return bool(self.wanted) and all(w.kind is KINDS[surfacing.NAME] for w in self.wanted)


def layout(job: Job) -> tuple[Laid, ...]:
    """All setups in the order in which they follow one another."""
    back = other_face(job)
    turn = back.turn if back is not None else ""
    laid: list[Laid] = []
    for setup in job.setups:
        if setup.name == "front":
            laid.append(Laid(setup, "front", turn, tuple(_carving(job)), True))
        else:
            name = "surfacing" if setup.name == "surface" else f"surfacing {setup.name}"
            laid.append(
                Laid(setup, "front" if setup.name == "surface" else "back", turn, tuple(_flattening(job, name)))
            )
    return tuple(sorted(laid, key=lambda one: ORDER.index(one.setup.name)))


ORDER = ("surface", "back", "front")


def _tool(job: Job, number: int) -> Tool | None:
    return next((t for t in job.tools if t.number == number), None)


def _flattening(job: Job, name: str) -> list[Wanted]:
    tool = _tool(job, job.surfacing.tool)
    return [Wanted(name, surfacing, job.surfacing, tool)] if tool is not None else []


def _carving(job: Job) -> list[Wanted]:
    wanted: list[Wanted] = []
    v_tool, plate = _tool(job, job.carving.tool), job.carving.plate
    if v_tool is not None:
        wanted.append(Wanted("lettering", vcut, job.carving, v_tool))
    mill = _tool(job, plate.tool) if plate is not None else None
    if plate is not None and mill is not None:
        wanted.append(Wanted("cut-out", cutout, plate, mill))
    return wanted


def flattened(job: Job) -> Setup:
    """The setup in which the board's first face would be made flat."""
    return next(laid.setup for laid in layout(job) if laid.up == "front" and not laid.carves)
