# SPDX-License-Identifier: GPL-3.0-or-later
"""A quotation: the sign as it will look, its size, wood and finish, when it can be ready and its price; what it costs the shop only where that is asked for."""

from __future__ import annotations

from datetime import date, datetime
from pathlib import Path

from PyQt6.QtGui import QPageSize

from gatepost.core.errors import OperatorError
from gatepost.core.finish.cost import in_money
from gatepost.core.finish.progress import alone
from gatepost.core.finish.report import Finished, cost_of, price_of_each
from gatepost.core.finish.scheme import WORDS
from gatepost.core.plan.result import Plan
from gatepost.core.units import show_length, spell
from gatepost.desk.theme.style import FAMILY
from gatepost.desk.view.pictures import gui
from gatepost.desk.view.sheet import Paper, sign_on, written


def quotation(plan: Plan, path: Path, inside: bool = False, now: datetime | None = None) -> None:
    """As a PDF. inside: with what it costs the shop, part by part. Raises OperatorError where no rates are entered, or nothing is cut yet."""
    sign = plan.finishing
    if sign is None:
        raise OperatorError("Nothing is cut in it yet: there is nothing to quote.")
    rates = sign.work.finish.rates
    if not (rates.hands or rates.machine or rates.wood):
        raise OperatorError("Type what an hour of hands, of the machine and the wood cost first.")
    at = now or datetime.now()
    gui()

    def on(device: object) -> None:
        paper = Paper(device, plan.job.name)  # type: ignore[arg-type]
        paper.words(_head(plan, at.date()))
        sign_on(paper, plan)
        paper.words(quotation_html(plan, sign, at, inside))
        paper.end()

    written(f"{plan.job.name}: quotation", path, QPageSize.PageSizeId.A4, on)


def _plain(plan: Plan, words: str) -> str:
    return spell(words, plan.job.unit).replace("&", "&amp;").replace("<", "&lt;")


def _head(plan: Plan, today: date) -> str:
    return f"<div style='font-family:\"{FAMILY}\"'><h1>{_plain(plan, plan.job.name)}</h1><p>Quotation of {today.isoformat()}</p></div>"


def quotation_html(plan: Plan, sign: Finished, now: datetime, inside: bool) -> str:
    """Its words under the picture."""
    job, unit, told = plan.job, plan.job.unit, cost_of(sign)
    rates = sign.work.finish.rates
    size = " × ".join(show_length(v, unit) for v in sign.size)
    try:
        ready = (
            f"{alone(sign.work, now)[1].ready[0]:%A %d %B %Y}, where it is begun today and nothing else is in the way"
        )
    except OperatorError as error:
        ready = f"not told: {error}"
    rows = [
        ("Size", f"{size} {'mm' if unit == 'mm' else 'in'}"), ("Wood", job.wood.name), ("Finish", WORDS[sign.work.scheme]), ("Can be ready", ready),
        ("Price", in_money(told.price.result, rates) + (f", {in_money(price_of_each(sign).result, rates)} each of {sign.pieces}" if sign.pieces > 1 else "")),
    ]  # fmt: skip
    out = "".join(f"<p><b>{name}</b>&nbsp; {_plain(plan, words)}</p>" for name, words in rows)
    if inside:
        parts = "".join(
            f"<p>{_plain(plan, name)}: {in_money(w.result, rates)}</p>" for name, w in told.parts if w.result
        )
        out += f"<h2>What it costs the shop</h2>{parts}<p><b>In all {in_money(told.cost.result, rates)}</b></p>"
    return f"<div style='font-family:\"{FAMILY}\"'>{out}</div>"
