# SPDX-License-Identifier: GPL-3.0-or-later
"""How a piece comes into a setup from the one before, and the pieces that there may be several of."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field

from gatepost.core.job.base import Amount, Called, Model, Name, Place, Words

MOST_ROWS, MOST_COPIES = 2000, 60  # of a series, of a setup


class Register(Model):
    """How the piece comes from the setup before; what more there is of it is its kind's."""

    kind: Name


class AsItLies(Register):
    """It is not moved: what held it may be changed, one hold after another."""

    kind: Literal["as it lies"] = "as it lies"


class TurnedBy(Register):
    """It is turned over, stood on another face, or turned on its plane."""

    kind: Literal["turned"] = "turned"


class OnPins(Register):
    """It is laid on pins that stand in the spoilboard. on: rows of holes that the pins go through; work, bed: how much wider than its pin a hole is, in the
    work and in the bed, mm."""

    kind: Literal["pins"] = "pins"
    on: Annotated[tuple[Name, ...], Field(max_length=6)] = ()
    work: Amount = 0.1
    bed: Amount = 0.05


REGISTERS: Mapping[str, type[Register]] = {"as it lies": AsItLies, "turned": TurnedBy, "pins": OnPins}


class SeriesRow(Model):
    """One piece of a series: what its texts say, by column."""

    id: Called = ""
    values: Annotated[dict[Name, Words], Field(max_length=60)] = {}


class Copy(Model):
    """One more piece in a setup: its corner on the bed, and the row of the series that it is."""

    id: Called = ""
    x: Place
    y: Place
    row: Called = ""
