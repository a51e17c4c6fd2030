# SPDX-License-Identifier: GPL-3.0-or-later
"""Jobs of earlier formats, told as the present one has them; and a job as format 4 had it, for runs logged in its days."""

from __future__ import annotations

import hashlib
from typing import TYPE_CHECKING, Any

from pydantic_core import to_json

from gatepost.core.job.blank import STEMS
from gatepost.core.job.hold import HOLDS

if TYPE_CHECKING:
    from gatepost.core.job.model import Job

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


KEYS_4 = (
    "format",
    "tolerance",
    "irreplaceable",
    "blank",
    "wood",
    "machine",
    "tools",
    "surfacing",
    "carving",
    "setups",
    "order",
)
CARVING_4 = ("lines", "x", "y", "leading", "margin", "tool", "plate", "sanding", "painted")
LINE_4 = ("text", "face", "height", "tracking", "align", "glyphs", "width")
LATER: dict[str, dict[str, Any]] = {  # what came after format 4, as it is where nobody has set it
    "line": {"run": "straight", "kerns": [], "bolder": 0.0}, "vcut": {"passes": 1}, "cutout": {"side": "outside", "tab_at": [], "grain_first": False, "hole": 0},
    "plate": {"form": "rounded"}, "art": {"turn": 0.0, "mirror": False},
}  # fmt: skip
PLATE_4 = ("x", "y", "width", "height", "corner", "tool", "allowance", "tabs", "tab_width", "tab_height", "skin")
SETUP_4 = ("name", "turn", "x", "y", "skew", "holds", "zero", "touches")
_OF_EACH: Any = {"__all__": {"id"}}  # format 4 told things of a list by their number
NOT_COUNTED: Any = {
    "tools": {"__all__": {"chips", "overall", "runout", "sleeve", "sleeve_rpm", "body", "hangs", "sharpened", "price"}}, "made_for": True, "finish": True, "approvals": True,
    "name": True, "unit": True, "repeats": True, "accepted": True, "holding": True, "artwork": {"__all__": {"colour": True, "figures": {"lines": {"__all__": {"colour"}}}}},
    "machine": {"bed": {"scars": True, "skimmed": True, "blocks": True, "studs": True, "inserts": {"__all__": {"name"}}, "fences": {"__all__": {"milled"}}, "nests": {"__all__": {"made", "first"}}}, "taken": True, "isolating_drops": True, "in_order": True, "squared": True, "collets": True, "light": True, "lay_minutes": True, "vacuum_every": True, "remarks": True, "checklist": True, "learned": True, "places": True, "dialect": {"arcs", "arc_tolerance", "offset", "end", "lead_in", "largest"}},
    "setups": {"__all__": {"zero": {"square", "gauge_size", "block", "shift_x", "shift_y"}, "operations": {"__all__": {"figures": {"patch_stepover", "patch_diameter", "patch_taken"}}}}},
    "blank": {**dict.fromkeys(STEMS, _OF_EACH), "flaws": {"__all__": {"id", "to_x", "to_y", "again"}}, "moisture_before": True, "bow": True},
}  # fmt: skip


# figures that a hold of every kind carried, in their order, and what they were where nobody had set them
ALL_KINDS: dict[str, Any] = {
    "width": 36.0, "thickness": 12.0, "nose": 45.0, "tail": 35.0, "packing": 0.0, "stud": 8.0, "force": 1500.0, "torque": 0.0,
    "into": "slot", "height": 20.0, "body": 60.0, "shim": 0.0, "diameter": 4.0, "washer": 12.0, "above": 4.0, "bite": 12.0,
    "pilot": True, "metal": "steel", "length": 100.0, "contact": 0.8, "fresh": True, "of": "",
}  # fmt: skip
HOLD_4 = ("name", "kind", "x", "y", "heading", *ALL_KINDS)


def of_first_days(raw: dict[str, Any]) -> dict[str, Any]:
    """job.json of format 5 as it is now: in its first days each hold had figures of all kinds, and a target thickness was “wished”."""
    setups = raw.get("setups")
    if not isinstance(setups, list):
        return raw
    return {**raw, "setups": [_with_figures(_with_holds(s)) if isinstance(s, dict) else s for s in setups]}


RENAMED = {"wished": "target_thickness"}  # figures of a surfacing


def _with_figures(setup: dict[str, Any]) -> dict[str, Any]:
    done = setup.get("operations")
    if not isinstance(done, list):
        return setup
    return {
        **setup,
        "operations": [_of_now(o) if isinstance(o, dict) and o.get("kind") == "surface" else o for o in done],
    }


def _of_now(operation: dict[str, Any]) -> dict[str, Any]:
    figures = operation.get("figures")
    if not isinstance(figures, dict):
        return operation
    return {**operation, "figures": {RENAMED.get(k, k): v for k, v in figures.items()}}


def _with_holds(setup: dict[str, Any]) -> dict[str, Any]:
    holds = setup.get("holds")
    if not isinstance(holds, list):
        return setup
    return {**setup, "holds": [_own(h) if isinstance(h, dict) and h.get("kind") in HOLDS else h for h in holds]}


def _own(hold: dict[str, Any]) -> dict[str, Any]:
    mine = HOLDS[str(hold["kind"])].model_fields
    own = {k: v for k, v in hold.items() if k in mine or k not in ALL_KINDS}
    return {**own, "into": "board"} if hold["kind"] == "screw" and own.get("into") == "slot" else own


def fingerprints_4(job: Job) -> frozenset[str]:
    """What the log may call a plan in format 4's days: twelve hex digits of the whole job as that format wrote it; none where
    it could not have held the job.

    There are two where there are screws: a screw that went into the spoilboard said either “slot” or “board”. A hold that had
    been given figures of another kind's is not known again.
    """
    values = job.model_dump(mode="json", exclude=NOT_COUNTED)
    told = [old for into in ("slot", "board") if (old := _as_4(values, into)) is not None]
    return frozenset(hashlib.sha256(to_json(old)).hexdigest()[:12] for old in told)


def _as_4(new: dict[str, Any], screwed: str) -> dict[str, Any] | None:
    """A job's values in format 4's order, the other way round of ``from_4``. screwed: into what a screw in the spoilboard goes."""
    told = {s["id"]: s for s in new["setups"]}
    done = {o["id"]: o for s in new["setups"] for o in s["operations"]}
    art = {a["id"]: a for a in new["artwork"]}
    back = {k: v for k, v in new.items() if k not in ("artwork", "setups")} | {"format": 4}
    if not set(told) <= set(ORDER) or "surfacing" not in done or "lettering" not in done or "lettering" not in art:
        return None
    plate = None
    lines = art["lettering"]["figures"]["lines"]
    if (
        not _plain("art", art["lettering"])
        or not _plain("vcut", done["lettering"]["figures"])
        or not all(_plain("line", line) for line in lines)
    ):
        return None
    if "cut-out" in done and "plate" in art:
        mine, how = art["plate"], done["cut-out"]["figures"]
        if not (_plain("art", mine) and _plain("plate", mine["figures"]) and _plain("cutout", how)):
            return None
        plate = {**art["plate"], **art["plate"]["figures"], **done["cut-out"]["figures"]}
    letters = art["lettering"]["figures"]
    carving = {
        **art["lettering"],
        **letters,
        "lines": [_of(line, LINE_4) for line in lines],
        **done["lettering"]["figures"],
        "plate": _of(plate, PLATE_4),
    }
    setups = []
    for name, s in told.items():
        turn = "about Y" if name == "back" and s["spin"] == 180 else "about X"
        loose = {"into": screwed}
        holds = [
            _of({**ALL_KINDS, **h, **(loose if h["kind"] == "screw" and h["into"] == "board" else {})}, HOLD_4)
            for h in s["holds"]
        ]
        setups.append(_of({**s, "name": name, "turn": turn, "holds": holds}, SETUP_4))
    then = {new: old for old, new in RENAMED.items()}
    surfacing = {then.get(k, k): v for k, v in done["surfacing"]["figures"].items()}
    whole = {**back, "surfacing": surfacing, "carving": _of(carving, CARVING_4), "setups": setups}
    again = from_4(whole)
    alike = [[(s["id"], [o["id"] for o in s["operations"]]) for s in j["setups"]] for j in (again, new)]
    return _of(whole, KEYS_4) if alike[0] == alike[1] and len(again["artwork"]) == len(new["artwork"]) else None


def _plain(what: str, values: dict[str, Any]) -> bool:
    """Whether nothing is set of what came after format 4."""
    return all(values.get(k, v) == v for k, v in LATER[what].items())


def _of(values: dict[str, Any] | None, keys: tuple[str, ...]) -> dict[str, Any] | None:
    return None if values is None else {k: values[k] for k in keys}
