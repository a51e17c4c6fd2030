# SPDX-License-Identifier: GPL-3.0-or-later
"""Changes the core at random, one operator, figure or sign at a time, and counts what tests/core alone notices.

``make mutants`` takes a seeded sample for as many minutes as it is given and goes on where it stopped; what lived is named with
its line: a test missing, or code that nothing needs. WORDS names modules (zero/ways, units…). The row goes to docs/measured.md.
"""

from __future__ import annotations

import argparse
import ast
import copy
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

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
        p for room in ROOMS for p in ([CORE / room] if room.endswith(".py") else sorted((CORE / room).glob("*.py")))
    ]
    found = [p for p in found if p.name not in (*COMPILED, "__init__.py")]
    return [p for p in found if not words or any(w in str(p) for w in words)]


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


def changed(source: str, chance: random.Random) -> tuple[str, str]:
    """A module with one thing changed, and what."""
    tree = ast.parse(source)
    node, what, i = chance.choice(list(_spots(tree)))
    line, before = node.lineno, ast.unparse(node)  # type: ignore[attr-defined]
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
    return ast.unparse(ast.fix_missing_locations(tree)), f"line {line}: {before} -> {ast.unparse(node)}"


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


def noticed(module: Path, text: str, seconds: float) -> bool:
    """Whether tests/core fails on a change; the tests named after its module or room first."""
    with tempfile.TemporaryDirectory() as folder:
        path = overlay(Path(folder) / "src", module, text)
        env = {**os.environ, "PYTHONPATH": str(path), "PYTHONDONTWRITEBYTECODE": "1"}
        names = {module.stem, module.parent.name}
        near = sorted(p for p in (ROOT / "tests" / "core").glob("test_*.py") if any(n in p.stem for n in names))
        for tests in ([str(p) for p in near], ["tests/core"]):
            if not tests:
                continue
            words = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:pytest-qt", "-p", "no:cacheprovider", *tests]
            try:
                done = subprocess.run(words, cwd=ROOT, env=env, capture_output=True, timeout=seconds)
            except subprocess.TimeoutExpired:
                return True
            if done.returncode:
                return True
    return False


def main() -> int:
    """A sample of changes, in chunks."""
    asked = argparse.ArgumentParser(prog="make mutants", description=main.__doc__)
    asked.add_argument("words", nargs="*", help="modules whose paths have one of these; else all")
    asked.add_argument("--seed", type=int, default=11)
    asked.add_argument("--count", type=int, default=200)
    asked.add_argument("--minutes", type=float, default=9.0)
    told = asked.parse_args()
    pool = modules(told.words)
    weights = [len(p.read_text("utf-8")) for p in pool]
    key = f"{measured.commit()} {told.seed} {' '.join(told.words)}"
    state = {"key": key, "done": 0, "noticed": 0, "lived": []}
    if STATE.exists():
        before = json.loads(STATE.read_text("utf-8"))
        state = before if before["key"] == key else state
    limit = time.monotonic() + 60.0 * told.minutes
    while state["done"] < told.count and time.monotonic() < limit:
        chance = random.Random(told.seed * 100_003 + state["done"])
        module = chance.choices(pool, weights)[0]
        text, what = changed(module.read_text("utf-8"), chance)
        seen = noticed(module, text, 600.0)
        state["done"] += 1
        state["noticed"] += seen
        name = f"{module.relative_to(CORE)}, {what}"
        if not seen:
            state["lived"].append(name)
        print(f"{'noticed' if seen else 'LIVED  '} {name}", flush=True)
        STATE.parent.mkdir(exist_ok=True)
        STATE.write_text(json.dumps(state), "utf-8")
    share = 100.0 * state["noticed"] / max(state["done"], 1)
    print(f"{state['noticed']} of {state['done']} noticed ({share:.0f} %)")
    what = "changes of the core noticed by tests/core alone" + (f" ({', '.join(told.words)})" if told.words else "")
    measured.record(
        "Changes noticed", what, f"{state['done']} of {told.count}", f"{share:.0f} % noticed", "90 %", told.seed
    )
    return 0


if __name__ == "__main__":
    assert shutil.which("git")
    sys.exit(main())
