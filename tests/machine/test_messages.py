# SPDX-License-Identifier: GPL-3.0-or-later
"""Every message in every state, sound and senseless, against a plain reference of what may move."""

import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, rule

import messages
from gatepost.machine.standins.messages import HANDS
from tests.conftest import tries


class Thrown(RuleBasedStateMachine):
    """Hypothesis picks what is thrown, and for how long it is waited."""

    @initialize(seed=st.integers(0, 99), faults=st.sets(st.sampled_from(HANDS), max_size=2))
    def start(self, seed, faults):
        self.machine = messages.Reference(seed, tuple(faults))

    @rule(seed=st.integers(0, 10**6))
    def sound(self, seed):
        self.machine.hear(messages.sound(random.Random(seed), self.machine.router.taken + 1))

    @rule(seed=st.integers(0, 10**6))
    def spoiled(self, seed):
        chance = random.Random(seed)
        self.machine.hear(messages.spoiled(chance, messages.sound(chance, self.machine.router.taken + 1)))

    @rule(seconds=st.sampled_from([0.001, 0.05, 0.5, 5.0, 40.0]))
    def wait(self, seconds):
        self.machine.wait(seconds)


Thrown.TestCase.settings = settings(max_examples=tries(25), stateful_step_count=40, deadline=None)
TestThrown = Thrown.TestCase


@given(st.integers(0, 10**9))
@settings(max_examples=tries(40))
def test_long_runs_of_messages_keep_every_law(seed):
    assert messages.of_messages(seed) == "all laws held"


def settled(machine):
    machine.wait(60.0)
    machine.router.said.clear()


@pytest.mark.parametrize("end", ["stop", "left alone", "fault", "power"])
def test_homing_cut_short_leaves_it_unhomed_whatever_ended_it(end):
    machine = messages.Reference(3)
    machine.hear({"do": "home"})
    machine.wait(0.2)
    r = machine.router
    if end == "stop":
        machine.hear({"do": "stop"})
    elif end == "left alone":
        r.braking = True  # as the server does when whoever was connected goes
    elif end == "fault":
        r.fault("a switch")
    else:
        r.cut_power()
    r.advance(60.0)
    assert r.state == ("faulted" if end == "fault" else "unhomed")
    assert not any(m["say"] == "homed" for m in r.said)
    for message in (
        {"do": "jog", "x": -5.0},
        {"do": "begin"},
        {"do": "touch", "to": -5.0, "feed": 100.0, "gauge": 0.0},
    ):
        r.said.clear()
        r.hear(message)
        assert [m["say"] for m in r.said] == ["refused"]


def test_a_zero_set_while_paused_never_moves_the_queue_past_the_travel():
    machine = messages.Reference(5)
    machine.hear({"do": "home"})
    settled(machine)
    machine.hear({"do": "zero", "x": -300.0, "y": -200.0, "z": -50.0})
    machine.hear({"do": "begin"})
    for n, text in enumerate(("G21", "M0", "G0 X100 Y10", "G1 Z1 F600", "M30"), start=1):
        machine.hear({"do": "block", "n": n, "text": text})
    machine.wait(1.0)
    r = machine.router
    assert r.state == "paused" and r.waiting
    r.said.clear()
    machine.hear({"do": "zero", "x": -50.0})  # 100 from there is past the end
    assert [m["say"] for m in r.said] == ["refused"] and r.zero[0] == -300.0
    r.said.clear()
    machine.hear({"do": "zero", "x": -250.0, "z": -40.0})
    assert r.said[0]["say"] == "set"
    machine.hear({"do": "resume"})
    machine.wait(60.0)
    assert r.state == "ready" and r.at.tolist() == pytest.approx([-150.0, -190.0, -39.0])


def test_what_it_was_stopped_at_is_not_done():
    machine = messages.Reference(7)
    machine.hear({"do": "home"})
    settled(machine)
    for message, never in (
        ({"do": "jog", "x": -200.0}, "arrived"),
        ({"do": "touch", "to": -90.0, "feed": 60.0, "gauge": 0.0}, "touched"),
    ):
        machine.hear(message)
        machine.wait(0.3)
        machine.hear({"do": "stop"})
        machine.wait(5.0)
        said = [m["say"] for m in machine.router.said]
        assert "stopped" in said and never not in said and machine.router.state == "ready"
        machine.router.said.clear()
