# SPDX-License-Identifier: GPL-3.0-or-later
"""What the worker writes of a plan, or checks against it, and what it says of that."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from gatepost.core.errors import Cancelled, OperatorError


def check(plan: Any, path: str) -> str:
    """Check a program made elsewhere, or changed, against a plan. Raises OperatorError where it is not to be run."""
    from gatepost.checks import program_complaints

    found = program_complaints(Path(path), None, plan)
    stops = [c for c in found if c["level"] == "stop"]
    if not found:
        return f"{Path(path).name}: read, swept and held against this plan; nothing found."
    worst = (stops or found)[0]
    more = f" And {len(found) - 1} more." if len(found) > 1 else ""
    words = f"{Path(path).name}: {worst['message']}.{more}"
    if stops:
        raise OperatorError(f"Not to be run. {words}")
    return f"Look at it first. {words}"


def sheet(plan: Any, path: str) -> str:
    """Write the run sheet."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from gatepost.desk.view.sheet import run_sheet

    run_sheet(plan, Path(path))
    return f"Run sheet written to {Path(path).name}."


def template(plan: Any, path: str, setup: str) -> str:
    """What is carved in a setup, on paper at its true size."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from gatepost.desk.view.true_size import true_size

    count = true_size(plan, plan.setup(setup) or plan.carving, Path(path))
    return f"{count} sheets written to {Path(path).name}. Print them at 100 % and measure the line at the foot."


def write(plan: Any, folder: str, goes_on: Callable[[float], bool]) -> str:
    """Write programs, art and pictures. goes_on: is told how far the sharing out of a large program is, and says whether it is still wanted. Raises OperatorError."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from gatepost.outputs import superseded, superseded_words, write_all

    def on(share: float) -> None:
        if not goes_on(share):
            raise Cancelled("write")

    try:
        names = write_all(plan, Path(folder), on=on)["files"]
    except Cancelled:
        raise OperatorError("It was called off: nothing was written.") from None
    return f"{len(names)} files written to {folder}.{superseded_words(superseded(plan, Path(folder), names))}"


def options(designs: Sequence[tuple[str, Any, Sequence[str], str]], name: str, path: str) -> str:
    """Write the options sheet. designs: title, plan, what moved, and who approved it. Raises OperatorError."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from datetime import date

    from gatepost.desk.view.options_sheet import Option, options_sheet

    made = [Option(title, plan, tuple(moved), approved) for title, plan, moved, approved in designs]
    smaller = options_sheet(name, made, Path(path), date.today())
    size = "at true size: print it at 100 %" if smaller == 1 else f"{smaller} times smaller, as no paper is as large"
    return f"Options sheet written to {Path(path).name}, {len(made)} design{'s' if len(made) > 1 else ''} {size}."


def diary(name: str, lines: Sequence[Any], unit: str, path: str, pictures: Mapping[str, bytes]) -> str:
    """Write a diary as pages. Raises OperatorError."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from gatepost.desk.view.diary_page import write_diary

    write_diary(name, lines, unit, Path(path), pictures)
    return f"Written: {Path(path).name}."


def quote(plan: Any, path: str, inside: bool) -> str:
    """Write a quotation. Raises OperatorError."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from gatepost.core.finish.report import left_out
    from gatepost.desk.view.quotation import quotation

    quotation(plan, Path(path), inside)
    without = left_out(plan.finishing)
    missing = f" Not in it, as it has no rate or price: {', '.join(without)}." if without else ""
    return f"Quotation written to {Path(path).name}{', with what it costs the shop: not for the customer' if inside else ''}.{missing}"
