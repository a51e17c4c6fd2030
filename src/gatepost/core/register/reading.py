# SPDX-License-Identifier: GPL-3.0-or-later
"""How the letters of each face are read once the piece hangs or stands: where their tops point, and where a line goes on.

A sign that hangs shows front and back with its top edge up. A post stands on one of its ends: letters across it are upright then, and lines along it are
read upwards or downwards, all its faces alike.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from gatepost.core.findings import Finding, Fix, Level, Table
from gatepost.core.job.model import Job, Setup
from gatepost.core.job.operation import Artwork
from gatepost.core.job.turning import FACES, face_reads

STAGE = "register"
STEEP = 0.5  # of a direction's length that must go along an end, for that to be told
Vector = tuple[float, float, float]


@dataclass(frozen=True)
class FaceRead:
    """The letters of a face. up, on: where their tops point and where a line goes on, in the board's own directions."""

    setup: Setup
    art: Artwork
    up: Vector
    on: Vector

    @property
    def name(self) -> str:
        """As people are told it."""
        return self.setup.title or f"the {FACES[self.art.face]}"


def reads(job: Job, setups: Sequence[Setup]) -> list[FaceRead]:
    """Every lettering that is cut, in the order of the setups."""
    found = []
    for setup in setups:
        ids = {i for o in setup.operations for i in o.on}
        for art in job.artwork:
            if art.id in ids and art.face == setup.up and getattr(art.figures, "lines", None):
                x, y, _ = face_reads(art.face)
                c, s = math.cos(math.radians(art.turn)), math.sin(math.radians(art.turn))
                ahead = -1.0 if art.mirror else 1.0  # what is mirrored is read the other way
                on = tuple(ahead * (c * a + s * b) for a, b in zip(x, y))
                up = tuple(c * b - s * a for a, b in zip(x, y))
                found.append(FaceRead(setup, art, up, on))  # type: ignore[arg-type]
    return found


def reading(job: Job, setups: Sequence[Setup]) -> tuple[list[Finding], list[Table]]:
    """How the faces are read, and those that are read the other way round than the first."""
    found = reads(job, setups)
    if len({f.art.face for f in found}) < 2:
        return [], []
    rows: list[tuple[str, ...]] = [("Face", "tops towards", "read towards", "grain")]
    rows += [(f.setup.title or FACES[f.art.face], _towards(f.up), _towards(f.on), _grain(job, f)) for f in found]
    return _otherwise(found), [("How they are read", tuple(rows))]


def _towards(way: Vector) -> str:
    """The face that a direction points to the most."""
    axis = max(range(3), key=lambda k: abs(way[k]))
    names = (("left", "right"), ("bottom", "top"), ("back", "front"))
    return FACES[names[axis][way[axis] > 0.0]]  # type: ignore[index]


def _grain(job: Job, f: FaceRead) -> str:
    """How letters lie to the grain."""
    turn = math.radians(job.blank.grain)
    along = abs(f.on[0] * math.cos(turn) + f.on[1] * math.sin(turn))
    out = face_reads(f.art.face)[2]
    if abs(out[0] * math.cos(turn) + out[1] * math.sin(turn)) > math.cos(math.radians(45.0)):
        return "end grain"
    return "along it" if along > math.cos(math.radians(45.0)) else "across it"


def _otherwise(found: Sequence[FaceRead]) -> list[Finding]:
    """Faces that stand on their heads, or are read the other way, where the first one does not."""
    said = []
    hangs = {f.art.face for f in found} <= {"front", "back"}
    for f in found[1:]:
        first = next((g for g in found if _alike(g, f, hangs) is not None), f)
        if first is f or _alike(first, f, hangs):
            continue
        if hangs:
            message = (
                f"{f.name} stands on its head when {first.name} hangs upright: its tops point to the {_towards(f.up)}."
            )
        elif abs(f.up[0]) > STEEP:
            message = f"{f.name} stands on its head when the piece stands so that {first.name} is upright."
        else:
            message = (
                f"When the piece stands on an end so that {first.name} is read upwards, {f.name} is read downwards."
            )
        message = message[:1].upper() + message[1:]
        alone = sum(g.art.face == f.art.face for g in found) == 1
        turn = math.remainder(f.art.turn + 180.0, 360.0)
        fix = (Fix("set art", {"art": f.art.id, "turn": turn}, f"Turn {f.name} round"),) if alone else ()
        said.append(
            Finding("register.reads-otherwise", Level.CARE, STAGE, message, f.setup.id, fixes=fix, about=f.art.id)
        )
    return said


def _alike(one: FaceRead, other: FaceRead, hangs: bool) -> bool | None:
    """Whether two are read the same way round; nothing where that can't be said of them."""
    if one.art.face == other.art.face:
        return None
    if hangs:
        dot = sum(a * b for a, b in zip(one.up, other.up))
        return dot > 0.0 if abs(dot) > STEEP else None
    for a, b in ((one.up[0], other.up[0]), (one.on[0], other.on[0])):
        if min(abs(a), abs(b)) > STEEP:
            return a * b > 0.0
    return None
