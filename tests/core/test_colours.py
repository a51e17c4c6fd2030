# SPDX-License-Identifier: GPL-3.0-or-later
"""Letters in their colours: what is cut of each, what is mixed of each, and that nothing is cut otherwise for it."""

from dataclasses import replace

import pytest

from gatepost.core.finish import scheme
from gatepost.core.finish.report import finish_report
from gatepost.core.finish.shelf import shipped_finishes
from gatepost.core.job import commands
from gatepost.core.job.finish import Coating
from gatepost.core.plan.pipeline import plan

SHELF = {t.id: t for t in shipped_finishes()}
RESIN = SHELF["resin"].model_copy(update={"ratio": 2.0, "deepest": 1.0})


def lines_of(job):
    art = next(a for a in job.artwork if a.kind == "lettering")
    return [line.id for line in art.figures.lines]


@pytest.fixture(scope="module")
def two(quay):
    """QUAY in red, the rest in what the artwork says."""
    first, _ = lines_of(quay)
    job = commands.run(quay, "set line", {"line": first, "colour": "red"})
    return commands.run(
        job, "set art", {"art": next(a.id for a in job.artwork if a.kind == "lettering"), "colour": " blue "}
    )


@pytest.fixture(scope="module")
def both(two, memory):
    return plan(two, memory=memory)


def test_each_colour_has_what_its_own_letters_hold_and_together_it_is_all(both, two, quay_plan, memory):
    whole = sum(g.volume for g in quay_plan.finishing.grooves)
    of = {g.colour: g for g in both.finishing.grooves}
    assert set(of) == {"red", "blue"} and sum(g.volume for g in of.values()) == pytest.approx(whole, rel=1e-6)
    for n, colour in enumerate(("blue", "red")):  # with the other line away, all that is left is of this colour
        alone = plan(commands.run(two, "remove line", {"line": lines_of(two)[n]}), memory=memory)
        (groove,) = alone.finishing.grooves
        assert groove.colour == colour and groove.volume == pytest.approx(of[colour].volume, rel=0.01)
        assert groove.deep == pytest.approx(of[colour].deep, abs=0.06)  # it stands elsewhere between the cells


def test_a_colour_changes_no_program(both, quay_plan):
    told = [[p.fingerprint for s in x.setups for p in s.programs] for x in (both, quay_plan)]
    assert told[0] == told[1] and both.fingerprint == quay_plan.fingerprint


def test_resin_is_mixed_by_colour_and_painted_letters_share_their_paint(both):
    sign = both.finishing
    f = sign.work.finish.model_copy(update={"tins": (RESIN, SHELF["sign-paint"]), "coats": (
        Coating(id="a", tin="resin", where="letters", colour="red"), Coating(id="b", tin="sign-paint", where="letters", colour="blue"),
    )})  # fmt: skip
    w = replace(sign.work, finish=f, scheme="painted after")
    told = finish_report(replace(sign, work=w))
    ((_, *rows),) = [rows for title, rows in told.tables if title.startswith("Resin")]
    red = next(g for g in sign.grooves if g.colour == "red")
    assert len(rows) == 1 and rows[0][0].startswith("red: ")
    assert float(rows[0][1].split()[0]) == pytest.approx(red.volume / 1000 * 1.1 * 2 / 3, abs=0.06)
    steps = [s for s in scheme.finish_steps(w) if s.key.startswith(("a-", "b-"))]
    assert len([s for s in steps if s.key.startswith("a-")]) == max(1, -(-red.deep // RESIN.deepest))
    assert all("in red" in s.title for s in steps if s.key.startswith("a-")) and "in blue" in steps[-1].title
    area = w.area
    assert area.under(f.coats[0]) + area.under(f.coats[1]) == pytest.approx(area.letters)
    assert scheme.misfits(w) == []  # they lie in other letters: neither is on the other
    over = f.model_copy(update={"coats": (Coating(tin="sign-paint", where="letters"), Coating(tin="oil", where="letters", colour="red")), "tins": (SHELF["sign-paint"], SHELF["outdoor-oil"].model_copy(update={"id": "oil"}))})  # fmt: skip
    assert [n for n, _ in scheme.misfits(replace(w, finish=over))] == ["outdoor oil"]
    beside = over.model_copy(update={"coats": (Coating(tin="sign-paint", where="letters", colour="blue"), Coating(tin="oil", where="letters", colour="red"))})  # fmt: skip
    assert scheme.misfits(replace(w, finish=beside)) == []
