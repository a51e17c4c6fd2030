# SPDX-License-Identifier: GPL-3.0-or-later

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.errors import Cancelled
from gatepost.core.frames import Matrix
from gatepost.core.job.machine import Dialect
from gatepost.core.job.tool_table import shipped_tools
from gatepost.core.motion import Pen
from gatepost.core.program.plain import MOST_COMPLAINTS, read_plainly
from gatepost.core.program.read import read
from gatepost.core.program.write import Head, barred_text, fingerprint, write
from tests.arcs import ARCS, SENSELESS, length, passes
from tests.arcs import HEAD as ARCS_HEAD

TOOL = shipped_tools()[1]
HEAD = Head("Quay plate", "front", TOOL, "front left", Matrix())


def small():
    pen = Pen(5, 5, 60)
    pen.rapid(x=25.4, y=50.8)
    pen.rapid(z=2)
    pen.feed(500, z=-1.5)
    pen.feed(2400, x=50.8)
    pen.feed(2400, x=50.8, y=76.2, z=-3)
    pen.rapid(z=8)
    return pen.moves()


PLAIN = """(GATEPOST Quay plate - front - T2 6 mm end mill - program {told})
(Zero front left lengths in mm)
G21
G17
G90
G54
G53 G0 Z0
T2 M6
S16000 M3
G4 P4
G0 X5 Y5
X25.4 Y50.8 Z60
Z2
G1 Z-1.5 F500
X50.8 F2400
Y76.2 Z-3
G0 Z8
G53 G0 Z0
M5
M30
"""
INCH = {12: "X1 Y2 Z2.3622", 14: "G1 Z-0.05906 F19.685", 15: "X2 F94.488", 16: "Y3 Z-0.11811"}


def test_the_plain_dialect_word_for_word():
    text = write(small(), HEAD, Dialect())
    assert text == PLAIN.format(told=fingerprint(text, HEAD))


def test_inches_line_numbers_dwell_in_ms_semicolons_and_pauses():
    lines = write(small(), HEAD, Dialect(units="inch", dwell="ms")).splitlines()
    assert lines[2] == "G20" and lines[9] == "G4 P4000"
    for number, words in INCH.items():
        assert lines[number - 1] == words
    other = write(small(), HEAD, Dialect(line_numbers=True, comments="semicolon", tool_change="pause")).splitlines()
    assert other[0].startswith("; GATEPOST") and other[2] == "N30 G21"
    assert any(line.endswith("M0") for line in other) and not any("M6" in line for line in other)
    assert "(" not in write(small(), HEAD, Dialect(comments="none"))


moves_ = st.lists(
    st.tuples(st.floats(-600, 600), st.floats(-400, 400), st.floats(-40, 60), st.booleans(), st.floats(50, 6000)),
    min_size=1,
    max_size=25,
)


@given(moves_, st.sampled_from(["mm", "inch"]), st.booleans())
def test_what_is_written_reads_back_to_the_same_moves(steps, units, numbers):
    pen = Pen(1.0, 2.0, 70.0)
    for x, y, z, rapid, feed in steps:
        if rapid:
            pen.rapid(x, y, z)
        else:
            pen.feed(feed, x, y, z)
    moves = pen.moves()
    text = write(moves, HEAD, Dialect(units=units, line_numbers=numbers))
    back = read(text, home=(0.0, 0.0, 70.0))
    assert not back.complaints and back.tools == (2,) and back.fingerprint == fingerprint(text, HEAD)
    decimals = 10.0**-4 if units == "mm" else 25.4 * 1e-5
    wanted = moves.points
    # every place is visited in order; moves shorter than the rounding may be left out
    at = 0
    for place in wanted[1:]:
        near = np.nonzero(np.abs(back.moves.points[at:] - place).max(axis=1) <= decimals * 1.01)[0]
        assert len(near), place
        at += int(near[0])
    assert back.moves.rapid[0]


@given(moves_, st.sampled_from([Dialect(), Dialect(units="inch"), Dialect(decimals=2)]), st.floats(1e-6, 0.2))
def test_no_cut_is_written_as_a_rapid_nor_a_rapid_as_a_cut(steps, dialect, small):
    """Moves too short to be written must not leave their G behind."""
    top = 3 * 25.4 if dialect.units == "inch" else 70.0
    pen = Pen(1.0, 2.0, top)
    for x, y, z, rapid, feed in steps:
        hx, hy, hz = pen.here
        for px, py, pz in ((hx + small, hy, hz - small), (x, y, z)):  # the first may be too short to be written
            if rapid:
                pen.rapid(px, py, pz)
            else:
                pen.feed(feed, px, py, pz)
    moves = pen.moves()
    back = read(write(moves, HEAD, dialect), home=(0.0, 0.0, top))
    inch = dialect.units == "inch"
    places = [
        [float(f"{v / (25.4 if inch else 1):.{dialect.decimals + inch}f}") for v in p] for p in moves.points.tolist()
    ]
    moved = np.array([a != b for a, b in zip(places, places[1:])])
    assert back.moves.rapid[1:-1].tolist() == moves.rapid[moved].tolist()
    shown = [[v * (25.4 if inch else 1) for v in p] for p, m in zip(places[1:], moved) if m]
    assert np.allclose(back.moves.points[2:-1], np.array(shown).reshape(-1, 3), rtol=0, atol=1e-9)
    assert np.allclose(back.moves.feed[1:-1], moves.feed[moved], rtol=1e-3, atol=0.03)


def test_arcs_either_way_close_and_stay_round():
    for text, middle in (("G2 X10 Y0 I5 J0", (5, 5)), ("G3 X10 Y0 R5", (5, -5)), ("G2 X0 Y0 I5 J0", (10, 0))):
        program = read(f"G21 G90\nG0 X0 Y0 Z0\nG1 F100\n{text}\n", home=(1, 0, 0))
        assert not program.complaints
        points = program.moves.points[2:]
        assert np.abs(np.hypot(points[:, 0] - 5, points[:, 1]) - 5).max() < 1e-6
        assert np.hypot(*(points[:, :2] - middle).T).min() < 0.3


@pytest.mark.parametrize("reading", [read, read_plainly])
@pytest.mark.parametrize(("start", "line", "long", "places"), [a[1:] for a in ARCS], ids=[a[0] for a in ARCS])
def test_arcs_worked_by_hand(reading, start, line, long, places):
    program = reading(ARCS_HEAD.format(x=start[0], y=start[1]) + line + "\n", home=(1.0, 2.0, 30.0))
    assert not program.complaints
    way = [tuple(p) for p in program.moves.points[np.concatenate([program.line == 5, [True]])][:, :2].tolist()]
    assert length(way) == pytest.approx(long, rel=2e-4) and all(passes(way, place, 0.003) for place in places)
    assert [c.line for c in program.cares] == ([5] if "0000" in line else [])


@pytest.mark.parametrize("line", SENSELESS)
def test_what_makes_no_sense_is_told_with_its_line_and_nothing_of_it_is_carried_out(line):
    program = assert_same_reading(f"G21 G90\nF600\nG0 X1 Y1\nG1 X2\n{line}\nX7\n")
    assert [c.line for c in program.complaints][0] == 5 and 5 not in program.line


def test_what_moves_nothing_is_a_care_with_its_line():
    text = "O1234\nG21 G90 F500 S9000\nN1 N2 G0 X1\nG4 P-2\nG4\nS-5\nF100 F200\nM30\n%\n\n(that is all)\nG1 X5\nX6\n"
    program = assert_same_reading(text)
    assert not program.complaints and program.dwell == 0.0 and len(program.moves) == 1
    assert [c.line for c in program.cares] == [1, 3, 4, 5, 6, 7, 12]
    assert "nor 1 more" in program.cares[-1].reason
    closed = assert_same_reading("%\nG21 G0 X1\n%\nG0 X2\n")
    assert len(closed.moves) == 1 and [c.line for c in closed.cares] == [4]
    assert len(assert_same_reading("%\n%\nG21 G0 X1\n").moves) == 1


def test_machine_coordinates_are_counted_from_home_in_the_program_s_units():
    program = assert_same_reading(
        "G20 G0 X1 Y1 Z1\nG53 G0 X-2 Z0\nG91 G53 G0 Y-0.5\n",
    )
    assert program.moves.points[-2].tolist() == [-50.8, 25.4, 100.0] and program.moves.points[-1].tolist() == [
        -50.8,
        -12.7,
        100.0,
    ]


def test_after_g80_no_motion_is_in_force():
    program = assert_same_reading("G21 G0 X1\nG80\nX5\nG1 F100 X6\nG80 X7\n")
    assert [(c.line, "before any" in c.reason) for c in program.complaints] == [(3, True), (5, False)]
    assert program.moves.points[-1, 0] == 6.0


@given(st.floats(0.5, 900), st.floats(0, 7), st.integers(1, 5), st.booleans(), st.booleans())
def test_half_circles_rounded_as_programs_write_them_are_read(r, way, decimals, inch, clockwise):
    """Both ends and the radius rounded to so many decimals: the chord may come out longer than twice the radius."""
    dx, dy = 2 * r * np.cos(way), 2 * r * np.sin(way)
    text = f"G{20 if inch else 21} G90 F600\nG0 X{0.1234567:.{decimals}f} Y0\nG1 Z0\nG{2 if clockwise else 3} X{0.1234567 + dx:.{decimals}f} Y{dy:.{decimals}f} R{r:.{decimals}f}\n"
    program = assert_same_reading(text)
    assert not program.complaints
    scale = 25.4 if inch else 1.0
    points = program.moves.points[program.line.tolist().index(4) :] / scale
    u = 10.0**-decimals
    middle = np.array([0.1234567 + dx / 2, dy / 2])
    # one of the two half circles' crowns, as near as the rounding of ends and radius lets a shallow centre wander
    crown = middle + r * np.array([-np.sin(way), np.cos(way)]) * (1 if clockwise else -1)
    assert passes(points[:, :2].tolist(), crown, 3 * u + np.sqrt(3 * u * r) + 0.003)


def test_a_radius_too_short_is_refused_with_the_amount():
    program = assert_same_reading("G21 G90 F600\nG0 X0 Y0\nG2 X10.000 Y0 R4.998\n")
    assert "0.0040 more than it spans" in program.complaints[0].reason
    assert not assert_same_reading("G21 G90 F600\nG0 X0 Y0\nG2 X10.000 Y0 R4.999\n").complaints
    assert "which is meant" in read("G21 G90 F600 G0 X0 Y0\nG2 X10 R5 I5\n").complaints[0].reason
    assert "ends agree" in read("G21 G90 F600 G0 X0 Y0\nG2 X0 Y0 R5\n").complaints[0].reason


def test_huge_arcs_are_refused_before_they_fill_the_memory(monkeypatch):
    monkeypatch.setattr("gatepost.core.program.plain.MOST_PIECES", 80_000)
    text = "G21 G90 F600\nG0 X0 Y0\n" + "G2 X0 Y0 I90000\n" * 500
    program = assert_same_reading(text)
    assert "pieces" in program.complaints[0].reason and len(program.moves) < 80_000
    assert (
        "further than" in assert_same_reading("G21 G90 F600\nG0 X0 Y0\nG2 X1 Y0 I0.5 J-2000000\n").complaints[0].reason
    )


def level_arcs():
    """A pass with arcs between straight cuts, as read, and the line of each move."""
    text = "G21 G90\nF600\nG0 X0 Y0 Z5\nG1 Z-1\nX20\nG2 X30 Y-10 J-10\nG1 Y-30\nG3 X50 Y-30 I10\nG1 X60\nG0 Z5\n"
    program = read(text, home=(0.0, 0.0, 40.0))
    assert not program.complaints and len(program.moves) > 60
    return program.moves, program.line.tolist()


def test_relative_moves_inches_and_comments_between():
    program = read("(a)G20 G0 X1 Y1 Z1\nG91 (b) G1 X1 F10 ; c\nX1\nG90 X0\n", home=(0, 0, 0))
    assert np.allclose(program.moves.points[1:, 0], [25.4, 50.8, 76.2, 0])
    assert program.comments == ("a", "b", "c") and program.moves.feed[1] == pytest.approx(254)


@pytest.mark.parametrize(
    ("text", "line", "words"),
    [
        ("G0 X0\nG5 X1", 2, "G5"),
        ("X1", 1, "before any"),
        ("G0 X0\nG1 X5", 2, "feed"),
        ("G0 X$4", 1, "not a word"),
        ("G0 X99999999", 1, "further than"),
        ("G0 X0\nG1 F100\nG2 X10 I1", 3, "centre"),
        ("G2 X10 R2 F100", 1, "radius"),
        ("G0 " + "X1" * 3000, 1, "characters"),
        ("G0 X1 A5", 1, "A5"),
        ("G1 X1 F0", 1, "feed"),
        ("M98 P1", 1, "M98"),
    ],
)
def test_hostile_programs_are_told_with_line_and_reason(text, line, words):
    complaint = read(text).complaints[0]
    assert complaint.line == line and words in complaint.reason


words_ = st.one_of(
    st.sampled_from(
        [
            "G0",
            "G1",
            "g1",
            "G01",
            "G2",
            "G3",
            "G4P1",
            "G17",
            "G20",
            "G21",
            "G53",
            "G54",
            "G90",
            "G91",
            "G94",
            "G5",
            "G1.5",
            "M3",
            "M5",
            "M6",
            "T2",
            "T7M6",
            "M98",
            "S12000",
            "F600",
            "F0",
            "F-3",
            "F1200.5",
            "(said)",
            "(open",
            ";rest",
            ";(a)b",
            "(",
            ")",
            "%",
            "%%",
            "N10",
            "N20.5",
            "X+",
            "X-",
            "X$",
            "é١",
            "G",
            "G-",
            "X1.2.3",
            "X.5",
            "X5.",
            "X.",
            "/1",
            "*3",
            "P2",
        ]
    ),
    st.builds(
        lambda letter, gap, value: f"{letter}{gap}{value}",
        st.sampled_from("XYZIJRxyz"),
        st.sampled_from(["", "", "", " ", "\t"]),
        st.one_of(
            st.decimals(-50, 50, places=4).map(str),
            st.integers(-20, 20).map(str),
            st.sampled_from(["1e5", "0.1234567890123456789", "100001", "-0", "+7.25", "000000000000000003", "1E400"]),
        ),
    ),
)
ends_ = st.sampled_from(["\n", "\n", "\r\n", "\r", "\n\n", "\x0b\n", " \t\n"])
programs_ = st.lists(st.tuples(st.lists(words_, max_size=7).map(" ".join), ends_), max_size=30).map(
    lambda lines: "".join(a + b for a, b in lines)
)


def assert_same_reading(text):
    """The compiled scanner and the plain reader say the same of a text."""
    fast, plain = read(text), read_plainly(text)
    assert fast.complaints == plain.complaints and fast.cares == plain.cares
    assert fast.comments == plain.comments and fast.tools == plain.tools
    assert (fast.spindle, fast.dwell, fast.units) == (plain.spindle, plain.dwell, plain.units)
    assert (fast.fingerprint, fast.barred) == (plain.fingerprint, plain.barred)
    assert np.array_equal(fast.line, plain.line) and np.array_equal(fast.moves.rapid, plain.moves.rapid)
    assert np.array_equal(fast.moves.feed, plain.moves.feed)
    # to the bit but for the pieces of arcs, whose sines may differ in the last place
    assert np.allclose(fast.moves.points, plain.moves.points, rtol=0, atol=1e-9)
    if not any(w in text.upper() for w in ("G2", "G02", "G3", "G03")):
        assert np.array_equal(fast.moves.points, plain.moves.points)
    return fast


@given(programs_)
def test_the_scanner_and_the_plain_reader_agree(text):
    assert_same_reading("F100 G0 X0\n" + text)
    assert_same_reading(text)


@given(st.text(alphabet="GMXYZIJRFST0123456789.-+()% \n\r;é\ud800\u2028", max_size=300))
def test_no_text_breaks_either_reader(text):
    program = assert_same_reading(text)
    assert np.isfinite(program.moves.points).all()
    assert len(program.line) == len(program.moves)


def test_long_programs_grow_through_comments_arcs_and_errors():
    text = PLAIN.replace("M30\n", "") + "".join(
        f"(pass {i})\nG1 X{i % 50} Y{i % 7}.5 F900\nG2 X{i % 50} Y{i % 7}.5 I10 (round)\n" for i in range(2500)
    )
    program = assert_same_reading(text)
    assert len(program.comments) == 5002 and len(program.moves) > 2500 * 100
    wrong = assert_same_reading("Q\n" * 2000)
    assert len(wrong.complaints) == MOST_COMPLAINTS + 1 and "nothing after" in wrong.complaints[-1].reason


def test_a_reading_can_be_called_off():
    asked = []
    with pytest.raises(Cancelled):
        read("G0 X1\nX2\n" * 300_000, ask=lambda: len(asked) == 2 or asked.append(1) or False)
    assert len(asked) == 2


def test_a_barred_program_says_so_first():
    text = barred_text(PLAIN, "C2 stands (badly) in the way", Dialect())
    assert text.startswith("(NOT TO BE RUN: C2 stands badly in the way)\n")
    assert read(text).barred == "C2 stands badly in the way"
