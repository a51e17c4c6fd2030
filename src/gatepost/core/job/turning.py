# SPDX-License-Identifier: GPL-3.0-or-later
"""The board turned over: where its places, its holds and it itself come to lie.

Turned about X, its front edge comes to the back: x stays, y becomes width - y. Turned about Y, its left end comes to the
right.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from gatepost.core.job.base import changed
from gatepost.core.job.blank import Blank, Flaw, TopHeight
from gatepost.core.job.hold import Hold
from gatepost.core.job.model import Job, Setup


def other_face(job: Job) -> Setup | None:
    """The setup of the second face, where there is one."""
    return next((s for s in job.setups if s.up == "back"), None)


def there(blank: Blank, turn: str, x: float, y: float) -> tuple[float, float]:
    """A place of the board in its coordinates once it is turned; the same again turns it back."""
    return (x, blank.width - y) if turn == "about X" else (blank.length - x, y)


def turned_hold(hold: Hold, old: Setup, blank: Blank, turn: str) -> Hold:
    """A hold mirrored with the board, so that it bears on the same edge."""
    x, y = there(blank, turn, hold.x - old.x, hold.y - old.y)
    heading = -hold.heading if turn == "about X" else 180.0 - hold.heading
    return changed(hold, x=old.x + x, y=old.y + y, heading=math.remainder(heading, 360.0))


def _turned_flaw(flaw: Flaw, blank: Blank, turn: str) -> Flaw:
    """A flaw where it comes to lie; what was seen on the face that is down now is on the one that is up."""
    x, y = there(blank, turn, flaw.x, flaw.y)
    return changed(flaw, x=x, y=y, face="back" if flaw.face == "front" else "front")


def turned_blank(blank: Blank, turn: str, heights: Sequence[TopHeight]) -> Blank:
    """The board as it lies on its other face."""
    outline = tuple(there(blank, turn, x, y) for x, y in reversed(blank.outline))
    return blank.model_copy(
        update={
            "outline": outline,
            "heights": tuple(heights),
            "under": (),
            "supports": (),
            "grain": -blank.grain,
            "flaws": tuple(_turned_flaw(f, blank, turn) for f in blank.flaws),
            "photo": None,
        }
    )
