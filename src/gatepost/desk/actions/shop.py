# SPDX-License-Identifier: GPL-3.0-or-later
"""What the shop keeps for its later jobs: woods, offcuts, plates and its machine."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QDialog, QInputDialog

from gatepost.core.errors import OperatorError
from gatepost.desk.context.desk_context import Act, DeskContext

if TYPE_CHECKING:
    from gatepost.core.job.finish import Finish
    from gatepost.core.job.machine import Machine


SETTINGS = "the shop"


class ShopActions:
    """Lists of the shop, and what of this job goes into them."""

    def __init__(self, desk: DeskContext) -> None:
        self._desk = desk
        self.dialog: QDialog | None = None

    def acts(self) -> dict[str, Act]:
        """By name."""
        return {
            "wood": self.wood, "offcuts": self.offcuts, "keep_offcuts": self.keep_offcuts, "keep_gauge": self.keep_gauge,
            "gauges": self.gauges, "keep_tool": self.keep_tool, "settings": self.settings, "keep_machine": self.keep_machine, "take_machine": self.take_machine,
        }  # fmt: skip

    # -- woods and offcuts ----------------------------------------------------------------------------------------

    def wood(self) -> None:
        """The shop's woods."""
        if self._desk.document is None:
            return
        from gatepost.desk.dialogs.shop import WoodDialog
        from gatepost.machine.standing_checks import now

        book = self._desk.open_book()
        if book is None:
            return
        dialog = WoodDialog(self._desk.window, book, now, self._desk.document.job.wood.name)
        dialog.chosen.connect(lambda values: self._desk.run("set wood", values, "wood"))
        self._open(dialog, book)

    def offcuts(self) -> None:
        """Offcuts on the shelf that would do for this blank."""
        if self._desk.document is None:
            return
        from gatepost.core.blank.offcuts import that_would_do
        from gatepost.desk.dialogs.shop import OffcutDialog

        book = self._desk.open_book()
        if book is None:
            return
        offcuts, job = book.offcuts(), self._desk.document.job
        dialog = OffcutDialog(self._desk.window, offcuts, that_would_do(offcuts, job.blank), job.unit)
        dialog.taken.connect(lambda offcut: self._take_offcut(book, offcut))
        self._open(dialog, book)

    def _open(self, dialog: QDialog, book: Any) -> None:
        self.dialog = dialog
        dialog.finished.connect(lambda _: self._done(book))
        dialog.open()

    def _done(self, book: Any) -> None:
        book.close()
        self.dialog = None

    def _take_offcut(self, book: Any, offcut: Any) -> None:
        from gatepost.machine.standing_checks import now

        stock = {"length": offcut.length, "width": offcut.width, "thickness": offcut.thickness}
        if self._desk.run("set stock", stock, "offcut"):
            book.use_offcut(offcut.id, now())
            self._desk.messages.say(f"{offcut.name} is taken off the shelf as rough stock.")

    def keep_offcuts(self) -> None:
        """Put the offcuts that the cut list names on the shelf."""
        if self._desk.document is None:
            return
        from gatepost.core.blank.cutlist import keeping
        from gatepost.machine.standing_checks import now

        job = self._desk.document.job
        named = keeping(job.blank)
        if not named:
            self._desk.messages.say("Name an offcut in the cut list first: “keep offcut as”.")
            return

        def keep(book: Any) -> bool:
            for name, offcut in named:
                book.keep_offcut(name, job.wood.name, (offcut.length, offcut.width, offcut.thickness), job.name, now())
            return True

        if self._desk.from_book(keep, False):
            count = "1 offcut is" if len(named) == 1 else f"{len(named)} offcuts are"
            self._desk.messages.say(f"{count} on the shelf, for later jobs.")

    # -- plates of the shop ---------------------------------------------------------------------------------------

    def keep_gauge(self) -> None:
        """Keep this setup's plate with its thickness and the date of its check."""
        if self._desk.document is None:
            return
        zero = self._desk.document.job.setup(self._desk.showing.setup).zero
        if not zero.gauge_name.strip():
            self._desk.messages.say("Give it a name first: “Its name in the shop”.")
            return
        data = {
            "gauge": zero.gauge,
            "gauge_thickness": zero.gauge_thickness,
            "gauge_edge": zero.gauge_edge,
            "gauge_checked": zero.gauge_checked,
        }
        self._desk.keep_for_shop("gauge", zero.gauge_name, data)

    def gauges(self) -> None:
        """Choose a plate or a sensor of the shop's register."""
        if self._desk.document is None:
            return
        kept = self._desk.kept_by_shop("gauge")
        if not kept:
            self._desk.messages.say("The shop keeps no plates yet: name one, then keep it.")
            return
        names = [
            f"{n}: {k.data['gauge_thickness']:g} mm, checked {k.data.get('gauge_checked') or 'never'}"
            for n, k in kept.items()
        ]
        picked, fine = QInputDialog.getItem(self._desk.window, "Plates and sensors", "Touch off with", names, 0, False)
        if fine:
            self.use_gauge(list(kept)[names.index(picked)])

    def use_gauge(self, name: str) -> None:
        """Touch off with a plate of the shop's register."""
        kept = self._desk.kept_by_shop("gauge").get(name)
        if kept is not None:
            self._desk.run("set zero", {"setup": self._desk.showing.setup, "gauge_name": name, **kept.data}, name)

    # -- tools of the shop -----------------------------------------------------------------------------------------

    def keep_tool(self, number: int) -> None:
        """Keep this job's figures of a tool for the shop's later jobs."""
        if self._desk.document is not None:
            tool = self._desk.document.job.tool(number)
            self._desk.keep_for_shop("tool", tool.name, tool.model_dump(mode="json"))

    def use_tool(self, tool: Any) -> None:
        """Take a tool into this job, by its own number where that is free."""
        from gatepost.core.job.tool_table import another

        document = self._desk.document
        if document is None:
            return
        taken = any(t.number == tool.number for t in document.job.tools)
        try:
            new = another(document.job.tools, tool) if taken else tool
        except OperatorError as error:
            self._desk.messages.warn(str(error))
            return
        if self._desk.run("add tool", {"tool": new}, f"T{new.number} taken"):
            self._desk.messages.say(f"{new.name} is T{new.number} in this job.")

    # -- the machine's profile -------------------------------------------------------------------------------------

    def keep_machine(self) -> None:
        """Keep this job's machine for the shop's later jobs; its bed is kept by itself."""
        if self._desk.document is not None:
            machine = self._desk.document.job.machine
            self._desk.keep_for_shop("machine", machine.name, machine.model_dump(mode="json", exclude={"bed"}))

    def take_machine(self) -> None:
        """Take the shop's figures of this machine into the job."""
        if self._desk.document is None:
            return
        name = self._desk.document.job.machine.name
        kept = self._desk.kept_by_shop("machine").get(name)
        if kept is None:
            self._desk.messages.say(f"The shop keeps nothing of {name} yet.")
        elif self._desk.run("set machine", {**kept.data, "taken": kept.changed[:10]}, "the shop's machine"):
            self._desk.messages.say(f"{name} as it was kept on {kept.changed[:10]}.")

    def finish(self) -> Finish:
        """The finish of new jobs: nothing chosen yet, with the hours and rates that the shop keeps."""
        from gatepost.core.job.finish import Finish

        hours, rates = self._desk.kept_by_shop("hours"), self._desk.kept_by_shop("rates")
        kept: dict[str, Any] = {}
        for one in hours.values():
            kept["hours"] = one.data.get("hours", Finish().hours)
        for one in rates.values():
            kept["rates"] = {**one.data, "taken": one.changed[:10]}
        try:
            return Finish.model_validate(kept)
        except (OperatorError, ValueError):
            self._desk.messages.say(
                "What the shop keeps of its hours and rates can't be read: starting values are taken."
            )
            return Finish()

    # -- settings --------------------------------------------------------------------------------------------------

    def unit(self) -> str:
        """The unit that the shop works in."""
        kept = self._desk.kept_by_shop("settings").get(SETTINGS)
        return "inch" if kept is not None and kept.data.get("unit") == "inch" else "mm"

    def ask_once(self) -> None:
        """At the first start: machine and unit. Whatever is answered, it is not asked again by itself."""
        if not self._desk.kept_by_shop("settings") and not self._desk.kept_by_shop("machine"):
            self.settings(first=True)

    def settings(self, first: bool = False) -> None:
        """The shop's machine and unit."""
        from gatepost.desk.dialogs.shop_settings import ShopSettings

        unit = self.unit()
        dialog = ShopSettings(self._desk.window, self.machine(), unit, first, self._chosen() is None)
        self.dialog = dialog
        dialog.kept.connect(self._keep_settings)
        if first:
            dialog.rejected.connect(lambda: self._keep_settings({}, unit))
        dialog.finished.connect(self._settings_done)
        dialog.open()

    def _settings_done(self) -> None:
        self.dialog = None

    def _keep_settings(self, machine: dict[str, Any], unit: str) -> None:
        from gatepost.machine.standing_checks import now

        def keep(book: Any) -> None:
            book.keep("settings", SETTINGS, {"unit": unit, "machine": machine.get("name", "").strip()[:80]}, now())
            if machine:
                book.keep("machine", machine["name"], machine, now())

        self._desk.from_book(keep, None)

    def _chosen(self) -> Any:
        """The machine that is taken into new jobs, as it is kept: the one of the settings, or one kept since; nothing for the shipped one."""
        machines = self._desk.kept_by_shop("machine")
        settings = self._desk.kept_by_shop("settings").get(SETTINGS)
        named = settings.data.get("machine") if settings is not None else None
        since = [m for m in machines.values() if settings is None or named is None or m.changed > settings.changed]
        return max(since, key=lambda m: m.changed) if since else machines.get(named or "")

    def machine(self) -> Machine:
        """The machine of new jobs, with its bed as it is now; the shipped figures where none is kept, or they were chosen."""
        from gatepost.core.job.machine import Machine

        chosen = self._chosen()
        plain = {**chosen.data, "taken": chosen.changed[:10]} if chosen is not None else {}
        bed = self._desk.kept_by_shop("bed").get(str(plain.get("name", Machine().name)))
        try:
            return Machine.model_validate({**plain, **({"bed": bed.data} if bed is not None else {})})
        except (OperatorError, ValueError):
            self._desk.messages.say("What the shop keeps of its machine can't be read: the shipped figures are taken.")
            return Machine()
