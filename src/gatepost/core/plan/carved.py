# SPDX-License-Identifier: GPL-3.0-or-later
"""What the Carve stage says, operation by operation."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from gatepost.core.carve.backwards import backwards
from gatepost.core.carve.cut_away import CarvedArea, Out, cut_away
from gatepost.core.carve.lettered import STAGE as CARVE
from gatepost.core.carve.lettering import Lettering
from gatepost.core.carve.painted import film_figure, film_on, paint_table
from gatepost.core.carve.paths import plate_outline
from gatepost.core.carve.report import no_text, other_face, series_waits
from gatepost.core.carve.sunk_report import LaidShape, SunkShape
from gatepost.core.carve.tenfold import tenfold
from gatepost.core.carve.together import cut_twice, holes_left, over_each_other, which_first
from gatepost.core.carve.two_reliefs import from_behind
from gatepost.core.carve.words import words_hash
from gatepost.core.findings import Figure, Finding, Report, Table, gate_of
from gatepost.core.frames import Board, FaceFrame, Matrix
from gatepost.core.geometry.outline import Area
from gatepost.core.geometry.raster import inside
from gatepost.core.job.base import changed
from gatepost.core.job.carve import Plate
from gatepost.core.job.operation import Artwork
from gatepost.core.job.register import OnPins
from gatepost.core.job.turning import FACES, OPPOSITE, lies
from gatepost.core.operation_kind import JudgedBy, OperationTold
from gatepost.core.plan.behind import behind
from gatepost.core.plan.cuts import Cuts
from gatepost.core.plan.drafts import posed
from gatepost.core.plan.kinds import Kinds
from gatepost.core.plan.known import PlanInputs
from gatepost.core.plan.layout import Wanted
from gatepost.core.wood.flaws import Lies

GROUNDS, BESIDE = (
    ("ground", "gouge"),
    ("vcut", "line"),
)  # kinds that are cut about what stays, and into the face beside that


STRUCK = ("line", "drill", "stencil")  # of which nothing may lie outside of what is kept


def _surely(k: PlanInputs) -> Area:
    """The board where there is wood for certain: its outline less its ±."""
    inner = k.wood.outline.buffer(-k.job.blank.doubt) if k.job.blank.doubt else k.wood.outline
    return k.wood.outline if inner.is_empty else inner


def carve_report(
    k: PlanInputs, cuts: list[Cuts], face: float, flaws: tuple[Lies, ...], said: list[Finding]
) -> tuple[Report, dict[str, Any]]:
    """All that is carved, operation by operation, and what each makes. face: how high the face stands over its rough, above the bed."""
    figures: list[Figure] = []
    findings: list[Finding] = []
    facts: dict[str, list[str]] = {}  # by kind
    lines: list[str] = []
    made: dict[str, Any] = {}
    tables: list[Table] = []
    seconds = 0.0
    several = Counter(o.kind for s in k.job.setups for o in s.operations)
    for c in cuts:
        mine = [w for w in c.draft.laid.wanted if w.kind.stage == CARVE]
        film = _film(k, cuts, c)
        seconds += sum(op.seconds for op in c.operations if op.operation in {w.operation.id for w in mine})
        for w in mine:
            told = w.kind.told(w.figures, w.tools, _judged_by(k, c, w, face, flaws, film))
            if several[w.kind.name] > 1:
                told = _of_several(told, w, c, mine)
            figures += told.figures
            findings += (*told.findings, *tenfold(w.operation, float(c.draft.start.z.max()), c.draft.setup.name))
            tables += told.tables
            made |= {w.operation.id: told.made}
            facts.setdefault(w.kind.name, []).extend([told.fact] if told.fact else [])
            lines += [told.line] if told.line else []
        findings += _together(c, mine, made)
        face_up = [o for one in cuts for o in _seen_from(one, c)]
        findings += _cut_away(c, mine, made, face_up) if face_up else []
        told_of_paint = _paint(k, c, mine, film)
        figures += told_of_paint[0]
        tables += told_of_paint[1]
        findings += backwards(
            _worked_on(k, mine), c.draft.setup.name, OPPOSITE[lies(c.draft.setup).up] == c.draft.before.up
        )
        away, gone = _not_cut(c)
        findings += (*away, *gone)
        facts.setdefault("", []).extend(["on another face"] * bool(away) + ["no tool"] * bool(gone))
    findings += behind(k, cuts, _surely(k))
    carved = [k.kinds.operations[o.kind] for s in k.job.setups for o in s.operations]
    if not k.job.made_for and not any(kind.stage == CARVE and not kind.frees for kind in carved):
        findings.append(no_text(next(c.draft.setup.name for c in cuts if c.draft.laid.carves)))
        facts = {"letters": ["nothing written yet"], **facts}
    if k.job.series:
        findings.append(series_waits(len(k.job.series), next(c.draft.setup.name for c in cuts if c.draft.laid.carves)))
    said_words = words_hash(k.job)
    if said_words:
        figures.append(Figure("Words read through", "yes" if k.job.read == said_words else "not yet", "words"))
    figures.append(Figure("Minutes", seconds / 60.0, "minutes"))
    found = (*findings, *said)
    line = " / ".join(lines) or ("no lettering" if facts else "no lettering yet")
    fact = ", ".join(_in_few(facts, k.kinds))
    return Report(CARVE, fact, line, tuple(figures), found, gate_of(found), tuple(tables)), made


def _worked_on(k: PlanInputs, mine: list[Wanted]) -> list[Artwork]:
    """All artwork of a setup, each once."""
    ids = {i for w in mine for i in w.operation.on}
    return [a for a in k.job.artwork if a.id in ids]


def _film(k: PlanInputs, cuts: list[Cuts], c: Cuts) -> float:
    """How thick what is on the face that is up is, mm: nothing where it is made flat after that."""
    up = c.draft.laid.up
    flat = any(one.draft.laid.flattens and one.draft.laid.up == up for one in cuts)
    return 0.0 if flat else film_on(k.job.blank.coats, up)


def _paint(k: PlanInputs, c: Cuts, mine: list[Wanted], film: float) -> tuple[list[Figure], list[Table]]:
    """Of a face that is coated before it is carved: how thick, and what each operation leaves of it."""
    up, coats = c.draft.laid.up, k.job.blank.coats
    ids = {w.operation.id for w in mine}
    done = [(op.name, op.after) for op in c.operations if op.operation in ids]
    if film <= 0.0 or not done:
        return [], []
    start = c.draft.start
    plates = [plate_outline(p) for w in mine if (p := k.job.plate(w.operation)) is not None]
    part = start.wood
    if plates:
        kept = c.draft.pose.area(shapely.union_all(plates))
        part = part & inside(kept, start.x0, start.y0, start.cell, *start.z.shape)
    return [film_figure(coats, up)], [paint_table(start, done, film, part)]


def _together(c: Cuts, mine: list[Wanted], made: dict[str, Any]) -> list[Finding]:
    """What is V-cut where something else of the setup stays or is sunk."""
    sunk = [(w.name, m.depth, m) for w in mine if isinstance(m := made.get(w.operation.id), SunkShape)]
    sunk += [
        (w.name, math.inf, SunkShape(m.top, ())) for w in mine
        if w.kind.name == "stencil" and isinstance(m := made.get(w.operation.id), LaidShape)
    ]  # fmt: skip
    cut = [(w.name, m) for w in mine if isinstance(m := made.get(w.operation.id), Lettering) and m.letters]
    grounds = [w.operation for w in mine if w.kind.name in GROUNDS and w.operation.id in made]
    letters = [w.operation for w in mine if w.kind.name in BESIDE and w.operation.id in made]
    order = [which_first(g, o, c.draft.setup.name) for g in grounds for o in letters]
    twice = cut_twice(cut, c.draft.setup.name)
    holes = holes_left(cut_outs(c), [w.operation for w in mine], c.draft.setup.name)
    said = over_each_other(sunk, cut, c.draft.setup.name) if sunk and cut else []
    return [*twice, *holes, *said, *order]


def cut_outs(c: Cuts) -> list[Out]:
    """What a setup cuts out."""
    return [Out(w.operation, w.figures, w.tools[0]) for w in c.draft.laid.wanted if isinstance(w.figures, Plate)]


def _seen_from(one: Cuts, c: Cuts) -> list[Out]:
    """What a setup cuts out, as the face is read that is up in another: the same, or the one behind it."""
    if one.draft.laid.up == c.draft.laid.up:
        return cut_outs(one)
    if OPPOSITE[one.draft.laid.up] != c.draft.laid.up:
        return []
    blank, up = c.draft.known.job.blank, one.draft.laid.up
    half = 180.0 if up in ("top", "bottom") else 0.0
    seen = [from_behind(blank, up, np.array([[o.plate.x, o.plate.y]]))[0].tolist() for o in cut_outs(one)]
    return [
        replace(o, plate=changed(o.plate, x=x, y=y, mirror=not o.plate.mirror, turn=half - o.plate.turn))
        for o, (x, y) in zip(cut_outs(one), seen)
    ]


def _cut_away(c: Cuts, mine: list[Wanted], made: dict[str, Any], out: list[Out]) -> list[Finding]:
    """What is carved here, and cut away with the waste. out: all that is cut out of the face that is up, in this setup or another."""
    job = c.draft.known.job
    rounds = {i for o in out for i in o.operation.on}
    rounds |= {i for s in job.setups if isinstance(s.comes, OnPins) for i in s.comes.on}  # they stand in the waste
    here = {o.id for s in job.setups if s.up == c.draft.laid.up for o in s.operations}
    own = any(o.operation.id in here for o in out)  # else its margin to the plate is judged nowhere
    cut = {i for w in mine if w.kind.name == "vcut" for i in w.operation.on}
    carved: list[CarvedArea] = []
    for w in mine:
        shape = made.get(w.operation.id)
        if isinstance(shape, SunkShape):
            letters = [a for a in shape.art if a.kind == "lettering" and a.id not in cut]
            alone = (letters[0], w.operation.id) if len(letters) == 1 else None
            carved.append(
                CarvedArea(f"what stays in {w.name}", shape.stays(rounds | cut), bool(letters), letters=alone)
            )
        elif isinstance(shape, Lettering):
            area = shapely.union_all([letter.outline() for letter in shape.letters])
            lettered = any(letter.placed.line >= 0 for letter in shape.letters)
            mine_alone = next(
                ((a, w.operation.id) for a in job.artwork if a.kind == "lettering" and a.id in w.operation.on), None
            )
            carved.append(CarvedArea(w.name, area, lettered, own, None if own else mine_alone))
        elif isinstance(shape, LaidShape) and w.kind.name in STRUCK and not rounds & set(w.operation.on):
            lettered = any(a.kind == "lettering" for a in shape.art)
            carved.append(CarvedArea(w.name, shape.top, lettered, w.kind.name == "stencil"))
    to_bed = c.draft.pose.then(c.draft.placed.to_bed)
    return cut_away(out, carved, c.draft.pose.inverse().area(_surely(c.draft.known)), to_bed, c.draft.setup.name)


def _of_several(told: OperationTold, w: Wanted, c: Cuts, mine: list[Wanted]) -> OperationTold:
    """What is said of one of several of its kind: with its name, its figures in its setup alone."""
    here = sum(other.kind is w.kind for other in mine) > 1
    figures = tuple(
        replace(f, label=f"{w.name}: {f.label[0].lower()}{f.label[1:]}" if here else f.label, setup=c.draft.setup.name)
        for f in told.figures
    )
    said = tuple(replace(f, message=f"{w.name}: {f.message}") for f in told.findings)
    tables = tuple((f"{w.name}: {title[0].lower()}{title[1:]}", rows) for title, rows in told.tables)
    return replace(told, figures=figures, findings=said, tables=tables)


def _not_cut(c: Cuts) -> tuple[list[Finding], list[Finding]]:
    """What works on a face that is not up, and what lacks its tool."""
    laid, name = c.draft.laid, c.draft.setup.name
    away = [
        other_face(w.name, FACES[w.face], FACES[laid.up], laid.up, w.operation.on[0], name)
        for w in laid.misplaced if w.kind.stage == CARVE and w.face
    ]  # fmt: skip
    return away, [kind.no_tool(n, name) for kind, n in laid.lacking if kind.stage == CARVE]


def _in_few(facts: dict[str, list[str]], kinds: Kinds) -> list[str]:
    """Facts for the fence: of several of a kind only how many there are."""
    out: list[str] = []
    for name, told in facts.items():
        kind = kinds.operations.get(name)
        many = len(told) > 1 and kind is not None
        out += (
            [f"{len(told)} {kind.many or f'{kind.one}s'}"] if kind is not None and many else list(dict.fromkeys(told))
        )
    return out


def _judged_by(k: PlanInputs, c: Cuts, w: Wanted, face: float, flaws: tuple[Lies, ...], film: float) -> JudgedBy:
    """What one operation is judged by."""
    pushes = [op.push * op.peak for op in c.operations if op.operation == w.operation.id]
    pose: Matrix[FaceFrame, Board] = c.draft.pose if w.face else Matrix()
    kind, site = w.kind, posed(c.draft.site, pose)
    first = next(
        (o.id for s in k.job.setups for o in s.operations if o.kind == kind.name and (not kind.art or k.job.art(kind.art, o.on))), ""
    )  # fmt: skip
    return JudgedBy(
        c.draft.setup.name, {} if w.operation.id == first else {"operation": w.operation.id}, pose.then(c.draft.placed.to_bed), pose.inverse().area(_surely(c.draft.known)),
        k.job.tools, float(c.draft.start.z.max()), max(0.0, face - k.wood.extremes.lowest[2]),
        max(pushes, default=0.0), flaws if c.draft.laid.up == "front" else (), site,
        k.job.holding, site.grain, k.job.machine.swap_minutes, w.operation.id, film,
    )  # fmt: skip
