# SPDX-License-Identifier: GPL-3.0-or-later
"""Sixty jobs as the last version of format 4 wrote them, and the number that its log gave each."""

from pathlib import Path

HERE = Path(__file__).parent
MADE = HERE / "jobs"
