# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of the board and of what is known of it."""

from __future__ import annotations

import inspect
import math
from collections.abc import Mapping
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.blank import (
    STEMS,
    Batch,
    Blank,
    Coat,
    Flaw,
    Moisture,
    Piece,
    Reading,
    SawCut,
    Stock,
    Support,
    TopHeight,
    UnderGap,
    Wood,
)
from gatepost.core.job.commands.parts import Commands, one_of, swap, without
from gatepost.core.job.model import Job

COMMANDS = Commands()


MOST_HEIGHTS = 5000  # of one face
NEAR = 5.0  # mm within which a corner is meant that is told by its place
Place = tuple[float, float]


@COMMANDS("set blank", Blank)
def set_blank(job: Job, **values: Any) -> Job:
    """Its sizes, its shape and what is known of it. A round one is as long as it is wide."""
    if values.get("shape") == "outline" and len(values.get("outline", job.blank.outline)) < 3:
        corners = ((0.0, 0.0), (job.blank.length, 0.0), (job.blank.length, job.blank.width), (0.0, job.blank.width))
        values["outline"] = corners
    if values.get("shape", job.blank.shape) == job.blank.shape == "outline" and "outline" not in values:
        values |= _scaled(job, values)
    if "moisture_before" not in values:
        values |= _moisture_kept(job.blank, values)
    round_ = values.get("shape", job.blank.shape) == "round"
    if round_ and {"length", "width", "shape"} & set(values):
        across = values.get("length", values.get("width", min(job.blank.length, job.blank.width)))
        values |= {"length": across, "width": across}
    return changed(job, blank=changed(job.blank, **values))


def _moisture_kept(b: Blank, values: Mapping[str, Any]) -> dict[str, Any]:
    """The reading of moisture before, kept once another one is entered. A figure typed without its date wants one again; with the date of
    the one before it was a mistake mended, and that one is not kept."""
    taken = values.get("moisture_taken", b.moisture_taken)
    if "moisture_taken" in values and b.moisture_before and taken == b.moisture_before[-1].taken:
        return {"moisture_before": b.moisture_before[:-1]}
    if b.moisture is None or not b.moisture_taken:
        return {}
    other = "moisture" in values and values["moisture"] != b.moisture
    if not (other and "moisture_taken" not in values) and taken == b.moisture_taken:
        return {}
    kept = (*b.moisture_before, Moisture(percent=b.moisture, taken=b.moisture_taken))[-60:]
    return {"moisture_before": kept, "moisture_taken": values.get("moisture_taken", "")}


def _scaled(job: Job, values: Mapping[str, Any]) -> dict[str, Any]:
    """An outline made as long or as wide as is asked."""
    b = job.blank
    sizes = (("length", b.across[0]), ("width", b.across[1]))
    times = tuple(float(values.get(name, old)) / old for name, old in sizes)
    if times == (1.0, 1.0) or not all(0.0 < t < 1e4 for t in times):
        return {}
    outline = tuple((x * times[0], y * times[1]) for x, y in b.outline)
    return {"outline": outline, "length": round(b.length * times[0], 9), "width": round(b.width * times[1], 9)}


@COMMANDS("set outline", Blank)
def set_outline(job: Job, points: Any, doubt: float | None = None, **values: Any) -> Job:
    """The outline's corners, laid with their lower left at the blank's corner. doubt: its ±, mm."""
    from gatepost.core.geometry.outline import placed  # with it comes shapely, which the first paint does without

    corners, _ = placed(points)
    size = corners.max(axis=0)
    outline = tuple((float(x), float(y)) for x, y in corners)
    doubt = job.blank.doubt if doubt is None else doubt
    shaped = {"shape": "outline", "outline": outline, "length": float(size[0]), "width": float(size[1])}
    return set_blank(job, **values, **shaped, doubt=doubt)


@COMMANDS("set corner")
def set_corner(job: Job, at: Place, x: float, y: float) -> Job:
    """Move the corner of the outline that lies at a place, or nearest to it. Nothing else on the board moves."""
    corners = job.blank.outline
    i = _nearest(corners, at)
    return _outlined(job, (*corners[:i], (x, y), *corners[i + 1 :]))


@COMMANDS("add corner")
def add_corner(job: Job, x: float, y: float) -> Job:
    """One more corner, in the side of the outline that it lies nearest to."""
    corners = job.blank.outline
    if len(corners) < 3:
        raise OperatorError("The board has no outline yet to add a corner to.")
    sides = zip(corners, (*corners[1:], corners[0]))
    away = [_from_side((x, y), a, b) for a, b in sides]
    i = away.index(min(away)) + 1
    return _outlined(job, (*corners[:i], (x, y), *corners[i:]))


@COMMANDS("remove corner")
def remove_corner(job: Job, at: Place) -> Job:
    """Take away the corner that lies at a place, or nearest to it."""
    corners = job.blank.outline
    i = _nearest(corners, at)
    return _outlined(job, (*corners[:i], *corners[i + 1 :]))


def _outlined(job: Job, corners: tuple[Place, ...]) -> Job:
    """Another outline in the same frame. Raises OperatorError where it is none."""
    from gatepost.core.geometry.outline import sound

    return set_blank(job, outline=tuple((float(x), float(y)) for x, y in sound(corners)))


def _nearest(corners: tuple[tuple[float, float], ...], at: Place) -> int:
    """Which corner is meant. Raises OperatorError where none lies near."""
    away = [math.dist(c, at) for c in corners]
    if not away or min(away) > NEAR:
        raise OperatorError(f"The outline has no corner at X {at[0]:g}, Y {at[1]:g}.")
    return away.index(min(away))


def _from_side(place: Place, a: Place, b: Place) -> float:
    """How far a place lies from the side between two corners."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    along = ((place[0] - a[0]) * dx + (place[1] - a[1]) * dy) / max(dx * dx + dy * dy, 1e-18)
    t = min(max(along, 0.0), 1.0)
    return math.dist(place, (a[0] + t * dx, a[1] + t * dy))


@COMMANDS("set wood", Wood)
def set_wood(job: Job, **values: Any) -> Job:
    """The wood's copy."""
    return changed(job, wood=changed(job.wood, **values))


def _list_of(field: str, blank: Any) -> None:
    """Commands that add, change and take away one of a list of things of the blank; each is named by its id."""
    what = STEMS[field].replace("-", " ")
    word = what.replace(" ", "_")

    def add(job: Job, **values: Any) -> Job:
        return set_blank(job, **{field: (*getattr(job.blank, field), changed(blank, **values))})

    def put(job: Job, **values: Any) -> Job:
        items = getattr(job.blank, field)
        old = one_of(items, values.pop(word), what)
        return set_blank(job, **{field: swap(items, old, changed(old, **values))})

    def remove(job: Job, **values: Any) -> Job:
        items = getattr(job.blank, field)
        return set_blank(job, **{field: without(items, one_of(items, values[word], what))})

    named = inspect.Parameter(word, inspect.Parameter.POSITIONAL_OR_KEYWORD, annotation="str")
    job, others = list(inspect.signature(put).parameters.values())
    for verb, function, parameters in (
        ("add", add, (job, others)),
        ("set", put, (job, named, others)),
        ("remove", remove, (job, named)),
    ):
        function.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
        COMMANDS(f"{verb} {what}", *(() if verb == "remove" else (type(blank),)))(function)
    add.__doc__ = f"One more {what} of the blank, after all others."
    put.__doc__ = f"Change a {what} of the blank."
    remove.__doc__ = f"Take a {what} of the blank away."


_list_of("calipers", Reading(x=0, y=0, thickness=1))
_list_of("heights", TopHeight(x=0, y=0, z=1))
_list_of("under", UnderGap(x=0, y=0, z=0))
_list_of("supports", Support(x=0, y=0))
_list_of("flaws", Flaw(x=0, y=0))
_list_of("coats", Coat())
_list_of("saw_cuts", SawCut(size="length", to=1))


@COMMANDS("set stock", Stock)
def set_stock(job: Job, present: bool = True, **values: Any) -> Job:
    """The rough stock that the blank is sawn from; present false takes it away."""
    if not present:
        return set_blank(job, stock=None)
    b = job.blank
    old = b.stock or Stock(length=b.length + 20, width=b.width + 10, thickness=b.label_thickness)
    return set_blank(job, stock=changed(old, **values))


@COMMANDS("set batch", Batch)
def set_batch(job: Job, present: bool = True, **values: Any) -> Job:
    """How a batch of pieces is dealt with; present false takes it away."""
    return set_blank(job, batch=changed(job.blank.batch or Batch(), **values) if present else None)


@COMMANDS("set pieces")
def set_pieces(job: Job, rows: Any) -> Job:
    """All pieces of the batch at once, from rows of name, length, width, thickness."""
    blank = Piece(name="1", length=1, width=1, thickness=1)
    pieces = tuple(
        changed(blank, **dict(zip(("name", "length", "width", "thickness"), row, strict=True))) for row in rows
    )
    return set_batch(job, pieces=pieces)


@COMMANDS("set heights")
def set_heights(job: Job, face: str, rows: Any) -> Job:
    """All heights of one face at once, top or under, from rows of x, y, z."""
    if face not in ("top", "under"):
        raise OperatorError(f"There is no face “{face}”: it is top or under.")
    if len(rows) > MOST_HEIGHTS:
        raise OperatorError(
            f"{len(rows)} heights are more than a job keeps: {MOST_HEIGHTS} at most. Leave out some of them."
        )
    make: Any = TopHeight if face == "top" else UnderGap
    return set_blank(job, **{"heights" if face == "top" else "under": tuple(_row(make, row) for row in rows)})


def _row(make: Any, row: Any) -> Any:
    x, y, z = row
    return changed(make(x=0, y=0, z=1), x=x, y=y, z=z)
