# SPDX-License-Identifier: GPL-3.0-or-later
"""Long trials of what a shop and an attacker do: files damaged, saves and runs cut off, programs spoiled, machines that lie.

``make soak`` says its seed and runs each part for nine minutes at most; called again it goes on where it stopped. Each part
writes its row to docs/measured.md. What it finds becomes a fixed case in the tests. ``make soak WORDS=photos`` runs a part.
"""

from __future__ import annotations

import argparse
import json
import os
import random
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import carving
import days
import drawings
import engine
import histories
import hostile
import job_files
import killed
import mark_sets
import measured
import messages
import nests
import photos
import programs
import registering
import resuming
import shop
import window_trials
from gatepost.core.job.file import load
from gatepost.core.plan.pipeline import plan

STATE = Path(__file__).parents[1] / ".soak"
EXAMPLES = Path(__file__).parents[1] / "src" / "gatepost" / "assets" / "examples"


SHOPS = (
    "quay-plate", "sixteen-mileposts", "lock-7-name-board", "tea-room-sign", "lock-7-with-lily", "raised-milepost", "heron-panel", "four-faced-milepost",
)  # fmt: skip


def within(share: float) -> str:
    """Whether something is off by no more than the machine's own noise allows."""
    if share > 1.0:
        raise AssertionError(f"off by {share:.2f} times what its noise allows")
    return "within its noise"


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


WAYS = {
    "second faces on pins": registering.of_pins,
    "second faces on three pins, one in the bare bed": registering.of_three_pins,
    "pieces found by marks": registering.of_marks,
    "pieces found by a pin in old holes": registering.of_touched_marks,
    "second faces in their frame": registering.of_a_frame,
    "pieces against a known edge": registering.of_an_edge,
    "pieces looked over before they are cut": registering.of_looks,
    "pieces with rings round old holes": registering.of_rings,
}


def kept_by(of: Callable[[int], tuple[float, float]]) -> Callable[[int], str]:
    """A way in which a piece is found again: what is cut then is never further off than was said."""
    return lambda seed: registering.kept(of(seed))


def stops_of(name: str) -> Callable[[int], str]:
    """A shipped job's programs stopped anywhere and taken up again."""
    known: dict[str, Any] = {}

    def one(seed: int) -> str:
        if not known:
            known["plan"] = plan(load(EXAMPLES / f"{name}.gatepost").job)
        return resuming.of_a_stop(known["plan"], seed)

    return one


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
        Part("job files damaged", 10_000, lambda seed: job_files.of_damage(document, seed)),
        Part("job files with strange values", 5_000, lambda seed: job_files.of_strangeness(quay, seed)),
        Part("journals with strange entries", 2_000, lambda seed: job_files.of_a_journal(quay, seed)),
        Part("saves killed", 1_000, lambda seed: job_files.of_a_kill(folder, document, quay, seed)),
        Part("programs, valid, against a second reader", 10_000, programs.of_a_valid_program),
        Part("programs spoiled", 10_000, lambda seed: programs.of_a_program(text, seed)),
        Part("machine messages, 40 a run", 500, messages.of_messages),
        Part("hostile machines", 210, hostile_one),
        Part("runs killed", 200, lambda seed: killed.of_a_killed_run(folder, seed)),
        Part("photos", 500, photos.of_a_photo, "95 in 100 within ±"),
        Part("zeros touched off on the engine", 10_000, lambda seed: within(engine.of_a_zero(seed))),
        Part("edges touched for their angle", 10_000, lambda seed: within(engine.of_a_skew(seed))),
        Part("power cuts", 1_000, engine.of_a_power_cut),
        Part("what a zero is good to", 2_000, within_its_budget, "95 in 100 good to, none past at worst"),
        Part("histories against a plain reckoning of trust", 20_000, never_above),
        Part("a sign by mouse alone", 3, lambda seed: window_trials.of_a_sign_by_mouse(folder, seed)),
        Part("jobs to try by mouse", 5, lambda seed: window_trials.of_a_job_to_try(folder, seed)),
        Part("random hands at the window, 800 acts", 25, lambda seed: window_trials.of_random_hands(folder, seed)),
        Part(
            "random hands at the machine, 300 acts",
            20,
            lambda seed: window_trials.of_hands_at_the_machine(folder, seed),
        ),
        Part("drawings, pictures, meshes and faces damaged", 2_000, drawings.of_a_damaged_drawing),
        Part("floors sunk at random", 200, carving.of_a_floor),
        Part("reliefs at random", 20, carving.of_a_relief),
        Part("letters raised", 400, carving.of_a_raised_letter),
        Part("pieces fitted to marks", 10_000, mark_sets.of_marks, "no wrong name"),
        Part("stepped nests pushed about", 100, nests.of_a_nest),
        Part("shop days", 500, days.of_a_shop_day),
        Part("shop days through the real process", 60, days.of_a_day_through_the_process),
        *(Part(f"{name} stopped anywhere and taken up", 125, stops_of(name)) for name in SHOPS),
        *(Part(f"{name} in a hundred shops", 100, shop_of(name)) for name in SHOPS),
        *(Part(name, 50, kept_by(of), "never more than was said") for name, of in WAYS.items()),
        *(Part(f"{name} in ten shops", 10, registering.whole(name)) for name in ("tea-room-both-sides", "bench-rail")),
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
                print(f"  seed {each}: {type(error).__name__}: {str(error)[-400:]}")
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
