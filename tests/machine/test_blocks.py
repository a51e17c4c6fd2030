# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated control's own reader, against what was worked out by hand."""

import pytest

from gatepost.machine.standins.blocks import BadBlock, Modal, understand
from tests.arcs import ARCS, HEAD, SENSELESS, length, passes


def lines_read(text, modal):
    """Each line's places, from 0, 0, 30."""
    at, out = (0.0, 0.0, 30.0), []
    for line in text.splitlines():
        action = understand(line, modal, at)
        out.append([at, *action.legs])
        at = out[-1][-1]
    return out


@pytest.mark.parametrize(("start", "line", "long", "places"), [a[1:] for a in ARCS], ids=[a[0] for a in ARCS])
def test_arcs_worked_by_hand(start, line, long, places):
    way = [p[:2] for p in lines_read(HEAD.format(x=start[0], y=start[1]) + line, Modal())[-1]]
    assert length(way) == pytest.approx(long, rel=1e-3) and all(passes(way, place, 0.005) for place in places)


@pytest.mark.parametrize(
    "line", [*SENSELESS, "G2 X5 R3", "G91 X1", "M3 M6", "G4 P-1", "G4", "S-5", "M6 X3", "G1 X9999999"]
)
def test_what_makes_no_sense_is_refused(line):
    modal = Modal()
    lines_read("G21\nG90\nG0 X1 Y1\nG1 F600 X2", modal)
    with pytest.raises(BadBlock):
        understand(line, modal, (2.0, 1.0, 30.0))
