# SPDX-License-Identifier: GPL-3.0-or-later
"""Starts a simulated machine for a job, as a process of its own."""

from __future__ import annotations

import contextlib
import io
import json
import os
import re
import select
import shutil
import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from shapely.geometry import Polygon

from gatepost.core.blank.shape import polygon
from gatepost.core.blank.top import underside_of
from gatepost.core.errors import OperatorError
from gatepost.core.hold.solids import Solid
from gatepost.core.job.machine import Machine
from gatepost.core.job.tool import Tool
from gatepost.core.plan.planned import PlannedSetup
from gatepost.core.plan.result import Plan
from gatepost.core.wood.field import HeightField

PREFIX = "gatepost-machine-"
_OWNED = re.compile(rf"{PREFIX}(\d+)-")  # a machine's folder is named after the process that it belongs to
A_DAY = 86_400.0  # s after which a folder that an older Gatepost left without a name is taken away
STARTS_WITHIN = 60.0  # s, on a machine that has all its kernels to compile


@dataclass
class Simulated:
    """A running simulated machine. owned: whether its folder was made for it and goes with it."""

    process: subprocess.Popen[str]
    host: str
    port: int
    folder: Path
    owned: bool = False

    def end(self) -> None:
        """End the process, and take its folder away."""
        _end(self.process)
        if self.owned:
            shutil.rmtree(self.folder, ignore_errors=True)


def _end(process: subprocess.Popen[str]) -> None:
    process.terminate()
    try:
        process.wait(timeout=5)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()
    if process.stdout is not None:
        process.stdout.close()


def own_folder() -> Path:
    """A folder for a machine of this process; those whose process is gone are taken away."""
    for left in Path(tempfile.gettempdir()).glob(f"{PREFIX}*"):
        owner = _OWNED.match(left.name)
        with contextlib.suppress(OSError):
            told = left.stat()
            gone = not Path(f"/proc/{owner[1]}").exists() if owner is not None else time.time() - told.st_mtime > A_DAY
            if told.st_uid == os.getuid() and gone:
                shutil.rmtree(left, ignore_errors=True)
    return Path(tempfile.mkdtemp(prefix=f"{PREFIX}{os.getpid()}-"))


def profile_of(machine: Machine) -> dict[str, object]:
    """The machine's profile, as the simulated machine takes it."""
    return {
        "travel": [machine.travel_x, machine.travel_y, machine.travel_z], "nose_at_home": machine.nose_at_home,
        "rapid": [machine.rapid_xy, machine.rapid_xy, machine.rapid_z], "accel": [machine.accel_xy, machine.accel_xy, machine.accel_z],
        "deviation": machine.deviation, "rpm": [machine.rpm_min, machine.rpm_max], "nut": [machine.nut_diameter, machine.nut_height],
        "shoe": [machine.shoe, machine.shoe_above, machine.shoe_height],
    }  # fmt: skip


def tool_words(tool: Tool) -> dict[str, object]:
    """A tool, as the link tells it."""
    return {
        "number": tool.number,
        "kind": tool.kind,
        "diameter": tool.diameter,
        "angle": tool.angle,
        "tip": tool.tip,
        "radius": tool.radius,
        "length": tool.length,
        "shank": tool.shank,
        "edge": tool.cutting_length,
    }


def standing_words(solids: tuple[Solid, ...]) -> list[dict[str, object]]:
    """What stands on the bed, as the link tells it."""
    return [
        {
            "name": s.hold, "part": s.part, "z0": s.bottom, "z1": s.top,
            "outline": [[round(float(x), 3), round(float(y), 3)] for x, y in list(s.outline.exterior.coords)[:-1]],
        }
        for s in solids
    ]  # fmt: skip


MEASURED, LABELLED = 0.05, 0.3  # mm by which a board may be thicker or thinner than a caliper said, or its label


def write_wood(
    heights: HeightField, path: Path, x: float, y: float, outline: Polygon | None = None, sure: float | None = None,
    turned: tuple[float, float, float] | None = None,
) -> None:  # fmt: skip
    """Heights for the simulated machine: float32, NaN off the wood, bed coordinates. x, y: of the blank on the bed;
    outline: of the blank, in its own coordinates, for its sides; sure: how well its thickness is known; turned: degrees by which it
    lies turned, and about which place."""
    _write(path, _npy(np.where(heights.wood, heights.z, np.nan).astype(np.float32)))
    frame: dict[str, object] = {"x0": heights.x0 + x, "y0": heights.y0 + y, "cell": heights.cell}
    if outline is not None:
        frame["outline"] = [[float(px) + x, float(py) + y] for px, py in list(outline.exterior.coords)[:-1]]
    frame |= {"thickness_good_to": sure} if sure is not None else {}
    frame |= {"turned": [*turned]} if turned is not None else {}
    _write(path.with_suffix(".json"), json.dumps(frame).encode())


def _npy(heights: np.ndarray) -> bytes:
    out = io.BytesIO()
    np.save(out, heights)
    return out.getvalue()


def _write(path: Path, data: bytes) -> None:
    try:
        path.write_bytes(data)
    except OSError as error:
        raise OperatorError(
            f"The simulated machine's wood can't be written in {path.parent}: {error.strerror or error}."
        ) from None


def command(folder: Path, listen: str, speed: str, faults: list[str], seed: int | None = None) -> list[str]:
    """The simulated machine's command line for a prepared folder."""
    words = [
        sys.executable,
        "-m",
        "gatepost.machine.standins.server",
        "--listen",
        listen,
        "--speed",
        speed,
        "--keep",
        str(folder),
        "--with-parent",
    ]
    if (folder / "wood.npy").exists():
        words += ["--wood", str(folder / "wood.npy")]
    if (folder / "profile.json").exists():
        words += ["--profile", str(folder / "profile.json")]
    words += ["--seed", str(seed)] if seed is not None else []
    return words + (["--fault", *faults] if faults else [])


def underside(plan: Plan) -> np.ndarray | None:
    """How high the underside stands over the bed, cell by cell of the board as it is laid first; nothing where nobody read it."""
    seat = plan.surfaced.seats.shimmed if plan.setups[0].on_shims and plan.surfaced.seats is not None else None
    under = underside_of(plan.job.blank, seat.heights if seat is not None else None)
    if under is None:
        return None
    field = plan.rough
    rows, columns = field.z.shape
    x = field.x0 + field.cell * np.arange(columns, dtype=np.float64)
    y = field.y0 + field.cell * np.arange(rows, dtype=np.float64)
    return np.asarray(under.over(x, y), np.float32)


@dataclass(frozen=True)
class LeftLying:
    """The wood of a run that ended early, on a machine that is started anew. zeros: machine coordinates found in that run; tool: in
    the collet."""

    setup: PlannedSetup
    wood: HeightField
    zeros: dict[str, float] = field(default_factory=dict)
    tool: Tool | None = None

    def off(self, plan: Plan) -> tuple[float, float, float]:
        """By how much board and bit are otherwise than planned, by those zeros."""
        m, mark = plan.job.machine, self.setup.placed.mark
        planned = {"x": mark[0] - m.travel_x, "y": mark[1] - m.travel_y}
        if self.tool is not None:
            planned["z"] = self.setup.zero_height + self.tool.length - m.nose_at_home
        x, y, z = (self.zeros[a] - planned[a] if a in self.zeros and a in planned else 0.0 for a in "xyz")
        return x, y, z


def prepare(plan: Plan, folder: Path, lying: LeftLying | None = None) -> None:
    """Write wood and profile for the simulated machine. lying: which setup's place the wood lies in, and how it is
    now; else the board front up at the place of the first setup, untouched."""
    setup, wood = (lying.setup, lying.wood) if lying is not None else (plan.setups[0], plan.rough)
    x, y, longer = lying.off(plan) if lying is not None else (0.0, 0.0, 0.0)
    outline = polygon(setup.blank if lying else plan.job.blank)
    turned = (setup.setup.skew, *setup.placed.mark) if lying is not None and setup.setup.skew else None
    sure = MEASURED if plan.thickness.measured else LABELLED
    write_wood(wood, folder / "wood.npy", setup.setup.x + x, setup.setup.y + y, outline, sure, turned)
    below = underside(plan) if lying is None else None
    if below is not None:
        _write(folder / "wood-under.npy", _npy(below))
    profile = profile_of(plan.job.machine)
    if lying is not None and lying.tool is not None:
        profile["collet"] = {"tool": tool_words(lying.tool), "longer": longer}
    _write(folder / "profile.json", json.dumps(profile).encode())


def start(
    plan: Plan, speed: str = "1", faults: list[str] | None = None, folder: Path | None = None,
    lying: LeftLying | None = None, seed: int | None = None,
) -> Simulated:  # fmt: skip
    """Start a simulated machine with the plan's wood on its bed. seed: of the shop, which is a little otherwise than
    planned; without one all is exact. Raises OperatorError when it won't start."""
    owned = folder is None
    folder = folder or own_folder()
    try:
        prepare(plan, folder, lying)
        return spawn(command(folder, "127.0.0.1:0", speed, faults or [], seed), folder, owned)
    except BaseException:
        if owned:
            shutil.rmtree(folder, ignore_errors=True)
        raise


def spawn(words: list[str], folder: Path, owned: bool = False) -> Simulated:
    """Start a simulated machine by its command line. Raises OperatorError when it won't start."""
    process = subprocess.Popen(words, stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    ready, _, _ = select.select([process.stdout], [], [], STARTS_WITHIN)
    line = process.stdout.readline() if ready else ""
    if not line.startswith("listening "):
        _end(process)
        raise OperatorError("The simulated machine did not start. Run “gatepost machine” to see why.")
    host, _, port = line.removeprefix("listening ").strip().rpartition(":")
    return Simulated(process, host, int(port), folder, owned)
