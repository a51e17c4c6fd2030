# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes the example jobs anew, each from its file of commands and nothing else: what ``gatepost edit - --out NEW FILE`` does."""

from __future__ import annotations

from pathlib import Path

from gatepost.editing import NOTHING, edit

HERE = Path(__file__).parent
SHOWN = HERE.parent / "src" / "gatepost" / "assets" / "examples"


def main() -> None:
    """All of them."""
    for file in sorted(HERE.glob("*.jsonl")):
        edit(NOTHING, file, SHOWN / f"{file.stem}.gatepost", print)


if __name__ == "__main__":
    main()
