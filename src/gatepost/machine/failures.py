# SPDX-License-Identifier: GPL-3.0-or-later
"""How what is asked of a machine can fail."""

from __future__ import annotations

from gatepost.core.errors import OperatorError


class LinkLost(OperatorError):
    """The connection is gone; the machine may still be moving."""


class MachineRefused(OperatorError):
    """The machine would not, or stopped with a fault."""


class CalledOff(MachineRefused):
    """An operator stopped what was going on: nothing of it is done."""


class Overdue(OperatorError):
    """What was to be done takes far longer than it can: a pause has been asked for."""


class Questioned(OperatorError):
    """A read-out is far from what was expected: it is taken when it is given once more."""
