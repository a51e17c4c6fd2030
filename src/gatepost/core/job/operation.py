# SPDX-License-Identifier: GPL-3.0-or-later
"""What is to be made, and how: artwork, and the operations that work on it. Each has figures of its kind.

Tables of kinds are given to whoever reads a job (``context={"operations": …, "artwork": …}``); these are the ones shipped.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, SerializeAsAny, ValidationInfo, field_validator

from gatepost.core.job.base import Model, Name, Place, Words
from gatepost.core.job.behind import HangerFigures, ScrewsFigures
from gatepost.core.job.carve import CutOut, Letters, Rounded, VCut
from gatepost.core.job.drawing import DrawnFigures
from gatepost.core.job.gouge import Gouge
from gatepost.core.job.holes import Drilling, Engraving, HolesFigures
from gatepost.core.job.relief import HeightsFigures, Relief
from gatepost.core.job.sunk import Ground, Recess, Stencil
from gatepost.core.job.surface import Surfacing

Id = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]  # for programs, files, journal and log
Face = Literal["front", "back", "left", "right", "top", "bottom"]  # as the finished piece hangs
Kinds = Mapping[str, type[Model]]

OPERATIONS: Kinds = {
    "surface": Surfacing, "vcut": VCut, "cutout": CutOut, "ground": Ground, "recess": Recess, "stencil": Stencil, "gouge": Gouge, "relief": Relief,
    "drill": Drilling, "line": Engraving,
}  # fmt: skip
ARTWORK: Kinds = {
    "lettering": Letters,
    "plate": Rounded,
    "drawing": DrawnFigures,
    "heights": HeightsFigures,
    "holes": HolesFigures,
    "screws": ScrewsFigures,
    "hanger": HangerFigures,
}


def _of_kind(value: Any, info: ValidationInfo, table: str, shipped: Kinds) -> Any:
    """Figures as their kind has them."""
    if isinstance(value, Model):
        return value
    kinds: Kinds = (info.context or {}).get(table, shipped)
    kind = info.data.get("kind")
    if kind not in kinds:
        raise ValueError(f"there is no kind “{kind}” of it: {', '.join(kinds)}")
    return kinds[str(kind)].model_validate(value, context=info.context)


class Artwork(Model):
    """Something that is made. x, y: its middle, blank frame; turn: degrees that it is turned by about it, to the left; mirror: whether it is seen from
    behind first; locked: whether it stays where it is, and as large; face: that it is on; colour: that what is carved of it gets."""

    id: Id
    title: Words = ""
    kind: Name
    face: Face = "front"
    x: Place = 0.0
    y: Place = 0.0
    turn: Annotated[float, Field(ge=-360, le=360)] = 0.0
    mirror: bool = False
    locked: bool = False
    colour: Annotated[str, Field(max_length=40)] = ""
    figures: SerializeAsAny[Model]

    @field_validator("figures", mode="before")
    @classmethod
    def _figures(cls, value: Any, info: ValidationInfo) -> Any:
        return _of_kind(value, info, "artwork", ARTWORK)


class Operation(Model):
    """One thing that is done in a setup. on: ids of the artwork it works on, none for the whole face; after: ids of operations
    of the setup that it waits for."""

    id: Id
    title: Words = ""
    kind: Name
    on: Annotated[tuple[Id, ...], Field(max_length=200)] = ()
    after: Annotated[tuple[Id, ...], Field(max_length=200)] = ()
    figures: SerializeAsAny[Model]

    @field_validator("figures", mode="before")
    @classmethod
    def _figures(cls, value: Any, info: ValidationInfo) -> Any:
        return _of_kind(value, info, "operations", OPERATIONS)

    @property
    def name(self) -> str:
        """As people are told it."""
        return self.title or self.id

    @property
    def through(self) -> bool:
        """Whether it goes right through the wood."""
        return self.kind in ("cutout", "stencil") or bool(getattr(self.figures, "through", False))
