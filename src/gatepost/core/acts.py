# SPDX-License-Identifier: GPL-3.0-or-later
"""The table of acts at the machine: what each warns of, what it does to what is known of the axes, what it undoes, and what follows.

Trust, the steps, what can be written down by hand, the run sheet and docs/acts.md come from it.
"""

from __future__ import annotations

from dataclasses import dataclass

# what an act does to an axis: nothing; trusted falls to provisional; lost; lost, and found again by homing where it was tied to the machine
KEEP, DROP, LOSE, CRASH = "as before", "provisional", "lost", "lost until homed"

ISOLATE = "Isolate the spindle so that only you can switch it back. Pausing, or 0 rpm, is not enough: wait until it stands, then lock it off, or pull the plug and keep it with you."
EYES = "Eyes and ears; no gloves, rings, lanyards, loose sleeves or loose hair near a turning cutter."
DUST = "Mask and extraction: hardwood and glued boards make dust that harms."
STAY = "Stay with it; alone, with a phone in reach. Pause and stop here are requests over a cable: the red button is the emergency stop."
HANDS = "Hands off the bed while the drives are live. The machine's manual and local rules come first."
SMOKE = "Smoke: lift out, stop, look into the extractor before going on. Extinguisher at the door."
AGAIN = "After a power cut nothing may start by itself: spindle switched off first, then power."
LIFTING = "Two people or a trolley for a slab."
FREEING = "Work clamped, chisel away from the body; with a hand-held router never climb-cut. Freed parts and slivers jam and fly; fresh edges cut."
GLUE = "Instant glue: air, no sparks, spindle off. It bonds skin and eyes, heats on cotton or dust; activator and remover burn, and their vapour is heavy."


@dataclass(frozen=True)
class ShopAct:
    """One act. kind: of its entry in the journal; words: what happened; across, top, bed: what it does to X and Y, to Z touched on the
    top, to Z touched on the bed; then: what the operator does next, where it can be told by hand; caution: beside it; session: whether the
    machine's place is unknown after it; undoes: what has to be asked anew after it; own: whether it reaches only the setup it
    happened in; face: or only setups with the same face up."""

    kind: str
    words: str
    across: str = KEEP
    top: str = KEEP
    bed: str = KEEP
    then: str = ""
    told: str = ""
    caution: str = ""
    session: bool = False
    undoes: frozenset[str] = frozenset()
    own: bool = False
    face: bool = False

    @property
    def changes(self) -> bool:
        """Whether it does anything to an axis."""
        return (self.across, self.top, self.bed) != (KEEP, KEEP, KEEP)


LOOK = "Home, go back to the witness mark, and look; then touch Z."
TOUCH = "Touch X, Y and Z again."
HELD = frozenset({"rock"})
BY_SUM = ("kept", "edge", "marks", "proof")  # ways in which X0 Y0 is set and nothing is touched for it
REACH = frozenset({"isolate"})  # whatever moves an axis, starts the spindle or brings power back

ACTS: tuple[ShopAct, ...] = (
    ShopAct("surfaced", "the wood it was touched on has been surfaced away", KEEP, DROP, KEEP, undoes=REACH, face=True),
    ShopAct("fitted", "another bit, or the same gripped again", KEEP, LOSE, LOSE, "Touch Z again.", "The bit was gripped again, or another one fitted", ISOLATE, undoes=frozenset({"spanners", "bit", "away"})),
    ShopAct("warmed", "touched cold, warm now", KEEP, DROP, DROP, "Touch Z again, or say yes to it as it is.", "It has warmed up since it was touched", f"{EYES} Nothing near the cutter.", undoes=REACH),
    ShopAct("laid", "the work was laid down again", LOSE, LOSE, KEEP, TOUCH, caution=LIFTING, undoes=HELD),
    ShopAct("fresh board", "another board lies there", LOSE, LOSE, KEEP, "Begin with this setup's first step: what was cut before was cut in another board.", "A fresh board is on the bed", LIFTING, undoes=HELD),
    ShopAct("taken up", "the board was taken off the bed", KEEP, LOSE, KEEP, "Touch Z on the bed, or lay the board.", caution=LIFTING, undoes=HELD),
    ShopAct("bumped", "the work was bumped", LOSE, LOSE, KEEP, TOUCH, "The work was bumped", undoes=HELD),
    ShopAct("clamped", "the work was clamped again", LOSE, LOSE, KEEP, "Press on its corners, then touch X, Y and Z again.", "The work was clamped again", ISOLATE, undoes=HELD),
    ShopAct("shimmed", "the work was shimmed", LOSE, LOSE, KEEP, TOUCH, "The work was shimmed", ISOLATE, undoes=HELD),
    ShopAct("rocks", "the work rocked when its corners were pressed", LOSE, LOSE, KEEP, "Shim it, never pull it flat; then touch X, Y and Z again.", "The work rocks when its corners are pressed", ISOLATE),
    ShopAct("turned", "the work was turned", LOSE, LOSE, KEEP, caution=LIFTING, undoes=HELD),
    ShopAct("squared", "the work was laid square", LOSE, LOSE, KEEP, caution=HANDS, undoes=REACH),
    ShopAct("bed skimmed", "the bed was skimmed", KEEP, KEEP, LOSE, "Touch Z again where it is on the bed.", "The bed was skimmed", DUST),
    ShopAct("stalled", "a stall, a crash or a limit was hit", CRASH, CRASH, CRASH, LOOK, "A stall, a crash, or a limit was hit", SMOKE, session=True),
    ShopAct("power cut", "the drives were off", CRASH, CRASH, CRASH, LOOK, "The drives were off, or the power was cut", AGAIN, session=True, undoes=REACH),
    ShopAct("red button", "the red button was pressed", CRASH, CRASH, CRASH, LOOK, "The red button was pressed", AGAIN, session=True, undoes=REACH),
    ShopAct("link lost", "the link to the machine was lost", CRASH, CRASH, CRASH, LOOK, "The cable was out while it moved", STAY, session=True, undoes=REACH),
    ShopAct("switched on", "the machine was off", CRASH, CRASH, CRASH, caution=f"{AGAIN} {HANDS}", session=True, undoes=REACH),
    ShopAct("drives off", "isolating drops the drives", CRASH, LOSE, LOSE, caution=ISOLATE, session=True),
    ShopAct("homed", "homed", caution=HANDS, undoes=REACH, then="Now go back to the witness mark and look."),
    ShopAct("touched", "touched", own=True, undoes=REACH | {"away"}, caution="Spindle off. Hands away from the tip while it comes down."),
    ShopAct("marked", "a mark of the piece was read", DROP, own=True, undoes=REACH, then="Set X0 and Y0 by the marks.", caution="Spindle off. Hands away from the tip while it comes down."),
    ShopAct("proved", "a mark was looked at before wood is cut", own=True, undoes=REACH, then="Where it misses: take the looks, or lay the piece anew.", caution=HANDS),
    ShopAct("ringed", "a ring round an old hole was measured", own=True, then="Where it is off: take the rings, or lay the piece anew."),
    ShopAct("moved", "X0 Y0 follows what was seen over the marks", own=True, then="Look over the marks once more."),
    ShopAct("sensed", "the fixed sensor was touched", own=True, undoes=REACH),
    ShopAct("witness", "the witness mark was looked at", own=True, undoes=REACH, caution=HANDS),
    ShopAct("noted", "how the witness mark lies was noted", own=True, undoes=REACH),
    ShopAct("jogged", "a short jog", undoes=REACH, caution=f"{HANDS} Nothing near the cutter."),
    ShopAct("probed", "the top was probed", undoes=REACH, caution=HANDS),
    ShopAct("run started", "a program ran", undoes=REACH, caution=f"{STAY} {EYES} {DUST} {SMOKE}"),
    ShopAct("run ended", "a program ended", undoes=REACH),
)  # fmt: skip
TABLE = {a.kind: a for a in ACTS}
# what guards hands and work: asked on a screen of its own, by the first part of its step's key
GUARDS = {
    "isolate": "Isolate", "bit": "The right bit", "spanners": "Spanners off", "away": "Plate and clip away", "rock": "Rock test",
}  # fmt: skip


def by_hand() -> tuple[ShopAct, ...]:
    """Acts that can be told by hand as having happened."""
    return tuple(a for a in ACTS if a.told)


def page() -> str:
    """The table as a page of the manual."""
    lines = [
        "# Acts at the machine", "",
        "What each does to what is known of the axes, and what has to be asked anew after it. Made from the table in the core, by which trust, steps",
        "and cautions go.", "",
        "| what happened | X, Y | Z touched on the top | Z touched on the bed | asked anew | then |", "|---|---|---|---|---|---|",
    ]  # fmt: skip
    for a in ACTS:
        undone = ", ".join(sorted(GUARDS.get(u, u).lower() for u in a.undoes)) or "nothing"
        lines.append(f"| {a.words} | {a.across} | {a.top} | {a.bed} | {undone} | {a.then or '–'} |")
    lines += [
        "", "Touched twice within the limit, or lined up by eye: trusted; touched once: provisional. An axis that was tied to the machine by homing before it",
        "was touched is provisional once homed again, and X and Y are what they were before once a mark agrees. A look proves nothing of Z, and",
        "nothing rises above what it was. What happened to the wood reaches every setup; a surfaced face every setup that has it up.", "",
        "## Cautions", "",
    ]  # fmt: skip
    lines += [f"- {a.words}: {a.caution}" for a in ACTS if a.caution]
    return "\n".join(lines) + "\n"
