# SPDX-License-Identifier: GPL-3.0-or-later
import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.core.program.lines import filled_lines
from gatepost.machine.blocks import blocks_of
from gatepost.machine.link import COMMANDS, FIELDS, LONGEST, MESSAGES, WINDOW, Link, LinkMisuse, PeerError, State


def linked(state):
    link = Link()
    link.state = state
    link.sent, link.taken, link.done = 5, 4, 3
    return link


SAMPLE = {
    "taken": {"n": 5},
    "done": {"n": 4},
    "state": {"state": "ready", "machine": [0, 0, 0]},
    "touched": {"z": -12.5},
    "saved": {"path": "/tmp/wood.npy"},
    "measured": {"corners": [33.1, 33.2, 33.1, 33.0]},
    "sighted": {"off": [0.2, -0.1]},
    "gauged": {"low": 12.5, "high": 20.0},
    "seen": {"things": ["a spanner hangs on the nut"]},
    "fault": {"reason": "the drive has stalled"},
}
DOCS = Path(__file__).parents[2] / "docs" / "machine-link.md"
# where what may be said leads; everything else leaves the state as it is
LEADS = {
    "lift": "moving",
    "lower": "moving",
    "creep": "creeping",
    "home": "moving",
    "jog": "moving",
    "touch": "moving",
    "begin": "running",
    "resume": "running",
}
HEARD = {
    "homed": "ready", "arrived": "ready", "touched": "ready", "no-contact": "ready", "ended": "ready", "paused": "paused", "lifted": "lifted", "lowered": "paused",
    "fault": "faulted", "stopped": "ready",
}  # fmt: skip


def told():
    """State by state, what the documents say may be sent and may come."""
    rows = [
        [cell.strip() for cell in row.strip("|").split("|")]
        for row in DOCS.read_text("utf-8").splitlines()
        if row.startswith("| ")
    ]
    table = {row[0]: row[1:] for row in rows if len(row) == 3 and row[0] in set(State)}
    assert set(table) == set(State)
    return {s: tuple(() if words == "nothing" else tuple(words.split()) for words in row) for s, row in table.items()}


TOLD = told()
DO = sorted({word for sent, _ in TOLD.values() for word in sent})
SAY = sorted({word for _, heard in TOLD.values() for word in heard})


def line(say, **values):
    return (json.dumps({"say": say, **SAMPLE.get(say, {}), **values}) + "\n").encode()


def test_what_is_written_of_the_link_is_all_there_is():
    assert set(DO) == set(COMMANDS) and set(SAY) == set(MESSAGES)


@pytest.mark.parametrize("state", list(State))
@pytest.mark.parametrize("do", DO)
def test_every_command_in_every_state(state, do):
    link = linked(state)
    if do in TOLD[state][0]:
        message = json.loads(link.send(do))
        assert message["do"] == do
        going = do == "stop" and state in ("moving", "creeping", "running", "paused", "lifted")
        assert link.state == ("stopping" if going else LEADS.get(do, state))
    else:
        with pytest.raises(LinkMisuse):
            link.send(do)
        assert link.state is state and link.sent == 5


@pytest.mark.parametrize("state", list(State))
@pytest.mark.parametrize("say", SAY)
def test_every_message_in_every_state(state, say):
    link = linked(state)
    link.sent = 3 if say == "ended" else link.sent  # all its blocks are done
    if say in TOLD[state][1]:
        (event,) = link.receive(line(say))
        assert event.kind == say
        waits = state == "stopping" and say not in ("stopped", "fault")
        if say == "state":  # believed, but a run stays a run and a move a move until their end is told
            assert link.state == (state if waits or state in ("running", "moving", "creeping") else "ready")
        else:
            assert link.state == (state if waits else HEARD.get(say, state))
    else:
        with pytest.raises(PeerError):
            link.receive(line(say))
        assert link.state is State.LOST


def test_it_stands_as_it_says_after_a_stop():
    for said in ("unhomed", "faulted", "ready"):
        link = linked(State.STOPPING)
        link.receive(line("stopped", state=said))
        assert link.state == said


def test_what_was_told_before_a_bad_line_counts():
    link = linked(State.RUNNING)
    with pytest.raises(PeerError) as raised:
        link.receive(line("done", n=4) + line("done", n=9) + line("taken", n=5))
    assert [e.data["n"] for e in raised.value.events] == [4] and link.done == 4 and link.taken == 4


@pytest.mark.parametrize("said", ["G\x1b[2J", "\x07\x00\x9b", "two\r\nlines", "\u202edrowkcab"])
def test_what_a_terminal_would_obey_is_taken_out_of_what_the_machine_says(said):
    link = linked(State.RUNNING)
    (event,) = link.receive(line("fault", reason=said))
    assert event.data["reason"].isprintable() and len(event.data["reason"]) == len(said)


@given(st.data())
def test_lines_come_whole_however_they_are_split_and_joined(data):
    stream = line("hello") + line("state", state="unhomed") + line("refused", do="jog", reason="ü") + line("fitted")
    cuts = sorted(data.draw(st.lists(st.integers(0, len(stream)), max_size=8)))
    link, kinds = Link(), []
    for a, b in zip([0, *cuts], [*cuts, len(stream)]):
        kinds += [e.kind for e in link.receive(stream[a:b])]
    assert kinds == ["hello", "state", "refused", "fitted"]
    assert link.state is State.UNHOMED


def test_the_window_of_credits_and_numbers_in_order():
    link = linked(State.READY)
    link.send("begin")
    for n in range(1, WINDOW + 1):
        assert json.loads(link.send("block", text="G0 X1"))["n"] == n
    assert link.credits == 0
    with pytest.raises(LinkMisuse, match="window"):
        link.send("block", text="G0 X2")
    link.receive(line("taken", n=1) + line("done", n=1))
    assert link.credits == 1


@pytest.mark.parametrize(
    "bytes_",
    [
        b"not json\n",
        b"[1]\n",
        b'{"say": "dance"}\n',
        b"\xff\xfe\n",
        b'{"say": "fault", "reason": "\\ud800"}\n',
        b'{"say": "state", "state": "ready", "machine": [0, 0, NaN]}\n',
        b'{"say": "state", "state": "ready", "machine": [0, 0, 1e400]}\n',
        b'{"say": ["fault"]}\n',
        b"[" * 60000 + b"\n",
        line("state", clock="soon"),
        line("state", taken=-1),
        line("stopped", state="asleep"),
        line("homed", miss=[1, 2]),
        line("ended"),
        line("done", n=9),
        line("done", n=3),
        line("taken", n=4),
        line("taken", n=7),
        line("state", state="asleep"),
        b"x" * (LONGEST + 1),
    ],
)
def test_a_garbling_peer_loses_the_link(bytes_):
    link = linked(State.RUNNING)
    with pytest.raises(PeerError):
        link.receive(bytes_)
    assert link.state is State.LOST


@pytest.mark.parametrize(("say", "name"), [(say, name) for say, fields in FIELDS.items() for name in fields])
@pytest.mark.parametrize("value", [None, "seven", [], True, {"a": 1}, 1e300, [0, 0], [0, 0, "x"], -(10**9)])
def test_a_message_without_what_it_must_carry_loses_the_link(say, name, value):
    sound = {"words": "seven", "list": [], "pair": [0, 0]}.get(FIELDS[say][name])
    if sound is not None and value == sound:
        return
    link = linked(next(s for s in MESSAGES[say][0] if s is not State.GREETING))
    with pytest.raises(PeerError):
        link.receive(line(say, **{name: value}))
    assert link.state is State.LOST


def test_while_stopping_nothing_is_sent_but_looks_and_only_the_answer_ends_it():
    link = linked(State.RUNNING)
    link.send("stop")
    for do in COMMANDS:
        if do not in ("state", "stop", "feed", "rpm", "save-wood"):
            with pytest.raises(LinkMisuse):
                link.send(do)
    link.receive(
        line("taken", n=5) + line("done", n=4) + line("state", state="ready") + line("ended") + line("pausing")
    )
    assert link.state is State.STOPPING
    link.receive(line("stopped"))
    assert link.state is State.READY


def test_counts_that_do_not_agree_with_what_was_reported_lose_the_link():
    link = linked(State.READY)
    link.send("begin")
    link.receive(line("state", state="moving", done=900, taken=900))  # of the program before
    link.receive(line("begun"))
    link.send("block", text="G0 X1")
    link.receive(line("taken", n=1) + line("state", state="moving", taken=1, done=0))
    with pytest.raises(PeerError, match="counts"):
        link.receive(line("state", state="moving", taken=1, done=1))


def test_a_run_stays_a_run_until_it_ends():
    link = linked(State.RUNNING)
    link.receive(line("state", state="ready"))
    assert link.state is State.RUNNING
    link.receive(line("paused"))
    link.receive(line("state", state="moving"))
    assert link.state is State.RUNNING
    link.receive(line("done", n=4) + line("taken", n=5) + line("done", n=5) + line("ended"))
    assert link.state is State.READY


def test_our_line_has_a_limit_too():
    with pytest.raises(LinkMisuse, match="64 kB"):
        linked(State.RUNNING).send("block", text="G1 " + "X1" * LONGEST)


@pytest.mark.parametrize(
    ("text", "more"),
    [
        ("G0 X1\nM30\n", []), ("G0 X1\nM30\n%\n", []), ("G0 X1\nm 2 (end)\n", []), ("G0 X1\nM05 M02\n\n", []),
        ("G0 X1\n", ["M30"]), ("G0 X1\n(M30)\n", ["M30"]), ("G0 X1 ; M30", ["M30"]), ("G0 X1\nM300", ["M30"]),
        ("G0 X1\nM3 S20000", ["M30"]), ("", ["M30"]),
    ],
)  # fmt: skip
def test_a_program_that_does_not_say_it_ends_is_ended(text, more):
    assert blocks_of(text) == [line for line in text.splitlines() if line.strip() not in ("", "%")] + more
    assert blocks_of(text + "\nG0 X9\n(after the end)\n") == blocks_of(text) or more


@given(st.text(alphabet="GX1 \n\r\t\x0b\x0c\u2028(", max_size=60))
def test_blocks_are_the_lines_that_the_reader_counts(text):
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    assert [(n, line) for n, line in enumerate(lines, start=1) if line.strip()] == list(filled_lines(text))
