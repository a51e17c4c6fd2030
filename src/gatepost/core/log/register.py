# SPDX-License-Identifier: GPL-3.0-or-later
"""The shop's registers: its machines, tools, plates, fixtures, woods and finishes, each with when it was seen to last, and what of it lapses when."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any, Protocol

from gatepost.core.errors import OperatorError
from gatepost.core.log.due import SOON, Check, DueCheck, day_of, due_of, hours_since
from gatepost.core.log.filtering import TimedRow, tool_of
from gatepost.core.units import mm

HEADS = {
    "machine": "Machines", "tool": "Tools", "plate": "Plates and sensors", "fixture": "Fixtures on the bed", "wood": "Woods", "finish": "Finishes", "": "The shop as a whole",
}  # fmt: skip
PACE = 90  # days that the pace of running hours is taken from


class KeptThing(Protocol):
    """Something that the shop keeps: its values, and when they were changed."""

    @property
    def data(self) -> dict[str, Any]: ...
    @property
    def changed(self) -> str: ...


@dataclass(frozen=True)
class Registered:
    """A line of a register. kind: one of HEADS, nothing where it is the whole shop's; what: its figures; seen: the date that it was seen to last, nothing where never; lapses: the date from which
    that is over, nothing where there is none; by_pace: whether that date comes from running hours at the pace of late; standing: due, soon, good, look, or nothing where there is nothing to lapse; told: in a sentence;
    check: what is looked after, where there is one."""

    kind: str
    name: str
    what: str
    seen: str = ""
    lapses: str = ""
    by_pace: bool = False
    standing: str = ""
    told: str = ""
    check: Check | None = None


def lapses_on(due: DueCheck, runs: Sequence[TimedRow], today: date, tools: Sequence[str] = ()) -> tuple[str, bool]:
    """The first day on which a check is over, and whether it comes from running hours: those left, at the pace of the last 90 days. Nothing where it was never done, or where nothing runs."""
    check = due.check
    if due.never:
        return "", False
    last = day_of(check.last)
    ends: list[tuple[date, bool]] = [(last + timedelta(days=check.days), False)] if check.days else []
    if check.hours:
        since = today - timedelta(days=PACE)
        a_day = hours_since(runs, since.isoformat(), check.of, tools) / PACE
        left = check.hours - due.hours
        if left <= 0.0:
            ends.append((today, True))
        elif a_day > 0.0 and left / a_day < 36_500:
            ends.append((today + timedelta(days=int(left / a_day) + 1), True))
    if not ends:
        return "", False
    end, by_pace = min(ends)
    return end.isoformat(), by_pace


def registers(
    kept: Mapping[str, Mapping[str, KeptThing]],
    woods: Iterable[Any],
    checks: Sequence[Check],
    runs: Sequence[TimedRow],
    today: date,
) -> tuple[Registered, ...]:
    """All lines, kind by kind. kept: by kind (machine, bed, tool, gauge, tin) and name; woods: of the shop's table. A check that names none of the shop's things is the whole shop's; each check stands
    once, a thing that several checks name has a line for each."""
    tools = sorted({tool_of(r) for r in runs} | set(kept.get("tool", {})))
    things = [
        *_machines(kept, runs),
        *_tools(kept, runs, tools),
        *_plates(kept),
        *_fixtures(kept),
        *_woods(woods),
        *_tins(kept, today),
    ]
    by_name = {one.name.casefold(): one for one in reversed(things)}
    lines: dict[str, list[Registered]] = {}
    whole: list[Registered] = []
    for check in checks:
        due = due_of(check, runs, today, tools)
        ends, by_pace = lapses_on(due, runs, today, tools)
        standing = "due" if due.due else "soon" if due.soon else "good"
        one = by_name.get(check.of.strip().casefold()) if check.of.strip() else None
        name = one.name if one is not None else check.of.strip() or check.name
        what = f"{check.name} · {one.what}" if one is not None else check.name if check.of.strip() else ""
        line = Registered(
            one.kind if one is not None else "", name, what, check.last[:10], ends, by_pace, standing, due.told(), check
        )
        (lines.setdefault(one.name, []) if one is not None else whole).append(line)
    out = [line for one in things for line in (lines.pop(one.name, None) or [one])]
    return (*out, *whole)


def _machines(kept: Mapping[str, Mapping[str, KeptThing]], runs: Sequence[TimedRow]) -> list[Registered]:
    out = []
    for name, k in kept.get("machine", {}).items():
        d = k.data
        named = any(str(getattr(r, "machine", "")).casefold() == name.casefold() for r in runs)
        hours = hours_since(runs, "0000", name) if named or len(kept["machine"]) == 1 else 0.0
        what = f"{_number(d.get('travel_x')):.0f} × {_number(d.get('travel_y')):.0f} × {_number(d.get('travel_z')):.0f} mm, {hours:.1f} hours in the shop"
        squared = str(d.get("squared") or "")
        out.append(
            Registered(
                "machine",
                name,
                what,
                squared[:10],
                told=f"Gantry squared {squared}." if squared else "Nothing of it is looked after by its name.",
            )
        )
    return out


def _tools(
    kept: Mapping[str, Mapping[str, KeptThing]], runs: Sequence[TimedRow], tools: Sequence[str]
) -> list[Registered]:
    out = []
    for name, k in kept.get("tool", {}).items():
        d = k.data
        sharpened = str(d.get("sharpened") or "")
        hours = hours_since(runs, sharpened or "0000", name, tools)
        hangs = f", hangs at {d['hangs']}" if d.get("hangs") else ""
        since = (
            f"since it was sharpened {sharpened[:10]}"
            if sharpened
            else "since the log begins: when it was sharpened is not written down"
        )
        out.append(
            Registered(
                "tool",
                name,
                f"⌀ {mm(_number(d.get('diameter')))}{hangs}",
                sharpened[:10],
                told=f"{hours:.1f} hours in the shop {since}.",
            )
        )
    return out


def _plates(kept: Mapping[str, Mapping[str, KeptThing]]) -> list[Registered]:
    return [
        Registered("plate", name, f"{k.data.get('gauge', 'plate')}, {mm(_number(k.data.get('gauge_thickness')), 3)}", str(k.data.get("gauge_checked") or "")[:10])
        for name, k in kept.get("gauge", {}).items()
    ]  # fmt: skip


def _fixtures(kept: Mapping[str, Mapping[str, KeptThing]]) -> list[Registered]:
    """Fences and nests of each bed. One that was milled before the bed was skimmed last is to be looked at: what it stands on is another height since."""
    out = []
    for machine, k in kept.get("bed", {}).items():
        skimmed = str(k.data.get("skimmed") or "")[:10]
        for kind, of in (("fences", "milled"), ("nests", "made")):
            for one in k.data.get(kind) or ():
                seen = str(one.get(of) or "")[:10]
                older = bool(seen and skimmed and seen < skimmed)
                told = (
                    f"{of.capitalize()} {seen}, before the bed was skimmed on {skimmed}: look at its height and place again."
                    if older
                    else f"{of.capitalize()} {seen}, and the bed was not skimmed since."
                    if seen
                    else f"When it was {of} is not written down."
                )
                what = f"{kind[:-1]} of {machine}, {mm(_number(one.get('length')))}" + (
                    f" × {mm(_number(one.get('width')))}" if kind == "nests" else ""
                )
                out.append(
                    Registered(
                        "fixture",
                        str(one.get("name", "")),
                        what,
                        seen,
                        standing="look" if older or not seen else "good",
                        told=told,
                    )
                )
    return out


def _woods(woods: Iterable[Any]) -> list[Registered]:
    return [
        Registered(
            "wood", w.name, f"{w.kind}, {w.density:.0f} kg/m³" + (f", {w.note}" if w.note else ""),
            told=("This shop's own figures" if w.own else "Starting values, shop rules, not measured here") + (f"; {len(w.said)} remarks in the log." if w.said else "."),
        )
        for w in woods
    ]  # fmt: skip


def _tins(kept: Mapping[str, Mapping[str, KeptThing]], today: date) -> list[Registered]:
    """Tins by the date that they keep until."""
    out = []
    for name, k in kept.get("tin", {}).items():
        d, best, standing = k.data, str(k.data.get("best") or "")[:10], ""
        told = "Its label gives no date that it keeps until."
        if best:
            try:
                left = (day_of(best) - today).days
            except OperatorError:
                left, best = 0, ""
            else:
                standing = "due" if left <= 0 else "soon" if left <= (1.0 - SOON) * 365 else "good"
                told = f"It keeps until {best}" + (
                    ": over. Try it on scrap first, or buy it new." if left <= 0 else "."
                )
        out.append(
            Registered(
                "finish",
                name,
                ", ".join(dict.fromkeys(str(d[k]) for k in ("does", "base") if d.get(k)))
                + (f", batch {d['batch']}" if d.get("batch") else ""),
                str(k.changed)[:10],
                best,
                False,
                standing,
                told,
            )
        )
    return out


def _number(value: Any) -> float:
    try:
        return float(value or 0.0)
    except (TypeError, ValueError):
        return 0.0
