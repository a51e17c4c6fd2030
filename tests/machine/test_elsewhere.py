# SPDX-License-Identifier: GPL-3.0-or-later
"""Programs made elsewhere run like our own, a program to try a control with, and the card for one that can't be linked."""

from itertools import product

import numpy as np
import pytest

from gatepost.core.errors import OperatorError
from gatepost.core.job.machine import Dialect, Machine
from gatepost.core.plan.imported import imported
from gatepost.core.program.read import read
from gatepost.core.program.trial import ARC, SIDE, trial
from gatepost.desk.view.control_card import card_html
from gatepost.machine.standins.router import Router
from tests.conftest import some
from tests.machine.test_router import MILL, heard, send, settle

POCKET = """%
O0007 (a tray, from another shop)
N10 G21 G90 G40 G49 G80 G94
N20 T2 M6
N30 S16000 M3 M8
N40 G0 Z5
N50 X{x} Y{y}
N60 G91 G1 Z-7 F500
N70 X30 F1800
N80 G3 X0 Y20 R10
N90 G1 X-30
N100 G90 G0 Z5
N110 M9
N120 M5
N130 M2
%
"""


@pytest.mark.parametrize(
    "units, arcs, dwell, end, change, numbered",
    some(
        product(
            ("mm", "inch"), ("none", "level", "helix"), ("s", "ms"), ("M30", "M2"), ("separate", "pause"), (False, True)
        ),
        8,
    ),
)
def test_a_control_is_tried_at_the_top_of_its_travel_alone(units, arcs, dwell, end, change, numbered):
    dialect = Dialect(
        units=units, arcs=arcs, dwell=dwell, end=end, tool_change=change, line_numbers=numbered, offset="G56"
    )
    text, look_for = trial(Machine(dialect=dialect))
    back = read(text, home=(400.0, 300.0, 100.0))
    assert not back.complaints and np.all(back.moves.points[:, 2] == 100.0)  # it never goes down
    x, y = back.moves.points[1:, 0], back.moves.points[1:, 1]
    highest = SIDE + (ARC if arcs != "none" else 0.0)
    assert x.max() == pytest.approx(SIDE, abs=1e-3) and y.max() == pytest.approx(highest, abs=2e-3)
    assert x.min() == pytest.approx(0.0, abs=1e-3)  # the circle lies within
    assert (arcs == "none") == (len(back.moves) < 10) and len(look_for) >= 7
    assert (len(back.moves) > 20) == (SIDE > 2 * ARC and arcs != "none")
    if units == "mm" and dwell == "s":  # it runs on the engine
        router = Router()
        router.hear({"do": "fit", "tool": MILL})
        router.hear({"do": "home"})
        settle(router)
        router.hear({"do": "zero", "x": -1000.0, "y": -600.0})
        send(router, *[line for line in text.splitlines() if line and not line.startswith("(")])
        settle(router)
        while router.state == "paused":
            router.hear({"do": "resume"})
            settle(router)
        assert heard(router, "ended") and not heard(router, "fault") and router.at[2] == 0.0


def test_a_program_made_elsewhere_is_written_anew_swept_and_cuts_what_it_says(lock7_plan):
    setup = lock7_plan.setup("front")
    text = POCKET.format(x=-100, y=0)
    taken, step = imported(lock7_plan, "front", 2, "tray.tap", text)
    home = tuple(float(v) for v in setup.programs[0].moves.points[0])
    theirs = read(text, home=home)
    assert not theirs.complaints
    first = int(np.argmax(~theirs.moves.rapid))
    ours = taken.program.moves
    assert np.allclose(
        ours.points[1:][~ours.rapid], theirs.moves.points[first + 1 :][~theirs.moves.rapid[first:]], atol=2e-4
    )
    assert step.program == taken.program.name and step in taken.setup.steps and not taken.stops
    went = taken.wood.z - taken.after.z
    assert went.max() == pytest.approx(2.0, abs=0.1)  # 7 down from 5 over the top
    low = ours.points[:, 2] < 0
    assert ours.rapid[~low[1:]].any() and not ours.rapid[low[1:] & low[:-1]].any()


def test_what_can_t_be_run_of_it_says_why(lock7_plan):
    with pytest.raises(OperatorError, match="fits T2, T4"):
        imported(lock7_plan, "front", 7, "a.nc", POCKET.format(x=0, y=0))
    with pytest.raises(OperatorError, match="line 3"):
        imported(lock7_plan, "front", 2, "a.nc", "G21\nG90\nG77 X1\n")
    with pytest.raises(OperatorError, match="cuts nothing"):
        imported(lock7_plan, "front", 2, "a.nc", "G21\nG90\nG0 X1 Y1\nM30\n")
    with pytest.raises(OperatorError, match=r"changes tools \(T2, T4\)"):
        imported(lock7_plan, "front", 2, "a.nc", POCKET.format(x=0, y=0).replace("N110 M9", "T4 M6"))
    faster, _ = imported(lock7_plan, "front", 2, "a.nc", POCKET.format(x=-100, y=0).replace("S16000", "S9000"))
    assert "asks for 9000 rpm" in faster.words and "T2's own" in faster.words
    deep, _ = imported(
        lock7_plan, "front", 2, "a.nc", "G21\nG90\nT2 M6\nS16000 M3\nG0 Z5\nG0 X0 Y0\nG1 Z-60 F500\nG0 Z5\nM30\n"
    )
    assert any("into the bed" in words for words in deep.stops)
    ploughs, _ = imported(
        lock7_plan, "front", 2, "a.nc", "G21\nG90\nG0 Z5\nG0 X0 Y0\nG1 Z-3 F500\nG0 X60\nG0 Z5\nM30\n"
    )
    assert any("ploughs" in words for words in ploughs.stops)
    far, _ = imported(lock7_plan, "front", 2, "a.nc", "G21\nG90\nG0 Z5\nG0 X0 Y0\nG1 Z-1 F500\nX4000\nG0 Z5\nM30\n")
    assert any("leaves the travel" in words for words in far.stops)


def test_the_card_tells_every_file_its_print_and_what_to_note(lock7_plan):
    words = card_html(lock7_plan)
    for setup in lock7_plan.setups:
        for program in setup.programs:
            assert program.name in words and program.fingerprint in words
    assert (
        "red button" in words
        and "its first move goes" in words
        and "not under" in words
        and "never that a setup is safe" in words
    )
