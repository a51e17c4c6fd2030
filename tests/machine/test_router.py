# SPDX-License-Identifier: GPL-3.0-or-later
import numpy as np
import pytest

from gatepost.machine.standins import motion
from gatepost.machine.standins.blocks import BadBlock, Modal, understand
from gatepost.machine.standins.router import Router
from gatepost.machine.standins.wood import BedWood
from gatepost.machine.standins.world import World

MILL = {"number": 2, "kind": "flat", "diameter": 6.0, "angle": 0.0, "tip": 0.0, "length": 50.0}


def settle(router, most=5000):
    for _ in range(most):
        if router.state != "moving":
            return
        router.advance(1.0)
    raise AssertionError("it never came to rest")


def heard(router, kind):
    return [m for m in router.said if m["say"] == kind]


@pytest.fixture
def router():
    wood = BedWood(np.full((120, 200), 20.0, np.float32), 100.5, 100.5, 1.0)
    r = Router(wood=wood)
    r.hear({"do": "fit", "tool": MILL})
    return r


@pytest.fixture
def ready(router):
    router.hear({"do": "home"})
    settle(router)
    # X0 Y0 at bed 100, 100; Z0 on the top, 20 above the bed
    router.hear({"do": "zero", "x": 100 - 1200, "y": 100 - 700, "z": 20 + 50 - 175})
    router.said.clear()
    return router


def send(router, *blocks):
    router.hear({"do": "begin"})
    for n, text in enumerate(blocks, start=1):
        router.hear({"do": "block", "n": n, "text": text})


PROGRAM = ("G21", "G90", "T2 M6", "S16000 M3", "G0 X20 Y20 Z5", "G1 Z-2 F600", "G1 X80 F3000", "G0 Z5", "M5", "M30")


def test_unhomed_until_homed(router):
    assert router.state == "unhomed"
    for message in (
        {"do": "jog", "x": -10},
        {"do": "begin"},
        {"do": "touch", "to": -100, "feed": 100, "gauge": 12},
        {"do": "zero", "x": 0},
    ):
        router.said.clear()
        router.hear(message)
        assert heard(router, "refused") and router.state == "unhomed"
    router.hear({"do": "home"})
    settle(router)
    assert router.state == "ready" and np.allclose(router.at, 0) and heard(router, "homed")


def test_a_program_cuts_its_own_wood_and_reports_every_block(ready):
    send(ready, *PROGRAM)
    settle(ready)
    assert [m["n"] for m in heard(ready, "taken")] == list(range(1, 11))
    assert [m["n"] for m in heard(ready, "done")] == list(range(1, 11))
    assert heard(ready, "ended") and ready.state == "ready" and ready.spindle == 0
    assert ready.wood.z[20, 50] == pytest.approx(18.0, abs=1e-3) and ready.wood.z[40, 50] == 20.0


def test_its_clock_is_a_trapezoid_within_a_few_ticks(ready):
    before = ready.clock
    send(ready, "G90", "G1 X100 F3000", "M30")
    settle(ready)
    assert ready.clock - before > 0.2
    at = ready.clock
    send(ready, "G90", "G1 X0 F3000", "M30")
    settle(ready)
    assert ready.clock - at == pytest.approx(0.2 + 95 / 50, abs=0.01)


@pytest.mark.parametrize(
    ("block", "reason"),
    [
        ("G0 X2000", "travel"),
        ("G1 Z-300 F100", "travel"),
        ("G7 X1", "not known"),
        ("G1 X$", "cannot read"),
        ("T9 M6", "tool 9"),
        ("S99000 M3", "does not turn"),
    ],
)
def test_what_it_will_not_do_is_a_fault_and_wants_homing(ready, block, reason):
    send(ready, "G90", block, "M30")
    settle(ready)
    assert ready.state == "faulted" and reason in ready.reason and ready.spindle == 0
    ready.hear({"do": "begin"})
    assert heard(ready, "refused")
    ready.hear({"do": "home"})
    settle(ready)
    assert ready.state == "ready"


def test_running_into_wood_with_the_spindle_standing_is_noticed(ready):
    send(ready, "G90", "G0 X20 Y20 Z5", "G1 Z-2 F600", "M30")
    settle(ready)
    assert ready.state == "faulted" and "spindle standing" in ready.reason
    assert (ready.wood.z == 20.0).all()


def test_the_plate_is_touched_on_its_own_wood(ready):
    ready.hear({"do": "jog", "x": 150 - 1200, "y": 150 - 700, "z": -60})
    settle(ready)
    assert heard(ready, "arrived")
    ready.hear({"do": "touch", "to": -120, "feed": 120, "gauge": 12})
    settle(ready)
    (touched,) = heard(ready, "touched")
    assert touched["z"] == pytest.approx(20 + 12 + 50 - 175)
    ready.hear({"do": "jog", "z": -60})
    settle(ready)
    ready.hear({"do": "touch", "to": -70, "feed": 120, "gauge": 12})
    settle(ready)
    assert heard(ready, "no-contact")


def test_pause_begins_within_50_ms_resume_goes_on_and_the_wood_is_the_same(ready):
    send(ready, *PROGRAM)
    while ready.done < 6 or ready.at[0] < 130 - 1200:
        ready.advance(0.01)
    ready.hear({"do": "pause"})
    speed = ready.walk[2]
    ready.advance(0.05)
    assert ready.walk[2] < speed
    settle(ready)
    assert ready.state == "paused" and ready.spindle > 0
    here = ready.at.copy()
    ready.advance(1.0)
    assert np.array_equal(ready.at, here)
    ready.hear({"do": "resume"})
    settle(ready)
    assert ready.state == "ready" and ready.wood.z[20, 79] == pytest.approx(18.0, abs=1e-3)


def test_a_pause_before_the_first_block_has_come_is_a_pause_and_nothing_moves_until_it_is_let_go_on(ready):
    ready.hear({"do": "begin"})
    ready.hear({"do": "pause"})
    assert ready.state == "paused" and not heard(ready, "refused")
    here = ready.at.copy()
    for n, text in enumerate(PROGRAM, start=1):
        ready.hear({"do": "block", "n": n, "text": text})
    ready.advance(2.0)
    assert np.array_equal(ready.at, here) and ready.spindle == 0.0 and ready.done == 0
    ready.hear({"do": "resume"})
    settle(ready)
    assert ready.state == "ready" and ready.done == len(PROGRAM)
    ready.hear({"do": "pause"})  # it has ended: there is nothing to pause
    assert heard(ready, "refused") and ready.state == "ready"


def test_stop_ends_the_spindle_and_empties_the_queue(ready):
    send(ready, *PROGRAM)
    while ready.done < 6 or ready.at[0] < 130 - 1200:
        ready.advance(0.01)
    ready.hear({"do": "stop"})
    settle(ready)
    assert ready.state == "ready" and ready.spindle == 0 and not ready.queue
    assert heard(ready, "stopped")[0]["n"] == 6
    assert ready.wood.z[20, 79] == 20.0


def test_feed_override_slows_cuts_but_not_rapids(ready):
    def minutes(percent):
        ready.hear({"do": "feed", "percent": percent})
        at = ready.clock
        send(ready, "G90", "G1 X100 F3000", "G1 X0", "M30")
        settle(ready)
        return ready.clock - at

    minutes(100)
    whole, half = minutes(100), minutes(50)
    assert half == pytest.approx(2 * whole, rel=0.1)


def test_a_window_of_64_and_numbers_in_order(ready):
    send(ready, "G90", *(f"G1 X{i % 7 + 1} F100" for i in range(70)))
    assert ready.taken == 64 and "in flight" in heard(ready, "refused")[0]["reason"]
    ready.hear({"do": "block", "n": 99, "text": "G0"})
    assert "expected" in heard(ready, "refused")[-1]["reason"]


@pytest.mark.parametrize(
    "message",
    [
        {},
        {"do": None},
        {"do": "fly"},
        {"do": "feed"},
        {"do": "block", "n": "x"},
        {"do": "fit", "tool": {}},
        {"do": "jog", "x": "far"},
    ],
)
def test_strange_messages_are_refused_and_change_nothing(ready, message):
    at = ready.at.copy()
    ready.hear(message)
    assert heard(ready, "refused") and ready.state == "ready" and np.array_equal(at, ready.at)


def test_its_own_reader():
    modal = Modal()
    assert understand("(x) N10 G20", modal, (0, 0, 0)).kind == "nothing"
    action = understand("G1 X1 F10 ; c", modal, (0, 5, 0))
    assert action.legs == ((25.4, 5, 0),) and action.feed == pytest.approx(254)
    arc = understand("G2 X0 I0.5", modal, (0, 5, 0))
    assert len(arc.legs) == 180
    with pytest.raises(BadBlock):
        understand("G1 X1", Modal(motion="1"), (0, 0, 0))


def test_what_is_warmed_before_it_is_spoken_to_is_all_that_moving_and_cutting_need(ready):
    motion.warm()
    for tool in (
        MILL,
        {**MILL, "kind": "vee", "angle": 90, "tip": 0, "diameter": 12},
        {**MILL, "kind": "ball", "diameter": 6},
    ):
        ready.hear({"do": "fit", "tool": tool})
        send(ready, *PROGRAM)
        settle(ready)
        assert heard(ready, "ended")
    for kernel in (motion.march, motion.stamp):
        assert len(kernel.signatures) == 1, kernel.signatures  # another would be compiled while the desk waits


def test_a_board_that_is_not_taken_up_stays_where_it_lies():
    """In a shop where boards lie off their mark: laid twice it lies twice otherwise, left where it lies it does not move."""
    router = Router(wood=BedWood(np.full((40, 60), 10.0, np.float32), 300.0, 200.0, 1.0), world=World(11))
    places = []
    for more in ({}, {"still": True}, {}):
        router.hear({"do": "lay", "dx": 0.0, "dy": 0.0, "standing": [], **more})
        assert router.said.pop()["say"] == "laid"
        places.append(router.wood.sides)
        assert router.wood.asked(router.wood.sides) == pytest.approx(router.wood.outline)
    assert (places[0] == places[1]).all() and not (places[0] == places[2]).all()
    asked = router.wood.outline.mean(axis=0)
    for sides in places:  # about its middle it lies no farther off than a hand lays it, nor more askew
        assert 0.0 < np.abs(sides.mean(axis=0) - asked).max() <= 1.5
        along = sides[1] - sides[0]
        assert 0.0 < abs(np.degrees(np.arctan2(along[1], along[0]))) <= 0.3


def test_a_board_pushed_about_a_place_turns_about_it_and_what_holds_it_goes_with_it():
    router = Router(wood=BedWood(np.full((40, 60), 10.0, np.float32), 300.0, 200.0, 1.0), world=World(5))
    clamp = {
        "name": "C1",
        "part": "body",
        "z0": 0,
        "z1": 20,
        "outline": [[290, 190], [299, 190], [299, 199], [290, 199]],
    }
    router.hear({"do": "lay", "dx": 10.0, "dy": 0.0, "standing": [clamp], "turned": [2.0, 310.0, 210.0]})
    before, stood = router.wood.sides, router.standing[0].corners
    router.hear({"do": "push", "x": 320.0, "y": 205.0, "degrees": 1.5})
    c, s = np.cos(np.radians(1.5)), np.sin(np.radians(1.5))
    turn, at = np.array([[c, -s], [s, c]]), np.array([320.0, 205.0])
    for was, now in ((before, router.wood.sides), (stood, router.standing[0].corners)):
        assert now == pytest.approx((was - at) @ turn.T + at)
    along = before[1] - before[0]
    assert np.degrees(np.arctan2(along[1], along[0])) == pytest.approx(2.0, abs=0.31)
    inner = router.wood.sides.mean(axis=0)
    assert router.wood.under(*inner) == router.wood.z.max() and router.wood.under(200.0, 100.0) == 0.0
