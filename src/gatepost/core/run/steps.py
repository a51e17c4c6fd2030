# SPDX-License-Identifier: GPL-3.0-or-later
"""The steps at the machine, in order, with what each shows, warns of and leaves in the journal."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from math import ceil

from gatepost.core.acts import DUST, EYES, FREEING, HANDS, ISOLATE, LIFTING, SMOKE, STAY
from gatepost.core.job.machine import Machine
from gatepost.core.job.model import Setup
from gatepost.core.job.tool import Tool
from gatepost.core.job.turning import FACES, FLAT, OPPOSITE, SIDES, Lay, about, lies
from gatepost.core.run.step import Depth, MarkToRead, ProgramLoad, Rings, Step, TouchOff, isolating
from gatepost.core.run.toolsteps import MISS, once_more, taking, with_tool
from gatepost.core.units import mm


def steps_of(
    setup: Setup,
    machine: Machine,
    tools: dict[int, Tool],
    loads: list[ProgramLoad],
    touches: dict[int, TouchOff],
    mark: tuple[float, float],
    corner: tuple[float, float],
    shims: tuple[tuple[float, float, float], ...] = (),
    before: Lay = FLAT,
    onto_cut: bool = True,
    laid: str = "",
    held_by: str = "",
    careful: bool = False,
    flattens: bool = False,
    witness: tuple[float, float] | None = None,
    settings: Sequence[Step] = (),
    laid_anew: bool = True,
    depths: Sequence[Depth] = (),
    kept_from: str = "",
    marks: Sequence[MarkToRead] = (),
    edge: str = "",
    looks: Sequence[MarkToRead] = (),
    rings: Rings | None = None,
    seen: str = "",
) -> list[Step]:
    """All steps of a setup. settings: its holds, each set. mark: X0 Y0, corner: lower left of the board, on the bed; shims: x, y in blank coordinates and height of each; before: how
    the board lay until then; laid: what is done with it, where it is not laid down again, with {where} for its place; onto_cut: whether the face that it comes to lie on was made flat; held_by: how many holds of each kind, in words;
    flattens: whether all that is done is to make the face flat;
    laid_anew: whether the board is not left where it lay; kept_from: the setup by whose zero this one's is set, where it is not touched; marks: of the piece that are read, by which it is found; edge: a known one that it lies against; looks: marks that the tip is brought over before wood is cut; seen: what comes of taking them; rings: that are measured once they are cut;
    depths: where it is measured how deep each tool cut;
    careful: whether what can't be replaced is checked again after each run; witness: a mark on the bed to look at."""
    name = setup.name
    out = [
        *(_on_scrap(name) if careful else []),
        isolating(name, "lay"),
        *_laying(setup, corner, shims, before, onto_cut, held_by, settings, laid),
    ]
    fitted: int | None = None
    times: dict[int, int] = {}
    for at, load in enumerate(loads):
        tool = tools[load.tool]
        if load.tool != fitted:
            times[load.tool] = times.get(load.tool, 0) + 1
            steps = with_tool(
                setup, machine, tool, touches[load.tool], mark, fitted is None, laid_anew, witness, kept_from, marks, edge, looks, seen,
            )  # fmt: skip
            out += [once_more(s, times[load.tool]) for s in steps]
        if careful:
            out.append(_in_the_air(name, load))
        if at == 0:
            out += _listed(name, machine)
        out.append(running(name, load, machine, tool))
        if rings is not None and load.name == rings.program:
            out += [replace(s, fingerprint=load.fingerprint) for s in _ringed(name, rings)]
        if at == 0:
            out += [
                replace(isolating(name, "rock"), fingerprint=load.fingerprint),
                Step("rock-again", name, "rock", "Press on each corner again: does it still stand still?",
                     "Lifted and parked, spindle standing and isolated. What rocks now has let go of stress, of a shim, or of a hold.", ISOLATE,
                     fingerprint=load.fingerprint, reach=True),
            ]  # fmt: skip
        fitted = load.tool
        if careful:
            out.append(
                Step(f"again-{load.name}", name, "again", "Touch off again with the same bit: has it slipped, has the board moved?",
                     "Spindle standing and isolated. Brush the place clean first.", HANDS, tool=load.tool, fingerprint=load.fingerprint)
            )  # fmt: skip
    last = loads[-1].fingerprint if loads else ""
    return out + [
        replace(s, fingerprint=last) for s in _afterwards(setup, bool(loads), careful, flattens, witness, depths)
    ]


LAID = "Lay the board with its corner at {where}."


def _laying(
    setup: Setup,
    corner: tuple[float, float],
    shims: tuple[tuple[float, float, float], ...],
    before: Lay,
    onto_cut: bool,
    held_by: str,
    settings: Sequence[Step],
    laid: str,
) -> list[Step]:
    """Until the board lies and is held."""
    name = setup.name
    kinds = held_by or "no holds"
    where = f"X {mm(corner[0], 2)}, Y {mm(corner[1], 2)} on the bed"
    out = [
        Step("hold", name, "tick", (laid or LAID).format(where=where),
             f"Then {kinds}, as drawn. No bit in the spindle yet: hands work under it. A board that rocks is shimmed, never pulled flat.",
             LIFTING, "its corner, X", corner[0], reach=True, pair=corner),
        Step("rock", name, "rock", "Press on each corner in turn. Does it rock?", "Before anything holds it: a board that rocks is shimmed, never pulled flat.",
             ISOLATE, reach=True),
        *settings,
    ]  # fmt: skip
    if shims:
        put = "; ".join(f"{mm(h, 2)} at X {mm(x + setup.x, 2)}, Y {mm(y + setup.y, 2)}" for x, y, h in shims)
        out.insert(
            0,
            Step("shims", name, "tick", f"Set the shims on the bed: {put}.",
                 "Wedges in opposed pairs, no steeper than 1 in 8, tapped. Nothing may push outside their ring.", ISOLATE, reach=True),
        )  # fmt: skip
    if before != lies(setup):
        out.insert(0, _turning(setup, before, onto_cut))
    return out


def _turning(setup: Setup, before: Lay, onto_cut: bool) -> Step:
    """The board turned over, stood on another face, or turned on its plane."""
    now = lies(setup)
    turn, detail = (
        about(before, now),
        "Let it rest first. Brush bed and face clean: a chip under it tilts the whole face.",
    )
    if turn and {before.up, now.up} == {"front", "back"}:
        onto = "its other cut face" if setup.up == "front" else "its cut face"
        if not onto_cut:
            onto = "its back" if setup.up == "front" else "its front"
        rest = "front up" if setup.up == "front" else "no shims" if onto_cut else "the carving down"
        edge = "front edge to the back" if turn == "about X" else "left end to the right"
        title = f"Turn the board over {turn}, {edge}, onto {onto}, {rest}."
    else:
        towards, right = (FACES[f] for f in now.beside)
        verb = "Stand" if now.up in SIDES else "Lay"
        title = f"{verb} the board on its {FACES[OPPOSITE[now.up]]}: {FACES[now.up]} up, {towards} towards you, {right} to the right."
        if now.up in SIDES:
            detail = "It stands narrow: set what holds it before you let go. Brush bed and face clean: a chip under it tilts it all."
    return Step("turn", setup.name, "tick", title, detail, LIFTING, reach=True)


def _on_scrap(name: str) -> list[Step]:
    """Before what can't be replaced is laid."""
    return [
        Step("scrap", name, "tick", "Has it been cut on scrap of the same size, with these bits, and looked at?",
             "It can't be replaced. Scrap shows depth, size, order and what comes loose.", EYES),
        Step("look-twice", name, "tick", "Look once more: outline, faces and X0 Y0 against what was asked for.",
             "Measure the outline again at two places; is the face up that was meant?", LIFTING),
    ]  # fmt: skip


def _listed(name: str, machine: Machine) -> list[Step]:
    """The shop's own list, before the first cut of a setup."""
    return [
        Step(f"list-{i}", name, "tick", item.words, "Of this shop's own list.", back=item.back)
        for i, item in enumerate(machine.checklist, 1)
    ]


def _ringed(name: str, rings: Rings) -> list[Step]:
    """Rings that were just cut, measured, and what they say taken."""
    out = [isolating(name, "rings")]
    for m in rings.marks:
        out.append(Step(f"ring-{m.id}-mark", name, "ring", f"Measure the ring round {m.name}: how wide is it right, back, left and front?",
                        "Lifted and parked, spindle standing and isolated. From the hole's rim to the ring's outer edge, as the board lies; the hole's own chamfer left out.", ISOLATE,
                        "drawn", rings.wide, place=(m.x, m.y), reads=("right", "back", "left", "front"), reach=True))  # fmt: skip
    return [*out, taking(name, "take-rings", "the rings", rings.told)]


def _in_the_air(name: str, load: ProgramLoad) -> Step:
    return Step(f"air-{load.name}", name, "tick", f"Has {load.name} been run in the air, watched from start to end?",
                "Lifted by more than it cuts, spindle off. Nothing may be met, and each move lies where it should.", HANDS, tool=load.tool, program=load.name,
                fingerprint=load.fingerprint)  # fmt: skip


def running(name: str, load: ProgramLoad, machine: Machine, tool: Tool) -> Step:
    """A program run."""
    goes = (
        f" First it goes to X {mm(load.first[0], 2)}, Y {mm(load.first[1], 2)} from X0 Y0, at Z {mm(load.first[2], 2)}."
        if load.first is not None
        else ""
    )
    springs = (
        f" What comes free may spring up by {mm(load.springs, 2)}: stop first; press it back only with the spindle standing and isolated."
        if load.springs
        else ""
    )
    largest = machine.dialect.largest * 1000
    in_parts = (
        f" It is over {machine.dialect.largest} kB: without a link it is run from its files, {ceil(load.large / largest)} or more, one after another to the last."
        if 0 < largest < load.large
        else ""
    )
    return Step(f"run-{load.name}", name, "run", f"Run {load.name}: {load.operations}.",
                "First moves in the air, slowly, with a hand at the red button. Extraction on, shoe set." + goes + springs + in_parts + by_dial(machine, tool.rpm), f"{STAY} {EYES} {DUST} {SMOKE}",
                "minutes planned", load.minutes, "minutes", load.tool, load.name, fingerprint=load.fingerprint)  # fmt: skip


def _afterwards(
    setup: Setup, ran: bool, careful: bool, flattens: bool, witness: tuple[float, float] | None, depths: Sequence[Depth]
) -> list[Step]:
    """What is looked at when all has run, and the board taken off."""
    name = setup.name
    out: list[Step] = []
    if careful and ran:
        out.append(Step("home-again", name, "home", "Home again: does the machine still count as it did?",
                        "A miss says that steps were lost since it was homed.", HANDS))  # fmt: skip
    if witness is not None and ran:
        out.append(
            Step("witness", name, "witness", "Go to the witness mark and look: does the tip stand over it?",
                 "A miss says that the board has moved, or that steps were lost.", HANDS, "witness mark, X", witness[0], place=witness, reads=MISS)
        )  # fmt: skip
    if ran:
        out.append(isolating(name, "clear"))
    for d in depths if ran else ():
        out.append(
            Step(f"depth-{d.tool}", name, "depth", f"Measure how {'thick it is' if d.thick else 'deep'} at X {mm(d.x, 2)}, Y {mm(d.y, 2)} on the board, where tool {d.tool} cut.",
                 "Calipers." if d.thick else "A depth gauge across the groove, in its deepest place.", ISOLATE, "planned", d.planned, "length", d.tool,
                 place=d.bed, reads=("it measures",), reach=True)
        )  # fmt: skip
    if flattens and setup.up != "front":
        out.append(
            Step("measure", name, "measure", "Measure the thickness at the four corners.",
                 "Calipers on both cut faces: front left, front right, back right, back left.", reach=ran)
        )  # fmt: skip
    out.append(
        Step("clear", name, "tick", "Lift, park, spindle stopped and isolated; bit out, then free the part over its waste.",
             "Clean up by suction, not air.", f"{ISOLATE} {FREEING}", reach=ran)
    )  # fmt: skip
    return out


def by_dial(machine: Machine, rpm: float) -> str:
    """Where a spindle that is set by hand is set to; nothing where the program sets it.

    rpm = 120 · Hz / poles, less slip, where the drive shows Hz.
    """
    if machine.spindle != "hand":
        return ""
    if machine.dial:
        marks = sorted(machine.dial, key=lambda d: d.rpm)
        low = max((d for d in marks if d.rpm <= rpm + 1e-9), key=lambda d: d.rpm, default=marks[0])
        high = min((d for d in marks if d.rpm >= rpm - 1e-9), key=lambda d: d.rpm, default=marks[-1])
        between = low.mark if low is high else f"{low.mark} and {high.mark}"
        return f" Set the spindle to {rpm:.0f} rpm by hand: dial at {between}{'' if low is high else ', between them'}."
    hz = rpm * machine.poles / 120.0 / (1.0 - machine.slip / 100.0)
    return f" Set the spindle to {rpm:.0f} rpm by hand: {hz:.0f} Hz on its drive."
