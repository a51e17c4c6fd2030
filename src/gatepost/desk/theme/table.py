# SPDX-License-Identifier: GPL-3.0-or-later
"""Colours by name for light and dark, the pairs that must be readable, and what each role of a drawing looks like."""

from __future__ import annotations

from dataclasses import dataclass

LIGHT = {
    "paper": "#faf9f5", "canvas": "#efede6", "strip": "#f5f4ef", "fence": "#e5e1d5", "fence-here": "#faf9f5", "ink": "#1f2a27",
    "muted": "#525b57", "line": "#cbc6b8", "bed": "#dcd8cb", "slot": "#c4bfae", "accent": "#1f6b55", "accent-ink": "#ffffff",
    "accent-soft": "#d5e3dc", "stop": "#a02c22", "care": "#7d4b00", "ok": "#1f6b55", "slate": "#25302d", "chalk": "#f4f3ee",
    "chalk-muted": "#b3bdb8", "slate-line": "#4a5652", "sunk": "#1a2421", "slate-stop": "#f29185", "slate-care": "#efbd58",
    "slate-ok": "#8fd3b8", "post": "#6b4e37", "rail": "#8d9690", "wood": "#d9b483", "wood-edge": "#8d6237", "ghost": "#e9d8be",
    "carved": "#6a4a30", "strap": "#4a5a57", "strap-bad": "#a5372b", "packing": "#6b4e37", "stud": "#7f8a86", "spoil": "#cfc9b9",
    "travel": "#3c5b7a", "chosen": "#25302d", "field": "#ffffff", "key": "#3c4a46", "key-line": "#b9c2bd", "danger": "#a5372b", "bright": "#ffa62b",
}  # fmt: skip
DARK = {
    "paper": "#1c2422", "canvas": "#222b29", "strip": "#1e2725", "fence": "#161d1b", "fence-here": "#2b3633", "ink": "#f0f1ec",
    "muted": "#b0bab5", "line": "#3e4a46", "bed": "#3a4441", "slot": "#4b5652", "accent": "#1f6b55", "accent-ink": "#ffffff",
    "accent-soft": "#2d4a40", "stop": "#f29185", "care": "#efbd58", "ok": "#8fd3b8", "slate": "#121917", "chalk": "#f4f3ee",
    "chalk-muted": "#b3bdb8", "slate-line": "#3f4b47", "sunk": "#0b100f", "slate-stop": "#f29185", "slate-care": "#efbd58",
    "slate-ok": "#8fd3b8", "post": "#a5825f", "rail": "#8d9690", "wood": "#c79d69", "wood-edge": "#e2c297", "ghost": "#5c4c39",
    "carved": "#4d3320", "strap": "#8fa39e", "strap-bad": "#ea7466", "packing": "#a27a56", "stud": "#c3ccc8", "spoil": "#565f5b",
    "travel": "#9dbbe0", "chosen": "#1f6b55", "field": "#0f1513", "key": "#3c4a46", "key-line": "#7d8984", "danger": "#a5372b", "bright": "#ffb84d",
}  # fmt: skip
THEMES = {"light": LIGHT, "dark": DARK}

# foreground on background: at least 4.5 : 1 in both themes
PAIRS = (
    ("ink", "paper"), ("ink", "canvas"), ("ink", "strip"), ("ink", "fence"), ("ink", "fence-here"), ("ink", "bed"), ("ink", "field"),
    ("muted", "paper"), ("muted", "canvas"), ("muted", "strip"), ("muted", "fence"), ("muted", "fence-here"), ("stop", "fence-here"),
    ("stop", "fence"), ("care", "fence"), ("care", "fence-here"), ("stop", "paper"), ("care", "paper"), ("accent-ink", "accent"),
    ("chalk", "slate"), ("chalk-muted", "slate"), ("chalk", "sunk"), ("chalk", "chosen"), ("chalk-muted", "sunk"), ("slate-stop", "slate"),
    ("slate-care", "slate"), ("slate-ok", "slate"), ("slate-ok", "sunk"), ("chalk", "key"), ("accent-ink", "danger"),
    ("travel", "strip"), ("stop", "strip"), ("ink", "accent-soft"),
)  # fmt: skip

# a tool is told by hue and dash; dashes in line widths, nothing is solid
TOOL_HUES = {
    "light": ("#7a3b6b", "#17808a", "#8a5a10", "#3c5e78", "#5b6b1d", "#8f3d3d"),
    "dark": ("#d59ac6", "#6fd0d8", "#e3b25a", "#9cc3e2", "#bcd077", "#e69a9a"),
}
TOOL_DASHES: tuple[tuple[float, ...], ...] = ((), (5, 2.5), (1.5, 1.5), (6, 2, 1.5, 2), (9, 3), (3, 1.5))


def tool_index(number: int) -> int:
    """Which hue and dash a tool's number has."""
    return (number - 1) % len(TOOL_DASHES)


@dataclass(frozen=True)
class RoleLook:
    """How a role is painted. fill, stroke: colour names or nothing; width: px; dash: in widths; opacity of the fill."""

    fill: str = ""
    stroke: str = ""
    width: float = 1.0
    dash: tuple[float, ...] = ()
    opacity: float = 1.0
    bold: bool = False
    size: float = 11.5


ROLES = {
    "bed": RoleLook("bed", "slot", 1), "slot": RoleLook("", "slot", 3), "wood-edge": RoleLook("", "wood-edge", 1.6), "picture": RoleLook(), "wood-plain": RoleLook("wood", "", 0),
    "wood": RoleLook("wood", "wood-edge", 1.2), "wood-ghost": RoleLook("ghost", "line", 1, (3, 2)), "contour": RoleLook("", "ink", 0.8, (), 0.55),
    "art": RoleLook("carved", "", 0, (), 0.9), "art-bad": RoleLook("strap-bad", "strap-bad", 1.5, (), 0.55), "plate": RoleLook("", "ink", 1.2),
    "cut": RoleLook("", "tool", 2), "cut-fine": RoleLook("", "tool", 1, (), 0.5), "rapid": RoleLook("", "ink", 0.8, (1, 3), 0.6), "tab": RoleLook("accent-soft", "ink", 1.5),
    "tape": RoleLook("strap", "strap", 1.0, (), 0.25), "tape-bad": RoleLook("strap-bad", "strap-bad", 1.0, (), 0.25), "tape-hatch": RoleLook("", "strap", 1.0),
    "tape-bad-hatch": RoleLook("", "strap-bad", 1.0), "fence": RoleLook("packing", "ink", 1.0, (), 0.75), "slot-dark": RoleLook("", "ink", 1.4),
    "scar": RoleLook("", "spoil", 1.6), "insert": RoleLook("stud", "ink", 1.0), "unreached": RoleLook("strap-bad", "strap-bad", 1.0, (), 0.12), "unreached-hatch": RoleLook("", "strap-bad", 1.0),
    "strap": RoleLook("strap", "", 0), "strap-bad": RoleLook("strap-bad", "", 0), "packing": RoleLook("packing", "", 0), "stud": RoleLook("chalk", "ink", 1.2),
    "hold-far": RoleLook("strap", "", 0, (), 0.22), "hold-text": RoleLook("ink", bold=True), "hold-bad-text": RoleLook("stop", bold=True),
    "zero": RoleLook("", "ink", 2.2), "hold-lit": RoleLook("accent", "ink", 2.0), "uncut": RoleLook("", "carved", 1.4, (3, 2)), "cut-done": RoleLook("", "carved", 5.0), "cut-left": RoleLook("", "ink", 1.2, (4, 3)),
    "stroke": RoleLook("", "bright", 6.0), "tip-ring": RoleLook("", "stop", 3.0), "zero-way": RoleLook("", "ink", 1.0, (2, 3)), "zero-label": RoleLook("slate", "", bold=True), "touch": RoleLook("", "accent", 2.4), "touch-text": RoleLook("ink"),
    "bears": RoleLook("", "accent", 1.8, (3, 2)), "bears-way": RoleLook("", "accent", 2.4),
    "bad": RoleLook("", "stop", 2.4), "spot": RoleLook("accent", "", bold=True), "reading": RoleLook("paper", "ink", 2), "reading-odd": RoleLook("care", "ink", 2),
    "reading-out": RoleLook("line", "muted", 1), "reading-text": RoleLook("ink"), "height": RoleLook("paper", "post"), "label": RoleLook("slate", ""),
    "text": RoleLook("ink"), "muted": RoleLook("muted"), "spoilboard": RoleLook("spoil", "", 0), "travel": RoleLook("", "travel", 1.6, (2, 2)),
    "travel-text": RoleLook("travel"), "pass": RoleLook("", "travel", 1.4, (5, 3)), "finished": RoleLook("", "accent", 2.2), "pass-text": RoleLook("ink"),
    "cutter": RoleLook("tool", "", 0), "shank": RoleLook("stud", "", 0), "nut": RoleLook("stud", "ink", 1), "tip": RoleLook("stop", "paper", 2),
    "lane": RoleLook("tool", "", 0), "hands": RoleLook("accent", "", 0), "drying": RoleLook("muted", "", 0), "run-bar": RoleLook("post", "", 0), "closed": RoleLook("bed", "", 0), "lane-text": RoleLook("accent-ink", bold=True), "flow": RoleLook("", "ink", 1.6), "grid": RoleLook("", "line", 1),
    "tool-sample": RoleLook("", "tool", 3), "corner": RoleLook("paper", "ink", 1.4), "grain": RoleLook("", "wood-edge", 1.2, (), 0.6),
    "flaw": RoleLook("", "strap-bad", 2.0), "flaw-under": RoleLook("", "strap-bad", 1.6, (2, 2)), "flaw-text": RoleLook("ink"),
    "place": RoleLook("", "accent", 2.0, (2, 1.6)), "place-now": RoleLook("accent-soft", "accent", 3.0), "place-text": RoleLook("accent", bold=True, size=12.5),
    "block": RoleLook(), "block-edge": RoleLook(), "block-held": RoleLook("carved", "", 0, (), 0.75), "block-edge-held": RoleLook("", "accent", 1.4, (3, 2)),
    "behind": RoleLook("", "accent", 2.4, (3, 2)), "goes": RoleLook("", "ink", 1.2, (4, 2)), "goes-hatch": RoleLook("", "ink", 0.8, (), 0.6),
    "line-across": RoleLook("", "ink", 1.2, (2, 2)), "rough": RoleLook("care", "", 0, (), 0.35), "clean": RoleLook("ok", "", 0, (), 0.25),
}  # fmt: skip


def luminance(colour: str) -> float:
    """Relative luminance (WCAG 2.2)."""
    channels = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    r, g, b = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def contrast(a: str, b: str) -> float:
    """Contrast ratio of two colours (WCAG 2.2)."""
    x, y = sorted((luminance(a), luminance(b)), reverse=True)
    return (x + 0.05) / (y + 0.05)
