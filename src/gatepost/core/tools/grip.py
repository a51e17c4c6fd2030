# SPDX-License-Identifier: GPL-3.0-or-later
"""How a shank sits in its collet: the collet of its own size, all its gripping length, flutes outside, not bottomed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.machine import Collet
from gatepost.core.job.tool import Tool
from gatepost.core.tools.said import STAGE, set_tool
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

SAME_SIZE = 0.03  # mm that a shank may differ from its collet: ground shanks lie within a hundredth or two
LEAST_SHARE = 2.0 / 3.0  # of a collet's length that a shank fills at least; a shop rule
FROM_BOTTOM = 1.5  # mm that a shank stays off the bottom of the bore: it is pushed out as the nut draws the collet in
OLD_COLLET = 24  # months after which a collet is offered to be looked at; a shop rule
INCH = 25.4
SIXTEENTHS = tuple(INCH * n / 16.0 for n in range(1, 17))


@dataclass(frozen=True)
class Gripped:
    """A tool in the collet that takes it. collet: nothing where none does; inside: how much of the shank is in, nothing where it is not known; share: of the collet's length."""

    tool: Tool
    collet: Collet | None
    inside: float | None
    share: Working | None

    @property
    def gripped(self) -> float:
        """What is gripped: its sleeve's diameter, or its shank's."""
        return self.tool.sleeve or self.tool.shank


def gripped(tool: Tool, collets: Sequence[Collet]) -> Gripped:
    """The collet of a shank's own size, and how far it goes in: all its length less what sticks out."""
    wanted = tool.sleeve or tool.shank
    near = min(collets, key=lambda c: abs(c.size - wanted), default=None)
    collet = near if near is not None and abs(near.size - wanted) <= SAME_SIZE else None
    if not tool.overall:
        return Gripped(tool, collet, None, None)
    inside = tool.overall - tool.length
    if collet is None:
        return Gripped(tool, None, inside, None)
    share = working(
        "(overall - length) / grip", Named("overall", tool.overall), Named("length", tool.length), Named("grip", collet.grip),
        assumption="two thirds of the collet's length at least", shop_rule=True,
    )  # fmt: skip
    return Gripped(tool, collet, inside, share)


def told(g: Gripped, collets: Sequence[Collet]) -> list[Finding]:
    """What is wrong with it."""
    return [*_collet(g, collets), *_sleeve(g), *_length(g), *_flutes(g)]


def aged(collet: Collet, today: str) -> str:
    """How long a collet has been in use, and the offer to look at it where that is long; nothing where the day is not entered. today: as 2026-11-30."""
    if not collet.since:
        return ""
    since, now = date.fromisoformat(collet.since), date.fromisoformat(today[:10])
    months = (now.year - since.year) * 12 + now.month - since.month - (now.day < since.day)
    if months < 0:
        return f"Its collet is entered as in use since {collet.since}, a day still to come."
    if months < OLD_COLLET:
        return f"Its collet is in use since {collet.since}."
    return f"Its collet is in use since {collet.since}, over {months // 12} years: look whether its mouth is worn or shiny in rings; springy steel lets go with age. An offer by the calendar alone."


def size_words(size: float) -> str:
    """A shank's or a collet's size, with the inch fraction that it is where it is one."""
    n = next((k for k, s in enumerate(SIXTEENTHS, 1) if abs(s - size) <= SAME_SIZE), 0)
    return f"{mm(size, 3 if n else 2)}{_fraction(n)}"


def _fraction(sixteenths: int) -> str:
    if not sixteenths:
        return ""
    below = 16
    while sixteenths % 2 == 0 and below > 1:
        sixteenths, below = sixteenths // 2, below // 2
    return f" ({sixteenths}/{below}″)" if below > 1 else f" ({sixteenths}″)"


def _collet(g: Gripped, collets: Sequence[Collet]) -> list[Finding]:
    if g.collet is not None:
        return []
    t, wanted = g.tool, g.gripped
    what = "sleeve" if t.sleeve else "shank"
    there = ", ".join(size_words(c.size) for c in sorted(collets, key=lambda c: c.size)) or "none"
    message = f"Tool {t.number}'s {what} is {size_words(wanted)} and no collet of that size is entered: {there}."
    near = min(collets, key=lambda c: abs(c.size - wanted), default=None)
    if near is not None and abs(near.size - wanted) < 0.6:
        thinner = wanted < near.size
        message += (
            f" In the {size_words(near.size)} one it would be held by the slits' edges alone, and creep or fly out."
            if thinner
            else f" Forced into the {size_words(near.size)} one it would spread it, and grip at its mouth alone."
        )
    more = (*(c.model_dump() for c in collets), {"size": wanted})
    fixes = (
        (Fix("set machine", {"collets": more}, f"There is a collet of {size_words(wanted)}: enter it"),)
        if len(collets) < 20
        else ()
    )
    return [Finding("tools.collet", Level.STOP, STAGE, message, fixes=fixes, about=str(g.tool.number))]


def _sleeve(g: Gripped) -> list[Finding]:
    t = g.tool
    if not t.sleeve:
        return []
    out: tuple[Fix, ...] = (set_tool(t, "Leave the sleeve out", sleeve=0.0),)
    if t.sleeve <= t.shank + SAME_SIZE:
        wrong, fixes = f"Tool {t.number}'s sleeve is {mm(t.sleeve, 2)} outside, no more than its shank.", out
    elif not t.sleeve_rpm:
        wrong = f"Tool {t.number} sits in a sleeve: only where its maker and the spindle's both allow it, and at the rpm that they give. Enter that rpm, or use a collet of {size_words(t.shank)}."
        fixes = out
    elif t.rpm > t.sleeve_rpm:
        wrong = f"Tool {t.number} is set to {t.rpm:.0f} rpm; in its sleeve both makers allow {t.sleeve_rpm:.0f}."
        fixes = (set_tool(t, f"Turn it at {t.sleeve_rpm:.0f} rpm", rpm=t.sleeve_rpm),)
    else:
        wrong, fixes = "", ()
    if wrong:
        return [Finding("tools.sleeve", Level.STOP, STAGE, wrong, fixes=fixes, about=str(t.number))]
    message = f"Tool {t.number} sits in a sleeve, at no more than the {t.sleeve_rpm:.0f} rpm that both makers allow: clean inside and out, slits not over one another."
    return [Finding("tools.sleeved", Level.NOTE, STAGE, message, about=str(g.tool.number))]


def _length(g: Gripped) -> list[Finding]:
    t, collet = g.tool, g.collet
    if collet is None:
        return []
    if g.inside is None or g.share is None:
        message = f"How long tool {t.number} is over all is not entered: how much of its shank the collet grips can't be told. Measure it with a caliper."
        return [Finding("tools.grip-unknown", Level.NOTE, STAGE, message, about=str(g.tool.number))]
    whole = t.overall - collet.grip
    deeper = (
        (set_tool(t, f"Let it stick out {mm(whole)}", length=whole),) if whole > t.cutting_length + t.runout else ()
    )
    if g.share.result < LEAST_SHARE - 1e-9:
        message = f"Tool {t.number}'s shank is {mm(max(g.inside, 0.0))} in a collet that grips {mm(collet.grip)}: under two thirds it is held at the mouth alone, and comes out."
        return [
            Finding(
                "tools.grip-short", Level.STOP, STAGE, message, working=g.share, fixes=deeper, about=str(g.tool.number)
            )
        ]
    if g.share.result < 1.0 - 1e-9:
        message = f"Tool {t.number}'s shank goes {mm(g.inside)} into a collet that grips {mm(collet.grip)}: right through is better."
        return [
            Finding(
                "tools.grip-part", Level.CARE, STAGE, message, working=g.share, fixes=deeper, about=str(g.tool.number)
            )
        ]
    if collet.bore and g.inside > collet.bore - FROM_BOTTOM:
        out = t.overall - collet.bore + FROM_BOTTOM
        message = f"Tool {t.number}'s shank goes {mm(g.inside)} in and the bore is {mm(collet.bore)} deep: it stands on the bottom, and is let go as the nut draws the collet in."
        return [
            Finding(
                "tools.bottomed",
                Level.STOP,
                STAGE,
                message,
                fixes=(set_tool(t, f"Let it stick out {mm(out)}", length=out),),
                about=str(g.tool.number),
            )
        ]
    return []


def _flutes(g: Gripped) -> list[Finding]:
    """Flutes and their run-out stay outside."""
    t = g.tool
    need = t.cutting_length + t.runout
    if t.length >= need - 1e-9:
        return []
    message = f"Tool {t.number} sticks out {mm(t.length)} and its flutes{' with their run-out' if t.runout else ''} are {mm(need)} long: what is ground away can't be gripped."
    return [
        Finding(
            "tools.flutes-in",
            Level.STOP,
            STAGE,
            message,
            fixes=(set_tool(t, f"Let it stick out {mm(need)}", length=need),),
            about=str(g.tool.number),
        )
    ]
