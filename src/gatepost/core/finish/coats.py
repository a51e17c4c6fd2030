# SPDX-License-Identifier: GPL-3.0-or-later
"""How long coats take, and what does not go on what."""

from __future__ import annotations

import math

from gatepost.core.job.finish import Finish, Tin
from gatepost.core.working import Named, Working, working

LABEL_AT = 20.0  # °C that a label's times are meant at, and as much damp
DAMP = 65.0  # per cent over which coats dry slower
RAGS = "Rags and sanding dust with drying oil heat by themselves and burn: flat outdoors one thick, or in a lidded metal can with water, the same day."
VAPOUR = "Air, no flame, no spark; no spindle, heater or extractor motor running near while it is wet."
ISOCYANATE = "Its hardener has isocyanate: only with an air-fed mask, in a booth, by those who are trained for it."
POUR = "Never more or deeper at once than its label allows: a thick pour heats, smokes and cracks. Gloves; what is not cured is not finished."
SANDING = "Mask and extraction for sanding, clearing up included; a bin outdoors with a lid."


def slower(celsius: float, damp: float) -> Working:
    """By how much coats dry slower than their labels say; never sooner. A shop rule: twice the time for each 10 °C under 20, and more in damp air."""
    return working(
        "max(2 ** ((label - room) / 10), 1) * max(1 + (damp - limit) / 35, 1)", Named("label", LABEL_AT, "°C"), Named("room", celsius, "°C"), Named("damp", damp, "%"), Named("limit", DAMP, "%"),
        unit="times", assumption="twice as long for each 10 °C under 20 °C, and longer in air damper than 65 %; never sooner than the label", shop_rule=True,
    )  # fmt: skip


def stands(tin: Tin, celsius: float) -> bool:
    """Whether its clock stands: under its lowest temperature it does not dry."""
    return celsius < tin.lowest


def dries(tin: Tin, label: float, room: Finish) -> float:
    """Minutes that something takes of which the label says so many; inf where the room is too cold for it."""
    return math.inf if stands(tin, room.celsius) else label * slower(room.celsius, room.damp).result


def goes_on(below: Tin, over: Tin, tried: bool) -> str:
    """Why a coat does not go on another, in words; nothing where it does. tried: whether both were tried on scrap."""
    film = below.does in ("primer", "colour", "varnish", "seal coat")
    if over.does == "stain" and film and not (tried and below.does == "seal coat"):
        return f"{over.name} has to go into the wood, and {below.name} keeps it out" + (
            ": a thin seal coat under stain is tried on scrap first." if below.does == "seal coat" else "."
        )
    if over.does == "oil" and film:
        return f"{over.name} has to go into the wood, and {below.name} keeps it out."
    if below.does == "oil" and over.does in ("primer", "colour", "varnish", "seal coat"):
        return f"{over.name} does not hold on {below.name}: paint over oil peels."
    if over.base == "water" and below.base == "oil" and below.does == "stain" and not tried:
        return f"{over.name} may crawl on {below.name}: try both on scrap, and let it dry right through."
    if over.base == "two-part" and below.base == "solvent" and film:
        return f"{over.name} lifts {below.name}."
    return ""


def until_next(below: Tin, over: Tin) -> tuple[float, str]:
    """Label minutes that a coat has to wait for the next one, and why where that is longer than between coats of its own."""
    film = below.does in ("primer", "colour", "varnish", "seal coat", "stain")
    if over.id == below.id:
        return below.recoat, ""
    if over.does == "mask":
        return below.hard, f"{below.name} is hard enough to mask"
    if over.base in ("solvent", "two-part", "oil") and below.base != over.base and film and below.base != "shellac":
        return max(below.recoat, below.hard), f"{below.name} is hard: solvent lifts what is not cured"
    return max(below.recoat, below.sand if below.does == "primer" else 0.0), ""


def cautions(tin: Tin) -> tuple[str, ...]:
    """What is said beside the act."""
    out = []
    if tin.base == "oil" or tin.does == "oil":
        out.append(RAGS)
    if tin.base in ("solvent", "shellac") or tin.spray:
        out.append(VAPOUR)
    if tin.isocyanate:
        out.append(ISOCYANATE)
    if tin.does == "resin":
        out.append(POUR)
    return tuple(out)


def litres(tin: Tin, area: float) -> Working | None:
    """How much of it is wanted, litres. area: of all its coats, mm². Nothing where the label does not say how far it goes."""
    if tin.covers <= 0.0:
        return None
    return working(
        "area / covers", Named("area", area * 1e-6, "m²"), Named("covers", tin.covers, "m²/l"), unit="l", assumption="as far as its label says that it goes",
    )  # fmt: skip
