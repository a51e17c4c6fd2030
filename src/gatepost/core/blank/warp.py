# SPDX-License-Identifier: GPL-3.0-or-later
"""A bowed board: how many holds keep it down, how far what is cut free springs up, and what keeps that down.

A board bent evenly with a gap over its whole length has, over a part of it, a gap in the square of the share: gap·(part/length)². What
presses such a part flat is, spread evenly along it, 384·E·I·gap / (5·length³), I = width·thickness³/12 (a beam on two supports under an even
load; any textbook of strength of materials).
"""

from __future__ import annotations

from gatepost.core.findings import Finding, Level
from gatepost.core.job.model import Job
from gatepost.core.units import mm
from gatepost.core.working import Named, Working, working

BETWEEN = 0.3  # mm that a board may stand off the bed between two holds
STIFFNESS = {"soft": 9000.0, "medium": 11000.0, "hard": 12500.0}  # N/mm² along the grain
SHOP = "the board bent evenly along its length; how stiff the wood is, from tables of common woods"


def holds_along(job: Job, bow: float) -> Working:
    """How many holds along each long edge leave no more than BETWEEN under the board between two of them."""
    return working(
        "1 + ceil(length / (length * sqrt(allowed / gap)))", Named("length", max(job.blank.across)), Named("allowed", BETWEEN), Named("gap", bow),
        unit="count", assumption="gap between two holds = gap · (span / length)²", shop_rule=True,
    )  # fmt: skip


def springs(job: Job, bow: float, long: float) -> Working:
    """How far a part of a length springs up once it is free, mm."""
    return working(
        "gap * (part / length) ** 2",
        Named("gap", bow),
        Named("part", long),
        Named("length", max(job.blank.across)),
        assumption=SHOP,
    )


def keeps_flat(job: Job, up: float, long: float, wide: float, thick: float) -> Working:
    """N that keep a part flat which would spring up by so much."""
    return working(
        "384 * stiff * wide * thick ** 3 / 12 * up / (5 * part ** 3)", Named("stiff", STIFFNESS[job.wood.kind], "N/mm²"), Named("wide", wide),
        Named("thick", thick), Named("up", up), Named("part", long), unit="force", assumption=SHOP, shop_rule=True,
    )  # fmt: skip


def plates(job: Job) -> list[tuple[str, float, float]]:
    """What is cut out: its name, length along the board and width."""
    along = job.blank.across[0] >= job.blank.across[1]
    out = []
    for setup in job.setups:
        for o in setup.operations:
            plate = job.plate(o)
            if plate is not None:
                sizes = (plate.width, plate.height) if along else (plate.height, plate.width)
                out.append((o.title or o.id, *sizes))
    return out


def findings(job: Job, thick: float) -> list[Finding]:
    """What a bow comes to. thick: mm of the board when it is cut out."""
    bow = job.blank.bow
    if bow <= 0.0:
        return []
    count = holds_along(job, bow)
    words = (
        f"It stands {mm(bow, 2)} off under a straightedge: {count.result:.0f} holds along each long edge leave {mm(BETWEEN)} at most between two. "
        "Shim it where it is hollow rather than pull it flat."
    )
    said = [Finding("blank.bow", Level.NOTE, "blank", words, working=count)]
    for name, long, wide in plates(job):
        up = springs(job, bow, long)
        force = keeps_flat(job, up.result, long, wide, thick)
        if up.result < BETWEEN:
            continue
        words = (
            f"{name[:1].upper()}{name[1:]} may spring up by {mm(up.result, 2)} when it comes free; pressed flat until then, it pulls at its tabs with about "
            f"{force.result:.0f} N beside the cut's push. Surface it as it lies, on shims, or leave a skin and free it by hand."
        )
        said.append(Finding("blank.springs", Level.CARE, "blank", words, working=force, about=name))
    return said


def springs_up(job: Job) -> float:
    """The most that anything cut out may spring up, mm."""
    bow = job.blank.bow
    return max((springs(job, bow, long).result for _, long, _ in plates(job)), default=0.0) if bow > 0.0 else 0.0
