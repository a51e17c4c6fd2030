# SPDX-License-Identifier: GPL-3.0-or-later
"""One class name has one meaning in the whole of the house, and modules and functions can be taken in."""

from __future__ import annotations

import ast
from collections import Counter
from pathlib import Path

import pytest

from tests.conftest import ROOT

SOURCE = ROOT / "src" / "gatepost"
COMPILED = {
    "core/program/scanner.py:scan",
    "core/wood/kernels.py:sweep",
}  # one loop each, that a compiler wants in one piece
MODULES = sorted(p for p in SOURCE.rglob("*.py"))


def test_no_two_classes_share_a_name():
    names = Counter(
        node.name
        for path in SOURCE.rglob("*.py")
        for node in ast.parse(path.read_text("utf-8")).body
        if isinstance(node, ast.ClassDef)
    )
    assert [name for name, count in names.items() if count > 1 and not name.startswith("_")] == []


@pytest.mark.parametrize(
    "path",
    [p for folder in ("tests", "benchmarks", "scripts") for p in sorted((ROOT / folder).rglob("*.py"))],
    ids=lambda p: str(p.relative_to(ROOT)),
)
def test_what_proves_it_can_be_taken_in_too(path: Path):
    assert len(path.read_text("utf-8").splitlines()) <= 400


@pytest.mark.parametrize("path", MODULES, ids=lambda p: str(p.relative_to(SOURCE)))
def test_modules_and_functions_can_be_taken_in(path: Path):
    name, text = str(path.relative_to(SOURCE)), path.read_text("utf-8")
    assert len(text.splitlines()) <= 400
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.FunctionDef) and f"{name}:{node.name}" not in COMPILED:
            lines = (node.end_lineno or 0) - node.lineno + 1
            assert lines <= 80, node.name
