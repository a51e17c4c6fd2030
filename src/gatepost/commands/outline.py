# SPDX-License-Identifier: GPL-3.0-or-later
"""A blank's outline out of an SVG or DXF file, or out of an overhead photo with a scale in it."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost import arguments as take
from gatepost.commands.telling import say, show

WORDS = "a blank's outline out of an SVG or DXF file, or out of an overhead photo with a scale in it"
EXAMPLE = "gatepost outline slab.jpg --marks 210,1630 2190,1630 2190,240 210,240 --across 1000 --up 700 --above 40 --lens 1800"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("file", type=Path)
    parser.add_argument(
        "--marks",
        nargs="+",
        default=[],
        metavar="U,V",
        help="two marks, or a rectangle's four corners from its front left, px",
    )
    parser.add_argument("--across", type=take.number(0.0), default=600.0, help="between the first two marks, mm")
    parser.add_argument("--up", type=take.number(0.0), default=0.0, help="the rectangle's other side, mm")
    parser.add_argument("--above", type=take.number(), default=0.0, help="how far the edge stands above the scale, mm")
    parser.add_argument("--lens", type=take.number(0.0), default=0.0, help="height of the lens over the scale, mm")
    parser.add_argument(
        "--picking", type=take.number(0.0, 1000.0), default=1.5, help="px by which a mark is picked wrong"
    )
    parser.add_argument("--job", type=Path, help="put it into this job")
    parser.add_argument("--out", type=Path, help="and save that here instead")
    parser.add_argument("--json", action="store_true")


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    from gatepost.outlining import outline

    more = {name: getattr(asked, name) for name in ("across", "up", "above", "lens", "picking")}
    return outline(asked.file, asked.marks, more, asked.job, asked.out, asked.json, say, show)
