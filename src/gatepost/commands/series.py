# SPDX-License-Identifier: GPL-3.0-or-later
"""A table of texts makes a series: one job a row."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost.commands.telling import say, show

WORDS = "make a series of jobs from a table of texts: {column} in a line of lettering says what each row says"
EXAMPLE = "gatepost series milepost.gatepost mileposts.csv --out mileposts"
WAYS = {"smaller": "smaller", "narrower": "narrower", "two-lines": "two lines"}


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("job", type=Path)
    parser.add_argument("table", type=Path, help="CSV; its first row names the columns")
    parser.add_argument("--out", type=Path, required=True)
    parser.add_argument(
        "--too-long", choices=tuple(WAYS), default="smaller", help="what is done to a text that is too long"
    )
    parser.add_argument(
        "--fill", action="store_true", help="as many pieces on a board as fit, in place of one board for each row"
    )
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code: 1 while any row has a stop."""
    from gatepost.series import series

    told = series(asked.job, asked.table, asked.out, WAYS[asked.too_long], say, asked.fill)  # type: ignore[arg-type]
    if asked.json:
        show(told)
    else:
        for file in dict.fromkeys(row["file"] for row in told):
            print(asked.out / file)
    return 1 if any(f["level"] == "stop" for row in told for f in row["findings"]) else 0
