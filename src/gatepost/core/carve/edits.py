# SPDX-License-Identifier: GPL-3.0-or-later
"""Values for the commands of lettering: a text and a face become outlines that the job keeps."""

from __future__ import annotations

import math
import re
from typing import Any

from gatepost.core.carve.areas import about
from gatepost.core.carve.depth import bit_radius, steepness
from gatepost.core.carve.faces import shape
from gatepost.core.carve.lettering import glyph_cut
from gatepost.core.carve.report import FLOOR
from gatepost.core.carve.setting import along, radius_of, rise_of
from gatepost.core.errors import OperatorError
from gatepost.core.job.carve import PLATE, CutOut, Glyph, Letters, Rounded, TextLine, VCut
from gatepost.core.job.model import Job
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.job.turning import face_size
from gatepost.core.profile import blunt, is_vee
from gatepost.core.tolerances import NARROW, OF_DEPTH
from gatepost.core.units import mm

PLACEHOLDER = "NEW LINE"  # until something is typed
TALL, LATER = 0.42, 0.5  # of its room: the first line's capitals; of the line before: the next one's
LEAST = 3.0  # mm
FULL = 0.97  # of its room that a line takes: some letters stand out past their width
SPARE = 0.5  # mm of wood more than is asked for under the deepest groove
COARSE = 8.0  # letters are looked at this large, and as coarsely: it is their stroke that counts


def outlines(text: str, face: str) -> dict[str, Any]:
    """Text, face, glyphs and width for ``add line`` and ``set line``. Raises OperatorError when the face lacks a sign."""
    shaped = shape(text, face)
    glyphs = tuple(Glyph(char=g.char, x=g.x, path=g.path) for g in shaped.glyphs)
    return {"text": text, "face": face, "glyphs": glyphs, "width": shaped.width}


def room_for(job: Job, setup: str, art: Artwork | None, margin: float) -> tuple[float, float]:
    """Length and width that lettering has in the middle of a face: of the plate that is cut out there, else of the board, a margin
    inside; mm."""
    here = job.setup(setup)
    plate = job.standing_on(here.operations, art)
    x, y = face_size(job.blank, here.up)
    across = (plate.width, plate.height) if plate is not None else (x, y)
    off = (abs(art.x - x / 2), abs(art.y - y / 2)) if art is not None and plate is None else (0.0, 0.0)
    return max(across[0] - 2.0 * (margin + off[0]), LEAST), max(across[1] - 2.0 * (margin + off[1]), LEAST)


def cut_at_most(job: Job, operation: Operation | None, glyphs: tuple[Glyph, ...]) -> float:
    """The height of capitals up to which the V-bit cuts these letters whole and leaves enough wood under them, mm."""
    number = getattr(operation.figures, "tool", VCut().tool) if operation is not None else VCut().tool
    tool = next((t for t in job.tools if t.number == number and is_vee(t)), None)
    if tool is None or not glyphs:
        return math.inf
    down = max(min(_thicknesses(job)) - FLOOR - SPARE, 0.5) / steepness(tool) + blunt(tool)
    widest = max(glyph_cut(g.path, COARSE, steepness(tool), COARSE).widest for g in glyphs) / COARSE
    return min(bit_radius(tool), down) / max(widest, 1e-9)


def _thicknesses(job: Job) -> list[float]:
    """As measured, or as the board's label says, mm."""
    return [r.thickness for r in job.blank.calipers if r.keep is not False] or [job.blank.label_thickness]


def _margin(operation: Operation | None) -> float:
    """What is wanted about the letters, mm: as an operation has it, else as a new one would."""
    return float(getattr(operation.figures if operation is not None else VCut(), "margin", VCut().margin))


def fitting_height(width: float, room: tuple[float, float], wanted: float, unit: str = "mm") -> float:
    """The height of capitals with which a line of a width (in capital heights) fits its room, no larger than wanted, mm: in whole mm, or
    eighths of an inch, where it is tall enough, else in halves of that."""
    height = min(wanted, FULL * room[0] / max(width, 1e-6))
    step = (25.4 / 8.0 if unit == "inch" else 1.0) * (1.0 if height > 12.0 else 0.5)
    return max(math.floor(height / step) * step, LEAST)


def _lettered(job: Job, operation: Operation | None) -> tuple[Artwork | None, Letters]:
    """The lettering that an operation works on."""
    on = operation.on if operation is not None else ()
    art = next((a for a in job.artwork if a.id in on and isinstance(a.figures, Letters)), None)
    return art, art.figures if art is not None and isinstance(art.figures, Letters) else Letters()


def new_line(job: Job, setup: str, operation: Operation | None = None) -> dict[str, Any]:
    """Values for ``add line``: a line to be typed over, in the middle, at a size that fits with those that are there."""
    art, letters = _lettered(job, operation)
    before = letters.lines[-1] if letters.lines else None
    face = before.face if before is not None else "Serif"
    made = outlines(PLACEHOLDER, face)
    room = room_for(job, setup, art, _margin(operation))
    used = sum(line.height for line in letters.lines)
    free = max(room[1] - used * (1.0 + letters.leading), LEAST)
    wanted = LATER * before.height if before is not None else TALL * room[1]
    wanted = min(wanted, free / (1.0 + letters.leading), cut_at_most(job, operation, made["glyphs"]))
    return {**made, "height": fitting_height(made["width"], room, wanted, job.unit)}


def new_lettering(job: Job, setup: str) -> dict[str, Any]:
    """Values for ``add lettering``: a line to be typed over where the face that is up has most room before or behind what is on it."""
    here = job.setup(setup)
    face = face_size(job.blank, here.up)
    wide, high = room_for(job, setup, None, VCut().margin)
    made = outlines(PLACEHOLDER, "Serif")
    taken = about([a for a in job.artwork if a.face == here.up and not isinstance(a.figures, Rounded)], 0.0)
    low, top = (face[1] - high) / 2.0, (face[1] + high) / 2.0
    bands = [(low, top)] if taken is None else [(low, taken.bounds[1]), (taken.bounds[3], top)]
    a, b = max(bands, key=lambda band: band[1] - band[0])
    height = fitting_height(
        made["width"], (wide, b - a), min(TALL * max(b - a, 0.0), cut_at_most(job, None, made["glyphs"])), job.unit
    )
    return {**made, "setup": setup, "height": height, "x": face[0] / 2.0, "y": min(max((a + b) / 2.0, 0.0), face[1])}


def new_plate(job: Job, setup: str) -> dict[str, Any]:
    """Values for ``set plate``: a plate in the middle of the face that is up, about all that is on it with a margin, as far as the board holds it
    with the slot beside it."""
    here = job.setup(setup)
    sides = face_size(job.blank, here.up)
    art = about([a for a in job.artwork if a.face == here.up and not isinstance(a.figures, Rounded)], 0.0)
    bounds = art.bounds if art is not None else (math.inf, math.inf, -math.inf, -math.inf)
    out = CutOut()
    slot = next((t.diameter for t in job.tools if t.number == out.tool), 0.0) + out.allowance
    step = 25.4 / 8.0 if job.unit == "inch" else 1.0
    strip = max(NARROW, max(_thicknesses(job)) / OF_DEPTH) + step
    size: list[float] = []
    for i, side in enumerate(sides):
        bare = 2.0 * max(side / 2.0 - bounds[i], bounds[i + 2] - side / 2.0)
        wanted = min(bare + 2.0 * VCut().margin, side - 2.0 * (slot + strip))  # no strip beside it that breaks off
        wanted = max(wanted, min(bare + 2.0 * step, side - 2.0 * (slot + step)))  # but all of it on the plate
        size.append(PLATE * side if wanted <= PLATE * side else math.floor(wanted / step + 1e-6) * step)
    width, height = size
    return {"setup": setup, "width": width, "height": height}


def typed(job: Job, setup: str, operation: Operation, line: TextLine, text: str) -> dict[str, Any]:
    """Values for ``set line`` for a text that was typed: what takes the place of a line to be typed over is brought to a size that fits."""
    made = {**outlines(text, line.face), **_kept_kerns(line, text)}
    if line.text != PLACEHOLDER:
        return made
    art, letters = _lettered(job, operation)
    room = room_for(job, setup, art, _margin(operation))
    others = [
        a
        for a in job.artwork
        if art is None or (a.id != art.id and a.face == art.face and not isinstance(a.figures, Rounded))
    ]
    alone = len(letters.lines) == 1 and not others
    wanted = min(TALL * room[1] if alone else line.height, cut_at_most(job, operation, made["glyphs"]))
    return {**made, "height": fitting_height(made["width"], room, wanted, job.unit)}


# -- how a line is set ---------------------------------------------------------------------------------------------------


def length_of(line: TextLine) -> float:
    """How long a line is along its feet, mm."""
    return along(line)[1]


def rise(line: TextLine) -> float:
    """What the arc of a line rises by, mm."""
    return rise_of(length_of(line), line.radius)


def risen(line: TextLine, wanted: float) -> dict[str, Any]:
    """Values for ``set line`` for an arc that rises by so much. Raises OperatorError where none of this length does."""
    length = length_of(line)
    if not 0.0 < wanted <= 0.36 * length:
        raise OperatorError(
            f"An arc {mm(length, 0)} long rises by {mm(0.36 * length, 0)} at most. Type less, or make the lettering longer."
        )
    return {"radius": round(radius_of(length, wanted), 6)}


def bent(line: TextLine, run: str) -> dict[str, Any]:
    """Values for ``set line`` for another run: an arc that is new rises by a sixth of the line's length, in whole mm."""
    new = run in ("over", "under") and line.run not in ("over", "under")
    up = max(round(length_of(line) / 6.0), 1.0)
    return {"run": run, **({"radius": round(radius_of(length_of(line), up), 6)} if new else {})}


_PAIR = re.compile(r"(\S\S)\s+([+-]?\d*[.,]?\d+)")


def kerned(line: TextLine, words: str) -> dict[str, Any]:
    """Values for ``set line`` for spacing by hand, typed as pairs of letters and what comes between them, × height: “AV −0.05, LT 0.1”. Raises
    OperatorError."""
    kerns = [0.0] * len(line.text)
    left = words.replace("−", "-").strip()
    for pair, amount in _PAIR.findall(left):
        places = [i for i in range(len(line.text) - 1) if line.text[i : i + 2] == pair]
        if not places:
            raise OperatorError(f"“{line.text}” has no {pair[0]} with {pair[1]} after it.")
        for i in places:
            kerns[i] = float(amount.replace(",", "."))
    if re.sub(r"[\s,;]", "", _PAIR.sub("", left)):
        raise OperatorError("Type pairs of letters with what comes between them, × height, as in AV -0.05, LT 0.1.")
    return {"kerns": tuple(kerns) if any(kerns) else ()}


def kerned_words(line: TextLine) -> str:
    """Spacing by hand, as it is typed."""
    pairs = {line.text[i : i + 2]: k for i, k in enumerate(line.kerns[: max(len(line.text) - 1, 0)]) if k}
    return ", ".join(f"{pair} {k:g}" for pair, k in pairs.items())


def _kept_kerns(line: TextLine, text: str) -> dict[str, Any]:
    """Spacing by hand for another text: the pairs that it has too keep theirs."""
    if not line.kerns:
        return {}
    pairs = {line.text[i : i + 2]: k for i, k in enumerate(line.kerns[: max(len(line.text) - 1, 0)]) if k}
    kerns = tuple(pairs.get(text[i : i + 2], 0.0) for i in range(len(text)))
    return {"kerns": kerns if any(kerns) else ()}
