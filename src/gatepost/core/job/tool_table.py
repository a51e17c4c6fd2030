# SPDX-License-Identifier: GPL-3.0-or-later
"""The small tool table that ships: starting values, to be changed to what is in the drawer."""

from __future__ import annotations

import json
from collections.abc import Iterable
from importlib import resources

from gatepost.core.errors import OperatorError
from gatepost.core.job.tool import MOST_NUMBER, Tool


def free_number(tools: Iterable[Tool]) -> int:
    """The lowest number that none of these has. Raises OperatorError when all are taken."""
    taken = {t.number for t in tools}
    number = next((n for n in range(1, MOST_NUMBER + 1) if n not in taken), None)
    if number is None:
        raise OperatorError(f"All {MOST_NUMBER} tool numbers are taken. Take a tool away first.")
    return number


def another(tools: Iterable[Tool], like: Tool, name: str = "") -> Tool:
    """A tool like another, with a number that is free. name: its own, else the other's."""
    return like.model_copy(update={"number": free_number(tools), "name": name or like.name, "taken": ""})


def of_kind(tools: Iterable[Tool], kind: str) -> Tool:
    """A new tool of a kind, with the shipped tables' figures to begin from and a number that is free."""
    like = next(t for t in all_shipped() if t.kind == kind)
    return another(tools, like)


def shipped_tools() -> tuple[Tool, ...]:
    """Tools of the shipped table, by number."""
    return _listed("tools.json")


def all_shipped() -> tuple[Tool, ...]:
    """Those, and one of each other kind."""
    return (*shipped_tools(), *_listed("more-tools.json"))


def _listed(name: str) -> tuple[Tool, ...]:
    text = resources.files("gatepost").joinpath("assets", "tables", name).read_text("utf-8")
    return tuple(Tool.model_validate(row) for row in json.loads(text))
