# SPDX-License-Identifier: GPL-3.0-or-later
"""Programs byte for byte and plan.json key by key as they were looked through last; made.py tells what differs."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from gatepost.core.job.file import load
from tests.goldens.made import TOLD, differences, files, told


@pytest.mark.parametrize("path", files(), ids=lambda p: p.stem)
def test_what_is_written_is_what_was_looked_through(path: Path) -> None:
    before = json.loads(TOLD.read_text("utf-8"))[path.name]
    assert not differences({path.name: before}, {path.name: told(load(path).job)})
