# SPDX-License-Identifier: GPL-3.0-or-later
"""Rival designs: what might be made of the same board instead."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from gatepost.core.job.base import Called, Model, Name, Words
from gatepost.core.job.operation import Artwork, Id, Operation

MOST_DESIGNS = 12
MOST_APPROVALS = 60


class DesignSetup(Model):
    """What a design does in one setup: all but making its face flat."""

    setup: Id
    operations: Annotated[tuple[Operation, ...], Field(max_length=200)] = ()


class Approval(Model):
    """That somebody approved a design. design: its title; by, at: who, and when; mark: of the design as it was then; words: what was said with it."""

    design: Name
    by: Name
    at: Annotated[str, Field(max_length=40)] = ""
    mark: Annotated[str, Field(max_length=40)] = ""
    words: Words = ""


class Design(Model):
    """Artwork and what is done to it, kept beside the one that is worked on. why: what was wrong with it, where it was left for another."""

    id: Called = ""
    title: Name
    why: Words = ""
    artwork: Annotated[tuple[Artwork, ...], Field(max_length=400)] = ()
    setups: Annotated[tuple[DesignSetup, ...], Field(max_length=40)] = ()
