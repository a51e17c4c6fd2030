# SPDX-License-Identifier: GPL-3.0-or-later
"""What the shop looks after: its registers, what is due, and handing the machine over."""

from __future__ import annotations

from dataclasses import asdict
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from gatepost.core.errors import OperatorError
from gatepost.core.log.due import SHIPPED, Check, Handover, all_due, done_today, known_elsewhere, newer, plate_check
from gatepost.core.log.filtering import tool_of
from gatepost.core.log.register import registers
from gatepost.desk.context.desk_context import Act, DeskContext

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QDialog

CHECK, HANDOVER, PLATE = "check", "handover", "gauge"  # what they are kept under
REGISTERED = ("machine", "bed", "tool", PLATE, "tin")


class LookedAfterActions:
    """One dialog at a time, and a second over it."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self.dialog: QDialog | None = None
        self.second: QDialog | None = None

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {"due": self.due, "registers": self.registers}

    @staticmethod
    def _now() -> str:
        from gatepost.machine.standing_checks import now

        return now()

    def checks(self) -> list[Check]:
        """What the shop looks after: its own, each of its plates, and what ships that it has not changed. A plate was measured when it or its check says so, whichever is later."""
        kept, plates, beds, machines = self._desk.from_book(
            lambda book: [book.kept(kind) for kind in (CHECK, PLATE, "bed", "machine")], ({},) * 4
        )
        skimmed = {name: str(k.data.get("skimmed") or "") for name, k in beds.items()}
        squared = {name: str(k.data.get("squared") or "") for name, k in machines.items()}
        names = tuple(Check.__dataclass_fields__)
        of_plates = {
            _key(c): c for c in (plate_check(n, str(g.data.get("gauge_checked") or "")) for n, g in plates.items())
        }
        own = []
        for key, x in kept.items():
            if not x.data.get("away"):
                check = Check(**{k: v for k, v in x.data.items() if k in names})
                own.append(newer(check, of_plates[key].last) if key in of_plates else check)
        all_of_them = [*own, *(c for c in (*of_plates.values(), *SHIPPED) if _key(c) not in kept)]
        return [known_elsewhere(c, skimmed, squared) for c in all_of_them]

    # -- what is due ----------------------------------------------------------------------------------------------------

    def due(self) -> None:
        """What is due."""
        from gatepost.desk.dialogs.due import DueDialog

        dialog = DueDialog(self._desk.window)
        dialog.done_wanted.connect(self._done)
        dialog.change_wanted.connect(self._ask_check)
        dialog.away_wanted.connect(lambda c: self._keep_check(c, away=True))
        dialog.handover_wanted.connect(self._hand_over)
        self._open(dialog)

    def _open(self, dialog: QDialog) -> None:
        self.dialog = dialog
        dialog.open()
        self._show()

    def _found(self) -> Any:
        runs = self._desk.from_book(lambda book: book.shop_times(), [])
        return all_due(self.checks(), runs, date.today(), sorted({tool_of(r) for r in runs}))

    def _show(self) -> None:
        from gatepost.desk.dialogs.due import DueDialog
        from gatepost.desk.dialogs.registers import RegistersDialog

        if isinstance(self.dialog, DueDialog):
            self.dialog.show_due(self._found())
        elif isinstance(self.dialog, RegistersDialog):
            self.dialog.show_registers(self.registered(), self._desk.unit)

    def _done(self, check: Check, by: str, found: str) -> None:
        self._keep_check(done_today(check, date.today(), by, found))

    def _keep_check(self, check: Check, away: bool = False, old: str = "") -> None:
        def keep(book: Any) -> None:
            if old and old != _key(check):
                book.keep(CHECK, old, {"away": True}, self._now())
            book.keep(CHECK, _key(check), {**asdict(check), **({"away": True} if away else {})}, self._now())
            plate = book.kept(PLATE).get(check.of)
            measured = plate is not None and not away and _key(check) == _key(plate_check(check.of, ""))
            if measured and check.last > str(plate.data.get("gauge_checked") or ""):
                book.keep(PLATE, check.of, {**plate.data, "gauge_checked": check.last}, self._now())

        self._desk.from_book(keep, None)
        self._show()

    def _ask_check(self, check: Check | None) -> None:
        from gatepost.desk.dialogs.due import CheckDialog

        new = check is None or not check.name
        self.second = dialog = CheckDialog(self._desk.window, check, new)
        dialog.kept.connect(lambda made: self._keep_check(made, old="" if new or check is None else _key(check)))
        dialog.open()

    # -- registers ------------------------------------------------------------------------------------------------------

    def registers(self) -> None:
        """All that the shop has, with its dates."""
        from gatepost.desk.dialogs.registers import RegistersDialog

        dialog = RegistersDialog(self._desk.window)
        dialog.done_wanted.connect(self._done)
        dialog.change_wanted.connect(self._ask_check)
        dialog.write_wanted.connect(self._write)
        self._open(dialog)

    def registered(self) -> Any:
        """Its lines, as they stand today."""

        def read(book: Any) -> Any:
            return {kind: book.kept(kind) for kind in REGISTERED}, book.woods(), book.shop_times()

        kept, woods, runs = self._desk.from_book(read, ({}, [], []))
        return registers(kept, woods, self.checks(), runs, date.today())

    def _write(self) -> None:
        path = self._desk.ask_save("Write the registers", "registers.csv", "Tables (*.csv)")
        if path is not None:
            self.write_to(path)

    def write_to(self, path: Path) -> None:
        """All lines as a table."""
        from gatepost.core.log.exported import registers_csv
        from gatepost.core.writing import write_whole

        lines = self.registered()
        try:
            write_whole(path, registers_csv(lines, self._desk.unit).encode())
        except OperatorError as error:
            self._desk.messages.warn(str(error))
        else:
            self._desk.messages.say(f"{len(lines)} lines written: {path.name}.")

    # -- handing over ---------------------------------------------------------------------------------------------------

    def _hand_over(self) -> None:
        from gatepost.desk.dialogs.due import HandoverDialog

        self.second = dialog = HandoverDialog(self._desk.window, self._found(), self._now())
        dialog.kept.connect(self._handed_over)
        dialog.open()

    def _handed_over(self, made: Handover) -> None:
        def keep(book: Any) -> bool:
            book.keep(HANDOVER, made.at, asdict(made), made.at)
            return True

        if self._desk.from_book(keep, False):
            self._desk.messages.say(
                f"Signed by {made.from_}, {made.at[:16].replace('T', ' ')}{'' if made.whole else '; what is open is written down'}."
            )


def _key(check: Check) -> str:
    """What a check is kept under."""
    return f"{check.name}, {check.of}"[:80] if check.of else check.name[:80]
