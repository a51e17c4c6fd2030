# SPDX-License-Identifier: GPL-3.0-or-later
"""Findings, looked at by what they are of."""


def codes(findings):
    """By code."""
    return {f.code: f for f in findings}
