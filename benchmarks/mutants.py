# SPDX-License-Identifier: GPL-3.0-or-later
"""Changes the core at random, one operator, figure or sign at a time, and counts what tests/core alone notices.

``make mutants`` takes a seeded sample for as many minutes as it is given and goes on where it stopped; what lived is named with
its line: a test missing, or code that nothing needs. WORDS names modules (zero/ways, units…). The row goes to docs/measured.md.
"""

from __future__ import annotations

import argparse
import ast
import copy
import hashlib
import json
import os
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import coverage

import measured

ROOT = Path(__file__).parents[1]
CORE = ROOT / "src" / "gatepost" / "core"
ROOMS = ("hold", "zero", "surface", "blank", "carve", "tools", "program", "units.py", "job/journal.py")
COMPILED = ("kernels.py", "scanner.py")  # compiled code is held against its plain reference, which is changed here
STATE = ROOT / ".soak" / "mutants.json"
SWAPS: dict[type, type] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq, ast.Add: ast.Sub,
    ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.And: ast.Or, ast.Or: ast.And, ast.Is: ast.IsNot, ast.IsNot: ast.Is,
}  # fmt: skip


def modules(words: list[str]) -> list[Path]:
    """The modules that are changed."""
    found = [
        p for room in ROOMS for p in ([CORE / room] if room.endswith(".py") else sorted((CORE / room).rglob("*.py")))
    ]
    found = [p for p in found if p.name not in (*COMPILED, "__init__.py")]
    found = [p for p in found if not words or any(w in str(p) for w in words)]
    return [p for p in found if any(True for _ in _spots(ast.parse(p.read_text("utf-8"))))]


def _spots(tree: ast.AST) -> Iterator[tuple[ast.AST, str, int]]:
    """Nodes that can be changed, and which field of them. Words, annotations and messages are left alone."""
    skipped: set[int] = set()
    for node in ast.walk(tree):
        for name in ("annotation", "returns"):
            inner = getattr(node, name, None)
            if isinstance(inner, ast.AST):
                skipped |= {id(n) for n in ast.walk(inner)}
        if isinstance(node, ast.JoinedStr):
            skipped |= {id(n) for n in ast.walk(node)}
        if isinstance(node, ast.AnnAssign) and isinstance(node.annotation, ast.AST):
            skipped |= {id(n) for n in ast.walk(node.annotation)}
    for node in ast.walk(tree):
        if id(node) in skipped:
            continue
        if isinstance(node, ast.Compare):
            yield from ((node, "ops", i) for i, op in enumerate(node.ops) if type(op) in SWAPS)
        elif isinstance(node, (ast.BinOp, ast.BoolOp)) and type(node.op) in SWAPS:
            yield node, "op", 0
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, (ast.USub, ast.Not)):
            yield node, "sign", 0
        elif isinstance(node, ast.Constant) and type(node.value) in (int, float):
            yield node, "value", 0


@dataclass(frozen=True)
class Spot:
    """A place that can be changed. number: of the module's; within: the top-level statement that it is in, as written; key:
    tells it from all others however much is written before it or in other modules."""

    module: Path
    number: int
    within: str
    key: str


def spots_of(module: Path) -> list[Spot]:
    """Every place of a module that can be changed."""
    source = module.read_text("utf-8")
    tree = ast.parse(source)
    owner = {id(n): top for top in tree.body for n in ast.walk(top)}
    out: list[Spot] = []
    seen: dict[str, int] = {}
    for number, (node, what, i) in enumerate(_spots(tree)):
        top = owner[id(node)]
        name = getattr(top, "name", "")
        words = f"{module.relative_to(CORE)}|{name}|{ast.unparse(node)}|{what}|{i}"
        seen[words] = seen.get(words, 0) + 1
        within = ast.get_source_segment(source, top) or ""
        out.append(Spot(module, number, within, f"{words}|{seen[words]}"))
    return out


def sample(pool: list[Path], seed: int, count: int) -> list[Spot]:
    """The same spots whatever is written elsewhere: those whose digests with the seed come first."""
    every = [spot for module in pool for spot in spots_of(module)]
    return sorted(every, key=lambda s: hashlib.sha256(f"{seed}|{s.key}".encode()).hexdigest())[:count]


def changed(source: str, number: int) -> tuple[str, str, tuple[int, int]]:
    """A module with its n-th spot changed, what, and from which line to which."""
    tree = ast.parse(source)
    node, what, i = list(_spots(tree))[number]
    line, before = node.lineno, ast.unparse(node)  # type: ignore[attr-defined]
    lines = (line, node.end_lineno or line)  # type: ignore[attr-defined]
    if what == "ops":
        node.ops[i] = SWAPS[type(node.ops[i])]()  # type: ignore[attr-defined]
    elif what == "op":
        node.op = SWAPS[type(node.op)]()  # type: ignore[attr-defined]
    elif what == "value":
        value = node.value  # type: ignore[attr-defined]
        node.value = value + 1 if isinstance(value, int) else value * 1.25 if value else 0.5  # type: ignore[attr-defined]
    else:
        inner = copy.copy(node.operand)  # type: ignore[attr-defined]
        for n in ast.walk(tree):
            for name, value in ast.iter_fields(n):
                if value is node:
                    setattr(n, name, inner)
                elif isinstance(value, list) and any(v is node for v in value):
                    setattr(n, name, [inner if v is node else v for v in value])
        node = inner
    return ast.unparse(ast.fix_missing_locations(tree)), f"line {line}: {before} -> {ast.unparse(node)}", lines


def overlay(folder: Path, module: Path, text: str) -> Path:
    """The sources as they are, but for one module: links, so that compiled kernels are found."""
    src = ROOT / "src"
    for at, folders, files in os.walk(src):
        here = folder / Path(at).relative_to(src)
        here.mkdir(parents=True, exist_ok=True)
        if "__pycache__" in folders:
            (here / "__pycache__").symlink_to(Path(at) / "__pycache__")
            folders.remove("__pycache__")
        for name in files:
            (here / name).symlink_to(Path(at) / name)
    mine = folder / module.relative_to(src)
    mine.unlink()
    mine.write_text(text, "utf-8")
    return folder


REACH = ROOT / ".soak" / "reach"
FIRST = "test_a_sound_job_is_sound"  # small boards planned whole: what notices most, soonest
PYTEST = ("-m", "pytest", "-q", "-p", "no:pytest-qt", "-p", "no:cacheprovider")


def stamp() -> str:
    """Of everything that decides which test reaches which line."""
    told = hashlib.sha256()
    for folder in (ROOT / "src" / "gatepost" / "core", ROOT / "tests" / "core"):
        for path in sorted(folder.rglob("*.py")):
            told.update(path.read_bytes())
    return told.hexdigest()[:16]


class Reach:
    """Which tests run which lines of the core, and how long each takes; found by one run under coverage, and kept."""

    def __init__(self) -> None:
        self.data = REACH.with_suffix(".sqlite")
        self.times = REACH.with_suffix(".json")
        known = json.loads(self.times.read_text("utf-8")) if self.times.exists() else {}
        if known.get("stamp") != stamp() or not self.data.exists():
            known = {"stamp": stamp(), "seconds": self._found()}
            self.times.write_text(json.dumps(known), "utf-8")
        self.seconds: dict[str, float] = known["seconds"]
        found = coverage.CoverageData(str(self.data))
        found.read()
        self.lines = {Path("src", f.split("/src/")[-1]): found.contexts_by_lineno(f) for f in found.measured_files()}

    def _found(self) -> dict[str, float]:
        """Seconds of each test function, all its cases together."""
        print("looking which tests reach which lines", flush=True)
        self.data.parent.mkdir(exist_ok=True)
        self.data.unlink(missing_ok=True)
        report = REACH.with_suffix(".xml")
        config = REACH.with_suffix(".ini")
        config.write_text(
            f"[run]\nsource = {CORE}\ndynamic_context = test_function\ndata_file = {self.data}\n", "utf-8"
        )
        words = [
            sys.executable,
            "-m",
            "coverage",
            "run",
            f"--rcfile={config}",
            *PYTEST,
            f"--junit-xml={report}",
            "tests/core",
        ]
        env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        subprocess.run(words, cwd=ROOT, env=env, check=True, stdout=subprocess.DEVNULL)
        out: dict[str, float] = {}
        for case in ElementTree.parse(report).iter("testcase"):
            name = f"{case.get('classname')}.{str(case.get('name')).split('[')[0]}"
            out[name] = out.get(name, 0.0) + float(case.get("time", 0.0))
        return out

    def tests(self, module: Path, first: int, last: int) -> list[str] | None:
        """Tests that run a line, the quickest first; of one that runs when its module is imported, those that run anything of the
        module; nothing where none does, and all may."""
        names: set[str] = set()
        known = self.lines.get(module.relative_to(ROOT), {})
        for line, contexts in known.items():
            if first <= line <= last:
                names |= set(contexts)
        if "" in names:
            names = {name for contexts in known.values() for name in contexts if name}
            if not names:
                return None
        near = {module.stem, module.parent.name}
        return sorted(names, key=lambda n: (FIRST not in n, not any(w in n for w in near), self.seconds.get(n, 1e9)))


def _node(name: str) -> str:
    """tests.core.test_x.test_y as pytest names it."""
    path, _, test = name.rpartition(".")
    return f"{path.replace('.', '/')}.py::{test}"


def noticed(module: Path, text: str, tests: list[str] | None, seconds: float) -> bool:
    """Whether tests/core fails on a change. tests: those that reach it; nothing for all, those of its name first."""
    if tests is not None and not tests:
        return False
    if tests is None:
        names = {module.stem, module.parent.name}
        near = sorted(p for p in (ROOT / "tests" / "core").glob("test_*.py") if any(n in p.stem for n in names))
        rounds = [["tests/core/test_catalogue.py"], [str(p) for p in near], ["tests/core"]]
    else:
        nodes = [_node(t) for t in tests]
        rounds = [nodes]
    with tempfile.TemporaryDirectory() as folder:
        path = overlay(Path(folder) / "src", module, text)
        env = {**os.environ, "PYTHONPATH": str(path), "PYTHONDONTWRITEBYTECODE": "1", "GATEPOST_MUTANTS": "1"}
        for some in rounds:
            if not some:
                continue
            words = [sys.executable, *PYTEST, "-x", *some]
            try:
                done = subprocess.run(words, cwd=ROOT, env=env, capture_output=True, timeout=seconds)
            except subprocess.TimeoutExpired:
                return True
            if done.returncode not in (0, 5):
                return True
    return False


def main() -> int:
    """A sample of changes, in chunks."""
    asked = argparse.ArgumentParser(prog="make mutants", description=main.__doc__)
    asked.add_argument("words", nargs="*", help="modules whose paths have one of these; else all")
    asked.add_argument("--seed", type=int, default=11)
    asked.add_argument("--count", type=int, default=200)
    asked.add_argument("--minutes", type=float, default=9.0, help="nought tells what is known")
    asked.add_argument("--together", type=int, default=os.cpu_count() or 1)
    told = asked.parse_args()
    chosen = sample(modules(told.words), told.seed, told.count)
    state: dict[str, Any] = json.loads(STATE.read_text("utf-8")) if STATE.exists() else {}
    now = stamp()
    reach = Reach() if told.minutes else None
    limit = time.monotonic() + 60.0 * told.minutes
    turn = threading.Lock()
    done: dict[int, tuple[bool, str]] = {}

    def one(number: int) -> None:
        spot = chosen[number]
        source = spot.module.read_text("utf-8")
        text, what, lines = changed(source, spot.number)
        name = f"{spot.module.relative_to(CORE)}, {what}"
        # what was noticed stays so while the function that it is in is as it was and tests are only added; what lived is tried again
        kind = hashlib.sha256(f"{spot.key}|{spot.within}".encode()).hexdigest()[:16]
        before = state.get(kind)
        if before and (before["noticed"] or before["stamp"] == now or reach is None):
            done[number] = (before["noticed"], name)
            return
        if reach is None or time.monotonic() > limit:
            return
        with turn:
            tests = reach.tests(spot.module, *lines)
        seen = noticed(spot.module, text, tests, 1800.0)  # endless, where tests take five minutes
        with turn:
            done[number] = (seen, name)
            state[kind] = {"noticed": seen, "stamp": now, "name": name}
            print(f"{number}: {'noticed' if seen else 'LIVED  '} {name}", flush=True)
            STATE.parent.mkdir(exist_ok=True)
            STATE.write_text(json.dumps(state), "utf-8")

    with ThreadPoolExecutor(told.together) as workers:
        list(workers.map(one, range(len(chosen))))
    seen = [s for s, _ in done.values()]
    lived = [name for s, name in done.values() if not s]
    print("\n".join(["", *lived]))
    share = 100.0 * sum(seen) / max(len(seen), 1)
    print(f"{sum(seen)} of {len(seen)} noticed ({share:.0f} %)")
    what = "changes of the core noticed by tests/core alone" + (f" ({', '.join(told.words)})" if told.words else "")
    measured.record(
        "Changes noticed", what, f"{len(seen)} of {len(chosen)}", f"{share:.0f} % noticed", "90 %", told.seed
    )
    return 0


if __name__ == "__main__":
    assert shutil.which("git")
    sys.exit(main())
