# SPDX-License-Identifier: GPL-3.0-or-later
"""What the worker finds of how a piece comes from one face to the other."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from gatepost.core.cache import Memory
from gatepost.core.errors import Cancelled, OperatorError
from gatepost.core.job.model import Job


def rim(job: Job, setup: str) -> Mapping[str, Any]:
    """A stepped rim for what is cut out before a setup. Raises OperatorError."""
    from gatepost.core.plan.nesting import rim_for

    return rim_for(job, setup)


def either(job: Job, memory: Memory) -> str:
    """Either of two faces first, compared, in words; called off when a plan is wanted. Raises OperatorError."""
    from gatepost.core.plan.either import either_first, in_words

    try:
        return in_words(either_first(job, memory))
    except Cancelled:
        raise OperatorError("It was called off: the job was changed meanwhile. Compare them once more.") from None
