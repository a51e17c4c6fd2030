# SPDX-License-Identifier: GPL-3.0-or-later
"""Findings of the finish."""

from __future__ import annotations

from typing import Any

from gatepost.core.finish.shelf import shipped_finishes
from tests.core.catalogue_jobs import CARE, NOTE, Edit, spoiled

SHELF = {t.id: t for t in shipped_finishes()}


def finish(**values: Any) -> Edit:
    """The finish's figures."""
    return "set finish", values


def coated(*coats: tuple[str, str], **values: Any) -> Edit:
    """Carved first, then coats of tins off the shelf, and where."""
    tins = tuple({c: SHELF[c] for c, _ in coats}.values())
    return finish(scheme="painted after", tins=tins, coats=tuple({"tin": c, "where": w} for c, w in coats), **values)


def wood(name: str) -> Edit:
    """Another wood, as hard to cut."""
    return "set wood", {"name": name, "kind": "medium", "density": 560}


KEEPS: Edit = ("set tin", {"tin": "primer", "best": "2026-11-30"})
FINISH = [
    spoiled("finish.no-coats", NOTE, "plate", finish(scheme="bare"), finish(scheme="stained")),
    spoiled("finish.too-cold", CARE, "plate", coated(("primer", "face"), celsius=8.0), coated(("primer", "face"), celsius=7.9)),
    spoiled("finish.over", CARE, "plate", coated(("outdoor-oil", "edges"), ("sign-paint", "face")), coated(("outdoor-oil", "face"), ("sign-paint", "face"))),
    spoiled("finish.too-old", CARE, "plate", [coated(("primer", "face"), begins="2026-11-30"), KEEPS], coated(("primer", "face"), begins="2026-12-01"), KEEPS),
    spoiled("finish.resin", CARE, "plate", coated(("resin", "letters")), coated(("resin", "letters")), ("set tin", {"tin": "resin", "ratio": 0.0})),
    spoiled("finish.moves", NOTE, "plate", finish(wet=13.28), finish(wet=13.29)),  # 56 wide, 0.00338 for each per cent from 8
    spoiled("finish.sanded-thin", CARE, "plate", finish(least=2.71), finish(least=2.72)),  # 2.834 less 2 × 0.105 × tan 30°
    spoiled("finish.screws", NOTE, "plate", wood("elm"), wood("larch")),
    spoiled("finish.no-movement", NOTE, "plate", wood("elm"), wood("bog wood")),
]  # fmt: skip
