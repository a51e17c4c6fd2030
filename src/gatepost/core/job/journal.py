# SPDX-License-Identifier: GPL-3.0-or-later
"""The journal: what happened, only ever added to. A mistake is corrected by a later entry."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from typing import Annotated, Literal

from pydantic import Field, ValidationError, model_validator

from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.job.base import Model, complaint

Kind = Literal[
    "homed", "fitted", "warmed", "touched", "ticked", "surfaced", "bumped", "clamped", "shimmed", "turned", "bed skimmed",
    "stalled", "power cut", "witness", "run started", "run ended", "answered", "remark", "corrected",
    "ledger touched", "ledger zero", "ledger pass", "probed", "measured", "rocked", "sensed", "squared",
    "laid", "red button", "link lost", "switched on", "drives off", "jogged", "noted", "stopped", "gauged", "fresh board", "taken up", "marked", "proved", "ringed", "moved",
]  # fmt: skip


# what an entry must carry by its kind, and what has to be a number, wherever it stands
WANTED: dict[str, tuple[str, ...]] = {
    "touched": ("axis", "machine"), "ticked": ("step",), "corrected": ("seq",),
    "ledger touched": ("machine", "on"), "ledger zero": ("machine",), "ledger pass": ("depth",),
    "sensed": ("tool", "machine", "zero"), "noted": ("x", "y"), "gauged": ("tool", "depth"), "run started": ("program",), "marked": ("mark", "x", "y"), "proved": ("mark", "x", "y"), "ringed": ("mark", "x", "y"), "moved": ("degrees", "x", "y"),
}  # fmt: skip
NUMBERS = frozenset({
    "machine", "tool", "gauge", "spread", "length", "seq", "depth", "corner1", "corner2", "corner3", "corner4", "plane",
    "places", "skipped", "contacts", "minutes", "zero", "x", "y", "thickness", "push", "degrees", "x0", "y0", "x1", "y1", "still", "planned", "within", "pin",
    "right", "back", "left", "front", "long", "mx", "my", "mz",
})  # fmt: skip
WHOLE = frozenset({"tool", "seq"})
ONE_OF = {"axis": ("x", "y", "z"), "on": ("face", "low spot", "bed")}
LONGEST_WAY = 1e9  # mm of a program: a relief goes for kilometres
FARTHEST = 1e5  # mm, and more than any count here
Short = Annotated[str, Field(max_length=2000)]


class Entry(Model):
    """One thing that happened. at: ISO time, told by whoever writes it. data: figures and words by name.

    touched: axis, machine (machine coordinate of the zero), tool, gauge, spread. fitted: tool, length.
    corrected: seq of the entry that it takes back. ledger touched: machine, on (face, low spot, bed), gauge; ledger zero:
    machine; ledger pass: depth below Z0; questioned where it was asked about first. probed: places, contacts, spread.
    measured: thickness after the second face at a corner. rocked: answer, still or rocks, of the rock test. laid: still where it was left as it lay. noted: how far the witness mark lies from where it was meant to,
    against which later looks are held. gauged: how deep a tool cut at a place, and planned. squared: push of the far end, degrees. sensed: tool, machine (contact with
    the fixed sensor), zero (Z0 by that tool). ticked: step; fingerprint of the program that it ran, as in run started.
    run started: face, spin and x0, y0, x1, y1 of what it cuts on the board as it lies, does: in words; long, mx, my, mz: how long its way is there, and the middle of that. marked: mark, x, y: where the machine stood over a mark of the piece, or against its edge with a pin so thick, and within. proved: mark, x, y: how far it was seen to lie right of the tip and behind it, and within which that is nothing. ringed: the same of a hole in its ring, with the widths of that. moved: degrees about the bed's 0, and x, y after it, by which the piece is taken to lie otherwise. fresh board: another piece lies there. taken up: the piece was taken off the bed.
    """

    seq: Annotated[int, Field(ge=1)]
    at: Short
    kind: Kind
    setup: Short = ""
    data: Annotated[dict[Short, float | Short], Field(max_length=40)] = {}

    @model_validator(mode="after")
    def _sound(self) -> Entry:
        for name in WANTED.get(self.kind, ()):
            if name not in self.data:
                raise ValueError(f"an entry “{self.kind}” lacks its {name}")
        for name, value in self.data.items():
            if name in NUMBERS and not (
                isinstance(value, float) and abs(value) <= (LONGEST_WAY if name == "long" else FARTHEST)
            ):
                raise ValueError(f"its {name} is not a number that can be")
            if name in WHOLE and not (isinstance(value, float) and value.is_integer() and value >= 0):
                raise ValueError(f"its {name} is not a whole number")
            if name in ONE_OF and value not in ONE_OF[name]:
                raise ValueError(f"its {name} is none of {', '.join(ONE_OF[name])}")
        if self.kind == "corrected" and not 1 <= float(self.data["seq"]) < self.seq:
            raise ValueError("it takes back an entry that is not before it")
        return self


class Journal(Model):
    """Entries in order, numbered from 1 without a gap."""

    entries: tuple[Entry, ...] = ()

    def add(self, at: str, kind: Kind, setup: str = "", **data: float | str) -> Journal:
        """The journal with one more entry. Raises OperatorError with a sentence when it can't be."""
        try:
            entry = Entry(seq=len(self.entries) + 1, at=at, kind=kind, setup=setup, data=data)
        except ValidationError as error:
            raise OperatorError(f"That can't be written down: {complaint(error)}") from None
        return Journal(entries=(*self.entries, entry))

    def met(self, other: Journal) -> Journal:
        """The journal with what another has that it has not: both began as the same one. Nothing of either is lost."""
        pairs = zip(self.entries, other.entries)
        alike = next((i for i, (a, b) in enumerate(pairs) if a != b), min(len(self.entries), len(other.entries)))
        return self.joined(other.entries[alike:], alike)

    def joined(self, more: Sequence[Entry], before: int) -> Journal:
        """The journal with entries that grew elsewhere on its first ``before`` ones: they follow what has come here since,
        and one that takes back another of them keeps to it."""
        by = len(self.entries) - before
        if by < 0:
            raise ValueError("a journal only grows")

        def moved(e: Entry) -> Entry:
            data = dict(e.data)
            if e.kind == "corrected" and float(data["seq"]) > before:
                data["seq"] = float(data["seq"]) + by
            return Entry(seq=e.seq + by, at=e.at, kind=e.kind, setup=e.setup, data=data)

        return Journal(entries=(*self.entries, *map(moved, more)))

    def standing(self) -> tuple[Entry, ...]:
        """Entries that no later one takes back."""
        back = {int(float(e.data["seq"])) for e in self.entries if e.kind == "corrected" and "seq" in e.data}
        return tuple(e for e in self.entries if e.seq not in back and e.kind != "corrected")

    def this_board(self) -> tuple[Entry, ...]:
        """Entries that stand and are of the board that lies there now."""
        entries = self.standing()
        last = max((i for i, e in enumerate(entries) if e.kind == "fresh board"), default=-1)
        return entries[last + 1 :]

    def ticked(self, setup: str, step: str, fingerprint: str = "") -> str:
        """When a step was ticked last, or nothing. fingerprint: of the program that it should have run; a tick for
        another one does not count."""
        for entry in reversed(self.this_board()):
            if entry.kind == "ticked" and entry.setup == setup and entry.data.get("step") == step:
                other = fingerprint and entry.data.get("fingerprint", fingerprint) != fingerprint
                return "" if other or entry.data.get("off") else entry.at
        return ""


def write_lines(journal: Journal) -> str:
    """The journal as JSON lines."""
    return "".join(json.dumps(e.model_dump(), ensure_ascii=False, sort_keys=True) + "\n" for e in journal.entries)


def read_lines(lines: Iterable[str]) -> Journal:
    """Read JSON lines. Raises UnusableFile naming the first line that is wrong."""
    entries: list[Entry] = []
    for number, line in enumerate(lines, start=1):
        if not line.strip():
            continue
        try:
            entry = Entry.model_validate_json(line)
        except ValidationError as error:
            raise UnusableFile(f"The journal's line {number} can't be read: {complaint(error)}") from None
        if entry.seq != len(entries) + 1:
            raise UnusableFile(f"The journal's line {number} is out of order: a line is missing or was put in.")
        entries.append(entry)
    return Journal(entries=tuple(entries))
