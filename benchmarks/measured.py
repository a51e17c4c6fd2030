# SPDX-License-Identifier: GPL-3.0-or-later
"""docs/measured.md: what was measured, how many, the worst, the goal, and the commit that it was measured on. The runners write
its rows; nobody types them."""

from __future__ import annotations

import subprocess
from pathlib import Path

PAGE = Path(__file__).parents[1] / "docs" / "measured.md"
HEAD = """# Measured

Written by `make soak`, `make bench` and `make mutants`, row by row: what, how many, what came of it or the worst, the goal, with
the seed and the commit. Absolute times move by tens of per cent on shared machines; ratios are to a baseline of the same run.
"""
COLUMNS = "| what | how many | came to | goal | seed | commit |\n|---|---|---|---|---|---|\n"


def commit() -> str:
    """The commit that the tree is at, with a + where it was changed since."""
    root = PAGE.parents[1]

    def git(*words: str) -> str:
        return subprocess.run(["git", *words], cwd=root, capture_output=True, text=True).stdout.strip()

    changed = [line for line in git("status", "--porcelain").splitlines() if not line.endswith("docs/measured.md")]
    return git("rev-parse", "--short", "HEAD") + ("+" if changed else "")


def read() -> dict[str, dict[str, str]]:
    """Sections and their rows by what they measure."""
    out: dict[str, dict[str, str]] = {}
    section = ""
    for line in PAGE.read_text("utf-8").splitlines() if PAGE.exists() else []:
        if line.startswith("## "):
            section = line[3:]
            out.setdefault(section, {})
        elif line.startswith("| ") and not line.startswith("| what") and section:
            out[section][line.split("|")[1].strip()] = line
    return out


def record(section: str, what: str, count: object, came_to: object, goal: object = "", seed: object = "") -> None:
    """Put a row in the place of the one that measured the same."""
    rows = read()
    cells = [str(c).replace("|", "/").replace("\n", " ") for c in (what, count, came_to, goal, seed, commit())]
    rows.setdefault(section, {})[what] = "| " + " | ".join(cells) + " |"
    text = HEAD + "".join(
        f"\n## {name}\n\n{COLUMNS}" + "\n".join(lines.values()) + "\n" for name, lines in rows.items()
    )
    PAGE.write_text(text, "utf-8")
