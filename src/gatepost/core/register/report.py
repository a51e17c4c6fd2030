# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Register stage says."""

from __future__ import annotations

from collections.abc import Sequence

from gatepost.core.findings import Figure, Finding, Fix, Gate, Level, Report, Table, gate_of
from gatepost.core.job.model import Job, Setup
from gatepost.core.register.growing import faces, growing
from gatepost.core.register.kind import STAGE, Coming, ComingTold, RegisterKinds
from gatepost.core.register.proof import Proved
from gatepost.core.register.proof import told as told_of
from gatepost.core.register.reading import reading
from gatepost.core.register.repeats import PartCut
from gatepost.core.register.repeats import told as told_of_parts


def report(
    job: Job,
    comings: Sequence[Coming],
    kinds: RegisterKinds,
    setups: Sequence[Setup] = (),
    done: frozenset[str] = frozenset(),
    proofs: Sequence[Proved] = (),
    parts: Sequence[PartCut] = (),
    more: ComingTold | None = None,
) -> Report:
    """comings: of every setup that is planned after another; setups: all that are planned; done: those that were run; proofs: of those whose place is proved; parts: of a batch, as far as they were begun; more: of what is there already."""
    figures: list[Figure] = []
    said: list[Finding] = []
    tables: list[Table] = []
    facts: list[str] = []
    for coming in comings:
        comes = coming.setup.comes
        if comes is None:
            if coming.over and coming.setup.operations:
                said.append(_touched_anew(coming, kinds))
            continue
        kind = kinds[comes.kind]
        told = kind.told(coming)
        figures += told.figures
        said += told.findings
        tables += told.tables
        facts.append(kind.one)
        worst = [f.value for f in told.figures if f.label.endswith("at worst") and isinstance(f.value, float)]
        grown = growing(job, coming.setup, coming.now, worst[0] if worst else None)
        said += grown[0]
        tables += grown[1]
    for proof in proofs:
        seen = told_of(proof)
        figures += seen.figures
        said += seen.findings
        tables += seen.tables
    if more is not None:
        figures += more.figures
        said += more.findings
        tables += more.tables
    batch = told_of_parts(job.repeats, parts)
    figures += batch.figures
    said += batch.findings
    tables += batch.tables
    tables += faces(job, setups, done)
    read = reading(job, setups)
    said += read[0]
    tables += read[1]
    for setup in job.setups:
        if setup.copies:
            message = f"{setup.title or setup.id} has {len(setup.copies)} more {'piece' if len(setup.copies) == 1 else 'pieces'} on the bed: one piece in a setup is planned so far."
            fix = Fix("set copies", {"setup": setup.id, "copies": ()}, "One piece only")
            said.append(Finding("register.copies", Level.STOP, STAGE, message, setup.id, fixes=(fix,)))
    if not facts and not any(coming.over for coming in comings) and not said:
        return Report(STAGE, "nothing to find", "nothing is turned over or brought back", gate=Gate.NOT_NEEDED)
    fact = ", ".join(dict.fromkeys(facts)) or _few(comings, proofs, job)
    line = (
        "how the piece comes from one setup into the next"
        if comings
        else "where the piece lies, and what is there already"
    )
    return Report(STAGE, fact, line, tuple(figures), tuple(said), gate_of(tuple(said)), tuple(tables))


def _few(comings: Sequence[Coming], proofs: Sequence[Proved], job: Job) -> str:
    """What there is, in few words, where nothing is found again by a way of its own."""
    if any(coming.over for coming in comings):
        return "laid down again"
    if proofs:
        return "proved before it is cut"
    if job.repeats is not None and job.repeats.parts > 1:
        return f"{job.repeats.parts} parts of it"
    return "looked at"


def _touched_anew(coming: Coming, kinds: RegisterKinds) -> Finding:
    """Turned over and touched off anew: each face is as good as its own touching."""
    message = f"In {coming.name} the board is turned over and X0 Y0 is touched anew: what is cut there lies as well as both touchings do, and a board that is not as long or as wide as it was measured moves it."
    fixes = (Fix("add pins", {"setup": coming.setup.id}, "Lay it on two pins"),) if "pins" in kinds else ()
    return Finding("register.touched-anew", Level.NOTE, STAGE, message, coming.setup.id, fixes=fixes)
