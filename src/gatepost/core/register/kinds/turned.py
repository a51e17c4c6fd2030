# SPDX-License-Identifier: GPL-3.0-or-later
"""The piece is turned over, stood on another face, or turned on its plane."""

from __future__ import annotations

from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.register import TurnedBy
from gatepost.core.job.turning import FACES, lies
from gatepost.core.register.kind import STAGE, Coming, ComingTold, RegisterKind


class TurnedKind(RegisterKind):
    """Turned since the setup before."""

    figures, one = TurnedBy, "turned"

    def told(self, coming: Coming) -> ComingTold:
        """Another face must be up, or the same turned otherwise."""
        before, now = coming.before, coming.setup
        if lies(before) != lies(now):
            return ComingTold()
        message = (
            f"{now.title or now.id} is said to be turned, but the {FACES[now.up]} is up as before, turned by as much."
        )
        fix = Fix("set register", {"setup": now.id, "kind": ""}, "It is laid down again, not turned")
        return ComingTold(findings=(Finding("register.not-turned", Level.STOP, STAGE, message, now.id, fixes=(fix,)),))
