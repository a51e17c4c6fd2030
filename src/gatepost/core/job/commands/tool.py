# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of the tools."""

from __future__ import annotations

from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed
from gatepost.core.job.commands.parts import Commands
from gatepost.core.job.model import Job
from gatepost.core.job.tool import Tool

COMMANDS = Commands()


@COMMANDS("add tool", Tool)
def add_tool(job: Job, tool: Tool) -> Job:
    """One more tool for this job."""
    if any(t.number == tool.number for t in job.tools):
        raise OperatorError(f"Tool {tool.number} is in the table already.")
    return changed(job, tools=tuple(sorted((*job.tools, tool), key=lambda t: t.number)))


@COMMANDS("set tool", Tool)
def set_tool(job: Job, number: int, **values: Any) -> Job:
    """Change this job's copy of a tool."""
    job.tool(number)
    return changed(job, tools=tuple(changed(t, **values) if t.number == number else t for t in job.tools))


@COMMANDS("remove tool")
def remove_tool(job: Job, number: int) -> Job:
    """Take a tool out of this job's table."""
    job.tool(number)
    return changed(job, tools=tuple(t for t in job.tools if t.number != number))
