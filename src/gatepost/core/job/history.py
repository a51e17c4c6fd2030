# SPDX-License-Identifier: GPL-3.0-or-later
"""Jobs of earlier formats, told as the present one has them."""

from __future__ import annotations

from typing import Any

PLACE = ("x", "y")
LETTERS = ("lines", "leading")
SHAPE = ("width", "height", "corner")
OTHER_FACE = {"wanted": "yes", "seat": "as it lies", "stop_after": 0, "area": "all", "hollow": 0.0}
ORDER = ("surface", "back", "front")


def from_4(raw: dict[str, Any]) -> dict[str, Any]:
    """job.json of formats 1 to 4, with its three setups by name, one surfacing, one lettering and one plate, as format 5.

    What is not as it should be is left where it is: reading it says so then.
    """
    old = {k: v for k, v in raw.items() if k not in ("surfacing", "carving", "setups")}
    surfacing, carving = raw.get("surfacing", {}), raw.get("carving", {})
    if not isinstance(surfacing, dict) or not isinstance(carving, dict):
        return {**raw, "format": 5}
    artwork, done = _carving(carving)
    setups = raw.get("setups", _DEFAULT)
    if not isinstance(setups, list) or not all(isinstance(s, dict) and s.get("name") in ORDER for s in setups):
        return {**raw, "format": 5}
    names = [s["name"] for s in sorted(setups, key=lambda s: ORDER.index(s["name"]))]
    told = [_setup(s, names, surfacing, done) for s in sorted(setups, key=lambda s: ORDER.index(s["name"]))]
    return {**old, "format": 5, "artwork": artwork, "setups": told}


_DEFAULT = [{"name": "surface", "x": 150, "y": 200}, {"name": "front", "x": 150, "y": 200}]


def _carving(carving: dict[str, Any]) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """Artwork, and the operations on it."""
    carving = dict(carving)
    plate = carving.pop("plate", None)
    place = {k: carving.pop(k) for k in PLACE if k in carving}
    letters = {k: carving.pop(k) for k in LETTERS if k in carving}
    artwork = [{"id": "lettering", "kind": "lettering", **place, "figures": letters}]
    done = [{"id": "lettering", "kind": "vcut", "on": ["lettering"], "figures": carving}]
    if isinstance(plate, dict):
        plate = dict(plate)
        place = {k: plate.pop(k) for k in PLACE if k in plate}
        shape = {k: plate.pop(k) for k in SHAPE if k in plate}
        artwork.append({"id": "plate", "kind": "plate", **place, "figures": shape})
        done.append({"id": "cut-out", "kind": "cutout", "on": ["plate"], "figures": plate})
    return artwork, done


def _setup(
    setup: dict[str, Any], names: list[str], surfacing: dict[str, Any], carving: list[dict[str, Any]]
) -> dict[str, Any]:
    """One setup. What is wanted of the second face was what is wanted of the first, as it is seen from there."""
    new = {k: v for k, v in setup.items() if k not in ("name", "turn")}
    name = setup["name"]
    before = names[: names.index(name)]
    new |= {"id": name, "follows": before[-1] if before else ""}
    if name == "back":
        angle = surfacing.get("angle", 0.0)
        other = {**surfacing, **OTHER_FACE, "angle": -angle if isinstance(angle, (int, float)) else angle}
        work = {"id": "surfacing-back", "title": "surfacing back", "kind": "surface", "figures": other}
        return {**new, "up": "back", "spin": 180 if setup.get("turn") == "about Y" else 0, "operations": [work]}
    if name == "surface":
        return {**new, "operations": [{"id": "surfacing", "kind": "surface", "figures": surfacing}]}
    return {**new, "operations": carving}
