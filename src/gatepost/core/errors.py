# SPDX-License-Identifier: GPL-3.0-or-later
"""The one small family of errors that reach an operator, each with a sentence that says what to do."""

from __future__ import annotations


class OperatorError(Exception):
    """Something an operator can mend; ``str(error)`` is a sentence they understand."""


class UnusableFile(OperatorError):
    """A file that can't be used as it is: damaged, of another kind, or newer than this version."""


class UnknownCommand(OperatorError):
    """An edit that is not in the table of commands, or is given values that it does not take."""


class Cancelled(Exception):
    """Long work was asked to end."""
