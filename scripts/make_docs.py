# SPDX-License-Identifier: GPL-3.0-or-later
"""Generates what docs/ takes from the code: findings.md, job.schema.json, keys.md. With --check it only compares."""

from __future__ import annotations

import ast
import json
import sys
from pathlib import Path

from gatepost.core.job.model import Job
from gatepost.desk.shell.keys import KEYS, MORE

ROOT = Path(__file__).parents[1]
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


def _levels(node: ast.expr) -> str:
    found = [
        n.attr.lower()
        for n in ast.walk(node)
        if isinstance(n, ast.Attribute) and n.attr in ("STOP", "CARE", "NOTE", "OK")
    ]
    return " or ".join(dict.fromkeys(found)) or "stop or care, by amount"


def codes() -> dict[str, tuple[str, str, str]]:
    """Code -> level, where, message."""
    out: dict[str, tuple[str, str, str]] = {}
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
                    code = _words(node.args[0], names).replace("…", "<stage>")
                    if code != "<stage>":
                        out.setdefault(
                            code,
                            (_levels(node.args[1]), str(path.relative_to(ROOT / "src")), _words(node.args[3], names)),
                        )
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
    for code, (level, where, words) in sorted(codes().items()):
        lines.append(f"| `{code}` | {level} | {' '.join(words.split())[:200].replace('|', '/')} | {where} |")
    return "\n".join(lines) + "\n"


def keys_page() -> str:
    """docs/keys.md."""
    rows = [(key, words) for _, key, words in KEYS] + list(MORE)
    return "# Keys\n\nThe same list is at F1.\n\n| key | does |\n|---|---|\n" + "".join(
        f"| {k} | {w} |\n" for k, w in rows
    )


def main() -> int:
    """Write, or compare."""
    schema = json.dumps(Job.model_json_schema(), indent=1, sort_keys=True) + "\n"
    pages = {"findings.md": findings_page(), "keys.md": keys_page(), "job.schema.json": schema}
    stale = []
    for name, text in pages.items():
        path = ROOT / "docs" / name
        if "--check" in sys.argv:
            if not path.exists() or path.read_text("utf-8") != text:
                stale.append(name)
        else:
            path.write_text(text, "utf-8")
    if stale:
        print(f"docs/{', docs/'.join(stale)} no longer say what the code does. Run make docs.", file=sys.stderr)
    return 1 if stale else 0


if __name__ == "__main__":
    sys.exit(main())
