# SPDX-License-Identifier: GPL-3.0-or-later
"""Start a simulated machine; prints “listening HOST:PORT”."""

from __future__ import annotations

import argparse
from pathlib import Path

from gatepost import arguments as take
from gatepost.commands import shop
from gatepost.core.errors import OperatorError

WORDS = "start a simulated machine; prints “listening HOST:PORT”"
EXAMPLE = "gatepost machine --wood lock-7-name-board.gatepost --listen 127.0.0.1:7007 --speed 10"


def arguments(parser: argparse.ArgumentParser) -> None:
    """Its options."""
    parser.add_argument("--wood", type=Path)
    parser.add_argument(
        "--listen", default="127.0.0.1:0", type=take.listen, help="HOST:PORT, or pty for a pseudo-terminal"
    )
    parser.add_argument("--speed", default="1", type=take.speed, help="times faster, or max")
    parser.add_argument("--fault", nargs="*", default=[])
    shop.arguments(parser)


def carry_out(asked: argparse.Namespace) -> int:
    """Do it; gives the exit code."""
    import shutil

    from gatepost.machine import launch
    from gatepost.machine.standins import messages, server

    words = ["--listen", asked.listen, "--speed", asked.speed]
    seed = shop.seed_of(asked)
    words += ["--seed", str(seed)] if seed is not None else []
    unknown = [f for f in asked.fault if f not in messages.FAULTS]
    if unknown:
        raise OperatorError(f"There is no fault “{unknown[0]}”; known are {', '.join(messages.FAULTS)}.")
    folder = launch.own_folder()
    try:
        if asked.wood is not None and asked.wood.suffix == ".npy":
            words += ["--wood", str(asked.wood)]
        elif asked.wood is not None:
            from gatepost.core.job.file import load
            from gatepost.planning import plan

            launch.prepare(plan(load(asked.wood).job), folder)
            words += ["--wood", str(folder / "wood.npy"), "--profile", str(folder / "profile.json")]
        words += ["--keep", str(folder)]
        return server.main(words + (["--fault", *asked.fault] if asked.fault else []))
    finally:
        shutil.rmtree(folder, ignore_errors=True)
