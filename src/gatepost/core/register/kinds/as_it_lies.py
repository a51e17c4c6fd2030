# SPDX-License-Identifier: GPL-3.0-or-later
"""The piece stays where it is."""

from __future__ import annotations

from gatepost.core.findings import Finding, Fix, Level
from gatepost.core.job.register import AsItLies
from gatepost.core.job.turning import FACES, lies
from gatepost.core.register.kind import STAGE, Coming, ComingTold, RegisterKind
from gatepost.core.units import mm

STILL = 0.005  # mm and degrees that are no move


class AsItLiesKind(RegisterKind):
    """Not moved from the setup before."""

    figures, one, moved = AsItLies, "as it lies", False
    laying = "Leave the board where it lies, its corner at {where}."

    def told(self, coming: Coming) -> ComingTold:
        """Whether it lies as it lay."""
        return ComingTold(findings=tuple(self._checks(coming)))

    def _checks(self, coming: Coming) -> list[Finding]:
        """It must lie with the same face up, in the same place, turned by as much."""
        before, now = coming.before, coming.setup
        name = now.title or now.id
        if lies(before) != lies(now):
            message = f"{name} goes on with the board as it lies, but before it the {FACES[before.up]} is up and turned by {before.spin}°, and here the {FACES[now.up]} by {now.spin}°."
            fix = Fix("set register", {"setup": now.id, "kind": "turned"}, "It is turned before this setup")
            return [Finding("register.not-as-it-lies", Level.STOP, STAGE, message, now.id, fixes=(fix,))]
        said: list[Finding] = []
        if abs(before.x - now.x) > STILL or abs(before.y - now.y) > STILL:
            message = f"{name} goes on with the board as it lies, but its corner is at X {mm(now.x)}, Y {mm(now.y)} here and at X {mm(before.x)}, Y {mm(before.y)} before."
            here = Fix("place blank", {"setup": now.id, "x": before.x, "y": before.y}, "Lay it where it lay")
            said.append(Finding("register.moved", Level.STOP, STAGE, message, now.id, fixes=(here,)))
        if abs(before.skew - now.skew) > STILL:
            message = f"{name} goes on with the board as it lies, but here it lies turned by {now.skew:g}° and before by {before.skew:g}°."
            same = Fix("set skew", {"setup": now.id, "degrees": before.skew}, f"Turned by {before.skew:g}° here too")
            said.append(Finding("register.skewed", Level.STOP, STAGE, message, now.id, fixes=(same,)))
        return said
