# SPDX-License-Identifier: GPL-3.0-or-later
"""What every finding of this room has in common."""

from __future__ import annotations

from typing import Any

from gatepost.core.findings import Fix
from gatepost.core.job.tool import Tool

STAGE = "tools"


def set_tool(tool: Tool, words: str, **values: Any) -> Fix:
    """A mend that changes a tool's figures."""
    return Fix("set tool", {"number": tool.number, **values}, words)
