# SPDX-License-Identifier: GPL-3.0-or-later
"""What the logbook keeps of the shop itself: woods, offcuts, and things kept from job to job."""

from __future__ import annotations

import contextlib
import json
from importlib import resources
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from gatepost.core.errors import OperatorError
from gatepost.logbook.rows import Kept, KeptOffcut, KeptRow, KnownWood, OffcutRow, Row, WoodRow


def shipped_woods() -> list[dict[str, Any]]:
    """The wood table that ships: starting values, shop rules, not measured here."""
    text = resources.files("gatepost").joinpath("assets", "tables", "woods.json").read_text("utf-8")
    return list(json.loads(text))


class Shelves:
    """_session: of the logbook's, written whole or not at all."""

    def _session(self) -> contextlib.AbstractContextManager[Session]:
        raise NotImplementedError

    def woods(self) -> list[KnownWood]:
        """The shipped woods and the shop's own, by name, each with what was remarked of shop runs in it."""
        with self._session() as session:
            own = {row.name: row for row in session.scalars(select(WoodRow))}
            told = [
                (row.blank, row.remarks)
                for row in session.scalars(select(Row).where(Row.kind == "shop").order_by(Row.id.desc()))
                if row.remarks.strip()
            ]
            rows = {w["name"]: (w["kind"], float(w["density"]), w["note"], False) for w in shipped_woods()}
            rows |= {n: (r.kind, r.density, r.note, True) for n, r in own.items()}
        names = sorted(rows, key=len, reverse=True)
        said: dict[str, list[str]] = {}
        for blank, remark in told:
            name = next((n for n in names if blank.lower().startswith(f"{n.lower()} ")), "")
            said.setdefault(name, []).append(remark.strip())
        return [KnownWood(n, *rows[n], tuple(said.get(n, ()))) for n in sorted(rows)]

    def set_wood(self, name: str, kind: str, density: float, note: str, at: str) -> None:
        """This shop's own figures and experience of a wood. Raises OperatorError."""
        if not name.strip() or kind not in ("soft", "medium", "hard") or not 50.0 <= density <= 1500.0:
            raise OperatorError("A wood wants a name, soft, medium or hard, and a density of 50 to 1500 kg/m³.")
        with self._session() as session:
            session.merge(WoodRow(name=name.strip()[:80], kind=kind, density=density, note=note.strip(), changed=at))

    def keep_offcut(self, name: str, wood: str, sizes: tuple[float, float, float], job: str, at: str) -> int:
        """Put an offcut on the shelf; gives its number. The same one of the same job is not kept twice."""
        length, width, thickness = (round(s, 2) for s in sizes)
        with self._session() as session:
            same = select(OffcutRow).where(OffcutRow.name == name, OffcutRow.job == job, OffcutRow.used == "")
            old = session.scalars(same).first()
            row = old or OffcutRow(name=name[:80], wood=wood[:80], job=job[:80], added=at)
            row.length, row.width, row.thickness = length, width, thickness
            session.add(row)
            session.flush()
            return row.id

    def offcuts(self) -> list[KeptOffcut]:
        """What lies on the shelf, newest first."""
        with self._session() as session:
            rows = session.scalars(select(OffcutRow).where(OffcutRow.used == "").order_by(OffcutRow.id.desc()))
            return [KeptOffcut(**{n: getattr(r, n) for n in KeptOffcut.__dataclass_fields__}) for r in rows]

    def use_offcut(self, number: int, at: str) -> None:
        """Take an offcut off the shelf. Raises OperatorError when it is not there."""
        with self._session() as session:
            row = session.get(OffcutRow, number)
            if row is None or row.used:
                raise OperatorError(f"Offcut {number} is not on the shelf.")
            row.used = at

    def keep(self, kind: str, name: str, data: dict[str, Any], at: str) -> None:
        """Keep something for the shop, in the place of what was kept under that name. Raises OperatorError."""
        if not name.strip():
            raise OperatorError("What the shop keeps wants a name.")
        text = json.dumps(data, ensure_ascii=False)
        with self._session() as session:
            session.merge(KeptRow(kind=kind, name=name.strip()[:80], data=text, changed=at))

    def kept(self, kind: str) -> dict[str, Kept]:
        """What the shop keeps of a kind, by name."""
        with self._session() as session:
            rows = session.scalars(select(KeptRow).where(KeptRow.kind == kind).order_by(KeptRow.name))
            return {r.name: Kept(r.kind, r.name, json.loads(r.data), r.changed) for r in rows}

    def one_kept(self, kind: str, name: str) -> Kept | None:
        """What the shop keeps under a name, or nothing."""
        with self._session() as session:
            r = session.get(KeptRow, (kind, name))
            return Kept(r.kind, r.name, json.loads(r.data), r.changed) if r is not None else None

    def forget(self, kind: str, name: str) -> None:
        """Keep something no longer. Raises OperatorError when it is not kept."""
        with self._session() as session:
            row = session.get(KeptRow, (kind, name))
            if row is None:
                raise OperatorError(f"The shop keeps no {kind} called {name}.")
            session.delete(row)
