# SPDX-License-Identifier: GPL-3.0-or-later
"""The card that goes with the files of a control that can't be linked: what to load, what to see before it starts, what to note while it runs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from PyQt6.QtGui import QPageSize

from gatepost.core.plan.file_check import file_check
from gatepost.core.plan.parted import PartFile, part_files
from gatepost.core.plan.planned import PlannedSetup, ProgramFile
from gatepost.core.plan.result import Plan
from gatepost.core.run.protection import protection
from gatepost.core.tools.feeds import IN_THE_AIR, rubbing_share
from gatepost.core.units import spell
from gatepost.desk.theme.style import FAMILY
from gatepost.desk.view.sheet import PROMISE, Paper, written

BOX = "<span style='font-size:17px'>☐</span>&nbsp;"
LINE = "_______________"
Files = Mapping[str, Sequence[PartFile]]  # by the name of their program


def control_card(plan: Plan, path: Path, files: Files | None = None) -> None:
    """As a PDF. files: see ``card_html``. Raises OperatorError."""

    def on(device: object) -> None:
        paper = Paper(device, f"{plan.job.name} · plan {plan.fingerprint}")  # type: ignore[arg-type]
        paper.words(card_html(plan, files))
        paper.end()

    written(f"{plan.job.name}: card for the control", path, QPageSize.PageSizeId.A4, on)


def _plain(plan: Plan, words: str) -> str:
    return spell(words, plan.job.unit).replace("&", "&amp;").replace("<", "&lt;")


def card_html(plan: Plan, files: Files | None = None) -> str:
    """Its words. files: that each program is written to, where they were worked out already."""
    m = plan.job.machine
    out = [f"<div style='font-family:\"{FAMILY}\"'><h1>{_plain(plan, plan.job.name)}: at the control</h1>"]
    out.append("<p>Load a file only where its name, and the program told in its first lines, are those below.</p>")
    for stop in m.stops:
        if not stop.name.endswith("here"):
            out.append(f"<p><b>{_plain(plan, stop.name)}</b>: {_plain(plan, stop.does)}.</p>")
    for setup in plan.setups:
        zero = setup.setup.zero
        out.append(
            f"<h2>{_plain(plan, setup.setup.title or setup.name)}: X0 Y0 at {zero.xy}, Z0 on the {zero.z}, in {m.dialect.offset}</h2>"
        )
        for program in setup.files:
            parts = files[program.name] if files is not None else part_files(plan, setup, program)
            out += _program(plan, setup, program, parts)
    for words in protection(plan.job.wood.name, plan.job.wood.kind, 24_000.0):
        out.append(f"<p>{words}</p>")
    return "".join(out) + f"<p>{PROMISE}</p></div>"


def _program(plan: Plan, setup: PlannedSetup, program: ProgramFile, parts: Sequence[PartFile]) -> list[str]:
    """One program's part: its files, what its own text says, and what is noted of it."""
    out = [f"<h3>{program.name}: {' and '.join(program.operations)}</h3>"]
    for part in parts:
        out.append(f"<p>{BOX} {part.name}, program {part.fingerprint}</p>")
    if len(parts) > 1:
        out.append("<p>All of them, in this order, with nothing changed between: neither bit nor zeros.</p>")
    check = file_check(setup, program, plan.job.machine)
    out += [f"<p>{BOX} {_plain(plan, words)}</p>" for words in (*check.wrong, *check.told)]
    rubs = 100.0 * rubbing_share(program.tool)
    out.append(
        f"<p>{BOX} First moves at {IN_THE_AIR * 100:.0f} % of the feed, a hand at the red button; in the wood not under {rubs:.0f} %: "
        "slower the bit rubs and burns, unless the spindle turns slower too.</p>"
    )
    out.append(f"<p>Began {LINE} minutes {LINE} feed kept at {LINE} % last line where it stopped {LINE}</p>")
    out.append(f"<p>It burnt, chattered, packed, lifted, fuzzed: {LINE}{LINE}</p>")
    return out
