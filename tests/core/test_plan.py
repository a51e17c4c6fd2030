# SPDX-License-Identifier: GPL-3.0-or-later
"""Whole plans of the example jobs: what they promise, what is remembered, what dragging means."""

import json
import math
import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.core.cache import Memory
from gatepost.core.carve.areas import area_of
from gatepost.core.carve.edits import outlines
from gatepost.core.errors import Cancelled
from gatepost.core.findings import Gate, Level
from gatepost.core.geometry import curves
from gatepost.core.job import commands
from gatepost.core.job.fixes import apply
from gatepost.core.job.journal import Journal
from gatepost.core.plan import nextstep
from gatepost.core.plan.export import area_files, art_files, plan_json
from gatepost.core.plan.handling import moved, z_dragged
from gatepost.core.plan.pipeline import plan
from gatepost.core.program.read import read
from gatepost.core.run.standing import done
from gatepost.core.run.step import ticked
from tests.conftest import tries
from tests.core.catalogue_jobs import JOBS, whole


def edit(job, name, /, **values):
    return commands.run(job, name, values)


def test_the_example_jobs_are_sound(lock7_plan, quay_plan):
    for reckoned in (lock7_plan, quay_plan):
        assert not reckoned.stops and not reckoned.questions
        assert {r.gate for r in reckoned.reports.values()} <= {Gate.OPEN, Gate.NOT_NEEDED, Gate.WAITING}
    assert not [r for r in lock7_plan.reports.values() if r.gate is Gate.WAITING]
    assert {s for (s, _), r in quay_plan.reports.items() if r.gate is Gate.WAITING} == {"finish"}  # no coats chosen
    assert [op.kind for s in lock7_plan.setups for op in s.operations] == ["surface", "vcut", "cutout"]
    assert [s.name for s in quay_plan.setups] == ["front"]
    assert "G20" in quay_plan.setups[0].programs[0].text


def test_the_first_look_has_one_stop_and_its_fix_mends_it(first_look, memory):
    reckoned = plan(first_look, memory=memory)
    assert [f.code for f in reckoned.stops] == ["hold.clearance"]
    assert reckoned.next.fix == reckoned.stops[0].fixes[0]
    for setup in reckoned.setups:
        for program in setup.programs:
            assert program.text.startswith("(NOT TO BE RUN: C2 stands in the way")
            assert read(program.text).barred
    assert not plan(apply(first_look, reckoned.next.fix), memory=memory).stops


def test_a_care_accepted_with_a_reason_opens_its_gate_and_lapses_when_the_figures_change(lock7, memory):
    job = edit(lock7, "set surfacing", wanted="no")
    reckoned = plan(job, memory=memory)
    care = next(f for f in reckoned.findings if f.code == "surface.not-flat")
    assert [q.code for q in reckoned.questions if q.stage == "surface"] == ["surface.not-flat"]
    said = {
        "code": care.code,
        "setup": care.setup,
        "inputs": nextstep.inputs_hash(care),
        "reason": "a trial piece",
        "at": "now",
    }
    accepted = edit(job, "accept", **said)
    again = plan(accepted, memory=memory)
    assert again.fingerprint == reckoned.fingerprint
    assert next(f for f in again.findings if f.code == care.code).accepted == "a trial piece"
    assert not [q for q in again.questions if q.code == care.code]
    worse = plan(edit(accepted, "set height", height="height-9", z=37.0), memory=memory)
    assert [q for q in worse.questions if q.code == care.code]


def test_there_is_always_one_next_step_and_it_follows_what_was_done(memory):
    job = whole()
    steps, journal = [(s.name, step.key) for s in plan(job, memory=memory).setups for step in s.steps], Journal()
    seen = []
    for _ in range(80):
        now = plan(job, journal, memory).next
        assert now.sentence
        if now.step is None:
            break
        seen.append((now.setup, now.step.key))
        journal = journal.add("t", "ticked", now.setup, step=now.step.key)
    assert seen == steps and len(steps) > 30
    assert now.stage == "log"


def test_what_is_planned_twice_is_the_same_and_a_request_can_be_dropped(quay):
    a, b = plan(quay), plan(quay)
    assert json.dumps(plan_json(a, [])) == json.dumps(plan_json(b, []))
    assert [p.text for s in a.setups for p in s.programs] == [p.text for s in b.setups for p in s.programs]
    with pytest.raises(Cancelled):
        plan(quay, memory=Memory(cancelled=lambda: True))


SAME, ONE, ALL = "none", "one", "all"


@pytest.mark.parametrize(
    ("command", "values", "changes"),
    [
        ("set job", {"name": "Other", "unit": "mm"}, SAME),
        ("set tool", {"number": 1, "feed": 999.0}, SAME),  # fitted by no program of this job
        ("set tool", {"number": 3, "cutting_length": 19.0, "name": "as sharpened"}, SAME),
        ("place blank", {"setup": "front", "x": 333.0, "y": 222.0}, SAME),
        ("set hold", {"setup": "front", "hold": "C1", "torque": 5.0}, SAME),
        ("set wood", {"name": "oak", "kind": "hard"}, SAME),
        ("set carving", {"sanding": 0.1}, SAME),
        ("set tool", {"number": 2, "feed": 2000.0}, ONE),
        ("set tool", {"number": 2, "rpm": 15000.0}, ONE),
        ("set tool", {"number": 2, "diameter": 6.02}, ONE),
        ("set plate", {"tab_height": 3.0}, ONE),
        ("set zero", {"setup": "front", "xy": "back right"}, ALL),
        ("set skew", {"setup": "front", "degrees": 0.01}, ALL),
        ("set machine", {"dialect": {"decimals": 2}}, ALL),
    ],
)
def test_a_program_is_another_where_something_else_comes_out_of_it_and_nowhere_else(
    quay, memory, command, values, changes
):
    before, after = plan(quay, memory=memory), plan(edit(quay, command, **values), memory=memory)
    one, other = ([p.fingerprint for s in of.setups for p in s.programs] for of in (before, after))
    assert len(one) == len(other) == len(set(one)) == 2
    differ = sum(a != b for a, b in zip(one, other))
    assert differ == {SAME: 0, ONE: 1, ALL: 2}[changes]
    assert (before.fingerprint == after.fingerprint) == (changes == SAME)
    # a run is ticked for what was run
    at, setup = Journal(), before.setups[0]
    for step in setup.steps:
        at = ticked(at, "t", step)
    left = [s.program for s in after.setups[0].steps if s.kind == "run" and not done(at, s)]
    assert len(left) == differ and not [s for s in setup.steps if not done(at, s)]


def test_plan_json_has_what_scripts_are_promised(lock7_plan):
    values = plan_json(lock7_plan, ["a.nc"])
    assert set(values) >= {"blank", "tools", "setups", "findings", "questions", "files", "version", "fingerprint"}
    front = values["setups"][1]
    assert set(front) == {
        "name",
        "face",
        "datum",
        "id",
        "follows",
        "up",
        "spin",
        "blank_to_work",
        "hold",
        "pieces",
        "programs",
        "operations",
        "tool_changes",
    }
    assert front["datum"]["xy"] == "centre" and front["datum"]["bed_xy"] == pytest.approx(
        [150 + lock7_plan.job.blank.length / 2, 300.0], abs=0.1
    )
    surface = values["setups"][0]["surface"]
    assert set(surface) == {"needed", "as_lies", "shimmed", "missed"} and surface["needed"] and not surface["missed"]
    lies = surface["as_lies"]
    plane = lock7_plan.extremes.lowest[2] - 0.2
    raised = max(g.z for g in lock7_plan.job.blank.under)  # the underside's highest place, cleaned up like the top
    assert lies["thickness"] == pytest.approx(plane - raised - 0.2) and lies["passes"][-1]["z"] == pytest.approx(plane)
    assert lies["removal"] == pytest.approx(lock7_plan.extremes.highest[2] - plane)
    assert [p["clean"] for p in lies["passes"]] == sorted(p["clean"] for p in lies["passes"])
    assert lies["passes"][-1] == {"z": plane, "seconds": lies["passes"][-1]["seconds"], "clean": 1.0}
    assert values["blank"]["spread"] == pytest.approx(0.15) and len(values["blank"]["readings"]) == 6
    letters, cutout = front["operations"]
    assert letters["kind"] == "vcut" and letters["art"] == "art-front-1.svg" and letters["z_min"] < -5
    assert cutout["z_min"] == pytest.approx(-plane - 0.3) and cutout["seconds"] > 300
    assert [c["tool"] for c in front["tool_changes"]] == [2]
    art = art_files(lock7_plan)["art-front-1.svg"]
    assert 'data-y-up="true"' in art and "viewBox" not in art and "transform" not in art and "Q" in art


def test_a_ground_s_rows_name_the_region_they_clear_once_for_all_its_tools():
    told = plan(JOBS["raised"](), cell=0.5)
    values, files = plan_json(told, []), area_files(told)
    rows = values["setups"][0]["operations"]
    ground, cutout = [r for r in rows if r["operation"] == "ground"], [r for r in rows if r["operation"] == "cut-out"]
    assert [(r["tool"], r["stage"]) for r in ground] == [(2, "T2"), (3, "T3")] and cutout[0]["side"] == "outside"
    assert {r["area"] for r in ground} == {"area-front-1.svg"} and {r["area"] for r in cutout} == {"area-front-2.svg"}
    assert set(files) == {"area-front-1.svg", "area-front-2.svg"} and all(
        r["floor"] == pytest.approx(-2.0) for r in ground
    )
    paths = dict(re.findall(r'<path id="(\w+)" fill-rule="evenodd" d="([^"]*)"/>', files["area-front-1.svg"]))
    areas = {name: curves.even_odd_area(curves.parse_path(d), 0.01) for name, d in paths.items()}
    # the plate's middle is X0 Y0: 96 by 56 less its rim, with corners of 2 mm, less the letters
    letters = area_of(told.job.art("lettering", ("lettering",)), 0.001).area
    assert areas["top"] == pytest.approx(80 * 40 - (4 - math.pi) * 4 - letters, rel=2e-3)
    assert areas["floor"] < areas["top"] - 2 * math.tan(math.radians(30)) * 200
    plate_ = re.search(r'id="floor"[^>]* d="([^"]*)"', files["area-front-2.svg"])
    assert curves.even_odd_area(curves.parse_path(plate_[1]), 0.01) == pytest.approx(
        96 * 56 - (4 - math.pi) * 100, rel=1e-3
    )


def test_a_board_that_need_not_be_surfaced_says_so_and_what_it_would_keep(quay_plan):
    told = plan_json(quay_plan, [])["setups"][0]["surface"]
    assert told["needed"] is False and told["as_lies"]["thickness"] < 19.05


def test_no_text_no_plate_and_no_tools_still_make_a_plan(lock7):
    bare = edit(
        edit(edit(lock7, "remove line", line="line-2"), "remove line", line="line-1"), "set plate", present=False
    )
    reckoned = plan(bare)
    # with no lettering the cupped board need not be surfaced, and is then too thick for the packing
    assert {f.code for f in reckoned.stops} == {"hold.nose-up"} and reckoned.report("carve").gate is Gate.AJAR
    assert not any(s.programs for s in reckoned.setups)
    none = bare
    for tool in bare.tools:
        none = edit(none, "remove tool", number=tool.number)
    assert plan(none).next.sentence


@pytest.mark.parametrize(("length", "width"), [(40.0, 30.0), (1100.0, 640.0), (200.0, 650.0), (30.0, 600.0)])
def test_awkward_blanks_are_planned_or_told(length, width, lock7):
    job = edit(lock7, "set blank", length=length, width=width)
    reckoned = plan(job)
    assert reckoned.next.sentence
    assert reckoned.stops  # readings or lettering no longer lie on it


def test_letters_that_run_into_each_other_are_cut_as_one(lock7):
    line = {"line": "line-1", **outlines("WAVE", "Sans")}
    job = edit(edit(lock7, "set line", **line), "set line", line="line-1", tracking=-0.2)
    reckoned = plan(job)
    assert reckoned.made["lettering"].overlap and not reckoned.made["lettering"].art.exact
    assert not [f for f in reckoned.findings if f.code == "wood.gouged"]


HANDLED = [
    ("hold:C1", 12.0, 0.4, "set hold"),
    ("hold:C1", 0.0, 95.0, "set hold"),
    ("hold:E1", 5.0, 0.0, "set hold"),
    ("zero", 3.0, 1.0, "set zero"),
    ("touch", -5.0, 2.0, "set zero"),
    ("blank", 4.0, 4.0, "place blank"),
    ("caliper:caliper-2", 5.0, -90.0, "set caliper"),
    ("height:height-1", -90.0, 1.0, "set height"),
    ("plate:cut-out", 3.0, 0.0, "set art"),
]


@pytest.mark.parametrize(("key", "dx", "dy", "command"), HANDLED)
def test_dragging_means_a_command(key, dx, dy, command, lock7):
    setup = "surface" if key == "hold:E1" else "front"
    name, values = moved(lock7, setup, key, dx, dy)
    assert name == command
    after = edit(lock7, name, **values)
    assert after != lock7
    if key.startswith("hold:C"):
        hold = next(h for h in after.setup("front").holds if h.name == key[5:])
        assert hold.y in after.machine.slots
    if key == "height:height-1":
        assert after.blank.heights[0].x == 0.0


def test_dragging_zeros_snaps_and_changes_plane(lock7):
    name, values = moved(lock7, "front", "zero", -456 + 5, -159 + 4)
    assert values["xy"] == "front left"
    name, values = z_dragged(lock7, "front", 4.0, 33.4)
    assert values["z"] == "bed" and edit(lock7, name, **values).setup("front").zero.touch_x is None
    assert moved(lock7, "front", "hold:C9", 1, 1) is None and moved(lock7, "front", "slot", 1, 1) is None


def test_z_on_the_bed_goes_no_deeper_into_the_spoilboard_than_asked(quay_plan):
    cutout = quay_plan.setups[0].operations[-1]
    assert cutout.after.z.min() == pytest.approx(-0.3, abs=0.01)
    assert all(f.level is not Level.STOP for f in quay_plan.findings)


EDITS = st.one_of(
    st.tuples(st.just("set hold"), st.fixed_dictionaries({"setup": st.just("front"), "hold": st.sampled_from(["E1", "E2"]), "x": st.sampled_from([540.0, 545.0, 600.0])})),
    st.tuples(st.just("scale lettering"), st.fixed_dictionaries({"factor": st.sampled_from([0.8, 1.25])})),
    st.tuples(st.just("set plate"), st.fixed_dictionaries({"tabs": st.sampled_from([2, 4]), "allowance": st.sampled_from([0.3, 0.5])})),
    st.tuples(st.just("set tool"), st.fixed_dictionaries({"number": st.sampled_from([2, 3]), "feed": st.sampled_from([1200.0, 2000.0])})),
    st.tuples(st.just("add height"), st.fixed_dictionaries({"x": st.just(50.0), "y": st.just(30.0), "z": st.sampled_from([20.7, 21.3])})),
    st.tuples(st.just("set zero"), st.fixed_dictionaries({"setup": st.just("front"), "z": st.sampled_from(["top", "bed"])})),
    st.tuples(st.just("place blank"), st.fixed_dictionaries({"setup": st.just("front"), "x": st.sampled_from([520.0, 530.0]), "y": st.just(310.0)})),
    st.tuples(st.just("set surfacing"), st.fixed_dictionaries({"wanted": st.sampled_from(["yes", "no"])})),
)  # fmt: skip


@settings(max_examples=tries(6))
@given(st.lists(EDITS, min_size=2, max_size=5), st.data())
def test_what_is_remembered_changes_nothing_whatever_was_edited_and_undone_before(edits, data):
    memory, job, seen = Memory(wholes=data.draw(st.sampled_from([0, 3]))), whole(), []
    journals = st.sampled_from([Journal(), Journal().add("2026-01-01T10:00", "homed", "front")])
    for name, values in edits:
        job = edit(job, name, **values)
        seen.append(job)
        plan(job, data.draw(journals), memory, coarse=data.draw(st.booleans()))
    again, done = data.draw(st.sampled_from(seen)), data.draw(journals)
    kept, fresh = plan(again, done, memory), plan(again, done)
    assert kept.job == again and not kept.coarse and kept.next == fresh.next
    assert json.dumps(plan_json(kept, [])) == json.dumps(plan_json(fresh, []))
    assert [(f.code, f.message, f.level) for f in kept.findings] == [
        (f.code, f.message, f.level) for f in fresh.findings
    ]
    for a, b in zip(kept.setups, fresh.setups, strict=True):
        assert [p.text for p in a.programs] == [p.text for p in b.programs]
        assert a.end.z.tobytes() == b.end.z.tobytes()


def test_as_many_wholes_are_kept_as_memory_allows_and_the_one_looked_at_last_longest():
    memory, made = Memory(wholes=5), []

    def asked(key, size):
        return memory.whole(key, (), lambda: made.append(key) or size, lambda s: 6 // s)

    for key in "abcd":
        asked(key, 1)
    assert asked("a", 1) == 1 and made == list("abcd")
    asked("e", 3)  # as large as that, two
    assert [k for k in "abcde" if memory.kept_whole(k, ()) is not None] == ["a", "e"]
    assert memory.kept_whole("a", "another") is None and Memory().whole("a", (), lambda: 7, lambda s: 3) == 7


def test_a_first_look_says_so_and_finds_what_the_whole_plan_finds(first_look, lock7):
    for job in (first_look, lock7):
        coarse, whole = plan(job, coarse=True), plan(job)
        assert coarse.coarse and not whole.coarse
        assert [f.code for f in coarse.stops] == [f.code for f in whole.stops]
        assert [s.name for s in coarse.setups] == [s.name for s in whole.setups]
