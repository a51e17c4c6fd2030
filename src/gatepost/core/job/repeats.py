# SPDX-License-Identifier: GPL-3.0-or-later
"""The same part several times over: how many, what of each is measured, and what was measured."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import Field, field_validator, model_validator

from gatepost.core.job.base import Amount, Called, Model, Size, Words, with_ids

MOST_PARTS, MOST_SIZES = 2000, 12


class PartSize(Model):
    """A size of a part that is measured. nominal: as it should be; within: by how much it may be otherwise, mm."""

    id: Called = ""
    title: Words = ""
    nominal: Size = 100.0
    within: Amount = 0.2


class PartMeasured(Model):
    """What was measured of one part. part: which, counted from 1; values: by the size's id, mm."""

    part: Annotated[int, Field(ge=1, le=MOST_PARTS)]
    values: Annotated[dict[str, Size], Field(max_length=MOST_SIZES)] = {}


class Repeats(Model):
    """parts: how many are wanted; sizes: that are measured of the first, and of as many more as one likes; rows: what was measured."""

    parts: Annotated[int, Field(ge=1, le=MOST_PARTS)] = 1
    sizes: Annotated[tuple[PartSize, ...], Field(max_length=MOST_SIZES)] = ()
    rows: Annotated[tuple[PartMeasured, ...], Field(max_length=MOST_PARTS)] = ()

    @field_validator("sizes", mode="before")
    @classmethod
    def _sizes(cls, sizes: Any) -> Any:
        return with_ids(sizes, "size-")

    @model_validator(mode="after")
    def _once(self) -> Repeats:
        parts = [r.part for r in self.rows]
        if len(set(parts)) < len(parts):
            raise ValueError("a part is measured in two rows")
        known = {s.id for s in self.sizes}
        if any(set(r.values) - known for r in self.rows):
            raise ValueError("a part has a size that is not among those that are measured")
        return self

    def measured(self, part: int) -> dict[str, float]:
        """What was measured of a part, by the size's id."""
        return next((r.values for r in self.rows if r.part == part), {})
