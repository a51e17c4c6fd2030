# SPDX-License-Identifier: GPL-3.0-or-later
"""Plans for the commands of one process: what one of them worked out, the next need not."""

from __future__ import annotations

from gatepost.core.cache import Memory
from gatepost.core.job.journal import Journal
from gatepost.core.job.model import Job
from gatepost.core.plan import pipeline
from gatepost.core.plan.kinds import SHIPPED, Kinds
from gatepost.core.plan.result import Plan

WHOLES = 3  # plans that are kept whole
_KNOWN = Memory(wholes=WHOLES)


def plan(
    job: Job, journal: Journal | None = None, cell: float | None = None, coarse: bool = False, kinds: Kinds = SHIPPED
) -> Plan:
    """Reckon everything, as the pipeline does."""
    return pipeline.plan(job, journal, _KNOWN, cell, coarse, kinds)
