# SPDX-License-Identifier: GPL-3.0-or-later
"""What comes into the back of the wood, as it lies under the face that is looked at: screws, and a recess to hang it by."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from gatepost.core.job.base import Amount, Model, Size


class ScrewsFigures(Model):
    """A row of screws from behind, about its middle. across: of their thread; long: how far they go into the wood; pitch: from one to the next, mm."""

    across: Size = 4.0
    number: Annotated[int, Field(ge=1, le=40)] = 2
    pitch: Size = 100.0
    long: Size = 12.0


class HangerFigures(Model):
    """An undercut slot in the back that a screw's head hangs in, upright about its middle. slot: its length and open: its width at the back; undercut:
    how much farther it reaches on every side inside; deep: to its floor; head: how high the undercut is from there, mm."""

    slot: Size = 30.0
    open: Size = 5.0
    undercut: Amount = 2.5
    deep: Size = 10.0
    head: Size = 4.0
