# SPDX-License-Identifier: GPL-3.0-or-later
"""Outlines of blanks out of files: drawings and overhead photos; for the window's worker and the command line."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from gatepost.core.blank.corners import read_corners
from gatepost.core.errors import OperatorError
from gatepost.core.geometry.drawn import read_drawing, thinned
from gatepost.core.geometry.outline import placed
from gatepost.core.job.base import changed
from gatepost.core.job.blank import Photo
from gatepost.core.job.file import picture_name
from gatepost.core.reading import read_whole
from gatepost.core.units import mm, spell
from gatepost.core.whichunit import WhichUnit, of_drawing

if TYPE_CHECKING:
    from gatepost.core.job.model import Job
    from gatepost.core.plan.photographed import FirstFit

CORNERS = 240  # of an outline out of a file
UNSURE = 2.0  # mm that an edge may be unsure by before it is told
FINE = 0.4  # mm that an outline with fewer corners may lie beside what was traced
LARGEST_PICTURE = 64 * 2**20  # bytes
DRAWINGS = (".svg", ".dxf")


@dataclass(frozen=True)
class FoundOutline:
    """An outline. values: of the command “set outline”; pictures: that go with it; said: what there is to say; seen: the
    outline in the photo, px; asked: which unit it is in, where the file does not say; unsure_at: where its
    edge is least sure, px."""

    values: dict[str, Any]
    said: tuple[str, ...] = ()
    pictures: dict[str, bytes] = field(default_factory=dict)
    seen: list[list[float]] = field(default_factory=list)
    asked: WhichUnit | None = None
    unsure_at: tuple[float, float] | None = None

    def times(self, by: float) -> FoundOutline:
        """The same, so many times as large."""
        points = [[x * by, y * by] for x, y in self.values["points"]]
        long, wide = (max(v) - min(v) for v in zip(*points))
        said = f"Outline of {len(points)} corners: {mm(long)} × {mm(wide)}."
        return replace(self, values={**self.values, "points": points}, said=(said,), asked=None)


def read(path: Path) -> bytes:
    """A drawing's or photo's bytes. Raises UnusableFile."""
    return read_whole(path, LARGEST_PICTURE)


def from_drawing(path: Path) -> FoundOutline:
    """The largest closed line of an SVG or DXF file. Raises OperatorError."""
    drawn = read_drawing(read(path), path.name)
    corners, _ = placed(thinned(drawn.outlines[0], CORNERS, 0.02))
    size = corners.max(axis=0)
    said = [f"Outline of {len(corners)} corners from {path.name}: {mm(float(size[0]))} × {mm(float(size[1]))}."]
    if len(drawn.outlines) > 1:
        said.append(f"It has {len(drawn.outlines)} closed lines; the largest is taken.")
    if drawn.note:
        said.append(drawn.note)
    asked = of_drawing(path.name, size.tolist(), drawn.taken, drawn.pixels) if drawn.taken is not None else None
    return FoundOutline({"points": corners.tolist(), "doubt": 0.0, "photo": None}, tuple(said), asked=asked)


def from_table(text: str, name: str, bare: str = "mm") -> FoundOutline:
    """An outline out of a table of corners or of widths at stations. Raises OperatorError."""
    points = read_corners(text, name, bare)
    corners, _ = placed(points)
    size = corners.max(axis=0)
    said = f"Outline of {len(corners)} corners from {name}: {mm(float(size[0]))} × {mm(float(size[1]))}."
    return FoundOutline({"points": corners.tolist(), "doubt": 0.0, "photo": None}, (said,))


def reduced(data: bytes, name: str) -> tuple[bytes, float]:
    """A photo no larger than is worked with, as a file, and by how much it was made smaller. Raises OperatorError."""
    import cv2

    from gatepost.core.blank.trace import WORKED, decoded

    image = decoded(data, name)
    scale = min(1.0, WORKED / max(image.shape[:2]))
    if scale == 1.0 and data[:2] == b"\xff\xd8":
        return data, 1.0
    small = cv2.resize(image, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1.0 else image
    _, coded = cv2.imencode(".jpg", small, [int(cv2.IMWRITE_JPEG_QUALITY), 88])
    return coded.tobytes(), scale


def from_photo(data: bytes, name: str, values: dict[str, Any]) -> FoundOutline:
    """The outline traced in an overhead photo, its ± and the photo squared up. values: of the Photo, marks in px.

    Raises OperatorError.
    """
    from gatepost.core.blank import photo as core
    from gatepost.core.blank.trace import clicked, squared, traced

    blank = Photo(file="photo-000000000000.jpg", squared="photo-000000000000-squared.jpg")
    photo = changed(blank, **values)
    core.to_plane(np.array(photo.marks, dtype=np.float64).reshape(-1, 2), photo.across, photo.up)
    seen = clicked(data, name, photo.by_hand) if photo.by_hand else traced(data, name, photo.sensitivity)
    done = core.measured(photo, seen.size, seen.outline, unsure=seen.unsure)
    corners, (dx, dy) = placed(thinned(done.outline, CORNERS, FINE))
    flat = squared(data, name, done.matrix, done.outline)
    x0, y0, x1, y1 = flat.box
    kept, picture = picture_name(data), picture_name(flat.data, squared=True)
    photo = changed(photo, file=kept, squared=picture, box=(x0 + dx, y0 + dy, x1 + dx, y1 + dy))
    size = corners.max(axis=0)
    said = [f"Traced: {mm(float(size[0]))} × {mm(float(size[1]))}, {len(corners)} corners, ± {mm(done.doubt + FINE)}."]
    sure = core.mapped(done.matrix, np.array([seen.at, (seen.at[0] + seen.unsure, seen.at[1])]))
    unsure = float(np.linalg.norm(sure[1] - sure[0]))
    if unsure > UNSURE:
        said.append(
            f"The edge is unsure by {mm(unsure, 1)}, most of all at the ring: a shadow, or a board that hardly stands out. Slide how much counts as the board, or click the edge by hand."
        )
    if not seen.coloured:
        said.append(
            "By colour the board can't be told from what it lies on: a shadow beside it would be taken for board. Look along the line, or click the edge by hand."
        )
    if done.check is not None:
        said.append(core.check_finding(photo, done.check, done.doubt).message)
    if core.side_seen(photo, done.outline, done.under) > 0.5:
        said.append(
            "The lens saw some of the board's upright side, which may be taken for its edge: photograph it from over its middle."
        )
    values = {"points": corners.tolist(), "doubt": round(done.doubt + FINE, 2), "photo": photo}
    return FoundOutline(
        values,
        tuple(said),
        {kept: data, picture: flat.data},
        seen.outline[::3].tolist() if not photo.by_hand else seen.outline.tolist(),
        unsure_at=seen.at if unsure > UNSURE else None,
    )


def first_fit(
    job: Job, setup: str, data: bytes, name: str, values: dict[str, Any], clicked: Sequence[tuple[float, float]], at: tuple[float, float, float]
) -> FirstFit:  # fmt: skip
    """Where a piece lies by a photo of it on the bed. values: of the Photo; clicked: its marks in their order, px; at: the scale's first mark on the bed, and degrees that its second lies at from there. Raises OperatorError."""
    from gatepost.core.blank.trace import decoded
    from gatepost.core.plan.photographed import ScaleOnBed
    from gatepost.core.plan.photographed import first_fit as fit

    photo = changed(Photo(file="photo-000000000000.jpg", squared="photo-000000000000-squared.jpg"), **values)
    rows, columns = decoded(data, name).shape[:2]
    return fit(job, setup, photo, (columns, rows), np.array(clicked, np.float64).reshape(-1, 2), ScaleOnBed(*at))


def outline(
    path: Path, marks: Sequence[str], more: dict[str, float], job: Path | None, out: Path | None, as_json: bool,
    say: Callable[[str], None], show: Callable[[Any], None],
) -> int:  # fmt: skip
    """The command line's outline: shown, or put into a job. Raises OperatorError."""
    from dataclasses import replace

    from gatepost.core.job import commands
    from gatepost.core.job.file import load, locked, save

    if path.suffix.lower() in DRAWINGS:
        found = from_drawing(path)
    else:
        data, scale = reduced(read(path), path.name)
        places = tuple((u * scale, v * scale) for u, v in map(_place, marks))
        found = from_photo(data, path.name, {**more, "marks": places})
    for words in found.said:
        say(spell(words, "mm"))
    if job is not None:
        with locked(out or job):
            document = load(job)
            made = commands.run(document.job, "set outline", found.values)
            save(replace(document, job=made, pictures={**document.pictures, **found.pictures}), out or job)
    points = found.values["points"]
    if as_json:
        show({"outline": points, "doubt": found.values["doubt"], "said": [spell(w, "mm") for w in found.said]})
    elif job is None:
        for x, y in points:
            print(f"{x:.3f},{y:.3f}")
    return 0


def _place(words: str) -> tuple[float, float]:
    u, comma, v = words.partition(",")
    try:
        return float(u), float(v)
    except ValueError:
        raise OperatorError(
            f"“{words}” is not a mark. Marks are U,V in px from the photo's top left, such as 120,900."
        ) from None
