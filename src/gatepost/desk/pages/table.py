# SPDX-License-Identifier: GPL-3.0-or-later
"""Which page a stage has."""

from __future__ import annotations

from gatepost.core.job.model import Job
from gatepost.core.plan.kinds import SHIPPED, Kinds
from gatepost.desk.pages import blank, carve, finish, hold, machine, register, surface, tools, zero
from gatepost.desk.pages.entries import Group, Page

PAGES: dict[str, Page] = {
    "blank": blank.page, "surface": surface.page, "hold": hold.page, "zero": zero.page, "register": register.page, "carve": carve.page, "tools": tools.page,
    "run": machine.page, "finish": finish.page,
}  # fmt: skip


def entries(stage: str, job: Job, setup: str, kinds: Kinds = SHIPPED) -> tuple[Group, ...]:
    """What can be entered on a stage's page."""
    page = PAGES.get(stage)
    return page(job, setup, kinds) if page is not None else ()
