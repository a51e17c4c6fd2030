# SPDX-License-Identifier: GPL-3.0-or-later
"""From rough stock to the blank: a short cut list, with the saw's kerf and what is over after each step."""

from __future__ import annotations

from dataclasses import dataclass

from gatepost.core.findings import Figure, Finding, Level, Table
from gatepost.core.job.blank import Blank
from gatepost.core.units import mm
from gatepost.core.working import Named, working

SAME = 0.05  # mm
SHORTEST = 300.0  # mm; a shorter piece is not led safely over a saw or a planer; a shop rule
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


def table(blank: Blank) -> tuple[Table, ...]:
    """Each step, the size expected after it, and what falls off; a step that can't be done is told in its row, and the others stay."""
    if blank.stock is None or not blank.saw_cuts:
        return ()
    rows: list[tuple[str, ...]] = []
    for number, step in enumerate(steps(blank), start=1):
        off = (
            " × ".join(mm(v, 0) for v in (step.offcut.length, step.offcut.width, step.offcut.thickness))
            if step.offcut
            else "–"
        )
        after = "can't be done" if step.wrong else " × ".join(mm(v, 1) for v in step.after)
        rows.append((f"{number} {step.size} to {mm(step.to, 1)}", after, off))
    face = (
        ""
        if blank.good_face == "either"
        else f"; keep the {blank.good_face}, its good face, marked through all of them"
    )
    return ((f"From rough stock, size after each step{face}", (("step", "then", "falls off"), *rows)),)


def figures(blank: Blank) -> list[Figure]:
    """What share of the stock the blank is, what falls off to keep counted apart."""
    if blank.stock is None:
        return []
    last = _last(blank)
    share = working(
        "100 * length * width * thickness / stock", Named("length", last[0]), Named("width", last[1]), Named("thickness", last[2]),
        Named("stock", blank.stock.length * blank.stock.width * blank.stock.thickness, "mm³"), unit="per cent",
        assumption="what becomes the blank, of the stock; offcuts kept are beside it",
    )  # fmt: skip
    return [Figure("Yield of the stock", f"{share.result:.0f} %", "words", share)]


def _last(blank: Blank) -> tuple[float, float, float]:
    assert blank.stock is not None
    done = steps(blank)
    return done[-1].after if done else (blank.stock.length, blank.stock.width, blank.stock.thickness)


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
    said += _too_short(blank, done)
    last = _last(blank)
    wanted = (*blank.across, blank.label_thickness)
    off = [
        f"{name} {mm(is_)} where {mm(want)} is wanted"
        for name, is_, want in zip(SIZES, last, wanted)
        if abs(is_ - want) > SAME
    ]
    if off and not any(s.wrong for s in done):
        message = f"After the cut list it is not the blank: {'; '.join(off)}."
        said.append(Finding("blank.cut-list-size", Level.CARE, "blank", message))
    if not said:
        message = f"The cut list comes to the blank: {' × '.join(mm(v) for v in last)}."
        said.append(Finding("blank.cut-list-sound", Level.OK, "blank", message))
    return said


def _too_short(blank: Blank, done: tuple[SawStep, ...]) -> list[Finding]:
    """A piece that is planed or ripped once it is too short to be led safely."""
    assert blank.stock is not None
    length = blank.stock.length
    for number, step in enumerate(done, start=1):
        if step.size != "length" and not step.wrong and length < SHORTEST:
            message = (
                f"Step {number} takes {step.size} off a piece {mm(length)} long: under {mm(SHORTEST)} it can't be led safely over a saw or a planer "
                "(a shop rule; the machine's manual comes first). Take width and thickness first, and cut to length last."
            )
            return [Finding("blank.cut-list-short", Level.CARE, "blank", message, about=str(number))]
        length = step.after[0]
    return []


def keeping(blank: Blank) -> list[tuple[str, Offcut]]:
    """Offcuts that are named to be kept."""
    return [(c.keep, s.offcut) for c, s in zip(blank.saw_cuts, steps(blank)) if c.keep and s.offcut is not None]
