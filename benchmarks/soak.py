# SPDX-License-Identifier: GPL-3.0-or-later
"""Long trials of what a shop does to files: job files damaged, saves cut off, programs spoiled. Seeded; a sample is in
the tests. ``make soak`` runs them all and prints what each came to."""

from __future__ import annotations

import copy
import io
import json
import os
import random
import signal
import sys
import tempfile
import time
import zipfile
from collections import Counter
from pathlib import Path

import engine
from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.job.file import Document, from_bytes, load, save, to_bytes
from gatepost.core.plan import plan
from gatepost.core.program.read import read, read_plainly

EXAMPLES = Path(__file__).parents[1] / "src" / "gatepost" / "assets" / "examples"


# -- job files --------------------------------------------------------------------------------------------------------


def damaged(data: bytes, seed: int) -> bytes:
    """A job file cut short or changed somewhere."""
    chance = random.Random(seed)
    out = bytearray(data)
    way = seed % 6
    at = chance.randrange(len(out))
    if way == 0:
        return bytes(out[:at])
    if way == 1:
        for _ in range(chance.choice((1, 1, 2, 40))):
            out[chance.randrange(len(out))] = chance.randrange(256)
    elif way == 2:
        out[at] ^= 1 << chance.randrange(8)
    elif way == 3:
        size = chance.randrange(1, 600)
        out[at : at + size] = bytes(len(out[at : at + size]))
    elif way == 4:
        size = chance.randrange(1, 600)
        del out[at : at + size]
    else:
        size = chance.randrange(1, 600)
        other = chance.randrange(len(out))
        out[at:at] = out[other : other + size]
    return bytes(out)


def of_damage(document: Document, seed: int) -> str:
    """What a damaged file opens to: ``same`` or ``refused``; anything else raises."""
    data = to_bytes(document)
    try:
        again = from_bytes(damaged(data, seed), "board.gatepost")
    except UnusableFile as error:
        assert "board.gatepost" in str(error) or "journal" in str(error), error
        assert len(str(error)) > 25, error
        return "refused"
    assert again == document, f"seed {seed} opened to another job"
    return "same"


STRANGE = (
    None, True, -1, 0, 1e308, -1e308, 1e-320, 10**30, "", "x" * 5000, "\u0000", "\ud800", [], {}, [[]], "NaN",
    [[[[[[1]]]]]] * 50, "../../x", 0.1 + 0.2, "1e5",
)  # fmt: skip


def strange(document: Document, seed: int) -> bytes:
    """A whole file, sums and all, with one or two values of the job made strange."""
    chance = random.Random(seed)
    raw = document.job.model_dump(mode="json")
    for _ in range(chance.choice((1, 1, 2))):
        node = raw
        while True:
            keys = list(node) if isinstance(node, dict) else list(range(len(node)))
            if not keys:
                break
            key = chance.choice(keys)
            below = node[key]
            if isinstance(below, (dict, list)) and below and chance.random() < 0.85:
                node = below
                continue
            node[key] = copy.deepcopy(chance.choice(STRANGE))
            break
    return packed({"job.json": json.dumps(raw).encode(), "journal.jsonl": b""})


def packed(parts: dict[str, bytes]) -> bytes:
    """A job file of parts, with its sums."""
    import hashlib

    sums = {name: hashlib.sha256(data).hexdigest() for name, data in parts.items()}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in {**parts, "sums.json": json.dumps(sums).encode()}.items():
            archive.writestr(name, data)
    return out.getvalue()


def of_strangeness(document: Document, seed: int, planned: bool = True) -> str:
    """What a strange job comes to: refused with a sentence, or opened, and planned without a crash."""
    try:
        again = from_bytes(strange(document, seed), "board.gatepost")
    except UnusableFile as error:
        assert str(error).endswith("."), error
        return "refused"
    if not planned:
        return "opened"
    try:
        plan(again.job, again.journal, coarse=True)
    except OperatorError:
        return "opened, not to be planned"
    return "planned"


# -- saving -----------------------------------------------------------------------------------------------------------


def of_a_kill(folder: Path, old: Document, new: Document, seed: int) -> str:
    """A save killed somewhere: the file is the old one or the new one, whole."""
    path = folder / "kept.gatepost"
    save(old, path)
    ready, told = os.pipe()
    child = os.fork()
    if child == 0:
        os.write(told, b"x")
        save(new, path)
        os._exit(0)
    os.read(ready, 1)
    until = time.perf_counter() + random.Random(seed).random() * 0.05
    while time.perf_counter() < until:
        pass
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    os.close(ready)
    os.close(told)
    found = load(path)
    assert found in (old, new), "neither the old file nor the new one"
    for left in folder.iterdir():
        if left != path:
            left.unlink()
    return "old" if found == old else "new"


# -- programs ---------------------------------------------------------------------------------------------------------

PIECES = (
    "G0", "G1", "G2", "G3", "G20", "G21", "G90", "G91", "G53", "G99", "M3", "M6", "M30", "T2", "X1", "Y-2.5", "Z3", "I4",
    "J-1", "R3", "F500", "F0", "S12000", "(", ")", ";", "%", "\n", "\r\n", "\r", "\t", " ", "X", "-", "..", "1e9", "é", "\0",
    "X99999999999", "X" * 2100, "N10", "g1x2", "\u2028",
)  # fmt: skip


def of_a_program(text: str, seed: int) -> str:
    """A program with pieces put in, taken out or doubled: both readers say the same, and nothing breaks."""
    chance = random.Random(seed)
    lines = text.splitlines(keepends=True)[: chance.randrange(5, 60)]
    for _ in range(chance.randrange(1, 12)):
        at = chance.randrange(len(lines))
        where = chance.randrange(len(lines[at]) + 1)
        lines[at] = lines[at][:where] + chance.choice(PIECES) + lines[at][where + chance.choice((0, 0, 1, 4)) :]
    spoiled = "".join(lines)
    fast, plain = read(spoiled), read_plainly(spoiled)
    assert fast.complaints == plain.complaints and fast.comments == plain.comments
    assert fast.line.tolist() == plain.line.tolist()
    return "complained of" if fast.complaints else "read"


# -- photos -----------------------------------------------------------------------------------------------------------


def of_a_photo(seed: int) -> str:
    """A slab photographed from anywhere over it, its marks picked with their error: is the outline within its ±, and how
    near is it when the marks are exact."""
    import numpy as np
    import shapely

    sys.path.insert(0, str(Path(__file__).parents[1]))
    from tests.core.photos import Camera, render, waney

    from gatepost.core.blank import photo as core
    from gatepost.core.blank.trace import traced
    from gatepost.core.job.model import Photo

    chance = np.random.default_rng(seed)
    length, width, thick = chance.uniform(500, 1000), chance.uniform(200, 350), chance.uniform(15, 75)
    slab = waney(seed, length, width)
    high = chance.uniform(1300, 2200)
    focal = 1500.0 * high / (1.35 * max(length + 150, 1.5 * (width + 150)))
    middle = np.array([length, width]) / 2.0
    at, look = (middle + chance.uniform(-0.12, 0.12, 2) * (length, width) for _ in range(2))
    camera = Camera((*at, high), tuple(look), chance.uniform(-12, 12), focal)
    corners = np.array(
        [[-60, -60, 0], [length + 60, -60, 0], [length + 60, width + 60, 0], [-60, width + 60, 0]], float
    )
    exact = camera.see(corners)
    seen = traced(render(slab, thick, camera, seed), "a photo")
    true = shapely.LinearRing(slab + 60.0)
    out = []
    for marks, above, lens in (
        (exact, thick, high),
        (exact + chance.normal(0, 1.5, (4, 2)), thick + chance.uniform(-1, 1), high + chance.normal(0, 10)),
    ):
        photo = Photo(
            file="photo-000000000000.jpg", squared="photo-000000000000-squared.jpg", marks=tuple(map(tuple, marks)),
            across=length + 120.0, up=width + 120.0, above=max(above, 0.0), lens=lens, lens_doubt=20.0,
        )  # fmt: skip
        done = core.measured(photo, seen.size, seen.outline, seed)
        off = float(shapely.distance(shapely.points(done.outline), true).max())
        out.append((off, done.doubt, core.side_seen(photo, slab + 60.0, done.under)))
    fine = out[0][0] <= max(1.5, 0.003 * length) + out[0][2]
    return f"{'exact' if fine else 'NOT NEAR'}, {'within ±' if out[1][0] <= out[1][1] else 'outside ±'}"


def within(share: float) -> str:
    """Whether something is off by no more than the machine's own noise allows."""
    if share > 1.0:
        raise AssertionError(f"off by {share:.2f} times what its noise allows")
    return "within its noise"


def main() -> int:
    """All of it; with words after the number, only trials whose names have one of them."""
    times = int(sys.argv[1]) if len(sys.argv) > 1 else 10_000
    only = sys.argv[2:]
    document = load(EXAMPLES / "lock-7-name-board.gatepost")
    quay = load(EXAMPLES / "quay-plate.gatepost")
    text = "\n".join(p.text for s in plan(quay.job).setups for p in s.programs)
    with tempfile.TemporaryDirectory() as folder:
        trials = (
            ("job files damaged", times, lambda seed: of_damage(document, seed)),
            ("job files with strange values", times // 2, lambda seed: of_strangeness(quay, seed)),
            ("saves killed", times // 10, lambda seed: of_a_kill(Path(folder), document, quay, seed)),
            ("programs spoiled", times, lambda seed: of_a_program(text, seed)),
            ("photos", times // 20, of_a_photo),
            ("zeros touched off on the engine", times, lambda seed: within(engine.of_a_zero(seed))),
            ("edges touched for their angle", times, lambda seed: within(engine.of_a_skew(seed))),
            ("power cuts", times // 10, engine.of_a_power_cut),
        )
        failed = 0
        for name, count, trial in trials:
            if only and not any(word in name for word in only):
                continue
            outcomes: Counter[str] = Counter()
            for seed in range(count):
                try:
                    outcomes[trial(seed)] += 1
                except Exception as error:
                    failed += 1
                    outcomes["FAILED"] += 1
                    if outcomes["FAILED"] <= 5:
                        print(f"  seed {seed}: {type(error).__name__}: {str(error)[:300]}")
            if name == "photos" and outcomes["exact, within ±"] < 0.95 * count:
                failed += 1
            print(f"{name}: " + ", ".join(f"{n} {what}" for what, n in sorted(outcomes.items())), flush=True)
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
