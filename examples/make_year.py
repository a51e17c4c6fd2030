# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes a year at Fennick Wharf: what a shop's log holds after one, from plans of the example jobs, seeded. ``make_year.py``: writes year.json among the examples.

Days are told before today, so that the year always ends now. Minutes are planned ones times what this made-up shop is like: each kind of cut takes a little longer than planned, soft wood fuzzes, a blunt
bit burns; carving comes out a little deep.
"""

from __future__ import annotations

import json
import random
import sys
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "src"))

JOBS = {
    "quay-plate": ("elm", "oak"), "lock-7-name-board": ("elm",), "tea-room-sign": ("larch",), "sixteen-mileposts": ("oak",), "raised-milepost": ("oak", "ash"),
    "bench-rail": ("oak",), "heron-panel": ("lime",),
}  # fmt: skip
LASTS = {"vcut": 1.12, "cutout": 1.06, "ground": 1.09, "recess": 1.09, "relief": 1.02, "surface": 1.04, "line": 1.1}
SPREAD = 0.06
SAID = {
    "elm": ["fuzz at the ends of strokes", "went well", "a knot under the R: slowed down there"],
    "oak": ["burned in the corners at 70 %", "clean at 115 %", "burned where it turns", "went well"],
    "larch": ["resin on the bit: cleaned it half-way", "torn where the grain rises", "went well"],
    "ash": ["chatter at the deep end", "went well"], "lime": ["cuts like butter", "went well"],
}  # fmt: skip
MARKS = {"oak": "burning", "ash": "chatter", "elm": "fuzz", "larch": "resin", "lime": "odd sound"}
HANDS = ("Wyn", "Ash", "Marit")
DEEP = 0.06  # mm that carving comes out deeper than promised here
RUNS = 600


def plans() -> dict[str, Any]:
    """Each example planned."""
    from gatepost import running
    from gatepost.core.job.file import load
    from gatepost.core.plan.pipeline import plan

    out = {}
    for name in JOBS:
        document = load(running.example(f"{name}.gatepost"))
        out[name] = plan(document.job, document.journal)
        print(name, file=sys.stderr)
    return out


def year(seed: int = 7) -> dict[str, Any]:
    """The whole of it, as plain values. before: days before today."""
    from gatepost.core.plan.promised import promised
    from gatepost.machine.keeping import row_of

    rng = random.Random(seed)
    known = plans()
    names = sorted(known)
    runs: list[dict[str, Any]] = []
    results: list[dict[str, Any]] = []
    before = 365
    while before > 1 and len(runs) < RUNS:
        name = rng.choice(names)
        plan = known[name]
        wood = rng.choice(JOBS[name])
        minute = rng.randint(0, 90)
        for setup in plan.setups:
            for program in setup.programs:
                row = row_of(plan, setup, program.name, "shop", "")
                row["blank"] = row["blank"].replace(plan.job.wood.name, wood, 1)
                row["wood"] = wood
                cuts = [
                    {**c, "real": round(c["planned"] * LASTS.get(c["kind"], 1.05) * rng.lognormvariate(0, SPREAD), 4)}
                    for c in row["cuts"]
                ]
                real = sum(c["real"] for c in cuts)
                early = rng.random() < 0.04
                words = rng.choice(SAID[wood]) if rng.random() < 0.6 else ""
                feeds = (
                    [{"minute": 1, "block": 40, "percent": rng.choice([70.0, 85.0, 115.0])}]
                    if "%" in words or rng.random() < 0.12
                    else []
                )
                row |= {
                    "cuts": cuts, "before": before, "minute": minute, "real_minutes": round(real, 2), "state": "stopped" if early else "done", "remarks": words,
                    "reason": "stopped by hand" if early else "", "blocks_done": row["blocks"] // 2 if early else row["blocks"], "fed": feeds,
                    "said": [{"minute": 2, "block": 90, "what": MARKS[wood]}] if rng.random() < 0.2 else [], "zeros": {"x": -900.0, "y": -440.0, "z": round(-62 + rng.gauss(0, 3), 2)},
                }  # fmt: skip
                for gone in ("started", "path"):  # told when it is put in
                    row.pop(gone)
                runs.append(row)
                minute += round(real) + rng.randint(6, 25)
        if rng.random() < 0.55:
            results.append(_judged(rng, plan, promised(plan), before, wood))
        before -= rng.choice((1, 2, 2, 3, 4, 6))
    return {
        "runs": runs,
        "results": results,
        "lessons": lessons(known),
        "checks": checks(),
        "handovers": handovers(rng),
    }


def _judged(rng: random.Random, plan: Any, asked: Any, before: int, wood: str) -> dict[str, Any]:
    points = []
    for p in asked.points:
        found = None
        if p.figure is not None and rng.random() < 0.8:
            off = DEEP if p.key.startswith("depth") else 0.0
            found = round(max(0.0, p.figure + off + rng.gauss(0.0, 0.4 * p.within)), 2)
        points.append(
            {"key": p.key, "words": p.words, "figure": p.figure, "within": p.within, "at": p.at, "found": found, "good": None if found is not None else rng.random() < 0.9, "said": ""}
        )  # fmt: skip
    words = rng.choice(("", "", "To be hung higher next time.", "They liked it."))
    return {
        "job": plan.job.name,
        "before": before,
        "fingerprint": plan.fingerprint,
        "points": points,
        "words": words,
        "wood": wood,
    }


def lessons(known: dict[str, Any]) -> list[dict[str, Any]]:
    """What this shop has learned."""
    vee = next(op.tool for s in known["quay-plate"].setups for op in s.operations if op.kind == "vcut")
    plain = {
        "stage": "tools",
        "wood": "",
        "tool": "",
        "kind": "",
        "hold": "",
        "machine": "",
        "amount": "",
        "bad": None,
        "good": None,
        "run": 0,
    }
    return [
        {**plain, "words": "Burned in the corners: feed faster", "wood": "oak", "tool": vee.name, "kind": "vcut", "amount": "feed", "bad": vee.feed, "good": round(1.3 * vee.feed), "before": 210, "held": 4, "failed": 1},
        {**plain, "words": "Fuzz across the grain: a light pass again at full depth takes it off", "wood": "elm", "kind": "vcut", "before": 300, "held": 5, "failed": 0},
        {**plain, "words": "Resin sticks to the bit: wipe it with spirit after every board, spindle off and isolated", "wood": "larch", "before": 120, "held": 2, "failed": 0},
        {**plain, "words": "Tape let go where the board was dusty: wipe it first, and wait ten minutes", "stage": "hold", "hold": "tape", "before": 260, "held": 3, "failed": 0},
        {**plain, "words": "Straps at the thin end lift the middle: a third one there", "stage": "hold", "hold": "strap", "wood": "elm", "before": 90, "held": 1, "failed": 1},
        {**plain, "words": "Ash chatters at the deep end: half the depth of a pass", "wood": "ash", "kind": "vcut", "amount": "pass_depth", "bad": 3.0, "good": 1.5, "before": 45, "held": 0, "failed": 0},
    ]  # fmt: skip


def checks() -> list[dict[str, Any]]:
    """When each thing was seen to last."""
    days = (40, 120, 9, 200, 150, 190, 6, 12, 25)
    from gatepost.core.log.due import SHIPPED

    return [
        {"name": c.name, "before": d, "by": HANDS[i % 3], "found": "as it should be"}
        for i, (c, d) in enumerate(zip(SHIPPED, days))
    ]


def handovers(rng: random.Random) -> list[dict[str, Any]]:
    """A few."""
    return [
        {
            "before": d,
            "from_": HANDS[i % 3],
            "to": HANDS[(i + 1) % 3],
            "told": rng.choice(("", "One collet is worn: do not use it.")),
        }
        for i, d in enumerate((330, 200, 75, 12))
    ]


if __name__ == "__main__":
    out = ROOT / "src" / "gatepost" / "assets" / "examples" / "year.json"
    out.write_text(
        json.dumps(year(), ensure_ascii=False, indent=None, separators=(",", ":")).replace('},{"setup"', '},\n{"setup"')
        + "\n",
        "utf-8",
    )
