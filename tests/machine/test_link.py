# SPDX-License-Identifier: GPL-3.0-or-later
import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatepost.machine.link import COMMANDS, LONGEST, MESSAGES, WINDOW, Link, LinkMisuse, PeerError, State


def linked(state):
    link = Link()
    link.state = state
    link.sent, link.taken, link.done = 5, 4, 3
    return link


SAMPLE = {
    "taken": {"n": 5},
    "done": {"n": 4},
    "state": {"state": "ready", "machine": [0, 0, 0]},
}


def line(say, **values):
    return (json.dumps({"say": say, **SAMPLE.get(say, {}), **values}) + "\n").encode()


@pytest.mark.parametrize("state", list(State))
@pytest.mark.parametrize("do", COMMANDS)
def test_every_command_in_every_state(state, do):
    link = linked(state)
    allowed, after = COMMANDS[do]
    if state in allowed:
        message = json.loads(link.send(do))
        assert message["do"] == do
        assert link.state is (after or state)
    else:
        with pytest.raises(LinkMisuse):
            link.send(do)
        assert link.state is state and link.sent == 5


@pytest.mark.parametrize("state", list(State))
@pytest.mark.parametrize("say", MESSAGES)
def test_every_message_in_every_state(state, say):
    link = linked(state)
    allowed, after = MESSAGES[say]
    if state in allowed:
        (event,) = link.receive(line(say))
        assert event.kind == say
        if isinstance(after, State):
            assert link.state is after
        elif after is None:
            assert link.state is state
    else:
        with pytest.raises(PeerError):
            link.receive(line(say))
        assert link.state is State.LOST


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


def test_a_run_stays_a_run_until_it_ends():
    link = linked(State.RUNNING)
    link.receive(line("state", state="ready"))
    assert link.state is State.RUNNING
    link.receive(line("paused"))
    link.receive(line("state", state="moving"))
    assert link.state is State.RUNNING
    link.receive(line("ended"))
    assert link.state is State.READY


def test_our_line_has_a_limit_too():
    with pytest.raises(LinkMisuse, match="64 kB"):
        linked(State.RUNNING).send("block", text="G1 " + "X1" * LONGEST)
