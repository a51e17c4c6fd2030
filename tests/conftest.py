# SPDX-License-Identifier: GPL-3.0-or-later
"""What all tests share: example jobs, and plans of them reckoned once."""

from __future__ import annotations

import contextlib
import gc
import os
import sys
import threading
import time
from pathlib import Path

import pytest
from hypothesis import Phase, settings

# Kernels compile when first met, and nothing here is timed. The same examples every time; free ones are for ``make soak``,
# which says its seed, and what it finds becomes a fixed case.
settings.register_profile("shop", deadline=None, max_examples=8, derandomize=True, database=None)
settings.register_profile("soak", deadline=None, max_examples=300, database=None, print_blob=True)
settings.register_profile("quick to fail", settings.get_profile("shop"), phases=(Phase.explicit, Phase.generate))
settings.load_profile(
    "soak" if os.environ.get("GATEPOST_SOAK") else "quick to fail" if os.environ.get("GATEPOST_MUTANTS") else "shop"
)
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


gc.set_threshold(
    50_000, 20, 20
)  # jobs and plans are thousands of small things: by default a sixth of the time goes into looking through them again


def tries(many):
    """Examples of a property that is worth so many: a third of them each time, in ``make soak`` five times as many."""
    return 5 * many if os.environ.get("GATEPOST_SOAK") else max(3, many // 3)


def some(cases, count):
    """Cases of a test that has many alike: so many, spread over all of them; in ``make soak`` all."""
    cases = list(cases)
    return cases if os.environ.get("GATEPOST_SOAK") else cases[:: max(1, -(-len(cases) // count))]


ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "benchmarks"))
sys.path.insert(0, str(ROOT / "examples"))
EXAMPLES = ROOT / "src" / "gatepost" / "assets" / "examples"


def children():
    """Processes that this one has started and not waited for."""
    found = set()
    for task in Path("/proc/self/task").iterdir():
        with contextlib.suppress(OSError):
            found |= {int(pid) for pid in (task / "children").read_text().split()}
    return found


LENT = set()  # processes handed on from test to test


@pytest.fixture(autouse=True)
def nothing_left(request):
    """A test that leaves a thread or a process behind has failed."""
    threads, processes = set(threading.enumerate()), children()
    yield
    limit = time.monotonic() + 5.0
    while True:
        left = [t for t in threading.enumerate() if t not in threads and t.is_alive()]
        running = children() - processes - LENT
        if not left and not running or time.monotonic() > limit:
            break
        for t in left:  # those that are on their way out are waited for
            t.join(0.05)
        for pid in running:
            with contextlib.suppress(ChildProcessError):
                os.waitpid(pid, os.WNOHANG)
    assert not left, f"threads left: {left}"
    assert not running, f"processes left: {[Path(f'/proc/{p}/cmdline').read_bytes() for p in running]}"


@pytest.fixture(scope="session")
def nursery():
    """Where simulated machines are forked; made when the first is wanted."""
    from tests.nursery import Nursery

    made = []

    def start(words):
        if not made:
            made.append(Nursery())
            LENT.add(made[0].process.pid)
        return made[0].start(words)

    yield start
    for one in made:
        one.end()


@pytest.fixture
def quick_machines(nursery, monkeypatch):
    """Simulated machines are forked from a process that is warm; everything else of them is as it is."""
    from gatepost.machine import launch

    real = launch.subprocess.Popen

    def popen(words, **more):
        if "gatepost.machine.standins.server" in words:
            return nursery(words[words.index("gatepost.machine.standins.server") + 1 :])
        return real(words, **more)

    class Quick:
        PIPE, TimeoutExpired, Popen = launch.subprocess.PIPE, launch.subprocess.TimeoutExpired, staticmethod(popen)

    monkeypatch.setattr(launch, "subprocess", Quick)


@pytest.fixture(autouse=True)
def own_data(tmp_path, monkeypatch):
    """No test touches the operator's own data."""
    monkeypatch.setenv("GATEPOST_DATA", str(tmp_path / "data"))
    monkeypatch.delenv("GATEPOST_LOGBOOK", raising=False)


def _job(name):
    from gatepost.core.job.file import load

    return load(EXAMPLES / f"{name}.gatepost").job


@pytest.fixture(scope="session")
def memory():
    from gatepost.core.cache import Memory

    return Memory(keep=16)


@pytest.fixture(scope="session")
def lock7():
    return _job("lock-7-name-board")


@pytest.fixture(scope="session")
def first_look():
    return _job("lock-7-first-look")


@pytest.fixture(scope="session")
def quay():
    return _job("quay-plate")


@pytest.fixture(scope="session")
def lock7_plan(lock7, memory):
    from gatepost.core.plan.pipeline import plan

    return plan(lock7, memory=memory)


@pytest.fixture(scope="session")
def quay_plan(quay, memory):
    from gatepost.core.plan.pipeline import plan

    return plan(quay, memory=memory)
