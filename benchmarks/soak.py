# SPDX-License-Identifier: GPL-3.0-or-later
"""Long trials of what a shop and an attacker do: files damaged, saves and runs cut off, programs spoiled, machines that lie.

``make soak`` says its seed and runs each part for nine minutes at most; called again it goes on where it stopped. Each part
writes its row to docs/measured.md. What it finds becomes a fixed case in the tests. ``make soak WORDS=photos`` runs a part.
"""

from __future__ import annotations

import argparse
import copy
import io
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
import zipfile
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import days
import engine
import histories
import hostile
import measured
import messages
import programs
import shop
import window_trials
from gatepost.core.cache import Memory
from gatepost.core.errors import OperatorError, UnusableFile
from gatepost.core.job.file import Document, from_bytes, load, save, to_bytes
from gatepost.core.plan.pipeline import plan
from gatepost.core.program.plain import read_plainly
from gatepost.core.program.read import read

STATE = Path(__file__).parents[1] / ".soak"
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
    from gatepost.core.job.blank import Photo

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


# -- journals ---------------------------------------------------------------------------------------------------------


def of_a_journal(document: Document, seed: int) -> str:
    """A whole file whose journal has strange entries: refused with a sentence, or opened, planned and reckoned on."""
    from gatepost.core.job.journal import NUMBERS, WANTED, Kind
    from gatepost.core.zero.trust import trust, where

    chance = random.Random(seed)
    lines = []
    for n in range(1, chance.randrange(2, 14)):
        kind = chance.choice(list(Kind.__args__))
        names = [*WANTED.get(kind, ()), *chance.sample(sorted(NUMBERS), 2), "words", "step", "program", "outcome"]
        data = {m: chance.choice((1.0, -62.5, 3, "x", "front", "face")) for m in names if chance.random() < 0.8}
        data |= {"axis": chance.choice("xyzw")} if chance.random() < 0.7 else {}
        if chance.random() < 0.25 and data:
            data[chance.choice(list(data))] = chance.choice(STRANGE)
        entry = {
            "seq": n,
            "at": "2026-11-20T10:00:00",
            "kind": kind,
            "setup": chance.choice(("front", "", "surface")),
            "data": data,
        }
        if chance.random() < 0.08:
            entry[chance.choice(list(entry))] = chance.choice(STRANGE)
        lines.append(json.dumps(entry))
    raw = json.dumps(document.job.model_dump(mode="json"))
    try:
        again = from_bytes(
            packed({"job.json": raw.encode(), "journal.jsonl": "\n".join(lines).encode()}), "board.gatepost"
        )
    except UnusableFile as error:
        assert str(error).endswith(".") and len(str(error)) > 25, error
        return "refused"
    for setup in again.job.setups:
        trust(again.journal.standing(), where(again.job, setup))
    try:
        plan(again.job, again.journal, _MEMORY, coarse=True)
    except OperatorError:
        return "opened, not to be planned"
    return "planned"


_MEMORY = Memory(keep=8)


# -- runs killed ------------------------------------------------------------------------------------------------------


def of_a_killed_run(folder: Path, seed: int) -> str:
    """Gatepost killed in a run on a machine of its own: the row is closed at the next start, and the run is taken up again."""
    chance = random.Random(seed)
    data = folder / str(seed)
    words = [sys.executable, "-m", "gatepost.cli", "--data", str(data)]
    job = str(EXAMPLES / "quay-plate.gatepost")
    going = subprocess.Popen(
        [*words, "run", job, "--yes", "--speed", "60"], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE
    )
    time.sleep(chance.uniform(4.0, 16.0))
    going.kill()
    going.communicate()
    rows = json.loads(subprocess.run([*words, "log", "--json"], capture_output=True, check=True).stdout)
    assert all(r["state"] != "running" for r in rows)
    if not rows or rows[0]["state"] == "done":
        return "killed outside a run"
    again = subprocess.run([*words, "resume", job, "--yes", "--speed", "max"], capture_output=True, text=True)
    assert "Traceback" not in again.stderr
    if rows[0]["blocks_done"] == 0:
        return "killed before the first block was done"
    assert again.returncode == 0, again.stderr
    return "taken up and done"


# -- in a shop ---------------------------------------------------------------------------------------------------------

SHOPS = ("quay-plate", "sixteen-mileposts", "lock-7-name-board")


def within_its_budget(seed: int) -> str:
    """A zero and the cut that is farthest from it, held against what is said."""
    shares = engine.of_a_budget(seed)
    assert all(worst <= 1.0 for _, worst in shares.values()), shares
    return "good to" if all(good <= 1.0 for good, _ in shares.values()) else "past good to"


def never_above(seed: int) -> str:
    """A history in which trust is nowhere above the plain reckoning."""
    said, alike, of = histories.above(seed)
    assert not said, said
    return "the same" if alike == of else "not above"


def shop_of(name: str) -> Callable[[int], str]:
    """A shipped job gone through in a shop where nothing is quite as planned."""
    document = load(EXAMPLES / f"{name}.gatepost")
    reckoned = plan(document.job, document.journal)

    def one(seed: int) -> str:
        out = shop.run_through(reckoned, seed)
        assert not out.ended, f"{out.step}: {out.ended}"
        assert out.over == 0.0, f"{out.where}: {out.over:.3f}"
        return "ended well, within at worst"

    return one


# -- the runner -------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Part:
    """A long trial. count: of a whole soak; goal: what it must come to."""

    name: str
    count: int
    trial: Callable[[int], str]
    goal: str = "no failure"


def parts(folder: Path) -> list[Part]:
    """All long trials."""
    document, quay = load(EXAMPLES / "lock-7-name-board.gatepost"), load(EXAMPLES / "quay-plate.gatepost")
    reckoned = plan(quay.job)
    text = "\n".join(p.text for s in reckoned.setups for p in s.programs)

    def hostile_one(seed: int) -> str:
        with hostile.impatient():
            return hostile.of_a_hostile_machine(reckoned, folder / f"hostile-{seed}", seed)

    return [
        Part("job files damaged", 10_000, lambda seed: of_damage(document, seed)),
        Part("job files with strange values", 5_000, lambda seed: of_strangeness(quay, seed)),
        Part("journals with strange entries", 2_000, lambda seed: of_a_journal(quay, seed)),
        Part("saves killed", 1_000, lambda seed: of_a_kill(folder, document, quay, seed)),
        Part("programs, valid, against a second reader", 10_000, programs.of_a_valid_program),
        Part("programs spoiled", 10_000, lambda seed: of_a_program(text, seed)),
        Part("machine messages, 40 a run", 500, messages.of_messages),
        Part("hostile machines", 210, hostile_one),
        Part("runs killed", 200, lambda seed: of_a_killed_run(folder, seed)),
        Part("photos", 500, of_a_photo, "95 in 100 within ±"),
        Part("zeros touched off on the engine", 10_000, lambda seed: within(engine.of_a_zero(seed))),
        Part("edges touched for their angle", 10_000, lambda seed: within(engine.of_a_skew(seed))),
        Part("power cuts", 1_000, engine.of_a_power_cut),
        Part("what a zero is good to", 2_000, within_its_budget, "95 in 100 good to, none past at worst"),
        Part("histories against a plain reckoning of trust", 20_000, never_above),
        Part("random hands at the window, 800 acts", 25, lambda seed: window_trials.of_random_hands(folder, seed)),
        Part("shop days", 500, days.of_a_shop_day),
        Part("shop days through the real process", 60, days.of_a_day_through_the_process),
        *(Part(f"{name} in a hundred shops", 100, shop_of(name)) for name in SHOPS),
    ]


def run(part: Part, seed: int, count: int, minutes: float) -> bool:
    """A part of the soak for so many minutes at most, from where it stopped; whether it is sound so far."""
    kept = STATE / (part.name.replace(" ", "-").replace(",", "") + ".json")
    state: dict[str, Any] = {"seed": seed, "done": 0, "outcomes": {}, "failures": [], "commit": measured.commit()}
    if kept.exists():
        before = json.loads(kept.read_text("utf-8"))
        if before["commit"] == state["commit"] and before["done"] < count and not before["failures"]:
            state = before
    limit = time.monotonic() + 60.0 * minutes
    outcomes = Counter(state["outcomes"])
    while state["done"] < count and time.monotonic() < limit:
        each = (state["seed"] * 1_000_003 + state["done"]) % 2**31
        try:
            outcomes[part.trial(each)] += 1
        except Exception as error:
            outcomes["FAILED"] += 1
            state["failures"].append(each)
            if outcomes["FAILED"] <= 5:
                print(f"  seed {each}: {type(error).__name__}: {str(error)[:300]}")
        state["done"] += 1
    state["outcomes"] = dict(outcomes)
    STATE.mkdir(parents=True, exist_ok=True)
    kept.write_text(json.dumps(state), "utf-8")
    words = ", ".join(f"{n:,} {what}" for what, n in sorted(outcomes.items()))
    print(f"{part.name}: {state['done']:,} of {count:,} from seed {state['seed']}: {words}", flush=True)
    measured.record("Long trials", part.name, f"{state['done']:,} of {count:,}", words, part.goal, state["seed"])
    good = outcomes["exact, within ±"] >= 0.95 * state["done"] if part.name == "photos" else True
    return good and not outcomes["FAILED"]


def properties(seed: int) -> bool:
    """The property tests with free examples, many more of them than in ``make test``."""
    words = [sys.executable, "-m", "pytest", "-q", "-p", "no:pytest-qt", "tests/core", "tests/machine/test_messages.py"]
    done = subprocess.run(
        [*words, f"--hypothesis-seed={seed}"], env={**os.environ, "GATEPOST_SOAK": "1"}, capture_output=True, text=True,
        cwd=Path(__file__).parents[1],
    )  # fmt: skip
    last = done.stdout.strip().splitlines()[-1]
    print(f"property tests with free examples, seed {seed}: {last}")
    if done.returncode:
        print(done.stdout[-6000:])
    measured.record(
        "Long trials", "property tests with free examples", "tests/core and messages", last, "all pass", seed
    )
    return done.returncode == 0


def main() -> int:
    """All of it, or the parts whose names have one of the words. Says its seed; goes on where it stopped."""
    asked = argparse.ArgumentParser(prog="make soak", description=main.__doc__)
    asked.add_argument("words", nargs="*", help="parts whose names have one of these; else all")
    asked.add_argument("--seed", type=int, default=random.SystemRandom().randrange(1, 100_000))
    asked.add_argument("--count", type=int, help="of each part, instead of its own")
    asked.add_argument("--minutes", type=float, default=9.0, help="for each part at most; the next call goes on")
    asked.add_argument("--list", action="store_true")
    told = asked.parse_args()
    print(f"seed {told.seed}", flush=True)
    sound = True
    with tempfile.TemporaryDirectory() as folder:
        for part in parts(Path(folder)):
            if told.list:
                print(f"{part.count:>7,} {part.name}")
            elif not told.words or any(word in part.name for word in told.words):
                sound = run(part, told.seed, told.count or part.count, told.minutes) and sound
    if not told.list and (not told.words or "property" in told.words):
        sound = properties(told.seed) and sound
    return 0 if sound else 1


if __name__ == "__main__":
    sys.exit(main())
