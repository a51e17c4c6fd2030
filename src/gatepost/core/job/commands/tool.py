# SPDX-License-Identifier: GPL-3.0-or-later
"""Edits of the tools."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from gatepost.core.errors import OperatorError
from gatepost.core.job.base import changed, complaint
from gatepost.core.job.commands.parts import Commands, operation_in, with_operation
from gatepost.core.job.model import Job
from gatepost.core.job.tool import Tool

COMMANDS = Commands()


@COMMANDS("add tool", Tool)
def add_tool(job: Job, tool: Tool | dict[str, Any], operation: str = "") -> Job:
    """One more tool for this job. operation: one that takes several tools, and gets this one as well."""
    if not isinstance(tool, Tool):
        try:
            tool = Tool.model_validate(tool)
        except ValidationError as error:
            raise OperatorError(complaint(error)) from None
    if any(t.number == tool.number for t in job.tools):
        raise OperatorError(f"Tool {tool.number} is in the table already.")
    job = changed(job, tools=tuple(sorted((*job.tools, tool), key=lambda t: t.number)))
    if not operation:
        return job
    old = operation_in(job, operation)[1].figures
    if "tools" not in type(old).model_fields:
        raise OperatorError(f"“{operation}” takes one tool, not several.")
    return with_operation(job, operation, figures=changed(old, tools=(*dict(old)["tools"], tool.number)))


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
