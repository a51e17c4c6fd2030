# SPDX-License-Identifier: GPL-3.0-or-later
"""Working: how a figure came about, kept so that it can be read and reckoned again."""

from __future__ import annotations

import ast
import math
import operator
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import lru_cache

_OPERATORS: dict[type[ast.operator], Callable[[float, float], float]] = {
    ast.Add: operator.add, ast.Sub: operator.sub, ast.Mult: operator.mul, ast.Div: operator.truediv, ast.Pow: operator.pow,
}  # fmt: skip
_SIGNS = {ast.Add: "+", ast.Sub: "−", ast.Mult: "×", ast.Div: "÷", ast.Pow: "^"}
_FUNCTIONS: dict[str, Callable[..., float]] = {
    "sqrt": math.sqrt, "ceil": math.ceil, "min": min, "max": max, "abs": abs,
    "tan": lambda d: math.tan(math.radians(d)), "sin": lambda d: math.sin(math.radians(d)),
    "cos": lambda d: math.cos(math.radians(d)), "atan": lambda v: math.degrees(math.atan(v)),
    "acos": lambda v: math.acos(v),
}  # fmt: skip


@dataclass(frozen=True)
class Named:
    """One value in a working. unit: a kind of quantity (length, force, angle...) or a unit's own sign."""

    name: str
    value: float
    unit: str = "length"
    note: str = ""


@dataclass(frozen=True)
class Working:
    """An expression over named values, with what it rests on.

    expression: sums, products, powers and sqrt, ceil, min, max, abs, tan, sin, cos, atan (degrees) and
    acos (radians); names as in ``values``. result: what the core reckoned, equal to ``evaluate()``.
    """

    expression: str
    values: tuple[Named, ...]
    result: float
    unit: str = "length"
    assumption: str = ""
    source: str = ""
    shop_rule: bool = False
    _parsed: ast.Expression | None = field(default=None, repr=False, compare=False)

    def evaluate(self) -> float:
        """Reckon the expression again from its named values alone."""
        known = {v.name: v.value for v in self.values}
        return _evaluate(_read(self.expression), known)

    def sentence(self, show: Callable[[float, str], str]) -> str:
        """The expression with this job's numbers in it. show: writes a value of a unit."""
        known = {v.name: show(v.value, v.unit) for v in self.values}
        return f"{_spell(_read(self.expression), known)} = {show(self.result, self.unit)}"


@lru_cache(maxsize=512)
def _read(expression: str) -> ast.expr:
    return ast.parse(expression, mode="eval").body


def working(
    expression: str,
    *values: Named,
    unit: str = "length",
    assumption: str = "",
    source: str = "",
    shop_rule: bool = False,
) -> Working:
    """Reckon an expression and keep how."""
    known = {v.name: v.value for v in values}
    result = _evaluate(_read(expression), known)
    return Working(expression, values, result, unit, assumption, source, shop_rule)


def _evaluate(node: ast.expr, known: Mapping[str, float]) -> float:
    if isinstance(node, ast.Constant) and isinstance(node.value, (int, float)):
        return float(node.value)
    if isinstance(node, ast.Name):
        return known[node.id]
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub):
        return -_evaluate(node.operand, known)
    if isinstance(node, ast.BinOp):
        return _OPERATORS[type(node.op)](_evaluate(node.left, known), _evaluate(node.right, known))
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in _FUNCTIONS:
        return float(_FUNCTIONS[node.func.id](*(_evaluate(a, known) for a in node.args)))
    raise ValueError(f"not an expression of a working: {ast.dump(node)}")


def _weight(node: ast.expr) -> int:
    if isinstance(node, ast.BinOp):
        return {ast.Add: 1, ast.Sub: 1, ast.Mult: 2, ast.Div: 2, ast.Pow: 3}[type(node.op)]
    return 4


def _spell(node: ast.expr, known: Mapping[str, str]) -> str:
    if isinstance(node, ast.Name):
        return known[node.id]
    if isinstance(node, ast.Constant):
        return str(node.value)
    if isinstance(node, ast.UnaryOp):
        return "−" + _spell(node.operand, known)
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
        words = {"ceil": "round up", "min": "least of", "max": "greatest of", "sqrt": "√"}
        name = words.get(node.func.id, node.func.id)
        return f"{name}({', '.join(_spell(a, known) for a in node.args)})"
    assert isinstance(node, ast.BinOp)
    left, right = _spell(node.left, known), _spell(node.right, known)
    if right.startswith("−") and not isinstance(node.right, ast.BinOp):
        right = f"({right})"
    if _weight(node.left) < _weight(node):
        left = f"({left})"
    if _weight(node.right) < _weight(node) or (
        _weight(node.right) == _weight(node) and isinstance(node.op, (ast.Sub, ast.Div))
    ):
        right = f"({right})"
    return f"{left} {_SIGNS[type(node.op)]} {right}"
