# SPDX-License-Identifier: GPL-3.0-or-later
"""Programs byte for byte and plan.json key by key as they were looked through last; made.py tells what differs."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from gatepost.core.job import commands
from gatepost.core.job.file import load
from gatepost.core.job.history import fingerprints_4
from tests.goldens.made import HERE, TOLD, differences, files, told


@pytest.mark.parametrize("path", files(), ids=lambda p: p.stem)
def test_what_is_written_is_what_was_looked_through(path: Path) -> None:
    before = json.loads(TOLD.read_text("utf-8"))[path.name]
    assert not differences({path.name: before}, {path.name: told(load(path).job)})


def test_a_run_logged_in_format_4_s_days_is_known_by_the_number_it_was_given_then():
    """The numbers were given by the last version that wrote format 4."""
    given = json.loads((HERE / "fingerprints-4.json").read_text("utf-8"))
    jobs = {p.name: load(p).job for p in files() if p.name in given}
    unknown = [name for name, job in jobs.items() if given[name] not in fingerprints_4(job)]
    assert len(given) == 60 and unknown == [
        "06.gatepost",
        "26.gatepost",
        "28.gatepost",
    ]  # screws and tape given a clamp's force
    assert {len(fingerprints_4(job)) for job in jobs.values()} == {1, 2}
    job = jobs["01.gatepost"]
    assert not fingerprints_4(commands.run(job, "add setup", {}))  # no such job could be told
