# SPDX-License-Identifier: GPL-3.0-or-later
"""The jobs that are shipped to be tried: each is made anew from its commands, holds no stop, and shows what it is there for."""

import json

import pytest

from gatepost.core.findings import Level
from gatepost.core.job import commands
from gatepost.core.job.file import Document, load, save
from gatepost.core.plan.pipeline import plan
from gatepost.desk.start.page import EXAMPLES as SHOWN
from gatepost.series import series
from tests.conftest import EXAMPLES, some

SOURCES = EXAMPLES.parents[3] / "examples"
# what each cuts, one after another, and what of it may still be asked about
HELD = {
    "tea-room-sign": (["vcut", "line", "cutout"], set()),
    "heron-panel": (["relief", "gouge", "relief"], set()),
    "lock-7-with-lily": (["surface", "vcut", "vcut", "cutout"], {"zero.budget-z"}),
    "raised-milepost": (["ground", "ground"], set()),
    "tea-room-both-sides": (["vcut", "line", "cutout", "vcut"], {"hold.on-carved"}),
    "bench-rail": (["vcut"], set()),
    "four-faced-milepost": (["vcut"] * 4, set()),
}


def test_every_example_that_is_offered_is_there():
    assert all((EXAMPLES / file).exists() for _, _, file, _ in SHOWN)
    assert {p.stem for p in SOURCES.glob("*.jsonl")} == {p.stem for p in EXAMPLES.glob("*.gatepost")}


@pytest.mark.parametrize("name", some(HELD, 4))
def test_a_carved_example_can_be_run(name):
    told = plan(load(EXAMPLES / f"{name}.gatepost").job, cell=0.5)
    wanted, asked = HELD[name]
    assert [op.kind for s in told.setups for op in s.operations] == wanted
    assert {f.code for f in told.findings if f.level in (Level.STOP, Level.CARE)} <= asked


def test_sixteen_mileposts_are_made_from_a_table_and_none_of_them_has_a_stop(tmp_path):
    job = load(EXAMPLES / "raised-milepost.gatepost").job
    from gatepost.core.carve.edits import outlines

    lines = next(a for a in job.artwork if a.kind == "lettering").figures.lines
    for line, text in zip(lines, ("{miles}", "{place}"), strict=True):
        values = {"line": line.id, "operation": "ground", **outlines(text, line.face)}
        job = commands.run(job, "set line", values)
    save(Document(job), tmp_path / "milepost.gatepost")
    out = tmp_path / "out"
    series(tmp_path / "milepost.gatepost", SOURCES / "mileposts.csv", out, "smaller", lambda *words: None)
    told = json.loads((out / "series.json").read_text())
    assert len(told) == 16 and not [f for row in told for f in row["findings"] if f["level"] == "stop"]
    texts = {tuple(line.text for line in load(out / row["file"]).job.artwork[0].figures.lines) for row in told}
    assert ("7", "Mill pound") in texts and ("16", "Basin") in texts
