# SPDX-License-Identifier: GPL-3.0-or-later
"""What every model of a job is made of: frozen, closed, finite; and changing one with its values checked. Lengths are mm, forces N,
angles degrees."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from itertools import count
from typing import Annotated, Any, TypeVar

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

from gatepost.core.errors import OperatorError

Place = Annotated[float, Field(ge=-10_000, le=10_000)]
Size = Annotated[float, Field(ge=0.001, le=10_000)]
Board = Annotated[float, Field(ge=5, le=10_000)]  # sides of a board; nothing smaller is held on a bed
Amount = Annotated[float, Field(ge=0, le=10_000)]
Rate = Annotated[float, Field(ge=0.001, le=100_000)]
Name = Annotated[str, Field(min_length=1, max_length=80)]
Words = Annotated[str, Field(max_length=400)]


def _a_day(words: str) -> str:
    """As 2026-11-30, or nothing. Raises ValueError: days that are written otherwise could not be told earlier from later."""
    try:
        return date.fromisoformat(words.strip()).isoformat() if words.strip() else ""
    except ValueError:
        raise ValueError(f"“{words.strip()}” is no day as it is typed here: year, month, day, as 2026-11-30") from None


Day = Annotated[str, Field(max_length=20), AfterValidator(_a_day)]


class Model(BaseModel):
    """Frozen, closed, finite."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


Spot = tuple[Place, Place]
Called = Annotated[
    str, Field(pattern=r"^([a-z0-9][a-z0-9-]{0,39})?$")
]  # the id of one of several; none until it is among them
M = TypeVar("M", bound=Model)


def changed(model: M, **values: Any) -> M:
    """A copy with other values, validated. Raises OperatorError with a sentence that names the entry."""
    kept = {name: getattr(model, name) for name in type(model).model_fields}
    for name in values:
        if name not in kept:
            raise OperatorError(f"There is no entry “{name}” here.")
    try:
        return type(model).model_validate({**kept, **values})
    except ValidationError as error:
        raise OperatorError(complaint(error)) from None


def with_ids(items: Any, stem: str, field: str = "id") -> Any:
    """Things of a list as they come, each with an id: ``stem``n, the smallest that is free, where it has none. Raises ValueError where
    two have the same."""
    if not isinstance(items, (list, tuple)):
        return items
    ids = [i.get(field, "") if isinstance(i, dict) else getattr(i, field, "") for i in items]
    given = [i for i in ids if i and isinstance(i, str)]
    used = set(given)
    if len(used) != len(given):
        raise ValueError(f"two are called “{next(i for i in given if given.count(i) > 1)}”")
    if all(ids):
        return items
    free = (name for n in count(1) if (name := f"{stem}{n}") not in used)
    return [i if own else _named(i, field, next(free)) for i, own in zip(items, ids)]


def _named(item: Any, field: str, name: str) -> Any:
    if isinstance(item, dict):
        return {**item, field: name}
    return item.model_copy(update={field: name}) if isinstance(item, Model) else item


def of_its_kind(values: Any, base: type[M], kinds: Mapping[str, type[M]], what: str) -> M:
    """Values as their kind has them. Raises ValueError with a sentence."""
    if isinstance(values, base):
        return values
    kind = dict(values).get("kind")
    if kind not in kinds:
        raise ValueError(f"There is no {what} “{kind}”: {', '.join(kinds)}.")
    try:
        return kinds[str(kind)].model_validate(values)
    except ValidationError as error:
        raise ValueError(complaint(error)) from None


def complaint(error: ValidationError) -> str:
    """Everything wrong in one sentence each, in an operator's words."""
    said = []
    for e in error.errors():
        where = " ".join(str(part).replace("_", " ") for part in e["loc"]) or "the job"
        words = _WORDS.get(e["type"])
        if words is not None:
            told = words.format(**{k: _plain(v) for k, v in e.get("ctx", {}).items()})
            said.append(f"{where[0].upper()}{where[1:]} {told}")
        else:
            message = e["msg"].removeprefix("Value error, ")
            said.append(f"{where}: {message[0].lower()}{message[1:]}")
    return "; ".join(said[:6]) + "."


_WORDS = {
    "less_than_equal": "can be {le} at most", "less_than": "must be less than {lt}", "greater_than_equal": "must be {ge} at least",
    "greater_than": "must be more than {gt}", "finite_number": "must be a number", "float_parsing": "is not a number",
    "float_type": "is not a number", "int_parsing": "is not a whole number", "int_from_float": "must be a whole number", "missing": "is missing",
    "string_too_short": "is missing", "string_too_long": "can have {max_length} letters at most", "too_long": "can be {max_length} at most",
    "string_type": "must be words", "string_pattern_mismatch": "is not written as it must be here", "literal_error": "can be {expected}", "extra_forbidden": "is not known here",
}  # fmt: skip


def _plain(value: Any) -> Any:
    """A number as people write it: 10 000."""
    return f"{value:,g}".replace(",", " ") if isinstance(value, (int, float)) and not isinstance(value, bool) else value
