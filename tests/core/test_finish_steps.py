# SPDX-License-Identifier: GPL-3.0-or-later
"""What goes on what, the steps of every scheme, what the cutter leaves, and a finish in a plan."""

import json
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import Polygon, box

from gatepost.core.errors import OperatorError
from gatepost.core.finish import cleanup, coats, progress, scheme
from gatepost.core.finish.shelf import shipped_finishes
from gatepost.core.frames import Matrix
from gatepost.core.job import commands
from gatepost.core.job.finish import Coating, Finish
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.plan.finishing import ON_EDGE, inner_corners, narrowest, seams
from gatepost.core.plan.pipeline import plan
from gatepost.drawing.by_hand import by_hand
from tests.core.catalogue_jobs import JOBS

# -- coats ----------------------------------------------------------------------------------------------------------------

SHELF = {t.id: t for t in shipped_finishes()}


@given(st.sampled_from(sorted(SHELF)), st.floats(-10.0, 45.0), st.floats(0.0, 98.0))
def test_nothing_dries_sooner_than_its_label_and_not_at_all_in_the_cold(id, celsius, damp):
    tin, room = SHELF[id], Finish(celsius=celsius, damp=damp)
    minutes = coats.dries(tin, tin.recoat, room)
    if celsius < tin.lowest:
        assert math.isinf(minutes)
    else:
        assert minutes >= tin.recoat
        colder = Finish(celsius=max(tin.lowest, celsius - 3.0), damp=damp)
        assert coats.dries(tin, tin.recoat, colder) >= minutes - 1e-9


@pytest.mark.parametrize(
    ("below", "over", "tried", "wrong"),
    [
        ("outdoor-oil", "sign-paint", False, "peels"),
        ("outdoor-oil", "enamel", True, "peels"),
        ("sign-paint", "water-stain", False, "keeps it out"),
        ("shellac", "water-stain", True, ""),
        ("shellac", "oil-stain", False, "scrap"),
        ("enamel", "two-part", False, "lifts"),
        ("oil-stain", "water-varnish", False, "crawl"),
        ("oil-stain", "water-varnish", True, ""),
        ("primer", "sign-paint", False, ""),
        ("spar-varnish", "outdoor-oil", False, "keeps it out"),
        ("water-stain", "spar-varnish", False, ""),
    ],
)
def test_what_does_not_go_on_what_is_told(below, over, tried, wrong):
    words = coats.goes_on(SHELF[below], SHELF[over], tried)
    assert (wrong in words) if wrong else words == ""


def test_solvent_over_what_is_not_cured_waits_until_it_is():
    minutes, why = coats.until_next(SHELF["sign-paint"], SHELF["enamel"])
    assert minutes == SHELF["sign-paint"].hard and "solvent" in why
    assert coats.until_next(SHELF["sign-paint"], SHELF["sign-paint"]) == (SHELF["sign-paint"].recoat, "")


def test_rags_spray_isocyanate_and_pours_are_warned_of_beside_the_act():
    assert coats.RAGS in coats.cautions(SHELF["outdoor-oil"]) and coats.RAGS in coats.cautions(SHELF["oil-stain"])
    assert coats.ISOCYANATE in coats.cautions(SHELF["two-part"]) and coats.VAPOUR in coats.cautions(SHELF["two-part"])
    assert coats.POUR in coats.cautions(SHELF["resin"]) and coats.cautions(SHELF["sign-paint"]) == ()


# -- steps ----------------------------------------------------------------------------------------------------------------

AREA = scheme.SignArea(0.1e6, 0.02e6, 0.03e6, 0.23e6, 12)


def work(name, **values):
    suggested = scheme.suggested(name, shipped_finishes())
    used = {c.tin for c in suggested}
    f = Finish(scheme=name, tins=tuple(t for t in shipped_finishes() if t.id in used), coats=suggested, **values)
    return scheme.FinishWork(f, name, AREA, "medium", 8.0, ("4 tabs",), 30.0)


@pytest.mark.parametrize("name", [s for s in scheme.WORDS if s])
def test_every_scheme_is_led_from_bare_wood_to_the_wall(name):
    w = work(name)
    steps = scheme.finish_steps(w)
    keys = [s.key for s in steps]
    assert len(set(keys)) == len(keys) and keys[-1] == "hang" and keys.index("run") < keys.index("clean")
    coated = [s for s in steps if s.key.startswith("coat-")]
    assert len(coated) == sum(c.count for c in w.finish.coats)
    assert all(s.hands >= 0 and s.waits >= 0 for s in steps) and not any(s.stuck for s in steps)
    assert [s.before for s in steps] == sorted((s.before for s in steps), reverse=True)
    if name == "painted first":
        assert keys.index("mask") < keys.index("run") < keys.index("peel") and "sand" not in keys
        inside = steps[keys.index("peel") - 1]
        assert (
            "in the letters" in inside.title and inside.waits < w.finish.tin("sign-paint").recoat
        )  # firm, not yet hard
        assert "edges" in steps[-2].title and steps[-2].waits >= w.finish.tin("sign-paint").hard
        assert steps[keys.index("mask") - 1].waits >= w.finish.tin(w.finish.coats[1].tin).hard
    if name == "stained":
        assert keys.index("sand") < keys.index("damp") < keys.index("scrap") < keys.index(coated[0].key)
        assert "scrap" not in [s.key for s in scheme.finish_steps(work(name, tried=True))]
    if coated:
        assert keys.index("dust") < min(keys.index(s.key) for s in coated if not s.before)
        cold = scheme.finish_steps(work(name, celsius=2.0))
        assert any(s.stuck for s in cold)
        with pytest.raises(OperatorError, match="does not dry"):
            progress.work_steps(work(name, celsius=2.0))
    if name == "oiled":
        assert all(math.isfinite(s.within) for s in coated[:-1]) and coats.RAGS in coated[0].cautions


def test_wrong_coats_are_told_where_they_lie_and_bare_letters_are_bare():
    tins = tuple(shipped_finishes())
    over = Finish(
        tins=tins, coats=(Coating(tin="outdoor-oil", where="face"), Coating(tin="sign-paint", where="letters"))
    )
    w = replace(work("oiled"), finish=over)
    assert scheme.misfits(w) == []
    w = replace(
        w,
        finish=over.model_copy(
            update={
                "coats": (Coating(tin="outdoor-oil", where="all round"), Coating(tin="sign-paint", where="letters"))
            }
        ),
    )
    assert [name for name, _ in scheme.misfits(w)] == ["acrylic sign paint"]
    first = over.model_copy(
        update={"coats": (Coating(tin="sign-paint", where="all round"), Coating(tin="outdoor-oil", where="letters"))}
    )
    assert (
        scheme.misfits(replace(w, scheme="painted first", finish=first)) == []
    )  # carved through: the letters are bare


@pytest.mark.parametrize(
    "values",
    [
        {"grits": (180, 120)},
        {"grits": (121,)},
        {"coats": ({"tin": "none"},)},
        {"dry": 12.0, "wet": 8.0},
        {"begins": "tomorrow"},
    ],
)
def test_a_finish_that_can_t_be_is_refused(values, quay):
    with pytest.raises(OperatorError):
        commands.run(quay, "set finish", values)


# -- what is left, and where ------------------------------------------------------------------------------------------------


def test_inner_corners_are_those_that_a_round_cutter_leaves():
    area = box(0, 0, 40, 30).difference(box(10, 10, 20, 20))
    where = inner_corners(area)
    assert sorted(where) == [
        (0.0, 0.0),
        (0.0, 30.0),
        (40.0, 0.0),
        (40.0, 30.0),
    ]  # those about the island are gone round
    assert inner_corners(Polygon([(20 * math.cos(t), 20 * math.sin(t)) for t in np.linspace(0, 2 * math.pi, 90)])) == []


def test_the_narrowest_gap_is_found():
    area = box(0, 0, 40, 30).difference(box(12, -1, 14, 26)).difference(box(17, -1, 19, 31))
    assert narrowest(area) == pytest.approx(3.0, abs=0.15)


def test_seams_are_where_a_smaller_cutter_goes_on_from_a_larger_one():
    large, small = (
        shipped_tools()[1].model_copy(update={"kind": "flat", "diameter": d, "number": n})
        for n, d in ((1, 12.0), (2, 6.0))
    )
    (seam,) = seams(box(0, 0, 80, 50), [large, small], "front", Matrix())
    arc = 6.0 * (
        math.pi / 2 - 2 * math.acos(1 - ON_EDGE / 6.0)
    )  # in each corner, what of the large one's round lies off both edges
    assert seam.minutes == pytest.approx(4 * arc / 100 * cleanup.SEAM, rel=0.02) and len(seam.where) == 4
    mouth = box(0, 0, 80, 50).union(box(80, 20, 120, 28))
    where = seams(mouth, [small, large], "front", Matrix())[0].where
    assert any(x > 78.0 and 20.0 < y < 28.0 for x, y in where)  # across the channel that only the small one gets into
    for tools in ([large], [large, large], [small, small]):
        assert seams(mouth, tools, "front", Matrix()) == []
    assert seams(box(0, 0, 80, 50).buffer(8.0), [large, small], "front", Matrix()) == []  # both get everywhere


def test_clean_up_is_told_with_its_places(quay_plan):
    report, job = quay_plan.report("finish"), quay_plan.job
    rows = dict(report.tables)["To be cleaned up"]
    assert any("4 tabs" in r[0] for r in rows) and any("13 letters" in r[0] for r in rows)
    assert sum(o.figures.tabs for s in job.setups for o in s.operations if o.kind == "cutout") == 4
    assert cleanup.cleaning([]).result == 0.0


# -- in a plan -------------------------------------------------------------------------------------------------------------


def test_the_weight_of_a_plan_s_sign_is_that_of_its_swept_wood(quay_plan):
    setup = quay_plan.carving
    kg = next(f.value for f in quay_plan.report("finish").figures if f.label == "Weight")
    end = setup.end
    plate = next(a for a in quay_plan.job.artwork if a.kind == "plate").figures
    low = end.z[end.wood]
    inside = (
        float(np.where(low > 6.5, low, 0.0).sum()) * end.cell**2
    )  # all that stands over the cut-out's way and its tabs
    board = setup.blank.across[0] * setup.blank.across[1] * float(np.median(setup.start.z[setup.start.wood]))
    assert kg < inside * quay_plan.job.wood.density * 1e-9 < board * quay_plan.job.wood.density * 1e-9
    plain = (
        plate.width
        * plate.height
        * float(np.median(setup.start.z[setup.start.wood]))
        * quay_plan.job.wood.density
        * 1e-9
    )
    assert 0.93 * plain < kg < plain


def test_a_finish_changes_no_program_and_is_kept_with_the_job(quay, memory):
    before = plan(quay, memory=memory)
    job = commands.run(quay, "take coats", scheme.coats_for(quay))
    after = plan(job, memory=memory)
    assert after.fingerprint == before.fingerprint and not after.stops
    assert [p.fingerprint for s in after.setups for p in s.programs] == [
        p.fingerprint for s in before.setups for p in s.programs
    ]
    told = after.report("finish")
    assert told.gate.value == "open" and "coats" in told.fact and before.report("finish").gate.value == "waiting"
    again = commands.run(job, "set finish coat", {"coat": job.finish.coats[0].id, "count": 3})
    assert (
        again.finish.coats[0].count == 3
        and commands.run(again, "remove tin", {"tin": again.finish.coats[0].tin}).finish.coats == job.finish.coats[1:]
    )
    assert scheme.coats_for(job) == {}  # it has just those
    typed = commands.run(job, "set tin", {"tin": "sign-paint", "recoat": 500.0, "hard": 5000.0})
    fewer = commands.run(typed, "remove finish coat", {"coat": job.finish.coats[0].id})
    anew = commands.run(fewer, "take coats", scheme.coats_for(fewer))
    assert (
        anew.finish.tin("sign-paint").recoat == 500.0 and anew.finish.coats == job.finish.coats
    )  # as its label was typed


def test_strokes_that_sanding_takes_are_told_letter_by_letter_and_mended(quay, memory):
    job = commands.run(quay, "set finish", {"least": 2.7, "grits": (80, 120, 180)})
    found = [f for f in plan(job, memory=memory).report("finish").findings if f.code == "finish.sanded-thin"]
    assert found and found[0].fixes
    mended = commands.run(job, found[0].fixes[0].kind, found[0].fixes[0].values)
    assert not [f for f in plan(mended, memory=memory).report("finish").findings if f.code == "finish.sanded-thin"]


def test_a_window_that_is_over_before_the_coat_is_hard_enough_costs_a_sanding_and_resin_as_many_pours_as_it_is_deep():
    w = work("oiled")
    oil = w.finish.tins[0]
    other = oil.model_copy(update={"id": "paint", "name": "boat paint", "does": "colour", "base": "solvent"})
    varnish = oil.model_copy(update={"id": "v", "does": "varnish", "base": "water", "within": 3000.0, "hard": 6000.0})
    finish = Finish(tins=(varnish, other), coats=(Coating(tin="v", count=2), Coating(tin="paint")))
    first, second, paint = (
        s for s in scheme.finish_steps(replace(w, finish=finish)) if s.title.startswith(("Outdoor", "Boat"))
    )
    assert first.within == 3000.0 and first.waits < first.within and second.hands == first.hands
    assert math.isinf(second.within) and second.waits == 6000.0 and second.late == 0.0
    assert "sanded first" in paint.detail and paint.hands > first.hands
    resin = next(t for t in shipped_finishes() if t.does == "resin")
    poured = replace(
        w, deep=2.5 * resin.deepest, finish=Finish(tins=(resin,), coats=(Coating(tin=resin.id, where="letters"),))
    )
    assert [s.brief[-3:] for s in scheme.finish_steps(poured) if "resin" in s.title] == ["1/3", "2/3", "3/3"]


def test_a_hole_in_a_plate_is_no_part_of_the_sign_and_its_grain_lies_as_the_face_is_read(quay, memory):
    whole = plan(quay, memory=memory).finishing
    holed = commands.run(
        quay,
        "add art",
        {"kind": "plate", "id": "hole", "x": 178.0, "y": 60.0, "width": 40.0, "height": 20.0, "corner": 0.0},
    )
    holed = commands.run(
        holed,
        "add operation",
        {"setup": "front", "kind": "cutout", "on": ("hole",), "side": "inside", "tool": 2, "tabs": 0},
    )
    got = plan(holed, memory=memory).finishing
    assert got.work.area.face == pytest.approx(whole.work.area.face - 800.0, rel=1e-3) and got.volume < whole.volume


def test_what_is_offered_where_no_coats_are_chosen_can_be_taken(quay, memory):
    (found,) = (f for f in plan(quay, memory=memory).report("finish").findings if f.code == "finish.no-coats")
    mended = commands.run(quay, found.fixes[0].kind, found.fixes[0].values)
    assert mended.finish.coats and not [
        f for f in plan(mended, memory=memory).report("finish").findings if f.code == "finish.no-coats"
    ]


@pytest.mark.parametrize("job", sorted(JOBS))
def test_every_fix_of_the_finish_can_be_taken_and_what_is_drawn_is_in_words(job, memory):
    made = plan(JOBS[job](), memory=memory, cell=0.5)
    for finding in made.report("finish").findings:
        for fix in finding.fixes:
            commands.run(made.job, fix.kind, json.loads(json.dumps(dict(fix.values))))  # as plan.json tells it
    for setup in made.setups:
        assert not [s.text for s in by_hand(made, setup) if "⟦" in s.text]
