# SPDX-License-Identifier: GPL-3.0-or-later
"""The same part several times over: counted, the first one measured before the second is cut, and what drifts over the batch seen.

A drift is a trend over parts: Kendall's rank correlation between a part's number and what was measured of it (Kendall, A new measure of rank correlation, 1938), which one odd part hardly
changes, and its slope by Theil and Sen (the median of the slopes between all pairs; Sen, 1968).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gatepost.core.findings import Figure, Finding, Level, Table
from gatepost.core.job.repeats import PartSize, Repeats
from gatepost.core.register.kind import STAGE, ComingTold
from gatepost.core.units import mm

LEAST_PARTS = 5  # of which a trend can be told from luck
LUCK = 0.02  # chance that as much order is luck, under which it is told
ALIKE = 1.0 / 3.0  # of their mean that they differ by where they are all alike
LEAST_ALIKE = 0.05  # mm that each is off by at least
LEAST_DRIFT = 0.02  # mm over the batch that calipers tell


@dataclass(frozen=True)
class PartCut:
    """A part as the journal has it. number: from 1; cut: whether all that makes it was run to its end; at: when the last did; seen: how far its marks, or old holes in their rings, lay right of where they should and
    behind it, in their middle, mm, nothing where none were looked at."""

    number: int
    cut: bool
    at: str = ""
    seen: tuple[float, float] | None = None


@dataclass(frozen=True)
class Drift:
    """A trend over a batch. each: mm a part; all: over those that were measured; chance: that as much order is luck; out: the part at which it leaves what is allowed, nothing where it does not."""

    each: float
    all: float
    chance: float
    out: int | None = None


def drift(
    parts: Sequence[int], values: Sequence[float], nominal: float | None = None, within: float = 0.0
) -> Drift | None:
    """What drifts over some parts, in their order; nothing where it may be luck, or is less than calipers tell. nominal, within: as a value should be."""
    if len(parts) < LEAST_PARTS:
        return None
    from scipy.stats import kendalltau, theilslopes

    if float(np.ptp(values)) < LEAST_DRIFT:
        return None
    chance = float(kendalltau(parts, values).pvalue)
    slope, middle, _low, _high = theilslopes(values, parts)
    over = float(slope) * (parts[-1] - parts[0])
    if not chance < LUCK or abs(over) < LEAST_DRIFT:
        return None
    out = None
    if nominal is not None and slope:
        edge = nominal + math.copysign(within, slope)
        out = math.ceil((edge - float(middle)) / float(slope))
    return Drift(float(slope), over, chance, out)


def told(repeats: Repeats | None, parts: Sequence[PartCut]) -> ComingTold:
    """How many there are, what was measured of each, and what is to be done before the next."""
    if repeats is None or (repeats.parts == 1 and not repeats.sizes):
        return ComingTold()
    said: list[Finding] = []
    done = sum(p.cut for p in parts)
    begun = max((p.number for p in parts), default=1)
    first = repeats.measured(1)
    lacking = [s for s in repeats.sizes if s.id not in first]
    if repeats.parts > 1:
        counted = f"{done} of {repeats.parts} parts {'is' if done == 1 else 'are'} cut."
        said.append(Finding("register.parts-count", Level.NOTE, STAGE, counted))
    if repeats.parts > 1 and not repeats.sizes:
        message = "Nothing is measured of these parts: name a size or two, so that the first says whether the others will fit."
        said.append(Finding("register.parts-unmeasured", Level.CARE, STAGE, message))
    off = [s for s in repeats.sizes if s.id in first and abs(first[s.id] - s.nominal) > s.within + 1e-9]
    if off:
        message = f"The first part's {_title(off[0])} is {mm(first[off[0].id], 2)}, and {mm(off[0].nominal, 2)} ± {mm(off[0].within, 2)} is wanted. Mend what makes it so before the next is cut."
        said.append(Finding("register.first-part-off", Level.STOP, STAGE, message, about=off[0].id))
    elif lacking and repeats.parts > 1:
        names = " and ".join(_title(s) for s in lacking)
        level = Level.STOP if begun > 1 else Level.NOTE
        message = f"The first part is measured before the second is cut: {names}. Type it on this page."
        said.append(Finding("register.first-part", level, STAGE, message))
    said += _alike(repeats, first)
    figures: list[Figure] = [Figure("Parts cut", f"{done} of {repeats.parts}", "words")] if repeats.parts > 1 else []
    for s in repeats.sizes:
        said += _size(s, repeats)
    said += _seen(parts)
    return ComingTold(tuple(figures), tuple(said), tuple(_table(repeats, parts)))


def _alike(repeats: Repeats, first: Mapping[str, float]) -> list[Finding]:
    """What sizes that are all off say together: by as much each, whatever their size, is an edge; by as much of each is a scale."""
    off = [(s.nominal, first[s.id] - s.nominal, s) for s in repeats.sizes if s.id in first]
    if len(off) < 2 or any(abs(by) < LEAST_ALIKE for _, by, _ in off) or len({by > 0 for _, by, _ in off}) > 1:
        return []
    by, share = np.array([b for _, b, _ in off]), np.array([b / n for n, b, _ in off])
    edge, scale = (float(np.ptp(v) / abs(v.mean())) for v in (by, share))
    way = "larger" if by[0] > 0 else "smaller"
    mean = abs(float(by.mean()))
    if edge < ALIKE and edge < scale:
        message = f"All that was measured of the first part is {mm(mean, 2)} {way} than drawn, whatever its size: {mm(mean / 2.0, 2)} on every side. A cutter that is otherwise thick than said does that, or a chamfer that was measured over; a shrinking board would take more of a longer side."
        return [Finding("register.parts-alike", Level.CARE, STAGE, message)]
    if scale < ALIKE:
        message = f"All that was measured of the first part is {100.0 * abs(float(share.mean())):.2f} % {way} than drawn: a scale, as of wood that dried, or of an axis that counts otherwise; not an edge, which takes as much of every side."
        return [Finding("register.parts-scaled", Level.CARE, STAGE, message)]
    return []


def _title(s: PartSize) -> str:
    return s.title or s.id


def _size(s: PartSize, repeats: Repeats) -> list[Finding]:
    """Parts whose size is off, and what drifts."""
    rows = [(r.part, r.values[s.id]) for r in repeats.rows if s.id in r.values]
    said = [
        Finding(
            "register.part-off", Level.CARE, STAGE,
            f"Part {part}: {_title(s)} is {mm(v, 2)}, and {mm(s.nominal, 2)} ± {mm(s.within, 2)} is wanted.", about=f"{s.id} of {part}",
        )
        for part, v in rows
        if part > 1 and abs(v - s.nominal) > s.within + 1e-9
    ]  # fmt: skip
    found = drift([p for p, _ in rows], [v for _, v in rows], s.nominal, s.within)
    if found is None:
        return said
    last = rows[-1][0]
    leaves = (
        f" At part {found.out} it would leave ± {mm(s.within, 2)}."
        if found.out is not None and last < found.out <= repeats.parts
        else ""
    )
    called = _title(s)[:1].upper() + _title(s)[1:]
    message = f"{called} drifts: {_grows(found)} over {len(rows)} parts, {mm(abs(found.each), 3)} a part.{leaves} A worn bit, a nest that fills with chips, or wood that moves does that: one odd part does not."
    return [*said, Finding("register.part-drift", Level.CARE, STAGE, message, about=s.id)]


def _grows(found: Drift) -> str:
    return f"it {'grows' if found.all > 0 else 'shrinks'} by {mm(abs(found.all), 2)}"


def _seen(parts: Sequence[PartCut]) -> list[Finding]:
    """Where parts lie further and further beside."""
    seen = [p for p in parts if p.seen is not None]
    said = []
    for k, (more, less) in enumerate((("right", "left"), ("back", "front"))):
        found = drift([p.number for p in seen], [p.seen[k] for p in seen if p.seen is not None])
        if found is not None:
            message = f"The parts lie further and further to the {more if found.all > 0 else less}: {mm(abs(found.all), 2)} over {len(seen)} of them, by what was seen over their marks. Clean the nest, look at its stop, and home."
            said.append(Finding("register.place-drift", Level.CARE, STAGE, message, about=more))
    return said


def _table(repeats: Repeats, parts: Sequence[PartCut]) -> list[Table]:
    known = {p.number: p for p in parts}
    numbers = sorted({p.number for p in parts if p.cut or p.seen is not None} | {r.part for r in repeats.rows})
    if not numbers:
        return []
    anything = any(p.seen is not None for p in parts)
    rows: list[tuple[str, ...]] = [
        ("Part", "cut", *(("seen off",) if anything else ()), *(_title(s) for s in repeats.sizes))
    ]
    for n in numbers:
        p, values = known.get(n), repeats.measured(n)
        when = p.at[5:16].replace("T", " ") if p is not None and p.cut else "–"
        seen = (mm(math.hypot(*p.seen), 2) if p is not None and p.seen is not None else "–",) if anything else ()
        rows.append((str(n), when, *seen, *(mm(values[s.id], 2) if s.id in values else "–" for s in repeats.sizes)))
    return [("Parts", tuple(rows))]
