# SPDX-License-Identifier: GPL-3.0-or-later
"""Jogging by hand, lifting out of the wood and going down again: the machine's own rules, the link, keys and pad."""

import os
import struct
import threading
import time

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.machine import launch
from gatepost.machine.failures import CalledOff, LinkLost, MachineRefused
from gatepost.machine.jogging import DOWN, PACES, STALE, UNUSED, Arming, Asked, speeds_of
from gatepost.machine.link import State
from gatepost.machine.pad import HELD, Pad, PadState
from gatepost.machine.session import Session
from gatepost.machine.standins.messages import LAPSE
from gatepost.machine.standins.router import Router
from gatepost.machine.standins.wood import BedWood
from tests.machine.test_router import MILL, PROGRAM, heard, send, settle

RATE = st.sampled_from([-2000.0, -60.0, 0.0, 400.0, 2000.0])


def homed(at=(-600.0, -350.0, -20.0)):
    router = Router()
    router.hear({"do": "home"})
    settle(router)
    router.hear(dict(zip(("do", "x", "y", "z"), ("jog", *at))))
    settle(router)
    router.said.clear()
    return router


def braked(rates, router):
    """mm gone from full speed to a stand: v² / 2a of the slower axis's share."""
    speed = np.linalg.norm(rates) / 60.0
    reach = min(a * speed / abs(r / 60.0) for a, r in zip(router.profile.accel, rates) if r)
    return speed * speed / (2.0 * reach)


@settings(max_examples=60, deadline=None)
@given(st.tuples(RATE, RATE, RATE), st.lists(st.floats(0.0, LAPSE * 0.9), max_size=8))
def test_it_ends_by_itself_soon_after_the_last_word_wherever_that_was(rates, words):
    router = homed()
    start = router.at.copy()
    message = {"do": "creep", "n": 1, **dict(zip("xyz", rates))}
    router.hear(message)
    gone = 0.0
    for pause in words:
        gone += router.advance(pause) if pause > 0.002 and router.state == "moving" else 0.0
        router.hear(message)
    while router.state == "moving":
        gone += router.advance(0.01)
    assert router.state == "ready" and len(heard(router, "arrived")) == (1 if any(rates) else len(words) + 1)
    most = (sum(words) + LAPSE + 0.02) * np.linalg.norm(rates) / 60.0 + (braked(rates, router) if any(rates) else 0.0)
    assert np.linalg.norm(router.at - start) <= most + 1e-6
    assert all(m["reason"] == "that press has ended" for m in heard(router, "refused"))


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(RATE, RATE, RATE), min_size=1, max_size=12))
def test_it_never_leaves_the_travel_and_goes_along_its_end(ways):
    router = homed((-30.0, -20.0, -5.0))
    for n, way in enumerate(ways, start=1):
        for _ in range(40):
            router.hear({"do": "creep", "n": n, **dict(zip("xyz", way))})
            router.advance(0.05)
        settle(router, 50)
        assert router._inside(router.at)
    router.hear({"do": "creep", "n": 99, "x": 2000.0, "y": -2000.0})
    before = router.at.copy()
    for _ in range(60):
        router.advance(0.05)
        router.hear({"do": "creep", "n": 99, "x": 2000.0, "y": -2000.0})
    settle(router)
    assert router.at[1] < before[1] - 50.0 or before[1] < -650.0  # X at its end does not keep Y from going on


def test_words_of_a_press_that_has_ended_move_nothing():
    router = homed()
    router.hear({"do": "creep", "n": 1, "x": 2000.0})
    router.advance(0.1)
    router.hear({"do": "creep", "n": 1})
    settle(router)
    stood = router.at.copy()
    for n in (1, 1, 1):  # a burst that was held up on its way
        router.hear({"do": "creep", "n": n, "x": 2000.0})
        router.advance(0.1)
    assert router.state == "ready" and np.array_equal(router.at, stood) and len(heard(router, "refused")) == 3


def test_no_jog_with_the_spindle_turning_nor_while_anything_else_goes_on():
    router = homed()
    router.hear({"do": "spindle", "rpm": 12000})
    router.hear({"do": "creep", "n": 1, "x": 400.0})
    router.hear({"do": "spindle", "rpm": 0})
    router.hear({"do": "jog", "x": -100.0})
    router.hear({"do": "creep", "n": 2, "x": 400.0})
    assert [m["reason"] for m in heard(router, "refused")] == ["the spindle is turning", "it is moving"]


def running(blocks=PROGRAM, until=-1.0):
    wood = BedWood(np.full((120, 200), 20.0, np.float32), 100.5, 100.5, 1.0)
    router = Router(wood=wood)
    router.hear({"do": "fit", "tool": MILL})
    router.hear({"do": "home"})
    settle(router)
    router.hear({"do": "zero", "x": 100 - 1200, "y": 100 - 700, "z": 20 + 50 - 175})
    router.said.clear()
    send(router, *blocks)
    while (router.at - router.zero)[2] > until:
        router.advance(0.05)
    return router


@pytest.mark.parametrize("further", [0.0, 0.2, 0.6])
def test_lifted_and_lowered_the_same_wood_comes_out(further):
    paused, router = running(), running()
    for each in (paused, router):
        each.advance(further)
        each.hear({"do": "pause"})
        settle(each)
    paused.hear({"do": "resume"})
    settle(paused)
    place, clock = router.at.copy(), router.spindle
    router.hear({"do": "lift"})
    settle(router)
    assert router.state == "lifted" and router.spindle == 0.0 and router.at[2] == 0.0 and clock == 16000.0
    for wrong in ("resume", "home", "begin", "jog", "fit"):
        router.hear({"do": wrong, **({"tool": MILL} if wrong == "fit" else {})})
    assert len(heard(router, "refused")) == 5 and router.state == "lifted"
    router.hear({"do": "lower", "to": float(router.zero[2] + 5.0), "feed": 300.0, "wait": 3.0})
    before = router.clock
    router.advance(2.9)
    assert router.at[2] == 0.0 and router.spindle == 16000.0  # first up to speed
    settle(router)
    assert router.state == "paused" and np.allclose(router.at, place)
    assert router.clock - before > 3.0 + 60.0 * min(5.0, router.zero[2] + 5.0 - place[2]) / 300.0
    router.hear({"do": "resume"})
    settle(router)
    assert heard(router, "ended") and router.done == len(PROGRAM)
    assert np.array_equal(router.wood.z, paused.wood.z)


def test_stopped_while_it_is_lifted_nothing_is_left_of_it():
    router = running()
    router.hear({"do": "pause"})
    settle(router)
    router.hear({"do": "lift"})
    settle(router)
    router.hear({"do": "stop"})
    assert router.state == "ready" and heard(router, "stopped") and router.kept is None
    router.hear({"do": "lower", "to": -10.0, "feed": 300.0, "wait": 0.0})
    assert router.state == "ready" and heard(router, "refused")


def test_the_spindle_turns_as_much_faster_as_is_asked_within_what_it_can():
    router = running()
    router.hear({"do": "rpm", "percent": 80})
    assert router.spindle == 12800.0
    router.hear({"do": "rpm", "percent": 150})
    assert router.spindle == 24000.0
    settle(router)
    assert router.spindle == 0.0 and router.speed == 1.5


# -- over the link ------------------------------------------------------------------------------------------


@pytest.fixture
def at_machine(quay_plan):
    machine = launch.start(quay_plan, "max")
    session = Session(machine.host, machine.port)
    session.home()
    session.jog(x=-600.0, y=-350.0, z=-20.0)
    yield session
    session.close()
    machine.end()


def test_a_press_over_the_cable_goes_on_while_it_is_held_and_no_longer(at_machine):
    ends = time.monotonic() + 0.6
    at_machine.creep(lambda: (600.0, 0.0, 0.0) if time.monotonic() < ends else None)
    at_machine.look()
    x, y, z = at_machine.last["machine"]
    assert 0.5 < x + 600.0 < 12.0 and (y, z) == (-350.0, -20.0)  # 10 mm/s for 0.6 s, up to speed and down again
    at_machine.creep(lambda: None)  # nothing is asked for: nothing is said
    assert at_machine.state is State.READY
    at_machine.jog(x=-500.0)
    assert at_machine.last["machine"][0] == -500.0


def test_a_desk_that_falls_silent_in_the_middle_of_a_press(at_machine):
    told = iter([(600.0, 0.0, 0.0)])

    def hangs():
        value = next(told, None)
        if value is None:
            time.sleep(1.0)
            return (600.0, 0.0, 0.0)  # and then goes on as if nothing had been
        return value

    at_machine.creep(hangs)
    at_machine.look()
    assert at_machine.last["machine"][0] + 600.0 < 10.0 * (LAPSE + 0.25)
    assert at_machine.state is State.READY


def test_stopped_in_the_middle_of_a_press(at_machine):
    threading.Timer(0.3, at_machine.stop).start()
    with pytest.raises(CalledOff):
        at_machine.creep(lambda: (60.0, 0.0, 0.0))
    at_machine.fresh()
    at_machine.spin(12000)
    with pytest.raises(MachineRefused, match="the spindle is turning"):
        at_machine.creep(lambda: (60.0, 0.0, 0.0))
    at_machine.spin(0)
    at_machine.jog(x=-300.0)


def test_the_cable_out_in_the_middle_of_a_press(quay_plan):
    machine = launch.start(quay_plan, "max")
    session = Session(machine.host, machine.port)
    session.home()
    threading.Timer(0.3, machine.end).start()
    with pytest.raises(LinkLost):
        session.creep(lambda: (-60.0, 0.0, 0.0))
    session.close()


def test_a_program_turns_as_it_is_written_whatever_was_asked_of_the_one_before(at_machine):
    for asked in (70.0, 130.0):
        at_machine.rpm(asked)
        at_machine.look()
        assert at_machine.last["rpm"] == asked
        at_machine.run("G21\nG90\nG17\nS16000 M3\nG4 P1\nG0 X0 Y0\n")
        at_machine.look()
        assert at_machine.last["rpm"] == 100.0


# -- keys and pad -------------------------------------------------------------------------------------------


@given(
    st.lists(st.tuples(st.sampled_from(["arm", "use", "away"]), st.floats(0.0, 15.0)), max_size=20),
    st.floats(0.0, 15.0),
)
def test_armed_only_after_the_held_second_and_not_longer_than_it_is_used(acts, later):
    arming, now, until = Arming(), 100.0, -1.0
    for act, pause in acts:
        now += pause
        if act == "arm":
            arming.arm(now)
            until = now + UNUSED
        elif act == "use":
            arming.used(now)
            until = now + UNUSED if now <= until else until
        else:
            arming.end()
            until = -1.0
    now += later
    if abs(now - until) > 1e-6:
        assert arming.armed(now) is (now < until)
        assert arming.left(now) == pytest.approx(max(0.0, until - now), abs=1e-6)


def test_what_is_not_told_anew_counts_no_longer_and_ways_against_each_other_are_none():
    asked = Asked()
    assert asked.speeds(0.0) is None
    asked.tell(speeds_of({"left", "up"}, "slow"), 10.0)
    assert asked.speeds(10.0 + STALE - 0.01) == (-PACES["slow"], 0.0, PACES["slow"] * DOWN)
    assert asked.speeds(10.0 + STALE + 0.01) is None and asked.speeds(9.0) is None
    asked.tell(speeds_of({"left", "right"}, "quick"), 20.0)
    assert asked.speeds(20.0) is None
    asked.tell((60.0, 0.0, 0.0), 30.0)  # a tap, let go before it was heard: once, and not late
    asked.tell(None, 30.02)
    assert asked.speeds(30.05) == (60.0, 0.0, 0.0) and asked.speeds(30.06) is None
    asked.tell((60.0, 0.0, 0.0), 40.0)
    asked.tell(None, 40.02)
    assert asked.speeds(40.02 + STALE) is None
    asked.tell((60.0, 0.0, 0.0), 50.0)
    asked.drop()  # the window has the keys no longer
    assert asked.speeds(50.01) is None


def event(kind, number, value, first=False):
    return struct.pack("<IhBB", 7, value, kind | (0x80 if first else 0), number)


def pad_of(*events, at=5.0):
    pad = PadState()
    pad.take(b"".join(events), at)
    return pad


STICKS = st.dictionaries(st.sampled_from([0, 1, 4, 6, 7]), st.integers(-32767, 32767), max_size=5)


@given(STICKS, STICKS, st.booleans(), st.floats(0.0, 1.0))
def test_a_pad_moves_only_while_its_second_button_is_held_from_the_middle_and_heard(at_first, later, held, ago):
    first = [event(2, n, v, True) for n, v in at_first.items()] + [event(1, HELD, 1, True)]
    pad = pad_of(*first, *(event(2, n, v) for n, v in later.items()), *([event(1, HELD, 1)] if held else []))
    speeds = pad.speeds(5.0 + ago)
    never_in_the_middle = {n for n, v in at_first.items() if abs(v) / 32767.0 > 0.18} - {
        n for n, v in later.items() if abs(v) / 32767.0 <= 0.18
    }
    if not held or ago > STALE or never_in_the_middle:
        assert speeds is None
    if speeds is not None:
        assert max(map(abs, speeds)) <= PACES["quick"] and any(speeds)
    pad.gone()
    assert pad.speeds(5.0) is None


def test_which_way_a_pad_s_sticks_go():
    held = event(1, HELD, 1)
    full = 32767
    assert pad_of(held, event(2, 0, full)).speeds(5.0) == (PACES["quick"], 0.0, 0.0)
    assert pad_of(held, event(2, 1, -full)).speeds(5.0) == (0.0, PACES["quick"], 0.0)  # pushed away: to the back
    assert pad_of(held, event(2, 4, -full), event(1, 5, 1)).speeds(5.0) == (0.0, 0.0, PACES["slow"] * DOWN)
    assert pad_of(held, event(2, 0, full), event(1, HELD, 0)).speeds(5.0) is None


def test_a_pad_plugged_in_and_pulled_out(tmp_path):
    pad = Pad(tmp_path)
    pad.look(1.0)
    assert not pad.state.plugged_in
    os.mkfifo(tmp_path / "js0")
    pad.look(1.1)  # opened; nobody has written yet: an end of file counts as gone
    keeper = os.open(tmp_path / "js0", os.O_RDWR | os.O_NONBLOCK)
    pad.look(1.2)
    os.write(keeper, event(1, HELD, 1) + event(2, 0, 32767)[:5])
    pad.look(1.3)
    os.write(keeper, event(2, 0, 32767)[5:])
    pad.look(1.4)
    assert pad.state.speeds(1.4) is not None
    assert pad.state.speeds(1.4 + STALE + 0.01) is None
    os.close(keeper)
    pad.look(1.5)
    assert pad.state.speeds(1.5) is None and not pad.state.plugged_in


def test_a_desk_that_goes_in_the_middle_of_a_lift_leaves_nothing_turning_and_nothing_kept():
    router = running()
    router.hear({"do": "pause"})
    settle(router)
    router.hear({"do": "lift"})
    router.advance(0.2)
    at = router.at[2]
    router.braking = True  # as the server does when its client is gone
    settle(router)
    assert router.state == "ready" and router.kept is None and router.spindle == 0.0 and at <= router.at[2] < 0.0
    lowering = running()
    lowering.hear({"do": "pause"})
    settle(lowering)
    lowering.hear({"do": "lift"})
    settle(lowering)
    lowering.hear({"do": "lower", "to": float(lowering.zero[2] + 5.0), "feed": 300.0, "wait": 3.0})
    lowering.advance(1.0)
    lowering.braking = True
    settle(lowering)
    assert lowering.state == "ready" and lowering.spindle == 0.0 and lowering.at[2] == 0.0
