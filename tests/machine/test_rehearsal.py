# SPDX-License-Identifier: GPL-3.0-or-later
"""Every trouble that a setup can have is caught by a named check or by the machine's own stop, and told in a sentence."""

from pathlib import Path

import pytest

from gatepost.core.job import commands
from gatepost.core.plan.pipeline import plan
from gatepost.machine.rehearsal import TROUBLES, rehearse, table, tells_of
from gatepost.machine.standins.messages import FAULTS, HANDS
from tests.conftest import some

PAGE = Path(__file__).parents[2] / "docs" / "rehearsal.md"
CAUGHT = {}


@pytest.fixture(scope="module")
def careful(quay):
    """The quay plate done with every check: its middle from opposite edges, and a witness mark."""
    job = commands.run(quay, "set job", {"irreplaceable": True})
    x, y = job.blank.length / 2, job.blank.width - 12.0
    zero = {
        "xy": "centre",
        "xy_way": "pin",
        "z": "top",
        "touch_x": job.blank.length / 2,
        "touch_y": 12.0,
        "gauge": "plate",
        "gauge_thickness": 12.0,
        "witness_x": x,
        "witness_y": y,
    }
    return plan(commands.run(job, "set zero", {"setup": "front", **zero}))


def test_the_setup_is_sound_and_goes_through_with_nothing_wrong(careful):
    assert not careful.stops, careful.stops
    from gatepost.core.job.journal import Journal
    from gatepost.machine import launch
    from gatepost.machine.conduct import StepRunner
    from gatepost.machine.session import Session

    machine = launch.start(careful, "max")
    session = Session(machine.host, machine.port)
    try:
        conductor = StepRunner(session, careful, Journal(), (careful.setups[0].setup.x, careful.setups[0].setup.y))
        for step in careful.setups[0].steps:
            assert conductor.carry_out(careful.setups[0], step) == "done"
    finally:
        session.close()
        machine.end()
    kinds = [s.kind for s in careful.setups[0].steps]
    assert {"look", "jog", "again", "witness"} <= set(kinds)


@pytest.mark.parametrize("trouble", some(TROUBLES, 6), ids=lambda t: t.name)
def test_each_trouble_is_caught(trouble, careful):
    caught = rehearse(careful, trouble.name)
    CAUGHT[trouble.name] = caught
    assert not caught.missed, trouble
    assert tells_of(trouble, caught.told), caught.told
    others = [t.name for t in TROUBLES if t.says != trouble.says and tells_of(t, caught.told)]
    assert len(others) <= 2 and caught.told.endswith(".")


def test_every_trouble_of_the_workshop_is_rehearsed():
    assert {t.name for t in TROUBLES} - {"drop link", "stall"} == set(HANDS) - {"touch noise"}
    assert {t.name for t in TROUBLES} <= set(FAULTS)


def test_the_table_in_the_manual_is_what_was_caught():
    if len(CAUGHT) < len(TROUBLES):
        pytest.skip("not all of them were gone through")
    made = table([CAUGHT[t.name] for t in TROUBLES])
    assert PAGE.read_text() == made, made


def test_later_tools_take_z_from_the_fixed_sensor_by_difference(quay):
    from gatepost.core.job.journal import Journal
    from gatepost.core.zero.trust import Trust, trust, where
    from gatepost.machine import launch
    from gatepost.machine.conduct import StepRunner
    from gatepost.machine.session import Session

    asked = commands.run(quay, "set zero", {"setup": "front", "later": "sensor"})
    assert "zero.no-sensor" in {f.code for f in plan(asked).stops}
    job = commands.run(asked, "set machine", {"sensor": {"x": 40.0, "y": 650.0, "height": 32.5}})
    reckoned = plan(job)
    assert not reckoned.stops
    setup = reckoned.setups[0]
    kinds = [s.kind for s in setup.steps]
    assert kinds.count("zero z") == 1 and kinds.count("sensor") == 2
    machine = launch.start(reckoned, "max")
    session = Session(machine.host, machine.port)
    try:
        conductor = StepRunner(session, reckoned, Journal(), (setup.setup.x, setup.setup.y))
        later = [s for s in setup.steps if s.kind == "sensor"][1]
        for step in setup.steps:
            assert conductor.carry_out(setup, step) == "done"
            if step.key == later.key:
                z = trust(conductor.journal.standing(), where(reckoned.job, setup.setup)).z
                tool = job.tool(later.tool)
                assert z.trust is Trust.TRUSTED and z.machine == pytest.approx(
                    tool.length - job.machine.nose_at_home, abs=1e-3
                )
    finally:
        session.close()
        machine.end()
    with pytest.raises(Exception, match="How the first tool stood"):
        from gatepost.core.zero.recover import sensed

        sensed(Journal(), where(reckoned.job, setup.setup), 2, (-100.0, -100.0), "t")
