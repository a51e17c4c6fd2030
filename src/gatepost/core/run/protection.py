# SPDX-License-Identifier: GPL-3.0-or-later
"""What whoever stands beside a run wears, and what is dangerous in this wood; the maker's sheet and local rules come first.

Hardwood dust as a cause of cancer: IARC Monographs 62 and 100C. Woods that many react to: as listed for toxic woods by the British safety authority (HSE, WIS 30)."""

from __future__ import annotations

LOUD = 12_000.0  # rpm from which a spindle with a cutter is loud enough to harm; a shop rule
DUSTS = {
    "hard": "Hardwood: its dust is counted among what causes cancer, with legal limits in the air. Mask and extraction, clearing up included.",
    "medium": "Wood dust harms: mask and extraction, clearing up included.",
    "soft": "Wood dust harms and burns: mask and extraction, clearing up included.",
}
GLUED = ("mdf", "plywood", "ply", "chipboard", "board, glued")
ALLERGIC = ("iroko", "padauk", "cocobolo", "rosewood", "ebony", "wenge", "red cedar", "yew", "teak", "mansonia")


def protection(wood: str, kind: str, rpm: float) -> tuple[str, ...]:
    """Sentences. wood: its name; kind: soft, medium or hard; rpm: of the spindle."""
    name = wood.lower()
    out = [
        "Glasses that close at the sides." + (" Ear defenders." if rpm >= LOUD else " Ear defenders where it is loud.")
    ]
    out.append(DUSTS.get(kind, DUSTS["medium"]))
    if any(word in name for word in GLUED):
        out.append("Glued board: its glue is in the dust too.")
    if any(word in name for word in ALLERGIC):
        out.append("Many people come to react to this wood: long sleeves that are tight, and wash after.")
    return tuple(out)
