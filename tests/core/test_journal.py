# SPDX-License-Identifier: GPL-3.0-or-later
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.errors import UnusableFile
from gatepost.core.job.journal import Journal, read_lines, write_lines

KINDS = ["homed", "fitted", "warmed", "touched", "surfaced", "bumped", "stalled", "power cut", "witness", "bed skimmed"]
DATA = {"touched": {"axis": "z", "machine": -62.0, "tool": 1}, "fitted": {"tool": 2}}


def grown(kinds):
    journal = Journal()
    for kind in kinds:
        journal = journal.add("2026-01-01T10:00", kind, "front", **DATA.get(kind, {}))
    return journal


@given(st.lists(st.sampled_from(KINDS), max_size=12))
def test_written_and_read_is_the_same(kinds):
    journal = grown(kinds)
    assert read_lines(write_lines(journal).splitlines()) == journal
    assert [e.seq for e in journal.entries] == list(range(1, len(kinds) + 1))


@given(st.lists(st.sampled_from(KINDS), min_size=1, max_size=8), st.data())
def test_a_correction_takes_back_one_entry_and_keeps_it_on_record(kinds, data):
    journal = grown(kinds)
    seq = data.draw(st.integers(1, len(kinds)))
    after = journal.add("2026-01-01T11:00", "corrected", seq=seq)
    assert after.entries[: len(kinds)] == journal.entries
    assert [e.seq for e in after.standing()] == [s for s in range(1, len(kinds) + 1) if s != seq]


@given(st.lists(st.sampled_from(KINDS), max_size=5), st.data())
def test_what_two_writers_add_is_all_there_in_the_order_of_each(kinds, data):
    """One of them in the window, one at the machine: they begin from the same journal and know nothing of each other."""
    base = grown(kinds)

    def more(journal, who):
        for n in range(data.draw(st.integers(0, 4))):
            if len(journal.entries) > 0 and data.draw(st.booleans()):
                journal = journal.add(f"{who}{n}", "corrected", seq=data.draw(st.integers(1, len(journal.entries))))
            else:
                journal = journal.add(f"{who}{n}", "homed")
        return journal

    here, there = more(base, "here"), more(base, "there")
    both = here.joined(there.entries[len(base.entries) :], len(base.entries))
    assert both.entries[: len(here.entries)] == here.entries
    assert [e.seq for e in both.entries] == list(range(1, len(both.entries) + 1))
    assert read_lines(write_lines(both).splitlines()) == both

    def back(journal, who):  # what each correction of one writer takes back, told by its own words
        entries = journal.entries
        return [
            (e.at, entries[int(e.data["seq"]) - 1].at)
            for e in entries
            if e.kind == "corrected" and e.at.startswith(who)
        ]

    assert back(both, "there") == back(there, "there") and back(both, "here") == back(here, "here")


SPOILT = [
    ("corrected", {"seq": "x"}), ("corrected", {"seq": 9}), ("corrected", {"seq": 0}), ("corrected", {}), ("fitted", {"tool": "two"}),
    ("fitted", {"tool": float("nan")}), ("fitted", {"tool": 2.5}), ("touched", {"axis": "w", "machine": 1.0}), ("touched", {"axis": "x"}),
    ("touched", {"axis": "z", "machine": 1e300}), ("ledger touched", {"machine": 1.0, "on": "knee"}), ("ticked", {}), ("sensed", {"tool": 1}),
    ("homed", {"x" * 3000: 1.0}), ("remark", {"words": "x" * 3000}), ("measured", {"corner1": "thick"}),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "data"), SPOILT)
def test_an_entry_that_can_t_be_is_refused_with_its_line(kind, data):
    import json

    lines = write_lines(grown(["homed"])) + json.dumps(
        {"seq": 2, "at": "t", "kind": kind, "setup": "front", "data": data}
    )
    with pytest.raises(UnusableFile, match="line 2"):
        read_lines(lines.splitlines())


def test_a_missing_line_is_noticed():
    lines = write_lines(grown(["homed", "fitted", "touched"])).splitlines()
    with pytest.raises(UnusableFile, match="out of order"):
        read_lines([lines[0], lines[2]])
