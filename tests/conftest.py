# SPDX-License-Identifier: GPL-3.0-or-later
"""What all tests share: example jobs, and plans of them reckoned once."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import pytest
from hypothesis import settings

settings.register_profile("shop", deadline=None)  # kernels compile when first met; nothing here is timed
settings.load_profile("shop")
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "benchmarks"))
sys.path.insert(0, str(ROOT / "examples"))
EXAMPLES = ROOT / "src" / "gatepost" / "assets" / "examples"


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
    from gatepost.core.plan import plan

    return plan(lock7, memory=memory)


@pytest.fixture(scope="session")
def quay_plan(quay, memory):
    from gatepost.core.plan import plan

    return plan(quay, memory=memory)
