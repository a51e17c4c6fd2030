# SPDX-License-Identifier: GPL-3.0-or-later
"""Undo and redo over every command there is."""

from gatepost.core.job.file import Document
from gatepost.desk.context.document import DeskDocument
from tests.core.test_commands import EACH, full  # noqa: F401


def test_the_undo_stack_goes_back_and_forth_over_every_command(full, qapp):  # noqa: F811
    desk = DeskDocument(Document(full))
    jobs = [desk.job]
    for name in sorted(EACH, key=lambda n: (n.startswith(("remove", "take")), n)):  # what is taken away last
        if name in ("remove tool", "take back"):
            continue
        if desk.run(name, EACH[name]):  # one may take away what another is about
            jobs.append(desk.job)
    assert desk.dirty and len(jobs) > 0.85 * len(EACH)
    for job in reversed(jobs[:-1]):
        desk.stack.undo()
        assert desk.job == job
    assert not desk.dirty
    for job in jobs[1:]:
        desk.stack.redo()
        assert desk.job == job
