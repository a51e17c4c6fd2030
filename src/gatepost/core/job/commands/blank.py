# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of the board and of what is known of it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.blank import (
    Batch,
    Blank,
    Coat,
    Flaw,
    Piece,
    Reading,
    SawCut,
    Stock,
    Support,
    TopHeight,
    UnderGap,
    Wood,
)
from gatepost.core.job.commands.parts import Commands, item, swap
from gatepost.core.job.model import Job

COMMANDS = Commands()


MOST_HEIGHTS = 5000  # of one face


@COMMANDS("set blank", Blank)
def set_blank(job: Job, **values: Any) -> Job:
    """Its sizes, its shape and what is known of it. A round one is as long as it is wide."""
    if values.get("shape") == "outline" and len(values.get("outline", job.blank.outline)) < 3:
        corners = ((0.0, 0.0), (job.blank.length, 0.0), (job.blank.length, job.blank.width), (0.0, job.blank.width))
        values["outline"] = corners
    if values.get("shape", job.blank.shape) == job.blank.shape == "outline" and "outline" not in values:
        values |= _scaled(job, values)
    round_ = values.get("shape", job.blank.shape) == "round"
    if round_ and {"length", "width", "shape"} & set(values):
        across = values.get("length", values.get("width", min(job.blank.length, job.blank.width)))
        values |= {"length": across, "width": across}
    return changed(job, blank=changed(job.blank, **values))


def _scaled(job: Job, values: Mapping[str, Any]) -> dict[str, Any]:
    """An outline made as long or as wide as is asked."""
    b = job.blank
    times = tuple(float(values.get(name, old)) / old for name, old in (("length", b.length), ("width", b.width)))
    if times == (1.0, 1.0) or not all(0.0 < t < 1e4 for t in times):
        return {}
    return {"outline": tuple((x * times[0], y * times[1]) for x, y in b.outline)}


@COMMANDS("set outline", Blank)
def set_outline(job: Job, points: Any, doubt: float | None = None, **values: Any) -> Job:
    """The outline's corners, laid with their lower left at the blank's corner. doubt: its ±, mm."""
    corners, _ = _placed(points)
    size = corners.max(axis=0)
    outline = tuple((float(x), float(y)) for x, y in corners)
    doubt = job.blank.doubt if doubt is None else doubt
    shaped = {"shape": "outline", "outline": outline, "length": float(size[0]), "width": float(size[1])}
    return set_blank(job, **values, **shaped, doubt=doubt)


@COMMANDS("set corner")
def set_corner(job: Job, index: int, x: float, y: float) -> Job:
    """Move a corner of the outline; what is on the blank stays where it is on the wood."""
    item(job.blank.outline, index, "corner")
    return _outlined(job, swap(job.blank.outline, index, (x, y)))


@COMMANDS("add corner")
def add_corner(job: Job, index: int, x: float, y: float) -> Job:
    """One more corner, before the one of that number."""
    outline = job.blank.outline
    return _outlined(job, (*outline[:index], (x, y), *outline[index:]))


@COMMANDS("remove corner")
def remove_corner(job: Job, index: int) -> Job:
    """Take a corner away."""
    item(job.blank.outline, index, "corner")
    return _outlined(job, (*job.blank.outline[:index], *job.blank.outline[index + 1 :]))


def _placed(points: Any) -> tuple[Any, tuple[float, float]]:
    from gatepost.core.geometry.outline import placed  # with it comes shapely, which the first paint does without

    return placed(points)


def _outlined(job: Job, points: tuple[tuple[float, float], ...]) -> Job:
    """Another outline in the same coordinates: where its lower left has moved, everything on the blank is told anew."""
    corners, (dx, dy) = _placed(points)
    new = set_outline(job, corners)
    return new if (dx, dy) == (0.0, 0.0) else _reframed(new, dx, dy)


def _reframed(job: Job, dx: float, dy: float) -> Job:
    """All places on the blank shifted, and the blank laid the other way, so that nothing moves on the bed."""

    def there(items: tuple[Any, ...]) -> tuple[Any, ...]:
        return tuple(changed(i, x=i.x + dx, y=i.y + dy) for i in items)

    blank, photo = job.blank, job.blank.photo
    if photo is not None:
        x0, y0, x1, y1 = photo.box
        photo = changed(photo, box=(x0 + dx, y0 + dy, x1 + dx, y1 + dy))
    lists = {name: there(getattr(blank, name)) for name in ("calipers", "heights", "under", "supports", "flaws")}
    artwork = tuple(changed(a, x=a.x + dx, y=a.y + dy) if a.face == "front" else a for a in job.artwork)
    setups = []
    for setup in job.setups:
        zero = setup.zero
        touch = (
            {}
            if zero.touch_x is None or zero.touch_y is None
            else {"touch_x": zero.touch_x + dx, "touch_y": zero.touch_y + dy}
        )
        zero = changed(zero, x=zero.x + dx, y=zero.y + dy, **touch)
        setups.append(changed(setup, x=setup.x - dx, y=setup.y - dy, zero=zero, touches=there(setup.touches)))
    return changed(job, blank=changed(blank, photo=photo, **lists), artwork=artwork, setups=tuple(setups))


@COMMANDS("set wood", Wood)
def set_wood(job: Job, **values: Any) -> Job:
    """The wood's copy."""
    return changed(job, wood=changed(job.wood, **values))


def _list_of(field: str, what: str, blank: Any) -> None:
    """Commands that add, change and take away one of a list of things of the blank."""

    @COMMANDS(f"add {what}", type(blank))
    def add(job: Job, **values: Any) -> Job:
        return set_blank(job, **{field: (*getattr(job.blank, field), changed(blank, **values))})

    @COMMANDS(f"set {what}", type(blank))
    def put(job: Job, index: int, **values: Any) -> Job:
        items = getattr(job.blank, field)
        return set_blank(job, **{field: swap(items, index, changed(item(items, index, what), **values))})

    @COMMANDS(f"remove {what}")
    def remove(job: Job, index: int) -> Job:
        items = getattr(job.blank, field)
        item(items, index, what)
        return set_blank(job, **{field: (*items[:index], *items[index + 1 :])})

    add.__doc__ = f"One more {what} of the blank, after all others."
    put.__doc__ = f"Change a {what} of the blank; index: counted from 0."
    remove.__doc__ = f"Take a {what} of the blank away; index: counted from 0."


_list_of("calipers", "caliper", Reading(x=0, y=0, thickness=1))
_list_of("heights", "height", TopHeight(x=0, y=0, z=1))
_list_of("under", "gap", UnderGap(x=0, y=0, z=0))
_list_of("supports", "support", Support(x=0, y=0))
_list_of("flaws", "flaw", Flaw(x=0, y=0))
_list_of("coats", "coat", Coat())
_list_of("saw_cuts", "saw cut", SawCut(size="length", to=1))


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
