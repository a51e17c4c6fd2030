# SPDX-License-Identifier: GPL-3.0-or-later
"""What people are told of the catalogue's boards, word for word and figure by figure, as it was looked through last.

Nothing on screen changes unseen: a difference is a defect, or it is wanted and ``make told`` writes the table anew. The sums
themselves are proved elsewhere; hand-worked ones stand in the catalogue.
"""

import importlib
import json
import pkgutil
import re
import sys
from pathlib import Path

import numpy as np
import pytest

import gatepost.core
from gatepost.core.cache import Memory
from gatepost.core.plan.export import plan_json
from gatepost.core.plan.holding_ways import ways_compared
from gatepost.core.plan.pipeline import plan
from tests.core.catalogue import ROWS
from tests.core.catalogue_jobs import JOBS, edited, happened

TABLE = Path(__file__).with_name("told.json")
NUMBER = re.compile(r"-?\d+(?:\.\d+)?(?:e-?\d+)?")
CELL = 0.4  # mm: coarse enough to be quick, and every border holds
CLOSE = 3e-4  # of a figure, or mm: less than anyone reads


def short(value):
    """Six digits of every float, wherever it stands: the table is to be read."""
    if isinstance(value, float):
        return float(f"{value:.6g}") if abs(value) > 1e-7 else 0.0
    if isinstance(value, str):
        return NUMBER.sub(lambda m: f"{float(m[0]):.6g}" if "." in m[0] else m[0], value)
    if isinstance(value, dict):
        return {str(k): short(v) for k, v in value.items()}
    return [short(v) for v in value] if isinstance(value, (list, tuple)) else value


def sums(one):
    """A working: its names, values and result."""
    return None if one is None else [one.expression, [[v.name, v.value] for v in one.values], one.result]


def finding(f):
    return {
        "what": f"{f.code} {f.level.value} {f.setup} {f.about}", "says": f.message, "sum": sums(f.working), "fixes": [[x.sentence, x.kind, dict(x.values)] for x in f.fixes],
        "at": [f.place.x, f.place.y, f.place.z, f.place.size] if f.place else None,
    }  # fmt: skip


def report(one):
    return {
        "fact": one.fact, "line": one.subtitle, "gate": one.gate.value, "tables": one.tables,
        "figures": [[f.label, f.value, f.unit, sums(f.working), f.places, f.level.value if f.level else None] for f in one.figures],
        "findings": [finding(f) for f in one.findings],
    }  # fmt: skip


def program(one):
    points = one.moves.points
    far = np.linalg.norm(np.diff(points, axis=0), axis=1)
    lines = re.sub("program [0-9a-f]{12}", "program …", one.text).splitlines()
    said = [*lines[:30], "…", *lines[len(lines) // 2 : len(lines) // 2 + 8], "…", *lines[-8:]]
    return [
        said,
        one.name,
        len(points),
        float(far.sum()),
        *points.min(0).tolist(),
        *points.max(0).tolist(),
        one.seconds,
    ]


def sound(told):
    """All that is said of a sound job."""
    exported = {k: v for k, v in plan_json(told, []).items() if k not in ("version", "fingerprint", "findings", "job")}
    return {
        "reports": {f"{stage} {setup}".strip(): report(r) for (stage, setup), r in told.reports.items()},
        "plan": exported,
        "programs": [program(p) for s in told.setups for p in s.programs],
        "steps": [[s.name, st.key, st.kind, st.title, st.detail, st.caution, st.label, st.figure, st.tool, st.place, st.reads] for s in told.setups for st in s.steps],
        "touches": [
            [s.name, n, t.x, t.y, t.surface, t.height] for s in told.setups for n, t in s.touches.items()
        ],
        "solids": [[s.hold, s.part, s.bottom, s.top, *s.outline.bounds] for p in told.setups for s in p.solids],
        "next": told.next.sentence,
        "pieces": [[p.operation, p.area, p.at, p.held_by, p.box] for s in told.setups for p in s.pieces],
        "gaps": [[w, g.hold, g.part, g.tool_part, g.gap, g.x, g.y, g.z, g.rapid] for s in told.setups for w, g in s.gaps],
        "spans": [[s.name, s.span.first, s.span.last, s.span.length, s.span.chord] for s in told.setups if s.span],
        "ways": [
            [w.kind, w.holds, w.minutes, w.margin, w.lost, w.span, w.why_not, [[h.x, h.y, h.heading, *(getattr(h, n, d) for n, d in (("nose", 45.0), ("packing", 0.0), ("length", 100.0)))] for h in w.places]]
            for s in told.setups
            for w in ways_compared(told, s.name, 4)
        ],
    }  # fmt: skip


def constants():
    """Every figure that a module of the core names: shop rules, limits, tolerances."""
    found = {}
    for info in pkgutil.walk_packages(gatepost.core.__path__, "gatepost.core."):
        if info.name.endswith((".warm", ".kernels", ".scanner")):
            continue
        module = importlib.import_module(info.name)
        text = Path(module.__file__).read_text("utf-8")
        for name, value in vars(module).items():
            own = re.search(rf"^(?:[A-Z_]+, )*{name}(?:, [A-Z_]+)*(?::[^=]+)? = ", text, re.M)
            if name.isupper() and own and isinstance(value, (int, float, str, tuple, dict)):
                found[f"{info.name.removeprefix('gatepost.core.')}.{name}"] = plainly(value)
    return found


def plainly(value):
    """A constant as a table can hold it."""
    if isinstance(value, dict):
        return {str(k): plainly(v) for k, v in value.items()}
    if isinstance(value, (tuple, list)):
        return [plainly(v) for v in value]
    return value if isinstance(value, (int, float, str, bool)) else type(value).__name__


def cell_of(row):
    """Cells that a row is planned on, mm; nothing for as finely as a job is."""
    return None if row.code.startswith("wood.") else CELL


def fired(told, row):
    """What a row's finding says."""
    said = [f for f in told.findings if f.code == row.code and f.level is row.level]
    reports = [r for (stage, _), r in told.reports.items() if stage == said[0].stage]
    return [*map(finding, said), [[f.label, f.value] for r in reports for f in r.figures]]


def differences(is_, was, path=""):
    """Where two tables differ: in words, or in a figure by more than is read."""
    if isinstance(is_, dict) and isinstance(was, dict):
        for key in sorted(set(is_) | set(was)):
            yield from differences(is_.get(key, "nothing"), was.get(key, "nothing"), f"{path}/{key}")
    elif isinstance(is_, list) and isinstance(was, list) and len(is_) == len(was):
        for i, (a, b) in enumerate(zip(is_, was, strict=True)):
            yield from differences(a, b, f"{path}/{i}")
    elif isinstance(is_, str) and isinstance(was, str):
        mine, theirs = ([float(n) for n in NUMBER.findall(t)] for t in (is_, was))
        if NUMBER.sub("#", is_) != NUMBER.sub("#", was) or mine != pytest.approx(theirs, rel=CLOSE, abs=CLOSE):
            yield f"{path}: {is_!r}, and it was {was!r}"
    elif isinstance(is_, float) and isinstance(was, (int, float)):
        if is_ != pytest.approx(was, rel=CLOSE, abs=CLOSE):
            yield f"{path}: {is_}, and it was {was}"
    elif is_ != was:
        yield f"{path}: {is_}, and it was {was}"


def as_read(value):
    """What of a table comes back from its file."""
    return json.loads(json.dumps(short(value)))


WAS = json.loads(TABLE.read_text("utf-8")) if TABLE.exists() else {"sound": {}, "fired": {}, "constants": {}}


def write():
    """The table anew, with what differs from the one before."""
    memory = Memory(keep=64)
    now = {
        "sound": {n: as_read(sound(plan(JOBS[n](), memory=memory, cell=CELL))) for n in JOBS},
        "fired": {},
        "constants": constants(),
    }
    for row in ROWS:
        told = plan(edited(JOBS[row.job](), *row.over), happened(*row.over), memory, cell_of(row))
        now["fired"][row.name] = as_read(fired(told, row))
    for line in differences(now, WAS):
        print(line)
    parts = [
        f'"{part}": {{\n'
        + ",\n".join(f"{json.dumps(k)}: {json.dumps(v, ensure_ascii=False)}" for k, v in each.items())
        + "\n}"
        for part, each in now.items()
    ]
    TABLE.write_text("{\n" + ",\n".join(parts) + "\n}\n", "utf-8")


if __name__ == "__main__":
    sys.exit(write())
