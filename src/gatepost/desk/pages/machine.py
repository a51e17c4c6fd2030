# SPDX-License-Identifier: GPL-3.0-or-later
"""The machine's profile, on the Run page: what it can do, what its stops really stop, and how it is switched on and off."""

from __future__ import annotations

import re
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.machine import Collet
from gatepost.core.job.model import Job
from gatepost.core.plan.kinds import Kinds
from gatepost.desk.pages.entries import Group, PageEntry, PageRow, act, single

ORDER = (("guards alone, the rest as it suits", False), ("strictly one after another", True))
ISOLATING = (("the drives stay on", False), ("the drives drop too: home after it", True))
YES = (("yes", True), ("no", False))
FRAMES = (("a stiff frame", False), ("a light frame, half the chip", True))
SET_BY = (("by the program", "program"), ("by hand", "hand"))
GROUPS: tuple[tuple[str, tuple[tuple[str, str, str, str], ...]], ...] = (
    (
        "Travel. Home is back right, at the top",
        (
            ("Name", "words", "name", ""), ("Travel in X", "length", "travel_x", ""), ("Travel in Y", "length", "travel_y", ""),
            ("Travel in Z", "length", "travel_z", ""), ("Nose above the spoilboard at home", "length", "nose_at_home", ""),
            ("Spoilboard is thick", "length", "spoilboard", ""),
        ),
    ),
    (
        "Speeds",
        (
            ("Rapids in X and Y", "number", "rapid_xy", "mm/min"), ("Rapids in Z", "number", "rapid_z", "mm/min"),
            ("Acceleration in X and Y", "number", "accel_xy", "mm/s²"), ("Acceleration in Z", "number", "accel_z", "mm/s²"),
            ("A corner may be cut by", "length", "deviation", ""),
        ),
    ),
    (
        "What is in the way",
        (
            ("Nut is wide", "length", "nut_diameter", ""), ("Nut is tall", "length", "nut_height", ""),
            ("Shoe is wide, 0 without one", "length", "shoe", ""), ("Shoe above the nut's underside", "length", "shoe_above", ""),
            ("Shoe is tall", "length", "shoe_height", ""), ("Gantry above the bed, 0 if clear", "length", "gantry", ""),
            ("Gantry begins behind the spindle by", "length", "gantry_front", ""), ("and ends by", "length", "gantry_back", ""),
        ),
    ),
)  # fmt: skip


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """Everything of the profile."""
    m = job.machine
    out = [
        Group(title, tuple(single(label, kind, getattr(m, field), "set machine", field, (), unit) for label, kind, field, unit in rows))
        for title, rows in GROUPS
    ]  # fmt: skip
    slots = " ".join(f"{y:g}" for y in m.slots)
    out.append(
        Group(
            "Slots",
            (PageRow((PageEntry("T-slots at Y, mm", "words", slots, "set machine", _slots),), "T-slots at Y, mm"),),
        )
    )
    out.append(_sensor(job))
    out.append(_spindle(job))
    out.append(_control(job))
    out.append(_stops(job))
    out.append(_while_it_cuts(job))
    out.append(
        Group(
            "Switching on and off, as its maker says",
            (
                PageRow((PageEntry("On, in order", "words", "; ".join(m.power_on), "set machine", _list("power_on")),), "On, in order"),
                PageRow((PageEntry("Off, in order", "words", "; ".join(m.power_off), "set machine", _list("power_off")),), "Off, in order"),
                PageRow((PageEntry("Warm up: rpm × minutes", "words", _warm_words(job), "set machine", _warm),), "Warm up: rpm × minutes"),
            ),
            acts=(act("Keep this machine for the shop", "window keep_machine"), act("Take the shop's machine", "window take_machine")),
        )
    )  # fmt: skip
    return tuple(out)


def _sensor(job: Job) -> Group:
    """Where the fixed tool sensor is, if there is one."""
    s = job.machine.sensor
    if s is None:
        return Group(
            "Tool sensor", (), acts=(act("It has a fixed sensor", "set machine", sensor={"x": 20.0, "y": 20.0}),)
        )
    rows = tuple(
        PageRow((PageEntry(words, "length", getattr(s, field), "set machine", _part("sensor", s, field)),), words)
        for words, field in (("At X on the bed", "x"), ("At Y on the bed", "y"), ("Face above the bed", "height"))
    )
    return Group("Tool sensor", rows, acts=(act("It has none", "set machine", sensor=None),))


def _part(name: str, thing: Any, field: str) -> Any:
    return lambda v: {name: {**thing.model_dump(), field: v}}


def _spindle(job: Job) -> Group:
    m = job.machine
    rows = [
        single("Turns at least", "number", m.rpm_min, "set machine", "rpm_min", (), "rpm"),
        single("Turns at most", "number", m.rpm_max, "set machine", "rpm_max", (), "rpm"),
        single("Rated power", "number", m.rated_power, "set machine", "rated_power", (), "W"),
        single("at", "number", m.rated_rpm, "set machine", "rated_rpm", (), "rpm"),
        single("Speed is set", "choice", m.spindle, "set machine", "spindle", SET_BY),
    ]
    if m.spindle == "hand":
        dial = "; ".join(f"{d.mark} = {d.rpm:g}" for d in m.dial)
        rows += [
            PageRow((PageEntry("Dial: mark = rpm; …", "words", dial, "set machine", _dial),), "Dial: mark = rpm; …"),
            single("Poles, where the drive shows Hz", "number", m.poles, "set machine", "poles"),
            single("Slip, per cent", "number", m.slip, "set machine", "slip"),
        ]
    collets = "; ".join(collet_words(c) for c in m.collets)
    rows += [
        PageRow(
            (PageEntry("Collets: Ø × grip; …", "words", collets, "set machine", typed_collets),), "Collets: Ø × grip; …"
        ),
        single("Frame", "choice", m.light, "set machine", "light", FRAMES),
    ]
    return Group("Spindle", tuple(rows))


CONTROL: tuple[tuple[str, str, str, tuple[tuple[str, object], ...], str], ...] = (
    ("Its lengths are in", "choice", "units", (("mm", "mm"), ("inches", "inch")), ""), ("Decimals", "number", "decimals", (), ""),
    ("Line numbers", "choice", "line_numbers", YES, ""), ("Comments in", "choice", "comments", (("brackets", "brackets"), ("after a semicolon", "semicolon"), ("none", "none")), ""),
    ("A tool change is", "choice", "tool_change", (("a program for each tool", "separate"), ("a pause", "pause"), ("a word", "word")), ""),
    ("A dwell counts in", "choice", "dwell", (("seconds", "s"), ("milliseconds", "ms")), ""), ("Waits for the spindle", "number", "spin_up", (), "s"),
    ("Its zero", "choice", "offset", tuple((f"G{n}", f"G{n}") for n in range(54, 60)), ""), ("A program ends with", "choice", "end", (("M30", "M30"), ("M2", "M2")), ""),
    ("Each begins with the words", "words", "lead_in", (), ""), ("A file may have so many kB, 0 for any", "number", "largest", (), ""),
    ("Arcs", "choice", "arcs", (("none: straight moves alone", "none"), ("level ones", "level"), ("rising ones too", "helix")), ""),
)  # fmt: skip


def _control(job: Job) -> Group:
    """What its control understands."""
    d = job.machine.dialect
    rows = [
        PageRow(
            (PageEntry(words, kind, getattr(d, field), "set machine", _part("dialect", d, field), choices, unit),),
            words,
        )
        for words, kind, field, choices, unit in CONTROL
    ]
    if d.arcs != "none":
        words = "An arc may lie off by"
        rows.append(
            PageRow(
                (PageEntry(words, "length", d.arc_tolerance, "set machine", _part("dialect", d, "arc_tolerance")),),
                words,
            )
        )
    return Group("What its control understands", tuple(rows))


def collet_words(c: Collet) -> str:
    """As it is typed: “6 × 18”, with “bore 30”, “40 N·m” and the day it came into use where they are known."""
    more = [f"bore {c.bore:g}"] * bool(c.bore) + [f"{c.torque:g} N·m"] * bool(c.torque) + [c.since] * bool(c.since)
    return " ".join([f"{c.size:g} × {c.grip:g}", *more])


def typed_collets(words: str) -> dict[str, object]:
    out = []
    for size, rest in _pairs(words.replace("x", "×"), "×", "a diameter × the length that it grips"):
        grip, *more = rest.split() or [""]
        values: dict[str, object] = {"size": _length(size), "grip": _length(grip)}
        told = " ".join(more)
        for name, pattern in (
            ("bore", r"bore ([\d.,]+)"),
            ("torque", r"([\d.,]+) N·?m"),
            ("since", r"(\d{4}-\S+)"),
        ):
            found = re.search(pattern, told)
            if found:
                values[name] = found[1] if name == "since" else _number(found[1])
                told = told.replace(found[0], "", 1)
        if told.strip():
            raise OperatorError(
                f"“{told.strip()}” is not understood: after the length that a collet grips come “bore 30”, “40 N·m” and the day it came into use, as 2026-11-30."
            )
        out.append(values)
    return {"collets": tuple(out)}


def _length(words: str) -> float:
    from gatepost.core.units import LengthError, parse_length

    try:
        return parse_length(words, "mm")
    except LengthError:
        raise OperatorError(f"“{words}” is not a length.") from None


def _stops(job: Job) -> Group:
    """What each stop of this machine really stops."""
    m = job.machine
    rows = [
        single("Isolating the spindle", "choice", m.isolating_drops, "set machine", "isolating_drops", ISOLATING),
        single("Steps at the machine wait for", "choice", m.in_order, "set machine", "in_order", ORDER),
    ]
    for i, stop in enumerate(job.machine.stops):
        rows.append(PageRow((PageEntry(stop.name, "words", stop.does, "set machine", _stop(job, i)),), stop.name))
    return Group("What each stop really stops", tuple(rows))


def _while_it_cuts(job: Job) -> Group:
    """Remarks by a key each, and minutes by this machine's own runs."""
    m = job.machine
    words, told = "; ".join(m.remarks), "; ".join(f"{p.name} = {p.x:g}, {p.y:g}" for p in m.places)
    asked = "; ".join(f"{c.words} = {WORD_OF[c.back]}" if c.back else c.words for c in m.checklist)
    entries = (
        ("Own list before a cut: question = step; …", asked, typed_checklist),
        ("Remarks, a key each", words, _list("remarks")),
        ("Places on the bed: name = X, Y; …", told, _places),
    )
    rows = tuple(
        PageRow((PageEntry(label, "words", now, "set machine", values),), label) for label, now, values in entries
    )
    rows = (
        *rows,
        single("Stops for the vacuum after, min, or 0", "number", m.vacuum_every, "set machine", "vacuum_every"),
    )
    acts = [act("Minutes from this machine's own runs", "window learn_times")]
    if m.learned:
        acts.append(act("Minutes as they are planned", "set machine", learned=()))
    return Group("Before and while it cuts", rows, acts=tuple(acts))


STEPS = {
    "lay": "hold", "holds": "set", "bit": "fit", "power": "power", "home": "home", "zero": "zero", "touch": "touch", "look": "look",
}  # of a setup, as they are typed, and the first words of their keys  # fmt: skip
WORD_OF = {key: word for word, key in STEPS.items()}


def typed_checklist(words: str) -> dict[str, object]:
    """The shop's own list: a question each, and after a = the step that “not yet” goes back to."""
    out = []
    for part in (p.strip() for p in words.split(";") if p.strip()):
        question, sign, step = (w.strip() for w in part.partition("="))
        if sign and step.lower() not in STEPS:
            raise OperatorError(f"“{step}” is no step that can be gone back to; these are: {', '.join(STEPS)}.")
        if not question:
            raise OperatorError(f"“{part}” asks nothing: write a question, then = and a step.")
        out.append({"words": question, "back": STEPS[step.lower()] if sign else ""})
    return {"checklist": tuple(out)}


def _stop(job: Job, index: int) -> Any:
    def values(words: str) -> dict[str, object]:
        stops = [s.model_copy(update={"does": words}) if i == index else s for i, s in enumerate(job.machine.stops)]
        return {"stops": tuple(stops)}

    return values


def _slots(words: str) -> dict[str, object]:
    from gatepost.core.units import parse_length

    return {"slots": tuple(sorted(parse_length(w, "mm") for w in words.replace(",", " ").split()))}


def _list(field: str) -> Any:
    return lambda words: {field: tuple(w.strip() for w in words.split(";") if w.strip())}


def _warm_words(job: Job) -> str:
    return "; ".join(f"{w.rpm:g} × {w.minutes:g}" for w in job.machine.warm)


def _pairs(words: str, between: str, wanted: str) -> list[tuple[str, str]]:
    out = []
    for part in (p for p in words.split(";") if p.strip()):
        left, sign, right = part.partition(between)
        if not sign:
            raise OperatorError(f"“{part.strip()}” is not {wanted}.")
        out.append((left.strip(), right.strip()))
    return out


def _number(words: str) -> float:
    try:
        return float(words.replace(",", "."))
    except ValueError:
        raise OperatorError(f"“{words}” is not a number.") from None


def _places(words: str) -> dict[str, object]:
    out = []
    for name, place in _pairs(words, "=", "a name = X, Y"):
        x, _, y = place.partition(",")
        out.append({"name": name, "x": _length(x), "y": _length(y)})
    return {"places": tuple(out)}


def _warm(words: str) -> dict[str, object]:
    pairs = _pairs(words.replace("x", "×"), "×", "rpm × minutes")
    return {"warm": tuple({"rpm": _number(a), "minutes": _number(b)} for a, b in pairs)}


def _dial(words: str) -> dict[str, object]:
    return {"dial": tuple({"mark": a, "rpm": _number(b)} for a, b in _pairs(words, "=", "mark = rpm"))}
