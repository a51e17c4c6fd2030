# SPDX-License-Identifier: GPL-3.0-or-later
"""What a page lets one enter, as values: the slate builds its fields from these."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from gatepost.core.job.model import Job
from gatepost.core.plan.kinds import Kinds

if TYPE_CHECKING:
    from gatepost.core.plan.result import Plan


@dataclass(frozen=True)
class PageEntry:
    """One field. kind: length, number, words, choice; values: the command's values for what was entered; optional: whether
    it may be left empty, which gives nothing; drawn: of each choice the file of the letters it is shown in."""

    label: str
    kind: str
    value: Any
    command: str
    values: Callable[[Any], dict[str, Any]]
    choices: tuple[tuple[str, Any], ...] = ()
    unit: str = ""
    optional: bool = False
    drawn: tuple[str, ...] = ()


@dataclass(frozen=True)
class Act:
    """A button that runs a command; values may need the plan."""

    label: str
    command: str
    values: Callable[[Plan | None], dict[str, Any] | None]


@dataclass(frozen=True)
class PageRow:
    """Fields beside each other, with a button that takes the row away."""

    entries: tuple[PageEntry, ...]
    label: str = ""
    remove: Act | None = None


@dataclass(frozen=True)
class Group:
    """Rows under a heading. columns: words over the fields; folds: fields on a line, where one line is too short."""

    title: str
    rows: tuple[PageRow, ...]
    columns: tuple[str, ...] = ()
    acts: tuple[Act, ...] = ()
    folds: int = 0


Page = Callable[[Job, str, Kinds], tuple[Group, ...]]


def single(
    label: str,
    kind: str,
    value: Any,
    command: str,
    field: str,
    choices: tuple[tuple[str, Any], ...] = (),
    unit: str = "",
    **fixed: Any,
) -> PageRow:
    """A row of one field that sets one value of a command."""
    return PageRow((PageEntry(label, kind, value, command, lambda v: {**fixed, field: v}, choices, unit),), label)


def act(label: str, command: str, **values: Any) -> Act:
    """A button with fixed values."""
    return Act(label, command, lambda plan: dict(values))
