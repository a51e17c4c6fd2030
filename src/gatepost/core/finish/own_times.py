# SPDX-License-Identifier: GPL-3.0-or-later
"""Minutes of hands by the shop's own record: what steps of the finish really took beside what shop rules say."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from gatepost.core.job.finish import Finish, OwnTime
from gatepost.core.run.learning import CutTaken, factor_of

CARVED_HERE, CARVED_SIMULATED = (
    "carved in the shop",
    "carved, simulated",
)  # what was done when a piece came from the machine
WOODS = ("soft", "medium", "hard")
BY_WOOD = ("clean up", "sand", "damp and sand")  # hands that it matters to which wood they are at


def record_of(finish: Finish, wood: str) -> dict[str, Any]:
    """What the shop's record keeps of a piece: its steps whose minutes were seen; nothing of one that was not cut in the shop. wood: soft, medium or hard."""
    if not any(d.work == CARVED_HERE for d in finish.done):
        return {}
    steps = [
        {"work": d.work, "planned": d.planned, "real": d.minutes}
        for d in finish.done
        if d.work not in ("", CARVED_HERE) and d.minutes > 0.0 and d.planned > 0.0
    ]
    return {"wood": wood, "steps": steps} if steps else {}


def taken_by_hands(records: Iterable[Mapping[str, Any]]) -> list[CutTaken]:
    """Steps of all jobs' records; nothing of what can't be read."""
    out = []
    for record in records:
        for row in record.get("steps") or ():
            try:
                planned, real = float(row["planned"]), float(row["real"])
            except (TypeError, ValueError, KeyError):
                continue
            if planned > 0.0 and real > 0.0:
                out.append(CutTaken("shop", str(row.get("work", "")), "", str(record.get("wood", "")), planned, real))
    return out


def own_times(taken: Sequence[CutTaken], today: str) -> tuple[OwnTime, ...]:
    """A factor for each kind of hands, by wood where that matters and there are enough of it; from three steps on (gatepost.core.run.learning)."""
    out = []
    for work in dict.fromkeys(t.kind for t in taken):
        mine = [t for t in taken if t.kind == work]
        woods = [
            w for w in WOODS if work in BY_WOOD and len({t.wood for t in mine}) > 1 and any(t.wood == w for t in mine)
        ]
        for wood in ("", *woods):
            found = factor_of([t for t in mine if wood in ("", t.wood)], work)
            if found is not None:
                out.append(
                    OwnTime(work=work, wood=wood, factor=_kept(found.factor, 0.06), within=_kept(found.within), spread=_kept(found.spread), count=found.count, taken=today)
                )  # fmt: skip
    return tuple(out)


def _kept(value: float, least: float = 1.0) -> float:
    return round(min(max(value, least), 20.0), 4)
