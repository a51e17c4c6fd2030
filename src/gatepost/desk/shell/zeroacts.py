# SPDX-License-Identifier: GPL-3.0-or-later
"""What the window does about zeros: squareness, what happened to them, plates of the shop, practice, the machine's profile."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QFileDialog, QInputDialog, QWidget

from gatepost.core.errors import OperatorError

if TYPE_CHECKING:
    from gatepost.core.job.machine import Machine
    from gatepost.desk.shell.document import DeskDocument
    from gatepost.desk.shell.messages import Messages
    from gatepost.desk.shell.operator import Operator
    from gatepost.desk.shell.show import PlanPresenter
    from gatepost.desk.shell.zerodialogs import HappenedDialog, PracticeDialog, SquareDialog

    _Part = QWidget
else:
    _Part = object  # a part of a class that is a widget already


class ZeroActions(_Part):
    """A part of the window."""

    document: DeskDocument | None
    messages: Messages
    presenter: PlanPresenter
    operator: Operator
    zero_dialog: HappenedDialog | SquareDialog | PracticeDialog | None = None
    practised: dict[str, tuple[str, str]]

    def run(self, name: str, values: dict[str, Any], words: str = "") -> bool:
        """The window's own."""
        raise NotImplementedError

    def _plan_now(self) -> Any:
        raise NotImplementedError

    def _open_book(self) -> Any:
        raise NotImplementedError

    def _machine_view(self) -> None:
        raise NotImplementedError

    def _shut_zero_dialog(self) -> None:
        self.zero_dialog = None

    # -- square ----------------------------------------------------------------------------------------------

    def _square(self) -> None:
        if self.document is None:
            return
        from gatepost.desk.shell.zerodialogs import SquareDialog

        job, setup = self.document.job, self.presenter.setup
        dialog = SquareDialog(self, *job.blank.across, job.unit)
        self.zero_dialog = dialog
        dialog.turn_wanted.connect(
            lambda degrees: self.run("set skew", {"setup": setup, "degrees": degrees}, "programs turned")
        )
        dialog.finished.connect(self._shut_zero_dialog)
        dialog.open()

    # -- what happened -----------------------------------------------------------------------------------------

    def _happened(self) -> None:
        if self.document is None:
            return
        from gatepost.desk.shell.zerodialogs import HappenedDialog

        setup = self.presenter.setup
        dialog = HappenedDialog(self, setup, self.document.job.unit, self.operator.state not in ("no link", "lost"))
        self.zero_dialog = dialog
        dialog.happened.connect(lambda kind: self._it_happened(setup, kind))
        dialog.looked.connect(lambda x, y: self._looked_at(setup, x, y))
        dialog.accepted_so.connect(lambda why: self._yes_to(setup, why))
        dialog.card_wanted.connect(lambda: self.write_card(setup))
        dialog.finished.connect(self._shut_zero_dialog)
        self._show_known(setup)
        dialog.open()

    def _axes(self, setup: str) -> Any:
        from gatepost.core.zero.trust import trust

        assert self.document is not None
        return trust(self.document.journal.standing(), self._where(setup))

    def _where(self, setup: str) -> Any:
        from gatepost.core.zero.trust import where

        assert self.document is not None
        return where(self.document.job, self.document.job.setup(setup))

    def _show_known(self, setup: str) -> None:
        from gatepost.core.zero.recover import card
        from gatepost.desk.shell.zerodialogs import HappenedDialog

        if isinstance(self.zero_dialog, HappenedDialog):
            self.zero_dialog.show_card(card(self._axes(setup)))

    def _it_happened(self, setup: str, kind: str) -> None:
        from gatepost.core.acts import TABLE
        from gatepost.core.zero.recover import happened
        from gatepost.machine.conduct import now

        if self.document is None or self.zero_dialog is None:
            return
        at = now()
        if kind == "homed":
            self.document.happened(self.document.journal.add(at, "homed", setup))
            words = "Homed. Now go back to the witness mark and look."
        else:
            tool = self._axes(setup).tool
            self.document.happened(happened(self.document.journal, kind, setup, tool, at))
            words = TABLE[kind].then
        self.zero_dialog.say(words)  # type: ignore[union-attr]
        self._show_known(setup)

    def _looked_at(self, setup: str, x: float, y: float) -> None:
        from gatepost.core.zero.recover import looked
        from gatepost.core.zero.trust import AGREES
        from gatepost.machine.conduct import now

        if self.document is None or self.zero_dialog is None:
            return
        try:
            self.document.happened(looked(self.document.journal, self._where(setup), (x, y), now()))
        except OperatorError as error:
            self.zero_dialog.say(str(error))  # type: ignore[union-attr]
            return
        agrees = max(abs(x), abs(y)) <= AGREES
        words = (
            "The mark agrees: X0 and Y0 are known again. Z wants touching: a look proves nothing of it."
            if agrees
            else "X0 and Y0 are moved by the miss, and provisional: one mark can't tell a turn. Touch Z again."
        )
        self.zero_dialog.say(words)  # type: ignore[union-attr]
        self._show_known(setup)

    def _yes_to(self, setup: str, why: str) -> None:
        from gatepost.core.zero.recover import accepted
        from gatepost.machine.conduct import now

        if self.document is None or self.zero_dialog is None:
            return
        try:
            self.document.happened(accepted(self.document.journal, self._where(setup), why, now()))
        except OperatorError as error:
            self.zero_dialog.say(str(error))  # type: ignore[union-attr]
            return
        self.zero_dialog.say("Going on with this zero. Your reason is kept.")  # type: ignore[union-attr]
        self._show_known(setup)

    def write_card(self, setup: str, path: Path | None = None) -> None:
        """The card to print: zeros in machine coordinates, with tool and time."""
        if self.document is None:
            return
        from gatepost.core.zero.recover import card
        from gatepost.desk.view.pictures import zero_card

        if path is None:
            name, _ = QFileDialog.getSaveFileName(
                self, "Card of the zeros", str(Path.home() / "zeros.pdf"), "PDF (*.pdf)"
            )
            if not name:
                return
            path = Path(name)
        try:
            zero_card(self.document.job, setup, card(self._axes(setup)), path)
        except OperatorError as error:
            self.messages.warn(str(error))
            return
        self.messages.say(f"{path.name} is written.")

    # -- plates of the shop ---------------------------------------------------------------------------------------

    def _keep_gauge(self) -> None:
        """Keep this setup's plate with its thickness and the date of its check."""
        if self.document is None:
            return
        from gatepost.machine.conduct import now

        zero = self.document.job.setup(self.presenter.setup).zero
        if not zero.gauge_name.strip():
            self.messages.say("Give it a name first: “Its name in the shop”.")
            return
        data = {
            "gauge": zero.gauge,
            "gauge_thickness": zero.gauge_thickness,
            "gauge_edge": zero.gauge_edge,
            "gauge_checked": zero.gauge_checked,
        }
        self._keep_for_shop("gauge", zero.gauge_name, data, now())

    def _keep_for_shop(self, kind: str, name: str, data: dict[str, Any], at: str) -> None:
        book = self._open_book()
        if book is None:
            return
        try:
            book.keep(kind, name, data, at)
        except OperatorError as error:
            self.messages.warn(str(error))
            return
        finally:
            book.close()
        self.messages.say(f"{name} is kept for the shop's later jobs.")

    def _kept_by_shop(self, kind: str) -> Any:
        book = self._open_book()
        if book is None:
            return {}
        try:
            return book.kept(kind)
        except OperatorError as error:
            self.messages.warn(str(error))
            return {}
        finally:
            book.close()

    def _gauges(self) -> None:
        """Choose a plate or a sensor of the shop's register."""
        if self.document is None:
            return
        kept = self._kept_by_shop("gauge")
        if not kept:
            self.messages.say("The shop keeps no plates yet: name one, then keep it.")
            return
        names = [
            f"{n}: {k.data['gauge_thickness']:g} mm, checked {k.data.get('gauge_checked') or 'never'}"
            for n, k in kept.items()
        ]
        picked, fine = QInputDialog.getItem(self, "Plates and sensors", "Touch off with", names, 0, False)
        if fine:
            self.use_gauge(list(kept)[names.index(picked)])

    def use_gauge(self, name: str) -> None:
        """Touch off with a plate of the shop's register."""
        kept = self._kept_by_shop("gauge").get(name)
        if kept is not None:
            self.run("set zero", {"setup": self.presenter.setup, "gauge_name": name, **kept.data}, name)

    # -- the machine's profile -------------------------------------------------------------------------------------

    def _keep_machine(self) -> None:
        """Keep this job's machine for the shop's later jobs; its bed is kept by itself."""
        if self.document is None:
            return
        from gatepost.machine.conduct import now

        machine = self.document.job.machine
        self._keep_for_shop("machine", machine.name, machine.model_dump(mode="json", exclude={"bed"}), now())

    def _take_machine(self) -> None:
        """Take the shop's figures of this machine into the job."""
        if self.document is None:
            return
        name = self.document.job.machine.name
        kept = self._kept_by_shop("machine").get(name)
        if kept is None:
            self.messages.say(f"The shop keeps nothing of {name} yet.")
        elif self.run("set machine", {**kept.data, "taken": kept.changed[:10]}, "the shop's machine"):
            self.messages.say(f"{name} as it was kept on {kept.changed[:10]}.")

    def shop_machine(self) -> Machine:
        """The machine that the shop kept last, with its bed as it is now; the shipped figures where none is kept."""
        from pydantic import ValidationError

        from gatepost.core.job.machine import Machine

        machines = self._kept_by_shop("machine")
        newest = max(machines.values(), key=lambda k: k.changed, default=None)
        plain = {**newest.data, "taken": newest.changed[:10]} if newest is not None else {}
        bed = self._kept_by_shop("bed").get(str(plain.get("name", Machine().name)))
        try:
            return Machine.model_validate({**plain, **({"bed": bed.data} if bed is not None else {})})
        except ValidationError:
            self.messages.say("What the shop keeps of its machine can't be read: the shipped figures are taken.")
            return Machine()

    # -- practice ------------------------------------------------------------------------------------------------

    def _practice(self) -> None:
        """Start a simulated machine with something wrong, or see what was noticed of it."""
        if self._plan_now() is None:
            return
        from gatepost.desk.shell.zerodialogs import PracticeDialog

        dialog = PracticeDialog(self, self.practised)
        self.zero_dialog = dialog
        dialog.begun.connect(self.practise)
        dialog.finished.connect(self._shut_zero_dialog)
        dialog.open()

    def practise(self, names: tuple[str, ...]) -> None:
        """Begin with these troubles; nothing of it goes to the shop's figures."""
        plan = self._plan_now()
        if plan is None:
            return
        self.practised = dict.fromkeys(names, ("", ""))
        self.operator.start_simulated(plan, names)
        self._machine_view()
        self.messages.say(
            "Practice: go through the steps. Something may be wrong."
            if names
            else "Practice: nothing is wrong with this machine."
        )

    def noticed(self, words: str, step: str) -> None:
        """A check or a stop has told of something: which trouble was that? It is put right on the simulated machine."""
        from gatepost.machine.rehearsal import BY_NAME, tells_of

        for name, (where, _) in self.practised.items():
            if not where and tells_of(BY_NAME[name], words):
                self.practised[name] = (step or "the machine's own stop", words)
                self.operator.mend(name)
