# SPDX-License-Identifier: GPL-3.0-or-later
import numpy as np
import pytest

from gatepost.core.carve.edits import outlines
from gatepost.core.errors import OperatorError, UnknownCommand
from gatepost.core.geometry.levels import packed
from gatepost.core.job import commands
from gatepost.core.job.tool_table import shipped_tools
from tests.core.pinned import RIMS

RIM = {**RIMS["True"], "setup": "stood", "operation": "cut-out-1"}
EACH = {
    "set finish": {"celsius": 17.0, "grits": (100, 150)},
    "set rates": {"hands": 31.0, "money": "marks"},
    "add tin": {"tin": {"id": "tar", "name": "boat tar", "does": "oil", "base": "oil"}},
    "set tin": {"tin": "primer", "recoat": 200.0},
    "remove tin": {"tin": "primer"},
    "add finish coat": {"tin": "primer", "where": "edges"},
    "set finish coat": {"coat": "coat-1", "count": 4},
    "remove finish coat": {"coat": "coat-2"},
    "finish coat earlier": {"coat": "coat-3"},
    "finish step done": {"step": "sand", "at": "2026-11-30T10:00:00", "work": "sand", "planned": 12.0, "minutes": 15.0},
    "finish step undone": {"step": "clean"},
    "finish another": {},
    "approve design": {"by": "Wyn", "at": "2026-11-30T10:00:00"},
    "take own times": {"own": ({"work": "sand", "factor": 1.3},)},
    "take coats": {
        "tins": ({"id": "oil", "name": "outdoor oil", "does": "oil", "base": "oil"},),
        "coats": ({"tin": "oil", "count": 3, "where": "all round"},),
    },
    "set job": {"name": "Another", "unit": "inch"},
    "set blank": {"length": 900.5},
    "set rim": {**RIM, "path": "M-30 -20L30 -20L30 20L-30 20Z", "wide": 60.0, "high": 40.0},
    "measure slot": {"setup": "stood", "opening": 52.1, "piece": 40.0},
    "add test slot": {"setup": "stood", "x": 30.0, "y": 40.0},
    "add pins": {"setup": "front"},
    "add mark": {"setup": "front", "x": 10.0, "y": 20.0},
    "set mark": {"setup": "front", "mark": "mark-1", "x": 12.0},
    "remove mark": {"setup": "front", "mark": "mark-2"},
    "marks from art": {"setup": "front"},
    "lay by photo": {"setup": "front", "x": 160.0, "y": 210.0, "degrees": 1.5, "first": 2.0},
    "set parts": {"parts": 16},
    "other face first": {},
    "mend lettering": {
        "setup": "stood",
        "art": "lettering",
        "x": 300.0,
        "y": 90.0,
        "turn": 0.0,
        "width": 200.0,
        "height": 60.0,
        "corner": 3.0,
        "depth": 6.0,
        "tool": 2,
    },
    "cut again": {"setup": "front", "art": "lettering"},
    "add size": {"title": "width", "nominal": 120.0},
    "set size": {"size": "size-1", "within": 0.1},
    "remove size": {"size": "size-1"},
    "sizes from job": {},
    "set part": {"part": 2, "size": "size-1", "value": 34.1},
    "keep first part": {"nest": "Nest 1", "at": "2026-11-02"},
    "add look": {"setup": "front", "x": 10.0, "y": 20.0},
    "set look": {"setup": "front", "look": "look-1", "x": 12.0},
    "remove look": {"setup": "front", "look": "look-1"},
    "looks from art": {"setup": "front"},
    "add ring": {"setup": "front", "of": "dowels"},
    "set ring": {"setup": "stood", "wide": 3.0, "limit": 0.2},
    "remove ring": {"setup": "stood"},
    "set wood": {"kind": "hard"},
    "add caliper": {"x": 1.0, "y": 2.0, "thickness": 33.0},
    "set caliper": {"caliper": "caliper-2", "keep": False},
    "remove caliper": {"caliper": "caliper-1"},
    "add height": {"x": 5.0, "y": 6.0, "z": 34.0},
    "set height": {"height": "height-3", "z": 36.0},
    "remove height": {"height": "height-4"},
    "add gap": {"x": 5.0, "y": 6.0, "z": 0.4},
    "set gap": {"gap": "gap-1", "z": 0.71},
    "remove gap": {"gap": "gap-1"},
    "add support": {"x": 80.0, "y": 30.0},
    "set support": {"support": "support-2", "x": 90.0},
    "remove support": {"support": "support-1"},
    "set outline": {"points": ((10.0, 0.0), (900.0, 5.0), (880.0, 300.0), (0.0, 310.0)), "doubt": 0.8},
    "set corner": {"at": (912.0, 0.0), "x": 905.0, "y": 2.0},
    "add corner": {"x": 400.0, "y": -3.0},
    "remove corner": {"at": (450.5, 329.0)},
    "add flaw": {"kind": "knot", "x": 50.0, "y": 60.0},
    "set flaw": {"flaw": "flaw-2", "depth": 4.0},
    "remove flaw": {"flaw": "flaw-1"},
    "add coat": {"name": "primer", "thickness": 0.05},
    "set coat": {"coat": "coat-1", "thickness": 0.2},
    "remove coat": {"coat": "coat-3"},
    "add saw cut": {"size": "width", "to": 320.0},
    "set saw cut": {"saw_cut": "saw-cut-1", "to": 915.0},
    "remove saw cut": {"saw_cut": "saw-cut-2"},
    "set stock": {"length": 1200.0, "width": 340.0, "thickness": 40.0},
    "set batch": {"tolerance": 0.2},
    "set pieces": {"rows": (("a", 100.0, 50.0, 12.0), ("b", 101.0, 50.2, 12.1))},
    "set heights": {"face": "top", "rows": ((1.0, 2.0, 34.0), (800.0, 2.0, 34.5), (400.0, 300.0, 33.9))},
    "set surfacing": {"limit": 0.7},
    "set second face": {"turn": "about Y"},
    "place blank": {"setup": "front", "x": 170.0, "y": 130.0},
    "add hold": {"setup": "front", "kind": "edge", "x": 300.0, "y": 141.0, "heading": 90.0},
    "set hold": {"setup": "front", "hold": "C2", "packing": 36.0},
    "copy hold": {"setup": "front", "hold": "C1", "dx": 80.0, "dy": 0.0},
    "mirror hold": {"setup": "front", "hold": "C1", "across": "X"},
    "set holds": {"setup": "front", "holds": ({"name": "S1", "kind": "screw", "x": 200.0, "y": 220.0},)},
    "set holding": {"friction": 0.3},
    "set bed": {"skimmed": "2026-11-02", "blocks": (12.0, 18.0)},
    "add to bed": {"what": "fences", "values": {"name": "Fence 1", "x": 100.0, "y": 60.0}},
    "set on bed": {"what": "nests", "name": "Nest 1", "values": {"length": 330.0}},
    "take off bed": {"what": "inserts", "name": "Inserts 1"},
    "remove hold": {"setup": "front", "hold": "C3"},
    "set zero": {"setup": "front", "xy": "front left"},
    "set skew": {"setup": "front", "degrees": 0.4},
    "set touch": {"setup": "front", "tool": 2, "x": 30.0, "y": 30.0},
    "set carving": {"margin": 21.0},
    "add line": {"height": 20.0, **outlines("Boat shed", "Serif")},
    "add lettering": {"setup": "front", "height": 20.0, "x": 300.0, **outlines("Boat shed", "Serif")},
    "set line": {"line": "line-1", **outlines("QUAY", "Slab")},
    "remove line": {"line": "line-2"},
    "scale lettering": {"factor": 0.9},
    "set plate": {"corner": 12.0},
    "flat floor": {"operation": "lettering", "depth": 3.0},
    "cut first": {"operation": "lettering", "then": "cut-out"},
    "add behind": {"setup": "front", "kind": "screws", "long": 5.0},
    "cut letters through": {"operation": "mark", "bridge": 4.0},
    "cut out drawing": {"art": "mark"},
    "cut out holes": {"operation": "cut-out-1", "holes": ((1, 2),)},
    "resize art": {"art": "plate", "across": 1.1, "up": 0.9},
    "keep design": {"title": "Another"},
    "take design": {"design": "design-1"},
    "rename design": {"title": "The long one"},
    "remove design": {"design": "design-1"},
    "words read": {"words": "ab12"},
    "copy art": {"art": "plate"},
    "size art": {"art": "plate", "width": 80.0},
    "add drawing": {"setup": "front", "path": "M0 0L4 0L4 4Z", "wide": 4.0, "high": 4.0},
    "add gouged ground": {"setup": "front", "cleared": 1.0},
    "add holes": {"setup": "front", "across": 6.0},
    "add engraved line": {"setup": "front", "sunk": 1.5},
    "engrave lettering": {"operation": "lettering", "sunk": 1.4},
    "add relief": {
        "setup": "front",
        "columns": 2,
        "rows": 2,
        "grid": packed(np.array([[1, 9], [7, 65535]], np.uint16)),
        "width": 20.0,
        "height": 20.0,
    },
    "add ground": {"setup": "front", "depth": 2.0},
    "add recess": {"setup": "front", "width": 60.0, "depth": 4.0},
    "add tool": {"tool": shipped_tools()[0].model_copy(update={"number": 9})},
    "set tool": {"number": 2, "feed": 2000.0},
    "remove tool": {"number": 3},
    "set machine": {"change_minutes": 6.0},
    "set order": {"order": ("cut-out",)},
    "accept": {"code": "a.b", "setup": "front", "inputs": "x", "reason": "tried it", "at": "2026-01-01"},
    "take back": {"code": "a.b", "setup": "front"},
    "add setup": {"up": "back"},
    "set setup": {"setup": "front", "title": "The face"},
    "set register": {"setup": "front", "kind": "as it lies"},
    "set copies": {"setup": "front", "copies": ({"x": 10.0, "y": 20.0},)},
    "set series": {"rows": ({"values": {"name": "Lock 7"}}, {"values": {"name": "Lock 8"}})},
    "copy setup": {"setup": "front"},
    "remove setup": {"setup": "surface"},
    "order setups": {"order": ("front", "surface", "stood")},
    "add operation": {"setup": "front", "kind": "vcut", "on": ("lettering",)},
    "set operation": {"operation": "cut-out", "tabs": 5},
    "remove operation": {"operation": "lettering"},
    "add art": {"kind": "plate", "width": 40.0, "height": 30.0},
    "set art": {"art": "plate", "x": 300.0},
    "remove art": {"art": "plate"},
}


@pytest.fixture
def full(lock7):
    """The Lock 7 board with something in every list."""
    job = commands.run(lock7, "keep design", {"title": "With a mark"})
    for x in (10.0, 20.0, 30.0):
        job = commands.run(job, "add gap", {"x": x, "y": 5.0, "z": 0.1})
        job = commands.run(job, "add support", {"x": x, "y": 5.0})
        job = commands.run(job, "add flaw", {"kind": "bark", "x": x, "y": 40.0})
        job = commands.run(job, "add coat", {"name": f"coat {x:.0f}"})
        job = commands.run(job, "add saw cut", {"size": "length", "to": 920.0 - x})
    for step in ("run", "clean", "sand"):
        job = commands.run(job, "finish step done", {"step": step, "at": "2026-11-30T09:00:00"})
    job = commands.run(
        job, "add drawing", {"setup": "front", "path": "M0 0L4 0L4 4Z", "wide": 4.0, "high": 4.0, "id": "mark"}
    )
    ring = "M0 0L60 0L60 60L0 60ZM20 20L40 20L40 40L20 40Z"
    job = commands.run(job, "add drawing", {"setup": "front", "path": ring, "wide": 60.0, "high": 60.0, "id": "ring"})
    job = commands.run(job, "cut out drawing", {"art": "ring"})
    job = commands.run(job, "add art", {"kind": "holes", "id": "dowels", "x": 200.0, "y": 60.0, "number": 2})
    for x in (100.0, 800.0):
        job = commands.run(job, "add mark", {"setup": "front", "x": x, "y": 50.0})
    job = commands.run(job, "add setup", {"id": "stood", "up": "back"})
    job = commands.run(job, "set rim", RIM)
    job = commands.run(job, "add ring", {"setup": "stood", "of": "dowels"})
    job = commands.run(job, "add look", {"setup": "front", "x": 300.0, "y": 50.0})
    job = commands.run(job, "add size", {"title": "thickness", "nominal": 34.0})
    job = commands.run(job, "set part", {"part": 1, "size": "size-1", "value": 34.05})
    nest = {"name": "Nest 1", "x": 50.0, "y": 50.0, "length": 320.0, "width": 120.0}
    job = commands.run(job, "add to bed", {"what": "nests", "values": nest})
    job = commands.run(job, "add to bed", {"what": "inserts", "values": {"x": 600.0, "y": 350.0, "columns": 2}})
    job = commands.run(job, "set outline", {"points": ((0, 0), (912, 0), (912, 318), (450, 330), (0, 318))})
    return job


def test_the_table_is_covered_here():
    assert set(EACH) == set(commands.TABLE)


@pytest.mark.parametrize("name", sorted(EACH))
def test_each_command_does_something_and_undoes_to_an_equal_job(name, full):
    first = {"take back": ("accept", EACH["accept"]), "other face first": ("set register", {"setup": "stood"})}
    job = commands.run(full, *first[name]) if name in first else full
    before = job.model_dump_json()
    after = commands.run(job, name, EACH[name])
    assert after != job
    assert job.model_dump_json() == before  # the job before is what undo puts back
    assert commands.run(job, name, EACH[name]) == after


REFUSED = [
    ("set blank", {"length": -3.0}),
    ("set blank", {"length": float("nan")}),
    ("set blank", {"colour": "red"}),
    ("set caliper", {"caliper": "caliper-78", "x": 0.0}),
    ("set hold", {"setup": "front", "hold": "C9", "x": 1.0}),
    ("set hold", {"setup": "back", "hold": "C1", "x": 1.0}),
    ("set line", {"line": "line-1", "text": "no outlines"}),
    ("scale lettering", {"factor": 0.0}),
    ("set tool", {"number": 42, "feed": 1.0}),
    ("add tool", {"tool": shipped_tools()[0]}),
    ("accept", {"code": "a", "setup": "", "inputs": "", "reason": "  ", "at": ""}),
    ("set plate", {"tabs": 99}),
    ("remove line", {"line": "line-6"}),
    ("set heights", {"face": "side", "rows": ()}),
    ("set heights", {"face": "top", "rows": ((1.0, 2.0, -3.0),)}),
    ("remove support", {"support": "support-1"}),
    ("set machine", {"travel_x": 0.0}),
    ("set holding", {"friction": 0.0}),
    ("set hold", {"setup": "front", "hold": "C1", "nose": 0.0}),
    ("add to bed", {"what": "chairs", "values": {}}),
    ("add to bed", {"what": "nests", "values": {"name": "Nest 1", "x": 0.0, "y": 0.0, "length": 0.0, "width": 9.0}}),
    ("set on bed", {"what": "fences", "name": "Rail", "values": {"x": 1.0}}),
    ("set register", {"setup": "front", "kind": "thrown"}),
    ("set register", {"setup": "front", "kind": "turned", "about": "X"}),
    ("set copies", {"setup": "front", "copies": ({"x": 1.0, "y": 2.0, "row": "row-9"},)}),
    ("set series", {"rows": ({"id": "a", "values": {}}, {"id": "a", "values": {}})}),
    ("set on bed", {"what": "scars", "name": "", "values": {}}),
    ("set corner", {"at": (500.0, 500.0), "x": 1.0, "y": 1.0}),
    ("mirror hold", {"setup": "front", "hold": "C1", "across": "Z"}),
    ("add ring", {"setup": "front", "of": "plate"}),
    ("set ring", {"setup": "front", "wide": 3.0}),
    ("remove ring", {"setup": "front"}),
    ("lay by photo", {"setup": "front", "x": 1.0, "y": 1.0, "degrees": 0.0, "first": 1.0}),
    ("set parts", {"parts": 0}),
    ("other face first", {}),
    ("cut again", {"setup": "front", "art": "plate"}),
    ("cut again", {"setup": "front", "art": "lettering", "tool": 2}),
    ("set part", {"part": 1, "size": "size-9", "value": 1.0}),
    ("keep first part", {"nest": "Nest 1", "at": "2026-11-02"}),
    ("remove look", {"setup": "front", "look": "look-9"}),
    ("set holds", {"setup": "front", "holds": ({"name": "A", "kind": "screw", "x": 0, "y": 0},) * 2}),
]


@pytest.mark.parametrize(("name", "values"), REFUSED)
def test_what_can_t_be_done_is_refused_with_a_sentence(name, values, lock7):
    with pytest.raises(OperatorError) as caught:
        commands.run(lock7, name, values)
    assert len(str(caught.value)) > 10 and str(caught.value).endswith(".")


def test_unknown_commands_and_values_are_our_mistakes(lock7):
    for name, values in (("paint it", {}), ("remove line", {"number": 1})):
        with pytest.raises(UnknownCommand):
            commands.run(lock7, name, values)


def test_what_holds_the_blank_goes_along_with_it(lock7):
    old = lock7.setup("front")
    new = commands.run(lock7, "place blank", {"setup": "front", "x": old.x + 7, "y": old.y - 3}).setup("front")
    assert [(h.x - g.x, h.y - g.y) for h, g in zip(new.holds, old.holds)] == [(7, -3)] * len(old.holds)
