# SPDX-License-Identifier: GPL-3.0-or-later
"""All that a job's lettering says, to be read through before it is cut."""

from __future__ import annotations

import hashlib

from gatepost.core.job.carve import Letters, TextLine
from gatepost.core.job.model import Job
from gatepost.core.job.operation import Artwork


def lettered_lines(job: Job) -> list[tuple[Artwork, TextLine]]:
    """Every line that is worked on, artwork by artwork, from the top."""
    used = {i for s in job.setups for o in s.operations for i in o.on}
    return [
        (art, line) for art in job.artwork if art.id in used and isinstance(art.figures, Letters)
        for line in art.figures.lines if line.text.strip()
    ]  # fmt: skip


def words_hash(job: Job) -> str:
    """Tells what the lettering says from what it would say with any letter other, or elsewhere on the sign."""
    said = "\n".join(f"{art.id}\t{art.mirror}\t{line.text}" for art, line in lettered_lines(job))
    return hashlib.sha256(said.encode()).hexdigest()[:16] if said else ""
