# SPDX-License-Identifier: GPL-3.0-or-later
"""From rough stock to the blank: a short cut list, with the saw's kerf and what is over after each step."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.findings import Finding, Level
from gatepost.core.job.blank import Blank
from gatepost.core.units import mm

SAME = 0.05  # mm
LEAST = 30.0  # mm; a narrower offcut is not offered to be kept
SIZES = ("length", "width", "thickness")


@dataclass(frozen=True)
class Offcut:
    """What falls off. mm."""

    length: float
    width: float
    thickness: float


@dataclass(frozen=True)
class SawStep:
    """One saw cut: the size expected after it, what falls off (nothing where the kerf takes it all), and what is wrong."""

    size: str
    to: float
    after: tuple[float, float, float]
    offcut: Offcut | None
    wrong: str = ""


def steps(blank: Blank) -> tuple[SawStep, ...]:
    """Every step of the cut list."""
    if blank.stock is None:
        return ()
    now = [blank.stock.length, blank.stock.width, blank.stock.thickness]
    out: list[SawStep] = []
    for cut in blank.saw_cuts:
        k = SIZES.index(cut.size)
        off = now[k] - cut.to
        wrong = ""
        if off < -SAME:
            wrong = f"it is only {mm(now[k])} by then"
        rest = off - blank.stock.kerf
        offcut = None
        if not wrong and rest > SAME:
            left = [rest if i == k else v for i, v in enumerate(now)]
            offcut = Offcut(left[0], left[1], left[2])
        elif not wrong and off > SAME and round(rest + SAME, 6) < 0.0:
            wrong = f"only {mm(off)} comes off, less than the saw's kerf of {mm(blank.stock.kerf)}: plane it off"
        if not wrong:
            now[k] = cut.to
        out.append(SawStep(cut.size, cut.to, (now[0], now[1], now[2]), offcut, wrong))
    return tuple(out)


def findings(blank: Blank) -> list[Finding]:
    """What there is to say of the cut list."""
    if blank.stock is None:
        return []
    said: list[Finding] = []
    done = steps(blank)
    for number, step in enumerate(done, start=1):
        if step.wrong:
            message = f"Step {number} of the cut list, {step.size} to {mm(step.to)}: {step.wrong}."
            said.append(Finding("blank.cut-list", Level.CARE, "blank", message, about=str(number)))
    if said:
        return said
    last = done[-1].after if done else (blank.stock.length, blank.stock.width, blank.stock.thickness)
    wanted = (*blank.across, blank.label_thickness)
    off = [
        f"{name} {mm(is_)} where {mm(want)} is wanted"
        for name, is_, want in zip(SIZES, last, wanted)
        if abs(is_ - want) > SAME
    ]
    words = "; ".join(
        f"{n}: {s.size} to {mm(s.to)}, then {mm(s.after[0])} × {mm(s.after[1])} × {mm(s.after[2])}"
        for n, s in enumerate(done, start=1)
    )
    if off:
        message = f"After the cut list it is not the blank: {'; '.join(off)}. {words}"
        return [Finding("blank.cut-list-size", Level.CARE, "blank", message.strip())]
    message = (
        f"Cut list from {mm(blank.stock.length)} × {mm(blank.stock.width)} × {mm(blank.stock.thickness)}: {words}."
    )
    return [Finding("blank.cut-list-sound", Level.OK, "blank", message)]


def keeping(blank: Blank) -> list[tuple[str, Offcut]]:
    """Offcuts that are named to be kept."""
    return [(c.keep, s.offcut) for c, s in zip(blank.saw_cuts, steps(blank)) if c.keep and s.offcut is not None]
