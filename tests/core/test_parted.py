# SPDX-License-Identifier: GPL-3.0-or-later
"""Files no larger than a control takes, its zero, its last word: the same cuts come out of all of them."""

import re
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gatepost.checks import program_complaints
from gatepost.core.errors import Cancelled, OperatorError
from gatepost.core.job import commands
from gatepost.core.motion import Moves
from gatepost.core.plan.imported import imported
from gatepost.core.plan.parted import part_files
from gatepost.core.plan.pipeline import plan
from gatepost.core.program.plain import read_plainly
from gatepost.core.program.read import read
from gatepost.core.program.split import places_up, shared
from gatepost.core.wood.field import cut, cutter_of
from gatepost.machine.standins.blocks import Modal, understand
from gatepost.outputs import write_all
from tests.conftest import tries


def of_dialect(job, **values):
    dialect = {**job.machine.dialect.model_dump(), **values}
    return commands.run(job, "set machine", {"dialect": dialect})


def parts_of(of, largest):
    """Each program's parts where files may have so many kB."""
    machine = of.job.machine
    dialect = machine.dialect.model_copy(update={"largest": largest})
    job = of.job.model_copy(update={"machine": machine.model_copy(update={"dialect": dialect})})
    small = replace(of, job=job)
    return small, [(s, p, part_files(small, s, p)) for s in of.setups for p in s.programs]


@given(largest=st.integers(2, 60))
@settings(max_examples=tries(12))
def test_parts_stand_alone_are_small_enough_and_cut_the_same_wood(lock7_plan, largest):
    _, parted = parts_of(lock7_plan, largest)
    for setup, program, parts in parted:
        home = tuple(float(v) for v in program.moves.points[0])
        wood = setup.start
        for other in setup.programs[: setup.programs.index(program)]:
            wood = cut(wood, setup.on_board(other.moves), cutter_of(other.tool)).after
        whole = cut(wood, setup.on_board(program.moves), cutter_of(program.tool)).after
        for part in parts:
            back = read(part.text, home=home)
            assert not back.complaints and len(part.text.encode()) <= max(
                largest * 1000, len(program.text) if len(parts) == 1 else 0
            )
            assert "M3" in part.text and part.text.rstrip().endswith("M30") and "G53 G0 Z0" in part.text
            swept = cut(wood, setup.on_board(back.moves), cutter_of(program.tool))
            assert not (swept.deepest[back.moves.rapid] > 0.02).any()
            wood = swept.after
        assert np.abs(wood.z - whole.z).max() < 1e-3
        assert (
            len({p.fingerprint for p in parts}) == len(parts) == int(parts[-1].name.split("-of-")[1].split(".")[0])
            if len(parts) > 1
            else parts[0].text == program.text
        )


def test_a_part_is_known_as_one_and_a_spoilt_one_is_not(lock7_plan, tmp_path):
    small, parted = parts_of(lock7_plan, 25)
    setup, program, parts = next(x for x in parted if len(x[2]) > 1)
    path = tmp_path / parts[1].name
    path.write_text(parts[1].text)
    assert not [c for c in program_complaints(path, None, small) if c["level"] == "stop"]
    path.write_text(parts[1].text.replace("G0 X", "G0 X1", 1))
    assert any(c["code"] in ("program.changed", "program.fingerprint") for c in program_complaints(path, None, small))


@pytest.mark.parametrize("offset", ["G54", "G57", "G59"])
@pytest.mark.parametrize("end", ["M30", "M2"])
def test_its_zero_its_last_word_and_its_first_words_are_the_control_s(quay, offset, end):
    made = plan(of_dialect(quay, offset=offset, end=end, lead_in="Boat shed (loose) bits"))
    program = made.setups[0].programs[0]
    lines = program.text.splitlines()
    assert offset in lines[:12] and lines[-1] == end and "(Boat shed loose bits)" in lines[:5]
    again = read_plainly(program.text, home=tuple(float(v) for v in program.moves.points[0]))
    assert not again.complaints and len(again.moves.points) == len(program.moves.points)
    modal = Modal()
    assert (
        understand(end, modal, (0.0, 0.0, 0.0)).kind == "end"
        and understand(offset, modal, (0.0, 0.0, 0.0)).kind == "nothing"
    )


def test_one_program_has_one_zero():
    for text in ("G54\nG1 X1 F100\nG55\nG1 X2\n", "G55\nG54\nG0 X1\n"):
        assert any("another zero" in c.reason for c in read(text).complaints)
    assert not read("G55\nG0 X1\nG55\nG1 X2 F100\n").complaints


def test_a_relief_that_never_comes_up_is_parted_in_its_cut_and_entered_from_above(quay_plan):
    rows = "".join(f"G1 Y{y} F1500\nX{20 if y % 2 else 120} Z{18.0 - 0.1 * y:.1f}\n" for y in range(10, 60))
    text = f"G21\nG90\nT2 M6\nS16000 M3\nG0 Z40\nG0 X20 Y10\nG1 Z18 F400\n{rows}G0 Z40\nM5\nM30\n"
    taken, _ = imported(quay_plan, "front", 2, "relief.nc", text)
    _, parted = parts_of(taken.plan, 1)
    setup, program, parts = next(x for x in parted if x[1].name == taken.program.name)
    assert len(parts) > 2
    home = tuple(float(v) for v in program.moves.points[0])
    wood = taken.wood
    for part in parts:
        back = read(part.text, home=home).moves
        first = int(np.argmax(~back.rapid))
        assert np.allclose(back.points[first, :2], back.points[first + 1, :2])
        assert part is parts[0] or back.feed[first] == pytest.approx(program.tool.plunge, abs=0.01)
        swept = cut(wood, setup.on_board(back), cutter_of(program.tool))
        assert not (swept.deepest[back.rapid] > 0.02).any()
        wood = swept.after
    assert np.abs(wood.z - taken.after.z).max() < 1e-3
    with pytest.raises(OperatorError, match="no cut at all"):
        shared(program.moves, lambda moves: "x" * (500 + len(moves.rapid)), 400, 300.0)


@given(st.lists(st.integers(5, 60), min_size=2, max_size=120), st.integers(200, 3000), st.data())
def test_no_file_could_have_held_the_next_way_too(sizes, largest, data):
    count = len(sizes)
    rapid = np.array(data.draw(st.lists(st.booleans(), min_size=count, max_size=count)))
    points = np.stack([np.arange(count + 1.0), np.zeros(count + 1), np.zeros(count + 1)], axis=1)
    moves = Moves(points, rapid, np.where(rapid, 0.0, 100.0))

    def size(begin, end):
        return 100 + sum(sizes[begin:end])

    def text(part):
        begin, end = int(part.points[-len(part.points) :, 0].min()), int(part.points[:, 0].max())
        return f"{begin}-{end} ".ljust(size(begin, end))

    parts = [tuple(int(n) for n in t.split()[0].split("-")) for t in shared(moves, text, largest, 100.0)]
    up = {*places_up(moves), count}
    assert parts[0][0] == 0 and parts[-1][1] == count and all(a[1] == b[0] for a, b in zip(parts, parts[1:]))
    for begin, end in parts[:-1]:
        ways = [e for e in up if e > begin and size(begin, e) <= largest]
        assert size(begin, end) <= largest
        assert end == max(ways) if ways else size(begin, end + 1) > largest


def test_sharing_out_tells_how_far_it_is_and_leaves_nothing_where_it_is_called_off(lock7_plan, tmp_path):
    machine = lock7_plan.job.machine
    dialect = machine.dialect.model_copy(update={"largest": 10})
    job = lock7_plan.job.model_copy(update={"machine": machine.model_copy(update={"dialect": dialect})})
    small, told = replace(lock7_plan, job=job), []

    def off(share):
        told.append(share)
        if share > 0.4:
            raise Cancelled("write")

    with pytest.raises(Cancelled):
        write_all(small, tmp_path, pictures=False, on=off)
    assert told == sorted(told) and 0.4 < told[-1] < 1.0 and not list(tmp_path.iterdir())


@pytest.mark.parametrize("largest", [0, 2, 20])
def test_the_step_tells_of_how_many_files_a_large_program_is_at_least(quay, largest):
    made = plan(of_dialect(quay, largest=largest))
    setup = made.setups[0]
    for step in (s for s in setup.steps if s.kind == "run"):
        count = len(part_files(made, setup, made.program(step.program)))
        said = re.search(r"its files, (\d+) or more", step.detail)
        assert bool(said) == (count > 1)
        assert said is None or count / 2 < int(said[1]) <= count
