# SPDX-License-Identifier: GPL-3.0-or-later
"""Generates what docs/ takes from the code: findings.md, job.schema.json, keys.md, commands.md, acts.md, steps.md. With --check it only compares."""

from __future__ import annotations

import ast
import json
import sys
from pathlib import Path

from gatepost.core.job.file import load
from gatepost.core.job.schema import schema
from gatepost.core.plan.pipeline import plan
from gatepost.core.run import reasons
from gatepost.desk.context.keys import GROUPS, MORE
from gatepost.editing import page

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))
from tests.core.catalogue import ROWS  # noqa: E402
from tests.core.catalogue_more import ELSEWHERE  # noqa: E402

CORE = ROOT / "src" / "gatepost" / "core"


def _words(node: ast.expr, names: dict[str, str]) -> str:
    """A message as written, its figures as dots."""
    if isinstance(node, ast.Constant):
        return str(node.value)
    if isinstance(node, ast.JoinedStr):
        return "".join(_words(v, names) if isinstance(v, ast.Constant) else "…" for v in node.values)
    if isinstance(node, ast.Name):
        return names.get(node.id, "…")
    if isinstance(node, ast.BinOp):
        return _words(node.left, names) + _words(node.right, names)
    if isinstance(node, ast.IfExp):
        return f"{_words(node.body, names)} / {_words(node.orelse, names)}"
    return "…"


LEVELS = ("stop", "care", "note", "ok")


def _levels(node: ast.expr, given: list[ast.Assign]) -> set[str]:
    """Levels that a finding may have; given: what its names may stand for."""
    if isinstance(node, ast.Name):
        named = [g for g in given if isinstance(g.targets[0], ast.Name) and g.targets[0].id == node.id]
        return {level for g in named for level in _levels(g.value, [])}
    return {n.attr.lower() for n in ast.walk(node) if isinstance(n, ast.Attribute) and n.attr.lower() in LEVELS}


def _codes(node: ast.expr, function: ast.FunctionDef, module: ast.Module) -> list[str]:
    """A code as written; every one of them where a loop over a table of the module names it."""
    if isinstance(node, ast.Constant):
        return [str(node.value)]
    if not isinstance(node, ast.JoinedStr):
        return []
    part = next(v.value for v in node.values if isinstance(v, ast.FormattedValue))
    assert isinstance(part, ast.Name), ast.unparse(node)
    for loop in (n for n in ast.walk(function) if isinstance(n, (ast.For, ast.comprehension))):
        names = [n.id for n in ast.walk(loop.target) if isinstance(n, ast.Name)]
        if part.id in names and isinstance(loop.iter, ast.Name):
            tables = [
                a.value for a in module.body if isinstance(a, ast.Assign) and ast.unparse(a.targets[0]) == loop.iter.id
            ]
            rows = ast.literal_eval(tables[0])
            here = names.index(part.id)
            words = [row[here] if isinstance(row, tuple) else row for row in rows]
            return ["".join(w if v.__class__ is ast.FormattedValue else v.value for v in node.values) for w in words]  # type: ignore[attr-defined]
    raise ValueError(f"{ast.unparse(node)} is named by no table of its module")


def codes() -> dict[str, tuple[set[str], str, str]]:
    """Code -> levels, where, message."""
    out: dict[str, tuple[set[str], str, str]] = {}
    for path in sorted(CORE.rglob("*.py")):
        tree = ast.parse(path.read_text("utf-8"))
        for function in (n for n in ast.walk(tree) if isinstance(n, ast.FunctionDef)):
            given = [n for n in ast.walk(function) if isinstance(n, ast.Assign) and isinstance(n.targets[0], ast.Name)]
            for node in ast.walk(function):
                if (
                    isinstance(node, ast.Call)
                    and isinstance(node.func, ast.Name)
                    and node.func.id == "Finding"
                    and len(node.args) >= 4
                ):
                    names: dict[str, str] = {}
                    for one in sorted((g for g in given if g.lineno < node.lineno), key=lambda g: g.lineno):
                        names[one.targets[0].id] = _words(one.value, names)  # type: ignore[attr-defined]
                    where = str(path.relative_to(ROOT / "src"))
                    for code in _codes(node.args[0], function, tree):
                        one = out.setdefault(code, (set(), where, _words(node.args[3], names)))
                        one[0].update(_levels(node.args[1], given))
    return out


def findings_page() -> str:
    """docs/findings.md."""
    lines = [
        "# Findings",
        "",
        "Generated from the code by `make docs`. `stop` bars the run, `care` wants a look or a reason, `note` is to know, `ok` says what was checked.",
        "",
    ]
    lines += ["| code | level | says | from |", "|---|---|---|---|"]
    for code, (levels, where, words) in sorted(codes().items()):
        level = " or ".join(one for one in LEVELS if one in levels)
        lines.append(f"| `{code}` | {level} | {' '.join(words.split())[:200].replace('|', '/')} | {where} |")
    return "\n".join(lines) + "\n"


def keys_page() -> str:
    """docs/keys.md."""
    rows = [(c.key, c.words.rstrip("…")) for _, commands in GROUPS for c in commands if c.key] + list(MORE)
    return "# Keys\n\nThe same list is at F1.\n\n| key | does |\n|---|---|\n" + "".join(
        f"| {k} | {w} |\n" for k, w in rows
    )


def steps_page() -> str:
    """docs/steps.md."""
    job = load(ROOT / "src" / "gatepost" / "assets" / "examples" / "lock-7-name-board.gatepost").job
    return reasons.page(job.name, [(s.name, s.steps) for s in plan(job).setups])


def main() -> int:
    """Write, or compare."""
    job = json.dumps(schema(), indent=1, sort_keys=True) + "\n"
    from gatepost.core.acts import page as acts_page

    pages = {
        "findings.md": findings_page(),
        "keys.md": keys_page(),
        "job.schema.json": job,
        "commands.md": page(),
        "acts.md": acts_page(),
        "steps.md": steps_page(),
    }
    stale = []
    for name, text in pages.items():
        path = ROOT / "docs" / name
        if "--check" in sys.argv:
            if not path.exists() or path.read_text("utf-8") != text:
                stale.append(name)
        else:
            path.write_text(text, "utf-8")
    said = {(code, level) for code, (levels, _, _) in codes().items() for level in levels if code not in ELSEWHERE}
    fired = {(r.code, r.level.value) for r in ROWS}
    lacking = sorted(f"{code} as {level}" for code, level in said ^ fired)
    if lacking:
        print(f"tests/core/catalogue.py and the code differ in {', '.join(lacking)}.", file=sys.stderr)
    if stale:
        print(f"docs/{', docs/'.join(stale)} no longer say what the code does. Run make docs.", file=sys.stderr)
    return 1 if stale or lacking else 0


if __name__ == "__main__":
    sys.exit(main())
