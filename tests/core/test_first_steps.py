# SPDX-License-Identifier: GPL-3.0-or-later
"""How a new job is led: where to measure, a first line that fits, what is offered first, and nothing ticked that is empty."""

from typing import get_args

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point

from gatepost.core.blank.places import measuring_places, next_place
from gatepost.core.blank.shape import polygon
from gatepost.core.cache import Memory
from gatepost.core.carve.edits import PLACEHOLDER, new_line, new_plate, typed
from gatepost.core.errors import Cancelled, OperatorError
from gatepost.core.findings import Gate, Level
from gatepost.core.job import commands
from gatepost.core.job.blank import Blank, Reading
from gatepost.core.job.fixes import apply
from gatepost.core.job.model import Job
from gatepost.core.job.tool import Tool
from gatepost.core.job.tool_table import another, free_number, of_kind, shipped_tools
from gatepost.core.plan.advice import Advice, advice
from gatepost.core.plan.pipeline import plan
from tests.conftest import tries
from tests.core.catalogue import ROWS
from tests.core.catalogue_jobs import JOBS, edited

MEMORY = Memory(keep=32)


def new_job(**blank):
    job = Job(tools=shipped_tools())
    return commands.run(job, "set blank", blank) if blank else job


def lettered(job, *texts):
    """Lines typed over one after the other, as on the Carve page."""
    for text in texts:
        cut = next((o for o in job.setup("front").operations if o.kind == "vcut"), None)
        job = commands.run(job, "add line", {**new_line(job, "front", cut), "setup": "front"})
        cut = next(o for o in job.setup("front").operations if o.kind == "vcut")
        line = next(a for a in job.artwork if a.kind == "lettering").figures.lines[-1]
        job = commands.run(job, "set line", {"line": line.id, **typed(job, "front", cut, line, text)})
    return job


SHAPES = ("rectangle", "round", "oval")


@given(
    st.sampled_from(SHAPES), st.floats(60, 2400), st.floats(60, 700), st.sampled_from(("caliper", "height", "gap")),
)  # fmt: skip
def test_every_place_to_measure_lies_on_the_wood_and_is_named_once(shape, length, width, what):
    blank = Blank(length=length, width=length if shape == "round" else width, shape=shape)
    places = measuring_places(blank, what)
    area = polygon(blank)
    assert [p.number for p in places] == list(range(1, len(places) + 1)) and len({p.words for p in places}) == len(
        places
    )
    assert all(area.buffer(1e-6).contains(Point(p.x, p.y)) and not p.taken for p in places)


def test_a_place_on_a_board_with_a_bay_in_its_edge_is_brought_onto_the_wood():
    bay = ((0, 0), (400, 0), (400, 200), (240, 200), (200, 60), (160, 200), (0, 200))
    blank = Blank(length=400, width=200, shape="outline", outline=bay)
    area = polygon(blank)
    assert all(area.contains(Point(p.x, p.y)) for p in measuring_places(blank))


@given(st.permutations(range(6)), st.integers(1, 6), st.floats(-12, 12), st.floats(-12, 12))
def test_a_reading_takes_the_place_it_is_near_once_and_the_next_goes_round(order, count, dx, dy):
    blank = Blank(length=600, width=220)
    places = measuring_places(blank)
    taken = [places[i] for i in order[:count]]
    readings = tuple(
        Reading(id=f"caliper-{i + 1}", x=min(max(p.x + dx, 0), 600), y=min(max(p.y + dy, 0), 220), thickness=21.0)
        for i, p in enumerate(taken)
    )
    blank = blank.model_copy(update={"calipers": readings})
    now = measuring_places(blank)
    assert {p.number for p in now if p.taken} == {p.number for p in taken}
    free = [p.number for p in now if not p.taken]
    for after in range(7):
        found = next_place(blank, after=after)
        assert (found.number if found else None) == next((n for n in (*[f for f in free if f > after], *free)), None)


def test_a_reading_far_from_every_place_takes_none():
    blank = Blank(length=900, width=300, calipers=(Reading(id="caliper-1", x=260.0, y=150.0, thickness=30.0),))
    assert not any(p.taken for p in measuring_places(blank))


@given(
    st.floats(220, 1400), st.floats(110, 600), st.floats(12, 60),
    st.lists(st.sampled_from(("TOW PATH", "No cycling", "I", "Fennick Wharf", "LOCK No 7", "1842", "A RATHER LONG LINE")), min_size=1, max_size=3), st.booleans(),
)  # fmt: skip
@settings(max_examples=tries(12))
def test_a_first_line_and_those_after_it_always_fit_the_board_and_the_bit_and_a_plate_all_of_them(
    length, width, thick, texts, plate
):
    job = lettered(
        commands.run(new_job(length=length, width=width, label_thickness=thick), "set surfacing", {"wanted": "no"}),
        *texts,
    )
    job = commands.run(job, "set plate", new_plate(job, "front")) if plate else job
    carved = plan(job, memory=MEMORY, coarse=True).report("carve")
    stops = [f.code for f in carved.findings if f.level is Level.STOP and f.code != "carve.cutter-short"]
    letters = [a.figures for a in job.artwork if a.kind == "lettering"]
    assert not stops, (stops, [(li.text, li.height) for one in letters for li in one.lines])


def test_a_line_that_was_typed_keeps_its_size_when_it_is_typed_anew():
    job = lettered(new_job(length=600, width=220), "TOW PATH")
    cut = job.setup("front").operations[0]
    line = job.artwork[0].figures.lines[0]
    assert line.text != PLACEHOLDER and "height" not in typed(job, "front", cut, line, "TOW PATHS")


def test_a_new_job_is_led_from_the_board_to_what_it_says_and_to_what_holds_it():
    job = new_job(length=600, width=220, label_thickness=22)
    first = plan(job, memory=MEMORY).next
    assert (first.stage, first.act) == ("blank", "measure")
    places = measuring_places(job.blank)
    for i, place in enumerate(places[:4]):
        job = commands.run(job, "add caliper", {"x": place.x, "y": place.y, "thickness": 21.5 + 0.1 * (i % 2)})
        told = plan(job, memory=MEMORY).next
        if i < 3:
            assert told.act == "measure" and f"place {i + 2}, {places[i + 1].words}" in told.sentence
    assert (told.stage, told.act, told.verb) == ("carve", "write", "Write")
    told = plan(lettered(job, "TOW PATH"), memory=MEMORY)
    assert told.next.stage == "hold" and told.next.setup == "front"


def test_nothing_is_ticked_of_a_stage_that_has_nothing_to_do():
    told = plan(new_job(), memory=MEMORY)
    assert {r.gate for (s, _), r in told.reports.items() if s in ("hold", "zero", "tools", "run")} == {Gate.WAITING}
    asked = {f.code for f in told.findings if f.stands}
    assert "surface.no-heights" in asked
    left = plan(commands.run(new_job(), "set surfacing", {"wanted": "no"}), memory=MEMORY)
    assert left.report("surface").gate is Gate.NOT_NEEDED
    assert not [f for f in left.findings if f.stage == "surface"]  # left as planed is obeyed everywhere


@pytest.fixture(scope="module")
def unheld():
    return plan(
        lettered(commands.run(new_job(length=600, width=220), "set surfacing", {"wanted": "no"}), "TOW PATH"),
        memory=MEMORY,
    )


def test_where_nothing_holds_the_work_the_best_ways_are_offered_with_their_minutes(unheld):
    found = next(f for f in unheld.stops if f.code == "hold.too-few")
    told = advice(unheld, MEMORY)
    fixes = told.of(found).fixes
    assert 2 <= len(fixes) <= 3 and all("min to set" in f.sentence for f in fixes)
    assert len({f.sentence.split(":")[0] for f in fixes}) == len(fixes)
    for fix in fixes:
        after = plan(apply(unheld.job, fix), memory=MEMORY)
        assert not [f for f in after.stops if f.stage == "hold"], fix.sentence


def test_of_several_fixes_the_one_that_clears_the_most_comes_first():
    row = next(r for r in ROWS if r.code == "hold.overlap")
    told = plan(edited(JOBS[row.job](), *row.over), memory=MEMORY)
    several = [f for f in told.stops if len(f.fixes) > 1]
    assert several
    given = advice(told, Memory())
    for f in several[:1]:
        left = []
        for fix in given.of(f).fixes:
            after = plan(commands.run(told.job, fix.kind, fix.values, told.kinds.figures), memory=MEMORY, coarse=True)
            left.append((len(after.stops), sum(q.level is Level.CARE and q.stands for q in after.findings)))
        assert left == sorted(left) and sorted(x.sentence for x in given.of(f).fixes) == sorted(
            x.sentence for x in f.fixes
        )


def test_answers_to_a_question_keep_their_order_whatever_they_clear():
    row = next(r for r in ROWS if r.code == "blank.metal-asked")
    told = plan(edited(JOBS[row.job](), *row.over), memory=MEMORY)
    given = advice(told, Memory())
    asked = [f for f in told.findings if f.level is Level.CARE and len(f.fixes) > 1]
    assert asked and all(given.of(f).fixes == f.fixes for f in asked)


def test_advice_is_for_its_own_job_and_takes_no_fix_away_where_a_hand_is_on_it(unheld):
    found = next(f for f in unheld.stops if f.code == "hold.too-few")
    key = (found.code, found.setup, found.about)
    one = Advice(unheld.job, {key: (), ("carve.margin", "front", ""): ()})
    assert set(one.where_none(unheld).fixes) == set(one.fixes)
    assert one.put(unheld.report("hold", "front")).findings


def test_advice_is_called_off(unheld):
    with pytest.raises(Cancelled):
        advice(unheld, Memory(cancelled=lambda: True), lambda share: False)


@given(st.sets(st.integers(1, 40), max_size=30))
def test_another_tool_has_a_number_that_is_free(taken):
    like = shipped_tools()[0]
    tools = [like.model_copy(update={"number": n}) for n in taken]
    number = free_number(tools)
    assert number not in taken and all(n in taken for n in range(1, number))
    assert another(tools, like, "mine").name == "mine"
    for kind in get_args(Tool.model_fields["kind"].annotation):
        assert of_kind(tools, kind).kind == kind and of_kind(tools, kind).number == number


def test_a_full_table_of_tools_says_what_to_do():
    job = Job(tools=tuple(shipped_tools()[0].model_copy(update={"number": n}) for n in range(1, 100)))
    with pytest.raises(OperatorError, match="Take a tool away first"):
        free_number(job.tools)
    assert len(job.tools) == 99 and free_number(job.tools[:40] + job.tools[41:]) == 41
