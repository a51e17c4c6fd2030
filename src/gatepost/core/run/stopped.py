# SPDX-License-Identifier: GPL-3.0-or-later
"""After a run that ended early: what is looked at first, by what stopped it and by what was remarked while it ran."""

from __future__ import annotations

from collections.abc import Iterable

from gatepost.core.job.journal import Journal

HOME = "Home, then go over the witness mark: where the machine thinks it is, it may not be."
FIRST = {  # by the act that the journal has since the program started
    "link lost": "It may have gone on after the cable was out: see that it stands, and where. " + HOME,
    "stalled": "Find what stalled it first: a hold, a clamp, chips in the slot, a blunt bit. Is the bit gripped as it was? " + HOME,
    "power cut": "Nothing may start by itself when the power comes back. The bit stands in the wood: lift it by hand only with the drives dead. " + HOME,
    "red button": "Find out why it was pressed, and put that right first. " + HOME,
    "bumped": "The work was bumped: X0 and Y0 are where it was. Touch off anew.",
    "rocks": "The work rocks: set what holds it anew, then touch off.",
    "stopped": "Stopped over the link, its drives on: the zeros are as they were. Look at the work: has it moved, lifted, burnt?",
}  # fmt: skip
OTHERWISE = "Nothing tells why it ended. " + HOME
SAID = (  # what is in a remark, and what is looked at for it
    (("burn", "smoke", "smoulder"), "It burnt or smoked: look in extractor and bin before going on, and at the bit's edges."),
    (("lift", "slip", "moved"), "It lifted or slipped: press on each corner, spindle isolated, and set what holds it anew; what was cut since then may lie off."),
    (("chatter", "whistl", "rattl"), "It chattered: less feed or less depth, and look whether the bit has crept in its collet."),
    (("chip", "pack"), "Chips packed: clear them out by suction before the bit goes down again."),
)  # fmt: skip


def why_it_ended(journal: Journal, program: str) -> str:
    """The kind of the journal's last entry since a program was started last that says why it ended; nothing where none does."""
    found = ""
    for entry in journal.entries:
        if entry.kind == "run started" and entry.data.get("program") == program:
            found = ""
        elif entry.kind in FIRST:
            found = entry.kind
    return found


def look_first(kind: str, marks: Iterable[str]) -> tuple[str, ...]:
    """Sentences. kind: why it ended; marks: what was remarked while it ran."""
    said = " ".join(marks).lower()
    return (FIRST.get(kind, OTHERWISE), *(words for keys, words in SAID if any(k in said for k in keys)))
