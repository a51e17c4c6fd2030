# SPDX-License-Identifier: GPL-3.0-or-later
"""How an SVG element is painted: its attributes, the rules of style sheets, its own style, and what it inherits (SVG 1.1, chapter 6)."""

from __future__ import annotations

import re
from typing import Any

INK, PAPER = "ink", "paper"
INHERITED = (
    "fill", "fill-rule", "fill-opacity", "stroke", "stroke-width", "stroke-linecap", "stroke-linejoin", "stroke-miterlimit", "stroke-opacity",
    "stroke-dasharray", "visibility", "color", "clip-rule", "marker", "marker-start", "marker-mid", "marker-end",
)  # fmt: skip
OWN = ("display", "opacity", "clip-path", "mask", "filter")
WHITE = re.compile(
    r"(#fff(f?|fff|fffff)|white|rgba?\(\s*(255\s*[, ]\s*){2}255\s*([,/]\s*1(\.0*)?\s*)?\))", re.IGNORECASE
)
_RULE = re.compile(r"([^{}]+)\{([^{}]*)\}")
_SELECTOR = re.compile(r"(?:([\w*-]+))?((?:[.#][\w-]+)*)")


class Styles:
    """The rules of a drawing's style sheets."""

    def __init__(self, root: Any) -> None:
        self._rules: list[tuple[int, str, frozenset[str], str, dict[str, str]]] = []
        for sheet in root.iter():
            if isinstance(sheet.tag, str) and sheet.tag.rpartition("}")[2] == "style":
                self._read(re.sub(r"/\*.*?\*/", "", "".join(sheet.itertext()), flags=re.DOTALL))
        self._rules.sort(key=lambda r: r[0])

    def _read(self, text: str) -> None:
        for selectors, body in _RULE.findall(text):
            for selector in selectors.split(","):
                met = _SELECTOR.fullmatch(selector.strip())
                if met is None:
                    continue
                marks = re.findall(r"[.#][\w-]+", met[2])
                classes = frozenset(m[1:] for m in marks if m[0] == ".")
                own = next((m[1:] for m in marks if m[0] == "#"), "")
                weight = 100 * bool(own) + 10 * len(classes) + (met[1] not in (None, "*"))
                self._rules.append((weight, met[1] or "*", classes, own, declared(body)))

    def of(self, element: Any, name: str, inherited: dict[str, str]) -> dict[str, str]:
        """How an element is painted. inherited: of what it is in."""
        out = {k: v for k, v in inherited.items() if k in INHERITED}
        found = {n: element.get(n) for n in (*INHERITED, *OWN) if element.get(n)}
        classes = set((element.get("class") or "").split())
        for _, tag, wanted, own, rule in self._rules:
            if tag in ("*", name) and wanted <= classes and (not own or own == element.get("id")):
                found |= rule
        found |= declared(element.get("style") or "")
        return out | {k: v for k, v in found.items() if v != "inherit"}


def declared(text: str) -> dict[str, str]:
    """Properties of a style by name."""
    out: dict[str, str] = {}
    for rule in text.split(";"):
        name, _, value = rule.partition(":")
        if value.strip():
            out[name.strip()] = value.replace("!important", "").strip()
    return out


def paint_of(words: str, style: dict[str, str]) -> tuple[str, str]:
    """Whether something is painted, as ink or as paper, or not at all; and what of it is not taken."""
    words = words.strip()
    if words.lower() == "currentcolor":
        words = style.get("color", "black").strip()
    if words.lower() in ("none", "transparent", "") or re.fullmatch(r"rgba\(.*,\s*0(\.0*)?\s*\)", words):
        return "", ""
    if words.startswith("url("):
        return INK, "the gradient or pattern"
    return (PAPER if WHITE.fullmatch(words) else INK), ""
