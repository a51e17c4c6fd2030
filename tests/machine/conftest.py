# SPDX-License-Identifier: GPL-3.0-or-later
import pytest


@pytest.fixture(autouse=True)
def started_quickly(quick_machines):
    """Every simulated machine of these tests is forked from one that is warm."""
