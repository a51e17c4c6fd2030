# SPDX-License-Identifier: GPL-3.0-or-later
"""What was cut in the board that lies there and is planned otherwise now: it stays in the wood."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from gatepost.core.findings import Finding, Level, Place
from gatepost.core.job.journal import Journal
from gatepost.core.plan.planned import OldCut, PlannedSetup, ProgramFile
from gatepost.core.profile import VEES
from gatepost.core.units import mm

STAGE = "carve"
CORNERS = ("x0", "y0", "x1", "y1")
PATH = ("long", "mx", "my", "mz")


def cut_where(setup: PlannedSetup, program: ProgramFile) -> dict[str, float | str]:
    """What a run's entry says of where it cuts: on which face, and the box of it on the board as it lies."""
    box = setup.on_board(program.moves).cutting_extents()
    radius = 0.5 * program.tool.diameter if program.tool.kind not in VEES else 0.0
    grown = (box[0] - radius, box[1] - radius, box[2] + radius, box[3] + radius)
    path = setup.on_board(program.moves).cutting_path()
    return {
        "face": setup.setup.up, "spin": str(setup.setup.spin), "does": " and ".join(program.operations),
        **({"beside": program.beside} if program.beside else {}),
        **{n: round(float(v), 2) for n, v in zip(CORNERS, grown)}, **{n: round(v, 3) for n, v in zip(PATH, path)},
    }  # fmt: skip


def surfaced_already(journal: Journal) -> frozenset[str]:
    """Faces of the board that lies there which a surfacing ran on."""
    ran = (
        e
        for e in journal.this_board()
        if e.kind == "run started" and str(e.data.get("does", "")).startswith("surfacing")
    )
    return frozenset(str(e.data["face"]) for e in ran if "face" in e.data)


def with_old_cuts(built: list[PlannedSetup], journal: Journal) -> tuple[list[PlannedSetup], list[Finding]]:
    """The setups with what was cut on their face otherwise than it is planned now, and what there is to say of it."""
    known = {f for s in built for p in s.programs for f in (p.fingerprint, p.ran)}
    ran = [
        e for e in journal.this_board()
        if e.kind == "run started" and e.data.get("fingerprint") not in known and all(n in e.data for n in CORNERS) and e.data.get("beside") != "again"
    ]  # fmt: skip
    if not ran:
        return built, []
    out: list[PlannedSetup] = []
    said: list[Finding] = []
    for s in built:
        old = tuple(
            OldCut(str(e.data["program"]), str(e.data.get("does", "")), e.at, _box([float(e.data[n]) for n in CORNERS]), str(e.data.get("beside", "")))
            for e in ran
            if e.data.get("face") == s.setup.up and e.data.get("spin") == str(s.setup.spin) and not str(e.data.get("does", "")).startswith("surfacing")
        )  # fmt: skip
        out.append(replace(s, old_cuts=old))
        if s.flattens:
            continue
        for cut in {c.box: c for c in old}.values():
            said += _said(s, cut)
    return out, said


def _box(values: Sequence[float]) -> tuple[float, float, float, float]:
    x0, y0, x1, y1 = values
    return x0, y0, x1, y1


def _said(setup: PlannedSetup, cut: OldCut) -> list[Finding]:
    x0, y0, x1, y1 = cut.box
    over = []
    freed = {o.name for o in setup.operations if o.kind == "cutout"}  # it goes round what lies inside it
    for program in setup.programs:
        if set(program.operations) <= freed:
            continue
        a0, b0, a1, b1 = (cut_where(setup, program)[n] for n in CORNERS)
        if float(a0) < x1 and float(a1) > x0 and float(b0) < y1 and float(b1) > y0:
            over.append(" and ".join(program.operations))
    where = f"X {mm(x0)} to {mm(x1)}, Y {mm(y0)} to {mm(y1)} of the board"
    when = f" on {cut.at[:10]} at {cut.at[11:16]}" if len(cut.at) >= 16 else ""
    otherwise = "which was made elsewhere" if cut.beside else "and it is planned otherwise now"
    begun = f"This board was cut by {cut.program} ({cut.does}){when}, at {where}, {otherwise}."
    place = Place(*setup.at(0.5 * (x0 + x1), 0.5 * (y0 + y1)))
    if not over or cut.beside:
        return [
            Finding(
                "carve.old-cut",
                Level.CARE,
                STAGE,
                f"{begun} The old cut stays in the wood.",
                setup.name,
                place=place,
                about=cut.program,
            )
        ]
    message = f"{begun} The {over[0]} would run into the old cut. Undo the change, move it clear, or lay a fresh board and say so: what happened, and what is still known (Ctrl+H)."
    return [Finding("carve.old-cut", Level.STOP, STAGE, message, setup.name, place=place, about=cut.program)]
