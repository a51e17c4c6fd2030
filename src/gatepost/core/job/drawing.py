# SPDX-License-Identifier: GPL-3.0-or-later
"""A drawing that was brought in, as the job keeps it."""

from __future__ import annotations

import re
from typing import Annotated

from pydantic import Field, field_validator

from gatepost.core.job.base import Model, Size, Words

SOURCE = r"^art-[0-9a-f]{12}\.(svg|dxf|png|jpg|stl)$"  # name of the part that holds what it was read from
MOST_PATH = 6_000_000  # characters
_NUMBER = r"-?\d{1,4}(?:\.\d{1,6})?"
OUTLINE = re.compile(rf"(?:M{_NUMBER} {_NUMBER}(?:L{_NUMBER} {_NUMBER})+Z)*", re.ASCII)


class DrawnFigures(Model):
    """Areas with straight pieces. path: about their middle, mm, at the size they were drawn, even-odd; wide, high: that size; width, height: as they
    are wanted; source: the part that it was read from, name: of the file."""

    path: Annotated[str, Field(max_length=MOST_PATH)]
    wide: Size
    high: Size
    width: Size
    height: Size
    source: Annotated[str, Field(pattern=rf"{SOURCE}|^$")] = ""
    name: Words = ""

    @field_validator("path")
    @classmethod
    def _an_outline(cls, path: str) -> str:
        if not OUTLINE.fullmatch(path):
            raise ValueError("a drawing's path is closed runs of M, L and Z with numbers under ten thousand")
        return path
