# SPDX-License-Identifier: GPL-3.0-or-later
"""What the worker finds of how a piece comes from one face to the other, and of what is cut again."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

from gatepost.core.cache import Memory
from gatepost.core.errors import Cancelled, OperatorError
from gatepost.core.job.model import Job

SWEPT_ANEW = (
    "zero.travel",
    "hold.clearance",
    "wood.rapid",
)  # told of a file as it stands; it is written anew, and held against these again
LEAST = 0.01  # of the whole that a share must have grown by to be told


def rim(job: Job, setup: str, goes_on: Callable[[float], bool]) -> Mapping[str, Any]:
    """A stepped rim for what is cut out before a setup. goes_on: is told how far it is, and says whether it is still wanted. Raises OperatorError."""
    from gatepost.core.plan.nesting import rim_for

    told = 0.0

    def on(share: float) -> None:
        nonlocal told
        if share - told >= LEAST:
            told = share
            if not goes_on(share):
                raise Cancelled("rim")

    try:
        return rim_for(job, setup, on)
    except Cancelled:
        raise OperatorError("The rim was called off: the plate is cut out as it was.") from None


def either(job: Job, memory: Memory) -> str:
    """Either of two faces first, compared, in words; called off when a plan is wanted. Raises OperatorError."""
    from gatepost.core.plan.either import either_first, in_words

    try:
        return in_words(either_first(job, memory))
    except Cancelled:
        raise OperatorError("It was called off: the job was changed meanwhile. Compare them once more.") from None


def again(plan: Any, setup: str, wanted: Any, ran: Any, deeper: float) -> Any:
    """Something cut again alone: its program, swept, and the step by which it is run."""
    from gatepost.core.plan.again import again as cut_again

    return cut_again(plan, setup, wanted, ran, deeper)


def made_elsewhere(plan: Any, setup: str, path: str, ran: Any) -> Any:
    """A program made elsewhere, checked against the plan and swept: it, its step, and what is to be known of it. Raises OperatorError."""
    from gatepost.checks import program_complaints, read_text
    from gatepost.core.plan.imported import imported
    from gatepost.core.program.read import read

    found = program_complaints(Path(path), None, plan)
    stops = [c["message"] for c in found if c["level"] == "stop" and c["code"] not in SWEPT_ANEW]
    if stops:
        raise OperatorError(f"Not to be run. {Path(path).name}: {stops[0]}.")
    text = read_text(Path(path))
    tools = read(text).tools
    taken, step = imported(plan, setup, tools[0] if tools else 0, Path(path).name, text, ran)
    return taken, step, [f"{c['message'][:1].upper()}{c['message'][1:]}." for c in found if c["level"] == "care"]


def ready(plan: Any, paths: Any, now: Any, memory: Memory, goes_on: Callable[[float], bool]) -> Any:
    """When the job that is shown and others, in files, are ready. goes_on: is told what share of them is planned, and says whether it is still wanted. Raises OperatorError."""
    from gatepost.core.finish.together import together
    from gatepost.core.job.file import load
    from gatepost.core.plan.pipeline import plan as planned

    jobs, said, done = [(plan.job.name, plan.finishing)], [], 0

    def on(node: str) -> None:
        if not goes_on(done / len(paths)):
            raise Cancelled(node)

    memory.progress = on
    try:
        for path in paths:
            try:
                document = load(Path(path))
                jobs.append((document.job.name, planned(document.job, document.journal, memory).finishing))
            except OperatorError as error:
                said.append(f"{Path(path).name} is left out: {error}")
            done += 1
    except Cancelled:
        raise OperatorError("It was called off. Ask once more.") from None
    finally:
        memory.progress = None
    found = together(jobs, now)
    return replace(found, said=(*found.said, *said))


def over_plan(
    plan: Any, setup: str, data: bytes, name: str, marks: list[tuple[float, float]], size: tuple[float, float]
) -> Any:
    """A photo of the finished piece laid over its plan. marks: px of the photo. Raises OperatorError."""
    import numpy as np

    from gatepost.core.blank.trace import decoded
    from gatepost.core.log.over_plan import laid_over
    from gatepost.core.plan.photo_over import face_of

    return laid_over(decoded(data, name), np.array(marks, np.float64).reshape(-1, 2), size, face_of(plan, setup).shapes)
