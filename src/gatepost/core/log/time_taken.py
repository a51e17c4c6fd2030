# SPDX-License-Identifier: GPL-3.0-or-later
"""What a job was planned to take, and what it took in the shop: minutes at the machine, minutes preparing, and what that comes to in money."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from gatepost.core.finish.cost import cost
from gatepost.core.finish.report import Finished, what_costs
from gatepost.core.log.diary import DiaryLine, minutes_worked

if TYPE_CHECKING:
    from gatepost.core.log.filtering import RunRow


@dataclass(frozen=True)
class TimeTaken:
    """Of one board, in the middle of those that were made. boards: that were; cutting, preparing: minutes, planned and real, real is nothing where nobody could have seen it; cost: the same in the shop's money,
    nothing without rates; money: its sign."""

    boards: int
    cutting: tuple[float, float]
    preparing: tuple[float, float | None]
    cost: tuple[float, float] | None = None
    money: str = ""

    def told(self) -> str:
        """In sentences."""
        planned, real = self.cutting
        of = "" if self.boards == 1 else f" for each of {self.boards}"
        out = [f"At the machine {real:.0f} min{of}, {planned:.0f} planned."]
        before, took = self.preparing
        if took is not None:
            out.append(f"Preparing and looking after {took:.0f} min, {before:.0f} planned.")
        if self.cost is not None:
            out.append(f"Cost {self.cost[1]:.2f} {self.money}".rstrip() + f", {self.cost[0]:.2f} planned.")
        return " ".join(out)


def time_taken(programs: Sequence[str], runs: Sequence[RunRow], lines: Sequence[DiaryLine], s: Finished | None) -> TimeTaken | None:  # fmt: skip
    """programs: of the job, each of which is run once for a board; runs, lines: of the job, of which the shop's alone count. Nothing where a program has not been run there to its end yet."""
    done = [r for r in runs if r.kind == "shop" and r.state == "done" and r.real_minutes is not None]
    each = {name: [r for r in done if r.program == name] for name in programs}
    if not each or not all(each.values()):
        return None
    boards = max(len(mine) for mine in each.values())
    planned = sum(sum(r.planned_minutes for r in mine) / len(mine) for mine in each.values())
    real = sum(sum(r.real_minutes or 0.0 for r in mine) / len(mine) for mine in each.values())
    worked = minutes_worked(lines)["preparing"] / boards
    at_all = what_costs(s) if s is not None else None
    before = at_all.preparing if at_all is not None else 0.0
    took = worked if worked >= 1.0 else None
    rates = s.work.finish.rates if s is not None else None
    money = None
    if at_all is not None and rates is not None and (rates.hands or rates.machine or rates.wood):
        told = replace(
            at_all, cutting=real, preparing=max(took - rates.preparation, 0.0) if took is not None else before
        )
        money = (cost(at_all, rates).cost.result, cost(told, rates).cost.result)
    return TimeTaken(boards, (planned, real), (before + (rates.preparation if rates is not None else 0.0), took), money, rates.money if rates is not None else "")  # fmt: skip
