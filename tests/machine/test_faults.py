# SPDX-License-Identifier: GPL-3.0-or-later
"""A machine that misbehaves on its link: the operator is told what is the matter, and the row is closed."""

import json
import threading
import time
from types import SimpleNamespace

import pytest

from gatepost.core.job.journal import Journal
from gatepost.logbook.store import Logbook
from gatepost.machine import connection, launch
from gatepost.machine.conduct import StepRunner
from gatepost.machine.failures import LinkLost
from gatepost.machine.keeping import RunRecorder
from gatepost.machine.link import State
from gatepost.machine.session import Session
from gatepost.machine.standins.messages import FAULTS, HANDS
from tests.conftest import some

pytestmark = pytest.mark.whole


def test_a_clear_state_is_told_within_two_seconds():
    assert connection.SILENCE + connection.LOOK <= 2.1 and connection.STOPS_WITHIN <= 2.0 and connection.SOON <= 2.0


class Rig:
    """A simulated machine with a fault, and everything that talks to it."""

    def __init__(self, plan, faults, folder, speed="max"):
        self.plan = plan
        self.simulated = launch.start(plan, speed, list(faults))
        self.book = Logbook(f"sqlite:///{folder / 'log.sqlite'}", folder / "runs")
        self.session = Session(self.simulated.host, self.simulated.port)
        first = plan.setups[0].setup
        self.keeper = RunRecorder(
            self.book, StepRunner(self.session, plan, Journal(), (first.x, first.y)), folder=folder / "runs"
        )

    def steps(self, upto="run"):
        for step in self.plan.setups[0].steps:
            outcome = self.keeper.carry_out(self.plan.setups[0], step, self.progress)
            if outcome != "done" or step.kind == upto:
                return outcome
        return "done"

    def progress(self, done, of):
        if self.at_block is not None and done >= self.at_block[0]:
            act, self.at_block = self.at_block[1], None
            threading.Thread(target=act).start()

    at_block = None

    def close(self):
        self.session.close()
        self.simulated.end()
        self.book.close()


@pytest.fixture
def rig(quay_plan, tmp_path):
    rigs = []

    def make(*faults, speed="max"):
        rigs.append(Rig(quay_plan, faults, tmp_path, speed))
        return rigs[-1]

    yield make
    for r in rigs:
        r.close()


LOST = {
    "mute": "two seconds",
    "garble": "can't be right",
    "double ack": "was reported done after",
    "no ack": "counts",
    "die": "closed the link|lost",
    "drop link": "closed the link|lost",
}


@pytest.mark.parametrize("fault", some(LOST, 3))
def test_a_link_that_can_t_be_trusted_is_lost_in_a_sentence_and_the_row_is_closed(rig, fault):
    r = rig(fault)
    with pytest.raises(LinkLost, match=LOST[fault]):
        r.steps()
    assert r.session.state is State.LOST
    (row,) = r.book.runs()
    assert row.state == "failed" and row.reason and row.ended and 0 < row.blocks_done < row.blocks
    assert not list((r.keeper.folder).glob("*.json"))
    assert r.keeper.conductor.journal.entries[-1].kind == "link lost"  # written by itself, as it happens


@pytest.mark.parametrize("fault", some(["lag", "split"], 1))
def test_a_slow_link_and_one_that_splits_and_joins_lines_still_work(rig, fault):
    assert rig(fault).steps() == "done"


def test_a_machine_process_killed_is_told(rig):
    r = rig(speed="20")
    r.at_block = (12, r.simulated.process.kill)
    with pytest.raises(LinkLost, match="closed the link|lost"):
        r.steps()
    assert r.book.runs()[0].state == "failed"


@pytest.mark.parametrize("fault", ["deaf to stop", "late answer"])
def test_a_machine_that_does_not_heed_a_stop_or_talks_after_it_is_not_trusted(rig, fault):
    r = rig(fault, speed="3" if fault == "deaf to stop" else "max")
    r.at_block = (90, r.session.stop)  # past where the fault begins
    with pytest.raises(LinkLost, match="red button|can't be right"):
        if r.steps() == "stopped":
            r.session.look()
    assert r.session.state is State.LOST


def test_pause_resume_and_stop_are_answered_with_the_queue_full(rig):
    r = rig(speed="4")
    heard = []
    r.session._listener = heard.append  # what the window is told
    r.at_block = (20, r.session.pause)
    resumed = threading.Event()

    def on_heard(event):
        heard.append(event.kind)
        if event.kind == "paused" and not resumed.is_set():
            resumed.set()
            full = r.session._link.sent - r.session._link.done
            heard.append(("in flight", full))
            r.session.resume()
            r.at_block = (r.session._link.done + 2, r.session.stop)

    r.session._listener = on_heard
    assert r.steps() == "stopped"
    in_flight = next(h[1] for h in heard if isinstance(h, tuple))
    assert in_flight >= 55 and "pausing" in heard and heard.count("stopped") == 1
    assert r.session.state is State.READY and r.book.runs()[0].state == "stopped"
    r.session.look()
    assert r.session.last["spindle"] == 0.0


def test_a_pause_in_the_first_moment_of_a_run_holds_it(rig):
    """Between “begun” and its first block, which is where a key pressed in fright can fall."""
    r = rig(speed="4")
    heard = []

    def on_heard(event):
        heard.append(event.kind)
        if event.kind == "begun":
            r.session.pause()
        if event.kind == "paused":
            r.session.stop()

    r.session._listener = on_heard
    assert r.steps() == "stopped"
    assert "refused" not in heard and heard.index("paused") < heard.index("stopped") and "done" not in heard
    assert r.book.runs()[0].blocks_done == 0


def test_a_machine_that_refuses_to_pause_a_program_is_stopped(rig, monkeypatch):
    from gatepost.machine.link import Event

    r = rig(speed="4")
    first, hear = [], r.session._hear

    def refused(*args):  # what a machine of another maker may say
        events = hear(*args)
        if not first and any(e.kind == "done" for e in events):
            first.append(Event("refused", {"say": "refused", "do": "pause", "n": 0, "reason": "not here"}))
            return [*events, *first]
        return events

    monkeypatch.setattr(r.session, "_hear", refused)
    assert r.steps() == "stopped" and first
    assert r.book.runs()[0].state == "stopped"


def test_every_fault_of_the_link_is_tried():
    tried = {*LOST, "lag", "split", "deaf to stop", "late answer"}
    assert set(FAULTS) - {"stall", *HANDS} == tried


def test_a_desk_that_slept_a_minute_does_not_take_its_own_sleep_for_the_machine_s_silence(rig, monkeypatch):
    """The lid closed in the middle of a run, or so much else to do that nobody got a turn: the machine is asked, not given up."""
    r = rig(speed="20")
    slept = [0.0]
    awake = time.monotonic
    monkeypatch.setattr(connection.time, "monotonic", lambda: awake() + slept[0])
    hear = r.session._socket.recv

    def with_a_nap(most):
        if r.session._link.done >= 8 and not slept[0]:
            slept[0] = 3600.0
            raise TimeoutError
        return hear(most)

    monkeypatch.setattr(
        r.session,
        "_socket",
        SimpleNamespace(recv=with_a_nap, sendall=r.session._socket.sendall, close=r.session._socket.close),
    )
    assert r.steps() == "done" and slept[0] == 3600.0


def test_a_machine_that_never_stops_talking_is_waited_for_no_longer_than_a_silent_one(rig, monkeypatch):
    """Each look brings something at once: what is done between two looks counts."""
    r = rig()
    at, heard = [0.0], []
    line = (json.dumps({"say": "state", **r.session.last}) + "\n").encode()

    def told(event):
        heard.append(event.kind)
        at[0] += 0.05
        assert len(heard) < 200, "it waits for ever"

    monkeypatch.setattr(connection.time, "monotonic", lambda: at[0])
    monkeypatch.setattr(r.session, "_listener", told)
    monkeypatch.setattr(r.session, "_socket", SimpleNamespace(recv=lambda most: line, close=r.session._socket.close))
    with pytest.raises(LinkLost, match="did not answer"):
        r.session._until("touched", 2.0)
    assert 38 <= len(heard) <= 42
