# SPDX-License-Identifier: GPL-3.0-or-later
"""The Blank page."""

from __future__ import annotations

from typing import Any

from gatepost.core.job.blank import Flaw
from gatepost.core.job.model import Job
from gatepost.core.plan.kinds import Kinds
from gatepost.desk.pages.entries import Group, PageEntry, PageRow, act, single

KINDS = (("soft", "soft"), ("medium", "medium"), ("hard", "hard"))
ROCKS = (("not tried", None), ("still", False), ("rocks", True))


SHAPES = (("rectangle", "rectangle"), ("round", "round"), ("oval", "oval"), ("any outline", "outline"))
CLASSES = (("trial piece", "trial"), ("sign", "sign"), ("heirloom", "heirloom"))
YES = (("yes", True), ("no", False))
ASKED = (("not asked yet", None), ("new wood", False), ("old wood or work", True))
FOUND = (("not looked yet", None), ("none", False), ("found", True))
FACES = (("front", "front"), ("back", "back"))
EITHER = (("either", "either"), *FACES)
FLAWS = (("crack", "crack"), ("knot", "knot"), ("bark", "bark"), ("hole", "hole"))
SIZES = (("length", "length"), ("width", "width"), ("thickness", "thickness"))
BATCH = (("fewest groups", "fewest groups"), ("trim to smallest", "trim all to the smallest"))


def page(job: Job, setup: str, kinds: Kinds) -> tuple[Group, ...]:
    """Size, shape, wood, readings, flaws, coats, cut list and batch."""
    b = job.blank
    board = Group(
        "Board",
        (
            single("Job", "words", job.name, "set job", "name"),
            single("Shape", "choice", b.shape, "set blank", "shape", SHAPES),
            single("Length", "length", b.across[0], "set blank", "length"),
            single("Width", "length", b.across[1], "set blank", "width"),
            single("Thickness as sold", "length", b.label_thickness, "set blank", "label_thickness"),
            single("Wood", "words", job.wood.name, "set wood", "name"),
            single("How hard to cut", "choice", job.wood.kind, "set wood", "kind", KINDS),
            single("Gap under a straightedge along it", "length", b.bow, "set blank", "bow"),
            single("Does it rock on a flat surface?", "choice", b.rocks, "set blank", "rocks", ROCKS),
            single("Quality wanted", "choice", job.tolerance, "set job", "tolerance", CLASSES),
            single("The only piece you have?", "choice", job.irreplaceable, "set job", "irreplaceable", YES),
        ),
        acts=(
            act("Outline from an overhead photo…", "window photo"),
            act("Outline from an SVG or DXF file…", "window outline_file"),
            act("Outline from a table of places…", "window corners_table"),
            act("Outline from the clipboard", "window paste_corners"),
            act("Choose the wood from the shop's table…", "window wood"),
            act("Offcuts on the shelf that would do…", "window offcuts"),
        ),
    )
    return (
        board,
        _calipers(job),
        _heights(job),
        _under(job),
        _wood(job),
        *_outline(job),
        _flaws(job),
        _coats(job),
        *_making(job),
    )


def _wood(job: Job) -> Group:
    b = job.blank
    one, two = b.diagonals or (0.0, 0.0)
    rows = [
        single("Old wood?", "choice", b.reclaimed, "set blank", "reclaimed", ASKED),
        *(
            [
                single("Metal", "choice", b.metal, "set blank", "metal", FOUND),
                single("Old paint", "choice", b.old_paint, "set blank", "old_paint", FOUND),
                single("Green, tarred, treated", "choice", b.treated, "set blank", "treated", FOUND),
            ]
            if b.reclaimed
            else []
        ),
        single("Grain runs, degrees from X", "number", b.grain, "set blank", "grain"),
        single("Good face", "choice", b.good_face, "set blank", "good_face", EITHER),
        PageRow((PageEntry("Moisture, per cent", "number", b.moisture or 0.0, "set blank", lambda v: {"moisture": v or None}),), "Moisture, per cent"),
        single("Moisture taken on", "words", b.moisture_taken, "set blank", "moisture_taken"),
        PageRow((PageEntry("Diagonal, front left", "length", one, "set blank", lambda v: {"diagonals": (v, two or v) if v else None}),), "Diagonal from front left"),
        PageRow((PageEntry("Diagonal, front right", "length", two, "set blank", lambda v: {"diagonals": (one or v, v) if v else None}),), "Diagonal from front right"),
    ]  # fmt: skip
    return Group("The wood", tuple(rows))


def _outline(job: Job) -> tuple[Group, ...]:
    b = job.blank
    if b.shape != "outline":
        return ()
    rows = [single("± of the outline", "length", b.doubt, "set blank", "doubt")]
    if len(b.outline) > MANY:
        return (Group(f"Outline, {len(b.outline)} corners: drag them on the bed", tuple(rows)),)
    table = tuple(
        PageRow(
            (_field("X", "set corner", "x", x, at=(x, y), y=y), _field("Y", "set corner", "y", y, at=(x, y), x=x)), str(i + 1),
            act("Take corner away", "remove corner", at=(x, y)),
        )
        for i, (x, y) in enumerate(b.outline)
    )  # fmt: skip
    (ax, ay), (bx, by) = b.outline[-1], b.outline[0]
    button = act("Add a corner", "add corner", x=(ax + bx) / 2, y=(ay + by) / 2)
    return Group("Outline", tuple(rows)), Group("Corners", table, ("X", "Y"), (button,))


def _flaws(job: Job) -> Group:
    b = job.blank
    rows = tuple(
        PageRow(
            (
                PageEntry("Kind", "choice", f.kind, "set flaw", lambda v, i=f.id: {"flaw": i, "kind": v}, FLAWS),
                _field("X", "set flaw", "x", f.x, flaw=f.id), _field("Y", "set flaw", "y", f.y, flaw=f.id),
                _end("to X", f, 0), _end("to Y", f, 1),
                _field("Across", "set flaw", "size", f.size, flaw=f.id),
                PageEntry("Depth", "length", f.depth or 0.0, "set flaw", lambda v, i=f.id: {"flaw": i, "depth": v or None}),
                PageEntry("Face", "choice", f.face, "set flaw", lambda v, i=f.id: {"flaw": i, "face": v}, FACES),
            ),
            str(i + 1), act("Take flaw away", "remove flaw", flaw=f.id),
        )
        for i, f in enumerate(b.flaws)
    )  # fmt: skip
    button = act("Add a flaw", "add flaw", x=round(b.middle[0]), y=round(b.middle[1]), size=20.0)
    return Group(
        "Flaws, either face as seen from above",
        rows,
        ("kind", "X", "Y", "to X", "to Y", "across", "depth", "face"),
        (button,),
        folds=4,
    )


def _end(label: str, f: Flaw, axis: int) -> PageEntry:
    """A figure of a flaw's other end, which is its first until one of the two is typed."""
    now = f.ends[-1]

    def values(v: float) -> dict[str, Any]:
        if v == now[axis]:
            return {"flaw": f.id}
        to = (v, now[1]) if axis == 0 else (now[0], v)
        return {"flaw": f.id, "to_x": to[0], "to_y": to[1]}

    return PageEntry(label, "length", now[axis], "set flaw", values)


def _coats(job: Job) -> Group:
    rows = tuple(
        PageRow(
            (
                PageEntry("Coat", "words", c.name, "set coat", lambda v, i=c.id: {"coat": i, "name": v}),
                _field("Film", "set coat", "thickness", c.thickness, coat=c.id),
                PageEntry("Face", "choice", c.face, "set coat", lambda v, i=c.id: {"coat": i, "face": v}, FACES),
            ),
            str(i + 1), act("Take coat away", "remove coat", coat=c.id),
        )
        for i, c in enumerate(job.blank.coats)
    )  # fmt: skip
    return Group(
        "Coats on it before carving", rows, ("coat", "film", "face"), (act("Add a coat", "add coat", name="primer"),)
    )


def _making(job: Job) -> tuple[Group, ...]:
    """The cut list and the batch, where there are any."""
    b = job.blank
    if b.stock is None:
        stock: tuple[Group, ...] = (Group("Cut list", (), (), (act("Sawn from rough stock", "set stock"),)),)
    else:
        sizes = Group(
            "Sawn from",
            (
                single("Stock length", "length", b.stock.length, "set stock", "length"),
                single("Stock width", "length", b.stock.width, "set stock", "width"),
                single("Stock thickness", "length", b.stock.thickness, "set stock", "thickness"),
                single("Saw's kerf", "length", b.stock.kerf, "set stock", "kerf"),
            ),
        )
        rows = tuple(
            PageRow(
                (
                    PageEntry("Size", "choice", c.size, "set saw cut", lambda v, i=c.id: {"saw_cut": i, "size": v}, SIZES),
                    _field("To", "set saw cut", "to", c.to, saw_cut=c.id),
                    PageEntry("Keep the offcut as", "words", c.keep, "set saw cut", lambda v, i=c.id: {"saw_cut": i, "keep": v}),
                ),
                str(i + 1), act("Take cut away", "remove saw cut", saw_cut=c.id),
            )
            for i, c in enumerate(b.saw_cuts)
        )  # fmt: skip
        acts = (
            act("Add a saw cut", "add saw cut", size="length", to=b.across[0]),
            act("Put named offcuts on the shelf", "window keep_offcuts"),
            act("No cut list", "set stock", present=False),
        )
        stock = (sizes, Group("Cut list", rows, ("what", "to", "keep offcut as"), acts))
    return *stock, *_batch(job)


def _batch(job: Job) -> tuple[Group, ...]:
    batch = job.blank.batch
    paste = act("Pieces from the clipboard", "window paste_pieces")
    table = act("Pieces from a table…", "window pieces_table")
    if batch is None:
        return (Group("Batch of pieces", (), (), (table, paste)),)
    return (
        Group(
            f"Batch of {len(batch.pieces)} pieces",
            (
                single("Way", "choice", batch.way, "set batch", "way", BATCH),
                single("Heights within", "length", batch.tolerance, "set batch", "tolerance"),
                single("Trimmed below the smallest", "length", batch.allowance, "set batch", "allowance"),
                single("Nest length", "length", batch.nest_length, "set batch", "nest_length"),
                single("Nest width", "length", batch.nest_width, "set batch", "nest_width"),
                single("Play at most", "length", batch.play, "set batch", "play"),
                single("May lie on any face", "choice", batch.any_face, "set batch", "any_face", YES),
            ),
            acts=(table, paste, act("No batch", "set batch", present=False)),
        ),
    )


MANY = 24  # corners that are still typed one by one


def _field(label: str, command: str, name: str, value: float, **fixed: Any) -> PageEntry:
    return PageEntry(label, "length", value, command, lambda v: {**fixed, name: v})


HEADS = {"thick": "Thickness"}
ROUND = ((0.05, 0.05), (0.5, 0.04), (0.95, 0.05), (0.95, 0.95), (0.5, 0.96), (0.05, 0.95))
OVER = (
    (0.03, 0.06), (0.97, 0.06), (0.97, 0.94), (0.03, 0.94), (0.5, 0.5), (0.5, 0.06), (0.97, 0.5), (0.5, 0.94), (0.03, 0.5),
)  # fmt: skip


def places(job: Job, title: str, what: str, items: tuple[Any, ...], third: tuple[str, str, float] | None, add: str,
           spots: tuple[tuple[float, float], ...]) -> Group:  # fmt: skip
    """A list of places on the board, each with a third figure (its name in the model, on screen, and the next one's).

    what: the thing's word in the commands; spots: where the next ones are put, as shares of length and width.
    """
    shown = () if len(items) > MANY and what in FACES_OF else items
    rows = tuple(
        PageRow(
            (
                _field("X", f"set {what}", "x", item.x, **{what: item.id}), _field("Y", f"set {what}", "y", item.y, **{what: item.id}),
                *((_field(third[1], f"set {what}", third[0], getattr(item, third[0]), **{what: item.id}),) if third else ()),
            ),
            str(i + 1), act(f"Take {what} away", f"remove {what}", **{what: item.id}),
        )
        for i, item in enumerate(shown)
    )  # fmt: skip
    at = job.blank.part(*spots[len(items) % len(spots)])
    more = {third[0]: third[2]} if third else {}
    button = (
        act(add, MEASURED[what])
        if what in MEASURED
        else act(add, f"add {what}", x=round(at[0]), y=round(at[1]), **more)
    )
    if (
        len(items) > MANY and what in FACES_OF
    ):  # too many to type: they are dragged on the bed, or read from a table again
        away = act(f"Take all {len(items)} away", "set heights", face=FACES_OF[what], rows=())
        return Group(f"{title}: {len(items)}, on the bed", (), (), (button, away))
    return Group(title, rows, ("X", "Y", *((HEADS.get(third[1], third[1].capitalize()),) if third else ())), (button,))


MEASURED = {
    "caliper": "window measure",
    "height": "window measure_heights",
    "gap": "window measure_gaps",
}  # typed on the bed
FACES_OF = {"height": "top", "gap": "under"}


def _calipers(job: Job) -> Group:
    last = job.blank.calipers[-1].thickness if job.blank.calipers else job.blank.label_thickness
    third = ("thickness", "thick", last)
    return places(job, "Calipers", "caliper", job.blank.calipers, third, "Measure round the edge", ROUND)


def _heights(job: Job) -> Group:
    last = job.blank.heights[-1].z if job.blank.heights else job.blank.label_thickness
    title = "Heights of the top, above the bed"
    return places(job, title, "height", job.blank.heights, ("z", "height", last), "Measure the top", OVER)


def _under(job: Job) -> Group:
    title = "Gaps under the board, above the bed"
    return places(job, title, "gap", job.blank.under, ("z", "gap", 0.0), "Measure the gaps under it", OVER)
