# SPDX-License-Identifier: GPL-3.0-or-later
"""The Finish page."""

from __future__ import annotations

from functools import partial
from typing import Any

from gatepost.core.errors import OperatorError
from gatepost.core.finish.hours import parse_hours
from gatepost.core.finish.scheme import WORDS, coats_for
from gatepost.core.finish.shelf import shipped_finishes
from gatepost.core.finish.times import edit_time, parse_time
from gatepost.core.job.finish import Coating, Finish, Rates, Tin
from gatepost.core.job.model import Job
from gatepost.core.plan.kinds import Kinds
from gatepost.desk.pages.entries import Act, Group, PageEntry, PageRow, act, single

YES = (("yes", True), ("no", False))
SCHEMES = tuple((words, name) for name, words in WORDS.items())
WHERE = (("the face", "face"), ("the letters", "letters"), ("all round", "all round"), ("the cut edges", "edges"))
DOES = tuple((w, w) for w in ("primer", "colour", "seal coat", "stain", "oil", "varnish", "resin", "filler", "mask"))
BASES = tuple((w, w) for w in ("water", "solvent", "oil", "shellac", "two-part", "film"))
LABEL = (
    ("Dry to the touch", "touch"), ("Coat again from", "recoat"), ("and until, or 0", "within"), ("Sand from", "sand"), ("Mask, clamp, wrap from", "hard"),
)  # fmt: skip


def typed_grits(words: str) -> dict[str, Any]:
    """Grits as they are typed: 120, 180."""
    try:
        return {"grits": tuple(int(part) for part in words.replace("P", "").replace(",", " ").split())}
    except ValueError:
        raise OperatorError("Type grits from coarse to fine, such as 120, 180.") from None


def typed_hours(words: str) -> dict[str, Any]:
    """The shop's hours, where they can be read."""
    parse_hours(words)
    return {"hours": words.strip()}


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """How it is coloured and coated, and in what room."""
    f = job.finish
    have = {t.id for t in f.tins}
    tins = tuple((t.name, t.id) for t in f.tins)
    goes, colours = coats_for(job), job.colours()
    shelf = tuple(_on_shelf(t) for t in shipped_finishes() if t.id not in have)
    return (
        Group(
            "How it is finished",
            (single("Scheme", "choice", f.scheme, "set finish", "scheme", SCHEMES),),
            acts=(*((act("Coats that go with it", "take coats", **goes),) if goes else ()), act("Steps of the finish…", "window finish_steps"), act("When it is ready, beside other jobs…", "window ready")),
        ),
        Group(
            "Coats, one after another", tuple(_coat(c, tins, colours) for c in f.coats), (("tin", "coats", "on", "colour") if colours else ("tin", "coats", "on")) if f.coats else (),
            tuple(act(f"Add a coat of {t.name}", "add finish coat", tin=t.id) for t in f.tins)
            + tuple(act(f"Earlier: {f.tin(c.tin).name}, {c.where}", "finish coat earlier", coat=c.id) for c in f.coats[1:]),
            folds=2,
        ),
        _room(f),
        Group(
            "Sanding bare wood",
            (
                PageRow((PageEntry("Grits", "words", ", ".join(str(g) for g in f.grits), "set finish", typed_grits),), "Grits"),
                single("A stroke keeps at least", "length", f.least, "set finish", "least"),
            ),
        ),
        _rates(f.rates),
        *(_tin(t, i) for i, t in enumerate(f.tins)),
        Group("From the shelf", (), (), (act("The shop's own tins…", "window shop_tins"), *shelf)),
    )  # fmt: skip


def _room(f: Finish) -> Group:
    night = PageEntry("At night, °C", "number", f.night, "set finish", lambda v: {"night": v}, (), "", True)
    return Group(
        "The room, and where it will hang",
        (
            single("Room, °C", "number", f.celsius, "set finish", "celsius"),
            PageRow((night,), "At night, °C"),
            single("Damp of the air, %", "number", f.damp, "set finish", "damp"),
            single("Tried on scrap of this board", "choice", f.tried, "set finish", "tried", YES),
            single("Moisture when dry, %", "number", f.dry, "set finish", "dry"),
            single("Moisture when wet, %", "number", f.wet, "set finish", "wet"),
            single("Begins on, 2026-11-30", "words", f.begins, "set finish", "begins"),
            PageRow((PageEntry("Shop open", "words", f.hours, "set finish", typed_hours),), "Shop open"),
        ),
        acts=(
            act("Keep these hours for the shop", "window keep_hours"),
            act("Take the shop's hours", "window take_hours"),
        ),
    )


def _rates(r: Rates) -> Group:
    """What things cost this shop."""

    def one(label: str, kind: str, field: str) -> PageRow:
        return single(label, kind, getattr(r, field), "set rates", field)

    rows = (
        one("Money", "words", "money"), one("An hour of hands", "number", "hands"), one("An hour of the machine", "number", "machine"), one("A m³ of this wood", "number", "wood"),
        one("Wood beside the board, share", "number", "waste"), one("A bit cuts, m", "number", "life"), one("A day in the shop", "number", "waiting"),
        one("Preparation beside that, min", "number", "preparation"), one("On top, share", "number", "margin"),
    )  # fmt: skip
    return Group(
        "Cost and price",
        rows,
        acts=(
            act("Write a quotation…", "window quote"),
            act("Keep these rates for the shop", "window keep_rates"),
            act("Take the shop's rates", "window take_rates"),
        ),
    )


def _coat(c: Coating, tins: tuple[tuple[str, str], ...], colours: tuple[str, ...]) -> PageRow:
    def one(label: str, kind: str, field: str, choices: tuple[tuple[str, Any], ...] = ()) -> PageEntry:
        return PageEntry(
            f"{c.id}: {label}", kind, getattr(c, field), "set finish coat", partial(_of, "coat", c.id, field), choices
        )

    row: tuple[PageEntry, ...] = (
        one("tin", "choice", "tin", tins),
        one("coats", "number", "count"),
        one("on", "choice", "where", WHERE),
    )
    if colours or c.colour:
        named = dict.fromkeys((*colours, *([c.colour] if c.colour else [])))
        row = (*row, one("colour", "choice", "colour", (("all", ""), *((n, n) for n in named))))
    return PageRow(row, "", act(f"Take {c.id} away", "remove finish coat", coat=c.id))


def _of(what: str, id: str, field: str, value: Any) -> dict[str, Any]:
    return {what: id, field: round(value) if field == "count" else value}


def _tin(t: Tin, index: int) -> Group:
    """As its label says. index: which of the job's it is."""

    def time(label: str, field: str) -> PageRow:
        entry = PageEntry(
            label,
            "words",
            edit_time(getattr(t, field)),
            "set tin",
            lambda typed: {"tin": t.id, field: parse_time(typed)},
        )
        return PageRow((entry,), label)

    own: dict[str, Any] = {"tin": t.id}
    more = (
        [single("Parts to one of hardener", "number", t.ratio, "set tin", "ratio", **own)]
        if t.base == "two-part"
        else []
    )
    more += [single("Deepest pour", "length", t.deepest, "set tin", "deepest", **own)] if t.does == "resin" else []
    return Group(
        f"Tin: {t.name}, as its label says",
        (
            single("Name", "words", t.name, "set tin", "name", **own),
            single("Does", "choice", t.does, "set tin", "does", DOES, **own),
            single("Thinned with", "choice", t.base, "set tin", "base", BASES, **own),
            *(time(label, field) for label, field in LABEL),
            single("Not under, °C", "number", t.lowest, "set tin", "lowest", **own),
            single("Covers, m² a litre", "number", t.covers, "set tin", "covers", **own),
            *more,
            single("Sprayed", "choice", t.spray, "set tin", "spray", YES, **own),
            single("Isocyanate in its hardener", "choice", t.isocyanate, "set tin", "isocyanate", YES, **own),
            single("Changes the colour", "words", t.shift, "set tin", "shift", **own),
            single("Smell", "words", t.smell, "set tin", "smell", **own),
            single("Batch", "words", t.batch, "set tin", "batch", **own),
            single("Keeps until", "words", t.best, "set tin", "best", **own),
            single("A litre costs", "number", t.price, "set tin", "price", **own),
        ),
        acts=(
            act(f"Take {t.name} away", "remove tin", tin=t.id),
            act(f"Keep {t.name} for the shop", f"window keep_tin {index}"),
        ),
    )


def _on_shelf(t: Tin) -> Act:
    return act(f"Add {t.name}", "add tin", tin=t)
