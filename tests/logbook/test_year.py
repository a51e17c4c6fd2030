# SPDX-License-Identifier: GPL-3.0-or-later
"""A made-up year in a shop of its own, and the command that checks a book."""

import os
from datetime import date, timedelta

import pytest

from gatepost import running
from gatepost.cli import main
from gatepost.core.errors import OperatorError
from gatepost.core.log.due import Check, all_due
from gatepost.core.log.filtering import totals
from gatepost.core.log.judged import drifting
from gatepost.core.plan.pipeline import plan
from gatepost.core.plan.recalled import recalled
from gatepost.core.run.learning import factor_of, taken_of
from gatepost.logbook.places import data_folder, logbook_url
from gatepost.logbook.store import Logbook
from gatepost.logbook.year import fill

TODAY = date(2026, 11, 30)


@pytest.fixture
def book(tmp_path):
    made = Logbook(f"sqlite:///{tmp_path / 'year.sqlite'}")
    yield made
    made.close()


def test_a_year_ends_yesterday_and_teaches_what_it_was_made_with(book):
    count = fill(book, TODAY)
    runs = book.runs()
    assert len(runs) == count > 150 and set(totals(runs)) == {"shop"}
    days = [date.fromisoformat(r.started[:10]) for r in runs]
    assert min(days) >= TODAY - timedelta(days=366) and TODAY - timedelta(days=10) <= max(days) < TODAY
    cuts = [c for r in runs for c in taken_of(r.kind, r.tool.partition(" ")[2], r.wood, r.cuts)]
    carved = factor_of(cuts, "vcut")
    assert carved.factor == pytest.approx(1.12, abs=0.03) and carved.within < 1.05
    deep = [d for d in drifting(book.learned.results()) if d.key.startswith("depth")]
    assert deep and all(0.0 < d.by < 0.15 for d in deep)
    due = all_due([Check(**k.data) for k in book.kept("check").values()], runs, TODAY)
    times = all_due([d.check for d in due], book.shop_times(), TODAY)
    assert [d.hours for d in times] == pytest.approx(
        [d.hours for d in due]
    )  # the little that is read comes to the same
    assert any(d.due for d in due) and any(not d.due and d.hours > 0.0 for d in due)
    assert len(book.kept("handover")) == 4
    with pytest.raises(OperatorError, match="runs of its own"):
        fill(book, TODAY)
    assert book.count() == count


def test_its_lessons_come_back_in_the_jobs_that_they_are_true_of(book):
    from gatepost.core.job.file import load

    fill(book, TODAY)
    lessons = book.learned.lessons()
    document = load(running.example("sixteen-mileposts.gatepost"))
    back = {r.lesson.words.split(":")[0] for r in recalled(plan(document.job, document.journal), lessons)}
    assert back == {"Burned in the corners", "Tape let go where the board was dusty"}


def test_nothing_that_was_made_up_gets_into_a_shop_s_own_book(monkeypatch):
    own = Logbook(logbook_url(data_folder()))
    before, mine = data_folder(), logbook_url(data_folder())
    monkeypatch.setenv("GATEPOST_DATA", os.environ.get("GATEPOST_DATA", str(before)))  # as it was, afterwards
    monkeypatch.setenv("GATEPOST_LOGBOOK", mine)
    shop = running.fennick_wharf()
    assert shop.parent == before and data_folder() == shop and logbook_url(shop) != mine
    running.fennick_wharf()  # from there once more: another of its own, never a second year in one
    assert own.count() == 0 and own.learned.lessons() == [] and own.kept("check") == {}
    own.close()


def test_a_book_is_checked_by_one_command(capsys, tmp_path, monkeypatch):
    monkeypatch.setenv("GATEPOST_LOGBOOK", f"sqlite:///{tmp_path / 'b.sqlite'}")
    assert main(["log", "check"]) == 0
    told = capsys.readouterr().out
    assert "Written and read back: yes" in told and str(tmp_path / "b.sqlite") in told and "Runs: 0" in told
    monkeypatch.setenv("GATEPOST_LOGBOOK", "postgresql+psycopg://nobody@127.0.0.1:9/none")
    assert main(["log", "check"]) != 0
    assert "server can't be reached" in capsys.readouterr().err
