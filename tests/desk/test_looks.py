# SPDX-License-Identifier: GPL-3.0-or-later
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QImage, QPainter

from gatepost.core.findings import Gate
from gatepost.desk.context.keys import COMMANDS
from gatepost.desk.context.stages import STAGES
from gatepost.desk.pages.table import PAGES, entries
from gatepost.desk.slate.checks import unit_in_heads
from gatepost.desk.theme.table import PAIRS, ROLES, THEMES, TOOL_DASHES, TOOL_HUES, contrast
from gatepost.desk.view.labels import around, settled, taken_up
from gatepost.desk.view.paint import Brush, fitted
from gatepost.drawing.bed import bed
from gatepost.drawing.heights import heights
from gatepost.drawing.lanes import lanes
from gatepost.drawing.shapes import Shape


@pytest.mark.parametrize("theme", THEMES)
def test_every_pair_that_carries_words_can_be_read(theme):
    c = THEMES[theme]
    low = {pair: round(contrast(c[pair[0]], c[pair[1]]), 2) for pair in PAIRS if contrast(c[pair[0]], c[pair[1]]) < 4.5}
    assert not low


def test_known_contrasts():
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
    assert contrast("#777777", "#ffffff") == pytest.approx(4.48, abs=0.01)


def test_tools_are_told_by_hue_and_dash():
    assert len(set(TOOL_DASHES)) == len(TOOL_DASHES)
    assert all(len(set(h)) == len(h) == len(TOOL_DASHES) for h in TOOL_HUES.values())


@pytest.mark.parametrize("stage", ["blank", "surface", "hold", "zero", "carve", "tools", "run"])
@pytest.mark.parametrize("name", ["lock7_plan", "quay_plan"])
def test_every_drawing_has_only_known_roles_and_its_things_inside(stage, name, request):
    plan = request.getfixturevalue(name)
    for setup in plan.setups:
        for drawing in (bed(plan, setup.name, stage), heights(plan, setup.name, stage), lanes(plan)):
            assert drawing.shapes and {s.role for s in drawing.shapes} <= set(ROLES)
            x0, y0, x1, y1 = drawing.extents
            assert x0 < x1 and y0 < y1
        keys = {s.key for s in bed(plan, setup.name, stage).shapes if s.key}
        if stage != "blank":
            assert {f"hold:{h.name}" for h in setup.setup.holds} <= keys


@pytest.mark.parametrize("stage", ["blank", "surface", "hold", "zero", "carve", "tools", "run"])
@pytest.mark.parametrize("size", [(700, 370), (420, 150), (1300, 700)], ids=str)
@pytest.mark.parametrize("name", ["lock7_plan", "quay_plan"])
def test_no_words_lie_over_others_or_are_cut_off(stage, size, name, request, qapp):
    """Whole bed, board from near, heights and lanes; what belongs outside the frame is not looked at."""
    plan = request.getfixturevalue(name)
    room = QRectF(45, 45, *size)
    for setup in plan.setups:
        flat = bed(plan, setup.name, stage)
        near = replace(flat, extents=flat.close or flat.extents)
        for drawing, stretch in ((flat, False), (near, False), (heights(plan, setup.name, stage), True)):
            image = QImage(8, 8, QImage.Format.Format_RGB32)
            painter = QPainter(image)
            brush = Brush(painter, fitted(drawing, room, stretch), "light")
            words = [s for s in drawing.shapes if s.kind in ("text", "label")]
            rects = {s.text: r for s in words if (r := brush.place(drawing, room)[id(s)]) is not None}
            painter.end()
            inside = [around(s, r) for s in words if (r := brush.placed[id(s)]) is not None and room.intersects(r)]
            for i, rect in enumerate(inside):
                assert room.adjusted(-1, -1, 1, 1).contains(rect), rects
                assert not any(rect.intersects(other) for other in inside[:i]), rects
            if size[0] >= 700:  # on a usual screen nothing is left out
                assert len(rects) == len({s.text for s in words})


RECTS = st.tuples(
    st.sampled_from(["text", "label"]), st.sampled_from(["", "hold:C1"]), st.sampled_from(["centre", "left", "right"]),
    st.floats(-50, 450), st.floats(-50, 350), st.floats(4, 160), st.sampled_from([12.0, 16.0, 30.0]),
)  # fmt: skip


@given(st.lists(RECTS, max_size=25))
def test_wherever_words_are_meant_they_are_settled_apart_and_as_near_as_they_can(meant):
    room = QRectF(0, 0, 400, 300)
    shapes = [
        (s := Shape(kind, np.zeros((1, 2)), "muted", key, "x", align=align), taken_up(s, QPointF(x, y), wide, tall))
        for kind, key, align, x, y, wide, tall in meant
    ]
    found = settled(shapes, room)
    assert settled(shapes, room) == found and set(found) == set(range(len(shapes)))
    shown = []
    for i, (shape, words) in enumerate(shapes):
        rect = found[i]
        if rect is None:
            continue
        assert rect.size() == words.size()
        if room.contains(rect) or rect != words:
            shown.append((shape, around(shape, rect)))
    for i, (_, rect) in enumerate(shown):
        if room.contains(rect):
            assert not any(rect.intersects(o) for _, o in shown[:i] if room.contains(o))
    if len(shapes) == 1 and room.contains(around(*shapes[0])):
        assert found[0] == shapes[0][1]  # alone, and inside: where it was meant


def test_the_two_views_agree_about_every_hold(lock7_plan):
    setup = lock7_plan.setup("front")
    above = {
        s.key: s for s in bed(lock7_plan, "front", "hold").shapes if s.key.startswith("hold:") and s.role == "strap"
    }
    beside = [s for s in heights(lock7_plan, "front", "hold").shapes if s.key.startswith("hold:")]
    for hold in setup.setup.holds:
        x = above[f"hold:{hold.name}"].points[:, 0]
        spans = [(s.points[:, 0].min(), s.points[:, 0].max()) for s in beside if s.key == f"hold:{hold.name}"]
        assert any(a == pytest.approx(x.min()) and b == pytest.approx(x.max()) for a, b in spans)


@pytest.mark.parametrize("stage", PAGES)
def test_every_entry_s_command_takes_what_the_entry_gives(stage, lock7, window):
    from gatepost.core.job import commands

    for setup in ("surface", "front"):
        groups = entries(stage, lock7, setup)
        assert groups
        for group in groups:
            for row in group.rows:
                for entry in row.entries:
                    again = commands.run(lock7, entry.command, entry.values(entry.value))
                    if entry.command not in ("set line", "set zero"):
                        assert again == lock7, entry.label
            for act in group.acts:
                if act.command.startswith("window "):
                    window.build()
                    assert act.command.removeprefix("window ").partition(" ")[0] in window.context.acts
                    continue
                values = act.values(None)
                if values is not None:
                    assert commands.run(lock7, act.command, values) != lock7 or act.command == "set plate"


def test_keys_are_told_once_each_and_all_do_something(window):
    keys = [c.key for c in COMMANDS if c.key]
    assert len(set(keys)) == len(keys)
    window.build()
    assert {c.name for c in COMMANDS} <= set(window.context.acts)


def test_gates_have_shapes(qapp):
    assert len(STAGES) == 10
    from PyQt6.QtCore import QRectF
    from PyQt6.QtGui import QImage, QPainter

    from gatepost.desk.window.fence import draw_gate

    seen = set()
    grey = dict.fromkeys(THEMES["light"], "#404040")
    for gate in Gate:
        image = QImage(34, 30, QImage.Format.Format_RGB32)
        image.fill(0xFFFFFF)
        painter = QPainter(image)
        draw_gate(painter, QRectF(2, 2, 30, 26), gate, grey)
        painter.end()
        seen.add(bytes(image.constBits().asarray(image.sizeInBytes())))
    assert len(seen) == len(Gate)  # told apart without any colour


def test_a_table_tells_its_unit_once_over_the_column():
    rows = [
        ("side", "to the cut", "left", "of"),
        ("front", "30.5 mm", "–", "3 of 4"),
        ("back", "0.4 / 12 mm", "9 mm", "2 mm"),
    ]
    assert unit_in_heads(rows) == [
        ("side", "to the cut, mm", "left, mm", "of"), ("front", "30.5", "–", "3 of 4"), ("back", "0.4 / 12", "9", "2 mm"),
    ]  # fmt: skip
    assert unit_in_heads([("a", "b")]) == [("a", "b")]
