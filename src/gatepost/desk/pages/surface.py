# SPDX-License-Identifier: GPL-3.0-or-later
"""The Surface page."""

from __future__ import annotations

from typing import Any

from gatepost.core.job.model import Job
from gatepost.core.job.operation import Operation
from gatepost.core.job.surface import Surfacing
from gatepost.core.job.turning import other_face
from gatepost.core.plan.kinds import Kinds
from gatepost.core.units import edit_length, parse_length
from gatepost.desk.pages.blank import places
from gatepost.desk.pages.entries import Group, PageEntry, PageRow, act, single

WANTED = (("if it needs it", "ask"), ("yes", "yes"), ("no", "no"))
SEATS = (("as it lies", "as it lies"), ("on shims", "shimmed"))
AROUND = ((0.1, 0.1), (0.9, 0.1), (0.5, 0.9), (0.1, 0.9), (0.9, 0.9))
ROWS = tuple((w, w) for w in ("along X", "along Y", "along the grain", "across the grain", "at an angle"))
PATHS = (("plain rectangle", "rectangle"), ("the outline, no air", "outline"))
WAYS = (("both ways", "both ways"), ("climb, one way", "climb"))
AREAS = (("all of the board", "all"), ("what the design uses", "used"))
STEPS = (("all alike", "equal"), ("alternating", "alternating"))
LOW_X = (("front", "front"), ("back", "back"))
LOW_Y = (("left", "left"), ("right", "right"))


def _at_hand(job: Job, now: tuple[float, ...], own: dict[str, Any]) -> PageEntry:
    """Thicknesses, typed one after the other: 0.5; 1; 1/8"."""
    shown = "; ".join(edit_length(v, job.unit) for v in now)

    def values(typed: str) -> dict[str, Any]:
        parts = [part for part in typed.split(";") if part.strip()]
        return {"shims_at_hand": tuple(parse_length(part, job.unit) for part in parts), **own}

    return PageEntry("Shims at hand", "words", shown, "set surfacing", values)


TURNS = (("about X", "about X"), ("about Y", "about Y"))


def _second(job: Job) -> Group:
    """The second face."""
    back = other_face(job)
    if back is None:
        acts = tuple(act(f"Surface it too, turned {t}", "set second face", turn=t) for _, t in TURNS)
        return Group("The other face", (), (), acts)
    row = single("Turned", "choice", back.turn, "set second face", "turn", TURNS)
    return Group(
        "The other face, after this one", (row,), (), (act("Only one face", "set second face", present=False),)
    )


def _surfacing(job: Job, setup: str) -> Operation:
    """The surfacing that the page is about: of its setup, or of the first that there is."""
    found = [(s.id, o) for s in job.setups for o in s.operations if isinstance(o.figures, Surfacing)]
    none = Operation(id="surfacing", kind="surface", figures=job.surfacing)
    return next((o for name, o in found if name == setup), found[0][1] if found else none)


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """How it is to be surfaced."""
    operation = _surfacing(job, setup)
    s: Any = operation.figures
    own: dict[str, Any] = {"operation": operation.id}
    tools = tuple((f"T{t.number} {t.name}", t.number) for t in job.tools if t.kind in ("surfacing", "flat"))
    return (
        Group(
            "Surfacing",
            (
                single("Surface it", "choice", s.wanted, "set surfacing", "wanted", WANTED, **own),
                single("Cutter", "choice", s.tool, "set surfacing", "tool", tools, **own),
                single("Stepover, share of diameter", "number", s.stepover, "set surfacing", "stepover", **own),
                single("Deepest pass", "length", s.limit, "set surfacing", "limit", **own),
                single("Last pass", "length", s.last, "set surfacing", "last", **own),
                single("Below the lowest place", "length", s.cleanup, "set surfacing", "cleanup", **own),
                single("Rows run", "choice", s.direction, "set surfacing", "direction", ROWS, **own),
                *(
                    [single("Angle, degrees from X", "number", s.angle, "set surfacing", "angle", **own)]
                    if s.direction == "at an angle"
                    else []
                ),
                single("Path over", "choice", s.path, "set surfacing", "path", PATHS, **own),
                single("Rows cut", "choice", s.way, "set surfacing", "way", WAYS, **own),
                single("Make flat", "choice", s.area, "set surfacing", "area", AREAS, **own),
                single(
                    "Target thickness, or 0", "length", s.target_thickness, "set surfacing", "target_thickness", **own
                ),
                single("Hollow that is sanded out", "length", s.hollow, "set surfacing", "hollow", **own),
                single("Stop after pass, or 0", "number", s.stop_after, "set surfacing", "stop_after", **own),
                single("Lay the board", "choice", s.seat, "set surfacing", "seat", SEATS, **own),
                PageRow((_at_hand(job, s.shims_at_hand, own),), "Shims at hand"),
            ),
        ),
        _second(job),
        Group(
            "Ridges, from a test patch each way",
            (
                single("Step between rows along X", "length", s.step_x, "set surfacing", "step_x", **own),
                single("lower at the", "choice", s.low_x, "set surfacing", "low_x", LOW_X, **own),
                single("Step between rows along Y", "length", s.step_y, "set surfacing", "step_y", **own),
                single("lower at the", "choice", s.low_y, "set surfacing", "low_y", LOW_Y, **own),
                single("Stepover of the patches", "length", s.patch_stepover, "set surfacing", "patch_stepover", **own),
                single("Measured on", "words", s.patch_taken, "set surfacing", "patch_taken", **own),
                single("Steps are", "choice", s.steps, "set surfacing", "steps", STEPS, **own),
            ),
        ),
        places(job, "Supports for shims", "support", job.blank.supports, None, "Add a support", AROUND),
    )
