# SPDX-License-Identifier: GPL-3.0-or-later
"""What the cutter will leave, where, and the minutes that it takes by hand."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

Spots = tuple[tuple[float, float], ...]  # on the bed, mm
FUZZ = {"soft": 0.5, "medium": 0.25, "hard": 0.1}  # minutes of a letter
TAB, SKIN, CORNER, RELIEF, SEAM = (
    1.5,
    0.8,
    2.0,
    700.0,
    0.7,
)  # minutes of a tab; of 100 mm of skin; of a corner; of a m² of relief; of 100 mm of seam
FREEING = "Score the line on the sign's side first, and pare from the sign towards the waste: what frays is the waste."
ACROSS = "Against a flat block, along the grain where there is any; look at it in light from the side."
RULE = "minutes as this shop's rules have them until its own record says otherwise"


@dataclass(frozen=True)
class LeftOver:
    """Something that stays to be done by hand. what: in words; minutes: by a shop rule; where: places on the bed of its setup; setup: its name; drawn: whether each place is shown: not where it is all of the lettering; how: it is done, so that the sign suffers least."""

    what: str
    minutes: float
    setup: str = ""
    where: Spots = ()
    drawn: bool = True
    how: str = ""


def letters_left(count: int, wood: str, setup: str, where: Spots = ()) -> LeftOver:
    """Fuzz that stays where strokes run across the grain. wood: soft, medium or hard."""
    return LeftOver(f"fuzz across the grain in {count} letters", count * FUZZ[wood], setup, where, False)


def tabs_left(where: Spots, high: float, setup: str) -> LeftOver:
    """Tabs to be pared off. high: mm."""
    return LeftOver(
        f"{len(where)} tabs, {mm(high)} high, to be pared flush", len(where) * TAB, setup, where, how=FREEING
    )


def skin_left(round_: float, thick: float, setup: str) -> LeftOver:
    """A skin to be cut through and pared. round_: mm of its edge."""
    return LeftOver(
        f"a skin {mm(thick, 2)} thick, {mm(round_, 0)} round, to be cut through and pared",
        round_ / 100.0 * SKIN,
        setup,
        how=FREEING,
    )


def corners_left(count: int, radius: float, setup: str, where: Spots = ()) -> LeftOver:
    """Inner corners that a cutter does not get into, for the chisel."""
    return LeftOver(
        f"{count} inner corners of radius {mm(radius)}, for the chisel where they are to be sharp",
        count * CORNER,
        setup,
        where,
    )


def seam_left(long: float, between: str, setup: str, where: Spots = ()) -> LeftOver:
    """A line where two cuts meet. long: mm of it; between: what meets there, in words."""
    return LeftOver(f"a seam of {mm(long, 0)} where {between} meet", long / 100.0 * SEAM, setup, where, how=ACROSS)


def cusps_left(area: float, high: float, setup: str) -> LeftOver:
    """Ridges between the rows of a relief. area: mm²; high: mm."""
    return LeftOver(f"ridges of {mm(high, 2)} between rows of a relief", area * 1e-6 * RELIEF, setup)


def cleaning(left: Iterable[LeftOver], factor: float = 1.0, count: int = 0) -> Working:
    """Minutes of all of it. factor: times shop rules that it takes here, by so many clean-ups of the shop's own record."""
    each: Sequence[LeftOver] = tuple(left)
    names = [f"item{i}" for i in range(1, len(each) + 1)]
    if count:
        record = Named("record", factor, "times", f"own record of {count}")
        return working(
            f"({' + '.join(names) or '0'}) * record", *(Named(n, e.minutes, "minutes", e.what) for n, e in zip(names, each)), record, unit="minutes", assumption="shop rules, times what this shop's own record says",
        )  # fmt: skip
    return working(
        " + ".join(names) or "0", *(Named(n, e.minutes, "minutes", e.what) for n, e in zip(names, each)), unit="minutes", assumption=RULE, shop_rule=True,
    )  # fmt: skip
