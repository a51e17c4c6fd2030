# SPDX-License-Identifier: GPL-3.0-or-later
"""Writes everything that a plan gives: programs, art, plan.json, run sheet, pictures."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Collection
from pathlib import Path
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.job.model import Job
from gatepost.core.plan.export import area_files, art_files, plan_json, target_files
from gatepost.core.plan.parted import part_files
from gatepost.core.plan.result import Plan
from gatepost.core.writing import write_whole


def write_all(
    plan: Plan, folder: Path, pictures: bool = True, on: Callable[[float], None] | None = None
) -> dict[str, Any]:
    """Write into a folder, made when missing; gives plan.json's values. on: while programs are shared out among files, is told what share of one is
    done; it may raise Cancelled, and nothing has been written then. Raises OperatorError."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise OperatorError(f"The folder {folder} can't be made: {error.strerror or error}.") from None
    names: list[str] = []
    parts = {p.name: part_files(plan, setup, p, on) for setup in plan.setups for p in setup.files}
    for part in (part for files in parts.values() for part in files):
        write_whole(folder / part.name, part.text.encode("ascii"))
        names.append(part.name)
    for name, text in (art_files(plan) | area_files(plan)).items():
        write_whole(folder / name, text.encode())
        names.append(name)
    for name, data in target_files(plan).items():
        write_whole(folder / name, data)
        names.append(name)
    if pictures:
        from gatepost.desk.view.control_card import control_card
        from gatepost.desk.view.pictures import write_pictures
        from gatepost.desk.view.sheet import run_sheet

        names += write_pictures(plan, folder)
        run_sheet(plan, folder / "run-sheet.pdf")
        names.append("run-sheet.pdf")
        control_card(plan, folder / "card.pdf", parts)
        names.append("card.pdf")
    names.append("plan.json")
    values = plan_json(plan, names, suggest=True)
    write_whole(folder / "plan.json", (json.dumps(values, ensure_ascii=False, indent=1) + "\n").encode())
    return values


def nest_program(job: Job, index: int) -> tuple[str, str]:
    """The program that cuts a nest's opening, zero at its stop corner and Z0 on the bed, and what to know of it. Raises
    OperatorError."""
    from gatepost.core.frames import Matrix
    from gatepost.core.hold.nest import moves
    from gatepost.core.program.write import Head, write

    nests = job.machine.bed.nests
    if not 0 <= index < len(nests):
        raise OperatorError("There is no such nest on this bed.")
    nest = nests[index]
    radius = nest.relief + 1e-9
    tool = next((t for t in job.tools if t.kind == "flat" and t.diameter / 2.0 <= radius), None)
    if tool is None:
        raise OperatorError(
            f"No flat cutter of this job is thin enough for corners relieved by {nest.relief:g} mm. Relieve them more, or add a tool."
        )
    head = Head(nest.name, "nest", tool, f"X0 Y0 at the {nest.corner} corner of its opening, Z0 on the bed", Matrix())
    text = write(moves(nest, tool), head, job.machine.dialect)
    return text, (
        f"X0 Y0 at the {nest.corner} corner of the opening, Z0 on the bed, tool {tool.number}. The board of the nest is "
        f"{nest.height:g} mm thick; hold it outside the opening."
    )


ENDINGS = (".nc", ".ngc", ".tap", ".gcode", ".cnc")
HEAD = 2000  # bytes of a file in which its head stands
SAYS = re.compile(r"GATEPOST (.+?) - .+? - program ([0-9a-f]{12})")


def superseded(plan: Plan, folder: Path, written: Collection[str] = ()) -> list[str]:
    """Names of programs in a folder that were written for a job of this name and that its plan does not write now: none of them is to be run.
    written: names of files that were written there just now."""
    from gatepost.core.program.write import plain_text

    own = {p.fingerprint for s in plan.setups for p in s.files}
    name = plain_text(plan.job.name)
    found: list[tuple[str, str]] = []
    for path in sorted(folder.iterdir()) if folder.is_dir() else ():
        if path.name in written or path.suffix.lower() not in ENDINGS or not path.is_file():
            continue
        try:
            with path.open("rb") as file:
                said = SAYS.search(file.read(HEAD).decode("ascii", "replace"))
        except OSError:
            continue
        if said is not None and said[1] == name and said[2] not in own:
            found.append((path.name, said[2]))
    if found:
        own = {part.fingerprint for s in plan.setups for p in s.files for part in part_files(plan, s, p)}
    return [file for file, mark in found if mark not in own]


def superseded_words(names: list[str]) -> str:
    """What is told of them; nothing where there are none."""
    if not names:
        return ""
    more = f" and {len(names) - 3} more" if len(names) > 3 else ""
    return f" Beside them lie programs of this job that its plan does not write any more: {', '.join(names[:3])}{more}. Take them away before one is loaded by mistake."
