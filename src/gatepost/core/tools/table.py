# SPDX-License-Identifier: GPL-3.0-or-later
"""The small tool table that ships: starting values, to be changed to what is in the drawer."""

from __future__ import annotations

import json
from importlib import resources

from gatepost.core.job.tool import Tool


def shipped_tools() -> tuple[Tool, ...]:
    """Tools of the shipped table, by number."""
    text = resources.files("gatepost").joinpath("assets", "tables", "tools.json").read_text("utf-8")
    return tuple(Tool.model_validate(row) for row in json.loads(text))
