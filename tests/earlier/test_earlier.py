# SPDX-License-Identifier: GPL-3.0-or-later
"""Jobs of an earlier format open, and runs logged in its days are known again."""

import json

from gatepost.core.job import commands
from gatepost.core.job.file import load
from gatepost.core.job.history import fingerprints_4
from tests.earlier import HERE, MADE


def test_a_run_logged_in_format_4_s_days_is_known_by_the_number_it_was_given_then():
    """The numbers were given by the last version that wrote format 4."""
    given = json.loads((HERE / "fingerprints-4.json").read_text("utf-8"))
    jobs = {p.name: load(p).job for p in sorted(MADE.glob("*.gatepost"))}
    unknown = [name for name, job in jobs.items() if given[name] not in fingerprints_4(job)]
    # the three have screws or tape that were given a clamp's force
    assert len(jobs) == 60 and unknown == ["06.gatepost", "26.gatepost", "28.gatepost"]
    assert {len(fingerprints_4(job)) for job in jobs.values()} == {1, 2}
    job = jobs["01.gatepost"]
    assert not fingerprints_4(commands.run(job, "add setup", {}))  # no such job could be told
    for name, values in (
        ("set line", {"line": job.carving.lines[0].id, "bolder": 0.2}), ("set line", {"line": job.carving.lines[0].id, "run": "over"}),
        ("set art", {"art": "lettering", "turn": 4.0}), ("set art", {"art": "lettering", "mirror": True}),
    ):  # fmt: skip
        assert fingerprints_4(job) and not fingerprints_4(commands.run(job, name, values)), (name, values)
