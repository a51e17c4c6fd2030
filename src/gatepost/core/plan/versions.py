# SPDX-License-Identifier: GPL-3.0-or-later
"""Versions of a design, one after another: what was wrong with each, what moved to the next, who approved it, and how its piece came out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.job.commands.designs import FIRST, approval_of, design_of
from gatepost.core.job.model import Job
from gatepost.core.log.judged import Result
from gatepost.core.plan.changes import changes
from gatepost.core.plan.kinds import SHIPPED, Kinds


@dataclass(frozen=True)
class Version:
    """A design of a job. id: nothing for the one that is worked on; moved: what is other in the one that is worked on, in sentences; why: what was wrong with it; approved: by whom and when, stands:
    whether it is still as it was then; results: how its pieces came out, newest first."""

    id: str
    title: str
    why: str
    moved: tuple[str, ...]
    approved: str
    stands: bool
    results: tuple[str, ...]

    def told(self) -> tuple[str, ...]:
        """In sentences, without what moved."""
        out = [f"What was wrong with it: {self.why}"] if self.why else []
        if self.approved:
            out.append(
                f"Approved by {self.approved}" + ("." if self.stands else ", and changed since: it counts no more.")
            )
        return (*out, *self.results[:2])


def versions(job: Job, results: Sequence[Result], kinds: Kinds = SHIPPED) -> tuple[Version, ...]:
    """The one that is worked on, then the others as they were kept. results: of this job."""
    return tuple(_version(job, id, results, kinds) for id in ("", *(d.id for d in job.designs)))


def taken(job: Job, id: str) -> Job:
    """The job with another of its designs worked on. Raises OperatorError."""
    return commands.run(job, "take design", {"design": id}) if id else job


def _version(job: Job, id: str, results: Sequence[Result], kinds: Kinds) -> Version:
    design = design_of(job, id)
    try:
        moved = tuple(changes(taken(job, id), job, kinds)) if id else ()
    except OperatorError as error:
        moved = (str(error),)
    approval = approval_of(job, id)
    said, stands = "", False
    if approval is not None:
        one, stands = approval
        said = f"{one.by}{f', {one.at[:10]}' if one.at else ''}{f': {one.words}' if one.words else ''}"
    mine = [r for r in results if (r.design or FIRST) == design.title]
    told = tuple(f"{r.at[:10]}{'' if r.kind == 'shop' else ', simulated'}: {r.told()}" for r in mine)
    return Version(id, design.title, design.why, moved, said, stands, told)
