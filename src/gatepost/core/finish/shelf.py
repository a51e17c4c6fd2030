# SPDX-License-Identifier: GPL-3.0-or-later
"""The small shelf of finishes that ships: kinds, no makers; starting values, which the label of a tin replaces."""

from __future__ import annotations

import json
from functools import lru_cache
from importlib import resources

from gatepost.core.job.finish import Tin


@lru_cache(maxsize=1)
def shipped_finishes() -> tuple[Tin, ...]:
    """All of them. Times are such as labels of their kind give at about 20 °C: shop rules."""
    text = resources.files("gatepost").joinpath("assets", "tables", "finishes.json").read_text("utf-8")
    return tuple(Tin.model_validate(tin) for tin in json.loads(text))
