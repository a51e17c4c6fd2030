# SPDX-License-Identifier: GPL-3.0-or-later
"""Why a step is asked for: what goes wrong where it is left out. A step that has no reason has no place among the steps."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from gatepost.core.run.screens import screens
from gatepost.core.run.step import Step
from gatepost.core.units import spell


@dataclass(frozen=True)
class Reason:
    """why: what goes wrong without it; once: why it can't share a step with the one before it, or what it already stands for."""

    why: str
    once: str


# by the first word of a step's key
REASONS = {
    "scrap": Reason("What can't be replaced is cut wrong once only.", "Before anything is laid; a yes or no of its own."),
    "look": Reason("A clamp left over, a spanner or a hand in the way is met at speed; an outline off the wood is seen before it is cut.",
                   "Hands are out now and the spindle stands: it is the last look before wood, so it comes last, and the outline is walked in it."),
    "isolate": Reason("A spindle that is only paused can start while hands are under it.", "A guard: it is asked for each time something has undone it, and never shared."),
    "turn": Reason("A board turned about the wrong edge is cut mirrored.", "The board is off; nothing else can be asked until it lies."),
    "shims": Reason("A board that is pulled flat springs back when it is freed.", "Set before the board lies on them."),
    "hold": Reason("All places are measured from its corner.", "The board lies free."),
    "rock": Reason("A board that rocks lifts where it is pushed, and what rocks later has let go.", "First before anything holds it, then once after the first cut, when stress has shown."),
    "set": Reason("A hold set elsewhere than drawn holds less, or is met by the cutter.", "A figure of its own each: which place, how high, how tight."),
    "fit": Reason("Stickout and grip decide reach, bending and whether it slips.", "The act itself; the bit is in the hand."),
    "bit": Reason("60° for 90° cuts letters of another width and depth, and no one sees it until they are cut.", "Read off the bit, so not answered by fitting it."),
    "spanners": Reason("A spanner left on the nut is thrown when the spindle starts.", "A guard: asked after each time a nut was turned, never shared."),
    "power": Reason("Drives that come up with the spindle on, or in the wrong order, move by themselves.", "Once until it is switched off."),
    "home": Reason("Until it is homed the machine does not know where it is, and its limits guard nothing.", "Once until something has lost its place; it moves, so it is watched."),
    "stayed": Reason("A zero that hangs on the machine's own count is gone with its power.", "Instead of switching on and homing."),
    "warm": Reason("Cold bearings run hot and grow: Z moves by as much.", "Once a day; it starts the spindle, so it is watched."),
    "jog": Reason("An axis that goes the wrong way, or has play, is found in the air and not in wood.", "Once a day; it moves."),
    "square": Reason("A board that lies askew is carved askew.", "Only where its edge counts; before the zero, which it would move."),
    "zero": Reason("All that is cut lies where X0 and Y0 say.", "Both axes in one step; it moves, so no hands."),
    "read": Reason("A piece that is finished elsewhere is found by its own marks.", "One mark a step: two figures each, with eyes on the tip."),
    "prove": Reason("A clip that makes no contact lets the bit drive through plate and board.", "A guard: asked before each touch by a plate, never shared."),
    "lay": Reason("A chip under plate or paper is an error of height all over.", "Hands are under the bit, so the spindle is isolated; the touch itself moves."),
    "mark": Reason("Drives that were dropped may have moved; what they count then is wrong by as much.", "Only where isolating drops the drives."),
    "touch": Reason("Every depth is measured from it; two touches that differ are not a height.", "It moves with the drives live, so no hands and nothing else in the step."),
    "sense": Reason("A bit that sticks out otherwise cuts deeper by as much.", "It moves; in place of a touch on the board."),
    "away": Reason("A plate, clip or lead left on the board is met by the turning cutter.", "Hands go in again, so the spindle is isolated again."),
    "proof": Reason("A zero set at the wrong corner or sign is seen over the mark, not in the wood.", "It moves, and it is looked at from two sides; how the witness mark lies is noted in it."),
    "note": Reason("Later looks need a first one to be compared with.", "In place of the look over X0 Y0, which is not set anew."),
    "over": Reason("A piece that lies otherwise than thought is cut beside its marks.", "One mark a step, with eyes on the tip."),
    "ring": Reason("A ring that is wider on one side says how far the piece lies off.", "Measured with the spindle isolated, hole by hole."),
    "take": Reason("What was seen changes nothing until someone says so.", "All looks are in; one answer for all."),
    "list": Reason("What this shop has paid for once is paid for again when nobody asks.", "Its own list, all on one screen, each with its own answer; as long as the shop wants it."),
    "air": Reason("What can't be replaced is cut only by moves that were seen.", "Program by program, before each."),
    "run": Reason("It is the work.", "Stop, remarks and override belong to the program that runs."),
    "again": Reason("A bit that creeps in its collet, or a board that lifts, shows in a second touch.", "It moves; only where the wood can't be replaced."),
    "witness": Reason("A board that has moved, or steps that were lost, show here and nowhere else.", "At the end, before hands and clamps change anything."),
    "depth": Reason("What the machine did is known only by measuring the wood.", "One figure for each tool, while the zero still stands."),
    "measure": Reason("The next setup is planned by the thickness that was really cut.", "Four figures, at the calipers."),
    "clear": Reason("A part that is freed under a live spindle, or over its own finish, is spoilt, or hurts.", "The last; what follows is off the machine."),
    "up": Reason("Holes are bored into the bed with the board away.", "Before the bit that bores is fitted."),
    "bare": Reason("A pin that is loose in its hole lets the board move by as much.", "With the spindle isolated, bit out."),
}  # fmt: skip


def reason(step: Step) -> Reason:
    """Why a step is asked for.

    Raises KeyError for a step without a reason.
    """
    return REASONS[step.key.partition("-")[0]]


def page(name: str, setups: Iterable[tuple[str, Iterable[Step]]]) -> str:
    """docs/steps.md. name: of the job; setups: each with its steps, in order."""
    lines = [
        "# The steps at the machine, and why each is asked for",
        "",
        f"Generated from the code by `make docs`, for the example “{name}”. "
        "What an earlier setup has answered, and nothing has undone since, is not asked again at the machine: switched on, homed, warmed up, jogged. "
        "Steps of like kind stand on one screen, each with its answer; a guard, and whatever moves an axis, has one of its own.",
    ]
    for setup, steps in setups:
        rows = list(steps)
        lines += ["", f"## {setup}: {len(rows)} on {len(screens(rows))} screens", "", "| | step | without it | why it stands alone |", "|---|---|---|---|"]  # fmt: skip
        for n, step in enumerate(rows, 1):
            r = reason(step)
            lines.append(f"| {n} | {spell(step.title).replace('|', '/')} | {r.why} | {r.once} |")
    return "\n".join(lines) + "\n"
