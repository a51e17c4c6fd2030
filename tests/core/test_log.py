# SPDX-License-Identifier: GPL-3.0-or-later
"""The log: rows looked for and compared, a diary of a job, what a piece is judged by, what is due."""

from __future__ import annotations

import csv
import io
import json
import random
from dataclasses import dataclass, field, replace
from datetime import date, timedelta
from typing import get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.errors import OperatorError
from gatepost.core.findings import Level
from gatepost.core.job.journal import WANTED as MUST
from gatepost.core.job.journal import Journal, Kind
from gatepost.core.job.model import Acceptance, Job
from gatepost.core.log.diary import SAID, DiaryLine, diary, minutes_worked, sought
from gatepost.core.log.due import HANDING_OVER, SHIPPED, Check, Handover, all_due, done_today, due_of, plate_check
from gatepost.core.log.exported import rows_csv, rows_json
from gatepost.core.log.filtering import RowFilter, choices, chosen, known, side_by_side, totals
from gatepost.core.log.judged import (
    LessonJudged,
    PointJudged,
    Promised,
    Result,
    WarningJudged,
    drifting,
    result_of,
    result_values,
)
from gatepost.core.log.time_taken import time_taken
from gatepost.core.plan.nextstep import inputs_hash
from gatepost.core.plan.pipeline import plan as planned
from gatepost.core.plan.promised import asked_words, promised
from gatepost.core.units import spell
from tests.core.catalogue import ROWS
from tests.core.catalogue_jobs import CARE, JOBS, edited, happened


@dataclass
class Ran:
    """A row of the logbook, as it is read."""

    id: int = 1
    started: str = "2026-03-02T09:00:00"
    ended: str = ""
    state: str = "done"
    kind: str = "shop"
    job: str = "Quay plate"
    setup: str = "front"
    program: str = "front-1.nc"
    tool: str = "T2 60° V"
    blank: str = "elm 300 × 100 × 18.0 mm"
    wood: str = "elm"
    remarks: str = ""
    reason: str = ""
    planned_minutes: float = 4.0
    real_minutes: float | None = 5.0
    share: float = 1.0
    cuts: list = field(default_factory=lambda: [{"kind": "vcut"}])
    marks: list = field(default_factory=list)
    overrides: list = field(default_factory=list)
    stops: list = field(default_factory=list)


# -- rows -------------------------------------------------------------------------------------------------------------


def many(seed, count=400):
    rng = random.Random(seed)
    out = []
    for i in range(count):
        day = date(2025, 1, 1) + timedelta(days=rng.randint(0, 700))
        wood = rng.choice(["elm", "oak", "Bog oak", ""])
        out.append(
            Ran(
                id=i + 1, started=f"{day.isoformat()}T08:00:00", state=rng.choice(["done", "stopped", "failed"]), kind=rng.choice(["shop", "simulated"]),
                job=rng.choice(["Quay plate", "Lock 7", "Ferry"]), tool=rng.choice(["T1 60° V", "T7 60° V", "T3 6 flat", "old name"]), wood=wood,
                remarks=rng.choice(["", "burned at the corner", "ÜBER the knot"]), real_minutes=rng.choice([None, 3.0, 5.5]),
                cuts=[{"kind": k} for k in rng.sample(["vcut", "cutout", "pocket"], rng.randint(0, 2))], marks=rng.choice([[], [{"what": "chatter"}]]),
            )
        )  # fmt: skip
    return out


@given(
    st.integers(0, 50), st.sampled_from(["", "burned", "über KNOT", "quay 60°", "chatter lock", "nothing has this"]), st.sampled_from(["", "OAK", "elm"]),
    st.sampled_from(["", "60° v", "6 flat"]), st.sampled_from(["", "cutout"]), st.sampled_from(["", "2025-06-01"]), st.sampled_from(["", "2026-02-28"]),
    st.sampled_from(["", "shop", "simulated"]), st.sampled_from(["", "done", "failed"]),
)  # fmt: skip
def test_rows_are_those_that_a_plain_look_at_each_would_take_in_their_order(seed, words, wood, tool, work, since, until, kind, state):  # fmt: skip
    rows = many(seed, 60)
    found = chosen([known(r) for r in rows], RowFilter(words, wood, tool, work, since, until, kind, state))

    def plainly(r):
        everything = json.dumps([r.id, r.job, r.program, r.setup, r.tool, r.blank, r.wood, r.state, r.kind, r.reason, r.remarks, r.marks, r.cuts], ensure_ascii=False).lower()  # fmt: skip
        name = r.tool.split(" ", 1)[1] if r.tool.startswith("T") else r.tool
        return (
            all(w.lower() in everything for w in words.split())
            and (wood == "" or r.wood.lower() == wood.lower())
            and (tool == "" or name.lower() == tool)
            and (work == "" or work in [c["kind"] for c in r.cuts])
            and (since == "" or r.started >= since)
            and (until == "" or r.started[:10] <= until)
            and kind in ("", r.kind)
            and state in ("", r.state)
        )

    assert found == [r for r in rows if plainly(r)]


def test_what_there_is_to_choose_is_what_rows_have_and_totals_keep_shop_and_simulated_apart():
    rows = [*many(3), Ran(tool="T12 drill")]
    told = choices([known(r) for r in rows])
    assert told.woods == ("Bog oak", "elm", "oak") and "60° V" in told.tools and told.tools.count("60° V") == 1
    assert told.works == ("cutout", "pocket", "vcut")
    sums = totals(rows)
    for kind, (count, plan_minutes, real) in sums.items():
        mine = [r for r in rows if r.kind == kind]
        timed = [r for r in mine if r.state == "done" and r.real_minutes is not None]
        assert count == len(mine) and real == pytest.approx(sum(r.real_minutes for r in timed)) and plan_minutes == pytest.approx(4.0 * len(timed))  # fmt: skip
    assert sum(c for c, _, _ in sums.values()) == len(rows)


def test_beside_each_other_what_differs_is_marked_and_a_run_that_ended_early_has_no_ratio():
    one, other = Ran(), Ran(id=2, tool="T3 90° V", real_minutes=8.0, state="stopped", overrides=[{"percent": 70.0}])
    told = {name: (values, differ) for name, values, differ in side_by_side([one, other])}
    assert told["Tool"] == (("T2 60° V", "T3 90° V"), True) and told["Job"][1] is False
    assert told["Real over planned"][0] == ("1.25", "") and told["Feed kept at, %"][0] == ("", "70")
    assert "Said" not in told


# -- a diary ----------------------------------------------------------------------------------------------------------


def test_every_kind_of_entry_is_told_in_words_and_whatever_an_entry_has_is_no_riddle():
    assert set(SAID) == set(get_args(Kind)) - {"corrected"}
    journal = Journal()
    for kind in SAID:
        data = {n: 1.0 if n not in ("axis", "on", "step", "program", "mark") else {"axis": "x", "on": "bed"}.get(n, "a-1") for n in MUST.get(kind, ())}  # fmt: skip
        journal = journal.add("2026-03-02T09:00:00", kind, "front", **data)
        journal = journal.add("2026-03-02T09:00:01", kind, "front", **{**data, "why": "a reason"})
    for line in diary(Job(), journal):
        told = spell(line.words)
        assert told.endswith(".") and "⟦" not in told and "None" not in told and "  " not in told and "{" not in told
        assert told[0].isupper() or line.words.startswith(("front", "a-1")), told


def test_all_that_happened_stands_in_the_order_of_time_and_what_was_simulated_says_so():
    journal = Journal().add("2026-03-02T08:50:00", "homed", "front").add("2026-03-02T08:55:00", "touched", "front", axis="z", machine=-40.0, gauge=10.0)  # fmt: skip
    journal = journal.add("2026-03-02T08:56:00", "corrected", "front", seq=2.0)
    run = Ran(
        id=9, ended="2026-03-02T09:06:00", remarks="slower at the knot", overrides=[{"at": "2026-03-02T09:02:00", "block": 40, "percent": 80.0}],
        marks=[{"at": "2026-03-02T09:03:00", "block": 60, "what": "burning"}], stops=[{"at": "2026-03-02T09:04:00", "what": "pause"}],
    )  # fmt: skip
    tried = Ran(id=8, started="2026-03-01T20:00:00", kind="simulated", ended="2026-03-01T20:01:00")
    result = Result("Quay plate", "2026-03-03T10:00:00", "shop", points=(PointJudged(Promised("d", "Depth", 3.0, 0.1), 3.3),))  # fmt: skip
    job = Job(accepted=(Acceptance(code="hold.thin-tabs", setup="front", inputs="x", reason="oak holds", at="2026-03-01T19:00:00"),))  # fmt: skip
    lines = diary(job, journal, [run, tried], [result])
    assert [x.at for x in lines] == sorted(x.at for x in lines)
    told = [spell(x.words) for x in lines]
    wanted = ("oak holds", "Run 8", "Homed", "Z touched, with 10 mm between", "Run 9", "80 %", "burning", "Pause asked", "slower at the knot", "0.3 mm more than promised")  # fmt: skip
    for words in wanted:
        assert sum(words in t for t in told) >= 1, words
    assert [x.simulated for x in lines if "Run 8" in x.words] == [True, True]
    assert [x.taken_back for x in lines if "touched" in x.words] == [True]
    assert {x.kind for x in sought(lines, "knot")} == {"said"} and sought(lines, "", "result") == lines[-2:]
    assert all(not x.simulated for x in sought(lines, simulated=False)) and len(sought(lines)) == len(lines)


def test_what_was_done_at_a_simulated_machine_is_told_so_and_is_no_work_at_the_bench():
    journal = Journal()
    for at in ("08:00", "08:10", "09:00", "09:20", "11:00"):
        journal = journal.add(f"2026-03-02T{at}:00", "homed", "front")
    tried = Ran(id=1, kind="simulated, seed 3", started="2026-03-02T08:11:00", ended="2026-03-02T08:12:00")
    cut = Ran(id=2, started="2026-03-02T09:25:00", ended="2026-03-02T09:30:00")
    homed = [x.simulated for x in diary(Job(), journal, [cut, tried]) if x.words == "Homed."]
    assert homed == [True, True, False, False, False]
    assert minutes_worked(diary(Job(), journal, [tried])) == {"running": 0.0, "preparing": 0.0}
    worked = minutes_worked(diary(Job(), journal, [cut, tried]))
    assert worked == {"running": 5.0, "preparing": 25.0}
    open_end = replace(cut, ended="")
    assert minutes_worked(diary(Job(), journal, [open_end]))["running"] == 0.0  # nobody knows how long it ran


def test_runs_of_one_second_stand_as_they_were_run():
    at = "2026-03-02T09:00:00"
    three = [Ran(id=i, started=at, ended=at, remarks="well") for i in (3, 1, 2)]
    told = [x.words for x in diary(Job(), Journal(), three)]
    assert [w.split(",")[0] for w in told if "planned" in w] == ["Run 1", "Run 2", "Run 3"]
    assert told.index("Run 1 done, 5.0 min.") < next(i for i, w in enumerate(told) if w.startswith("Run 2,"))


def test_minutes_at_the_bench_leave_out_long_breaks_and_count_all_of_a_run():
    journal = Journal()
    for at, kind, data in (
        ("08:00", "homed", {}), ("08:10", "touched", {"axis": "z", "machine": 1.0}), ("09:30", "touched", {"axis": "x", "machine": 1.0}), ("09:35", "run started", {"program": "p"}),
        ("10:35", "run ended", {"program": "p", "outcome": "done"}), ("10:40", "witness", {}),
    ):  # fmt: skip
        journal = journal.add(f"2026-03-02T{at}:00", kind, "front", **data)
    assert minutes_worked(diary(Job(), journal)) == {"running": 60.0, "preparing": 20.0}


# -- a finished piece -------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", JOBS)
def test_every_job_promises_what_it_makes_and_each_point_has_a_name_of_its_own(name):
    plan = planned(JOBS[name](), cell=1.0)
    asked = promised(plan)
    keys = [p.key for p in asked.points]
    assert len(set(keys)) == len(keys) >= 2
    assert all(p.figure is None or (p.within > 0.0 and p.figure >= 0.0) for p in asked.points)
    assert {k for k in keys if k.startswith("depth")} == {f"depth {s.name} T{n}" for s in plan.setups for n in s.depths}
    assert ("flat" in keys) == any(s.flattens and s.passes for s in plan.setups)
    freed = {
        s.name
        for s in plan.setups
        for o in s.setup.operations
        if getattr(o.figures, "skin", None) == 0.0 and o.id in {p.operation for p in s.operations}
    }
    assert {k for k in keys if k.startswith("through")} == {f"through {name}" for name in freed}
    assert all("⟦" not in asked_words(p, unit) for p in asked.points for unit in ("mm", "inch"))


def test_what_was_accepted_is_asked_about_with_its_reason_until_it_is_said_how_it_went():
    row = next(r for r in ROWS if r.level == CARE and r.job == "plate" and not any(o[0] == "accept" for o in r.over))
    job, journal = edited(JOBS["plate"](), *row.over), happened(*row.over)
    plan = planned(job, journal, cell=1.0)
    care = next(f for r in plan.reports.values() for f in r.findings if f.level is Level.CARE and not f.accepted)
    values = {"code": care.code, "setup": care.setup, "about": care.about, "inputs": inputs_hash(care), "reason": "I have done this before", "at": "t"}  # fmt: skip
    after = promised(planned(edited(job, ("accept", values)), journal, cell=1.0))
    (told,) = after.warnings
    assert told.code == care.code and "I have done this before" in told.asked() and spell(care.message) in told.asked()
    assert "nobody has said" in told.told() and "it went wrong: too thin" in replace(told, held=False, said="too thin").told()  # fmt: skip
    assert promised(plan).warnings == ()


def test_a_measure_counts_more_than_an_eye_and_nothing_is_judged_that_nobody_looked_at():
    depth = Promised("d", "Depth", 3.0, 0.1)
    assert PointJudged(depth).holds is None and PointJudged(depth, good=True).holds is True
    assert [PointJudged(depth, found).holds for found in (2.89, 2.9, 3.0, 3.1, 3.11)] == [False, True, True, True, False]  # fmt: skip
    assert PointJudged(depth, 3.4, good=True).holds is False
    result = Result("j", "t", "shop", points=(PointJudged(depth), PointJudged(depth, 3.0), PointJudged(depth, good=False)))  # fmt: skip
    assert (result.judged, result.kept) == (2, 1) and result.told() == "1 of 2 points judged are as promised."
    assert Result("j", "t", "shop", points=(PointJudged(depth),)).told() == "Nothing was judged."


figures = st.one_of(st.none(), st.floats(-100, 100, allow_nan=False))
flags = st.sampled_from([None, True, False])
words = st.text(max_size=12)


@given(
    st.lists(st.builds(PointJudged, st.builds(Promised, words, words, figures, st.floats(0, 9), words), figures, flags, words), max_size=4),
    st.lists(st.builds(WarningJudged, words, words, words, words, words, flags, words), max_size=3), st.lists(st.builds(LessonJudged, st.integers(0, 99), words, flags), max_size=3),
)  # fmt: skip
def test_a_result_is_read_as_it_was_kept(points, warnings, lessons):
    made = Result("Quay", "t", "shop", points=tuple(points), warnings=tuple(warnings), lessons=tuple(lessons))
    read = result_of(json.loads(json.dumps(result_values(made))), job="Quay", at="t", kind="shop")
    assert read == made


def test_what_was_spoilt_of_a_result_is_left_out_and_the_rest_is_read():
    told = {"points": [1, {"key": 3, "found": "wide", "figure": True}, {"key": "a", "found": 2}], "warnings": None, "lessons": [{"lesson": "x"}]}  # fmt: skip
    read = result_of(told, job="Quay", at="t", kind="shop")
    assert [p.found for p in read.points] == [None, 2.0] and read.warnings == () and read.lessons[0].lesson == 0


def test_a_point_that_comes_out_on_one_side_time_and_again_is_told_and_luck_is_not():
    rng = random.Random(5)
    wide, level = Promised("w", "Width", 6.0, 0.2), Promised("d", "Depth", 3.0, 0.2)
    results = [
        Result("j", "t", "shop", points=(PointJudged(wide, 6.15 + rng.gauss(0, 0.03)), PointJudged(level, 3.0 + (0.1 if i % 2 else -0.1))))
        for i in range(10)
    ]  # fmt: skip
    (told,) = drifting(results)
    assert (
        spell(told.told()).startswith("Width: 0.1") and "more than promised in the middle of 10 pieces" in told.told()
    )
    assert told.key == "w" and told.by == pytest.approx(0.15, abs=0.03) and told.count == 10
    assert drifting([replace(r, kind="simulated") for r in results]) == [] and drifting(results[:2]) == []


# -- what is due ------------------------------------------------------------------------------------------------------


def test_what_is_due_is_told_by_hours_of_the_shop_or_by_days_whichever_is_sooner():
    runs = [Ran(started=f"2026-03-{d:02d}T09:00:00", real_minutes=120.0) for d in range(1, 11)]
    runs += [Ran(started="2026-03-05T09:00:00", kind="simulated", real_minutes=6000.0), Ran(started="2026-03-05T10:00:00", real_minutes=None, planned_minutes=60.0, share=0.5)]  # fmt: skip
    skim = Check("Skim", hours=20.0, days=100, last="2026-03-03")
    told = due_of(skim, runs, date(2026, 3, 10))
    assert told.hours == pytest.approx(16.5) and told.days == 7 and told.share == pytest.approx(0.825) and not told.due
    assert due_of(skim, runs, date(2026, 6, 1)).soon and due_of(skim, runs, date(2026, 6, 11)).due
    assert due_of(replace(skim, hours=16.5), runs, date(2026, 3, 10)).due
    vee = due_of(Check("Sharpen", of="60° V", hours=10.0, last="2026-03-01"), [*runs, Ran(tool="T1 drill", real_minutes=600.0)], date(2026, 3, 10), ("60° V", "drill"))  # fmt: skip
    assert vee.hours == pytest.approx(20.5)
    two = [Ran(real_minutes=60.0), Ran(real_minutes=600.0)]
    two[0].machine, two[1].machine = "North router", "South router"
    tram = [due_of(Check("Tram", of=m, hours=10.0, last="2026-03-01"), two, date(2026, 3, 10)).hours for m in ("north router", "South router", "", "A fixture")]  # fmt: skip
    assert tram == pytest.approx([1.0, 10.0, 11.0, 11.0])
    never = due_of(Check("Tram", days=9), runs, date(2026, 3, 10))
    assert never.due and never.never and "never done" in never.told()
    assert [d.check.name for d in all_due([skim, never.check], runs, date(2026, 3, 10))] == ["Tram", "Skim"]
    assert not due_of(done_today(never.check, date(2026, 3, 10), "Wyn"), runs, date(2026, 3, 10)).due


@pytest.mark.parametrize(
    ("last", "due"), [("2026-01-05", False), ("2025-01-05", True), ("", True), ("last spring", True)]
)
def test_a_plate_is_due_by_the_date_that_is_kept_with_it(last, due):
    assert due_of(plate_check("block 25", last).checked(), [], date(2026, 3, 10)).due is due


@pytest.mark.parametrize(
    ("values", "said"),
    [({"name": " "}, "wants a name"), ({"days": 0}, "after how many"), ({"hours": -1.0}, "after how many"), ({"last": "yesterday"}, "not a date")],
)  # fmt: skip
def test_a_check_that_can_t_come_due_is_refused(values, said):
    with pytest.raises(OperatorError, match=said):
        replace(Check("Tram", days=30), **values).checked()
    assert all(c.checked() for c in SHIPPED)


def test_a_hand_over_with_a_point_open_wants_words_for_whoever_comes_next():
    yes = (True,) * len(HANDING_OVER)
    whole = Handover("t", "Wyn", "Ash", HANDING_OVER, yes).checked()
    assert whole.whole
    with pytest.raises(OperatorError, match="open"):
        replace(whole, answers=(False, *yes[1:])).checked()
    assert not replace(whole, answers=(False, *yes[1:]), told="T3 is still in").checked().whole
    for wrong, said in (({"from_": " "}, "signs"), ({"answers": yes[1:]}, "wants an answer")):
        with pytest.raises(OperatorError, match=said):
            replace(whole, **wrong).checked()


# -- as tables --------------------------------------------------------------------------------------------------------


@given(st.lists(st.fixed_dictionaries({"job": st.text(max_size=8), "remarks": st.sampled_from(["=1+1", "-3", "@x", "+y", "a,b", 'say "so"', "two\nlines", ""])}), max_size=4))  # fmt: skip
def test_rows_are_read_back_as_they_were_and_no_words_are_taken_for_a_formula(rows):
    text = rows_csv(rows)
    read = list(csv.DictReader(io.StringIO(text, newline="")))
    assert [r["remarks"].removeprefix("'") for r in read] == [r["remarks"] for r in rows]
    assert not any(v[:1] in "=+-@" and v for r in read for v in (r["remarks"], r["job"]))
    assert json.loads(rows_json(rows)) == rows


# -- planned, and real ------------------------------------------------------------------------------------------------


def test_what_it_took_is_told_beside_what_was_planned_board_by_board_and_simulated_runs_do_not_count():
    plan = planned(
        edited(JOBS["plate"](), ("set rates", {"hands": 30.0, "machine": 60.0, "money": "€", "preparation": 10.0})),
        cell=1.0,
    )
    names = [p.name for s in plan.setups for p in s.programs]
    runs = [
        Ran(id=i, program=n, planned_minutes=10.0, real_minutes=12.0 if i % 2 else 14.0)
        for i, n in enumerate(names * 2)
    ]
    told = time_taken(names, runs, (), plan.finishing)
    assert told.boards == 2 and told.cutting[0] == pytest.approx(10.0 * len(names)) and told.preparing[1] is None
    real = sum(r.real_minutes for r in runs) / 2.0
    assert told.cutting[1] == pytest.approx(real)
    extra = (real - plan.finishing.cutting) / 60.0 * (60.0 + 30.0)  # the machine, and whoever stands beside it
    assert told.cost[1] - told.cost[0] == pytest.approx(extra)
    assert time_taken(names, runs[:1], (), plan.finishing) is None or len(names) == 1
    assert time_taken(names, [replace(r, kind="simulated") for r in runs], (), plan.finishing) is None
    lines = (
        DiaryLine("2026-03-02T08:00:00", "touch", "x"),
        DiaryLine("2026-03-02T08:25:00", "touch", "x"),
        DiaryLine("2026-03-02T08:50:00", "touch", "x"),
    )
    busy = time_taken(names, runs, lines, plan.finishing)
    assert busy.preparing[1] == pytest.approx(25.0) and "25 min" in busy.told() and "€" in busy.told()
