# SPDX-License-Identifier: GPL-3.0-or-later
"""How the machine drives, for times."""

from __future__ import annotations

from gatepost.core.job.model import Job
from gatepost.core.program.time import Drive


def drive_of(job: Job) -> Drive:
    """The machine's drive for timing."""
    m = job.machine
    return Drive((m.rapid_xy, m.rapid_xy, m.rapid_z), (m.accel_xy, m.accel_xy, m.accel_z), m.deviation)
