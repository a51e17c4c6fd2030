# SPDX-License-Identifier: GPL-3.0-or-later
"""What a sign weighs, and how it is hung so that its screws hold and its wood may move."""

from __future__ import annotations

from gatepost.core.working import Named, Working, working

STAINS = ("oak", "sweet chestnut", "larch", "walnut", "cherry")  # woods whose acids blacken plain steel
KEPT = 2.0  # mm of wood that stays between a screw's tip and the deepest groove in front of it
LOOSE = 1.0  # mm of a slot beyond what the wood moves, each way


def weighs(volume: float, density: float) -> Working:
    """kg of so much wood. volume: mm³; density: kg/m³."""
    return working(
        "volume * density",
        Named("volume", volume * 1e-9, "m³"),
        Named("density", density, "kg/m³"),
        unit="kg",
        assumption="dry wood of this kind, as entered",
    )


def screw_reach(left: float) -> Working:
    """How far a screw may go in from behind, mm. left: wood between the back and the deepest groove in front of it."""
    return working(
        "max(left - kept, 0)",
        Named("left", left),
        Named("kept", KEPT),
        assumption=f"{KEPT:g} mm of wood stays before the groove",
        shop_rule=True,
    )


def slot(apart: float, share: float, dry: float, wet: float, screw: float) -> Working:
    """How long a slotted hole is, mm, where a board is screwed at places so far apart across its grain and fixed in the middle. share: of its width for each per cent of moisture; screw: across."""
    return working(
        "screw + 2 * (apart / 2 * share * (wet - dry) + loose)", Named("screw", screw), Named("apart", apart), Named("share", share, "share"), Named("wet", wet, "%"), Named("dry", dry, "%"), Named("loose", LOOSE),
        assumption="fixed in its middle; the screw may have been driven at any moisture between both", shop_rule=True,
    )  # fmt: skip


def stainless(wood: str) -> str:
    """Why screws are to be stainless in a wood, or nothing."""
    return f"{wood[:1].upper()}{wood[1:]} blackens on plain steel: stainless screws." if wood in STAINS else ""
