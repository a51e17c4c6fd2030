# SPDX-License-Identifier: GPL-3.0-or-later
"""What the worker finds of how a piece comes from one face to the other."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from gatepost.core.job.model import Job


def rim(job: Job, setup: str) -> Mapping[str, Any]:
    """A stepped rim for what is cut out before a setup. Raises OperatorError."""
    from gatepost.core.plan.nesting import rim_for

    return rim_for(job, setup)


def either(job: Job) -> str:
    """Either of two faces first, compared, in words. Raises OperatorError."""
    from gatepost.core.plan.either import either_first, in_words

    return in_words(either_first(job))
