# SPDX-License-Identifier: GPL-3.0-or-later
"""What a sign costs the shop, part by part, and its price."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from gatepost.core.job.finish import Rates
from gatepost.core.working import Named, Working, working

MONEY = "money"


@dataclass(frozen=True)
class CostOf:
    """What a cost is worked out from. preparing: minutes at the machine with nothing cut: changes, touching off, laying; cutting: minutes of its programs; hands: minutes of what is done by hand beside it; days: that it lies in the
    shop; board: mm³ that are bought; metres: that each bit cuts, and its price; tins: litres of each, and the price of one."""

    preparing: float
    cutting: float
    hands: float
    days: float
    board: float
    metres: Mapping[str, tuple[float, float]]
    tins: Sequence[tuple[str, float, float]]


@dataclass(frozen=True)
class CostTold:
    """parts: each with its working; cost: all of them; price: with the margin."""

    parts: tuple[tuple[str, Working], ...]
    cost: Working
    price: Working


def cost(of: CostOf, rates: Rates) -> CostTold:
    """In the shop's own money."""
    parts: list[tuple[str, Working]] = []

    def part(name: str, told: Working) -> None:
        parts.append((name, told))

    part(
        "Preparation",
        _hours(
            of.preparing + rates.preparation,
            rates.hands,
            "changes, touching off, laying, and what the shop adds to that",
        ),
    )
    part("Machine", _hours(of.preparing + of.cutting, rates.machine, "while it is prepared and while it cuts"))
    part("Beside the machine", _hours(of.cutting, rates.hands, "a router that runs is not left alone"))
    part("Hands", _hours(of.hands, rates.hands, "clean-up, sanding, coats, hanging"))
    part(
        "Waiting",
        working(
            "days * rate",
            Named("days", of.days, "days"),
            Named("rate", rates.waiting, MONEY),
            unit=MONEY,
            assumption="that it lies in the shop",
        ),
    )
    part(
        "Wood", working("board * (1 + waste) * rate", Named("board", of.board * 1e-9, "m³"), Named("waste", rates.waste, "share"), Named("rate", rates.wood, MONEY), unit=MONEY, assumption="the board as it is bought, and what is bought beside it"),
    )  # fmt: skip
    for name, (metres, price) in of.metres.items():
        if price > 0.0:
            part(f"Wear of {name}", working("price * metres / life", Named("price", price, MONEY), Named("metres", metres, "m"), Named("life", rates.life, "m"), unit=MONEY, assumption="as far as a bit cuts in this shop", shop_rule=True))  # fmt: skip
    for name, litres, price in of.tins:
        if price > 0.0:
            part(name[:1].upper() + name[1:], working("litres * price", Named("litres", litres, "l"), Named("price", price, MONEY), unit=MONEY, assumption="as far as its label says that it goes"))  # fmt: skip
    names = [f"part{i}" for i in range(1, len(parts) + 1)]
    all_of_it = working(
        " + ".join(names), *(Named(n, w.result, MONEY, name) for n, (name, w) in zip(names, parts)), unit=MONEY
    )
    asked = working(
        "cost * (1 + margin)",
        Named("cost", all_of_it.result, MONEY),
        Named("margin", rates.margin, "share"),
        unit=MONEY,
    )
    return CostTold(tuple(parts), all_of_it, asked)


def _hours(minutes: float, rate: float, what: str) -> Working:
    return working(
        "minutes / 60 * rate",
        Named("minutes", minutes, "minutes"),
        Named("rate", rate, MONEY),
        unit=MONEY,
        assumption=what,
    )


def in_money(value: float, rates: Rates) -> str:
    """An amount in words."""
    return f"{value:,.2f} {rates.money}".replace(",", " ").strip()


def not_counted(of: CostOf, rates: Rates) -> tuple[str, ...]:
    """What has no rate or no price, and so is not in the cost."""
    hours = [
        name
        for name, rate in (("hands", rates.hands), ("the machine", rates.machine), ("the wood", rates.wood))
        if rate <= 0.0
    ]
    bits = [f"wear of {name}" for name, (_, price) in of.metres.items() if price <= 0.0]
    return (*hours, *bits, *(name for name, _, price in of.tins if price <= 0.0))
