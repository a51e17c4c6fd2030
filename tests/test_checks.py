# SPDX-License-Identifier: GPL-3.0-or-later
"""Programs made elsewhere, read-outs by hand, and the small languages at the edges."""

import pytest

from gatepost.checks import program_complaints, setup_of
from gatepost.core.carve.faces import SHIPPED, shape, system_faces
from gatepost.core.errors import OperatorError
from gatepost.core.job import commands
from gatepost.core.job.journal import Journal
from gatepost.core.plan.pipeline import plan
from gatepost.core.program.read import read
from gatepost.core.run.standing import next_step
from gatepost.core.zero.trust import Trust, trust, where
from gatepost.core.zero.ways import edge, z_zero
from gatepost.machine import by_hand
from gatepost.machine.failures import Questioned
from gatepost.outputs import superseded, superseded_words, write_all
from tests.conftest import EXAMPLES, some
from tests.core.catalogue_jobs import JOBS

HEADS = "G21 G90\nS16000 M3\nG0 Z10\n"


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("", "program.empty"),
        ("G20 G90\nG0 X0 Y0 Z1\nG1 X0.2 F10\n", "program.units"),
        ("G21 G90\nG0 X0 Y0\nG1 X5000 Y0 F100\n", "program.units"),
        ("G21\nG8 X1\n", "program.line"),
        ("(NOT TO BE RUN: C2)\nG21\nG0 X1\n", "program.barred"),
    ],
)
def test_what_is_wrong_with_a_program_by_itself(text, code, tmp_path):
    path = tmp_path / "p.nc"
    path.write_text(text)
    assert code in {c["code"] for c in program_complaints(path, None)}


def test_a_program_made_elsewhere_is_checked_against_the_job(tmp_path):
    job = EXAMPLES / "quay-plate.gatepost"
    path = tmp_path / "other.nc"
    path.write_text(HEADS + "T2 M6\nG0 X20 Y-20 Z5\nG1 X200 F1000\nG0 Z30\n")
    codes = {c["code"] for c in program_complaints(path, job)}
    assert {"program.unknown", "hold.clearance"} <= codes
    path.write_text(HEADS + "T2 M6\nG0 X5000 Y50\n")
    assert "zero.travel" in {c["code"] for c in program_complaints(path, job)}
    for nameless, means in (("", "names no tool"), ("T77 M6\n", "Tool 77 is not")):
        path.write_text(HEADS + nameless + "G0 X50 Y50 Z30\n")
        told = {c["code"]: c for c in program_complaints(path, job)}
        assert told["program.tool"]["level"] == "stop" and means in told["program.tool"]["message"]


def test_what_a_program_made_elsewhere_cuts_free_and_where_it_takes_its_zero_from(tmp_path):
    """A rectangle cut through all round comes free, and nothing has it; drawn from a corner where the setup has its zero in the middle, that
    is asked about."""
    job = EXAMPLES / "lock-7-name-board.gatepost"
    path = tmp_path / "other.nc"
    square = "G1 X{a} Y{a}\nG1 X{b} Y{a}\nG1 X{b} Y{b}\nG1 X{a} Y{b}\nG1 X{a} Y{a}\n"

    def told(a, b, deep):
        down = f"G0 X{a} Y{a} Z20\nG1 Z{deep} F300\nF1000\n"
        path.write_text(HEADS + "T2 M6\n" + down + square.format(a=a, b=b) + "G0 Z30\n")
        return {c["code"]: c["message"] for c in program_complaints(path, job)}

    loose = told(-60, 60, -40)
    assert "nothing holds it" in loose["wood.loose"] and "program.zero" not in loose
    assert "wood.loose" not in told(-60, 60, -10)
    assert "from its front left corner" in told(0, 120, -10)["program.zero"]


@pytest.mark.parametrize("spin", some([0, 180, 90, 270], 2))
def test_where_a_program_takes_its_zero_from_is_told_of_the_board_as_it_lies(spin, lock7, tmp_path):
    """Drawn from the back right corner, with X0 Y0 there: nothing to ask, however the board is turned."""
    turned = commands.run(lock7, "set setup", {"setup": "front", "spin": spin})
    at_corner = plan(commands.run(turned, "set zero", {"setup": "front", "xy": "back right"}))
    at_middle = plan(turned)
    path = tmp_path / "other.nc"
    path.write_text(HEADS + "T2 M6\nG0 X-120 Y-120 Z20\nG1 Z-1 F300\nG1 X0 F1000\nG1 Y0\nG0 Z30\n")
    asked = [{c["code"] for c in program_complaints(path, None, p)} for p in (at_corner, at_middle)]
    assert ["program.zero" in codes for codes in asked] == [False, True]


def test_a_program_of_another_job_plan_or_setup_or_changed_by_hand_is_told_by_its_fingerprint(
    lock7_plan, quay, tmp_path
):
    from gatepost.core.job import commands
    from gatepost.core.job.file import Document, save

    job, path = EXAMPLES / "lock-7-name-board.gatepost", tmp_path / "p.nc"
    own = lock7_plan.setup("front").programs[0].text

    def told(text, of=job):
        path.write_text(text)
        return {c["code"]: c["level"] for c in program_complaints(path, of)}

    assert "program.fingerprint" not in told(own) and "program.changed" not in told(own)
    assert told(own, EXAMPLES / "quay-plate.gatepost")["program.fingerprint"] == "stop"
    older = tmp_path / "since.gatepost"
    save(Document(commands.run(lock7_plan.job, "set carving", {"leading": 0.93})), older)
    assert told(own, older)["program.fingerprint"] == "stop"
    lines = own.splitlines(keepends=True)
    assert told("".join(lines[:-6]))["program.changed"] == "care"
    deeper = own.replace("Z-1", "Z-2", 1)
    assert deeper != own and told(deeper)["program.changed"] == "care"
    hidden = own.replace("G53 G0 Z0\nM5", "(nothing) G1 Z-40\nG53 G0 Z0\nM5")
    assert hidden != own and told(hidden)["program.changed"] == "care"
    assert "program.changed" not in told(own.replace("M5", "(a remark)\nM5", 1))
    # the same blocks for another cutter are another program
    blunt = tmp_path / "blunt.gatepost"
    save(Document(commands.run(lock7_plan.job, "set tool", {"number": 4, "radius": 0.1})), blunt)
    assert told(own, blunt)["program.fingerprint"] == "stop"
    with pytest.raises(OperatorError, match="for the front setup, not the surface"):
        setup_of(lock7_plan, read(own), "surface")


def test_sums_of_touching_off():
    assert z_zero(-14.2, "plate", 12.0).result == pytest.approx(-26.2)
    assert edge(100.0, 6.0, "low").result == 103.0
    assert edge(100.0, 6.0, "high").result == 97.0


class Rows:
    """Rows kept in memory."""

    def keep(self, kind, name, data, at):
        self.beds[name] = data

    def kept(self, kind):
        return {}

    def __init__(self):
        self.rows, self.beds = {}, {}

    def start(self, **values):
        self.rows[len(self.rows) + 1] = {**values, "state": "running"}
        return len(self.rows)

    def note(self, run, **values):
        self.rows[run].update(values)

    def close_run(self, run, state, ended, **values):
        self.rows[run].update(values, state=state, ended=ended)


def test_by_hand_the_journal_knows_what_was_typed(quay_plan):
    setup = quay_plan.setups[0]
    journal, rows = Journal(), Rows()
    typed = {"run": (4.5,), "witness": (0.1, -0.1)}
    for step in setup.steps:
        if by_hand.wanted(step):
            with pytest.raises(OperatorError, match="read-outs"):
                by_hand.tick(quay_plan, setup, step, journal, (), "t", rows, "")
        out = step.tool and quay_plan.job.tool(step.tool).length - 175.0  # how far down its tip is on the spoilboard
        read = {"zero z": (out and out + 0.1,) * 2, "depth": (step.figure,), "zero xy": (-900.0, -440.0), **typed}
        journal = by_hand.tick(quay_plan, setup, step, journal, read.get(step.kind, ()), "t", rows, "")
    axes = trust(journal.standing(), where(quay_plan.job, setup.setup))
    assert (axes.x.trust, axes.z.trust) == (Trust.TRUSTED, Trust.TRUSTED)
    looks = [e.data for e in journal.entries if e.kind == "witness"]
    assert looks and all((d["x"], d["y"]) == (0.1, -0.1) for d in looks)  # written as it was seen
    assert axes.z.machine == pytest.approx(setup.programs[-1].tool.length - 175.0)
    assert [r["kind"] for r in rows.rows.values()] == ["shop", "shop"] and {r["state"] for r in rows.rows.values()} == {
        "done"
    }


def test_by_hand_nothing_is_run_on_a_lost_axis_and_a_miss_is_kept_and_told(quay):
    from gatepost.core.job import commands
    from gatepost.core.plan.pipeline import plan

    job = commands.run(quay, "set job", {"irreplaceable": True})
    job = commands.run(job, "set zero", {"setup": "front", "witness_x": 20.0, "witness_y": 20.0})
    reckoned = plan(job)
    setup, rows = reckoned.setups[0], Rows()
    run, again, witness = (next(s for s in setup.steps if s.key.startswith(k)) for k in ("run", "again", "witness"))
    with pytest.raises(OperatorError, match="lost axis"):
        by_hand.tick(reckoned, setup, run, Journal(), (4.0,), "t", rows, "")
    assert rows.rows == {}
    journal = Journal().add("t", "touched", "front", axis="z", machine=-130.0, tool=again.tool)
    with pytest.raises(by_hand.CheckFailed, match="slipped") as missed:
        by_hand.tick(reckoned, setup, again, journal, (-129.0,), "t", rows, "")
    assert trust(missed.value.journal.standing(), where(reckoned.job, setup.setup)).z.trust is Trust.LOST
    with pytest.raises(by_hand.CheckFailed, match="witness mark") as missed:
        by_hand.tick(reckoned, setup, witness, journal, (1.5, 0.0), "t", rows, "")
    assert [e.kind for e in missed.value.journal.standing()][-2:] == ["witness", "bumped"]


def test_a_job_with_a_stop_is_not_run_by_hand_either(first_look, memory):
    from gatepost.core.plan.pipeline import plan

    reckoned = plan(first_look, memory=memory)
    run = next(s for s in reckoned.setups[0].steps if s.kind == "run")
    with pytest.raises(OperatorError, match="Not run: "):
        by_hand.tick(reckoned, reckoned.setups[0], run, Journal(), (4.0,), "t", Rows(), "")


def gone_through(plan, until, rows, **more):
    """The journal of a setup done by hand up to a step."""
    setup, journal = plan.setups[0], Journal()
    for step in setup.steps:
        if step.key == until:
            return journal, step
        out = (plan.job.tool(step.tool).length if step.tool else 0.0) - 175.0
        read = {
            "zero z": (out + 0.1,) * 2,
            "depth": (step.figure,),
            "zero xy": (-900.0, -440.0),
            "run": (4.0,),
            "witness": (0.0, 0.0),
            **more,
        }
        journal = by_hand.tick(plan, setup, step, journal, read.get(step.kind, ()), "t", rows, "")
    return journal, None


def test_a_tool_that_comes_back_is_fitted_and_touched_off_anew_and_what_came_before_stays_done():
    """The end mill of a ground cuts the plate out too, after the V: each step is next in its turn, and none is asked twice."""
    reckoned, rows = plan(JOBS["raised"](), cell=0.5), Rows()
    setup = reckoned.setups[0]
    keys = [s.key for s in setup.steps]
    assert len(set(keys)) == len(keys) and [s.tool for s in setup.steps if s.kind == "fit"] == [2, 3, 2]
    journal = Journal()
    for step in setup.steps:
        assert next_step(journal, setup.steps) is step
        read_out = {"zero z": (-109.0,) * 2, "zero xy": (-620.0, -350.0), "run": (4.0,), "depth": (step.figure,)}
        typed = read_out.get(step.kind, (0.0,) * len(by_hand.wanted(step)))
        journal = by_hand.tick(reckoned, setup, step, journal, typed, "t", rows, "", True)
    assert next_step(journal, setup.steps) is None


def test_a_read_out_that_can_not_be_is_refused_and_one_that_is_far_off_is_asked_about(quay_plan):
    rows, setup = Rows(), quay_plan.setups[0]
    journal, touch = gone_through(quay_plan, "touch-3", rows)
    out = quay_plan.job.tool(3).length - 175.0 + 0.1

    def tick(*typed, sure=False):
        return by_hand.tick(quay_plan, setup, touch, journal, typed, "t", rows, "", sure)

    for wild in (8765.0, -8765.0):
        with pytest.raises(OperatorError, match="no such place"):
            tick(wild, wild, sure=True)
    with pytest.raises(Questioned, match="press once more"):
        tick(out + 3.2, out + 3.2)
    tick(out + 2.8, out + 2.8)
    kept = tick(out + 3.2, out + 3.2, sure=True)
    assert trust(kept.standing(), where(quay_plan.job, setup.setup)).z.machine == pytest.approx(out + 3.1)
    with pytest.raises(by_hand.CheckFailed, match="apart") as apart:
        tick(out, out + 0.06)
    assert trust(apart.value.journal.standing(), where(quay_plan.job, setup.setup)).z.trust is Trust.PROVISIONAL
    journal, across = gone_through(quay_plan, "zero-xy", rows)
    with pytest.raises(Questioned, match="X0"):
        by_hand.tick(quay_plan, setup, across, journal, (-888.0, -440.0), "t", rows, "")


def test_guards_can_not_be_passed_by_and_are_asked_anew(quay_plan):
    """Each in its place, and again after what undoes it; by hand as over the link."""
    rows, setup = Rows(), quay_plan.setups[0]
    order = {s.key: s for s in setup.steps}

    def refused(journal, key, words):
        with pytest.raises(OperatorError, match=words):
            by_hand.tick(quay_plan, setup, order[key], journal, (4.0,) if "run" in key else (), "t", rows, "")

    refused(Journal(), "fit-3", "Not yet: “Isolate the spindle")
    journal, _ = gone_through(quay_plan, "fit-3", rows)
    refused(journal.add("t", "homed", "front"), "fit-3", "Isolate")
    refused(journal.add("t", "switched on", "front"), "hold", "Isolate")
    run = setup.programs[0].name
    journal, step = gone_through(quay_plan, f"run-{run}", rows)
    by_hand.tick(quay_plan, setup, step, journal, (4.0,), "t", rows, "")
    entries = {e.data.get("step"): e.seq for e in journal.entries if e.kind == "ticked"}
    for key, words in (
        ("rock", "Press on each corner"),
        ("bit-3", "right bit"),
        ("spanners-3", "Spanners"),
        ("away-3", "take clip|Lift clear"),
    ):
        refused(journal.add("t", "corrected", "front", seq=entries[key]), f"run-{run}", words)
    again = journal.add("t", "touched", "front", axis="z", machine=-130.0, tool=3, spread=0.0)
    refused(again, f"run-{run}", "Lift clear")
    refused(journal.add("t", "fitted", "front", tool=3), f"run-{run}", "lost axis")
    refused(journal.add("t", "laid", "back"), f"run-{run}", "lost axis")
    other = journal.add("t", "corrected", "front", seq=next(e.seq for e in journal.entries if e.kind == "laid"))
    refused(other, f"run-{run}", "was not laid in this setup")


def test_by_hand_too_another_tool_in_the_collet_is_not_run(quay_plan):
    rows, setup = Rows(), quay_plan.setups[0]
    second = setup.programs[1].name
    journal, _ = gone_through(quay_plan, f"run-{second}", rows)
    fitted = journal.add("t", "fitted", "front", tool=3)
    fitted = fitted.add("t", "touched", "front", axis="z", machine=-128.0, tool=3, spread=0.0)
    step = next(s for s in setup.steps if s.program == second)
    with pytest.raises(OperatorError, match="tool 2 is wanted and tool 3 is fitted|comes first"):
        by_hand.tick(quay_plan, setup, step, fitted, (4.0,), "t", rows, "")


def test_ticks_of_a_session_end_with_it_and_runs_stay_run(quay_plan):
    """After the machine was off it is homed and touched anew; what was run is not run again."""
    from gatepost.core.run.standing import done_all, next_step

    rows, setup = Rows(), quay_plan.setups[0]
    second = setup.programs[1].name
    journal, _ = gone_through(quay_plan, f"run-{second}", rows)
    assert next_step(journal, setup.steps).program == second
    off = journal.add("t", "power cut", "")
    done = dict(zip((s.key for s in setup.steps), done_all(off, setup.steps)))
    assert next_step(off, setup.steps).key == "power"
    open_ = {k for k, at in done.items() if not at}
    assert {"power", "home", "warm", "jog", "touch-2", "lay-2"} <= open_
    assert all(
        done[k]
        for k in ("hold", "rock", "fit-3", "touch-3", f"run-{setup.programs[0].name}", "fit-2", "bit-2", "zero-xy")
    )
    bumped = journal.add("t", "bumped", "front")
    assert (
        next_step(bumped, setup.steps).key == "isolate-lay"
    )  # its corners are pressed on again, with hands under the spindle
    whole, _ = gone_through(quay_plan, "", rows)
    assert next_step(whole, setup.steps) is None and next_step(whole.add("t", "power cut", ""), setup.steps) is None


@pytest.mark.parametrize("face", SHIPPED)
def test_each_face_kerns_its_own_pairs_and_has_the_signs_of_signs(face):
    apart = sum(shape(c, face).width for c in "AV")
    assert shape("AV", face).width < apart
    assert len(shape("Ø “£” – 12½ ÀÉÿ", face).glyphs) >= 11
    with pytest.raises(OperatorError, match="has no"):
        shape("漢", face)


def test_faces_of_the_system_can_be_used_and_unknown_ones_are_said(tmp_path):
    from importlib import resources
    from pathlib import Path

    source = Path(str(resources.files("gatepost").joinpath("assets", "faces", SHIPPED["Sans"])))
    (tmp_path / "deep").mkdir()
    (tmp_path / "deep" / "Mine.ttf").write_bytes(source.read_bytes())
    assert system_faces([str(tmp_path)]) == {"Mine": tmp_path / "deep" / "Mine.ttf"}
    with pytest.raises(OperatorError, match="not on this computer"):
        shape("A", "No Such Face Anywhere")


def test_where_it_stands_homed_until_an_axis_is_named_is_no_way_out_of_the_travel(tmp_path, quay_plan):
    path = tmp_path / "line.nc"
    path.write_text("G21\nG90\nT3 M6\nS16000 M3\nG0 Z40\nG0 X140 Y90\nG1 Z18 F400\nX160\nG0 Z40\nM5\nM30\n")
    assert not [c for c in program_complaints(path, None, quay_plan) if c["code"] == "zero.travel"]
    path.write_text("G21\nG90\nT3 M6\nS16000 M3\nG0 Z40\nG0 X140 Y90\nG1 Z18 F400\nX2160\nG0 Z40\nM5\nM30\n")
    assert [c for c in program_complaints(path, None, quay_plan) if c["code"] == "zero.travel"]


def test_programs_of_the_job_that_its_plan_does_not_write_any_more_are_named(tmp_path, quay, quay_plan):
    write_all(quay_plan, tmp_path, pictures=False)
    assert superseded(quay_plan, tmp_path) == [] and superseded_words([]) == ""
    old = (tmp_path / "front-1-T3.nc").read_text()
    (tmp_path / "front-1-old.NC").write_text(old.replace("G0 X", "G0 X1", 1))  # the same print: told by check, not here
    changed = plan(commands.run(quay, "set tool", {"number": 2, "feed": 1500.0}))
    (tmp_path / "of-another.nc").write_text(old.replace("Quay plate", "Another job"))
    (tmp_path / "not-ours.nc").write_text("G21\nG90\n")
    (tmp_path / "unreadable.nc").mkdir()
    now_old = superseded(changed, tmp_path)
    assert now_old and all(n.startswith("front-2") for n in now_old)  # the V's program is as it was
    assert now_old[0] in superseded_words(now_old) and "3 more" in superseded_words([f"{i}.nc" for i in range(6)])
