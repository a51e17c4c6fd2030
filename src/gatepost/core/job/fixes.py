# SPDX-License-Identifier: GPL-3.0-or-later
"""Fixes are commands of the table, offered with their values."""

from __future__ import annotations

from gatepost.core.findings import Fix
from gatepost.core.job import commands
from gatepost.core.job.model import Job


def apply(job: Job, fix: Fix) -> Job:
    """The job with a fix applied. Raises OperatorError when it no longer fits."""
    return commands.run(job, fix.kind, fix.values)
