# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes jobs at random and keeps what is written of them: ``python -m tests.goldens.made`` writes told.json anew and says what
differs; with ``--jobs N`` it makes the jobs anew first.

A program is kept by its digest, its own and the plan's fingerprint blanked; plan.json by digests of its keys, figures rounded
to a millionth, so that a difference names where it is.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import random
import re
from collections.abc import Callable, Iterator
from importlib import resources
from pathlib import Path
from typing import Any

from gatepost.core.carve.edits import outlines
from gatepost.core.errors import OperatorError, UnknownCommand
from gatepost.core.job.file import Document, load, save
from gatepost.core.job.model import Job
from gatepost.core.plan.export import art_files, plan_json
from gatepost.core.plan.pipeline import plan
from tests.core.catalogue import JOBS, Edit, edited

HERE = Path(__file__).parent
TOLD, MADE = HERE / "told.json", HERE / "jobs"
SEED = 1205
PRINT = re.compile(r"\b[0-9a-f]{12}\b")
WORDS = ("LOCK", "QUAY 7", "TEA", "WHARF", "&", "No 3", "Iffley?")


def _varied(job: Job, chance: random.Random) -> Iterator[Edit]:
    """Changes that a shop would make, most of which keep the job sound."""
    pick, between = chance.choice, chance.uniform
    setup = pick([s.name for s in job.setups])
    hold = pick([h.name for h in job.setup(setup).holds] or [""])
    plate = job.carving.plate
    tool = pick((1, 2, 3))
    makes: list[Callable[[], Edit]] = [
        lambda: ("set zero", {"setup": setup, "xy": pick(("front left", "back right", "centre", "outline middle"))}),
        lambda: ("set zero", {"setup": setup, "xy": "mark", "x": round(between(5, 60), 1), "y": round(between(5, 40), 1)}),
        lambda: ("set zero", {"setup": setup, "z": pick(("top", "bed"))}),
        lambda: ("set zero", {"setup": setup, "touch_x": round(between(20, 100), 1), "touch_y": round(between(10, 20), 1)}),
        lambda: ("set skew", {"setup": setup, "degrees": round(between(-1.5, 1.5), 2)}),
        lambda: ("place blank", {"setup": setup, "x": round(between(100, 500)), "y": round(between(100, 320))}),
        lambda: ("set blank", {"shape": pick(("rectangle", "oval"))}),
        lambda: ("set blank", {"grain": round(between(-40, 40))}),
        lambda: ("set hold", {"setup": setup, "hold": hold, "force": round(between(900, 2500))}),
        lambda: ("set tool", {"number": tool, "feed": round(between(700, 2400)), "plunge": round(between(200, 600))}),
        lambda: ("set tool", {"number": tool, "length": round(between(30, 50), 1)}),
        lambda: ("set tool", {"number": 2, "pass_depth": round(between(1, 6), 1)}),
        lambda: ("set tool", {"number": 3, "angle": pick((60.0, 90.0, 120.0)), "tip": pick((0.0, 0.2))}),
        lambda: ("set carving", {"x": round(between(50, 70), 1), "y": round(between(34, 46), 1), "leading": round(between(0.4, 0.9), 2)}),
        lambda: ("set line", {"index": 0, "height": round(between(9, 18), 1), "tracking": round(between(0, 0.3), 2)}),
        lambda: ("set line", {"index": 0, **outlines(pick(WORDS), pick(("Sans", "Serif", "Slab", "Condensed")))}),
        lambda: ("set surfacing", {"limit": round(between(0.5, 2), 1), "stepover": round(between(0.2, 0.6), 2)}),
        lambda: ("set surfacing", {"direction": pick(("along X", "along Y", "along the grain", "at an angle")), "angle": round(between(-80, 80))}),
        lambda: ("set surfacing", {"path": pick(("rectangle", "outline")), "way": pick(("both ways", "climb")), "area": pick(("all", "used"))}),
        lambda: ("set surfacing", {"stop_after": pick((0, 1, 2)), "cleanup": round(between(0, 0.5), 1)}),
        lambda: ("set second face", {"present": True, "turn": pick(("about X", "about Y"))}),
        lambda: ("set machine", {"dialect": {"units": pick(("mm", "inch")), "line_numbers": pick((True, False)), "comments": pick(("brackets", "semicolon", "none")), "tool_change": pick(("separate", "pause", "word"))}}),
        lambda: ("set order", {"order": pick(((), ("lettering", "cut-out"), ("cut-out", "lettering")))}),
    ]  # fmt: skip
    if plate is not None:
        makes += [
            lambda: ("set plate", {"width": round(plate.width * between(0.85, 1.0), 1), "corner": round(between(2, 14), 1)}),
            lambda: ("set plate", {"tabs": pick((0, 2, 4, 6)), "tab_width": round(between(6, 12), 1), "tab_height": round(between(2, 6), 1)}),
            lambda: ("set plate", {"skin": pick((0.0, 0.6)), "allowance": pick((0.0, 0.2, 0.4))}),
        ]  # fmt: skip
    for _ in range(chance.randint(2, 7)):
        yield pick(makes)()


def jobs(count: int) -> Iterator[tuple[str, Job]]:
    """Jobs at random that have a program at least."""
    made, seed = 0, SEED
    while made < count:
        seed += 1
        chance = random.Random(seed)
        job = chance.choice(list(JOBS.values()))()
        for edit in _varied(job, chance):
            try:
                job = edited(job, edit)
            except UnknownCommand:
                raise
            except OperatorError:
                continue
        if any(s.programs for s in plan(job, coarse=True).setups):
            made += 1
            yield f"{made:02}", job


def told(job: Job) -> dict[str, Any]:
    """What is written of a job, as digests."""
    done = plan(job)
    values = plan_json(done, [])
    programs = {p.name: _digest(PRINT.sub("-", p.text)) for s in done.setups for p in s.programs}
    art = {name: _digest(text) for name, text in art_files(done).items()}
    return {"programs": programs, "art": art, "plan": _keys(values)}


def _keys(values: dict[str, Any]) -> dict[str, str]:
    """A digest for each key, two deep where there are several of a thing."""
    out: dict[str, str] = {}
    for key, value in values.items():
        if key == "fingerprint":
            continue
        if key in ("setups", "findings"):
            for n, one in enumerate(value):
                name = one.get("code") or one["name"]
                out |= {f"{key} {n} {name} {k}": _digest(_rounded(v)) for k, v in one.items() if key == "setups"}
                if key == "findings":
                    out[f"{key} {n} {one['stage']} {one['setup']} {name}"] = _digest(_rounded(one))
        else:
            out[key] = _digest(_rounded(value))
    return out


def _rounded(value: Any) -> Any:
    if isinstance(value, float):
        return round(value, 6) + 0.0
    if isinstance(value, dict):
        return {k: _rounded(v) for k, v in value.items()}
    if isinstance(value, (list, tuple)):
        return [_rounded(v) for v in value]
    return value


def _digest(value: Any) -> str:
    text = value if isinstance(value, str) else json.dumps(value, sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:10]


def files() -> list[Path]:
    """The demo jobs and those made at random."""
    shown = Path(str(resources.files("gatepost").joinpath("assets", "examples")))
    return [*sorted(shown.glob("*.gatepost")), *sorted(MADE.glob("*.gatepost"))]


def differences(before: dict[str, Any], after: dict[str, Any]) -> list[str]:
    """Where one differs from the other: job, kind, key."""
    found: list[str] = []
    for name in sorted({*before, *after}):
        old, new = before.get(name, {}), after.get(name, {})
        for kind in sorted({*old, *new}):
            here, there = old.get(kind, {}), new.get(kind, {})
            found += [f"{name}: {kind}: {k}" for k in sorted({*here, *there}) if here.get(k) != there.get(k)]
    return found


def main() -> None:
    """Write it anew."""
    asked = argparse.ArgumentParser(prog="python -m tests.goldens.made", description=main.__doc__)
    asked.add_argument("--jobs", type=int, default=0)
    wanted = asked.parse_args().jobs
    if wanted:
        MADE.mkdir(exist_ok=True)
        for old in MADE.glob("*.gatepost"):
            old.unlink()
        for name, job in jobs(wanted):
            save(Document(job), MADE / f"{name}.gatepost")
    before = json.loads(TOLD.read_text("utf-8")) if TOLD.exists() else {}
    after = {path.name: told(load(path).job) for path in files()}
    for line in differences(before, after) if before else []:
        print(line)
    TOLD.write_text(json.dumps(after, indent=0, sort_keys=True) + "\n", "utf-8")
    print(f"{len(after)} jobs, {sum(len(v['programs']) for v in after.values())} programs")


if __name__ == "__main__":
    main()
