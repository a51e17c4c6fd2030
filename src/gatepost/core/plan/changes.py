# SPDX-License-Identifier: GPL-3.0-or-later
"""What changed from one version of a job to another, item by item, in words."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from typing import Any

from gatepost.core.job.base import Model
from gatepost.core.job.carve import Letters, TextLine
from gatepost.core.job.model import Job
from gatepost.core.job.operation import Artwork, Operation
from gatepost.core.plan.kinds import SHIPPED, Kinds
from gatepost.core.units import mm

LEAST = 0.005  # mm or degrees: less is no change
LINE = {
    "face": "letters", "tracking": "letter spacing", "align": "set", "run": "set", "kerns": "spacing by hand", "bolder": "strokes bolder by", "radius": "radius of its arc",
}  # fmt: skip
WORDS = {
    "over": "on an arc, middle high",
    "under": "on an arc, middle low",
    "column": "in a column",
    True: "yes",
    False: "no",
}
LENGTHS = ("bolder", "radius")
SIZES = ("width", "height", "wide", "high")


def changes(old: Job, new: Job, kinds: Kinds = SHIPPED) -> list[str]:
    """A sentence for each item that is other than it was; lengths are marked. Empty where both say the same."""
    said: list[str] = []
    if old.name != new.name:
        said.append(f"The job is called “{new.name}”, and was “{old.name}”.")
    said += _board(old, new)
    said += _each(old.artwork, new.artwork, artwork_name, lambda a, b: _art(a, b, kinds))
    done = [{o.id: o for s in job.setups for o in s.operations} for job in (old, new)]
    said += _each(
        tuple(done[0].values()),
        tuple(done[1].values()),
        lambda o: _operation_name(o, kinds),
        lambda a, b: _operation(a, b, new, kinds),
    )
    said += _setups(old, new)
    said += _tools(old, new)
    return said


def artwork_name(art: Artwork) -> str:
    """How a piece of artwork is called: its title, what it says, or its id."""
    first = next((line.text for line in getattr(art.figures, "lines", ()) if line.text.strip()), "")
    return art.title or (f"“{first}”" if first else art.id.capitalize().replace("-", " "))


def _operation_name(operation: Operation, kinds: Kinds) -> str:
    kind = kinds.operations.get(operation.kind)
    return operation.title or (kind.title if kind is not None and kind.title else operation.id.capitalize())


def _each(
    old: Sequence[Any], new: Sequence[Any], name: Callable[[Any], str], between: Callable[[Any, Any], list[str]]
) -> Iterable[str]:
    """Of things by their ids: those that are gone, those that are new, and what is other about the rest."""
    was, now = ({one.id: one for one in some} for some in (old, new))
    for one in old:
        if one.id not in now:
            yield f"{name(one)} is gone."
    for one in new:
        if one.id not in was:
            yield f"{name(one)} is new."
        elif one != was[one.id]:
            told = between(was[one.id], one)
            if told:
                yield f"{name(one)}: {'; '.join(told)}."


def _art(old: Artwork, new: Artwork, kinds: Kinds) -> list[str]:
    told: list[str] = []
    dx, dy = new.x - old.x, new.y - old.y
    ways = [
        f"{mm(abs(d), 2)} {words}"
        for d, words in ((dx, "right" if dx > 0 else "left"), (dy, "back" if dy > 0 else "forward"))
        if abs(d) >= LEAST
    ]
    if ways:
        told.append(f"moved {' and '.join(ways)}")
    turn = (new.turn - old.turn + 180.0) % 360.0 - 180.0
    if abs(turn) >= LEAST:
        told.append(f"turned {abs(turn):g}° to the {'left' if turn > 0 else 'right'}")
    if old.mirror != new.mirror:
        told.append("mirrored" if new.mirror else "no longer mirrored")
    if old.face != new.face:
        told.append(f"on the {new.face}, was on the {old.face}")
    if isinstance(old.figures, Letters) and isinstance(new.figures, Letters):
        return told + _letters(old.figures, new.figures)
    sizes = [tuple(getattr(a.figures, f, None) for f in SIZES[:2]) for a in (old, new)]
    if None not in sizes[0] and sizes[0] != sizes[1]:
        told.append(f"{_size(sizes[1])}, was {_size(sizes[0])}")
    if old.kind == new.kind:
        entries = next((k.art_entries for k in kinds.operations.values() if k.art == new.kind), ())
        told += _fields(old.figures, new.figures, {e.field: (e.label, e.typed) for e in entries}, SIZES)
    return told


def _size(pair: Sequence[Any]) -> str:
    return " × ".join(mm(v) for v in pair)


def _letters(old: Letters, new: Letters) -> list[str]:
    told: list[str] = []
    was = {line.id: line for line in old.lines}
    gone = [line for line in old.lines if line.id not in {n.id for n in new.lines}]
    told += [f"the line “{line.text}” is gone" for line in gone]
    for line in new.lines:
        if line.id not in was:
            told.append(f"the line “{line.text}” is new")
        else:
            told += _line(was[line.id], line)
    if abs(old.leading - new.leading) >= 1e-6:
        told.append(f"line spacing {old.leading:g} → {new.leading:g}")
    return told


def _line(old: TextLine, new: TextLine) -> list[str]:
    told = [f"“{old.text}” is now “{new.text}”"] if old.text != new.text else []
    if not math.isclose(old.height, new.height, rel_tol=1e-6):
        share = 100.0 * (new.height / old.height - 1.0)
        told.append(
            f"“{new.text}” is {mm(new.height, 1)} high, was {mm(old.height, 1)} ({share:+.1f} %)".replace("-", "−")
        )
    for field, label in LINE.items():
        a, b = getattr(old, field), getattr(new, field)
        if a == b or field == "radius" and new.run not in ("over", "under"):
            continue
        shown = [mm(v, 2) if field in LENGTHS else "by pairs" if field == "kerns" and v else "none" if field == "kerns" else WORDS.get(v, f"{v:g}" if isinstance(v, float) else str(v)) for v in (a, b)]  # fmt: skip
        told.append(f"“{new.text}” {label} {shown[0]} → {shown[1]}")
    return told


def _operation(old: Operation, new: Operation, job: Job, kinds: Kinds) -> list[str]:
    kind = kinds.operations.get(new.kind)
    labels = {e.field: (e.label, e.typed) for e in kind.entries} if kind is not None else {}
    told = _fields(old.figures, new.figures, labels, ())
    if old.kind != new.kind:
        told = [f"was {old.kind}, is {new.kind}"]
    if set(old.on) != set(new.on):
        names = [artwork_name(a) for a in job.artwork if a.id in new.on]
        told.append(f"works on {', '.join(names) or 'the face'}")
    return told


def _fields(old: Model, new: Model, labels: dict[str, tuple[str, str]], but: Sequence[str]) -> list[str]:
    """Figures that differ, those alone that are entered under a label, the others in a few words."""
    told: list[str] = []
    others = False
    for field in type(new).model_fields:
        a, b = getattr(old, field, None), getattr(new, field)
        if a == b or field in but:
            continue
        if field not in labels:
            others = True
            continue
        label, typed = labels[field]
        told.append(f"{label[0].lower()}{label[1:]} {_value(a, typed)} → {_value(b, typed)}")
    return told if told or not others else ["what is drawn is other than it was"]


def _value(value: Any, typed: str) -> str:
    if value is None:
        return "none"
    if typed == "length":
        return mm(value)
    if typed in ("tool", "tools"):
        return " ".join(f"T{n}" for n in (value if isinstance(value, tuple) else (value,)))
    return (
        WORDS.get(value, f"{value:g}" if isinstance(value, float) else str(value))
        if not isinstance(value, tuple)
        else f"{len(value)}"
    )


def _board(old: Job, new: Job) -> list[str]:
    told = [
        f"{words} {mm(a)} → {mm(b)}"
        for field, words in (("length", "length"), ("width", "width"), ("label_thickness", "thickness as sold"))
        if (a := getattr(old.blank, field)) != (b := getattr(new.blank, field))
    ]
    if old.blank.outline != new.blank.outline or old.blank.shape != new.blank.shape:
        told.append("another outline")
    if (old.blank.calipers, old.blank.heights) != (new.blank.calipers, new.blank.heights):
        told.append("other readings")
    return [f"Board: {'; '.join(told)}."] if told else []


def _setups(old: Job, new: Job) -> list[str]:
    told: list[str] = []
    was = {s.id: s for s in old.setups}
    for setup in new.setups:
        before = was.get(setup.id)
        if before is None:
            told.append(f"Setup {setup.name} is new.")
            continue
        parts = [
            words
            for words, other in (
                ("the board lies elsewhere", (before.x, before.y, before.skew) != (setup.x, setup.y, setup.skew)),
                ("its holds", before.holds != setup.holds), ("its zero", before.zero != setup.zero), ("which face is up", before.up != setup.up),
            ) if other
        ]  # fmt: skip
        told += [f"Setup {setup.name}: {', '.join(parts)}."] if parts else []
    return [f"Setup {s.name} is gone." for s in old.setups if s.id not in {n.id for n in new.setups}] + told


def _tools(old: Job, new: Job) -> list[str]:
    was, now = ({t.number: t for t in job.tools} for job in (old, new))
    told = [f"Tool {n} is gone." for n in was if n not in now] + [
        f"Tool {n}, {t.name}, is new." for n, t in now.items() if n not in was
    ]
    for number, tool in now.items():
        if number in was and was[number] != tool:
            fields = [
                f.replace("_", " ") for f in type(tool).model_fields if getattr(was[number], f) != getattr(tool, f)
            ]
            told.append(f"Tool {number}: another {', '.join(fields)}.")
    return told
