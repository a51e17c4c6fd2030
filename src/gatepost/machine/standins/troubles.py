# SPDX-License-Identifier: GPL-3.0-or-later
"""What goes wrong during a program, where that is practised."""

from __future__ import annotations

from gatepost.machine.standins.messages import MISSED, SLIPPED
from gatepost.machine.standins.state import RouterState


def goes_wrong(m: RouterState) -> None:
    """What befalls a program that is well under way."""
    if "missed steps" in m.trouble:
        m.trouble.discard("missed steps")
        m.slip[0] += MISSED
    if "tool slips" in m.trouble:
        m.trouble.discard("tool slips")
        m.longer += SLIPPED
    if "power loss" in m.trouble:
        m.trouble.discard("power loss")
        m.cut_power()
