# SPDX-License-Identifier: GPL-3.0-or-later
"""What edits are made of."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.model import Job

Command = Callable[..., Job]


class Commands(dict[str, Command]):
    """A table of edits by name, entered by decorating."""

    def __call__(self, name: str) -> Callable[[Command], Command]:
        """Enter a function by a name."""

        def enter(function: Command) -> Command:
            self[name] = function
            return function

        return enter


def item(items: tuple[Any, ...], index: int, what: str) -> Any:
    """One of several. Raises OperatorError when there is none of that number."""
    if not 0 <= index < len(items):
        raise OperatorError(f"There is no {what} number {index + 1}.")
    return items[index]


def swap(items: tuple[Any, ...], index: int, new: Any) -> tuple[Any, ...]:
    """Another one in the place of one of several."""
    return (*items[:index], new, *items[index + 1 :])


def in_setup(job: Job, setup: str, **values: Any) -> Job:
    """The job with a setup changed. Raises OperatorError."""
    job.setup(setup)
    return changed(job, setups=tuple(changed(s, **values) if s.name == setup else s for s in job.setups))
