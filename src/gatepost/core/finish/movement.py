# SPDX-License-Identifier: GPL-3.0-or-later
"""How damp wood gets in a room or out of doors, and how much wider it is then."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.errors import OperatorError
from gatepost.core.working import Named, Working, working

BOOK = "Forest Products Laboratory, Wood Handbook (FPL-GTR-282, 2021)"
SHRINKS = f"{BOOK}, dimensional change coefficients, 6 to 14 per cent"
SORBS = f"{BOOK}, sorption of wood by Hailwood and Horrobin"


@dataclass(frozen=True)
class WoodMovement:
    """How much a wood moves across its grain: share of its width for each per cent of moisture. radial: across the rings; tangential: along them; of: the
    kind that was measured, where the book has a near relative only; least, most: of the outdoor months that a sign sees, per cent of damp in the air."""

    radial: float
    tangential: float
    of: str = ""


MOVES = {
    "elm": WoodMovement(0.00144, 0.00338, "American elm"),
    "oak": WoodMovement(0.00180, 0.00365, "white oak"),
    "ash": WoodMovement(0.00169, 0.00274, "white ash"),
    "beech": WoodMovement(0.00190, 0.00431, "American beech"),
    "larch": WoodMovement(0.00155, 0.00323, "western larch"),
    "pine": WoodMovement(0.00133, 0.00216, "ponderosa pine"),
    "spruce": WoodMovement(0.00148, 0.00263, "Sitka spruce"),
    "lime": WoodMovement(0.00230, 0.00330, "American basswood, a lime"),
    "sycamore": WoodMovement(0.00165, 0.00353, "sugar maple, of the same kind as sycamore"),
    "sweet chestnut": WoodMovement(0.00116, 0.00234, "American chestnut"),
    "walnut": WoodMovement(0.00190, 0.00274, "black walnut"),
    "cherry": WoodMovement(0.00126, 0.00248, "black cherry"),
    "birch plywood": WoodMovement(0.0001, 0.0001, "plywood: its layers hold each other"),
    "softwood plywood": WoodMovement(0.0001, 0.0001, "plywood: its layers hold each other"),
}  # by the wood's name


def moisture_at(celsius: float, damp: float) -> Working:
    """Moisture that wood comes to where the air stays so, per cent of its dry weight. damp: of the air, per cent.

    Raises OperatorError outside −20 to 60 °C and 0 to 98 %, for which the formula is not meant.
    """
    if not -20.0 <= celsius <= 60.0 or not 0.0 <= damp <= 98.0:
        raise OperatorError("Type a temperature from -20 to 60 °C, and a damp of the air up to 98 %.")
    t = celsius
    return working(
        "1800 / w * (k * h / (1 - k * h) + (k1 * k * h + 2 * k1 * k2 * (k * h) ** 2) / (1 + k1 * k * h + k1 * k2 * (k * h) ** 2))",
        Named("w", 349.0 + 1.29 * t + 0.0135 * t * t, "times"), Named("k", 0.805 + 0.000736 * t - 0.00000273 * t * t, "share"),
        Named("k1", 6.27 - 0.00938 * t - 0.000303 * t * t, "times"), Named("k2", 1.91 + 0.0407 * t - 0.000293 * t * t, "times"), Named("h", damp / 100.0, "share"),
        unit="%", assumption="w, k, k1 and k2 as the room's temperature gives them", source=SORBS,
    )  # fmt: skip


def wider(width: float, wood: str, dry: float, wet: float, along_rings: bool = True) -> Working:
    """By how much a board is wider when wet than when dry, mm. width: across its grain as it is when dry; dry, wet: moisture, per cent; along_rings: whether it was sawn
    so that its width lies along the rings, as most boards are. Raises OperatorError for a wood that has no figure."""
    found = MOVES.get(wood)
    if found is None:
        raise OperatorError(f"How much {wood} moves is not in the table: take that of a wood that is like it.")
    share = found.tangential if along_rings else found.radial
    return working(
        "width * share * (wet - dry)", Named("width", width), Named("share", share, "share"), Named("wet", wet, "%"), Named("dry", dry, "%"),
        assumption=f"share of its width for each per cent of moisture, {found.of or wood}, sawn {'along' if along_rings else 'across'} the rings", source=SHRINKS,
    )  # fmt: skip
