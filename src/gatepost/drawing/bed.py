# SPDX-License-Identifier: GPL-3.0-or-later
"""The bed from above, as shapes in bed coordinates."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from shapely import get_coordinates, union_all
from shapely.geometry import LineString, Polygon

from gatepost.core.blank.shape import polygon, ring
from gatepost.core.carve.lettering import CutLetter, Lettering
from gatepost.core.carve.paths import plate_outline, tabs
from gatepost.core.findings import Level
from gatepost.core.hold.solids import WALL, insert_places
from gatepost.core.plan.planned import PlannedCut, PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.surface.seat import THINNEST
from gatepost.core.units import show_length
from gatepost.core.wood.field import HeightField
from gatepost.core.wood.flaws import flaw_area
from gatepost.drawing import shade
from gatepost.drawing.shapes import Array, Drawing, Shape, area, box, dot, label, line, text

PATH_STAGES = {
    "surface": ("surface",),
    "hold": ("vcut", "cutout", "surface"),
    "carve": ("vcut", "cutout"),
    "tools": (),
    "run": (),
}


Shading = Callable[[HeightField], "shade.Pixels | None"]


def bed(
    plan: Plan, setup_name: str, stage: str, after: int = -1, at: tuple[float, float] | None = None, unit: str = "mm",
    shading: Shading = shade.shaded, photo: bytes = b"",
) -> Drawing:  # fmt: skip
    """The bed as a stage shows it. after: operations done (-1: as the stage wants it); at: where the tip is now, bed
    XY; shading: a field's picture, or nothing while it is not made yet: the board is plain then; photo: the squared-up
    one, as a file."""
    setup = plan.setup(setup_name) or plan.setups[-1]
    machine = plan.job.machine
    shapes: list[Shape] = [box(0, 0, machine.travel_x, machine.travel_y, "bed")]
    shapes += [line(np.array([[0, y], [machine.travel_x, y]]), "slot") for y in machine.slots]
    shapes += _lasting(plan)
    pictured = photo if stage == "blank" else b""
    if pictured:
        shapes += _photo(plan, setup, pictured)
    shapes += _wood(plan, setup, stage, after, shading, bool(pictured))
    if stage in ("surface", "hold", "carve"):
        shapes += _paths(
            setup, stage, with_rapids=stage == "carve" and after >= 0, only=_pass_lines(plan, setup, stage, after)
        )
    if stage in ("carve", "hold", "zero"):
        shapes += _art(plan, setup, stage)
    if stage == "blank":
        shapes += _corners(plan, setup)
    if stage in ("blank", "carve"):
        shapes += _flaws(plan, setup)
    shapes += _old_cuts(setup)
    if stage == "blank":
        shapes += _readings(plan, setup, unit)
    if stage != "blank":
        shapes += _holds(plan, setup)
    if stage == "hold":
        shapes += _bearing(plan, setup)
    if stage == "hold" and setup.unreached is not None:
        for part in getattr(setup.unreached, "geoms", [setup.unreached]):
            shapes += area(part, "unreached") + _hatch(part, 7.0, "unreached") if not part.is_empty else []
    if stage in ("zero", "hold", "tools", "run", "surface"):
        shapes += _zeros(plan, setup, stage)
    if stage in ("zero", "hold"):
        shapes += _touching(setup)
    if stage == "surface" and setup.first_face:
        shapes += _supports(plan, setup, unit)
    if stage == "tools":
        shapes += _spots(setup)
    shapes += _places(plan, setup, stage)
    if at is not None:
        shapes.append(dot(at[0], at[1], "tip", size=9.0))
    extents = (-20.0, -20.0, machine.travel_x + 20.0, machine.travel_y + 20.0)
    return Drawing(tuple(shapes), extents, "Bed", _subtitle(plan, setup, stage, after), close=_near_board(plan, setup))


ARROW = 26.0  # mm


def _bearing(plan: Plan, setup: PlannedSetup) -> list[Shape]:
    """What bears where, and which way: the patch that a hold presses with its drive shown as an arrow, a cross where it presses down; the
    supports that it lies on, where shims are under it."""
    out: list[Shape] = []
    kinds, work = plan.kinds.holds, setup.placed.to_bed.area(polygon(setup.blank))
    for hold in setup.setup.holds:
        kind = kinds[hold.kind]
        if kind.by not in ("top", "edge"):
            continue
        patch = kind.bearing(hold, work).intersection(work)
        if patch.is_empty or patch.geom_type != "Polygon":
            continue
        out.append(line(np.asarray(patch.exterior.coords), "bears"))
        x, y = kind.touch_point(hold)
        if kind.by == "top":
            out += [
                line(np.array([[x - 4, y - 4], [x + 4, y + 4]]), "bears-way"),
                line(np.array([[x - 4, y + 4], [x + 4, y - 4]]), "bears-way"),
            ]
            continue
        way = np.radians(hold.heading)
        along, side = np.array([np.cos(way), np.sin(way)]), np.array([-np.sin(way), np.cos(way)])
        tip = np.array([x, y]) + ARROW * along
        out += [
            line(np.array([[x, y], tip]), "bears-way"),
            line(np.array([tip - 8 * along + 5 * side, tip, tip - 8 * along - 5 * side]), "bears-way"),
        ]
    return out


def _near_board(plan: Plan, setup: PlannedSetup) -> tuple[float, float, float, float]:
    """The board, what holds it and a margin, bed coordinates."""
    boxes = [setup.placed.to_bed.area(polygon(setup.blank)).bounds, *(q.outline.bounds for q in setup.solids)]
    margin = 30.0
    return (
        min(b[0] for b in boxes) - margin,
        min(b[1] for b in boxes) - margin,
        max(b[2] for b in boxes) + margin,
        max(b[3] for b in boxes) + margin,
    )


def _subtitle(plan: Plan, setup: PlannedSetup, stage: str, after: int) -> str:
    words = f"{setup.name} setup · seen from above"
    if stage == "blank":
        return "front face up · calipers at the edge, heights of the top in boxes"
    if stage == "surface" and 0 < after <= len(setup.passes):
        return f"after pass {after} of {len(setup.passes)} · green is cut, amber is not reached yet"
    count = shown_count(setup, stage, after)
    if count > 0:
        return f"{words} · after {setup.operations[count - 1].name}"
    return words


def shown_count(setup: PlannedSetup, stage: str, after: int) -> int:
    """How many operations are shown as done. On the Surface page passes are counted, and operations are not."""
    if stage == "surface":
        return 0
    if after >= 0:
        return min(after, len(setup.operations))
    if stage == "tools" and setup.changes:  # the wood as it is when the first change comes
        return next(i for i, op in enumerate(setup.operations) if op.name == setup.changes[0].before)
    return len(setup.operations) if stage in ("carve", "run") else 0


def field_after(setup: PlannedSetup, count: int) -> HeightField:
    """The wood after so many operations."""
    return setup.operations[count - 1].after if count > 0 else setup.start


def _photo(plan: Plan, setup: PlannedSetup, data: bytes) -> list[Shape]:
    """The photo that the outline was traced in, squared up."""
    photo = plan.job.blank.photo
    if photo is None:
        return []
    return [Shape("image", _corners_of(setup, *photo.box), "picture", picture=data)]


def _corners_of(setup: PlannedSetup, x0: float, y0: float, x1: float, y1: float) -> Array:
    """Where a picture of the board lies on the bed: its corners front left, front right, back left."""
    return setup.placed.to_bed.array(np.array([[x0, y0], [x1, y0], [x0, y1]]))


def _wood(
    plan: Plan, setup: PlannedSetup, stage: str, after: int, shading: Shading, clear: bool = False
) -> list[Shape]:
    """The board. clear: only its edge and contours, over a photo."""
    blank, to_bed = setup.blank, setup.placed.to_bed
    corners = _corners_of(setup, *blank.box)
    edge = to_bed.array(ring(blank))
    edge = np.vstack([edge, edge[:1]])
    clip = None if blank.shape == "rectangle" else edge
    outline = Shape("area", edge, "wood-edge", "blank")
    if stage == "surface" and setup.top_map is not None and 0 < after <= len(setup.passes):
        pixels = shade.passed(setup.top_map, setup.passes[after - 1].z, setup.passes[-1].z)
        return [Shape("image", corners, "picture", pixels=pixels, clip=clip), outline]
    if stage in ("blank", "surface") and setup.top_grid is not None and after <= 0:
        x, y, z = (np.asarray(a) for a in setup.top_grid)
        out = (
            [outline]
            if clear
            else [
                Shape(
                    "image",
                    corners,
                    "picture",
                    pixels=shade.height_map(np.asarray(setup.top_map, np.float64)),
                    clip=clip,
                ),
                outline,
            ]
        )
        every = 0.5 if np.ptp(z) > 1.5 else 0.1 if np.ptp(z) > 0.2 else 0.02
        found = [p for _, pieces in shade.contours(x, y, z, every) for p in pieces]
        for some in range(0, len(found), AT_ONCE):
            out.append(Shape("lines", to_bed.array(np.vstack(found[some : some + AT_ONCE])), "contour", clip=clip))
        return out
    if clear:
        return [outline]
    field = field_after(setup, shown_count(setup, stage, after))
    pixels = shading(field)
    plain = Shape("area", edge, "wood-plain")
    return [plain if pixels is None else Shape("image", corners, "picture", pixels=pixels), outline]


def _pass_lines(plan: Plan, setup: PlannedSetup, stage: str, after: int) -> list[Shape] | None:
    """On the Surface page the lines of the pass shown alone; nothing where all are shown."""
    lines = setup.surfaced.lines
    if stage != "surface" or not setup.flattens or not 0 < after <= len(lines) or not setup.operations:
        return None
    op, to_bed = setup.operations[0], setup.placed.to_bed
    return [
        Shape(
            "line", to_bed.array(line[:, :2]), "cut-fine", f"op:{op.name}", index=op.tool.number, size=op.tool.diameter
        )
        for line in lines[after - 1][1]
    ]


def _paths(setup: PlannedSetup, stage: str, with_rapids: bool, only: list[Shape] | None = None) -> list[Shape]:
    out: list[Shape] = []
    if only is not None:
        return only
    for op in setup.operations:
        if op.kind in PATH_STAGES[stage]:
            out += _path(setup, op, with_rapids)
    return out


def _path(setup: PlannedSetup, op: PlannedCut, with_rapids: bool) -> list[Shape]:
    """An operation's centre line: cuts in runs, rapids thin. The deepest pass alone of those one above the other."""
    points = setup.placed.to_bed.array(op.moves.points[:, :2])
    rapid = op.moves.rapid
    breaks = np.nonzero(rapid[1:] != rapid[:-1])[0] + 1
    out: list[Shape] = []
    for start, end in zip(np.concatenate([[0], breaks]), np.concatenate([breaks, [len(rapid)]])):
        run = points[start : end + 1]
        if rapid[start]:
            if with_rapids:
                out.append(line(run, "rapid"))
        elif np.ptp(run, axis=0).max() > 1e-6:
            role = "cut-fine" if op.kind == "vcut" else "cut"
            out.append(Shape("line", run, role, f"op:{op.name}", index=op.tool.number, size=op.tool.diameter))
    return out


def letters_in(plan: Plan, setup: PlannedSetup) -> list[CutLetter]:
    """All letters that are cut in a setup, on its face as it is read."""
    told = (plan.made.get(o.id) for o in setup.setup.operations)
    return [letter for made in told if isinstance(made, Lettering) for letter in made.letters]


def _art(plan: Plan, setup: PlannedSetup, stage: str) -> list[Shape]:
    kinds = plan.kinds.operations
    done = [o for o in setup.setup.operations if kinds[o.kind].stage == "carve"]
    to_bed = setup.face_to_bed
    out: list[Shape] = []
    letters = letters_in(plan, setup)
    if stage != "carve":
        for letter in letters:
            out += area(to_bed.area(letter.outline()), "art")
    else:
        bad = {f.about for f in plan.report("carve").findings if f.about and f.stands}
        for letter in letters:
            if letter.name in bad:
                out += area(to_bed.area(letter.outline()), "art-bad", letter.name)
    for name, plate in ((o.id, p) for o in done if o.id in plan.made and (p := plan.job.plate(o)) is not None):
        edge = np.asarray(to_bed.area(plate_outline(plate)).exterior.coords)
        out += [Shape("line", edge, "plate", f"plate:{name}")]
        tool = next((t for t in plan.job.tools if t.number == plate.tool), None)
        if stage == "carve" and tool is not None:
            out += [dot(*to_bed.xy(t.x, t.y), "tab", f"tab:{i}", size=5) for i, t in enumerate(tabs(plate, tool))]
    return out


def _readings(plan: Plan, setup: PlannedSetup, unit: str) -> list[Shape]:
    out: list[Shape] = []
    odd = set(plan.thickness.odd)
    for i, r in enumerate(setup.blank.calipers):
        role = "reading-odd" if i in odd else ("reading-out" if r.keep is False else "reading")
        x, y = setup.at(r.x, r.y)
        out.append(dot(x, y, role, f"caliper:{r.id}", size=5))
        up = 1 if r.y > setup.blank.middle[1] else -1
        out.append(text(x, y + up * 26, show_length(r.thickness, unit), "reading-text"))
    tops = setup.blank.heights
    ends = {0, len(tops) - 1} if not tops else {
        min(range(len(tops)), key=lambda i: tops[i].z), max(range(len(tops)), key=lambda i: tops[i].z)
    }  # fmt: skip
    for i, h in enumerate(tops):
        if len(tops) <= LABELLED or i in ends:
            out.append(label(*setup.at(h.x, h.y), show_length(h.z, unit), "height", f"height:{h.id}"))
        else:
            out.append(dot(*setup.at(h.x, h.y), "reading-out", f"height:{h.id}", size=3.5))
    return out


AT_ONCE = 300  # pieces of contours in one shape: painting goes on between shapes
LABELLED = 24  # readings that each have their figure; of more, the highest and the lowest alone
FEW_CORNERS = 120  # of an outline, that can still be taken hold of one by one


def _corners(plan: Plan, setup: PlannedSetup) -> list[Shape]:
    """Corners of an outline, to be dragged, and the direction of the grain."""
    blank = setup.blank
    out: list[Shape] = []
    turn = np.radians(blank.grain + setup.placed.to_bed.turn)
    long = min(90.0, 0.2 * blank.across[0])
    x, y = setup.at(*blank.middle)
    way = np.array([np.cos(turn), np.sin(turn)])
    for side in (-9.0, 0.0, 9.0):
        middle = np.array([x, y]) + side * np.array([-way[1], way[0]])
        out.append(line(np.array([middle - long * way, middle + long * way]), "grain"))
    if blank.shape == "outline" and len(blank.outline) <= FEW_CORNERS:
        there = setup.carried.then(setup.placed.to_bed)
        out += [dot(*there.xy(*c), "corner", f"corner:{i}", size=4) for i, c in enumerate(plan.job.blank.outline)]
    return out


def _flaws(plan: Plan, setup: PlannedSetup) -> list[Shape]:
    """Flaws of either face as they lie under the face that is up."""
    out: list[Shape] = []
    for flaw in setup.blank.flaws:
        role = "flaw" if flaw.face == "front" else "flaw-under"
        key = f"flaw:{flaw.id}"
        ends = [setup.at(x, y) for x, y in flaw.ends]
        if len(ends) > 1:
            there = setup.placed.to_bed.area(flaw_area(flaw))
            out.append(line(np.asarray(there.exterior.coords), role, key))
            out += [Shape("ring", np.array([p]), role, k, size=4.0) for p, k in zip(ends, (key, f"{key}/to"))]
        else:
            out.append(Shape("ring", np.array(ends), role, key, size=max(flaw.size / 2.0, 4.0)))
        x, y = setup.at(*flaw.middle)
        out.append(text(x, y - flaw.size / 2.0 - 12.0, flaw.kind, "flaw-text", key=key))
    return out


def _supports(plan: Plan, setup: PlannedSetup, unit: str) -> list[Shape]:
    """Where shims go, each with its height where that is known."""
    seats = setup.surfaced.seats
    shims = seats.shimmed.shims if seats is not None and seats.shimmed is not None else ()
    out: list[Shape] = []
    for i, spot in enumerate(setup.blank.supports):
        shim = shims[i].height if shims else 0.0
        words = "support" if not shims else f"shim {show_length(shim, unit)}" if shim >= THINNEST else "no shim"
        out.append(label(*setup.at(spot.x, spot.y), words, "height", f"support:{spot.id}"))
    return out


def _holds(plan: Plan, setup: PlannedSetup) -> list[Shape]:
    bad = {f.about for f in plan.report("hold", setup.name).findings if f.level is Level.STOP and f.about}
    out: list[Shape] = []
    kinds = plan.kinds.holds
    for hold in setup.setup.holds:
        kind = kinds[hold.kind]
        if kind.by == "under":
            under = kind.covers(hold, [])
            role = "tape-bad" if hold.name in bad else "tape"
            out += area(under, role, f"hold:{hold.name}")
            out += _hatch(under, kind.hatch, role)
    for solid in sorted((s for s in setup.solids if s.look != WALL), key=lambda q: q.look.over):
        role = solid.look.role
        out += area(
            solid.outline, f"{role}-bad" if solid.hold in bad and role == "strap" else role, f"hold:{solid.hold}"
        )
    for name in dict.fromkeys(s.hold for s in setup.solids if s.look == WALL):
        frame = union_all([s.outline.buffer(1e-6) for s in setup.solids if s.hold == name])
        out += area(frame, WALL.role, f"hold:{name}")
    for hold in setup.setup.holds:
        kind = kinds[hold.kind]
        mine = [s for s in setup.solids if s.hold == hold.name]
        out += [line(get_coordinates(mark), "slot-dark") for mark in kind.marks(hold, mine)]
        role = "hold-bad-text" if hold.name in bad else "hold-text"
        out.append(text(*kind.name_at(hold), hold.name, role, key=f"hold:{hold.name}"))
    return out


def _hatch(outline: Polygon, every: float, role: str) -> list[Shape]:
    """Slanting lines over an area."""
    x0, y0, x1, y1 = outline.bounds
    out: list[Shape] = []
    for c in np.arange(x0 - (y1 - y0), x1, every):
        met = outline.intersection(LineString([(c, y0), (c + y1 - y0, y1)]))
        for part in getattr(met, "geoms", [met]):
            if part.geom_type == "LineString" and not part.is_empty:
                out.append(line(np.asarray(part.coords), f"{role}-hatch"))
    return out


def _lasting(plan: Plan) -> list[Shape]:
    """What stays on the bed from job to job: scars of earlier cuts and inserts."""
    bed_ = plan.job.machine.bed
    out = [
        Shape("line", np.asarray(scar.points[:1] + scar.points, np.float64).reshape(-1, 2), "scar", size=scar.width)
        for scar in bed_.scars
    ]
    return out + [dot(x, y, "insert", size=3.0) for x, y in insert_places(bed_)]


def _touching(setup: PlannedSetup) -> list[Shape]:
    """What is moved beside the board to find its zeros, and the room that plates want."""
    out: list[Shape] = []
    for run in setup.touching:
        points, wide = (
            np.asarray(run.moves.points)[:, :2],
            max(p.radius for p in run.parts if p.part in ("pin", "plate", "cutter")),
        )
        if run.name.startswith(("touching", "squaring")):
            out += [line(points[[0, 2]], "rapid"), dot(*points[2], "rapid", size=2.0 * wide)]
        elif run.name.startswith("plate"):
            out.append(
                line(
                    np.array(
                        [
                            [points[0, 0] + wide * np.cos(t), points[0, 1] + wide * np.sin(t)]
                            for t in np.linspace(0.0, 2.0 * np.pi, 33)
                        ]
                    ),
                    "rapid",
                )
            )
    return out


def _old_cuts(setup: PlannedSetup) -> list[Shape]:
    """What was cut in this board and is planned otherwise now."""
    out: list[Shape] = []
    for cut in setup.old_cuts:
        x0, y0, x1, y1 = cut.box
        ring = np.array([setup.at(x, y) for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0))])
        out += [line(ring, "flaw-under"), line(ring[[0, 2]], "flaw-under"), line(ring[[1, 3]], "flaw-under")]
        out.append(label(*setup.at(0.5 * (x0 + x1), y1), "cut before", "flaw-text"))
    return out


def _zeros(plan: Plan, setup: PlannedSetup, stage: str) -> list[Shape]:
    x, y = setup.placed.mark
    out = [
        line(np.array([[x, y + 34], [x, y]]), "zero", "zero"), line(np.array([[x, y], [x - 26, y - 20]]), "zero", "zero"),
        line(np.array([[x, y], [x + 26, y - 20]]), "zero", "zero"), label(x, y - 38, "X0 Y0", "zero-label", "zero"),
    ]  # fmt: skip
    if stage in ("zero", "tools") and setup.touches:
        first = next(iter(setup.touches.values()))
        out.append(Shape("ring", np.array([[first.x, first.y]]), "touch", "touch", size=12))
        out.append(text(first.x, first.y - 30, "touch Z", "touch-text"))
    return out


def _spots(setup: PlannedSetup) -> list[Shape]:
    out: list[Shape] = []
    for change in setup.changes:
        for letter, spot in zip("ABC", change.spots):
            out.append(
                label(
                    *setup.at(spot.x, spot.y),
                    letter,
                    "spot",
                    f"spot:{change.tool.number}:{letter}",
                )
            )
    return out


def _places(plan: Plan, setup: PlannedSetup, stage: str) -> list[Shape]:
    out: list[Shape] = []
    for f in plan.findings:
        if f.place is not None and f.setup in ("", setup.name) and f.stage == stage and f.level is Level.STOP:
            out.append(Shape("ring", np.array([[f.place.x, f.place.y]]), "bad", size=max(f.place.size, 30.0)))
    return out
