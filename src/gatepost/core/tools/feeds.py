# SPDX-License-Identifier: GPL-3.0-or-later
"""How fast a tool is fed: from its maker's figure, from this shop's own runs or from starting values, and what limits it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from gatepost.core.job.blank import Wood
from gatepost.core.job.machine import Machine
from gatepost.core.job.tool import Tool
from gatepost.core.profile import VEES, is_vee
from gatepost.core.tools.bending import bending
from gatepost.core.tools.blunt import SIGNS
from gatepost.core.tools.forces import available, feed_within, peak_factor
from gatepost.core.units import mm

# mm a tooth by diameter: least, most, and what rubs; shop rules, between them in straight lines
STARTING = ((3.0, 0.03, 0.12, 0.02), (6.0, 0.08, 0.25, 0.04), (10.0, 0.15, 0.45, 0.08))
SURFACING, POINTED = (0.10, 0.40, 0.08), (0.03, 0.12, 0.02)
HARDER = {"soft": 1.0, "medium": 0.75, "hard": 0.5}  # of the way from the least to the most that a wood is given
LIGHT = 0.5  # of all of it on a light frame
MOST_BEND = 0.15  # mm aside at its peak that a bit is let bend by its feed alone; a shop rule
IN_THE_AIR = 0.3  # of the programmed feed with which first moves are looked at

Source = Literal["maker", "record", "starting"]


@dataclass(frozen=True)
class GoodRun:
    """A run of this shop in this wood that went well. chip: mm a tooth at the override that it was kept at; remarks: what was said of it."""

    chip: float
    at: str
    remarks: tuple[str, ...] = ()


@dataclass(frozen=True)
class ChipWindow:
    """What chips a tool may take, mm a tooth. by: whose figure; words: where it comes from."""

    least: float
    most: float
    by: Source
    words: str


@dataclass(frozen=True)
class Limit:
    """A feed that something allows at the most, mm/min. name: in a word; words: what it is."""

    name: str
    feed: float
    words: str


@dataclass(frozen=True)
class FeedOffer:
    """A feed between gentle (0) and hard (1). rules: the limit that it follows; all: every one; rubs: whether its chip is under what rubs."""

    share: float
    feed: float
    chip: float
    thickest: float
    rules: Limit
    all: tuple[Limit, ...]
    rubs: bool


def good_runs(rows: Sequence[tuple[float, str, tuple[str, ...]]], last: int = 5) -> list[GoodRun]:
    """The last runs that went well. rows: of runs that were done, in this wood: their chip, when, and what was said; those of which a fault was said are left out."""
    good = [
        GoodRun(chip, at, tuple(w for w in words if w))
        for chip, at, words in rows
        if not any(sign in word.lower() for word in words for sign in SIGNS)
    ]
    return sorted(good, key=lambda r: r.at, reverse=True)[:last]


def starting(tool: Tool) -> tuple[float, float, float]:
    """Least and most mm a tooth, and under which it rubs, where nothing better is known; shop rules."""
    if tool.kind == "surfacing":
        return SURFACING
    if tool.kind in VEES or tool.kind == "tapered_ball":
        return POINTED
    small = STARTING[0]
    if tool.diameter <= small[0]:
        share = tool.diameter / small[0]
        return small[1] * share, small[2] * share, small[3] * share
    for (d0, *low), (d1, *high) in zip(STARTING, STARTING[1:]):
        if tool.diameter <= d1:
            t = (tool.diameter - d0) / (d1 - d0)
            a, b, c = (x + (y - x) * t for x, y in zip(low, high))
            return a, b, c
    return STARTING[-1][1:]


def window(tool: Tool, wood: Wood, light: bool = False, record: Sequence[GoodRun] = ()) -> ChipWindow:
    """The chips that a tool may take in a wood: the maker's, else those of this shop's last good runs, else starting values. light: whether the
    frame is light; it takes half of what is not its own record."""
    frame = LIGHT if light else 1.0
    on_it = ", half of it on this light frame" if light else ""
    told = sorted((c for c in tool.chips if c.wood in (wood.name, wood.kind)), key=lambda c: c.wood != wood.name)
    maker, shop = (next((c for c in told if c.by == by), None) for by in ("maker", "shop"))
    if maker is not None:
        return ChipWindow(
            maker.least * frame, maker.most * frame, "maker", f"the maker's figure for {maker.wood}{on_it}"
        )
    good = [r.chip for r in record if r.chip > 0.0]
    if good:
        runs = "1 good run" if len(good) == 1 else f"the last {len(good)} good runs"
        said = [word for r in record for word in r.remarks]
        more = f"; said then: {', '.join(said[:3])}" if said else ""
        return ChipWindow(min(good), max(good), "record", f"{runs} in {wood.name} here{more}")
    if shop is not None:
        return ChipWindow(shop.least, shop.most, "record", f"this shop's figure for {shop.wood}")
    least, most, _ = starting(tool)
    top = least + (most - least) * HARDER[wood.kind]
    words = f"starting values for such a bit in {wood.kind} wood{on_it}, a shop rule"
    return ChipWindow(least * frame, top * frame, "starting", words)


def thinning(share: float) -> float:
    """Thickest chip over feed a tooth: 2·sqrt(x(1 − x)) for less than half of the diameter, 1 from half on. share: of the diameter that is in the wood."""
    x = min(max(share, 1e-4), 1.0)
    return 1.0 if x >= 0.5 else 2.0 * math.sqrt(x * (1.0 - x))


def offer(
    tool: Tool, wood: Wood, machine: Machine, chips: ChipWindow, share: float, step: float, depth: float
) -> FeedOffer:  # fmt: skip
    """What a place between gentle and hard gives, and what limits it. step, depth: how much of the tool is in the wood in its heaviest cut, mm."""
    thin = thinning(step / tool.diameter)
    chip = chips.least + (chips.most - chips.least) * share
    per_minute = tool.teeth * tool.rpm
    have = available(machine, tool.rpm).result
    powered = feed_within(tool, wood, step, depth, have)
    newton = bending(tool, 1.0).result  # mm a newton
    across = (
        depth * math.tan(math.radians(tool.angle / 2.0)) if is_vee(tool) else tool.diameter
    )  # of a V its mean width there
    rim = math.pi * across / 1000.0 * tool.rpm / 60.0  # m/s
    stiff = MOST_BEND / newton / peak_factor(step, tool) * rim if newton > 0.0 else math.inf  # W at that push
    bent = feed_within(tool, wood, step, depth, stiff)
    thick = f", {mm(chip / thin, 3)} fed since so narrow a cut thins it" if thin < 0.999 else ""
    limits = (
        Limit("chip", chip / thin * per_minute, f"the chip of {mm(chip, 3)} a tooth{thick}"),
        Limit("power", powered, f"the {have:.0f} W that the spindle has at {tool.rpm:.0f} rpm"),
        Limit("bending", bent, f"the bit, which would bend over {mm(MOST_BEND)}"),
        Limit("machine", machine.rapid_xy, f"the machine, which goes {machine.rapid_xy:.0f} mm/min at the most"),
    )
    rules = min(limits, key=lambda one: one.feed)
    fed = rules.feed / per_minute
    return FeedOffer(share, rules.feed, fed, fed * thin, rules, limits, fed * thin < tool.rub - 1e-9)


def slowed(tool: Tool, machine: Machine, share: float = IN_THE_AIR) -> float:
    """The rpm at which a tool fed with a share of its feed takes the least chip that does not rub; 0 where it does not rub even then at its own.

    Not under what the spindle turns at the least."""
    chip = tool.feed / (tool.rpm * tool.teeth)
    if chip * share >= tool.rub - 1e-9 or tool.rub <= 0.0:
        return 0.0
    return max(machine.rpm_min, tool.feed * share / (tool.rub * tool.teeth))


def rubbing_share(tool: Tool) -> float:
    """The share of its feed below which a tool rubs in the wood: the least chip over the planned one; 1 where it rubs as it is."""
    chip = tool.feed / (tool.rpm * tool.teeth)
    return min(1.0, tool.rub / chip) if chip > 0.0 else 1.0
