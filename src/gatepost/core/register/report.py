# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Register stage says."""

from __future__ import annotations

from collections.abc import Sequence

from gatepost.core.findings import Finding, Fix, Gate, Level, Report, with_more
from gatepost.core.job.model import Job, Setup
from gatepost.core.register.kind import STAGE, Coming, RegisterKinds


def report(job: Job, setups: Sequence[Setup], kinds: RegisterKinds) -> Report:
    """setups: those that are planned, in their order."""
    words = "Finding a turned or a finished piece again, by pins, marks or a nest, is not built yet. Whether it lies as the setups say is checked, and what is left between faces that are both carved."
    not_built = Finding("register.not-built", Level.NOTE, STAGE, words)
    said: list[Finding] = []
    for before, setup in zip(setups, setups[1:]):
        if setup.comes is not None:
            said += kinds[setup.comes.kind].checks(Coming(before, setup))
    for setup in job.setups:
        if setup.copies:
            message = f"{setup.title or setup.id} has {len(setup.copies)} more {'piece' if len(setup.copies) == 1 else 'pieces'} on the bed: one piece in a setup is planned so far."
            fix = Fix("set copies", {"setup": setup.id, "copies": ()}, "One piece only")
            said.append(Finding("register.copies", Level.STOP, STAGE, message, setup.id, fixes=(fix,)))
    return with_more(Report(STAGE, "not built yet", "not built yet", (), (not_built,), Gate.NOT_BUILT), said)
