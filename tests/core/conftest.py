# SPDX-License-Identifier: GPL-3.0-or-later
"""The core's tests know no Qt: one that loads it has failed."""

import sys

import pytest


@pytest.fixture(autouse=True)
def no_qt(request):
    before = any(name.startswith("PyQt6") for name in sys.modules)
    yield
    assert before or not any(name.startswith("PyQt6") for name in sys.modules), f"{request.node.nodeid} has loaded Qt"
