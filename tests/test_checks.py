# SPDX-License-Identifier: GPL-3.0-or-later
"""Programs made elsewhere, read-outs by hand, and the small languages at the edges."""

import pytest

from gatepost.checks import program_complaints, setup_of
from gatepost.core.carve.faces import SHIPPED, shape, system_faces
from gatepost.core.errors import OperatorError
from gatepost.core.job.journal import Journal
from gatepost.core.program.read import read
from gatepost.core.zero.trust import Trust, trust
from gatepost.core.zero.ways import edge, z_zero
from gatepost.machine import by_hand
from tests.conftest import EXAMPLES

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
    path.write_text(HEADS + "G0 X50 Y50 Z30\n")
    with pytest.raises(OperatorError, match="names no tool"):
        program_complaints(path, job)


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
    typed = {"zero xy": (-900.0, -440.0), "zero z": (-129.9,), "run": (4.5,)}
    for step in setup.steps:
        if by_hand.wanted(step):
            with pytest.raises(OperatorError, match="read-outs"):
                by_hand.tick(quay_plan, setup, step, journal, (), "t", rows, "")
        journal = by_hand.tick(quay_plan, setup, step, journal, typed.get(step.kind, ()), "t", rows, "")
    axes = trust(journal.standing(), "front", True)
    assert (axes.x.trust, axes.z.trust) == (Trust.TRUSTED, Trust.TRUSTED)
    assert axes.z.machine == pytest.approx(-130.0)
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
    run, again, witness = (next(s for s in setup.steps if s.kind == k) for k in ("run", "again", "witness"))
    with pytest.raises(OperatorError, match="lost axis"):
        by_hand.tick(reckoned, setup, run, Journal(), (4.0,), "t", rows, "")
    assert rows.rows == {}
    journal = Journal().add("t", "touched", "front", axis="z", machine=-130.0, tool=again.tool)
    with pytest.raises(by_hand.CheckFailed, match="slipped") as missed:
        by_hand.tick(reckoned, setup, again, journal, (-129.0,), "t", rows, "")
    assert trust(missed.value.journal.standing(), "front", True).z.trust is Trust.LOST
    with pytest.raises(by_hand.CheckFailed, match="witness mark") as missed:
        by_hand.tick(reckoned, setup, witness, journal, (1.5, 0.0), "t", rows, "")
    assert [e.kind for e in missed.value.journal.standing()][-2:] == ["witness", "bumped"]


def test_a_job_with_a_stop_is_not_run_by_hand_either(first_look, memory):
    from gatepost.core.plan.pipeline import plan

    reckoned = plan(first_look, memory=memory)
    run = next(s for s in reckoned.setups[0].steps if s.kind == "run")
    with pytest.raises(OperatorError, match="still stands"):
        by_hand.tick(reckoned, reckoned.setups[0], run, Journal(), (4.0,), "t", Rows(), "")


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
