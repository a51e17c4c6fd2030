# SPDX-License-Identifier: GPL-3.0-or-later
"""Levelling from tables of heights, and the Z ledger, for the command line."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from gatepost.checks import read_text
from gatepost.core.errors import OperatorError
from gatepost.core.surface import level as core
from gatepost.core.tables import read_heights

if TYPE_CHECKING:
    from gatepost.core.job.journal import Journal
    from gatepost.core.plan.result import Plan


def level(
    top: Path, under: Path | None, supports: Sequence[str], allowance: float, at_hand: Sequence[float], as_json: bool,
    show: Callable[[Any], None], wished: float | None = None, hollow: float = 0.3,
) -> int:  # fmt: skip
    """As it lies, and shimmed; 0. Raises OperatorError."""
    if not 0.0 <= allowance < 1000.0:
        raise OperatorError("The allowance is a length from 0 up, in mm.")
    if any(not 0.0 < s < 1000.0 for s in at_hand):
        raise OperatorError("Shims at hand want their thicknesses in mm, each over 0.")
    read = core.readings(
        read_heights(read_text(top), top.name), read_heights(read_text(under), under.name) if under else None
    )
    places = np.array([place(words) for words in supports]).reshape(-1, 2)
    lies, best = core.as_it_lies(read, allowance), core.best(read, allowance)
    heights = core.shims(read, best.tilt, places)
    shimmed = core.Shimmed(best, tuple(float(h) for h in heights))
    if at_hand:
        if not len(places):
            raise OperatorError("Shims at hand are for supports: say where these are with --supports X,Y X,Y X,Y.")
        shimmed = core.rounded(read, places, heights, at_hand, allowance)
    told: dict[str, Any] = {
        "as_lies": {"thickness": lies.thickness},
        "shimmed": {
            "thickness": shimmed.lying.thickness, "tilt": list(shimmed.lying.tilt), "shims": list(shimmed.heights),
        },
    }  # fmt: skip
    if wished is not None:
        if not (0.0 < wished < 1000.0 and 0.0 <= hollow < 100.0):
            raise OperatorError("A target thickness and a hollow are lengths in mm, over 0.")
        found = core.hollowed(read, wished, hollow)
        told["wished"] = {
            "thickness": wished, "tilt": list(found.lying.tilt), "hollows": found.sum,
            "deepest": float(max(found.top.max(), found.under.max())),
        }  # fmt: skip
    if as_json:
        show(told)
        return 0
    if wished is not None:
        print(f"wished\t{wished:.2f} mm, hollows of {told['wished']['deepest']:.2f} mm at most to be sanded out")
    if min(lies.thickness, shimmed.lying.thickness) <= 0.0:
        print("Nothing is left of it as it lies." if lies.thickness <= 0.0 else "Nothing would be left of it.")
    a, b = shimmed.lying.tilt
    print(f"as it lies\t{lies.thickness:.2f} mm between level planes")
    print(
        f"shimmed\t{shimmed.lying.thickness:.2f} mm, tilted {1000 * a:.2f} mm per metre along X, {1000 * b:.2f} along Y"
    )
    for words, height in zip(supports, shimmed.heights):
        print(f"shim\t{words}\t{height:.2f} mm")
    return 0


def place(words: str) -> tuple[float, float]:
    """X,Y as typed. Raises OperatorError."""
    x, comma, y = words.partition(",")
    try:
        out = (float(x), float(y))
    except ValueError:
        out = (math.nan, math.nan)
    if not comma or not all(math.isfinite(v) and abs(v) <= 10_000 for v in out):
        raise OperatorError(f"“{words}” is not a place. Supports are X,Y in mm, such as 40,30.")
    return out


PLACES = {"face": "face", "low": "low spot", "low spot": "low spot", "bed": "bed"}


def _entered(
    reckoned: Plan, journal: Journal, entries: Sequence[tuple[str, Any, float]], questioned: bool
) -> tuple[Journal, str]:
    """The journal with ledger entries, up to one that is asked about, and what is asked. Raises OperatorError."""
    from gatepost.core.plan.ledgers import entered
    from gatepost.machine.standing_checks import now

    asked = ""
    for kind, value, gauge in entries:
        data: dict[str, float | str]
        if kind == "ledger touched":
            on, _, figure = str(value).partition("=")
            try:
                data = {"on": PLACES[on], "machine": float(figure), "gauge": gauge}
            except (KeyError, ValueError):
                raise OperatorError(
                    f"“{value}” is not a touch: face=-62.00, low=-64.35 or bed=-96.10 is wanted."
                ) from None
        else:
            data = {"machine": float(value)} if kind == "ledger zero" else {"depth": float(value)}
        journal, asked = entered(reckoned, journal, now(), kind, questioned, **data)
        if asked:
            break
    return journal, asked


def ledger(
    path: Path, entries: Sequence[tuple[str, Any, float]], questioned: bool, left: Path | None, as_json: bool,
    say: Callable[[str], None], show: Callable[[Any], None],
) -> int:  # fmt: skip
    """Write entries into a job's ledger, and say where the face stands; 1 when an entry is asked about and not written.

    Raises OperatorError.
    """
    from dataclasses import replace

    from gatepost.core.job.file import load, locked, save
    from gatepost.core.plan.ledgers import book_of, left_program
    from gatepost.core.units import spell
    from gatepost.core.writing import write_whole
    from gatepost.planning import plan

    with locked(path):
        document = load(path)
        reckoned = plan(document.job, document.journal)
        journal, asked = _entered(reckoned, document.journal, entries, questioned)
        if journal != document.journal:
            save(replace(document, journal=journal), path)
    book = book_of(reckoned, journal)
    try:
        move = book.next()
        next_ = {"machine": move.machine, "takes": move.bite.takes.result, "sentence": spell(move.sentence, "mm")}
    except OperatorError as error:
        next_ = {"machine": None, "takes": None, "sentence": spell(str(error), "mm")}
    if asked:
        say(f"Asked about, and not written: {spell(asked, 'mm')}")
    if left is not None:
        write_whole(left, left_program(reckoned, journal).text.encode("ascii"))
    if as_json:
        now_ = book.ledger
        lines = [
            {"words": spell(li.words, "mm"), "plane": li.plane, "left": li.left, "questioned": li.questioned}
            for li in book.lines
        ]
        show({"plane": now_.plane, "low": now_.low, "left": now_.left, "offset": now_.offset, "zero": now_.zero,
              "entries": lines, "next": next_, "asked": spell(asked, "mm")})  # fmt: skip
    else:
        print(f"face\t{book.ledger.plane:.2f} mm above the bed\nleft\t{book.ledger.left:.2f} mm")
        print(next_["sentence"])
    return 1 if asked else 0
